import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.speech.lexicon import lexicon
from tinfork.engines.spelling import split_words
from tinfork.engines.synthesiser import pronounce, pronounce_words
from tinfork.engines.wording import LineText, is_unknown, sounds_of, spell


@pytest.mark.parametrize(
    ("text", "spoken"),
    [
        ("1923", "nineteen twenty three"),
        ("2026", "twenty twenty six"),
        ("14", "fourteen"),
        ("1,250", "one thousand two hundred and fifty"),
        ("3.5", "three point five"),
        ("3rd", "third"),
        ("$5", "five dollars"),
        ("£1.50", "one pound fifty pence"),
        ("50%", "fifty percent"),
        ("half-past", "half past"),
        ("don't", "don't"),
        ("don’t", "don't"),
        ("R2", "r two"),
        ("&", "and"),
        ("tram,", "tram"),
        ("“Odalys!”", "odalys"),
        ("1920s", "nineteen twenties"),
        ("$2.5m", "two point five million dollars"),
        ("7:30", "seven thirty"),
        ("7:05", "seven oh five"),
        ("10:00", "ten o'clock"),
        ("12/05/2024", "may twelfth twenty twenty four"),
        ("05/23/2024", "may twenty third twenty twenty four"),
        ("2026-11-25", "november twenty fifth twenty twenty six"),
        ("007", "zero zero seven"),
        ("Mr.", "mister"),
        ("e.g.", "for example"),
        ("p.m.", "p m"),
        ("TV", "t v"),
        ("No.", "no"),
        ("nooooo", "no"),
        ("Hahaha", "/h ˈɑ h ˈɑ h ˈɑ"),
        ("hehe", "/h ˈɛ h ˈɛ"),
        ("ha-ha", "ha ha"),
        ("Hmm", "/h m"),
        ("shhh", "/ʃ"),
        ("½", "a half"),
    ],
)
def test_a_written_word_and_what_is_spoken_for_it(text, spoken):
    (word,) = split_words(text)
    assert " ".join(word.spoken) == spoken


def test_stage_directions_and_bare_marks_are_not_spoken():
    assert [w.text for w in split_words("[door] Well — (beat) no... – !")] == ["Well", "no"]


def test_breaths_and_laughter_in_brackets_are_cues():
    words = split_words("[sighs] Well (laughs softly) no (to the man who laughs too much)")
    assert [(w.text, w.spoken, w.cue) for w in words] == [
        ("[sighs]", (), "breath"),
        ("Well", ("well",), ""),
        ("(laughs softly)", (), "laugh"),
        ("no", ("no",), ""),
    ]


@pytest.mark.parametrize(
    ("language", "text", "words"),
    [
        ("hi", "मेंढक आधी रात।", ["मेंढक", "आधी", "रात"]),
        ("cmn", "青蛙在半夜，", ["青", "蛙", "在", "半", "夜"]),
        ("ja", "かえるは、パンをやきます。", ["かえる", "は", "パン", "を", "やきます"]),
        ("fr", "l'œuf, 23 peut-être", ["l'œuf", "23", "peut-être"]),
        # Without the space after it, punctuation would be read out.
        ("el", "Φωτιά!Φωτιά!Φωτιά!", ["Φωτιά", "Φωτιά", "Φωτιά"]),
        ("en-us", "Fire!Fire…wait,no?Yes", ["Fire", "Fire", "wait", "no", "Yes"]),
        ("es", "¡Fuego!¡Fuego!", ["Fuego", "Fuego"]),
    ],
)
def test_words_of_other_languages_stay_whole(language, text, words):
    assert [w.text for w in split_words(text, language)] == words


@given(st.text(max_size=60))
def test_any_text_splits_into_words_with_something_to_say(text):
    for word in split_words(text):
        assert word.text
        assert all(part and (part[0] == "/" or part == part.lower()) for part in word.spoken)
        assert word.spoken or word.cue


def test_the_synthesiser_pronounces_what_no_dictionary_knows():
    assert pronounce("Zorbelquint")
    assert pronounce("tram") == ("t", "ɹ", "ˈæ", "m")


@pytest.mark.parametrize(
    ("language", "words", "sounds"),
    [
        # By themselves these letters are named: "vé", "er", "i grec".
        ("cs", ["vlak", "z", "depa"], {1: ("s",)}),
        ("ru", ["трамвай", "в", "депо"], {1: ("v",)}),
        ("fr", ["il", "y", "a"], {1: ("i",)}),
        ("pl", ["w", "domu"], {0: ("v",)}),
        ("pl", ["w", "tramwaju"], {0: ("f",)}),
        ("pt", ["vou", "à", "padaria"], {}),
        ("de", ["er", "kauft", "24", "brote"], {}),
    ],
)
def test_words_sound_as_they_do_among_others(language, words, sounds):
    said = pronounce_words(words, language)
    assert len(said) == len(words)
    assert all(said)
    assert {at: said[at] for at in sounds} == sounds


@pytest.mark.parametrize(
    ("language", "word", "sound"), [("cs", "s", "s"), ("fr", "y", "i"), ("ru", "в", "v"), ("pl", "w", "v")]
)
def test_a_word_of_one_letter_that_is_typed_by_itself_is_not_named(language, word, sound):
    assert sounds_of(word, language) == (sound,)
    assert pronounce_words(["mama", word], language)[1] == (sound,)


@given(st.lists(st.sampled_from(["vlak", "v", "depu", "24", "a", "1999", "housek", "…", "k"]), max_size=9))
def test_every_word_has_sounds_of_its_own_or_none(words):
    assert len(pronounce_words(words, "cs")) == len(words)


def test_a_line_is_read_with_its_small_words_as_they_are_said():
    spoken = spell([LineText("Jezevec řídí tramvaj z depa.", "", "cs")]).spoken
    assert [s.word.ipa for s in spoken][3] == ("s",)


@pytest.mark.parametrize(
    "language, sounds",
    [
        ("en-us", "ɡ oʊ ˈoʊ v ɚ ð ɛ ɹ"),
        ("en-gb", "ɡ əʊ ˈəʊ v ə ð eə"),
        ("en-gb-scotland", "ɡ oː oː v ɜ ð e r"),
    ],
)
def test_english_sounds_as_it_does_where_the_line_is_from(language, sounds):
    said = spell([LineText("Go over there.", "", language)]).spoken
    plain = [symbol.lstrip("ˈˌ") for one in said for symbol in one.word.ipa]
    assert plain == [symbol.lstrip("ˈˌ") for symbol in sounds.split()]


def test_a_british_word_that_no_dictionary_has_is_known_to_be_guessed():
    assert is_unknown("vellmire", "en-gb")
    assert not is_unknown("bread", "en-gb")


def test_length_is_written_in_one_way():
    assert not [s for s in pronounce("a bath in the car", "en-gb-scotland") if ":" in s]


def ways_of(text, language, at=0):
    return {" ".join(way.ipa): way.accent for way in spell([LineText(text, "", language)]).spoken[at].ways}


def test_a_word_is_known_in_every_accent_of_its_language():
    assert ways_of("tomato", "en-us").keys() >= {"t ə m ˈeɪ t oʊ", "t ə m ˈɑ t oʊ"}
    bath = ways_of("bath", "en-gb")
    assert set(bath.values()) == {"en-gb", "en-us"}
    assert set(ways_of("cero", "es").values()) == {"es", "es-419"}
    assert next(iter(ways_of("cero", "es-419"))).startswith("s")


def test_what_two_accents_share_is_no_sign_of_either():
    assert set(ways_of("tram", "en-gb", 0).values()) >= {"en-gb"}
    assert set(ways_of("gato", "es").values()) == {""}


def test_where_the_accent_is_known_another_is_hardly_taken():
    spoken = spell([LineText("bath", "", "en-us")]).spoken[0]
    accents = [way.accent for way in spoken.ways]
    british = spoken.variants("en-gb")
    own, other = (british.costs[accents.index(accent)] for accent in ("en-gb", "en-us"))
    assert own == 0 < other
    assert spoken.variants().costs[accents.index("en-gb")] > 0


def test_a_pronunciation_that_was_given_is_the_only_way():
    book = lexicon([("en", "bath", ("b", "ˈɑ", "θ"))])
    (spoken,) = spell([LineText("bath", "", "en-us")], book).spoken
    assert [way.ipa for way in spoken.ways] == [("b", "ˈɑ", "θ")]

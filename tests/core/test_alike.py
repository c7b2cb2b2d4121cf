"""A word put right wherever it is said."""

from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.speech.alike import keep_punctuation, places_of, retyped
from tinfork.core.speech.handwork import WordPlace
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word


def line(*texts, start_us=0):
    words = []
    for at, text in enumerate(texts):
        begin = start_us + at * 300_000
        words.append(Word(text, begin, begin + 300_000, (Phoneme("a", begin, begin + 300_000),)))
    return Line("1", " ".join(texts), "en-us", tuple(words))


READING = Reading(
    9_000_000, (line("“Brindel,", "sit", "down!”"), line("Ask", "brindel.", "Brindel?", start_us=2_000_000))
)


def test_a_word_is_found_however_it_is_written():
    assert places_of(READING, "Brindel") == [WordPlace(0, 0), WordPlace(1, 1), WordPlace(1, 2)]
    assert places_of(READING, "sit down") == places_of(READING, "...") == []


def test_it_is_written_anew_everywhere_with_its_sounds_and_the_punctuation_it_had():
    asked = []
    new = retyped(READING, "brindel", "Brindle", lambda text, language: asked.append((text, language)) or ("b", "l"))
    assert [one.text for one in new.lines] == ["“Brindle, sit down!”", "Ask Brindle. Brindle?"]
    words = list(new.words())
    assert [(w.start_us, w.end_us) for w in words] == [(w.start_us, w.end_us) for w in READING.words()]
    assert [p.ipa for p in words[4].phonemes] == ["b", "l"]
    assert asked == [("Brindle", "en-us")] * 3


@given(st.text(" .,!?“”", max_size=4), st.text("abc", min_size=1, max_size=5), st.text(" .,!?“”", max_size=4))
def test_what_stands_around_a_word_stays(before, letters, behind):
    assert keep_punctuation(before + letters + behind, "new") == f"{before}new{behind}"

"""What people bring besides good recordings with the right words: read, refused in words, or doubted; never a crash."""

import itertools
import time

import numpy as np
import pytest

from tests import sounds
from tinfork.core.errors import EngineError, SoundError, TinForkError, WordsError
from tinfork.core.solver.looks import looks_at_words
from tinfork.core.speech.lexicon import lexicon
from tinfork.core.speech.reading import DOUBTFUL
from tinfork.engines.decode import Sound
from tinfork.engines.ear import transitions
from tinfork.engines.isolated import run_isolated
from tinfork.engines.reading.reader import read_track
from tinfork.engines.synthesiser import languages, pronounce, speak, speak_sounds
from tinfork.engines.transcribing import transcribe
from tinfork.engines.unworded import read_by_ear, read_flap
from tinfork.engines.wording import LineText, lines_from_text
from tinfork.engines.writing import as_read, reader_of


def read(sound, text, language="en-us", **more):
    return read_track(sound, [LineText(row, "", language) for row in text.splitlines()], **more)


def said(text=sounds.SENTENCE, voice="en-us"):
    return sounds.as_sound(speak(text, voice))


def words_of(result):
    return [w.text for w in result.reading.words()]


@pytest.mark.parametrize(
    ("text", "language"),
    [
        ("Я не знаю, где трамвай", "en-us"),
        ("the last tram 🚋🚋 leaves", "en-us"),
        ("ça va très bien", "en-us"),
        ("最后一班电车", "en-us"),
        ("the last tram", "ja"),
        ("\0the\0 last tram leaves\0", "en-us"),
        ("ǃŋ̊ǁ wɣ ʘʘ", "en-us"),
        ("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa", "en-us"),
    ],
)
def test_words_in_another_alphabet_are_read_doubted_or_refused(text, language):
    try:
        result = read(said(), text, language)
    except TinForkError as error:
        assert len(str(error)) > 20
    else:
        assert result.reading.duration_us


def test_a_language_without_a_voice_is_named():
    with pytest.raises(WordsError, match="no voice called “xx-none”"):
        read(said(), "hello", "xx-none")


def test_ten_thousand_words_on_three_seconds_are_refused_at_once():
    began = time.process_time()
    with pytest.raises(WordsError, match="do not fit into"):
        read(said(), "hello world " * 5000)
    assert time.process_time() - began < 60


def test_one_word_on_minutes_of_speech_is_found_or_left_out_and_pointed_out():
    spoken = speak(" ".join([sounds.SENTENCE] * 30)).samples[:, None]
    try:
        result = read(Sound(spoken, 22_050), "depot")
    except WordsError as error:
        assert "Check" in str(error)
    else:
        assert result.warnings


def test_music_alone_is_refused_or_doubted():
    t = np.arange(16_000 * 6) / 16_000
    chords = sum(np.sin(2 * np.pi * hz * t) * np.exp(-(t % 0.5) * 4) for hz in (196, 247, 294, 392))
    sound = Sound((0.1 * chords).astype(np.float32)[:, None], 16_000)
    try:
        result = read(sound, "the last tram leaves the depot")
    except WordsError:
        return
    assert result.warnings or all(w.confidence < DOUBTFUL for w in result.reading.words())


@pytest.mark.parametrize(
    "change",
    [
        lambda s: s + 0.3,
        lambda s: np.clip(s * 8, -0.3, 0.3),
        lambda s: np.repeat(s[::4], 4)[: len(s)],
        lambda s: s * 0.004,
    ],
    ids=["dc offset", "clipped", "four kilohertz", "very quiet"],
)
def test_a_spoilt_recording_is_read_all_the_same(change):
    clean = speak(sounds.SENTENCE)
    spoilt = np.asarray(change(clean.samples), dtype=np.float32)
    good = list(read(sounds.as_sound(clean), sounds.SENTENCE).reading.words())
    result = list(read(Sound(spoilt[:, None], clean.rate_hz), sounds.SENTENCE).reading.words())
    assert [w.text for w in result] == [w.text for w in good]
    near = [abs(a.start_us - b.start_us) < 80_000 for a, b in zip(good, result, strict=True)]
    assert sum(near) >= len(near) - 1


def test_a_word_that_is_not_said_moves_nothing_and_is_told():
    plain = list(read(said(), sounds.SENTENCE).reading.words())
    typed = sounds.SENTENCE.split()
    typed.insert(3, "marmalade")
    result = read(said(), " ".join(typed)).reading
    extra = [w for w in result.words() if w.text == "marmalade"]
    assert result.lines[0].missing_words == ("marmalade",) or extra[0].confidence < DOUBTFUL
    others = [w for w in result.words() if w.text != "marmalade"]
    moved = [abs(a.start_us - b.start_us) > 40_000 for a, b in zip(plain, others, strict=True)]
    assert sum(moved) <= 1


def test_a_word_that_was_not_typed_leaves_the_others_where_they_are():
    # The synthesiser says nothing twice in the same way.
    sound = said()
    plain = {w.text: w for w in read(sound, sounds.SENTENCE).reading.words()}
    typed = [w for w in sounds.SENTENCE.rstrip(".").split() if w != "leaves"]
    reading = read(sound, " ".join(typed)).reading
    far = [w for w in reading.words() if w.text not in ("tram", "the", "depot")]
    assert all(abs(w.start_us - plain[w.text].start_us) < 40_000 for w in far)
    # Its own place is left bare, which is a second look that says what was heard.
    gone = plain["leaves"]
    bare = [look for look in looks_at_words(reading) if look.kind == "bare"]
    assert any(look.start_us < gone.end_us and gone.start_us < look.end_us for look in bare)
    assert any("lea" in look.text for look in bare)


def test_a_breath_and_laughter_are_put_where_there_is_sound_for_them():
    spoken = speak("The last tram leaves.")
    pick = np.random.default_rng(2)
    breath = (pick.normal(size=spoken.rate_hz // 2) * 0.02).astype(np.float32)
    silence = np.zeros(spoken.rate_hz // 3, dtype=np.float32)
    sound = Sound(np.concatenate([spoken.samples, silence, breath, silence])[:, None], spoken.rate_hz)
    words = list(read(sound, "The last tram leaves. [sighs]").reading.words())
    assert words[-1].text == "[sighs]"
    assert words[-1].confidence < DOUBTFUL
    assert words[-1].start_us > spoken.duration_us
    without = read(said("The last tram leaves."), "The last tram leaves. [sighs]")
    assert all(w.end_us <= without.reading.duration_us for w in without.reading.words())


def test_a_pronunciation_goes_before_the_dictionary():
    book = lexicon([("en", "tram", ("t", "ɹ", "ˈu", "m"))])
    result = read(said(), sounds.SENTENCE, lexicon=book)
    tram = next(w for w in result.reading.words() if w.text == "tram")
    assert [p.ipa for p in tram.phonemes] == ["t", "ɹ", "ˈu", "m"]


@pytest.mark.parametrize(
    ("language", "text"),
    [
        ("es", "El sapo hornea el pan antes de la medianoche"),
        ("de", "Die Kröte backt das Brot"),
        ("fr", "Le crapaud prépare le pain"),
        ("ja", "かえるは パンを やきます"),
        ("cmn", "青蛙在半夜烤面包"),
        ("hi", "मेंढक रोटी बनाता है"),
        ("ar", "الضفدع يخبز الخبز"),
        ("ru", "Барсук ведёт трамвай"),
        ("tr", "Kurbağa ekmek pişirir"),
    ],
)
def test_other_languages_are_read_with_their_own_sounds(language, text):
    spoken = speak(as_read(text, language), reader_of(language))
    result = read(sounds.as_sound(spoken), text, language).reading
    assert len(list(result.words())) >= len(text.split())
    ipa = {p.ipa.strip("ˈˌ") for p in result.phonemes()}
    truth = {p.ipa.strip("ˈˌ") for p in spoken.phonemes}
    assert len(ipa & truth) >= 0.6 * len(truth)
    words = list(result.words())
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(words))


def test_sounds_are_heard_without_words():
    result = read_by_ear(said())
    assert result.warnings
    truth = speak(sounds.SENTENCE).phonemes
    heard = list(result.reading.phonemes())
    assert 0.6 < len(heard) / len(truth) < 1.5
    assert all(p.confidence <= 0.8 for p in heard)


def test_a_long_sound_is_heard_part_by_part_and_lines_arrive_as_they_are_found():
    spoken = said()
    long = Sound(np.tile(spoken.samples, (1 + round(70e6 / spoken.duration_us), 1)), spoken.rate_hz)
    arrived = []
    reading = read_by_ear(long, "en-us", lambda _, done, part=None: arrived.append((done, part or []))).reading
    lines = [line for _, part in arrived for line in part]
    assert lines == list(enumerate(reading.lines))
    assert sum(bool(part) for _, part in arrived) == 2
    assert [done for done, _ in arrived] == sorted(done for done, _ in arrived)
    found = list(reading.phonemes())
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(found))
    assert found[-1].start_us > long.duration_us - spoken.duration_us


def test_a_flap_has_syllables_and_no_words():
    lines = read_flap(said()).reading.lines
    assert 5 <= sum(len(line.words) for line in lines) <= 25


def test_what_follows_what_is_known_by_language():
    usual, czech = transitions(), transitions("cs")
    assert np.allclose(np.exp(usual).sum(axis=1), 1, atol=0.02)
    assert np.allclose(np.exp(czech).sum(axis=1), 1, atol=0.02)
    assert not np.allclose(usual, czech)
    assert (transitions("en-gb") == transitions("en-us")).all()
    # A language that was not learnt goes by all of them.
    assert (transitions("qya") == usual).all()


@pytest.mark.parametrize("reader", [read_by_ear, read_flap, transcribe])
def test_silence_is_refused_without_words_too(reader):
    with pytest.raises(SoundError, match="silent"):
        reader(Sound(np.zeros((32_000, 1), np.float32), 16_000))


def test_work_that_takes_too_long_is_stopped():
    with pytest.raises(EngineError, match="The reading took too long and was stopped"):
        run_isolated(wait, progress=lambda phase, done: None, limit_s=0.0)


def wait(report):
    time.sleep(600)


def test_danish_hyphens_do_not_kill_the_synthesiser():
    assert pronounce("relaterede ` . `-objekter", "da")


def test_sounds_of_one_language_are_spoken_by_another():
    assert speak_sounds(("b", "ʁ", "ˈøː", "d"), "en-us").duration_us > 100_000
    assert {"es", "ja", "hi"} <= {language.code for language in languages()}


def test_lines_of_a_text_keep_their_language():
    assert [line.language for line in lines_from_text("uno\ndos", language="es")] == ["es", "es"]

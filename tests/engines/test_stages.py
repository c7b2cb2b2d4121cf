"""The stages of a reading, each alone: hear, words, align, judge, place."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from tests import sounds
from tinfork.core.speech.reading import WORDS_AMISS
from tinfork.engines import recogniser
from tinfork.engines.limits import READING_HZ
from tinfork.engines.listener import HeardWords
from tinfork.engines.reading.align import align
from tinfork.engines.reading.confidence import NOT_SAID
from tinfork.engines.reading.hear import FRAME_S, hear
from tinfork.engines.reading.judge import OTHER_SPEAKER, PLAIN, judge
from tinfork.engines.reading.place import PlacedTrack
from tinfork.engines.reading.words import WordsStage
from tinfork.engines.recogniser import AlignedWord, slowed
from tinfork.engines.wording import LineText, spell

SAID = sounds.SENTENCE


def played(ratio=1.0):
    """The sentence played so many times as fast, and where its words truly begin (seconds)."""
    said = sounds.spoken()
    samples = sounds.as_sound(said).mono_at(READING_HZ)
    starts = [start_us / 1e6 / ratio for start_us, _ in said.word_starts]
    return slowed(samples, 1 / ratio), starts


def hears(text, score=-0.2):
    """A listener that hears the same whatever is said."""
    return lambda samples, language: HeardWords(text, score)


def said_in(text, samples, listener=None):
    lines = [LineText(text)]
    return WordsStage(lines, listener).what_is_said(hear(samples), spell(lines).spoken)


def read(text, samples, listener=None, aligner=recogniser.align):
    return judge(align(hear(samples), said_in(text, samples, listener), aligner))


def starts_of(judged):
    return {word.typed: word.sounds[0].start_s for word in judged.words if word.typed is not None}


def away(judged, starts):
    """How far each word begins from where it should, in seconds."""
    found = starts_of(judged)
    return np.array([abs(found[at] - start) for at, start in enumerate(starts)])


# hear ---------------------------------------------------------------------------------------------------------------


def test_a_part_has_the_evidence_of_the_whole_and_its_own_times():
    samples, _ = played()
    whole = hear(samples)
    part = whole.part(0.5, 1.0)
    evidence = whole.as_size(1.0)
    assert len(part.samples) == READING_HZ // 2
    assert (part.as_size(1.0).heard == evidence.heard[50:100]).all()
    assert part.levels == pytest.approx(whole.levels[50:100])


def test_each_size_is_heard_once(monkeypatch):
    asked = []
    real = hear(played()[0])
    from tinfork.engines.reading import hear as stage

    def counted(samples, ratios):
        asked.append(tuple(ratios))
        return log_mels(samples, ratios)

    log_mels = stage.log_mels
    monkeypatch.setattr(stage, "log_mels", counted)
    real.as_size(1.0)
    real.part(0.2, 0.9).as_sizes([1.0, 0.75])
    real.as_sizes([0.75, 1.0])
    assert asked == [(1.0,), (0.75,)]


# words --------------------------------------------------------------------------------------------------------------


def test_what_is_typed_is_what_is_said_where_the_listener_agrees():
    samples, _ = played()
    said = said_in(SAID, samples, hears(SAID))
    assert [word.typed for word in said.words] == list(range(len(SAID.split())))
    assert set(said.agreed) == {True}
    assert said.others == ()


def test_without_a_listener_every_word_has_its_place_and_nobody_knows_more():
    samples, _ = played()
    said = said_in(SAID.replace("tram", "marmalade"), samples)
    assert all(said.found.words)
    assert set(said.agreed) == {None}


@pytest.mark.parametrize(
    ("typed", "first", "last", "heard"),
    [
        (SAID.replace("tram", "marmalade"), 2, 3, "tram"),
        (SAID.replace("tram ", ""), 2, 2, "tram"),
        (SAID.replace("tram", "tram marmalade"), 3, 4, ""),
    ],
    ids=["wrong", "missing", "extra"],
)
def test_where_the_listener_hears_otherwise_the_ear_decides_and_no_other_word_moves(typed, first, last, heard):
    samples, _ = played()
    said = said_in(typed, samples, hears(SAID))
    (other,) = said.others
    assert (other.first, other.last, other.text) == (first, last, heard)
    right = said_in(SAID, samples)
    ends = [word[-1].last for word in right.found.words]
    # What was learnt of the voice differs by a word; a frame is all that may come of that.
    assert [word[-1].last for word in said.found.words] == pytest.approx(ends, abs=1)


def test_a_listener_that_mishears_changes_nothing():
    samples, _ = played()
    said = said_in(SAID, samples, hears(SAID.replace("tram", "pram").replace("leaves", "needs marmalade")))
    assert said.others == ()
    assert False in said.agreed
    assert [word[0].first for word in said.found.words] == [w[0].first for w in said_in(SAID, samples).found.words]


def test_a_word_that_is_heard_as_it_is_written_is_no_other_word_though_its_neighbour_was_misheard():
    lines = [LineText("Un guepardo y un león.", "", "es")]
    samples = sounds.as_sound(sounds.spoken("Un departo y un león.", "es")).mono_at(READING_HZ)
    stage = WordsStage(lines, hears("Un departo y un león."))
    said = stage.what_is_said(hear(samples), spell(lines).spoken)
    # "Un" ends in another sound before "departo" than before "guepardo".
    assert said.agreed == (True,) * 5
    assert said.others == ()


def test_sounds_by_ear_are_only_put_where_what_was_typed_is_unlike_them():
    # Nothing that was heard fits: what is unlike the sound is in doubt, what is like it stays.
    samples, _ = played()
    wrong = SAID.replace("tram", "marmalade")
    (other,) = said_in(wrong, samples, hears(SAID.replace("tram", "ouzo"))).others
    assert (other.first, other.last, other.text) == (2, 3, "ouzo")
    assert said_in(SAID, samples, hears(SAID.replace("tram", "ouzo"))).others == ()


def test_what_nobody_could_say_in_the_time_is_not_said_to_be_heard():
    samples, _ = played()
    wrong, circles = SAID.replace("tram", "marmalade"), "under over another number "
    (other,) = said_in(wrong, samples, hears(SAID.replace("tram", circles * 2))).others
    assert (other.first, other.last, other.text) == (2, 3, "")


@pytest.mark.parametrize(("semitones", "is_usual"), [(0, True), (8, False)])
def test_a_voice_whose_words_fit_well_is_not_listened_to_as_another_size(semitones, is_usual):
    heard = hear(played(2 ** (semitones / 12))[0])
    asked = []
    real = heard.as_sizes
    heard.as_sizes = lambda ratios: asked.extend(ratios) or real(ratios)
    WordsStage([LineText(SAID)]).what_is_said(heard, spell([LineText(SAID)]).spoken)
    assert (set(asked) == {1.0}) == is_usual


def test_a_listener_that_goes_round_in_circles_is_not_believed():
    samples, _ = played()
    said = said_in(SAID, samples, hears("again " * 40, score=-0.1))
    assert set(said.agreed) == {None}
    assert said.others == ()


def test_in_two_languages_each_line_is_compared_with_what_is_heard_in_its_own():
    samples, _ = played()
    lines = [
        LineText("The last", "", "en-us"),
        LineText("tram", "", "en-gb"),
        LineText("marmalade the depot", "", "en-us"),
    ]
    heard = {"en-us": "The last tram leaves the depot.", "en-gb": "The last pram leaves the depot."}
    stage = WordsStage(lines, lambda _, language: HeardWords(heard[language], -0.2))
    said = stage.what_is_said(hear(samples), spell(lines).spoken)
    firsts = [other.first for other in said.others]
    assert firsts == sorted(firsts)
    assert (3, 4, "leaves") in [(o.first, o.last, o.text) for o in said.others]
    assert [word.typed for word in said.words if word.typed is not None] == [0, 1, 2, 4, 5]


def test_the_accent_that_was_spoken_is_the_one_that_is_read():
    text = "I cannot go to the bath after half past four, the glass is in the car park."
    spoken = sounds.as_sound(sounds.spoken(text, "en-gb")).mono_at(READING_HZ)
    said = said_in(text, spoken)
    taken = [word.ways[at].accent for word, at in zip(said.words, said.found.taken, strict=True)]
    assert taken.count("en-gb") > taken.count("en-us")


@pytest.mark.parametrize("said", ["en-us", "en-gb"])
@pytest.mark.parametrize("named", ["en-us", "en-gb"])
def test_a_voice_in_noise_has_one_accent_whatever_the_line_names(said, named):
    text = "The baker's sister started her car near the corner, after four, and never heard the water before."
    clean = sounds.as_sound(sounds.spoken(text, said)).mono_at(READING_HZ)
    level = np.sqrt(np.mean(clean**2)) / 10 ** (10 / 20)
    noisy = clean + np.random.default_rng(5).normal(scale=level, size=len(clean)).astype(np.float32)
    words = spell([LineText(text, "", named)]).spoken
    found = WordsStage([LineText(text, "", named)]).what_is_said(hear(noisy), words)
    taken = {word.ways[at].accent for word, at in zip(found.words, found.found.taken, strict=True)} - {""}
    assert taken == {said}


# align and judge ----------------------------------------------------------------------------------------------------


class Deaf:
    """Puts everything elsewhere where it is asked at another speed than the sound's own; keeps what it was asked."""

    def __init__(self):
        self.asked = []

    def __call__(self, samples, words, *, ratio=1.0):
        self.asked.append(ratio)
        by = 0.0 if ratio == 1.0 else 0.4
        return [
            AlignedWord(tuple(replace(p, start_s=p.start_s + by, end_s=p.end_s + by) for p in w.phones))
            for w in recogniser.align(samples, words)
        ]


@pytest.mark.parametrize("semitones", [-5, 0, 5, 8])
def test_a_high_or_low_voice_is_timed_as_well(semitones):
    samples, starts = played(2 ** (semitones / 12))
    judged = read(SAID, samples)
    assert judged.method in (PLAIN, OTHER_SPEAKER)
    assert judged.method == PLAIN or semitones
    assert away(judged, starts).max() < 0.06 / min(1.0, 2 ** (semitones / 12))


def test_where_the_recogniser_is_lost_at_another_speed_it_is_asked_at_the_sounds_own():
    samples, starts = played(2 ** (9 / 12))
    aligner = Deaf()
    judged = read(SAID, samples, aligner=aligner)
    assert aligner.asked[0] > 1.0
    assert aligner.asked[1:] == [1.0]
    assert np.median(away(judged, starts)) < 0.02
    assert away(judged, starts).max() < 0.08


def test_a_usual_voice_is_listened_to_at_its_own_speed_alone():
    aligner = Deaf()
    read(SAID, played()[0], aligner=aligner)
    assert aligner.asked == [1.0]


def test_where_the_recogniser_finds_no_way_the_ears_counts():
    samples, starts = played()
    judged = read(SAID, samples, aligner=lambda *_, **__: None)
    assert judged.method == "by the ear"
    assert away(judged, starts).max() < 0.06


def test_a_wrong_word_lies_over_what_is_said_and_is_not_sure():
    samples, starts = played()
    judged = read(SAID.replace("tram", "marmalade"), samples, hears(SAID))
    wrong = next(word for word in judged.words if word.typed == 2)
    assert (wrong.sure, wrong.heard) == (NOT_SAID, "tram")
    assert starts[2] - 0.05 < wrong.sounds[0].start_s < wrong.sounds[-1].end_s < starts[3] + 0.05
    assert judged.method == WORDS_AMISS


def test_a_word_that_is_not_said_is_told_and_one_that_was_not_typed_too():
    samples, _ = played()
    extra = read(SAID.replace("tram", "tram marmalade"), samples, hears(SAID))
    assert extra.missing == (3,)
    missing = read(SAID.replace("tram ", ""), samples, hears(SAID))
    (untyped,) = (word for word in missing.words if word.typed is None)
    assert untyped.heard == "tram"


# place --------------------------------------------------------------------------------------------------------------


def test_lines_have_every_written_word_in_its_place_and_what_was_not_typed():
    samples, starts = played()
    lines = [LineText("The last leaves", "Dalia"), LineText("the depot.", "Toad")]
    spoken = spell(lines)
    judged = judge(align(hear(samples), WordsStage(lines, hears(SAID)).what_is_said(hear(samples), spoken.spoken)))
    track = PlacedTrack(samples, lines, spoken, len(samples) * 1_000_000 // READING_HZ)
    track.take(spoken.spoken, judged)
    one, two = track.lines()
    assert [w.text for w in one.words] == ["The", "last", "leaves"]
    assert [w.text for w in two.words] == ["the", "depot"]
    (extra,) = one.extras
    assert extra.heard == "tram"
    assert one.words[1].end_us <= extra.start_us < extra.end_us <= one.words[2].start_us
    assert extra.start_us / 1e6 == pytest.approx(starts[2], abs=6 * FRAME_S)
    ends = [(a.start_us, a.end_us) for a in (*one.words, *two.words)]
    assert all(a[1] <= b[0] for a, b in itertools.pairwise(ends))

"""Second looks: what causes them, their order, and that they are settled by their cause."""

import hashlib
from dataclasses import replace
from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.strategies import charts, readings
from tests.core.test_solver import RATE, spoken
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.holds import HoldColumns
from tinfork.core.solver.looks import looks_at_mouths, looks_at_sound, looks_at_words, without_spans, worst_first
from tinfork.core.solver.problem import Hold
from tinfork.core.solver.solve import solve_incrementally
from tinfork.core.speech.reading import WORDS_AMISS, Extra, Line, Phoneme, Reading, Turn, Word
from tinfork.core.speech.unworded import BY_EAR

S = 1_000_000


def word(text, start, end, sure=0.9):
    return Word(text, start, end, (Phoneme("ɑ", start, end),), sure)


def reading(*words, turns=(), missing_words=(), method=""):
    return Reading(10 * S, (Line("1", "said", "en-us", words, missing_words=missing_words, method=method),), turns)


def kinds(looks):
    return [look.kind for look in worst_first(looks)]


def test_doubtful_and_missing_words_come_worst_first():
    read = reading(word("a", 0, S, 0.45), word("b", S, 2 * S, 0.1), missing_words=("c",))
    looks = worst_first(looks_at_words(read))
    assert [(look.kind, look.text.split("”")[0].strip("“")) for look in looks] == [
        ("doubt", "b"),
        ("unsaid", "c"),
        ("doubt", "a"),
    ]


def test_unknown_words_are_pointed_out():
    read = reading(word("zorbel", 0, S))
    assert kinds(looks_at_words(read, lambda w, line: w.text == "zorbel")) == ["unknown"]


def test_a_look_says_whose_word_it_is_about():
    first = Line("7", "a", "en-us", (word("a", 0, 300_000, 0.2),))
    lines = (first, Line("8", "b", "en-us", (word("b", 400_000, 600_000, 0.1),)))
    assert [look.who for look in looks_at_words(Reading(1_000_000, lines))] == ["7", "8"]
    quiet = np.full(100, -80.0)
    quiet[70:90] = -20
    assert {look.who for look in looks_at_sound(Reading(1_000_000, lines), quiet) if look.kind == "silence"} == {
        "7",
        "8",
    }


def test_overlapping_turns_are_a_look():
    turns = (Turn("1", 0, 2 * S), Turn("2", S, 3 * S), Turn("2", 4 * S, 5 * S))
    (look,) = looks_at_words(reading(word("a", 0, S), turns=turns))
    assert (look.kind, look.start_us, look.end_us) == ("overlap", S, 2 * S)


def test_speech_without_words_and_words_without_speech():
    levels = np.full(1000, -80.0)
    levels[100:200] = -20
    levels[400:500] = -20
    looks = list(looks_at_sound(reading(word("a", S, 2 * S), word("b", 7 * S, 8 * S)), levels))
    assert [(look.kind, look.start_us, look.end_us) for look in looks] == [
        ("bare", 4 * S, 5 * S),
        ("silence", 7 * S, 8 * S),
    ]
    assert list(looks_at_sound(reading(word("a", S, 2 * S)), np.zeros(0))) == []


def test_what_was_heard_between_the_words_is_a_look_that_says_what():
    said = (word("a", S, 2 * S), word("b", 2 * S + 110_000, 3 * S))
    extras = (Extra(2 * S, 2 * S + 110_000, "and"), Extra(4 * S, 5 * S))
    read = Reading(10 * S, (Line("1", "a b", "en-us", said, method=WORDS_AMISS, extras=extras),))
    one, other = looks_at_words(read)
    assert (one.kind, one.start_us, one.end_us) == ("bare", 2 * S, 2 * S + 110_000)
    assert "(heard: “and”)" in one.text
    assert "heard" not in other.text
    # The sound says nothing more of them; and once a word lies there, there is nothing to look at.
    levels = np.full(1000, -80.0)
    levels[100:500] = -20
    assert [look.start_us for look in looks_at_sound(read, levels)] == [3 * S]
    covered = replace(read.lines[0], words=(*said, word("c", 4 * S, 5 * S)))
    assert [look.start_us for look in looks_at_words(Reading(10 * S, (covered,)))] == [2 * S]


def test_a_doubtful_word_says_what_was_heard_instead():
    doubtful = replace(word("kettle", 0, S, 0.1), heard="tram")
    (look,) = looks_at_words(reading(doubtful))
    assert look.text == "“kettle” may be wrong: “tram” was heard"


def test_a_doubtful_word_has_up_to_three_answers_each_a_word():
    heard = replace(word("hills", 0, S, 0.1), others=("sills", "ill", "heels"))
    unlike = replace(word("cupcake", 2 * S, 3 * S, 0.1), heard="a small cake")
    instead = replace(word("kettle", 4 * S, 5 * S, 0.1), heard="tram", others=("tram", "pram"))
    looks = sorted(looks_at_words(reading(heard, unlike, instead)), key=lambda look: look.start_us)
    assert [look.answers for look in looks] == [("sills", "ill", "heels"), (), ("tram", "pram")]


def test_a_line_by_ear_is_one_look_however_many_syllables_it_has():
    syllables = [word("hɑ", 0, 100_000, 0.3), word("hɑ", 100_000, 200_000, 0.2), word("hɑ", 200_000, 300_000, 0.3)]
    (look,) = looks_at_words(reading(replace(syllables[0], heard="Ha ha ha!"), *syllables[1:], method=BY_EAR))
    assert (look.kind, look.start_us, look.end_us) == ("by ear", 0, 300_000)
    assert "Ha ha ha!" in look.text


def test_a_closure_that_is_not_seen():
    solution = solve_incrementally(spoken(("ɑ", 6), ("m", 1), ("ɑ", 6)), STARTER, RATE)
    assert "closure" not in kinds(looks_at_mouths(solution))
    flat = (Hold(0, solution.holds[-1].end, 5, "open"),)
    assert "closure" in kinds(looks_at_mouths(solution, HoldColumns.of(flat)))


def test_short_holds_and_flicker():
    solution = solve_incrementally(spoken(("ɑ", 10)), STARTER, RATE)
    shown = (Hold(0, 5, 1, "rest"), Hold(5, 6, 9, "open"), Hold(6, 34, 1, "rest"))
    assert set(kinds(looks_at_mouths(solution, HoldColumns.of(shown)))) >= {"short", "flicker"}


def test_a_sound_shown_by_a_far_off_drawing_once():
    chart = Chart((Drawing(1, "open", ("open",)), Drawing(2, "rest", ("rest",))))
    solution = solve_incrementally(spoken(("f", 4), ("ɑ", 4), ("f", 4)), chart, RATE)
    assert kinds(looks_at_mouths(solution)).count("stand-in") == 1


def test_a_mouth_that_never_rests():
    solution = solve_incrementally(spoken(("ɑ", 10)), STARTER, RATE)
    assert "restless" in kinds(looks_at_mouths(solution, HoldColumns.of((Hold(0, 1200, 5, "open"),))))


def test_a_look_is_known_again_by_its_cause_and_new_with_a_new_one():
    (a,) = looks_at_words(reading(word("a", 0, S, 0.2)))
    (same,) = looks_at_words(reading(word("a", 20_000, S, 0.4)))
    (moved,) = looks_at_words(reading(word("a", 5 * S, 6 * S, 0.2)))
    (other,) = looks_at_words(reading(word("b", 0, S, 0.2)))
    assert a.key == same.key
    assert len({a.key, moved.key, other.key}) == 3


@settings(max_examples=50, deadline=None)
@given(readings(), charts())
def test_looks_lie_in_the_shot_and_have_reasons(read, chart):
    solution = solve_incrementally(read, chart, RATE)
    levels = np.full(read.duration_us // 10_000 + 1, -30.0)
    looks = [*looks_at_words(read), *looks_at_sound(read, levels), *looks_at_mouths(solution)]
    for look in worst_first(looks):
        assert 0 <= look.start_us < look.end_us
        assert 0 <= look.severity <= 1
        assert look.text


def test_a_line_by_ear_keeps_its_mark_while_it_begins_in_the_same_tenth_of_a_second():
    def mark(start, heard="Ha!"):
        one = replace(word("hɑ", start, start + 100_000), heard=heard)
        (look,) = looks_at_words(reading(one, method=BY_EAR))
        assert look.severity == 0.55
        return look.key

    assert mark(1_230_000) == mark(1_280_000)
    assert mark(1_280_000) != mark(1_310_000)
    assert mark(1_230_000) != mark(1_230_000, "Oh!")


def test_how_severe_a_far_off_drawing_is_depends_on_whether_it_is_a_closure():
    chart = Chart((Drawing(1, "open", ("open",)), Drawing(2, "rest", ("rest",))))
    found = {
        sound: [
            (look.severity, look.text, look.start_us, look.end_us)
            for look in looks_at_mouths(solve_incrementally(spoken((sound, 4), ("ɑ", 4)), chart, RATE))
            if look.kind == "stand-in"
        ]
        for sound in ("m", "f", "w")
    }
    # It is said on frames 12 to 15; lips that are shut are nearly a mouth at rest.
    assert found == {
        "m": [],
        "f": [(0.65, "f is shown by drawing 2, which looks quite different", 500_000, 666_667)],
        "w": [(0.4, "w is shown by drawing 1, which looks quite different", 500_000, 666_667)],
    }


def rows(*lengths):
    """Holds of these (frames, drawing, class), one after another."""
    out, at = [], 0
    for frames, drawing, viseme in lengths:
        out.append(Hold(at, at + frames, drawing, viseme))
        at += frames
    return tuple(out)


def test_a_mouth_has_twenty_seconds_from_its_last_rest():
    solution = solve_incrementally(spoken(("ɑ", 10)), STARTER, RATE)

    def found(*lengths):
        return [
            (round(look.start_us / S, 2), round(look.end_us / S, 2), look.severity)
            for look in looks_at_mouths(solution, HoldColumns.of(rows(*lengths)))
            if look.kind == "restless"
        ]

    assert found((480, 14, "open")) == []
    assert found((481, 14, "open")) == [(0, 20.04, 0.25)]
    # A rest begins the count anew, and so does a look.
    assert found((300, 14, "open"), (2, 1, "rest"), (300, 13, "mid")) == []
    assert found((300, 14, "open"), (300, 13, "mid"), (400, 14, "open"), (100, 13, "mid")) == [
        (0, 25, 0.25),
        (25, 45.83, 0.25),
    ]


def test_a_hold_is_short_where_it_is_shorter_than_the_dial_says():
    solution = solve_incrementally(spoken(("ɑ", 10)), STARTER, RATE)
    shown = rows((10, 1, "rest"), (1, 9, "open"), (2, 13, "mid"), (20, 1, "rest"))
    looks = list(looks_at_mouths(solution, HoldColumns.of(shown)))
    (short,) = [look for look in looks if look.kind == "short"]
    assert (short.start_us, short.end_us, short.severity) == (416_667, 458_334, 0.5)
    assert short.text == "Held 1 frame, less than 2, because of pins"
    assert "flicker" not in kinds(looks)


def test_a_look_has_the_key_by_which_it_was_settled_long_ago():
    """Keys are stored: whoever computes them otherwise opens every second look that was ever settled."""

    def key(cause):
        return hashlib.sha256(cause).hexdigest()[:16]

    (doubt,) = looks_at_words(reading(word("kettle", 5 * S, 6 * S, 0.2)))
    assert doubt.key == key(b"('doubt', 'kettle', 50)")
    sung = replace(word("la", 10**10 + 99_999, 10**10 + S), heard="la")
    (by_ear,) = looks_at_words(Reading(2 * 10**10, (Line("1", "la", "en-us", (sung,), method=BY_EAR),)))
    assert by_ear.key == key(b"('by ear', 'la', 100000)")
    levels = np.full(10_000, -60.0)
    levels[6000:7000] = -10.0
    bare, silent = sorted(looks_at_sound(reading(word("a", S, 2 * S)), levels), key=lambda look: look.kind)
    assert bare.key == key(b"('bare', 600, 700)")
    assert silent.key == key(b"('silence', 'a', 10)")


SPANS = st.lists(st.tuples(st.integers(0, 60), st.integers(1, 12)), max_size=8)


@given(SPANS, SPANS)
def test_what_is_left_of_runs_outside_of_spans_is_what_is_left_hop_by_hop(runs, spans):
    voiced = {hop for start, length in runs for hop in range(start, start + length)}
    whole = [(hop, hop + 1) for hop in sorted(voiced)]
    joined = []
    for start, end in whole:
        if joined and joined[-1][1] == start:
            joined[-1] = (joined[-1][0], end)
        else:
            joined.append((start, end))
    firsts = np.array([start for start, _ in spans], dtype=np.int64)
    lasts = np.array([start + length for start, length in spans], dtype=np.int64)
    left = without_spans(np.array(joined, dtype=np.int64).reshape(-1, 2), firsts, lasts)
    covered = {hop for start, length in spans for hop in range(start, start + length)}
    assert [hop for start, end in left for hop in range(start, end)] == sorted(voiced - covered)
    # Each is as long as it can be.
    assert all(start < end for start, end in left)
    assert all(before[1] < after[0] for before, after in pairwise(left.tolist()))

"""What second looks are likely corrected by."""

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.clock import FrameRate
from tinfork.core.solver.corrections import Corrections, reached_us
from tinfork.core.solver.looks import Look, looks_at_words
from tinfork.core.speech.reading import Extra, Line, Phoneme, Reading, Word

RATE = FrameRate(Fraction(24))


def word(number, text, start_us, end_us, **more):
    return Word(text, start_us, end_us, (Phoneme("a", start_us, end_us, 1.0),), id=number, **more)


WORDS = (word(7, "kettle", 0, 400_000), word(8, "boils", 1_000_000, 1_500_000))
LINE = Line("1", "kettle boils", "en-us", WORDS)


def corrections(line=LINE, clip=3):
    return Corrections(Reading(4_000_000, (line,)), RATE, lambda _: clip)


def offered(look, line=LINE):
    return [(str(one.text), one.edit, dict(one.parameters), one.goes) for one in corrections(line).for_look(look)]


def look(kind, start_us, end_us, **more):
    return Look(kind, start_us, end_us, "…", 0.5, "k", **more)


def test_speech_without_a_word_may_be_more_of_the_word_before_or_of_the_next_or_a_word_that_is_missing():
    assert offered(look("bare", 450_000, 900_000)) == [
        ("“kettle” is longer", "edge", {"word": 7, "clip": 3, "at_us": 900_000, "edge": "end"}, ""),
        ("“boils” starts earlier", "edge", {"word": 8, "clip": 3, "at_us": 450_000, "edge": "start"}, ""),
        ("Type the missing word", "", {}, "add"),
    ]


def test_far_from_every_word_only_a_word_is_missing():
    assert [text for text, *_ in offered(look("bare", 3_000_000, 3_500_000))] == ["Type the missing word"]


def test_speech_that_a_look_found_gets_its_corrections():
    line = replace(LINE, extras=(Extra(1_600_000, 2_100_000, "over"),))
    found = [one for one in looks_at_words(Reading(4_000_000, (line,))) if one.kind == "bare"]
    assert offered(found[0], line)[0] == (
        "“boils” is longer", "edge", {"word": 8, "clip": 3, "at_us": 2_100_000, "edge": "end"}, "",
    )  # fmt: skip


def test_a_word_in_doubt_may_be_what_was_heard_another_one_or_said_otherwise():
    doubt = look("doubt", 0, 400_000, answers=("cattle", "battle"))
    assert offered(doubt) == [
        ("cattle", "retype", {"word": 7, "clip": 3, "text": "cattle"}, ""),
        ("battle", "retype", {"word": 7, "clip": 3, "text": "battle"}, ""),
        ("Another word", "", {}, "word"),
        ("Change how it is said", "", {}, "pronounce"),
    ]


@pytest.mark.parametrize(
    ("kind", "edit", "goes"),
    [
        ("unknown", "", "pronounce"), ("silence", "word_remove", ""), ("pin", "clear", ""), ("short", "clear", ""),
        ("flicker", "give_to_before", ""), ("stand-in", "", "chart"), ("closure", "", "chart"),
        ("overlap", "", "turns"), ("by ear", "", "words"), ("unsaid", "", "words"),
    ],
)  # fmt: skip
def test_every_other_kind_has_one_that_fits(kind, edit, goes):
    first = offered(look(kind, 0, 400_000, who="5"))[0]
    assert (first[1], first[3]) == (edit, goes)


def test_frames_are_those_of_the_look():
    # Frames 10 and 11 at 24 a second begin at 416,667 and 458,333.
    held = look("short", 416_667, 500_000, who="5")
    assert offered(held)[0][2] == {"speaker": "5", "first": 10, "last": 11}


def test_a_word_that_is_not_there_any_more_offers_nothing():
    assert offered(look("doubt", 5, 6, answers=("cattle",))) == [] == offered(look("restless", 0, 9))


def one_word_lines(starts):
    return tuple(
        Line("1", f"w{at}", "en-us", (word(at + 1, f"w{at}", start, start + 300_000),))
        for at, start in enumerate(starts)
    )


@given(
    st.lists(st.integers(0, 20_000_000), min_size=1, max_size=8),
    st.data(),
    st.sampled_from(["bare", "doubt"]),
)
def test_looks_that_an_edit_does_not_reach_keep_their_corrections(starts, data, kind):
    before = one_word_lines(starts)
    changed = data.draw(st.integers(0, len(before) - 1))
    by = data.draw(st.integers(-200_000, 3_000_000))
    moved = word(99, "other", max(0, starts[changed] + by), max(0, starts[changed] + by) + 300_000)
    put = data.draw(st.sampled_from([(), (replace(before[changed], words=(moved,)),)]))
    after = (*before[:changed], *put, *before[changed + 1 :])
    readings = [Reading(30_000_000, lines) for lines in (before, after)]
    start_us, end_us = reached_us(*readings)
    at = data.draw(st.integers(0, 22_000_000))
    asked = look(kind, at, at + 300_000)
    if at + 300_000 < start_us or end_us < at:
        was, now = (Corrections(reading, RATE, lambda _: 3).for_look(asked) for reading in readings)
        assert was == now
    assert reached_us(readings[0], readings[0]) == (0, 0)


def test_an_edit_reaches_looks_within_little_more_than_a_second_of_the_lines_it_changed():
    lines = one_word_lines([0, 5_000_000, 12_000_000])
    other = replace(lines[1], words=(word(9, "other", 4_900_000, 5_100_000),))
    before, after = (Reading(20_000_000, rows) for rows in (lines, (lines[0], other, lines[2])))
    assert reached_us(before, after) == (4_900_000 - 1_200_000, 5_300_000 + 1_200_000)
    last = look("bare", 6_400_000, 7_000_000)
    assert "w1" in str(Corrections(before, RATE, lambda _: 3).for_look(last)[0].text)
    assert "other" not in str(Corrections(after, RATE, lambda _: 3).for_look(last)[0].text)

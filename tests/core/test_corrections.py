"""What second looks are likely corrected by."""

from dataclasses import replace
from fractions import Fraction

import pytest

from tinfork.core.clock import FrameRate
from tinfork.core.solver.corrections import Corrections
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

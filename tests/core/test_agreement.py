"""Where what was typed and what was heard disagree, by their sounds."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tinfork.core.speech.agreement import _MORE as MORE
from tinfork.core.speech.agreement import _OPEN as OPEN
from tinfork.core.speech.agreement import Doubt, _aligned, doubts, without_same_words
from tinfork.core.speech.features import differ

#: Words by their sounds.
THE, LAST, TRAM, LEAVES, KETTLE = "ð.ə", "l.æ.s.t", "t.ɹ.æ.m", "l.i.v.z", "k.ɛ.t.əl"
SAID = [THE, LAST, TRAM, LEAVES]


def sounds(word):
    return tuple(word.split("."))


def compared(typed, heard):
    return doubts([[sounds(word)] for word in typed], [sounds(word) for word in heard])


@pytest.mark.parametrize(
    ("typed", "heard", "found"),
    [
        (SAID, SAID, []),
        # One word instead of another, a word too many, a word that is missing, at the start, inside, at the end.
        ([THE, LAST, KETTLE, LEAVES], SAID, [Doubt(2, 3, 2, 3)]),
        ([THE, LAST, KETTLE, TRAM, LEAVES], SAID, [Doubt(2, 3, 2, 2)]),
        ([THE, LAST, LEAVES], SAID, [Doubt(2, 2, 2, 3)]),
        ([TRAM, LEAVES], SAID, [Doubt(0, 0, 0, 2)]),
        ([THE, LAST, TRAM], SAID, [Doubt(3, 3, 3, 4)]),
        (SAID, [], [Doubt(0, 4, 0, 0)]),
        # Only spelled or parted otherwise.
        ([THE, LAST, TRAM, LEAVES], [THE, "l.æ.s", "t.t.ɹ.æ.m.l.i.v", "z"], []),
        # Sounds that are made alike are heard for each other.
        ([THE, LAST, TRAM, LEAVES], ["d.ə", "l.ɛ.s.t", "t.ɹ.a.n", "l.i.f.s"], []),
    ],
)
def test_places_where_they_disagree(typed, heard, found):
    assert compared(typed, heard) == found


def test_a_word_that_may_be_said_in_two_ways_agrees_with_either():
    typed = [[sounds("t.ə.m.eɪ.t.oʊ"), sounds("t.ə.m.ɑ.t.oʊ")], [sounds("ð.ə.n.aʊ")]]
    assert doubts(typed, [sounds("t.ə.m.ɑ.t.oʊ"), sounds("ð.ə.n.aʊ")]) == []


@pytest.mark.parametrize("extra", [[], [LAST], [LAST, TRAM]])
def test_a_short_word_that_was_heard_beside_itself_agrees(extra):
    # Small words between others that are heard quite otherwise.
    typed, heard = [KETTLE, "u.n", *extra, "u.n", TRAM], ["m.i.ʃ.u", "u.n", "u.n", TRAM]
    for doubt in compared(typed, heard):
        own = [sound for word in typed[doubt.first : doubt.last] for sound in word.split(".")]
        other = [sound for word in heard[doubt.heard_first : doubt.heard_last] for sound in word.split(".")]
        assert own != other


def test_a_few_words_in_a_long_speech_stay_together():
    speech = [THE, LAST, TRAM, LEAVES, THE, KETTLE, LEAVES, THE, LAST, TRAM]
    (doubt,) = compared([THE, LAST, TRAM], speech)
    assert (doubt.first, doubt.last) in ((0, 0), (3, 3))
    assert doubt.heard_last - doubt.heard_first == len(speech) - 3


WORDS = st.lists(st.lists(st.sampled_from("ptkmnsfliuaoɛ"), min_size=1, max_size=5).map(tuple), min_size=1, max_size=8)


@given(WORDS)
def test_what_is_the_same_agrees(words):
    assert doubts([[word] for word in words], words) == []


@given(WORDS, WORDS)
def test_places_are_in_order_and_inside_both(typed, heard):
    found = doubts([[word] for word in typed], heard)
    last = (0, 0)
    for doubt in found:
        assert last[0] <= doubt.first <= doubt.last <= len(typed)
        assert 0 <= doubt.heard_first <= doubt.heard_last <= len(heard)
        assert doubt.first < doubt.last or doubt.heard_first < doubt.heard_last
        last = (doubt.last, doubt.heard_last)


def cost_of(pairs, typed, heard):
    """What pairing sounds so costs, with gaps that cost to open and for each sound."""
    total, i, j = 0.0, 0, 0
    for a, b in [*pairs, (len(typed), len(heard))]:
        total += sum(OPEN + MORE * gap for gap in (a - i, b - j) if gap)
        total += differ(typed[a], heard[b]) if (a, b) != (len(typed), len(heard)) else 0.0
        i, j = a + 1, b + 1
    return total


def cheapest(typed, heard):
    """The least that any pairing costs: every one is tried."""
    every = (
        tuple(zip(left, right, strict=True))
        for count in range(min(len(typed), len(heard)) + 1)
        for left in itertools.combinations(range(len(typed)), count)
        for right in itertools.combinations(range(len(heard)), count)
    )
    return min(cost_of(pairs, typed, heard) for pairs in every)


few = st.lists(st.sampled_from(["p", "b", "t", "ɑ", "æ", "i", "s", "ʃ"]), max_size=5)


@settings(max_examples=150)
@given(few, few)
def test_sounds_are_paired_as_cheaply_as_they_can_be(typed, heard):
    pairs = _aligned([tuple(typed)], [tuple(heard)])
    assert cost_of(pairs, typed, heard) == pytest.approx(cheapest(typed, heard))


@pytest.mark.parametrize(
    ("typed", "heard", "left"),
    [
        ("un", "un", None),
        ("un guepardo", "un departo", ("guepardo", "departo")),
        ("the red tram", "the bread tram", ("red", "bread")),
        ("no no no", "no no", ("no", "")),
        ("tram", "tram marmalade", ("", "marmalade")),
        ("tram", "pram", ("tram", "pram")),
        ("", "pram", ("", "pram")),
    ],
)
def test_words_that_are_written_the_same_at_the_ends_of_a_doubt_are_no_doubt(typed, heard, left):
    # Other words stand before and after: a doubt is a part of what was typed.
    typed, heard = ["my", *typed.split(), "oven"], ["a", "b", *heard.split(), "oven"]
    found = without_same_words(Doubt(1, len(typed) - 1, 2, len(heard) - 1), typed, heard)
    parts = found and (typed[found.first : found.last], heard[found.heard_first : found.heard_last])
    assert parts == (left and tuple(part.split() for part in left))

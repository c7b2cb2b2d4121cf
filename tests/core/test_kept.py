"""What is kept with values, and which ends of two rows are the same."""

import gc
from dataclasses import dataclass

from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.kept import common_ends, kept, of_each


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Thing:
    number: int


def counted():
    asked = []

    @kept
    def doubled(thing, by=2):
        asked.append((thing.number, by))
        return thing.number * by

    return doubled, asked


def test_what_follows_from_a_value_is_worked_out_once_for_each_value_and_each_question():
    doubled, asked = counted()
    one, alike = Thing(3), Thing(3)
    assert [doubled(one), doubled(one), doubled(one, 5), doubled(one), doubled(one, by=5)] == [6, 6, 15, 6, 15]
    assert asked == [(3, 2), (3, 5), (3, 5)]
    assert doubled(alike) == 6
    assert len(asked) == 4, "told by identity, not by what they say"


def test_only_the_latest_questions_are_kept():
    doubled, asked = counted()
    one = Thing(2)
    assert [doubled(one, by) for by in range(10)] == [2 * by for by in range(10)]
    doubled(one, 9)
    assert len(asked) == 10
    doubled(one, 0)
    assert len(asked) == 11


def test_nothing_is_kept_of_what_is_gone_even_where_its_place_is_taken():
    doubled, asked = counted()
    for number in range(1000):
        assert doubled(Thing(number)) == 2 * number
    gc.collect()
    assert len(asked) == 1000


def test_after_an_edit_only_what_lies_between_the_ends_is_looked_up():
    looked_up = []

    def doubled(thing, by):
        looked_up.append(thing.number)
        return thing.number * by

    things = [Thing(number) for number in range(50)]
    assert of_each(doubled, things, 2) == list(range(0, 100, 2))
    edited = [*things[:2], Thing(70), Thing(71), *things[3:]]
    looked_up.clear()
    assert of_each(doubled, edited, 2) == [0, 2, 140, 142, *range(6, 100, 2)]
    assert looked_up == [70, 71]
    # Another question has other answers, and the answers are the asker's own.
    assert of_each(doubled, edited, 3) == [0, 3, 210, 213, *range(9, 150, 3)]
    of_each(doubled, edited, 2).clear()
    # Short ones do not push them out.
    for _ in range(20):
        assert of_each(doubled, things[:5], 2) == [0, 2, 4, 6, 8]
    looked_up.clear()
    assert of_each(doubled, things, 2) == list(range(0, 100, 2))
    assert looked_up == [2]


@given(st.lists(st.tuples(st.lists(st.integers(0, 12), max_size=60), st.integers(1, 3)), max_size=12))
def test_of_each_is_what_a_plain_loop_gives(asked):
    things = [Thing(number) for number in range(13)]

    @kept
    def times(thing, by):
        return thing.number * by

    for numbers, by in asked:
        values = [things[number] for number in numbers]
        assert of_each(times, values, by) == [number * by for number in numbers]


@given(st.data(), st.lists(st.integers(0, 3), max_size=40))
def test_common_ends_are_those_that_are_the_very_same(data, numbers):
    one = [Thing(number) for number in numbers]
    at = data.draw(st.integers(0, len(one)))
    gone = data.draw(st.integers(0, len(one) - at))
    put = [Thing(number) for number in data.draw(st.lists(st.integers(0, 3), max_size=5))]
    other = [*one[:at], *put, *one[at + gone :]]
    first, last = common_ends(tuple(one), tuple(other))
    shorter = min(len(one), len(other))
    expected = next((n for n in range(shorter) if one[n] is not other[n]), shorter)
    assert first == expected
    assert last == next((n for n in range(shorter - first) if one[-1 - n] is not other[-1 - n]), shorter - first)

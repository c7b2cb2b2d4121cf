"""Why holds are as they are, in words."""

from dataclasses import replace

from hypothesis import given, settings

from tests.core.strategies import charts, readings
from tests.core.test_solver import RATE, spoken
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.explain import explain
from tinfork.core.solver.solve import solve, solve_incrementally
from tinfork.core.speech.reading import Reading

S = 1_000_000


def explained(reading, viseme):
    solution = solve_incrementally(reading, STARTER, RATE)
    at = next(n for n, h in enumerate(solution.holds) if h.viseme == viseme)
    return explain(solution, at)


def test_a_hold_serves_its_sounds_and_says_what_had_no_room():
    said = explained(spoken(("ɑ", 4), ("t", 1), ("ɑ", 4)), "open")
    assert said.serves == ("ɑ",)
    assert [d.sound for d in said.dropped] == ["t"]
    assert said.text == "Shows ɑ. Skipped: t (lasts 1.0 frames, a hold 2)."


def test_a_closure_is_held_so_that_it_is_seen():
    said = explained(spoken(("ɑ", 6), ("m", 1), ("ɑ", 6)), "bilabial")
    assert "m" in said.serves
    assert "Held so that the lips visibly close" in said.text


def later(reading, by_us):
    """A reading with as much silence before it."""

    def moved(one, **more):
        return replace(one, start_us=one.start_us + by_us, end_us=one.end_us + by_us, **more)

    lines = tuple(
        replace(line, words=tuple(moved(w, phonemes=tuple(map(moved, w.phonemes))) for w in line.words))
        for line in reading.lines
    )
    return Reading(reading.duration_us + by_us, lines)


def test_what_the_grid_moved_is_said_and_nothing_where_it_moved_nothing():
    # Eight frames of silence, then open: a frame ahead of the sound, on an odd frame.
    reading = spoken(("m", 3), ("ɑ", 6), ("m", 3), ("ɑ", 6))
    free = solve_incrementally(reading, STARTER, RATE, dials=Dials(shortest=1))
    locked = solve_incrementally(reading, STARTER, RATE, dials=Dials(shortest=1, grid=2))
    assert any(hold.start % 2 for hold in free.holds)
    told = {hold.start: explain(locked, n).text for n, hold in enumerate(locked.holds)}
    assert all(start % 2 == 0 for start in told)
    for n, hold in enumerate(locked.holds):
        same = [
            one for one in free.holds if one.drawing == hold.drawing and one.start < hold.end and hold.start < one.end
        ]
        if n and same and same[0].start != hold.start:
            by = hold.start - same[0].start
            assert f"Locked on 2, it starts {abs(by)} frame" in told[hold.start]
            assert ("later" if by > 0 else "earlier") in told[hold.start]
        elif n and same:
            assert "ocked on" not in told[hold.start]
        elif not same:
            assert "Caused by the lock on 2" in told[hold.start]
    assert not any("ocked on" in explain(free, n).text for n in range(len(free.holds)))
    assert any("it starts" in text for text in told.values())
    # After three seconds of silence it is just the same, 72 frames later.
    late = solve_incrementally(later(reading, 3 * S), STARTER, RATE, dials=Dials(shortest=1, grid=2))
    told_late = {hold.start - 72: explain(late, n).text for n, hold in enumerate(late.holds)}
    assert {start: text for start, text in told.items() if start} == {
        start: text for start, text in told_late.items() if start > 0
    }


def test_other_drawings_cost_more():
    said = explained(spoken(("ɑ", 10)), "open")
    assert len(said.others) == 3
    assert all(other.more > 0 for other in said.others)
    assert [o.more for o in said.others] == sorted(o.more for o in said.others)


def test_rest_is_said_to_be_silence():
    assert explained(spoken(("ɑ", 10)), "rest").text == "Resting: silence."


@settings(max_examples=40, deadline=None)
@given(readings(), charts())
def test_every_hold_of_any_reading_can_be_explained(reading, chart):
    solution = solve_incrementally(reading, chart, RATE)
    assert solution.holds == solve(reading, chart, RATE)
    for at in range(len(solution.holds)):
        said = explain(solution, at)
        assert said.text
        assert all(other.drawing != solution.holds[at].drawing for other in said.others)

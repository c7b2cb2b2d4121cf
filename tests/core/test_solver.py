import itertools
from unittest import mock

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.strategies import charts, problems, readings
from tinfork.core.clock import FrameRate
from tinfork.core.errors import SolverError
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver import path as path_module
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.path import Trellis, find_path, resolve
from tinfork.core.solver.problem import Fixed, Problem
from tinfork.core.solver.solve import drawing_on, solve, solve_incrementally
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import CLOSURES, SOUNDS

RATE = FrameRate.parse("24")


def is_allowed(path, problem):
    """Whether pins stand, holds outside them last as long as they must, or as the room between pins, and begin on the
    grid, but where a pin begins or ends.
    """
    if any(len(set(path[p.start : p.end])) != 1 or path[p.start] not in p.allowed for p in problem.fixed):
        return False
    at = 0
    begins = {start for start, _, _ in problem.regions}
    for _, run in itertools.groupby(path):
        end = at + len(list(run))
        if at % problem.grid and at not in begins:
            return False
        if not any(p.start < end and at < p.end for p in problem.fixed):
            start, stop = next((a, b) for a, b, pin in problem.regions if a <= at < b)
            if end - at < min(problem.shortest, stop - start):
                return False
        at = end
    return True


def path_cost(problem, path):
    """What a sequence of drawings costs: each frame's, and every change."""
    shown = sum(int(problem.costs[frame, drawing]) for frame, drawing in enumerate(path))
    return shown + problem.change * sum(a != b for a, b in itertools.pairwise(path))


@settings(max_examples=400, deadline=None)
@given(problems())
def test_the_path_costs_what_the_best_of_all_paths_costs(problem):
    frames, drawings = problem.costs.shape
    found = find_path(problem)
    assert is_allowed(found.tolist(), problem)
    every = (p for p in itertools.product(range(drawings), repeat=frames) if is_allowed(p, problem))
    assert path_cost(problem, found) == min(path_cost(problem, path) for path in every)


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 2**32), st.integers(1, 4), st.booleans(), st.integers(1, 3))
def test_a_change_solved_from_where_it_is_gives_exactly_the_whole_solution(seed, shortest, moves_pin, grid):
    pick = np.random.default_rng(seed)
    frames, drawings = int(pick.integers(60, 300)), int(pick.integers(2, 6))
    costs = pick.integers(0, 40, (frames, drawings))
    pins = tuple(Fixed(a, a + 5, (0,)) for a in range(20, frames - 10, 60))
    old = Problem(costs, 15, shortest, pins, grid)
    trellis = Trellis(old)
    trellis.run()
    changed = costs.copy()
    at = int(pick.integers(0, frames - 8))
    changed[at : at + 8] = pick.integers(0, 40, (8, drawings))
    if moves_pin and pins:
        pins = (*pins[:-1], Fixed(pins[-1].start + 2, pins[-1].end + 3, (1, 0)))
    new = Problem(changed, 15, shortest, pins, grid)
    assert (resolve(trellis, new).path == find_path(new)).all()
    assert resolve(trellis, old) is trellis


@st.composite
def pinned_rows(draw, frames, drawings):
    """Pins in order that do not overlap; some touch, or leave less room than a hold needs."""
    out, at = [], 0
    while at < frames and draw(st.integers(0, 4)):
        start = at + draw(st.integers(0, 9))
        end = start + draw(st.integers(1, 6))
        if end > frames:
            break
        out.append(Fixed(start, end, tuple(sorted(draw(st.sets(st.integers(0, drawings - 1), min_size=1))))))
        at = end
    return out


@settings(max_examples=300, deadline=None)
@given(st.data(), st.integers(0, 2**32), st.integers(1, 5), st.integers(1, 3))
def test_pins_set_moved_and_let_go_are_solved_from_where_they_are(data, seed, shortest, grid):
    """However few frames are computed at once before it is looked whether all else is as it was."""
    pick = np.random.default_rng(seed)
    frames, drawings = int(pick.integers(12, 90)), int(pick.integers(2, 4))
    costs = pick.integers(0, 30, (frames, drawings))
    old, more = (data.draw(pinned_rows(frames, drawings)) for _ in range(2))
    # Some of the pins stay; new ones come where there is room.
    stay = [pin for pin in old if data.draw(st.booleans())]
    new = sorted(
        [*stay, *(p for p in more if not any(p.start < o.end and o.start < p.end for o in stay))], key=lambda p: p.start
    )
    before = Trellis(Problem(costs, 15, shortest, tuple(old), grid))
    before.run()
    problem = Problem(costs, 15, shortest, tuple(new), grid)
    at_once = data.draw(st.integers(1, 7))
    with mock.patch.object(path_module, "_FIRST_CHECK", at_once):
        after = resolve(before, problem)
    assert (after.path == find_path(problem)).all()


def test_a_pin_in_a_long_shot_costs_as_little_as_in_a_short_one():
    """What is computed anew ends soon after the pin, wherever the shot ends."""
    costs = np.random.default_rng(3).integers(0, 40, (60_000, 8))
    before = Trellis(Problem(costs, 15, 2))
    before.run()
    with mock.patch.object(Trellis, "_free", autospec=True, side_effect=Trellis._free) as computed:
        resolve(before, Problem(costs, 15, 2, (Fixed(900, 910, (3,)),)))
    assert sum(call.args[4] - call.args[3] for call in computed.call_args_list) < 1000


@settings(max_examples=60, deadline=None)
@given(readings(), charts(), st.integers(1, 4))
def test_on_a_grid_every_hold_begins_on_it_and_lips_that_must_meet_still_do(reading, chart, grid):
    solution = solve_incrementally(reading, chart, RATE, dials=Dials(grid=grid, shortest=1))
    assert all(hold.start % grid == 0 for hold in solution.holds)
    # What one frame of a hold must show, all of it shows, but where two of them want another drawing of it.
    shown = {f: h.drawing for h in solution.holds for f in range(h.start, h.end)}
    for frame, sound in solution.demand.closures:
        cell = range(frame // grid * grid, frame // grid * grid + grid)
        if not any(other in cell and other != frame for other, _ in solution.demand.closures):
            away = chart.distances[:, SOUNDS.index(sound)]
            fits = {d.number for d, far in zip(chart.speaking, away, strict=True) if far <= away.min()}
            assert shown[frame] in fits


@settings(max_examples=60, deadline=None)
@given(readings(), charts())
def test_holds_partition_the_frames_and_none_is_too_short(reading, chart):
    holds = solve(reading, chart, RATE)
    assert holds[0].start == 0
    assert holds[-1].end == RATE.frames_in(reading.duration_us)
    for hold, after in itertools.pairwise(holds):
        assert hold.end == after.start
        assert hold.drawing != after.drawing
    assert len(holds) == 1 or min(h.end - h.start for h in holds) >= Dials().shortest


@settings(max_examples=40, deadline=None)
@given(readings())
def test_the_same_reading_gives_the_same_holds(reading):
    assert solve(reading, STARTER, RATE) == solve(reading, STARTER, RATE)


@settings(max_examples=40, deadline=None)
@given(readings())
def test_more_detail_never_gives_fewer_holds(reading):
    counts = [len(solve(reading, STARTER, RATE, dials=Dials(detail=d))) for d in (0, 25, 50, 75, 100)]
    assert counts == sorted(counts)


def spoken(*sounds, lead_in_us=500_000, tail_us=500_000):
    """A reading of one word made of (ipa, frames at 24)."""
    at, phonemes = lead_in_us, []
    for ipa, frames in sounds:
        end = at + round(frames * 1_000_000 / 24)
        phonemes.append(Phoneme(ipa, at, end))
        at = end
    word = Word("word", lead_in_us, at, tuple(phonemes))
    return Reading(at + tail_us, (Line("", "word", "en-us", (word,)),))


@pytest.mark.parametrize("closure", ["p", "b", "m", "f", "v"])
def test_a_closure_of_one_frame_is_seen_and_takes_its_time_from_the_vowels(closure):
    reading = spoken(("ɑ", 6), (closure, 1), ("ɑ", 6))
    holds = solve(reading, STARTER, RATE)
    (shown,) = [h for h in holds if h.viseme in CLOSURES]
    assert shown.end - shown.start >= 2
    assert STARTER.drawing_for(reading.lines[0].words[0].phonemes[1].viseme).number == shown.drawing


def test_silence_rests_and_a_short_gap_does_not_snap_shut():
    first, second = Phoneme("ɑ", 500_000, 900_000), Phoneme("ɑ", 1_000_000, 1_400_000)
    words = (Word("a", 500_000, 900_000, (first,)), Word("a", 1_000_000, 1_400_000, (second,)))
    holds = solve(Reading(2_500_000, (Line("", "a a", "en-us", words),)), STARTER, RATE)
    assert [h.viseme for h in holds] == ["rest", "open", "rest"]


def test_the_mouth_leads_the_sound_by_the_dial():
    reading = spoken(("ɑ", 10))
    starts = {lead: solve(reading, STARTER, RATE, dials=Dials(lead=lead))[1].start for lead in (0, 1, 2)}
    assert starts == {0: 12, 1: 11, 2: 10}


def test_a_weak_consonant_in_a_fast_phrase_goes_before_a_vowel_does():
    holds = solve(spoken(("ɑ", 4), ("t", 1), ("ɑ", 4)), STARTER, RATE)
    assert [h.viseme for h in holds] == ["rest", "open", "rest"]


def test_only_the_named_speakers_lines_move_the_mouth():
    reading = spoken(("ɑ", 10))
    assert [h.viseme for h in solve(reading, STARTER, RATE, speaker="Brindle")] == ["rest"]


def test_the_hold_on_a_frame_is_found():
    holds = solve(spoken(("ɑ", 10)), STARTER, RATE)
    for hold in holds:
        assert {drawing_on(holds, f) for f in range(hold.start, hold.end)} == {hold}


def test_costs_must_be_whole_numbers():
    with pytest.raises(SolverError, match="whole numbers"):
        Problem(np.zeros((3, 2)), 1, 1)


@pytest.mark.parametrize(
    "dials", [{"lead": -1}, {"shortest": 0}, {"detail": 101}, {"strength": -1}, {"approach": 5}, {"gap_us": -1}]
)
def test_a_dial_outside_its_range_is_refused(dials):
    with pytest.raises(SolverError, match="out of range"):
        Dials(**dials)


@settings(max_examples=40, deadline=None)
@given(readings(), readings(), charts())
def test_an_edit_worked_out_from_what_was_before_is_the_whole_solution(reading, other, chart):
    before = solve_incrementally(reading, chart, RATE)
    for after in (reading, other):
        assert (
            solve_incrementally(after, chart, RATE, before=before).holds
            == solve_incrementally(after, chart, RATE).holds
        )


@given(st.integers(45_000, 200_000), st.integers(45_000, 200_000))
def test_before_the_first_word_and_after_the_last_the_mouth_rests_however_short_that_is(before_us, after_us):
    """Silences that would not close the mouth between two words: nobody stands there with an open mouth."""
    sounds = (Phoneme("ɑ", before_us, before_us + 400_000), Phoneme("æ", before_us + 480_000, before_us + 800_000))
    said = Word("a", before_us, before_us + 800_000, sounds)
    reading = Reading(before_us + 800_000 + after_us, (Line("1", "a", "en-us", (said,)),))
    dials = Dials(lead=0, shortest=1, approach=0, gap_us=220_000)
    holds = solve(reading, STARTER, RATE, speaker="1", dials=dials)
    frame_of = RATE.frame_at
    # Frames that lie wholly in the silence: the one in which a sound begins may show it.
    for frame in (
        *range(frame_of(before_us)),
        *range(frame_of(before_us + 800_000) + 1, RATE.frames_in(reading.duration_us)),
    ):
        assert drawing_on(holds, frame).viseme == "rest", frame
    assert all(
        drawing_on(holds, f).viseme != "rest" for f in range(frame_of(before_us) + 1, frame_of(before_us + 800_000))
    )

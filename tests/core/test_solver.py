import itertools

import numpy as np
import pytest
from hypothesis import given, settings

from tests.core.strategies import charts, problems, readings
from tinfork.core.clock import FrameRate
from tinfork.core.errors import SolverError
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.path import find_path, path_cost
from tinfork.core.solver.problem import Dials, Problem
from tinfork.core.solver.solve import drawing_on, solve
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import CLOSURES

RATE = FrameRate.parse("24")


def holds_long_enough(path, shortest):
    lengths = [len(list(run)) for _, run in itertools.groupby(path)]
    return len(lengths) == 1 or min(lengths) >= shortest


@settings(max_examples=200, deadline=None)
@given(problems())
def test_the_path_costs_what_the_best_of_all_paths_costs(problem):
    frames, drawings = problem.costs.shape
    found = find_path(problem)
    assert holds_long_enough(found, problem.shortest)
    every = (
        np.array(p) for p in itertools.product(range(drawings), repeat=frames) if holds_long_enough(p, problem.shortest)
    )
    assert path_cost(problem, found) == min(path_cost(problem, path) for path in every)


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
def test_a_higher_price_of_change_never_gives_more_holds(reading):
    counts = [len(solve(reading, STARTER, RATE, dials=Dials(change_cost=c))) for c in (0.0, 0.2, 1.0, 5.0)]
    assert counts == sorted(counts, reverse=True)


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


@pytest.mark.parametrize("dials", [{"lead": -1}, {"shortest": 0}, {"change_cost": -1.0}])
def test_a_dial_outside_its_range_is_refused(dials):
    with pytest.raises(SolverError, match="outside its range"):
        Dials(**dials)

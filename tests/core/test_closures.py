"""Closures and lead, as properties over any reading."""

import itertools

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.core.strategies import readings
from tinfork.core.clock import FrameRate
from tinfork.core.mouths.starter import STARTER
from tinfork.core.solver.costs import frame_demand
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.segments import segments_of, sounds_of
from tinfork.core.solver.solve import drawing_on, solve
from tinfork.core.speech.reading import Line, Phoneme, Reading, Word
from tinfork.core.speech.visemes import CLOSURES

RATES = [FrameRate.parse(name) for name in ("12", "23.976", "24", "25", "30", "60")]


def closure_frames(reading, rate, dials):
    parts = segments_of(sounds_of(reading), reading.duration_us, dials)
    return frame_demand(parts, rate, rate.frames_in(reading.duration_us), dials).closures


@settings(max_examples=80)
@given(readings(), st.sampled_from(RATES), st.integers(0, 3))
def test_every_closure_with_room_is_seen_at_its_middle(reading, rate, lead):
    dials = Dials(lead=lead)
    closures = closure_frames(reading, rate, dials)
    frames = [frame for frame, _ in closures]
    assume(all(b - a >= 2 * dials.shortest for a, b in itertools.pairwise(frames)))
    holds = solve(reading, STARTER, rate, dials=dials)
    assume(rate.frames_in(reading.duration_us) >= 2 * dials.shortest)
    assume(not frames or frames[0] >= dials.shortest)
    for frame, viseme in closures:
        assert drawing_on(holds, frame).drawing == STARTER.drawing_for(viseme).number


@settings(max_examples=60)
@given(readings(), st.integers(0, 2_000_000))
def test_silence_put_before_a_sound_moves_its_closures_by_as_much(reading, frames_us):
    rate, dials = FrameRate.parse("25"), Dials()
    shift = rate.first_us(rate.frame_at(frames_us))

    def moved(p):
        return Phoneme(p.ipa, p.start_us + shift, p.end_us + shift, p.confidence)

    lines = tuple(
        Line(line.speaker, line.text, line.language, tuple(
            Word(w.text, w.start_us + shift, w.end_us + shift, tuple(map(moved, w.phonemes)), w.confidence)
            for w in line.words
        ))
        for line in reading.lines
    )  # fmt: skip
    before = closure_frames(reading, rate, dials)
    after = closure_frames(Reading(reading.duration_us + shift, lines), rate, dials)
    by = shift * 25 // 1_000_000
    assume(all(frame > 0 for frame, _ in before))
    assert after == tuple((frame + by, sound) for frame, sound in before)


@given(readings())
def test_what_is_heard_covers_each_sound_once_and_in_order(reading):
    parts = segments_of(sounds_of(reading), reading.duration_us, Dials())
    assert all(a.end_us <= b.start_us for a, b in itertools.pairwise(parts))
    spoken = sum(p.end_us - p.start_us for p in reading.phonemes())
    assert sum(p.end_us - p.start_us for p in parts if p.viseme != "rest") == spoken
    assert {p.viseme for p in parts} & CLOSURES == {p.viseme for p in reading.phonemes()} & CLOSURES

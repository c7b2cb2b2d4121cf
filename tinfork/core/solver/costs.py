"""The cost of showing each drawing on each frame.

The mouth on frame f shows what is heard in `[t(f) + lead, t(f + 1) + lead)`:

    E(f, d) = sum over sounds p heard there: overlap(p, f) * salience(p) * distance(d, p)

in units of one frame of a wrong, unstressed vowel. If a chart has small and big drawings of a sound, a wrong size adds
`WRONG_SIZE` a step. The frame at the middle of a closure (p b m, f v) must show a drawing of its class: any other costs
`MISSED` there.

After an edit, the result is reused for all frames that the edit does not reach; it is the same as if computed anew.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tinfork.core.clock import FrameRate
from tinfork.core.mouths.chart import ANY, Chart
from tinfork.core.solver.dials import Dials
from tinfork.core.solver.problem import Problem
from tinfork.core.solver.segments import IS_CLOSURE, SOUND_AT, Ints, SoundSegments, approaches, want_of
from tinfork.core.speech.visemes import SOUNDS

#: Cost units in one frame of a wrong, unstressed vowel at distance 1.
UNIT = 10_000
#: More than leaving out a closure could save on any run of frames between two others.
MISSED = 1_000 * UNIT

#: The distance added by one step between small, any and big.
WRONG_SIZE = 0.12

#: Frames `[first, end)`.
Frames = tuple[int, int]


@dataclass(frozen=True, eq=False)
class Demand:
    """What the mouth should show on each frame, for `segments` at a `rate`; the mouth leads the sound by `lead` frames.

    `reaching` are the segments, and the stretches that approach wide mouths; `numbers` are their sounds and sizes, each
    as one number. `closure_frames` are the frames at the middles of closures, `closure_sounds` their indices in
    `SOUNDS`.
    """

    segments: SoundSegments
    reaching: SoundSegments
    rate: FrameRate
    frames: int
    lead: int
    numbers: Ints
    closure_frames: Ints
    closure_sounds: Ints

    @cached_property
    def wants(self) -> tuple[tuple[str, int], ...]:
        """The sounds and sizes that occur."""
        return tuple(want_of(number) for number in self.numbers.tolist())

    @cached_property
    def closures(self) -> tuple[tuple[int, str], ...]:
        """The frame at the middle of each closure, and its sound."""
        sounds = (SOUNDS[sound] for sound in self.closure_sounds.tolist())
        return tuple(zip(self.closure_frames.tolist(), sounds, strict=True))

    def weights(self, first: int = 0, end: int | None = None) -> NDArray[np.float64]:
        """The weight of each of `wants` on each frame `[first, end)`, shape (end - first, wants)."""
        end = self.frames if end is None else end
        # With a lead, the last frames are past all sound: they repeat the last frame with sound.
        tail = max(self.frames - self.lead, 1) if self.lead else self.frames
        until, start = min(end, tail), min(first, tail - 1)
        out = np.zeros((max(until - start, 0), len(self.numbers)))
        if len(out):
            self._spread(out, start)
        return out[np.minimum(np.arange(first, end), tail - 1) - start] if (first, end) != (start, until) else out

    def _spread(self, weights: NDArray[np.float64], first: int) -> None:
        """Add the weight of each segment to the frames on which it is heard, by the share of the frame that it fills.

        Row 0 is frame `first`.
        """
        edges = self.rate.starts_of(np.arange(first + self.lead, first + self.lead + len(weights) + 1))
        reaching = self.reaching.taken((self.reaching.ends_us > edges[0]) & (self.reaching.starts_us < edges[-1]))
        starts, ends = reaching.starts_us, reaching.ends_us
        since = np.maximum(np.searchsorted(edges, starts, side="right") - 1, 0)
        last = np.minimum(np.searchsorted(edges, ends - 1, side="right") - 1, len(weights) - 1)
        counts = np.maximum(last - since + 1, 0)
        of_segment = np.repeat(np.arange(len(reaching)), counts)
        rows = since[of_segment] + np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        from_us, to_us = edges[rows], edges[rows + 1]
        overlap = np.minimum(to_us, ends[of_segment]) - np.maximum(from_us, starts[of_segment])
        share = overlap / (to_us - from_us) * reaching.saliences[of_segment]
        columns = np.searchsorted(self.numbers, reaching.wants)
        np.add.at(weights, (rows, columns[of_segment]), share)


def frame_demand(segments: SoundSegments, rate: FrameRate, frames: int, dials: Dials) -> Demand:
    """The weight of each sound on each frame, and the closures."""
    reaching = segments.followed_by(approaches(segments, rate, dials.approach))
    closures = _closures(segments, rate, frames, dials.lead)
    # Counting finds the distinct numbers faster than sorting: they are few and small.
    numbers = np.flatnonzero(np.bincount(reaching.wants))
    return Demand(segments, reaching, rate, frames, dials.lead, numbers, *closures)


def frame_demand_after(before: Demand, segments: SoundSegments, dials: Dials) -> tuple[Demand, Frames | None]:
    """The same after an edit of the sounds, from the state `before` it with the same dials and number of frames.

    Also the frames whose weights may differ, or None.
    """
    demand = frame_demand(segments, before.rate, before.frames, dials)
    changed = _reached(before, demand)
    if changed is None:
        return before, None
    if not np.isin(demand.numbers, before.numbers).all():
        # The edit brought a sound that the shot did not have.
        return demand, (0, before.frames)
    return replace(demand, numbers=before.numbers), changed


def _reached(before: Demand, now: Demand) -> Frames | None:
    """The frames that changed segments reach."""
    spans = [
        span
        for span in (
            now.segments.differing_us(before.segments),
            now.reaching[len(now.segments) :].differing_us(before.reaching[len(before.segments) :]),
        )
        if span is not None
    ]
    frames, lead = now.frames, now.lead
    if not spans or not frames:
        return None
    first = now.rate.frame_at(min(start for start, _ in spans)) - lead
    last = now.rate.frame_at(max(end for _, end in spans)) - lead
    first, last = (min(max(frame, 0), frames - 1) for frame in (first, last))
    if last >= frames - 1 - lead:
        # The last frame with sound is repeated to the end.
        last = frames - 1
    return first, last + 1


def _closures(segments: SoundSegments, rate: FrameRate, frames: int, lead: int) -> tuple[Ints, Ints]:
    """The frames at the middles of closures, and their sounds."""
    ones = IS_CLOSURE[segments.sounds] & (frames > 0)
    middles = (segments.starts_us[ones] + segments.ends_us[ones]) // 2
    return np.clip(rate.frames_at(middles) - lead, 0, max(frames - 1, 0)), segments.sounds[ones]


def distances_to(wants: tuple[tuple[str, int], ...], chart: Chart) -> NDArray[np.float64]:
    """The distance of each speaking drawing from each wanted sound and size, shape (drawings, wants)."""
    columns = [SOUND_AT[sound] for sound, _ in wants]
    sizes = np.array([size for _, size in wants], dtype=np.int64)
    # The size counts only if a sound has drawings in sizes: other drawings are right for any size.
    steps = np.where(chart.sizes[:, None] == ANY, sizes[None, :] != ANY, np.abs(chart.sizes[:, None] - sizes[None, :]))
    away: NDArray[np.float64] = chart.distances[:, columns] + WRONG_SIZE * steps
    return away


def build_problem(demand: Demand, chart: Chart, dials: Dials) -> Problem:
    """The solver's problem: distances weighted by the sounds of each frame, with closures enforced."""
    costs = np.zeros((demand.frames, len(chart.speaking)), dtype=np.int64)
    _weigh(costs, demand, chart, (0, len(costs)))
    return Problem(costs, change=round(dials.change_cost * UNIT), shortest=dials.shortest, grid=dials.grid)


def build_problem_after(before: Problem, demand: Demand, chart: Chart, changed: Frames) -> Problem:
    """The same after an edit that changed the weights of some frames, from the problem `before` it."""
    costs = before.costs.copy()
    _weigh(costs, demand, chart, changed)
    return replace(before, costs=costs)


def _weigh(costs: NDArray[np.int64], demand: Demand, chart: Chart, within: Frames) -> None:
    """Set the costs of each drawing on frames `within`, in place."""
    first, end = within
    distances = distances_to(demand.wants, chart)
    costs[first:end] = np.rint(demand.weights(first, end) @ distances.T * UNIT).astype(np.int64)
    inside = (demand.closure_frames >= first) & (demand.closure_frames < end)
    for frame, sound in zip(demand.closure_frames[inside], demand.closure_sounds[inside], strict=True):
        fits = chart.distances[:, sound]
        costs[frame, fits > fits.min()] += MISSED

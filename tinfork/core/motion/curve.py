"""What a column of motion shows between its keys.

The same rule is in `static/js/lib/pose.js`; both are tested on `tests/golden/poses.json`. Curves are cubic Hermite
splines; the slope at a key of a smooth curve is that of the line between its neighbours (Catmull and Rom 1974), with
unequal distances; at the ends it is flat. Proposed keys do not count as neighbours of a person's keys: what a person
set moves the same, whatever is proposed beside it.
"""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from tinfork.core.motion.bend import NUMBERS, mixed
from tinfork.core.motion.pose import FIELDS, NEUTRAL, Pose

#: How the pose changes from a key to the next one.
WAYS = ("hold", "linear", "ease", "smooth")
#: The most frames for which a pose is held.
MOST_STEP = 24


@dataclass(frozen=True, slots=True)
class FrameKey:
    """A key on a frame: its pose, and how it changes to the next key (`WAYS`).

    Also for how many frames each pose is held (1: on ones), and whether a rule proposed it.
    """

    frame: int
    pose: Pose
    way: str = "ease"
    step: int = 1
    is_proposed: bool = False


def pose_on(keys: Sequence[FrameKey], frame: int) -> Pose:
    """The pose of a frame; `keys` are in order, at most one a frame. The first and the last hold to the ends."""
    if not keys:
        return NEUTRAL
    at = bisect_right(keys, frame, key=lambda key: key.frame) - 1
    if at < 0:
        return keys[0].pose
    here = keys[at]
    if at + 1 == len(keys) or here.way == "hold" or frame == here.frame:
        return here.pose
    there = keys[at + 1]
    gone = frame - here.frame
    share = (gone - gone % here.step) / (there.frame - here.frame)
    if here.way == "smooth":
        return _smooth(keys, at, share)
    if here.way == "ease":
        share = share * share * (3 - 2 * share)
    x, y, turn, stretch, lean, size = (
        a + (b - a) * share for a, b in zip(here.pose.values, there.pose.values, strict=True)
    )
    return Pose(x, y, turn, stretch, lean, size, mixed(here.pose.bend, there.pose.bend, share))


def moving_frames(keys: Sequence[FrameKey], frames: int) -> Iterator[int]:
    """The frames of a shot on which the pose differs from that of the frame before."""
    if not keys:
        return
    before = pose_on(keys, keys[0].frame)
    for frame in range(keys[0].frame + 1, min(keys[-1].frame + 1, frames)):
        pose = pose_on(keys, frame)
        if pose != before:
            yield frame
        before = pose


def retimed(keys: Sequence[FrameKey], times: Sequence[int]) -> tuple[FrameKey, ...]:
    """Holding keys for each visible change, if new frame n shows what frame `times[n]` did."""
    out: list[FrameKey] = []
    for frame, was in enumerate(times if keys else ()):
        pose = pose_on(keys, was)
        if not out or pose != out[-1].pose:
            out.append(FrameKey(frame, pose, "hold"))
    return tuple(out)


def _smooth(keys: Sequence[FrameKey], at: int, share: float) -> Pose:
    here, there = keys[at], keys[at + 1]
    frames = there.frame - here.frame
    square, cube = share * share, share * share * share
    around = [here, there, *_neighbours(keys, at), *_neighbours(keys, at + 1)]
    is_bent = any(key.pose.bend for key in around)
    length = len(FIELDS) + (NUMBERS if is_bent else 0)
    slopes = _slopes(keys, at, length), _slopes(keys, at + 1, length)
    values = [
        (2 * cube - 3 * square + 1) * a
        + (cube - 2 * square + share) * frames * slope
        + (3 * square - 2 * cube) * b
        + (cube - square) * frames * other
        for a, b, slope, other in zip(_long(here.pose, length), _long(there.pose, length), *slopes, strict=True)
    ]
    return Pose.clamped(dict(zip(FIELDS, values, strict=False)), values[len(FIELDS) :])


def _long(pose: Pose, length: int) -> list[float]:
    """A pose's numbers, filled up with zeros to a length: a pose without a bend has fewer."""
    numbers = pose.numbers
    return numbers + [0.0] * (length - len(numbers))


def _neighbours(keys: Sequence[FrameKey], at: int) -> tuple[FrameKey, FrameKey] | tuple[()]:
    """The keys that a key's slope is taken from; none where it is flat."""
    before = next((key for key in reversed(keys[:at]) if not key.is_proposed), None)
    after = next((key for key in keys[at + 1 :] if not key.is_proposed), None)
    return () if before is None or after is None or keys[at].is_proposed else (before, after)


def _slopes(keys: Sequence[FrameKey], at: int, length: int) -> tuple[float, ...]:
    """How fast each number changes at a key, per frame."""
    found = _neighbours(keys, at)
    if not found:
        return (0.0,) * length
    before, after = found
    frames = after.frame - before.frame
    return tuple((b - a) / frames for a, b in zip(_long(before.pose, length), _long(after.pose, length), strict=True))

"""Proposed movements, and how they become keys beside those that a person set."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from tinfork.core.motion.curve import FrameKey, pose_on
from tinfork.core.motion.pose import FIELDS, Pose

#: Changes of a pose on frames.
Steps = tuple[tuple[int, Mapping[str, float]], ...]
#: No proposal is made within this many frames of a person's key.
_NEAR = 4
#: The quoted word in a reason.
_WORD = re.compile("“(.*)”", re.DOTALL)


def said_reason(stored: str, gettext: Callable[[str], str]) -> str:
    """A stored reason, translated by `gettext`: its wording is looked up with a placeholder for the word in it."""
    found = _WORD.search(stored)
    if found is None:
        return gettext(stored) if stored else ""
    return gettext(stored.replace(found[0], "“{word}”", 1)).replace("{word}", found[1])


@dataclass(frozen=True)
class Gesture:
    """A proposed movement of one column: changes of its pose on frames, at rest at both ends; `why` in a few words.

    Keys are stored with their reason in English (`made_by`); `said_reason` translates it.
    """

    part: str
    why: str
    steps: Steps

    @property
    def start(self) -> int:
        """Its first frame."""
        return self.steps[0][0]

    @property
    def end(self) -> int:
        """Its last frame."""
        return self.steps[-1][0]


def scaled(gesture: Gesture, by: float) -> Gesture:
    """The gesture at a strength; a blink shuts the eye at any strength."""
    if by == 1 or gesture.why.startswith("blink"):
        return gesture
    steps = tuple((frame, {name: value * by for name, value in pose.items()}) for frame, pose in gesture.steps)
    return Gesture(gesture.part, gesture.why, steps)


def keys_of(gestures: Sequence[Gesture], by_hand: Sequence[FrameKey]) -> list[tuple[FrameKey, str]]:
    """The keys of the gestures of one column, with why each is there, on top of what a person set in it.

    Where several gestures overlap, their changes are added. A gesture near a person's key, or where a person's keys
    move the column, is left out.
    """
    free = [g for g in gestures if _is_free(g, by_hand)]
    frames: dict[int, str] = {}
    for gesture in free:
        for frame, _ in gesture.steps:
            frames.setdefault(frame, gesture.why)
    tracks = [[FrameKey(frame, Pose.clamped(pose), "ease") for frame, pose in g.steps] for g in free]
    out = []
    for frame in sorted(frames):
        base = pose_on(by_hand, frame)
        values = dict(zip(FIELDS, base.values, strict=True))
        for keys in tracks:
            if keys[0].frame <= frame <= keys[-1].frame:
                for name, value in zip(FIELDS, pose_on(keys, frame).values, strict=True):
                    values[name] += value
        # The pose stays where it came to rest, up to a person's next key.
        next_by_hand = next((key.frame for key in by_hand if key.frame > frame), None)
        is_last = next_by_hand is not None and not any(frame < other < next_by_hand for other in frames)
        rounded = {name: round(value, 2) for name, value in values.items()}
        out.append(
            (
                FrameKey(frame, Pose.clamped(rounded, base.bend), "hold" if is_last else "ease", is_proposed=True),
                frames[frame],
            )
        )
    return out


def _is_free(gesture: Gesture, by_hand: Sequence[FrameKey]) -> bool:
    first, end = gesture.start - _NEAR, gesture.end + _NEAR
    if any(first <= key.frame <= end for key in by_hand):
        return False
    before = max((key.frame for key in by_hand if key.frame < first), default=first)
    after = min((key.frame for key in by_hand if key.frame > end), default=end)
    # A person's keys do not move the column between the key before and the one after.
    return len({pose_on(by_hand, frame) for frame in range(before, after)}) == 1

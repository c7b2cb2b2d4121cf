"""Keys of motion: setting, removing, moving, stretching and copying them. Frames count from 0."""

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from tinfork.core.clock import FrameRate
from tinfork.core.errors import TimingError
from tinfork.core.motion.curve import FrameKey
from tinfork.core.motion.gestures import Gesture, keys_of
from tinfork.core.motion.pose import Pose
from tinfork.core.soundtrack.model import MotionKey, PassNote, Soundtrack, key_order

#: Columns of motion besides those of other parts: the whole character, what is on the face picture, the mouth.
HEAD, FACE, MOUTH = "head", "face", "mouth"


@dataclass(frozen=True, slots=True)
class MotionColumn:
    """A column of motion: the character, and which part of it moves."""

    character: str
    part: str


def key_frame(key: MotionKey, rate: FrameRate) -> int:
    """The frame of a key."""
    return rate.nearest_span(key.at_us, key.at_us)[0]


def column_keys(st: Soundtrack, column: MotionColumn) -> tuple[MotionKey, ...]:
    """The keys of a column, in order."""
    return tuple(k for k in st.keys if (k.character, k.part) == (column.character, column.part))


def frame_keys(keys: Iterable[MotionKey], rate: FrameRate) -> tuple[FrameKey, ...]:
    """Keys of one column on frames; if several are on one frame, as at a lower rate, the last counts."""
    by_frame = {key_frame(key, rate): key for key in keys}
    return tuple(FrameKey(frame, k.pose, k.way, k.step, bool(k.made_by)) for frame, k in sorted(by_frame.items()))


def with_keys(st: Soundtrack, column: MotionColumn, keys: Iterable[MotionKey]) -> Soundtrack:
    """Replace the keys of a column; of several at one time the last counts."""
    others = [k for k in st.keys if (k.character, k.part) != (column.character, column.part)]
    own = {k.at_us: k for k in keys}
    return replace(st, keys=tuple(sorted([*others, *own.values()], key=key_order)))


def set_key(
    st: Soundtrack, column: MotionColumn, rate: FrameRate, frame: int, pose: Pose, *, way: str = "", step: int = 0
) -> Soundtrack:
    """Set a key on a frame.

    Without a way and a step it keeps those of the key that was there, else of the key before it.
    """
    _inside(st, rate, frame)
    _check_bend(column, [pose])
    own = column_keys(st, column)
    here = next((k for k in own if key_frame(k, rate) == frame), None)
    like = here or next((k for k in reversed(own) if key_frame(k, rate) < frame), None)
    key = MotionKey(
        column.character,
        column.part,
        rate.first_us(frame),
        pose,
        way or (like.way if like else "ease"),
        step or (like.step if like else 1),
    )
    return with_keys(st, column, [*(k for k in own if k is not here), key])


def remove_keys(st: Soundtrack, column: MotionColumn, rate: FrameRate, first: int, end: int) -> Soundtrack:
    """Remove a column's keys on frames `[first, end)`.

    Raises
    ------
    TimingError
        Where there is none.
    """
    own = column_keys(st, column)
    left = [k for k in own if not first <= key_frame(k, rate) < end]
    if len(left) == len(own):
        raise TimingError("keys.none_here")
    return with_keys(st, column, left)


def move_keys(st: Soundtrack, column: MotionColumn, rate: FrameRate, first: int, end: int, by: int) -> Soundtrack:
    """Shift the keys of frames `[first, end)` by frames; they replace keys on their new frames."""
    return _moved(st, column, rate, first, end, lambda frame: frame + by)


def spread_keys(st: Soundtrack, column: MotionColumn, rate: FrameRate, first: int, last: int, to: int) -> Soundtrack:
    """Stretch the keys from one frame to another in time: the last one moves to frame `to`.

    Raises
    ------
    TimingError
        Where the frames would not follow each other.
    """
    if last <= first or to <= first:
        raise TimingError("keys.spread")
    return _moved(
        st, column, rate, first, last + 1, lambda frame: first + round((frame - first) * (to - first) / (last - first))
    )


def change_way(
    st: Soundtrack, column: MotionColumn, rate: FrameRate, first: int, end: int, *, way: str = "", step: int = 0
) -> Soundtrack:
    """Change how the keys of frames `[first, end)` lead to the next ones.

    Raises
    ------
    TimingError
        Where no key would change.
    """
    own = column_keys(st, column)
    out = [
        replace(k, way=way or k.way, step=step or k.step, made_by="") if first <= key_frame(k, rate) < end else k
        for k in own
    ]
    if out == list(own):
        raise TimingError("keys.none_to_change")
    return with_keys(st, column, out)


def paste_keys(st: Soundtrack, column: MotionColumn, rate: FrameRate, at: int, keys: Sequence[FrameKey]) -> Soundtrack:
    """Paste copied keys from a frame on; their frames count from the first of them.

    They replace all keys between them. Keys past the end of the shot are left out.

    Raises
    ------
    TimingError
        For frames outside the shot.
    """
    _check_bend(column, [key.pose for key in keys])
    frames = rate.frames_in(st.duration_us)
    new = [
        MotionKey(column.character, column.part, rate.first_us(at + k.frame), k.pose, k.way, k.step)
        for k in keys
        if at + k.frame < frames
    ]
    if not new:
        raise TimingError("edit.frames_of_shot", frames=frames)
    end = at + max(k.frame for k in keys)
    own = [k for k in column_keys(st, column) if not at <= key_frame(k, rate) <= end]
    return with_keys(st, column, [*own, *new])


def _check_bend(column: MotionColumn, poses: Iterable[Pose]) -> None:
    if column.part in (HEAD, FACE) and any(pose.bend for pose in poses):
        raise TimingError("keys.whole_head")


def put_back(
    st: Soundtrack, column: MotionColumn, rate: FrameRate, first: int, end: int, keys: Iterable[tuple[FrameKey, str]]
) -> Soundtrack:
    """Restore the keys that a column had on frames `[first, end)`, with the rules that proposed them; others stay."""
    own = [k for k in column_keys(st, column) if not first <= key_frame(k, rate) < end]
    before = [
        MotionKey(column.character, column.part, rate.first_us(k.frame), k.pose, k.way, k.step, why)
        for k, why in keys
        if first <= k.frame < min(end, rate.frames_in(st.duration_us))
    ]
    return with_keys(st, column, [*own, *before])


def perform(
    st: Soundtrack, character: str, rate: FrameRate, gestures: Sequence[Gesture], *, locked: Collection[str] = ()
) -> Soundtrack:
    """Replace a character's earlier proposals by these gestures.

    Keys set by hand stay, and locked parts do not change.
    """
    own = {k.part for k in st.keys if k.character == character}
    for part in sorted((own | {g.part for g in gestures}) - set(locked)):
        column = MotionColumn(character, part)
        by_hand = [k for k in column_keys(st, column) if not k.made_by]
        new = keys_of([g for g in gestures if g.part == part], frame_keys(by_hand, rate))
        made = [MotionKey(character, part, rate.first_us(k.frame), k.pose, k.way, k.step, why) for k, why in new]
        st = with_keys(st, column, [*made, *by_hand])
    return st


def write_pass_note(st: Soundtrack, column: MotionColumn, text: str) -> Soundtrack:
    """Write the note about a column; an empty text removes it."""
    others = [n for n in st.pass_notes if (n.character, n.part) != (column.character, column.part)]
    new = [PassNote(column.character, column.part, text)] if text else []
    return replace(st, pass_notes=tuple(sorted([*others, *new], key=lambda n: (n.character, n.part))))


def _moved(
    st: Soundtrack, column: MotionColumn, rate: FrameRate, first: int, end: int, to: Callable[[int], int]
) -> Soundtrack:
    own = column_keys(st, column)
    moved, stay = [], []
    for key in own:
        frame = key_frame(key, rate)
        if first <= frame < end:
            new = to(frame)
            _inside(st, rate, new)
            moved.append(replace(key, at_us=rate.first_us(new), made_by=""))
        else:
            stay.append(key)
    if not moved:
        raise TimingError("keys.none_here")
    return with_keys(st, column, [*stay, *moved])


def _inside(st: Soundtrack, rate: FrameRate, frame: int) -> None:
    frames = rate.frames_in(st.duration_us)
    if not 0 <= frame < frames:
        raise TimingError("edit.frames_of_shot", frames=frames)

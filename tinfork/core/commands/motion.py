"""Edits of keys of motion. A column is a `speaker` and a `part`: "head", "face", "mouth", or another part's key."""

from dataclasses import replace
from typing import Annotated, Literal

from msgspec import Meta

from tinfork.core.commands.declared import (
    MOST_FRAMES,
    Command,
    DrawingNumber,
    EditContext,
    Frame,
    FrameShift,
    Key,
    Micros,
    Parameters,
    Speaker,
    Speed,
    one_line,
    span_of,
)
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.motion.acting import KINDS, propose
from tinfork.core.motion.bend import MOST, NUMBERS, Bend, bend_of, folds
from tinfork.core.motion.curve import MOST_STEP, FrameKey
from tinfork.core.motion.faces import FaceTrack
from tinfork.core.motion.following import SHOWN, FaceColumns, Follow, path_after, shown_after
from tinfork.core.motion.performing import Sample, blended, path_of, reduced
from tinfork.core.motion.pose import LIMITS, Pose
from tinfork.core.soundtrack import keys, pinning
from tinfork.core.soundtrack.keys import FACE, HEAD, MOUTH, MotionColumn
from tinfork.core.soundtrack.model import MAX_NOTE_CHARACTERS, PinnedMouth, Soundtrack

MAX_PASTED = 5_000
MAX_PERFORMED = 20_000
PartName = Annotated[str, Meta(max_length=20, pattern=r"^(head|face|mouth|-\d+)$")]
Way = Literal["hold", "linear", "ease", "smooth"]
#: For how many frames each pose is held: 1 on ones, 2 on twos.
Step = Annotated[int, Meta(ge=1, le=MOST_STEP)]
Across = Annotated[float, Meta(ge=LIMITS["x"][0], le=LIMITS["x"][1])]
Turn = Annotated[float, Meta(ge=LIMITS["turn"][0], le=LIMITS["turn"][1])]
Stretch = Annotated[float, Meta(ge=LIMITS["stretch"][0], le=LIMITS["stretch"][1])]
Lean = Annotated[float, Meta(ge=LIMITS["lean"][0], le=LIMITS["lean"][1])]
Size = Annotated[float, Meta(ge=LIMITS["size"][0], le=LIMITS["size"][1])]


#: How far the nine points of the cage are pulled (see `motion.bend`); empty for a drawing that is not bent.
Pulls = Annotated[list[Annotated[float, Meta(ge=-MOST, le=MOST)]], Meta(max_length=NUMBERS)]


def _bend(pulls: list[float]) -> Bend:
    if len(pulls) not in (0, NUMBERS):
        raise FormatError("motion.bend_numbers", numbers=NUMBERS)
    bend = bend_of(pulls)
    if folds(bend):
        raise TimingError("motion.bent_too_far")
    return bend


class Posed(Parameters, frozen=True, kw_only=True):
    """Parameters that hold a pose; a number that is left out is 0."""

    x: Across = 0.0
    y: Across = 0.0
    turn: Turn = 0.0
    stretch: Stretch = 0.0
    lean: Lean = 0.0
    size: Size = 0.0
    bend: Pulls = []

    @property
    def pose(self) -> Pose:
        """The pose.

        Raises
        ------
        TimingError
            For a bend that folds.
        """
        return Pose(self.x, self.y, self.turn, self.stretch, self.lean, self.size, _bend(self.bend))


class OfColumn(Command, frozen=True):
    """An edit of one column of motion."""

    speaker: Speaker
    part: PartName

    def column(self, context: EditContext) -> MotionColumn:
        """The column.

        Raises
        ------
        TimingError
            For one that is not in the shot.
        """
        if self.part not in (HEAD, FACE, MOUTH) and self.part not in context.speakers:
            raise TimingError("motion.no_such_part")
        return MotionColumn(context.speaker(self.speaker), self.part)


class KeySet(OfColumn, frozen=True):
    """Set a key on a frame. A key that is there keeps its `way` and `step` unless others are given."""

    frame: Frame
    x: Across = 0.0
    y: Across = 0.0
    turn: Turn = 0.0
    stretch: Stretch = 0.0
    lean: Lean = 0.0
    size: Size = 0.0
    bend: Pulls = []
    way: Way | None = None
    step: Step | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column = self.column(context)
        pose = Pose(self.x, self.y, self.turn, self.stretch, self.lean, self.size, _bend(self.bend))
        return keys.set_key(st, column, context.rate, self.frame, pose, way=self.way or "", step=self.step or 0)


class KeyRemove(OfColumn, frozen=True):
    """Remove the keys of some frames."""

    first: Frame
    last: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return keys.remove_keys(st, self.column(context), context.rate, *span_of(self.first, self.last))


class KeyMove(OfColumn, frozen=True):
    """Move the keys of some frames by so many frames."""

    first: Frame
    last: Frame
    by: FrameShift

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        span = span_of(self.first, self.last)
        return keys.move_keys(st, self.column(context), context.rate, *span, self.by)


class KeySpread(OfColumn, frozen=True):
    """Stretch or squeeze the keys from one frame to another in time: the last key moves to frame `to`."""

    first: Frame
    last: Frame
    to: Frame

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return keys.spread_keys(st, self.column(context), context.rate, self.first, self.last, self.to)


class KeyWay(OfColumn, frozen=True):
    """Change how the keys of some frames lead to the next ones (`way`), and for how many frames each pose is held."""

    first: Frame
    last: Frame
    way: Way | None = None
    step: Step | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        span = span_of(self.first, self.last)
        how = {"way": self.way or "", "step": self.step or 0}
        return keys.change_way(st, self.column(context), context.rate, *span, **how)  # type: ignore[arg-type]


class CopiedKey(Posed, frozen=True, kw_only=True):
    """A copied key; its frame counts from the first copied key."""

    frame: Annotated[int, Meta(ge=0, le=MOST_FRAMES)]
    way: Way = "ease"
    step: Step = 1


class KeyPaste(OfColumn, frozen=True):
    """Paste copied keys, starting on a frame."""

    at: Frame
    keys: Annotated[list[CopiedKey], Meta(min_length=1, max_length=MAX_PASTED)]

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        copied = [FrameKey(key.frame, key.pose, key.way, key.step) for key in self.keys]
        return keys.paste_keys(st, self.column(context), context.rate, self.at, copied)


class PerformedPose(Posed, frozen=True, kw_only=True):
    """Where the hand was at a time of the sound."""

    at_us: Micros


class KeyBefore(CopiedKey, frozen=True, kw_only=True):
    """A key as it was before a performance, with the rule that proposed it. Its frame counts from the start."""

    by: Annotated[str, Meta(max_length=80)] = ""


class Replaced(Parameters, frozen=True):
    """The frames that earlier takes of a performance covered, and the keys that were there before them."""

    first: Frame
    last: Frame
    keys: Annotated[list[KeyBefore], Meta(max_length=MAX_PASTED)]


class KeyPerform(OfColumn, frozen=True):
    """Set keys from a performance with the pointer during playback; they replace the keys of that time.

    `blend` is the share of the performance in the result, in hundredths; the rest is what was there before. `over` says
    what was there before, if this take replaces earlier ones.
    """

    path: Annotated[list[PerformedPose], Meta(min_length=2, max_length=MAX_PERFORMED)]
    speed: Speed = 1.0
    blend: Annotated[int, Meta(ge=0, le=100)] = 100
    over: Replaced | None = None

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        column, rate = self.column(context), context.rate
        samples = [Sample(one.at_us, one.pose) for one in self.path]
        first, path = path_of(samples, rate, rate.frames_in(st.duration_us), self.speed)
        if not len(path):
            raise TimingError("motion.performance_outside")
        if self.over:
            span = span_of(self.over.first, self.over.last)
            before = [(FrameKey(k.frame, k.pose, k.way, k.step), k.by) for k in self.over.keys]
            st = keys.put_back(st, column, rate, *span, before)
        was = keys.frame_keys(keys.column_keys(st, column), rate)
        mixed = blended(first, path, was, self.blend / 100)
        found = [replace(key, frame=key.frame - first) for key in reduced(first, mixed)]
        return keys.paste_keys(st, column, rate, first, found)


class Act(Command, frozen=True):
    """Propose a character's acting anew, replacing earlier proposals; keys that a person set stay.

    `kinds` is how often each kind of acting occurs, 0 to 100; `strength` is how large the movements are, 100 as usual;
    `locked` parts are not changed.
    """

    speaker: Speaker
    kinds: Annotated[dict[str, Annotated[int, Meta(ge=0, le=100)]], Meta(max_length=20)]
    strength: Annotated[int, Meta(ge=0, le=300)] = 100
    seed: Annotated[int, Meta(ge=0, le=1_000_000)] = 1
    locked: Annotated[list[PartName], Meta(max_length=40)] = []

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        unknown = [kind for kind in self.kinds if kind not in KINDS]
        if unknown:
            raise FormatError("motion.no_such_acting", unknown=unknown[0][:40])
        who = context.speaker(self.speaker)
        if context.stage is None:
            raise TimingError("motion.nothing_to_act_to")
        gestures = propose(context.stage(who), self.kinds, self.strength, self.seed)
        return keys.perform(st, who, context.rate, gestures, locked=self.locked)


class FollowingColumn(Parameters, frozen=True):
    """A column that follows a face: how strongly, in hundredths; how many frames later.

    A drawing that is shown while its lids are shut, or its brows up, in place of moving it.
    """

    part: PartName
    strength: Annotated[int, Meta(ge=-300, le=300)] = 100
    later: Annotated[int, Meta(ge=-48, le=48)] = 0
    drawing: DrawingNumber | None = None


class FollowFilm(Command, frozen=True):
    """Set the keys of some columns of a character from what the face in the film `film` does; other columns stay.

    The keys replace what these columns had while the film lasts; `mirrored` swaps left and right.
    """

    speaker: Speaker
    film: Key
    columns: Annotated[list[FollowingColumn], Meta(min_length=1, max_length=40)]
    mirrored: bool = False

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        who, film = context.speaker(self.speaker), context.film(self.film)
        face = context.face(who) if context.face else FaceColumns({})
        for wanted in self.columns:
            if wanted.part not in face.kinds:
                raise TimingError("motion.cannot_follow")
            follow = Follow(
                face.kinds[wanted.part],
                context.rate,
                context.rate.frames_in(st.duration_us),
                film.begins_us,
                wanted.strength / 100,
                wanted.later,
                self.mirrored != face.is_mirrored,
            )
            if wanted.drawing is None:
                st = _follow(st, MotionColumn(who, wanted.part), film.track, follow)
            else:
                st = _show(st, wanted.part, wanted.drawing, film.track, follow)
        return st


def _follow(st: Soundtrack, column: MotionColumn, track: FaceTrack, follow: Follow) -> Soundtrack:
    first, path = path_after(track, follow)
    if not len(path):
        raise TimingError("motion.film_outside")
    found = [replace(key, frame=key.frame - first) for key in reduced(first, path)]
    return keys.paste_keys(st, column, follow.rate, first, found)


def _show(st: Soundtrack, part: str, drawing: int, track: FaceTrack, follow: Follow) -> Soundtrack:
    shown = shown_after(track, follow)
    if follow.kind not in SHOWN:
        raise TimingError("motion.only_eyes_and_brows")
    for first, end in shown:
        mouth = PinnedMouth(part, drawing)
        st = pinning.pin_mouth(st, follow.rate.first_us(first), follow.rate.first_us(end), mouth)
    return st


class PassNote(OfColumn, frozen=True):
    """Write a note about a pass, that is all keys of a column; an empty text removes it."""

    text: Annotated[str, Meta(max_length=MAX_NOTE_CHARACTERS)]

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        return keys.write_pass_note(st, self.column(context), one_line(self.text))


MOTION: dict[str, type[Command]] = {
    "key_set": KeySet,
    "key_remove": KeyRemove,
    "key_move": KeyMove,
    "key_spread": KeySpread,
    "key_way": KeyWay,
    "key_paste": KeyPaste,
    "key_perform": KeyPerform,
    "act": Act,
    "follow_film": FollowFilm,
    "pass_note": PassNote,
}

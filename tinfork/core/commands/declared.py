"""The declaration of edit commands: their parameters, with types and limits.

The checks, the schema in `docs/formats/`, its table and the page's types follow from it.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, TypeVar

import msgspec
from msgspec import Meta, inspect

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError, TimingError
from tinfork.core.messages import Message, joined
from tinfork.core.motion.faces import FaceTrack
from tinfork.core.motion.following import FaceColumns
from tinfork.core.motion.stage import Stage
from tinfork.core.mouths.chart import Chart
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.soundtrack.model import LONGEST_US, MOST_NUMBERS, Soundtrack
from tinfork.core.speech.reading import Reading

#: The highest frame number: a little more than two hours at 120 frames a second.
MOST_FRAMES = 1_000_000

#: A frame of the shot, counted from 0.
Frame = Annotated[int, Meta(ge=0, le=MOST_FRAMES)]
#: A count of frames.
Frames = Annotated[int, Meta(ge=1, le=MOST_FRAMES)]
#: A count of frames, either way.
FrameShift = Annotated[int, Meta(ge=-MOST_FRAMES, le=MOST_FRAMES)]
#: A time of the shot, in microseconds.
Micros = Annotated[int, Meta(ge=0, le=LONGEST_US)]
#: A length of time, either way, in microseconds.
MicrosShift = Annotated[int, Meta(ge=-LONGEST_US, le=LONGEST_US)]
#: The lasting number of a clip, a track, a word, a sound.
Number = Annotated[int, Meta(ge=1, le=MOST_NUMBERS)]
#: The lasting number of a turn; one that only its lines give has the number of the first of them, below 0.
TurnNumber = Annotated[int, Meta(ge=-MOST_NUMBERS, le=MOST_NUMBERS)]
#: The primary key of a database row, up to the largest integer that JavaScript holds exactly (2^53).
Key = Annotated[int, Meta(ge=1, le=2**53 - 1)]
#: The number of a drawing, -1 for no mouth.
DrawingNumber = Annotated[int, Meta(ge=NO_MOUTH, le=1_000_000)]
#: A name that must not be empty.
Name = Annotated[str, Meta(max_length=80, pattern=r"\S")]
#: The name of a set of drawings, empty for the first.
SetName = Annotated[str, Meta(max_length=80)]
#: A character of the shot, or another part of a face, by its number as text.
Speaker = Annotated[str, Meta(max_length=20)]
#: The playback speed while something was performed, 1 as usual.
Speed = Annotated[float, Meta(ge=0.1, le=4)]


@dataclass(frozen=True)
class TakeInfo:
    """What a command needs to know about a take that it places."""

    length_us: int
    reading: Reading | None = None
    #: Where speech begins in it, for a take without words.
    voice_from_us: int = 0


@dataclass(frozen=True)
class FollowedFilm:
    """A reference film of a shot: the measured face, and the time in the shot at which the film begins."""

    track: FaceTrack
    begins_us: int = 0


@dataclass(frozen=True)
class EditContext:
    """What commands need to know besides the soundtrack that they change."""

    rate: FrameRate
    takes: Mapping[int, TakeInfo]
    speakers: frozenset[str]
    #: The mouths that each character shows now, and its charts by the name of the set ("" for the first).
    holds: Callable[[str], tuple[Hold, ...]] = lambda _: ()
    charts: Callable[[str], Mapping[str, Chart]] = lambda _: {}
    #: The phonemes of a written word in a language, with the production's own pronunciations; raises `WordsError` for
    #: what is not a word.
    sounds: Callable[[str, str], tuple[str, ...]] = lambda text, language: ()
    #: What proposals of acting for a character are worked out from.
    stage: Callable[[str], Stage] | None = None
    #: The columns of a character that can follow a face, and the films in which a face was followed, by their keys.
    face: Callable[[str], FaceColumns] | None = None
    films: Mapping[int, FollowedFilm] = field(default_factory=dict)

    def speaker(self, speaker: str) -> str:
        """A character of this shot.

        Raises
        ------
        TimingError
            For anyone else.
        """
        if speaker not in self.speakers:
            raise TimingError("edit.no_such_character")
        return speaker

    def film(self, number: int) -> FollowedFilm:
        """A film in which a face was followed.

        Raises
        ------
        TimingError
            For any other.
        """
        if number not in self.films:
            raise TimingError("edit.no_such_film")
        return self.films[number]

    def take(self, number: int) -> TakeInfo:
        """A take that can be placed.

        Raises
        ------
        TimingError
            For one that cannot.
        """
        if number not in self.takes:
            raise TimingError("edit.no_such_take")
        return self.takes[number]


class Parameters(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Named values with types and limits, as sent by a page."""


class Command(Parameters, frozen=True):
    """An edit of a shot's soundtrack: words, mouths, notes, clips, turns."""

    #: Whether it needs the takes of all clips.
    NEEDS_TAKES = False

    def apply(self, st: Soundtrack, context: EditContext) -> Soundtrack:
        """Apply the edit to a soundtrack.

        Raises
        ------
        TimingError
            For what cannot be.
        FormatError
            For what cannot be.
        """
        raise NotImplementedError


class SettingsCommand(Parameters, frozen=True):
    """An edit of a shot's settings: sets, dials, layout, second looks. The application applies it."""


class FrameSpan(Command, frozen=True):
    """A stretch of frames of one character, from `first` to `last`."""

    speaker: Speaker
    first: Frame
    last: Frame


def span_of(first: int, last: int) -> tuple[int, int]:
    """Frames `[first, end)` from the first and the last frame.

    Raises
    ------
    FormatError
        Where they are the wrong way round.
    """
    if last < first:
        raise FormatError("edit.span_reversed")
    return first, last + 1


def one_line(text: str) -> str:
    """A text on one line, with single spaces."""
    return " ".join(text.split())


_P = TypeVar("_P", bound=Parameters)


def parse_parameters(kind: type[_P], values: Mapping[str, Any]) -> _P:
    """Parameters from plain values.

    Raises
    ------
    FormatError
        , which names the one that is missing or wrong.
    """
    try:
        return msgspec.convert(dict(values), kind)
    except msgspec.ValidationError as error:
        raise FormatError(_what_is_wrong(kind, str(error))) from error


def _what_is_wrong(kind: type[Parameters], message: str) -> Message:
    """The error of the validation library, worded for whoever sent the values."""
    unknown = re.search(r"unknown field `(.*?)`", message)
    if unknown:
        return Message("edit.unknown_value", name=unknown[1][:40])
    missing = re.search(r"required field `(\w+)`", message)
    path = re.search(r"`\$(?:\.(\w+))?", message)
    # An error in a row of a list names the list, or the field inside the row if it has a name.
    inner = re.search(r"\.(\w+)`", message)
    name = missing[1] if missing else inner[1] if inner else path[1] if path and path[1] else ""
    wanted = dict(_fields(inspect.type_info(kind))).get(name)
    return Message("edit.wrong_value", name=name, kind=describe(wanted)) if wanted else Message("edit.incomplete")


def _fields(kind: inspect.Type) -> Iterator[tuple[str, inspect.Type]]:
    if isinstance(kind, inspect.StructType):
        for field in kind.fields:
            yield from _fields(field.type)
            yield field.encode_name, field.type
    elif isinstance(kind, inspect.ListType):
        yield from _fields(kind.item_type)
    elif isinstance(kind, inspect.UnionType):
        for one in kind.types:
            yield from _fields(one)


def describe(kind: inspect.Type) -> str:
    """A type of value in words: “a whole number from 0 to 12”.

    Raises
    ------
    AssertionError
        For a kind that has no words: a new one needs some.
    """
    match kind:
        case inspect.UnionType(types=types):
            return joined([describe(one) for one in types if not isinstance(one, inspect.NoneType)], " / ")
        case inspect.IntType(ge=None):
            return Message("kind.whole")
        case inspect.IntType(ge=low, le=high):
            return Message("kind.whole_between", low=low, high=high)
        case inspect.FloatType(ge=low, le=high):
            return Message("kind.number_between", low=low, high=high)
        case inspect.StrType(max_length=most):
            return Message("kind.text", most=most)
        case inspect.LiteralType(values=values):
            return Message("kind.choice", names=", ".join(map(str, values)))
        case inspect.BoolType():
            return Message("kind.flag")
        case inspect.ListType(max_length=most):
            return Message("kind.list", most=most)
        case inspect.DictType(max_length=most, value_type=value):
            return Message("kind.by_name", most=most, kind=describe(value))
        case inspect.StructType():
            return Message("kind.values")
    raise AssertionError(f"No words for {kind}.")

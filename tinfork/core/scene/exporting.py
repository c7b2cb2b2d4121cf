"""Exporters: the name of each, what it is for, its options, and the function that writes it.

An exporter is a module with an `EXPORTER`; `engines/handover/table.py` lists them all, and the page, the command line,
the API and the documentation read that table.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import Enum
from typing import IO, Any

from tinfork.core.errors import FormatError
from tinfork.core.messages import Message
from tinfork.core.scene.scene import Scene

#: Called with the progress, from 0 to 1; it may raise `Cancelled`.
Progress = Callable[[float], None]
Values = Mapping[str, Any]


class Purpose(Enum):
    """What people want an export for, in the order of the page."""

    SHOW = "Show it"
    ANIMATE = "Animate with it"
    PRINT = "Print it"
    SHOOT = "Shoot with it"
    RIG = "Rig it"
    ARCHIVE = "Archive it"


@dataclass(frozen=True, slots=True)
class Option:
    """An option of an exporter.

    Its kind follows from the default: one of `choices` (value and label), a number from `low` to `high`, yes or no, or
    a text. A default of None is a number that may be left out.
    """

    name: str
    label: str
    default: str | int | float | bool | None
    choices: tuple[tuple[str, str], ...] = ()
    low: float = 0
    high: float = 0
    hint: str = ""

    @property
    def kind(self) -> str:
        """The kind of control: "choice", "flag", "number" or "text"."""
        if self.choices:
            return "choice"
        if isinstance(self.default, bool):
            return "flag"
        return "text" if isinstance(self.default, str) else "number"

    def read(self, value: object) -> str | int | float | bool | None:
        """The value of a text that was typed or sent.

        Raises
        ------
        FormatError
            For what cannot be chosen.
        """
        if self.kind == "choice":
            if str(value) not in dict(self.choices):
                raise FormatError("option.choice", name=self.name, names=", ".join((key for key, _ in self.choices)))
            return str(value)
        if self.kind == "flag":
            text = str(value).strip().lower()
            if text not in ("1", "0", "yes", "no", "true", "false", "on", ""):
                raise FormatError("option.yes_or_no", name=self.name)
            return text in ("1", "yes", "true", "on")
        if self.kind == "text":
            text = str(value).strip()
            if len(text) > max(self.high, 1) or not text.isprintable():
                raise FormatError("option.text", name=self.name, high=self.high)
            return text
        return self._number(str(value).strip())

    def _number(self, text: str) -> int | float | None:
        if not text and self.default is None:
            return None
        try:
            number = float(text) if isinstance(self.default, float) else int(text)
        except ValueError:
            number = float("nan")
        if not self.low <= number <= self.high:
            raise FormatError("option.number", name=self.name, low=self.low, high=self.high)
        return number


@dataclass(frozen=True)
class Exporter:
    """An exporter.

    `write(scene, values, out, progress)` writes a file to `out`, which must be seekable. `suffix` is that of the file.
    With `takes_long`, pages run it as a job.
    """

    kind: str
    name: str
    purpose: Purpose
    suffix: str
    media_type: str
    write: Callable[[Scene, Values, IO[bytes], Progress], None]
    options: tuple[Option, ...] = ()
    hint: str = ""
    takes_long: bool = False
    suffixes: Mapping[str, tuple[str, str]] | None = None
    suffix_option: str = ""

    def chosen(self, given: Mapping[str, object]) -> dict[str, Any]:
        """A value for each option: the given one, else the default.

        Raises
        ------
        FormatError
            For what is none.
        """
        known = {option.name: option for option in self.options}
        for name in given:
            if name not in known:
                can = Message("option.known", names=", ".join(known)) if known else Message("option.none")
                raise FormatError("option.unknown", kind=self.kind, name=name, can=can)
        return {name: option.read(given[name]) if name in given else option.default for name, option in known.items()}

    def file_type(self, values: Values) -> tuple[str, str]:
        """The suffix and the media type of what is written: one of the options may decide."""
        if self.suffixes is None:
            return self.suffix, self.media_type
        return self.suffixes.get(str(values[self.suffix_option]), (self.suffix, self.media_type))


def of_bytes(make: Callable[[Scene, Values], bytes]) -> Callable[[Scene, Values, IO[bytes], Progress], None]:
    """A `write` function for a file that is made in memory."""

    def write(scene: Scene, values: Values, out: IO[bytes], progress: Progress) -> None:
        out.write(make(scene, values))

    return write

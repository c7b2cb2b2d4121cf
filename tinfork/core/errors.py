"""Everything the core and the engines may raise on purpose.

    TinForkError
    ├── FormatError          bytes that are not what they should be
    ├── TimingError          a time or frame outside its range
    ├── ChartError           a chart that cannot serve
    ├── SolverError          a problem with no solution
    ├── SoundError           a sound that cannot be used
    ├── WordsError           words that cannot be used
    ├── EngineError          an outside program failed or is missing
    └── Cancelled            the person asked to stop

Each carries one sentence in the user's words: what happened, to what, and what to do.
"""

from typing import Any

from tinfork.core.messages import Message


class TinForkError(Exception):
    """The root; `str(error)` is fit to show to a person: a code of `core/wording.py` with its values, or a text."""

    code = "error"

    def __init__(self, message: str, /, **values: Any) -> None:
        self.message = message if isinstance(message, Message) else Message(message, **values)
        super().__init__(self.message)

    def __reduce__(self) -> tuple[Any, ...]:
        return type(self), (self.message,)


class FormatError(TinForkError):
    """A file or value that is not in the format it claims to be."""

    code = "format"


class TimingError(TinForkError):
    """A time, frame or rate outside what the clock can express."""

    code = "timing"


class ChartError(TinForkError):
    """A mouth chart that cannot show what it is asked to."""

    code = "chart"


class SolverError(TinForkError):
    """A frame problem whose parts contradict each other."""

    code = "solver"


class SoundError(TinForkError):
    """A sound that is empty, cut, silent, too long or not a sound."""

    code = "sound"


class WordsError(TinForkError):
    """Words that are missing, too many, or cannot be spoken."""

    code = "words"


class EngineError(TinForkError):
    """An outside program that is missing or failed for reasons of its own."""

    code = "engine"


class Cancelled(TinForkError):  # noqa: N818
    """Raised by a progress callback when the person cancelled."""

    code = "cancelled"

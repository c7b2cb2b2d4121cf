"""Messages to people: a code and named values. Their English stands in `core/wording.py`, and nowhere else.

A message is text, so that it can be compared, stored and logged as what it says in English. `str(message)` says it in
the language that `speak` was given last: an application with translations gives its own gettext.
"""

from collections.abc import Callable, Sequence
from typing import Any, Self

from tinfork.core.wording import WORDING, Plural

#: gettext: a text in the user's language; ngettext: the text for one, for many, and the count.
Gettext = Callable[[str], str]
Ngettext = Callable[[str, str, int], str]


class _Language:
    """The functions that translate; until `speak` is called, texts stay in English."""

    gettext: Gettext = staticmethod(lambda text: text)
    ngettext: Ngettext = staticmethod(lambda one, many, count: one if count == 1 else many)


def speak(gettext: Gettext, ngettext: Ngettext) -> None:
    """Translate messages with these functions from now on."""
    _Language.gettext = staticmethod(gettext)
    _Language.ngettext = staticmethod(ngettext)


class Message(str):
    """A message by its code, with the values that its text names.

    A text that is not a code is its own wording, and `many` its plural: the application's own messages. Which of two
    forms is used follows from the value `count`.
    """

    code: str
    many: str
    values: dict[str, Any]
    __slots__ = ("code", "many", "values")

    def __new__(cls, code: str, /, *, many: str = "", **values: Any) -> Self:
        """A message with its values.

        Raises
        ------
        KeyError
            Where its text names one that is not given.
        """
        wording = _wording(code, many)
        text = (wording.one if values["count"] == 1 else wording.many) if isinstance(wording, Plural) else wording
        message = super().__new__(cls, text.format(**values) if values else text)
        message.code, message.many, message.values = code, many, values
        return message

    def __str__(self) -> str:
        wording = _wording(self.code, self.many)
        if isinstance(wording, Plural):
            text = _Language.ngettext(wording.one, wording.many, self.values["count"])
        else:
            text = _Language.gettext(wording)
        return text.format(**self.values) if self.values else text

    def __format__(self, spec: str) -> str:
        return format(str(self), spec)

    def __reduce__(self) -> tuple[Any, ...]:
        return _message, (self.code, self.many, self.values)

    def to_dict(self) -> dict[str, Any]:
        """As plain values, to be stored."""
        values = {name: value.to_dict() if isinstance(value, Message) else value for name, value in self.values.items()}
        return {"code": self.code, "values": values, **({"many": self.many} if self.many else {})}

    @classmethod
    def from_dict(cls, stored: Any) -> str:
        """A stored message, or a plain text stored before messages had codes."""
        if isinstance(stored, str):
            return stored
        values = {name: cls.from_dict(v) if isinstance(v, dict) else v for name, v in stored["values"].items()}
        return cls(stored["code"], many=stored.get("many", ""), **values)


def _wording(code: str, many: str) -> str | Plural:
    return Plural(code, many) if many else WORDING.get(code, code)


def _message(code: str, many: str, values: dict[str, Any]) -> Message:
    return Message(code, many=many, **values)


def joined(parts: Sequence[str], between: str = " ") -> str:
    """Several messages joined into one; plain text is not translated."""
    template = between.join(f"{{part{number}}}" for number in range(len(parts)))
    return Message(template, **{f"part{number}": part for number, part in enumerate(parts)}) if parts else ""

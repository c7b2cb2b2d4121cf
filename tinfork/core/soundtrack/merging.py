"""Whether two edits of one soundtrack conflict.

Then the second one, made on an older state, cannot be applied after the first.

What an edit touched follows from the parts of the document that it changed (`to_patch`).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from tinfork.core.clock import us_from_seconds

#: Later than all times.
_ALWAYS = 2**62


@dataclass(frozen=True, slots=True)
class Touch:
    """Something that an edit changed, between two times or at all times.

    Between two times: pins of a character, keys of a column of motion (`who` has the character and the part), stretches
    of a set or notes (the shot's time), a voice's words (its take's time), or the clips. At all times: the note about a
    column of motion, a character's dials, its place in the picture, the background, the boil of lines, or a dismissed
    look.
    """

    what: str
    who: str = ""
    start_us: int = 0
    end_us: int = _ALWAYS


#: Clips, tracks and length: everything depends on them.
SOUND = "sound"


def touched(before: Mapping[str, Any], after: Mapping[str, Any]) -> frozenset[Touch]:
    """The differences between two states of the changed parts."""
    out: set[Touch] = set()
    for part in before.keys() | after.keys():
        old: Any = before.get(part) or []
        new: Any = after.get(part) or []
        if part == "pins":
            out |= {_pin(pin) for pin in _apart(old, new)}
        elif part == "notes":
            out |= {Touch("note", "", at, at + 1) for at, *_ in _apart(old, new)}
        elif part == "keys":
            out |= {Touch("keys", f"{who} {of}", at, at + 1) for who, of, at, *_ in _apart(old, new)}
        elif part == "pass_notes":
            out |= {Touch("pass_note", f"{who} {of}") for who, of, _ in _apart(old, new)}
        elif part == "stretches":
            out |= {Touch("set", str(chart), start, end) for _, chart, start, end in _apart(old, new)}
        elif part.startswith(("dials ", "stand ", "settled ")):
            what, _, who = part.partition(" ")
            out.add(Touch(what, who))
        elif part in ("ground", "boil"):
            out.add(Touch(part))
        elif part.startswith("lines "):
            out |= _words(f"voice {part.removeprefix('lines ')}", old, new)
        elif part.startswith("voice ") and old and new and old["take"] == new["take"]:
            out |= _words(part, old["reading"], new["reading"])
        else:
            out.add(Touch(SOUND))
    return frozenset(out)


def meeting(one: Iterable[Touch], other: Iterable[Touch]) -> Touch | None:
    """Something that both edits touched, or None."""
    return next((b for a in one for b in other if _meet(a, b)), None)


def _meet(a: Touch, b: Touch) -> bool:
    if SOUND in (a.what, b.what):
        return True
    return (a.what, a.who) == (b.what, b.who) and a.start_us < b.end_us and b.start_us < a.end_us


def _apart(old: list[Any], new: list[Any]) -> list[Any]:
    return [row for row in old if row not in new] + [row for row in new if row not in old]


def _pin(pin: list[Any]) -> Touch:
    _, start, end, *mouth = pin
    return Touch("pins", mouth[0]["character"] if mouth else "", start, end)


#: Properties of the lines alone.
_LINES = ("lines", "at")


def _words(voice: str, old: dict[str, Any], new: dict[str, Any]) -> set[Touch]:
    if {k: v for k, v in old.items() if k not in _LINES} != {k: v for k, v in new.items() if k not in _LINES}:
        return {Touch(voice)}
    before, after = ([word for line in reading["lines"] for word in line["words"]] for reading in (old, new))
    different = _apart(before, after)
    spans = {(us_from_seconds(word["start"]), us_from_seconds(word["end"])) for word in different}
    return {Touch(voice, "", *span) for span in spans} or {Touch(voice)}

"""Mouths pinned by hand: spans in the shot's time. Pins of one character do not overlap."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from tinfork.core.errors import TimingError
from tinfork.core.soundtrack.model import Pin, PinnedMouth, Soundtrack

MAX_PINS = 20_000


def mouth_pins(st: Soundtrack, character: str | None = None) -> tuple[Pin, ...]:
    """The pins of a soundtrack, or of one character, in time order."""
    own = [p for p in st.pins if p.mouth and character in (None, p.mouth.character)]
    return tuple(sorted(own, key=_place))


def pin_mouth(st: Soundtrack, start_us: int, end_us: int, mouth: PinnedMouth) -> Soundtrack:
    """Pin a mouth on a stretch, replacing whatever was pinned there for the same character."""
    _check(st, start_us, end_us)
    return _put(st, Pin(_next_key(st), start_us, end_us, mouth), st.pins)


def unpin(st: Soundtrack, key: int) -> Soundtrack:
    """Remove a pin: the frames it covered are solved again."""
    pin = _find(st, key)
    return replace(st, pins=tuple(p for p in st.pins if p is not pin))


def clear(st: Soundtrack, character: str, start_us: int, end_us: int) -> Soundtrack:
    """Remove a character's pins in a stretch; the parts of pins outside it stay."""
    return replace(st, pins=tuple(sorted(_outside(st, character, start_us, end_us), key=_place)))


def move_pins(st: Soundtrack, spans: Mapping[int, tuple[int, int]]) -> Soundtrack:
    """Move pins, given by their keys, to other times.

    They keep their keys, and other pins of the same character give way.

    A pin without a new time is removed.
    """
    moved = [
        replace(p, start_us=spans[p.key][0], end_us=spans[p.key][1]) for p in st.pins if p.key in spans and p.mouth
    ]
    out = replace(st, pins=tuple(p for p in st.pins if not (p.mouth and p.key in spans)))
    for pin in moved:
        if pin.start_us < pin.end_us:
            out = _put(out, pin, out.pins)
    return out


def pin_row(st: Soundtrack, character: str, row: Sequence[tuple[int, int, PinnedMouth]]) -> Soundtrack:
    """Pin several mouths at once, `(start, end, mouth)`; if two overlap, the later one counts."""
    for start_us, end_us, mouth in row:
        st = pin_mouth(st, start_us, end_us, replace(mouth, character=character))
    return st


def _place(pin: Pin) -> tuple[int, int]:
    return pin.start_us, pin.key


def _find(st: Soundtrack, key: int) -> Pin:
    found = next((p for p in st.pins if p.key == key and p.mouth), None)
    if found is None:
        raise TimingError("pin.removed")
    return found


def _check(st: Soundtrack, start_us: int, end_us: int) -> None:
    if not 0 <= start_us < end_us <= max(st.duration_us, 1) + 1_000_000:
        raise TimingError("pin.outside")
    if len(st.pins) >= MAX_PINS:
        raise TimingError("shot.most_pins", max_pins=MAX_PINS)


def _next_key(st: Soundtrack) -> int:
    """A key below all others: keys above 0 are the caller's."""
    return min((p.key for p in st.pins), default=0) - 1 if any(p.key < 0 for p in st.pins) else -1


def _put(st: Soundtrack, pin: Pin, others: tuple[Pin, ...]) -> Soundtrack:
    assert pin.mouth is not None
    rest = replace(st, pins=others)
    fresh = min(_next_key(st), pin.key) - 1
    kept = _outside(rest, pin.mouth.character, pin.start_us, pin.end_us, fresh)
    return replace(st, pins=tuple(sorted([*kept, pin], key=_place)))


def _outside(st: Soundtrack, character: str, start_us: int, end_us: int, fresh: int | None = None) -> list[Pin]:
    """All pins, with those of a character cut so that none is in a stretch; new keys count down from `fresh`."""
    fresh = _next_key(st) if fresh is None else fresh
    out: list[Pin] = []
    for pin in st.pins:
        is_away = pin.end_us <= start_us or end_us <= pin.start_us
        if is_away or not pin.mouth or pin.mouth.character != character:
            out.append(pin)
            continue
        sides = [(pin.start_us, min(pin.end_us, start_us)), (max(pin.start_us, end_us), pin.end_us)]
        for nth, (a, b) in enumerate((a, b) for a, b in sides if a < b):
            out.append(replace(pin, key=pin.key if nth == 0 else fresh, start_us=a, end_us=b))
            fresh -= nth
    return out

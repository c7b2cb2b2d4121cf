"""Mouths fixed by hand: spans with two ends, kept in the shot's time. A character's pins do not overlap."""

from dataclasses import replace

from tinfork.core.errors import TimingError
from tinfork.core.soundtrack.model import Pin, PinnedMouth, Soundtrack

MAX_PINS = 20_000


def mouth_pins(st: Soundtrack, character: str | None = None) -> tuple[Pin, ...]:
    """The pinned mouths of a soundtrack, or of one character, in time order."""
    own = [p for p in st.pins if p.mouth and character in (None, p.mouth.character)]
    return tuple(sorted(own, key=lambda p: (p.start_us, p.key)))


def pin_mouth(st: Soundtrack, start_us: int, end_us: int, mouth: PinnedMouth) -> Soundtrack:
    """A mouth fixed on a stretch, over whatever was pinned there for the same character."""
    _check(st, start_us, end_us)
    return _put(st, Pin(_next_key(st), start_us, end_us, mouth), st.pins)


def trim_pin(st: Soundtrack, key: int, start_us: int, end_us: int) -> Soundtrack:
    """A pin from one time to another; pins of the same character in its way give way."""
    _check(st, start_us, end_us)
    pin = _find(st, key)
    others = tuple(p for p in st.pins if p.key != key)
    return _put(st, replace(pin, start_us=start_us, end_us=end_us), others)


def unpin(st: Soundtrack, key: int) -> Soundtrack:
    """Without a pin: what it covered is solved again."""
    pin = _find(st, key)
    return replace(st, pins=tuple(p for p in st.pins if p is not pin))


def _find(st: Soundtrack, key: int) -> Pin:
    found = next((p for p in st.pins if p.key == key and p.mouth), None)
    if found is None:
        raise TimingError("That pin is not there any more.")
    return found


def _check(st: Soundtrack, start_us: int, end_us: int) -> None:
    if not 0 <= start_us < end_us <= max(st.duration_us, 1) + 1_000_000:
        raise TimingError("A pin lies in the shot and lasts a frame at least.")
    if len(st.pins) >= MAX_PINS:
        raise TimingError(f"A shot has up to {MAX_PINS:,} pins.")


def _next_key(st: Soundtrack) -> int:
    """Below all others: keys above 0 are the caller's."""
    return min((p.key for p in st.pins), default=0) - 1 if any(p.key < 0 for p in st.pins) else -1


def _put(st: Soundtrack, pin: Pin, others: tuple[Pin, ...]) -> Soundtrack:
    assert pin.mouth is not None
    out: list[Pin] = []
    fresh = min(_next_key(st), pin.key) - 1
    for other in others:
        if not other.mouth or other.mouth.character != pin.mouth.character:
            out.append(other)
            continue
        sides = [(other.start_us, min(other.end_us, pin.start_us)), (max(other.start_us, pin.end_us), other.end_us)]
        kept = [(a, b) for a, b in sides if a < b]
        for nth, (a, b) in enumerate(kept):
            out.append(replace(other, key=other.key if nth == 0 else fresh, start_us=a, end_us=b))
            fresh -= nth
    return replace(st, pins=tuple(sorted([*out, pin], key=lambda p: (p.start_us, p.key))))

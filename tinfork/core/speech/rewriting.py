"""Updating the written text of a shot when words of its reading were changed."""

from collections.abc import Sequence
from difflib import SequenceMatcher

from tinfork.core.speech.reading import Line


def follow(written: str, old: Sequence[Line], new: Sequence[Line], names: dict[str, str]) -> str:
    """Apply the changes from the old lines of a reading to the new ones to the written lines.

    `names` are the speakers' names by key, for new lines. A written line that does not match the old reading stays.
    """
    rows = written.splitlines()
    at = -1
    for kind, a, b, c, d in _differences([line.text for line in old], [line.text for line in new]):
        for number in range(max(b - a, d - c)):
            was = old[a + number] if a + number < b else None
            now = new[c + number] if c + number < d else None
            found = _row(rows, was.text, at + 1) if was and was.text else None
            if kind == "equal":
                at = at if found is None else found
            elif was and now and found is not None:
                rows[found] = rows[found].replace(was.text, now.text)
                at = found
            elif was and not now and found is not None:
                del rows[found]
                at = found - 1
            elif now and not was:
                name = names.get(now.speaker)
                is_named = name and any(row.lstrip().casefold().startswith(f"{name.casefold()}:") for row in rows)
                rows.insert(at + 1, f"{name}: {now.text}" if is_named else now.text)
                at += 1
    return "\n".join(rows)


def _differences(old: list[str], new: list[str]) -> list[tuple[str, int, int, int, int]]:
    """The changes from one sequence of texts to another, as opcodes of `SequenceMatcher`.

    Only the part between the first and the last difference is matched, since matching is slow.
    """
    pairs = zip(old, new, strict=False)
    first = next((at for at, (a, b) in enumerate(pairs) if a != b), min(len(old), len(new)))
    most = min(len(old), len(new)) - first
    same = next((at for at in range(most) if old[-1 - at] != new[-1 - at]), most)
    between = SequenceMatcher(a=old[first : len(old) - same], b=new[first : len(new) - same], autojunk=False)
    moved = [(kind, a + first, b + first, c + first, d + first) for kind, a, b, c, d in between.get_opcodes()]
    ends = [("equal", 0, first, 0, first), ("equal", len(old) - same, len(old), len(new) - same, len(new))]
    return [ends[0], *moved, ends[1]]


def _row(rows: list[str], text: str, start: int) -> int | None:
    return next((at for at in range(start, len(rows)) if text in rows[at]), None)

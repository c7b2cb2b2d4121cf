"""The words of a shot as they are written, following words that were changed in its reading."""

from collections.abc import Sequence
from difflib import SequenceMatcher

from tinfork.core.speech.reading import Line


def follow(written: str, old: Sequence[Line], new: Sequence[Line], names: dict[str, str]) -> str:
    """The written lines with what changed from the old lines of a reading to the new ones.

    `names` are the speakers' names by key, for a line that is new. A line that is not found as it was stays.
    """
    rows = written.splitlines()
    texts = [[line.text for line in lines] for lines in (old, new)]
    at = -1
    for kind, a, b, c, d in SequenceMatcher(a=texts[0], b=texts[1], autojunk=False).get_opcodes():
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


def _row(rows: list[str], text: str, start: int) -> int | None:
    return next((at for at in range(start, len(rows)) if text in rows[at]), None)

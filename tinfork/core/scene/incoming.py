"""What is imported from a file into a shot: words, mouths and notes, and what could not be imported.

Times are microseconds of the shot, frames count from 0.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError
from tinfork.core.messages import Message
from tinfork.core.solver.numbers import differing
from tinfork.core.solver.problem import NO_MOUTH, Hold
from tinfork.core.solver.solve import drawing_on

#: The most that is imported from one file.
MOST_ROWS = 400_000
MOST_WORDS = 20_000
#: What a sheet has in a cell in which nothing begins, and in one without a mouth.
_STEM, _NONE = ("", "│", "|"), ("×", "x", "–", "-")


@dataclass(frozen=True, slots=True)
class ComingWord:
    """A word of a speaker with its times; `sounds` are (IPA, start, end).

    If `is_rough`, its times are estimated from those of its line.
    """

    speaker: str
    text: str
    start_us: int
    end_us: int
    sounds: tuple[tuple[str, int, int], ...] = ()
    is_rough: bool = False


@dataclass(frozen=True)
class Incoming:
    """The contents of a file.

    Words in order, holds by character and part ("" the mouth), notes by frame, and what is `lost`, each in a sentence.
    """

    words: tuple[ComingWord, ...] = ()
    holds: Mapping[tuple[str, str], tuple[Hold, ...]] = field(default_factory=dict)
    notes: Mapping[int, str] | None = None
    lost: tuple[str, ...] = ()


@dataclass(frozen=True)
class IncomingMouths:
    """A column before the import: its holds, and its drawings (set, number) by number, name and key."""

    holds: tuple[Hold, ...]
    called: Mapping[str, tuple[tuple[str, int], ...]]

    def find(self, text: str, frame: int) -> tuple[str, int]:
        """The drawing that a cell names, preferably of the set that is shown there.

        Raises
        ------
        FormatError
        """
        found = self.called.get(text.strip().casefold())
        if not found:
            raise FormatError("import.no_such_drawing", text=text.strip()[:40])
        now = drawing_on(self.holds, frame).set if self.holds else ""
        return next((key for key in found if key[0] == now), found[0])


@dataclass(frozen=True)
class ImportContext:
    """The shot that a file is imported into: its columns by character and part ("" the mouth), characters in order."""

    rate: FrameRate
    frames: int
    first_frame: int
    columns: Mapping[tuple[str, str], IncomingMouths]
    #: The character of a file that names nobody.
    character: str

    @property
    def characters(self) -> list[str]:
        """The characters in the shot."""
        return [name for name, part in self.columns if not part]

    def speaker(self, name: str) -> str | None:
        """The character of a name in a file; no name means the chosen character. None for an unknown name."""
        wanted = name.strip().casefold()
        if not wanted:
            return self.character
        return next((each for each in self.characters if each.casefold() == wanted), None)


def from_rows(rows: Sequence[Sequence[str]], about: ImportContext) -> Incoming:
    """Import a sheet as a table, as exported by us and edited elsewhere.

    The sheet is of one character (a row per frame or hold), or of all.

    Raises
    ------
    FormatError
        For what is none and names the row.
    """
    heads = [cell.strip().casefold() for cell in rows[0]] if rows else []
    if len(rows) > MOST_ROWS or "frame" not in heads:
        raise FormatError("import.no_frame_column")
    at = heads.index("frame")
    body = [(number, row) for number, row in enumerate(rows[1:], start=2) if any(cell.strip() for cell in row)]
    frames = [_frame(row, at, number, about) for number, row in body]
    if any(b <= a for a, b in pairwise(frames)):
        raise FormatError("import.frames_out_of_order")
    holds: dict[tuple[str, str], tuple[Hold, ...]] = {}
    notes = None
    lost: list[str] = []
    for column, head in enumerate(heads):
        cells = [(number, row[column] if column < len(row) else "") for number, row in body]
        if head in ("note", "notes"):
            notes = {
                frame: " ".join(text.split()) for frame, (_, text) in zip(frames, cells, strict=True) if text.strip()
            }
        elif key := _column_of(head, about):
            holds[key] = _held(cells, frames, about, about.columns[key], is_whole=head == "drawing")
        elif head not in _KNOWN and not head.endswith((" words", " sounds")):
            lost.append(Message("import.lost_column", name=rows[0][column].strip()[:40]))
    lost.append(Message("import.lost_words"))
    return Incoming(holds=holds, notes=notes, lost=tuple(lost))


_KNOWN = ("", "frame", "timecode", "feet", "frames", "drawing", "set", "viseme", "word", "phoneme", "words", "sounds")


def _frame(row: Sequence[str], at: int, number: int, about: ImportContext) -> int:
    text = row[at].strip() if at < len(row) else ""
    if not re.fullmatch(r"\d{1,9}(\.0*)?", text):
        raise FormatError("import.not_a_frame", number=number, text=text[:20])
    frame = int(text.partition(".")[0]) - about.first_frame
    if not 0 <= frame < about.frames:
        last = about.first_frame + about.frames - 1
        raise FormatError("import.frame_outside", number=number, first_frame=about.first_frame, last=last, text=text)
    return frame


def _column_of(head: str, about: ImportContext) -> tuple[str, str] | None:
    """The column that a heading names: "drawing" and "mouth" are the chosen character's mouth."""
    if head in ("drawing", "mouth"):
        return about.character, ""
    for name, part in about.columns:
        own = part.casefold() or "mouth"
        is_mine = name == about.character or len(about.characters) == 1
        if head == f"{name} {own}".casefold() or (part and is_mine and head == own):
            return name, part
    return None


def _held(
    cells: list[tuple[int, str]], frames: list[int], about: ImportContext, shown: IncomingMouths, *, is_whole: bool
) -> tuple[Hold, ...]:
    """The holds of a column: each cell with a drawing begins one; in a sheet of one character every cell has a drawing.

    Raises
    ------
    FormatError
        For a cell that names no drawing; it names the row.
    """
    out: list[Hold] = []
    for (number, text), frame in zip(cells, frames, strict=True):
        text = text.strip().removesuffix(".0")
        if text.casefold() in _NONE or (is_whole and not text):
            key = ("", NO_MOUTH)
        elif text in _STEM:
            continue
        else:
            try:
                key = shown.find(text, frame)
            except FormatError as error:
                raise FormatError("import.row", number=number, error=error) from None
        if out:
            out[-1] = Hold(out[-1].start, frame, out[-1].drawing, "rest", out[-1].set)
        if out and (out[-1].set, out[-1].drawing) == key:
            out[-1] = Hold(out[-1].start, frame + 1, key[1], "rest", key[0])
        else:
            out.append(Hold(frame, frame + 1, key[1], "rest", key[0]))
    if out:
        out[-1] = Hold(out[-1].start, about.frames, out[-1].drawing, "rest", out[-1].set)
    return tuple(out)


def differing_holds(now: Sequence[Hold], coming: Sequence[Hold]) -> list[Hold]:
    """The stretches in which the file has another drawing than the shot now."""
    out: list[Hold] = []
    for first, last in differing(now, coming):
        for hold in coming:
            start, end = max(hold.start, first), min(hold.end, last)
            if start < end:
                out.append(Hold(start, end, hold.drawing, hold.viseme, hold.set))
    return out


def words_of_cue(speaker: str, text: str, start_us: int, end_us: int) -> list[ComingWord]:
    """The words of a line whose own times are known: they share its time by their numbers of letters."""
    parts = text.split()
    letters = sum(len(part) for part in parts)
    out, at = [], start_us
    for part in parts:
        end = at + (end_us - start_us) * len(part) // max(1, letters)
        out.append(ComingWord(speaker, part, at, max(at + 1, end), is_rough=True))
        at = end
    return out


def named_cue(text: str, about: ImportContext) -> tuple[str | None, str]:
    """The speaker and the words of a line like “ODALYS: Sit down.”; without a name, the chosen character."""
    head, colon, rest = text.partition(":")
    if colon and (found := about.speaker(head)) and head.strip():
        return found, rest.strip()
    return about.character, text


def checked(words: Iterable[ComingWord], about: ImportContext) -> tuple[ComingWord, ...]:
    """The words inside the shot, in order.

    Raises
    ------
    FormatError
        For too many, or times that are none.
    """
    end = about.rate.first_us(about.frames)
    kept = sorted((w for w in words if w.start_us < end), key=lambda w: (w.start_us, w.end_us))
    if len(kept) > MOST_WORDS:
        raise FormatError("import.too_many_words", most_words=MOST_WORDS)
    if any(w.start_us < 0 or w.end_us <= w.start_us for w in kept):
        raise FormatError("import.word_reversed")
    return tuple(kept)

"""The exposure sheet of all characters: a row per frame, with the columns that tables, spreadsheets and paper share."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import groupby

from tinfork.core.clock import feet_and_frames, timecode
from tinfork.core.motion.pose import in_words
from tinfork.core.scene.choices import shown_as
from tinfork.core.scene.scene import Column, Figure, Scene
from tinfork.core.solver.problem import NO_MOUTH, Hold


@dataclass(frozen=True, slots=True)
class Cell:
    """A stretch of frames `[start, end)` of a column, and its text."""

    start: int
    end: int
    text: str
    hold: Hold | None = None


@dataclass(frozen=True, slots=True)
class GridColumn:
    """A column: its heading, its character (None for all), its cells in order; `column` if it shows drawings."""

    heading: str
    figure: Figure | None
    cells: tuple[Cell, ...]
    column: Column | None = None


def grid_columns(scene: Scene, drawings: str = "number", *, moves: bool = False) -> list[GridColumn]:
    """Words, sounds and drawings of each character, and the notes; drawings are named as `shown_as` says.

    With `moves`, keys of motion too. A part with one drawing has no column, since nothing is exchanged.
    """
    out: list[GridColumn] = []
    for figure in scene.figures:
        name = figure.name if len(scene.figures) > 1 else ""
        out.append(GridColumn(f"{name} words".strip(), figure, _words(scene, figure)))
        out.append(GridColumn(f"{name} sounds".strip(), figure, _sounds(scene, figure)))
        for column in figure.columns:
            if not column.is_mouth and len(column.sprites) < 2:
                continue
            call = shown_as(column, drawings)
            cells = tuple(
                Cell(hold.start, hold.end, "×" if hold.drawing == NO_MOUTH else str(call(hold)), hold)
                for hold in column.holds
            )
            heading = "mouth" if column.is_mouth else column.name.lower()
            out.append(GridColumn(f"{name} {heading}".strip(), figure, cells, column))
        for part, keys in figure.motions.items() if moves else ():
            cells = tuple(
                Cell(key.frame, key.frame + 1, in_words(key.pose)) for key in keys if key.frame < scene.frames
            )
            heading = f"{part.removeprefix('part ').lower()} moves"
            out.append(GridColumn(f"{name} {heading}".strip(), figure, cells))
    notes = tuple(Cell(frame, frame + 1, text) for frame, text in sorted(scene.notes.items()))
    return [*out, GridColumn("notes", None, notes)]


def _words(scene: Scene, figure: Figure) -> tuple[Cell, ...]:
    said = (w for line in scene.reading.lines if figure.name in (line.speaker, *line.co_speakers) for w in line.words)
    spans = ((word.start_us, word.end_us, word.text) for word in said)
    return _on_frames(scene, spans)


def _sounds(scene: Scene, figure: Figure) -> tuple[Cell, ...]:
    return _on_frames(scene, ((p.start_us, p.end_us, p.ipa) for p in scene.reading.phonemes(figure.name)))


def _on_frames(scene: Scene, spans: Iterator[tuple[int, int, str]]) -> tuple[Cell, ...]:
    """Stretches of time on the frames on which they begin; those that begin on one frame share its cell."""
    rate = scene.rate
    rows = sorted((rate.frame_at(start), rate.frame_at(max(start, end - 1)) + 1, text) for start, end, text in spans)
    joined = []
    for start, group in groupby(rows, key=lambda row: row[0]):
        found = list(group)
        joined.append((start, max(end for _, end, _ in found), " ".join(text for *_, text in found)))
    # A character without words has no cells.
    ends = [start for start, *_ in joined[1:]] + [scene.frames] if joined else []
    return tuple(
        Cell(start, min(end, following), text)
        for (start, end, text), following in zip(joined, ends, strict=True)
        if start < scene.frames
    )


def grid_rows(scene: Scene, columns: list[GridColumn]) -> Iterator[tuple[list[object], list[str]]]:
    """For each frame its number, timecode and feet, then the text of each column.

    The text stands on the first frame of a stretch, "│" on its other frames.
    """
    at = [0] * len(columns)
    for frame in range(scene.frames):
        values: list[str] = []
        for n, column in enumerate(columns):
            while at[n] < len(column.cells) and column.cells[at[n]].end <= frame:
                at[n] += 1
            cell = column.cells[at[n]] if at[n] < len(column.cells) else None
            inside = cell is not None and cell.start <= frame
            values.append(cell.text if cell and cell.start == frame else "│" if inside else "")
        head: list[object] = [scene.first_frame + frame, timecode(frame, scene.rate, drop=scene.drop)]
        yield [*head, feet_and_frames(frame)], values

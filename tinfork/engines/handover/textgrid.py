"""Praat TextGrid, written by praatio: tiers of lines, words, sounds and mouths for each character."""

import tempfile
from pathlib import Path

from praatio import textgrid
from praatio.utilities.constants import Interval

from tinfork.core.scene.choices import SHOWN, WHO, figures_of, shown_as
from tinfork.core.scene.exporting import Exporter, Option, Purpose, Values, of_bytes
from tinfork.core.scene.scene import Figure, Scene
from tinfork.core.solver.problem import NO_MOUTH

_LAYOUT = Option("layout", "Layout", "long_textgrid", choices=(("long_textgrid", "long"), ("short_textgrid", "short")))

Span = tuple[int, int, str]


def _tier(name: str, spans: list[Span], end_s: float) -> textgrid.IntervalTier:
    """Intervals without overlaps: the later of two begins where the earlier ends."""
    rows, at = [], 0
    for start, end, text in sorted(spans):
        start = max(start, at)
        if start < end:
            # In Praat's format a quotation mark is doubled; the library does not do that.
            rows.append(Interval(start / 1e6, end / 1e6, text.replace('"', "”")))
            at = end
    return textgrid.IntervalTier(name, rows, 0, end_s)


def _of_scene(scene: Scene, values: Values) -> bytes:
    end_s = max(scene.reading.duration_us, 1) / 1e6
    grid = textgrid.Textgrid(0, end_s)
    for figure in figures_of(scene, values):
        for tier in _tiers(scene, figure, values["drawings"], end_s):
            grid.addTier(tier)
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / "reading.TextGrid"
        grid.save(str(path), format=values["layout"], includeBlankSpaces=True, reportingMode="silence")
        return path.read_bytes()


def _tiers(scene: Scene, figure: Figure, drawings: str, end_s: float) -> list[textgrid.IntervalTier]:
    lines = [line for line in scene.reading.lines if figure.name in (line.speaker, *line.co_speakers) and line.words]
    said: list[Span] = [(line.start_us, line.end_us, line.text) for line in lines]
    words: list[Span] = [(w.start_us, w.end_us, w.text) for line in lines for w in line.words]
    sounds: list[Span] = [(p.start_us, p.end_us, p.ipa) for p in scene.reading.phonemes(figure.name)]
    call, last = shown_as(figure.mouth, drawings), scene.reading.duration_us
    mouths: list[Span] = [
        (scene.rate.first_us(h.start), min(last, scene.rate.first_us(h.end)), str(call(h)))
        for h in figure.mouth.holds
        if h.drawing != NO_MOUTH
    ]
    tiers = (("lines", said), ("words", words), ("sounds", sounds), ("mouth", mouths))
    return [_tier(f"{figure.name} {name}", spans, end_s) for name, spans in tiers]


EXPORTER = Exporter(
    "textgrid",
    "Praat TextGrid",
    Purpose.ANIMATE,
    ".TextGrid",
    "text/plain; charset=utf-8",
    of_bytes(_of_scene),
    (WHO, SHOWN, _LAYOUT),
    "tiers of lines, words, sounds and mouths, for phonetics programs",
)

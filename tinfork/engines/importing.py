"""Importing words, mouths and notes into a shot from files: sheets, TextGrids, subtitles, timelines, our own JSON.

The suffix of a file tells its format, and its content must agree. Importers raise nothing but `FormatError`, whatever
the bytes.
"""

import csv
import io
import re
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path

import opentimelineio as otio
import pysubs2
from openpyxl import load_workbook
from praatio import textgrid

from tinfork.core.errors import FormatError
from tinfork.core.formats import reading_json
from tinfork.core.messages import Message, joined
from tinfork.core.scene.incoming import (
    MOST_ROWS,
    ComingWord,
    ImportContext,
    Incoming,
    checked,
    from_rows,
    named_cue,
    words_of_cue,
)
from tinfork.core.solver.problem import NO_MOUTH, Hold

MAX_BYTES = 16 * 1024 * 1024
#: The most bytes that a spreadsheet may unpack to.
_MOST_UNPACKED = 200 * 1024 * 1024
_ARROW = re.compile(rb"-->")


def import_file(data: bytes, name: str, about: ImportContext) -> Incoming:
    """Read the words, mouths and notes in a file.

    Raises
    ------
    FormatError
        With the file's name.
    """
    suffix = Path(name).suffix.lower()
    if suffix not in READERS:
        raise FormatError("import.unknown_kind", name=name, readers=", ".join(READERS))
    if len(data) > MAX_BYTES:
        raise FormatError("import.too_large", name=name, max_bytes=MAX_BYTES // 2**20)
    try:
        found = READERS[suffix](data, about)
    except FormatError as error:
        raise FormatError("import.in_file", name=name, error=error) from None
    except Exception:
        # Libraries raise arbitrary exceptions on damaged files.
        raise FormatError("import.damaged", name=name, suffix=suffix) from None
    if not (found.words or found.holds or found.notes is not None):
        raise FormatError(joined([Message("import.nothing", name=name), *found.lost]))
    return found


def _text(data: bytes) -> str:
    for encoding in ("utf-8-sig", "utf-16") if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    raise FormatError("import.not_utf8")


def _csv(data: bytes, about: ImportContext) -> Incoming:
    text = _text(data)
    head = text[: text.find("\n")] if "\n" in text else text
    # Spreadsheets write semicolons in some countries, and text copied from one has tabs.
    mark = max(",;\t", key=head.count)
    rows = []
    for row in csv.reader(io.StringIO(text), delimiter=mark):
        rows.append([_unquoted(cell) for cell in row])
        if len(rows) > MOST_ROWS:
            raise FormatError("import.too_many_rows")
    return from_rows(rows, about)


def _unquoted(cell: str) -> str:
    """A text without the apostrophe that prevents its use as a formula."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in ("=", "+", "-", "@") else cell


def _xlsx(data: bytes, about: ImportContext) -> Incoming:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        if sum(info.file_size for info in archive.infolist()) > _MOST_UNPACKED:
            raise FormatError("import.unpacks_too_large")
    sheet = load_workbook(io.BytesIO(data), read_only=True, data_only=True).active
    rows = []
    for row in sheet.iter_rows(values_only=True):  # type: ignore[union-attr]
        rows.append([_unquoted("" if cell is None else str(cell)) for cell in row[:200]])
        if len(rows) > MOST_ROWS:
            raise FormatError("import.too_many_rows")
    return from_rows(rows, about)


def _json(data: bytes, about: ImportContext) -> Incoming:
    document = reading_json.read_document(data)
    lost: list[str] = []
    words = []
    for line in document.reading.lines:
        speaker = about.speaker(line.speaker)
        if speaker is None:
            lost.append(Message("import.lost_line", name=line.speaker, text=line.text[:60]))
            continue
        for word in line.words:
            sounds = tuple((p.ipa, p.start_us, p.end_us) for p in word.phonemes)
            words.append(ComingWord(speaker, word.text, word.start_us, word.end_us, sounds))
    holds = {}
    for (name, part), own in document.tracks.items():
        key = (about.speaker(name) or "", part)
        if key not in about.columns:
            lost.append(Message("import.lost_column", name=f"{name} {part or 'mouth'}"))
        elif document.rate != about.rate:
            lost.append(Message("import.lost_mouths", rate=document.rate.label, own=about.rate.label))
        else:
            holds[key] = _known(own, about, key, lost)
    return Incoming(checked(words, about), holds, document.notes, tuple(dict.fromkeys(lost)))


def _known(own: tuple[Hold, ...], about: ImportContext, key: tuple[str, str], lost: list[str]) -> tuple[Hold, ...]:
    """The holds inside the shot whose drawings exist."""
    there = {found for names in about.columns[key].called.values() for found in names}
    out = []
    for hold in own:
        if hold.drawing != NO_MOUTH and (hold.set, hold.drawing) not in there:
            lost.append(Message("import.no_such_drawing", text=f"{hold.drawing} {hold.set}".strip()))
        elif hold.start < about.frames:
            out.append(Hold(hold.start, min(hold.end, about.frames), hold.drawing, hold.viseme, hold.set))
    return tuple(out)


def _textgrid(data: bytes, about: ImportContext) -> Incoming:
    with tempfile.TemporaryDirectory(prefix="tinfork-") as folder:
        path = Path(folder) / "in.TextGrid"
        path.write_bytes(data)
        grid = textgrid.openTextgrid(str(path), includeEmptyIntervals=False, reportingMode="silence")
    lost, words, sounds = [], [], []
    holds: dict[tuple[str, str], tuple[Hold, ...]] = {}
    for name in grid.tierNames:
        tier = grid.getTier(name)
        who, what = _tier(name)
        speaker = about.speaker(who)
        entries = getattr(tier, "entries", ())
        spans = [(_us(e.start), _us(e.end), e.label.strip()) for e in entries if hasattr(e, "end") and e.label.strip()]
        if speaker is None or what == "":
            lost.append(Message("import.lost_tier", name=name[:40]))
        elif what == "words":
            words += [ComingWord(speaker, text, start, end) for start, end, text in spans]
        elif what == "sounds":
            sounds += [(speaker, start, end, text) for start, end, text in spans]
        elif what == "mouth":
            holds[speaker, ""] = _mouths(spans, about, speaker)
    filled = []
    for word in words:
        own = tuple(
            (text, start, end) for who, start, end, text in sounds
            if who == word.speaker and word.start_us <= start and end <= word.end_us
        )  # fmt: skip
        filled.append(ComingWord(word.speaker, word.text, word.start_us, word.end_us, own))
    return Incoming(checked(filled, about), holds, None, tuple(lost))


def _us(seconds: float) -> int:
    return round(float(seconds) * 1e6)


def _tier(name: str) -> tuple[str, str]:
    """The character and content of a tier: "Odalys words", or "words" alone."""
    who, _, last = name.strip().rpartition(" ")
    kinds = {"words": "words", "word": "words", "sounds": "sounds", "phones": "sounds", "phonemes": "sounds",
             "mouth": "mouth", "mouths": "mouth", "lines": "lines"}  # fmt: skip
    return who, kinds.get(last.casefold(), "")


def _mouths(spans: list[tuple[int, int, str]], about: ImportContext, speaker: str) -> tuple[Hold, ...]:
    out, at = [], 0
    for start_us, end_us, text in spans:
        start, end = about.rate.nearest_span(start_us, end_us)
        start, end = max(at, start), min(end, about.frames)
        if start >= end:
            continue
        if start > at:
            out.append(Hold(at, start, NO_MOUTH, "rest"))
        set_name, number = about.columns[speaker, ""].find(text, start)
        out.append(Hold(start, end, number, "rest", set_name))
        at = end
    return tuple(out)


def _subtitles(data: bytes, about: ImportContext) -> Incoming:
    if not _ARROW.search(data):
        raise FormatError("import.no_cues")
    cues = pysubs2.SSAFile.from_string(_text(data))
    words = []
    for cue in cues:
        speaker, text = named_cue(" ".join(cue.plaintext.split()), about)
        if speaker and text and cue.end > cue.start:
            words += words_of_cue(speaker, text, cue.start * 1000, cue.end * 1000)
    lost = (Message("import.subtitles"),)
    return Incoming(checked(words, about), {}, None, lost)


def _otio(data: bytes, about: ImportContext) -> Incoming:
    timeline = otio.adapters.read_from_string(_text(data), "otio_json")
    if not isinstance(timeline, otio.schema.Timeline):
        raise FormatError("import.no_timeline")
    lost, words = [], []
    holds: dict[tuple[str, str], tuple[Hold, ...]] = {}
    for track in timeline.video_tracks():
        key = next((k for k in about.columns if track.name.casefold() == f"{k[0]} {k[1] or 'mouth'}".casefold()), None)
        if key is None:
            lost.append(Message("import.lost_track", name=track.name[:40]))
            continue
        holds[key] = _clips(track, about, key)
    for marker in timeline.tracks.markers:
        span = marker.marked_range
        speaker, text = named_cue(marker.name, about)
        if speaker and text:
            start, end = _us(span.start_time.to_seconds()), _us(span.end_time_exclusive().to_seconds())
            words += words_of_cue(speaker, text, start, max(start + 1, end))
    return Incoming(checked(words, about), holds, None, tuple(lost))


def _clips(track: "otio.schema.Track", about: ImportContext, key: tuple[str, str]) -> tuple[Hold, ...]:
    out = []
    for child in track:
        span = track.range_of_child(child)
        start, end = about.rate.nearest_span(
            _us(span.start_time.to_seconds()), _us(span.end_time_exclusive().to_seconds())
        )
        end = min(end, about.frames)
        if start >= end:
            continue
        if isinstance(child, otio.schema.Gap):
            out.append(Hold(start, end, NO_MOUTH, "rest"))
            continue
        own = child.metadata.get("tin_fork", {})
        name = str(own.get("number", child.name))
        set_name, number = about.columns[key].find(name, start)
        wanted = (str(own.get("set", set_name)), number)
        known = {found for names in about.columns[key].called.values() for found in names}
        out.append(Hold(start, end, number, "rest", wanted[0] if wanted in known else set_name))
    return tuple(out)


READERS: dict[str, Callable[[bytes, ImportContext], Incoming]] = {
    ".csv": _csv,
    ".xlsx": _xlsx,
    ".json": _json,
    ".textgrid": _textgrid,
    ".srt": _subtitles,
    ".vtt": _subtitles,
    ".otio": _otio,
}

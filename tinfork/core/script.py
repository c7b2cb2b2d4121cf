"""A script as lines: who says what, in which language, in which shot.

Plain text is our own form too, the one in a shot's box of words:

    # 020 The counter            a shot's name, where a text is for a whole production
    ODALYS: Sit down.            a name, then the words
    PIM (es): Está listo.        a language, where it is not the usual one
    Both of us are tired.        no name: the speaker of the line before goes on
    [yawns]  (beat)              brackets are remarks, never spoken

Text without any name belongs to nobody yet. Times, where a format has them, are microseconds.
"""

import csv
import io
import re
from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import dataclass, replace
from itertools import pairwise

from tinfork.core.errors import WordsError
from tinfork.core.messages import Message

MAX_BYTES = 2 * 1024 * 1024
MAX_LINES = 20_000
MAX_LINE_CHARACTERS = 2_000
#: A row of a file: an action of a screenplay, a row of a table.
MAX_ROW_CHARACTERS = 5_000

#: What encloses a remark.
_BRACKETS = {"[": "]", "(": ")"}
_LONG_SPACE = re.compile(r"[^\S\n]{9,}")
_BLANK_ROWS = re.compile(r"\n{4,}")
_LANGUAGE = re.compile(r"[a-z]{2,3}(?:-[a-z0-9]{2,12}){0,3}")
_HEADING = re.compile(r"#+\s*(?P<name>\S.*)")
_NAMED = re.compile(
    r"(?P<name>[^\W\d_][^:：\[\](){}\"“”]{0,39}?)\s*(?:\((?P<remark>[^()]*)\))?\s*(?!(?<=\d):\d)[:：](?!//)\s*(?P<text>.*)"
)


@dataclass(frozen=True, slots=True)
class ScriptLine:
    """One line of a script.

    The name as written ("" for none), the words, a language code ("" for the usual), its shot ("" for none).
    """

    speaker: str
    text: str
    language: str = ""
    shot: str = ""
    start_us: int | None = None
    end_us: int | None = None


def fold(name: str) -> str:
    """A name folded for comparison: case, accents and spacing do not matter."""
    return " ".join(name.casefold().split())


def spoken_part(text: str) -> str:
    """A line without its remarks in brackets; linear in its length, even with unclosed brackets."""
    out: list[str] = []
    at = start = 0
    never: set[str] = set()
    while at < len(text):
        close = _BRACKETS.get(text[at])
        end = text.find(close, at + 1) if close and close not in never else -1
        if end >= 0:
            out.append(text[start:at])
            at = start = end + 1
            continue
        if close:
            never.add(close)
        at += 1
    return " ".join(" ".join((*out, text[start:])).split())


def shorten_spaces(text: str) -> str:
    """The text with long runs of white space shortened, on which regular expressions would be slow.

    Raises
    ------
    WordsError
        For rows that nobody wrote.
    """
    text = _LONG_SPACE.sub(" " * 8, text.replace("\r\n", "\n").replace("\r", "\n"))
    text = _BLANK_ROWS.sub("\n\n\n", "\n".join(row.rstrip() if row.isspace() else row for row in text.split("\n")))
    longest = max(text.split("\n"), key=len)
    if len(longest) > MAX_ROW_CHARACTERS:
        raise WordsError("script.line_too_long", count=len(longest), text=longest[:40])
    return text


def has_words(text: str) -> bool:
    """Whether there are words outside brackets."""
    return any(c.isalnum() for c in spoken_part(text))


def text_of(data: bytes) -> tuple[str, str]:
    """A file's text, and a note if its encoding had to be guessed.

    Raises
    ------
    WordsError
        For what is no text.
    """
    if len(data) > MAX_BYTES:
        raise WordsError("script.too_large", max_bytes=MAX_BYTES // 1024**2)
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        encoding, note = "utf-16", ""
    else:
        encoding, note = "utf-8-sig", ""
    try:
        text = data.decode(encoding)
    except UnicodeDecodeError:
        if b"\0" in data:
            raise WordsError("script.not_text") from None
        text = data.decode("cp1252", "replace")
        note = Message("script.not_utf8")
    if "\0" in text:
        raise WordsError("script.not_text")
    return shorten_spaces(text), note


def names_in(text: str) -> list[str]:
    """Capitalised words that do not begin a sentence: most likely names."""
    words = spoken_part(text).split()
    return [
        bare
        for before, word in pairwise(words)
        if (bare := word.strip(_AROUND)) and bare[0].isupper() and len(bare) > 1 and before[-1] not in _ENDS
    ]


#: Punctuation around words, and marks that end a sentence.
_AROUND, _ENDS = '.,;:!?…"“”«»„‚‘’()', '.!?…:"“”«»—–-'


def check(lines: Iterable[ScriptLine]) -> list[ScriptLine]:
    """The lines that have words.

    Raises
    ------
    WordsError
        For more than anyone reads.
    """
    kept = [line for line in lines if has_words(line.text)]
    if len(kept) > MAX_LINES:
        raise WordsError("script.too_many_lines", count=len(kept), max_lines=MAX_LINES)
    for line in kept:
        if len(line.text) > MAX_LINE_CHARACTERS:
            raise WordsError("script.line_too_long", count=len(line.text), text=line.text[:40])
    return kept


def parse_plain(text: str, names: Collection[str] = ()) -> list[ScriptLine]:
    """Parse plain text, with or without names; `names` are known names in any spelling."""
    rows = [" ".join(row.split()) for row in shorten_spaces(text).splitlines()]
    known = _names_in(rows, names)
    lines: list[ScriptLine] = []
    shot = speaker = language = ""
    for row in rows:
        heading = _HEADING.fullmatch(row)
        if heading:
            shot, speaker, language = heading["name"].strip(), "", ""
            continue
        match = _NAMED.fullmatch(row)
        if match and fold(match["name"]) in known:
            speaker = " ".join(match["name"].split())
            remark = (match["remark"] or "").strip().lower()
            language = remark if _LANGUAGE.fullmatch(remark) and len(remark) <= 12 else ""
            row = match["text"].strip()
        if row:
            lines.append(ScriptLine(speaker, row, language, shot))
    return check(lines)


def _names_in(rows: list[str], names: Collection[str]) -> set[str]:
    """Texts before a colon that are names: known ones, capitals, and those that most or several rows have."""
    found = [(match["name"], match) for row in rows if (match := _NAMED.fullmatch(row))]
    counts = Counter(fold(name) for name, _ in found)
    spoken = sum(bool(row) and not row.startswith("#") for row in rows)
    # If some names are in capitals, another single word before a colon is speech: "Listen: ..."
    is_named = len(found) >= max(2, 0.6 * spoken) and not any(name == name.upper() for name, _ in found)
    known = {fold(name) for name in names}
    for name, match in found:
        short = len(name.split()) <= 4
        if short and (name == name.upper() or counts[fold(name)] > 1 or is_named or match["remark"]):
            known.add(fold(name))
    return known


def write_plain(lines: Iterable[ScriptLine]) -> str:
    """Lines in the form that `parse_plain` reads; a name is written when the speaker changes."""
    out: list[str] = []
    last: tuple[str, str] | None = None
    shot = ""
    for line in lines:
        if line.shot != shot:
            out += [""] * bool(out) + [f"# {line.shot}"]
            shot, last = line.shot, None
        who = (line.speaker, line.language)
        text = " ".join(line.text.split())
        if line.speaker and (who != last or line.language or _NAMED.fullmatch(text)):
            language = f" ({line.language})" if line.language else ""
            text = f"{line.speaker}{language}: {text}"
        out.append(text)
        last = who
    return "\n".join(out)


_COLUMNS = {
    "shot": ("shot", "scene"),
    "speaker": ("character", "speaker", "name", "who"),
    "text": ("line", "text", "words", "dialogue", "dialog"),
    "language": ("language", "lang"),
}


def parse_csv(text: str) -> list[ScriptLine]:
    """A table with a header row: `line` (or text, words, dialogue) and, if there, `character`, `shot`, `language`.

    Raises
    ------
    WordsError
        Where no column has the lines, or a quote does not end.
    """
    try:
        dialect = csv.Sniffer().sniff(text[:4000], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel
    try:
        rows = list(csv.reader(io.StringIO(text), dialect))
    except csv.Error as error:
        raise WordsError("script.open_quote") from error
    header = [fold(cell) for cell in rows[0]] if rows else []
    place = {key: next((header.index(n) for n in names if n in header), None) for key, names in _COLUMNS.items()}
    if place["text"] is None:
        raise WordsError("script.no_line_column")

    def cell(row: list[str], key: str) -> str:
        at = place[key]
        return row[at].strip() if at is not None and at < len(row) else ""

    return check(
        ScriptLine(
            cell(row, "speaker"), " ".join(cell(row, "text").split()), cell(row, "language").lower(), cell(row, "shot")
        )
        for row in rows[1:]
    )


def merge_running(lines: Iterable[ScriptLine]) -> list[ScriptLine]:
    """Join lines of one speaker that continue without the end of a sentence, as subtitles break them."""
    out: list[ScriptLine] = []
    for line in lines:
        last = out[-1] if out else None
        runs_on = last is not None and last.speaker == line.speaker and not re.search(r"[.!?…\"”»)]$", last.text)
        if last and runs_on and len(last.text) + len(line.text) < 400:
            out[-1] = replace(last, text=f"{last.text} {line.text}", end_us=line.end_us)
        else:
            out.append(line)
    return out

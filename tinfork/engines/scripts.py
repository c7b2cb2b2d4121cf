"""Reading script files as lines: plain text, Fountain, SRT and WebVTT subtitles, CSV."""

import re
from collections.abc import Collection

import pysubs2
from screenplay_tools.fountain.parser import Parser

from tinfork.core.errors import WordsError
from tinfork.core.script import ScriptLine, check, merge_running, parse_csv, parse_plain, text_of
from tinfork.engines.isolated import run_isolated, unheard
from tinfork.engines.limits import PICTURE_CHILD_BYTES

#: The file types that a browser offers to choose.
TYPES = ".txt,.fountain,.spmd,.srt,.vtt,.csv,.tsv,text/plain,text/csv"

_TIMED = re.compile(r"(?m)^[^\S\n]*(?:\d+:)?\d{1,2}:\d{2}[.,]\d{3}\s*-->")
_SCENE = re.compile(r"(?mi)^[^\S\n]*(?:INT|EXT|EST|INT\./EXT|I/E)[. ]")
_VOICE_TAG = re.compile(r"<v(?:\.[\w.]{1,80})?[^\S\n]+([^<>\n]{1,200})>")
_NOTE = re.compile(r"\[\[[^\[\]]*\]\]")
_EMPHASIS = re.compile(r"\*+|(?<!\w)_|_(?!\w)")


#: The most time for parsing a script.
_LIMIT_S = 10


def read_script_apart(data: bytes, name: str, known: Collection[str]) -> tuple[list[ScriptLine], tuple[str, ...]]:
    """`read_script` in a process of its own: libraries may hang on malicious input."""
    return run_isolated(
        read_script,
        data,
        name,
        frozenset(known),
        progress=unheard,
        reports=False,
        limit_s=_LIMIT_S,
        memory_bytes=PICTURE_CHILD_BYTES,
        too_much=WordsError("script.too_slow"),
    )


def read_script(data: bytes, name: str = "", known: Collection[str] = ()) -> tuple[list[ScriptLine], tuple[str, ...]]:
    """The lines of a script file, and notes on what had to be guessed.

    The format is known from the file's name, or else from its content.

    Raises
    ------
    WordsError
        For what is no script.
    """
    text, note = text_of(data)
    suffix = name.lower().rsplit(".", 1)[-1] if "." in name else ""
    if suffix in ("srt", "vtt") or text.lstrip().startswith("WEBVTT") or _TIMED.search(text[:2000]):
        lines = _subtitles(text, known)
    elif suffix in ("fountain", "spmd") or _SCENE.search(text):
        lines = _fountain(text)
    elif suffix in ("csv", "tsv"):
        lines = parse_csv(text)
    else:
        lines = parse_plain(text, known)
    if not lines:
        raise WordsError("script.no_dialogue")
    return lines, (note,) if note else ()


def _fountain(text: str) -> list[ScriptLine]:
    """Dialogue by character; a scene heading names the shot. Lyrics are spoken, parentheticals are not."""
    parser = Parser()
    parser.add_text(text)
    out: list[ScriptLine] = []
    shot = speaker = ""
    for element in parser.script.elements:
        kind = element.type.value
        if kind == "HEADING":
            shot, speaker = element.text_raw[:80], ""
        elif kind == "CHARACTER":
            speaker = element.name.strip()
        elif kind in ("DIALOGUE", "LYRIC"):
            words = " ".join(_EMPHASIS.sub("", _NOTE.sub("", element.text_raw)).split())
            out.append(ScriptLine(speaker, words, "", shot))
        elif kind not in ("PARENTHETICAL", "NOTE", "BONEYARD"):
            speaker = ""
    return check(out)


def _subtitles(text: str, known: Collection[str]) -> list[ScriptLine]:
    """Cues in time order; the speaker is given by a voice tag or `NAME:`, for the rest of the cue.

    Raises
    ------
    WordsError
        For what is no subtitles.
    """
    try:
        cues = pysubs2.SSAFile.from_string(_VOICE_TAG.sub(r"\1: ", text))
    except Exception as error:
        # The library raises arbitrary exceptions of its parser.
        raise WordsError("script.bad_subtitles") from error
    tagged = {" ".join(name.split()) for name in _VOICE_TAG.findall(text)}
    named = parse_plain("\n".join(cue.plaintext for cue in cues), {*known, *tagged})
    people = {*known, *tagged, *(line.speaker for line in named)}
    out: list[ScriptLine] = []
    for cue in cues:
        said = parse_plain(cue.plaintext, people) if ":" in cue.plaintext else []
        lines = said or check([ScriptLine("", cue.plaintext.replace("\n", " "))])
        for line in lines:
            words = " ".join(line.text.split()).lstrip("-–— ")
            out.append(ScriptLine(line.speaker, words, line.language, "", cue.start * 1000, cue.end * 1000))
    return check(merge_running(out))

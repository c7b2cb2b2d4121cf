"""The same job without a database: `./run cli read SOUND`, with its words, without them, or many sounds at once.

Exit status 0, or 2 with one clear line on bad input.
"""

import argparse
import io
import multiprocessing
import shutil
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from contextlib import nullcontext
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import IO, NoReturn

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError, SoundError, TinForkError, WordsError
from tinfork.core.formats import reading_json, sheet_csv, subtitles
from tinfork.core.mouths.starter import STARTER, starter_pictures
from tinfork.core.script import parse_plain
from tinfork.core.sheet import Sheet
from tinfork.core.solver.dials import DIALS, Dials
from tinfork.core.solver.solve import solve
from tinfork.core.speech.reading import Reading
from tinfork.engines.decode import decode
from tinfork.engines.finding import find_lines
from tinfork.engines.reading.reader import ReadResult, read_track
from tinfork.engines.transcribing import HearingRequest, transcribe
from tinfork.engines.unworded import read_by_ear, read_flap
from tinfork.engines.wording import LineText, lines_from_text

#: What a language is where it is to be found.
_AUTO = "auto"
#: The formats of words alone.
_WORDS_ONLY = {"text": subtitles.write_text, "srt": subtitles.write_srt, "vtt": subtitles.write_vtt}
#: What is taken for a recording in a folder.
_SOUNDS = frozenset(
    {".wav", ".mp3", ".flac", ".aiff", ".aif", ".ogg", ".opus", ".m4a", ".mp4", ".mov", ".webm", ".mkv"}
)


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one line."""

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"tinfork: {message} (--help lists what can be given)\n")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="tinfork", description="Reads a dialogue recording and says which mouth each frame shows.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    read = commands.add_parser("read", help="sounds and their words give readings and holds")
    read.add_argument("sounds", type=Path, nargs="+", metavar="sound", help="recordings, or a folder of them")
    words = read.add_mutually_exclusive_group()
    words.add_argument("--text", type=Path, help="a text file with what is said, a line per phrase")
    words.add_argument(
        "--script",
        type=Path,
        help="a text file with lines NAME: words; in several sounds each line is found where it is said",
    )
    words.add_argument("--by-ear", action="store_true", help="no words: sounds straight from the recording")
    words.add_argument("--flap", action="store_true", help="no words: a mouth that opens with the loudness")
    read.add_argument("--trust-words", action="store_true", help="do not listen whether the words are what is said")
    read.add_argument("--words-only", action="store_true", help="write the words that are heard, and no mouths")
    read.add_argument(
        "--language",
        default=_AUTO,
        help="the language that is heard, or of lines that name none (default: found by itself, or en-us)",
    )
    read.add_argument("--jobs", type=int, default=1, help="how many sounds are read at once (default 1)")
    read.add_argument("--fps", default="24", help="frames a second: 24, 23.976, 30000/1001 ... (default 24)")
    read.add_argument("--format", choices=("json", "csv", "text", "srt", "vtt"), help="json, or text with --words-only")
    read.add_argument("--rows", choices=("frames", "holds"), default="frames", help="CSV: a row per frame or per hold")
    read.add_argument("--first-frame", type=int, default=1, help="CSV: the number of the first frame (default 1)")
    read.add_argument("--drop-frame", action="store_true", help="CSV: drop-frame timecode, at 29.97 and 59.94")
    read.add_argument("--character", default="", help="who speaks (default: the sound's name)")
    for name, dial in DIALS.items():
        usual = getattr(Dials(), name)
        microseconds = " microseconds" if name.endswith("_us") else ""
        says = f"{dial.does} ({dial.low} to {dial.high}{microseconds}, default: {usual})".replace("%", "%%")
        read.add_argument(f"--{name.replace('_', '-')}", type=int, default=usual, metavar="N", help=says)
    read.add_argument("-o", "--out", type=Path, help="the file to write, or a folder (default: standard output)")
    out = commands.add_parser("hand-over", help="a reading becomes a movie, a sheet, pictures, keys or data")
    out.add_argument(
        "reading", type=Path, nargs="?", help="a reading as JSON, the archive of a shot, or of a production"
    )
    out.add_argument(
        "--shot", default="", metavar="NAME", help="which shot of a production's archive (default: the first)"
    )
    out.add_argument("--as", dest="kind", metavar="KIND", help="what to make of it; --list says what there is")
    out.add_argument("--list", action="store_true", help="say the kinds and their options")
    out.add_argument(
        "--character", type=Path, action="append", default=[], help="an archive of a character; may be given again"
    )
    out.add_argument("--sound", type=Path, help="the recording")
    out.add_argument("--background", type=Path, help="a picture behind the characters")
    out.add_argument("--set", dest="options", action="append", default=[], metavar="NAME=VALUE", help="an option")
    out.add_argument("-o", "--out", type=Path, help="the file to write (default: standard output)")
    chart = commands.add_parser("chart", help="write the starter chart as SVG pictures")
    chart.add_argument("-o", "--out", type=Path, required=True, help="the folder to write into")
    return parser


def _text(path: Path) -> str:
    try:
        return path.read_bytes().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise WordsError(f"“{path.name}” is not UTF-8 text. Save it as plain text in UTF-8.") from None


def _write(data: bytes, out: Path | None) -> None:
    """Whole or not at all: a file half written is never left behind.

    Only an ordinary file is replaced: a device, a pipe or a link stays what it is, and is written to.
    """
    _copy(io.BytesIO(data), out)


def read(options: argparse.Namespace) -> None:
    """The command `read`: each sound on its own; several go into a folder."""
    options.sounds = [sound for each in options.sounds for sound in _sounds_in(each)]
    options.format = options.format or ("text" if options.words_only else "json")
    if options.words_only != (options.format in _WORDS_ONLY):
        raise FormatError("Words alone are written as text, srt or vtt, with --words-only; readings as json or csv.")
    several = len(options.sounds) > 1
    if options.out and several and not options.out.is_dir():
        raise FormatError(f"There is no folder “{options.out}” to write into.")
    if options.out and not options.out.is_dir() and not options.out.parent.is_dir():
        raise FormatError(f"There is no folder “{options.out.parent}” to write into.")
    if several and not options.out:
        raise FormatError("Several sounds are written into a folder. Name it with --out.")
    if several and options.text:
        raise FormatError("Several sounds have their words beside them: “take.txt” for “take.wav”.")
    options.is_searched = several and options.script is not None
    if not 1 <= options.jobs <= 64:
        raise FormatError("The number of jobs goes from 1 to 64.")
    FrameRate.parse(options.fps)
    _dials(options)
    if not several:
        _read_one(options, options.sounds[0])
        return
    failed = []
    with ProcessPoolExecutor(options.jobs, multiprocessing.get_context("spawn")) as pool:
        for sound, error in zip(options.sounds, pool.map(partial(_try_one, options), options.sounds), strict=True):
            print(f"tinfork: {sound.name}: {error or 'done'}", file=sys.stderr)
            failed += [sound] if error else []
    if failed:
        raise SoundError(f"{len(failed)} of {len(options.sounds)} sounds were not read; see above.")


def _sounds_in(path: Path) -> list[Path]:
    """A recording, or all that are in a folder."""
    if not path.is_dir():
        return [path]
    found = sorted(file for file in path.iterdir() if file.suffix.lower() in _SOUNDS)
    if not found:
        raise SoundError(f"There is no recording in the folder “{path}”.")
    return found


def _try_one(options: argparse.Namespace, sound: Path) -> str:
    """What went wrong with one of several, in words; "" when nothing did."""
    try:
        _read_one(options, sound)
    except TinForkError as error:
        return str(error)
    except OSError as error:
        return (error.strerror or "cannot be used").lower()
    return ""


def _dials(options: argparse.Namespace) -> Dials:
    return Dials(**{name: getattr(options, name) for name in DIALS})


def _read_one(options: argparse.Namespace, sound: Path) -> None:
    name = options.character or sound.stem
    result = _result(options, sound, name)
    for warning in result.warnings:
        print(f"tinfork: {warning}", file=sys.stderr)
    rate = FrameRate.parse(options.fps)
    dials = _dials(options)
    speakers = list(dict.fromkeys(line.speaker for line in result.reading.lines)) or [name]
    holds = {who: solve(result.reading, STARTER, rate, speaker=who, dials=dials) for who in speakers}
    suffix = "txt" if options.format == "text" else options.format
    into = options.out / f"{sound.stem}.{suffix}" if options.out and options.out.is_dir() else options.out
    if options.words_only:
        _write(_WORDS_ONLY[options.format](result.reading), into)
        return
    if options.format == "json":
        _write(reading_json.write(result.reading, rate, holds), into)
        return
    if len(speakers) > 1:
        raise FormatError("A CSV sheet is one character's. Give several characters as JSON, or read one at a time.")
    sheet = Sheet(result.reading, holds[speakers[0]], rate, options.first_frame, options.drop_frame)
    _write(sheet_csv.write(sheet, per_hold=options.rows == "holds"), into)


def _result(options: argparse.Namespace, path: Path, name: str) -> ReadResult:
    """The reading of one sound in the way that was asked for, its lines spoken by `name` where nobody is named."""
    sound = decode(path)
    asked = "" if options.language == _AUTO else options.language
    language = asked or "en-us"
    if options.flap:
        return _named(read_flap(sound, language), name)
    if options.by_ear:
        return _named(read_by_ear(sound, language), name)
    if options.script:
        lines = [
            LineText(line.text, line.speaker or name, line.language or language)
            for line in parse_plain(_text(options.script))
        ]
        if options.is_searched:
            found = find_lines(sound, lines, HearingRequest(asked))
            said = Reading(sound.duration_us, tuple(one.line for one in found))
            return _named(ReadResult(said), name)
    else:
        words = options.text or path.with_suffix(".txt")
        if options.words_only or (not words.exists() and not options.text):
            return _named(transcribe(sound, HearingRequest(asked)), name)
        lines = lines_from_text(_text(words), speaker=name, language=language)
        if not lines:
            raise WordsError(f"“{words.name}” has no words. Write what is said in the sound, a line per phrase.")
    return read_track(sound, lines, is_checked=not options.trust_words)


def _named(result: ReadResult, name: str) -> ReadResult:
    """With a name for whoever has none."""
    lines = tuple(replace(line, speaker=line.speaker or name) for line in result.reading.lines)
    return replace(result, reading=replace(result.reading, lines=lines))


def hand_over(options: argparse.Namespace) -> None:
    """The command `hand-over`."""
    from tinfork.engines.handover import command

    if options.list:
        _write(command.listing().encode(), options.out)
        return
    if options.reading is None or options.kind is None:
        raise FormatError("Give a reading and what to make of it: READING.json --as KIND. --list says what there is.")
    if options.out and not options.out.parent.is_dir():
        raise FormatError(f"There is no folder “{options.out.parent}” to write into.")
    with tempfile.TemporaryFile() as made:
        command.hand_over(
            options.reading,
            options.kind,
            command.pairs(options.options),
            made,
            characters=options.character,
            sound=options.sound,
            background=options.background,
            shot=options.shot,
        )
        made.seek(0)
        _copy(made, options.out)


def _copy(made: IO[bytes], out: Path | None) -> None:
    """What was made, as `_write` puts it down, however large."""
    if out is None or out.is_symlink() or (out.exists() and not out.is_file()):
        with out.open("wb") if out else nullcontext(sys.stdout.buffer) as target:
            shutil.copyfileobj(made, target, 1024 * 1024)
        return
    with tempfile.NamedTemporaryFile(dir=out.parent, prefix=f".{out.name}.", delete=False) as file:
        try:
            shutil.copyfileobj(made, file, 1024 * 1024)
        except BaseException:
            Path(file.name).unlink()
            raise
    Path(file.name).chmod(0o644)
    Path(file.name).replace(out)


def chart(options: argparse.Namespace) -> None:
    """The command `chart`."""
    options.out.mkdir(parents=True, exist_ok=True)
    pictures = starter_pictures()
    for drawing in STARTER.drawings:
        name = f"{drawing.number:02d}-{drawing.name.replace(',', '').replace(' ', '-')}.svg"
        _write(pictures[drawing.number].encode(), options.out / name)


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    options = _parser().parse_args(arguments)
    try:
        {"read": read, "chart": chart, "hand-over": hand_over}[options.command](options)
    except TinForkError as error:
        print(f"tinfork: {error}", file=sys.stderr)
        return 2
    except OSError as error:
        place = f"“{error.filename}”: " if error.filename else ""
        print(f"tinfork: {place}{(error.strerror or 'cannot be used').lower()}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())

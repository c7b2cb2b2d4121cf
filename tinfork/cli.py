"""The same job without a database: `./run cli read SOUND --text FILE`.

Exit status 0, or 2 with one clear line on bad input.
"""

import argparse
import sys
import tempfile
from pathlib import Path
from typing import NoReturn

from tinfork.core.clock import FrameRate
from tinfork.core.errors import FormatError, TinForkError, WordsError
from tinfork.core.formats import reading_json, sheet_csv
from tinfork.core.mouths.starter import STARTER, starter_pictures
from tinfork.core.sheet import Sheet
from tinfork.core.solver.problem import Dials
from tinfork.core.solver.solve import solve
from tinfork.engines.decode import decode
from tinfork.engines.reader import read_track
from tinfork.engines.wording import lines_from_text


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one line."""

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"tinfork: {message} (--help lists what can be given)\n")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="tinfork", description="Reads a dialogue recording and says which mouth each frame shows.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    read = commands.add_parser("read", help="a sound and its words give a reading and holds")
    read.add_argument("sound", type=Path, help="the recording: WAV, MP3, FLAC ...")
    read.add_argument("--text", type=Path, required=True, help="a text file with what is said, a line per phrase")
    read.add_argument("--fps", default="24", help="frames a second: 24, 23.976, 30000/1001 ... (default 24)")
    read.add_argument("--format", choices=("json", "csv"), default="json")
    read.add_argument("--rows", choices=("frames", "holds"), default="frames", help="CSV: a row per frame or per hold")
    read.add_argument("--first-frame", type=int, default=1, help="CSV: the number of the first frame (default 1)")
    read.add_argument("--drop-frame", action="store_true", help="CSV: drop-frame timecode, at 29.97 and 59.94")
    read.add_argument("--character", default="", help="who speaks (default: the sound's name)")
    read.add_argument("--lead", type=int, default=Dials().lead, help="frames the mouth moves before the sound")
    read.add_argument("--shortest", type=int, default=Dials().shortest, help="least frames a mouth is held")
    read.add_argument("-o", "--out", type=Path, help="the file to write (default: standard output)")
    chart = commands.add_parser("chart", help="write the starter chart as SVG pictures")
    chart.add_argument("-o", "--out", type=Path, required=True, help="the folder to write into")
    return parser


def _text(path: Path) -> str:
    try:
        return path.read_bytes().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise WordsError(f"“{path.name}” is not UTF-8 text. Save it as plain text in UTF-8.") from None


def _write(data: bytes, out: Path | None) -> None:
    """Whole or not at all: a file half written is never left behind."""
    if out is None:
        sys.stdout.buffer.write(data)
        return
    with tempfile.NamedTemporaryFile(dir=out.parent, prefix=f".{out.name}.", delete=False) as file:
        file.write(data)
    whole = Path(file.name)
    whole.chmod(0o644)
    whole.replace(out)


def read(options: argparse.Namespace) -> None:
    """The command `read`."""
    if options.out and not options.out.parent.is_dir():
        raise FormatError(f"There is no folder “{options.out.parent}” to write into.")
    rate = FrameRate.parse(options.fps)
    dials = Dials(lead=options.lead, shortest=options.shortest)
    name = options.character or options.sound.stem
    lines = lines_from_text(_text(options.text), speaker=name)
    if not lines:
        raise WordsError(f"“{options.text.name}” has no words. Write what is said in the sound, a line per phrase.")
    result = read_track(decode(options.sound), lines)
    holds = solve(result.reading, STARTER, rate, dials=dials)
    for warning in result.warnings:
        print(f"tinfork: {warning}", file=sys.stderr)
    if options.format == "json":
        _write(reading_json.write(result.reading, rate, {name: holds}), options.out)
    else:
        sheet = Sheet(result.reading, holds, rate, options.first_frame, options.drop_frame)
        _write(sheet_csv.write(sheet, per_hold=options.rows == "holds"), options.out)


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
        {"read": read, "chart": chart}[options.command](options)
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

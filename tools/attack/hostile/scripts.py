"""Hostile scripts: no words, no end, and brackets that are never closed."""

from collections.abc import Iterator

from tools.attack.hostile.kinds import SCRIPT, Hostile


def scripts() -> Iterator[Hostile]:
    """Files of words."""
    given = {
        "twenty-thousand-names.txt": "".join(f"PERSON {n}: hello\n" for n in range(20_000)).encode(),
        "two-thousand-shots.txt": "".join(f"# {n:04d} shot\nhello there\n" for n in range(2000)).encode(),
        "one-line.txt": b"word " * 30_000,
        "no-line.txt": b"\n" * 100_000,
        "binary.txt": bytes(range(256)) * 400,
        "nulls.txt": b"\0" * 50_000,
        "wide.txt": "ODALYS: hello\n".encode("utf-16") * 20,
        "capitals.txt": b"A" * 150_000 + b": hello",
        "colons.txt": b":" * 150_000,
        "brackets.txt": b"ODALYS: " + b"[" * 60_000,
        "stars.fountain": b"INT. BAKERY\n\nODALYS\n" + b"*" * 60_000 + b"\n",
        "notes.fountain": b"INT. BAKERY\n\nODALYS\n" + b"[[" * 30_000 + b"\n",
        "late.srt": b"1\n99999999:99:99,999 --> 99999999:99:99,999\nhello\n",
        "backwards.srt": b"1\n00:00:09,000 --> 00:00:01,000\nhello\n",
        "open-voice.vtt": b"WEBVTT\n\n00:00.000 --> 00:01.000\n<v " + b"x" * 60_000,
        "columns.csv": b"line," * 40_000 + b"\nhello\n",
        "quotes.csv": b'line\n"' + b"x" * 150_000,
    }  # fmt: skip
    yield from (Hostile(SCRIPT, name, data) for name, data in given.items())

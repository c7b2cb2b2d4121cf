"""Nonsense for every address: each with every method, its fields filled with what no page would send.

What the fields are called is read out of the application's own source, so that a new one is tried too. Everything
follows from a seed.
"""

import json
import random
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import quote, urlencode

SOURCE = Path(__file__).resolve().parents[2] / "tinfork"
METHODS = ("GET", "POST", "HEAD", "OPTIONS", "PUT", "PATCH", "DELETE")

#: Values that broke something somewhere: other digits, signs, controls, halves of characters, marks that turn text
#: round, numbers out of any bounds, and texts of any length.
VALUES: tuple[str, ...] = (
    "", "0", "1", "-1", "--5", "+3", "²", "٣", "１２", "1.5", "1e999", "NaN", "Infinity", "-Infinity", "0x10", "1_000",
    "9" * 19, "9" * 5000, "-" + "9" * 25, "\0", "a\0b", "\ud800", "\udfff\ud800", "\u202egnp.exe", "\u2066x", "\ufeff",
    "\x1b[2J", "\r\nSet-Cookie: a=b", "a" * 300, "ä" * 20_000, "💋" * 500, "<script>alert(1)</script>", "'\"`;--",
    "%00", "%", "%s%n", "{{7*7}}", "../../etc/passwd", "null", "true", "[]", "{}", "[[" * 200, "None", "\u200b", " ",
    "\n", "NAME: words\n" * 50, "1-2", "2-1", "0-99999999999", "A:" * 500, "en-us", "xx-none", "es+m7", "<voice>",
)  # fmt: skip
#: The same as JSON, where it is more than text.
JSON_BODIES: tuple[bytes, ...] = (
    b"", b"{", b"null", b"[]", b"7", b'"x"', b"\xff\xfe", b"NaN", b'{"revision": NaN}', b'{"revision": 1e999}',
    b'{"revision": -1, "name": "undo"}', b'{"revision": -99999999999999, "name": "pin", "parameters": {}, "shown": -5}',
    b'{"revision": 99999999999999999999999999, "name": "pin", "parameters": {}}',
    b'{"revision": true, "name": "pin", "parameters": {}}', b'{"revision": 1, "name": ["pin"], "parameters": {}}',
    b'{"revision": 1, "name": "pin", "parameters": []}', b'{"revision": 1, "name": "none", "parameters": {}}',
    b'{"revision": 0, "shown": 99999999999, "name": "redo"}', b"[" * 100_000,
    b'{"a":' * 5000, b'{"revision": ' + b"9" * 5000 + b"}",
    b'{"revision": 1, "name": "note", "parameters": {"frame": 0, "text": "\\ud800\\u0000"}, "token": "\\u0000"}',
    b'{"revision": 1, "name": "note", "parameters": {"frame": 1e400, "text": "x"}}',
    b'{"revision": 1, "name": "undo", "own": [{}], "token": 5}',
)  # fmt: skip
HEADERS: tuple[dict[str, str], ...] = (
    {"Range": "bytes=" + "9" * 5000 + "-"}, {"Range": "bytes=²-"}, {"Range": "bytes=5-2"}, {"Range": "bytes=-0"},
    {"Range": "bytes=0-0,2-3"}, {"Range": "lines=1-2"}, {"If-None-Match": "*" * 3000}, {"Accept": "application/json"},
    {"Accept-Language": "x" * 3000}, {"HX-Request": "true", "HX-Target": "\\"},
    {"Content-Type": "text/plain; charset=none"},
    {"Referer": "\\\\//"}, {"X-Forwarded-For": "1.2.3.4, x"}, {"Content-Type": "multipart/form-data"},
    {"Content-Type": "multipart/form-data; boundary=" + "b" * 300}, {"If-Modified-Since": "yesterday"},
)  # fmt: skip


@dataclass(frozen=True)
class Request:
    """One request; `body` goes as it is, with its content type among the headers."""

    method: str
    path: str
    body: bytes = b""
    headers: dict[str, str] = field(default_factory=dict)


def names_of_fields() -> list[str]:
    """What forms, queries and edits call their fields, as the source says."""
    found: set[str] = set()
    for path in sorted(SOURCE.rglob("*.py")):
        text = path.read_text("utf-8")
        found.update(re.findall(r'(?:GET|POST|FILES|values|body)\.get(?:list)?\(\s*f?"([\w-]+)"', text))
        found.update(re.findall(r'(?:GET|POST|values|body)\["([\w-]+)"\]', text))
        if path.parent.name == "commands":
            found.update(re.findall(r"^    (\w+): ", text, re.M))
        if path.name == "forms.py":
            found.update(re.findall(r"^    (\w+) = \w*(?:forms\.)?\w*Field", text, re.M))
    return sorted(found)


def names_of_edits() -> list[str]:
    """What edits are called."""
    text = "".join(p.read_text("utf-8") for p in sorted((SOURCE / "core" / "commands").glob("*.py")))
    return sorted({*re.findall(r'^    "(\w+)": ', text, re.M), "undo", "redo"})


def _query(values: list[tuple[str, str]]) -> str:
    return urlencode(values, errors="surrogatepass")


def requests(paths: list[str], wrong: list[str], seed: int, each: int) -> Iterator[Request]:
    """So many nonsense forms, queries, JSON bodies, headers for each address, and each method once.

    Addresses of what is not there (`wrong`) are asked for and sent something.
    """
    dice = random.Random(seed)
    fields, edits = names_of_fields(), names_of_edits()

    def some() -> list[tuple[str, str]]:
        return [(name, dice.choice(VALUES)) for name in dice.sample(fields, dice.randint(1, 12))]

    for path in wrong:
        yield Request("GET", path)
        yield Request("POST", path, _query(some()).encode(), {"Content-Type": "application/x-www-form-urlencoded"})
    for path in paths:
        join = "&" if "?" in path else "?"
        for method in METHODS:
            yield Request(method, path)
        for _ in range(each):
            yield Request("GET", path + join + _query(some())[:6000])
            form = {"Content-Type": "application/x-www-form-urlencoded"}
            yield Request("POST", path, _query(some()).encode(), form)
            yield Request("POST", path, *_as_multipart(some(), dice))
            yield Request(dice.choice(("GET", "POST", "HEAD")), path, b"", dice.choice(HEADERS))
            cookies = f'sessionid="{dice.choice(NUL_COOKIES)}"; messages=\\000;csrftoken=²'
            yield Request("GET", path, b"", {"Cookie": cookies})
            json_form = {"Content-Type": "application/json"}
            yield Request("POST", path, dice.choice(JSON_BODIES), json_form)
            edit = {
                "revision": dice.choice((0, 1, 2, -1, 10**12)),
                "shown": dice.choice((0, 1, -7, 10**15)),
                "name": dice.choice(edits),
                "parameters": {name: _value(dice) for name in dice.sample(fields, 14)},
                "token": dice.choice(("", "t", "x" * 41)),
            }
            yield Request("POST", path, json.dumps(edit).encode(), json_form)


NUL_COOKIES = ("\\000", "a\\000b", "²", "\\377", "x" * 3000)


def _value(dice: random.Random) -> object:
    """A value of an edit: now and then one that fits, more often none."""
    return dice.choice(
        (0, 1, 2, 5, -1, 10**9, 2**63, 1.5, -0.0, True, None, [], {}, [{}], [{"start_us": 0, "end_us": 5}], "voice",
         "1", dice.choice(VALUES)[:500])
    )  # fmt: skip


def _as_multipart(values: list[tuple[str, str]], dice: random.Random) -> tuple[bytes, dict[str, str]]:
    """Fields and files as a form with files, sometimes with its end cut off."""
    out = b""
    for name, value in values:
        shown = dice.choice(
            (f'name="{name}"', f'name="{name}"; filename="{quote(value[:40], errors="surrogatepass")}"', f"name={name}")
        )
        head = f"--b\r\nContent-Disposition: form-data; {shown}\r\n\r\n"
        out += head.encode() + value.encode("utf-8", "surrogatepass") + b"\r\n"
    out += b"--b--\r\n"
    cut = dice.choice((len(out), len(out), len(out) // 2))
    return out[:cut], {"Content-Type": "multipart/form-data; boundary=b"}


#: Numbers of nothing.
_WRONG = ("0", "9" * 19, "9" * 40)


def paths_for(patterns: list[str], known: dict[str, str]) -> tuple[list[str], list[str]]:
    """Addresses for each pattern ("shots/<int:pk>/desk").

    They are of what is there, by what the pattern begins with, and of what is not.
    """
    good, wrong = [], []
    for pattern in patterns:
        first = next((start for start in sorted(known, key=len, reverse=True) if pattern.startswith(start)), "")
        good.append(_filled(pattern, known.get(first, "1")))
        wrong += [_filled(pattern, number) for number in _WRONG if "<" in pattern]
    return list(dict.fromkeys(good)), list(dict.fromkeys(wrong))


def _filled(pattern: str, number: str) -> str:
    nobody = "00000000-0000-0000-0000-000000000000"
    filled = pattern.replace("<int:pk>", number).replace("<int:level>", "0").replace("<int:version>", number)
    return "/" + filled.replace("<uuid:pk>", number if "-" in number else nobody)

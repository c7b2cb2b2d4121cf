"""Recordings of people that Debian ships together with their words: short descriptions, letters, numbers, reports.

Whose they are, and under which licence: `tuxpaint-stamps-default` (GPL 2, many readers in a dozen languages),
`klettres-data` (GPL 2 or later), `asterisk-prompt-it-menardi` (CC BY-SA 3.0, spoken by Paola Dal Zot),
`asterisk-prompt-fr-armelle` (BSD, spoken by Armelle Desjardins), `warzone2100-data` (GPL 2 or later). They are learnt
from and measured with; nothing of them is in the repository or ships with the application.
"""

import hashlib
import re
import subprocess
import xml.etree.ElementTree as ET
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from num2words import num2words
from numpy.typing import NDArray

from tools.ear.speaking import RATE_HZ

_STAMPS = Path("/usr/share/tuxpaint/stamps")
_LETTERS = Path("/usr/share/klettres")
_ITALIAN = Path("/usr/share/asterisk/sounds/it_IT_f_Menardi")
_FRENCH = Path("/usr/share/asterisk/sounds/fr")
_REPORTS = Path("/usr/share/games/warzone2100/base.wz")
#: A line of its table of sounds: a report's file, and its words.
_REPORT = re.compile(r'audio\s+"(?P<file>pcv\d+\.ogg)".*?/\*(?P<text>[^*]+)\*/')
#: Abbreviations are said letter by letter or as words: nobody knows.
_ABBREVIATION = re.compile(r"[A-Z]{2}")
#: Languages whose people are never learnt from.
KEPT_LANGUAGES = frozenset({"bg", "el", "en-us"})
#: Of all others, every text in one of so many parts is never learnt from, whoever says it.
_PARTS = 5
#: Letters and syllables are learnt in these languages, in which the synthesiser says a letter's name as people do.
_SPELLED = {
    "cs": "cs", "da": "da", "de": "de", "en": "en-us", "en_GB": "en-gb", "es": "es", "fr": "fr", "hu": "hu",
    "it": "it", "nb": "nb", "nl": "nl", "pt_BR": "pt-br", "ru": "ru", "uk": "uk",
}  # fmt: skip
_DESCRIPTION = re.compile(r"(?P<name>.*)_desc(?:_(?P<language>[a-z]{2}))?\.ogg")
#: Letters, numbers and money are said in more or fewer words than are written.
_OTHERWISE = "symbols"
#: What is not sure to be said as it is written.
_UNSAYABLE = re.compile(r"[\d$€£%°()\[\]{}<>&/=+*#@\"«»“”„]")
_ARTICLE = re.compile(r"^An? ")
_DAYS = {
    "it": ("domenica", "lunedì", "martedì", "mercoledì", "giovedì", "venerdì", "sabato"),
    "fr": ("dimanche", "lundi", "mardi", "mercredi", "jeudi", "vendredi", "samedi"),
}
_MONTHS = {
    "it": ("gennaio", "febbraio", "marzo", "aprile", "maggio", "giugno", "luglio", "agosto", "settembre", "ottobre",
           "novembre", "dicembre"),
    "fr": ("janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre",
           "décembre"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Recording:
    """A file in which one person says a text: whose collection, the text, its language (espeak-ng's code)."""

    source: str
    language: str
    text: str
    path: Path
    #: The same text has the same mark in whatever language it is said.
    mark: str
    #: Its name inside, where the path is a ZIP archive.
    member: str = ""

    @property
    def is_kept(self) -> bool:
        """Whether it is only ever measured with."""
        part = int(hashlib.sha256(self.mark.encode()).hexdigest(), 16) % _PARTS
        return self.language in KEPT_LANGUAGES or part == 0

    def samples(self) -> NDArray[np.float32]:
        """Decoded, mono at 16 kHz, -1 to 1."""
        data = zipfile.ZipFile(self.path).read(self.member) if self.member else self.path.read_bytes()
        command = ["ffmpeg", "-v", "error", "-i", "-", "-ac", "1", "-ar", str(RATE_HZ), "-f", "f32le", "-"]
        pcm = subprocess.run(command, input=data, check=True, capture_output=True, timeout=60).stdout
        return np.frombuffer(pcm, dtype=np.float32)


@cache
def recordings() -> tuple[Recording, ...]:
    """All that are installed, in a fixed order."""
    found = (*_descriptions(), *_letters(), *_prompts("it", _ITALIAN), *_prompts("fr", _FRENCH), *_reports())
    return tuple(sorted(found, key=lambda r: (r.source, r.language, str(r.path), r.member)))


def decoded(of: list[Recording]) -> list[tuple[Recording, NDArray[np.float32]]]:
    """With their samples; files that are damaged, empty or longer than half a minute are left out."""

    def one(recording: Recording) -> NDArray[np.float32]:
        try:
            return recording.samples()
        except subprocess.SubprocessError:
            return np.zeros(0, dtype=np.float32)

    with ThreadPoolExecutor(2) as pool:
        found = zip(of, pool.map(one, of), strict=True)
        return [(r, s) for r, s in found if 0.2 * RATE_HZ < len(s) < 30 * RATE_HZ and np.abs(s).max() > 1e-3]


def _descriptions() -> Iterator[Recording]:
    for path in sorted(_STAMPS.rglob("*_desc*.ogg")):
        match = _DESCRIPTION.fullmatch(path.name)
        texts = path.with_name(f"{match['name']}.txt") if match else None
        if not match or not texts or not texts.exists():
            continue
        rows = texts.read_text("utf-8", "replace").splitlines()
        language = match["language"]
        start = f"{language}.utf8="
        text = next((row[len(start) :] for row in rows if row.startswith(start)), "") if language else rows[0]
        if text.strip() and not _UNSAYABLE.search(text) and _OTHERWISE not in path.parts:
            mark = rows[0].strip().casefold()
            # Whoever read the English ones left the articles out.
            said = text.strip() if language else _ARTICLE.sub("", text.strip())
            yield Recording("stamps", language or "en-us", said, path, mark)


def _letters() -> Iterator[Recording]:
    for folder, language in _SPELLED.items():
        table = _LETTERS / folder / "sounds.xml"
        if not table.exists():
            continue
        for sound in ET.fromstring(table.read_text("utf-8", "replace")).iter("sound"):
            text, path = sound.get("name", ""), _LETTERS / sound.get("file", "?")
            if text and path.exists():
                yield Recording("letters", language, text.casefold(), path, f"letter {text.casefold()}")


def _prompts(language: str, folder: Path) -> Iterator[Recording]:
    for path in sorted((folder / "digits").glob("*.gsm")):
        name = path.stem
        kind, _, number = name.rpartition("-")
        if name.isdigit():
            text = num2words(int(name), lang=language)
        elif kind == "day":
            text = _DAYS[language][int(number)]
        elif kind == "mon":
            text = _MONTHS[language][int(number)]
        else:
            continue
        yield Recording("numbers", language, text, path, f"number {name}")


def _reports() -> Iterator[Recording]:
    if not _REPORTS.exists():
        return
    with zipfile.ZipFile(_REPORTS) as archive:
        members = {Path(name).name: name for name in archive.namelist()}
        table = archive.read("audio/audio.cfg").decode("utf-8", "replace")
    for match in _REPORT.finditer(table):
        text = " ".join(match["text"].split()).casefold()
        if match["file"] in members and not _UNSAYABLE.search(text) and not _ABBREVIATION.search(match["text"]):
            yield Recording("reports", "en-us", text, _REPORTS, f"report {text}", members[match["file"]])

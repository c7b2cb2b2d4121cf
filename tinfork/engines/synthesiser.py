"""Pronunciation and speech from the machine's synthesiser.

It runs in a process of its own (`espeak.py`), so that a text that crashes it crashes nothing else.

It keeps state from one text to the next, so it gets one request at a time. Its IPA is returned letter by letter.
"""

import json
import os
import re
import select
import subprocess
import sys
import threading
import time
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import EngineError, WordsError
from tinfork.core.messages import Message
from tinfork.core.speech.features import nearest, plain_letters
from tinfork.core.speech.reading import Phoneme, Word
from tinfork.core.speech.values import reduced, value_of, word_value
from tinfork.core.speech.visemes import strip_marks

_UTF8, _MNEMONICS = 1, 0x100
_IPA_MODE = 0x02
_PAUSES = ("_", "", "(en)")
#: The most by which the number of a word's sounds differs between connected speech and the word alone.
_APART = 2
#: The time limit of an answer, and its extra for each letter of the text (seconds).
_PATIENCE_S, _PER_LETTER_S = 20.0, 0.01


@dataclass(frozen=True)
class SynthesisedSpeech:
    """Synthesised speech: mono samples -1 to 1, Hz, exact phoneme times, the start of each word of the text."""

    samples: NDArray[np.float32]
    rate_hz: int
    phonemes: tuple[Phoneme, ...]
    word_starts: tuple[tuple[int, str], ...] = ()

    @property
    def duration_us(self) -> int:
        """Length in microseconds."""
        return len(self.samples) * 1_000_000 // self.rate_hz

    def words(self) -> tuple[Word, ...]:
        """Its words with their sounds. Words spoken as one are joined; sounds before the first word belong to it."""
        starts = [at for at, _ in self.word_starts]
        groups: dict[int, list[Phoneme]] = {}
        for phoneme in self.phonemes:
            groups.setdefault(max(0, bisect_right(starts, phoneme.start_us) - 1), []).append(phoneme)
        out: list[Word] = []
        last = -1
        for at, sounds in sorted(groups.items()):
            text = " ".join(text for _, text in self.word_starts[last + 1 : at + 1]) or "…"
            out.append(Word(text.strip('.,;:!?…"“”'), sounds[0].start_us, sounds[-1].end_us, tuple(sounds)))
            last = at
        return tuple(out)


#: The messages for the errors it reports.
_WRONG = {
    "library": Message("speech.no_library", package="libespeak-ng1"),
    "data": Message("speech.no_data", package="espeak-ng-data"),
    "speech": Message("speech.no_speech"),
}
_STOPPED = Message("speech.stopped")


class _Synthesiser:
    """The process: started at the first request, restarted after it died, killed if it hangs."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        #: A forked process starts its own.
        self._owner = 0

    def ask(self, do: str, text: str = "", **more: Any) -> tuple[dict[str, Any], bytes]:
        """Send a request; returns the answer, and the sound with it.

        Raises
        ------
        WordsError
            For a voice it does not have.
        EngineError
            Where it cannot answer.
        """
        question = {"do": do, **({"text": text} if do in ("letters", "speak") else {}), **more}
        with self._lock:
            process = self._running()
            try:
                answer, sound = _exchange(process, question, _PATIENCE_S + _PER_LETTER_S * len(text))
            except (OSError, ValueError) as error:
                process.kill()
                process.wait()
                self._process = None
                raise EngineError(_STOPPED) from error
        wrong = answer.get("wrong")
        if wrong == "voice":
            raise WordsError("speech.no_such_voice", voice=str(more.get("voice"))[:40])
        if wrong:
            raise EngineError(_WRONG[wrong])
        return answer, sound

    def _running(self) -> "subprocess.Popen[bytes]":
        if self._process is None or self._owner != os.getpid() or self._process.poll() is not None:
            # Isolated mode: it imports no packages, and ignores Python's environment variables.
            command = [sys.executable, "-I", str(Path(__file__).with_name("espeak.py"))]
            self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, bufsize=0)
            self._owner = os.getpid()
        return self._process


def _exchange(
    process: "subprocess.Popen[bytes]", question: dict[str, Any], limit_s: float
) -> tuple[dict[str, Any], bytes]:
    """Write a request and read the answer.

    Raises
    ------
    OSError
        Where none comes in time.
    ValueError
        Where none comes in time.
    TimeoutError
        Where no answer comes in time.
    """
    assert process.stdin and process.stdout
    process.stdin.write(json.dumps(question).encode() + b"\n")
    until = time.monotonic() + limit_s
    data = bytearray()
    head: dict[str, Any] | None = None
    while head is None or len(data) < head["bytes"]:
        ready, _, _ = select.select([process.stdout], [], [], max(0.0, until - time.monotonic()))
        part = os.read(process.stdout.fileno(), 1 << 16) if ready else b""
        if not part:
            raise TimeoutError("no answer")
        data += part
        if head is None and b"\n" in data:
            line, _, rest = bytes(data).partition(b"\n")
            head, data = json.loads(line), bytearray(rest)
    return head, bytes(data)


_SYNTHESISER = _Synthesiser()


@dataclass(frozen=True, slots=True)
class Language:
    """A language that can be spoken: its code, and its name in English."""

    code: str
    name: str


@cache
def languages() -> tuple[Language, ...]:
    """All languages of the installed synthesiser, by name."""
    found: dict[str, Language] = {}
    for code, name, identifier in _SYNTHESISER.ask("voices")[0]["voices"]:
        if not identifier.startswith("mb/") and code not in found and code != "variant":
            found[code] = Language(code, name.replace("_", " "))
    return tuple(sorted(found.values(), key=lambda language: language.name))


#: The synthesiser's voice variants, with what they sound like.
VARIANTS = {
    "": Message("voice.plain"),
    "f1": Message("voice.woman", number=1),
    "f2": Message("voice.woman", number=2),
    "f3": Message("voice.woman", number=3),
    "f4": Message("voice.woman", number=4),
    "m1": Message("voice.man", number=1),
    "m2": Message("voice.man", number=2),
    "m3": Message("voice.man", number=3),
    "m4": Message("voice.man", number=4),
    "croak": Message("voice.croaking"),
    "whisper": Message("voice.whispering"),
}


def pronounce(text: str, language: str = "en-us") -> tuple[str, ...]:
    """IPA symbols of a word or phrase, stress marks kept before vowels; empty when it has no sound.

    Raises
    ------
    WordsError
        For an unknown language.
    """
    return _sounds(_phonemes_of(text, language, _IPA_MODE), language)


def pronounce_words(words: Sequence[str], language: str) -> list[tuple[str, ...]]:
    """IPA symbols of words in connected speech: small words are not read as letters, and weak words are weak.

    If the sounds of some words cannot be separated, each of them is pronounced alone.
    """
    # A single letter at the end would be read as its name: repeat it.
    said = [*words, *(word for word in words[-1:] if len(word) == 1)]
    groups = _transcribed(" ".join(said), language, _IPA_MODE).split(" ") if len(said) > 1 else []
    found = [_sounds(group.split("_"), language) for group in groups if group.strip("_")]
    if len(found) == len(said) and all(
        len(word) == 1 or abs(len(sounds) - len(pronounce(word, language))) <= _APART
        for word, sounds in zip(said, found, strict=True)
    ):
        return [word_value(word, sounds, language) for word, sounds in zip(words, found, strict=False)]
    if len(words) < 2:
        return [pronounce(word, language) for word in words]
    half = len(words) // 2
    return [*pronounce_words(words[:half], language), *pronounce_words(words[half:], language)]


def _sounds(symbols: Sequence[str], language: str) -> tuple[str, ...]:
    sounds = (s for s in symbols if strip_marks(s) and not s.startswith("("))
    return tuple(reduced(value_of(s, language), language) for s in sounds)


def _phonemes_of(text: str, language: str, mode: int) -> list[str]:
    """The library's phonemes of a text, in IPA or in its own notation."""
    return _transcribed(text, language, mode).replace(" ", "_").split("_")


#: Corrections to IPA: one voice writes a Greek letter for the open-mid vowel, another a colon for length.
_MISWRITTEN = str.maketrans("ε:", "ɛː")


def _transcribed(text: str, language: str, mode: int) -> str:
    """The library's transcription of a text: "_" between phonemes, a space between words."""
    answer, _ = _SYNTHESISER.ask("letters", _safe(text), voice=language, mode=mode)
    said = str(answer["said"]).replace("\n", " ")
    return said.translate(_MISWRITTEN) if mode == _IPA_MODE else said


def _safe(text: str) -> str:
    """Strip hyphens outside words; they crash the library's Danish voice."""
    return re.sub(r"(?<!\w)-+|-+(?!\w)", lambda match: " " * len(match[0]), text.replace("\0", " "))


@cache
def _letters(language: str) -> dict[str, str]:
    """The library's own notation of a language's sounds, learnt from its numbers and the names of letters."""
    out: dict[str, str] = {}
    for text in [*map(str, range(130)), *"abcdefghijklmnopqrstuvwxyz", "1000", "1000000"]:
        ipa, own = _phonemes_of(text, language, _IPA_MODE), _phonemes_of(text, language, 0)
        if len(ipa) == len(own):
            for symbol, letters in zip(ipa, own, strict=True):
                if strip_marks(symbol) and not symbol.startswith("("):
                    out.setdefault(value_of(symbol.lstrip("ˈˌ"), language), letters.lstrip("',%="))
    return out


def speak_sounds(symbols: tuple[str, ...], language: str = "en-us") -> SynthesisedSpeech:
    """Speak IPA symbols; a sound that the language's voice lacks is replaced by the most similar one."""
    known = _letters(language)
    single = {plain: letters for symbol, letters in known.items() if len(plain := plain_letters(symbol)) == 1}
    out: list[str] = []
    for symbol in symbols:
        bare = symbol.lstrip("ˈˌ")
        stress = {"ˈ": "'", "ˌ": ","}.get(symbol[:1], "")
        if bare in known:
            out.append(stress + known[bare])
            continue
        for at, letter in enumerate(plain_letters(bare)):
            out.append((stress if at == 0 else "") + single[nearest(letter, single)])
    return _speak(f"[[{'|'.join(out)}]]", language, 150, 50, _UTF8 | _MNEMONICS)


def speak(text: str, voice: str = "en-us", *, words_per_minute: int = 160, pitch: int = 50) -> SynthesisedSpeech:
    """Speak a text; its phonemes with their exact times. `pitch` runs from 0 to 99.

    Raises
    ------
    WordsError
        For an unknown voice or a text without sound.
    """
    return _speak(text, voice, words_per_minute, pitch, _UTF8)


def _speak(text: str, voice: str, words_per_minute: int, pitch: int, flags: int) -> SynthesisedSpeech:
    text = text if flags & _MNEMONICS else _safe(text)
    told, pcm = _SYNTHESISER.ask("speak", text, voice=voice, speed=words_per_minute, pitch=pitch, flags=flags)
    rate_hz, words = told["rate"], [(at, begin) for at, begin in told["words"]]
    samples = np.frombuffer(pcm, dtype="<i2").astype(np.float32) / np.float32(32768)
    if not len(samples):
        raise WordsError("speech.nothing_to_say")
    begin = len(text) - len(text.lstrip())
    if words and words[0][1] > begin:
        # The event of the first word is sometimes missing.
        words.insert(0, (0, begin))
    starts = tuple(
        (at * 1_000_000 // rate_hz, rest[0]) for at, begin in words if (rest := text[begin:].split(maxsplit=1))
    )
    phonemes = _phonemes(told["phonemes"], voice.partition("+")[0], rate_hz, len(samples))
    return SynthesisedSpeech(samples, rate_hz, phonemes, starts)


def _phonemes(events: list[tuple[int, str]], language: str, rate_hz: int, total: int) -> tuple[Phoneme, ...]:
    out: list[Phoneme] = []
    ends = [sample for sample, _ in events[1:]] + [total]
    for (start, symbol), end in zip(events, ends, strict=True):
        start_us, end_us = start * 1_000_000 // rate_hz, min(end, total) * 1_000_000 // rate_hz
        if strip_marks(symbol) and symbol not in _PAUSES and end_us > start_us:
            out.append(Phoneme(value_of(symbol, language), start_us, end_us))
    return tuple(out)

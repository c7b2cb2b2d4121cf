"""Pronunciation and speech from the machine's synthesiser, libespeak-ng, through ctypes.

The library keeps global state: calls are serialised by a lock, and long work belongs in a
process of its own. IPA comes out letter by letter as the library writes it.
"""

import ctypes
import re
import threading
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import EngineError, WordsError
from tinfork.core.speech.features import nearest, plain_letters
from tinfork.core.speech.reading import Phoneme, Word
from tinfork.core.speech.values import reduced, value_of, word_value
from tinfork.core.speech.visemes import strip_marks

_LOCK = threading.Lock()
_SYNCHRONOUS = 2
_PHONEME_EVENTS, _IPA_EVENTS, _DONT_EXIT = 0x1, 0x2, 0x8000
_UTF8, _MNEMONICS = 1, 0x100
_IPA_MODE = 0x02
_EVENT_END, _EVENT_WORD, _EVENT_PHONEME = 0, 1, 7
_PAUSES = ("_", "", "(en)")
#: A word has so many sounds more or less among others than by itself.
_APART = 2


class _EventId(ctypes.Union):
    _fields_ = [("number", ctypes.c_int), ("name", ctypes.c_char_p), ("string", ctypes.c_char * 8)]


class _Event(ctypes.Structure):
    _fields_ = [
        ("type", ctypes.c_int),
        ("unique_identifier", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", _EventId),
    ]


class _Voice(ctypes.Structure):
    _fields_ = [
        ("name", ctypes.c_char_p),
        ("languages", ctypes.c_char_p),
        ("identifier", ctypes.c_char_p),
        ("gender", ctypes.c_ubyte),
        ("age", ctypes.c_ubyte),
        ("variant", ctypes.c_ubyte),
        ("reserved", ctypes.c_ubyte),
        ("score", ctypes.c_int),
        ("spare", ctypes.c_void_p),
    ]


_CALLBACK = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


@dataclass(frozen=True)
class Spoken:
    """Speech of the machine: mono samples -1 to 1, Hz, its exact phoneme times, and when each word of the text
    begins.
    """

    samples: NDArray[np.float32]
    rate_hz: int
    phonemes: tuple[Phoneme, ...]
    word_starts: tuple[tuple[int, str], ...] = ()

    @property
    def duration_us(self) -> int:
        """Length in microseconds."""
        return len(self.samples) * 1_000_000 // self.rate_hz

    def words(self) -> tuple[Word, ...]:
        """Its words with their sounds. Words that are run together are one; sounds before the first belong to it."""
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


class _Library:
    """The library, opened once; what it calls back with is collected here."""

    def __init__(self) -> None:
        try:
            self.lib = ctypes.CDLL("libespeak-ng.so.1")
        except OSError:
            raise EngineError(
                "The speech synthesiser is not installed; install Debian's package libespeak-ng1."
            ) from None
        self.lib.espeak_TextToPhonemes.restype = ctypes.c_char_p
        self.rate_hz = self.lib.espeak_Initialize(_SYNCHRONOUS, 0, None, _PHONEME_EVENTS | _IPA_EVENTS | _DONT_EXIT)
        if self.rate_hz <= 0:
            raise EngineError("The speech synthesiser does not start; install Debian's package espeak-ng-data.")
        self.chunks: list[bytes] = []
        self.events: list[tuple[int, str]] = []
        self.words: list[tuple[int, int]] = []
        self._callback = _CALLBACK(self._collect)
        self.lib.espeak_SetSynthCallback(self._callback)

    def _collect(self, wav: "ctypes._Pointer[ctypes.c_short]", count: int, events: "ctypes._Pointer[_Event]") -> int:
        if wav and count > 0:
            self.chunks.append(ctypes.string_at(wav, count * 2))
        at = 0
        while events[at].type != _EVENT_END:
            if events[at].type == _EVENT_PHONEME:
                self.events.append((events[at].sample, events[at].id.string.decode("utf-8", "ignore")))
            elif events[at].type == _EVENT_WORD:
                self.words.append((events[at].sample, events[at].text_position - 1))
            at += 1
        return 0

    def use_voice(self, voice: str) -> None:
        if voice.replace("-", "").replace("+", "").replace("_", "").isalnum():
            # Some languages are no voice's name, but a voice speaks them.
            if self.lib.espeak_SetVoiceByName(voice.encode()) == 0:
                return
            wanted = _Voice(languages=voice.encode())
            if self.lib.espeak_SetVoiceByProperties(ctypes.byref(wanted)) == 0:
                return
        raise WordsError(f"The synthesiser has no voice called “{voice[:40]}”.")


_library: _Library | None = None


def _open() -> _Library:
    global _library
    if _library is None:
        _library = _Library()
    return _library


@dataclass(frozen=True, slots=True)
class Language:
    """A language that can be spoken: its code, and its name in English."""

    code: str
    name: str


@cache
def languages() -> tuple[Language, ...]:
    """Every language of the machine's synthesiser, by name."""
    with _LOCK:
        library = _open()
        library.lib.espeak_ListVoices.restype = ctypes.POINTER(ctypes.POINTER(_Voice))
        voices = library.lib.espeak_ListVoices(None)
        found: dict[str, Language] = {}
        at = 0
        while voices[at]:
            voice = voices[at].contents
            # Each language is a byte of priority, then its code.
            code = voice.languages[1:].decode()
            identifier = (voice.identifier or b"").decode()
            if not identifier.startswith("mb/") and code not in found and code != "variant":
                found[code] = Language(code, (voice.name or b"").decode().replace("_", " "))
            at += 1
    return tuple(sorted(found.values(), key=lambda language: language.name))


#: Variants of a voice that come with the synthesiser, with what they sound like.
VARIANTS = {
    "": "plain",
    "f1": "woman 1",
    "f2": "woman 2",
    "f3": "woman 3",
    "f4": "woman 4",
    "m1": "man 1",
    "m2": "man 2",
    "m3": "man 3",
    "m4": "man 4",
    "croak": "croaking",
    "whisper": "whispering",
}


def pronounce(text: str, language: str = "en-us") -> tuple[str, ...]:
    """IPA symbols of a word or phrase, stress marks kept before vowels; empty when it has no sound.

    Raises `WordsError` for an unknown language.
    """
    return _sounds(_phonemes_of(text, language, _IPA_MODE), language)


def pronounce_words(words: Sequence[str], language: str) -> list[tuple[str, ...]]:
    """IPA symbols of words as they are said one after the other: small words are no names of letters, weak ones weak.

    Where what is said for some words cannot be told apart, each is pronounced by itself.
    """
    # A letter that comes last would be named: it is said once more.
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
    """The library's phonemes of a text, in IPA or in its own letters."""
    return _transcribed(text, language, mode).replace(" ", "_").split("_")


#: In IPA: one voice writes a Greek letter for the open-mid vowel, another a colon for length.
_MISWRITTEN = str.maketrans("ε:", "ɛː")


def _transcribed(text: str, language: str, mode: int) -> str:
    """What the library writes for a text: "_" between its phonemes, a space between words."""
    with _LOCK:
        library = _open()
        library.use_voice(language)
        buffer = ctypes.c_char_p(_safe(text).encode())
        pointer = ctypes.pointer(buffer)
        clauses: list[str] = []
        while buffer.value:
            found = library.lib.espeak_TextToPhonemes(pointer, _UTF8, mode | (ord("_") << 8))
            clauses.append((found or b"").decode())
    said = " ".join(clauses).replace("\n", " ")
    return said.translate(_MISWRITTEN) if mode == _IPA_MODE else said


def _safe(text: str) -> str:
    """Without hyphens that join nothing: in Danish the library dies of them."""
    return re.sub(r"(?<!\w)-+|-+(?!\w)", lambda match: " " * len(match[0]), text.replace("\0", " "))


@cache
def _letters(language: str) -> dict[str, str]:
    """The library's own letters for the sounds of a language, learnt from its numbers and the names of letters."""
    out: dict[str, str] = {}
    for text in [*map(str, range(130)), *"abcdefghijklmnopqrstuvwxyz", "1000", "1000000"]:
        ipa, own = _phonemes_of(text, language, _IPA_MODE), _phonemes_of(text, language, 0)
        if len(ipa) == len(own):
            for symbol, letters in zip(ipa, own, strict=True):
                if strip_marks(symbol) and not symbol.startswith("("):
                    out.setdefault(value_of(symbol.lstrip("ˈˌ"), language), letters.lstrip("',%="))
    return out


def speak_sounds(symbols: tuple[str, ...], language: str = "en-us") -> Spoken:
    """Speak IPA symbols; a sound that the language's voice does not have is replaced by the one made most like it."""
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


def speak(text: str, voice: str = "en-us", *, words_per_minute: int = 160, pitch: int = 50) -> Spoken:
    """Speak a text; its phonemes with their exact times. `pitch` runs from 0 to 99.

    Raises `WordsError` for an unknown voice or a text without sound.
    """
    return _speak(text, voice, words_per_minute, pitch, _UTF8)


def _speak(text: str, voice: str, words_per_minute: int, pitch: int, flags: int) -> Spoken:
    text = text if flags & _MNEMONICS else _safe(text)
    with _LOCK:
        library = _open()
        library.use_voice(voice)
        library.lib.espeak_SetParameter(1, words_per_minute, 0)
        library.lib.espeak_SetParameter(3, pitch, 0)
        library.chunks, library.events, library.words = [], [], []
        data = text.encode() + b"\0"
        if library.lib.espeak_Synth(data, len(data), 0, 0, 0, flags, None, None):
            raise EngineError("The speech synthesiser failed; try a shorter text.")
        pcm, events, words = b"".join(library.chunks), list(library.events), list(library.words)
    samples = np.frombuffer(pcm, dtype="<i2").astype(np.float32) / np.float32(32768)
    if not len(samples):
        raise WordsError("There is nothing to say in this text.")
    begin = len(text) - len(text.lstrip())
    if words and words[0][1] > begin:
        # The event of a first word is lost now and then.
        words.insert(0, (0, begin))
    starts = tuple(
        (at * 1_000_000 // library.rate_hz, rest[0]) for at, begin in words if (rest := text[begin:].split(maxsplit=1))
    )
    phonemes = _phonemes(events, voice.partition("+")[0], library.rate_hz, len(samples))
    return Spoken(samples, library.rate_hz, phonemes, starts)


def _phonemes(events: list[tuple[int, str]], language: str, rate_hz: int, total: int) -> tuple[Phoneme, ...]:
    out: list[Phoneme] = []
    ends = [sample for sample, _ in events[1:]] + [total]
    for (start, symbol), end in zip(events, ends, strict=True):
        start_us, end_us = start * 1_000_000 // rate_hz, min(end, total) * 1_000_000 // rate_hz
        if strip_marks(symbol) and symbol not in _PAUSES and end_us > start_us:
            out.append(Phoneme(value_of(symbol, language), start_us, end_us))
    return tuple(out)

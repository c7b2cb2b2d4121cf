"""The synthesiser's library, libespeak-ng, in a process of its own.

Run as a script, it answers requests on its standard input, and exits when that ends. It uses nothing of the
application, and the application never loads the library.

A message is a line of JSON; in an answer, `bytes` says how many bytes of sound follow it. Asked:

    {"do": "open"}                                               {"rate": Hz}
    {"do": "voices"}                                             {"voices": [[code, name, identifier], ...]}
    {"do": "letters", "text", "voice", "mode"}                   {"said": text}
    {"do": "speak", "text", "voice", "speed", "pitch", "flags"}  {"rate", "phonemes", "words", "bytes"}, 16-bit samples

Where something is wrong: {"wrong": "library"}, "data", "voice" or "speech".
"""

import ctypes
import json
import sys
from typing import Any, BinaryIO

_SYNCHRONOUS = 2
_PHONEME_EVENTS, _IPA_EVENTS, _DONT_EXIT = 0x1, 0x2, 0x8000
_UTF8 = 1
_EVENT_END, _EVENT_WORD, _EVENT_PHONEME = 0, 1, 7
_SPEED, _PITCH = 1, 3


class _WrongError(Exception):
    """A failed request, as a word of the protocol."""


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


class _Library:
    """The library, opened once; collects what its callbacks deliver."""

    def __init__(self) -> None:
        try:
            self.lib = ctypes.CDLL("libespeak-ng.so.1")
        except OSError:
            raise _WrongError("library") from None
        self.lib.espeak_TextToPhonemes.restype = ctypes.c_char_p
        self.lib.espeak_ListVoices.restype = ctypes.POINTER(ctypes.POINTER(_Voice))
        self.rate_hz = self.lib.espeak_Initialize(_SYNCHRONOUS, 0, None, _PHONEME_EVENTS | _IPA_EVENTS | _DONT_EXIT)
        if self.rate_hz <= 0:
            raise _WrongError("data")
        self.chunks: list[bytes] = []
        self.phonemes: list[tuple[int, str]] = []
        self.words: list[tuple[int, int]] = []
        self._callback = _CALLBACK(self._collect)
        self.lib.espeak_SetSynthCallback(self._callback)

    def _collect(self, wav: "ctypes._Pointer[ctypes.c_short]", count: int, events: "ctypes._Pointer[_Event]") -> int:
        if wav and count > 0:
            self.chunks.append(ctypes.string_at(wav, count * 2))
        at = 0
        while events[at].type != _EVENT_END:
            if events[at].type == _EVENT_PHONEME:
                self.phonemes.append((events[at].sample, events[at].id.string.decode("utf-8", "ignore")))
            elif events[at].type == _EVENT_WORD:
                self.words.append((events[at].sample, events[at].text_position - 1))
            at += 1
        return 0

    def _use(self, voice: str) -> None:
        if voice.replace("-", "").replace("+", "").replace("_", "").isalnum():
            # Some languages are not the name of a voice, but a voice speaks them.
            if self.lib.espeak_SetVoiceByName(voice.encode()) == 0:
                return
            wanted = _Voice(languages=voice.encode())
            if self.lib.espeak_SetVoiceByProperties(ctypes.byref(wanted)) == 0:
                return
        raise _WrongError("voice")

    def open(self) -> dict[str, Any]:
        """Check that the library is there."""
        return {"rate": self.rate_hz}

    def voices(self) -> dict[str, Any]:
        """The code, name and identifier of each voice."""
        found = self.lib.espeak_ListVoices(None)
        out = []
        at = 0
        while found[at]:
            voice = found[at].contents
            # Each language is a byte with its priority, followed by its code.
            code, name = voice.languages[1:].decode(), (voice.name or b"").decode()
            out.append([code, name, (voice.identifier or b"").decode()])
            at += 1
        return {"voices": out}

    def letters(self, text: str, voice: str, mode: int) -> dict[str, Any]:
        """The library's transcription of a text."""
        self._use(voice)
        buffer = ctypes.c_char_p(text.encode())
        pointer = ctypes.pointer(buffer)
        clauses: list[str] = []
        while buffer.value:
            found = self.lib.espeak_TextToPhonemes(pointer, _UTF8, mode | (ord("_") << 8))
            clauses.append((found or b"").decode())
        return {"said": " ".join(clauses)}

    def speak(self, text: str, voice: str, speed: int, pitch: int, flags: int) -> dict[str, Any]:
        """Synthesise a text, with the starts of its sounds and words.

        Raises
        ------
        _WrongError
            Where the library does not speak it.
        """
        self._use(voice)
        self.lib.espeak_SetParameter(_SPEED, speed, 0)
        self.lib.espeak_SetParameter(_PITCH, pitch, 0)
        self.chunks, self.phonemes, self.words = [], [], []
        data = text.encode() + b"\0"
        if self.lib.espeak_Synth(data, len(data), 0, 0, 0, flags, None, None):
            raise _WrongError("speech")
        return {"rate": self.rate_hz, "phonemes": self.phonemes, "words": self.words}


def serve(asked: BinaryIO, answers: BinaryIO) -> None:
    """Answer requests line by line until the input ends."""
    library: _Library | None = None
    for line in asked:
        sound = b""
        try:
            library = library or _Library()
            parameters = json.loads(line)
            answer = getattr(library, parameters.pop("do"))(**parameters)
            sound = b"".join(library.chunks)
            library.chunks = []
        except _WrongError as wrong:
            answer = {"wrong": str(wrong)}
        answers.write(json.dumps({**answer, "bytes": len(sound)}).encode() + b"\n" + sound)
        answers.flush()


if __name__ == "__main__":
    serve(sys.stdin.buffer, sys.stdout.buffer)

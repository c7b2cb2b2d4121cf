"""Speech with the exact times of its sounds, from three synthesisers that say them: flite, festival and espeak-ng.

Sounds are IPA; times in seconds; samples mono, -1 to 1, at 16 kHz.
"""

import ctypes
import os
import subprocess
import tempfile
import wave
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from tinfork.core.sound.voice import level_db
from tinfork.engines import synthesiser
from tools.ear import phonesets, voices

RATE_HZ = 16_000
Segment = tuple[str, float, float]


@dataclass(frozen=True)
class LabelledSpeech:
    """Samples, and the sounds in them: (IPA, start, end), without pauses."""

    samples: NDArray[np.float32]
    segments: tuple[Segment, ...]


def _at_16k(samples: NDArray[np.float32], rate_hz: int) -> NDArray[np.float32]:
    return np.asarray(soxr.resample(samples, rate_hz, RATE_HZ), dtype=np.float32)


def with_tails(heard: LabelledSpeech) -> LabelledSpeech:
    """Sounds beside pauses, from and to where they are heard.

    Synthesisers begin their pauses while a sound still fades.

    A sound's end moves on for as long as the level stays within 26 dB of its own and well above the pause.
    """
    levels = level_db(heard.samples, RATE_HZ)
    floor = float(np.quantile(levels, 0.02)) + 8.0
    out: list[list[float | str]] = [list(s) for s in heard.segments]
    for at, (_, start, end) in enumerate(heard.segments):
        limit = heard.segments[at + 1][1] if at + 1 < len(out) else len(heard.samples) / RATE_HZ
        if limit - end < 0.03:
            continue
        own = float(levels[int(start * 100) : max(int(end * 100), int(start * 100) + 1)].max(initial=-120))
        frame = int(end * 100)
        while frame < min(len(levels), int(limit * 100)) and levels[frame] > max(own - 26.0, floor):
            frame += 1
        out[at][2] = max(end, min(frame / 100, limit))
    return LabelledSpeech(heard.samples, tuple((str(s), float(a), float(b)) for s, a, b in out))


# flite --------------------------------------------------------------------------------------------------------------


@cache
def _flite() -> ctypes.CDLL:
    lib = ctypes.CDLL("libflite.so.1", mode=ctypes.RTLD_GLOBAL)
    for name in ("flite_synth_text", "utt_relation", "relation_head", "item_next", "utt_wave"):
        getattr(lib, name).restype = ctypes.c_void_p
    lib.item_feat_string.restype = ctypes.c_char_p
    lib.item_feat_float.restype = ctypes.c_float
    lib.flite_init()
    for part in ("usenglish", "cmulex"):
        ctypes.CDLL(f"libflite_{part}.so.1", mode=ctypes.RTLD_GLOBAL)
    return lib


class _Wave(ctypes.Structure):
    _fields_ = [
        ("type", ctypes.c_char_p),
        ("sample_rate", ctypes.c_int),
        ("num_samples", ctypes.c_int),
        ("num_channels", ctypes.c_int),
        ("samples", ctypes.POINTER(ctypes.c_short)),
    ]


class _FliteVoice(ctypes.Structure):
    _fields_ = [("name", ctypes.c_char_p), ("features", ctypes.c_void_p)]


@cache
def _flite_voice(name: str) -> int:
    lib = _flite()
    library = ctypes.CDLL(f"libflite_{name}.so.1", mode=ctypes.RTLD_GLOBAL)
    register = getattr(library, f"register_{name}")
    register.restype = ctypes.c_void_p
    voice: int = register(None)
    assert lib
    return voice


def flite(text: str, voice: str, *, stretch: float = 1.0, pitch_hz: float | None = None) -> LabelledSpeech:
    """Speech of a flite voice ("cmu_us_rms"); `pitch_hz` moves the voice's pitch and leaves its formants."""
    lib = _flite()
    address = _flite_voice(voice)
    features = ctypes.c_void_p(_FliteVoice.from_address(address).features)
    lib.feat_set_float(features, b"duration_stretch", ctypes.c_float(stretch))
    if pitch_hz:
        lib.feat_set_float(features, b"int_f0_target_mean", ctypes.c_float(pitch_hz))
    said = ctypes.c_void_p(lib.flite_synth_text(text.encode(), ctypes.c_void_p(address)))
    found: list[tuple[str, float]] = []
    item = lib.relation_head(ctypes.c_void_p(lib.utt_relation(said, b"Segment")))
    while item:
        name = lib.item_feat_string(ctypes.c_void_p(item), b"name").decode()
        found.append((name, float(lib.item_feat_float(ctypes.c_void_p(item), b"end"))))
        item = lib.item_next(ctypes.c_void_p(item))
    sound = _Wave.from_address(lib.utt_wave(said))
    samples = np.ctypeslib.as_array(sound.samples, (sound.num_samples,)).astype(np.float32) / np.float32(32768)
    rate_hz = sound.sample_rate
    lib.delete_utterance(said)
    return LabelledSpeech(_at_16k(samples, rate_hz), _segments(found, phonesets.RADIO))


def _segments(found: Sequence[tuple[str, float]], phoneset: dict[str, str]) -> tuple[Segment, ...]:
    out: list[Segment] = []
    start = 0.0
    for name, end in found:
        ipa = phoneset[name]
        if ipa and end > start:
            out.append((ipa, start, end))
        start = end
    return tuple(out)


# festival -----------------------------------------------------------------------------------------------------------

_SCHEME = """
(voice_{voice})
(Parameter.set 'Duration_Stretch {stretch})
(define (tell text name)
  (set! utt (utt.synth (eval (list 'Utterance 'Text text))))
  (utt.save.wave utt (string-append name ".wav") 'riff)
  (set! out (fopen (string-append name ".seg") "w"))
  (mapcar (lambda (s) (format out "%s %f\\n" (item.name s) (item.feat s "end"))) (utt.relation.items utt 'Segment))
  (fclose out))
"""


def festival(
    texts: Sequence[str], voice: str, phoneset: str, *, encoding: str, stretch: float = 1.0
) -> list[LabelledSpeech]:
    """Speech of a festival voice ("kal_diphone"), a sentence each; one that fails is left out."""
    with tempfile.TemporaryDirectory() as folder:
        script = [_SCHEME.format(voice=voice, stretch=stretch)]
        for number, text in enumerate(texts):
            clean = text.replace("\\", " ").replace('"', " ")
            script.append(f'(unwind-protect (tell "{clean}" "{folder}/{number}"))')
        path = Path(folder) / "script.scm"
        path.write_bytes("\n".join(script).encode(encoding, "ignore"))
        subprocess.run(["festival", "--batch", str(path)], capture_output=True, timeout=600, check=False)
        out = []
        for number in range(len(texts)):
            sound, labels = Path(folder) / f"{number}.wav", Path(folder) / f"{number}.seg"
            if not sound.exists() or not labels.exists():
                continue
            rows = [row.split() for row in labels.read_text("latin-1").splitlines()]
            with wave.open(str(sound)) as file:
                rate_hz = file.getframerate()
                pcm = np.frombuffer(file.readframes(file.getnframes()), dtype="<i2")
            samples = _at_16k((pcm / 32768).astype(np.float32), rate_hz)
            names = [(name, float(end)) for name, end in rows]
            if len(samples) and all(name in phonesets.BY_NAME[phoneset] for name, _ in names):
                out.append(LabelledSpeech(samples, _segments(names, phonesets.BY_NAME[phoneset])))
        return out


# espeak-ng ----------------------------------------------------------------------------------------------------------


#: So many voices are made up.
VARIANTS = 60


def put_variants(folder: Path, pick: np.random.Generator) -> None:
    """Put the synthesiser's data into a folder, with voices of our own among its variants ("tin0" and so on).

    It must come before the synthesiser is first used in this process.
    """
    source = next(Path("/usr/lib").glob("*/espeak-ng-data"))
    data = folder / "espeak-ng-data"
    variants = data / "voices" / "!v"
    variants.mkdir(parents=True)
    for entry in source.iterdir():
        if entry.name != "voices":
            (data / entry.name).symlink_to(entry)
    for number in range(VARIANTS):
        (variants / f"tin{number}").write_text(voices.formant_voice(pick))
    os.environ["ESPEAK_DATA_PATH"] = str(folder)


def espeak(text: str, voice: str, *, words_per_minute: int = 160, pitch: int = 50) -> LabelledSpeech:
    """Speech of espeak-ng, in any of its voices and variants."""
    said = synthesiser.speak(text, voice, words_per_minute=words_per_minute, pitch=pitch)
    segments = tuple((p.ipa, p.start_us / 1e6, p.end_us / 1e6) for p in said.phonemes)
    return LabelledSpeech(_at_16k(said.samples, said.rate_hz), segments)

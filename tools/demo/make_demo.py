"""Make the demo film's sounds and story reel: every one of them is ours to ship.

Usage: python -m tools.demo.make_demo. Writes demo/*.wav, demo/*.webm and the stand-in microphone's sample anew from
demo/film.json. Voices are those of the synthesisers flite (Debian's package flite) and espeak-ng; the bell is computed,
the reel drawn by tools/demo/story_reel.py.
"""

import json
import subprocess
import tempfile
import wave
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from tinfork.engines.synthesiser import speak
from tools.demo.story_reel import write_reel

ROOT = Path(__file__).resolve().parents[2]
DEMO = ROOT / "demo"
STAND_IN = ROOT / "tinfork" / "static" / "sounds" / "stand-in.wav"
LEAD_IN_S, PAUSE_S, TAIL_S = 0.6, 0.7, 0.8
RATE = 16_000


def _resampled(samples: NDArray[np.float32], rate_hz: int) -> NDArray[np.float32]:
    out: NDArray[np.float32] = soxr.resample(samples, rate_hz, RATE).astype(np.float32)
    return out


def _say(text: str, voice: str) -> NDArray[np.float32]:
    """A line spoken by flite, or by espeak-ng where the voice is one of its languages ("espeak:es")."""
    engine, _, name = voice.rpartition(":")
    if engine == "espeak":
        said = speak(text, name, words_per_minute=150)
        return _resampled(said.samples, said.rate_hz) * np.float32(0.8)
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        command = ["flite", "-voice", name, "--setf", "duration_stretch=1.08", "-t", text, "-o", file.name]
        subprocess.run(command, check=True)
        with wave.open(file.name) as sound:
            pcm = np.frombuffer(sound.readframes(sound.getnframes()), dtype="<i2")
            samples = (pcm / 32768).astype(np.float32)
            return _resampled(samples, sound.getframerate())


def _write(path: Path, samples: NDArray[np.float32]) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    with wave.open(str(path), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(RATE)
        out.writeframes(np.clip(np.rint(samples * 32768), -32768, 32767).astype("<i2").tobytes())


def _silence(seconds: float) -> NDArray[np.float32]:
    return np.zeros(round(seconds * RATE), dtype=np.float32)


def _shot(shot: dict[str, object]) -> NDArray[np.float32]:
    parts = [_silence(LEAD_IN_S)]
    voices = shot["voices"]
    assert isinstance(voices, dict) and isinstance(shot["words"], list)
    for line in shot["words"]:
        name, _, text = line.rpartition(": ") if ": " in line else ("", "", line)
        parts += [_say(text, voices[name.split(" (")[0]]), _silence(PAUSE_S)]
    parts[-1] = _silence(TAIL_S)
    return np.concatenate(parts)


def _bell() -> NDArray[np.float32]:
    """A tram's bell, struck twice: partials of a small bell, dying away."""
    at = np.arange(round(1.6 * RATE)) / RATE
    stroke = np.zeros(len(at))
    for hz, level, fall in ((1180, 0.3, 3.0), (2360, 0.2, 4.5), (3140, 0.14, 6.0), (4900, 0.07, 9.0)):
        stroke += level * np.sin(2 * np.pi * hz * at) * np.exp(-at * fall)
    out = np.zeros(round(2.2 * RATE))
    for start_s in (0.0, 0.35):
        first = round(start_s * RATE)
        part = stroke[: len(out) - first]
        out[first : first + len(part)] += part
    return (out * 0.8).astype(np.float32)


def main() -> None:
    """Write everything."""
    film = json.loads((DEMO / "film.json").read_text("utf-8"))
    for shot in film["shots"]:
        _write(DEMO / shot["sound"], _shot(shot))
    _write(DEMO / film["effect"], _bell())
    write_reel(DEMO / film["reel"], DEMO)
    _write(STAND_IN, np.concatenate([_silence(0.3), _say(film["stand_in"], "slt"), _silence(0.5)]))


if __name__ == "__main__":
    main()

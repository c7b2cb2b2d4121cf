"""Make the demo film's sound with the synthesiser flite (Debian's package flite): every sound is ours to ship.

Usage: python -m tools.make_demo. Writes demo/*.wav anew from demo/film.json.
"""

import json
import subprocess
import tempfile
import wave
from pathlib import Path

DEMO = Path(__file__).resolve().parents[1] / "demo"
LEAD_IN_S, PAUSE_S, TAIL_S = 0.6, 0.7, 0.8


def _say(text: str, voice: str) -> tuple[bytes, int]:
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        command = ["flite", "-voice", voice, "--setf", "duration_stretch=1.08", "-t", text, "-o", file.name]
        subprocess.run(command, check=True)
        with wave.open(file.name) as sound:
            return sound.readframes(sound.getnframes()), sound.getframerate()


def _silence(seconds: float, rate: int) -> bytes:
    return b"\0\0" * round(seconds * rate)


def main() -> None:
    """Write the sound of each shot."""
    for shot in json.loads((DEMO / "film.json").read_text())["shots"]:
        said = [_say(line, shot["voice"]) for line in shot["words"]]
        rate = said[0][1]
        parts = [_silence(LEAD_IN_S, rate)]
        for pcm, _ in said:
            parts += [pcm, _silence(PAUSE_S, rate)]
        parts[-1] = _silence(TAIL_S, rate)
        with wave.open(str(DEMO / shot["sound"]), "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(rate)
            out.writeframes(b"".join(parts))


if __name__ == "__main__":
    main()

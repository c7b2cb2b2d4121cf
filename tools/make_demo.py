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
        subprocess.run(["flite", "-voice", voice, "--setf", "duration_stretch=1.08", "-t", text, "-o", file.name], check=True)
        with wave.open(file.name) as sound:
            return sound.readframes(sound.getnframes()), sound.getframerate()


def main() -> None:
    """Write the sound of each shot."""
    for shot in json.loads((DEMO / "film.json").read_text())["shots"]:
        said = [_say(line, shot["voice"]) for line in shot["words"]]
        rate = said[0][1]
        silence = lambda seconds, rate=rate: b"\0\0" * round(seconds * rate)  # noqa: E731
        parts = [silence(LEAD_IN_S)]
        for pcm, _ in said:
            parts += [pcm, silence(PAUSE_S)]
        parts[-1] = silence(TAIL_S)
        with wave.open(str(DEMO / shot["sound"]), "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(rate)
            out.writeframes(b"".join(parts))


if __name__ == "__main__":
    main()

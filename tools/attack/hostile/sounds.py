"""Hostile sounds and films: truncated, mislabelled, and valid ones with bad names."""

import gzip
import io
import struct
import subprocess
import tempfile
import wave
from collections.abc import Iterator
from pathlib import Path
from random import Random

import numpy as np

from tinfork.engines.programs import program
from tools.attack.hostile.archives import zip_of
from tools.attack.hostile.kinds import FILM, SOUND, Hostile, hurt
from tools.attack.hostile.pictures import png


def wav(samples: np.ndarray, rate_hz: int = 16_000) -> bytes:
    """16-bit WAV, mono."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(rate_hz)
        file.writeframes((np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
    return out.getvalue()


def tone(seconds: float, rate_hz: int = 16_000) -> np.ndarray:
    """A wobbling buzz with pauses."""
    t = np.arange(int(seconds * rate_hz)) / rate_hz
    return 0.4 * np.sign(np.sin(2 * np.pi * 140 * t)) * (np.sin(2 * np.pi * 1.7 * t) > -0.3)


def encoded(data: bytes, suffix: str, *more: str) -> bytes:
    """A WAV in another form."""
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "in.wav", Path(folder) / f"out.{suffix}"
        source.write_bytes(data)
        command = [program("ffmpeg"), "-v", "error", "-y", "-i", str(source), *more, str(target)]
        subprocess.run(command, check=True, timeout=60)
        return target.read_bytes()


def film(seconds: float = 1.0) -> bytes:
    """A small film without sound."""
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "out.mp4"
        pattern = f"testsrc=size=160x90:rate=12:duration={seconds}"
        command = [
            program("ffmpeg"),
            "-v",
            "error",
            "-y",
            "-f",
            "lavfi",
            "-i",
            pattern,
            "-pix_fmt",
            "yuv420p",
            str(target),
        ]
        subprocess.run(command, check=True, timeout=60)
        return target.read_bytes()


def _riff(form: bytes, data: bytes, size: int | None = None, data_size: int | None = None) -> bytes:
    body = b"fmt " + struct.pack("<I", len(form)) + form
    body += b"data" + struct.pack("<I", len(data) if data_size is None else data_size) + data
    return b"RIFF" + struct.pack("<I", 4 + len(body) if size is None else size) + b"WAVE" + body


def _form(kind: int = 1, channels: int = 1, rate: int = 16_000, bits: int = 16) -> bytes:
    each = channels * bits // 8
    return struct.pack("<HHIIHH", kind, channels, rate, min(rate * each, 2**32 - 1), min(each, 65535), bits)


def sounds(dice: Random) -> Iterator[Hostile]:
    """Files of sound."""
    whole = wav(tone(1.2))
    pcm = whole[44:]
    yield from (
        Hostile(SOUND, name, data)
        for name, data in {
            "empty.wav": b"",
            "one-byte.wav": b"R",
            "head-only.wav": whole[:44],
            "half-a-head.wav": whole[:20],
            "text.wav": b"The last tram leaves the depot.",
            "open-size.wav": _riff(_form(), pcm, 0xFFFFFFFF, 0xFFFFFFFF),
            "no-size.wav": _riff(_form(), pcm, 0, 0),
            "promises-two-gigabytes.wav": _riff(_form(), pcm, 2**31 - 1, 2**31 - 9),
            "no-channels.wav": _riff(_form(channels=0), pcm),
            "many-channels.wav": _riff(_form(channels=65535), pcm),
            "no-rate.wav": _riff(_form(rate=0), pcm),
            "fast.wav": _riff(_form(rate=2**32 - 1), pcm),
            "one-hertz.wav": _riff(_form(rate=1), pcm),
            "no-bits.wav": _riff(_form(bits=0), pcm),
            "seven-bits.wav": _riff(_form(bits=7), pcm),
            "nan.wav": _riff(_form(3, bits=32), np.full(20_000, np.nan, "<f4").tobytes()),
            "infinite.wav": _riff(_form(3, bits=32), np.full(20_000, np.inf, "<f4").tobytes()),
            "loud.wav": _riff(_form(3, bits=32), np.full(20_000, 1e30, "<f4").tobytes()),
            "one-sample.wav": wav(np.zeros(1)),
            "silent.wav": wav(np.zeros(32_000)),
            "constant.wav": wav(np.ones(32_000)),
            "codec-of-nobody.wav": _riff(_form(0xDEAD), pcm),
            "list-of-songs.m3u": b"#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n",
            "stream.m3u8": b"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile:///etc/hostname\n#EXT-X-ENDLIST\n",
            "script-of-parts.wav": b"ffconcat version 1.0\nfile '/etc/passwd'\nfile 'http://localhost/x'\n",
            "session.sdp": b"v=0\no=- 0 0 IN IP4 127.0.0.1\nc=IN IP4 127.0.0.1\nm=audio 5004 RTP/AVP 0\n",
            "zip.wav": zip_of({"a": b"x"}),
            "zeros.mp3": b"\0" * 200_000,
            "endless-tag.mp3": b"ID3\x04\0\0\x7f\x7f\x7f\x7f" + b"\0" * 5000,
            "random.mp3": dice.randbytes(60_000),
            "packed.wav.gz": gzip.compress(b"\0" * 20_000_000),
        }.items()
    )
    forms = {
        "flac": (),
        "mp3": (),
        "ogg": ("-c:a", "libvorbis"),
        "opus": (),
        "m4a": (),
        "aiff": (),
        "webm": (),
        "w64": (),
    }
    for suffix, more in forms.items():
        good = encoded(whole, suffix, *more)
        yield Hostile(SOUND, f"cut.{suffix}", good[: len(good) // 2])
        yield Hostile(SOUND, f"head.{suffix}", good[:60])
        yield Hostile(SOUND, f"hurt.{suffix}", hurt(good, dice))
        yield Hostile(SOUND, f"tail-first.{suffix}", good[len(good) // 2 :] + good[: len(good) // 2])


def names() -> Iterator[Hostile]:
    """A valid sound with bad names."""
    good = wav(tone(0.4))
    given = (
        "../../../../tmp/evil.wav", "..\\..\\evil.wav", "/etc/passwd", "\u202evaw.exe", "a\0b.wav", "x" * 2000 + ".wav", "",
        ".wav", "a\nb.wav", "<img src=x onerror=alert(1)>.wav", "💋🎤.wav", "con.wav", "%2e%2e%2f.wav", "\ufeff\u200b.wav",
    )  # fmt: skip
    yield from (Hostile(SOUND, name, good) for name in given)


def films(dice: Random) -> Iterator[Hostile]:
    """Story reels."""
    good = film()
    yield Hostile(FILM, "sound-only.mp4", encoded(wav(tone(0.5)), "m4a"))
    yield Hostile(FILM, "cut.mp4", good[: len(good) // 2])
    yield Hostile(FILM, "hurt.mp4", hurt(good, dice))
    yield Hostile(FILM, "no-index.mp4", good.replace(b"moov", b"free"))
    yield Hostile(FILM, "lasts-a-year.mp4", good.replace(b"mvhd", b"mvhd", 1)[:-4] + b"\xff" * 4)
    yield Hostile(FILM, "picture.mp4", png(np.zeros((9, 9, 4), np.uint8)))

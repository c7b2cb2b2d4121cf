"""Writing a shot's sound to a file: clips are decoded, mixed and encoded as streams, block by block."""

import subprocess
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from tinfork.core.errors import EngineError
from tinfork.core.soundtrack.mix import clip_samples, mix
from tinfork.core.soundtrack.model import Clip, Soundtrack
from tinfork.engines.decode import encoder, part_blocks
from tinfork.engines.limits import LISTENING_HZ


def write_mix(
    st: Soundtrack,
    paths: Mapping[int, Path],
    target: Path,
    *,
    gains_db: Mapping[int, float] | None = None,
    beat: Callable[[], None] = lambda: None,
) -> None:
    """Write the shot's sound as stereo FLAC (or WAV, by `target`'s suffix); `paths` are the listening copies by take.

    `beat` is called with every block; it may raise `Cancelled`.

    Raises
    ------
    EngineError
        Where it cannot be written.
    """

    def open_clip(clip: Clip) -> Iterator[NDArray[np.float32]]:
        first, count = clip_samples(clip, LISTENING_HZ)
        return part_blocks(paths[clip.take], first, count)

    process = subprocess.Popen(encoder(target, 2), stdin=subprocess.PIPE, stderr=subprocess.DEVNULL)
    assert process.stdin is not None
    try:
        for block in mix(st, open_clip, LISTENING_HZ, gains_db=gains_db):
            beat()
            process.stdin.write(np.rint(block * 32767).astype("<i2").tobytes())
        process.stdin.close()
        if process.wait():
            raise EngineError("sound.not_written")
    except BrokenPipeError:
        raise EngineError("sound.not_written") from None
    finally:
        if process.poll() is None:
            process.kill()
            process.wait()

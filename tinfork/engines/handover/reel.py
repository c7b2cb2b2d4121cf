"""Joining movies of one format without encoding them again (by ffmpeg)."""

import shutil
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import IO

from tinfork.core.errors import EngineError
from tinfork.engines.programs import program


def join(parts: Sequence[Path], out: IO[bytes]) -> None:
    """Concatenate movies to `out`; they must have been written with the same options.

    Raises
    ------
    EngineError
        Where they cannot be joined.
    """
    with tempfile.TemporaryDirectory(prefix="tinfork-") as name:
        folder = Path(name)
        rows = "".join(f"file '{part.resolve()}'\n" for part in parts)
        (folder / "list.txt").write_text(rows)
        target = folder / f"reel{parts[0].suffix}"
        command = [program("ffmpeg"), "-nostdin", "-v", "error", "-y", "-f", "concat", "-safe", "0"]
        command += ["-i", str(folder / "list.txt"), "-c", "copy", "-map_metadata", "-1", "-fflags", "+bitexact"]
        command += ["-movflags", "+faststart", str(target)] if parts[0].suffix == ".mp4" else [str(target)]
        done = subprocess.run(command, capture_output=True, check=False)
        if done.returncode or not target.exists():
            raise EngineError("reel.not_joined")
        with target.open("rb") as made:
            shutil.copyfileobj(made, out, 1024 * 1024)

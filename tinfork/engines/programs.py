"""Running outside programs on untrusted files.

Each in a process of its own, with limited memory and time, which ends with ours.
"""

import select
import shutil
import subprocess
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from tinfork.core.errors import EngineError, SoundError
from tinfork.core.messages import Message
from tinfork.engines import limits

#: How often `beat` is called while a program writes nothing (seconds).
_BEAT_S = 1.0


def program(name: str) -> str:
    """The path of an outside program.

    Raises
    ------
    EngineError
        When it is missing.
    """
    path = shutil.which(name)
    if path is None:
        package = "util-linux" if name == "prlimit" else "ffmpeg"
        raise EngineError("engine.not_installed", name=name, package=package)
    return path


def limited(name: str) -> list[str]:
    """The prefix of a command that limits a program's memory."""
    return [program("prlimit"), f"--as={limits.PROGRAM_BYTES}", "--core=0", program(name)]


def stopped(name: str) -> str:
    """The error if an outside program was killed, which says nothing about the file."""
    return Message("sound.stopped", name=name)


class Running:
    """A running program: its output as a stream; after its end, its exit `status` and its messages, `told`."""

    def __init__(self, process: "subprocess.Popen[bytes]", beat: Callable[[], None]) -> None:
        self._process, self._beat = process, beat
        self.status, self.told = 0, ""

    def read(self, most: int) -> bytes:
        """Read up to a number of bytes as soon as some are available; none at the end."""
        assert self._process.stdout is not None
        while not select.select([self._process.stdout], [], [], _BEAT_S)[0]:
            self._beat()
        return self._process.stdout.read(most)


@contextmanager
def running(command: list[str], name: str, limit_s: float, beat: Callable[[], None]) -> Iterator[Running]:
    """Run a command on the file called `name`.

    `beat` is called at least every second while it is read from; it may raise `Cancelled`.

    Raises
    ------
    SoundError
        For a file that takes longer than `limit_s`.
    EngineError
        Where the program was killed or the disk is full.
    """
    with tempfile.TemporaryFile() as said:
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=said, bufsize=0)
        late = threading.Event()

        def stop() -> None:
            late.set()
            process.kill()

        timer = threading.Timer(limit_s, stop)
        timer.start()
        work = Running(process, beat)
        try:
            yield work
            work.status = process.wait()
            said.seek(0)
            work.told = said.read().decode("utf-8", "replace")
        finally:
            timer.cancel()
            process.kill()
            process.wait()
            if process.stdout:
                process.stdout.close()
    if late.is_set():
        raise SoundError("sound.too_slow", name=name)
    if work.status < 0:
        raise EngineError(stopped(name))
    if "No space left on device" in work.told:
        raise EngineError("sound.disk_full", name=name)

"""Running computations in a process of their own: they can be stopped at once, and a crash does not spread.

A child has limited memory and time, since uploads may need any amount of either.
"""

import ctypes
import math
import multiprocessing
import resource
import signal
import time
from collections.abc import Callable
from functools import cache
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext
from typing import Any, TypeVar

from tinfork.core.errors import EngineError, TinForkError
from tinfork.core.messages import Message
from tinfork.engines.limits import CHILD_BYTES

T = TypeVar("T")

_PR_SET_PDEATHSIG = 1
_HEARTBEAT_S = 1.0


_TOO_LONG = Message("apart.too_long")


class _Report:
    """The child's callback: reports progress, and finished parts of its result."""

    def __init__(self, pipe: Connection) -> None:
        self._pipe = pipe

    def __call__(self, phase: str, done: float, part: Any = None) -> None:
        if part is not None:
            self._pipe.send(("part", part))
        self._pipe.send(("progress", phase, done))


@cache
def _context() -> ForkServerContext:
    """Children are forked from a clean server process with the engines loaded, so that they start at once."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(
        [
            "tinfork.engines.reading.reader",
            "tinfork.engines.characters",
            "tinfork.engines.redraw",
            "tinfork.engines.scripts",
        ]
    )
    return context


def _work(
    pipe: Connection, function: Callable[..., Any], arguments: tuple[Any, ...], memory_bytes: int, reports: bool
) -> None:
    """In the child: send progress and the result through the pipe."""
    # Die with the worker: nobody else needs the result.
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    resource.setrlimit(resource.RLIMIT_DATA, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        result = function(*arguments, _Report(pipe)) if reports else function(*arguments)
    except TinForkError as error:
        pipe.send(("error", error))
    except MemoryError:
        pipe.send(("memory",))
    else:
        pipe.send(("result", result))


def unheard(phase: str, done: float) -> None:
    """A progress callback that does nothing."""


def run_isolated(
    function: Callable[..., T],
    *arguments: Any,
    progress: Callable[[str, float], None],
    keep: Callable[[Any], None] = lambda part: None,
    limit_s: float = math.inf,
    memory_bytes: int = CHILD_BYTES,
    too_much: TinForkError | None = None,
    reports: bool = True,
) -> T:
    """`function(*arguments, report)` in a child process of at most `memory_bytes`.

    With `reports` false, it is called without `report`.

    It may call `report(phase, done)`, or `report(phase, done, part)` with a part of its result, which is passed to
    `keep` here. `progress(phase, done)` is called here, at least every second from the start, with an empty phase until
    the child's first report; if it raises (`Cancelled`), the child is killed. Our own errors are raised here, too; if
    the child dies, or needs more memory or time than `limit_s`, an `EngineError` or `too_much` is raised.

    Raises
    ------
    EngineError
        Where the child was killed, has too little memory, or takes too long.
    """  # noqa: DOC501
    context = _context()
    ours, theirs = context.Pipe()
    child = context.Process(target=_work, args=(theirs, function, arguments, memory_bytes, reports), daemon=True)
    child.start()
    theirs.close()
    last = ("", 0.0)
    until = time.monotonic() + limit_s
    try:
        while True:
            if time.monotonic() > until:
                raise too_much or EngineError(_TOO_LONG)
            if not ours.poll(min(_HEARTBEAT_S, max(0.0, until - time.monotonic()))):
                progress(*last)
                continue
            kind, *content = ours.recv()
            if kind == "result":
                result: T = content[0]
                return result
            if kind == "error":
                raise content[0]
            if kind == "memory":
                raise EOFError
            if kind == "part":
                keep(content[0])
                continue
            last = (content[0], content[1])
            progress(*last)
    except EOFError:
        child.join(5)
        # Killed from outside, by an administrator or for lack of memory: that says nothing about the input.
        if child.exitcode == -signal.SIGKILL:
            raise EngineError("apart.interrupted") from None
        raise too_much or EngineError("apart.no_memory") from None
    finally:
        child.kill()
        child.join()
        ours.close()

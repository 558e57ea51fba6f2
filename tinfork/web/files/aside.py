"""What came from outside is opened in a process of its own, with limits of memory and time: what is made to take more
than anybody's picture does takes nothing from those who work beside it, and what breaks its reader breaks nothing else.
"""

import multiprocessing
import os
import resource
import signal
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from multiprocessing.forkserver import ensure_running
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, TypeVar

from tinfork.core.errors import TinForkError

T = TypeVar("T")

SECONDS, MEGABYTES = 150.0, 2_400
"""Thrice what the largest honest chart takes, 120 drawings of 1000 x 1000, in time; a fifth more than it in memory."""

_SECONDS_TO_WAIT = 20.0
_NICE = 4
_PRELOADED = ["tinfork.core.formats.chart_in", "tinfork.core.sound.survey"]

_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(_PRELOADED)
_turn, _next = threading.Semaphore(1), threading.Semaphore(1)


class TooMuchError(TinForkError):
    """What was to be opened took more than it may, or broke what opened it."""


def get_ready() -> None:
    """Start what such processes are forked from, so that the first need not wait for it."""
    ensure_running()


def aside(do: Callable[..., T], *given: Any, seconds: float = SECONDS, megabytes: int = MEGABYTES) -> T:
    """Return what a function of the core gives, run aside with values that can be sent there and back. TooMuchError
    when it takes more than it may; otherwise what it raises of ours."""
    mine, its = _processes.Pipe(duplex=False)
    with TemporaryDirectory() as folder:
        at_work = Path(folder) / "at work"
        process = _processes.Process(target=_run, args=(its, megabytes, str(at_work), do, given), daemon=True)
        process.start()
        its.close()
        try:
            done, found = _answer(mine, seconds)
        finally:
            process.kill()
            process.join()
            mine.close()
        if done == "done":
            return found  # type: ignore[no-any-return]
        if done == "refused":
            raise found
        name = at_work.read_text() if at_work.exists() else "This file"
    if done == "memory":
        raise TooMuchError(f"{name} takes more memory to open than it may; make it smaller, or bring fewer in at once.")
    if done == "late" or process.exitcode == -signal.SIGALRM:
        raise TooMuchError(f"{name} takes too long to open; export it again in a simpler way.")
    raise TooMuchError(f"{name} cannot be opened; export it again in a simpler way.")


@contextmanager
def in_turn() -> Iterator[None]:
    """Inside is one at a time, and one more waits; others are told so, as they have somebody's thread each."""
    if not _next.acquire(blocking=False):
        raise TooMuchError("Others' pictures are being opened just now. Nothing was changed; try again in a moment.")
    try:
        if not _turn.acquire(timeout=_SECONDS_TO_WAIT):
            raise TooMuchError("Others' pictures take long to open. Nothing was changed; try again in a moment.")
    finally:
        _next.release()
    try:
        yield
    finally:
        _turn.release()


def _answer(mine: Connection, seconds: float) -> tuple[str, Any]:
    try:
        if not mine.poll(seconds):
            return "late", None
        answer: tuple[str, Any] = mine.recv()
        return answer
    except (EOFError, OSError):
        return "broken", None


def _run(its: Connection, megabytes: int, at_work: str, do: Callable[..., Any], given: tuple[Any, ...]) -> None:
    os.nice(max(0, _NICE - os.nice(0)))
    signal.signal(signal.SIGALRM, signal.SIG_DFL)  # What ends one that draws for too long.
    resource.setrlimit(resource.RLIMIT_DATA, (megabytes << 20, megabytes << 20))
    os.environ[AT_WORK] = at_work
    try:
        its.send(("done", do(*given)))
    except (TinForkError, OSError) as refused:  # A full disk is told as that.
        its.send(("refused", refused))
    except MemoryError:
        its.send(("memory", None))


AT_WORK = "TINFORK_AT_WORK"
"""The file in which what runs aside writes what it is about to open."""

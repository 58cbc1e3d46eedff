"""Calls that run in a process of their own, bounded in memory and time.

What a stranger's file makes a parser do is not known beforehand: here it can use up no more than
was allotted to it, and other requests keep their pace meanwhile. At most a few such calls run at
once; further ones wait for their turn.
"""

import ctypes
import logging
import multiprocessing
import os
import resource
import signal
import threading
import time
from collections.abc import Callable
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Any, TypeVar, cast

from haremile import errors
from haremile.errors import BadInputError, ConflictError, HareMileError

log = logging.getLogger(__name__)

T = TypeVar("T")
Told = Callable[..., None]

MOST_MEMORY_MIB = 640
"""Address space of the process, libraries included; what it really fills stays below 400 MiB."""

MOST_S = 300.0
WAIT_S = 60.0
"""How long a call waits for its turn."""

MOST_WAITING = 8
"""So many calls may wait: each holds a thread of the server, which has only so many."""

BUSY = "other files are being read at the moment; try again in a minute"
NICE = 10
PR_SET_PDEATHSIG = 1


class BoundedCalls:
    """Runs functions in bounded processes.

    Parameters
    ----------
    at_once : int
        How many run at the same time.
    memory_mib : int
        Address space that each may use.
    limit_s : float
        How long each may take.
    preload : sequence of module names
        Loaded once, in the process from which the others are forked.
    """

    def __init__(
        self,
        at_once: int = 2,
        memory_mib: int = MOST_MEMORY_MIB,
        limit_s: float = MOST_S,
        preload: tuple[str, ...] = (),
    ):
        self._turn = threading.BoundedSemaphore(at_once)
        self._queue = threading.BoundedSemaphore(at_once + MOST_WAITING)
        self._memory_mib, self._limit_s = memory_mib, limit_s
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(["haremile.bounded", *preload])

    def close(self) -> None:
        """End the process from which the others are forked."""
        forkserver._forkserver._stop()  # type: ignore[attr-defined]  # there is no public way

    def run(self, function: Callable[..., T], *args: Any, told: Told = lambda *what: None) -> T:
        """Call ``function(*args, tell)`` there and return what it returns.

        Parameters
        ----------
        function : callable
            Of a module, so that the other process finds it; `tell` hands what it is given to
            `told` here.
        args
            What can be pickled.

        Raises
        ------
        HareMileError
            What the function raised.
        BadInputError
            If it took more memory or time than it may.
        ConflictError
            If too many wait for their turn.
        """
        if not self._queue.acquire(blocking=False):
            raise ConflictError(BUSY)
        try:
            if not self._turn.acquire(timeout=WAIT_S):
                raise ConflictError(BUSY)
            try:
                return cast(T, self._run(function, args, told))
            finally:
                self._turn.release()
        finally:
            self._queue.release()

    def _run(self, function: Callable[..., T], args: tuple[Any, ...], told: Told) -> object:
        here, there = self._context.Pipe()
        process = self._context.Process(
            target=_serve, args=(there, self._memory_mib), daemon=True, name="haremile-bounded"
        )
        process.start()
        there.close()
        try:
            here.send((function, args))
            return self._answer(here, told)
        except (EOFError, ConnectionError):
            raise BadInputError(self._too_much()) from None
        finally:
            here.close()
            process.kill()
            process.join()
            process.close()

    def _answer(self, here: Connection, told: Told) -> object:
        deadline = time.monotonic() + self._limit_s
        while here.poll(max(deadline - time.monotonic(), 0.0)):
            kind, what = here.recv()
            if kind == "told":
                told(*what)
            elif kind == "failed":
                raise _raised(*what)
            else:
                return cast(object, what)
        raise BadInputError(f"this takes longer than {self._limit_s:g} s to read; nothing was kept")

    def _too_much(self) -> str:
        return f"this takes more than {self._memory_mib} MiB to read; nothing was kept"


def _raised(name: str, message: str, facts: dict[str, Any]) -> HareMileError:
    """The error of that name; its own maker would make another message of it."""
    kind = getattr(errors, name, HareMileError)
    made: HareMileError = kind.__new__(kind)
    Exception.__init__(made, message)
    made.__dict__.update(facts)
    return made


def _serve(there: Connection, memory_mib: int) -> None:
    """Do the one call that is asked, within bounds, and end."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    bytes_ = memory_mib * 2**20
    resource.setrlimit(resource.RLIMIT_AS, (bytes_, bytes_))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.nice(NICE)
    function, args = there.recv()
    try:
        answer = ("done", function(*args, lambda *what: there.send(("told", what))))
    except HareMileError as error:
        answer = ("failed", (type(error).__name__, str(error), vars(error)))
    except MemoryError:
        os._exit(1)  # nothing can be trusted to be sent any more: the closed pipe tells
    except Exception as error:
        log.exception("a bounded call failed")
        answer = ("failed", ("HareMileError", f"{type(error).__name__}: {error}"[:300], {}))
    there.send(answer)

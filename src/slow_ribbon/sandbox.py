"""Work in a process of its own, so that nothing sent in can hang, fill or slow the server.

A process gets a limit of processor time and one of memory, and can be stopped; it ends when the
server does, and leaves nothing on the disk.
"""

from __future__ import annotations

import ctypes
import gc
import json
import multiprocessing
import os
import resource
import signal
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Final

from slow_ribbon.core.kernel import Refused

#: Sentence how far work has come, as a share of one.
Report = Callable[[float], None]
#: What is done in the process: from bytes and arguments to a description of the result, and the result. A function of a module.
Work = Callable[[bytes, Sequence[str], Report], tuple[Any, bytes]]

#: Processes are forked from one that has no threads and, where it is kept warm, all libraries loaded.
_context: Final = multiprocessing.get_context("forkserver")


class Stopped(Exception):
    """The person stopped what was going on."""


@dataclass(frozen=True)
class Bounds:
    """How far work may go: processor time, s, and memory, bytes. ``what`` it is and what ``instead`` could be done, for its refusal."""

    seconds: int
    memory: int
    what: str
    instead: str
    where: str = ""
    code: str = "too-heavy"

    def refusal(self, why: str, reason: str = "") -> Refused:
        """Return the refusal of work that was stopped."""
        return Refused(f"{self.what} {why} and was stopped: {self.instead}. {reason[:200]}".strip(), self.where, self.code)


def keep_warm(*modules: str) -> None:
    """Start the process that others are forked from, with modules loaded, so that none has to load them again."""
    _context.set_forkserver_preload(list(modules))
    forkserver.ensure_running()


def work_apart(
    work: Work,
    arguments: Sequence[str],
    data: bytes,
    bounds: Bounds,
    stopped: Callable[[], bool] | None = None,
    report: Report | None = None,
) -> tuple[Any, bytes]:
    """Let a process of its own work on data, and return what it reports and makes.

    Raises the ``Refused`` that the work raises, or that of the ``bounds`` where it went beyond
    them; ``Stopped`` where it is to stop.
    """
    here, there = _context.Pipe()
    process = _context.Process(target=_work, args=(there, work, arguments, bounds.seconds, bounds.memory), daemon=True)
    process.start()
    there.close()
    until = time.monotonic() + bounds.seconds + 10
    try:
        here.send_bytes(data)
        while True:
            if stopped is not None and stopped():
                raise Stopped
            if here.poll(0.1):
                message = json.loads(here.recv_bytes())
                if "share" in message:
                    if report is not None:
                        report(message["share"])
                    continue
                if "refused" in message:
                    raise Refused(message["refused"], message["where"], message["code"])
                if "failed" in message:
                    raise bounds.refusal("needed too much memory or failed", message["failed"])
                return message["done"], here.recv_bytes()
            if time.monotonic() > until:
                raise bounds.refusal(f"took longer than {bounds.seconds} s")
    except (EOFError, ConnectionError, BrokenPipeError):
        # It ended without a word: stopped by a limit, or it fell over.
        process.join(5)
        late = process.exitcode in (-signal.SIGXCPU, -signal.SIGKILL)
        raise bounds.refusal(f"took longer than {bounds.seconds} s" if late else "needed too much memory or failed") from None
    finally:
        # Before its line is cut, or it would complain of that.
        if process.is_alive():
            process.kill()
        process.join()
        process.close()
        here.close()


def _work(connection: Connection, work: Work, arguments: Sequence[str], seconds: int, memory: int) -> None:
    """Work on what comes, within limits; called in the process of its own."""
    _end_with_parent()
    # It ends when its work is done: looking for cyclic garbage every few hundred objects only takes time.
    gc.set_threshold(100_000, 50, 50)
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    # Work hands over its result and writes nothing like a flood of temporary files.
    resource.setrlimit(resource.RLIMIT_FSIZE, (1024**3, 1024**3))

    def tell(**message: Any) -> None:
        connection.send_bytes(json.dumps(message).encode())

    try:
        done, packed = work(connection.recv_bytes(), arguments, lambda share: tell(share=share))
    except Refused as refused:
        tell(refused=refused.what, where=refused.where, code=refused.code)
    except Exception as error:  # noqa: BLE001 - whatever a library raises on bad input is reported in the other process
        tell(failed=f"{type(error).__name__}: {error}")
    else:
        tell(done=done)
        connection.send_bytes(packed)


def _end_with_parent() -> None:
    """Let this process be killed when the one it was forked from ends, which ends with the server."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG, see prctl(2)


@contextmanager
def in_memory(data: bytes) -> Iterator[Path]:
    """Give data a path without a file on the disk, so that nothing is left behind however this ends."""
    descriptor = os.memfd_create("file")
    try:
        with open(descriptor, "wb", closefd=False) as file:
            file.write(data)
        yield Path(f"/proc/self/fd/{descriptor}")
    finally:
        os.close(descriptor)

"""Heavy work of one user: begun at hand, and done in a process of its own with limits where it turns out heavy.

How heavy an edit, a run or a mesh is cannot be known beforehand. A thread of the server has patience
for ``AT_HAND`` seconds of it; what takes longer is given up and done again apart, where it can
take no more than ``BOUNDS`` and holds up nobody. Few are done apart at once, and few wait, since
each keeps a thread of the server; who comes then is asked to come again.
"""

from __future__ import annotations

import pickle
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager, nullcontext
from typing import Any, Final, ParamSpec, TypeVar

from slow_ribbon.core.job import Job, JobDelta, delta, with_delta
from slow_ribbon.core.job.edits import AddLines, AppliedAll, Edit, apply_all
from slow_ribbon.core.kernel import TooLong, patience
from slow_ribbon.sandbox import Bounds, Report, Work, work_apart
from slow_ribbon.service.metrics import HEAVY
from slow_ribbon.service.work.tasks import Task, TooMany
from slow_ribbon.service.work.turns import TURN

#: Processor time, s, that a thread of the server has patience for.
AT_HAND: Final = 0.3
#: What a line that is added may take of it besides, s, and all of them together.
_A_LINE: Final = 3e-4
_MOST_FOR_LINES: Final = 4.0
#: How far work apart may go.
BOUNDS: Final = Bounds(30, 2 * 1024**3, "Working this out", "nothing was changed. Make curves and sections simpler, or split what is long")
#: Processes that work at once, and threads that wait for one; the server has eight threads.
AT_ONCE: Final = 2
MOST_WAITING: Final = 2

_P = ParamSpec("_P")
_R = TypeVar("_R")

_places: Final = threading.BoundedSemaphore(AT_ONCE)
_threads: Final = threading.BoundedSemaphore(AT_ONCE + MOST_WAITING)


def at_hand(hurry: bool = True) -> AbstractContextManager[None]:
    """Return a context in which ``TooLong`` is raised where work takes too long, unless there is no ``hurry``."""
    return patience(AT_HAND) if hurry else nullcontext()


def worked(work: Callable[_P, _R], *args: _P.args, **more: _P.kwargs) -> _R:
    """Return the result of a function of a module, worked out at hand, or apart where it takes too long.

    It is given up and begun again, so that it must change nothing. Raises what it raises, and as ``apart``.
    """
    try:
        with at_hand():
            return work(*args, **more)
    except TooLong:
        return apart(work, *args, **more)


def watched(task: Task, work: Callable[..., _R], *args: object) -> _R:
    """Return the result of work as ``worked`` does, of work that takes a ``Report`` last: its task is given the share done.

    Raises as ``worked``, and ``Stopped`` where the task is stopped.
    """
    try:
        with at_hand():
            return work(*args, task.tell)
    except TooLong:
        found: _R = _apart(_call_reporting, (work, args, {}), task)
        return found


def apart(work: Callable[_P, _R], *args: _P.args, **more: _P.kwargs) -> _R:
    """Return the result of a function of a module, worked out in a process of its own.

    Raises ``Refused``, its own or that it went beyond its bounds, and ``TooMany`` where too many wait.
    """
    found: _R = _apart(_call, (work, args, more))
    return found


def _apart(call: Work, sent: tuple[Callable[..., Any], tuple[object, ...], dict[str, Any]], task: Task | None = None) -> Any:
    with TURN.left(), _place():
        if task is None:
            _, packed = work_apart(call, [], pickle.dumps(sent), BOUNDS)
        else:
            _, packed = work_apart(call, [], pickle.dumps(sent), BOUNDS, task.is_stopped, task.tell)
    # What comes back is of our own making.
    return pickle.loads(packed)


def applied(job: Job, edits: Sequence[Edit], confirmed: bool = False) -> AppliedAll:
    """Return a job after edits, as ``apply_all`` does, at hand or apart; it shares with the job given what is as it was."""
    # Plain lines are not heavy, only many: sent to another process and back they take longer, and hold up all others while
    # they are packed.
    many = sum(len(edit.lines) for edit in edits if isinstance(edit, AddLines))
    try:
        with patience(AT_HAND + min(many * _A_LINE, _MOST_FOR_LINES)):
            return apply_all(job, edits, confirmed)
    except TooLong:
        change, said, notices = apart(_applied, job, edits, confirmed)
        return AppliedAll(with_delta(job, change), said, notices)


def _applied(job: Job, edits: Sequence[Edit], confirmed: bool) -> tuple[JobDelta, list[str], tuple[str, ...]]:
    made = apply_all(job, edits, confirmed)
    return delta(job, made.job), made.said, made.notices


def _call(data: bytes, _: Sequence[str], __: Report) -> tuple[None, bytes]:
    work, args, more = pickle.loads(data)
    found: Any = work(*args, **more)
    return None, pickle.dumps(found, pickle.HIGHEST_PROTOCOL)


def _call_reporting(data: bytes, _: Sequence[str], report: Report) -> tuple[None, bytes]:
    work, args, _more = pickle.loads(data)
    found: Any = work(*args, report)
    return None, pickle.dumps(found, pickle.HIGHEST_PROTOCOL)


@contextmanager
def _place() -> Iterator[None]:
    if not _threads.acquire(blocking=False):
        raise TooMany
    try:
        with HEAVY.labels("waiting").track_inprogress():
            _places.acquire()
        try:
            with HEAVY.labels("working").track_inprogress():
                yield
        finally:
            _places.release()
    finally:
        _threads.release()

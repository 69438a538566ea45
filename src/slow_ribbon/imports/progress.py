"""How far a reading has come, reported to whoever waits for it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Final, TypeVar

_T = TypeVar("_T")

#: Who is given the share done, 0 to 1; nobody at first.
_TELL: Final[ContextVar[Callable[[float], None] | None]] = ContextVar("tell", default=None)
#: A share is given at most this many times.
_STEPS: Final = 100


@contextmanager
def reported_to(report: Callable[[float], None]) -> Iterator[None]:
    """Give a report what readers report within this."""
    token = _TELL.set(report)
    try:
        yield
    finally:
        _TELL.reset(token)


def tell(share: float) -> None:
    """Tell that a share of a reading is done."""
    report = _TELL.get()
    if report is not None:
        report(share)


def in_shares(things: Sequence[_T], low: float = 0.0, high: float = 1.0) -> Iterator[_T]:
    """Yield things one by one, reporting the share done, from ``low`` to ``high``, as it goes on."""
    step = max(1, len(things) // _STEPS)
    for number, thing in enumerate(things):
        if number % step == 0:
            tell(low + (high - low) * number / len(things))
        yield thing

"""Results kept with the object that they are computed from, for as long as it lives.

Documents are frozen and share what an edit leaves as it was, so that a line of a job is one
object from revision to revision. What is worked out of it is found by that identity, without
hashing or comparing thousands of legs, and goes when the last document that holds it goes: a
cache that is as large as the jobs in memory, never larger and never too small.
"""

from __future__ import annotations

import weakref
from collections.abc import Callable
from functools import wraps
from typing import Any, Protocol, TypeVar, cast

_T_contra = TypeVar("_T_contra", contravariant=True)
_R_co = TypeVar("_R_co", covariant=True)


class KeptWith(Protocol[_T_contra, _R_co]):
    """A function whose results are kept with what they were made of."""

    def __call__(self, thing: _T_contra, /) -> _R_co: ...

    def cache_clear(self) -> None:
        """Forget everything that is kept."""

    def keep(self, thing: _T_contra, result: Any, /) -> None:
        """Keep a result that was worked out elsewhere."""


def kept_with(work: Callable[[_T_contra], _R_co]) -> KeptWith[_T_contra, _R_co]:
    """Return a function of one object that works each object's result out once.

    The object must never change, and the result must not hold it, or neither would ever go. What
    is raised is not kept. Safe to use from several threads: the same work may be done twice, to
    the same result.
    """
    results: dict[int, tuple[weakref.ref[Any], Any]] = {}

    def forgotten(key: int) -> Callable[[weakref.ref[Any]], None]:
        # Another object may have the same address since.
        def forget(gone: weakref.ref[Any]) -> None:
            kept = results.get(key)
            if kept is not None and kept[0] is gone:
                del results[key]

        return forget

    @wraps(work)
    def found(thing: Any, /) -> Any:
        kept = results.get(id(thing))
        if kept is not None and kept[0]() is thing:
            return kept[1]
        made = work(thing)
        keep(thing, made)
        return made

    def keep(thing: Any, result: Any, /) -> None:
        results[id(thing)] = weakref.ref(thing, forgotten(id(thing))), result

    found.keep = keep  # type: ignore[attr-defined]  # a function may have attributes
    found.cache_clear = results.clear  # type: ignore[attr-defined]  # a function may have attributes
    return cast(KeptWith[_T_contra, _R_co], found)

"""Checks: what is wrong with a thing of a job, its place, and what mends it."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from functools import cached_property
from itertools import product
from typing import Final, Literal

from slow_ribbon.core.kernel.figures import plain

CheckKind = Literal[
    "swallowed",
    "needle",
    "folded",
    "uncoped",
    "unfinished",
    "no-joints",
    "too-long",
    "too-short",
    "mismatch",
    "twisted",
    "pinched",
    "no-room",
    "overlap",
    "no-ends",
    "undrawn",
    "unsettled",
    "no-place",
    "clash",
    "tight",
    "uncurved",
    "same-place",
    "wide-opening",
    "small-block",
    "unsolved",
]
Severity = Literal["fault", "warning"]
#: What mends something: a second section that members at a corner, the section turned there, an upright piece in it, its points cut
#: off square; a turn spread along a closed line; the true mitre beside a curve.
Mend = Literal["members", "turned", "transition", "squared", "spread", "curved"]


#: A check within half of this, mm, of where it was accepted is the same: a tag, a word or a figure of it may have changed since.
_GRID: Final = 10.0


@dataclass(frozen=True)
class Check:
    """Something wrong: ``severity`` *fault* cannot be made so, *warning* should be looked at.

    ``what`` may hold lengths, as ``text_parts`` reads them. ``thing`` is the id of its run or row, ``mends`` what can be done at once.
    """

    kind: CheckKind
    severity: Severity
    what: str
    remedy: str
    thing: str
    piece: int | None
    chainage: float
    point: tuple[float, float, float]
    mends: tuple[Mend, ...] = ()

    @property
    def key(self) -> str:
        """What it is known by when it is accepted, 16 hexadecimal digits: its kind, its thing and its place, rounded."""
        return self._known_by(tuple(round(value / _GRID) for value in self.point))

    @cached_property
    def keys(self) -> tuple[str, ...]:
        """All that it may have been accepted by: at a place near by, or, by an earlier program, by what it said."""
        near = [sorted({math.floor(value / _GRID), math.ceil(value / _GRID)}) for value in self.point]
        place = ",".join(f"{value + 0.0:.1f}" for value in self.point)
        said = hashlib.sha256(f"{self.kind}|{plain(self.what)}|{place}".encode()).hexdigest()[:16]
        return tuple(dict.fromkeys([self.key, *map(self._known_by, product(*near)), said]))

    def _known_by(self, place: tuple[int, ...]) -> str:
        return hashlib.sha256(f"{self.kind}|{self.thing}|{','.join(map(str, place))}".encode()).hexdigest()[:16]

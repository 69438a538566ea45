"""What is found wrong with something of a job, told with its place and what mends it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Literal

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


@dataclass(frozen=True)
class Check:
    """Something wrong: ``severity`` *fault* cannot be made so, *warning* should be looked at.

    ``what`` may hold lengths, as ``told`` keeps them. ``thing`` is the id of its run or row. ``mends``: what can be done there and then.
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
        """What it is known by when it is accepted, 16 hexadecimal digits: another figure, or another place, makes another check of it."""
        place = ",".join(f"{value + 0.0:.1f}" for value in self.point)
        return hashlib.sha256(f"{self.kind}|{plain(self.what)}|{place}".encode()).hexdigest()[:16]

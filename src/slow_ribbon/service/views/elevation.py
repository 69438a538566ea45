"""Runs seen square to an upright plane, as the window receives them."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from pydantic_core import to_json
from typing_extensions import TypedDict

from slow_ribbon.core.kernel import Refused, kept_with
from slow_ribbon.core.runs import run_surface, silhouettes
from slow_ribbon.core.solve import SolvedRun
from slow_ribbon.service.views.lines import DrawnOutline, Point2, drawn_together, figure
from slow_ribbon.service.work.heavy import worked

#: Curves of what is seen stray by no more, mm.
_FINE = 1.0
#: Planes that what is seen on is kept of, for each run.
_PLANES = 4


class PieceSeen(TypedDict):
    """A piece as it is seen: its outlines along the plane and up, and how far behind the plane it lies, mm."""

    outline: list[DrawnOutline]
    depth: float


class RunSeen(TypedDict):
    """A run as it is seen, by the key of its mesh."""

    key: str
    pieces: list[PieceSeen]


@kept_with
def _planes(_: SolvedRun) -> dict[tuple[Point2, Point2], bytes]:
    return {}


def run_seen(run: SolvedRun, a: Point2, b: Point2) -> bytes:
    """Return a run as it is seen on the upright plane through two places on plan, the first on the left: a ``RunSeen``.

    Raises ``Refused`` where the places are one.
    """
    known = _planes(run)
    found = known.get((a, b))
    if found is None:
        if math.hypot(b[0] - a[0], b[1] - a[1]) < 1:
            raise Refused("A plane needs two places that lie apart.", "b", "plane-places")
        if len(known) >= _PLANES:
            known.clear()
        found = known[a, b] = worked(_run_seen, run, a, b)
    return found


def _run_seen(run: SolvedRun, a: Point2, b: Point2) -> bytes:
    across = np.array([b[0] - a[0], b[1] - a[1], 0.0])
    across /= np.hypot(*across[:2])
    up = np.array([0.0, 0.0, 1.0])
    from_a = run.origin - np.array([*a, 0.0])
    aside = np.array([from_a @ across, from_a[2]])
    behind = float(from_a @ np.cross(up, across))
    seen = silhouettes(run_surface(run.cuts, run.origin, _FINE), across, up)
    outlines: list[Sequence[np.ndarray]] = [[outline + aside for outline in piece.outlines] for piece in seen]
    pieces: list[PieceSeen] = [
        {"outline": drawing, "depth": figure(piece.depth + behind)} for piece, drawing in zip(seen, drawn_together(outlines), strict=True)
    ]
    return to_json({"key": run.key, "pieces": pieces})

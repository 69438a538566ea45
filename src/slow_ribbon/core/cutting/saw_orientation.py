"""How pieces lie at the saw: which edge to which side, and what is seen of them from above and from the side."""

from __future__ import annotations

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.runs.pieces.drawn_pieces import carried
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.solve.results import SolvedRun

#: A piece whose line leaves the plane of the saw table by more, mm, is drawn from the side too.
_OUT_OF_PLANE = 0.5


def left_and_right(lying: Placed, up: Array | None = None) -> tuple[str, str]:
    """Return which edges of a section lie to the left and to the right of travel as its pieces lie on the saw, or with ``up`` upward."""
    x, y = left_of(lying.bed_up if up is None else up) @ lying.laid
    upright = abs(y) >= abs(x) - NO_LEAN
    names = ("top", "bottom") if upright else ("front", "back")
    return names if (y if upright else x) > 0 else names[::-1]


def left_of(up: Array) -> Array:
    """Return the unit (2,) to the left of travel on the table, c = up × t, with ``up`` (2,) out of it."""
    return np.array([-up[1], up[0]])


@kept_with
def _known_reaches(_: Placed) -> dict[bytes, tuple[float, float, float, float]]:
    return {}


def reaches(lying: Placed, up: Array | None = None) -> tuple[float, float, float, float]:
    """Return from where to where a section lies on its bed, or with ``up`` upward: its left and its right, its top and its foot, mm.

    All pieces of a run ask for it: it is kept with the section as it lies.
    """
    up = lying.bed_up if up is None else up
    known, key = _known_reaches(lying), up.tobytes()
    if key not in known:
        left = left_of(up)
        far_left, far_right, top, foot = (lying.furthest(np.array([left, -left, up, -up])) * (1, -1, 1, -1)).tolist()
        known[key] = far_left, far_right, top, foot
    return known[key]


def side_views_of(run: SolvedRun) -> dict[int, Array]:
    """Return, for pieces that leave the plane of the table, what is seen from the side: a polygon, x along travel, y up from the table."""
    cuts = run.cuts
    found = {}
    for i, path in cuts.course.paths.items():
        lying = cuts.lying(i)
        up = lying.bed_up
        left = left_of(up)
        far_left, far_right, top, foot = reaches(lying)
        out = cuts.plain.rights[i] * up[0] + cuts.plain.ups[i] * up[1]
        if np.ptp(path.at_chords.points @ out) <= _OUT_OF_PLANE:
            continue
        edges = np.array([left * (far_left + far_right) / 2 + up * level for level in (foot, top)])
        points = carried(cuts, i, cuts.own(i, edges)).points - cuts.course.starts[i]
        flat = points @ np.column_stack([cuts.course.tangents[i], out])
        found[i] = np.concatenate([flat[:, 0], flat[::-1, 1]])
    return found


def pictures_of(run: SolvedRun, sprung: bool = False) -> list[tuple[Array, Array]]:
    """Return every piece seen from above as it lies on the saw: the side on the table and the upper side, (4, 2) each.

    A piece that bends is seen in the plane of the table where it begins. It is never held ``sprung``: of one there is nothing to be seen.
    """
    cuts = run.cuts
    corners = np.full((2, cuts.course.count, 4, 2), np.nan)
    edges: dict[int, Array] = {}
    for lying, pieces in cuts.laid_alike():
        up = lying.sprung_up if sprung else lying.bed_up
        left = left_of(up)
        far_left, far_right, top, foot = reaches(lying, up)
        # The right and the left edge below, and above.
        around = np.array([left * across + up * level for level in (foot, top) for across in (far_right, far_left)])
        around = cuts.own(int(pieces[0]), around)
        edges |= dict.fromkeys(pieces.tolist(), around)
        pieces = np.intersect1d(pieces, cuts.straight)
        begin, end = cuts.fibres(around, pieces)
        corners[:, pieces, :, 1] = [far_right, far_right, far_left, far_left]
        for side, (right, other) in enumerate(((0, 1), (2, 3))):
            corners[side, pieces, :, 0] = np.stack([begin[:, right], end[:, right], end[:, other], begin[:, other]], axis=1)
    pictures = list(zip(*corners, strict=True))
    for i in () if sprung else cuts.course.paths:
        points = carried(cuts, i, edges[i]).points - cuts.course.starts[i]
        left = left_of(cuts.lying(i).bed_up)
        sideways = cuts.plain.rights[i] * left[0] + cuts.plain.ups[i] * left[1]
        flat = points @ np.column_stack([cuts.course.tangents[i], sideways])
        # Along the right edge and back along the left.
        pictures[i] = np.concatenate([flat[:, 0], flat[::-1, 1]]), np.concatenate([flat[:, 2], flat[::-1, 3]])
    return pictures

"""Fabrication of curves that are laminated, kerfed or sawn from boards: sizes, and checks.

Sources: lengths are those of fibres of the bent piece, by quadrature; a kerf of width k sawn h deep closes at an angle of k/h, so that
a bend of θ takes θ·h/k of them, the difference of its arcs at the kerf's foot and at the inside over the kerf (common practice, no
source): the piece turns about the foot of each kerf, so that the fibre there keeps its length, and along it they are set out; a
segment's board is the box around it along its chord, for an arc Ro - Ri cos(φ/2) wide and 2 Ro sin(φ/2) long.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import FLAT, NEARLY_SAME, NEARLY_WHOLE, NO_LEAN, SEARCH_DEVIATION
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.curves import Bent, Kerfed, Laminated, Sawn, fewest, marks_on

#: Places of a segment that are looked at for the board it needs.
_LOOKS: Final = 65


@dataclass(frozen=True)
class Bending:
    """How a piece bends, in one plane: ``inward`` (2,) the unit toward the middle of its first bend, in the frame of its line.

    ``inside`` and ``outside``: how far the section reaches from the line that way and the other, mm. ``bends``: of each bend the
    radius at the line where it is least, mm, its angle in radians, its length on the line and whether it goes to ``inward``.
    """

    inward: Array
    inside: float
    outside: float
    bends: tuple[tuple[float, float, float, bool], ...]

    @property
    def thickness(self) -> float:
        return self.inside + self.outside

    @property
    def form(self) -> float:
        """The radius of the form, mm: that of the piece where it bends most, on the inside of that bend."""
        return min(radius - (self.inside if toward else self.outside) for radius, _, _, toward in self.bends)


def bending_of(path: Path, placed: Placed) -> Bending | None:
    """Return how a piece bends; None where it leaves a plane, or twists."""
    inward: Array | None = None
    found: list[tuple[float, float, float, bool]] = []
    at = 0.0
    for low, high, span in path.ranges():
        size = high - low
        places = at + size * np.concatenate([[1e-6], np.linspace(0, 1, 17)[1:-1], [1 - 1e-6]])
        here = path.at(places)
        at += size
        if np.abs(here.twists).max() * size > FLAT:
            return None
        bends = here.bends
        sizes = np.hypot(*bends.T)
        if sizes.max() * size < FLAT:
            continue
        strongest = bends[int(np.argmax(sizes))]
        if inward is None:
            inward = strongest / np.hypot(*strongest)
        if np.abs(bends @ np.array([-inward[1], inward[0]])).max() * size > 1e3 * FLAT:
            return None
        found.append((1 / float(sizes.max()), span.turned(low, high), size, bool(strongest @ inward > 0)))
    if inward is None:
        return None
    inside, outside = placed.furthest(np.array([inward, -inward])).tolist()
    return Bending(inward, inside, outside, tuple(found))


@dataclass(frozen=True, kw_only=True)
class Curvature:
    """What a piece that bends is made of, lengths in mm.

    ``leaves``: how long each is, from the inside of its first bend, with what the clamps need; ``leaf``: how thick; ``form``: the
    radius of the form. ``kerfs``: how many saw cuts each bend takes and at what centres on the piece as it lies flat,
    ``depth`` how deep. ``board``: how long and how wide a board the piece is sawn from.
    """

    leaves: tuple[float, ...] = ()
    leaf: float = 0.0
    form: float | None = None
    kerfs: tuple[tuple[int, float], ...] = ()
    depth: float = 0.0
    board: tuple[float, float] | None = None


def curvature_of(run: Run, cuts: Cuts, index: int) -> Curvature | None:
    """Return the leaves, kerfs or boards of a piece whose curve is made of such; None for one that is straight, or bent in one."""
    path, way = cuts.plain.paths.get(index), run.curves
    if path is None or isinstance(way, Bent):
        return None
    if isinstance(way, Sawn):
        if all(span.straight for _, _, span in path.ranges()):
            return None
        return Curvature(board=board_of(path, cuts.lying(index), 0.0, path.length))
    bending = bending_of(path, cuts.lying(index))
    if bending is None:
        return None
    if isinstance(way, Laminated):
        count = leaves_of(bending.thickness, way.leaf)
        levels = np.linspace(bending.inside, -bending.outside, count + 1)
        across = np.array([-bending.inward[1], bending.inward[0]])
        low, high = cuts.lying(index).furthest(np.array([-across, across])) * (-1, 1)
        points = cuts.own(index, np.array([bending.inward * level + across * side for level in levels for side in (low, high)]))
        begin, end = cuts.piece_fibres(index, points)
        longest = fibre_lengths(cuts.course.paths[index], points, begin, end).reshape(-1, 2).max(axis=1)
        leaves = np.maximum(longest[:-1], longest[1:]) + 2 * way.allowance
        return Curvature(leaves=tuple(leaves.tolist()), leaf=bending.thickness / count, form=bending.form)
    if isinstance(way, Kerfed) and way.web < bending.thickness:
        depth = bending.thickness - way.web
        kerfs = []
        for radius, angle, size, toward in bending.bends:
            count = max(1, math.ceil(angle * depth / way.kerf - NEARLY_WHOLE))
            # The piece turns about the foot of each kerf: what lies there keeps its length, and the web outside of it stretches.
            foot = (bending.outside if toward else bending.inside) - way.web
            kerfs.append((count, size * (1 + foot / radius) / count))
        return Curvature(kerfs=tuple(kerfs), depth=depth)
    return None


def leaves_of(thickness: float, leaf: float) -> int:
    """Return how many leaves, none thicker than ``leaf``, make up a thickness.

    >>> leaves_of(20, 4), leaves_of(20.5, 4)
    (5, 6)
    """
    return max(1, math.ceil(thickness / leaf - NEARLY_WHOLE))


def board_of(path: Path, placed: Placed, low: float, high: float) -> tuple[float, float]:
    """Return how long and how wide a board the part of a path between two distances is sawn from, mm, along its chord."""
    here = path.at(np.linspace(low, high, _LOOKS))
    chord = here.points[-1] - here.points[0]
    size = float(np.linalg.norm(chord))
    if size < NO_LEAN:
        return math.inf, math.inf
    chord /= size
    middle = here.bends[_LOOKS // 2]
    toward = here.rights[_LOOKS // 2] * middle[0] + here.ups[_LOOKS // 2] * middle[1]
    toward -= chord * float(toward @ chord)
    length = float(np.linalg.norm(toward))
    # What does not bend in the middle is laid as the section's right goes.
    toward = toward / length if length > NO_LEAN else here.rights[0] - chord * float(here.rights[0] @ chord)
    flat = placed.shape.flat()
    section = placed.points(flat.points[: flat.rim])
    swept = here.points[:, None] + here.rights[:, None] * section[None, :, :1] + here.ups[:, None] * section[None, :, 1:]
    return float(np.ptp(swept @ chord)), float(np.ptp(swept @ toward))


def board_places(course: Course, placed: Placed, way: Sawn) -> list[float]:
    """Return the chainages at which pieces that are sawn from boards meet: where curves begin and end, and within them.

    Raises ``Refused`` where the boards are too narrow for any part of a curve.
    """
    found: list[float] = []
    for i, path in course.paths.items():
        look_up()

        def number(low: float, high: float, _: object, path: Path = path) -> int:
            least = board_of(path, placed, (low + high) / 2 - (high - low) / 2000, (low + high) / 2 + (high - low) / 2000)[1]
            if least > way.board:
                what = f"Boards {figure(way.board)} wide are too narrow: the section alone takes {figure(least)} across the bend."
                raise Refused(what, "curves.board", "narrow-board")

            def enough(count: int) -> bool:
                marks = np.linspace(low, high, count + 1)
                return all(board_of(path, placed, a, b)[1] <= way.board for a, b in pairwise(marks.tolist()))

            return fewest(enough)

        begin = float(course.begins[i])
        found += [begin + mark for mark in marks_on(path, number)[1:-1]]
    return [place % course.length for place in found] if course.closed else found


def curve_checks(run: Run, cuts: Cuts) -> list[Check]:
    """Return a check for every piece whose curve cannot be made as it is meant."""
    found: list[Check] = []
    for i, path in cuts.plain.paths.items():
        message = _wrong(run, cuts, i, path)
        if message is None:
            continue
        fault, what, remedy = message
        middle = float(cuts.course.begins[i]) + path.length / 2
        x, y, z = cuts.course.at(np.array([middle])).points[0].tolist()
        found.append(
            Check(
                kind="tight" if fault else "uncurved", severity="fault" if fault else "warning", what=f"Piece {run.tag_of(i)}: {what}",
                remedy=remedy, thing=run.id, piece=i, chainage=middle % cuts.course.length, point=(x, y, z),
            )
        )  # fmt: skip
    return found


def _wrong(run: Run, cuts: Cuts, index: int, path: Path) -> tuple[bool, str, str] | None:
    """Return whether a piece's curve cannot be made so at all, its fault, and the remedy."""
    way = run.curves
    if isinstance(way, Bent):
        if not way.least:
            return None
        marks = path.flattened(SEARCH_DEVIATION)
        sharpest = float(np.hypot(*path.at((marks[1:] + marks[:-1]) / 2).bends.T).max())
        if sharpest * way.least <= 1 + NEARLY_SAME:
            return None
        what = f"it bends to a radius of {figure(1 / sharpest)}, less than the {figure(way.least)} that its material takes."
        return True, what, "Round the corner or draw the curve to a larger radius, or make it another way (run card, curves)."
    if isinstance(way, Sawn):
        return None
    bending = bending_of(path, cuts.lying(index))
    if bending is None:
        what = f"it leaves a plane, and cannot be {'kerfed' if isinstance(way, Kerfed) else 'laminated'} so; it is listed as bent."
        return False, what, "Keep its bends in one plane, or bend it in one piece (run card, curves)."
    if isinstance(way, Kerfed) and way.web >= bending.thickness:
        what = f"the web of {figure(way.web)} is all of its thickness, {figure(bending.thickness)}: there is nothing to saw into."
        return True, what, "Leave a thinner web (run card, curves)."
    if isinstance(way, Laminated):
        leaf = bending.thickness / leaves_of(bending.thickness, way.leaf)
        least = leaf * way.ratio
        if bending.form < least * (1 - NEARLY_SAME):
            what = f"its leaves of {figure(leaf, 1)} bend to {figure(least)}, and the form's radius is {figure(bending.form)}."
            thin = figure(max(0.1, math.floor(10 * bending.form / way.ratio) / 10), 1)
            return True, what, f"Take leaves of {thin} or thinner (run card, curves)."
    return None

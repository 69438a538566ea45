"""Figures typed on an outline, the constraints that they add, and how constraints follow when points come and go."""

from __future__ import annotations

from collections.abc import Callable, Sequence, Set
from dataclasses import replace
from typing import Any, Final, Literal, TypeVar

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.sections.document.conditions import OutlinePlace
from slow_ribbon.core.sections.document.constraints import (
    Constraint,
    Figured,
    Level,
    Radius,
    Symmetric,
    Tangent,
    Upright,
)
from slow_ribbon.core.sections.document.section import SectionBody
from slow_ribbon.core.sections.edges import EDGE_OF
from slow_ribbon.core.sections.outline.profile import shape_of
from slow_ribbon.core.sections.sketch.constraint_solver import measured, settled_if_it_can
from slow_ribbon.core.sections.sketch.sketch import Sketch, is_smooth
from slow_ribbon.core.sections.sketch.sketch_variables import SketchVariables

_S = TypeVar("_S", bound=SectionBody)
#: How far points may be from one another's mirror image, as a share of the section's size, for them to be held so.
_ALIKE: Final = 0.15
#: What is kept of an outline that is not held, when a figure is typed: as much of it as can be.
_KEPT: Final = (("level", "upright", "tangent", "radius"), ("level", "upright", "tangent"), ("level", "upright"), ("tangent",))

Moved = Callable[[OutlinePlace], OutlinePlace]
"""How a place is counted after a change."""


def figure_typed(drawing: Sketch, figured: Figured, hold: bool) -> Sketch:
    """Return the drawing in which a length, a radius or an angle is as it is said; ``hold`` it from now on.

    Edges that are level or upright, joints that are smooth and radii stay so where they can, held or not. Raises ``Refused``,
    naming it, where what is held contradicts.
    """
    others = tuple(one for one in drawing.held if not same_figure(one, figured))
    unsaid = [one for one in as_they_are(drawing) if one not in others and not same_figure(one, figured)]
    found: Sketch | None = None
    for kinds in _KEPT:
        kept = tuple(one for one in unsaid if one.kind in kinds)
        drawn = settled_if_it_can(drawing.drawn, (*others, *kept, figured), parts=(1, 4))
        if drawn is not None and is_outline(drawn):
            found = replace(drawing, drawn=drawn)
            break
    if found is None:
        found = replace(drawing, held=(*others, figured)).settled()
    before = tuple(one for one in drawing.held if one in others)
    return replace(found, held=(*before, figured) if hold or len(others) < len(drawing.held) else before)


def is_outline(drawn: SketchVariables) -> bool:
    """Return whether the loops of a drawing make an outline with its holes."""
    try:
        outline, *holes = drawn.outlines()
        shape_of(outline, holes)
    except Refused:
        return False
    return True


def same_figure(one: Any, other: Any) -> bool:
    """Return whether two figures are said of the same, whatever they are."""
    bare = {"value": 1.0, "text": None, "system": None}
    return type(one) is type(other) and _with(one, bare) == _with(other, bare)


def _with(figured: Any, values: dict[str, Any]) -> Any:
    return figured.model_copy(update={name: value for name, value in values.items() if name in type(figured).model_fields})


def as_they_are(drawing: Sketch) -> list[Constraint]:
    """Return the constraints that a drawing already satisfies: edges level and upright, joints smooth, radii."""
    found: list[Constraint] = []
    for loop in range(len(drawing.drawn.loops)):
        points, count = drawing.points(loop), drawing.drawn.count(loop)
        for i in range(count):
            a, b = points[i], points[(i + 1) % count]
            kind = EDGE_OF[drawing.drawn.kind(loop, i)]
            if kind.straight and abs(a[1] - b[1]) <= SAME_PLACE:
                found.append(Level(a=(loop, i), b=(loop, (i + 1) % count)))
            elif kind.straight and abs(a[0] - b[0]) <= SAME_PLACE:
                found.append(Upright(a=(loop, i), b=(loop, (i + 1) % count)))
            elif kind.round:
                figured = Radius(edge=(loop, i), value=1)
                found.append(figured.model_copy(update={"value": measured(drawing.drawn, figured)}))
            if is_smooth(drawing, loop, i):
                found.append(Tangent(point=(loop, i)))
    return found


def held_true(drawing: Sketch, held: Constraint) -> Sketch:
    """Return the drawing with something more held true of it. Raises ``Refused`` where it is held already or contradicts."""
    if held in drawing.held:
        raise Refused("That is held already.", "held", "held-already")
    return replace(drawing, held=(*drawing.held, held)).settled()


def mirror_found(drawing: Sketch, axis: Literal["upright", "level"]) -> Symmetric:
    """Return the constraints that make a drawing symmetric: the pairing of its points nearest to one now.

    Raises ``Refused`` where there are no such pairs, because the edges on the two sides are of different kinds.
    """
    flip = np.array([-1.0, 1.0]) if axis == "upright" else np.array([1.0, -1.0])
    middle: Array | None = None
    through = []
    for loop, kinds in enumerate(drawing.drawn.loops):
        points, count = np.array(drawing.points(loop)), len(kinds)
        best: tuple[float, int, Array] | None = None
        for k in range(count):
            if any(kinds[i] != kinds[(k - i - 1) % count] for i in range(count)):
                continue
            mates = points[(k - np.arange(count)) % count]
            centre = (points + mates).mean(axis=0) / 2 if middle is None else middle
            off = float(np.abs((points - centre) * flip + centre - mates).sum())
            if best is None or off < best[0]:
                best = (off, k, centre)
        if best is None:
            raise Refused("The edges on its two sides are not alike: the same kinds must follow one another.", "axis", "held-symmetric")
        if best[0] > _ALIKE * count * float(np.ptp(points, axis=0).max()):
            raise Refused("Its two sides are too unlike: draw them nearer to one another first.", "axis", "held-symmetric")
        through.append(best[1])
        middle = best[2] if middle is None else middle
    return Symmetric(axis=axis, through=tuple(through))


def mate_of_point(drawing: Sketch, loop: int, point: int) -> int | None:
    """Return the mirror image of a point where the whole is held symmetric. Raises ``Refused`` where that says nothing of its loop."""
    through = _through(drawing, loop)
    return None if through is None else (through - point) % drawing.drawn.count(loop)


def mate_of_edge(drawing: Sketch, loop: int, edge: int) -> int | None:
    """Return the mirror image of an edge, likewise."""
    through = _through(drawing, loop)
    return None if through is None else (through - edge - 1) % drawing.drawn.count(loop)


def mirrored(drawing: Sketch, loop: int, place: Sequence[float]) -> tuple[float, float]:
    """Return the mirror image of a place, about the axis that a loop's first point and its own mirror image have."""
    held, mate = drawing.symmetric, mate_of_point(drawing, loop, 0)
    assert held is not None  # whoever asks has looked
    assert mate is not None
    x, y = drawing.drawn.point(loop, 0) + drawing.drawn.point(loop, mate)
    return (x - place[0], float(place[1])) if held.axis == "upright" else (float(place[0]), y - place[1])


def _through(drawing: Sketch, loop: int) -> int | None:
    found = drawing.symmetric
    if found is None:
        return None
    if len(found.through) != len(drawing.drawn.loops):
        raise Refused("It cannot be held symmetric: a hole has come or gone. Let go of that first.", "held", "held-place")
    return found.through[loop]


def followed(
    held: Sequence[Constraint],
    point: Moved,
    edge: Moved,
    gone_points: Set[OutlinePlace] = frozenset(),
    gone_edges: Set[OutlinePlace] = frozenset(),
    cut: tuple[OutlinePlace, OutlinePlace] | None = None,
) -> tuple[Constraint, ...]:
    """Return the constraints with the numbers of points and edges after a change; those of points and edges gone are left out.

    ``cut`` is a corner and the point after it: what is held of the edge between them goes on from the cut's end.
    """
    kept: list[Constraint] = []
    for one in held:
        of_edges = one.of_edges
        names = [name for name in ("a", "b", "point", "edge") if hasattr(one, name)]
        places = {name: getattr(one, name) for name in names}
        gone = gone_edges if of_edges else gone_points
        if any(place in gone for place in places.values()) and not one.outlives_edge:
            continue
        if cut is not None and not of_edges and cut[0] in places.values():
            if not one.outlives_corner:
                continue
            changes = {name: point(place) for name, place in places.items()}
            if set(places.values()) == set(cut):
                # The edge that leaves the corner begins after the cut.
                changes = {name: (cut[0][0], cut[0][1] + 1) if place == cut[0] else changes[name] for name, place in places.items()}
        else:
            changes = {name: (edge if of_edges else point)(place) for name, place in places.items()}
        kept.append(one.model_copy(update=changes))
    return tuple(kept)

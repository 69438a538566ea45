"""A section as it is drawn on the desk: its points and edges at its size, with the figures that can be typed on them."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.kernel import kept_with
from slow_ribbon.core.sections import (
    Constraint,
    EdgeKind,
    SectionBody,
    Sketch,
    drawing_box,
    drawing_of,
    point_figures,
    stretching_bands,
)
from slow_ribbon.service.views.sentences import Sentence, sentence_parts

Point2 = tuple[float, float]


class DrawnEdge(TypedDict):
    """An edge from its point to the next: ``by`` where an arc passes or the ends of a curve's handles; ``radius`` of an arc, mm."""

    kind: EdgeKind
    by: list[Point2]
    length: float
    radius: float | None
    middle: Point2


class DrawnPoint(TypedDict):
    """A point: the angle inside its corner, degrees, and whether its edges go on into one another."""

    at: Point2
    angle: float
    smooth: bool


class DrawnLoop(TypedDict):
    points: list[DrawnPoint]
    edges: list[DrawnEdge]


class ConstraintEntry(TypedDict):
    """Something that is held, with its points and edges as they are drawn, and in words."""

    held: Constraint
    words: Sentence


class SectionDrawn(TypedDict):
    """The loops of a section, in places of the drawing; ``origin`` is where the back foot of its box lies there.

    ``stretches`` are the bands that stretch across and up where its corners are kept, from the back and from the bottom; none where
    nothing can, or everything is scaled.
    """

    loops: list[DrawnLoop]
    origin: Point2
    held: list[ConstraintEntry]
    stretches: list[Point2 | None]


@kept_with
def section_drawn(section: SectionBody) -> SectionDrawn:
    """Return a section as it is drawn."""
    drawing = drawing_of(section)
    left, low, _, _ = drawing_box(section)
    return SectionDrawn(
        loops=[_loop(drawing, loop) for loop in range(len(drawing.drawn.loops))],
        origin=(left, low),
        held=[ConstraintEntry(held=held, words=sentence_parts(held.words())) for held in drawing.held],
        stretches=list(stretching_bands(section)),
    )


def _loop(drawing: Sketch, loop: int) -> DrawnLoop:
    points, edges = point_figures(drawing, loop)
    return DrawnLoop(
        points=[DrawnPoint(at=_flat(one.at), angle=one.angle, smooth=one.smooth) for one in points],
        edges=[
            DrawnEdge(kind=one.kind, by=[_flat(place) for place in one.by], length=one.length, radius=one.radius, middle=_flat(one.middle))
            for one in edges
        ],
    )


def _flat(point: tuple[float, float]) -> Point2:
    return float(point[0]), float(point[1])

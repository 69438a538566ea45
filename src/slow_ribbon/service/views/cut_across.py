"""A cut across a line as the window receives it."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.solve import CutAcross, CutThing
from slow_ribbon.service.views.lines import Coordinates, Point2, figure, place


class ThingCut(TypedDict):
    """What the cut shows of a run, or of the wall behind a line: an SVG path, to the right of the line and up, mm."""

    thing: str
    wall: bool
    path: str
    corners: list[Point2]


class CutShown(TypedDict):
    """A cut across a line: where it is, the runs on the line that pass there, and what else stands there.

    ``cuts`` are the line's own runs with all that is cut there, of those that are not there as they are drawn. ``upright``: heights in
    it are heights above its point.
    """

    point: Coordinates
    upright: bool
    along: list[str]
    others: list[ThingCut]
    cuts: list[ThingCut]


#: Corners of what stands there that may be snapped to, of each thing.
_CORNERS = 40


def cut_shown(cut: CutAcross) -> CutShown:
    """Return a cut across a line as it is drawn."""
    return CutShown(
        point=place(cut.plane.point),
        upright=cut.upright,
        along=list(cut.along),
        others=[_thing(one) for one in cut.others],
        cuts=[_thing(one) for one in cut.cuts if one.thing not in cut.along or not cut.whole(one.thing)],
    )


def _thing(one: CutThing) -> ThingCut:
    return ThingCut(
        thing=one.thing,
        wall=one.wall,
        path="".join("M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in ring.tolist()) + "Z" for ring in one.rings),
        corners=[(figure(x), figure(y)) for ring in one.rings for x, y in ring[:_CORNERS].tolist()],
    )

"""What is seen in a cut across a line."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.solve import CutAcross
from slow_ribbon.service.views.lines import Flat, Place, figure, place


class ThingCut(TypedDict):
    """What the cut shows of a run, or of the wall behind a line: an SVG path, to the right of the line and up, mm."""

    thing: str
    wall: bool
    path: str
    corners: list[Flat]


class CutShown(TypedDict):
    """A cut across a line: where it is, the runs on the line that pass there, and what else stands there."""

    point: Place
    along: list[str]
    others: list[ThingCut]


#: Corners of what stands there that may be snapped to, of each thing.
_CORNERS = 40


def cut_shown(cut: CutAcross) -> CutShown:
    """Return a cut across a line as it is drawn."""
    return CutShown(
        point=place(cut.plane.point),
        along=list(cut.along),
        others=[
            ThingCut(
                thing=one.thing,
                wall=one.wall,
                path="".join("M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in ring.tolist()) + "Z" for ring in one.rings),
                corners=[(figure(x), figure(y)) for ring in one.rings for x, y in ring[:_CORNERS].tolist()],
            )
            for one in cut.others
        ],
    )

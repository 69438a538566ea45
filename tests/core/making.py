"""Random lines and sections for the properties, and short ways to cut and mesh them."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Any

import numpy as np
import trimesh
from hypothesis import strategies as st

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, CordLeg, CurveLeg, HelixLeg, PassPoint, StraightLeg, ThroughLeg, helix_end
from slow_ribbon.core.lines.model import Line, line_body, with_id
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import Solid
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen


def line(points: object, closed: bool = False) -> Line:
    """Return a line through points of two or three coordinates."""
    rows = [(*point, 0)[:3] for point in points]  # type: ignore[attr-defined]  # any sequence of points will do
    return with_id(line_body(rows, closed, "Line"), "L1")


def check_refusal(refused: Refused) -> None:
    """Check that a refusal has a code, and is a whole sentence without values of the program in it."""
    assert re.fullmatch("[a-z0-9]+(-[a-z0-9]+)*", refused.code), refused.code
    assert len(refused.what.split()) >= 4, refused.what
    assert refused.what.endswith((".", "?", ")")), refused.what
    assert not re.search(r"\bNone\b|Traceback|<[\w.]+ object|\bslow_ribbon\b", refused.what), refused.what


def run_cuts(path: Line, section: Section, placing: Placing | None = None) -> Cuts:
    """Return a section cut along a line."""
    course = course_of(path)
    return cut(course, Placed(section, placing or Placing(), course))


def mesh(solid: Solid) -> trimesh.Trimesh:
    """Return a solid as trimesh sees it, nothing mended."""
    return trimesh.Trimesh(solid.vertices, solid.faces, process=False)


@st.composite
def polygons(draw: st.DrawFn, least: int = 3, most: int = 9, radius: tuple[float, float] = (1500, 6000)) -> Array:
    """Points (n, 2) of a star-shaped polygon, anticlockwise: legs long enough for the sections of ``outlines``."""
    count = draw(st.integers(least, most))
    steps = np.array(draw(st.lists(st.floats(0.6, 1.4), min_size=count, max_size=count)))
    angles = np.cumsum(steps / steps.sum() * 2 * math.pi)
    radii = np.array(draw(st.lists(st.floats(*radius), min_size=count, max_size=count)))
    return np.column_stack([radii * np.cos(angles), radii * np.sin(angles)])


@st.composite
def outlines(draw: st.DrawFn, size: float = 60) -> Outline:
    """A star-shaped polygonal outline, lying anywhere about its origin."""
    points = draw(polygons(3, 8, (size * 0.3, size)))
    pen = OutlinePen(*map(float, points[0]))
    for x, y in points[1:]:
        pen.line(float(x), float(y))
    return pen.close()


@st.composite
def sections(draw: st.DrawFn) -> Section:
    """A polygonal section."""
    return Section(id="S1", name="Any", outline=draw(outlines()), width=draw(st.floats(10, 60)), height=draw(st.floats(10, 60)))


@st.composite
def placings(draw: st.DrawFn) -> Placing:
    """Any placing with a facing to one side."""
    return Placing.model_validate(
        {
            "facing": {"kind": draw(st.sampled_from(["left", "right"]))},
            "hand": draw(st.sampled_from(["left", "right"])),
            "roll": draw(st.floats(-180, 180)),
            "stand_off": draw(st.floats(-50, 50)),
            "lift": draw(st.floats(-50, 50)),
        }
    )


def bent_line(start: tuple[float, float, float], legs: Sequence[AnyLeg], closed: bool = False, **more: Any) -> Line:
    """Return a line of any legs."""
    return Line(id="L1", name="line", start=start, legs=tuple(legs), closed=closed, **more)


@st.composite
def bent_lines(draw: st.DrawFn, level: bool = False) -> Line:
    """An open line of legs of every kind, with radii large enough for the sections of ``outlines``, and some rounded corners."""
    at = (0.0, 0.0, 0.0)
    heading = 0.0
    legs: list[AnyLeg] = []
    kinds = ["straight", "arc", "through", "curve"] + ([] if level else ["helix", "cord"])
    for _ in range(draw(st.integers(1, 4))):
        # A kink too slight to be a corner is a point on a straight, which a line leaves out.
        heading += draw(st.floats(-1.1, 1.1).map(lambda turn: turn if abs(turn) > 1e-3 else 0.0))
        size = draw(st.floats(1500, 4000))
        rise = 0.0 if level else draw(st.sampled_from([0.0, 0.0, 200.0]))
        to = (at[0] + size * math.cos(heading), at[1] + size * math.sin(heading), at[2] + rise)

        def aside(share: float, off: float, at: Any = at, to: Any = to) -> tuple[float, float, float]:
            dx, dy, dz = (b - a for a, b in zip(at, to, strict=True))
            return at[0] + dx * share - dy * off, at[1] + dy * share + dx * off, at[2] + dz * share

        kind = draw(st.sampled_from(kinds))
        if kind == "arc":
            legs.append(ArcLeg(to=to, via=aside(0.5, draw(st.sampled_from([-0.3, -0.1, 0.2, 0.45])))))
        elif kind == "through":
            legs.append(ThroughLeg(to=to, points=(PassPoint(at=aside(0.35, 0.1)), PassPoint(at=aside(0.7, -0.05)))))
        elif kind == "curve":
            legs.append(CurveLeg(to=to, controls=(aside(0.3, 0.2), aside(0.7, 0.1)), weights=(1, 0.8, 1.2, 1)))
        elif kind == "helix":
            centre = (at[0] - 900 * math.sin(heading), at[1] + 900 * math.cos(heading), at[2])
            to = helix_end(at, centre, (0, 0, 1), 200, 400)
            legs.append(HelixLeg(to=to, centre=centre, turn=200))
            heading += math.radians(200)
        elif kind == "cord":
            legs.append(CordLeg(to=to, sag=size * draw(st.floats(0.03, 0.2))))
        else:
            legs.append(StraightLeg(to=to))
        at = to
    found = bent_line((0, 0, 0), legs, frame=draw(st.sampled_from(["auto", "carried"])))
    if draw(st.booleans()):
        rounds = [
            leg.model_copy(update={"round": 120.0})
            if isinstance(leg, StraightLeg) and i + 1 < len(legs) and isinstance(legs[i + 1], StraightLeg)
            else leg
            for i, leg in enumerate(legs)
        ]
        found = found.model_copy(update={"legs": tuple(rounds)})
    return found

"""Random lines and sections for the properties, and short ways to cut and mesh them."""

from __future__ import annotations

import math

import numpy as np
import trimesh
from hypothesis import strategies as st

from slow_ribbon.core.course import course_of
from slow_ribbon.core.line import Line, line_body, with_id
from slow_ribbon.core.mitre import Cuts, cut
from slow_ribbon.core.outline import Outline, OutlinePen
from slow_ribbon.core.run import Placed, Placing
from slow_ribbon.core.section import Section
from slow_ribbon.core.shape import Array
from slow_ribbon.core.solid import Solid


def line(points: object, closed: bool = False) -> Line:
    """Return a line through points of two or three coordinates."""
    rows = [(*point, 0)[:3] for point in points]  # type: ignore[attr-defined]  # any sequence of points will do
    return with_id(line_body(rows, closed, "Line"), "L1")


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

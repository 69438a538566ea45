"""Sections: an outline at a size, with the point that sits on the line and the side that lies on the saw.

Terms
-----
datum
    the point of the section that sits on the line: one of nine named points of the outline's
    bounding box, or any other point.
bed
    the side of the section that lies on the saw table: a side of its bounding box, or a
    straight edge of the outline (the sprung back of a cornice).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Final, Literal, get_args

import numpy as np
from pydantic import Field, StringConstraints

from slow_ribbon.core.kernel.arrays import Array, Flags
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Coordinate, Follows, GroupName, Id, Model, Name, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LENGTH, SAME_PLACE
from slow_ribbon.core.sections.document.constraints import Constraint
from slow_ribbon.core.sections.document.materials import Material
from slow_ribbon.core.sections.document.sizes import Range, Sizes
from slow_ribbon.core.sections.edges.base import Loop
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import Shape, loop_of, outline_shape, shape_of
from slow_ribbon.core.sections.outline.stretch import Grows, Scaling, Stretching, band_of, scaled, stretched

NamedPoint = Literal[
    "back-foot", "middle-foot", "front-foot", "back-middle", "middle", "front-middle", "back-head", "middle-head", "front-head"
]
_ACROSS: Final = {"back": 0.0, "middle": 0.5, "front": 1.0}
_UP: Final = {"foot": 0.0, "middle": 0.5, "head": 1.0}

Side = Literal["back", "foot", "front", "head"]
_SIDE_UP: Final[dict[Side, tuple[float, float]]] = {"back": (1, 0), "foot": (0, 1), "front": (-1, 0), "head": (0, -1)}


class NamedDatum(Model):
    """One of the nine points of the bounding box: *back* is the left edge of the section, *foot* the lowest."""

    kind: Literal["named"] = "named"
    name: NamedPoint = "back-foot"


class PointDatum(Model):
    """Any point, measured from the back foot of the bounding box."""

    kind: Literal["point"] = "point"
    x: Coordinate
    y: Coordinate


Datum = Annotated[NamedDatum | PointDatum, Field(discriminator="kind")]

#: What of a section, as it is placed, a measure across and one up go to: its datum, or a side of its box.
Across = Literal["datum", "front", "middle", "back"]
Up = Literal["datum", "top", "middle", "bottom"]


class SideBed(Model):
    """The section lies on a side of its bounding box."""

    kind: Literal["side"] = "side"
    side: Side = "back"


class EdgeBed(Model):
    """The section lies on a straight edge of its outline, counted from 0 as drawn."""

    kind: Literal["edge"] = "edge"
    edge: Annotated[int, Field(ge=0)]


Bed = Annotated[SideBed | EdgeBed, Field(discriminator="kind")]


class Stock(Model):
    """How a section is sold: by whom, as what, in which lengths (mm), at what price a metre, and in how many days it comes."""

    supplier: Name
    code: Annotated[str, StringConstraints(min_length=1, max_length=60)]
    lengths: Annotated[tuple[Size, ...], Field(min_length=1, max_length=50)]
    price: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")]
    days: Annotated[int, Field(ge=0, le=3650)]


class SectionBody(Model):
    """What a section is, before it has an id.

    ``outline`` and ``holes`` are as drawn; ``width`` and ``height`` are the size it is made at.
    ``grows`` says how it is brought to that size (``scaling``), ``stretching`` which parts stretch where it
    keeps its corners. ``wall`` keeps the thickness of a tube's wall whatever its size: the hole is then as wide
    and as high as the section less twice the wall. ``held`` is what stays true of the outline, as
    drawn, while it is drawn on; ``sizes`` and ``range`` are its sizes by name, and those it is made in;
    ``stock`` is how it is sold, where it was taken from a supplier's catalogue.
    """

    name: Name
    outline: Outline
    holes: Annotated[tuple[Outline, ...], Field(max_length=50)] = ()
    width: Size
    height: Size
    wall: Size | None = None
    grows: Grows = "scaled"
    stretching: Stretching = Stretching()
    datum: Datum = NamedDatum()
    material: Material = "softwood"
    bed: Bed = SideBed()
    held: Annotated[tuple[Constraint, ...], Field(max_length=500)] = ()
    sizes: Sizes = ()
    range: Range = ()
    stock: Stock | None = None
    group: GroupName = ""


class ShopLink(Model):
    """Which section of the shop's library, in which version, a section was taken from."""

    id: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{32}$")]
    version: Annotated[int, Field(ge=1, lt=2**31)]


class Member(Model):
    """What a second section members with: it is the image of section ``of``, in a row of its range or its own size, by a matrix.

    ``matrix`` (2, 2) is given row by row.
    """

    of: Id
    size: Name | None = None
    matrix: tuple[float, float, float, float]


class Section(SectionBody):
    """A section of a job; ``shop`` is what it was taken from, or was put into, in the shop's library.

    ``member``: what it follows, where it was made to member with another; its name, its material, its group and where it is kept
    stay its own.
    """

    following: ClassVar = {
        "outline": Follows("member", blank={"start": (0, 0), "edges": [{"kind": "straight", "to": to} for to in ((1, 0), (1, 1), (0, 0))]}),
        "width": Follows("member", blank=1),
        "height": Follows("member", blank=1),
        **{name: Follows("member") for name in ("holes", "wall", "grows", "stretching", "datum", "bed", "held", "sizes", "range")},
        "member": Follows("member", remembered=True),
    }

    id: Id
    shop: ShopLink | None = None
    member: Member | None = None


def datum_point(shape: Shape, datum: Datum) -> Array:
    """Return where the datum is on a shape, (2,) in mm."""
    left, low, right, high = shape.box
    if isinstance(datum, PointDatum):
        return np.array([left + datum.x, low + datum.y])
    across, _, up = datum.name.partition("-")
    return np.array([left + _ACROSS[across] * (right - left), low + _UP[up or "middle"] * (high - low)])


def named_points() -> tuple[str, ...]:
    """Return the names of the nine points, foot to head and back to front."""
    return get_args(NamedPoint)


@kept_with
def section_shape(section: SectionBody) -> Shape:
    """Return a section's shape at its size, its box starting at the origin; validated.

    Raises ``Refused`` for an outline that is open, crosses itself or has its hole outside.

    >>> from slow_ribbon.core.sections.library import rectangle
    >>> section_shape(SectionBody(name="Batten", outline=rectangle(25, 50), width=30, height=50)).area
    1500.0
    """
    drawn, scaling = _drawn(section), scaling_of(section)
    placed = _at_size(drawn, scaling)
    if section.wall is None:
        return placed
    if len(section.holes) != 1:
        raise Refused("A wall thickness needs a section with exactly one hole.", "wall", "section-wall")
    wall = section.wall
    if 2 * wall >= min(section.width, section.height) - NO_LENGTH:
        most = min(section.width, section.height) / 2
        raise Refused(f"A wall of {figure(wall, 3)} leaves no hole: it must be less than {figure(most, 3)}.", "wall", "section-wall")
    hole = outline_shape(section.holes[0])
    within = _scaling(section, hole.loops, hole.box, section.width - 2 * wall, section.height - 2 * wall)
    inner = _at_size(hole, within).mapped(np.eye(2), np.array([wall, wall]))
    loop = tuple(edge.reversed() for edge in reversed(inner.loops[0]))
    return Shape((placed.loops[0], loop))


def _drawn(section: SectionBody) -> Shape:
    """Return the shape of what is drawn of a section; without its hole where that follows its wall."""
    bare = section.wall is not None or not section.holes
    return outline_shape(section.outline) if bare else shape_of(section.outline, section.holes)


def scaling_of(section: SectionBody) -> Scaling:
    """Return how a section's outline, as drawn, is brought to its size. Raises ``Refused`` where it cannot be."""
    drawn = _drawn(section)
    return _scaling(section, drawn.loops, drawn.box, section.width, section.height)


def stretching_bands(section: SectionBody) -> tuple[tuple[float, float] | None, tuple[float, float] | None]:
    """Return the bands that stretch across and up, mm from the back and from the foot at its size; none where nothing does."""
    if section.grows != "kept":
        return None, None
    drawn, scaling = _drawn(section), scaling_of(section)
    found: list[tuple[float, float] | None] = []
    for axis in (0, 1):
        band = band_of(drawn.loops, drawn.box, axis, section.stretching)
        if band is not None:
            begin, end = np.interp(band, scaling.knots[axis], scaling.becomes[axis]) - scaling.box[axis]
            band = (float(begin), float(end))
        found.append(band)
    return found[0], found[1]


def _scaling(section: SectionBody, loops: tuple[Loop, ...], box: tuple[float, float, float, float], width: float, height: float) -> Scaling:
    return stretched(loops, box, width, height, section.stretching) if section.grows == "kept" else scaled(box, width, height)


def _at_size(shape: Shape, scaling: Scaling) -> Shape:
    """Return a shape as it is drawn at its size, its box from the origin."""
    away = np.array(scaling.box[:2])
    if (whole := scaling.affine) is not None:
        return shape.mapped(whole[0], whole[1] - away)
    return Shape(tuple(scaling.edges(loop) for loop in shape.loops)).mapped(np.eye(2), -away)


@kept_with
def bed_up(section: SectionBody) -> Array:
    """Return the unit vector out of the saw table, (2,) in the section's own x and y.

    Raises ``Refused`` where the bed is no straight edge or the section would rock on it.
    """
    if isinstance(section.bed, SideBed):
        return np.array(_SIDE_UP[section.bed.side], dtype=float)
    edges = section.outline.edges
    if section.bed.edge >= len(edges) or not edges[section.bed.edge].straight:
        raise Refused("The section can only lie on a straight edge of its outline: choose another.", "bed.edge", "section-bed")
    ups, steady = _lying_on(section, [section.bed.edge])
    if not steady[0]:
        raise Refused("Part of the section lies under that edge, so it would rock on the saw: choose another.", "bed.edge", "section-bed")
    up: Array = ups[0]
    return up


@kept_with
def beds(section: SectionBody) -> tuple[int, ...]:
    """Return the slanting straight edges on which a section can lie steadily."""
    return tuple(index for index, up in edges_lying(section).items() if np.abs(up).min() > FLAT)


def edges_lying(section: SectionBody) -> dict[int, Array]:
    """Return the straight edges on which a section can lie steadily, with the unit (2,) out of the table on each."""
    straight = [index for index, edge in enumerate(section.outline.edges) if edge.straight]
    if not straight:
        return {}
    ups, steady = _lying_on(section, straight)
    return {index: up for index, up, lies in zip(straight, ups, steady.tolist(), strict=True) if lies}


def _lying_on(section: SectionBody, edges: Sequence[int]) -> tuple[Array, Flags]:
    """Return the units out of straight edges of a section's outline, (n, 2), and whether all of the section lies above each, (n,)."""
    drawn, scaling = loop_of(section.outline), scaling_of(section)
    begins, ends = (scaling.points(np.array([getattr(drawn[index], name) for index in edges])) for name in ("begin", "end"))
    along = ends - begins
    sense = math.copysign(1, float(Together.of(drawn).areas.sum()))
    ups = sense * np.column_stack([-along[:, 1], along[:, 0]]) / np.hypot(along[:, 0], along[:, 1])[:, None]
    feet = np.einsum("ij,ij->i", begins - np.array(scaling.box[:2]), ups)
    return ups, -section_shape(section).furthest(-ups) >= feet - SAME_PLACE

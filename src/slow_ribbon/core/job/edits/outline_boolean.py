"""Edits that make outlines of others: joined with a shape or another section, cut by one, mirrored, turned."""

from __future__ import annotations

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import SECTIONS
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Angle, Id, Model, Name, Point2, Size
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.sections.document.materials import Material
from slow_ribbon.core.sections.document.section import EdgeBed, Section, SideBed, section_shape
from slow_ribbon.core.sections.operations.boolean import How, basic_circle, basic_rectangle, combined, regular_polygon
from slow_ribbon.core.sections.outline.outline import Outline
from slow_ribbon.core.sections.outline.profile import Shape, shape_of
from slow_ribbon.core.sections.sketch.sketch import outline_of_loop

_TOUCHES = frozenset({SECTIONS.group})


class RectangleShape(Model):
    """A rectangle by its back foot, from the back foot of the section."""

    kind: Literal["rectangle"] = "rectangle"
    width: Size
    height: Size
    at: Point2 = (0.0, 0.0)


class CircleShape(Model):
    """A circle by its middle, from the back foot of the section."""

    kind: Literal["circle"] = "circle"
    radius: Size
    at: Point2 = (0.0, 0.0)


class SectionShape(Model):
    """Another section of the job, its back foot at a place from that of the section, turned and mirrored before."""

    kind: Literal["section"] = "section"
    section: Id
    at: Point2 = (0.0, 0.0)
    turn: Angle = 0.0
    mirrored: bool = False


OtherShape = Annotated[RectangleShape | CircleShape | SectionShape, Field(discriminator="kind")]


class CombineOutline(Edit):
    """Join a section's outline with another shape, cut that away from it, or keep what they have in common; nothing is held then."""

    touches = _TOUCHES

    kind: Literal["combine_outline"] = "combine_outline"
    section: Id
    how: How
    other: OtherShape

    def apply(self, job: Job) -> Job:
        look_up()
        section = job.section(self.section)
        outline, holes = combined(section_shape(section), self._shape(job), self.how)
        return job.put(with_outline(section, outline, holes))

    def _shape(self, job: Job) -> Shape:
        other = self.other
        if isinstance(other, RectangleShape):
            return Shape((basic_rectangle(other.width, other.height, other.at),))
        if isinstance(other, CircleShape):
            return Shape((basic_circle(other.radius, other.at),))
        shape = section_shape(job.section(other.section)).mapped(turned(other.turn, other.mirrored), np.zeros(2))
        return shape.mapped(np.eye(2), np.array(other.at) - np.array(shape.box[:2]))

    def describe(self, job: Job) -> str:
        other = self.other
        what = f"a {other.kind}" if not isinstance(other, SectionShape) else job.section(other.section).name
        name = job.section(self.section).name
        words = {"join": f"joined {name} with {what}", "cut": f"cut {what} out of {name}", "common": f"kept of {name} what lies in {what}"}
        return words[self.how]


class TurnOutline(Edit):
    """Turn a section's outline, or mirror it from back to front and then turn it."""

    touches = _TOUCHES

    kind: Literal["turn_outline"] = "turn_outline"
    section: Id
    turn: Angle = 0.0
    mirrored: bool = False

    def apply(self, job: Job) -> Job:
        look_up()
        section = job.section(self.section)
        shape = section_shape(section).mapped(turned(self.turn, self.mirrored), np.zeros(2))
        loops = [outline_of_loop(loop) for loop in shape.loops]
        return job.put(with_outline(section, loops[0], tuple(loops[1:])))

    def describe(self, job: Job) -> str:
        name = job.section(self.section).name
        return f"mirrored {name}" if self.mirrored and not self.turn else f"turned {name} by {self.turn:g}°"


class AddPolygon(Edit):
    """Add a section that is a polygon of equal sides, so far across its flats or its corners."""

    touches = _TOUCHES

    kind: Literal["add_polygon"] = "add_polygon"
    name: Name
    sides: Annotated[int, Field(ge=3, le=100)]
    across: Size
    over: Literal["flats", "corners"] = "flats"
    material: Material = "softwood"

    def apply(self, job: Job) -> Job:
        outline = regular_polygon(self.sides, self.across, self.over)
        left, low, right, high = shape_of(outline).box
        body = {"name": self.name, "outline": outline, "width": right - left, "height": high - low, "material": self.material}
        return job.added(SECTIONS, body)

    def describe(self, job: Job) -> str:
        return f"added section {self.name} with {self.sides} sides"


def turned(degrees: float, mirrored: bool) -> Array:
    """Return the matrix (2, 2) that mirrors from back to front, where that is wanted, and then turns anticlockwise."""
    turn = math.radians(degrees)
    # A right angle leaves what is upright upright.
    cosine, sine = round(math.cos(turn), 15), round(math.sin(turn), 15)
    return np.array([[cosine, -sine], [sine, cosine]]) @ np.diag([-1.0 if mirrored else 1.0, 1.0])


def with_outline(section: Section, outline: Outline, holes: tuple[Outline, ...]) -> Section:
    """Return a section with another outline at its own size; what was said of the edges of the old one is let go."""
    left, low, right, high = shape_of(outline, holes).box
    bed = SideBed() if isinstance(section.bed, EdgeBed) else section.bed
    fields = {"outline": outline, "holes": holes, "width": right - left, "height": high - low, "wall": None, "held": (), "bed": bed}
    texts = tuple(size.model_copy(update={"text": None, "system": None}) for size in section.sizes)
    return section.model_copy(update={**fields, "sizes": texts})

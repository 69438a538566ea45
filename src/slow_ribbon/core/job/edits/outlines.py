"""Edits of the outlines of sections: what is done on the section desk.

Places are those of the section's drawing at its size (``sections.drawing``): loop 0 is the outline, 1 and on its holes;
points and edges are counted from 0, edge i from point i to the next.
"""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field, model_validator

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import SECTIONS
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import Lengths, key, work_out
from slow_ribbon.core.kernel.fields import Id, Index, Point2, Size
from slow_ribbon.core.kernel.figures import figure as figure_words
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.sections.document.constraints import Apart, Constraint, Figured, Radius
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.edges import EDGE_OF, EdgeKind
from slow_ribbon.core.sections.operations.parametric_sizes import resized, size_values
from slow_ribbon.core.sections.sketch import infer_constraints, outline_edits
from slow_ribbon.core.sections.sketch.infer_constraints import same_figure
from slow_ribbon.core.sections.sketch.sketch import Sketch, drawing_of, redrawn


class OutlineEdit(Edit):
    """Something that is done to the outline of one section."""

    touches = frozenset({SECTIONS.group})

    section: Id

    def apply(self, job: Job) -> Job:
        look_up()
        return job.put(self.drawn_on(job.section(self.section), job.lengths()))

    def drawn_on(self, section: Section, measures: Lengths) -> Section:
        """Return the section after the edit, with what follows its sizes."""
        after = redrawn(section, self.redraw(drawing_of(section)))
        return resized(after, {}, measures) if after.sizes else after

    @abstractmethod
    def redraw(self, now: Sketch) -> Sketch:
        """Return the drawing after the edit."""

    def name(self, job: Job) -> str:
        """Return the name of the section."""
        return job.section(self.section).name


class MoveOutlinePoint(OutlineEdit):
    """Move a point as near to a place as what is held allows."""

    kind: Literal["move_outline_point"] = "move_outline_point"
    loop: Index = 0
    point: Index
    to: Point2

    def redraw(self, now: Sketch) -> Sketch:
        return outline_edits.point_moved(now, self.loop, self.point, self.to)

    def describe(self, job: Job) -> str:
        return f"moved point {self.point + 1} of {self.name(job)}"


class ShapeOutlineEdge(OutlineEdit):
    """Make an edge a straight, an arc through a place, or a curve whose handles end at two places.

    Where it goes on smoothly from a curve it still does, unless it is ``parted`` from it.
    """

    kind: Literal["shape_outline_edge"] = "shape_outline_edge"
    loop: Index = 0
    edge: Index
    shape: EdgeKind
    by: Annotated[tuple[Point2, ...], Field(max_length=2)] = ()
    parted: bool = False

    @model_validator(mode="after")
    def _as_many_as_it_takes(self) -> ShapeOutlineEdge:
        if len(self.by) != EDGE_OF[self.shape].shape_count:
            raise ValueError("a straight has no point between its ends, an arc has one, and a curve has the ends of its two handles")
        return self

    def redraw(self, now: Sketch) -> Sketch:
        return outline_edits.edge_shaped(now, self.loop, self.edge, self.shape, self.by, self.parted)

    def describe(self, job: Job) -> str:
        return f"shaped edge {self.edge + 1} of {self.name(job)}"


class PutOutlinePoint(OutlineEdit):
    """Put a point into an edge, at its place nearest to another."""

    kind: Literal["put_outline_point"] = "put_outline_point"
    loop: Index = 0
    edge: Index
    at: Point2
    #: Where it is moved to at once: a place beside the edge that it was pulled to.
    to: Point2 | None = None

    def redraw(self, now: Sketch) -> Sketch:
        if self.to is None:
            return outline_edits.point_put_in(now, self.loop, self.edge, self.at)
        return outline_edits.point_pulled_out(now, self.loop, self.edge, self.at, self.to)

    def describe(self, job: Job) -> str:
        return f"put a point into edge {self.edge + 1} of {self.name(job)}"


class TakeOutlinePoint(OutlineEdit):
    """Take a point out; its two edges become one."""

    kind: Literal["take_outline_point"] = "take_outline_point"
    loop: Index = 0
    point: Index

    def redraw(self, now: Sketch) -> Sketch:
        return outline_edits.point_taken_out(now, self.loop, self.point)

    def describe(self, job: Job) -> str:
        return f"took point {self.point + 1} out of {self.name(job)}"


class CutOutlineCorner(OutlineEdit):
    """Round a corner by a radius, or chamfer it so far along both edges."""

    kind: Literal["cut_outline_corner"] = "cut_outline_corner"
    loop: Index = 0
    point: Index
    how: Literal["round", "chamfer"]
    size: Size

    def redraw(self, now: Sketch) -> Sketch:
        return outline_edits.corner_cut(now, self.loop, self.point, self.how, self.size)

    def describe(self, job: Job) -> str:
        done = "rounded" if self.how == "round" else "chamfered"
        return f"{done} corner {self.point + 1} of {self.name(job)}"


class SetOutlineFigure(OutlineEdit):
    """Make a length, a radius or an angle what it is said to be, and ``hold`` it from now on; one that is held stays held."""

    kind: Literal["set_outline_figure"] = "set_outline_figure"
    figure: Figured
    hold: bool = False

    def drawn_on(self, section: Section, measures: Lengths) -> Section:
        figure = self.figure
        if isinstance(figure, Apart | Radius):
            if figure.text is not None:
                worked = work_out(figure.text, {**measures, **size_values(section)}, figure.system or "mm")
                if worked.length <= 0:
                    raise Refused(
                        f"{figure.text} comes out as {figure_words(worked.length, 3)}: it must be more than zero.", "text", "size"
                    )
                if not worked.uses:
                    figure = figure.model_copy(update={"text": None})
                figure = figure.model_copy(update={"value": worked.length})
                return SetOutlineFigure(section=self.section, figure=figure, hold=True)._typed(section, measures)
            was = next((one for one in section.held if same_figure(one, figure)), None)
            if isinstance(was, Apart | Radius) and was.text is not None and key(was.text) in size_values(section):
                # It is a size, by its name: the size is what is typed, and all that follows it comes along.
                return resized(section, {key(was.text): figure.value}, measures)
        return self._typed(section, measures)

    def _typed(self, section: Section, measures: Lengths) -> Section:
        return super().drawn_on(section, measures)

    def redraw(self, now: Sketch) -> Sketch:
        return infer_constraints.figure_typed(now, self.figure, self.hold)

    def describe(self, job: Job) -> str:
        what = {"length": "a length", "radius": "a radius", "angle": "an angle"}[self.figure.kind]
        return f"set {what} of {self.name(job)}"


class HoldOutline(OutlineEdit):
    """Hold something more true of the outline."""

    kind: Literal["hold_outline"] = "hold_outline"
    held: Constraint

    def redraw(self, now: Sketch) -> Sketch:
        return infer_constraints.held_true(now, self.held)

    def describe(self, job: Job) -> str:
        return f"held {self.held.words()} in {self.name(job)}"


class HoldSymmetric(OutlineEdit):
    """Hold the whole symmetric about an axis, by the pairs of points that are nearest to it now."""

    kind: Literal["hold_symmetric"] = "hold_symmetric"
    axis: Literal["upright", "level"]

    def redraw(self, now: Sketch) -> Sketch:
        return infer_constraints.held_true(now, infer_constraints.mirror_found(now, self.axis))

    def describe(self, job: Job) -> str:
        return f"held {self.name(job)} symmetric about {'an upright' if self.axis == 'upright' else 'a level'} axis"


class LetGo(OutlineEdit):
    """Let go of something that is held, by its number in the list of what is."""

    kind: Literal["let_go"] = "let_go"
    number: Index

    def redraw(self, now: Sketch) -> Sketch:
        if self.number >= len(now.held):
            raise Refused(f"There are only {len(now.held)} things held.", "number", "unknown-held")
        return Sketch(now.drawn, (*now.held[: self.number], *now.held[self.number + 1 :]))

    def describe(self, job: Job) -> str:
        held = job.section(self.section).held
        return f"let go of {held[self.number].words() if self.number < len(held) else 'something held'} in {self.name(job)}"

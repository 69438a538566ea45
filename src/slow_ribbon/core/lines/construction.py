"""How a line is made, where it follows something else: a walk, another line, or two, the face of a run.

A line that follows is made again whenever what it follows changes; changed by hand, it no
longer follows.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from slow_ribbon.core.kernel.fields import Coordinate, Id, Index, Model, Point3
from slow_ribbon.core.kernel.units import System
from slow_ribbon.core.lines.frames import FrameBody, FrameDivision
from slow_ribbon.core.sections.document.section import Across, Up


class MadeLine(Model):
    """How a line is made. It follows the first of the lines that it stands on, and goes its way."""

    #: Whether the other way about, or mirrored, it is made again of what it stands on alone.
    made_alike: ClassVar[bool] = False
    #: Whether it is made again when measures change.
    uses_measures: ClassVar[bool] = False

    @property
    def for_run(self) -> str | None:
        """The id of the run whose datum lies on the line; None where it is for none."""
        return None

    @property
    def uses_runs(self) -> tuple[str, ...]:
        """The ids of the runs whose sections it follows."""
        return () if self.for_run is None else (self.for_run,)

    def stands_on(self) -> tuple[str, ...]:
        """Return the ids of the lines that it uses."""
        return ()

    def other_side(self) -> Self:
        """Return how the line is made once the line that it follows goes the other way, or was mirrored."""
        return self

    def shifted(self, move: Callable[[Point3], Point3], moved: Collection[str]) -> Self | None:
        """Return how the line is made once it was shifted, with the lines of some ids; None where it follows no more."""
        return None


class Walk(MadeLine):
    """The line is walked: its text, from ``start``. Bare numbers in it are in the units the job had then, ``system``."""

    uses_measures: ClassVar = True

    kind: Literal["walk"] = "walk"
    text: Annotated[str, Field(min_length=1, max_length=20_000)]
    start: Point3 = (0.0, 0.0, 0.0)
    system: System | None = None


class Offset(MadeLine):
    """The line lies beside another, ``distance`` mm to the right of its travel; to the left with a minus."""

    kind: Literal["offset"] = "offset"
    line: Id
    distance: Coordinate

    def stands_on(self) -> tuple[str, ...]:
        return (self.line,)

    def other_side(self) -> Offset:
        return self.model_copy(update={"distance": 0.0 - self.distance})


class Midway(MadeLine):
    """The line lies midway between two others."""

    made_alike: ClassVar = True

    kind: Literal["midway"] = "midway"
    lines: tuple[Id, Id]

    def stands_on(self) -> tuple[str, ...]:
        return self.lines


class SetOut(MadeLine):
    """The line lies where the datum of a run has to be, for its section to lie so from another line.

    ``stand_off`` and ``lift`` are measured from that line to what they are said ``of``, as in the run's placing: so a measure is
    one to the run's face, and its line follows, whatever its section becomes.
    """

    made_alike: ClassVar = True

    kind: Literal["set_out"] = "set_out"
    line: Id
    run: Id
    stand_off: Coordinate = 0.0
    lift: Coordinate = 0.0
    stand_off_of: Across = "datum"
    lift_of: Up = "datum"

    @property
    def for_run(self) -> str:
        return self.run

    def stands_on(self) -> tuple[str, ...]:
        return (self.line,)


class StripEdge(MadeLine):
    """The line is an edge of the strip along another, as wide as that is."""

    kind: Literal["strip_edge"] = "strip_edge"
    line: Id
    side: Literal["left", "right"]

    def stands_on(self) -> tuple[str, ...]:
        return (self.line,)

    def other_side(self) -> StripEdge:
        return self.model_copy(update={"side": "left" if self.side == "right" else "right"})


class FrameOutline(MadeLine, FrameBody):
    """The line is the outline of a frame, the middle of whose foot stands ``at`` a place; it faces south."""

    kind: Literal["frame"] = "frame"
    at: Point3 = (0.0, 0.0, 0.0)

    def shifted(self, move: Callable[[Point3], Point3], moved: Collection[str]) -> FrameOutline:
        return self.model_copy(update={"at": move(self.at)})

    @property
    def uses_runs(self) -> tuple[str, ...]:
        return tuple(cut.under for cut in self.cuts if cut.under is not None)


class FrameBar(MadeLine):
    """The line is the middle of bar ``number`` of a frame, from 0, which is given by its outline's line.

    ``members`` is the run of the frame's members and ``bar`` its own: how deep their sections are decides where it lies.
    """

    kind: Literal["frame_bar"] = "frame_bar"
    line: Id
    division: FrameDivision
    number: Index
    members: Id
    bar: Id

    @property
    def uses_runs(self) -> tuple[str, ...]:
        return self.members, self.bar

    def shifted(self, move: Callable[[Point3], Point3], moved: Collection[str]) -> FrameBar | None:
        # It lies where its frame does.
        return self if self.line in moved else None

    def stands_on(self) -> tuple[str, ...]:
        return (self.line,)


class FramePane(MadeLine):
    """The line goes round a pane in bay ``number`` of a frame, from 0: in the whole of it where it has no bars.

    The pane's edges ``reach`` into the grooves of the members and bars around it, mm; with a minus they stay clear of them.
    ``members`` is the run of the frame's members, ``bar`` that of one of its bars: how deep their sections are decides where bays end.
    """

    kind: Literal["frame_pane"] = "frame_pane"
    line: Id
    reach: Coordinate = 0.0
    division: FrameDivision | None = None
    number: Index
    members: Id
    bar: Id | None = None

    @property
    def uses_runs(self) -> tuple[str, ...]:
        return (self.members,) if self.bar is None else (self.members, self.bar)

    def shifted(self, move: Callable[[Point3], Point3], moved: Collection[str]) -> FramePane | None:
        # It lies where its frame does.
        return self if self.line in moved else None

    def stands_on(self) -> tuple[str, ...]:
        return (self.line,)


AnyMade = Walk | Offset | Midway | SetOut | StripEdge | FrameOutline | FrameBar | FramePane
Made = Annotated[Walk | Offset | Midway | SetOut | StripEdge | FrameOutline | FrameBar | FramePane, Field(discriminator="kind")]

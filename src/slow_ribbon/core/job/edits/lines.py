"""Edits of lines: drawing them, changing their legs, working on them, openings and marks."""

from __future__ import annotations

from typing import Annotated, Final, Literal

from pydantic import Field
from pydantic_core import to_json

from slow_ribbon.core.job.edits.changes import LegChanges, LineChanges, MadeChanges, MarkChanges, OpeningChanges, PointChange
from slow_ribbon.core.kernel.fields import Coordinate, Distance, Id, Model, Name, Point2, Point3
from slow_ribbon.core.lines.construction import Made
from slow_ribbon.core.lines.legs import Radius, Turn
from slow_ribbon.core.lines.model import LineBody, Mark, Opening, Source

Some = Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
Index = Annotated[int, Field(ge=0)]
#: More lines than this are kept once, with what they make of the job, and not with the edit too.
MOST_KEPT: Final = 200


class AddLines(Model):
    """Add lines; ``origin`` sets where the job's nought lies on the site, while the job has no lines yet."""

    kind: Literal["add_lines"] = "add_lines"
    lines: Annotated[tuple[LineBody, ...], Field(min_length=1, max_length=50_000, fail_fast=True)]
    origin: Point3 | None = None

    def kept(self) -> bytes:
        """Return the edit as it is kept with what it led to, JSON: of very many lines how many, since they lie beside it."""
        if len(self.lines) <= MOST_KEPT:
            return self.model_dump_json(exclude_unset=True).encode()
        return to_json({"kind": self.kind, "origin": self.origin, "added": len(self.lines)})


class RenewedLine(Model):
    """A line that a drawing has again: where it now comes from, and its new shape where it takes one."""

    line: Id
    source: Source
    body: LineBody | None = None


class RenewLines(Model):
    """Let a drawing that is brought in again take the place of what came from it; ``added`` lines are added by another edit.

    Lines keep their names and what stands on them. Of those ``gone`` from it, what something
    stands on stays and is marked; the rest are removed.
    """

    kind: Literal["renew_lines"] = "renew_lines"
    file: Annotated[str, Field(min_length=1, max_length=255)]
    renewed: Annotated[tuple[RenewedLine, ...], Field(max_length=50_000, fail_fast=True)] = ()
    gone: Annotated[tuple[Id, ...], Field(max_length=50_000, fail_fast=True)] = ()


class SetLine(Model):
    """Change a line's name, frame rule or backdrop wall."""

    kind: Literal["set_line"] = "set_line"
    line: Id
    changes: LineChanges


class MoveVertex(Model):
    """Move a point of a line; points are counted from 0 at the start. Curves beside it follow in proportion."""

    kind: Literal["move_vertex"] = "move_vertex"
    line: Id
    index: Index
    to: PointChange


class InsertVertex(Model):
    """Put a new point into leg ``leg``, counted from 0; past the last leg of an open line it makes the line longer."""

    kind: Literal["insert_vertex"] = "insert_vertex"
    line: Id
    leg: Index
    at: Point3


class RemoveVertex(Model):
    """Take a point out of a line; where curves met there, one straight leg takes their place."""

    kind: Literal["remove_vertex"] = "remove_vertex"
    line: Id
    index: Index


class SetClosed(Model):
    """Close a line by a leg back to its start, or open it there; a nearly closed line's last point goes to the start."""

    kind: Literal["set_closed"] = "set_closed"
    line: Id
    closed: bool


class SetLeg(Model):
    """Change a leg, or make it another one: straight, an arc, a curve, a helix, a cord. It may end elsewhere than before."""

    kind: Literal["set_leg"] = "set_leg"
    line: Id
    leg: Index
    changes: LegChanges


class ShapeLeg(Model):
    """Move a point that shapes a leg, counted from 0 along it: where an arc or a smooth curve passes, a control; sharp or smooth there."""

    kind: Literal["shape_leg"] = "shape_leg"
    line: Id
    leg: Index
    point: Index
    to: PointChange | None = None
    sharp: bool | None = None


class UnshapeLeg(Model):
    """Take out a point that shapes a smooth curve or a curve by controls."""

    kind: Literal["unshape_leg"] = "unshape_leg"
    line: Id
    leg: Index
    point: Index


class BendLeg(Model):
    """Make a leg an arc of a radius, bulging left or right of its straight, the short way or the long way round.

    Of a leg that is an arc already, what is left out stays; another becomes a short arc bulging
    left, of three quarters of the distance between its ends.
    """

    kind: Literal["bend_leg"] = "bend_leg"
    line: Id
    leg: Index
    radius: Radius | None = None
    side: Literal["left", "right"] | None = None
    long: bool | None = None


class TurnLeg(Model):
    """Make a leg a screw line: ``turn`` degrees (to the right with a minus) about an upright axis, between its ends."""

    kind: Literal["turn_leg"] = "turn_leg"
    line: Id
    leg: Index
    turn: Turn


class MakeTangent(Model):
    """Make the leg after a point leave in the direction in which the leg before comes in, as an arc to its own end."""

    kind: Literal["make_tangent"] = "make_tangent"
    line: Id
    leg: Index


class RoundCorners(Model):
    """Round corners of a line to a radius, or make them sharp again; ``points`` left out are all corners."""

    kind: Literal["round_corners"] = "round_corners"
    line: Id
    points: Annotated[tuple[Index, ...], Field(max_length=200_000, fail_fast=True)] | None = None
    radius: Radius | None = None


class AddOpenings(Model):
    """Leave stretches of a line free."""

    kind: Literal["add_openings"] = "add_openings"
    line: Id
    openings: Annotated[tuple[Opening, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]


class SetOpening(Model):
    """Change an opening's name, place or width."""

    kind: Literal["set_opening"] = "set_opening"
    line: Id
    opening: Id
    changes: OpeningChanges


class RemoveOpenings(Model):
    """Take openings out; the stretches beside each grow together."""

    kind: Literal["remove_openings"] = "remove_openings"
    line: Id
    openings: Some


class AddMarks(Model):
    """Name places on a line."""

    kind: Literal["add_marks"] = "add_marks"
    line: Id
    marks: Annotated[tuple[Mark, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]


class SetMark(Model):
    """Change a mark's name or place."""

    kind: Literal["set_mark"] = "set_mark"
    line: Id
    mark: Id
    changes: MarkChanges


class RemoveMarks(Model):
    """Take named places out."""

    kind: Literal["remove_marks"] = "remove_marks"
    line: Id
    marks: Some


class SplitLine(Model):
    """Split a line at a chainage; what follows it follows both parts. A closed line opens there."""

    kind: Literal["split_line"] = "split_line"
    line: Id
    at: Distance


class JoinLines(Model):
    """Join open lines end to end into the first; what followed the others follows it."""

    kind: Literal["join_lines"] = "join_lines"
    lines: Annotated[tuple[Id, ...], Field(min_length=2, max_length=10_000, fail_fast=True)]
    tolerance: Annotated[float, Field(ge=0.001, le=1000)] = 1.0


class ReverseLines(Model):
    """Let lines go the other way; what stands on them stays where it is."""

    kind: Literal["reverse_lines"] = "reverse_lines"
    lines: Some


class StartLineAt(Model):
    """Let a closed line start at another chainage."""

    kind: Literal["start_line_at"] = "start_line_at"
    line: Id
    at: Distance


class AddMade(Model):
    """Add a line that is walked, lies beside another or midway between two; it ``follows`` or is made once."""

    kind: Literal["add_made"] = "add_made"
    name: Name
    made: Made
    follows: bool = True


class SetMade(Model):
    """Change how a line is made, or with nothing let it follow no more."""

    kind: Literal["set_made"] = "set_made"
    line: Id
    changes: MadeChanges | None = None


class MirrorLines(Model):
    """Mirror lines in the upright plane through two points; with ``copies`` the lines stay and new ones are added."""

    kind: Literal["mirror_lines"] = "mirror_lines"
    lines: Some
    a: Point3
    b: Point3
    copies: bool = True


class CopyLines(Model):
    """Copy lines ``times`` times, each copy turned and moved once more than the one before; without ``copies`` move them.

    ``turn`` is in degrees, anticlockwise about the upright axis through ``about``.
    """

    kind: Literal["copy_lines"] = "copy_lines"
    lines: Some
    by: tuple[Coordinate, Coordinate, Coordinate] = (0.0, 0.0, 0.0)
    turn: Turn = 0.0
    about: Point3 = (0.0, 0.0, 0.0)
    times: Annotated[int, Field(ge=1, le=1000)] = 1
    copies: bool = True


class SimplifyLines(Model):
    """Take out points of straights that stray no more than ``tolerance`` mm."""

    kind: Literal["simplify_lines"] = "simplify_lines"
    lines: Some
    tolerance: Annotated[float, Field(gt=0, le=10_000)]


class AddRegion(Model):
    """Add the closed edge of the region that holds a point on plan, made of the lines round it; all lines where left out."""

    kind: Literal["add_region"] = "add_region"
    name: Name
    point: Point2
    lines: Some | None = None


LineEdit = (
    AddLines
    | RenewLines
    | SetLine
    | MoveVertex
    | InsertVertex
    | RemoveVertex
    | SetClosed
    | SetLeg
    | ShapeLeg
    | UnshapeLeg
    | BendLeg
    | TurnLeg
    | MakeTangent
    | RoundCorners
    | AddOpenings
    | SetOpening
    | RemoveOpenings
    | AddMarks
    | SetMark
    | RemoveMarks
    | SplitLine
    | JoinLines
    | ReverseLines
    | StartLineAt
    | AddMade
    | SetMade
    | MirrorLines
    | CopyLines
    | SimplifyLines
    | AddRegion
)

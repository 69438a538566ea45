"""Runs as they are shown: their pieces, corners and joints."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from slow_ribbon.core.cutting import (
    bends_of,
    cut_of,
    describe_cut,
    part_of,
)
from slow_ribbon.core.kernel import WELD
from slow_ribbon.core.runs import Bend, CornerKind
from slow_ribbon.core.solve import SolvedRun, drawn_as
from slow_ribbon.service.views.lines import Coordinates, DrawnOutline, Point2, drawn_in_a_row, figure, place
from slow_ribbon.service.views.sentences import Sentence, sentence_parts


class BendOfPiece(TypedDict):
    """A part of a piece that bends. ``radius`` where it is an arc; ``turn`` in degrees.

    ``side`` is the way it bends as the piece lies on the saw, in words; ``plane`` the turn of its
    plane against the bend before, degrees anticlockwise along travel.
    """

    kind: str
    length: float
    radius: float | None
    turn: float
    side: str
    plane: float | None


class PieceFigures(TypedDict):
    """A piece: ``part`` says what it is where it is no length of the run, as in the cutting list."""

    tag: str
    part: str
    begin: float
    end: float
    length: float
    long_point: float
    short_point: float
    begin_cut: Sentence
    end_cut: Sentence
    bends: list[BendOfPiece]


class CornerFigures(TypedDict):
    chainage: float
    angle: float
    kind: CornerKind
    mismatch: float
    made: str
    vertex: int | None
    own: bool


class RunFigures(TypedDict):
    """A run solved. ``key`` names its mesh, and runs whose ``drawn_as`` is the same have the same one; ``matrix`` and ``shift`` take
    section points to (right, up) of the line.

    ``footprints`` are the outlines of the pieces on plan, as ``drawn_in_a_row`` writes them. ``strays`` is how far facets are off the
    line, where its curves are made so.
    """

    id: str
    key: str
    drawn_as: str
    origin: Coordinates
    length: float
    right: bool
    matrix: tuple[Point2, Point2]
    shift: Point2
    pieces: list[PieceFigures]
    footprints: list[list[DrawnOutline]]
    corners: list[CornerFigures]
    joints: list[float]
    strays: float | None


def run_shown(run: SolvedRun) -> RunFigures:
    """Return a run's figures."""
    course, cuts = run.course, run.cuts
    ends = course.begins + course.lengths
    if course.closed:
        ends = np.where(ends > course.length + WELD, ends - course.length, ends)
    pieces = [
        PieceFigures(
            tag=run.tags[i],
            part=part_of(run, i),
            begin=figure(course.begins[i]),
            end=figure(ends[i]),
            length=figure(cuts.line_lengths[i]),
            long_point=figure(cuts.long_points[i]),
            short_point=figure(cuts.short_points[i]),
            begin_cut=sentence_parts(describe_cut(cut_of(run, i, False))),
            end_cut=sentence_parts(describe_cut(cut_of(run, i, True))),
            bends=bends_shown(bends_of(run, i)),
        )
        for i in range(course.count)
    ]
    matrix, shift = cuts.placed.matrix, cuts.placed.shift
    return RunFigures(
        id=run.id,
        key=run.key,
        drawn_as=drawn_as(run),
        origin=place(run.origin),
        length=figure(course.length),
        right=cuts.placed.right,
        matrix=((float(matrix[0, 0]), float(matrix[0, 1])), (float(matrix[1, 0]), float(matrix[1, 1]))),
        shift=(float(shift[0]), float(shift[1])),
        pieces=pieces,
        footprints=drawn_in_a_row(run.footprints),
        corners=[
            CornerFigures(
                chainage=figure(c.chainage),
                angle=figure(c.angle),
                kind=c.kind,
                mismatch=figure(c.mismatch),
                made=c.made,
                vertex=c.vertex,
                own=c.own,
            )
            for c in run.corners
        ],
        joints=[figure(at) for at in run.joints],
        strays=None if run.strays is None else figure(run.strays),
    )


def bends_shown(bends: tuple[Bend, ...]) -> list[BendOfPiece]:
    return [
        BendOfPiece(
            kind=bend.kind,
            length=figure(bend.length),
            radius=None if bend.radius is None else figure(bend.radius),
            turn=figure(bend.turn),
            side=bend.side,
            plane=None if bend.plane is None else figure(bend.plane),
        )
        for bend in bends
    ]

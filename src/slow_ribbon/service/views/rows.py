"""Rows as they are shown: their items and stretches."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from slow_ribbon.core.lines import Line, course_of
from slow_ribbon.core.rows import Row
from slow_ribbon.core.solve import SolvedRow
from slow_ribbon.service.views.lines import Coordinates, Point2, figure, flats, place


class StretchFigures(TypedDict):
    length: float
    bays: int
    centres: float
    left_start: float
    left_end: float
    closing: float | None
    gap: float | None


class RowFigures(TypedDict):
    """A row set out. ``key`` names its places, fetched as numbers. ``ring``: it goes round without a first and a last."""

    id: str
    key: str
    origin: Coordinates
    length: float
    closed: bool
    ring: bool
    count: int
    left_over: float
    stretches: list[StretchFigures]
    footprint: list[Point2]
    height: float


def row_shown(row: Row, solved: SolvedRow, line: Line) -> RowFigures:
    """Return a row's figures."""
    out = solved.out
    item = row.item
    if item.circle is None:
        a, b = item.sides[0] / 2, item.sides[1] / 2
        footprint: list[Point2] = [(-a, -b), (a, -b), (a, b), (-a, b)]
    else:
        angles = np.linspace(0, 2 * np.pi, 25)[:-1]
        footprint = flats(np.column_stack([np.cos(angles), np.sin(angles)]) * item.circle / 2)
    return RowFigures(
        id=row.id,
        key=solved.key,
        origin=place(solved.origin),
        length=figure(course_of(line).length),
        closed=line.closed,
        ring=out.ring,
        count=len(out.chainages),
        left_over=figure(sum(stretch.left_start + stretch.left_end for stretch in out.stretches)),
        stretches=[
            StretchFigures(
                length=figure(length),
                bays=s.bays,
                centres=figure(s.centres),
                left_start=figure(s.left_start),
                left_end=figure(s.left_end),
                closing=None if s.closing is None else figure(s.closing),
                gap=None if s.gap is None else figure(s.gap),
            )
            for s, length in zip(out.stretches, out.lengths, strict=True)
        ],
        footprint=footprint,
        height=item.height,
    )


def row_numbers(row: SolvedRow) -> bytes:
    """Return a row's places as little-endian float32: x, y, z from the row's origin (mm), heading (rad), chainage (mm)."""
    out = row.out
    return np.column_stack([out.positions - row.origin, out.headings, out.chainages]).astype("<f4").tobytes()

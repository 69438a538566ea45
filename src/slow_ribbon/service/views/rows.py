"""Rows as they are shown: their items and stretches."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from slow_ribbon.core.lines import Line, course_of
from slow_ribbon.core.rows import BroughtItem, PanelItem, Part, Row, RowSetOut, Use, loaded_cords
from slow_ribbon.core.sections import Material
from slow_ribbon.core.solve import SolvedRow
from slow_ribbon.service.views.lines import Coordinates, Point2, figure, flats, place
from slow_ribbon.service.views.sentences import Sentence, sentence_parts


class StretchFigures(TypedDict):
    length: float
    bays: int
    centres: float
    left_start: float
    left_end: float
    closing: float | None
    gap: float | None
    end_bays: list[float]


class PartFigures(TypedDict):
    """A part of an item's solid: rectangles or ellipses, each a height above the foot, a size along and across, and its middle."""

    round: bool
    hanger: bool
    levels: list[tuple[float, float, float, float, float]]


class MeshOfItem(TypedDict):
    """The mesh that an item is drawn with: by its content, so much larger, turned about its upright axis, degrees clockwise."""

    content: str
    scale: float
    turn: float


class ItemFigures(TypedDict):
    """One of a row's items: its ``letter`` and name, how many there are of it, its solid, and the outlines by which it is drawn on plan.

    ``seat`` is the point that sits on the line, from the middle of its foot: along, across to the right, up. ``glass``: it is seen through.
    """

    letter: str
    name: Sentence
    count: int
    material: Material
    glass: bool
    seat: Coordinates
    parts: list[PartFigures]
    mesh: MeshOfItem | None
    symbol: list[list[Point2]]


class HeldFigures(TypedDict):
    """An item that is held, by the mark that holds it: its number, from 0, and where it stands; without a number it is left out or lost."""

    mark: str
    number: int | None
    at: float | None


class LoadedCordFigures(TypedDict):
    """How a leg that is a cord hangs with the items on it: pulls, N, at its lowest and at its ends, its sag and how far they stray, mm."""

    leg: int
    items: int
    level: float
    begin: float
    end: float
    sag: float
    strays: float


class RowFigures(TypedDict):
    """A row set out. ``key`` names its places, fetched as numbers. ``ring``: it goes round without a first and a last.

    ``area`` is that of a field's ground, mm²; None of a row along its line. ``hangers``: the shortest, the longest and all together, mm.
    """

    id: str
    key: str
    origin: Coordinates
    length: float
    closed: bool
    ring: bool
    count: int
    area: float | None
    left_over: float
    stretches: list[StretchFigures]
    items: list[ItemFigures]
    held: list[HeldFigures]
    hangers: tuple[float, float, float] | None
    cords: list[LoadedCordFigures]


def row_shown(row: Row, solved: SolvedRow, line: Line) -> RowFigures:
    """Return a row's figures."""
    out = solved.out
    marks = {mark.id: mark.at for mark in line.marks}
    return RowFigures(
        id=row.id,
        key=solved.key,
        origin=place(solved.origin),
        length=figure(course_of(line).length),
        closed=line.closed,
        ring=out.ring,
        count=out.count,
        area=None if out.area is None else figure(out.area),
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
                end_bays=[figure(size) for size in s.end_bays],
            )
            for s, length in zip(out.stretches, out.lengths, strict=True)
        ],
        items=[_item(use, letter, int(np.count_nonzero(out.dealt == letter))) for letter, use in enumerate(row.uses())],
        held=[
            HeldFigures(mark=one.mark, number=out.held.get(one.mark), at=None if one.mark not in marks else figure(marks[one.mark]))
            for one in row.held
        ],
        hangers=_hangers(row, out),
        cords=[
            LoadedCordFigures(
                leg=leg,
                items=len(cord.points),
                level=figure(cord.pulls.level),
                begin=figure(cord.pulls.begin),
                end=figure(cord.pulls.end),
                sag=figure(cord.sag),
                strays=figure(cord.strays),
            )
            for leg, cord in loaded_cords(row, out, line)
            if cord is not None
        ],
    )


def _hangers(row: Row, out: RowSetOut) -> tuple[float, float, float] | None:
    own = np.array([np.nan if use.item.hangs_by is None else use.item.hangs_by for use in row.uses()])[out.dealt] + out.hangers
    own = own[np.isfinite(own)]
    return (figure(own.min()), figure(own.max()), figure(own.sum())) if len(own) else None


def _item(use: Use, letter: int, count: int) -> ItemFigures:
    item, parts = use.item, use.item.parts
    return ItemFigures(
        letter=chr(65 + letter),
        name=sentence_parts(item.name),
        count=count,
        material=use.material,
        glass=isinstance(item, PanelItem) and item.filling == "glass",
        seat=place(np.array(use.seat)),
        parts=[
            PartFigures(
                round=part.round,
                hanger=part.hanger,
                levels=[
                    (figure(one.height), figure(one.along), figure(one.across), figure(one.middle[0]), figure(one.middle[1]))
                    for one in part.levels
                ],
            )
            for part in parts
        ],
        mesh=MeshOfItem(content=item.content, scale=item.scale, turn=item.front) if isinstance(item, BroughtItem) else None,
        symbol=[_widest(part) for part in parts],
    )


def _widest(part: Part) -> list[Point2]:
    """Return the outline of a part on plan where it is largest; a round one by corners that are near enough for a drawing."""
    ring = max(part.rings(), key=lambda one: float(np.ptp(one[:, 0]) * np.ptp(one[:, 1])))[:, :2]
    return flats(ring[::3] if part.round else ring)


def row_numbers(row: SolvedRow) -> bytes:
    """Return a row's places as little-endian float32, ten numbers each.

    They are x, y, z from the row's origin (mm), heading (rad), chainage (mm), the number of the item that stands there (0 for A), the
    level axis, x and y, about which it is tilted (rad), its size as a share of its item's, and how much longer its hanger is (mm).
    """
    out = row.out
    columns = [out.positions - row.origin, out.headings, out.chainages, out.dealt, out.tilts, out.sizes, out.hangers]
    return np.column_stack(columns).astype("<f4").tobytes()

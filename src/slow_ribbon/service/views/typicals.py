"""What the interface is shown of a typical: the places it stands in, and what stands there otherwise than it is drawn."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.lines import Line
from slow_ribbon.core.solve import SolvedTypical, Variant
from slow_ribbon.service.views.lines import Coordinates, PaneFigures, line_shown, pane_shown, place
from slow_ribbon.service.views.rows import RowFigures, row_shown
from slow_ribbon.service.views.runs import RunFigures, run_shown


class PlaceFigures(TypedDict):
    """A place where something stands: first mirrored in x where ``over``, then turned by ``turn`` radians about z, then moved by ``shift``.

    ``variant`` counts the variants, from 0.
    """

    name: str
    over: bool
    turn: float
    shift: Coordinates
    variant: int


class VariantFigures(TypedDict):
    """Places that differ from what is drawn: the runs, rows, lines and panes there, before they are carried to a place."""

    label: str
    paths: list[list[Coordinates]]
    panes: list[PaneFigures]
    runs: list[RunFigures]
    rows: list[RowFigures]


class TypicalFigures(TypedDict):
    """A typical's places that are not left out, in order, and its variants; the first is as it is drawn, and not described."""

    id: str
    places: list[PlaceFigures]
    variants: list[VariantFigures]


def typical_shown(typical: SolvedTypical) -> TypicalFigures:
    """Return a typical's figures."""
    return TypicalFigures(
        id=typical.id,
        places=[
            PlaceFigures(name=one.name, over=one.carriage.over, turn=one.carriage.turn, shift=place(one.carriage.shift), variant=number)
            for number, variant in enumerate(typical.variants)
            for one in variant.places
        ],
        variants=[_variant(variant, number > 0) for number, variant in enumerate(typical.variants)],
    )


def _path(line: Line) -> list[Coordinates]:
    path = line_shown(line)["path"]
    if path is not None:
        return path
    points = line.points()
    return [place(point) for point in (*points, *points[:1])] if line.closed else [place(point) for point in points]


def _variant(variant: Variant, message: bool) -> VariantFigures:
    lines = {line.id: line for line in variant.lines}
    rows = zip(variant.set_out, variant.rows, strict=True)
    return VariantFigures(
        label=variant.label,
        paths=[_path(line) for line in variant.lines] if message else [],
        panes=[pane for line in variant.lines if (pane := pane_shown(line)) is not None] if message else [],
        runs=[run_shown(run) for run in variant.runs] if message else [],
        rows=[row_shown(row, solved, lines[row.line]) for row, solved in rows] if message else [],
    )

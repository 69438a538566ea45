"""Rows of the cutting list of what stands in several places, mirrored where a place is."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, TypeVar

import numpy as np

from slow_ribbon.core.cutting.cut_rows import CutRow, HeldAtFence, back_at_fence, run_rows
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE
from slow_ribbon.core.runs.pieces.congruence import equal_mirrored
from slow_ribbon.core.runs.treatments.bend_table import Bend
from slow_ribbon.core.solve.instances import SolvedTypical, Variant, typicals_of
from slow_ribbon.core.solve.results import Solved, SolvedRun


def rows_in_places(solved: Solved) -> dict[str, list[CutRow]]:
    """Return the rows of the cutting list of runs that stand in several places, by the run's id."""
    found: dict[str, list[CutRow]] = {}
    for typical in typicals_of(solved):
        for run in typical.variants[0].runs:
            found[run.id] = []
        for row in typical_rows(typical):
            found[row.run].append(row)
    return found


@kept_with
def typical_rows(typical: SolvedTypical) -> list[CutRow]:
    """Return the rows of the cutting list of all that stands in the places of a typical; what is equal is listed once.

    What stands as it is drawn comes first, then its mirror images where they are others, then what differs by a place's measures.
    """
    found: list[CutRow] = []
    order = {name: number for number, name in enumerate(typical.order)}

    def by_place(one: tuple[str, int]) -> int:
        return order[one[0]]

    for variant in typical.variants:
        for run in variant.runs:
            for row in _rows_of_variant(run, variant):
                same = next((number for number, other in enumerate(found) if variant.own and _equal(row, other)), None)
                if same is None:
                    found.append(row)
                else:
                    # A piece that a place's own measure changes nothing of.
                    where = sorted(zip((*found[same].places, *row.places), (*found[same].each, *row.each), strict=True), key=by_place)
                    places, each = tuple(name for name, _ in where), tuple(number for _, number in where)
                    found[same] = replace(found[same], quantity=found[same].quantity + row.quantity, places=places, each=each)
    return found


def _equal(row: CutRow, other: CutRow) -> bool:
    """Return whether two rows of one run have equal pieces: cut alike, to the same lengths, and not shaped."""
    if (row.run, row.mirrored, row.left, row.part, row.pieces) != (other.run, other.mirrored, other.left, other.part, other.pieces):
        return False
    if any((cut.shaped, cut.joint) != ("", "") for cut in (row.begin, row.end, other.begin, other.end)) or row.bends or other.bends:
        return False
    return bool(np.allclose(_figures(row), _figures(other), rtol=0, atol=IMMEASURABLE / 10))


def _figures(row: CutRow) -> list[float]:
    cuts = [angle for cut in (row.begin, row.end) for angle in (cut.mitre, cut.bevel)]
    return [row.long_point, row.short_point, row.line_length, *cuts]


@kept_with
def _mirror_images(run: SolvedRun) -> list[int | None]:
    """Return, for each row of a run, which row its mirror images are equal to, if any."""
    return equal_mirrored(run.cuts, [list(row.pieces) for row in run_rows(run)])


@kept_with
def _in_places(_: SolvedRun) -> dict[tuple[Any, ...], list[CutRow]]:
    return {}


def _rows_of_variant(run: SolvedRun, variant: Variant) -> list[CutRow]:
    """Return a run's rows where it stands as in a variant; they are the same as long as the run and the places are."""
    known, places = _in_places(run), (variant.label, tuple((one.name, one.carriage.over) for one in variant.places))
    rows = known.get(places)
    if rows is None:
        rows = _rows_in(run, variant)
        known.clear()
        known[places] = rows
    return rows


def _rows_in(run: SolvedRun, variant: Variant) -> list[CutRow]:
    rows = run_rows(run)
    straight, mirrored = ([one.name for one in places] for places in (variant.straight, variant.mirrored))
    everywhere = tuple(one.name for one in variant.places)
    tags = [tuple(tag + variant.label for tag in row.tags) for row in rows]
    image = _mirror_images(run) if mirrored else [None] * len(rows)
    # The mirror images that are equal to pieces as drawn are listed with those.
    more = [sum(len(rows[n].pieces) for n, other in enumerate(image) if other == number) for number in range(len(rows))]
    found = []
    over_there = set(mirrored)
    for row, named, images in zip(rows, tags, more, strict=True):
        places = everywhere if images else tuple(straight)
        each = tuple(images if name in over_there else len(row.pieces) for name in places)
        if sum(each):
            found.append(replace(row, tags=named, quantity=sum(each), places=places, each=each))
    for row, named, other in zip(rows, tags, image, strict=True):
        if mirrored and other is None:
            over = mirrored_row(row)
            named = tuple(f"{tag}M" for tag in named)
            each = (len(row.pieces),) * len(mirrored)
            found.append(replace(over, tags=named, quantity=sum(each), places=tuple(mirrored), each=each))
    return found


_L = TypeVar("_L", CutRow, HeldAtFence)


def _over(lying: _L) -> _L:
    """Return the lie of mirror images: left and right change sides, top stays top."""
    under, upper = (side * (1, -1) for side in lying.picture)
    return replace(
        lying,
        begin=replace(lying.begin, mitre=0.0 - lying.begin.mitre),
        end=replace(lying.end, mitre=0.0 - lying.end.mitre),
        left=lying.right,
        right=lying.left,
        picture=(under, upper),
    )


def mirrored_row(row: CutRow) -> CutRow:
    """Return a row of the mirror images of its pieces."""
    return replace(
        _over(row),
        sprung=None if row.sprung is None else back_at_fence(_over(row.sprung)),
        bends=tuple(_mirrored_bend(bend) for bend in row.bends),
        mirrored=True,
    )


def _mirrored_bend(bend: Bend) -> Bend:
    toward = None if bend.toward is None else (180.0 - bend.toward) % 360
    plane = None if bend.plane is None else bend.plane if bend.plane == 180.0 else 0.0 - bend.plane
    return replace(bend, toward=toward, plane=plane)

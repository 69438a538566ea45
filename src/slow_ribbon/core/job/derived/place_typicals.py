"""Typicals updated after what they depend on: lines that were removed or split, grids and lines that their places lie along."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

import numpy as np

from slow_ribbon.core.job.derived.expansion import Expansion, Follow, Step
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROWS, TYPICALS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.typicals.carriage import laid_out
from slow_ribbon.core.lines.typicals.typical import MOST_PLACES, Place, PlacesOfRow, Typical, place_names
from slow_ribbon.core.rows.items.plain import BoxItem
from slow_ribbon.core.rows.items.typical import TypicalItem
from slow_ribbon.core.rows.setting_out import check_number, set_row_out


def lines_left(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, whose typicals do without lines that are gone; those of which all are gone are removed, and reported."""
    if not after.typicals or (before.lines is after.lines and before.typicals is after.typicals):
        return after
    there = {line.id for line in after.lines}
    kept: list[Typical] = []
    for typical in after.typicals:
        lines = tuple(id for id in typical.lines if id in there)
        if not lines:
            notices.append(f"{typical.name} was removed with the last of its lines.")
        else:
            kept.append(typical if len(lines) == len(typical.lines) else typical.model_copy(update={"lines": lines}))
    if len(kept) == len(after.typicals) and all(one is other for one, other in zip(kept, after.typicals, strict=True)):
        return after
    return after.model_copy(update={TYPICALS.group: tuple(kept)})


def items_left(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, whose rows set out no typical that is gone, but boxes that take as much room; reported."""
    if before.typicals is after.typicals and before.rows is after.rows:
        return after
    there = {typical.id for typical in after.typicals}
    for row in after.rows:
        items = [row.item, *(one.item for one in row.pattern.others)]
        if not any(isinstance(item, TypicalItem) and item.of not in there for item in items):
            continue
        first, *rest = (_box(item) if isinstance(item, TypicalItem) and item.of not in there else item for item in items)
        others = tuple(one.model_copy(update={"item": item}) for one, item in zip(row.pattern.others, rest, strict=True))
        pattern = row.pattern.model_copy(update={"others": others})
        after = after.put(row.model_copy(update={"item": first, "pattern": pattern}))
        notices.append(f"{row.name} sets out boxes of the same size now: the typical that it set out was removed.")
    return after


def _box(item: TypicalItem) -> BoxItem:
    return BoxItem(along=item.along, across=item.across, height=item.height)


def _laid(expansion: Expansion, typical: Typical) -> Typical:
    was = expansion.earlier(TYPICALS, typical.id)
    layout = typical.laid
    assert layout is not None  # the step concerns no other
    if isinstance(layout, PlacesOfRow):
        return _set_out(expansion, typical, layout.row)
    if layout.follows is not None and expansion.find(LINES, layout.follows) is None:
        expansion.notices.append(f"The places of {typical.name} stay where they are: the line along which they were laid was removed.")
        return typical.model_copy(update={"laid": None, "places": tuple(one.model_copy(update={"laid": None}) for one in typical.places)})
    asked = was is None or (was.laid, was.base, was.heading) != (layout, typical.base, typical.heading)
    if not asked and not (layout.follows is not None and expansion.is_changed(layout.follows)):
        return typical
    try:
        return laid_anew(expansion, typical)
    except Refused as refused:
        if asked:
            raise
        expansion.notices.append(f"The places of {typical.name} stay as they are: {refused.what}")
        return typical


def _follows(expansion: Expansion, typical: Typical) -> Iterator[Follow]:
    if isinstance(typical.laid, PlacesOfRow):
        yield typical.laid.row, None
        row = expansion.find(ROWS, typical.laid.row)
        if row is not None:
            yield row.line, None
    elif typical.laid is not None and typical.laid.follows is not None:
        yield typical.laid.follows, None


def _set_out(expansion: Expansion, typical: Typical, id: str) -> Typical:
    """Return a typical whose places are where a row's items stand that are this typical."""
    row = expansion.find(ROWS, id)
    if row is None:
        expansion.notices.append(f"The places of {typical.name} stay where they are: the row that set them out was removed.")
        return typical.model_copy(update={"laid": None, "places": tuple(one.model_copy(update={"laid": None}) for one in typical.places)})
    if row.line in typical.lines:
        # It would hold itself, and is refused when it is checked.
        return typical
    line = expansion.get(LINES, row.line)
    check_number(row, line, confirmed=True)
    out = set_row_out(row, line)
    of = np.array([isinstance(use.item, TypicalItem) and use.item.of == typical.id for use in row.uses()])
    numbers = np.flatnonzero(of[out.dealt]) if out.count else np.zeros(0, dtype=int)
    turns = (np.degrees(out.headings[numbers]) - typical.heading + 180) % 360 - 180
    return _with_spots(expansion, typical, [(place(point), float(turn)) for point, turn in zip(out.positions[numbers], turns, strict=True)])


#: Where the places of typicals are that are laid out. It is remembered: a line that became too short leaves them where they were.
PLACES: Final = Step(
    name="places",
    kind=TYPICALS,
    concerns=lambda typical: typical.laid is not None,
    follows=_follows,
    derive=_laid,
    remembered=True,
)


def laid_anew(expansion: Expansion, typical: Typical) -> Typical:
    """Return a typical with its places where they are laid; each keeps its name and what it has of its own.

    Raises ``Refused`` as ``laid_out`` does.
    """
    assert typical.laid is not None
    along = expansion.get(LINES, typical.laid.follows) if typical.laid.follows is not None else None
    if along is not None and along.id in typical.lines:
        # It would hold itself, and is refused when it is checked.
        return typical
    assert not isinstance(typical.laid, PlacesOfRow)
    spots = laid_out(typical.laid, typical.base, typical.heading, along)
    return _with_spots(expansion, typical, spots)


def _with_spots(expansion: Expansion, typical: Typical, spots: Sequence[tuple[Point3, float]]) -> Typical:
    """Return a typical that stands in some spots, each by its number, and in the places that it was given by hand."""
    known = {one.laid: one for one in typical.places if one.laid is not None}
    by_hand = [one for one in typical.places if one.laid is None]
    if len(spots) + len(by_hand) > MOST_PLACES:
        what = f"{typical.name} would stand in {len(spots) + len(by_hand) + 1:,} places; {MOST_PLACES:,} is the most."
        raise Refused(what, "laid", "too-many")
    names = iter(place_names(typical.here, len(spots), [one.name for one in typical.places]))
    places = []
    for index, (at, turn) in enumerate(spots):
        if index in known:
            places.append(known[index].model_copy(update={"at": at, "turn": turn}))
        else:
            places.append(Place(id=f"W{expansion.next_number()}", name=next(names), at=at, turn=turn, laid=index))
    return typical.model_copy(update={"places": (*places, *by_hand)})

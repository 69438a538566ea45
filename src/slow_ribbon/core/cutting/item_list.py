"""Where each item of a job stands, one by one, as it is set out on the site."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.solve.instances import standing_rows
from slow_ribbon.core.solve.results import Solved


@dataclass(frozen=True)
class ItemPlace:
    """An item in its place: its ``number`` on the drawing, led by the place's name where it stands in one of several, and its row's id.

    ``name`` is what it is, with its size, and ``size`` how large this one is as a share of that. ``chainage`` is along the row's line, mm,
    None in a field; ``point`` the middle of its foot on the site, mm;
    ``bearing`` that of its *along* axis, degrees clockwise from north; ``tilt`` how far it leans from plumb, degrees;
    ``hanger`` how long its hanger is, mm.
    """

    number: str
    row: str
    name: str
    size: float
    chainage: float | None
    point: tuple[float, float, float]
    bearing: float
    tilt: float
    hanger: float | None = None


def item_places(solved: Solved) -> Iterator[ItemPlace]:
    """Yield every item of a job wherever it stands, row by row."""
    job = solved.job
    origin = np.array(job.origin)
    for found, there in standing_rows(solved):
        row, out = job.row(found.id), found.out
        look_up(out.count)
        tag = f"{there.name} {row.tag}" if there.name else row.tag
        names = [use.item.name for use in row.uses()]
        points = there.carriage.points(out.positions) + origin
        headings, tilts = there.carriage.turned(out.headings, out.tilts)
        bearings = (90.0 - np.degrees(headings)) % 360.0
        # A bearing that is a rounding below north is north.
        bearings[bearings > 360.0 - 1e-9] = 0.0
        own = [use.item.hangs_by for use in row.uses()]
        longer = zip(out.dealt.tolist(), out.hangers.tolist(), strict=True)
        hangers = [None if (hanger := own[letter]) is None else hanger + more for letter, more in longer]
        leans = np.degrees(np.hypot(tilts[:, 0], tilts[:, 1]))
        chainages = out.chainages.tolist() if row.filling is None else [None] * out.count
        turned = bearings.tolist(), leans.tolist()
        every = zip(out.sizes.tolist(), chainages, points.tolist(), *turned, out.dealt.tolist(), hangers, strict=True)
        for number, (size, chainage, (x, y, z), bearing, lean, letter, hanger) in enumerate(every, start=1):
            yield ItemPlace(f"{tag}{number}", row.id, names[letter], size, chainage, (x, y, z), bearing, lean, hanger)


def items_by_kind(solved: Solved) -> dict[str, int]:
    """Return how many items of each kind and size a job has, by their names."""
    found: dict[str, int] = {}
    for row, _ in standing_rows(solved):
        names = [use.item.name for use in solved.job.row(row.id).uses()]
        for letter, count in zip(*np.unique(row.out.dealt, return_counts=True), strict=True):
            found[names[letter]] = found.get(names[letter], 0) + int(count)
    return found

"""A row set out: where each of its items stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from slow_ribbon.core.kernel.arrays import Array, Indices, Result
from slow_ribbon.core.rows.spacing import RowStretch


@dataclass(frozen=True)
class RowSetOut(Result):
    """A row set out: n items.

    chainages (n,); positions (n, 3) of the middle of each item's foot; headings (n,): angle in
    radians, anticlockwise from +x, of the item's *along* axis; tilts (n, 2): level axes about which
    each is turned after that, radians long. dealt (n,): which of the row's items each is, 0 for A. stretches: what the rule gave
    on each stretch, which begin at chainages begins (k,) and are lengths (k,) mm long. ``ring``
    where the row goes round a closed line without a first and a last item. ``held``: the numbers of items that
    are held, from 0, by the marks that hold them. sizes (n,): how large each is, as a share of its item's size.
    hangers (n,): how much longer than its item's each one's hanger is, mm.

    Of a field, whose items stand within its line, chainages and stretches say nothing, and ``area`` is that of its ground, mm².
    """

    chainages: Array
    positions: Array
    headings: Array
    tilts: Array
    dealt: Indices
    stretches: tuple[RowStretch, ...]
    begins: tuple[float, ...]
    lengths: tuple[float, ...]
    ring: bool
    held: Mapping[str, int]
    sizes: Array
    hangers: Array
    area: float | None = None

    @property
    def count(self) -> int:
        """How many items there are."""
        return len(self.positions)

"""Straight edges that lie over one another in part."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.kernel.units import WELD

#: Odd numbers that a key's parts are mixed with.
_MIX = np.array(
    [0x1E3779B97F4A7C15, 0x42B2AE3D27D4EB4F, 0x165667B19E3779F9, 0x27D4EB2F165667C5, 0x05EBCA77C2B2AE63, 0x7F51AFD7ED558CCD], dtype=np.int64
)
#: Straights count as one when their directions differ by less than this …
_TURN = 2e-6
#: … and they pass one another nearer than this, mm.
_BESIDE = 0.01


def mixed(keys: Indices) -> Indices:
    """Return one number for each row of keys (n, k), k up to 6: equal rows have equal ones, others mostly others."""
    found: Indices = keys[:, 0] * _MIX[0]
    for column in range(1, keys.shape[1]):
        found += keys[:, column] * _MIX[column]
    return found


def without_overlaps(begins: Array, ends: Array, straight: Flags) -> tuple[Array, Array, Indices, int, int]:
    """Return edges of which no two straights lie over one another for more than the weld distance.

    begins, ends: (n, 3) in mm; ``straight`` (n,) says which edges may be cut. Where straights
    overlap, what they cover together is cut at every end that lies in it, so that nothing that
    met such an end loses it. Exactly doubled edges are left as they are. Returns the edges, the
    number of the edge each comes from, how many edges overlapped, and how many of the edges, the last ones, are parts of those.
    """
    numbers = np.arange(len(begins))
    if len(begins) < 2:
        return begins, ends, numbers, 0, 0
    middle = (begins.min(axis=0) + begins.max(axis=0)) / 2
    overlapping: set[int] = set()
    made: list[tuple[Array, Array, int]] = []
    gone = np.zeros(len(begins), dtype=bool)
    straights = _Straights.of(begins - middle, ends - middle, np.flatnonzero(straight))
    # Rounding to a grid parts some that belong together; a second grid, half a step off, finds those.
    for shift in (0.0, 0.5):
        if made:
            straights = straights.taken(~gone[straights.numbers])
        for members in _overlapping(straights, begins, ends, shift):
            gone[members] = True
            overlapping.update(members.tolist())
            made.extend(_cut(begins, ends, members))
    if not made:
        return begins, ends, numbers, 0, 0
    kept = np.flatnonzero(~gone)
    all_begins = np.concatenate([begins[kept], np.array([a for a, _, _ in made])])
    all_ends = np.concatenate([ends[kept], np.array([b for _, b, _ in made])])
    return (
        all_begins,
        all_ends,
        np.concatenate([kept, np.array([owner for _, _, owner in made], dtype=np.int64)]),
        len(overlapping),
        len(made),
    )


@dataclass(frozen=True)
class _Straights:
    """Straights by the infinite straights they lie on: their ``numbers``, directions and feet (m, 3), and from where to where."""

    numbers: Indices
    unit: Array
    foot: Array
    low: Array
    high: Array

    @staticmethod
    def of(begins: Array, ends: Array, numbers: Indices) -> _Straights:
        """Return the edges, of some, that have a length."""
        begins, ends = begins[numbers], ends[numbers]
        along = ends - begins
        sizes = np.sqrt(np.einsum("ij,ij->i", along, along))
        long = np.flatnonzero(sizes > WELD)
        begins, ends, unit = begins[long], ends[long], along[long] / sizes[long][:, None]
        # One direction for both ways of drawing: the first part that is not zero is positive.
        lead = np.zeros(len(long))
        for axis in (2, 1, 0):
            lead = np.where(np.abs(unit[:, axis]) > NO_LEAN, unit[:, axis], lead)
        unit = np.where((lead < 0)[:, None], -unit, unit)
        a, b = np.einsum("ij,ij->i", begins, unit), np.einsum("ij,ij->i", ends, unit)
        return _Straights(numbers[long], unit, begins - unit * a[:, None], np.minimum(a, b), np.maximum(a, b))

    def taken(self, which: Flags) -> _Straights:
        """Return some of them."""
        return _Straights(self.numbers[which], self.unit[which], self.foot[which], self.low[which], self.high[which])


def _overlapping(straights: _Straights, begins: Array, ends: Array, shift: float) -> list[Indices]:
    """Return groups of edges on one straight that lie over one another, by their numbers."""
    keys = np.concatenate([np.floor(straights.unit / _TURN + shift), np.floor(straights.foot / _BESIDE + shift)], axis=1)
    # What falls together by chance does not overlap.
    key = mixed(keys.astype(np.int64))
    order = np.argsort(key, kind="stable")
    fresh = np.ones(len(order), dtype=bool)
    fresh[1:] = key[order][1:] != key[order][:-1]
    # Straights on which a single edge lies have nothing over it.
    shared = ~fresh
    shared[:-1] |= ~fresh[1:]
    order, fresh = order[shared], fresh[shared]
    if not len(order):
        return []
    group = np.cumsum(fresh) - 1
    low, high = straights.low[order], straights.high[order]
    inner = np.lexsort((low, group))
    low, high, group, order = low[inner], high[inner], group[inner], order[inner]
    # The furthest end so far on the same straight; groups are set apart so that one running maximum does for all.
    span = float(np.ptp(np.concatenate([low, high]))) + 1
    reach = np.maximum.accumulate(high + group * span) - group * span
    over = np.zeros(len(low), dtype=bool)
    over[1:] = (group[1:] == group[:-1]) & (low[1:] < reach[:-1] - WELD)
    if not over.any():
        return []
    begins_at = np.flatnonzero(~over)
    found = []
    for part in np.split(np.arange(len(over)), begins_at[1:]):
        if len(part) < 2:
            continue
        exact = np.ptp(low[part]) <= WELD and np.ptp(high[part]) <= WELD
        members = straights.numbers[order[part]]
        if not exact and _on_one_straight(begins, ends, members):
            found.append(members)
    return found


def _on_one_straight(begins: Array, ends: Array, members: Indices) -> bool:
    first = members[0]
    unit = ends[first] - begins[first]
    unit = unit / np.linalg.norm(unit)
    points = np.concatenate([begins[members], ends[members]]) - begins[first]
    across = points - np.outer(points @ unit, unit)
    return bool(np.abs(across).max() < 5 * _BESIDE)


def _cut(begins: Array, ends: Array, members: Indices) -> list[tuple[Array, Array, int]]:
    """Return the union of straights, cut at all their ends."""
    first = members[0]
    unit = ends[first] - begins[first]
    unit = unit / np.linalg.norm(unit)
    points = np.concatenate([begins[members], ends[members]])
    at = (points - begins[first]) @ unit
    order = np.argsort(at)
    places: list[float] = []
    corners: list[Array] = []
    for index in order:
        # Ends of edges drawn again a hair along leave no slivers: what met one of them is a gap away from the other.
        if not places or at[index] - places[-1] > _BESIDE:
            places.append(float(at[index]))
            corners.append(points[index])
    count = len(members)
    low, high = np.minimum(at[:count], at[count:]), np.maximum(at[:count], at[count:])
    found = []
    for i in range(len(places) - 1):
        middle = (places[i] + places[i + 1]) / 2
        covering = np.flatnonzero((low <= middle) & (high >= middle))
        if len(covering):
            found.append((corners[i], corners[i + 1], int(members[covering[0]])))
    return found

"""The edges of a shape as arrays, evaluated together.

What one edge answers for itself (``edges``) is asked here of hundreds in one step: places, directions, chords, lengths. An edge
is known by its number among them, and a place on it by its share from 0 at its beginning to 1 at its end.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array, Flags, Indices, Result
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, NO_LEAN, NO_LENGTH, ROUNDING, TINIEST
from slow_ribbon.core.sections.edges.arc import Arcs
from slow_ribbon.core.sections.edges.base import Edge
from slow_ribbon.core.sections.edges.curve import furthest_of

#: Directions in which edges are looked at together.
_DIRECTIONS: Final = 1000
#: No flattened edge turns more than this in one step, so that small mouldings look round too.
_STEP: Final = math.radians(18)
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(12)
_LENGTH_NODES, _LENGTH_WEIGHTS = np.polynomial.legendre.leggauss(24)
#: No curve is cut into more parts than this for its length.
_MOST_PARTS: Final = 4096


@dataclass(frozen=True)
class EdgeChords(Result):
    """Points (p, 2) of edges ``of`` which they are, from their beginnings to their ends, one edge after another.

    ``edge`` and ``share`` (p,) are the edge each is of and where on it, ``first`` (n,) where each edge's points begin; an edge has
    one point more than chords.
    """

    of: Together
    points: Array
    edge: Indices
    share: Array
    first: Indices

    @cached_property
    def tangents(self) -> Array:
        """Unit tangents at the points, (p, 2)."""
        return self.of.tangents(self.edge, self.share)

    @property
    def ring(self) -> Array:
        """The points without the last of each edge, which is the first of the next."""
        last = np.ones(len(self.points), dtype=bool)
        last[self.first[1:] - 1] = last[-1] = False
        return np.asarray(self.points[last])

    @property
    def straights(self) -> tuple[Array, Array, Indices, Array]:
        """Beginnings and ends (m, 2) of all chords, the edge each is of, and the shares (m, 2) of its beginning and its end."""
        inner = self.edge[1:] == self.edge[:-1]
        shares = np.column_stack([self.share[:-1][inner], self.share[1:][inner]])
        return self.points[:-1][inner], self.points[1:][inner], self.edge[:-1][inner], shares


@dataclass(frozen=True)
class Together(Result):
    """Edges (n of them), each a polynomial of its share, or an arc.

    ``powers`` (4, n, 2): rows for 1, t, t² and t³, an arc's its centre alone; ``u``, ``v`` (n, 2), ``first`` and ``span`` (n,):
    of arcs, zero otherwise; ``arc``, ``curve`` (n,) say which are.
    """

    powers: Array
    u: Array
    v: Array
    first: Array
    span: Array
    arc: Flags
    curve: Flags

    @staticmethod
    def of(edges: Sequence[Edge]) -> Together:
        count = len(edges)
        powers = np.zeros((4, count, 2))
        u, v, around = np.zeros((count, 2)), np.zeros((count, 2)), np.zeros((2, count))
        flags = np.zeros((2, count), dtype=bool)
        by_kind: dict[type[Edge], list[int]] = {}
        for i, edge in enumerate(edges):
            by_kind.setdefault(type(edge), []).append(i)
        for kind, numbers in by_kind.items():
            columns = kind.columns([edges[i] for i in numbers])
            powers[:, numbers] = columns.powers
            if columns.round is not None:
                u[numbers], v[numbers], around[0, numbers], around[1, numbers] = columns.round
                flags[0, numbers] = True
            elif not kind.straight:
                flags[1, numbers] = True
        return Together(powers, u, v, around[0], around[1], flags[0], flags[1])

    @cached_property
    def _table(self) -> Array:
        """All numbers of the edges, a column for each: taken from rows, many at once come several times as fast."""
        powers = self.powers.transpose(0, 2, 1).reshape(8, -1)
        return np.concatenate([powers, self.u.T, self.v.T, self.first[None], self.span[None]])

    def mapped(self, matrix: Array, shift: Array) -> Together:
        """Return the edges under p → matrix·p + shift, each still from its beginning to its end."""
        powers = self.powers @ matrix.T
        powers[0] += shift
        return Together(powers, self.u @ matrix.T, self.v @ matrix.T, self.first, self.span, self.arc, self.curve)

    def at(self, edge: Indices, share: Array) -> Array:
        """Return the places (k, 2) at shares (k,) of edges (k,)."""
        ax, ay, bx, by, cx, cy, dx, dy = self._table[:8].take(edge, axis=1)
        found = np.empty((len(edge), 2))
        found[:, 0] = ax + share * (bx + share * (cx + share * dx))
        found[:, 1] = ay + share * (by + share * (cy + share * dy))
        bent = np.flatnonzero(self.arc.take(edge))
        if len(bent):
            ux, uy, vx, vy, first, span = self._table[8:].take(edge.take(bent), axis=1)
            angle = first + span * share.take(bent)
            cosine, sine = np.cos(angle), np.sin(angle)
            found[bent, 0] += cosine * ux + sine * vx
            found[bent, 1] += cosine * uy + sine * vy
        return found

    def rates(self, edge: Indices, share: Array) -> Array:
        """Return dp/dt (k, 2), t the share, at shares (k,) of edges (k,)."""
        bx, by, cx, cy, dx, dy = self._table[2:8].take(edge, axis=1)
        found = np.empty((len(edge), 2))
        found[:, 0] = bx + share * (2 * cx + share * 3 * dx)
        found[:, 1] = by + share * (2 * cy + share * 3 * dy)
        bent = np.flatnonzero(self.arc.take(edge))
        if len(bent):
            ux, uy, vx, vy, first, span = self._table[8:].take(edge.take(bent), axis=1)
            angle = first + span * share.take(bent)
            cosine, sine = np.cos(angle) * span, np.sin(angle) * span
            found[bent, 0] = cosine * vx - sine * ux
            found[bent, 1] = cosine * vy - sine * uy
        return found

    def tangents(self, edge: Indices, share: Array) -> Array:
        """Return the unit directions (k, 2) at shares (k,) of edges (k,)."""
        rates = self.rates(edge, share)
        sizes = np.hypot(rates[:, 0], rates[:, 1])
        most = np.zeros(len(self.arc))
        np.maximum.at(most, edge, sizes)
        # A handle of no length leaves the direction to the next point: p′ is zero there and p″, or p‴, gives it.
        halts = np.flatnonzero(sizes <= NO_LENGTH * most[edge])
        if len(halts):
            rates[halts] = self.rates(edge[halts], share[halts] + np.where(share[halts] < 0.5, 1e-6, -1e-6))
            sizes[halts] = np.hypot(*rates[halts].T)
        return np.asarray(rates / np.maximum(sizes, TINIEST)[:, None])

    def part(self, numbers: Indices) -> Together:
        """Return some of the edges, by their numbers."""
        return Together(
            self.powers[:, numbers], self.u[numbers], self.v[numbers], self.first[numbers], self.span[numbers],
            self.arc[numbers], self.curve[numbers],
        )  # fmt: skip

    def furthest(self, directions: Array) -> Array:
        """Return max p·d over all edges for each of directions (k, 2), the true extreme; shape (k,)."""
        best = np.max(np.maximum(directions @ self.ends[0].T, directions @ self.ends[1].T), axis=1)
        # Some at a time: many edges in many directions are many numbers.
        for some in range(0, len(best), _DIRECTIONS):
            part = slice(some, some + _DIRECTIONS)
            if self._arcs is not None:
                best[part] = np.maximum(best[part], self._arcs.furthest(directions[part]))
            if self._curves.shape[1]:
                best[part] = np.maximum(best[part], furthest_of(self._curves, directions[part]))
        return np.asarray(best)

    @cached_property
    def _arcs(self) -> Arcs | None:
        arcs = np.flatnonzero(self.arc)
        if not len(arcs):
            return None
        first, span = self.first[arcs], self.span[arcs]
        begins, ends = (of[arcs].T for of in self.ends)
        return Arcs(self.u[arcs].T, self.v[arcs].T, self.powers[0, arcs].T, begins, ends, np.minimum(first, first + span), np.abs(span))

    @cached_property
    def _curves(self) -> Array:
        return self.powers[:, self.curve]

    @cached_property
    def ends(self) -> tuple[Array, Array]:
        """Beginnings and ends of the edges, (n, 2) each."""
        numbers = np.arange(len(self.arc))
        return self.at(numbers, np.zeros(len(numbers))), self.at(numbers, np.ones(len(numbers)))

    def flattened(self, chord_height: float) -> EdgeChords:
        """Return chords that stray from their edges by no more than ``chord_height``, and turn by no more than 18°."""
        counts = self._counts(chord_height)
        edge, share, first = _spread(counts)
        return EdgeChords(self, self.at(edge, share), edge, share, first)

    def _counts(self, chord_height: float) -> Indices:
        """Return how many chords each edge takes, (n,)."""
        counts = np.ones(len(self.arc), dtype=np.int64)
        if self.arc.any():
            radius = np.maximum(np.hypot(*self.u[self.arc].T), np.hypot(*self.v[self.arc].T))
            flat = chord_height >= radius
            step = np.where(flat, math.pi / 2, 2 * np.arccos(np.clip(1 - chord_height / np.where(flat, 1.0, radius), -1, 1)))
            counts[self.arc] = np.maximum(2, np.ceil(np.abs(self.span[self.arc]) / np.minimum(step, _STEP) - NEARLY_WHOLE))
        if self.curve.any():
            # A chord over a step h strays by no more than max|p″|·h²/8; p″ is greatest at an end.
            _, _, c, d = self.powers[:, self.curve]
            bend = 2 * np.maximum(np.hypot(*c.T), np.hypot(*(c + 3 * d).T))
            counts[self.curve] = np.maximum(2, np.ceil(np.sqrt(bend / (8 * chord_height)) - NEARLY_WHOLE))
            turning = np.flatnonzero(self.curve)
            for _ in range(5):
                numbers, share, _ = _spread(counts[turning])
                along = self.tangents(turning[numbers], share)
                inner = numbers[1:] == numbers[:-1]
                turns = np.arccos(np.clip(np.einsum("ij,ij->i", along[:-1], along[1:]), -1, 1))
                most = np.zeros(len(turning))
                np.maximum.at(most, numbers[:-1][inner], turns[inner])
                turning = turning[most > _STEP]
                if not len(turning):
                    break
                counts[turning] *= 2
        return counts

    @cached_property
    def quadrature(self) -> tuple[Array, Array, Indices]:
        """Places (q, 2) along all edges, dp/dt there times their weights (q, 2), and the edge of each.

        Sums over them are exact to rounding for moments up to the third degree.
        """
        # Moments of a curve are polynomials of degree 11 in its share: 12 nodes are exact to degree 23; and to rounding for those
        # of an arc of at most a quarter turn.
        parts = np.maximum(1, np.ceil(np.abs(self.span) / (math.pi / 2))).astype(np.int64)
        number = np.repeat(np.arange(len(parts)), parts)
        low = (np.arange(len(number)) - np.repeat(np.cumsum(parts) - parts, parts)) / parts[number]
        half = 0.5 / parts[number]
        share = (low[:, None] + half[:, None] * (1 + _NODES)).ravel()
        edge = np.repeat(number, len(_NODES))
        weights = (half[:, None] * _WEIGHTS).ravel()
        return self.at(edge, share), self.rates(edge, share) * weights[:, None], edge

    @cached_property
    def areas(self) -> Array:
        """½∮(x dy − y dx) along each edge, (n,), in closed form.

        Of polynomials ½ Σ (aᵢ × aⱼ)·j/(i + j) over their powers; of an arc ½[c × (p₁ − p₀) + (u × v)(φ₁ − φ₀)].
        """
        x, y = self.powers[..., 0], self.powers[..., 1]
        cross = x[:, None] * y[None] - y[:, None] * x[None]
        degree = np.arange(4)
        found = 0.5 * np.einsum("ijn,ij->n", cross, degree / np.maximum(degree[:, None] + degree, 1))
        chord = self.ends[1] - self.ends[0]
        swept = (self.u[:, 0] * self.v[:, 1] - self.u[:, 1] * self.v[:, 0]) * self.span
        return np.asarray(found + np.where(self.arc, 0.5 * (x[0] * chord[:, 1] - y[0] * chord[:, 0] + swept), 0.0))

    @cached_property
    def lengths(self) -> Array:
        """The lengths of all edges, (n,) in mm: straight and round ones in closed form, others by quadrature over ever smaller parts."""
        radius, other = np.hypot(*self.u.T), np.hypot(*self.v.T)
        square = np.abs(np.einsum("ij,ij->i", self.u, self.v)) <= NO_LEAN * radius * other
        found: Array = np.where(self.arc, radius * np.abs(self.span), np.hypot(*self.powers[1].T))
        left, parts = np.flatnonzero(self.curve | (self.arc & ~(square & (np.abs(radius - other) <= NO_LEAN * radius)))), 1
        before = np.full(len(left), np.nan)
        while len(left):
            half = 0.5 / parts
            shares = ((np.arange(parts) / parts + half)[:, None] + half * _LENGTH_NODES).ravel()
            rates = self.rates(np.repeat(left, len(shares)), np.tile(shares, len(left)))
            found[left] = np.hypot(*rates.T).reshape(len(left), -1) @ np.tile(_LENGTH_WEIGHTS * half, parts)
            if parts >= _MOST_PARTS:
                break
            more = ~(np.abs(found[left] - before) <= ROUNDING * found[left])
            left, before, parts = left[more], found[left][more], 2 * parts
        return found

    def nearest(self, edge: Indices, places: Array) -> tuple[Array, Array]:
        """Return the shares (k,) of edges (k,) that are nearest to places (k, 2), and the points there (k, 2)."""
        low, high = np.zeros(len(edge)), np.ones(len(edge))
        steps, rows = np.linspace(0.0, 1.0, 33), np.arange(len(edge))
        numbers = np.repeat(edge, len(steps))
        for _ in range(7):
            shares = low[:, None] + (high - low)[:, None] * steps
            points = self.at(numbers, shares.ravel()).reshape(len(edge), -1, 2)
            best = np.argmin(np.hypot(*(points - places[:, None]).transpose(2, 0, 1)), axis=1)
            low, high = shares[rows, np.maximum(best - 1, 0)], shares[rows, np.minimum(best + 1, len(steps) - 1)]
        return shares[rows, best], points[rows, best]


def _spread(counts: Indices) -> tuple[Indices, Array, Indices]:
    """Return, for edges cut into this many chords, the edge and the share of each of their points, and where each edge's begin."""
    sizes = counts + 1
    edge = np.repeat(np.arange(len(counts)), sizes)
    first = np.cumsum(sizes) - sizes
    return edge, (np.arange(len(edge)) - first[edge]) / counts[edge], first


def flattened(edge: Edge, chord_height: float) -> tuple[Array, Array]:
    """Return points (c + 1, 2) of one edge no further than ``chord_height`` apart from its chords, and unit tangents there."""
    chords = Together.of([edge]).flattened(chord_height)
    return chords.points, chords.tangents


def length_of(edge: Edge) -> float:
    """Return the length of one edge, mm."""
    return float(Together.of([edge]).lengths[0])

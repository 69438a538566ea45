"""Pieces that bend: smooth spans end to end, with a frame at every place."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np

from slow_ribbon.core.geometry.curves import STEP, Curve, flattening, run_on
from slow_ribbon.core.geometry.frames import Rule, crossed, reflected, upright
from slow_ribbon.core.geometry.joined_spans import add_span
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Indices, Result
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN, NO_LENGTH
from slow_ribbon.core.kernel.units import WELD

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)


@dataclass(frozen=True)
class Stations(Result):
    """Places along a path; n rows each.

    points, tangents, rights, ups (n, 3). bends (n, 2): the curvature's parts along right and up,
    1/mm. twists (n,): how fast the frame turns about the tangent, radians a mm.
    """

    points: Array
    tangents: Array
    rights: Array
    ups: Array
    bends: Array
    twists: Array


def leaned(rights: Array, ups: Array, lean: Array) -> tuple[Array, Array]:
    """Return frames (n, 3) each, square no longer, in which a section point stands where its image by ``lean`` does in the given ones.

    ``lean`` is (2, 2), or (n, 2, 2) for one of each.
    """
    a, b, c, d = (lean[..., i, j, None] for i, j in ((0, 0), (0, 1), (1, 0), (1, 1)))
    return rights * a + ups * c, rights * b + ups * d


@dataclass(frozen=True)
class Path:
    """A piece that bends. ``low`` is where on the whole path this piece begins, for a piece broken at an opening.

    ``lean`` (2, 2): where it is given, the frame is no longer square, but the one in which a section point stands where its image by
    that matrix stands in the square one. It is only for paths that do not twist. ``ring``: beyond its end it goes on as it begins.
    """

    spans: tuple[Curve, ...]
    rule: Rule
    right: Array
    length: float
    low: float = 0.0
    spin: float = 0.0
    spun: float = 0.0
    lean: Array | None = None
    ring: bool = False

    @cached_property
    def _begins(self) -> Array:
        return np.concatenate([[0.0], np.cumsum([span.length for span in self.spans])])

    @cached_property
    def straights(self) -> tuple[float, float]:
        """The lengths of the straights that the piece begins and ends with, mm; zero where it bends or twists there.

        One that begins or ends within a straight may lie in what bends beyond it, and counts as bent there.
        """
        first, last = self.spans[0], self.spans[-1]
        begins, ends = self.low == 0.0, abs(self.low + self.length - float(self._begins[-1])) <= NO_LENGTH
        if self.spin or (self.ring and not (first.straight and last.straight)):
            return 0.0, 0.0
        return (
            min(first.length, self.length) if begins and first.straight else 0.0,
            min(last.length, self.length) if ends and last.straight else 0.0,
        )

    @cached_property
    def _screws(self) -> Array | None:
        """The spans as rows (k, 13) of numbers, all of straights and screws; None where a span is another curve.

        Each is p(s) = base + along·s + u·cos(rate·s) + v·sin(rate·s), three numbers each and the rate.
        """
        rows = []
        for span in self.spans:
            row = span.rotating()
            if row is None:
                return None
            rows.append(row)
        return np.array(rows)

    def _runs_on_as_it_is(self, s: Array) -> bool:
        """Return whether places (n,) on the whole path lie where each span is as it is written: a helix runs on as an arc."""
        first, last = self.spans[0], self.spans[-1]
        if not first.rotates_on and s.min(initial=0.0) < 0:
            return False
        end = float(self._begins[-1])
        return last.rotates_on or not s.max(initial=end) > end

    def _plain(self, s: Array) -> tuple[Array, Array, Array]:
        """Return points, tangents and curvatures at distances on the whole path, running on beyond its ends."""
        screws = self._screws
        if screws is not None and self._runs_on_as_it_is(s):
            if len(screws) == 1:
                rows, s = screws, s[:, None]
            else:
                which = np.searchsorted(self._begins[1:-1], s, side="right")
                rows, s = screws[which], (s - self._begins[which])[:, None]
            along, u, v, rate = rows[:, 3:6], rows[:, 6:9], rows[:, 9:12], rows[:, 12:]
            angle = rate * s
            cosine, sine = np.cos(angle), np.sin(angle)
            out = u * cosine + v * sine
            return rows[:, :3] + along * s + out, along + rate * (v * cosine - u * sine), -rate * rate * out
        if len(self.spans) == 1:
            return run_on(self.spans[0], s)
        index = np.searchsorted(self._begins[1:-1], s, side="right")
        points, tangents, curvatures = (np.empty((len(s), 3)) for _ in range(3))
        for number in sorted(set(index.tolist())):
            here = np.flatnonzero(index == number)
            if len(here) == len(s):
                return run_on(self.spans[number], s - self._begins[number])
            points[here], tangents[here], curvatures[here] = run_on(self.spans[number], s[here] - self._begins[number])
        return points, tangents, curvatures

    @cached_property
    def _carried(self) -> tuple[Array, Array, Array, Array]:
        """Return distances with the points, tangents and untwisted rights there, a degree of turning apart at most."""
        places = []
        for begin, span in zip(self._begins[:-1].tolist(), self.spans, strict=True):
            parts = flattening(span, 1e9)
            fine = [np.linspace(a, b, 7)[:-1] for a, b in pairwise(parts.tolist())]
            places.append(begin + np.concatenate(fine))
        s = np.append(np.concatenate(places), self._begins[-1])
        points, tangents, _ = self._plain(s)
        rights = np.empty_like(points)
        rights[0] = right = self.right
        for i in range(1, len(s)):
            look_up()
            right = reflected(points[i - 1 : i], tangents[i - 1 : i], right[None], points[i : i + 1], tangents[i : i + 1])[0]
            rights[i] = right
        return s, points, tangents, rights

    def at(self, s: Array) -> Stations:
        """Return the stations at distances ``s`` (n,) from the piece's beginning; beyond its ends it runs on, or round again in a ring."""
        look_up(16 * len(s))
        s = np.asarray(s, dtype=float) + self.low
        if self.ring:
            whole = self.whole_length
            # Its own ends stay what they are.
            s = np.where((s < 0) | (s > whole), np.mod(s, whole), s)
        points, tangents, curvatures = self._plain(s)
        if self.rule == "upright":
            rights, ups = upright(tangents)
            flat = np.hypot(tangents[:, 0], tangents[:, 1])
            # d/ds (t × Z) = k × Z; its part along n is how fast r leaves the plane square to t.
            twists = (curvatures[:, 1] * ups[:, 0] - curvatures[:, 0] * ups[:, 1]) / flat
        else:
            known, at_points, at_tangents, at_rights = self._carried
            index = np.clip(np.searchsorted(known, s, side="right") - 1, 0, len(known) - 1)
            rights = reflected(at_points[index], at_tangents[index], at_rights[index], points, tangents)
            twists = np.full(len(s), self.spin)
            ups = crossed(rights, tangents)
            if self.spin or self.spun:
                angle = (self.spun + self.spin * s)[:, None]
                # Anticlockwise as seen along travel: right goes toward up.
                rights, ups = rights * np.cos(angle) + ups * np.sin(angle), ups * np.cos(angle) - rights * np.sin(angle)
        bends = np.empty((len(s), 2))
        bends[:, 0], bends[:, 1] = np.einsum("ij,ij->i", curvatures, rights), np.einsum("ij,ij->i", curvatures, ups)
        if self.lean is not None:
            rights, ups = leaned(rights, ups, self.lean)
            bends = bends @ self.lean
        return Stations(points=points, tangents=tangents, rights=rights, ups=ups, bends=bends, twists=twists)

    @cached_property
    def twists(self) -> bool:
        """Whether its frame turns about the line: by more than rounding leaves, which a level curve high up or turned about has."""
        _, twists, weights = self.bending
        return bool(np.abs(twists) @ weights > NO_LEAN)

    @property
    def whole_length(self) -> float:
        """The length of all of what the piece is a part of, mm."""
        return float(self._begins[-1])

    def bounds(self) -> Array:
        """Return the distances from this piece's beginning, both ends included, at which its spans meet."""
        places = self._begins - self.low
        return np.concatenate([[0.0], places[(places > WELD) & (places < self.length - WELD)], [self.length]])

    def quadrature(self, low: float = 0.0, high: float | None = None) -> tuple[Array, Array]:
        """Return distances along this piece and weights, mm, that sum what is asked there, from ``low`` to ``high`` or its end."""
        first, last = self.low + low, self.low + (self.length if high is None else high)
        places, weights = [], []
        for number, (begin, span) in enumerate(zip(self._begins[:-1].tolist(), self.spans, strict=True)):
            a, b = max(first - begin, 0.0), min(last - begin, span.length)
            if b > a:
                at, weight = span.weighted(a, b)
                places.append(at + begin - self.low)
                weights.append(weight)
            # Beyond its ends a piece runs on as it bends there.
            for c, d, here in (
                (first - begin, min(last - begin, 0.0), number == 0),
                (max(first - begin, span.length), last - begin, number == len(self.spans) - 1),
            ):
                if here and d > c:
                    count = 1 + int((d - c) * float(np.linalg.norm(run_on(span, np.array([c]))[2])) / STEP)
                    for e, f in pairwise(np.linspace(c, d, min(count, 1000) + 1).tolist()):
                        places.append(e + (f - e) * (1 + _NODES) / 2 + begin - self.low)
                        weights.append((f - e) / 2 * _WEIGHTS)
        return np.concatenate([np.zeros(0), *places]), np.concatenate([np.zeros(0), *weights])

    @cached_property
    def bending(self) -> tuple[Array, Array, Array]:
        """Bends (n, 2), twists (n,) and weights (n,), mm, at places that sum what depends on them over the whole piece."""
        places, weights = self.quadrature()
        here = self.at(places)
        return here.bends, here.twists, weights

    @cached_property
    def turning(self) -> Array | None:
        """The bends of the whole piece summed up, (2,), by which a fibre at p is shorter: p·turning; None where it twists."""
        bends, _, weights = self.bending
        return None if self.twists else weights @ bends

    def ranges(self) -> list[tuple[float, float, Curve]]:
        """Return the spans of this piece with the distances on each from and to which they belong to it."""
        found = []
        for begin, span in zip(self._begins[:-1].tolist(), self.spans, strict=True):
            low, high = max(0.0, self.low - begin), min(span.length, self.low + self.length - begin)
            if high - low > WELD:
                found.append((low, high, span))
        return found

    def begun(self, at: float, turned: float = 0.0) -> Path:
        """Return the whole of a path that comes round as it begins, and ends, at a distance along it instead.

        ``turned``: how far its frames are turned there against those it has now, radians from right toward up.
        """
        here = replace(self, spin=0.0, spun=0.0).at(np.array([at]))
        number = int(np.searchsorted(self._begins[1:-1], at + WELD, side="right"))
        cut, span = at - float(self._begins[number]), self.spans[number]
        whole = cut <= WELD
        spans: list[Curve] = [span if whole else span.part(cut, span.length)]
        for other in (*self.spans[number + 1 :], *self.spans[:number], *(() if whole else (span.part(0.0, cut),))):
            add_span(spans, other)
        right = here.rights[0] * math.cos(turned) + here.ups[0] * math.sin(turned)
        return replace(self, spans=tuple(spans), right=right, spun=self.spun + self.spin * at)

    def part(self, low: float, high: float) -> Path:
        """Return the path between two distances from this one's beginning."""
        return replace(self, low=self.low + low, length=high - low)

    @cached_property
    def chords(self) -> Array:
        """Shares of the piece, from 0 to 1, for drawing it with chords within ``CHORD_HEIGHT``."""
        return self.flattened(CHORD_HEIGHT) / self.length

    @cached_property
    def at_chords(self) -> Stations:
        """The stations at ``chords``."""
        return self.at(self.chords * self.length)

    def flattened(self, chord_height: float, reach: float = 0.0) -> Array:
        """Return distances, both ends included, for drawing it with chords within ``chord_height``."""
        inside = []
        for begin, span in self._here():
            if self.spin and span.straight:
                parts = np.linspace(0, span.length, 2 + int(abs(self.spin) * span.length / math.radians(2)))
            else:
                parts = flattening(span, chord_height, reach)
            inside.append(begin + parts)
        found = np.concatenate(inside) if inside else np.zeros(0)
        return np.concatenate([[0.0], found[self._between(found)], [self.length]])

    def drawn(self, chord_height: float) -> tuple[Array, Array]:
        """Return distances, both ends included, and the points (n, 3) there, of its line in chords within ``chord_height``."""
        if self._is_one_span:
            return self.spans[0].drawn(chord_height)[:2]
        places, points = [np.zeros(0)], [np.zeros((0, 3))]
        for begin, span in self._here():
            distances, met, _ = span.drawn(chord_height)
            places.append(begin + distances)
            points.append(met)
        found, met = np.concatenate(places), np.concatenate(points)
        kept = self._between(found)
        ends = np.array([0.0, self.length])
        at_ends = met[[0, -1]] if (np.abs(found[[0, -1]] - ends) < NO_LENGTH).all() else self.at(ends).points
        return np.concatenate([ends[:1], found[kept], ends[1:]]), np.concatenate([at_ends[:1], met[kept], at_ends[1:]])

    @property
    def _is_one_span(self) -> bool:
        """Whether it is the whole of one span, longer than a weld."""
        return len(self.spans) == 1 and self.low == 0.0 and self.length == self.spans[0].length > WELD

    def _here(self) -> list[tuple[float, Curve]]:
        """Return the spans that this piece has a part of, with the distances from its beginning at which they begin."""
        begins = zip(self._begins[:-1].tolist(), self.spans, strict=True)
        return [(at - self.low, span) for at, span in begins if at <= self.low + self.length and at + span.length >= self.low]

    def _between(self, places: Array) -> Indices:
        """Return a mask of places in order that lie between this piece's ends, and apart."""
        kept = np.flatnonzero((places > WELD) & (places < self.length - WELD))
        return kept[np.diff(places[kept], prepend=0.0) > NO_LENGTH]

"""Spans that are one curve: a curve that was split is treated as one again.

Terms
-----
one curve
    spans end to end with one tangent and one curvature where they meet. A straight is never a part of a curve.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.curves import Curve, PartSpan, ScrewSpan, StraightSpan
from slow_ribbon.core.geometry.frames import angle
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NEARLY_SAME, SAME_PLACE

#: Tangents that differ by a smaller angle, radians, are the same.
_SAME_WAY: Final = 1e-7


@dataclass(frozen=True)
class JoinedSpan(Curve):
    """Spans end to end that are one curve."""

    spans: tuple[Curve, ...]

    @property
    def kind(self) -> str:
        return self.spans[0].kind

    @cached_property
    def _begins(self) -> Array:
        return np.concatenate([[0.0], np.cumsum([span.length for span in self.spans])])

    @cached_property
    def length(self) -> float:
        return float(self._begins[-1])

    def at(self, s: Array) -> tuple[Array, Array, Array]:
        s = np.asarray(s, dtype=float)
        which = np.searchsorted(self._begins[1:-1], s, side="right")
        points, tangents, curvatures = (np.empty((len(s), 3)) for _ in range(3))
        for number in sorted(set(which.tolist())):
            here = np.flatnonzero(which == number)
            along = np.clip(s[here] - self._begins[number], 0.0, self.spans[number].length)
            points[here], tangents[here], curvatures[here] = self.spans[number].at(along)
        return points, tangents, curvatures

    def breaks(self) -> Array:
        found = [begin + span.breaks()[1:] for begin, span in zip(self._begins[:-1].tolist(), self.spans, strict=True)]
        return np.concatenate([[0.0], *found])

    def flattened(self, chord_height: float, reach: float) -> tuple[Array, bool]:
        parts = [span.flattened(chord_height, reach) for span in self.spans]
        found = [begin + places[1:] for begin, (places, _) in zip(self._begins[:-1].tolist(), parts, strict=True)]
        return np.concatenate([[0.0], *found]), all(whole for _, whole in parts)

    def drawn(self, chord_height: float) -> tuple[Array, Array, Array]:
        parts = [span.drawn(chord_height) for span in self.spans]
        first = parts[0]
        distances = [begin + places[1:] for begin, (places, _, _) in zip(self._begins[:-1].tolist(), parts, strict=True)]
        points, directions = (np.concatenate([first[k][:1], *(part[k][1:] for part in parts)]) for k in (1, 2))
        return np.concatenate([[0.0], *distances]), points, directions

    def weighted(self, low: float, high: float) -> tuple[Array, Array]:
        places, weights = [], []
        for begin, span in zip(self._begins[:-1].tolist(), self.spans, strict=True):
            first, last = max(0.0, low - begin), min(span.length, high - begin)
            if last > first:
                at, weight = span.weighted(first, last)
                places.append(at + begin)
                weights.append(weight)
        return np.concatenate([np.zeros(0), *places]), np.concatenate([np.zeros(0), *weights])

    @property
    def radius_of_arc(self) -> float | None:
        """The radius of its first arc: those of all differ by less than can be seen."""
        return self.spans[0].radius_of_arc

    def turned(self, low: float, high: float) -> float:
        found = 0.0
        for begin, span in zip(self._begins[:-1].tolist(), self.spans, strict=True):
            first, last = max(0.0, low - begin), min(span.length, high - begin)
            found += span.turned(first, last) if last > first else 0.0
        return found


def one_curve(before: Curve, after: Curve) -> Curve | None:
    """Return the one curve that two spans are which meet; None where they are two.

    Parts of one arc or helix are that arc or helix. Other spans are one curve where they have one tangent and one curvature where they
    meet, and bend there.

    >>> whole = ScrewSpan(centre=np.zeros(3), u=np.eye(3)[0], v=np.eye(3)[1], axis=np.eye(3)[2], radius=500.0, turn=2.0, climb=0.0)
    >>> one_curve(whole.part(0.0, 250.0), whole.part(250.0, 1000.0)).turn
    2.0
    """
    if before.straight or after.straight:
        return None
    if isinstance(before, PartSpan) and isinstance(after, PartSpan) and before.whole is after.whole and before.high == after.low:
        return before.whole.part(before.low, after.high)
    if isinstance(before, ScrewSpan) and isinstance(after, ScrewSpan) and (screw := _one_screw(before, after)) is not None:
        return screw
    if isinstance(before, ScrewSpan) != isinstance(after, ScrewSpan):
        return None
    if angle(before.direction(last=True), after.direction(last=False)) > _SAME_WAY:
        return None
    bends, bends_after = before.at(np.array([before.length]))[2], after.at(np.zeros(1))[2]
    size = float(np.linalg.norm(bends[0]))
    if not np.isfinite(size) or size * (before.length + after.length) < NEARLY_SAME:
        return None
    if float(np.linalg.norm(bends_after[0] - bends[0])) > NEARLY_SAME * size:
        return None
    spans = [span for one in (before, after) for span in (one.spans if isinstance(one, JoinedSpan) else (one,))]
    return JoinedSpan(tuple(spans))


def add_span(spans: list[Curve], span: Curve) -> None:
    """Put a span after others that it follows smoothly, as a part of the last of them where both are one straight or one curve."""
    last = spans[-1] if spans else None
    if last is None:
        spans.append(span)
    elif last.straight and span.straight:
        begin, end = last.at(np.zeros(1))[0][0], span.at(np.array([span.length]))[0][0]
        size = float(np.linalg.norm(end - begin))
        spans[-1] = StraightSpan(begin, (end - begin) / size, size)
    elif (one := one_curve(last, span)) is not None:
        spans[-1] = one
    else:
        spans.append(span)


def _one_screw(before: ScrewSpan, after: ScrewSpan) -> ScrewSpan | None:
    goes_on = before.begun(before.turn)
    same = (
        abs(before.radius - after.radius) <= SAME_PLACE
        and abs(before.climb / before.turn - after.climb / after.turn) <= SAME_PLACE
        and all(
            float(np.abs(one - other).max()) <= limit
            for one, other, limit in (
                (goes_on.centre, after.centre, SAME_PLACE),
                (goes_on.u, after.u, _SAME_WAY),
                (goes_on.v, after.v, _SAME_WAY),
            )
        )
    )
    if not same:
        return None
    return replace(before, turn=before.turn + after.turn, climb=before.climb + after.climb)

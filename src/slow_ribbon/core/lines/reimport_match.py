"""A drawing imported again: which lines of a job come again in it, which have moved, which are gone, what is new.

A line is known by what it was drawn as (its shape), by the keys of the edges it was made of (the
handles of a drawing, the numbers of surveyed points, the global ids of a model), and else by
where it lies.
"""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
import shapely

from slow_ribbon.core.geometry.polylines import stray
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE, ROUNDING
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import CurveLeg, LegBase, StraightLeg
from slow_ribbon.core.lines.model import Line, LineBody, with_id

#: Lines of the same keys are the same line where they lie no further apart than this share of their length, on average.
_FAR_WITH_KEYS: Final = 1.0
#: Lines without keys in common, where they lie no further apart than this share of their length, and this, mm.
_FAR: Final = 0.2
_FARTHEST: Final = 2000.0
#: Ids of this length are one thing's in the whole world (ISO 16739, IfcGloballyUniqueId).
_GLOBAL: Final = 22
#: Places on a line at which it is compared: how far apart, mm, and how few and how many at least and at most.
_EVERY: Final = 250.0
_LOOKS: Final = 33
_MOST_LOOKS: Final = 2000
#: Keys that a line keeps: the first in order, so that what two lines have in common shows in them.
MOST_KEYS: Final = 64

Outcome = Literal["same", "moved", "new", "gone"]


@dataclass(frozen=True)
class Match:
    """A line of the job (``line``, its id), of the drawing as it is now (``number``), or of both.

    ``by`` is how far it has moved at most, mm; ``drawn_anew`` whether the drawing shows it otherwise
    than before; ``worked_on`` whether it was worked on in the job since it came.
    """

    way: Outcome
    line: str | None
    number: int | None
    by: float = 0.0
    drawn_anew: bool = False
    worked_on: bool = False


def shape_of(line: LineBody) -> str:
    """Return a hash of what a line is, 16 hexadecimal digits: its legs and whether it is closed, to 0.01 mm.

    It is the same whichever way the line goes, and of a closed one wherever it starts.
    """
    if all(type(leg) is StraightLeg and leg.round is None for leg in line.legs):
        # As most are.
        return shape_of_straights(np.array([line.start, *(leg.to for leg in line.legs)]), line.closed)
    begins = [line.start, *(leg.to for leg in line.legs[:-1])]
    both = [_written_both_ways(begin, leg) for begin, leg in zip(begins, line.legs, strict=True)]
    forth, back = [one for one, _ in both], [other for _, other in both][::-1]
    # A radius belongs to the corner after its leg, whichever way that is gone.
    radii = [leg.round for leg in line.legs]
    turned = [radii[i - 1] for i in range(len(radii) - 1, -1, -1)] if line.closed else [*radii[-2::-1], None]
    ways = [list(zip(forth, map(repr, radii), strict=True)), list(zip(back, map(repr, turned), strict=True))]
    said = min(_from_the_least(way) for way in ways) if line.closed else min(ways)
    return hashlib.sha256(json.dumps([said, line.closed]).encode()).hexdigest()[:16]


def _from_the_least(ring: list[tuple[str, str]]) -> list[tuple[str, str]]:
    at = min(range(len(ring)), key=ring.__getitem__)
    return ring[at:] + ring[:at]


def _written_both_ways(begin: Point3, leg: LegBase) -> tuple[str, str]:
    """Return ``_written`` of a leg as it runs and reversed."""
    if isinstance(leg, CurveLeg) and leg.plain:
        # As nearly all curves of drawings are, of which there may be thousands: the same words, put together at once.
        first, second, third, last = (str([round(value, 2) + 0.0 for value in point]) for point in (begin, *leg.controls, leg.to))
        forth = f'[{first}, {{"to": {last}, "controls": [{second}, {third}]}}]'
        return forth, f'[{last}, {{"to": {first}, "controls": [{third}, {second}]}}]'
    return _written(begin, leg), _written(leg.to, leg.reversed(begin))


def _written(begin: Point3, leg: LegBase) -> str:
    """Return a leg from where it begins in words, to 0.01 mm, without what it is rounded to."""
    return json.dumps([_rounded(begin), _rounded(leg.model_dump(exclude_defaults=True, exclude={"round"}))])


def _rounded(value: object) -> object:
    if isinstance(value, float):
        return round(value, 2) + 0.0
    if isinstance(value, list | tuple):
        return [_rounded(one) for one in value]
    return {name: _rounded(one) for name, one in value.items()} if isinstance(value, dict) else value


def shape_of_straights(points: Array, closed: bool) -> str:
    """Return the hash, as ``shape_of`` does, of a line of straights from its start to its end through points (n, 3)."""
    rounded = points.round(2) + 0.0
    # Which comes first does not matter, so long as it is the same of the same points.
    if closed:
        ring = rounded[:-1]
        ways = [ring, ring[::-1]]
        rounded = min((np.roll(way, -int(np.lexsort(way.T)[0]), axis=0) for way in ways), key=lambda way: way.tolist())
    else:
        rounded = min((rounded, rounded[::-1]), key=lambda way: way.tolist())
    return hashlib.sha256(b"closed" * closed + np.ascontiguousarray(rounded, dtype="<f8").tobytes()).hexdigest()[:16]


def _shape_as_drawn(line: LineBody) -> str:
    """Return the hash that lines were known by before it was the same either way: that of the way they went from where they started."""
    if all(type(leg) is StraightLeg and leg.round is None for leg in line.legs):
        points = np.array([line.start, *(leg.to for leg in line.legs)]).round(2) + 0.0
        return hashlib.sha256(b"closed" * line.closed + points.astype("<f8").tobytes()).hexdigest()[:16]
    said = [_rounded(line.start), [_rounded(leg.model_dump(exclude_defaults=True)) for leg in line.legs], line.closed]
    return hashlib.sha256(json.dumps(said).encode()).hexdigest()[:16]


def keys_kept(keys: Iterable[str]) -> tuple[str, ...]:
    """Return the keys that a line of edges of these keys keeps."""
    return tuple(sorted({key[:64] for key in keys if key})[:MOST_KEYS])


def compared(old: Sequence[Line], new: Sequence[LineBody]) -> list[Match]:
    """Return the matches of lines that came from a drawing with its newer issue: those of the job in their order, then the new ones.

    Every line is met once. Lines of the same shape are found first, then those with keys in
    common, then those that lie nearest.
    """
    partner: dict[int, int] = {}
    shapes: dict[str, list[int]] = {}
    new_shapes = [shape_of(body) for body in new]
    for number, shape in enumerate(new_shapes):
        shapes.setdefault(shape, []).append(number)
    drawn_now: dict[str, list[int]] = {}
    for number, body in enumerate(new):
        drawn_now.setdefault(_shape_as_drawn(body), []).append(number)
    now = [shape_of(line) for line in old]
    met: set[int] = set()
    for index, line in enumerate(old):
        look_up()
        stored = line.source.shape if line.source else ""
        alike = (
            number for known, shape in ((shapes, stored), (drawn_now, stored), (shapes, now[index])) for number in known.get(shape, ())
        )
        first = next((one for one in alike if one not in met), None)
        if first is not None:
            partner[index] = first
            met.add(first)
    left_old = [index for index in range(len(old)) if index not in partner]
    taken = set(partner.values())
    left_new = [number for number in range(len(new)) if number not in taken]
    partner.update(_nearest(old, new, left_old, left_new, _numbered_alike(old, new, partner)))
    found = []
    for index, line in enumerate(old):
        drawn = line.source.shape if line.source and line.source.shape else now[index]
        # A line of an earlier program is known by the way it went.
        if drawn != now[index] and drawn == _shape_as_drawn(line):
            drawn = now[index]
        worked_on = drawn != now[index]
        if index not in partner:
            found.append(Match("gone", line.id, None, worked_on=worked_on))
            continue
        number = partner[index]
        by = 0.0 if now[index] == new_shapes[number] else _moved_by(line, new[number])
        anew = drawn not in (new_shapes[number], _shape_as_drawn(new[number])) and (worked_on or by > IMMEASURABLE)
        way: Outcome = "moved" if anew and by > IMMEASURABLE else "same"
        found.append(Match(way=way, line=line.id, number=number, by=by, drawn_anew=anew, worked_on=worked_on))
    known = set(partner.values())
    return [*found, *(Match("new", None, number) for number in range(len(new)) if number not in known)]


def _numbered_alike(old: Sequence[Line], new: Sequence[LineBody], partner: Mapping[int, int]) -> bool:
    """Return whether unchanged lines still have their keys: some programs number everything again at every save."""
    known = [(_keys(old[i]), _keys(new[j])) for i, j in partner.items()]
    message = [bool(a & b) for a, b in known if a and b]
    return not message or sum(message) > len(message) / 2


def _nearest(old: Sequence[Line], new: Sequence[LineBody], left_old: Sequence[int], left_new: Sequence[int], alike: bool) -> dict[int, int]:
    """Return the pairs of lines left that are the same line, by keys where these are ``alike`` and by where they lie; the surest first."""
    if not left_old or not left_new:
        return {}
    here, there = {i: _looked_at(old[i]) for i in left_old}, {j: _looked_at(new[j]) for j in left_new}
    holders: dict[str, list[int]] = {}
    for j in left_new:
        for key in _keys(new[j]):
            holders.setdefault(key, []).append(j)
    boxes = shapely.STRtree([shapely.box(*_box(there[j])) for j in left_new])
    costs: list[tuple[float, int, int]] = []
    for i in left_old:
        look_up(len(here[i][0]) * 10)
        near = {left_new[k] for k in boxes.query(shapely.box(*_box(here[i], _FARTHEST))).tolist()}
        own = _keys(old[i])
        near |= {j for key in own for j in holders.get(key, ())}
        for j in near:
            common = own & _keys(new[j])
            everywhere = any(len(key) == _GLOBAL for key in common)
            share = len(common) / max(1, min(len(own), len(_keys(new[j])))) if alike or everywhere else 0.0
            mean, _ = apart(here[i], there[j])
            off = mean / max(1.0, min(here[i][1], there[j][1]))
            if everywhere or (off <= (_FAR_WITH_KEYS if share >= 0.5 else _FAR) and (share >= 0.5 or mean <= _FARTHEST)):
                other_layer = 0.0 if _layer(old[i]) == _layer(new[j]) else 0.5
                costs.append((min(off, 5.0) + other_layer - 2 * share, i, j))
    found: dict[int, int] = {}
    taken: set[int] = set()
    for _, i, j in sorted(costs):
        if i not in found and j not in taken:
            found[i] = j
            taken.add(j)
    return found


def _keys(line: LineBody) -> set[str]:
    return set(line.source.keys) if line.source else set()


def _layer(line: LineBody) -> str:
    return line.source.layer if line.source else ""


def _moved_by(line: Line, body: LineBody) -> float:
    """Return how far a line that was drawn again lies from where it was, mm at most; where it closed or opened, the gap at least."""
    by = apart(_looked_at(line), _looked_at(body))[1]
    if line.closed == body.closed:
        return by
    gapped = body if line.closed else line
    return max(by, math.dist(gapped.start, gapped.legs[-1].to))


Likeness = tuple[Array, float]


def _looked_at(line: LineBody) -> Likeness:
    """Return points (n, 3) of a line, its corners and places spread evenly, in order, and its length in mm."""
    course = course_of(line if isinstance(line, Line) else with_id(line, "L1"))
    chainages, points = course.flattened(1.0)
    # Near enough to one another for a doorway to show.
    places = np.linspace(0, course.length, int(np.clip(course.length / _EVERY, _LOOKS, _MOST_LOOKS)))
    spread = course.points_at(places * (1 - ROUNDING))
    order = np.argsort(np.concatenate([chainages, places]), kind="stable")
    return np.concatenate([points, spread])[order], course.length


def _box(looks: Likeness, more: float = 0.0) -> tuple[float, float, float, float]:
    low, high = looks[0][:, :2].min(axis=0) - more, looks[0][:, :2].max(axis=0) + more
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def apart(one: Likeness, other: Likeness) -> tuple[float, float]:
    """Return how far two lines lie apart, on average and at most, mm: from points of each to the other."""
    there, back = distances(one[0], other[0]), distances(other[0], one[0])
    return float(max(there.mean(), back.mean())), float(max(there.max(), back.max()))


def distances(points: Array, line: Array) -> Array:
    """Return how far points (n, 3) lie from a line through points (m, 3), mm, (n,)."""
    best = np.full(len(points), np.inf)
    # Some of the line at a time: many points far along many corners are many numbers.
    step = max(1, 200_000 // max(1, len(points)))
    for low in range(0, len(line) - 1, step):
        corners = line[low : low + step + 1]
        look_up(len(points) * len(corners))
        best = np.minimum(best, stray(points[:, None], corners[:-1], corners[1:]).min(axis=1))
    return best

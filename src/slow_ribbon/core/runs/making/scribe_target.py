"""The target of a scribed end: the piece of the other run that its fibres meet first.

A straight piece is a section that goes on without end. One that bends is described by how its section lies at places along a stretch of it,
about where the end meets it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.geometry.frames import crossed
from slow_ribbon.core.geometry.polylines import stray
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import SAME_DRAWN, SAME_PLACE, SEARCH_DEVIATION
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.end_surfaces.scribe_model import BentStretch, ScribeTarget
from slow_ribbon.core.runs.making.split_into_pieces import pieced
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.ends import LEAST_MEETING
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.outline.profile import Shape
from slow_ribbon.core.sections.sketch.sketch import outline_of_loop

_CHORD: Final = 1.0
#: An end meets what is no further from it than this many times as far as that reaches from its own line: else it is somewhere else.
_NEAR: Final = 2.0
#: A stretch ends where it has turned so far from where it is met, or runs parallel to the end within this much, degrees.
_MOST_TURN: Final = 90.0
_ALONG: Final = 2.0
#: So often it is looked again for where a fibre comes across.
_STEPS: Final = 20
#: In this many steps each way it is looked for where it ends.
_LOOKS: Final = 64
#: A stretch is described at this many places, from which it is known within this much, mm; else it is halved, this often at most.
_PLACES: Final = 8
_HALVINGS: Final = 6


@dataclass(frozen=True)
class TargetPiece:
    """A straight piece of a run: ``start`` (3,), ``travel``, ``right`` and ``up``, its length, its section there and the outline of that.

    Of one that bends it is a straight of its ``path``, or a chord, that begins ``begin`` mm along that.
    """

    start: Array
    travel: Array
    right: Array
    up: Array
    length: float
    outline: Array
    shape: Shape
    path: Path | None = None
    begin: float = 0.0

    @cached_property
    def reach(self) -> float:
        """How far it reaches from its line, mm."""
        return float(np.abs(self.outline).max())

    def met(self, run: str, at: float, reach: float, along: float, middle: Array, outward: Array) -> ScribeTarget:
        """Return the scribe target of an end at a chainage ``at``, of a section with a ``reach``, that meets this piece ``along`` it.

        Its middle fibre goes through ``middle`` (3,), ``outward`` (3,).
        """
        place, right, up = self.start, self.right, self.up
        stretches: tuple[BentStretch, ...] = ()
        if self.path is not None:
            here = _crossed(self.path, float(np.clip(self.begin + along, 0.0, self.path.length)), middle, outward)
            found = self.path.at(np.array([here]))
            place, right, up, travel = found.points[0], found.rights[0], found.ups[0], found.tangents[0]
            # As far along it, either way, as a fibre beside the middle one may meet it.
            size = float(np.linalg.norm(outward - travel * float(outward @ travel)))
            far = (2 * reach + (1 + _NEAR) * self.reach) / max(size, math.sin(math.radians(LEAST_MEETING)))
            stretches = _stretches(self.path, here, far, outward)
        message = [tuple((one.round(9) + 0.0).tolist()) for one in (place, right, up)]
        outline = outline_of_loop(self.shape.loops[0])
        return ScribeTarget(run=run, at=at, outline=outline, place=message[0], right=message[1], up=message[2], bent=stretches)


@kept_with
def _known(_: Run) -> dict[str, tuple[Line, Section, list[TargetPiece]]]:
    return {}


def pieces_of(run: Run, line: Line, section: Section) -> list[TargetPiece]:
    """Return the straight pieces of a run as they lie, and the straights and chords of those that bend; kept as long as the run is."""
    known = _known(run)
    last = known.get("last")
    if last is not None and last[0] is line and last[1] is section:
        return last[2]
    cuts = pieced(run, line, section).cuts
    course, found = cuts.plain, []
    for i in range(course.count):
        framed = cuts.lying(i).framed
        outline = framed.outer_ring(SEARCH_DEVIATION)
        path = course.paths.get(i)
        if path is None:
            frame = course.starts[i], course.tangents[i], course.rights[i], course.ups[i]
            found.append(TargetPiece(*frame, float(course.lengths[i]), outline, framed))
            continue
        bounds = path.flattened(_CHORD)
        here = path.at((bounds[1:] + bounds[:-1]) / 2)
        for k, (begin, size) in enumerate(zip(bounds[:-1].tolist(), np.diff(bounds).tolist(), strict=True)):
            look_up()
            travel = here.tangents[k]
            start = here.points[k] - travel * (size / 2)
            found.append(TargetPiece(start, travel, here.rights[k], here.ups[k], size, outline, framed, path, begin))
    known["last"] = (line, section, found)
    return found


def in_the_way(run: Run, course: Course, index: int, end: bool, placed: Placed, pieces: Sequence[TargetPiece]) -> ScribeTarget | None:
    """Return the target of the end of a piece of a course: the nearest of some ``pieces`` of a ``run`` that its fibres meet, if any.

    ``placed`` is the section on that course.
    """
    place, tangent, across, up = (
        (course.ends[index], course.tangents_end[index], course.rights_end[index], course.ups_end[index])
        if end
        else (course.starts[index], course.tangents[index], course.rights[index], course.ups[index])
    )
    outward = tangent if end else -tangent
    lying = placed if placed.constant else placed.at(float(course.begins[index] + course.lengths[index] / 2))
    points = lying.framed.flat().points
    frame = np.stack([across, up])
    fibres = place + points @ frame
    reach = float(np.abs(points).max())
    best: tuple[float, float, TargetPiece] | None = None
    for piece in _about(place, pieces, reach):
        look_up()
        toward = outward - piece.travel * float(outward @ piece.travel)
        size = float(np.linalg.norm(toward))
        if size < math.sin(math.radians(LEAST_MEETING)):
            continue
        side = crossed(piece.travel, toward / size)
        corners = piece.outline @ np.stack([piece.right, piece.up]) + piece.start
        heights, at = corners @ side, fibres @ side
        low, high = float(heights.min()), float(heights.max())
        meets = (at > low - WELD) & (at < high + WELD)
        # How far each goes until it is as far across as the beginning of what it meets.
        across, there = corners @ (toward / size), fibres @ (toward / size)
        ways = (float(across.min()) - there) / size
        gaps = np.maximum(float(across.min()) - there, there - float(across.max()))
        along = (fibres + np.outer(ways, outward) - piece.start) @ piece.travel
        meets &= (along > -piece.reach) & (along < piece.length + piece.reach) & (gaps < _NEAR * piece.reach)
        if meets.any():
            first = int(np.argmin(np.where(meets, np.abs(ways), np.inf)))
            # Of chords of one piece, which overlap by its section, that is meant on which the fibre comes.
            off = max(0.0, -float(along[first]), float(along[first]) - piece.length)
            far = abs(float(ways[first])) + off
            if best is None or far < best[0] - WELD:
                best = far, float(along[first]), piece
    if best is None:
        return None
    _, where, piece = best
    begin = float(course.begins[index] + (course.lengths[index] if end else 0.0))
    return piece.met(run.id, begin, reach, where, place + lying.centroid @ frame, outward)


def _about(place: Array, pieces: Sequence[TargetPiece], reach: float) -> list[TargetPiece]:
    """Return the pieces that are so near to a place that an end there, of a section of a given reach, may meet them."""
    if not pieces:
        return []
    starts = np.stack([piece.start for piece in pieces])
    ways = np.stack([piece.travel * piece.length for piece in pieces])
    reaches = np.array([piece.reach for piece in pieces])
    # Where they meet at the least angle a fibre goes this much further along than across.
    far = (1 + (1 + 2 * _NEAR) / math.sin(math.radians(LEAST_MEETING))) * (reaches + reach)
    return [pieces[k] for k in np.flatnonzero(stray(place, starts, starts + ways) <= far).tolist()]


def _crossed(path: Path, here: float, middle: Array, outward: Array) -> float:
    """Return where along a piece that bends a fibre through ``middle`` comes across its line, looked for from ``here``; there where it
    does so too far off."""
    found = here
    for _ in range(_STEPS):
        spot = path.at(np.array([found]))
        travel = spot.tangents[0]
        toward = outward - travel * float(outward @ travel)
        size = float(toward @ toward)
        if size < math.sin(math.radians(_ALONG)) ** 2:
            return here
        fibre = middle + outward * (float((spot.points[0] - middle) @ toward) / size)
        step = float((fibre - spot.points[0]) @ travel)
        found += step
        if abs(step) < SAME_PLACE:
            break
    return found if path.ring or 0.0 <= found <= path.length else here


def _stretches(path: Path, here: float, far: float, outward: Array) -> tuple[BentStretch, ...]:
    """Return a stretch of a piece that bends, ``far`` mm each way from ``here`` along it or less; None where it is straight there.

    It ends where it has turned away, or runs parallel to the end, ``outward``.
    """
    ends = []
    for sense in (-1.0, 1.0):
        steps = np.linspace(0.0, far, _LOOKS + 1)
        tangents = path.at(here + sense * steps).tangents
        sizes = np.linalg.norm(outward - (tangents @ outward)[:, None] * tangents, axis=1)
        whole = (tangents @ tangents[0] >= math.cos(math.radians(_MOST_TURN))) & (sizes >= math.sin(math.radians(_ALONG)))
        count = len(steps) if whole.all() else max(2, int(np.argmin(whole)))
        ends.append(here + sense * float(steps[count - 1]))
    low, high = ends
    # Where its spans meet; in a ring also those that come round again.
    turns = np.array([-1, 0, 1] if path.ring else [0])
    breaks = np.unique((path.bounds() + turns[:, None] * path.whole_length).round(9))
    breaks = breaks[(breaks > low + WELD) & (breaks < high - WELD)]
    parts = np.concatenate([[low], breaks[np.diff(breaks, prepend=low) > WELD], [high]])
    found: list[BentStretch] = []
    bends = False
    for begin, last in pairwise(parts.tolist()):
        inside = path.at(begin + (last - begin) * np.array([0.25, 0.5, 0.75]))
        straight = not inside.bends.any() and not inside.twists.any()
        bends |= not straight
        found.extend(_described(path, begin, last, 2 if straight else _PLACES))
    return tuple(found) if bends else ()


def _described(path: Path, low: float, high: float, count: int, halvings: int = _HALVINGS) -> Iterator[BentStretch]:
    """Return a stretch of a path, between two distances on it, described at ``count`` places; in halves where that is too coarse."""
    look_up()
    # Chebyshev's places: what is smooth is known between them as well as at them.
    shares = (1 - np.cos(np.pi * np.arange(count) / (count - 1))) / 2
    here = path.at(low + shares * (high - low))
    arrays = (here.points, here.rights, here.ups)
    places, rights, ups = (tuple(tuple((row + 0.0).tolist()) for row in one.round(9)) for one in arrays)
    stretch = BentStretch(shares=tuple(shares.tolist()), places=places, rights=rights, ups=ups)
    between = (shares[1:] + shares[:-1]) / 2
    true = path.at(low + between * (high - low))
    off = max(float(np.abs(a - b).max()) for a, b in zip(stretch.at(between), (true.points, true.rights, true.ups), strict=True))
    if off > SAME_DRAWN and halvings:
        middle = (low + high) / 2
        yield from _described(path, low, middle, count, halvings - 1)
        yield from _described(path, middle, high, count, halvings - 1)
    else:
        yield stretch

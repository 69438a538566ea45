"""The pieces of a run as they are cut: their planes and surfaces, fibres, lengths and saw settings."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Flags, Indices, Result
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import ROUNDING, SAME_SHARE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths, fibres_meet
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface
from slow_ribbon.core.runs.end_surfaces.quadrature import MOST_PLACES, summed
from slow_ribbon.core.runs.pieces.apply_end_treatments import Finishing
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.raked_sections import sorted_leans
from slow_ribbon.core.runs.treatments.joints import Joints
from slow_ribbon.core.sections.outline.triangulation import FlatShape

#: Where an end bends everywhere a section is divided into triangles: of sides no longer than such a share of it, nor, where the end steps,
#: shorter than this many times as finely as it is drawn.
_SIDES: Final = 16
_LEAST_SIDE: Final = 5.0
#: A section is parted at no more places than this where pieces are cut slanting in a bend.
_MOST_LEVELS: Final = 64
#: Of no more fibres than this it is remembered where they begin and end.
_FEW_POINTS: Final = 64
#: So many fibres at most are summed for a volume where one costs more.
_FEW_FIBRES: Final = 8_000


@dataclass(frozen=True)
class Cuts(Result):
    """A run cut into m pieces; all arrays have a row for each piece, in order of travel. Frames and slopes are those at each cut.

    planes_begin, planes_end (m, 3): unit normals of the cuts, with a positive part along travel.
    slopes_begin, slopes_end (m, 2). long_points, short_points, line_lengths (m,), mm.
    mismatches (m,): at the corner where each piece begins, mm. square_begin (m,): where the
    line goes back on itself, or a mitre would run round a bend, so that it has no plane. butted_begin (m,): where a piece and the one
    before it end in faces of their own. offsets_begin, offsets_end (m,): see ``ends``. shaped: the ends that are
    no planes, by their piece and whether it is its end; the planes of these are those that are sawn first. refused: why a corner is
    made otherwise than it is meant, by the piece that begins there. joints: what pieces that meet along a leg are jointed by. finishing:
    how free ends are made, where they are not plainly square. leans (m, 2, 2): how the section leans on each piece (``raking``), where it
    is not as drawn on all; the frames of ``course`` lean with it, so that section points are the same ones on all pieces, and those of
    ``plain`` are square.
    """

    course: Course
    plain: Course
    placed: Placed
    planes_begin: Array
    planes_end: Array
    offsets_begin: Array
    offsets_end: Array
    slopes_begin: Array
    slopes_end: Array
    long_points: Array
    short_points: Array
    mismatches: Array
    square_begin: Flags
    butted_begin: Flags
    shaped: Mapping[tuple[int, bool], EndSurface] = field(default_factory=dict)
    refused: Mapping[int, str] = field(default_factory=dict)
    joints: Joints | None = None
    finishing: Finishing | None = None
    leans: Array | None = None
    #: The section as it is drawn, by how finely, and where few fibres end: worked out when asked for, the same whatever the lengths.
    _fitted: dict[tuple[float, float], FlatShape] = field(default_factory=dict, repr=False, compare=False)
    _path_ends: dict[tuple[int, bool, bytes], Array] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def sorts(self) -> Indices:
        """The sort of each piece, (m,): zero where it is of the section as it is drawn, however it is turned."""
        if self.leans is None:
            return np.zeros(self.course.count, dtype=np.int64)
        square = np.abs(np.swapaxes(self.leans, 1, 2) @ self.leans - np.eye(2)).max(axis=(1, 2)) < SAME_SHARE
        return sorted_leans(np.where(square[:, None, None], np.eye(2), self.leans))[0]

    @cached_property
    def seconds(self) -> tuple[Placed, ...]:
        """The second sections that pieces are of as they lie, those of the sorts from 1 on."""
        sorts = self.sorts.tolist()
        return tuple(self.lying(sorts.index(sort)) for sort in range(1, max(sorts) + 1))

    @cached_property
    def straight(self) -> Indices:
        """The pieces that do not bend."""
        return np.array([i for i in range(self.course.count) if i not in self.course.paths], dtype=np.int64)

    def with_square_joints(self) -> Cuts:
        """Return the same pieces cut square where they are jointed."""
        begin = np.flatnonzero(self.jointed)
        end = (begin - 1) % self.course.count
        planes_begin, planes_end = self.planes_begin.copy(), self.planes_end.copy()
        planes_begin[begin], planes_end[end] = self.course.tangents[begin], self.course.tangents_end[end]
        slopes_begin, slopes_end, offsets_begin, offsets_end = (
            one.copy() for one in (self.slopes_begin, self.slopes_end, self.offsets_begin, self.offsets_end)
        )
        for at, slopes, offsets in ((begin, slopes_begin, offsets_begin), (end, slopes_end, offsets_end)):
            slopes[at], offsets[at] = 0.0, 0.0
        return replace(
            self,
            planes_begin=planes_begin,
            planes_end=planes_end,
            slopes_begin=slopes_begin,
            slopes_end=slopes_end,
            offsets_begin=offsets_begin,
            offsets_end=offsets_end,
            _fitted={},
            _path_ends={},
        )

    def lean(self, index: int) -> Array:
        """Return how the section leans on a piece, (2, 2)."""
        return np.eye(2) if self.leans is None else np.asarray(self.leans[index])

    def lying(self, index: int) -> Placed:
        """Return the section that a piece is of as it lies on it, in the square frame of ``plain``."""
        return self.on(index) if self.leans is None else self.on(index).leaned(self.leans[index])

    def laid_alike(self) -> list[tuple[Placed, Indices]]:
        """Return the section as it lies on pieces, in their square frames, each with those on which it lies so."""
        every = np.arange(self.course.count)
        if self.leans is None and self.placed.constant:
            return [(self.placed, every)]
        found: dict[int, tuple[Placed, list[int]]] = {}
        for i in every.tolist():
            lying = self.lying(i)
            found.setdefault(id(lying) if self.placed.constant else i, (lying, []))[1].append(i)
        return [(lying, np.array(pieces)) for lying, pieces in found.values()]

    def own(self, index: int, points: Array) -> Array:
        """Return the section points of the frames of ``course`` that lie at points (k, 2) of a piece's square frame."""
        return points if self.leans is None else np.asarray(np.linalg.solve(self.leans[index], points.T).T)

    @cached_property
    def returns(self) -> Flags:
        """Return which pieces are the small ones that a run is returned by, (m,)."""
        return np.zeros(self.course.count, dtype=bool) if self.finishing is None else self.finishing.returns

    @cached_property
    def jointed(self) -> Flags:
        """Return which pieces begin at a joint, (m,)."""
        course = self.course
        return np.asarray((course.turns == 0) & ~course.free & (self.joints is not None))

    @cached_property
    def added(self) -> Array:
        """How much longer than they are drawn pieces are sawn at their beginning and their end, (m, 2), mm: for joints that overlap."""
        found = np.zeros((self.course.count, 2))
        if self.joints is not None and not self.joints.leans:
            found[np.roll(self.jointed, -1), 1], found[self.jointed, 0] = self.joints.added(0.0)
        return found

    def flat(self, chord_height: float = CHORD_HEIGHT, within: float | None = None) -> FlatShape:
        """Return the section flattened for drawing, finely enough for the ends that are shaped.

        Those that bend everywhere are drawn ``within`` this much, mm: the chord height unless it is said.
        """
        if not any(surface.curved for surface in self.shaped.values()):
            return self._levelled(chord_height)
        within = chord_height if within is None else within
        if (chord_height, within) not in self._fitted:
            # Each surface looked at on one of the pieces that end in it.
            pieces = {surface: index for (index, _), surface in self.shaped.items() if surface.curved}
            flat = self._levelled(chord_height)
            for surface, index in pieces.items():
                look_up()
                reach = partial(self._reach_of, surface, self.on(index))
                flat = flat.fitted(reach, within, _LEAST_SIDE * within, self._usual_side())
            self._fitted[chord_height, within] = flat
        return self._fitted[chord_height, within]

    @staticmethod
    def _reach_of(surface: EndSurface, placed: Placed, points: Array) -> Array:
        return surface.reach(placed.points(points))

    def _levelled(self, chord_height: float) -> FlatShape:
        """Return the section flattened with points where the ends that are shaped bend."""
        flat = self.placed.shape.flat(chord_height)
        ways: list[tuple[Array, list[Array]]] = []
        bends = [surface.bends(chord_height) for surface in set(self.shaped.values()) if not surface.curved]
        for way, levels in [*(found for found in bends if found is not None), *self._slanting(chord_height)]:
            same = next((known for known in ways if abs(float(way @ known[0])) > 1 - ROUNDING), None)
            if same is None:
                ways.append((way, [levels]))
            else:
                same[1].append(levels * np.sign(way @ same[0]))
        if not ways:
            return flat
        cuts = []
        for way, found in ways:
            # In the section's own axes.
            x, y = (way @ self.placed.matrix).tolist()
            size = math.hypot(x, y)
            heights = np.unique((np.concatenate(found) - self.placed.shift @ way) / size)
            cuts.append((x / size, y / size, tuple(heights[np.append(True, np.diff(heights) > ROUNDING)].tolist() if len(heights) else ())))
        return self.placed.shape.levelled(chord_height, tuple(cuts))

    def _slanting(self, chord_height: float) -> Iterator[tuple[Array, Array]]:
        """Yield directions (2,) with the places along them where the section is parted for pieces that bend where they are cut slanting.

        Fibres end further along there the further out they lie, and between two of them a face bends away from what is drawn.
        """
        for i, path in self.course.paths.items():
            for end, slope in ((False, self.slopes_begin[i]), (True, self.slopes_end[i])):
                if self.ends_straight(i, end) or (i, end) in self.shaped:
                    continue
                sharpest, steep = float(np.hypot(*path.bending[0].T).max(initial=0.0)), float(np.hypot(*slope))
                if not sharpest or not steep:
                    continue
                # The same wherever the run stands: what is left in rounding must not move the places.
                way = (slope / steep).round(6)
                most, least = (self.on(i).furthest(np.array([way, -way])) * (1, -1)).tolist()
                # A chord of length c is c²/8R away from the curve.
                step = round(max(math.sqrt(8 * chord_height / sharpest) / steep, (most - least) / _MOST_LEVELS), 2) + WELD
                yield way, step * np.arange(math.ceil(least / step), math.floor(most / step) + 1)

    def on(self, index: int) -> Placed:
        """Return the section as it is placed on a piece, in the frames of ``course``: in the middle of it."""
        return section_on(self.course, self.placed, index)

    @cached_property
    def line_lengths(self) -> Array:
        """The length of each piece on the line, (m,), mm: to its joints, however long these are."""
        # To joints, and to ends that pass through the line's own.
        at = [self.jointed.copy(), np.roll(self.jointed, -1)]
        for (index, side), surface in self.shaped.items():
            if surface.at_line:
                at[side][index] = True
        begin, end = np.where(at[0], 0.0, self.offsets_begin), np.where(at[1], 0.0, self.offsets_end)
        return np.asarray(self.course.lengths + end - begin)

    def fibres(self, points: Array, pieces: Indices | None = None) -> tuple[Array, Array]:
        """Return where fibres begin and end along their piece, (m, k) each, for section points (k, 2) in the line's frame.

        Those of all pieces, or of some ``pieces`` (m,).
        """
        some = np.arange(self.course.count) if pieces is None else pieces
        begin = self.offsets_begin[some, None] + self.slopes_begin[some] @ points.T
        end = (self.course.lengths + self.offsets_end)[some, None] + self.slopes_end[some] @ points.T
        others = {*self.course.paths, *(index for index, _ in self.shaped)}
        for row, piece in enumerate(some.tolist()):
            if piece in others:
                begin[row], end[row] = self.piece_fibres(piece, points)
        return begin, end

    def piece_fibres(self, index: int, points: Array) -> tuple[Array, Array]:
        """Return where fibres of one piece begin and end along it, (k,) each, for section points (k, 2) in the line's frame."""
        if index in self.course.paths:
            return self.path_fibres(index, points)
        first, last = (self.shaped.get((index, end)) for end in (False, True))
        begin = self.offsets_begin[index] + points @ self.slopes_begin[index] if first is None else first.reach(points)
        end = self.offsets_end[index] + points @ self.slopes_end[index] if last is None else last.reach(points)
        return begin, self.course.lengths[index] + end

    def beyond(self) -> tuple[Array, Array]:
        """Return how far before its line each piece's first fibre begins, and how far beyond it its last one ends, (m,) each, mm."""
        flat = self.flat()
        begin, end = self.fibres(self.placed.points(flat.points[: flat.rim]))
        return -begin.min(axis=1), (end - self.course.lengths[:, None]).max(axis=1)

    def path_fibres(self, index: int, points: Array) -> tuple[Array, Array]:
        """Return where fibres of a piece that bends begin and end along it, (k,) each: where they meet its cutting planes."""
        return self.path_end(index, points, False), self.path_end(index, points, True)

    def path_end(self, index: int, points: Array, end: bool) -> Array:
        """Return where fibres of a piece that bends begin or end; of few, which are asked for again and again, it is remembered."""
        if len(points) > _FEW_POINTS:
            return self._found_path_end(index, points, end)
        key = index, end, points.tobytes()
        if key not in self._path_ends:
            self._path_ends[key] = found = self._found_path_end(index, points, end)
            found.setflags(write=False)
        return self._path_ends[key]

    def _found_path_end(self, index: int, points: Array, end: bool) -> Array:
        course, path = self.course, self.course.paths[index]
        if (surface := self.shaped.get((index, end))) is not None:
            return (path.length if end else 0.0) + surface.reach(points)
        places, offsets, planes, slopes, tangents = (
            (course.ends, self.offsets_end, self.planes_end, self.slopes_end, course.tangents_end)
            if end
            else (course.starts, self.offsets_begin, self.planes_begin, self.slopes_begin, course.tangents)
        )
        place = places[index] + tangents[index] * offsets[index]
        return fibres_meet(path, end, float(offsets[index]), place, planes[index], points, slopes[index])

    def ends_straight(self, index: int, end: bool) -> bool:
        """Return whether all fibres of a piece meet its cut, at the beginning or the end, in a straight or square to it."""
        path = self.course.paths.get(index)
        if (index, end) in self.shaped:
            return True
        slope = (self.slopes_end if end else self.slopes_begin)[index]
        offset = -self.offsets_end[index] if end else self.offsets_begin[index]
        if path is None or not (slope.any() or offset):
            return True
        straight = path.straights[end]
        return straight > 0 and float(self.on(index).furthest((-slope if end else slope)[None])[0]) + offset <= straight

    def images(self, index: int, points: Array, end: bool) -> Array:
        """Return section points (k, 2) carried along a piece onto its cut at the beginning or the end, (k, 3)."""
        course = self.course
        path = course.paths.get(index)
        if path is not None:
            here = path.at(self.path_end(index, points, end))
            return here.points + here.rights * points[:, :1] + here.ups * points[:, 1:]
        place, slopes, offsets = (
            (course.ends, self.slopes_end, self.offsets_end) if end else (course.starts, self.slopes_begin, self.offsets_begin)
        )
        across = points @ np.stack([course.rights[index], course.ups[index]])
        surface = self.shaped.get((index, end))
        along = offsets[index] + points @ slopes[index] if surface is None else surface.reach(points)
        return np.asarray(place[index] + across + np.outer(along, course.tangents[index]))

    @cached_property
    def volumes(self) -> Array:
        """Volume of each piece, (m,) in mm³, as ``volumes_of``."""
        return self.volumes_of(np.arange(self.course.count))

    def volumes_of(self, pieces: Indices) -> Array:
        """Return the volumes of some pieces, (k,) in mm³: area × the fibre at the centroid.

        Exact for a prism cut by planes and for a bent piece with square ends (Pappus–Guldin); for
        a bent piece that ends in mitres, and for ends that are no planes, the fibres are summed over the section.
        """
        shaped = {index for index, _ in self.shaped}
        found = np.zeros(len(pieces))
        plain = np.array([self.placed.constant and i not in self.course.paths and i not in shaped for i in pieces.tolist()], dtype=bool)
        if plain.any():
            begin, end = self.fibres(self.placed.centroid[None], pieces[plain])
            found[plain] = self.placed.shape.area * (end - begin)[:, 0]
        for row in np.flatnonzero(~plain).tolist():
            i = int(pieces[row])
            path = self.course.paths.get(i)
            if i in shaped or (path is not None and (self.slopes_begin[i].any() or self.slopes_end[i].any())):
                found[row] = self._summed_volume(i, path)
                continue
            on = self.on(i)
            begin, end = self.piece_fibres(i, on.centroid[None])
            lengths = end - begin if path is None else fibre_lengths(path, on.centroid[None], begin, end, np.zeros(1))
            found[row] = on.shape.area * lengths[0]
        return found if self.leans is None else np.asarray(found * np.abs(np.linalg.det(self.leans[pieces])))

    def _summed_volume(self, index: int, path: Path | None) -> float:
        """Return the volume of a piece whose fibres are not given by the one at the centroid: all of them summed over the section."""
        on = self.on(index)

        def lengths(points: Array) -> Array:
            begin, end = self.piece_fibres(index, points)
            return end - begin if path is None else fibre_lengths(path, points, begin, end, np.zeros(len(points)))

        def over(flat: FlatShape, most: int = MOST_PLACES, side: float = math.inf) -> tuple[float, bool]:
            return summed(lengths, on.points(flat.points)[flat.triangles], most, side)

        if not self.placed.constant:
            return over(on.shape.flat(0.02))[0]
        if any(surface.curved for (piece, _), surface in self.shaped.items() if piece == index):
            # What bends smoothly everywhere is resolved by few of them.
            volume, settled = over(self._levelled(0.02), _FEW_FIBRES, self._usual_side())
            return volume if settled else over(self.flat(0.02, CHORD_HEIGHT), _FEW_FIBRES)[0]
        # No triangle lies across a place where an end that is shaped bends.
        return over(self.flat(0.02))[0]

    def _usual_side(self) -> float:
        """The length, mm, of the sides of triangles into which a section is divided where an end bends everywhere and not sharply."""
        left, low, right, high = self.placed.shape.box
        return math.hypot(right - left, high - low) / _SIDES

    def open_begin(self) -> Flags:
        """Tell for each piece whether its beginning meets nothing, so that its end face shows."""
        return np.asarray(self.square_begin | self.course.free | self.butted_begin | (self.mismatches > WELD))


def section_on(course: Course, placed: Placed, index: int) -> Placed:
    """Return the section as it is placed on a piece of a course: in the middle of it."""
    return placed if placed.constant else placed.at(float(course.begins[index] + course.lengths[index] / 2))

"""How a run is cut into pieces: cutting planes, fibres, long and short points, saw settings.

Terms
-----
cut
    the plane that ends a piece: the mitre plane of a corner, or square to the piece.
fibre
    a straight through the piece along travel, at one point of its section.
slope
    how a cut leans: the fibre at section point p begins (or ends) slope·p further along
    than the fibre on the line. Sections and slopes are in the line's (right, up) frame.
mismatch
    the greatest distance by which the sections of two pieces miss each other on their mitre.

Formulas are those of sections 4 and 5 of the geometry notes.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property, partial
from typing import Any, Final, Literal

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Flags, Indices
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN, NO_LENGTH, ROUNDING
from slow_ribbon.core.lines.alignment import FOLD, Course
from slow_ribbon.core.runs.corners import Meetings, Mitre, Treatment
from slow_ribbon.core.runs.ends import EndSurface, slopes_of
from slow_ribbon.core.runs.joints import Joints
from slow_ribbon.core.runs.model import Placed
from slow_ribbon.core.sections.flat import Flat
from slow_ribbon.core.sections.profile import Shape

#: Sections that miss each other by less than this, mm, meet.
MEETS: Final = 1e-3
#: A corner that turns more than this, in radians, makes a needle mitre.
NEEDLE: Final = math.radians(150)
_HALVINGS: Final = 6
#: How often a section is made finer where an end of a piece is shaped.
_FINER: Final = 3
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)

Kind = Literal["internal", "external", "rising", "falling", "end"]


@dataclass(frozen=True)
class Carried:
    """Section points carried along a piece, (r, k, 3): at each of r places from cut to cut, with the frame at each point."""

    points: Array
    rights: Array
    ups: Array
    tangents: Array


@dataclass(frozen=True)
class Cuts:
    """A run cut into m pieces; all arrays have a row for each piece, in order of travel. Frames and slopes are those at each cut.

    planes_begin, planes_end (m, 3): unit normals of the cuts, with a positive part along travel.
    slopes_begin, slopes_end (m, 2). long_points, short_points, line_lengths (m,), mm.
    mismatches (m,): at the corner where each piece begins, mm. square_begin (m,): where the
    line goes back on itself, or a mitre would run round a bend, so that there is none. butted_begin (m,): where a piece and the one
    before it end in faces of their own. offsets_begin, offsets_end (m,): see ``ends``. shaped: the ends that are
    no planes, by their piece and whether it is its end; the planes of these are those that are sawn first. refused: why a corner is
    made otherwise than it is meant, by the piece that begins there. joints: what pieces that meet along a leg are jointed by.
    """

    course: Course
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

    @property
    def jointed(self) -> Flags:
        """Tell which pieces begin at a joint, (m,)."""
        course = self.course
        return np.asarray((course.turns == 0) & ~course.free & (self.joints is not None))

    @cached_property
    def added(self) -> Array:
        """How much longer than they are drawn pieces are sawn at their beginning and their end, (m, 2), mm: for joints that overlap."""
        found = np.zeros((self.course.count, 2))
        if self.joints is not None and self.joints.kind != "scarf":
            found[np.roll(self.jointed, -1), 1], found[self.jointed, 0] = self.joints.added(0.0)
        return found

    def flat(self, chord_height: float = CHORD_HEIGHT) -> Flat:
        """Return the section flattened for drawing, finely enough for the ends that are shaped."""
        flat = self.placed.shape.flat(chord_height)
        bends = [surface.heights(chord_height) for surface in set(self.shaped.values())]
        known = [heights for heights in bends if heights is not None]
        if known and len(known) == len(bends):
            x, y = self.placed.matrix[1].tolist()
            heights = np.unique(np.concatenate(known) - self.placed.shift[1])
            return self.placed.shape.levelled(chord_height, (x, y), tuple(heights[np.append(True, np.diff(heights) > ROUNDING)].tolist()))
        for _ in range(_FINER if self.shaped else 0):
            flat = flat.finer()
        return flat

    def on(self, index: int) -> Placed:
        """Return the section as it is placed on a piece: in the middle of it."""
        return _on(self.course, self.placed, index)

    @property
    def line_lengths(self) -> Array:
        """The length of each piece on the line, (m,), mm: to its joints, however long these are."""
        at_joint = self.jointed
        begin, end = np.where(at_joint, 0.0, self.offsets_begin), np.where(np.roll(at_joint, -1), 0.0, self.offsets_end)
        return np.asarray(self.course.lengths + end - begin)

    def fibres(self, points: Array) -> tuple[Array, Array]:
        """Return where fibres begin and end along their piece: (m, k) each, for section points (k, 2) in the line's frame."""
        begin = self.offsets_begin[:, None] + self.slopes_begin @ points.T
        end = (self.course.lengths + self.offsets_end)[:, None] + self.slopes_end @ points.T
        for i in {*self.course.paths, *(index for index, _ in self.shaped)}:
            begin[i], end[i] = self.piece_fibres(i, points)
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
        return self._path_end(index, points, False), self._path_end(index, points, True)

    def _path_end(self, index: int, points: Array, end: bool) -> Array:
        course, path = self.course, self.course.paths[index]
        if (surface := self.shaped.get((index, end))) is not None:
            return (path.length if end else 0.0) + surface.reach(points)
        places, offsets, planes, slopes, tangents = (
            (course.ends, self.offsets_end, self.planes_end, self.slopes_end, course.tangents_end)
            if end
            else (course.starts, self.offsets_begin, self.planes_begin, self.slopes_begin, course.tangents)
        )
        place = places[index] + tangents[index] * offsets[index]
        return _meets(path, end, float(offsets[index]), place, planes[index], points, slopes[index])

    def ends_straight(self, index: int, end: bool) -> bool:
        """Tell whether all fibres of a piece meet its cut, at the beginning or the end, in a straight or square to it."""
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
            here = path.at(self._path_end(index, points, end))
            return here.points + here.rights * points[:, :1] + here.ups * points[:, 1:]
        place, slopes, offsets = (
            (course.ends, self.slopes_end, self.offsets_end) if end else (course.starts, self.slopes_begin, self.offsets_begin)
        )
        across = points @ np.stack([course.rights[index], course.ups[index]])
        surface = self.shaped.get((index, end))
        along = offsets[index] + points @ slopes[index] if surface is None else surface.reach(points)
        return np.asarray(place[index] + across + np.outer(along, course.tangents[index]))

    def carried(self, index: int, points: Array, shares: Array | None = None) -> Carried:
        """Return section points (k, 2) carried along a piece that bends, from cut to cut, at shares of it from 0 to 1 or its ``chords``.

        Where all of them meet the cuts in straights, only what lies in the cuts leans. Else every
        fibre is divided in these shares, so that it leans the less the further it is from a cut.
        """
        path = self.course.paths[index]
        begin, end = self.path_fibres(index, points)
        first, last = path.straights
        square, square_end = not begin.any(), bool((end == path.length).all())
        if (square or 0 < first >= begin.max()) and (square_end or 0 < last >= path.length - end.min()):
            here = path.at_chords if shares is None else path.at(shares * path.length)
            look_up(3 * len(points) * len(here.points))
            found = here.points[:, None] + here.rights[:, None] * points[:, :1] + here.ups[:, None] * points[:, 1:]
            found[0] += np.outer(begin, here.tangents[0])
            found[-1] += np.outer(end - path.length, here.tangents[-1])
            rights, ups, tangents = (np.broadcast_to(one[:, None], found.shape) for one in (here.rights, here.ups, here.tangents))
            return Carried(found, rights, ups, tangents)
        places = begin + np.outer(path.chords if shares is None else shares, end - begin)
        here = path.at(places.ravel())
        shape = (*places.shape, 3)
        rights, ups, tangents = (one.reshape(shape) for one in (here.rights, here.ups, here.tangents))
        return Carried(here.points.reshape(shape) + rights * points[:, :1] + ups * points[:, 1:], rights, ups, tangents)

    @cached_property
    def volumes(self) -> Array:
        """Volume of each piece in mm³: area × the fibre at the centroid.

        Exact for a prism cut by planes and for a bent piece with square ends (Pappus–Guldin); for
        a bent piece that ends in mitres the fibres are summed over the section.
        """
        begin, end = self.fibres(self.placed.centroid[None])
        lengths = (end - begin)[:, 0]
        volumes = np.asarray(self.placed.shape.area * lengths)
        for i in [] if self.placed.constant else range(self.course.count):
            on = self.on(i)
            (begin[i],), (end[i],) = (one[i] for one in self.fibres(on.centroid[None]))
            volumes[i] = on.shape.area * float((end - begin)[i, 0])
        for i, path in self.course.paths.items():
            if self.slopes_begin[i].any() or self.slopes_end[i].any():
                volumes[i] = self._summed_volume(i, path)
            else:
                on = self.on(i)
                volumes[i] = on.shape.area * fibre_lengths(path, on.centroid[None], begin[i], end[i], swept=True)[0]
        for i in {index for index, _ in self.shaped}:
            volumes[i] = self._summed_volume(i, self.course.paths.get(i))
        return volumes

    def _summed_volume(self, index: int, path: Path | None) -> float:
        """Return the volume of a piece whose fibres are not told by the one at the centroid: all of them summed over the section.

        Midpoints of triangle edges integrate what is quadratic in the section exactly; triangles are
        halved until that changes no more, for at a sharp mitre fibres are anything but quadratic.
        """
        on = self.on(index)
        flat = on.shape.flat(0.02)
        corners = on.points(flat.points)[flat.triangles]
        volume = math.nan
        for _ in range(_HALVINGS):
            sides = corners[:, 1:] - corners[:, :1]
            areas = np.abs(sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0]) / 2
            middles = (corners + np.roll(corners, -1, axis=1)) / 2
            points = middles.reshape(-1, 2)
            begin, end = self.piece_fibres(index, points)
            lengths = (end - begin if path is None else fibre_lengths(path, points, begin, end, swept=True)).reshape(-1, 3)
            before, volume = volume, float(areas @ lengths.mean(axis=1))
            if abs(volume - before) <= 1e-7 * abs(volume):
                break
            ends = [np.stack([corners[:, i], middles[:, i], middles[:, i - 1]], axis=1) for i in range(3)]
            corners = np.concatenate([*ends, middles])
        return volume

    def unreached(self) -> Flags:
        """Tell for each piece whether the cut at its beginning is none because fibres of a bend beside it do not come to it, (m,).

        A piece is sawn longer than its line as the bend goes on: at a sharp corner its point may
        come round, or meet the cut from the far side, and what is between is no piece.
        """
        found = np.zeros(self.course.count, dtype=bool)
        for i in np.flatnonzero(~(self.square_begin | self.course.free)).tolist():
            for piece, end in ((i, False), ((i - 1) % self.course.count, True)):
                found[i] |= not self.ends_straight(piece, end) and not self._reaches(piece, end)
        return found

    def _reaches(self, index: int, end: bool) -> bool:
        """Tell whether all fibres of a piece that bends come to its cut, at the beginning or the end, from its own side."""
        course, path, on = self.course, self.course.paths[index], self.on(index)
        points = on.points(on.shape.flat().points)
        at = self._path_end(index, points, end)
        place, plane, offset = (
            (course.ends[index] + course.tangents_end[index] * self.offsets_end[index], self.planes_end[index], path.length)
            if end
            else (course.starts[index] + course.tangents[index] * self.offsets_begin[index], self.planes_begin[index], 0.0)
        )
        here = path.at(at)
        off = (here.points + here.rights * points[:, :1] + here.ups * points[:, 1:] - place) @ plane
        beyond = float((at - offset).max(initial=0.0) if end else (offset - at).max(initial=0.0))
        bend = float(np.linalg.norm(path.at(np.array([offset])).bends[0]))
        comes = np.abs(off).max(initial=0.0) < MEETS and (here.tangents @ plane).min(initial=1.0) > math.cos(FOLD / 2)
        return bool(comes and beyond * bend < math.pi / 2)

    def open_begin(self) -> Flags:
        """Tell for each piece whether its beginning meets nothing, so that its end face shows."""
        return np.asarray(self.square_begin | self.course.free | self.butted_begin | (self.mismatches > MEETS))

    def saw_settings(self, up: Array) -> tuple[Array, Array]:
        """Return mitre and bevel in degrees, (m, 2) each (begin, end), for the bed's ``up`` (2,) in the section.

        μ = atan2(m·c, m·t) turns the table, β = asin(m·up) tilts the blade, with m the cut's normal
        and c = up × t to the left of travel on the table. A positive mitre puts the left edge of
        the cut further back along travel than the right; a positive bevel the upper edge further
        back than the lower.
        """
        turned = self.placed.matrix @ up
        course = self.course
        mitres, bevels = [], []
        for plane, right, above, tangent in (
            (self.planes_begin, course.rights, course.ups, course.tangents),
            (self.planes_end, course.rights_end, course.ups_end, course.tangents_end),
        ):
            out = right * turned[0] + above * turned[1]
            across = np.cross(out, tangent)
            along = np.einsum("ij,ij->i", plane, tangent)
            mitres.append(np.degrees(np.arctan2(np.einsum("ij,ij->i", plane, across), along)))
            bevels.append(np.degrees(np.arcsin(np.clip(np.einsum("ij,ij->i", plane, out), -1, 1))))
        # No "-0.0" on a cutting list.
        return np.stack(mitres, axis=1).round(12) + 0.0, np.stack(bevels, axis=1).round(12) + 0.0


def cut(
    course: Course, placed: Placed, corners: Treatment | None = None, external: Treatment | None = None, joints: Joints | None = None
) -> Cuts:
    """Return a run's pieces: corners made as a treatment says, mitred where none is given; free ends cut square.

    ``external`` is how those that turn away from the face on plan are made, where otherwise; ``joints`` what the pieces have where they
    meet along a leg.
    """
    corners = corners or Mitre()
    ways = corners, external or corners
    folded = course.turns > FOLD
    cuts = _cut(course, placed, ways, folded, joints)
    unreached = cuts.unreached() if course.paths else folded
    return _cut(course, placed, ways, folded | unreached, joints) if (unreached & ~folded).any() else cuts


def _cut(course: Course, placed: Placed, ways: tuple[Treatment, Treatment], folded: Flags, joints: Joints | None) -> Cuts:
    """Return a run's pieces as ``cut`` does, square where the line is ``folded``, (m,)."""
    tangents, count = course.tangents, course.count
    square = folded | course.free
    # Where pieces meet along a leg there is nothing to turn: both end square, or to one slope.
    meet = np.flatnonzero(~square & (course.turns > 0))
    before = (meet - 1) % count
    planes_begin, planes_end = tangents.copy(), course.tangents_end.copy()
    offsets_begin, offsets_end = np.zeros(count), np.zeros(count)
    apart = square.copy()
    shaped: dict[tuple[int, bool], EndSurface] = {}
    refused: dict[int, str] = {}
    if len(meet):
        begins_straight, ends_straight = np.ones(count, dtype=bool), np.ones(count, dtype=bool)
        for i, path in course.paths.items():
            begins_straight[i], ends_straight[i] = (length > 0 for length in path.straights)
        across, upward = _turned(course)
        level = (np.abs(across) >= NO_LEAN) | (np.abs(upward) < NO_LEAN)
        internal = level & (across * (1 if placed.right else -1) > 0)
        external = level & ~internal
        groups = [(ways[0], meet)] if ways[0] == ways[1] else [(ways[0], meet[~external[meet]]), (ways[1], meet[external[meet]])]
        for way, some in groups:
            before = (some - 1) % count
            ends = way.ends(
                Meetings(
                    rights_before=course.rights_end[before],
                    ups_before=course.ups_end[before],
                    tangents_before=course.tangents_end[before],
                    rights_after=course.rights[some],
                    ups_after=course.ups[some],
                    tangents_after=tangents[some],
                    turns=course.turns[some],
                    straight=begins_straight[some] & ends_straight[before],
                    internal=internal[some],
                    furthest_before=partial(_furthest, course, placed, before),
                    furthest_after=partial(_furthest, course, placed, some),
                    shape_before=partial(_framed, course, placed, before),
                    shape_after=partial(_framed, course, placed, some),
                )
            )
            planes_begin[some], offsets_begin[some] = ends.after.normals, ends.after.offsets
            planes_end[before], offsets_end[before] = ends.before.normals, ends.before.offsets
            apart[some] = ~ends.together
            shaped |= {(int(before[corner]), True): surface for corner, surface in ends.shaped_before.items()}
            shaped |= {(int(some[corner]), False): surface for corner, surface in ends.shaped_after.items()}
            refused |= {int(some[corner]): why for corner, why in ends.refused.items()}
    if joints is not None and joints.kind == "scarf":
        seams = np.flatnonzero(~square & (course.turns == 0))
        # It leans out of the saw's bed, across the thickness of the board; the same way whichever way the line runs.
        low, high = placed.thickness
        slope = -joints.slope if joints.from_end else joints.slope
        out = course.rights[seams] * placed.bed_up[0] + course.ups[seams] * placed.bed_up[1]
        planes_begin[seams] = planes_end[(seams - 1) % count] = (tangents[seams] - slope * out) / math.hypot(1, slope)
        offsets_begin[seams] = offsets_end[(seams - 1) % count] = -slope * (low + high) / 2
    slopes_begin = slopes_of(course.rights, course.ups, tangents, planes_begin)
    slopes_end = slopes_of(course.rights_end, course.ups_end, course.tangents_end, planes_end)
    slopes = slopes_end - slopes_begin
    lengths = course.lengths + offsets_end - offsets_begin
    every = np.arange(count)
    cuts = Cuts(
        course=course,
        placed=placed,
        planes_begin=planes_begin,
        planes_end=planes_end,
        offsets_begin=offsets_begin,
        offsets_end=offsets_end,
        slopes_begin=slopes_begin,
        slopes_end=slopes_end,
        long_points=lengths + _furthest(course, placed, every, slopes),
        short_points=lengths - _furthest(course, placed, every, -slopes),
        mismatches=_mismatches(course, placed, planes_begin, apart),
        square_begin=folded,
        butted_begin=apart & ~square,
        shaped=shaped,
        refused=refused,
        joints=joints,
    )
    if course.paths:
        _measure_paths(cuts, apart)
    _measure_shaped(cuts)
    for lengths in (cuts.long_points, cuts.short_points):
        lengths += cuts.added.sum(axis=1)
    if joints is not None and joints.kind == "scarf":
        # The slopes at both ends of a part may be parallel: it is sawn from as long a piece as it is from its first point to its last.
        scarfed = cuts.jointed | np.roll(cuts.jointed, -1)
        first, last = cuts.beyond()
        cuts.long_points[scarfed] = np.maximum(cuts.long_points, course.lengths + first + last)[scarfed]
    return cuts


def _measure_shaped(cuts: Cuts) -> None:
    """Put in the long and short points of pieces with ends that are no planes; those alike but for their length are asked once."""
    rim: Array | None = None
    known: dict[Any, tuple[float, float]] = {}
    for i in {index for index, _ in cuts.shaped}:
        look_up()
        length = float(cuts.course.lengths[i])
        ends = tuple(
            cuts.shaped.get((i, end)) or (float(offsets[i]), *slopes[i].round(9).tolist())
            for end, offsets, slopes in (
                (False, cuts.offsets_begin, cuts.slopes_begin),
                (True, cuts.offsets_end, cuts.slopes_end),
            )
        )
        if i in cuts.course.paths or not cuts.placed.constant or ends not in known:
            if rim is None:
                flat = cuts.flat()
                rim = flat.points[: flat.rim]
            # Where the surface bends between the ends of an edge, there are points of the rim.
            there = _fibre(cuts, i, rim)
            least, most = cuts.on(i).shape.extremes(partial(_fibre, cuts, i))
            known[ends] = min(least, float(there.min())) - length, max(most, float(there.max())) - length
        cuts.short_points[i], cuts.long_points[i] = (length + more for more in known[ends])


def _framed(course: Course, placed: Placed, pieces: Indices, index: int) -> Shape:
    """Return the section of one of some pieces in its (right, up) frame."""
    return _on(course, placed, int(pieces[index])).framed


def _turned(course: Course) -> tuple[Array, Array]:
    """Return how far the line turns to the right and how far up where each piece begins, (m,) each."""
    change = course.tangents - np.roll(course.tangents_end, 1, axis=0)
    rights = course.rights + np.roll(course.rights_end, 1, axis=0)
    ups = course.ups + np.roll(course.ups_end, 1, axis=0)
    return np.einsum("ij,ij->i", change, rights), np.einsum("ij,ij->i", change, ups)


def _on(course: Course, placed: Placed, index: int) -> Placed:
    return placed if placed.constant else placed.at(float(course.begins[index] + course.lengths[index] / 2))


def _furthest(course: Course, placed: Placed, pieces: Indices, slopes: Array) -> Array:
    """Return max slope·p over the section on each of k pieces, for a slope of each, (k, 2); shape (k,)."""
    if placed.constant:
        return placed.furthest(slopes)
    return np.array([_on(course, placed, i).furthest(slope[None])[0] for i, slope in zip(pieces.tolist(), slopes, strict=True)])


def _fibre(cuts: Cuts, index: int, points: Array) -> Array:
    """Return how long fibres of a piece are at the section's own points (k, 2), mm."""
    inside = cuts.on(index).points(points)
    begin, end = cuts.piece_fibres(index, inside)
    path = cuts.course.paths.get(index)
    return end - begin if path is None else fibre_lengths(path, inside, begin, end)


def _measure_paths(cuts: Cuts, square: Flags) -> None:
    """Put in the long and short points of pieces that bend, and the mismatches at their corners.

    Where all fibres meet a cut in the straight that a piece ends with, they do so as those of a straight piece.
    """
    course, placed = cuts.course, cuts.placed
    for i, path in course.paths.items():
        if path.turning is not None and cuts.ends_straight(i, False) and cuts.ends_straight(i, True):
            # So much longer is the fibre at p: more·p.
            more = cuts.slopes_end[i] - cuts.slopes_begin[i] - path.turning
            least, most = cuts.on(i).furthest(np.array([-more, more])).tolist()
            length = course.lengths[i] + cuts.offsets_end[i] - cuts.offsets_begin[i]
            cuts.short_points[i], cuts.long_points[i] = length - least, length + most
            continue

        if cuts.joints is not None and cuts.joints.kind == "scarf" and cuts.jointed[[i, (i + 1) % course.count]].any():
            # It is sawn from its first point to its last, which is looked for apart: points of the rim tell the rest nearly enough.
            flat = cuts.flat()
            lengths = _fibre(cuts, i, flat.points[: flat.rim])
            cuts.short_points[i], cuts.long_points[i] = lengths.min(), lengths.max()
            continue
        cuts.short_points[i], cuts.long_points[i] = cuts.on(i).shape.extremes(partial(_fibre, cuts, i))
    # Where a piece goes on as the one before it there is nothing that could miss.
    for i in np.flatnonzero(~square & (course.turns > 0)).tolist():
        before = (i - 1) % course.count
        if not (cuts.ends_straight(i, False) and cuts.ends_straight(before, True)):

            def apart(points: Array, i: int = i, before: int = before) -> Array:
                inside = placed.points(points)
                across = cuts.images(i, inside, end=False) - cuts.images(before, inside, end=True)
                return np.asarray(np.sqrt(np.einsum("ij,ij->i", across, across)))

            cuts.mismatches[i] = placed.shape.extremes(apart)[1]


def _meets(path: Path, at_end: bool, offset: float, place: Array, plane: Array, points: Array, slope: Array) -> Array:
    """Return the distances along a path, near an end of it, where fibres at section points (k, 2) meet a plane through ``place``."""
    found = np.full(len(points), path.length + offset if at_end else offset)
    if not slope.any():
        return found
    found += points @ slope
    begin, end = path.straights
    if (end > 0 and found.min(initial=path.length) >= path.length - end) if at_end else (begin > 0 and found.max(initial=0.0) <= begin):
        # Where the piece is straight that is where they meet.
        return found
    for _ in range(30):
        here = path.at(found)
        fibres = here.points + here.rights * points[:, :1] + here.ups * points[:, 1:]
        off = (fibres - place) @ plane
        if np.abs(off).max(initial=0.0) < NO_LENGTH:
            break
        along = 1 - np.einsum("ij,ij->i", here.bends, points)
        rate = here.tangents * along[:, None] + here.twists[:, None] * (here.ups * points[:, :1] - here.rights * points[:, 1:])
        down = rate @ plane
        # Where the section pinches a fibre stands still; small steps keep the search near the cut.
        found -= np.clip(off / np.where(np.abs(down) > 0.05, down, np.copysign(0.05, down)), -path.length, path.length)
    return found


def fibre_lengths(path: Path, points: Array, begin: Array, end: Array, swept: bool = False) -> Array:
    """Return the lengths of fibres at section points (k, 2) from distances ``begin`` to ``end`` (k,) along a path.

    A fibre at p runs (1 − bend·p) along and |p|·twist across for each mm of the line; where the
    section pinches it runs backward and counts so. ``swept`` leaves the part across out, which
    sweeps no volume. Quadrature as ``spans.quadrature``.
    """
    if path.turning is not None:
        total = path.length - points @ path.turning
    else:
        bends, twists, weights = path.bending
        look_up(len(points) * len(bends))
        along = 1 - points @ bends.T
        total = along @ weights if swept else _with_twist(along, twists**2, points) @ weights

    def over(low: Array, high: Array) -> Array:
        # Nodes crowd toward the end of the line, where a curve may bend without bound.
        shares = (1 + _NODES) / 2
        at = low[:, None] + (high - low)[:, None] * shares**2
        paces = _paces(path, at.ravel(), np.repeat(points, len(_NODES), axis=0)[None], swept).reshape(at.shape)
        return np.asarray((high - low) * (paces @ (_WEIGHTS * shares)))

    first, last = path.straights
    if begin.any():
        straight = first > 0 and begin.max() <= first
        total = total - (begin if straight else over(np.zeros(len(points)), begin))
    if (end != path.length).any():
        straight = last > 0 and end.min() >= path.length - last
        total = total + (end - path.length if straight else over(np.full(len(points), path.length), end))
    return np.asarray(total)


def _paces(path: Path, s: Array, points: Array, swept: bool) -> Array:
    """Return how far fibres run for each mm of the line, (k, n), at distances (n,) for section points (k, n, 2)."""
    here = path.at(s)
    along = 1 - np.einsum("knj,nj->kn", points, here.bends)
    if swept or not here.twists.any():
        return np.asarray(along)
    across = here.twists**2 * np.einsum("knj,knj->kn", points, points)
    return np.asarray(np.copysign(np.sqrt(along**2 + across), along))


def _with_twist(along: Array, twists: Array, points: Array) -> Array:
    """Return how far fibres (k,) run at each of n places, given how far along, and the squares of the twists there."""
    across = np.einsum("kj,kj->k", points, points)[:, None] * twists
    return np.asarray(np.copysign(np.sqrt(along**2 + across), along))


def _mismatches(course: Course, placed: Placed, planes: Array, square: Flags) -> Array:
    """Return the greatest distance between the two images of the section on each mitre plane, (m,) in mm, between straights."""
    found = np.zeros(course.count)
    mitred = np.flatnonzero(~square)
    after = _images(course.rights[mitred], course.ups[mitred], course.tangents[mitred], planes[mitred])
    before = _images(course.rights_end[mitred - 1], course.ups_end[mitred - 1], course.tangents_end[mitred - 1], planes[mitred])
    apart = after - before
    doubtful = np.flatnonzero(np.abs(apart).max(axis=(1, 2), initial=0.0, keepdims=False) > ROUNDING) if len(mitred) else mitred
    if len(doubtful):
        for number in doubtful.tolist():
            square_form = apart[number].T @ apart[number]

            def away(points: Array, square_form: Array = square_form) -> Array:
                inside = placed.points(points)
                return np.asarray(np.sqrt(np.maximum(np.einsum("ij,jk,ik->i", inside, square_form, inside), 0.0)))

            found[mitred[number]] = placed.shape.extremes(away)[1]
    return found


def _images(rights: Array, ups: Array, tangents: Array, planes: Array) -> Array:
    """Return matrices (m, 3, 2) that take a section point along the leg onto the mitre plane."""
    frame = np.stack([rights, ups], axis=2)
    lean = np.einsum("ij,ijk->ik", planes, frame) / np.einsum("ij,ij->i", planes, tangents)[:, None]
    return np.asarray(frame - tangents[:, :, None] * lean[:, None, :])


def corner_kinds(course: Course, right: bool) -> list[Kind]:
    """Return for each leg the kind of corner it begins with, as seen from the side faced.

    A corner that turns toward the face is internal. One that turns only up or down is rising
    or falling.
    """
    across, upward = _turned(course)
    across *= 1 if right else -1
    kinds: list[Kind] = []
    for index in range(course.count):
        if course.free[index]:
            kinds.append("end")
        elif abs(across[index]) < NO_LEAN and abs(upward[index]) >= NO_LEAN:
            kinds.append("rising" if upward[index] > 0 else "falling")
        else:
            kinds.append("internal" if across[index] > 0 else "external")
    return kinds

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
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.line import FOLD, Course
from slow_ribbon.core.run import Placed
from slow_ribbon.core.shape import Array

#: Sections that miss each other by less than this, mm, meet.
MEETS: Final = 1e-3
#: A corner that turns more than this, in radians, makes a needle mitre.
NEEDLE: Final = math.radians(150)

Kind = Literal["internal", "external", "rising", "falling", "end"]


@dataclass(frozen=True)
class Cuts:
    """A run cut into m pieces; all arrays have a row for each piece, in order of travel.

    planes_begin, planes_end (m, 3): unit normals of the cuts, with a positive part along travel.
    slopes_begin, slopes_end (m, 2). long_points, short_points, line_lengths (m,), mm.
    mismatches (m,): at the corner where each piece begins, mm. square_begin (m,): where the
    line goes back on itself, so that there is no mitre.
    """

    course: Course
    placed: Placed
    planes_begin: Array
    planes_end: Array
    slopes_begin: Array
    slopes_end: Array
    long_points: Array
    short_points: Array
    mismatches: Array
    square_begin: np.ndarray[tuple[int, ...], np.dtype[np.bool_]]

    @property
    def line_lengths(self) -> Array:
        return self.course.lengths

    def fibres(self, points: Array) -> tuple[Array, Array]:
        """Return where fibres begin and end along their leg: (m, k) each, for section points (k, 2) in the line's frame."""
        return self.slopes_begin @ points.T, self.course.lengths[:, None] + self.slopes_end @ points.T

    @cached_property
    def volumes(self) -> Array:
        """Volume of each piece in mm³: area × the fibre at the centroid, exact for a prism cut by planes."""
        begin, end = self.fibres(self.placed.centroid[None])
        return np.asarray(self.placed.shape.area * (end - begin)[:, 0])

    def open_begin(self) -> np.ndarray[tuple[int, ...], np.dtype[np.bool_]]:
        """Tell for each piece whether its beginning meets nothing, so that its end face shows."""
        faces = self.square_begin | (self.mismatches > MEETS)
        if not self.course.closed:
            faces = faces.copy()
            faces[0] = True
        return faces

    def saw_settings(self, up: Array) -> tuple[Array, Array]:
        """Return mitre and bevel in degrees, (m, 2) each (begin, end), for the bed's ``up`` (2,) in the section.

        μ = atan2(m·c, m·t) turns the table, β = asin(m·up) tilts the blade, with m the cut's normal
        and c = up × t to the left of travel on the table. A positive mitre puts the left edge of
        the cut further back along travel than the right; a positive bevel the upper edge further
        back than the lower.
        """
        turned = self.placed.matrix @ up
        course = self.course
        out = course.rights * turned[0] + course.ups * turned[1]
        across = np.cross(out, course.tangents)
        mitres, bevels = [], []
        for plane in (self.planes_begin, self.planes_end):
            along = np.einsum("ij,ij->i", plane, course.tangents)
            mitres.append(np.degrees(np.arctan2(np.einsum("ij,ij->i", plane, across), along)))
            bevels.append(np.degrees(np.arcsin(np.clip(np.einsum("ij,ij->i", plane, out), -1, 1))))
        # No "-0.0" on a cutting list.
        return np.stack(mitres, axis=1).round(12) + 0.0, np.stack(bevels, axis=1).round(12) + 0.0

    def congruence(self) -> Array:
        """Return a row (m, 5) for each piece that is the same for pieces that can be laid one on the other.

        Length of the fibre at the section's own origin and the slopes of both cuts in the
        section's own axes, as drawn: a piece of the mirrored section is the drawn section
        looked at from its other end. Mirror images differ.
        """
        matrix, shift = self.placed.matrix, self.placed.shift
        begin, end = self.slopes_begin @ matrix, self.slopes_end @ matrix
        length = self.course.lengths + (self.slopes_end - self.slopes_begin) @ shift
        if self.placed.mirrored:
            begin, end = -end, -begin
        return np.column_stack([length, begin, end])


def cut(course: Course, placed: Placed) -> Cuts:
    """Return a run's pieces: every corner mitred in the plane that halves it, open ends cut square."""
    tangents = course.tangents
    before = np.roll(tangents, 1, axis=0)
    square = course.turns > FOLD
    if not course.closed:
        square = square.copy()
        square[0] = True
    halves = np.where(square[:, None], tangents, before + tangents)
    planes_begin = halves / np.sqrt(np.einsum("ij,ij->i", halves, halves))[:, None]
    planes_end = np.roll(planes_begin, -1, axis=0)
    square_end = np.roll(square, -1)
    planes_end = np.where(square_end[:, None], tangents, planes_end)

    slopes_begin = _slopes(course, planes_begin)
    slopes_end = _slopes(course, planes_end)
    slopes = slopes_end - slopes_begin
    long_points = course.lengths + placed.furthest(slopes)
    short_points = course.lengths - placed.furthest(-slopes)
    folded = course.turns > FOLD
    mismatches = _mismatches(course, placed, planes_begin, square)
    return Cuts(course, placed, planes_begin, planes_end, slopes_begin, slopes_end, long_points, short_points, mismatches, folded)


def _slopes(course: Course, planes: Array) -> Array:
    """Return (m, 2) slopes: the fibre at p meets the plane at slope·p = −(p·m)/(t·m) along travel."""
    leaning = planes / np.einsum("ij,ij->i", planes, course.tangents)[:, None]
    return -np.stack([np.einsum("ij,ij->i", course.rights, leaning), np.einsum("ij,ij->i", course.ups, leaning)], axis=1)


def _mismatches(course: Course, placed: Placed, planes: Array, square: np.ndarray[tuple[int, ...], np.dtype[np.bool_]]) -> Array:
    """Return the greatest distance between the two images of the section on each mitre plane, (m,) in mm."""
    found = np.zeros(course.count)
    mitred = np.flatnonzero(~square)
    after = _images(course.rights[mitred], course.ups[mitred], course.tangents[mitred], planes[mitred])
    before = _images(course.rights[mitred - 1], course.ups[mitred - 1], course.tangents[mitred - 1], planes[mitred])
    apart = after - before
    doubtful = np.flatnonzero(np.abs(apart).max(axis=(1, 2), initial=0.0, keepdims=False) > 1e-12) if len(mitred) else mitred
    if len(doubtful):
        points = placed.points(placed.shape.flat(1e-3).points)
        images = np.einsum("ijk,nk->inj", apart[doubtful], points)
        found[mitred[doubtful]] = np.sqrt(np.einsum("inj,inj->in", images, images)).max(axis=1)
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
    change = course.tangents - np.roll(course.tangents, 1, axis=0)
    rights = course.rights + np.roll(course.rights, 1, axis=0)
    ups = course.ups + np.roll(course.ups, 1, axis=0)
    across = np.einsum("ij,ij->i", change, rights) * (1 if right else -1)
    upward = np.einsum("ij,ij->i", change, ups)
    kinds: list[Kind] = []
    for index in range(course.count):
        if index == 0 and not course.closed:
            kinds.append("end")
        elif abs(across[index]) < 1e-9 and abs(upward[index]) >= 1e-9:
            kinds.append("rising" if upward[index] > 0 else "falling")
        else:
            kinds.append("internal" if across[index] > 0 else "external")
    return kinds

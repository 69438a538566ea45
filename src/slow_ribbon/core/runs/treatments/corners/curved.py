"""The true mitre beside a curve: where every fibre of one piece meets the same fibre of the other, which is no plane.

A flat mitre through the vertex joins the two only on the line itself. The fibre at section point p lies at C(p, s) along a piece, s from
the corner; it meets that of the other piece where C₁(p, s₁) = C₂(p, s₂), two unknowns that are looked for by Gauss and Newton's steps.
On plan, between a straight and an arc about a centre, that is where a line meets a circle; between two arcs where two circles meet.
"""

from __future__ import annotations

from functools import cached_property
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import ROUNDING, SAME_PLACE
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Planes, slopes_of
from slow_ribbon.core.runs.treatments.corners.base import Carry, Ends, Meetings
from slow_ribbon.core.sections.outline.profile import Shape

#: Fibres that miss each other by less than this, mm, meet.
_MEETS: Final = 1e-7
_STEPS: Final = 40
#: Places over the section by which two such ends are compared, and the one direction in which they bend is looked for.
_LOOKS: Final = 9


class NoMeeting(Exception):
    """Fibres of two pieces do not meet: why."""


def meeting(before: Carry, after: Carry, points: Array, first: Array, second: Array) -> tuple[Array, Array]:
    """Return how far past the corner, along travel, fibres at section points (k, 2) of two pieces meet, (k,) each, mm.

    ``first`` and ``second`` (k,) are where they would meet in a plane. Raises ``NoMeeting``.
    """
    s, t = first.copy(), second.copy()
    for _ in range(_STEPS):
        (here, here_rate), (there, there_rate) = before(points, s), after(points, t)
        off = there - here
        if float(np.abs(off).max(initial=0.0)) < _MEETS / 10:
            break
        # The nearest places of the two tangents: normal equations of s·here_rate − t·there_rate = off.
        aa, bb = (np.einsum("ij,ij->i", rate, rate) for rate in (here_rate, there_rate))
        ab = np.einsum("ij,ij->i", here_rate, there_rate)
        ao, bo = (np.einsum("ij,ij->i", rate, off) for rate in (here_rate, there_rate))
        size = aa * bb - ab * ab
        if float(size.min(initial=1.0)) < ROUNDING:
            raise NoMeeting("the pieces run along one another there")
        s += (bb * ao - ab * bo) / size
        t += (ab * ao - aa * bo) / size
    if not float(np.abs(off).max(initial=0.0)) < _MEETS:
        raise NoMeeting("the curve comes no further round, or leaves the plane of the other piece")
    return s, t


class CurvedMitre(EndSurface):
    """The end of a piece in the true mitre beside a curve; ``second`` where it is the piece after the corner.

    ``slopes`` are those of the flat mitre, of the piece before and the one after, from which it is looked for. ``shape`` is the section.
    """

    def __init__(self, before: Carry, after: Carry, slopes: tuple[Array, Array], shape: Shape, second: bool) -> None:
        self._carries, self._slopes, self.second = (before, after), slopes, second
        left, low, right, high = shape.box
        across, up = np.linspace(left, right, _LOOKS), np.linspace(low, high, _LOOKS)
        self._box = across, up
        grid = np.stack(np.meshgrid(across, up, indexing="ij"), axis=-1).reshape(-1, 2)
        self.sampled = self.reach(grid).reshape(_LOOKS, _LOOKS)

    at_line = True

    @property
    def words(self) -> str:
        return "along a curve"

    def reach(self, points: Array) -> Array:
        first, second = (points @ slope for slope in self._slopes)
        return meeting(*self._carries, points, first, second)[self.second]

    @cached_property
    def _bends(self) -> int | None:
        """The axis along which alone it bends, if there is one: on plan it is the same at every height, in elevation across the depth."""
        return next((axis for axis in (0, 1) if float(np.ptp(self.sampled, axis=1 - axis).max()) < _MEETS), None)

    def bends(self, chord_height: float) -> tuple[Array, Array] | None:
        axis = self._bends
        if axis is None:
            return None
        places = self._box[axis]
        points = np.zeros((4 * _LOOKS, 2))
        points[:, axis] = np.linspace(places[0], places[-1], len(points))
        points[:, 1 - axis] = self._box[1 - axis][0]
        reached = self.reach(points)
        # A chord strays by an eighth of the second difference over its length.
        bow = float(np.abs(np.diff(reached, 2)).max()) / 8
        count = max(1, int(np.ceil((len(points) - 1) * np.sqrt(bow / chord_height))))
        return np.eye(2)[axis], np.linspace(places[0], places[-1], count + 1)

    def _same(self) -> tuple[object, ...]:
        return (*(self.sampled.round(6) + 0.0).ravel().tolist(), *np.concatenate(self._box).round(6).tolist(), self.second)


def true_mitres(meetings: Meetings, planes: Planes) -> Ends:
    """Return corners in true mitres where a piece bends right up to where they reach; flat ones, in ``planes``, elsewhere."""
    slopes = (
        slopes_of(meetings.rights_before, meetings.ups_before, meetings.tangents_before, planes.normals),
        slopes_of(meetings.rights_after, meetings.ups_after, meetings.tangents_after, planes.normals),
    )
    normals, offsets = (planes.normals.copy(), planes.normals.copy()), (planes.offsets.copy(), planes.offsets.copy())
    shaped: tuple[dict[int, EndSurface], dict[int, EndSurface]] = ({}, {})
    refused: dict[int, str] = {}
    for k in np.flatnonzero(meetings.bends).tolist():
        carries, leaning = (meetings.carry_before(k), meetings.carry_after(k)), (slopes[0][k], slopes[1][k])
        shape = meetings.shape_after(k)
        points = shape.flat().points
        try:
            surfaces = [CurvedMitre(*carries, leaning, shape, second) for second in (False, True)]
            reached = [surface.reach(points) for surface in surfaces]
        except NoMeeting as none:
            refused[k] = f"No true mitre here, but a flat one: {none}."
            continue
        if max(float(np.abs(reached[side] - points @ leaning[side]).max()) for side in (0, 1)) < SAME_PLACE:
            # Both are straight as far as the mitre goes.
            continue
        # Sawn square first, as far out as any of it is.
        for side, tangents, far in ((0, meetings.tangents_before, np.max), (1, meetings.tangents_after, np.min)):
            normals[side][k], offsets[side][k] = tangents[k], far(reached[side])
            shaped[side][k] = surfaces[side]
    before, after = (Planes(normals=normal, offsets=offset) for normal, offset in zip(normals, offsets, strict=True))
    together = np.ones(len(planes.offsets), dtype=bool)
    return Ends(before=before, after=after, together=together, shaped_before=shaped[0], shaped_after=shaped[1], refused=refused)

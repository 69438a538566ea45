"""Ends scribed: shaped to the face of another run."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Id
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Scribed
from slow_ribbon.core.runs.end_surfaces.scribe_model import ScribeTarget
from slow_ribbon.core.runs.end_surfaces.scribe_to_sweep import ScribedToBend, swept_as_seen
from slow_ribbon.core.runs.treatments.ends.base import LEAST_MEETING, Finish, FreeEnd, NoCut
from slow_ribbon.core.sections.outline.height_profile import face_of
from slow_ribbon.core.sections.outline.profile import Shape, outline_shape


class ScribedTo(Finish):
    """Shaped to the face of another run, ``to``, where this one meets it; a fibre that misses it ends where the line does.

    ``past`` leaves this much less room, or more with a minus.
    """

    words = "scribed"

    kind: Literal["scribed"] = "scribed"
    to: Id

    @property
    def shaped_to(self) -> str:
        return self.to

    def shaped_to_other(self, id: str) -> ScribedTo:
        return self.model_copy(update={"to": id})

    def normal(self, outward: Array, front: Array, up: Array) -> Array:
        return outward

    def surface(self, end: FreeEnd) -> EndSurface:
        if end.met is None:
            raise NoCut("no piece of the other run is in its way")
        if not end.straight:
            raise NoCut("it bends right up to its end")
        outward = end.sense * end.tangent
        right, up = np.array(end.met.right), np.array(end.met.up)
        travel = np.cross(up, right)
        toward = outward - travel * float(outward @ travel)
        size = float(np.linalg.norm(toward))
        if size < math.sin(math.radians(LEAST_MEETING)):
            raise NoCut("it runs along the other run")
        # In the other's section: across, toward where this end goes, and along, square to both runs.
        across = toward / size
        along = np.cross(travel, across)
        view = np.array([[across @ right, across @ up], [along @ right, along @ up]])
        frame = np.stack([end.right, end.up])
        shape = outline_shape(end.met.outline)
        if end.met.bent:
            return self._bent(end, end.met, shape, across, along, size)
        away = np.array(end.met.place) - end.place
        seen = shape.mapped_once(view, np.array([across @ away, along @ away]))
        face = face_of(seen.outer_ring, False, 0.0)
        return Scribed(face, frame @ across, frame @ along, end.sense * size, end.sense * self.past)

    def _bent(self, end: FreeEnd, met: ScribeTarget, shape: Shape, across: Array, along: Array, size: float) -> EndSurface:
        frame = np.stack([end.right, end.up])
        box = end.shape.box
        seen = swept_as_seen(shape, met.bent, end.place, frame, end.sense * end.tangent, box)
        found = ScribedToBend(seen, frame @ across, frame @ along, end.sense * size, box, end.sense, end.sense * self.past)
        points = end.shape.flat().points
        if not np.isfinite(seen.first(points)).any():
            raise NoCut("no piece of the other run is in its way")
        if seen.inside(points):
            raise NoCut("the other run bends so tightly there that part of this one begins inside it")
        return found

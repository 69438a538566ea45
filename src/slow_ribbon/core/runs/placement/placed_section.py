"""A section as it is placed on a line, in the line's frame.

The section point q goes to the frame of the line by: subtract the datum, rotate by roll,
mirror, add (stand-off, lift). So roll follows the hand, and stand-off the side faced: several
stretches of one room tilt and stand off alike whichever way each was drawn.
"""

from __future__ import annotations

import math
from copy import copy
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import SAME_SHARE
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.placement.placing import (
    Placing,
)
from slow_ribbon.core.sections.document.section import Section, bed_up, datum_point, section_shape
from slow_ribbon.core.sections.law import Constant, SectionLaw
from slow_ribbon.core.sections.operations.affine_member import member_of
from slow_ribbon.core.sections.outline.profile import Shape

#: How far from the least to the greatest, of what lies between, each is.
_SHARES: Final = {"back": 0.0, "bottom": 0.0, "middle": 0.5, "front": 1.0, "top": 1.0}


class Placed:
    """A section placed on a line: its shape in the line's (right, up) frame; where it is not the same all along, that at the start.

    ``matrix`` (2, 2) and ``shift`` (2,) take the section's own points there; ``mirrored`` says
    whether the section is seen mirrored along travel, ``right`` whether it faces right.
    """

    def __init__(self, section: Section, placing: Placing, course: Course, law: SectionLaw | None = None) -> None:
        self.section = section
        self._law: SectionLaw = law or Constant(section_shape(section))
        self._datum = placing.datum or section.datum
        self._leaned: dict[bytes, Placed] = {}
        self.right = placing.facing.is_right(course)
        self.mirrored = (not self.right) != (placing.hand == "left")
        roll = math.radians(placing.roll)
        turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
        self.matrix: Array = np.diag([-1.0 if self.mirrored else 1.0, 1.0]) @ turn
        #: How the section lies that its pieces are of: as ``matrix``, but for one that is the image of another.
        self.laid = self.matrix
        #: By which matrix the section is the image of the one that is drawn.
        self.image: Array = np.eye(2)
        self._placing = placing
        self._take(self._law.at(0.0))

    def _take(self, shape: Shape) -> None:
        self.shape = shape
        self._framed: Shape | None = None
        self.shift: Array = -self.matrix @ datum_point(shape, self._datum)
        # Toward the front and up: the datum is at zero, sides where the section's box as it is placed ends.
        sense = np.array([1.0 if self.right else -1.0, 1.0])
        of = (self._placing.stand_off_of, self._placing.lift_of)
        at = [0.0 if name == "datum" else self._reach(sense[axis] * np.eye(2)[axis], _SHARES[name]) for axis, name in enumerate(of)]
        self.shift = self.shift + sense * (np.array([self._placing.stand_off, self._placing.lift]) - at)

    def _reach(self, way: Array, share: float) -> float:
        """Return how far a share of the section, from its least to its greatest, lies along a unit (2,) of the line's frame."""
        most, least = self.furthest(np.array([way, -way])) * (1, -1)
        return float(least + share * (most - least))

    @property
    def framed(self) -> Shape:
        """The shape in the line's frame, as it is placed."""
        if self._framed is None:
            self._framed = self.shape.mapped_once(self.matrix, self.shift)
        return self._framed

    @property
    def constant(self) -> bool:
        """Whether the section is the same all along the line."""
        return self._law.constant

    def at(self, chainage: float) -> Placed:
        """Return the section as it is placed at a distance along the line, mm; this very one where it is the same all along."""
        if self._law.constant:
            return self
        there = copy(self)
        there._take(self._law.at(chainage))
        return there

    def leaned(self, lean: Array) -> Placed:
        """Return it as it lies on pieces where it leans by a matrix (2, 2), in the line's frame: the second section, or the same turned."""
        key = lean.tobytes()
        if key not in self._leaned:
            there = copy(self)
            there.matrix, there.shift = lean @ self.matrix, lean @ self.shift
            there._framed, there._leaned = None, {}
            if np.abs(lean.T @ lean - np.eye(2)).max() < SAME_SHARE:
                there.laid = there.matrix
            else:
                there.image = np.asarray(np.linalg.solve(self.matrix, lean @ self.matrix))
                there.section = member_of(self.section, there.image)
            self._leaned[key] = there
        return self._leaned[key]

    def points(self, points: Array) -> Array:
        """Return section points (n, 2) in the line's frame."""
        return np.asarray(points @ self.matrix.T + self.shift)

    def furthest(self, slopes: Array) -> Array:
        """Return max slope·p over the placed section for slopes (k, 2); shape (k,)."""
        return np.asarray(self.shape.furthest(slopes @ self.matrix) + slopes @ self.shift)

    @property
    def bed_up(self) -> Array:
        """The unit out of the saw's bed, (2,), in the line's frame. Raises ``Refused`` as ``sections.model.bed_up``."""
        return np.asarray(self.laid @ bed_up(self.section))

    @property
    def sprung_up(self) -> Array:
        """The unit out of the saw's bed, (2,), in the line's frame, where the section is held with its head on that."""
        return np.asarray(self.laid @ np.array([0.0, -1.0]))

    @property
    def thickness(self) -> tuple[float, float]:
        """From where to where the section lies along ``bed_up``, mm."""
        up = self.bed_up
        high, low = (self.furthest(np.array([up, -up])) * (1, -1)).tolist()
        return low, high

    @property
    def datum(self) -> Array:
        """Where the datum lies in the line's frame, (2,)."""
        return self.points(datum_point(self.shape, self._datum))

    @property
    def centroid(self) -> Array:
        """Return the centroid in the line's frame, (2,)."""
        return np.asarray(self.matrix @ self.shape.centroid + self.shift)

"""The base of all legs of lines: plain data of a document, and the curve that it describes.

Terms
-----
leg
    a part of a line as it is written. It goes from where the one before ends to its own ``to``.
round
    the radius to which the corner at a leg's end is rounded. The corner stays where it is, so
    that the radius can be changed or taken away at any time.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import Annotated, Any, ClassVar, Self

import numpy as np
from pydantic import Field

from slow_ribbon.core.geometry.curves import Curve
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.fields import Distance, Model, Point3
from slow_ribbon.core.kernel.tolerances import NO_LENGTH, ROUNDING

Turn = Annotated[float, Field(ge=-360_000, le=360_000, allow_inf_nan=False)]
"""An angle in degrees that may go round many times."""

VectorPart = Annotated[float, Field(ge=-1e10, le=1e10, allow_inf_nan=False)]
Direction = tuple[VectorPart, VectorPart, VectorPart]
RadiusOfArc = Annotated[Distance, Field(gt=0, le=1e9)]
"""A radius in mm. A very flat curve has a very large one."""

Move = Callable[[Any], Point3]


class LegBase(Model, ABC):
    """What every leg has: where it ends, the radius its end corner is rounded to, and what its kind knows of itself."""

    kind: str
    to: Point3
    round: RadiusOfArc | None = None

    #: What a leg of the kind is called, in a sentence.
    words: ClassVar[str]
    #: Whether it is the straight between its ends.
    straight: ClassVar[bool] = False
    #: Whether its heights are sheared in proportion when its ends are moved; what goes about an upright axis cannot be.
    sheared: ClassVar[bool] = True

    @abstractmethod
    def spans(self, begin: Point3, where: str = "") -> list[Curve]:
        """Return the smooth spans of the leg from ``begin``: one, or several for a curve with sharp points.

        Raises ``Refused``, with ``where`` as the place, for a leg that cannot be.
        """

    def carried(self, move: Move, direct: Move, grow: float, over: bool) -> dict[str, Any]:
        """Return the fields, besides ``to`` and ``round``, that another place, direction or size gives the leg."""
        return {}

    def backward(self) -> dict[str, Any]:
        """Return the fields, besides ``to`` and ``round``, that going the other way gives the leg."""
        return {}

    def shape_points(self) -> list[Point3]:
        """Return the points between the ends that shape the leg."""
        return []

    def with_shape_point(self, index: int, at: Point3, sharp: bool | None) -> Self:
        """Return the leg with another point to shape it; ``sharp`` or smooth there, where that can be said."""
        # Only points that ``shape_points`` returns are set, and a kind that returns some overrides this.
        raise NotImplementedError(f"no point shapes a leg of the kind {self.kind}")

    def without_shape_point(self, index: int) -> Self | None:
        """Return the leg without one of the points that shape it; None where it needs it."""
        return None

    def halfway(self, other: LegBase, half: Callable[[Point3, Point3], Point3]) -> dict[str, Any] | None:
        """Return the fields, besides ``to`` and ``round``, of the leg midway to another of its kind; None where that is no such leg."""
        return None

    def and_next(self, begin: Point3, after: LegBase) -> LegBase | None:
        """Return the leg that this one, from ``begin``, and the one after make together; None where they make none."""
        return None

    def mapped(self, to: Point3, move: Move, direct: Move, grow: float, over: bool = False) -> Self:
        """Return the leg carried over by a similarity: ``move`` maps points, ``direct`` directions, lengths grow; ``over`` mirrors."""
        rounding = {} if self.round is None else {"round": self.round * grow}
        return self.model_copy(update={"to": to, **rounding, **self.carried(move, direct, grow, over)})

    def reversed(self, begin: Point3) -> Self:
        """Return the leg from ``begin`` gone the other way; its rounding, which belongs to a corner, is left off."""
        return self.model_copy(update={"to": begin, "round": None, **self.backward()})

    def reshaped(self, begin: Point3, new_begin: Point3, new_end: Point3) -> Self:
        """Return the leg whose ends were moved, the rest of it following in proportion.

        A curve is turned and scaled from its old chord to the new one, in plan first so that what
        stood upright stays so; a helix keeps its turn. A leg whose ends meet cannot be scaled and
        is only moved.
        """
        old, new = np.subtract(self.to, begin), np.subtract(new_end, new_begin)
        flat_old, flat_new = float(np.hypot(old[0], old[1])), float(np.hypot(new[0], new[1]))
        if flat_old > NO_LENGTH and flat_new > NO_LENGTH:
            # A plan similarity, with heights sheared in proportion along the chord.
            cosine = (old[0] * new[0] + old[1] * new[1]) / flat_old**2
            sine = (old[0] * new[1] - old[1] * new[0]) / flat_old**2
            lift = (new[2] - old[2] * flat_new / flat_old) / flat_new**2
            grow = flat_new / flat_old

            def direct(value: Any) -> Point3:
                x, y = cosine * value[0] - sine * value[1], sine * value[0] + cosine * value[1]
                tilt = lift * (x * new[0] + y * new[1]) if self.sheared else 0.0
                return float(x), float(y), float(value[2] * grow + tilt)

        elif float(np.linalg.norm(old)) > NO_LENGTH and float(np.linalg.norm(new)) > NO_LENGTH:
            return self._turned(begin, new_begin, new_end)
        else:
            grow = 1.0

            def direct(value: Any) -> Point3:
                return place(value)

        def move(point: Any) -> Point3:
            return place(np.add(new_begin, direct(np.subtract(point, begin))))

        return self.mapped(new_end, move, direct, grow).model_copy(update={"round": self.round})

    def _turned(self, begin: Point3, new_begin: Point3, new_end: Point3) -> Self:
        """Return the leg under the smallest rotation and the scale that take its old chord to the new one."""
        old, new = np.subtract(self.to, begin), np.subtract(new_end, new_begin)
        grow = float(np.linalg.norm(new) / np.linalg.norm(old))
        a, b = old / np.linalg.norm(old), new / np.linalg.norm(new)
        cross, cosine = np.cross(a, b), float(a @ b)
        if cosine < -1 + ROUNDING:
            turn = 2 * np.outer(*(2 * [_square_to(a)])) - np.eye(3)
        else:
            k = np.array([[0, -cross[2], cross[1]], [cross[2], 0, -cross[0]], [-cross[1], cross[0], 0]])
            turn = np.eye(3) + k + k @ k / (1 + cosine)

        def direct(value: Any) -> Point3:
            return place(grow * (turn @ np.asarray(value, dtype=float)))

        def move(point: Any) -> Point3:
            return place(np.add(new_begin, direct(np.subtract(point, begin))))

        return self.mapped(new_end, move, direct, grow).model_copy(update={"round": self.round})


def place(values: Any) -> Point3:
    """Return three numbers as a point of the document."""
    return float(values[0]), float(values[1]), float(values[2])


def _square_to(direction: Array) -> Array:
    other = np.eye(3)[int(np.argmin(np.abs(direction)))]
    found = np.cross(direction, other)
    return np.asarray(found / np.linalg.norm(found))

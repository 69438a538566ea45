"""Curves cut out of boards, as segments that meet square to the line.

A segment's board is the box around it along its chord, for an arc Ro - Ri cos(φ/2) wide and 2 Ro sin(φ/2) long.
"""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Annotated, ClassVar, Final, Literal

import numpy as np
from pydantic import Field

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.treatments.curves.base import Curvature, Curved, CurvedPiece, LyingSection, fewest, marks_on

#: Places of a segment that are looked at for the board it needs.
_LOOKS: Final = 65


class Sawn(Curved):
    """Cut out of boards so wide, mm, as segments that meet square to the line."""

    parts_curves: ClassVar = True
    usual: ClassVar[dict[str, float]] = {"board": 200.0}

    kind: Literal["sawn"] = "sawn"
    board: Annotated[Size, Field(le=10_000)]

    def parts(self, course: Course, section: LyingSection) -> list[float]:
        """Return the chainages at which segments meet: where curves begin and end, and within them."""
        found: list[float] = []
        for i, path in course.paths.items():
            look_up()

            def number(low: float, high: float, _: object, path: Path = path) -> int:
                least = board_of(path, section, (low + high) / 2 - (high - low) / 2000, (low + high) / 2 + (high - low) / 2000)[1]
                if least > self.board:
                    what = f"Boards {figure(self.board)} wide are too narrow: the section alone takes {figure(least)} across the bend."
                    raise Refused(what, "curves.board", "narrow-board")

                def enough(count: int) -> bool:
                    marks = np.linspace(low, high, count + 1)
                    return all(board_of(path, section, a, b)[1] <= self.board for a, b in pairwise(marks.tolist()))

                return fewest(enough)

            begin = float(course.begins[i])
            found += [begin + mark for mark in marks_on(path, number)[1:-1]]
        return [place % course.length for place in found] if course.closed else found

    def fabrication(self, piece: CurvedPiece) -> Curvature | None:
        if all(span.straight for _, _, span in piece.path.ranges()):
            return None
        return Curvature(board=board_of(piece.path, piece.section, 0.0, piece.path.length))


def board_of(path: Path, section: LyingSection, low: float, high: float) -> tuple[float, float]:
    """Return how long and how wide a board the part of a path between two distances is sawn from, mm, along its chord."""
    here = path.at(np.linspace(low, high, _LOOKS))
    chord = here.points[-1] - here.points[0]
    size = float(np.linalg.norm(chord))
    if size < NO_LEAN:
        return math.inf, math.inf
    chord /= size
    middle = here.bends[_LOOKS // 2]
    toward = here.rights[_LOOKS // 2] * middle[0] + here.ups[_LOOKS // 2] * middle[1]
    toward -= chord * float(toward @ chord)
    length = float(np.linalg.norm(toward))
    # What does not bend in the middle is laid as the section's right goes.
    toward = toward / length if length > NO_LEAN else here.rights[0] - chord * float(here.rights[0] @ chord)
    flat = section.shape.flat()
    rim = section.points(flat.points[: flat.rim])
    swept = here.points[:, None] + here.rights[:, None] * rim[None, :, :1] + here.ups[:, None] * rim[None, :, 1:]
    return float(np.ptp(swept @ chord)), float(np.ptp(swept @ toward))

"""Sections that member with another: its image by a matrix, as a mitre between a level piece and one on the rise asks for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import FLAT, NO_LEAN, SAME_SHARE
from slow_ribbon.core.sections.document.section import (
    EdgeBed,
    PointDatum,
    Section,
    SideBed,
    bed_up,
    datum_point,
    edges_lying,
    section_shape,
)
from slow_ribbon.core.sections.sketch.sketch import outline_of_loop


def same_image(first: Sequence[float] | Array, second: Sequence[float] | Array) -> bool:
    """Return whether two matrices, (2, 2) or their four numbers row after row, bring a section to the same."""
    return bool(np.abs(np.ravel(first) - np.ravel(second)).max() < SAME_SHARE)


def member_fields(section: Section, matrix: Array) -> Mapping[str, Any]:
    """Return the fields of a section that is the image of another by a matrix (2, 2): outline, holes, size, datum and bed.

    Circles become ellipses, drawn as curves within a millionth of their size. The datum is the image of the other's; the section lies
    on the image of the edge that the other lies on, where it can, or on the same side. Raises ``Refused`` as ``section_shape`` does.
    """
    shape = section_shape(section)
    image = shape.mapped(matrix, np.zeros(2))
    left, low, right, high = image.box
    datum = matrix @ datum_point(shape, section.datum) - (left, low)
    outlines = [outline_of_loop(loop) for loop in image.mapped(np.eye(2), -np.array([left, low])).loops]
    found: dict[str, Any] = {
        "outline": outlines[0],
        "holes": tuple(outlines[1:]),
        "width": right - left,
        "height": high - low,
        "wall": None,
        "grows": "scaled",
        "datum": PointDatum(x=float(datum[0]), y=float(datum[1])),
        "bed": section.bed,
        "held": (),
        "sizes": (),
        "range": (),
    }
    # The direction square to the bed becomes the direction square to its image.
    up = np.linalg.solve(matrix.T, bed_up(section))
    up /= np.linalg.norm(up)
    slants = float(np.abs(up).min()) > FLAT
    if slants or isinstance(section.bed, EdgeBed):
        drawn = section.model_copy(update={**found, "bed": SideBed()})
        lying = [edge for edge, way in edges_lying(drawn).items() if way @ up > 1 - NO_LEAN]
        found["bed"] = EdgeBed(edge=min(lying)) if lying else section.bed if isinstance(section.bed, SideBed) else SideBed()
    return found


def member_of(section: Section, matrix: Array) -> Section:
    """Return the section that is the image of another by a matrix (2, 2); it has its name, and no id. Raises as ``member_fields``."""
    return section.model_copy(update=member_fields(section, matrix))

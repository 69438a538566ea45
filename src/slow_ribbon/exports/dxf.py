"""The lines of a job as DXF (R2013, in mm), written with ezdxf: a layer for each line, true curves where DXF has them.

Straights are LINE, level arcs ARC, B-splines SPLINE; other curves are 3D polylines within 0.05 mm.
They lie where they do on the site.
"""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from typing import Any, Final

import numpy as np

from slow_ribbon.core.geometry import Curve, flattening
from slow_ribbon.core.kernel import NO_LENGTH, Array, look_up
from slow_ribbon.core.lines import CurveLeg, leg_of, line_parts
from slow_ribbon.core.solve import Solved

#: How far a curve that DXF has no entity for may stray from its polyline, mm.
FINE: Final = 0.05
#: What a layer's name may not hold (DXF reference, symbol table names).
_NOT_IN_NAMES: Final = re.compile(r"[<>/\\\":;?*|=`\x00-\x1f]")


def lines_dxf(solved: Solved) -> bytes:
    """Return the lines of a job as a DXF drawing."""
    import ezdxf

    job = solved.job
    document = ezdxf.new("R2013", units=4)
    space = document.modelspace()
    origin = np.array(job.origin)
    for line, layer in zip(job.lines, _layers([line.name for line in job.lines]), strict=True):
        look_up()
        document.layers.add(layer)
        for part in line_parts(line):
            _draw(space, part.span, origin, {"layer": layer})
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _layers(names: Sequence[str]) -> list[str]:
    """Return a layer's name for each line, none of them twice, whatever the case of its letters."""
    found: list[str] = []
    used: set[str] = {"0", "defpoints"}
    for name in names:
        plain = _NOT_IN_NAMES.sub("_", name).strip() or "line"
        layer, number = plain, 1
        while layer.lower() in used:
            number += 1
            layer = f"{plain} ({number})"
        used.add(layer.lower())
        found.append(layer)
    return found


def _draw(space: Any, span: Curve, origin: Array, attributes: dict[str, str]) -> None:
    if span.straight:
        begin, end = span.at(np.array([0.0, span.length]))[0] + origin
        space.add_line(begin.tolist(), end.tolist(), dxfattribs=attributes)
        return
    points, tangents, bends = span.at(np.array([0.0, span.length / 2, span.length]))
    radius = span.radius_of_arc
    if radius is not None and np.ptp(points[:, 2]) < NO_LENGTH:
        centre = points[0] + bends[0] * radius**2 + origin
        angles = np.degrees(np.arctan2(*(points - (centre - origin))[:, 1::-1].T))
        left = float(tangents[0, 0] * bends[0, 1] - tangents[0, 1] * bends[0, 0]) > 0
        begin, end = (angles[0], angles[2]) if left else (angles[2], angles[0])
        space.add_arc(centre.tolist(), radius, float(begin), float(end), dxfattribs=attributes)
        return
    leg = leg_of(span, 0.0, span.length)
    if isinstance(leg, CurveLeg) and leg.knots is not None and leg.degree is not None:
        controls = np.array([points[0], *leg.controls, leg.to]) + origin
        spline = space.add_spline(degree=leg.degree, dxfattribs=attributes)
        spline.control_points, spline.knots = controls.tolist(), list(leg.knots)
        if leg.weights is not None:
            spline.weights = list(leg.weights)
        return
    space.add_polyline3d((span.at(flattening(span, FINE))[0] + origin).tolist(), dxfattribs=attributes)

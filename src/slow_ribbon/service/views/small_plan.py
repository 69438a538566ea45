"""A small plan of a job, for the list of jobs: what it looks like from above, and nothing to be measured."""

from __future__ import annotations

from typing import Final

import numpy as np

from slow_ribbon.core.job import Job
from slow_ribbon.core.kernel import NO_LENGTH, Array
from slow_ribbon.core.lines import Line, course_of, only_straight

#: How wide and high it is, pixels, and the margin round it.
WIDE: Final = 96
HIGH: Final = 60
_MARGIN: Final = 4
#: Lines drawn at most, the longest; more would be a blot.
_MOST: Final = 1500
#: Points of one line at most.
_MOST_POINTS: Final = 400


def small_plan(job: Job) -> str:
    """Return a plan of a job's lines as SVG: those that runs or rows stand on over the others."""
    taken = {run.line for run in job.runs} | {row.line for row in job.rows}
    drawn = [(line.id in taken, _outline(line)) for line in _longest(job)]
    body = ""
    if drawn:
        everything = np.concatenate([points for _, points in drawn])
        low, high = everything.min(axis=0), everything.max(axis=0)
        room = np.array([WIDE, HIGH]) - 2 * _MARGIN
        scale = float(np.min(room / np.maximum(high - low, NO_LENGTH)))
        offset = (np.array([WIDE, HIGH]) - (high - low) * scale) / 2
        for on, colour, width in ((False, "#8fb0d2", 0.8), (True, "#6b5a38", 1.2)):
            paths = [_path((points - low) * scale + offset) for stood_on, points in drawn if stood_on is on]
            body += f'<path d="{"".join(paths)}" stroke="{colour}" stroke-width="{width}"/>' if paths else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {HIGH}" fill="none" '
        f'stroke-linejoin="round" stroke-linecap="round">{body}</svg>'
    )


def _longest(job: Job) -> list[Line]:
    if len(job.lines) <= _MOST:
        return list(job.lines)

    def across(line: Line) -> float:
        points = line.points()[:, :2]
        return float(np.ptp(points, axis=0).max())

    return sorted(job.lines, key=across, reverse=True)[:_MOST]


def _outline(line: Line) -> Array:
    """Return points along a line on plan, (n, 2)."""
    if only_straight(line):
        points = line.points()[:, :2]
        found = np.concatenate([points, points[:1]]) if line.closed else points
    else:
        course = course_of(line)
        size = float(np.ptp(line.points()[:, :2], axis=0).max())
        found = course.points_at(course.flattened(max(size / 400, 0.05))[0])[:, :2]
    return found[np.linspace(0, len(found) - 1, _MOST_POINTS).astype(int)] if len(found) > _MOST_POINTS else found


def _path(points: Array) -> str:
    turned = np.column_stack([points[:, 0], HIGH - points[:, 1]])
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in turned.tolist())

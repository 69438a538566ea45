"""The section desk: what a change of an outline takes on the service until its picture can be drawn. Goals stand with each figure."""

from __future__ import annotations

import math
from time import perf_counter
from typing import Any

import numpy as np
from fastapi import Request
from reporting import report

from slow_ribbon.core.sections import SectionBody, shape_of
from slow_ribbon.core.sections.document.constraints import Apart, Equal, Level, Upright
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen
from slow_ribbon.core.sections.sketch.outline_edits import point_moved
from slow_ribbon.core.sections.sketch.sketch import Sketch, redrawn
from slow_ribbon.core.sections.sketch.sketch_variables import SketchVariables
from slow_ribbon.service.routes.sections import look_at_sample


def milled(edges: int) -> Outline:
    """Return a round outline of straights, arcs and curves by turns."""
    places = [
        ((60 + 6 * (i % 2)) * math.cos(2 * math.pi * i / edges), (60 + 6 * (i % 2)) * math.sin(2 * math.pi * i / edges))
        for i in range(edges)
    ]
    pen = OutlinePen(*places[0])
    for i in range(edges):
        (x0, y0), (x, y) = places[i], places[(i + 1) % edges]
        dx, dy = x - x0, y - y0
        if i % 3 == 0:
            pen.arc(x, y, 0.2)
        elif i % 3 == 1:
            pen.line(x, y)
        else:
            pen.curve((x0 + dx / 3 + 0.1 * dy, y0 + dy / 3 - 0.1 * dx), (x - dx / 3 + 0.1 * dy, y - dy / 3 - 0.1 * dx), x, y)
    return pen.close()


def test_facts_and_sample_of_an_outline_of_200_edges(benchmark: Any) -> None:
    """From edit to picture within 60 ms (95 in 100): what the desk sends read, both worked out again, and packed to be sent."""
    outline = milled(200)
    left, low, right, high = shape_of(outline).box
    sent = SectionBody(name="Milled", outline=outline, width=right - left, height=high - low).model_dump_json()
    request = Request({"type": "http", "headers": [(b"accept-encoding", b"gzip")]})
    times: list[float] = []

    def both() -> None:
        begin = perf_counter()
        look_at_sample(request, SectionBody.model_validate_json(sent))
        times.append(perf_counter() - begin)

    benchmark.pedantic(both, rounds=30, warmup_rounds=1)
    report(benchmark, p95_ms=float(np.percentile(np.array(times) * 1000, 95)))


def test_a_point_dragged_with_30_things_held(benchmark: Any) -> None:
    """At least 30 steps a second, each the solver's and the section's again."""
    steps = 8
    pen = OutlinePen(0, 0).line(10 * steps, 0)
    for i in range(steps):
        pen.line(10 * (steps - i), 10 * (i + 1)).line(10 * (steps - i - 1), 10 * (i + 1))
    outline = pen.close()
    drawing = Sketch(SketchVariables.of((outline,)))
    count = drawing.drawn.count(0)
    held: list[Any] = [Level(a=(0, 0), b=(0, 1))]
    held.extend((Upright if i % 2 else Level)(a=(0, i), b=(0, i + 1)) for i in range(1, count - 1))
    held.extend(Equal(a=(0, 2), b=(0, i)) for i in range(4, count - 1, 2))
    held.extend(Equal(a=(0, 1), b=(0, i)) for i in range(3, count - 1, 2))
    held.append(Apart(a=(0, 2), b=(0, 3), value=10))
    drawing = Sketch(drawing.drawn, tuple(held[:30])).settled()
    section = SectionBody(name="Steps", outline=outline, width=10 * steps, height=10 * steps)
    places = iter(np.random.default_rng(7).uniform(-3, 3, (10_000, 2)))

    def drag() -> None:
        x, y = drawing.drawn.point(0, 5) + next(places)
        redrawn(section, point_moved(drawing, 0, 5, (x, y)))

    benchmark.pedantic(drag, rounds=60, warmup_rounds=2)
    report(benchmark, held=len(drawing.held), steps_a_second=1 / benchmark.stats.stats.median)

"""A window in forty places against the same window in one: no more than 1.3 times the work, from the edit to what is listed and sent."""

from __future__ import annotations

import time
from itertools import count
from statistics import median
from typing import Any

from reporting import report

from slow_ribbon.core.cutting import cutting_list, schedule
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, AddTypical, NewPlace, NewTypical, apply, apply_all
from slow_ribbon.core.job.edits.points import MoveVertex
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import Solved, Solver, standing_runs
from slow_ribbon.exports.gltf import surface_glb
from slow_ribbon.service.views.view_cache import places_json, typical_json

ROUNDS = 40


def window(places: int) -> Job:
    """A window of four lines of trim, in this many places, every fifth mirrored."""
    keys = ("architrave", "architrave-ogee", "skirting-torus", "picture-rail")
    lines = tuple(
        line_body(
            [(-k * 90, 0, 600), (-k * 90, 0, 2000 + k * 90), (1200 + k * 90, 0, 2000 + k * 90), (1200 + k * 90, 0, 150)], False, f"Trim {k}"
        )
        for k in range(4)
    )
    job = apply_all(Job(name="Windows"), [AddLines(lines=lines), *(AddSection(section=from_library(key)) for key in keys)]).job
    edits = [AddRuns(section=section.id, lines=(line.id,)) for line, section in zip(job.lines, job.sections, strict=True)]
    others = tuple(NewPlace(at=(3000.0 * number, 0, 600), mirrored=number % 5 == 4) for number in range(1, places))
    typical = NewTypical(name="Window", lines=tuple(line.id for line in job.lines), here="W1", places=others)
    return apply_all(job, [*edits, AddTypical(typical=typical)]).job


class Worked:
    """A window that is edited again and again, and all that follows from it each time: solved, listed, written, meshed."""

    def __init__(self, places: int) -> None:
        self.job, self.solver = window(places), Solver()
        self.solved: Solved = self.solver.solve(self.job)
        self.sills = count(151)

    def once(self) -> float:
        begin = time.perf_counter()
        self.job = apply(self.job, MoveVertex(line="L1", point=3, to=(1200, 0, next(self.sills))))
        before, self.solved = self.solved, self.solver.solve(self.job, self.solved)
        (typical,) = self.solved.results["typicals"].values()
        cutting_list(self.solved)
        schedule(self.solved)
        typical_json(typical)  # type: ignore[arg-type]  # a typical's result is one
        places_json(typical, self.job.saw)  # type: ignore[arg-type]
        for run in self.solved.runs.values():
            if run is not before.runs.get(run.id):
                surface_glb(run.surface(), run.id)
        return time.perf_counter() - begin


def test_forty_places_of_a_window(benchmark: Any) -> None:
    """Goal: no more than 1.3 times one place."""
    one, forty = Worked(1), Worked(40)
    for worked in (one, forty):
        worked.once()
    times = [(one.once(), forty.once()) for _ in range(ROUNDS)]
    benchmark.pedantic(forty.once, rounds=5)
    ratio = median(b for _, b in times) / median(a for a, _ in times)
    meshes = len({run.key for run, _ in standing_runs(forty.solved)})
    report(
        benchmark,
        ratio=ratio,
        milliseconds=median(b for _, b in times) * 1000,
        meshes=meshes,
        standing=sum(1 for _ in standing_runs(forty.solved)),
    )

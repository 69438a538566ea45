"""Two hundred runs of six thousand pieces, a third of them coped and a third jointed. Goals stand with each figure."""

from __future__ import annotations

import math
import resource
from typing import Any

import numpy as np
from pydantic_core import to_json
from reporting import report

from slow_ribbon.core.cutting import cutting_list, schedule
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import RunChanges, SetRun, apply
from slow_ribbon.core.lines.model import line_body, with_id
from slow_ribbon.core.runs import Run
from slow_ribbon.core.sections import Section, SectionBody
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve import solve
from slow_ribbon.core.solve.solver import Solver
from slow_ribbon.exports.pdf import cutting_pdf
from slow_ribbon.service.views.runs import run_shown

RUNS, CORNERS = 200, 30


def workshop() -> Job:
    """Rooms with a nib on every wall, run round with a moulding: coped inside, jointed to bars of 4.2 m, or mitred, by turns."""
    body = from_library("skirting-torus")
    section = Section(id="S1", **{name: getattr(body, name) for name in SectionBody.model_fields})
    ways: list[dict[str, Any]] = [
        {"corners": {"kind": "cope"}, "external": {"kind": "mitre"}},
        {"joints": {"bars": [4200], "made": "scarf", "placed": "full", "least": 300}},
        {},
    ]
    lines, runs, letters = [], [], "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
    for number in range(RUNS):
        count = CORNERS if number % 3 != 1 else CORNERS // 2
        # Of joints there is one on every leg: legs are longer than a bar, and half as many.
        radius = 24_000.0 if number % 3 == 1 else 6_000.0
        points = [
            (
                (radius - 700 * (i % 2)) * math.cos(2 * math.pi * i / count),
                (radius - 700 * (i % 2)) * math.sin(2 * math.pi * i / count),
                0.0,
            )
            for i in range(count - count % 2)
        ]
        lines.append(with_id(line_body(points, True, f"Room {number}"), f"L{number + 1}"))
        runs.append(
            Run.model_validate(
                {"id": f"R{number + 1}", "name": "Skirting", "tag": "S" + letters[number // 26] + letters[number % 26],
                 "line": f"L{number + 1}", "section": "S1",
                 "placing": {"facing": {"kind": "left"}}, **ways[number % 3]}
            )
        )  # fmt: skip
    return Job(name="Workshop", lines=tuple(lines), sections=(section,), runs=tuple(runs), last_number=RUNS)


def test_its_list_on_paper(benchmark: Any) -> None:
    """Goal: 4,000 pieces, no two alike, on paper in 10 s, and within 500 MB at its greatest."""
    job, random = workshop(), np.random.default_rng(28)
    lines = []
    for line in job.lines[:67]:
        steps = np.column_stack([random.uniform(600, 3000, 60), random.uniform(-250, 250, 60), np.zeros(60)])
        lines.append(with_id(line_body(np.cumsum(steps, axis=0).tolist(), False, line.name), line.id))
    runs = tuple(run.model_copy(update={"joints": None}) for run in job.runs[:67])
    solved = solve(job.model_copy(update={"runs": runs, "lines": tuple(lines)}))
    pieces = schedule(solved).job.pieces
    written = benchmark.pedantic(lambda: cutting_pdf(solved), rounds=2)
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    report(benchmark, pieces=pieces, rows=len(cutting_list(solved)), kilobytes=len(written) / 1024, most_megabytes=most)


def test_all_of_it_solved_anew(benchmark: Any) -> None:
    """Goal: within 1.2 s; what 3D draws of it within 300,000 triangles."""
    # A job of its own each time: nothing is kept with its lines and runs.
    solved = benchmark.pedantic(lambda job: Solver().solve(job), setup=lambda: ((workshop(),), {}), rounds=5, warmup_rounds=1)
    shaped = sum(len(run.cuts.shaped) for run in solved.runs.values())
    joints = sum(len(run.joints) for run in solved.runs.values())
    report(
        benchmark, pieces=sum(run.pieces for run in solved.runs.values()), coped=shaped, joints=joints,
        triangles=sum(len(run.surface().faces) for run in solved.runs.values()), seconds=benchmark.stats.stats.median,
    )  # fmt: skip


def test_the_section_of_all_of_it_changed(benchmark: Any) -> None:
    """Goal: within 1.2 s."""
    job, solver = workshop(), Solver()
    solver.solve(job)
    heights = iter(range(1000))

    def change() -> None:
        section = job.sections[0].model_copy(update={"height": job.sections[0].height + 1 + next(heights)})
        solver.solve(job.model_copy(update={"sections": (section,)}))

    benchmark.pedantic(change, rounds=5, warmup_rounds=1)
    report(benchmark, seconds=benchmark.stats.stats.median)


def test_one_way_of_making_corners_changed(benchmark: Any) -> None:
    """Goal: 60 ms to the last mesh, 95 in 100."""
    job, solver = workshop(), Solver()
    solve(job)
    solver.solve(job)
    turns = iter(range(1000))

    def change() -> None:
        way = ("after", "before")[next(turns) % 2]
        run = Run.model_validate({**job.runs[0].model_dump(), "corners": {"kind": "cope", "coped": way}, "external": {"kind": "mitre"}})
        solver.solve(job.model_copy(update={"runs": (run, *job.runs[1:])})).runs["R1"].surface()

    benchmark.pedantic(change, rounds=30, warmup_rounds=2)
    report(benchmark, milliseconds_p95=sorted(benchmark.stats.stats.data)[28] * 1000)


def test_a_joint_dragged(benchmark: Any) -> None:
    """Goal: 15 previews a second, each the edit, the run solved and its figures written: 66 ms."""
    job, solver = workshop(), Solver()
    before = solver.solve(job)
    run = job.runs[1]
    joints = list(before.runs[run.id].joints)
    steps = iter(range(10_000))

    def drag() -> None:
        moved = [joints[0] + 10 * (1 + next(steps) % 50), *joints[1:]]
        edit = SetRun(run=run.id, changes=RunChanges.model_validate({"joints": {"at": moved}}))
        solved = solver.solve(apply(job, edit), before)
        to_json(run_shown(solved.runs[run.id]))

    benchmark.pedantic(drag, rounds=40, warmup_rounds=2)
    report(benchmark, seconds=benchmark.stats.stats.median)

"""A job with all that was added, made by edits and solved; its figures as JSON. Run with a program to which they were added."""

from __future__ import annotations

import json

from pydantic import TypeAdapter

from slow_ribbon.core.cutting.cutting_list import cutting_list
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits import AnyEdit, apply
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.solve import solve

LINE = {
    "name": "Edge", "start": [0, 0, 0],
    "legs": [{"kind": "straight", "to": [3000, 0, 0]}, {"kind": "dogleg", "by": [3000, 2000, 0], "to": [7000, 2000, 0]}],
}  # fmt: skip
#: Forty wide and ninety high, its top a parabola that rises by 30: the straights at its ends meet 60 above it.
SECTION = {
    "name": "Coping", "material": "oak", "width": 40, "height": 90,
    "outline": {
        "start": [0, 0],
        "edges": [
            {"kind": "straight", "to": [40, 0]}, {"kind": "straight", "to": [40, 60]},
            {"kind": "parabola", "to": [0, 60], "meeting": [20, 120]}, {"kind": "straight", "to": [0, 0]},
        ],
    },
}  # fmt: skip
ROW = {
    "name": "Lamp", "line": "L1", "item": {"kind": "round", "diameter": 60, "height": 100},
    "spacing": {"rule": {"kind": "growing", "bay": 500, "factor": 2}},
}  # fmt: skip
OPEN = {"kind": "open", "short": 25}
EDITS = [
    {"kind": "add_lines", "lines": [LINE]},
    {"kind": "add_section", "section": SECTION},
    {"kind": "add_runs", "section": "S2", "lines": ["L1"]},
    {"kind": "set_run", "run": "R3", "changes": {"corners": OPEN, "external": OPEN, "last_end": {"kind": "splayed", "run": 3}}},
    {"kind": "add_row", "row": ROW},
    {"kind": "reverse_lines", "lines": ["L1"]},
]

if __name__ == "__main__":
    job = Job(name="Added")
    for edit in EDITS:
        job = apply(job, TypeAdapter(AnyEdit).validate_python(edit))
    assert job_from_text(job_to_text(job)) == job
    solved = solve(job)
    run, row = solved.runs["R3"], solved.rows[job.rows[0].id]
    figures = {
        "area": run.cuts.placed.shape.area,
        "lengths": run.cuts.line_lengths.tolist(),
        "long": run.cuts.long_points.tolist(),
        "volume": float(run.cuts.volumes.sum()),
        "places": row.out.chainages.tolist(),
        "list": [[row.quantity, row.line_length, row.begin.shaped, row.end.shaped] for row in cutting_list(solved)],
    }
    print(json.dumps(figures))

"""The cutting list of a solved job: the rows of its runs, and of what stands in several places."""

from __future__ import annotations

from slow_ribbon.core.cutting.cut_rows import (
    CutRow,
    run_rows,
)
from slow_ribbon.core.cutting.rows_of_typicals import rows_in_places
from slow_ribbon.core.solve.results import Solved


def cutting_list(solved: Solved) -> list[CutRow]:
    """Return the cutting list of a job: run after run, equal pieces grouped, in order of travel.

    >>> from slow_ribbon.core.cutting.cut_rows import describe_cut
    >>> from slow_ribbon.core.job.document.document import Job
    >>> from slow_ribbon.core.job.edits.apply import apply_all
    >>> from slow_ribbon.core.job.edits.lines import AddLines
    >>> from slow_ribbon.core.job.edits.runs import AddRuns
    >>> from slow_ribbon.core.job.edits.sections import AddSection
    >>> from slow_ribbon.core.lines.model import line_body
    >>> from slow_ribbon.core.sections.library import rectangle
    >>> from slow_ribbon.core.sections.document.section import SectionBody
    >>> from slow_ribbon.core.solve.solver import solve
    >>> room = line_body([(0, 0, 0), (4000, 0, 0), (4000, 3000, 0), (0, 3000, 0)], True, "Room")
    >>> batten = SectionBody(name="Batten", outline=rectangle(20, 100), width=20, height=100)
    >>> edits = [AddLines(lines=(room,)), AddSection(section=batten), AddRuns(section="S2", lines=("L1",))]
    >>> solved = solve(apply_all(Job(name="Room"), edits).job)
    >>> [(row.tags, row.long_point, row.short_point, describe_cut(row.begin)) for row in cutting_list(solved)]
    [(('B1', 'B3'), 4040.0, 4000.0, 'bevel 45.0°'), (('B2', 'B4'), 3040.0, 3000.0, 'bevel 45.0°')]
    """
    within = rows_in_places(solved)
    return [row for run in solved.runs.values() for row in within.get(run.id, None) or (() if run.id in within else run_rows(run))]


def notes_of(solved: Solved, row: CutRow) -> list[str]:
    """Return the notes of the pieces of a row, each with its tag where the row has several."""
    run = solved.job.run(row.run)
    tags = {run.number_of(index): run.tag_of(index) for index in row.pieces}
    return [f"{tags[note.number]}: {note.text}" if len(tags) > 1 else note.text for note in run.notes if note.number in tags]


def section_named(solved: Solved, row: CutRow) -> str:
    """Return the name that the section of a row has in the job now."""
    first = solved.job.run(row.run).section
    if row.section.id != first:
        return solved.job.section(row.section.id).name
    # A second section that the job has none of, in a place with a measure of its own, goes by the name of its first.
    name, second = solved.job.section(first).name, row.section.name != solved.runs[row.run].section.name
    return f"{name}, on the rise" if second else name

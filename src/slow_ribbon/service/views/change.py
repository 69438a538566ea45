"""The answers about a job: how it stands, its figures, and what an edit changed of them."""

from __future__ import annotations

from typing_extensions import TypedDict

from slow_ribbon.core.job import Job, JobDelta
from slow_ribbon.service.views.checks import CheckFigures
from slow_ribbon.service.views.cutting import Totals
from slow_ribbon.service.views.lines import LineFigures
from slow_ribbon.service.views.rows import RowFigures
from slow_ribbon.service.views.runs import RunFigures
from slow_ribbon.service.views.sections import SectionFigures
from slow_ribbon.service.views.sentences import Sentence
from slow_ribbon.service.views.typicals import TypicalFigures


class JobStanding(TypedDict):
    """Where a job stands: its revision, and in words what undo would take back and redo bring back."""

    id: str
    revision: int
    undo: str | None
    redo: str | None


class JobOpened(JobStanding):
    """A job as it stands at a revision; the figures of its things follow in a stream."""

    job: Job


class Figures(TypedDict):
    """What follows from a job, of some of its things. Lengths in mm, angles in degrees.

    ``cuts`` are the keys by which the rows of the cutting list are asked for, by run or, of all that stands in its places, by typical:
    rows of the same key are the same. ``checks`` are the checks of each.
    """

    lines: list[LineFigures]
    sections: list[SectionFigures]
    runs: list[RunFigures]
    rows: list[RowFigures]
    typicals: list[TypicalFigures]
    cuts: dict[str, str]
    checks: dict[str, list[CheckFigures]]


class FiguresPart(Figures):
    """A part of the figures of a whole job: ``done`` things of ``of`` with this one; ``totals`` come with the last."""

    revision: int
    done: int
    of: int
    totals: Totals | None


class JobChange(JobStanding, Figures):
    """What changed of a job since revision ``since``, and of the figures that follow from it.

    In the answer to an edit, and to a look at one, ``made`` are the ids of new things; ``notices`` are
    sentences about an edit: a field no longer follows a measure, say. Runs and sections whose totals are as they were
    are left out of ``totals``; a thing that is gone from the job has no figures any more. Of very many
    new lines the figures come ``later``, in parts, as when a job is opened.
    """

    since: int
    later: bool
    job: JobDelta
    totals: Totals
    made: list[str]
    notices: list[Sentence]

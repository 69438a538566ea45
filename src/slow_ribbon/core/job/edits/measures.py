"""Edits of measures, and of what follows them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.job.derived.formulas import bound, measured
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import GROUPS
from slow_ribbon.core.job.document.named_places import NamedPlace, both_ends
from slow_ribbon.core.job.edits.base import Edit
from slow_ribbon.core.kernel.measures import Formula, MeasureChange
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.placement.run import Run


class SetMeasures(Edit):
    """Add, change and remove measures of the job together; the others stay, and everything that depends on them follows."""

    touches = frozenset({"measures"})

    kind: Literal["set_measures"] = "set_measures"
    measures: Annotated[tuple[MeasureChange, ...], Field(min_length=1, max_length=2000, fail_fast=True)]

    def apply(self, job: Job) -> Job:
        return job.model_copy(update={"measures": measured(job, self.measures)})

    def describe(self, job: Job) -> str:
        done = []
        for verb, names in (
            ("removed", [one.was or one.name or "" for one in self.measures if one.remove]),
            ("set", [one.name or one.was or "" for one in self.measures if not one.remove]),
        ):
            if names:
                done.append(f"{verb} {', '.join(names)}")
        return f"{' and '.join(done)} among the measures"[:200]


class Bind(Edit):
    """Let a length of a thing follow a text with measures in it; a text without measures only sets it."""

    touches = frozenset({*GROUPS, "formulas"})

    kind: Literal["bind"] = "bind"
    formula: Formula

    def apply(self, job: Job) -> Job:
        return bound(job, self.formula)

    def named_places(self, job: Job) -> tuple[NamedPlace, ...]:
        thing = next((one for one in job.things() if one.id == self.formula.thing), None)
        if isinstance(thing, Row | Run):
            return both_ends(thing.line)
        if not isinstance(thing, Line):
            return ()
        group, _, rest = self.formula.field.partition(".")
        return (NamedPlace(thing.id, "point", int(rest.partition(".")[0])),) if group == "points" else both_ends(thing.id)

    def describe(self, job: Job) -> str:
        name = next((thing.name for thing in job.things() if thing.id == self.formula.thing), self.formula.thing)
        return f"let {self.formula.field.split('.')[-1].replace('_', ' ')} of {name} be {self.formula.text}"

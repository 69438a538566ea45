"""What stands in the places of a typical refers to nothing that does not stand there with it, nor the other way round."""

from __future__ import annotations

from collections.abc import Iterable

from slow_ribbon.core.job.derived.expansion import Expansion
from slow_ribbon.core.job.document.kinds import LINES, ROWS, RUNS, TYPICALS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.placement.run import Run


def check_same_places(expansion: Expansion, thing: Run | Row, references: Iterable[str]) -> None:
    """Raise ``Refused`` where a thing that stands in several places refers to one that stands in one, or the other way round."""
    kinds = (RUNS, ROWS, LINES)
    for id in references:
        other: Run | Row | Line | None = next((found for kind in kinds if (found := expansion.find(kind, id)) is not None), None)
        if other is None:
            continue
        theirs = other.id if isinstance(other, Line) else other.line
        for typical in expansion.all(TYPICALS):
            if typical.places and (thing.line in typical.lines) != (theirs in typical.lines):
                inside, outside = (thing, other) if thing.line in typical.lines else (other, thing)
                what = (
                    f"{inside.name} repeats in every place of {typical.name} but {outside.name} does not, so {thing.name} cannot refer "
                    f"to {other.name}. Put both into the typical, or neither."
                )
                raise Refused(what, "to", "other-places")

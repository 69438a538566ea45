"""Deriving what follows in a job: after an edit what follows from what was changed, and everything when a document is read."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job.derived.corner_overrides import CORNER_OVERRIDES
from slow_ribbon.core.job.derived.expand_rules import ROWS_BY_RULE, RUNS_BY_RULE, made_by_rules
from slow_ribbon.core.job.derived.expansion import Expansion, Step
from slow_ribbon.core.job.derived.facings import ROOM_SIDES
from slow_ribbon.core.job.derived.formulas import fields_found, formulas_kept, formulas_set, sizes_followed
from slow_ribbon.core.job.derived.made_lines import MADE_LINES, points_numbered
from slow_ribbon.core.job.derived.numbering import NUMBERS
from slow_ribbon.core.job.derived.place_typicals import PLACES, items_left, lines_left
from slow_ribbon.core.job.derived.raked_members import SECOND_SECTIONS, SECONDS
from slow_ribbon.core.job.derived.row_obstacles import OBSTACLES
from slow_ribbon.core.job.derived.run_dependencies import NEIGHBOURS
from slow_ribbon.core.job.document.document import Job

#: What is derived, in stages: what runs and rows by rule are like decides what else follows of them; numbers and places stand on all else.
STAGES: Final[tuple[tuple[Step, ...], ...]] = (
    (RUNS_BY_RULE,),
    (ROWS_BY_RULE,),
    # A line set out for a run follows the run as far as the side it faces, and what comes after that stands on the line.
    (SECOND_SECTIONS, MADE_LINES, OBSTACLES, ROOM_SIDES, CORNER_OVERRIDES, SECONDS, NEIGHBOURS),
    (PLACES,),
)


def derive_again(before: Job, after: Job, whole: bool = True) -> tuple[Job, tuple[str, ...]]:
    """Return a job, just edited, with everything brought after what it follows, and in words what no longer follows.

    Things that were changed by hand stop following. A part of a job, which is not the ``whole`` of it, gets no new sections
    or numbers of pieces. Raises ``Refused`` where a measure cannot be worked out, or what follows cannot be.
    """
    notices: list[str] = []
    lengths = after.lengths()
    after = fields_found(before, points_numbered(before, after))
    if lengths is not before.lengths() and lengths != before.lengths():
        after = sizes_followed(formulas_set(after, lengths), lengths)
    else:
        after = formulas_kept(before, after, lengths, notices)
    after = items_left(before, lines_left(before, made_by_rules(before, after), notices), notices)
    expansion = Expansion(before, after, (*STAGES, (NUMBERS,)) if whole else STAGES, whole)
    after = _of_what_is_there(expansion.derive())
    return after, (*notices, *expansion.notices)


def derive_read(before: Job | None, document: Job) -> Job:
    """Return the job of a document that was read, with everything that it derives; ``before`` is a state that is known already.

    Raises ``Refused`` where things follow one another in a circle, or what is followed is not there or cannot be.
    """
    return Expansion(before, document, STAGES, read=True).derive()


def _of_what_is_there(job: Job) -> Job:
    """Return the job without acceptances of checks of things that are gone."""
    if not job.accepted:
        return job
    there = {thing.id for thing in job.things()}
    left = tuple(one for one in job.accepted if one.thing in there)
    return job if len(left) == len(job.accepted) else job.model_copy(update={"accepted": left})

"""Stretches of a line: between two of its openings, or between one and an end of the line."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated

from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Id, Model
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.model import Line


class Between(Model):
    """A stretch by what bounds it: the opening it comes after and the one before which it ends; an end of the line where left out.

    So it stays the same stretch when the line is worked on, and both parts of it when an
    opening is put into it.
    """

    after: Id | None = None
    before: Id | None = None


Stretches = Annotated[tuple[Between, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]


@dataclass(frozen=True)
class Extent:
    """A stretch of a line with where it begins and how long it is, mm."""

    between: Between
    begin: float
    length: float


def extent(line: Line, between: Between, length: float) -> tuple[float, float]:
    """Return (begin chainage, length) of a stretch. Raises ``Refused`` where it is bounded by an opening that is not there."""
    openings = {opening.id: opening for opening in line.openings}
    for id in (between.after, between.before):
        if id is not None and id not in openings:
            raise Refused(
                f"{line.name} no longer has this stretch: an opening that bounded it was removed. Choose the run's stretches again.",
                "stretches",
                "unknown-stretch",
            )
    after, before = openings.get(between.after), openings.get(between.before)
    if line.closed:
        if after is None or before is None:
            return 0.0, length
        begin = (after.at + after.width) % length
        return begin, (length - after.width if after is before else (before.at - begin) % length)
    if after is not None and before is not None and after.at > before.at:
        after, before = before, after
    begin = after.at + after.width if after is not None else 0.0
    return begin, max(0.0, (before.at if before is not None else length) - begin)


def stretches_between(line: Line, length: float) -> list[Extent]:
    """Return the stretches between a line's openings in order; on a closed line the last goes over the start."""
    taken = sorted(line.openings, key=lambda opening: opening.at)
    if not taken:
        return [Extent(Between(), 0.0, length)]
    bounds = [opening.id for opening in taken]
    found = [Between(after=a, before=b) for a, b in pairwise(bounds)]
    found = (
        [*found, Between(after=bounds[-1], before=bounds[0])]
        if line.closed
        else [Between(before=bounds[0]), *found, Between(after=bounds[-1])]
    )
    extents = [Extent(between, *extent(line, between, length)) for between in found]
    return [one for one in extents if one.length > WELD]

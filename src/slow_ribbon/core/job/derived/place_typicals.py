"""Typicals updated after what they depend on: lines that were removed or split, grids and lines that their places lie along."""

from __future__ import annotations

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import TYPICALS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.places import MOST_PLACES, Place, PlacesAlong, Typical, laid_out, place_names


def places_laid(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, whose typicals do without lines that are gone and whose places lie where they are laid; reported in words.

    Raises ``Refused`` where an edit lays places that cannot be; those that a changed line no longer has room for stay as they were.
    """
    if not after.typicals or (before.lines is after.lines and before.typicals is after.typicals):
        return after
    old = {typical.id: typical for typical in before.typicals}
    there = {line.id for line in after.lines}
    kept: list[Typical] = []
    number = after.last_number
    for typical in after.typicals:
        lines = tuple(id for id in typical.lines if id in there)
        if not lines:
            notices.append(f"{typical.name} was removed with the last of its lines.")
            continue
        typical = typical if len(lines) == len(typical.lines) else typical.model_copy(update={"lines": lines})
        if isinstance(typical.laid, PlacesAlong) and typical.laid.line not in there:
            notices.append(f"The places of {typical.name} stay where they are: the line along which they were laid was removed.")
            typical = typical.model_copy(
                update={"laid": None, "places": tuple(one.model_copy(update={"laid": None}) for one in typical.places)}
            )
        was = old.get(typical.id)
        asked = was is None or (was.laid, was.base, was.heading) != (typical.laid, typical.base, typical.heading)
        if typical.laid is not None and (asked or _moved(before, after, typical)):
            try:
                typical, number = laid_anew(after, typical, number)
            except Refused as refused:
                if asked:
                    raise
                notices.append(f"The places of {typical.name} stay as they are: {refused.what}")
        kept.append(typical)
    if len(kept) == len(after.typicals) and all(one is other for one, other in zip(kept, after.typicals, strict=True)):
        return after
    return after.model_copy(update={TYPICALS.group: tuple(kept), "last_number": number})


def _moved(before: Job, after: Job, typical: Typical) -> bool:
    """Return whether the line along which a typical lies is another than it was."""
    return isinstance(typical.laid, PlacesAlong) and before.some("lines", [typical.laid.line]) != after.some("lines", [typical.laid.line])


def laid_anew(job: Job, typical: Typical, number: int) -> tuple[Typical, int]:
    """Return a typical with its places where they are laid, and the last number given out; each keeps its name and what it has of its own.

    Raises ``Refused`` as ``laid_out`` does.
    """
    assert typical.laid is not None
    along = job.line(typical.laid.line) if isinstance(typical.laid, PlacesAlong) else None
    if along is not None and along.id in typical.lines:
        # It would hold itself, and is refused when it is checked.
        return typical, number
    spots = laid_out(typical.laid, typical.base, typical.heading, along)
    known = {one.laid: one for one in typical.places if one.laid is not None}
    by_hand = [one for one in typical.places if one.laid is None]
    if len(spots) + len(by_hand) > MOST_PLACES:
        what = f"{typical.name} would stand in {len(spots) + len(by_hand) + 1:,} places; {MOST_PLACES:,} is the most."
        raise Refused(what, "laid", "too-many")
    names = iter(place_names(typical.here, len(spots), [one.name for one in typical.places]))
    places = []
    for index, (at, turn) in enumerate(spots):
        if index in known:
            places.append(known[index].model_copy(update={"at": at, "turn": turn}))
        else:
            number += 1
            places.append(Place(id=f"W{number}", name=next(names), at=at, turn=turn, laid=index))
    return typical.model_copy(update={"places": (*places, *by_hand)}), number

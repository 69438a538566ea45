"""The tree of a job's revisions: which was made from which, and what lies between two (``jobs`` has the terms)."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from slow_ribbon.store.tables import JobRow, RevisionRow


def made_by(session: Session, id: str, request: str) -> int | None:
    """Return the revision that a request made; None where it made none."""
    return session.scalar(select(RevisionRow.number).where(RevisionRow.job_id == id, RevisionRow.request == request))


def parent_of(session: Session, id: str, number: int) -> int | None:
    """Return the revision that one was made from; None for the first."""
    return session.scalar(select(RevisionRow.parent).where(RevisionRow.job_id == id, RevisionRow.number == number))


def said_of(session: Session, id: str, number: int) -> str:
    """Return the change that a revision made, in words."""
    said = session.scalar(select(RevisionRow.said).where(RevisionRow.job_id == id, RevisionRow.number == number))
    return ", ".join(said or [])


def ancestors(session: Session, id: str, number: int, until: int = 0) -> list[int]:
    """Return a revision and its ancestors, newest first, down to the first one not above ``until``."""
    first = select(RevisionRow.number, RevisionRow.parent).where(RevisionRow.job_id == id, RevisionRow.number == number).cte(recursive=True)
    further = select(RevisionRow.number, RevisionRow.parent).where(
        RevisionRow.job_id == id, RevisionRow.number == first.c.parent, first.c.number > until
    )
    way = first.union_all(further)
    return sorted(session.scalars(select(way.c.number)), reverse=True)


def toward_tip(session: Session, row: JobRow) -> int | None:
    """Return the revision that redo goes to: the child of the current one on the way to the tip."""
    if row.current == row.tip:
        return None
    ahead = [number for number in ancestors(session, row.id, row.tip, row.current) if number > row.current]
    return min(ahead)


def changes_between(session: Session, id: str, base: int, current: int) -> list[str]:
    """Return in words what happened between two revisions: steps undone, then steps made."""
    back, forth = ancestors(session, id, base), ancestors(session, id, current)
    undone = [number for number in back if number not in forth]
    made = sorted(number for number in forth if number not in back)
    said = [f"undone: {said_of(session, id, number)}" for number in undone]
    said += [said_of(session, id, number) for number in made]
    return said or ["another revision is current"]

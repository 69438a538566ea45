"""The repository of jobs: open, change, undo and redo, list, copy, put away.

Terms
-----
revision
    a saved state of a job, numbered from 1 within it, with the revision it was made from as
    its *parent*. Revisions are never changed or deleted.
current
    the revision a job stands at. Undo moves it to its parent; redo moves it back along the
    way it came, up to the *tip*.
base
    the revision an edit was made against. If it is not the current one, the edit is carried on
    to that where it can be, and else refused with what has changed in between.
"""

from __future__ import annotations

import datetime
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

from sqlalchemy import Engine, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.job import Job
from slow_ribbon.core.upgrade import brought_up_to_date
from slow_ribbon.store.tables import JobRow, OriginalRow, RevisionRow


class Unknown(LookupError):
    """No job, or no original, has this id."""


class Conflict(Exception):
    """An edit was made against a revision that is no longer current.

    ``changes`` tells, oldest first, what has happened between ``base`` and ``current``.
    """

    def __init__(self, base: int, current: int, changes: list[str]) -> None:
        super().__init__("the job has changed")
        self.base = base
        self.current = current
        self.changes = changes


@dataclass(frozen=True)
class Summary:
    """A line of the list of jobs."""

    id: str
    name: str
    put_away: bool
    changes: int
    lines: int
    runs: int
    rows: int
    changed_at: datetime.datetime


@dataclass(frozen=True)
class Opened:
    """A job as it stands: ``undo`` and ``redo`` tell in words what each would take back or bring back."""

    id: str
    revision: int
    job: Job
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Past:
    """A revision in the history; ``undone`` where the job does not stand on it now."""

    number: int
    said: str
    made_at: datetime.datetime
    current: bool
    undone: bool


@dataclass(frozen=True)
class Changed:
    """What a change makes of a job: the document, the edits that led to it as plain data, and what they said."""

    job: Job
    edits: list[Any]
    said: list[str]


#: From the current document, and the older one a change was made against where that is another,
#: to what it makes of the current one; nothing where the two cannot be brought together.
Change = Callable[[Job, Job | None], Changed | None]
#: How often a change is tried anew when others are saved while it is worked out.
_TRIES = 100


class Jobs:
    """Jobs in a database. Every method is one transaction; database faults pass through as SQLAlchemy's."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        # A revision never changes, so its parsed document can be kept.
        self._document = lru_cache(maxsize=64)(self._read_document)

    def summaries(self) -> list[Summary]:
        """Return all jobs, the one changed last first."""
        counts = [func.jsonb_array_length(RevisionRow.document[part]) for part in ("lines", "runs", "rows")]
        here = (RevisionRow.job_id == JobRow.id) & (RevisionRow.number == JobRow.current)
        wanted = select(JobRow, *counts).join(RevisionRow, here).order_by(JobRow.changed_at.desc(), JobRow.id)
        with Session(self._engine) as session:
            return [
                Summary(job.id, job.name, job.put_away, job.last_revision - 1, lines, runs, rows, job.changed_at)
                for job, lines, runs, rows in session.execute(wanted)
            ]

    def add(self, job: Job, said: str, id: str | None = None) -> str:
        """Keep a new job, under a given id or a new one, and return the id."""
        id = id or uuid.uuid4().hex[:12]
        with Session(self._engine) as session, session.begin():
            session.add(JobRow(id=id, name=job.name, put_away=False, current=1, tip=1, last_revision=1))
            session.flush()
            session.add(_revision(id, 1, None, job, [], [said]))
        return id

    def open(self, id: str) -> Opened:
        """Return a job as it stands. Raises ``Unknown``."""
        with Session(self._engine) as session:
            row = _job_row(session, id)
            return self._opened(session, row, self._document(id, row.current))

    def current(self, id: str) -> int:
        """Return the number of a job's current revision. Raises ``Unknown``."""
        with Session(self._engine) as session:
            return _job_row(session, id).current

    def at(self, id: str, revision: int) -> Job:
        """Return the document of a revision. Raises ``Unknown``."""
        return self._document(id, revision)

    def change(self, id: str, base: int, change: Change) -> Opened:
        """Save what ``change`` makes of the current document as a new revision.

        It is worked out with nothing locked, and anew where another revision became current
        meanwhile. Raises ``Unknown``; ``Conflict`` where ``base`` is not current and ``change``
        cannot be carried on; and whatever ``change`` raises, with nothing saved.
        """
        current = self.current(id)
        for _ in range(_TRIES):
            try:
                was = None if current == base else self._document(id, base)
            except Unknown:
                # A revision that there is not says nothing of what was seen.
                break
            made = change(self._document(id, current), was)
            if made is None:
                break
            with Session(self._engine) as session, session.begin():
                row = session.get(JobRow, id, with_for_update=True)
                if row is None:
                    raise Unknown(id)
                if row.current == current:
                    number = row.last_revision + 1
                    session.add(_revision(id, number, row.current, made.job, made.edits, made.said))
                    row.current = row.tip = row.last_revision = number
                    row.name, row.changed_at = made.job.name, func.now()
                    session.flush()
                    return self._opened(session, row, made.job)
                current = row.current
        with Session(self._engine) as session:
            raise Conflict(base, current, _changes(session, id, base, current))

    def step(self, id: str, base: int, way: Literal["undo", "redo"]) -> Opened:
        """Undo or redo one revision. Raises ``Refused`` where there is nothing to undo or redo."""
        with Session(self._engine) as session, session.begin():
            row = self._locked(session, id, base)
            there = _parent(session, id, row.current) if way == "undo" else _toward_tip(session, row)
            if there is None:
                raise Refused(f"There is nothing to {way}.", "", f"nothing-to-{way}")
            row.current = there
            row.name, row.changed_at = self._document(id, there).name, func.now()
            session.flush()
            return self._opened(session, row, self._document(id, there))

    def set_put_away(self, id: str, put_away: bool) -> None:
        """Put a job away or bring it back. Raises ``Unknown``."""
        with Session(self._engine) as session, session.begin():
            found = session.execute(update(JobRow).where(JobRow.id == id).values(put_away=put_away).returning(JobRow.id)).first()
            if found is None:
                raise Unknown(id)

    def history(self, id: str, most: int = 500) -> list[Past]:
        """Return the newest revisions, newest first. Raises ``Unknown``."""
        wanted = (
            select(RevisionRow.number, RevisionRow.parent, RevisionRow.said, RevisionRow.made_at)
            .where(RevisionRow.job_id == id)
            .order_by(RevisionRow.number.desc())
        )
        with Session(self._engine) as session:
            row = _job_row(session, id)
            found = session.execute(wanted).all()
            parents = {number: parent for number, parent, _, _ in found}
            standing: set[int] = set()
            at: int | None = row.current
            while at is not None:
                standing.add(at)
                at = parents[at]
            return [
                Past(number, ", ".join(said), made_at, number == row.current, number not in standing)
                for number, _, said, made_at in found[:most]
            ]

    def keep_original(self, content: str, file: str, data: bytes) -> None:
        """Keep a file that was brought in, by its hash; the same file twice is kept once."""
        with Session(self._engine) as session, session.begin():
            session.execute(insert(OriginalRow).values(content=content, file=file, data=data).on_conflict_do_nothing())

    def has(self, content: str) -> bool:
        """Tell whether a file that was brought in is kept under this hash."""
        with Session(self._engine) as session:
            return session.scalar(select(OriginalRow.content).where(OriginalRow.content == content)) is not None

    def original(self, content: str) -> tuple[str, bytes]:
        """Return the name and the bytes of a file that was brought in. Raises ``Unknown``."""
        with Session(self._engine) as session:
            row = session.get(OriginalRow, content)
            if row is None:
                raise Unknown(content)
            return row.file, row.data

    def _locked(self, session: Session, id: str, base: int) -> JobRow:
        row = session.get(JobRow, id, with_for_update=True)
        if row is None:
            raise Unknown(id)
        if row.current != base:
            raise Conflict(base, row.current, _changes(session, id, base, row.current))
        return row

    @staticmethod
    def _opened(session: Session, row: JobRow, job: Job) -> Opened:
        ahead = _toward_tip(session, row)
        undo = _said(session, row.id, row.current) if _parent(session, row.id, row.current) is not None else None
        redo = _said(session, row.id, ahead) if ahead is not None else None
        return Opened(row.id, row.current, job, undo, redo)

    def _read_document(self, id: str, number: int) -> Job:
        wanted = select(RevisionRow.document).where(RevisionRow.job_id == id, RevisionRow.number == number)
        with Session(self._engine) as session:
            document = session.scalar(wanted)
        if document is None:
            raise Unknown(f"{id}/{number}")
        return Job.model_validate(brought_up_to_date(document))


def _revision(id: str, number: int, parent: int | None, job: Job, edits: list[Any], said: list[str]) -> RevisionRow:
    return RevisionRow(job_id=id, number=number, parent=parent, document=job.model_dump(mode="json"), edits=edits, said=said)


def _job_row(session: Session, id: str) -> JobRow:
    row = session.get(JobRow, id)
    if row is None:
        raise Unknown(id)
    return row


def _parent(session: Session, id: str, number: int) -> int | None:
    return session.scalar(select(RevisionRow.parent).where(RevisionRow.job_id == id, RevisionRow.number == number))


def _said(session: Session, id: str, number: int) -> str:
    said = session.scalar(select(RevisionRow.said).where(RevisionRow.job_id == id, RevisionRow.number == number))
    return ", ".join(said or [])


def _ancestors(session: Session, id: str, number: int, until: int = 0) -> list[int]:
    """Return a revision and its ancestors, newest first, down to the first one not above ``until``."""
    first = select(RevisionRow.number, RevisionRow.parent).where(RevisionRow.job_id == id, RevisionRow.number == number).cte(recursive=True)
    further = select(RevisionRow.number, RevisionRow.parent).where(
        RevisionRow.job_id == id, RevisionRow.number == first.c.parent, first.c.number > until
    )
    way = first.union_all(further)
    return sorted(session.scalars(select(way.c.number)), reverse=True)


def _toward_tip(session: Session, row: JobRow) -> int | None:
    """Return the revision that redo goes to: the child of the current one on the way to the tip."""
    if row.current == row.tip:
        return None
    ahead = [number for number in _ancestors(session, row.id, row.tip, row.current) if number > row.current]
    return min(ahead)


def _changes(session: Session, id: str, base: int, current: int) -> list[str]:
    """Return in words what happened between two revisions: steps undone, then steps made."""
    back, forth = _ancestors(session, id, base), _ancestors(session, id, current)
    undone = [number for number in back if number not in forth]
    made = sorted(number for number in forth if number not in back)
    told = [f"undone: {_said(session, id, number)}" for number in undone]
    told += [_said(session, id, number) for number in made]
    return told or ["another revision is current"]

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

import json
import threading
import uuid
from contextlib import ExitStack
from typing import Final, Literal

from sqlalchemy import Engine, Integer, Text, bindparam, func, select, text, update
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from slow_ribbon.core.job import Job, delta, new_ids, written_change, written_job
from slow_ribbon.core.kernel import Refused
from slow_ribbon.store.documents import Document, Documents, kept_text, whole
from slow_ribbon.store.events import CHANNEL, tell
from slow_ribbon.store.originals import Originals
from slow_ribbon.store.records import NOBODY, Author, Change, Changed, Conflict, Opened, Past, Summary, Unknown
from slow_ribbon.store.revisions import changes_between, made_by, parent_of, said_of, toward_tip
from slow_ribbon.store.tables import JobRow, RevisionRow

#: How often a change is tried again when others are saved while it is worked out.
_TRIES = 100
#: How often it loses to quicker ones before it is made alone, and for how long, s, others wait for such a one.
_LOST = 2
_ALONE = 5.0


class Jobs:
    """Jobs in a database. Every method uses one connection at a time; database faults pass through as SQLAlchemy's."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self.originals = Originals(engine)
        self.documents = Documents()
        self._lock = threading.Lock()
        self._turns: dict[str, threading.Lock] = {}

    def summaries(self) -> list[Summary]:
        """Return all jobs, the one changed last first."""
        wanted = (
            select(JobRow, RevisionRow.said, RevisionRow.author)
            .join(RevisionRow, (RevisionRow.job_id == JobRow.id) & (RevisionRow.number == JobRow.current))
            .order_by(JobRow.changed_at.desc(), JobRow.id)
        )
        with Session(self._engine) as session:
            return [
                Summary(
                    id=job.id,
                    name=job.name,
                    put_away=job.put_away,
                    changes=job.last_revision - 1,
                    lines=job.lines,
                    runs=job.runs,
                    rows=job.rows,
                    changed_at=job.changed_at,
                    revision=job.current,
                    said=", ".join(said),
                    author=author,
                    faults=job.faults if job.checked == job.current else None,
                    warnings=job.warnings if job.checked == job.current else None,
                )
                for job, said, author in session.execute(wanted)
            ]

    def set_checks(self, id: str, revision: int, faults: int, warnings: int) -> None:
        """Keep how many faults and warnings a revision has, where it is current and they are not known."""
        values = {"faults": faults, "warnings": warnings, "checked": revision}
        other = JobRow.checked.is_distinct_from(revision)
        with Session(self._engine) as session, session.begin():
            session.execute(update(JobRow).where(JobRow.id == id, JobRow.current == revision, other).values(values))

    def add(self, job: Job, said: str, id: str | None = None, by: Author = NOBODY) -> str:
        """Keep a new job, under a given id or a new one, and return the id."""
        id = id or uuid.uuid4().hex[:12]
        document = json.loads(kept_text(lambda: written_job(job).encode(), "job"))
        with Session(self._engine) as session, session.begin():
            session.add(JobRow(id=id, name=job.name, put_away=False, current=1, tip=1, last_revision=1, **_counts(job)))
            session.flush()
            session.add(RevisionRow(job_id=id, number=1, parent=None, document=document, edits=[], said=[said], author=by.name))
            tell(session, id, 1)
        self.documents.keep(id, 1, whole(job))
        return id

    def open(self, id: str) -> Opened:
        """Return a job as it stands. Raises ``Unknown``."""
        with Session(self._engine) as session:
            row = _job_row(session, id)
            return self._opened(session, row, self._document(session, id, row.current).job)

    def current(self, id: str) -> int:
        """Return the number of a job's current revision. Raises ``Unknown``."""
        with Session(self._engine) as session:
            return _job_row(session, id).current

    def at(self, id: str, revision: int) -> Job:
        """Return the document of a revision. Raises ``Unknown``."""
        known = self.documents.get(id, revision)
        if known is not None:
            return known.job
        with Session(self._engine) as session:
            return self._document(session, id, revision).job

    def change(self, id: str, base: int, change: Change, request: str | None = None, by: Author = NOBODY) -> Opened:
        """Save what ``change`` makes of the current document as a new revision.

        It is worked out with nothing locked and no connection held, and again where another
        revision became current meanwhile. A change that has the ``request`` of one that was saved
        is not made again. ``by`` is who makes it, for those who are notified and for the history.

        Raises ``Unknown``; ``Conflict`` where ``base`` is not current and ``change`` cannot be
        carried on; and whatever ``change`` raises, with nothing saved.
        """
        with ExitStack() as gate:
            return self._change(id, base, change, request, by, gate)

    def _change(self, id: str, base: int, change: Change, request: str | None, by: Author, gate: ExitStack) -> Opened:
        current = self.documents.stood(id, base)
        document, before = self.documents.get(id, current), self.documents.get(id, base)
        read = False
        for lost in range(_TRIES):
            if lost <= _LOST:
                self._wait_for_turn(id, gate, lost == _LOST)
            if document is None or before is None:
                read = True
                with Session(self._engine) as session:
                    row = _job_row(session, id)
                    if request is not None and (made := made_by(session, id, request)) is not None:
                        return self._opened(session, row, self._document(session, id, row.current).job, made)
                    current = row.current
                    document = self._document(session, id, current)
                    before = document if current == base else self.documents.read(session, id, base)
            # A revision that there is not says nothing of what was seen.
            made_of: Changed | None = None
            try:
                if before is not None:
                    made_of = change(document.job, None if current == base else before.job)
            except Refused:
                if read or current == base:
                    raise
            if made_of is None:
                if read:
                    break
                # What came in between may be this very change, sent again: the database knows.
                document = None
                continue
            try:
                saved = self._save(id, current, document, made_of, request, by)
            except IntegrityError:
                # The same request was saved in this very moment, or saved and undone.
                if request is None:
                    raise
                with Session(self._engine) as session:
                    made = made_by(session, id, request)
                    if made is None:
                        raise
                    row = _job_row(session, id)
                    return self._opened(session, row, self._document(session, id, row.current).job, made)
            if saved is not None:
                return saved
            document = None
        with Session(self._engine) as session:
            current = _job_row(session, id).current
            raise Conflict(base, current, changes_between(session, id, base, current))

    def _wait_for_turn(self, id: str, gate: ExitStack, mine: bool) -> None:
        """Wait while a change of a job, that lost to others again and again, is made alone; or make this one that (``mine``)."""
        with self._lock:
            turn = self._turns.setdefault(id, threading.Lock())
        if turn.acquire(timeout=_ALONE):
            if mine:
                gate.callback(turn.release)
            else:
                turn.release()

    def _save(self, id: str, current: int, document: Document, made: Changed, request: str | None, by: Author) -> Opened | None:
        """Keep a new revision of the one that is current; return nothing where it is no longer."""
        after = document.followed_by(made.job)
        changed = delta(document.job, made.job)
        change = kept_text(lambda: written_change(document.job, changed))
        whole_document = kept_text(lambda: written_job(made.job).encode()) if after.deltas == 0 else None
        faults, warnings = made.checks or (None, None)
        job = {"job": id, "current": current, "name": made.job.name, "faults": faults, "warnings": warnings, **_counts(made.job)}
        edits = kept_text(lambda: b"[" + b",".join(edit.kept() for edit in made.edits) + b"]")
        revision = {
            "document": whole_document,
            "delta": None if whole_document else change,
            "edits": edits,
            "said": made.said,
            "request": request,
            "author": by.name,
        }
        # One statement, which needs no transaction round it.
        with self._engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            number = connection.execute(_SAVE, {**job, **revision, "by": by.window, "channel": CHANNEL}).scalar()
        if number is None:
            return None
        self.documents.keep(id, number, after)
        self.documents.stands(id, number)
        return Opened(
            id=id,
            revision=number,
            job=made.job,
            undo=", ".join(made.said),
            redo=None,
            made=number,
            parent=document.job,
            change=changed,
        )

    def step(self, id: str, base: int, way: Literal["undo", "redo"], by: Author = NOBODY) -> Opened:
        """Undo or redo one revision. Raises ``Refused`` where there is nothing to undo or redo."""
        with Session(self._engine) as session:
            row = _job_row(session, id)
            if row.current != base:
                raise Conflict(base, row.current, changes_between(session, id, base, row.current))
            there = parent_of(session, id, row.current) if way == "undo" else toward_tip(session, row)
            if there is None:
                raise Refused(f"There is nothing to {way}.", "", f"nothing-to-{way}")
            job = self._document(session, id, there).job
            values = {"current": there, "name": job.name, "changed_at": func.now(), **_counts(job)}
            moved = session.execute(
                update(JobRow).where(JobRow.id == id, JobRow.current == base).values(values).returning(JobRow.id)
            ).first()
            if moved is None:
                session.rollback()
                current = _job_row(session, id).current
                raise Conflict(base, current, changes_between(session, id, base, current))
            tell(session, id, there, by.window)
            session.commit()
            self.documents.stands(id, there)
            return self._opened(session, _job_row(session, id), job)

    def new_in(self, id: str, revision: int) -> list[str]:
        """Return the ids of what a revision made new. Raises ``Unknown``."""
        with Session(self._engine) as session:
            parent = parent_of(session, id, revision)
            before = self._document(session, id, parent).job if parent is not None else None
            return new_ids(before, self._document(session, id, revision).job)

    def set_put_away(self, id: str, put_away: bool) -> None:
        """Put a job away or bring it back. Raises ``Unknown``."""
        with Session(self._engine) as session, session.begin():
            current = session.scalar(update(JobRow).where(JobRow.id == id).values(put_away=put_away).returning(JobRow.current))
            if current is None:
                raise Unknown(id)
            tell(session, id, current)

    def history(self, id: str, most: int = 500) -> list[Past]:
        """Return the newest revisions, newest first. Raises ``Unknown``."""
        wanted = (
            select(RevisionRow.number, RevisionRow.parent, RevisionRow.said, RevisionRow.made_at, RevisionRow.author)
            .where(RevisionRow.job_id == id)
            .order_by(RevisionRow.number.desc())
        )
        with Session(self._engine) as session:
            row = _job_row(session, id)
            found = session.execute(wanted).all()
            parents = {number: parent for number, parent, *_ in found}
            standing: set[int] = set()
            at: int | None = row.current
            while at is not None:
                standing.add(at)
                at = parents[at]
            return [
                Past(
                    number=number,
                    said=", ".join(said),
                    made_at=made_at,
                    current=number == row.current,
                    undone=number not in standing,
                    author=author,
                )
                for number, _, said, made_at, author in found[:most]
            ]

    @staticmethod
    def _opened(session: Session, row: JobRow, job: Job, made: int | None = None) -> Opened:
        ahead = toward_tip(session, row)
        undo = said_of(session, row.id, row.current) if parent_of(session, row.id, row.current) is not None else None
        redo = said_of(session, row.id, ahead) if ahead is not None else None
        return Opened(id=row.id, revision=row.current, job=job, undo=undo, redo=redo, made=made)

    def _document(self, session: Session, id: str, number: int) -> Document:
        found = self.documents.read(session, id, number)
        if found is None:
            raise Unknown(f"{id}/{number}")
        return found


def _counts(job: Job) -> dict[str, int]:
    return {"lines": len(job.lines), "runs": len(job.runs), "rows": len(job.rows)}


#: Let a job stand on a new revision and return its number; None where it stands on another than ``current``.
_SAVE: Final = text("""
    WITH moved AS (
        UPDATE jobs SET current = last_revision + 1, tip = last_revision + 1, last_revision = last_revision + 1,
            name = :name, lines = :lines, runs = :runs, rows = :rows, changed_at = now(),
            faults = :faults, warnings = :warnings, checked = last_revision + 1
        WHERE id = :job AND current = :current
        RETURNING last_revision AS number
    ), added AS (
        INSERT INTO revisions (job_id, number, parent, document, delta, edits, said, request, author)
        SELECT :job, number, :current, CAST(:document AS jsonb), CAST(:delta AS jsonb), CAST(:edits AS jsonb), :said, :request, :author
        FROM moved
        RETURNING number
    )
    SELECT number, pg_notify(:channel, json_build_object('job', :job, 'revision', number, 'by', :by)::text) FROM added
""").bindparams(
    bindparam("job", type_=Text),
    bindparam("current", type_=Integer),
    bindparam("by", type_=Text),
    bindparam("channel", type_=Text),
    bindparam("request", type_=Text),
    bindparam("author", type_=Text),
    bindparam("faults", type_=Integer),
    bindparam("warnings", type_=Integer),
    bindparam("said", type_=ARRAY(Text)),
    *(bindparam(name, type_=Text) for name in ("document", "delta", "edits")),
)


def _job_row(session: Session, id: str) -> JobRow:
    row = session.get(JobRow, id)
    if row is None:
        raise Unknown(id)
    return row

"""Documents of jobs: kept in memory, and read from revisions that hold them whole or as what changed."""

from __future__ import annotations

import re
import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Final

from cachetools import LRUCache
from pydantic_core import PydanticSerializationError
from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from slow_ribbon.core.job import VERSION, Job, job_from_document, put_on, with_changes
from slow_ribbon.core.kernel import Refused
from slow_ribbon.store.tables import RevisionRow

#: A revision in this many holds its document whole, so that no more deltas than this are put on to read one.
WHOLE_EVERY: Final = 64
#: Together the documents in memory hold at most this many legs, openings and other things, about a kilobyte each.
MOST_PARTS: Final = 200_000
#: Revisions of one job in memory; they share what they have in common.
_REVISIONS: Final = 24
#: Jobs of which it is known where they stand.
_STANDS: Final = 10_000


@dataclass(frozen=True)
class Document:
    """A document of a revision, how many deltas lie between it and the last that is kept whole, and how many parts it has."""

    job: Job
    deltas: int
    parts: int

    def followed_by(self, job: Job) -> Document:
        """Return the document of a revision made of this one; every this often it is one that is to be kept whole."""
        again = self.deltas + 1 >= WHOLE_EVERY
        return Document(job, 0 if again else self.deltas + 1, _parts_of(job) if again else self.parts + 1)


def whole(job: Job, deltas: int = 0) -> Document:
    """Return a document that is kept whole, or read by putting deltas on one."""
    return Document(job, deltas, _parts_of(job))


class Documents:
    """Documents by job and revision, the jobs used last staying in memory. Safe to use from several threads."""

    def __init__(self, most_parts: int = MOST_PARTS) -> None:
        self._lock = threading.Lock()
        self._jobs: LRUCache[str, OrderedDict[int, Document]] = LRUCache(most_parts, getsizeof=_parts)
        self._stands: LRUCache[str, int] = LRUCache(_STANDS)

    def keep(self, id: str, number: int, document: Document) -> None:
        """Keep a document at hand."""
        with self._lock:
            known = self._jobs.pop(id, None) or OrderedDict()
            known[number] = document
            known.move_to_end(number)
            while len(known) > _REVISIONS:
                known.popitem(last=False)
            if _parts(known) <= self._jobs.maxsize:
                self._jobs[id] = known

    def stands(self, id: str, number: int) -> None:
        """Note which revision a job stands on now."""
        with self._lock:
            self._stands[id] = number

    def heard(self, id: str, number: int) -> None:
        """Note that a job stands on a revision, whichever process reports it; a late report says nothing new."""
        with self._lock:
            if number > self._stands.get(id, 0):
                self._stands[id] = number

    def stood(self, id: str, otherwise: int) -> int:
        """Return the revision a job was last known to stand on, or another where none is known."""
        with self._lock:
            return self._stands.get(id, otherwise)

    def get(self, id: str, number: int) -> Document | None:
        """Return a document from memory, or nothing."""
        with self._lock:
            known = self._jobs.get(id)
            return known.get(number) if known is not None else None

    def read(self, session: Session, id: str, number: int) -> Document | None:
        """Return the document of a revision, from memory where it is there; None where there is no such revision.

        Raises ``Refused`` for one that a newer version of the program wrote.
        """
        known = self.get(id, number)
        if known is not None:
            return known
        with self._lock:
            at_hand = dict(self._jobs.get(id) or {})
        rows = _way_to(session, id, number, list(at_hand))
        if not rows:
            return None
        first = rows[-1]
        if first.document is None:
            # What came since another process or an eviction is put on a document in memory.
            base = at_hand[first.parent]
            found = whole(with_changes(base.job, [row.delta for row in reversed(rows)]), base.deltas + len(rows))
        else:
            plain: Mapping[str, Any] = first.document
            for row in reversed(rows[:-1]):
                plain = put_on(plain, row.delta)
            # A delta says what changed of a document of this version; on an older one another whole one comes first.
            old = first.document.get("version") != VERSION
            found = whole(job_from_document(plain), WHOLE_EVERY if old else len(rows) - 1)
        self.keep(id, number, found)
        return found


def _parts(revisions: OrderedDict[int, Document]) -> int:
    return next(reversed(revisions.values())).parts


def _parts_of(job: Job) -> int:
    own = len(job.sections) * 20 + len(job.runs) + len(job.rows) + len(job.formulas) + len(job.measures)
    return 1 + own + sum(len(line.legs) + len(line.openings) + len(line.marks) for line in job.lines)


def _way_to(session: Session, id: str, number: int, at_hand: list[int]) -> list[Any]:
    """Return the revisions from one back to the first that is whole, or whose parent is at hand, newest first."""
    columns = (RevisionRow.number, RevisionRow.parent, RevisionRow.document, RevisionRow.delta)
    way = select(*columns).where(RevisionRow.job_id == id, RevisionRow.number == number).cte("way", recursive=True)
    before = aliased(RevisionRow)
    further = select(before.number, before.parent, before.document, before.delta).where(
        before.job_id == id, before.number == way.c.parent, way.c.document.is_(None), ~way.c.parent.in_(at_hand)
    )
    way = way.union_all(further)
    return list(session.execute(select(way).order_by(way.c.number.desc())))


_NOUGHT: Final = re.compile(r"(?<!\\)(?:\\\\)*\\u0000")


def kept_text(write: Callable[[], bytes], where: str = "edits") -> str:
    """Return JSON that the database can keep.

    Raises ``Refused`` where it holds the character zero, which no text can and no database keeps, or half a character.
    """
    try:
        text = write().decode()
    except (PydanticSerializationError, UnicodeError) as error:
        raise Refused("A text has half a character in it (a lone surrogate), which cannot be kept: remove it.", where, "text") from error
    # Most have none, and are not searched for which backslashes are meant.
    if "\\u0000" in text and _NOUGHT.search(text):
        raise Refused("A text has the character zero (NUL) in it, which cannot be kept: remove it.", where, "text")
    return text

"""The tables: jobs, their append-only revisions, and the originals that were brought in."""

from __future__ import annotations

import datetime
from typing import Any

from sqlalchemy import DateTime, ForeignKey, Index, LargeBinary, Text, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """The declarative base of all tables."""


class JobRow(Base):
    """A job: its name as of the current revision, and where undo and redo stand.

    ``current`` is the revision that is shown; ``tip`` the newest on the way that redo follows.
    """

    __tablename__ = "jobs"

    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    put_away: Mapped[bool] = mapped_column(default=False)
    current: Mapped[int]
    tip: Mapped[int]
    last_revision: Mapped[int]
    made_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    changed_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class RevisionRow(Base):
    """A revision: the whole document, the edits that led to it and what they said. Never changed or deleted."""

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("job_id", "number"), Index("revisions_by_parent", "job_id", "parent"))

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id"))
    number: Mapped[int]
    parent: Mapped[int | None]
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    edits: Mapped[list[Any]] = mapped_column(JSONB)
    said: Mapped[list[str]] = mapped_column(ARRAY(Text))
    made_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class OriginalRow(Base):
    """A file that was brought in, kept by the SHA-256 of its contents."""

    __tablename__ = "originals"

    content: Mapped[str] = mapped_column(Text, primary_key=True)
    file: Mapped[str] = mapped_column(Text)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    kept_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())

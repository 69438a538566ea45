"""The tables: jobs, their append-only revisions, and the originals that were imported."""

from __future__ import annotations

import datetime
from typing import Any

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, Index, LargeBinary, Text, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """The declarative base of all tables."""


class JobRow(Base):
    """A job: its name as of the current revision, how much it holds, and where undo and redo stand.

    ``current`` is the revision that is shown; ``tip`` the newest on the way that redo follows;
    ``faults`` and ``warnings`` are those of the revision ``checked``.
    """

    __tablename__ = "jobs"

    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    put_away: Mapped[bool] = mapped_column(default=False)
    current: Mapped[int]
    tip: Mapped[int]
    last_revision: Mapped[int]
    lines: Mapped[int] = mapped_column(default=0, server_default="0")
    runs: Mapped[int] = mapped_column(default=0, server_default="0")
    rows: Mapped[int] = mapped_column(default=0, server_default="0")
    faults: Mapped[int | None]
    warnings: Mapped[int | None]
    checked: Mapped[int | None]
    made_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    changed_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class RevisionRow(Base):
    """A revision: the edits that led to it and what they said. Never changed or deleted.

    It has the whole document, or the ``delta`` that makes it of its parent's. ``request`` is the
    name that a window gave its edits, so that edits sent twice are made once; ``author`` the name
    that somebody gave themselves.
    """

    __tablename__ = "revisions"
    __table_args__ = (
        UniqueConstraint("job_id", "number"),
        UniqueConstraint("job_id", "request", name="revisions_by_request"),
        CheckConstraint("(document IS NULL) <> (delta IS NULL)", name="document_or_delta"),
        Index("revisions_by_parent", "job_id", "parent"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id"))
    number: Mapped[int]
    parent: Mapped[int | None]
    document: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    delta: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    edits: Mapped[list[Any]] = mapped_column(JSONB)
    said: Mapped[list[str]] = mapped_column(ARRAY(Text))
    request: Mapped[str | None] = mapped_column(Text)
    author: Mapped[str | None] = mapped_column(Text)
    made_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class OriginalRow(Base):
    """A file that was imported, kept by the SHA-256 of its contents."""

    __tablename__ = "originals"

    content: Mapped[str] = mapped_column(Text, primary_key=True)
    file: Mapped[str] = mapped_column(Text)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    kept_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class ShopSectionRow(Base):
    """A section of the shop's own library: where it is put, what its newest version is called, and which that is."""

    __tablename__ = "shop_sections"

    id: Mapped[str] = mapped_column(Text, primary_key=True)
    folder: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    latest: Mapped[int]
    removed: Mapped[bool] = mapped_column(default=False)


class ShopVersionRow(Base):
    """A version of a section of the shop's library. Never changed or deleted; ``path`` is how it looks, an SVG path."""

    __tablename__ = "shop_versions"
    __table_args__ = (UniqueConstraint("section_id", "number", name="shop_version_once"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    section_id: Mapped[str] = mapped_column(ForeignKey("shop_sections.id"))
    number: Mapped[int]
    body: Mapped[dict[str, Any]] = mapped_column(JSONB)
    said: Mapped[str] = mapped_column(Text)
    author: Mapped[str | None] = mapped_column(Text)
    made_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    path: Mapped[str | None] = mapped_column(Text)


class SupplierAnswerRow(Base):
    """What a supplier's catalogue answered last under an address, to be shown when it does not answer."""

    __tablename__ = "supplier_answers"

    address: Mapped[str] = mapped_column(Text, primary_key=True)
    answer: Mapped[Any] = mapped_column(JSONB)
    fetched_at: Mapped[datetime.datetime] = mapped_column(DateTime(timezone=True))

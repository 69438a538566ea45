"""Jobs, revisions and originals."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Make the first three tables."""
    now = sa.text("now()")
    op.create_table(
        "jobs",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("put_away", sa.Boolean, nullable=False),
        sa.Column("current", sa.Integer, nullable=False),
        sa.Column("tip", sa.Integer, nullable=False),
        sa.Column("last_revision", sa.Integer, nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("job_id", sa.Text, sa.ForeignKey("jobs.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer),
        sa.Column("document", postgresql.JSONB, nullable=False),
        sa.Column("edits", postgresql.JSONB, nullable=False),
        sa.Column("said", postgresql.ARRAY(sa.Text), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.UniqueConstraint("job_id", "number"),
    )
    op.create_index("revisions_by_parent", "revisions", ["job_id", "parent"])
    op.create_table(
        "originals",
        sa.Column("content", sa.Text, primary_key=True),
        sa.Column("file", sa.Text, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("kept_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
    )

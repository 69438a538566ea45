"""Revisions kept as what changed, edits known by the name their window gave them, counts in the list of jobs."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Let a revision have a delta in place of a document; count what jobs hold."""
    for name in ("lines", "runs", "rows"):
        op.add_column("jobs", sa.Column(name, sa.Integer, nullable=False, server_default="0"))
    op.execute(
        "UPDATE jobs SET lines = jsonb_array_length(document->'lines'), runs = jsonb_array_length(document->'runs'), "
        "rows = jsonb_array_length(document->'rows') FROM revisions WHERE job_id = jobs.id AND number = jobs.current"
    )
    op.alter_column("revisions", "document", nullable=True)
    op.add_column("revisions", sa.Column("delta", postgresql.JSONB))
    op.create_check_constraint("document_or_delta", "revisions", "(document IS NULL) <> (delta IS NULL)")
    op.add_column("revisions", sa.Column("request", sa.Text))
    op.create_unique_constraint("revisions_by_request", "revisions", ["job_id", "request"])

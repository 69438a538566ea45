"""The shop's own library of sections, across jobs, with all versions of each; and what was fetched from a supplier."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """New tables only."""
    op.create_table(
        "shop_sections",
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("folder", sa.Text, nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("latest", sa.Integer, nullable=False),
        sa.Column("removed", sa.Boolean, nullable=False, server_default=sa.false()),
    )
    op.create_table(
        "shop_versions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("section_id", sa.Text, sa.ForeignKey("shop_sections.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("body", JSONB, nullable=False),
        sa.Column("said", sa.Text, nullable=False),
        sa.Column("author", sa.Text),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.UniqueConstraint("section_id", "number", name="shop_version_once"),
    )
    op.create_table(
        "supplier_answers",
        sa.Column("address", sa.Text, primary_key=True),
        sa.Column("answer", JSONB, nullable=False),
        sa.Column("fetched_at", sa.DateTime(timezone=True), nullable=False),
    )

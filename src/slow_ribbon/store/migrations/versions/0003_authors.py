"""Who made a revision, and how many faults the current one has, for the list of jobs."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Nothing is known of either for what is there: authors stay unnamed, faults are counted when a job is next opened."""
    op.add_column("revisions", sa.Column("author", sa.Text))
    for name in ("faults", "warnings", "checked"):
        op.add_column("jobs", sa.Column(name, sa.Integer))

"""How each version of a section of the shop's library looks, kept with it, so that thousands are listed at once."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """A column more; versions kept before have none yet, and get theirs when they are listed first."""
    op.add_column("shop_versions", sa.Column("path", sa.Text))

"""Runs the migrations on the connection that ``store.database.migrate`` hands over."""

from __future__ import annotations

from alembic import context

from slow_ribbon.store.tables import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()

"""Databases for one test each."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import create_engine, text
from sqlalchemy.engine import make_url

from slow_ribbon.store.database import connect, migrate


@contextmanager
def fresh_database(cluster: str, tables: bool = True) -> Iterator[str]:
    """Yield the address of a fresh database, its tables made unless it is to be empty, and drop it afterwards."""
    name = f"test_{uuid.uuid4().hex[:12]}"
    admin = create_engine(make_url(cluster).set(drivername="postgresql+psycopg"), isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    address = make_url(cluster).set(database=name).render_as_string(hide_password=False)
    if tables:
        engine = connect(address)
        migrate(engine)
        engine.dispose()
    yield address
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
    admin.dispose()

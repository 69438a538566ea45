"""Databases for one test each."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from hashlib import sha256
from pathlib import Path

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.engine import make_url

from slow_ribbon.store import database as store_database
from slow_ribbon.store.database import connect, migrate

#: Workers that start at once take turns to make the template; the number only has to be our own.
_TEMPLATE_LOCK = 7_461_999


@contextmanager
def fresh_database(cluster: str, tables: bool = True) -> Iterator[str]:
    """Yield the address of a fresh database, its tables made unless it is to be empty, and drop it afterwards."""
    name = f"test_{uuid.uuid4().hex[:12]}"
    admin = _admin(cluster)
    made_from = f" TEMPLATE {_template(cluster)}" if tables else ""
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}{made_from}"))
    yield _address(cluster, name)
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
    admin.dispose()


def _admin(cluster: str) -> Engine:
    return create_engine(make_url(cluster).set(drivername="postgresql+psycopg"), isolation_level="AUTOCOMMIT")


def _address(cluster: str, name: str) -> str:
    return make_url(cluster).set(database=name).render_as_string(hide_password=False)


@lru_cache(maxsize=1)
def _template(cluster: str) -> str:
    """Return the name of a database with the tables made, which others are copied from: made by the first that asks for it."""
    steps = sorted((Path(store_database.__file__).parent / "migrations" / "versions").glob("*.py"))
    name = f"template_{sha256(b''.join(step.read_bytes() for step in steps)).hexdigest()[:12]}"
    admin = _admin(cluster)
    with admin.connect() as connection:
        connection.execute(text("SELECT pg_advisory_lock(:lock)"), {"lock": _TEMPLATE_LOCK})
        if connection.execute(text("SELECT 1 FROM pg_database WHERE datname = :name"), {"name": name}).scalar() is None:
            making = f"{name}_making"
            connection.execute(text(f"DROP DATABASE IF EXISTS {making} WITH (FORCE)"))
            connection.execute(text(f"CREATE DATABASE {making}"))
            engine = connect(_address(cluster, making))
            migrate(engine)
            engine.dispose()
            connection.execute(text(f"ALTER DATABASE {making} RENAME TO {name}"))
        connection.execute(text("SELECT pg_advisory_unlock(:lock)"), {"lock": _TEMPLATE_LOCK})
    admin.dispose()
    return name

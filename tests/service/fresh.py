"""Databases for one test each."""

from __future__ import annotations

import os
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from hashlib import sha256
from pathlib import Path

from sqlalchemy import Engine, create_engine, text
from sqlalchemy.engine import make_url

from slow_ribbon.store import database as store_database
from slow_ribbon.store.database import connect, migrate

#: Workers that start at once take turns to make a template; the number only has to be our own.
_TEMPLATE_LOCK = 7_461_999
#: The run of tests that a template with the demo belongs to: the demo depends on all of the code.
_RUN = os.environ.get("PYTEST_XDIST_TESTRUNUID") or uuid.uuid4().hex


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

    def make(address: str) -> None:
        engine = connect(address)
        migrate(engine)
        engine.dispose()

    return _made_once(cluster, f"template_{sha256(b''.join(step.read_bytes() for step in steps)).hexdigest()[:12]}", make)


def copy_demo_into(address: str, load: Callable[[str], None]) -> None:
    """Replace a fresh database by a copy of one into which ``load`` put the demo, once for this run of tests."""
    cluster, name = _address(address, "postgres"), make_url(address).database
    demo = _made_once(cluster, f"demo_{_RUN[:12]}", load)
    admin = _admin(cluster)
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
        connection.execute(text(f"CREATE DATABASE {name} TEMPLATE {demo}"))
    admin.dispose()


@lru_cache(maxsize=8)
def _made_once(cluster: str, name: str, make: Callable[[str], None]) -> str:
    """Return the name of a database to be copied, made by the first worker that asks for it; templates of earlier runs are dropped."""
    admin = _admin(cluster)
    kind = name.split("_")[0]
    with admin.connect() as connection:
        connection.execute(text("SELECT pg_advisory_lock(:lock)"), {"lock": _TEMPLATE_LOCK})
        names = connection.execute(text("SELECT datname FROM pg_database")).scalars().all()
        if name not in names:
            for old in names:
                if old.startswith(f"{kind}_"):
                    connection.execute(text(f"DROP DATABASE {old} WITH (FORCE)"))
            making = f"{name}_making"
            connection.execute(text(f"CREATE DATABASE {making}"))
            make(_address(cluster, making))
            connection.execute(text(f"ALTER DATABASE {making} RENAME TO {name}"))
        connection.execute(text("SELECT pg_advisory_unlock(:lock)"), {"lock": _TEMPLATE_LOCK})
    admin.dispose()
    return name

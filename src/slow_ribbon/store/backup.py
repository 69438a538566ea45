"""Backing a database up into one file, and restoring it: PostgreSQL's own dump, with all jobs, revisions, originals and pictures."""

from __future__ import annotations

import datetime
import logging
import os
import re
import shutil
import subprocess
import threading
from pathlib import Path
from typing import Any, Final

from sqlalchemy import Engine, text
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import SQLAlchemyError

from slow_ribbon.core.kernel import Refused
from slow_ribbon.store.database import check_known, connect, conninfo_of, migrate

log = logging.getLogger("slow_ribbon")

#: A nightly backup is made at this hour, or as soon as the server runs where the last is older than a day.
HOUR: Final = 2
#: Days that nightly backups are kept.
DAYS: Final = 14
_NAME: Final = re.compile(r"^slow-ribbon-\d{4}-\d{2}-\d{2}\.backup$")
#: So that of several processes one makes the nightly backup; the number only has to be our own.
_BACKUP_LOCK: Final = 7_461_004


def back_up(address: str, file: Path) -> None:
    """Write a database into a file, as it is in one moment, while others go on working.

    Raises ``Refused`` where the file is there already or cannot be written, and nothing is left of it.
    """
    if file.exists():
        raise Refused(f"{file} is there already: give a backup a name of its own.", "file", "file-exists")
    part = file.with_name(f".{file.name}.part-{os.getpid()}")
    try:
        part.touch(mode=0o600)
        _run("pg_dump", address, "--format=custom", "--no-owner", "--no-privileges", f"--file={part}")
        os.replace(part, file)
    except OSError as error:
        raise Refused(f"{file} cannot be written: {error.strerror}.", "file", "unwritable") from error
    finally:
        part.unlink(missing_ok=True)


def restore(address: str, file: Path) -> None:
    """Fill an empty database from a backup, all or nothing, and bring its tables up to date.

    Raises ``Refused`` where the database holds anything, the file is no backup, or a newer version of the program made it.
    """
    if not file.is_file():
        raise Refused(f"There is no file {file}.", "file", "unreadable")
    engine = connect(address)
    try:
        with engine.connect() as connection:
            tables = connection.execute(text("SELECT count(*) FROM pg_tables WHERE schemaname NOT IN ('pg_catalog', 'information_schema')"))
            if tables.scalar():
                raise Refused(
                    "The database is not empty, and a restore would mix two states of it. Make an empty one and restore into that "
                    "(script/database start, with a name of its own).",
                    "database",
                    "database-not-empty",
                )
        known = _run("pg_restore", None, "--data-only", "--table=alembic_version", "--file=-", str(file))
        found = re.search(r"^COPY public\.alembic_version .*?;\n(\S+)$", known, re.MULTILINE)
        if found is None:
            raise Refused(f"{file} is a backup of something else: it holds no jobs of Slow Ribbon.", "file", "not-a-backup")
        check_known(found.group(1), "The backup")
        _run("pg_restore", address, "--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", str(file))
        migrate(engine)
    finally:
        engine.dispose()


def _run(program: str, address: str | None, *arguments: str) -> str:
    """Run one of PostgreSQL's programs and return what it prints; the password goes where no other user can read it."""
    environment = {name: value for name, value in os.environ.items() if not name.startswith("PG")}
    command = [_program(program)]
    if address is not None:
        url: URL = make_url(address)
        environment |= {"PGPASSWORD": str(url.password or "")}
        command += [
            f"--host={url.host or '127.0.0.1'}",
            f"--port={url.port or 5432}",
            f"--dbname={url.database or 'postgres'}",
            "--no-password",
        ]
        command += [f"--username={url.username}"] if url.username else []
    done = subprocess.run([*command, *arguments], env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        said = (done.stderr.strip().splitlines() or ["it says nothing"])[-1]
        raise Refused(f"{program} failed: {said}.", "database", "backup-failed")
    return done.stdout


def _program(name: str) -> str:
    versions = sorted(
        Path("/usr/lib/postgresql").glob(f"*/bin/{name}"), key=lambda path: int(path.parts[-3]) if path.parts[-3].isdigit() else 0
    )
    found = str(versions[-1]) if versions else shutil.which(name)
    if found is None:
        raise Refused(f"{name} is not installed: it comes with PostgreSQL's client programs.", "database", "backup-failed")
    return found


class Nightly:
    """Backs a database up every night into a folder, and lets those older than ``DAYS`` go."""

    def __init__(self, engine: Engine, folder: Path) -> None:
        self._engine = engine
        self._folder = folder
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._work, name="backups", daemon=True)

    def start(self) -> None:
        """Begin to look for the hour."""
        self._thread.start()

    def stop(self) -> None:
        """End; a backup that is being made is left unfinished."""
        self._ended.set()

    def _work(self) -> None:
        while not self._ended.wait(60):
            try:
                self.look(datetime.datetime.now())
            except (SQLAlchemyError, OSError) as error:
                # A database or disk that is away now may be back in a minute; the nights to come are looked after too.
                log.error("the nightly backup failed: %s", str(error).splitlines()[0])

    def look(self, now: datetime.datetime) -> Path | None:
        """Make a backup if it is time, and return its file."""
        self._folder.mkdir(parents=True, exist_ok=True)
        kept = sorted(path for path in self._folder.iterdir() if _NAME.match(path.name))
        file = self._folder / f"slow-ribbon-{now:%Y-%m-%d}.backup"
        late = not kept or now - datetime.datetime.fromtimestamp(kept[-1].stat().st_mtime) > datetime.timedelta(days=1)
        if file.exists() or not (now.hour == HOUR or late):
            return None
        try:
            with self._engine.connect() as connection:
                alone = text("SELECT pg_try_advisory_lock(:lock)"), text("SELECT pg_advisory_unlock(:lock)")
                lock: dict[str, Any] = {"lock": _BACKUP_LOCK}
                if not connection.execute(alone[0], lock).scalar():
                    return None
                # A session's lock outlasts the transaction, which is not to stay open meanwhile.
                connection.commit()
                try:
                    back_up(conninfo_of(self._engine), file)
                finally:
                    connection.execute(alone[1], lock)
        except Refused as error:
            log.error("the nightly backup failed: %s", error)
            return None
        for old in kept:
            day = datetime.date.fromisoformat(old.stem.removeprefix("slow-ribbon-"))
            if now.date() - day > datetime.timedelta(days=DAYS):
                old.unlink()
        return file

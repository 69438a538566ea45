"""Notifying every process that a job has changed, through PostgreSQL's LISTEN and NOTIFY."""

from __future__ import annotations

import json
import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import psycopg
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from slow_ribbon.store.database import conninfo_of

log = logging.getLogger("slow_ribbon")

CHANNEL: Final = "slow_ribbon_jobs"
#: Seconds between looks at whether the listening is to end.
_LOOK = 0.25


@dataclass(frozen=True)
class Event:
    """A job stands on another revision, which the window ``by`` brought about; no job: anything may have happened.

    ``stop`` names long work that is to stop, in whichever process it goes on.
    """

    job: str | None
    revision: int = 0
    by: str | None = None
    stop: str | None = None


def tell(session: Session, job: str, revision: int, by: str | None = None) -> None:
    """Tell that a job has changed, once the session's transaction is committed."""
    payload = json.dumps({"job": job, "revision": revision, "by": by})
    session.execute(text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})


def tell_to_stop(engine: Engine, task: str) -> None:
    """Tell every process that long work is to stop."""
    payload = json.dumps({"job": None, "stop": task})
    with Session(engine) as session, session.begin():
        session.execute(text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})


class Listening:
    """Listens for events in a thread of its own, with a connection of its own, and hands each to a function.

    When it begins to hear, at first or after the connection was lost, an event of no job is sent, since any may
    have been missed.
    """

    def __init__(self, engine: Engine, message: Callable[[Event], None]) -> None:
        self._engine = engine
        self._heard = message
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._listen, name="events", daemon=True)

    def start(self) -> None:
        """Begin to listen."""
        self._thread.start()

    def stop(self) -> None:
        """End listening."""
        self._ended.set()
        self._thread.join(5)

    def _listen(self) -> None:
        lost = False
        while not self._ended.is_set():
            try:
                with self._connected() as connection:
                    connection.execute(f"LISTEN {CHANNEL}")
                    self._heard(Event(None))
                    lost = False
                    while not self._ended.is_set():
                        for notice in connection.notifies(timeout=_LOOK):
                            self._heard(Event(**json.loads(notice.payload)))
                            if self._ended.is_set():
                                return
            except psycopg.Error as error:
                if not lost:
                    log.warning("events are not heard just now: %s", str(error).strip().splitlines()[0] if str(error).strip() else error)
                lost = True
                self._ended.wait(1.0)

    def _connected(self) -> psycopg.Connection[tuple[object, ...]]:
        return psycopg.connect(conninfo_of(self._engine), autocommit=True, connect_timeout=5, application_name="slow-ribbon events")

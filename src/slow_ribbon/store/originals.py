"""The files that were imported, kept as they came, by the hashes of their contents."""

from __future__ import annotations

from sqlalchemy import Engine, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from slow_ribbon.store.records import Unknown
from slow_ribbon.store.tables import OriginalRow


class Originals:
    """The files that were imported into any job."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def keep(self, content: str, file: str, data: bytes) -> None:
        """Keep a file that was imported, by its hash; the same file twice is kept once."""
        with Session(self._engine) as session, session.begin():
            session.execute(insert(OriginalRow).values(content=content, file=file, data=data).on_conflict_do_nothing())

    def has(self, content: str) -> bool:
        """Return whether a file that was imported is kept under this hash."""
        with Session(self._engine) as session:
            return session.scalar(select(OriginalRow.content).where(OriginalRow.content == content)) is not None

    def name(self, content: str) -> str:
        """Return the name of a file that was imported. Raises ``Unknown``."""
        with Session(self._engine) as session:
            name = session.scalar(select(OriginalRow.file).where(OriginalRow.content == content))
            if name is None:
                raise Unknown(content)
            return name

    def get(self, content: str) -> tuple[str, bytes]:
        """Return the name and the bytes of a file that was imported. Raises ``Unknown``."""
        with Session(self._engine) as session:
            row = session.get(OriginalRow, content)
            if row is None:
                raise Unknown(content)
            return row.file, row.data

"""The shop's own library of sections, across jobs: folders, versions, and who made each.

Versions are append-only. A version is made of the newest one, and somebody who has not seen that is refused.
"""

from __future__ import annotations

import datetime
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from sqlalchemy import Engine, Text, cast, func, select
from sqlalchemy.orm import Session

from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.store.records import NOBODY, Author, Unknown
from slow_ribbon.store.tables import ShopSectionRow, ShopVersionRow


@dataclass(frozen=True)
class ShopVersion:
    """A version of a section: its number, what was said of it, who made it and when."""

    number: int
    section: SectionBody
    said: str
    author: str | None
    made_at: datetime.datetime


@dataclass(frozen=True)
class ShopSection:
    """A section of the shop's library in its newest version."""

    id: str
    folder: str
    version: ShopVersion


class Shop:
    """The shop's library in a database. Safe to use from several threads.

    ``drawn`` gives how a section looks, which is kept with each version.
    """

    def __init__(self, engine: Engine, drawn: Callable[[SectionBody], str]) -> None:
        self._engine = engine
        self._drawn = drawn

    def listed(self) -> bytes:
        """Return all that is not removed, folder by folder and name by name, as JSON: as it is kept, without looking into it."""
        latest = (ShopVersionRow.section_id == ShopSectionRow.id) & (ShopVersionRow.number == ShopSectionRow.latest)
        with Session(self._engine) as session, session.begin():
            for row in session.scalars(select(ShopVersionRow).join(ShopSectionRow, latest).where(ShopVersionRow.path.is_(None))):
                row.path = self._drawn(SectionBody.model_validate(row.body))
            session.flush()
            version = func.json_build_object(
                "number", ShopVersionRow.number, "said", ShopVersionRow.said, "author", ShopVersionRow.author,
                "made_at", ShopVersionRow.made_at, "section", ShopVersionRow.body, "path", ShopVersionRow.path,
            )  # fmt: skip
            whole = func.json_build_object("id", ShopSectionRow.id, "folder", ShopSectionRow.folder, "version", version)
            rows = session.scalars(
                select(cast(whole, Text))
                .join(ShopVersionRow, latest)
                .where(~ShopSectionRow.removed)
                .order_by(ShopSectionRow.folder, ShopSectionRow.name, ShopSectionRow.id)
            ).all()
        return f"[{','.join(rows)}]".encode()

    def section(self, id: str) -> ShopSection:
        """Return a section in its newest version, a removed one too. Raises ``Unknown``."""
        with Session(self._engine) as session:
            row = _found(session, id)
            return ShopSection(row.id, row.folder, _version(_numbered(session, id, row.latest)))

    def version(self, id: str, number: int) -> ShopVersion:
        """Return a version of a section. Raises ``Unknown``."""
        with Session(self._engine) as session:
            return _version(_numbered(session, id, number))

    def versions(self, id: str) -> list[ShopVersion]:
        """Return all versions of a section, the newest first. Raises ``Unknown``."""
        with Session(self._engine) as session:
            _found(session, id)
            rows = session.scalars(
                select(ShopVersionRow).where(ShopVersionRow.section_id == id).order_by(ShopVersionRow.number.desc())
            ).all()
            return [_version(row) for row in rows]

    def keep(self, folder: str, sections: Sequence[SectionBody], said: str, by: Author = NOBODY) -> list[str]:
        """Keep new sections in a folder, all or none, and return their ids."""
        ids = []
        with Session(self._engine) as session, session.begin():
            for section in sections:
                id = uuid.uuid4().hex
                session.add(ShopSectionRow(id=id, folder=folder, name=section.name, latest=1))
                session.flush()
                session.add(self._row(id, 1, section, said, by))
                ids.append(id)
        return ids

    def keep_version(self, id: str, base: int, section: SectionBody, said: str, by: Author = NOBODY) -> int:
        """Keep a new version made of another and return its number. Raises ``Refused`` where that is not the newest, ``Unknown``."""
        with Session(self._engine) as session, session.begin():
            row = _found(session, id, for_update=True)
            if row.latest != base:
                newest = _numbered(session, id, row.latest)
                raise Refused(
                    f"The library has version {row.latest} of {row.name} already, {newest.said}, by {newest.author or 'somebody'}: "
                    "take that first, or keep yours as another section. Nothing was kept.",
                    "base",
                    "kept-newer",
                )
            row.latest, row.name, row.removed = base + 1, section.name, False
            session.add(self._row(id, row.latest, section, said, by))
            return row.latest

    def put(self, id: str, folder: str) -> None:
        """Put a section into a folder. Raises ``Unknown``."""
        with Session(self._engine) as session, session.begin():
            _found(session, id, for_update=True).folder = folder

    def remove(self, id: str, removed: bool = True) -> None:
        """Take a section out of the list, or bring it back; jobs that use it, and its versions, stay. Raises ``Unknown``."""
        with Session(self._engine) as session, session.begin():
            _found(session, id, for_update=True).removed = removed

    def _row(self, id: str, number: int, section: SectionBody, said: str, by: Author) -> ShopVersionRow:
        body, path = section.model_dump(mode="json"), self._drawn(section)
        return ShopVersionRow(section_id=id, number=number, body=body, said=said, author=by.name, path=path)


def _found(session: Session, id: str, for_update: bool = False) -> ShopSectionRow:
    row = session.get(ShopSectionRow, id, with_for_update=for_update or None)
    if row is None:
        raise Unknown(id)
    return row


def _numbered(session: Session, id: str, number: int) -> ShopVersionRow:
    row = session.scalars(select(ShopVersionRow).where(ShopVersionRow.section_id == id, ShopVersionRow.number == number)).one_or_none()
    if row is None:
        raise Unknown(f"{id} version {number}")
    return row


def _version(row: ShopVersionRow) -> ShopVersion:
    return ShopVersion(row.number, SectionBody.model_validate(row.body), row.said, row.author, row.made_at)

"""Places of a typical read from a table: a name, a point, a turn and whether it is mirrored in each row."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Final

from pydantic import ValidationError

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.typicals.typical import (
    PlaceBody,
)

#: What the last column of a list of places may say.
_MIRRORED: Final = {"": False, "no": False, "0": False, "mirrored": True, "m": True, "yes": True, "1": True}


def _with_point(cell: str) -> str:
    """Return a figure of a list with a point for its decimal comma. Raises ``ValueError`` where the comma may part thousands instead."""
    if re.search(r"\d,\d{3}(\D|$)", cell):
        raise ValueError(f"{cell!r} may have a decimal comma or one that parts thousands; write it without the comma, or with a point.")
    return re.sub(r"(?<=\d),(?=\d)", ".", cell)


def places_listed(text: str, base: Point3, length: Callable[[str], float]) -> list[PlaceBody]:
    """Return the places that a list gives, one in each row: name; east; north; height; turned by, in degrees; mirrored.

    Columns are parted by semicolons or tabs, or by commas where there is neither; what is left out at the end is as drawn.
    ``length`` reads a length, mm. Raises ``Refused`` with the row that cannot be read, counted from 1.
    """
    found = []
    for number, row in enumerate(text.splitlines(), start=1):
        if not row.strip():
            continue
        parting = next((sign for sign in ("\t", ";") if sign in row), ",")
        name, *cells = (cell.strip() for cell in row.split(parting))
        where = f"text.{number}"
        if not 2 <= len(cells) <= 5 or not name:
            what = (
                f"Row {number} of the list is {row.strip()[:60]!r}: it needs a name, how far east and how far north, parted by semicolons."
            )
            raise Refused(what, where, "places-listed")
        cells += [""] * (5 - len(cells))
        try:
            at = [length(_with_point(cell)) if cell else drawn for cell, drawn in zip(cells[:3], base, strict=True)]
            turn = float(cells[3].rstrip("°").replace(",", ".")) if cells[3] else 0.0
            if cells[4].lower() not in _MIRRORED:
                raise ValueError(f"{cells[4]!r} is not understood; write mirrored, or nothing")
            found.append(PlaceBody(name=name, at=place(at), turn=turn, mirrored=_MIRRORED[cells[4].lower()]))
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            what = f"Row {number} of the list, {name}: {first['loc'][0]} is not valid: {first['msg'].lower()}."
            raise Refused(what, where, "places-listed") from error
        except ValueError as error:
            said = error.what if isinstance(error, Refused) else str(error)
            raise Refused(f"Row {number} of the list, {name}: {said}", where, "places-listed") from error
    if not found:
        raise Refused("The list is empty: write a place in each row.", "text", "places-listed")
    return found

"""Named sizes of a section, the texts that they follow, and the range that it is made in.

Terms
-----
size
    a named length of a section. Width and height are sizes of every section, the wall of a tube one too; others are
    named by whoever drew it, and lengths and radii that are held follow them (``held``).
follows
    a size, or something that is held, may follow a text with other sizes in it, ``depth / 2 + 3``, written as measures are.
range
    the sizes that a section is made in, a row each: what a row does not say stays, or follows, as in the section itself.
"""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import MeasureName, MeasureText, key
from slow_ribbon.core.kernel.fields import Model, Name, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.kernel.units import System

#: The sizes that are fields of a section of their own.
OWN: Final = ("width", "height", "wall")


class NamedSize(Model):
    """A size by its name: its ``value``, mm, or the ``text`` that it follows, and the limits that it keeps within.

    The value of a section's own sizes stands in the section and is left out here.
    """

    name: MeasureName
    value: Size | None = None
    text: MeasureText | None = None
    system: System | None = None
    least: Size | None = None
    most: Size | None = None


class RangeRow(Model):
    """A row of a section's range: what it is called, and what some of its sizes are in it, mm."""

    name: Name
    values: Annotated[dict[MeasureName, Size], Field(min_length=1, max_length=100)]


Sizes = Annotated[tuple[NamedSize, ...], Field(max_length=100)]
Range = Annotated[tuple[RangeRow, ...], Field(max_length=200)]


def check_limits(sizes: Sizes, values: dict[str, float], of: str) -> None:
    """Raise ``Refused`` where a value, mm by the ``key`` of its size, is outside that size's limits."""
    for index, size in enumerate(sizes):
        value = values.get(key(size.name))
        if value is None:
            continue
        least, most = size.least, size.most
        if (least is not None and value < least - SAME_PLACE) or (most is not None and value > most + SAME_PLACE):
            limits = " and ".join(
                words
                for words in (
                    f"at least {figure(least, 3)}" if least is not None else "",
                    f"at most {figure(most, 3)}" if most is not None else "",
                )
                if words
            )
            raise Refused(
                f"{size.name.capitalize()} of {of} would be {figure(value, 3)}: it must be {limits}.", f"sizes.{index}", "size-limits"
            )


def check_names(sizes: Sizes, rows: Range, walled: bool) -> None:
    """Raise ``Refused`` where two sizes, or two rows, have one name, or a row says something that follows a text or is not there."""
    known: dict[str, NamedSize | None] = {name: None for name in OWN if walled or name != "wall"}
    seen: set[str] = set()
    for index, size in enumerate(sizes):
        name = key(size.name)
        if name in seen:
            raise Refused(f"Two sizes are named {size.name}: give each its own name.", f"sizes.{index}.name", "name-twice")
        if name not in OWN and size.value is None:
            raise Refused(f"Size {size.name} needs a length.", f"sizes.{index}.value", "size-value")
        if name == "wall" and not walled:
            raise Refused("Only a tube has a wall: give the size another name.", f"sizes.{index}.name", "size-name")
        seen.add(name)
        known[name] = size
    rows_seen: set[str] = set()
    for index, row in enumerate(rows):
        if row.name in rows_seen:
            raise Refused(f"Two of the range are named {row.name}: give each its own name.", f"range.{index}.name", "name-twice")
        rows_seen.add(row.name)
        for name in row.values:
            if key(name) not in known:
                raise Refused(f"There is no size {name} for {row.name} to set.", f"range.{index}.values", "unknown-size")
            said = known[key(name)]
            if said is not None and said.text is not None:
                raise Refused(
                    f"{said.name.capitalize()} follows {said.text}, so {row.name} cannot set it.", f"range.{index}.values", "size-follows"
                )

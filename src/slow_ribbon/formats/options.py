"""How a file is to be read, where it can be read in more ways than one."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.model import Coordinate, Model

Unit = Literal["mm", "cm", "m", "in", "ft"]
#: Length of each unit in mm (international yard and pound agreement, 1959).
UNITS: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
UNIT_NAMES: dict[str, str] = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches", "ft": "feet"}

Column = Literal["number", "east", "north", "height", "code", "leave"]


class Options(Model):
    """What is left out is recognised from the file, or is the common way.

    unit: of a file that does not say, or says it wrong. sharp: the least angle between two faces
    of a mesh, degrees, whose edge is taken. level: the height of a mesh's level cut, mm; half way
    up where left out. upright: the axis of a mesh that points up. delimiter, columns, header,
    order: of a list of points. storey: an IFC model's lines at floor or at ceiling level.
    """

    unit: Unit | None = None
    sharp: Annotated[float, Field(ge=0.5, le=179)] = 30.0
    level: Coordinate | None = None
    upright: Literal["y", "z"] | None = None
    delimiter: Literal[",", ";", "tab", "space"] | None = None
    columns: Annotated[tuple[Column, ...], Field(max_length=60)] | None = None
    header: bool | None = None
    order: Literal["file", "code"] = "code"
    storey: Literal["floor", "ceiling"] = "floor"

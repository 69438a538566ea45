"""How a file is to be read, where it can be read in more ways than one."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from slow_ribbon.core.kernel import Coordinate, Model

Unit = Literal["mm", "cm", "m", "in", "ft"]
#: Length of each unit in mm (international yard and pound agreement, 1959).
UNITS: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
UNIT_NAMES: dict[str, str] = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches", "ft": "feet"}

#: The axis of a mesh that points up.
Upright = Literal["y", "z"]

Column = Literal["number", "east", "north", "height", "code", "leave"]
Delimiter = Literal["tab", ";", ",", "|", "space"]
Decimal = Literal[".", ","]
#: Encodings that can be said, by the names that Python has for them.
Encoding = Literal[
    "utf-8", "utf-16", "cp1252", "cp1250", "cp1257", "cp1254", "iso8859_15", "iso8859_2", "cp850", "cp852", "mac_roman"
]  # fmt: skip
ENCODING_NAMES: dict[str, str] = {
    "utf-8": "UTF-8", "utf-16": "UTF-16", "cp1252": "Windows, western", "cp1250": "Windows, central",
    "cp1257": "Windows, Baltic", "cp1254": "Windows, Turkish", "iso8859_15": "ISO, western",
    "iso8859_2": "ISO, central", "cp850": "DOS, western", "cp852": "DOS, central", "mac_roman": "old Mac",
}  # fmt: skip
#: What is done with a surveyed point that has no height.
NoHeight = Literal["along", "out", "level"]


class Options(Model):
    """What is left out is recognised from the file, or is the common way.

    unit: of a file that does not say, or says it wrong. degrees: whether the coordinates of a map are
    degrees, where it does not say. sharp: the least angle between two faces
    of a mesh, degrees, whose edge is taken. levels: the heights of a mesh's level cuts, mm; one half way
    up where left out. upright: the axis of a mesh that points up. encoding, delimiter, decimal,
    columns, header, order: of a list of points. no_height: a point without one takes it *along* the
    line from its neighbours, is left *out*, or lies at no_height_level, mm. storey: an IFC model's
    lines at floor or at ceiling level.
    """

    unit: Unit | None = None
    degrees: bool | None = None
    sharp: Annotated[float, Field(ge=0.5, le=179)] = 30.0
    levels: Annotated[tuple[Coordinate, ...], Field(max_length=20)] | None = None
    upright: Upright | None = None
    encoding: Encoding | None = None
    delimiter: Delimiter | None = None
    decimal: Decimal | None = None
    columns: Annotated[tuple[Column, ...], Field(max_length=60)] | None = None
    header: bool | None = None
    order: Literal["file", "code"] = "code"
    no_height: NoHeight = "along"
    no_height_level: Coordinate = 0.0
    storey: Literal["floor", "ceiling"] = "floor"

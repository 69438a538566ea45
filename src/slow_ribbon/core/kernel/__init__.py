"""The base of everything else: errors, units, lengths in expressions, fields of documents."""

from __future__ import annotations

from slow_ribbon.core.kernel.arrays import CHORD_HEIGHT, Array, Indices
from slow_ribbon.core.kernel.check import Check, Mend
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import work_out
from slow_ribbon.core.kernel.fields import Coordinate, Distance, GroupName, Id, Model, Name, Point3
from slow_ribbon.core.kernel.figures import figure, plain
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.measures import Formula, MeasureChange
from slow_ribbon.core.kernel.patience import TooLong, look_up, patience, renew
from slow_ribbon.core.kernel.saw import Saw
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, NO_LEAN, NO_LENGTH, ROUNDING, SAME_PLACE, SAME_SHARE, TINIEST
from slow_ribbon.core.kernel.units import (
    FARTHEST,
    WELD,
    System,
    Units,
    area_unit,
    format_area,
    format_length,
    format_weight,
    in_units,
    parse_length,
    weight_unit,
)

__all__ = [
    "CHORD_HEIGHT",
    "FARTHEST",
    "NEARLY_WHOLE",
    "NO_LEAN",
    "NO_LENGTH",
    "ROUNDING",
    "SAME_PLACE",
    "SAME_SHARE",
    "TINIEST",
    "WELD",
    "Array",
    "Check",
    "Coordinate",
    "Distance",
    "Formula",
    "GroupName",
    "Id",
    "Indices",
    "MeasureChange",
    "Mend",
    "Model",
    "Name",
    "Point3",
    "Refused",
    "Saw",
    "System",
    "TooLong",
    "Units",
    "area_unit",
    "figure",
    "format_area",
    "format_length",
    "format_weight",
    "in_units",
    "kept_with",
    "look_up",
    "parse_length",
    "patience",
    "plain",
    "renew",
    "weight_unit",
    "work_out",
]

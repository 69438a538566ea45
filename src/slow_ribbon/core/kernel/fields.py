"""The base of every model of the job document, and its number types."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Final

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from slow_ribbon.core.kernel.units import FARTHEST


@dataclass(frozen=True)
class Follows:
    """Marks a field whose value follows from other things of the job, so that nobody touches it by hand.

    ``where`` names the field of the same model that says what it follows: it follows where that is set, and always if None.
    A field that is ``remembered`` is written to the document, since its value depends on what was there before (the numbers in
    tags); any other is computed when the document is read, and ``blank``, as plain data, stands for it until then if it is required.
    """

    where: str | None = None
    remembered: bool = False
    blank: Any = None


class Model(BaseModel):
    """A frozen piece of a document; unknown fields are an error, never dropped. ``following`` marks fields that follow from others."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    following: ClassVar[Mapping[str, Follows]] = {}


class Millimetres:
    """Marks the type of a field as a length, which is in mm and can follow a measure."""


LENGTH = Millimetres()

Coordinate = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST, allow_inf_nan=False), LENGTH]
"""A coordinate or signed distance in mm."""

Size = Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False), LENGTH]
"""A size in mm that must be more than zero and at most a kilometre."""

Distance = Annotated[float, Field(ge=0, le=FARTHEST, allow_inf_nan=False), LENGTH]
"""A distance in mm, zero allowed."""

Angle = Annotated[float, Field(ge=-360, le=360, allow_inf_nan=False)]
"""An angle in degrees."""

Point2 = tuple[Coordinate, Coordinate]
Point3 = tuple[Coordinate, Coordinate, Coordinate]

Id = Annotated[str, StringConstraints(pattern=r"^[A-Z][0-9]{1,9}$")]
UNKNOWN: Final = "S0"
"""Stands for a reference that is computed, until it is."""
Name = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True)]
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
"""The hash of a file's bytes, by which it is kept."""
GroupName = Annotated[str, StringConstraints(max_length=120, strip_whitespace=True)]
"""The group that somebody put a thing in, to find it by; empty for none."""
Some = Annotated[tuple[Id, ...], Field(min_length=1, max_length=10_000, fail_fast=True)]
"""Ids of some things, one at least."""

Index = Annotated[int, Field(ge=0)]
"""A place in a list, counted from 0."""

Tag = Annotated[str, StringConstraints(pattern=r"^[A-Z]{1,4}$")]
"""The letters that begin the tags of a run's pieces or name a row's items."""


class Accepted(Model):
    """A check of a thing that somebody accepted, and why. ``check`` is its key, ``what`` what it said, for those who read of it later."""

    thing: Id
    check: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{16}$")]
    what: Annotated[str, StringConstraints(min_length=1, max_length=1000)]
    reason: Annotated[str, StringConstraints(min_length=1, max_length=500, strip_whitespace=True)]

"""Measures: named lengths of a job, worked out each after those that it depends on.

Terms
-----
measure
    a named length of the job, written as a text such as ``6 m``, ``hall width / 2 - 18``.
formula
    a field of a thing of the job that follows a text with measures in it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated, Final

from pydantic import Field

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import (
    FUNCTIONS,
    Lengths,
    MeasureName,
    MeasureText,
    _names_of,
    _Parsed,
    _parsed,
    _worked_out,
    key,
)
from slow_ribbon.core.kernel.fields import Id, Model
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import System


class Measure(Model):
    """A named length, as written. Bare numbers in it are in the units the job had then, ``system``."""

    name: MeasureName
    text: MeasureText
    system: System | None = None


class MeasureChange(Model):
    """A measure added or changed. ``was`` is the name of the one to be changed; left out, that of ``name``, or a new one."""

    was: MeasureName | None = None
    name: MeasureName | None = None
    text: MeasureText | None = None
    system: System | None = None
    remove: bool = False


class Formula(Model):
    """A field that follows a text: ``field`` is its path in the thing, ``placing.lift`` say, or ``openings.O7.width``."""

    thing: Id
    field: Annotated[str, Field(pattern=r"^[a-z_]+(\.([a-z_0-9]+|[OM][0-9]+)){0,6}$")]
    text: MeasureText
    system: System | None = None


#: No lengths outside.
NOTHING_OUTSIDE: Final[Mapping[str, float]] = {}


def work_out_all(
    measures: Iterable[Measure], system: System, outside: Mapping[str, float] = NOTHING_OUTSIDE, word: str = "Measure"
) -> Lengths:
    """Return the length of every measure, mm, by its ``key``; ``outside`` are lengths that they may name too, likewise.

    ``word`` is what each is called. Raises ``Refused`` with the measure's place where two have one name, one cannot be worked
    out, comes out negative, or depends on itself by way of others, which are named.
    """
    written: dict[str, tuple[int, Measure]] = {}
    for index, measure in enumerate(measures):
        name = key(measure.name)
        if name in FUNCTIONS:
            raise Refused(f"{measure.name} is the name of a function: choose another.", f"measures.{index}.name", "measure-name")
        if name in written:
            raise Refused(f"Two {word.lower()}s are named {measure.name}: give each its own name.", f"measures.{index}.name", "name-twice")
        written[name] = (index, measure)
    names = _names_of(frozenset((*outside, *written)))
    parsed: dict[str, _Parsed | Refused] = {}
    needed: dict[str, list[str]] = {}
    for name, (_, measure) in written.items():
        look_up()
        try:
            parsed[name] = read = _parsed(measure.text, names, measure.system or system)
            needed[name] = sorted(read.uses & written.keys())
        except Refused as refused:
            parsed[name], needed[name] = refused, []
    found = {**outside}
    for name in _in_order(written, needed, word):
        look_up()
        index, measure = written[name]
        where = f"measures.{index}.text"
        try:
            read_so = parsed[name]
            if isinstance(read_so, Refused):
                raise read_so
            worked = _worked_out(measure.text, read_so, found, measure.system or system)
        except Refused as refused:
            raise Refused(f"{word} {measure.name}: {refused.what}", where, refused.code) from refused
        if worked.length < 0:
            raise Refused(
                f"{word} {measure.name} comes out as {figure(worked.length, 3)}; it cannot be negative.", where, "measure-negative"
            )
        found[name] = worked.length
    return Lengths({name: found[name] for name in written})


def _in_order(written: Mapping[str, tuple[int, Measure]], needed: Mapping[str, Sequence[str]], word: str) -> list[str]:
    """Return measures in such an order that those that one needs come before it. Raises ``Refused`` for a circle, which is named."""
    order: dict[str, None] = {}
    for first in written:
        way: dict[str, None] = {}
        stack = [(first, iter(needed[first]))] if first not in order else []
        way[first] = None
        while stack:
            name, left = stack[-1]
            other = next((one for one in left if one not in order), None)
            if other is None:
                stack.pop()
                way.pop(name)
                order[name] = None
            elif other in way:
                names = list(way)
                circle = [written[one][1].name for one in [*names[names.index(other) :], other]]
                what = f"{' depends on '.join(circle)}: {word.lower()}s cannot depend on one another in a circle."
                raise Refused(what, f"measures.{written[other][0]}.text", "measure-circle")
            else:
                way[other] = None
                stack.append((other, iter(needed[other])))
    return list(order)


def in_place_of(text: str, was: str, name: str) -> str:
    """Return a text with another name for a measure wherever it stands by itself.

    >>> in_place_of("hall / 2 - hall height", "hall", "room")
    'room / 2 - hall height'
    """
    pattern = r"[\s_]+".join(map(re.escape, key(was).split(" ")))
    # A longer name that begins alike is another measure: more words follow without anything between.
    return re.sub(rf"(?<![A-Za-z0-9_]){pattern}(?![A-Za-z0-9_])(?!\s+[A-Za-z_])", name, text, flags=re.IGNORECASE)

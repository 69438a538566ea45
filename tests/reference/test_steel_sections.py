"""Steel sections against the tables of their standards, which are kept with them (from memory, named in ``steel.toml``).

Outlines are drawn from sizes alone; what the tables say of them, to three figures, is what the outlines have.
"""

from __future__ import annotations

from typing import Any

import pytest

from slow_ribbon.core.sections.document.section import bed_up, section_shape
from slow_ribbon.core.sections.library import library
from slow_ribbon.core.sections.library.steel import rows, steel
from slow_ribbon.core.sections.outline.profile import shape_of
from slow_ribbon.core.sections.section_properties import facts_of

LISTED = [(entry, sizes) for entry, (_, sizes) in zip(steel(), rows(), strict=True)]


@pytest.mark.parametrize(("entry", "table"), LISTED, ids=[entry.key for entry, _ in LISTED])
def test_a_steel_section_is_what_its_table_says(entry: Any, table: dict[str, float]) -> None:
    facts = facts_of(entry.section)
    had = {"mass": facts.weight, "area": facts.area / 100, "ix": facts.ix / 1e4, "iy": facts.iy / 1e4}
    for name in had.keys() & table.keys():
        # As many figures as a table prints.
        places = len(f"{table[name]:g}".replace(".", "").lstrip("0"))
        assert float(f"{had[name]:.{max(places, 3)}g}") == table[name], name
    assert entry.section.width == pytest.approx(table.get("width", table.get("diameter", table.get("depth"))))
    assert entry.section.height == pytest.approx(table.get("depth", table.get("diameter")))


def test_the_library_holds_the_trade_exactly_and_by_names_of_its_own() -> None:
    entries = library()
    assert len(entries) >= 60
    assert len({entry.key for entry in entries}) == len({entry.section.name for entry in entries}) == len(entries)
    for entry in entries:
        box = shape_of(entry.section.outline).box
        # Drawn at its size: no arc is made part of an ellipse by its being listed with a rounded one.
        assert (box[2] - box[0], box[3] - box[1]) == pytest.approx((entry.section.width, entry.section.height), abs=1e-6)
        assert section_shape(entry.section).area > 0
        assert bed_up(entry.section) is not None

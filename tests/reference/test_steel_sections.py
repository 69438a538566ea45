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
        # As many figures as a table prints: noughts at the end of a whole number are none.
        text = f"{table[name]:g}"
        places = len((text if "." in text else text.rstrip("0")).replace(".", "").lstrip("0"))
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


#: Painting surface of rolled sections, m² a metre, as tables of EN 10365 sections print it (from memory).
PAINTED = {
    "I-section-80-46-3.8": 0.328,
    "I-section-100-55-4.1": 0.400,
    "I-section-200-100-5.6": 0.768,
    "I-section-300-150-7.1": 1.16,
    "H-section-96-100-5": 0.561,
    "H-section-190-200-6.5": 1.14,
    "H-section-100-100-6": 0.567,
    "H-section-200-200-9": 1.15,
}


@pytest.mark.parametrize("key", PAINTED)
def test_rolled_sections_are_painted_as_tables_say(key: str) -> None:
    (section,) = (entry.section for entry in steel() if entry.key == key)
    assert float(f"{facts_of(section).painted:.3g}") == PAINTED[key]

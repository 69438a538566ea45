"""The section desk: a section's facts beside it, and how they follow its size and its units."""

from __future__ import annotations

from acting import card, pick
from playwright.sync_api import Page, expect


def test_facts_follow_the_section(demo: Page) -> None:
    """A 48.3 × 3.2 tube by its standard's table (EN 10219-2, from memory): 3.56 kg/m, 11.6 cm⁴, 4.80 cm³, 23.2 cm⁴."""
    pick(demo, "Round tube")
    told = card(demo)
    expect(told).to_contain_text("3.56 kg/m")
    for words in ("Second moment, level axis11.6 cm⁴", "Section modulus, level axis4.80 cm³", "Torsion constant23.2 cm⁴"):
        expect(told).to_contain_text(words)
    expect(told).to_contain_text("Largest circle in it, diameter3.2")
    expect(demo.get_by_role("main").get_by_text("centroid")).to_be_visible()
    wall = told.get_by_role("textbox", name="Wall")
    wall.fill("5")
    wall.press("Enter")
    # 0.0246615·t·(D − t), the same standard's formula.
    expect(told).to_contain_text(f"{0.0246615 * 5 * 43.3:.2f} kg/m")
    demo.get_by_role("button", name="Units: mm").click()
    demo.get_by_role("option", name="feet-inches to 1/16").click()
    expect(told).to_contain_text("lb/ft")
    expect(told).to_contain_text("in⁴")

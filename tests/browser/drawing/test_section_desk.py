"""The section desk: outlines drawn, shaped and held by hand, and a section's facts beside it."""

from __future__ import annotations

import re

from acting import card, middle_of, pick, saved, sheet
from playwright.sync_api import Locator, Page, expect

from slow_ribbon.core.sections.library import library


def point(page: Page, number: int) -> Locator:
    return page.locator(f"[data-point='0 {number - 1}']")


def edge(page: Page, number: int) -> None:
    """Click an edge a third along it, clear of the handle in its middle."""
    found = page.locator(f"[data-edge='0 {number - 1}']")
    expect(found).to_be_attached()
    x, y = found.evaluate(
        "(path) => { const p = path.getPointAtLength(path.getTotalLength() / 3).matrixTransform(path.getScreenCTM()); return [p.x, p.y]; }"
    )
    page.mouse.click(x, y)


def figure(page: Page, label: str) -> Locator:
    return page.get_by_role("main").get_by_role("button", name=re.compile(f"^{label}:"))


def typed(page: Page, label: str, text: str) -> None:
    figure(page, label).click()
    field = page.get_by_role("main").get_by_role("textbox", name=label, exact=True)
    field.fill(text)
    field.press("Enter")


def test_an_outline_is_drawn_by_typing_and_held(demo: Page) -> None:
    """An architrave's board with a bevel, drawn by lengths and directions, squared, cut, and given a fixed width."""
    sheet(demo).get_by_role("button", name="Draw one").click()
    main = demo.get_by_role("main")
    for first, second in (("0", "0"), ("70", "0"), ("12", "90"), ("40", "174"), ("", "")):
        if first:
            main.get_by_role("textbox").first.fill(first)
            main.get_by_role("textbox").last.fill(second)
        demo.keyboard.press("Enter")
        if first:
            expect(main.get_by_role("textbox").first).to_have_value("")
    saved(demo, 1)
    answer = card(demo)
    expect(answer.get_by_label("Width", exact=True)).to_have_value("70")
    expect(figure(demo, "Length of edge 1")).to_have_text(re.compile("^70"))
    # Made square by what is held, not by hand.
    edge(demo, 1)
    answer.get_by_role("button", name="Hold level").click()
    saved(demo, 2)
    edge(demo, 1)
    demo.keyboard.down("Shift")
    edge(demo, 2)
    demo.keyboard.up("Shift")
    answer.get_by_role("button", name="Hold square").click()
    saved(demo, 3)
    expect(answer).to_contain_text("edge 1 square to edge 2")
    edge(demo, 1)
    answer.get_by_role("button", name="Hold the length").click()
    saved(demo, 4)
    # A length typed on the drawing; the other end of the board follows, what is held stays.
    typed(demo, "Length of edge 2", "18")
    saved(demo, 5)
    expect(answer.get_by_label("Width", exact=True)).to_have_value("70")
    expect(figure(demo, "Length of edge 2")).to_have_text(re.compile("^18"))
    # A drag moves only what is free: the corner goes up, not out.
    x, y = middle_of(point(demo, 3))
    demo.mouse.down()
    demo.mouse.move(x + 20, y - 20, steps=4)
    demo.mouse.move(x + 40, y - 40, steps=4)
    demo.mouse.up()
    saved(demo, 6)
    expect(answer.get_by_label("Width", exact=True)).to_have_value("70")
    expect(figure(demo, "Length of edge 2")).not_to_have_text(re.compile("^18"))
    demo.get_by_role("button", name="Undo").click()
    expect(figure(demo, "Length of edge 2")).to_have_text(re.compile("^18"))
    # So it goes by the arrows, a millimetre at a time.
    point(demo, 3).click()
    demo.get_by_role("application", name=re.compile("^Section")).focus()
    demo.keyboard.press("ArrowUp")
    expect(figure(demo, "Length of edge 2")).to_have_text(re.compile("^19"))
    # Contradictions are named, and nothing changes.
    edge(demo, 1)
    answer.get_by_role("button", name="Hold upright").click()
    expect(demo.get_by_role("alert").filter(has_text="contradicts itself")).to_contain_text(
        "point 1 and point 2 level; point 1 and point 2 upright"
    )
    demo.keyboard.press("Escape")
    expect(demo.get_by_role("alert")).not_to_be_visible()
    # A corner is rounded; it stays tangent, and a click on a mark lets that go.
    point(demo, 3).click()
    answer.get_by_label("Cut by").fill("4")
    demo.keyboard.press("Tab")
    answer.get_by_role("button", name="Round it").click()
    expect(answer).to_contain_text("radius 4 mm of arc 3")
    mark = demo.get_by_role("main").get_by_role("button", name="Let go of: tangent at point 3")
    mark.click()
    expect(mark).not_to_be_attached()
    expect(answer.get_by_role("button", name="Let go")).to_have_count(5)


def test_edges_are_shaped_and_points_come_and_go(demo: Page) -> None:
    pick(demo, "Skirting, chamfered")
    answer = card(demo)
    edge(demo, 3)
    answer.get_by_role("radio", name="Curve").click()
    saved(demo, 1)
    handle = demo.locator("[data-shape='0 2 0']")
    x, y = middle_of(handle)
    demo.mouse.down()
    demo.mouse.move(x + 12, y - 12, steps=4)
    demo.mouse.move(x + 25, y - 25, steps=4)
    demo.mouse.up()
    saved(demo, 2)
    expect(answer.get_by_label("Width", exact=True)).not_to_have_value("18")
    # Its runs have followed: the skirting is cut of another section now.
    edge(demo, 3)
    answer.get_by_role("button", name="Insert a point").click()
    saved(demo, 3)
    expect(demo.locator("[data-point]")).to_have_count(6)
    point(demo, 4).click()
    expect(answer).to_contain_text("go on smoothly")
    demo.keyboard.press("Delete")
    saved(demo, 4)
    expect(demo.locator("[data-point]")).to_have_count(5)
    edge(demo, 3)
    answer.get_by_role("radio", name="Arc").click()
    saved(demo, 5)
    typed(demo, "Radius of arc 3", "nonsense")
    expect(demo.get_by_role("main").get_by_role("alert")).to_contain_text("nonsense")
    demo.keyboard.press("Escape")
    typed(demo, "Radius of arc 3", "40")
    saved(demo, 6)
    expect(figure(demo, "Radius of arc 3")).to_have_text(re.compile("^R 40"))
    # A section that is used is left for the drawing by Escape, one thing at a time.
    demo.keyboard.press("Escape")
    expect(answer).to_contain_text("Pick a point or an edge")
    demo.keyboard.press("Escape")
    expect(demo.locator("svg[aria-label=Plan]")).to_be_visible()


def test_facts_follow_the_section(demo: Page) -> None:
    """A 48.3 × 3.2 tube by its standard's table (EN 10219-2, from memory): 3.56 kg/m, 11.6 cm⁴, 4.80 cm³, 23.2 cm⁴."""
    pick(demo, "Round tube")
    answer = card(demo)
    expect(answer).to_contain_text("3.56 kg/m")
    for words in ("Second moment, level axis11.6 cm⁴", "Section modulus, level axis4.80 cm³", "Torsion constant23.2 cm⁴"):
        expect(answer).to_contain_text(words)
    expect(answer).to_contain_text("Largest circle in it, diameter3.2")
    expect(demo.get_by_role("main").get_by_text("centroid")).to_be_visible()
    wall = answer.get_by_role("textbox", name="Wall")
    wall.fill("5")
    wall.press("Enter")
    # 0.0246615·t·(D − t), the same standard's formula.
    expect(answer).to_contain_text(f"{0.0246615 * 5 * 43.3:.2f} kg/m")
    demo.get_by_role("button", name="Units: mm").click()
    demo.get_by_role("option", name="feet-inches to 1/16").click()
    expect(answer).to_contain_text("lb/ft")
    expect(answer).to_contain_text("in⁴")


def test_the_library_is_searched_by_words_and_sizes(demo: Page) -> None:
    demo.keyboard.press("k")
    tiles = demo.get_by_role("main").get_by_role("button", name=re.compile(r"\d"))
    answer = demo.get_by_role("main").get_by_role("status")
    expect(answer).to_have_text(f"{len(library())} sections")
    # Only what is in sight is drawn; the last is there once it is scrolled to.
    last = tiles.filter(has_text="Tee 40 × 40 × 5")
    expect(tiles.first).to_be_visible()
    expect(last).not_to_be_attached()
    tiles.first.hover()
    demo.mouse.wheel(0, 30_000)
    expect(last).to_be_visible()
    demo.get_by_label("Find a section").fill("angle 60x40")
    expect(tiles).to_have_count(1)
    tiles.click()
    demo.get_by_role("button", name="Add to job").click()
    saved(demo, 1)
    # The mass of its standard's table (EN 10056-1, from memory).
    expect(card(demo)).to_contain_text("3.76 kg/m")
    demo.keyboard.press("k")
    demo.get_by_label("Find a section").fill("architrave of glass")
    expect(demo.get_by_role("main")).to_contain_text("None of the sections has all of that")
    demo.get_by_role("button", name="Show all of them").click()
    expect(answer).to_have_text(f"{len(library())} sections")
    expect(tiles.first).to_be_visible()

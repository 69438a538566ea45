"""Makes the pictures in docs/screenshots/ (``script/screens``); not collected by the tests, since nothing here can fail usefully."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import ezdxf
import pypdfium2
import pytest
import trimesh
from acting import card, pick, sheet
from browsing import opened
from playwright.sync_api import Browser, Page, expect

from slow_ribbon.demo.ferry_house import NORTH_WEST, QUAY, SOUTH_EAST

SCREENS = Path(__file__).parents[2] / "docs" / "screenshots"


@pytest.fixture
def page(browser: Browser, address: str) -> Iterator[Page]:
    """A page on which the questions of cards are at rest, as they are at first."""
    with opened(browser, address, questions="rest") as found:
        yield found


def shoot(page: Page, name: str, wait: int = 500) -> None:
    # A picture under the plan is drawn by the service when it is first asked for.
    page.evaluate("Promise.all([...document.querySelectorAll('image')].map((image) => fetch(image.href.baseVal)))")
    page.wait_for_timeout(wait)
    page.screenshot(path=SCREENS / f"{name}.png")


def open_demo(page: Page) -> None:
    page.goto("/job/kestrel-slip")
    expect(page.locator("svg[aria-label=Plan] path[data-pick]").first).to_be_attached()
    page.wait_for_timeout(600)


def test_jobs(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_text("Kestrel Slip ferry house")).to_be_visible()
    shoot(page, "jobs")


def test_plan_3d_and_cutting(page: Page) -> None:
    open_demo(page)
    pick(page, "Skirting, door to door")
    page.keyboard.press("Home")
    page.wait_for_timeout(500)
    rod = page.get_by_role("region", name="Rod").locator("svg").bounding_box()
    assert rod
    page.mouse.click(rod["x"] + rod["width"] * 0.645, rod["y"] + 80)
    card(page).get_by_role("button", name="How are the corners made?").click()
    shoot(page, "card-open")
    card(page).get_by_role("button", name="How are the corners made?").click()
    shoot(page, "plan")
    page.keyboard.press("o")
    page.wait_for_timeout(3000)
    page.keyboard.press("Home")
    shoot(page, "3d", 2500)
    page.keyboard.press("u")
    pick(page, "Cornice 19 pieces")
    page.locator("tbody tr:has(svg)", has_text="C5").first.click()
    shoot(page, "cutting-list")


def test_row(page: Page) -> None:
    open_demo(page)
    pick(page, "Bollard lights")
    rod = page.get_by_role("region", name="Rod")
    box = rod.locator("[data-item='3']").bounding_box()
    assert box
    at = (box["x"] + box["width"] / 2, box["y"] + 50)
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] - 46, at[1], steps=8)
    page.mouse.up()
    page.mouse.click(at[0] - 46, at[1])
    card(page).get_by_role("button", name="Which item stands where?").click()
    page.get_by_role("button", name="Undo", exact=True).wait_for()
    shoot(page, "row", 1500)
    page.get_by_role("button", name="Undo", exact=True).click()


def test_fault(page: Page) -> None:
    open_demo(page)
    pick(page, "The sections do not meet")
    shoot(page, "fault")


def test_library_and_section(page: Page) -> None:
    open_demo(page)
    pick(page, "Pick a section")
    page.get_by_role("main").get_by_role("button", name="Picture rail 20").click()
    shoot(page, "library")
    page.keyboard.press("Escape")
    pick(page, "Architrave, drawn here")
    page.locator("figure canvas").wait_for()
    page.wait_for_timeout(1500)
    page.locator("[data-point='0 6']").click()
    page.wait_for_timeout(500)
    shoot(page, "section")


def test_3d_near_a_corner(page: Page) -> None:
    open_demo(page)
    pick(page, "Cornice 19 pieces")
    page.keyboard.press("o")
    canvas = page.locator("canvas").first
    page.wait_for_timeout(4000)
    box = canvas.bounding_box()
    assert box
    # Toward a corner of the bay, with the wheel.
    page.mouse.move(box["x"] + box["width"] * 0.37, box["y"] + box["height"] * 0.1)
    for _ in range(22):
        page.mouse.wheel(0, -120)
        page.wait_for_timeout(100)
    shoot(page, "3d-corner", 3000)


def test_bringing_in(page: Page, tmp_path: Path) -> None:
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    around = [*reversed(NORTH_WEST[1:-1]), *SOUTH_EAST[1:]]
    for index, (a, b) in enumerate(pairwise(around)):
        space.add_line(a, (b[0] - (0.4 if index == 4 else 0), b[1]), dxfattribs={"layer": "WALL-FACE"})
    space.add_arc((12400, 4600), 3400, -90, 90, dxfattribs={"layer": "WALL-FACE"})
    space.add_line((12400, 8000), around[0], dxfattribs={"layer": "WALL-FACE"})
    space.add_line(around[3], around[4], dxfattribs={"layer": "WALL-FACE"})
    # A partition meets the wall: three edges at a point.
    space.add_line((8600, 1200), (8600, 3400), dxfattribs={"layer": "WALL-FACE"})
    space.add_lwpolyline([(x, y, 0, 0, 0) for x, y in QUAY] + [(20800, -3200, 0, 0, 0)], dxfattribs={"layer": "QUAY"})
    space.add_spline([(-5200, -9800), (2600, -10700), (11000, -10400), (19000, -6400), (22000, -3500)], dxfattribs={"layer": "WATERLINE"})
    for x in (2000, 4600, 9800):
        space.add_lwpolyline([(x, 3000), (x + 1800, 3000), (x + 1800, 3600), (x, 3600)], close=True, dxfattribs={"layer": "SEATS"})
    space.add_arc((3200, 0), 1800, 0, 90, dxfattribs={"layer": "DOORS"})
    document.saveas(tmp_path / "waiting-hall.dxf")
    page.goto("/")
    page.get_by_placeholder("Name of a new job").fill("Waiting hall survey")
    page.get_by_role("button", name="Start a job").click()
    expect(sheet(page)).to_be_visible()
    page.keyboard.press("b")
    page.get_by_label("Drawing file").set_input_files(tmp_path / "waiting-hall.dxf")
    page.get_by_role("checkbox", name="SEATS", exact=True).uncheck()
    expect(page.get_by_role("main")).to_contain_text("three or more edges meet")
    shoot(page, "bringing-in")


def test_bringing_in_a_mesh(page: Page, tmp_path: Path) -> None:
    plinth = trimesh.creation.box((5200, 2600, 450))
    plinth.apply_translation((2600, 1300, 225))
    steps = [trimesh.creation.box((1800, 300, 450 - 150 * n)) for n in range(1, 3)]
    for n, step in enumerate(steps, start=1):
        step.apply_translation((2600, -300 * n + 150, (450 - 150 * n) / 2))
    drum = trimesh.creation.cylinder(700, 600, sections=48)
    drum.apply_translation((4100, 1300, 750))
    trimesh.util.concatenate([plinth, *steps, drum]).export(tmp_path / "plinth.obj")
    page.goto("/")
    page.get_by_placeholder("Name of a new job").fill("Plinth")
    page.get_by_role("button", name="Start a job").click()
    expect(sheet(page)).to_be_visible()
    page.keyboard.press("b")
    page.get_by_label("Drawing file").set_input_files(tmp_path / "plinth.obj")
    expect(page.get_by_role("main")).to_contain_text("How is it read?")
    # The plinth's top is taken and its drum pointed at.
    page.get_by_text("By pointing at faces").click()
    faces = page.get_by_role("region", name="Faces")
    faces.get_by_label("Face 2", exact=True).check()
    expect(page.get_by_role("button", name="Add 1 line")).to_be_enabled()
    faces.get_by_label("Face 3", exact=True).hover()
    shoot(page, "bringing-in-a-mesh", 1500)


def test_places(page: Page) -> None:
    open_demo(page)
    pick(page, "Hall windows")
    page.get_by_role("list", name="Places").get_by_role("button", name="W5").click()
    page.keyboard.press("o")
    page.wait_for_timeout(2500)
    page.keyboard.press("Home")
    page.mouse.move(600, 300)
    page.mouse.down()
    page.mouse.move(860, 300, steps=8)
    page.mouse.up()
    shoot(page, "places", 2500)


def test_the_cut_across_a_line(page: Page) -> None:
    open_demo(page)
    page.get_by_placeholder("Find").fill("Dado")
    pick(page, "Dado rail")
    page.get_by_role("button", name="Cut", exact=True).click()
    expect(page.get_by_role("application", name="Cut across Hall walls").locator("[data-run]").first).to_be_visible()
    shoot(page, "across", 800)


def test_on_paper(page: Page) -> None:
    open_demo(page)
    page.get_by_role("button", name="Hand over").click()
    with page.expect_download() as download:
        page.get_by_role("button", name="A4", exact=True).click()
    # The sheet on which the sprung cornice begins: mitres of two angles, scarfs, pieces that bend.
    sheets = pypdfium2.PdfDocument(download.value.path())
    sheet_of_cornice = next(one for one in sheets if "Cornice, sprung" in one.get_textpage().get_text_range())
    sheet_of_cornice.render(scale=1.6).to_pil().save(SCREENS / "on-paper.png")


def test_joints_on_the_rod(page: Page) -> None:
    open_demo(page)
    pick(page, "Picture rail 19 pieces")
    card(page).get_by_role("button", name="How are long pieces made?").click()
    card(page).get_by_role("button", name="Keep off those of: Cornice").scroll_into_view_if_needed()
    page.mouse.move(1120, 450)
    page.mouse.wheel(0, 120)
    shoot(page, "joints", 800)


def find(page: Page, name: str) -> None:
    sheet(page).get_by_role("textbox", name="Find").fill(name)
    pick(page, name)
    page.keyboard.press("Home")


def test_field(page: Page) -> None:
    open_demo(page)
    find(page, "Shrubs of the bed")
    card(page).get_by_role("button", name="How is the ground filled?").click()
    shoot(page, "field", 1000)


def test_frames(page: Page) -> None:
    open_demo(page)
    find(page, "Wind screen")
    card(page).get_by_role("button", name="How is it made?").click()
    page.keyboard.press("o")
    shoot(page, "frames", 3000)


def test_cords(page: Page) -> None:
    open_demo(page)
    find(page, "Lamps of the festoon")
    card(page).get_by_role("button", name="How do they hang?").click()
    card(page).get_by_role("list", name="Cords with their items").scroll_into_view_if_needed()
    page.keyboard.press("o")
    shoot(page, "cords", 3000)

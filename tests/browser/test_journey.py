"""One person does the whole job in the browser, on a DXF made here, and reads the figures off the screen."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import ezdxf
import pytest
from acting import behind, middle_of
from playwright.sync_api import Page, expect

from slow_ribbon.core.job.job_file import job_from_data, job_from_text


def thin(text: str | None) -> str:
    """Return a text with the thin spaces of its thousands taken out."""
    return (text or "").replace("\u2009", "")


@pytest.fixture
def drawing(tmp_path: Path) -> Path:
    """An L-shaped room in loose edges with gaps of half a millimetre, a rail, and a word that is not read."""
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    points = [(0, 0), (6000, 0), (6000, 2000), (4000, 2000), (4000, 5000), (0, 5000)]
    for index, (a, b) in enumerate(zip(points, points[1:] + points[:1], strict=True)):
        if index % 2:
            a, b = b, a
        space.add_line(a, (b[0], b[1] - 0.5 if index == 1 else b[1]), dxfattribs={"layer": "ROOM"})
    space.add_line((0, 0), (6000, 0), dxfattribs={"layer": "ROOM"})
    space.add_lwpolyline([(8000, 0), (10000, 0), (12000, 0), (12000, 3000)], dxfattribs={"layer": "RAIL"})
    space.add_lwpolyline([(0, 9000), (9000, 9000)], dxfattribs={"layer": "NOTES"})
    space.add_text("Not an edge", dxfattribs={"layer": "NOTES"})
    path = tmp_path / "waiting-room.dxf"
    document.saveas(path)
    return path


def test_the_whole_job(page: Page, drawing: Path) -> None:
    page.goto("/")
    page.get_by_placeholder("Name of a new job").fill("Waiting room")
    page.get_by_role("button", name="Start a job").click()

    # 3. Bring in the drawing: look at what joining makes of it, leave a layer out, add the rest in one edit.
    page.get_by_role("button", name="Import a drawing").last.click()
    page.get_by_label("Drawing file").set_input_files(drawing)
    answer = page.locator("main")
    expect(answer).to_contain_text("Not read: 1 text entity")
    expect(answer).to_contain_text("1 gap closed, of 0.5 at most · 1 doubled edge dropped · 1 point on straights dropped")
    page.get_by_role("checkbox", name="NOTES", exact=True).first.uncheck()
    expect(page.get_by_role("button", name="Add 2 lines")).to_be_visible()
    page.get_by_label("Join tolerance").fill("0.1 mm")
    page.keyboard.press("Enter")
    expect(answer).to_contain_text("0 gaps closed")
    page.get_by_label("Join tolerance").fill("1")
    page.keyboard.press("Enter")
    expect(answer).to_contain_text("1 gap closed")
    page.get_by_role("button", name="Add 2 lines").click()
    sheet = page.get_by_role("navigation", name="Job sheet")
    expect(sheet.get_by_role("button", name="ROOM")).to_contain_text("22\u2009000")
    expect(sheet.get_by_role("button", name="RAIL")).to_contain_text("7\u2009000")

    # 4. Draw a line: type lengths and turns, step back, finish; then move a point by typing and by dragging.
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    plan = page.get_by_label("Plan", exact=True)
    box = plan.bounding_box()
    assert box
    page.mouse.click(box["x"] + 140, box["y"] + 560 - 120)
    for length, turn in (("2 m", ""), ("1500", "90"), ("700", "90")):
        page.keyboard.press("1")
        page.get_by_label("Length").fill(length)
        page.get_by_label("Turn right").fill(turn)
        page.keyboard.press("Enter")
    page.get_by_role("button", name="Step back").click()
    page.get_by_role("button", name="Finish").click()
    drawn = sheet.get_by_role("button", name="Line 3")
    expect(drawn).to_contain_text("3\u2009500")
    card = page.get_by_role("complementary", name="Card")
    card.get_by_role("button", name="Next point").click()
    card.get_by_role("button", name="Next point").click()
    north = float(card.get_by_label("North", exact=True).input_value())
    card.get_by_label("North", exact=True).fill(f"{north} - 500")
    page.keyboard.press("Enter")
    expect(drawn).to_contain_text("4\u2009000")
    x, y = middle_of(plan.locator("[data-point='2']"))
    page.mouse.down()
    page.mouse.move(x + 26, y, steps=4)
    page.mouse.up()
    expect(drawn).not_to_contain_text("4\u2009000")
    page.keyboard.press("Control+z")
    expect(drawn).to_contain_text("4\u2009000")

    # 5. Pick sections from the library and give one a size.
    page.keyboard.press("k")
    page.get_by_role("button", name="Skirting, bull-nosed").click()
    page.get_by_role("checkbox", name="scaled together").uncheck()
    page.get_by_label("Width").fill("18")
    page.keyboard.press("Enter")
    page.get_by_label("Height").fill("120")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Add to job").click()
    expect(sheet.get_by_role("button", name="Skirting, bull-nosed")).to_contain_text("18 × 120")

    # 6. Make runs: two lines at once, then one of them faced the other way with a key.
    sheet.get_by_role("button", name="ROOM").click()
    sheet.get_by_role("button", name="RAIL").click(modifiers=["Control"])
    page.keyboard.press("r")
    page.get_by_role("radio", name="Left of travel").click()
    page.get_by_role("button", name="Make 2 runs").click()
    expect(card).to_contain_text("2 runs")
    card.get_by_label("Lift").fill("10")
    page.keyboard.press("Enter")
    room = sheet.get_by_role("button", name="Skirting, bull-nosed, ROOM")
    room.click()
    expect(card.get_by_label("Lift")).to_have_value("10")

    # 8. The rod: pieces, corners with their angle, and the same place lit up in the drawing.
    rod = page.get_by_role("region", name="Rod")
    expect(rod).to_contain_text("6 pieces")
    assert "22000" in thin(rod.text_content())
    expect(rod.locator("title", has_text="internal corner, 90°")).to_have_count(5)
    expect(rod.locator("title", has_text="external corner, 90°")).to_have_count(1)
    facing = rod.text_content()
    page.keyboard.press("h")
    expect(rod).not_to_have_text(facing or "")
    expect(rod.locator("title", has_text="external corner, 90°")).to_have_count(5)
    page.keyboard.press("h")
    expect(rod.locator("title", has_text="internal corner, 90°")).to_have_count(5)
    strip = rod.locator("svg").bounding_box()
    assert strip
    page.mouse.move(strip["x"] + strip["width"] / 2, strip["y"] + 80)
    expect(rod).to_contain_text("pointing at 11\u2009000")
    expect(plan.locator("text", has_text="11\u2009000")).to_have_count(1)
    page.mouse.click(strip["x"] + 60, strip["y"] + 80)
    expect(card).to_contain_text("Piece S1")

    # 7. See it in 3D: one canvas, drawn, nothing failed.
    page.keyboard.press("o")
    expect(page.locator("canvas")).to_be_visible()
    expect(page.locator("main")).to_contain_text("from the")
    page.keyboard.press("p")

    # 9. Set posts out along the rail by equal bays, restarting at its corner.
    sheet.get_by_role("button", name="RAIL").first.click()
    page.keyboard.press("i")
    page.get_by_label("No wider than", exact=True).fill("1.5 m")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Set them out").click()
    came_out = card.get_by_role("status", name="What came out")
    expect(came_out).to_contain_text("6 items at 1\u2009400.0 centres")
    card.get_by_role("radio", name="Restart at each").click()
    expect(came_out).to_contain_text("6 items")
    expect(came_out).to_contain_text("1\u2009333.3, 1\u2009500.0")
    card.get_by_role("checkbox", name="Last item").click()
    expect(card.get_by_role("checkbox", name="Last item")).not_to_be_checked()
    expect(came_out).to_contain_text("5 items")
    card.get_by_role("button", name="Spacing rule").click()
    page.get_by_role("option", name="Fixed centres").click()
    card.get_by_label("Centres", exact=True).fill("1 mm + 1 mm - 1.99 mm")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("would hold")
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("dialog")).not_to_be_visible()
    centres = card.get_by_label("Centres", exact=True)
    centres.focus()
    page.keyboard.press("Escape")
    expect(centres).not_to_be_focused()

    # 10. The cutting list: long points on the walls, short points round the pilaster's corner.
    page.keyboard.press("u")
    expect(page.get_by_role("button", name="Piece S3", exact=True)).to_be_visible()
    cells = [[thin(text) for text in row.locator("td").all_text_contents()] for row in page.locator("tbody tr:has(svg)").all()]
    by_tag = {row[0]: row for row in cells}
    # Tag, quantity, picture (with the edges left and right of travel), long point, short point, on the line, begins, ends. In a corner
    # of the room a piece is longest at its back, which lies on the table; round the pilaster's corner at its face.
    back, face = "bevel 45.0°under", "bevel 45.0°upper"
    assert by_tag["S1"][:8] == ["S1", "1", "bottomtop", "6000", "5964", "6000", back, back]
    assert by_tag["S3"][:6] == ["S3", "1", "bottomtop", "2000", "2000", "2000"]
    assert sorted(by_tag["S3"][6:8]) == sorted([back, face])
    with page.expect_download() as download:
        page.get_by_role("button", name="Hand over").click()
        page.get_by_role("link", name="Cutting list CSV").click()
    listed = list(csv.DictReader(io.StringIO(Path(download.value.path()).read_text())))
    room_rows = [row for row in listed if row["run"] == "Skirting, bull-nosed, ROOM"]
    assert {row["tags"]: row["long_point_mm"] for row in room_rows}["S1"] == "6000.000"
    with page.expect_download() as download:
        page.get_by_role("link", name="Job file").click()
    saved = Path(download.value.path()).read_text()
    assert len(job_from_text(saved).runs) == 2
    page.keyboard.press("Escape")

    # 11. Reload: as it was; and the job file opens to the same job.
    before = page.evaluate("fetch('/api/jobs/' + location.pathname.split('/').pop()).then(r => r.json()).then(s => s.job)")
    page.reload()
    expect(sheet.get_by_role("button", name="Posts")).to_contain_text("4 items")
    assert job_from_data(before) == job_from_text(saved)
    page.goto("/")
    page.get_by_label("Job file").set_input_files({"name": "x.ribbon.json", "mimeType": "application/json", "buffer": saved.encode()})
    expect(sheet.get_by_role("button", name="Posts")).to_contain_text("4 items")


def test_two_windows_on_one_job(page: Page) -> None:
    page.goto("/job/kestrel-slip")
    other = page.context.new_page()
    other.goto("/job/kestrel-slip")
    behind(page)
    for window, name in ((other, "Theirs"), (page, "Mine")):
        window.get_by_label("Name of the job").fill(name)
        window.keyboard.press("Enter")
        if window is other:
            expect(window.get_by_role("banner")).to_contain_text("1 change")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("renamed the job Theirs")
    dialog.get_by_role("button", name="Reapply my change").click()
    expect(page.get_by_role("banner")).to_contain_text("2 changes")
    expect(page.get_by_label("Name of the job")).to_have_value("Mine")


def test_a_fault_is_reported_and_a_click_goes_there(demo: Page) -> None:
    page = demo
    sheet = page.get_by_role("navigation", name="Job sheet")
    expect(sheet).to_contain_text("1 fault")
    sheet.get_by_role("button", name="The sections do not meet here").click()
    card = page.get_by_role("complementary", name="Card")
    expect(card).to_contain_text("miss each other by up to 4.92 mm")
    expect(page.get_by_role("region", name="Rod")).to_contain_text("Ramp handrail")
    expect(page.get_by_role("region", name="Rod")).to_contain_text("pointing at 1\u2009900")
    plan = page.get_by_label("Plan", exact=True)
    mark = plan.locator("title", has_text="do not meet").locator("..")
    away = 1000.0
    for _ in range(100):
        at, sheet_box = mark.bounding_box(), plan.bounding_box()
        assert at
        assert sheet_box
        away = abs(at["x"] + at["width"] / 2 - sheet_box["x"] - sheet_box["width"] / 2)
        if away < 20:
            break
        page.wait_for_timeout(100)
    # The place has come to the middle of the sheet, beside the card.
    assert away < 20


def test_bad_figures_are_reported_under_their_field_and_change_nothing(demo: Page) -> None:
    page = demo
    page.get_by_role("navigation", name="Job sheet").get_by_role("button", name="Skirting, south-east").click()
    card = page.get_by_role("complementary", name="Card")
    card.get_by_label("Lift").fill("a bit")
    page.keyboard.press("Enter")
    expect(card.get_by_role("alert")).to_contain_text("is not a length")
    page.keyboard.press("Escape")
    card.get_by_label("Roll").fill("steep")
    page.keyboard.press("Enter")
    expect(card.get_by_role("alert")).to_contain_text("is not an angle")
    expect(page.get_by_role("banner")).to_contain_text("no changes yet")


def test_everything_is_reached_by_keyboard_and_the_keys_are_listed(demo: Page) -> None:
    page = demo
    sheet = page.get_by_role("navigation", name="Job sheet")
    sheet.get_by_role("button", name="Hall floor, door to door").focus()
    for _ in range(2):
        page.keyboard.press("ArrowDown")
    expect(page.get_by_role("complementary", name="Card").get_by_label("Name of the line")).to_have_value("Hall walls")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("other hand")
    page.keyboard.press("Escape")
    page.keyboard.press("Delete")
    expect(page.get_by_role("dialog")).to_contain_text("Picture rail, Cornice, Dado rail and 1 more would go with it")
    page.get_by_role("button", name="Remove them together").click()
    expect(sheet.get_by_role("button", name="Cornice", exact=False).filter(has_text="pieces")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(sheet.get_by_role("button", name="Picture rail").filter(has_text="19 pieces")).to_have_count(1)


def test_files_that_cannot_be_brought_in_are_reported_at_the_door(demo: Page) -> None:
    page = demo
    expect(page.get_by_role("navigation", name="Job sheet")).to_be_visible()
    page.keyboard.press("b")
    page.get_by_label("Drawing file").set_input_files({"name": "x.dxf", "mimeType": "text/plain", "buffer": b"hello"})
    expect(page.get_by_role("alert")).to_contain_text("This is not a DXF file")


def test_a_hundred_thousand_items_are_drawn_in_a_handful_of_calls(page: Page, address: str) -> None:
    spacing = {"rule": {"kind": "fixed-centres", "centres": 0.2}}
    edits = [{"kind": "set_row", "row": "I20", "changes": {"spacing": spacing}}]
    made = page.request.post(f"{address}/api/jobs/kestrel-slip/edits", data={"base": 1, "edits": edits, "confirmed": True})
    assert made.ok
    row = next(row for row in made.json()["rows"] if row["id"] == "I20")
    counts = {item["count"] for item in row["items"]}
    assert sum(item["count"] for item in row["items"]) == row["count"] > 100_000
    # Count what WebGL is asked to draw for instances, in any frame.
    page.add_init_script("""
      window.instances = []; const draw = WebGL2RenderingContext.prototype.drawElementsInstanced;
      WebGL2RenderingContext.prototype.drawElementsInstanced = function (...a) { window.instances.push(a[4]); return draw.apply(this, a); };
    """)
    page.goto("/job/kestrel-slip")
    expect(page.get_by_role("navigation", name="Job sheet")).to_be_visible()
    page.keyboard.press("o")
    for _ in range(90):
        if page.evaluate(f"{sorted(counts)}.every(n => window.instances.includes(n))"):
            break
        page.wait_for_timeout(1000)
    # All that are alike in one call in a frame, never a part of them.
    assert set(page.evaluate("window.instances.filter(n => n > 1000)")) == counts

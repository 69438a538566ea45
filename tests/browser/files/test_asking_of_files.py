"""What a file does not say is asked in the window, once for each kind of file."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path

import ezdxf
from acting import card, pick, sheet
from playwright.sync_api import Page, expect


def test_a_map_that_does_not_say_what_its_coordinates_are_is_asked_about_once(demo: Page, tmp_path: Path) -> None:
    rings = [[[x, 0], [x + 6, 0], [x + 6, 5], [x, 5], [x, 0]] for x in (0, 6)]
    rooms = [{"type": "Feature", "properties": {"kind": "room"}, "geometry": {"type": "Polygon", "coordinates": [ring]}} for ring in rings]
    (tmp_path / "rooms.geojson").write_text(json.dumps({"type": "FeatureCollection", "features": rooms}))
    main = demo.get_by_role("main")
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "rooms.geojson")
    expect(main.get_by_role("alert")).to_contain_text("As degrees it is 1,334 km across, as metres 12 m")
    expect(main.get_by_role("button", name=re.compile("^Add"))).to_be_disabled()
    main.get_by_label("Unit of the file").click()
    demo.get_by_role("option", name=re.compile("^metres")).click()
    # Each feature by itself: two rooms that lie against one another are two closed lines of 22 m.
    expect(main).to_contain_text("closed · 22\u2009000")
    main.get_by_role("button", name="Add 2 lines").click()
    expect(sheet(demo).get_by_role("button", name="room 2")).to_be_visible()
    demo.reload()
    expect(sheet(demo)).to_be_visible()
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "rooms.geojson")
    expect(main.get_by_label("Unit of the file")).to_contain_text("metres")
    # The same file imported again takes the place of what came from it.
    expect(main.get_by_role("button", name="Replace the lines")).to_be_enabled()
    expect(main).to_contain_text("nothing changes")
    # Said otherwise it is forgotten.
    main.get_by_label("Unit of the file").click()
    demo.get_by_role("option", name=re.compile("^as read")).click()
    expect(main.get_by_role("alert")).to_contain_text("say which")


def test_very_many_lines_are_there_at_once_and_their_figures_follow(demo: Page, tmp_path: Path) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    for number in range(700):
        x, y = number % 30 * 3000, number // 30 * 3000 + 60_000
        document.modelspace().add_lwpolyline([(x, y), (x + 2000, y), (x + 2000, y + 1000 + number)], close=False)
    out = io.StringIO()
    document.write(out)
    (tmp_path / "many.dxf").write_text(out.getvalue())
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "many.dxf")
    with demo.expect_response("**/figures?revision=2"):
        demo.get_by_role("main").get_by_role("button", name="Add 700 lines").click()
    expect(demo.get_by_role("banner")).to_contain_text("saved · 1 change")
    # Far down the list: what is not in sight is found.
    sheet(demo).get_by_label("Find in the job").fill("0 200")
    pick(demo, "0 200")
    expect(card(demo)).to_contain_text("3\u2009199")
    # They stay true when they are changed, and when that is taken back.
    card(demo).get_by_role("button", name="Next point").first.click()
    card(demo).get_by_label("East", exact=True).fill("90000")
    demo.keyboard.press("Enter")
    expect(demo.get_by_role("banner")).to_contain_text("saved · 2 changes")
    demo.keyboard.press("Escape")
    demo.get_by_role("button", name="Undo").click()
    pick(demo, "0 200")
    expect(card(demo)).to_contain_text("3\u2009199")

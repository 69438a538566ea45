"""What a file does not say is asked in the window, once for each kind of file."""

from __future__ import annotations

import json
import re
from pathlib import Path

from acting import sheet
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
    expect(main.get_by_role("button", name="Add 2 lines")).to_be_enabled()
    # Said otherwise it is forgotten.
    main.get_by_label("Unit of the file").click()
    demo.get_by_role("option", name=re.compile("^as read")).click()
    expect(main.get_by_role("alert")).to_contain_text("say which")

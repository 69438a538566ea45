"""Items brought in from files of their own: asked once how they stand, set out, drawn as they are, kept with the job."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
import trimesh
from acting import card, choose, pick, rod, saved
from playwright.sync_api import Page, expect


@pytest.fixture
def lantern(tmp_path: Path) -> Path:
    """A lantern in inches, without a unit, as an STL file: 10 wide, 10 deep, 20 high, on a foot 16 wide."""
    foot = trimesh.creation.box((16, 10, 2)).apply_translation((0, 0, 1))
    glass = trimesh.creation.cylinder(5, 18).apply_translation((0, 0, 11))
    file = tmp_path / "Quay lantern.stl"
    file.write_bytes(bytes((foot + glass).export(file_type="stl")))
    return file


def test_an_item_is_brought_in_set_out_and_goes_with_the_job(demo: Page, lantern: Path) -> None:
    pick(demo, "Bollard lights")
    choose(card(demo), "Kind", "Brought in from a file")
    dialog = demo.get_by_role("dialog", name="Bring in an item")
    (lantern.parent / "drawing.stl").write_text("solid nothing\nendsolid nothing\n")
    dialog.get_by_label("File of the item").set_input_files(lantern.parent / "drawing.stl")
    expect(dialog.get_by_role("alert")).to_contain_text("no faces")
    dialog.get_by_label("File of the item").set_input_files(lantern)
    expect(dialog).to_contain_text("does not say its unit")
    choose(dialog, "Its unit", "inches: 508")
    expect(dialog).to_contain_text("406 along the line, 254 across, 508 high")
    choose(dialog, "Turned on its foot by", "90° clockwise")
    expect(dialog).to_contain_text("254 along the line, 406 across, 508 high")
    dialog.get_by_role("button", name="Use this item").click()
    expect(dialog).to_be_hidden()
    saved(demo, 1)
    expect(card(demo)).to_contain_text("Quay lantern")
    expect(rod(demo)).to_contain_text("9")
    # It is drawn in 3D with its own mesh, fetched by its content, also by a window that did not bring it in.
    demo.reload()
    pick(demo, "Bollard lights")
    with demo.expect_response(re.compile(r"/api/items/[0-9a-f]{64}\.glb")) as fetched:
        demo.keyboard.press("o")
    assert fetched.value.ok
    # The schedule counts it by its name, and the job file carries it to where it was never brought in.
    job = demo.url.rsplit("/", 1)[-1]
    file = demo.request.get(f"/api/jobs/{job}/job.ribbon.json").json()
    brought = next(row["item"] for row in file["rows"] if row["item"]["kind"] == "brought")
    assert set(file["files"]) >= {brought["content"]}
    listed = demo.request.get(f"/api/jobs/{job}/schedule.csv").text()
    assert re.search(r"Quay lantern.*254.*406\.4.*508", listed), listed[:2000]
    # Of another height all of it is larger.
    height = card(demo).get_by_role("textbox", name="Height", exact=True)
    height.fill("1016")
    height.press("Enter")
    saved(demo, 2)
    demo.keyboard.press("Control+z")
    expect(height).to_have_value("508")


def test_a_new_row_is_of_an_item_brought_in(demo: Page, lantern: Path) -> None:
    pick(demo, "Lamp line")
    card(demo).get_by_role("button", name="Set items out").click()
    dialog = demo.get_by_role("dialog", name="Set items out")
    choose(dialog, "What", "Brought in from a file")
    dialog.get_by_role("button", name="Set them out").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Choose the file of the item first")
    dialog.get_by_role("button", name="Choose the file").click()
    bringing = demo.get_by_role("dialog", name="Bring in an item")
    bringing.get_by_label("File of the item").set_input_files(lantern)
    choose(bringing, "Its unit", "inches: 508")
    bringing.get_by_role("button", name="Use this item").click()
    dialog.get_by_role("button", name="Set them out").click()
    expect(dialog).to_be_hidden()
    expect(card(demo)).to_contain_text("Quay lantern")

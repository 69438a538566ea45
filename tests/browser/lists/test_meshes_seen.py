"""A mesh is seen in 3D while choosing, and its edges are taken by pointing at its faces."""

from __future__ import annotations

import re
from pathlib import Path

import trimesh
from acting import card, sheet
from playwright.sync_api import Page, expect


def test_edges_of_a_mesh_are_taken_by_pointing_at_a_face_or_a_loop(demo: Page, tmp_path: Path) -> None:
    ring = trimesh.creation.annulus(2000, 6000, 400, sections=64)
    ring.export(tmp_path / "ring.stl")
    main = demo.get_by_role("main")
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "ring.stl")
    view = main.locator("canvas")
    expect(view).to_be_visible()
    expect(main.get_by_role("button", name=re.compile("^Add"))).to_be_enabled()
    main.get_by_text("By pointing at faces").click()
    expect(main).to_contain_text("Point at a face, or tick one above")
    expect(main.get_by_role("button", name=re.compile("^Add 0"))).to_be_disabled()
    # Pointing at the middle of the view looks through the hole at nothing; beside it lies the ring's top.
    box = view.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    demo.mouse.move(x + box["width"] * 0.22, y)
    expect(main.get_by_role("status")).to_contain_text("128 edges in 2 loops")
    demo.mouse.click(x + box["width"] * 0.22, y)
    expect(main.get_by_role("button", name="Add 2 lines")).to_be_enabled()
    faces = main.get_by_role("region", name="Faces")
    assert faces.get_by_label(re.compile("^Face")).evaluate_all("all => all.filter(one => one.checked).length") == 1
    # One of its two loops is left again, by the list, for which no pointer is needed.
    faces.get_by_label("loop 2").and_(demo.locator(":checked")).press("Space")
    expect(main.get_by_role("button", name="Add 1 line")).to_be_enabled()
    main.get_by_role("radio", name="Plan").click()
    expect(main.get_by_role("img", name="Drawing ring.stl")).to_be_visible()
    main.get_by_role("button", name="Add 1 line").click()
    expect(sheet(demo)).to_be_visible()
    expect(card(demo)).to_contain_text("64 corners · from ring.stl")
    demo.get_by_role("button", name="Undo").click()
    expect(sheet(demo)).not_to_contain_text(re.compile("Face [12]"))

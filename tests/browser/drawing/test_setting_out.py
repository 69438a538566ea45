"""Setting out in the window: curves, walks, measures, openings, other files, pictures, elevation, dimensions."""

from __future__ import annotations

import io
import re
from pathlib import Path

import ezdxf
from acting import NEW_LINE, card, middle_of, pick, rod, saved, sheet
from making_files import POINTS, mesh
from PIL import Image
from playwright.sync_api import Page, expect


def test_a_line_of_every_kind_of_leg_is_drawn_by_clicking_and_typing(demo: Page) -> None:
    demo.keyboard.press("n")
    plan = demo.get_by_label("Plan", exact=True)
    box = plan.bounding_box()
    assert box

    def click(x: float, y: float) -> None:
        demo.mouse.move(box["x"] + x, box["y"] + y)
        demo.mouse.click(box["x"] + x, box["y"] + y)

    click(60, 100)
    demo.get_by_label("Length").fill("gate width + 600")
    demo.get_by_label("Turn right").fill("0")
    demo.keyboard.press("Enter")
    expect(plan.locator("text", has_text="3\u2009000").first).to_be_attached()
    demo.get_by_label("Kind of leg").click()
    demo.get_by_role("option", name="arc in line").click()
    demo.get_by_label("Radius").fill("1500")
    demo.get_by_label("Turn right").fill("90")
    demo.get_by_label("Rise").fill("150")
    demo.keyboard.press("Enter")
    expect(plan.locator("text", has_text="R 1\u2009500").first).to_be_attached()
    demo.get_by_label("Kind of leg").click()
    demo.get_by_role("option", name="spline through points").click()
    click(150, 250)
    click(110, 300)
    demo.keyboard.press("s")
    expect(demo.get_by_role("main")).to_contain_text("smooth there")
    click(60, 330)
    expect(demo.get_by_role("main")).to_contain_text("Leg 4")
    demo.keyboard.press("Backspace")
    demo.keyboard.press("Backspace")
    click(80, 360)
    expect(demo.get_by_role("main")).to_contain_text("Leg 4")
    # Places are typed as well as clicked: where the curve goes on to, and where a cord hangs to.
    demo.get_by_label("East", exact=True).fill("gate width")
    demo.get_by_label("North", exact=True).fill("-3 m")
    demo.keyboard.press("Enter")
    demo.get_by_label("Kind of leg").click()
    demo.get_by_role("option", name="catenary").click()
    demo.get_by_label("Sag").fill("250")
    demo.get_by_label("East", exact=True).fill("6000")
    demo.keyboard.press("Enter")
    demo.get_by_role("button", name="Finish").click()
    card(demo).get_by_role("button", name="Previous point").first.click()
    expect(card(demo).get_by_label("East", exact=True)).to_have_value("6000")
    expect(card(demo).get_by_label("North", exact=True)).to_have_value("-3000")
    card(demo).get_by_role("button", name="Previous point").first.click()
    expect(card(demo).get_by_label("Sag")).to_have_value("250")
    expect(card(demo).get_by_label("East", exact=True)).to_have_value("2400")
    drawn = sheet(demo).get_by_role("button", name=NEW_LINE)
    expect(drawn).to_contain_text("3 curves")
    expect(rod(demo)).to_contain_text("helix R 1\u2009500")
    expect(rod(demo)).to_contain_text("on plan")
    saved(demo, 1)


def test_a_walk_is_typed_its_errors_point_at_their_place_and_it_is_remembered(demo: Page) -> None:
    demo.keyboard.press("w")
    dialog = demo.get_by_role("dialog")
    walk = dialog.get_by_role("textbox", name="Walk")
    walk.fill("2 m, right 90, wide, home")
    expect(dialog.get_by_role("alert")).to_contain_text("no measure 'wide'")
    dialog.get_by_role("button", name="Show the place").click()
    assert (
        demo.evaluate(
            "() => document.activeElement.value.slice(document.activeElement.selectionStart, document.activeElement.selectionEnd)"
        )
        == "wide"
    )
    walk.fill("2 m, right 90, gate width, home")
    expect(dialog.get_by_role("status")).to_contain_text("3 legs")
    dialog.get_by_role("button", name="Make the line").click()
    expect(card(demo).get_by_role("textbox", name="Walk")).to_have_value("2 m, right 90, gate width, home")
    line = sheet(demo).get_by_role("button", name=NEW_LINE)
    expect(line).to_contain_text("7\u2009524")
    # A measure is changed, and what was walked with it follows; the portal on the quay too.
    demo.keyboard.press("Escape")
    demo.keyboard.press("m")
    measures = demo.get_by_role("dialog")
    measures.get_by_label("What measure 1 is").fill("gate height")
    measures.get_by_role("button", name="Set the measures").click()
    expect(measures.get_by_role("alert")).to_contain_text("gate width depends on gate height depends on gate width")
    measures.get_by_label("What measure 1 is").fill("1500")
    measures.get_by_role("button", name="Set the measures").click()
    expect(line).to_contain_text("6\u2009000")
    expect(sheet(demo).get_by_role("button", name="Quay gate 4")).to_contain_text("4\u2009045")
    # In a field too: a lift that follows.
    pick(demo, "Cornice 19")
    lift = card(demo).get_by_label("Lift")
    lift.fill("gate width * 2")
    demo.keyboard.press("Enter")
    expect(lift).to_have_value("gate width * 2")
    expect(card(demo)).to_contain_text("= 3000")


def test_openings_are_dragged_on_the_rod_and_runs_break_there(demo: Page) -> None:
    pick(demo, "Dado rail")
    expect(rod(demo)).to_contain_text("15 pieces")
    card(demo).get_by_role("radio", name="Passes over").click()
    expect(rod(demo)).to_contain_text("13 pieces")
    demo.keyboard.press("Control+z")
    expect(rod(demo)).to_contain_text("15 pieces")
    pick(demo, "Hall walls")
    x, y = middle_of(rod(demo).locator("[data-opening='0']"))
    demo.mouse.down()
    demo.mouse.move(x - 30, y, steps=4)
    # Its grips lie where they stay once it is saved.
    with demo.expect_response("**/edits"):
        demo.mouse.up()
    at = card(demo).get_by_label("From chainage").first
    expect(at).not_to_have_value("3200")
    x, y = middle_of(rod(demo).locator("[data-grip='0 end']"))
    demo.mouse.down()
    demo.mouse.move(x + 20, y, steps=4)
    demo.mouse.up()
    expect(card(demo).get_by_label("Width", exact=True).first).not_to_have_value("1800")
    # Over one another is refused, and nothing of it is kept.
    card(demo).get_by_role("button", name="Several from a list").click()
    dialog = demo.get_by_role("dialog")
    dialog.get_by_role("textbox", name="Openings").fill("D1; 1000; 900\nD2; 1.5 m; 900")
    dialog.get_by_role("button", name="Set the openings").click()
    expect(dialog.get_by_role("alert")).to_contain_text("lie over one another")
    dialog.get_by_role("textbox", name="Openings").fill("D1; 1000; 900\nD2; 2.5 m; gate width / 3")
    dialog.get_by_role("button", name="Set the openings").click()
    expect(sheet(demo).get_by_role("button", name="Hall walls")).to_contain_text("2 openings")
    # A stretch between them is taken alone.
    strip = rod(demo).locator("svg").bounding_box()
    assert strip
    demo.mouse.click(strip["x"] + strip["width"] * 2200 / 46789, strip["y"] + 80)
    card(demo).get_by_role("button", name="Run along this stretch").click()
    expect(demo.get_by_role("dialog")).to_contain_text("Only from D1 to D2, as chosen on the rod")
    demo.get_by_role("button", name="Make 1 run").click()
    expect(rod(demo)).to_contain_text("1 piece")


def test_legs_are_bent_and_corners_rounded_on_the_card(demo: Page) -> None:
    pick(demo, "Boarding ramp")
    card(demo).get_by_role("button", name="Next point").click()
    card(demo).get_by_label("Rounded to").fill("5000")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_role("alert")).to_contain_text("the largest that fits there is")
    card(demo).get_by_label("Rounded to").fill("400")
    demo.keyboard.press("Enter")
    expect(sheet(demo).get_by_role("button", name="Boarding ramp")).to_contain_text("1 corner · 1 curve")
    card(demo).get_by_role("button", name="Next point").click()
    card(demo).get_by_label("Kind of leg").click()
    demo.get_by_role("option", name="arc", exact=True).click()
    expect(card(demo).get_by_label("Radius")).to_have_value("1125")
    card(demo).get_by_label("Radius").fill("2 m")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_label("Radius")).to_have_value("2000")
    card(demo).get_by_role("button", name="Reverse").click()
    saved(demo, 4)
    for _ in range(4):
        demo.keyboard.press("Control+z")
    expect(sheet(demo).get_by_role("button", name="Boarding ramp")).to_contain_text("2 corners")


def test_lines_are_made_beside_copied_and_joined(demo: Page) -> None:
    pick(demo, "Boarding ramp")
    card(demo).get_by_role("button", name="Offset line").click()
    demo.get_by_label("Distance, on plan").fill("1.2 m")
    demo.get_by_role("button", name="Make the line").click()
    expect(card(demo)).to_contain_text("It stays beside Boarding ramp")
    pick(demo, "Boarding ramp")
    card(demo).get_by_role("button", name="Copy, move or mirror").click()
    demo.get_by_label("By, east").fill("3000")
    demo.get_by_role("button", name="Copy", exact=True).click()
    expect(sheet(demo).get_by_role("button", name="Boarding ramp, copy")).to_contain_text("7\u2009414")
    card(demo).get_by_role("button", name="Split it there").click()
    expect(sheet(demo).get_by_role("button", name="Boarding ramp, part 2")).to_have_count(1)
    pick(demo, "Boarding ramp")
    pick(demo, "Boarding ramp, part 2", "Control")
    card(demo).get_by_role("button", name="Join end to end").click()
    expect(sheet(demo).get_by_role("button", name="Boarding ramp, part 2")).to_have_count(0)


def test_a_dimension_is_asked_and_an_elevation_drawn_on(demo: Page) -> None:
    demo.keyboard.press("a")
    expect(demo.get_by_role("main")).to_contain_text("Dimension from which place?")
    plan = demo.get_by_label("Plan", exact=True)
    box = plan.bounding_box()
    assert box
    demo.mouse.click(box["x"] + 300, box["y"] + 300)
    demo.mouse.click(box["x"] + 420, box["y"] + 330)
    answer = demo.get_by_role("region", name="Dimension")
    expect(answer).to_contain_text("distance")
    expect(answer).to_contain_text("bearing")
    answer.get_by_role("button", name="Dismiss").click()
    demo.get_by_role("button", name="Elevation").click()
    for x in (90, 330):
        demo.mouse.move(box["x"] + x, box["y"] + 375)
        demo.mouse.click(box["x"] + x, box["y"] + 375)
    expect(demo.get_by_role("main")).to_contain_text("height above the origin")
    # The runs are seen on it, piece by piece, and rows as their items.
    expect(plan.locator("path[data-pick=R15]")).to_have_count(19)
    # Two kinds in turn, each of them one shape.
    expect(plan.locator("path[data-pick=I20]")).to_have_count(2)
    demo.keyboard.press("n")
    demo.mouse.click(box["x"] + 600, box["y"] + 300)
    for length, angle in (("1 m", "90"), ("800", "0")):
        demo.get_by_label("Length").fill(length)
        demo.get_by_label("Angle up").fill(angle)
        demo.keyboard.press("Enter")
    expect(demo.get_by_role("main")).to_contain_text("Leg 3")
    demo.get_by_role("button", name="Finish").click()
    expect(sheet(demo).get_by_role("button", name=NEW_LINE)).to_contain_text("1\u2009800")
    expect(card(demo)).to_contain_text("It is carried: a leg is within 1° of vertical")
    demo.keyboard.press("e")
    expect(demo.get_by_role("main")).not_to_contain_text("height above the origin")


def test_a_mesh_and_a_list_of_points_come_in(demo: Page, tmp_path: Path) -> None:
    (tmp_path / "boxes.obj").write_bytes(mesh("obj"))
    (tmp_path / "survey.csv").write_bytes(POINTS)
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "boxes.obj")
    main = demo.get_by_role("main")
    expect(main).to_contain_text("How is it read?")
    main.get_by_label("Level cut at height").fill("100")
    demo.keyboard.press("Enter")
    expect(main.get_by_role("checkbox", name="level cut at 100 mm", exact=True)).to_be_visible()
    # Seen in a slice it is cut open; what is added stays what was chosen.
    main.get_by_role("button", name="A slice of its heights").click()
    main.get_by_label("to height").fill("100")
    demo.keyboard.press("Enter")
    expect(main).to_contain_text("out of sight")
    expect(main.get_by_role("button", name=re.compile(r"Add \d+ lines"))).to_be_enabled()
    main.get_by_role("button", name="All heights").click()
    expect(main).not_to_contain_text("out of sight")
    # A mesh is seen in 3D at first; ways on are chosen on plan.
    main.get_by_role("radio", name="Plan").click()
    main.get_by_role("button", name=re.compile("edges meet here")).last.click()
    expect(main.get_by_role("button", name=re.compile(r"Add \d+ lines"))).to_be_enabled()
    main.get_by_role("button", name="Another file").click()
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "survey.csv")
    expect(main).to_contain_text("5 points in columns set apart by semicolons")
    main.get_by_label("Column 5").click()
    demo.get_by_role("option", name="leave out").click()
    expect(main).to_contain_text("no code")
    main.get_by_role("button", name="Add 1 line").click()
    expect(card(demo)).to_contain_text("from survey.csv")


def test_a_survey_far_from_nought_keeps_its_place_to_the_last_figure(demo: Page, tmp_path: Path) -> None:
    (tmp_path / "far.csv").write_text("1,500000.0007,180000.25,12.125,QUAY\n2,500004.0017,180003.253,12.125,QUAY\n")
    demo.goto("/")
    demo.get_by_placeholder("Name of a new job").fill("Far away")
    demo.get_by_role("button", name="Start a job").click()
    expect(sheet(demo)).to_be_visible()
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "far.csv")
    main = demo.get_by_role("main")
    main.get_by_label("Unit of the file").click()
    demo.get_by_role("option", name=re.compile("^metres")).click()
    main.get_by_role("button", name="Add 1 line").click()
    # 4.001 m east and 3.003 m north of one another: 5002.6 mm.
    expect(card(demo)).to_contain_text("5\u2009003")
    here = [float(card(demo).get_by_label(name, exact=True).input_value()) for name in ("East", "North", "Height")]
    card(demo).get_by_role("button", name="Next point").first.click()
    expect(card(demo)).to_contain_text("point 2 of 2")
    there = [float(card(demo).get_by_label(name, exact=True).input_value()) for name in ("East", "North", "Height")]
    assert [round(b - a, 3) for a, b in zip(here, there, strict=True)] == [4001, 3003, 0]
    expect(card(demo)).to_contain_text("On the site 500\u2009004\u2009002; 180\u2009003\u2009253; 12\u2009125")


def test_work_that_goes_on_is_stopped(demo: Page, tmp_path: Path) -> None:
    document = ezdxf.new()
    for index in range(4000):
        document.modelspace().add_line((index, 0), (index + 0.5, 50))
    document.saveas(tmp_path / "slow.dxf")
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "slow.dxf")
    demo.get_by_role("main").get_by_role("button", name="Stop").click()
    expect(demo.get_by_role("main")).to_contain_text("or drop it here")
    expect(demo.get_by_role("alert")).to_have_count(0)


def test_a_picture_is_laid_under_and_set_to_scale(demo: Page, tmp_path: Path) -> None:
    out = io.BytesIO()
    Image.new("RGB", (800, 400), "grey").save(out, "PNG")
    (tmp_path / "plan.png").write_bytes(out.getvalue())
    demo.get_by_label("Picture file").set_input_files(tmp_path / "plan.png")
    expect(card(demo).get_by_label("Name of the picture")).to_have_value("plan.png")
    width = card(demo).get_by_label("Width of the whole")
    expect(width).to_have_value("10000")
    card(demo).get_by_label("A length known in it").fill("2 m")
    card(demo).get_by_role("button", name="Pick its two ends").click()
    expect(demo.get_by_role("main")).to_contain_text("Two places in the picture 2 m apart")
    picture = demo.locator("[data-picture]").first.bounding_box()
    assert picture
    demo.mouse.click(picture["x"] + picture["width"] * 0.2, picture["y"] + picture["height"] / 2)
    demo.mouse.click(picture["x"] + picture["width"] * 0.6, picture["y"] + picture["height"] / 2)
    # About two fifths of it are two metres, so the whole is about five; places snap to the grid.
    expect(width).not_to_have_value("10000")
    assert 4000 < float(width.input_value()) < 6200
    card(demo).get_by_role("checkbox", name="Shown").click()
    expect(card(demo).get_by_role("checkbox", name="Shown")).not_to_be_checked()
    expect(sheet(demo).get_by_role("button", name="plan.png")).to_contain_text("hidden")


def test_a_fault_of_a_line_is_marked_and_mended_with_one_action(demo: Page) -> None:
    demo.keyboard.press("w")
    dialog = demo.get_by_role("dialog")
    dialog.get_by_role("textbox", name="Walk").fill("3 m, right 90, 2 m, right 90, 3 m, right 90, 1990")
    dialog.get_by_role("button", name="Make the line").click()
    expect(card(demo)).to_contain_text("ends 10 mm from its start without being closed")
    card(demo).get_by_role("button", name="Close it").click()
    expect(card(demo)).to_contain_text("closed · 4 corners")
    expect(card(demo)).not_to_contain_text("without being closed")


def test_a_click_on_gathered_marks_comes_nearer_until_they_stand_apart(demo: Page) -> None:
    # A line that crosses itself twice, and touches itself, within half a metre.
    demo.keyboard.press("w")
    walk = "600, right 90, 300, right 90, 300, right 90, 600, right 90, 150, right 90, 600"
    demo.get_by_role("dialog").get_by_role("textbox", name="Walk", exact=True).fill(walk)
    demo.get_by_role("dialog").get_by_role("button", name="Make the line").click()
    expect(card(demo).get_by_label("Name of the line")).to_have_value(NEW_LINE)
    demo.keyboard.press("Escape")
    demo.keyboard.press("Home")
    gathered = demo.get_by_label("Plan", exact=True).locator("[data-gathered]")
    expect(gathered).to_have_count(1)
    gathered.click()
    expect(gathered).to_have_count(0)
    expect(demo.get_by_role("complementary")).to_have_count(0)

"""What each part of the window does, one behaviour at a time."""

from __future__ import annotations

import re
from pathlib import Path

import ezdxf
from acting import NEW_LINE, PIECES, ask_for_card, behind, card, choose, look_for, middle_of, pick, rod, saved, sheet
from playwright.sync_api import Page, expect
from pydantic import TypeAdapter

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.demo import ferry_house


def test_the_list_of_jobs(page: Page) -> None:
    page.goto("/")
    main = page.get_by_role("main")
    # The job changed last is the first.
    main.get_by_role("button", name="Copy").first.click()
    expect(main.get_by_role("link", name="Kestrel Slip ferry house, copy")).to_be_visible()
    main.get_by_role("button", name="Rename").first.click()
    field = main.get_by_label(re.compile("New name of"))
    field.fill("Second slip")
    page.keyboard.press("Enter")
    expect(main.get_by_role("link", name="Second slip")).to_be_visible()
    main.get_by_role("button", name="Archive").first.click()
    expect(main.get_by_role("link", name="Second slip")).to_have_count(0)
    main.get_by_role("button", name="1 job is archived").click()
    main.get_by_role("button", name="Restore").click()
    expect(main).to_contain_text("No job is archived")
    main.get_by_role("button", name="Back to the jobs").click()
    main.get_by_role("link", name="Second slip").click()
    expect(page.get_by_label("Name of the job")).to_have_value("Second slip")
    page.goto("/job/none")
    expect(page.get_by_role("alert")).to_contain_text("There is no such job here")


def test_a_job_file_that_is_none_is_reported_on_the_list(page: Page) -> None:
    page.goto("/")
    page.get_by_label("Job file").set_input_files({"name": "x.json", "mimeType": "application/json", "buffer": b"[]"})
    expect(page.get_by_role("alert")).to_contain_text("This is not a job file")


def test_the_facing_point_is_dragged_and_the_skirting_turns_over(demo: Page) -> None:
    pick(demo, "Skirting, south-east")
    expect(rod(demo)).to_contain_text("faces left of travel")
    x, y = middle_of(demo.locator("[data-facing]"))
    demo.mouse.down()
    demo.mouse.move(x, y + 100, steps=3)
    demo.mouse.move(x, y + 190, steps=3)
    # While it is dragged the service's preview is shown; letting go saves one edit.
    expect(rod(demo)).to_contain_text("faces right of travel")
    expect(demo.get_by_role("banner")).to_contain_text("no changes yet")
    demo.mouse.up()
    saved(demo, 1)
    demo.keyboard.press("Control+z")
    expect(rod(demo)).to_contain_text("faces left of travel")


def test_several_runs_are_set_together_and_show_what_differs(demo: Page) -> None:
    pick(demo, "Picture rail 19")
    pick(demo, "Cornice 19", "Control")
    expect(card(demo)).to_contain_text("2 runs")
    lift = card(demo).get_by_label("Lift")
    expect(lift).to_have_value("")
    expect(lift).to_have_attribute("placeholder", "various")
    lift.fill("2.9 m")
    demo.keyboard.press("Enter")
    saved(demo, 1)
    expect(lift).to_have_value("2900")
    demo.keyboard.press("Escape")
    demo.keyboard.press("d")
    saved(demo, 2)


def test_feet_and_inches(demo: Page) -> None:
    demo.get_by_role("button", name="Units").click()
    demo.get_by_role("option", name="feet-inches to 1/16").click()
    expect(sheet(demo).get_by_role("button", name="Hall walls")).to_contain_text("153' 6-1/16\"")
    pick(demo, "Quay edge")
    east = card(demo).get_by_label("East", exact=True)
    east.fill("-17' 0-3/4\"")
    demo.keyboard.press("Enter")
    saved(demo, 2)
    demo.keyboard.press("Escape")
    demo.keyboard.press("u")
    # The list draws what is in sight, and goes to what is selected.
    pick(demo, "Fence, lower rail")
    expect(demo.get_by_role("main")).to_contain_text("26' 2-5/16\"")


def test_a_picked_point_is_removed_by_key_and_put_in_by_dragging(demo: Page) -> None:
    pick(demo, "Quay edge")
    plan = demo.get_by_label("Plan", exact=True)
    expect(plan.locator("[data-point]")).to_have_count(4)
    x, y = middle_of(plan.locator("[data-insert='1']"))
    demo.mouse.down()
    demo.mouse.move(x, y + 50, steps=4)
    demo.mouse.up()
    expect(plan.locator("[data-point]")).to_have_count(5)
    demo.mouse.click(*middle_of(plan.locator("[data-point='2']")))
    expect(card(demo)).to_contain_text("point 3 of 5")
    demo.keyboard.press("Delete")
    expect(plan.locator("[data-point]")).to_have_count(4)
    saved(demo, 2)


def test_a_line_is_drawn_closed_by_figures_alone(demo: Page) -> None:
    demo.keyboard.press("n")
    demo.keyboard.press("3")
    demo.get_by_label("East").fill("30 m")
    demo.get_by_label("North").fill("1 m")
    demo.keyboard.press("Enter")
    for length, turn in (("3000", "0"), ("4 m", "-90"), ("bad", "0")):
        demo.get_by_label("Length").fill(length)
        demo.get_by_label("Turn right").fill(turn)
        demo.keyboard.press("Enter")
    expect(demo.get_by_role("alert")).to_contain_text("is not a length")
    # What was typed stays to be put right.
    expect(demo.get_by_label("Length")).to_have_value("bad")
    demo.get_by_label("Length").fill("")
    demo.get_by_role("button", name="Close", exact=True).click()
    expect(sheet(demo).get_by_role("button", name=NEW_LINE)).to_contain_text("12\u2009000")
    expect(card(demo)).to_contain_text("closed · 3 corners")
    for axis, value in (("East", "30000"), ("North", "1000")):
        expect(card(demo).get_by_label(axis, exact=True)).to_have_value(value)


def test_clicks_snap_to_points_and_square(demo: Page) -> None:
    pick(demo, "Quay edge")
    x, y = middle_of(demo.locator("svg[aria-label=Plan] [data-point='0']"))
    # The card goes, and the drawing stays where it lies.
    demo.keyboard.press("Escape")
    demo.keyboard.press("n")
    expect(demo.get_by_role("main")).to_contain_text("First point")
    demo.mouse.move(x + 3, y - 4)
    demo.mouse.click(x + 3, y - 4)
    demo.mouse.move(x + 2, y - 120)
    demo.mouse.click(x + 2, y - 120)
    demo.get_by_role("button", name="Finish").click()
    east = card(demo).get_by_label("East", exact=True)
    expect(east).to_have_value("-5200")
    north = card(demo).get_by_label("North", exact=True)
    was = north.input_value()
    card(demo).get_by_role("button", name="Next point").click()
    expect(north).not_to_have_value(was)
    expect(east).to_have_value("-5200")


def test_a_section_is_scaled_and_its_runs_follow(demo: Page) -> None:
    pick(demo, "Cornice, sprung")
    expect(demo.get_by_role("application", name="Section Cornice, sprung 38°")).to_be_visible()
    card(demo).get_by_role("textbox", name="Width").fill("164")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_role("textbox", name="Height")).to_have_value("200")
    expect(sheet(demo).get_by_role("button", name="Cornice, sprung")).to_contain_text("164 × 200")
    card(demo).get_by_role("textbox", name="Width").fill("0")
    demo.keyboard.press("Enter")
    expect(card(demo).get_by_role("alert")).to_contain_text("width")
    demo.keyboard.press("Escape")
    card(demo).get_by_role("button", name="Cornice", exact=True).click()
    demo.keyboard.press("u")
    expect(demo.locator("tbody tr", has_text="C14").first).to_contain_text("1\u2009428")


def test_the_place_pointed_at_lights_up_everywhere(demo: Page) -> None:
    pick(demo, "Cornice 19")
    demo.keyboard.press("u")
    demo.locator("tbody tr", has_text="C5").first.hover()
    expect(rod(demo)).to_contain_text("pointing at 7\u2009275")
    demo.locator("tbody tr", has_text="C5").first.click()
    ask_for_card(demo)
    expect(card(demo)).to_contain_text("Piece C5")
    rod(demo).locator("svg").focus()
    demo.keyboard.press("ArrowRight")
    expect(card(demo)).to_contain_text("Piece C6")
    expect(demo.locator("tbody tr.bg-chalk-wash")).to_contain_text("C6")


def test_a_click_in_3d_picks_the_piece_under_it(demo: Page) -> None:
    pick(demo, "Fence, upper rail")
    demo.keyboard.press("o")
    expect(demo.get_by_role("main")).to_contain_text("from the")
    demo.keyboard.press("Home")
    demo.wait_for_timeout(2500)
    demo.keyboard.press("Escape")
    expect(card(demo)).to_have_count(0)
    # Somewhere down the middle of the picture lies the fence.
    for step in range(60, 160):
        canvas = demo.locator("canvas").bounding_box()
        assert canvas
        demo.mouse.click(canvas["x"] + canvas["width"] * 0.46, canvas["y"] + canvas["height"] * step / 200)
        if card(demo).count() and "Fence rail" in (card(demo).text_content() or ""):
            break
    expect(card(demo)).to_contain_text(re.compile(r"Piece F[UL][23]"))
    expect(rod(demo)).to_contain_text("Fence")


def test_undo_in_a_field_undoes_the_typing_and_elsewhere_the_edit(demo: Page) -> None:
    pick(demo, "Skirting, south-east")
    demo.keyboard.press("h")
    saved(demo, 1)
    lift = card(demo).get_by_label("Lift")
    lift.click()
    demo.keyboard.type("77")
    demo.keyboard.press("Control+z")
    saved(demo, 1)
    demo.keyboard.press("Escape")
    demo.keyboard.press("Control+z")
    expect(demo.get_by_role("banner")).to_contain_text("no changes yet")
    demo.get_by_role("button", name="no changes yet").click()
    expect(demo.get_by_role("dialog")).to_contain_text("undone")


def test_a_row_keeps_one_bearing_and_its_seat_is_moved(demo: Page) -> None:
    pick(demo, "Bollard lights")
    card(demo).get_by_role("radio", name="One bearing").click()
    card(demo).get_by_label("From north, clockwise").fill("30")
    demo.keyboard.press("Enter")
    saved(demo, 2)
    card(demo).get_by_label("Across", exact=True).fill("75")
    demo.keyboard.press("Enter")
    saved(demo, 3)
    card(demo).get_by_role("button", name=re.compile("^Kind: ")).click()
    demo.get_by_role("option", name="Box", exact=True).click()
    expect(card(demo).get_by_label("Along the line")).to_have_value("150")
    card(demo).get_by_label("Inset at the start").fill("30 m")
    demo.keyboard.press("Enter")
    expect(card(demo)).to_contain_text("shorter than its insets")
    expect(sheet(demo).get_by_text("shorter than its insets")).to_be_visible()
    saved(demo, 5)


def test_empty_jobs_say_where_to_begin(page: Page) -> None:
    page.goto("/")
    page.get_by_placeholder("Name of a new job").fill("Bare")
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_contain_text("Start with the lines")
    expect(sheet(page).get_by_role("button", name="Run a section")).to_be_disabled()
    page.keyboard.press("u")
    expect(page.get_by_role("main")).to_contain_text("Nothing to cut yet")
    page.keyboard.press("o")
    expect(page.get_by_role("main")).to_contain_text("There is nothing to see yet")


def test_every_text_is_legible_against_its_ground(demo: Page, tmp_path: Path) -> None:
    """Contrast of at least 4.5 to 1 (WCAG 2.1, 1.4.3), measured on the colours the browser computes."""
    pick(demo, "Ramp handrail")
    low = demo.evaluate("""() => {
      const parse = c => { const m = c.match(/[\\d.]+/g).map(Number); return m.length < 4 ? [...m, 1] : m; };
      const light = ([r, g, b]) => { const f = v => (v /= 255) <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
        return 0.2126 * f(r) + 0.7152 * f(g) + 0.0722 * f(b); };
      const found = [];
      for (const element of document.querySelectorAll('body *')) {
        const own = [...element.childNodes].some(n => n.nodeType === 3 && n.textContent.trim());
        if (!own || element.closest('svg, [disabled], .sr-only') || !element.getClientRects().length) continue;
        let ground = null;
        for (let at = element; at && !ground; at = at.parentElement) {
          const colour = getComputedStyle(at).backgroundColor;
          if (colour.startsWith('rgb') && parse(colour)[3] > 0.8) ground = parse(colour);
        }
        const text = getComputedStyle(element).color;
        if (!ground || !text.startsWith('rgb')) continue;
        const [a, b] = [light(parse(text)), light(ground)].sort((x, y) => y - x);
        const ratio = (a + 0.05) / (b + 0.05);
        if (ratio < 4.5) found.push(element.textContent.trim().slice(0, 40) + ' ' + ratio.toFixed(2));
      }
      return found;
    }""")
    assert low == []


def test_the_other_window_drops_its_own_change(page: Page) -> None:
    page.goto("/job/kestrel-slip")
    other = page.context.new_page()
    other.goto("/job/kestrel-slip")
    behind(page)
    pick(other, "Skirting, south-east")
    other.keyboard.press("h")
    saved(other, 1)
    # Of another field there is no question; of the same there is.
    pick(page, "Bollard lights")
    card(page).get_by_label("Lift").fill("50")
    page.keyboard.press("Enter")
    saved(page, 2)
    pick(other, "Skirting, south-east")
    other.keyboard.press("h")
    saved(other, 3)
    pick(page, "Skirting, south-east")
    page.keyboard.press("h")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("changed facing of Skirting, south-east")
    dialog.get_by_role("button", name="Discard my change").click()
    saved(page, 3)
    expect(rod(page)).to_contain_text("faces left of travel")


def test_closing_and_opening_a_line_and_its_wall(demo: Page) -> None:
    pick(demo, "Lamp line")
    card(demo).get_by_role("radio", name="Closed").click()
    expect(card(demo)).to_contain_text("closed · 3 corners")
    # The lamps on it now go round, with no first and no last.
    look_for(demo, "Bollard lights")
    expect(sheet(demo).get_by_role("button", name="Bollard lights")).not_to_contain_text("lights9 items")
    card(demo).get_by_role("checkbox", name="Show a wall").click()
    expect(card(demo).get_by_role("checkbox", name="Show a wall")).to_be_checked()
    card(demo).get_by_label("Height", exact=True).last.fill("2.1 m")
    demo.keyboard.press("Enter")
    saved(demo, 3)
    card(demo).get_by_role("button", name="Bollard lights").click()
    expect(card(demo)).to_contain_text("there is no first and no last")
    for _ in range(3):
        demo.keyboard.press("Control+z")
    expect(sheet(demo).get_by_role("button", name="Bollard lights")).to_contain_text("lights9 items")


def test_a_drawing_goes_to_the_sheet_by_layer_and_by_line(demo: Page, tmp_path: Path) -> None:
    document = ezdxf.new("R12")
    for x in range(4):
        document.modelspace().add_line((x * 2000, 0), (x * 2000, 1500), dxfattribs={"layer": "STUDS"})
    document.saveas(tmp_path / "studs.dxf")
    demo.keyboard.press("b")
    demo.get_by_label("Drawing file").set_input_files(tmp_path / "studs.dxf")
    main = demo.get_by_role("main")
    expect(main).to_contain_text("the file does not say; taken as such")
    main.get_by_role("checkbox", name="STUDS 2").uncheck()
    main.get_by_label("Join tolerance").fill("80")
    demo.keyboard.press("Enter")
    expect(main.get_by_role("alert")).to_contain_text("from 0.01 to 50 mm")
    demo.keyboard.press("Escape")
    main.get_by_role("button", name="Add 3 lines").click()
    expect(card(demo)).to_contain_text("3 lines")
    expect(sheet(demo).get_by_role("button", name="STUDS 2")).to_have_count(0)
    expect(sheet(demo).get_by_role("button", name="STUDS 4")).to_contain_text("1\u2009500")


def test_a_drawing_of_thousands_of_lines_is_one_path_and_a_click_finds_the_nearest(page: Page, address: str) -> None:
    id = page.request.post(f"{address}/api/jobs", data={"name": "Many"}).json()["id"]
    lines = [
        {"name": f"Line {x}/{y}", "start": [x * 1000, y * 1000, 0], "legs": [{"kind": "straight", "to": [x * 1000 + 700, y * 1000, 0]}]}
        for x in range(40)
        for y in range(40)
    ]
    edits = [{"kind": "add_lines", "lines": lines}]
    assert page.request.post(f"{address}/api/jobs/{id}/edits", data={"base": 1, "edits": edits}).ok
    page.goto(f"/job/{id}")
    expect(sheet(page).get_by_role("heading", name="Lines")).to_contain_text("1\u2009600")
    plan = page.get_by_label("Plan", exact=True)
    expect(plan.locator("path[data-pick]")).to_have_count(0)
    box = plan.bounding_box()
    assert box
    # Somewhere in the lower left quarter; lines lie no more than some pixels apart.
    page.mouse.click(box["x"] + 330, box["y"] + 350)
    expect(card(page)).to_contain_text("700 · open · 0 corners")


def test_a_cutting_list_of_4000_pieces_draws_what_is_in_sight(demo: Page) -> None:
    job = Job(name="Many pieces", sections=ferry_house().sections[:1], last_number=20)
    legs = [{"kind": "straight", "to": (500 * (i + 1) + i * i, 400 * ((i + 1) % 2), 0)} for i in range(200)]
    lines = {"kind": "add_lines", "lines": [{"name": f"Zigzag {n}", "start": (0, 900 * n, 0), "legs": legs} for n in range(1)]}
    job = apply_all(job, [TypeAdapter(AnyEdit).validate_python(lines)]).job
    copies = {"kind": "copy_lines", "lines": [job.lines[0].id], "by": (0, 900, 0), "times": 19}
    job = apply_all(job, [TypeAdapter(AnyEdit).validate_python(copies)]).job
    runs = {"kind": "add_runs", "section": job.sections[0].id, "lines": [line.id for line in job.lines]}
    job = apply_all(job, [TypeAdapter(AnyEdit).validate_python(runs)]).job
    made = demo.request.post("/api/jobs/file", data=job_to_text(job), headers={"Content-Type": "application/json"})
    assert made.status == 201, made.text()
    demo.goto(f"/job/{made.json()['id']}")
    expect(rod(demo)).to_contain_text(re.compile("4.000 pieces"))
    demo.keyboard.press("u")
    listed = demo.get_by_role("main").get_by_role("table").first
    expect(listed).to_have_attribute("aria-rowcount", re.compile(r"^[1-9]\d{3}$"))
    expect(listed.get_by_role("button", name=re.compile("^Piece"))).not_to_have_count(0)
    assert listed.locator("tbody").count() < 80
    # What is far down comes into sight when it is selected, and can be chosen there. Its head may stand twice:
    # among the rows, and with the heads of the columns.
    last = job.runs[-1].name
    pick(demo, last)
    expect(listed.get_by_role("button", name=last, exact=True).first).to_be_in_viewport()
    listed.get_by_role("button", name=re.compile(f"^Piece {job.runs[-1].tag}2\\b")).click()
    ask_for_card(demo)
    expect(card(demo)).to_contain_text(f"Piece {job.runs[-1].tag}2")
    assert listed.locator("tbody").count() < 80


def test_all_runs_of_a_section_are_selected_on_the_rod(demo: Page) -> None:
    expect(rod(demo)).to_contain_text(f"{PIECES} pieces · 260 items set out · 1 fault")
    rod(demo).get_by_role("button", name="Select all runs of Skirting, chamfered").click()
    expect(card(demo)).to_contain_text("2 runs")
    # Butted together in one change, which can be undone as one.
    choose(card(demo), "Internal corners", "butted")
    saved(demo, 1)
    expect(card(demo).get_by_role("button", name="Internal: runs through")).to_contain_text("the piece before")
    demo.keyboard.press("u")
    expect(demo.get_by_role("main")).to_contain_text(re.compile("6.593"))

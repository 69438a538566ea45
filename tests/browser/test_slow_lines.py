"""Figures typed and buttons pressed while every request is on its way: nothing undoes anything, nothing is lost."""

from __future__ import annotations

import re

import pytest
from acting import behind, card, pick, plan, saved, sheet
from browsing import at_home
from playwright.sync_api import Browser, Page, Route, expect

#: Every request waits before it is sent and its answer before it arrives, each for a time of its own, so that answers overtake one another.
SLOW = """
const plain = window.fetch;
const waits = [1, 0.3, 1.6, 0.1, 0.8];
let count = 0;
window.fetch = async (...asked) => {
  const share = waits[count++ % waits.length];
  const wait = (part) => new Promise((go) => setTimeout(go, DELAY * part));
  await wait(share / 2);
  const answer = await plain(...asked);
  await wait(share / 2);
  return answer;
};
"""

delays = pytest.mark.parametrize("delay", [200, 700, 2000])


def slowed(page: Page, delay: int) -> None:
    page.add_init_script(SLOW.replace("DELAY", str(delay)))
    page.reload()
    expect(page.locator("svg[aria-label=Plan] path[data-pick]").first).to_be_attached()


def value(page: Page, label: str, expected: str) -> None:
    expect(card(page).get_by_label(label, exact=True)).to_have_value(expected)


@delays
def test_figures_typed_one_after_the_other_all_stand(demo: Page, delay: int) -> None:
    slowed(demo, delay)
    pick(demo, "Quay edge")
    east = card(demo).get_by_label("East", exact=True)
    east.click()
    demo.keyboard.type("-5000")
    demo.keyboard.press("Tab")
    demo.keyboard.type("-7000")
    demo.keyboard.press("Enter")
    saved(demo, 2)
    value(demo, "East", "-5000")
    value(demo, "North", "-7000")
    pick(demo, "Bollard lights")
    card(demo).get_by_label("Inset at the start").click()
    demo.keyboard.type("100")
    demo.keyboard.press("Tab")
    demo.keyboard.type("50")
    # The rule is changed before either has arrived, and takes over the distance there is.
    card(demo).get_by_role("button", name="Spacing rule").click()
    demo.get_by_role("option", name="Equal bays, no wider than").click()
    saved(demo, 5)
    value(demo, "Inset at the start", "100")
    value(demo, "Inset at the end", "50")
    value(demo, "No wider than", "2800")
    # Typed again before the first is in: the second stands.
    inset = card(demo).get_by_label("Inset at the start")
    inset.fill("70")
    demo.keyboard.press("Enter")
    inset.fill("75")
    demo.keyboard.press("Tab")
    saved(demo, 7)
    value(demo, "Inset at the start", "75")


@delays
def test_a_question_is_asked_once_and_what_is_left_changes_nothing(demo: Page, delay: int) -> None:
    slowed(demo, delay)
    pick(demo, "Bollard lights")
    centres = card(demo).get_by_label("Centres", exact=True)
    was = centres.input_value()
    centres.fill("0.1")
    demo.keyboard.press("Enter")
    demo.get_by_role("dialog").get_by_role("button", name="Cancel").click()
    demo.wait_for_timeout(3 * delay)
    expect(demo.get_by_role("dialog")).not_to_be_visible()
    expect(centres).to_have_value(was)
    expect(demo.get_by_role("button", name="Undo")).to_be_disabled()


@delays
def test_a_figure_typed_just_before_a_button_is_used(demo: Page, delay: int) -> None:
    slowed(demo, delay)
    pick(demo, "Quay edge")
    card(demo).get_by_role("button", name="Offset line").click()
    demo.get_by_label("Distance, on plan").fill("300")
    demo.get_by_role("button", name="Make the line").click()
    value(demo, "Distance", "300")
    pick(demo, "Boarding ramp")
    card(demo).get_by_role("button", name="Copy, move or mirror").click()
    demo.get_by_label("By, east").fill("2500")
    demo.get_by_role("button", name="Copy", exact=True).click()
    pick(demo, "Boarding ramp, copy")
    value(demo, "East", str(17600 + 2500))
    card(demo).get_by_role("button", name="Simplify").click()
    demo.get_by_label("Maximum deviation").fill("nonsense")
    dialog = demo.get_by_role("dialog")
    dialog.get_by_role("button", name="Simplify").click()
    # A figure that is wrong is reported, and the button does nothing with the old one.
    expect(dialog.get_by_role("alert")).to_be_visible()
    demo.get_by_label("Maximum deviation").fill("50")
    dialog.get_by_role("button", name="Simplify").click()
    expect(dialog).not_to_be_visible()
    card(demo).get_by_label("Chainage", exact=True).fill("1000")
    card(demo).get_by_role("button", name="Split it there").click()
    expect(sheet(demo).get_by_role("button", name="Boarding ramp, copy, part 2")).to_be_visible()
    expect(sheet(demo).get_by_role("button", name=re.compile("Boarding ramp, copy 1"))).to_be_visible()


def test_a_line_is_there_before_the_service_has_saved_it_and_taken_back_where_it_is_refused(demo: Page) -> None:
    held: list[Route] = []

    def walk(text: str) -> None:
        sheet(demo).get_by_role("button", name="Type a walk").click()
        with demo.expect_response("**/preview"):
            demo.get_by_role("dialog").get_by_role("textbox", name="Walk", exact=True).fill(text)
        demo.get_by_role("dialog").get_by_role("button", name="Make the line").click()
        expect(demo.get_by_role("dialog")).not_to_be_visible()
        expect(card(demo)).to_contain_text("1\u2009200")

    def on_its_way() -> Route:
        while not held:
            demo.wait_for_timeout(20)
        return held.pop()

    lines = sheet(demo).get_by_role("heading", name="Lines")
    before = int(lines.inner_text().split()[-1])
    demo.route("**/edits", lambda route: held.append(route))
    walk("500, right 90, 700")
    expect(lines).to_contain_text(str(before + 1))
    expect(demo.get_by_role("banner")).to_contain_text("no changes yet")
    on_its_way().continue_()
    saved(demo, 1)
    expect(card(demo)).to_contain_text("1\u2009200")
    walk("800, right 90, 400")
    problem = {"code": "invalid", "title": "Not made", "status": 422, "detail": "Somebody sealed the job.", "changes": [], "sentence": []}
    on_its_way().fulfill(status=422, json=problem)
    expect(demo.get_by_role("alert").filter(has_text="Somebody sealed the job.")).to_be_visible()
    expect(lines).to_contain_text(str(before + 1))
    expect(card(demo)).not_to_be_visible()
    # What was typed is still there.
    sheet(demo).get_by_role("button", name="Type a walk").click()
    expect(demo.get_by_role("dialog").get_by_role("textbox", name="Walk", exact=True)).to_have_value("800, right 90, 400")
    # A line drawn by hand is drawn on where it is refused.
    demo.keyboard.press("Escape")
    demo.keyboard.press("n")
    box = plan(demo).bounding_box()
    assert box
    for x, y in ((200, 300), (300, 300), (300, 400)):
        demo.mouse.click(box["x"] + x, box["y"] + y)
    expect(demo.get_by_text("Leg 3")).to_be_visible()
    demo.keyboard.press("Enter")
    on_its_way().fulfill(status=422, json=problem)
    expect(demo.get_by_text("Leg 3")).to_be_visible()
    demo.keyboard.press("Backspace")
    expect(demo.get_by_text("Leg 2")).to_be_visible()


def opened_again(browser: Browser, page: Page) -> Page:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    at_home(context)
    other = context.new_page()
    other.goto(page.url)
    expect(other.locator("svg[aria-label=Plan] path[data-pick]").first).to_be_attached()
    return other


def test_two_windows_edit_different_fields_without_a_question_and_the_same_with_one(browser: Browser, demo: Page) -> None:
    behind(demo)
    other = opened_again(browser, demo)
    for window in (demo, other):
        pick(window, "Bollard lights")
    card(demo).get_by_label("Inset at the start").fill("100")
    demo.keyboard.press("Enter")
    saved(demo, 1)
    card(other).get_by_label("Inset at the end").fill("50")
    other.keyboard.press("Enter")
    saved(other, 2)
    value(other, "Inset at the start", "100")
    value(other, "Inset at the end", "50")
    # The first window has not seen that; its own edit of the same field is kept until it says what is to be done.
    card(demo).get_by_label("Inset at the end").fill("80")
    demo.keyboard.press("Enter")
    answer = demo.get_by_role("dialog")
    expect(answer).to_contain_text("changed spacing of Bollard lights")
    answer.get_by_role("button", name="Reapply my change").click()
    saved(demo, 3)
    value(demo, "Inset at the end", "80")
    value(demo, "Inset at the start", "100")
    other.context.close()


def test_what_no_longer_follows_is_reported(demo: Page) -> None:
    pick(demo, "Lamp line")
    north = card(demo).get_by_label("North", exact=True)
    north.fill(f"{north.input_value()} + 10")
    demo.keyboard.press("Enter")
    expect(demo.get_by_role("status").filter(has_text="Lamp line no longer follows")).to_be_visible()


def test_a_job_in_feet_is_reported_in_feet(demo: Page) -> None:
    demo.get_by_role("button", name="Units").click()
    demo.get_by_role("option").filter(has_text="feet-inches to 1/16").click()
    fault = sheet(demo).get_by_text("The sections do not meet here")
    expect(fault).to_contain_text('"')
    expect(fault).not_to_contain_text("mm")
    pick(demo, "Boarding ramp")
    card(demo).get_by_label("Radius of the corner").or_(card(demo).get_by_label("Chainage", exact=True)).last.fill("90'")
    card(demo).get_by_role("button", name="Split it there").click()
    answer = demo.get_by_role("alert").filter(has_text="nothing to split off")
    expect(answer).to_contain_text("90' 0\"")


def test_keys_stay_where_they_belong(demo: Page) -> None:
    # In 3D the arrows of a card's field are the field's, and Ctrl with plus is the page's.
    pick(demo, "Fence, upper rail")
    demo.keyboard.press("o")
    expect(demo.locator("canvas")).to_be_visible()
    words = demo.get_by_text(re.compile("^from the "))
    expect(words).to_be_visible()
    before = words.text_content()
    card(demo).get_by_role("radio", name="Left").focus()
    for _ in range(9):
        demo.keyboard.press("ArrowUp" if _ % 2 else "ArrowDown")
    assert words.text_content() == before
    demo.locator("canvas").focus()
    demo.evaluate(
        """() => { window.taken = null; window.addEventListener("keydown", (event) => { window.taken = event.defaultPrevented; }); }"""
    )
    demo.keyboard.press("Control+Equal")
    assert demo.evaluate("window.taken") is False
    demo.keyboard.press("Equal")
    assert demo.evaluate("window.taken") is True
    for _ in range(9):
        demo.keyboard.press("ArrowLeft")
    expect(words).not_to_have_text(before or "")
    # Single letters can be turned off, and stay off.
    demo.keyboard.press("?")
    demo.get_by_role("checkbox", name="Single-letter shortcuts").uncheck()
    demo.keyboard.press("Escape")
    demo.locator("canvas").focus()
    demo.keyboard.press("p")
    expect(demo.locator("canvas")).to_be_visible()
    demo.reload()
    expect(demo.locator("svg[aria-label=Plan] path[data-pick]").first).to_be_attached()
    demo.keyboard.press("u")
    expect(demo.get_by_role("heading", name="Cutting list")).not_to_be_visible()
    demo.evaluate("localStorage.clear()")


def test_looking_at_the_plan_while_a_file_is_chosen_from_keeps_the_choices(demo: Page) -> None:
    demo.keyboard.press("b")
    text = "number,east,north,height,code\n1,0,0,0,KERB\n2,5,0,0,KERB\n3,0,2,0,FENCE\n4,5,2,0,FENCE\n"
    demo.get_by_label("Drawing file").set_input_files({"name": "survey.csv", "mimeType": "text/csv", "buffer": text.encode()})
    expect(demo.get_by_role("button", name="Add 2 lines")).to_be_visible()
    demo.get_by_role("checkbox", name="FENCE", exact=True).last.uncheck()
    expect(demo.get_by_role("button", name="Add 1 line")).to_be_visible()
    demo.locator("main").click(position={"x": 30, "y": 560})
    demo.keyboard.press("p")
    expect(demo.locator("svg[aria-label=Plan]")).to_be_visible()
    demo.keyboard.press("b")
    expect(demo.get_by_role("button", name="Add 1 line")).to_be_visible()


def test_a_letter_typed_in_a_later_field_does_not_close_the_line(demo: Page) -> None:
    demo.keyboard.press("n")
    plan = demo.get_by_label("Plan", exact=True)
    box = plan.bounding_box()
    assert box
    for x, y in ((200, 300), (300, 300), (300, 400)):
        demo.mouse.click(box["x"] + x, box["y"] + y)
    expect(demo.get_by_text("Leg 3")).to_be_visible()
    demo.get_by_label("Rise").click()
    demo.keyboard.type("c")
    expect(demo.get_by_label("Rise")).to_have_value("c")
    expect(demo.get_by_text("Leg 3")).to_be_visible()

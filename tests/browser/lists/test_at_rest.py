"""Cards at rest and the room of the list: what is in sight at 1280 × 800, by mouse and by keyboard."""

from __future__ import annotations

import re
import time
from typing import Any

from acting import PIECES, card, choose, pick, saved
from browsing import opened
from playwright.sync_api import Browser, Page, Route, expect
from pydantic import TypeAdapter

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AnyEdit, apply_all
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.store.jobs import Jobs

read = TypeAdapter(AnyEdit).validate_python


def comb(pieces: int) -> Job:
    """A skirting round so many corners, no two of its pieces alike."""
    points: list[list[int]] = [[0, 0, 0]]
    for number in range(pieces):
        x, y, _ = points[-1]
        along = 900 + 37 * number
        points.append([x + along, y, 0] if number % 2 == 0 else [x, y + (along if number % 4 == 1 else -along), 0])
    edits: list[dict[str, Any]] = [
        {
            "kind": "add_lines",
            "lines": [{"name": "Wall", "start": points[0], "legs": [{"kind": "straight", "to": to} for to in points[1:]]}],
        },
        {"kind": "add_section", "section": from_library("skirting-chamfered").model_dump()},
        {"kind": "add_runs", "section": "S2", "lines": ["L1"]},
    ]
    return apply_all(Job(name="Comb"), [read(edit) for edit in edits]).job


def test_all_questions_of_a_run_are_in_sight_with_their_answers(browser: Browser, shelf: tuple[Jobs, Job], shared_address: str) -> None:
    jobs, job = shelf
    id = jobs.add(job, "loaded the demo")
    with opened(browser, shared_address, questions="rest") as page:
        page.goto(f"/job/{id}")
        pick(page, "Skirting, door to door")
        answer = card(page)
        questions = answer.get_by_role("heading", level=3).filter(has=page.get_by_role("button"))
        expect(questions).to_have_count(6)
        for at in range(6):
            expect(questions.nth(at)).to_be_in_viewport(ratio=1)
        corners = answer.get_by_role("button", name=re.compile("How are the corners made\\?"))
        expect(corners).to_contain_text("coped; external mitred")
        expect(answer.get_by_role("button", name=re.compile("^Internal corners"))).to_have_count(0)
        # By keyboard: it opens, is answered, and stays open on the card of another run.
        corners.focus()
        page.keyboard.press("Enter")
        expect(corners).to_have_attribute("aria-expanded", "true")
        choose(answer, "Internal corners", "mitred")
        saved(page, 1)
        pick(page, "Skirting, south-east")
        expect(answer.get_by_role("button", name=re.compile("^Internal corners"))).to_be_visible()
        corners.click()
        expect(answer.get_by_role("button", name=re.compile("^Internal corners"))).to_have_count(0)
        # What a check points at opens by itself.
        pick(page, "Ramp handrail")
        expect(corners).to_have_attribute("aria-expanded", "true")
        answer.get_by_role("button", name="Open all questions").click()
        expect(answer.get_by_label("Stand-off")).to_be_visible()
        answer.get_by_role("button", name="Close all questions").click()
        expect(answer.get_by_label("Stand-off")).to_have_count(0)


def test_twenty_rows_of_the_list_are_in_sight(browser: Browser, shelf: tuple[Jobs, Job], shared_address: str) -> None:
    jobs, _ = shelf
    id = jobs.add(comb(40), "made it")
    with opened(browser, shared_address, questions="rest") as page:
        page.goto(f"/job/{id}")
        page.get_by_role("button", name="Cutting list", exact=True).click()
        rows = page.get_by_role("main").get_by_role("button", name=re.compile("^Piece "))
        expect(rows.nth(21)).to_be_attached()
        foot = page.get_by_role("rowheader", name="All · 40 pieces").bounding_box()
        assert foot
        whole = [
            box for box in (rows.nth(at).bounding_box() for at in range(rows.count())) if box and box["y"] + box["height"] <= foot["y"]
        ]
        assert len(whole) >= 20
        # Every piece has its weight, and the list their sum.
        cells = page.get_by_role("main").locator("tbody tr:has(button) td:nth-child(9)")
        assert all(float(text) > 0 for text in cells.all_inner_texts())
        expect(page.get_by_role("region", name="Schedule")).to_contain_text("Weight, kg")
        # The rod is a strip till a piece is picked, and the card comes when it is asked for.
        rod = page.get_by_role("region", name="Rod")
        assert (rod.bounding_box() or {"height": 999})["height"] < 40
        rows.first.click()
        expect(rod.get_by_role("application")).to_be_visible()
        expect(card(page)).to_have_count(0)
        page.get_by_role("button", name="Card", exact=True).click()
        expect(card(page)).to_contain_text("How do the ends finish?")


def test_what_is_being_printed_is_reported_and_can_be_stopped(demo: Page) -> None:
    def slowly(route: Route) -> None:
        time.sleep(1.5)
        route.continue_()

    demo.route("**/cutting-list.pdf*", slowly)
    demo.get_by_role("button", name="Hand over").click()
    dialog = demo.get_by_role("dialog", name="Hand over")
    dialog.get_by_role("button", name="A3", exact=True).click()
    expect(dialog.get_by_role("status")).to_contain_text(f"Writing {PIECES} pieces on A3")
    dialog.get_by_role("button", name="Stop").click()
    expect(dialog.get_by_role("status")).to_have_count(0)
    with demo.expect_download() as download:
        dialog.get_by_role("button", name="A4", exact=True).click()
    assert download.value.suggested_filename == "Kestrel Slip ferry house, A4.pdf"

"""Curves shaped and met by hand: points dragged and typed, snapping to other lines exactly where they are, trouble reported."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest
from acting import card, middle_of, pick, plan, saved, sheet
from playwright.sync_api import Page, Route, expect

from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import CurveLeg
from slow_ribbon.core.lines.model import Line


def kind_of_leg(page: Page, kind: str) -> None:
    card(page).get_by_label("Kind of leg").click()
    page.get_by_role("option", name=kind, exact=True).click()


def line_of(page: Page, id: str | None = None) -> Line:
    """Return a line, or the newest, as the service holds it, not as it is drawn."""
    job: dict[str, Any] = json.loads(page.request.get(page.url.replace("/job/", "/api/jobs/")).text())["job"]
    lines = [Line.model_validate(line) for line in job["lines"]]
    return lines[-1] if id is None else next(line for line in lines if line.id == id)


def test_the_points_that_shape_a_curve_are_dragged_and_typed(demo: Page) -> None:
    pick(demo, "Boarding ramp")
    kind_of_leg(demo, "spline by control points")
    expect(card(demo)).to_contain_text("3 controls, degree 2")
    control = plan(demo).locator("[data-shape='0']")
    begin = middle_of(control)
    demo.mouse.down()
    demo.mouse.move(begin[0] + 20, begin[1] - 30, steps=4)
    demo.mouse.move(begin[0] + 40, begin[1] - 50, steps=4)
    demo.mouse.up()
    saved(demo, 2)
    card(demo).get_by_label("East there").fill("18 m")
    demo.keyboard.press("Enter")
    saved(demo, 3)
    leg = line_of(demo, "L6").legs[0]
    assert isinstance(leg, CurveLeg)
    assert leg.controls[0][0] == 18_000
    assert leg.controls[0][1] > 5700
    # As a spline through points it passes the point, and has a corner there where it is made sharp.
    kind_of_leg(demo, "spline through points")
    expect(card(demo)).to_contain_text("A sharp corner there")
    card(demo).get_by_label("North there").fill("7000")
    demo.keyboard.press("Enter")
    saved(demo, 5)
    corners = len(course_of(line_of(demo, "L6")).starts)
    card(demo).get_by_role("checkbox", name="A sharp corner there").click()
    saved(demo, 6)
    assert len(course_of(line_of(demo, "L6")).starts) == corners + 1
    # An arc by the point it passes: three points make it.
    kind_of_leg(demo, "arc")
    expect(card(demo)).to_contain_text("Bulges left")
    card(demo).get_by_label("North there").fill("6650")
    demo.keyboard.press("Enter")
    saved(demo, 8)
    expect(card(demo).get_by_label("Radius")).to_have_value("950")


def at_pixels(page: Page, place: tuple[float, float]) -> tuple[float, float]:
    """Return where a place of the job lies in the window, given by two points of the hall's walls."""
    pick(page, "Hall walls")
    marks = plan(page).locator("[data-point]")
    known = [(point[0], point[1]) for point in line_of(page, "L3").points()]
    (x0, y0), (x1, y1) = middle_of(marks.nth(0)), middle_of(marks.nth(2))
    page.keyboard.press("Escape")
    scale = (x1 - x0) / (known[2][0] - known[0][0])
    assert y1 - y0 == pytest.approx(-scale * (known[2][1] - known[0][1]), abs=1.5)
    return x0 + (place[0] - known[0][0]) * scale, y0 - (place[1] - known[0][1]) * scale


def test_a_line_drawn_to_another_meets_it_exactly(demo: Page) -> None:
    """The drawing of a curve is of chords; what is snapped to is the curve itself."""
    begin = (19_000.0, 9000.0)
    centre, radius = np.array([12_400.0, 4600.0]), 3400.0
    # Of the two tangents from there the one that touches the end wall on its outer side: plane geometry.
    away = centre - begin
    turn = math.atan2(away[1], away[0]) + math.asin(radius / math.hypot(*away))
    touch = np.array(begin) + math.sqrt(away @ away - radius**2) * np.array([math.cos(turn), math.sin(turn)])
    pixels = at_pixels(demo, (float(touch[0]), float(touch[1])))
    demo.keyboard.press("n")
    for label, value in (("East", begin[0]), ("North", begin[1])):
        demo.get_by_label(label, exact=True).fill(str(value))
    demo.keyboard.press("Enter")
    expect(demo.get_by_role("main")).to_contain_text("Leg 1")
    demo.mouse.move(*pixels)
    expect(plan(demo)).to_contain_text("tangent to")
    demo.mouse.click(*pixels)
    expect(demo.get_by_role("main")).to_contain_text("Leg 2")
    demo.get_by_role("button", name="Finish").click()
    expect(card(demo)).to_contain_text("open · 0 corners")
    saved(demo, 1)
    end = line_of(demo).legs[0].to
    assert math.dist(end[:2], touch) < 1e-6
    assert math.dist(end[:2], centre) == pytest.approx(radius, abs=1e-6)


def test_a_view_that_fails_says_so_and_the_rest_goes_on(demo: Page) -> None:
    def broken(route: Route) -> None:
        parts = [json.loads(line) for line in route.fetch().text().splitlines()]
        for part in parts:
            for line in part["lines"]:
                line["path"] = [None]
        route.fulfill(body="\n".join(json.dumps(part) for part in parts))

    demo.route("**/figures*", broken)
    demo.reload()
    expect(demo.get_by_role("alert")).to_contain_text("This view cannot be shown")
    expect(sheet(demo)).to_contain_text("Hall walls")
    demo.unroute("**/figures*")
    demo.get_by_role("button", name="Reload").click()
    expect(plan(demo).locator("path[data-pick]").first).to_be_attached()

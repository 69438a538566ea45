"""Long and short points of bent pieces, to the third decimal that is shown: against closed forms and a search over every fibre."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_line, bent_lines

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.legs import ArcLeg, HelixLeg, StraightLeg, helix_end
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import NamedDatum, Section
from slow_ribbon.core.sections.library import from_library
from slow_ribbon.core.solve.solve_kinds import solve_run


def section(key: str, width: float | None = None) -> Section:
    body = from_library(key)
    size: dict[str, Any] = {} if width is None else {"width": width, "height": width, "wall": 3.2}
    fields = {name: getattr(body, name) for name in type(body).model_fields} | {"datum": NamedDatum(name="middle")}
    return Section(id="S1", **(fields | size))


def cuts_of(path: Line, part: Section, **placing: Any) -> Cuts:
    run = Run(id="R1", name="r", tag="A", line="L1", section="S1", placing=Placing(facing=FacingSide(kind="right"), **placing))
    return solve_run(run, path, part).cuts


def arc(radius: float, degrees: float) -> Line:
    end, mid = (math.radians(degrees) * share for share in (1.0, 0.5))
    places = [(radius * math.sin(a), radius * (1 - math.cos(a)), 0.0) for a in (mid, end)]
    return bent_line((0, 0, 0), [ArcLeg(via=places[0], to=places[1])])


@given(st.floats(60, 4000), st.floats(10, 300), st.floats(20, 100))
def test_a_tube_round_an_arc_is_longest_at_its_outermost_fibre(radius: float, degrees: float, width: float) -> None:
    """(R ± d/2)·φ, which no sample round the tube need hit."""
    assume(radius > 0.6 * width)
    cuts = cuts_of(arc(radius, degrees), section("tube-round", width), roll=17.0)
    angle = math.radians(degrees)
    assert cuts.long_points[0] == pytest.approx((radius + width / 2) * angle, abs=2e-5)
    assert cuts.short_points[0] == pytest.approx((radius - width / 2) * angle, abs=2e-5)


def test_a_tube_in_a_helix_is_longest_and_shortest_where_a_helix_says() -> None:
    """A fibre at distance ρ from the axis of a helix of rise h rad⁻¹ is √(ρ² + h²) a radian; the section stands square to the line."""
    start = (600.0, 0.0, 0.0)
    path = bent_line(start, [HelixLeg(to=helix_end(start, (0, 0, 0), (0, 0, 1), 270, 900), centre=(0, 0, 0), turn=270)])
    cuts = cuts_of(path, section("tube-round", 48.3))
    course = course_of(path)
    rise = 900 / math.radians(270)
    ways = np.radians(np.arange(0, 360, 0.001))
    # Each fibre is a helix through its own place on the section at the start.
    right, up = course.rights[0], course.ups[0]
    places = np.array(start) + 24.15 * (np.outer(np.cos(ways), right) + np.outer(np.sin(ways), up))
    lengths = np.hypot(np.hypot(places[:, 0], places[:, 1]), rise) * math.radians(270)
    assert cuts.long_points[0] == pytest.approx(lengths.max(), abs=5e-4)
    assert cuts.short_points[0] == pytest.approx(lengths.min(), abs=5e-4)


def searched(cuts: Cuts, index: int) -> tuple[float, float]:
    """The least and greatest fibre over the outline, looked for in a thousand places on every edge and then between the nearest.

    At a needle mitre an extreme can be far sharper than a thousandth of an edge.
    """
    edges = cuts.placed.shape.loops[0]

    def lengths(shares: Array, some: Sequence[int]) -> Array:
        inside = cuts.placed.points(np.concatenate([edges[i].at_shares(shares) for i in some]))
        return fibre_lengths(cuts.course.paths[index], inside, *cuts.path_fibres(index, inside)).reshape(len(some), -1)

    found = []
    for sense in (-1, 1):
        shares = np.linspace(0, 1, 1001)
        all_edges = sense * lengths(shares, range(len(edges)))
        best, edge = float(all_edges.max()), int(all_edges.max(axis=1).argmax())
        at, step = float(shares[all_edges[edge].argmax()]), 1e-3
        for _ in range(2):
            nearer = np.clip(np.linspace(at - step, at + step, 401), 0, 1)
            values = sense * lengths(nearer, [edge])[0]
            at, step, best = float(nearer[values.argmax()]), step / 200, max(best, float(values.max()))
        found.append(sense * best)
    return found[0], found[1]


@settings(max_examples=examples(12))
@given(bent_lines(), st.sampled_from(["skirting-chamfered", "handrail-moulded", "tube-round"]))
def test_mitred_bent_pieces_have_their_extremes_wherever_they_lie(path: Line, key: str) -> None:
    """At a mitre an arc's extreme may lie inside a straight edge of the section."""
    cuts = cuts_of(path, section(key))
    assume(cuts.short_points.min() > 0)
    for index in list(cuts.course.paths)[:2]:
        least, greatest = searched(cuts, index)
        # At a needle, whose fibres differ by hundreds of millimetres, to a part of that.
        within = max(5e-5, 2e-6 * (greatest - least))
        assert cuts.short_points[index] == pytest.approx(least, abs=within)
        assert cuts.long_points[index] == pytest.approx(greatest, abs=within)


def test_a_mitre_of_an_arc_and_a_straight() -> None:
    path = bent_line((0, 0, 0), [ArcLeg(via=(400, 110, 0), to=(800, 0, 0)), StraightLeg(to=(1500, 900, 0))])
    cuts = cuts_of(path, section("skirting-chamfered"), roll=90.0)
    assert (cuts.short_points[0], cuts.long_points[0]) == pytest.approx(searched(cuts, 0), abs=5e-5)

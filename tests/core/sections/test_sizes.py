"""Sizes of sections: what follows them, how an outline grows, and the range that it is made in.

Expressions are worked out by sympy too; areas and radii after stretching are given by closed forms and shapely.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
import sympy
from hypothesis import assume, example, given
from hypothesis import strategies as st

from slow_ribbon.core.cutting import cutting_list, schedule
from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import (
    AddLines,
    AddRuns,
    AddSection,
    HoldOutline,
    RowChange,
    RunChanges,
    SetMeasures,
    SetOutlineFigure,
    SetRange,
    SetRun,
    SetSizes,
    SizeChange,
    apply,
    apply_all,
)
from slow_ribbon.core.job.edits.sections import SectionChanges, SetSection
from slow_ribbon.core.job.edits.sizes import StretchEdge
from slow_ribbon.core.kernel import MeasureChange, Refused
from slow_ribbon.core.kernel.expressions import key
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.sections.document.constraints import Apart, Level, Radius, Upright
from slow_ribbon.core.sections.document.section import Section, SectionBody, section_shape, stretching_bands
from slow_ribbon.core.sections.edges.arc import Arc
from slow_ribbon.core.sections.edges.base import Edge
from slow_ribbon.core.sections.edges.straight import Straight
from slow_ribbon.core.sections.library import from_library, library, rectangle
from slow_ribbon.core.sections.operations.parametric_sizes import in_row, size_values
from slow_ribbon.core.sections.outline.edge_arrays import flattened
from slow_ribbon.core.sections.outline.outline import OutlinePen, outline_by_points
from slow_ribbon.core.solve import solve
from slow_ribbon.demo.ferry_house import ferry_house

keys = st.sampled_from([entry.key for entry in library()])


def kept(key: str) -> SectionBody:
    """Return a section of the library whose corners are kept."""
    return from_library(key).model_copy(update={"grows": "kept"})


@given(keys, st.floats(0, 60), st.floats(0, 60))
@example("tube-square", 25.0, 40.0)
def test_what_is_kept_keeps_its_shape_and_only_a_band_stretches(name: str, across: float, up: float) -> None:
    before = kept(name)
    after = before.model_copy(update={"width": before.width + across, "height": before.height + up})
    refused = refusal(after)
    if refused is not None:
        # It is true: between any two places along that way lies something that is no straight along it.
        drawn = section_shape(before)
        axis = 0 if refused.where == "width" else 1
        slanting = [edge for loop in drawn.loops for edge in loop if not (isinstance(edge, Straight) and along(edge, axis))]
        covered = shapely.union_all([shapely.box(*reach(edge, axis)) for edge in slanting])
        assert covered.area == pytest.approx(drawn.box[axis + 2], rel=1e-3)
        return
    shape, drawn = section_shape(after), section_shape(before)
    assert shape.box == pytest.approx((0, 0, before.width + across, before.height + up), abs=1e-9)
    # Arcs are arcs of the radii they had, and as many.
    radii = sorted(float(np.hypot(*edge.u)) for loop in drawn.loops for edge in loop if isinstance(edge, Arc))
    assert sorted(float(np.hypot(*edge.u)) for loop in shape.loops for edge in loop if isinstance(edge, Arc)) == pytest.approx(radii)
    # What is gained in area is the band's own cross-section, one way and then the other.
    bands = stretching_bands(before)
    if across and not up and bands[0] is not None:
        middle = sum(bands[0]) / 2
        cut = drawn.polygon(0.001).intersection(shapely.LineString([(middle, -1), (middle, before.height + 1)]))
        assert shape.area - drawn.area == pytest.approx(across * cut.length, abs=1e-3)


def refusal(section: SectionBody) -> Refused | None:
    """Return why a section cannot be stretched to its size, if it cannot."""
    try:
        section_shape(section)
    except Refused as refused:
        if refused.code != "section-stretch":
            raise
        return refused
    return None


def along(edge: Straight, axis: int) -> bool:
    return abs(float(edge.end[1 - axis] - edge.begin[1 - axis])) <= 1e-6


def reach(edge: Edge, axis: int) -> tuple[float, float, float, float]:
    points = flattened(edge, 0.0001)[0][:, axis]
    return float(points.min()), 0.0, float(points.max()), 1.0


@given(st.floats(2, 400), st.floats(2, 400))
def test_the_band_s_cross_section_is_what_stretching_gains(more: float, up: float) -> None:
    # A bead: its nose is half a circle, whatever its width.
    before = kept("tube-square")
    width, height, wall = before.width + more, before.height + up, before.wall or 0
    shape = section_shape(before.model_copy(update={"width": width, "height": height}))
    assert shape.area - section_shape(before).area == pytest.approx(2 * wall * (more + up), rel=1e-9)


def test_a_part_is_let_stretch_by_picking_its_edge() -> None:
    # Two flats with a bead between: the upper one stretches where it is asked to.
    outline = OutlinePen(0, 0).line(10, 0).line(10, 30).arc(10, 38, 1.0).line(10, 50).line(0, 50).close()
    job = apply(Job(name="Job"), AddSection(section=SectionBody(name="Beaded", outline=outline, width=14, height=50, grows="kept")))
    assert stretching_bands(job.section("S1"))[1] == pytest.approx((0, 30))
    job = apply(job, StretchEdge(section="S1", edge=3))
    assert stretching_bands(job.section("S1"))[1] == pytest.approx((38, 50))
    job = apply(job, SetSection(section="S1", changes=SectionChanges(height=70)))
    arc = next(edge for edge in section_shape(job.section("S1")).loops[0] if isinstance(edge, Arc))
    assert float(arc.centre[1]) == pytest.approx(34)
    # A slanting edge cannot.
    with pytest.raises(Refused) as refused:
        apply(job, StretchEdge(section="S1", edge=2))
    assert refused.value.code == "section-stretch"


def test_a_slant_is_no_part_that_could_stretch() -> None:
    # A wedge on a low base, and one without: the slant would be drawn out of shape.
    wedge = OutlinePen(0, 0).line(20, 0).line(20, 5).line(0, 60).close()
    drawn = SectionBody(name="Wedge", outline=wedge, width=20, height=60, grows="kept")
    across, up = stretching_bands(drawn)
    assert across is None
    assert up == pytest.approx((0, 5))
    bare = SectionBody(name="Wedge", outline=OutlinePen(0, 0).line(20, 0).line(0, 60).close(), width=20, height=80, grows="kept")
    refused = refusal(bare)
    assert refused is not None
    assert refused.where == "height"


names = st.sampled_from(["depth", "nosing radius", "width", "height"])
_SYMBOLS = {name: sympy.Symbol(name.replace(" ", "_"), positive=True) for name in ("depth", "nosing radius", "width", "height")}


@st.composite
def texts(draw: st.DrawFn, level: int = 0) -> tuple[str, sympy.Expr]:
    """A text that comes out as a length, and the same as sympy has it."""
    kind = draw(st.integers(0, 5 if level < 3 else 1))
    if kind == 0:
        name = draw(names)
        return name, _SYMBOLS[name]
    if kind == 1:
        value = draw(st.integers(1, 200))
        return f"{value} mm", sympy.Integer(value)
    a, ea = draw(texts(level + 1))
    if kind in (2, 3):
        b, eb = draw(texts(level + 1))
        return (f"({a} + {b})", ea + eb) if kind == 2 else (f"({a} - {b})", ea - eb)
    if kind == 4:
        factor = draw(st.integers(2, 9))
        return f"{a} * {factor}", ea * factor
    if draw(st.booleans()):
        factor = draw(st.integers(2, 9))
        return f"{a} / {factor}", ea / factor
    b, eb = draw(texts(level + 1))
    return f"max({a}, {b})", sympy.Max(ea, eb)


@given(texts(), st.floats(5, 40), st.floats(2, 30))
def test_a_size_that_follows_is_what_sympy_makes_of_it(written: tuple[str, sympy.Expr], depth: float, nosing: float) -> None:
    text, expression = written
    board = SectionBody(name="Board", outline=rectangle(20, 100), width=20, height=100)
    job = apply(Job(name="Job"), AddSection(section=board))
    sizes = (SizeChange(name="depth", text=f"{depth!r} mm"), SizeChange(name="nosing radius", text=f"{nosing!r} mm"))
    job = apply(job, SetSizes(section="S1", sizes=sizes))
    values = {_SYMBOLS[name]: size_values(job.section("S1"))[key(name)] for name in _SYMBOLS}
    wanted = float(expression.subs(values))
    assume(abs(wanted) < 1e5)
    if wanted <= 1e-6:
        with pytest.raises(Refused):
            apply(job, SetSizes(section="S1", sizes=(SizeChange(name="reveal", text=text),)))
        return
    job = apply(job, SetSizes(section="S1", sizes=(SizeChange(name="reveal", text=text),)))
    assert size_values(job.section("S1"))["reveal"] == pytest.approx(wanted, rel=1e-9)
    # And when what it follows becomes another, by the same rule.
    again = {**values, _SYMBOLS["depth"]: depth + 7}
    wanted = float(expression.subs(again))
    if 1e-6 < wanted < 1e5:
        job = apply(job, SetSizes(section="S1", sizes=(SizeChange(name="depth", text=f"{depth + 7!r} mm"),)))
        assert size_values(job.section("S1"))["reveal"] == pytest.approx(wanted, rel=1e-9)


def stepped() -> Job:
    """Return a job with an L of a section, whose step is held, and a line to run it along."""
    places = [(0.0, 0.0), (30.0, 0.0), (30.0, 40.0), (12.0, 40.0), (12.0, 90.0), (0.0, 90.0)]
    body = SectionBody(name="Step", outline=outline_by_points(places), width=30, height=90)
    job = apply_all(Job(name="Job"), [AddSection(section=body), AddLines(lines=(line_body([(0, 0, 0), (3000, 0, 0)], False, "Wall"),))]).job
    level = [HoldOutline(section="S1", held=Level(a=(0, i), b=(0, i + 1))) for i in (0, 2, 4)]
    upright = [HoldOutline(section="S1", held=Upright(a=(0, i), b=(0, i + 1))) for i in (1, 3)]
    step = SetOutlineFigure(section="S1", figure=Apart(a=(0, 4), b=(0, 5), value=12), hold=True)
    return apply_all(job, [*level, *upright, step]).job


def test_held_lengths_follow_sizes_and_each_row_of_the_range_is_what_would_be_drawn_so() -> None:
    job = apply_all(
        stepped(),
        [
            SetSizes(section="S1", sizes=(SizeChange(name="tongue", text="12"), SizeChange(name="rise", text="height - 50"))),
            SetOutlineFigure(section="S1", figure=Apart(a=(0, 4), b=(0, 5), value=1, text="tongue"), hold=True),
            SetOutlineFigure(section="S1", figure=Apart(a=(0, 1), b=(0, 2), value=1, text="rise"), hold=True),
            SetRange(
                section="S1",
                rows=(RowChange(name="90", values={"height": 90}), RowChange(name="120", values={"height": 120, "tongue": 15})),
            ),
            AddRuns(section="S1", size="120", lines=("L2",)),
        ],
    ).job
    made = in_row(job.section("S1"), "120")
    # By hand: 30 × (120 − 50) and 15 × 50 over it.
    assert section_shape(made).area == pytest.approx(30 * 70 + 15 * 50, abs=1e-6)
    assert (made.width, made.height) == pytest.approx((30, 120))
    solved = solve(job)
    assert float(solved.runs["R3"].cuts.volumes.sum()) == pytest.approx(3000 * (30 * 70 + 15 * 50), rel=1e-9)
    assert schedule(solved).sizes == {"S1": {"120": schedule(solved).sections["S1"]}}
    assert [row.tags for row in cutting_list(solved)] == [("S1",)]
    # The section itself is as it was, and typing over the figure types the size.
    job = apply(job, SetOutlineFigure(section="S1", figure=Apart(a=(0, 4), b=(0, 5), value=14)))
    section = job.section("S1")
    assert size_values(section)["tongue"] == pytest.approx(14)
    assert section_shape(section).area == pytest.approx(30 * 40 + 14 * 50, abs=1e-6)
    # A run follows the name of its row, and keeps the row from being removed.
    job = apply(job, SetRange(section="S1", rows=(RowChange(was="120", name="high"),)))
    assert job.run("R3").size == "high"
    with pytest.raises(Refused) as refused:
        apply(job, SetRange(section="S1", rows=(RowChange(was="high", remove=True),)))
    assert refused.value.code == "in-use"
    job = apply(job, SetRun(run="R3", changes=RunChanges(size=None)))
    assert apply(job, SetRange(section="S1", rows=(RowChange(was="high", remove=True),))).section("S1").range[-1].name == "90"


def test_sizes_follow_measures_of_the_job_and_one_another_but_not_in_a_circle() -> None:
    job = apply(stepped(), SetMeasures(measures=(MeasureChange(name="hall skirting", text="100"),)))
    job = apply(
        job, SetSizes(section="S1", sizes=(SizeChange(name="height", text="hall skirting - 5"), SizeChange(name="lip", text="height / 5")))
    )
    assert (job.section("S1").height, size_values(job.section("S1"))["lip"]) == pytest.approx((95, 19))
    job = apply(job, SetMeasures(measures=(MeasureChange(was="hall skirting", text="145"),)))
    assert (job.section("S1").height, size_values(job.section("S1"))["lip"]) == pytest.approx((140, 28))
    with pytest.raises(Refused) as refused:
        apply(job, SetSizes(section="S1", sizes=(SizeChange(name="height", text="lip * 4"),)))
    assert refused.value.code == "measure-circle"
    # Typed as a plain figure it follows nothing any more.
    job = apply(job, SetSection(section="S1", changes=SectionChanges(height=100)))
    job = apply(job, SetMeasures(measures=(MeasureChange(was="hall skirting", text="200"),)))
    assert (job.section("S1").height, size_values(job.section("S1"))["lip"]) == pytest.approx((100, 20))
    job = apply(job, SetSizes(section="S1", sizes=(SizeChange(was="lip", name="drip lip"), SizeChange(name="drip", text="drip lip / 2"))))
    job = apply(job, SetSizes(section="S1", sizes=(SizeChange(was="drip lip", name="nose"),)))
    assert [size.text for size in job.section("S1").sizes] == [None, "height / 5", "nose / 2"]
    with pytest.raises(Refused) as refused:
        apply(job, SetSizes(section="S1", sizes=(SizeChange(was="nose", remove=True),)))
    assert refused.value.code == "size-used"


@pytest.mark.parametrize(
    ("edits", "code"),
    [
        ([SetSizes(section="S1", sizes=(SizeChange(name="height", least=100),))], "size-limits"),
        ([SetSizes(section="S1", sizes=(SizeChange(name="height", least=60, most=95),)),
          SetRange(section="S1", rows=(RowChange(name="200", values={"height": 200}),))], "size-limits"),
        ([SetSizes(section="S1", sizes=(SizeChange(name="wall", text="3"),))], "size-name"),
        ([SetSizes(section="S1", sizes=(SizeChange(name="lip", text="nothing known"),))], "unknown-measure"),
        ([SetSizes(section="S1", sizes=(SizeChange(name="lip", text="20 - 90"),))], "size-value"),
        ([SetRange(section="S1", rows=(RowChange(name="thin", values={"lip": 3}),))], "unknown-size"),
        ([SetRange(section="S1", rows=(RowChange(name="thin", values={}),))], "size-value"),
        # The tongue, held at 12, is wider than the section would be.
        ([SetRange(section="S1", rows=(RowChange(name="thin", values={"width": 8}),))], None),
        ([AddRuns(section="S1", size="120", lines=("L2",))], "unknown-size"),
    ],
)  # fmt: skip
def test_sizes_that_cannot_be_are_refused_and_everything_stays(edits: list[object], code: str | None) -> None:
    before = stepped()
    with pytest.raises(Refused) as refused:
        apply_all(before, edits)  # type: ignore[arg-type]  # edits of several kinds
    assert code is None or refused.value.code == code
    assert before == stepped()


def test_the_demo_s_architrave_keeps_its_moulding_in_every_size() -> None:
    (section,) = (one for one in ferry_house().sections if one.name == "Architrave, drawn here")
    assert isinstance(section, Section)
    curves = {
        row.name: [np.diff(edge.points, axis=0) for edge in section_shape(in_row(section, row.name)).loops[0] if hasattr(edge, "points")]
        for row in section.range
    }
    assert list(curves) == ["70", "90", "120"]
    for name in ("70", "120"):
        assert all(np.allclose(a, b, atol=1e-6) for a, b in zip(curves[name], curves["90"], strict=True))
    assert [held.value for held in in_row(section, "120").held if isinstance(held, Radius)] == [3]
    assert math.isclose(in_row(section, "70").height, 70)

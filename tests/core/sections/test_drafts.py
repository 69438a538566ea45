"""Outlines that are no sections yet: what is wrong is given at its place and mended by one action; thickness given to open ones."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import assume, example, given, reject
from hypothesis import strategies as st

from slow_ribbon.core.job import Job, PictureBody
from slow_ribbon.core.job.edits import AddPicture, AddRuns, AddSection, Remove, apply, apply_all
from slow_ribbon.core.job.edits.drafts import KeepDraft, SectionOfDraft, SetDraft
from slow_ribbon.core.job.edits.underlays import ScalePicture
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.sections.document.draft import DraftBody
from slow_ribbon.core.sections.document.section import section_shape
from slow_ribbon.core.sections.edges import OutlineEdge
from slow_ribbon.core.sections.edges.arc import ArcEdge
from slow_ribbon.core.sections.edges.curve import CurveEdge
from slow_ribbon.core.sections.edges.straight import StraightEdge
from slow_ribbon.core.sections.library import from_library, library
from slow_ribbon.core.sections.operations.offset_outline import thickened
from slow_ribbon.core.sections.outline.edge_arrays import Together
from slow_ribbon.core.sections.outline.outline import Outline, OutlinePen
from slow_ribbon.core.sections.outline.outline_validation import faults_of
from slow_ribbon.core.sections.outline.profile import path_of, shape_of


def path(*points: tuple[float, float]) -> Outline:
    return Outline(start=points[0], edges=tuple(StraightEdge(to=to) for to in points[1:]))


@st.composite
def paths(draw: st.DrawFn, kinds: str = "sac", closed: bool = False) -> Outline:
    """Edges of some kinds, one after another, that may go anywhere and cross."""
    places = st.tuples(st.integers(-40, 40), st.integers(-40, 40)).map(lambda at: (float(at[0]), float(at[1])))
    points = draw(st.lists(places, min_size=3, max_size=7))
    start, *rest = points
    edges: list[OutlineEdge] = []
    for to in [*rest, start] if closed else rest:
        kind = draw(st.sampled_from(kinds))
        if kind == "a":
            edges.append(ArcEdge(to=to, via=draw(places)))
        elif kind == "c":
            edges.append(CurveEdge(to=to, controls=(draw(places), draw(places))))
        else:
            edges.append(StraightEdge(to=to))
    return Outline(start=start, edges=tuple(edges))


@given(st.booleans().flatmap(lambda closed: paths(closed=closed)))
@example(path((0, 0), (40, 0), (0, 20), (40, 20), (0, 0)))
@example(path((0, 0), (40, 0), (40, 0.02), (0, 0.02), (0, 0)))
def test_whatever_is_drawn_is_reported_and_mended_until_it_is_a_section(outline: Outline) -> None:
    """Faults are reported exactly where ``shape_of`` would refuse; actions, one after another, lead to a section or to none left."""
    for _ in range(60):
        faults = faults_of(outline)
        try:
            shape_of(outline)
            sound = True
        except Refused:
            sound = False
        assert sound == all(fault.kind == "sliver" for fault in faults)
        for fault in faults:
            assert fault.words
            assert fault.places
            assert (fault.mended is None) == (fault.action == "")
        mended = next((fault.mended for fault in faults if fault.mended is not None), None)
        if mended is None:
            return
        outline = mended
    pytest.fail(f"mending does not come to an end: {faults}")


def test_faults_are_reported_where_they_are() -> None:
    bow = path((0, 0), (40, 0), (10, 30), (30, 30), (0, 0))
    (crossing,) = faults_of(bow)
    # The slanting sides (40, 0)–(10, 30) and (30, 30)–(0, 0) cross at (20, 20).
    assert crossing.kind == "crosses"
    assert crossing.places[0] == pytest.approx((20, 20), abs=1e-9)
    assert crossing.mended is not None
    assert shape_of(crossing.mended).area == pytest.approx(40 * 20 / 2)
    (gap,) = faults_of(path((0, 0), (40, 0), (40, 30), (0, 30), (0, 0.4)))
    assert (gap.kind, gap.places) == ("open", ((0, 0.4), (0, 0)))
    assert gap.mended is not None
    assert len(gap.mended.edges) == 4
    assert shape_of(gap.mended).area == pytest.approx(1200)
    (wide,) = faults_of(path((0, 0), (40, 0), (40, 30)))
    assert wide.mended is not None
    assert shape_of(wide.mended).area == pytest.approx(600)
    (short,) = faults_of(path((0, 0), (40, 0), (40, 0), (40, 30), (0, 0)))
    assert (short.kind, short.action) == ("no-length", "Remove the edge")
    # A whisker 0.02 thick that sticks out of a board.
    (sliver,) = faults_of(path((0, 0), (60, 0), (60, 20), (90, 20), (90, 20.02), (60, 20.02), (60, 40), (0, 40), (0, 0)))
    assert sliver.kind == "sliver"
    assert sliver.mended is not None
    assert shape_of(sliver.mended).area == pytest.approx(60 * 40, abs=1)
    assert faults_of(sliver.mended) == []
    assert [fault.kind for fault in faults_of(path((0, 0), (40, 0), (0, 0)))] == ["flat"]


@pytest.mark.parametrize("key", [entry.key for entry in library()])
def test_nothing_is_wrong_with_the_library(key: str) -> None:
    section = from_library(key)
    assert faults_of(section.outline, () if section.wall else section.holes) == []


@st.composite
def strips(draw: st.DrawFn, kinds: str) -> Outline:
    """An open path of edges long enough to be given some thickness; no sharp turns."""
    pen, heading, x, y = OutlinePen(0, 0), 0.0, 0.0, 0.0
    for _ in range(draw(st.integers(1, 5))):
        heading += draw(st.floats(-1.9, 1.9))
        x, y = x + 40 * math.cos(heading), y + 40 * math.sin(heading)
        kind = draw(st.sampled_from(kinds))
        if kind == "a":
            pen.arc(x, y, draw(st.sampled_from([-0.5, -0.2, 0.1, 0.4])))
        elif kind == "c":
            (x0, y0), lean = pen.at, draw(st.floats(-0.5, 0.5))
            c, s = 14 * math.cos(heading + lean), 14 * math.sin(heading + lean)
            pen.curve((x0 + c, y0 + s), (x - c, y - s), x, y)
        else:
            pen.line(x, y)
    return Outline(start=(0, 0), edges=tuple(pen._edges))


def made(outline: Outline, *how: Any) -> tuple[Outline, tuple[Outline, ...]]:
    try:
        return thickened(outline, *how)
    except Refused:
        reject()


@given(strips("s"), st.floats(0.5, 8), st.sampled_from(["left", "right", "both"]), st.sampled_from(["mitred", "rounded"]))
def test_thickness_of_straights_is_shapely_s_buffer(outline: Outline, thick: float, beside: Any, corners: Any) -> None:
    found = shape_of(*made(outline, thick, beside, corners))
    line = shapely.LineString([outline.start, *(edge.to for edge in outline.edges)])
    assume(line.is_simple)
    wide = {"left": thick, "right": -thick, "both": thick / 2}[beside]
    style: Any = "mitre" if corners == "mitred" else "round"
    theirs = line.buffer(wide, cap_style="flat", join_style=style, mitre_limit=1e3, quad_segs=400, single_sided=beside != "both")
    assert found.polygon(1e-4).symmetric_difference(theirs).area < 0.02


@given(strips("sac"), st.floats(0.5, 8), st.sampled_from(["square", "round"]))
def test_thickness_of_arcs_and_curves_is_shapely_s_buffer_of_fine_chords(outline: Outline, thick: float, ends: Any) -> None:
    """Corners rounded, for a buffer mitres every one of the chords; straights stay straights, arcs arcs about the same middle."""
    found = shape_of(*made(outline, thick, "both", "rounded", ends))
    line = shapely.LineString(Together.of(path_of(outline)).flattened(1e-4).points)
    assume(line.is_simple)
    theirs = line.buffer(thick / 2, cap_style="flat" if ends == "square" else "round", join_style="round", quad_segs=400)
    assert found.polygon(1e-4).symmetric_difference(theirs).area < 0.4
    assert found.area == pytest.approx(theirs.area, abs=0.2)


def test_sheet_and_bar_of_closed_forms() -> None:
    # A channel of sheet 3 thick, drawn by its outside: (60 + 40 + 40)·3 − 2·3².
    channel = path((0, 40), (0, 0), (60, 0), (60, 40))
    assert shape_of(*thickened(channel, 3, "left")).area == pytest.approx(140 * 3 - 2 * 9)
    # A half ring by its middle, radius 30 and 6 thick: π·30·6, and with its ends rounded a whole circle of 6 more.
    ring = Outline(start=(30, 0), edges=(ArcEdge(to=(-30, 0), via=(0, 30)),))
    assert shape_of(*thickened(ring, 6)).area == pytest.approx(math.pi * 30 * 6)
    assert shape_of(*thickened(ring, 6, "both", "mitred", "round")).area == pytest.approx(math.pi * (30 * 6 + 9))
    # A closed square becomes a tube with its hole.
    square = path((0, 0), (50, 0), (50, 50), (0, 50), (0, 0))
    tube, holes = thickened(square, 4, "left")
    assert len(holes) == 1
    assert shape_of(tube, holes).area == pytest.approx(50**2 - 42**2)
    rounded, holes = thickened(square, 4, "right", "rounded")
    assert shape_of(rounded, holes).area == pytest.approx(4 * 50 * 4 + math.pi * 16)
    assert np.ptp([edge.to[0] for edge in rounded.edges]) == pytest.approx(58)


@pytest.mark.parametrize(
    ("outline", "thick", "words"),
    [
        (Outline(start=(5, 0), edges=(ArcEdge(to=(-5, 0), via=(0, 5)),)), 6, "tighter"),
        (path((0, 0), (40, 0), (40, 3), (0, 3)), 8, "too short"),
        (path((0, 0), (60, 0), (60, 30), (20, 30), (20, 4)), 9, "meets itself"),
        (Outline(start=(0, 0), edges=(CurveEdge(to=(20, 0), controls=((20, 20), (0, 20))),)), 30, "tighter"),
    ],
)
def test_thickness_that_cannot_be_is_reported(outline: Outline, thick: float, words: str) -> None:
    with pytest.raises(Refused, match=words):
        thickened(outline, thick, "left")


def test_a_draft_is_kept_mended_and_made_a_section() -> None:
    job = apply(Job(name="Job"), AddSection(section=from_library("skirting-chamfered")))
    bow = path((0, 0), (40, 0), (10, 30), (30, 30), (0, 0))
    job = apply(job, KeepDraft(draft=DraftBody(name="Cap", outline=bow)))
    (draft,) = job.drafts
    # It is no section: it cannot be run, and cannot become one as it is.
    with pytest.raises(Refused):
        apply(job, AddRuns(section=draft.id, lines=("L1",)))
    with pytest.raises(Refused, match="crosses"):
        apply(job, SectionOfDraft(draft=draft.id))
    (fault,) = faults_of(bow)
    mended = apply(job, SetDraft(draft=draft.id, outline=fault.mended))
    done = apply(mended, SectionOfDraft(draft=draft.id))
    assert done.drafts == ()
    assert done.sections[-1].name == "Cap"
    assert section_shape(done.sections[-1]).area == pytest.approx(400)
    # One that is meant for a section becomes its outline; without that section it is one of its own.
    meant = KeepDraft(draft=DraftBody(name="Skirting", outline=path((0, 0), (20, 0), (20, 90), (0, 90), (0, 0)), section="S1"))
    job = apply(job, meant)
    given = apply(job, SectionOfDraft(draft=job.drafts[-1].id))
    assert len(given.sections) == 1
    assert section_shape(given.sections[0]).area == pytest.approx(1800)
    alone = apply_all(job.model_copy(update={"sections": ()}), [SectionOfDraft(draft=job.drafts[-1].id)]).job
    assert [section.name for section in alone.sections] == ["Skirting"]


def test_a_picture_goes_with_what_is_traced_over_it() -> None:
    picture = PictureBody(name="Rubbing", content="0" * 64, across=800, high=600, scale=0.1)
    with pytest.raises(Refused, match="no section"):
        apply(Job(name="Job"), AddPicture(picture=picture.model_copy(update={"on": "D9"})))
    # A draft may begin with nothing but a picture.
    job = apply(Job(name="Job"), KeepDraft(draft=DraftBody(name="Traced")))
    job = apply(job, AddPicture(picture=picture.model_copy(update={"on": "D1"})))
    assert job == job_from_text(job_to_text(job))
    with pytest.raises(Refused, match="Nothing is drawn"):
        apply(job, SectionOfDraft(draft="D1"))
    # To scale: 200 pixels of it are 44 mm.
    job = apply(job, ScalePicture(picture="P2", a=(10, 10), b=(30, 10), length=44))
    assert job.pictures[0].scale == pytest.approx(0.22)
    job = apply(job, SetDraft(draft="D1", outline=path((0, 0), (20, 0), (20, 90), (0, 0))))
    done = apply(job, SectionOfDraft(draft="D1"))
    assert [picture.on for picture in done.pictures] == [done.sections[0].id]
    assert apply(done, Remove(ids=(done.sections[0].id,))).pictures == ()

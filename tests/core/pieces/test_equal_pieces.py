"""Which pieces are listed as equal, against a search for a rigid motion between their corners that shares no code with ours."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pytest
from examples import examples
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from making import bent_line, line

from slow_ribbon.core.cutting.cutting_list import cutting_list
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.legs import AnyLeg, ArcLeg, StraightLeg
from slow_ribbon.core.lines.model import Line, Opening
from slow_ribbon.core.runs.pieces.congruence import equal_pieces
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.placement.placing import FacingSide, Placing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import NamedDatum, Section
from slow_ribbon.core.sections.library import from_library, rectangle
from slow_ribbon.core.sections.outline.outline import OutlinePen
from slow_ribbon.core.sections.sketch.symmetry import symmetry_of
from slow_ribbon.core.solve.solve_kinds import solve_run
from slow_ribbon.core.solve.solver import solve


def section(key: str, **more: Any) -> Section:
    """One of the sections of these tests: one side like the other or not, round, square."""
    if key == "square":
        return Section(id="S1", name=key, outline=rectangle(40, 40), width=40, height=40, **more)
    if key == "wedge":
        outline = OutlinePen(0, 0).line(30, 0).line(30, 12).line(0, 50).close()
        return Section(id="S1", name=key, outline=outline, width=30, height=50, **more)
    if key == "board":
        return Section(id="S1", name=key, outline=rectangle(18, 120), width=18, height=120, **more)
    body = from_library(key).model_copy(update=more)
    return Section(id="S1", **{name: getattr(body, name) for name in type(body).model_fields})


ONE = Run(id="R1", name="r", tag="A", line="L1", section="S1")
KEYS = ["square", "wedge", "board", "tube-round", "handrail-moulded"]


def solved(path: Line, key: str, placing: Placing | None = None) -> Cuts:
    run = Run(id="R1", name="run", tag="A", line="L1", section="S1", placing=placing or Placing())
    return solve_run(run, path, section(key, datum=NamedDatum(name="middle"))).cuts


def corners(cuts: Cuts, index: int, count: int) -> Array:
    """Points of a piece that a motion of it takes along: on its arrises, or round a tube where its cuts are longest, in equal shares."""
    shape = cuts.placed.shape
    if symmetry_of(cuts.placed.section).round:
        # A tube has no arrises; its two fibres in the plane of each cut's slope stand for them.
        slopes = np.array([cuts.slopes_begin[index], cuts.slopes_end[index]])
        sizes = np.hypot(slopes[:, 0], slopes[:, 1])
        radius = (shape.box[2] - shape.box[0]) / 2
        ways = [slope / size * radius for slope, size in zip(slopes, sizes, strict=True) if size > 1e-9]
        points = cuts.placed.centroid + np.array([*ways, *(-np.array(ways) if ways else []), (0.0, 0.0)])
    else:
        points = cuts.placed.points(np.array([edge.begin for edge in shape.loops[0]]))
    if index in cuts.course.paths:
        path = cuts.course.paths[index]
        begin, end = cuts.path_fibres(index, points)
        shares = np.linspace(0, 1, count)[:, None]
        here = path.at((begin + (end - begin) * shares).ravel())
        again = np.tile(points, (count, 1))
        return np.asarray(here.points + here.rights * again[:, :1] + here.ups * again[:, 1:])
    return np.concatenate([cuts.images(index, points, end=False), cuts.images(index, points, end=True)])


def congruent(a: Array, b: Array) -> bool:
    """Return whether a turn and a shift take one set of points to the other, trying every way to lay three of them on three others."""
    if len(a) != len(b):
        return False
    a, b = a - a.mean(axis=0), b - b.mean(axis=0)
    distances = np.linalg.norm(b[:, None] - b[None], axis=2)
    far = int(np.argmax(np.linalg.norm(a, axis=1)))
    other = int(np.argmax(np.linalg.norm(np.cross(a - a[far], a[far]), axis=1)))
    length = float(np.linalg.norm(a[far] - a[other]))
    for i, j in itertools.permutations(range(len(b)), 2):
        radii = abs(np.linalg.norm(b[i]) - np.linalg.norm(a[far])), abs(np.linalg.norm(b[j]) - np.linalg.norm(a[other]))
        if abs(distances[i, j] - length) > 0.01 or max(radii) > 0.01:
            continue
        # About their middles two vectors each fix a turn; the third of each frame makes it one without mirroring.
        frames = []
        for one, two in ((a[far], a[other]), (b[i], b[j])):
            first = one / np.linalg.norm(one)
            third = np.cross(first, two)
            third /= np.linalg.norm(third)
            frames.append(np.stack([first, np.cross(third, first), third]))
        moved = a @ frames[0].T @ frames[1]
        if all(np.linalg.norm(b - point, axis=1).min() < 0.02 for point in moved):
            return True
    return False


@st.composite
def zigzags(draw: st.DrawFn) -> Line:
    """Lines whose pieces are often equal: few lengths, few turns, some of them out of the plane, some pieces bent."""
    at, heading = np.zeros(3), 0.0
    legs: list[AnyLeg] = []
    for _ in range(draw(st.integers(3, 6))):
        heading += math.radians(draw(st.sampled_from([40.0, -40.0, 90.0, -90.0])))
        size = draw(st.sampled_from([900.0, 1300.0]))
        along = np.array([math.cos(heading), math.sin(heading), 0.0])
        legs.append(StraightLeg(to=tuple(at + along * size)))
        at = at + along * size
        if draw(st.booleans()):
            # A bend without a corner: the piece goes on from it.
            side = draw(st.sampled_from([1.0, -1.0]))
            turn = draw(st.sampled_from([30.0, 60.0]))
            radius = draw(st.sampled_from([300.0, 500.0]))
            centre = at + radius * side * np.array([-along[1], along[0], 0.0])
            ends = []
            for share in (0.5, 1.0):
                angle = math.radians(turn) * side * share
                out = at - centre
                c, s = math.cos(angle), math.sin(angle)
                ends.append(centre + np.array([c * out[0] - s * out[1], s * out[0] + c * out[1], 0.0]))
            legs.append(ArcLeg(via=tuple(ends[0]), to=tuple(ends[1])))
            at, heading = ends[1], heading + math.radians(turn) * side
            more = draw(st.sampled_from([400.0, 700.0]))
            at = at + more * np.array([math.cos(heading), math.sin(heading), 0.0])
            legs.append(StraightLeg(to=tuple(at)))
    return bent_line((0, 0, 0), legs)


@settings(max_examples=examples(30))
@given(zigzags(), st.sampled_from(KEYS), st.sampled_from(["left", "right"]))
def test_pieces_are_equal_when_and_only_when_one_can_be_laid_on_the_other(path: Line, key: str, side: str) -> None:
    cuts = solved(path, key, Placing(facing=FacingSide(kind=side)))
    assume(cuts.short_points.min() > 50)
    groups = equal_pieces(cuts)
    group_of = {piece: number for number, group in enumerate(groups) for piece in group}
    assert sorted(group_of) == list(range(cuts.course.count))
    for i, j in itertools.combinations(range(cuts.course.count), 2):
        same = (i in cuts.course.paths) == (j in cuts.course.paths) and congruent(corners(cuts, i, 7), corners(cuts, j, 7))
        assert (group_of[i] == group_of[j]) == same, (i, j)


def rows(path: Line, key: str) -> list[tuple[str, ...]]:
    job = Job(
        name="job", lines=(path,), sections=(section(key),), runs=(ONE,), last_number=9
    )  # fmt: skip
    return [row.tags for row in cutting_list(solve(job))]


def bend(x: float, side: int, radius: float = 100.0) -> list[AnyLeg]:
    """A jog: two quarter bends, the line going on beside itself."""
    y = side * radius
    return [
        ArcLeg(via=(x + radius * math.sin(math.pi / 4), y * (1 - math.cos(math.pi / 4)), 0), to=(x + radius, y, 0)),
        StraightLeg(to=(x + radius, y + side * 500, 0)),
    ]


@pytest.mark.parametrize(
    ("first", "second"), [((900, 1, 100), (900, -1, 100)), ((3900, 1, 100), (1900, 1, 100)), ((900, 1, 100), (900, 1, 300))]
)
def test_bent_pieces_that_differ_are_not_grouped(first: tuple[float, int, float], second: tuple[float, int, float]) -> None:
    """A bend to the other side, elsewhere in the piece, or of another radius; each piece 6 m from gate to gate."""
    legs: list[AnyLeg] = []
    at, y, openings = 0.0, 0.0, []
    for number, (before, side, radius) in enumerate((first, second)):
        turned = side * radius
        legs.append(StraightLeg(to=(at + before, y, 0)))
        mid = (at + before + radius * math.sin(math.pi / 4), y + turned * (1 - math.cos(math.pi / 4)), 0)
        legs.append(ArcLeg(via=mid, to=(at + before + radius, y + turned, 0)))
        top = y + turned + side * (6000 - before)
        legs.append(StraightLeg(to=(at + before + radius, top, 0)))
        # Back to travelling east, through a gate that takes the corner away.
        length = before + radius * math.pi / 2 + 6000 - before
        openings.append(length)
        at, y = at + before + radius + 1000, top
        legs.append(StraightLeg(to=(at, y, 0)))
        if number == 0:
            base = length + 1000
    gates = (Opening(id="O1", name="G", at=openings[0], width=1000), Opening(id="O2", name="H", at=base + openings[1], width=1000))
    path = bent_line((0, 0, 0), legs, openings=gates)
    assert all(len(tags) == 1 for tags in rows(path, "wedge"))


def test_a_tube_in_a_zigzag_and_a_board_round_a_u() -> None:
    tube = line([(0, 0), (1000, 0), (1800, 600), (2800, 600), (3600, 0), (4600, 0)])
    # Its two ends are alike, and so are its three pieces between corners, two of them mitred in a Z and one in a U.
    assert sorted(len(tags) for tags in rows(tube, "tube-round")) == [1, 2, 2]
    board = line([(0, 0), (0, 2000), (1500, 2000), (1500, 0)])
    assert rows(board, "board") == [("A1", "A3"), ("A2",)]
    assert [len(tags) for tags in rows(board, "wedge")] == [1, 1, 1]


@pytest.mark.parametrize(
    ("key", "turns", "reflections"),
    [("square", 4, 4), ("board", 2, 2), ("wedge", 1, 0), ("handrail-moulded", 1, 1), ("tube-square", 4, 4)],
)
def test_symmetries_of_sections(key: str, turns: int, reflections: int) -> None:
    found = symmetry_of(section(key))
    assert (len(found.turns), len(found.reflections), found.round) == (turns, reflections, False)
    assert symmetry_of(section("tube-round")).round


def test_two_hands_do_not_read_the_same_and_their_solids_are_mirror_images() -> None:
    """Chamfered skirting east facing left, and west facing right: the same lengths and cuts, the other edge to the left of travel."""
    job = Job(
        name="hands",
        lines=(line([(0, 0), (2000, 0)]), line([(2000, 500), (0, 500)]).model_copy(update={"id": "L2"})),
        sections=(section("skirting-chamfered"),),
        runs=tuple(
            Run(id=f"R{n}", name="r", tag=tag, line=f"L{n}", section="S1", placing=Placing(facing=FacingSide(kind=side)))
            for n, tag, side in ((1, "A", "left"), (2, "B", "right"))
        ),
        last_number=9,
    )
    one, other = cutting_list(solve(job))
    assert (one.long_point, one.begin, one.end) == (other.long_point, other.begin, other.end)
    assert (one.left, one.right) != (other.left, other.right)
    assert {one.left, one.right} == {"top", "bottom"}
    east, west = (solve(job).runs[id].solid().vertices for id in ("R1", "R2"))
    # West turned half round lies on the mirror image of east in the plane of its line, not on east.
    turned = west * (-1, -1, 1)
    for flip, same in ((np.array([1, -1, 1]), True), (np.array([1, 1, 1]), False)):
        image = east * flip
        image, back = image - image.min(axis=0), turned - turned.min(axis=0)
        assert (np.abs(np.array(sorted(image.round(6).tolist())) - np.array(sorted(back.round(6).tolist()))).max() < 1e-6) == same


def test_bends_are_reported_with_their_side_and_the_turn_of_their_plane() -> None:
    """A U, a Z and a tube bent out of its plane, as a bender needs them: 0, 180 and 90 degrees between the planes of two bends."""
    straight, arc = StraightLeg, ArcLeg
    s = 100 * math.sin(math.pi / 4)
    c = 100 - s
    first: list[AnyLeg] = [straight(to=(500, 0, 0)), arc(via=(500 + s, c, 0), to=(600, 100, 0)), straight(to=(600, 500, 0))]
    second: dict[str, list[AnyLeg]] = {
        "U": [arc(via=(600 - c, 500 + s, 0), to=(500, 600, 0)), straight(to=(0, 600, 0))],
        "Z": [arc(via=(600 + c, 500 + s, 0), to=(700, 600, 0)), straight(to=(1200, 600, 0))],
        "up": [arc(via=(600, 500 + s, c), to=(600, 600, 100)), straight(to=(600, 600, 600))],
    }
    answer = {}
    for name, legs in second.items():
        path = bent_line((0, 0, 0), [*first, *legs], frame="carried")
        job = Job(
            name="tube", lines=(path,), sections=(section("tube-round"),),
            runs=(ONE,), last_number=9,
        )  # fmt: skip
        (row,) = cutting_list(solve(job))
        bends = [bend for bend in row.bends if bend.kind == "arc"]
        assert [round(bend.turn, 6) for bend in bends] == [90, 90]
        assert [bend.radius for bend in bends] == pytest.approx([100, 100])
        assert bends[0].plane is None
        answer[name] = (bends[1].plane, row.side_view is not None)
    assert answer["U"][0] == pytest.approx(0, abs=1e-6)
    assert answer["Z"][0] == pytest.approx(180, abs=1e-6)
    assert abs(answer["up"][0] or 0) == pytest.approx(90, abs=1e-6)
    assert answer["up"][1]


def test_a_straight_piece_of_a_bent_line_is_not_reported_as_bent() -> None:
    legs: list[AnyLeg] = [StraightLeg(to=(3000, 0, 0)), *bend(3000, 1)]
    path = bent_line((0, 0, 0), legs, openings=(Opening(id="O1", name="D", at=1000, width=500),))
    job = Job(
        name="gate", lines=(path,), sections=(section("wedge"),), runs=(ONE,), last_number=9
    )  # fmt: skip
    listed = cutting_list(solve(job))
    assert [bool(row.bends) for row in listed] == [False, True]

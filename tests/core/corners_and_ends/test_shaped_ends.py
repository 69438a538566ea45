"""An end that is no plane goes through everything as planes do: lengths, volumes, solids, equal pieces. The one here is made up: a dish."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import pytest
import trimesh

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.model import Line, line_body, with_id
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, Planes
from slow_ribbon.core.runs.pieces.congruence import equal_pieces
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import Solid, Surface, piece_solid, run_solid, run_surface
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.placement.run import Run, run_course
from slow_ribbon.core.runs.treatments.corners import Ends, Meetings, Treatment
from slow_ribbon.core.sections.document.section import Section, section_shape
from slow_ribbon.core.sections.edges.base import Edge
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.sections.outline.edge_arrays import flattened
from slow_ribbon.core.sections.outline.triangulation import FlatShape
from slow_ribbon.demo.ferry_house import ferry_house

#: So deep is the dish, mm for each mm² from its middle.
HOLLOW = 0.004
BACK = 60.0


@dataclass(frozen=True)
class Dish(EndSurface):
    """A paraboloid about the line, ``back`` mm from the corner, hollowing the piece by ``hollow``·|p|²."""

    back: float
    hollow: float

    @property
    def words(self) -> str:
        return "dished"

    def reach(self, points: Array) -> Array:
        return np.asarray(self.back + self.hollow * (points**2).sum(axis=1))


class Dished(Treatment):
    """Both pieces stop short of the corner and end in dishes; that of the piece after is the deeper."""

    words = "dished"

    kind: Literal["dished"] = "dished"

    def ends(self, meetings: Meetings) -> Ends:
        count = len(meetings.turns)
        short = np.full(count, BACK)
        return Ends(
            before=Planes(normals=meetings.tangents_before, offsets=-short),
            after=Planes(normals=meetings.tangents_after, offsets=short),
            together=np.zeros(count, dtype=bool),
            shaped_before={i: Dish(-BACK, -HOLLOW) for i in range(count)},
            shaped_after={i: Dish(BACK, 2 * HOLLOW) for i in range(count)},
        )


BATTEN = Section(id="S1", name="Batten", outline=rectangle(40, 60), width=40, height=60)


def dished(points: Sequence[tuple[float, float, float]], closed: bool = False) -> Cuts:
    line: Line = with_id(line_body(points, closed, "Line"), "L1")
    run = Run(id="R1", name="Run", tag="R", line="L1", section="S1", placing=Placing())
    course = run_course(run, line)
    return cut(course, Placed(BATTEN, run.placing, course), Dished())


def mesh(solid: Solid | Surface) -> trimesh.Trimesh:
    return trimesh.Trimesh(solid.vertices, solid.faces, process=False)


def test_lengths_and_volumes_of_dished_ends_are_the_integrals_of_their_fibres() -> None:
    cuts = dished([(0, 0, 0), (1000, 0, 0), (1000, 1000, 0), (0, 1000, 0)])
    # Over a 40 × 60 section whose back foot is on the line: ∬(x² + y²) = 40³/3·60 + 60³/3·40.
    second = 40**3 / 3 * 60 + 60**3 / 3 * 40
    first, middle, last = cuts.volumes
    assert first == pytest.approx(2400 * (1000 - BACK) - HOLLOW * second, rel=1e-9)
    assert middle == pytest.approx(2400 * (1000 - 2 * BACK) - 3 * HOLLOW * second, rel=1e-9)
    assert last == pytest.approx(2400 * (1000 - BACK) - 2 * HOLLOW * second, rel=1e-9)
    # The fibre on the line is the longest, that at the far corner the shortest.
    assert cuts.long_points == pytest.approx([1000 - BACK, 1000 - 2 * BACK, 1000 - BACK])
    hollow = HOLLOW * (40**2 + 60**2)
    assert cuts.short_points == pytest.approx([1000 - BACK - hollow, 1000 - 2 * BACK - 3 * hollow, 1000 - BACK - 2 * hollow])


def test_solids_with_dished_ends_are_watertight_and_near_the_true_volume() -> None:
    cuts = dished([(0, 0, 0), (1000, 0, 0), (1000, 1000, 0), (0, 1000, 0)])
    for index in range(3):
        piece = mesh(piece_solid(cuts, index))
        assert piece.is_watertight
        assert piece.volume == pytest.approx(cuts.volumes[index], rel=2e-4)
    whole = mesh(run_solid(cuts))
    assert whole.is_watertight
    assert whole.volume == pytest.approx(cuts.volumes.sum(), rel=2e-4)
    skin = run_surface(cuts)
    assert mesh(skin).volume == pytest.approx(cuts.volumes.sum(), rel=2e-4)
    assert np.linalg.norm(skin.normals, axis=1) == pytest.approx(np.ones(len(skin.normals)))


def test_pieces_with_dished_ends_are_equal_only_as_they_lie() -> None:
    # Opposite sides of a rectangle; of a square all four.
    assert equal_pieces(dished([(0, 0, 0), (1000, 0, 0), (1000, 600, 0), (0, 600, 0)], closed=True)) == [[0, 2], [1, 3]]
    # The first and the last of an open line are dished at one end each, and not alike.
    assert equal_pieces(dished([(0, 0, 0), (1000, 0, 0), (1000, 1000, 0), (0, 1000, 0)])) == [[0], [1], [2]]


@pytest.mark.parametrize("id", ["S11", "S27"])
def test_a_section_made_finer_is_the_same_section(id: str) -> None:
    # A moulding, and a tube with its hole.
    flat = section_shape(ferry_house().section(id)).flat(1.0)
    finer = flat.finer().finer()
    assert len(finer.triangles) == 16 * len(flat.triangles)
    assert finer.loop_sizes == tuple(4 * size for size in flat.loop_sizes)

    def area(one: FlatShape) -> float:
        a, b, c = (one.points[one.triangles[:, i]] for i in range(3))
        return float(((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]).sum() / 2)

    assert area(finer) == pytest.approx(area(flat))
    # The points of each loop go round it still, and the skin goes along it, in steps of a quarter.
    low = begin = 0
    for size, before in zip(finer.loop_sizes, flat.loop_sizes, strict=True):
        ring, old = finer.points[low : low + size], flat.points[begin : begin + before]
        assert ring[::4] == pytest.approx(old)
        sides = np.linalg.norm(np.roll(old, -1, axis=0) - old, axis=1)
        assert np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1) == pytest.approx(np.repeat(sides / 4, 4))
        low, begin = low + size, begin + before
    assert set(finer.skin_points.tolist()) == set(range(finer.rim))
    steps = finer.points[finer.skin_points[finer.segments[:, 1]]] - finer.points[finer.skin_points[finer.segments[:, 0]]]
    longest = max(float(np.linalg.norm(np.diff(flattened(edge, 1.0)[0], axis=0), axis=1).max()) for edge in _edges(id))
    assert np.linalg.norm(steps, axis=1).max() == pytest.approx(longest / 4)


def _edges(id: str) -> list[Edge]:
    return [edge for loop in section_shape(ferry_house().section(id)).loops for edge in loop]

"""The second section that members with a level one on the rise, against the joiner's construction and against fibres traced by themselves.

Source of the construction: G. Ellis, *Modern Practical Joinery* (1902), raking mouldings, as in any handbook of joinery (memory): the
level moulding's profile is drawn with its back upright; through points of it go lines parallel to the rake; their distances out
from the back are set off square to the rake where it is drawn, each on its line; what joins them is the raked moulding's profile.
"""

from __future__ import annotations

import math

import manifold3d
import numpy as np
import pytest
import shapely
from making import line

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.trim_pieces import cut
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.placing import Placing
from slow_ribbon.core.runs.treatments.corners import Mitre
from slow_ribbon.core.sections.document.section import Section, section_shape
from slow_ribbon.core.sections.library import from_library

KEYS = ["cornice-classical", "dado-rail", "picture-rail"]


def known(key: str) -> Section:
    body = from_library(key)
    return Section(id="S1", **{name: getattr(body, name) for name in type(body).model_fields})


def rake(pitch: float, turn: float, section: Section, side: str) -> Cuts:
    """Return a moulding along a level wall that turns on plan, right with a plus, into one where it rises."""
    heading = -math.radians(turn)
    up = 2500 * math.tan(math.radians(pitch))
    path = line([(0, 0, 0), (2500, 0, 0), (2500 + 2500 * math.cos(heading), 2500 * math.sin(heading), up)])
    course = course_of(path)
    return cut(course, Placed(section, Placing.model_validate({"facing": {"kind": side}}), course), Mitre(raked="members"))


def drawn(points: Array, pitch: float) -> Array:
    """Return a profile (k, 2), out from the wall and up, on the rise beyond a right-angled corner that the moulding goes round outside.

    On the drawing board: the back of the level profile is an upright line at zero, its points project beyond the corner, and the rake
    is seen from its front. A parallel to the rake through a point meets the square to the rake through the foot at a distance along it
    that is its height there; the distance out is set off from it.
    """
    along = np.array([math.cos(math.radians(pitch)), math.sin(math.radians(pitch))])
    square = np.array([-along[1], along[0]])
    found = []
    for out, height in points:
        # The point as the front view of the rake shows it: the level moulding's end projects beyond the corner by as much as it is deep.
        seen = np.array([-out, height])
        # Where the parallel through it, seen + s·along, meets the line t·square: two equations, solved.
        _, t = np.linalg.solve(np.column_stack([-along, square]), seen)
        found.append((out, t))
    return np.array(found)


@pytest.mark.parametrize("key", KEYS)
@pytest.mark.parametrize("pitch", [20.0, 35.0, 42.0])
def test_the_second_section_is_the_one_of_the_joiners_construction(key: str, pitch: float) -> None:
    section = known(key)
    # Left of travel, and turning right: round the outside of a right angle. Its back lies on the wall, out is to the left.
    cuts = rake(pitch, 90, section, "left")
    profile = section_shape(section).outer_ring(0.01)
    assert cuts.sorts.tolist() == [0, 1]
    lying = cuts.lying(1)
    level, raked = cuts.placed.points(profile), lying.points(profile)
    expected = drawn(level * (-1, 1), pitch)
    assert raked * (-1, 1) == pytest.approx(expected, abs=1e-9)
    # And the section that is put into the job is drawn so, arcs of ellipses and all.
    job = section_shape(lying.section).polygon(0.001)
    shape = shapely.Polygon(expected - expected.min(axis=0))
    assert shapely.hausdorff_distance(job.exterior.segmentize(0.5), shape.exterior.segmentize(0.5)) < 0.02
    assert job.area == pytest.approx(shape.area, rel=1e-3)


@pytest.mark.parametrize("side", ["left", "right"])
@pytest.mark.parametrize(("pitch", "turn"), [(35.0, 90.0), (35.0, -90.0), (18.0, 45.0), (-28.0, 120.0)])
def test_fibres_traced_through_the_mitre_come_to_the_second_section(side: str, pitch: float, turn: float) -> None:
    """Straights through points of the level end are cut by the upright plane that halves the corner on plan, and go on up the rake."""
    section = known("cornice-classical")
    cuts = rake(pitch, turn, section, side)
    profile = section_shape(section).outer_ring(0.5)
    heading = -math.radians(turn)
    level, rising = np.array([1.0, 0, 0]), np.array([math.cos(heading), math.sin(heading), math.tan(math.radians(pitch))])
    rising /= np.linalg.norm(rising)
    corner = np.array([2500.0, 0, 0])
    halving = np.array([1 + math.cos(heading), math.sin(heading), 0])
    for point, (x, y) in zip(cuts.lying(1).points(profile), cuts.placed.points(profile), strict=True):
        # Looking along x, right is −y and up is z.
        begin = np.array([0.0, -x, y])
        through = begin + level * ((corner - begin) @ halving / (level @ halving))
        far = corner + rising * 1000
        end = through + rising * ((far - through) @ rising)
        right = np.array([math.sin(heading), -math.cos(heading), 0])
        assert point == pytest.approx([(end - far) @ right, (end - far) @ np.cross(right, rising)], abs=1e-9)


def test_both_pieces_stand_in_one_face_without_gap_or_overlap() -> None:
    """Prisms of the two sections, cut by manifold3d at the upright plane, have the same end, and nothing in common."""
    section = known("dado-rail")
    cuts = rake(35, 90, section, "left")
    ends = []
    solids = []
    for index, end in ((0, True), (1, False)):
        lying = cuts.lying(index)
        ring = lying.laid @ section_shape(lying.section).outer_ring(0.002).T
        ring = ring.T
        # As the section of the job is drawn, brought to where the run has it.
        ring += lying.points(section_shape(section).outer_ring(0.002)).min(axis=0) - ring.min(axis=0)
        plain = cuts.plain
        # A mirrored section runs the other way round.
        area = manifold3d.CrossSection([ring if shapely.LinearRing(ring).is_ccw else ring[::-1]])
        prism = manifold3d.Manifold.extrude(area, 3000).translate((0, 0, -3000.0 if end else 0.0))
        # Columns: x, y and z of the prism. It is carried far enough beyond the corner to be cut by the plane.
        frame = np.column_stack([plain.rights[index], plain.ups[index], plain.tangents[index], np.array([2500.0, 0, 0])])
        beyond = plain.tangents[index] * (500 if end else -500)
        frame[:, 3] += beyond
        # Right, up and travel are left-handed together.
        prism = prism.transform(frame)
        halving = np.array([1.0, -1.0, 0]) / math.sqrt(2) * (-1 if end else 1)
        prism = prism.trim_by_plane(halving.tolist(), float(halving @ [2500, 0, 0]))
        solids.append(prism)
        mesh = prism.to_mesh()
        corners = np.asarray(mesh.vert_properties)[:, :3][np.asarray(mesh.tri_verts)]
        flat = corners[(np.abs((corners - [2500, 0, 0]) @ halving) < 1e-3).all(axis=1)]
        across = np.array([1.0, 1.0, 0]) / math.sqrt(2)
        ends.append(
            shapely.union_all(
                [shapely.Polygon(np.column_stack([(one - [2500, 0, 0]) @ across, one[:, 2]])) for one in flat], grid_size=1e-4
            )
        )
    assert ends[0].area > 100
    assert ends[0].symmetric_difference(ends[1]).area < 1e-3 * ends[0].area
    assert (solids[0] ^ solids[1]).volume() < 1e-4 * solids[0].volume()

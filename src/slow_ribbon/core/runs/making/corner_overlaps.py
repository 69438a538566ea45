"""Corners at which two pieces of a run overlap, because the block or piece between them is smaller than their section needs.

Where both ends keep to their own side of the plane that halves a corner, the pieces have nothing in common. Of level pieces of one
section, cut square, either both keep to it or neither does: the fibre at p meets that plane slope·p from the corner (docs/geometry.md,
section 4). Pieces that rise or bend are cut with one another as they are drawn.
"""

from __future__ import annotations

from collections.abc import Mapping

import manifold3d

from slow_ribbon.core.geometry.bodies import body_of
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import CONTACT, NO_LEAN
from slow_ribbon.core.runs.end_surfaces.planes import slopes_of
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.runs.pieces.solids import piece_solid
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.treatments.corners import Block, Transition, Treatment
from slow_ribbon.core.runs.treatments.ends import Finish


def overlap_checks(run: Run, cuts: Cuts, ways: Mapping[int, Treatment | Finish]) -> list[Check]:
    """Return a check for every corner at which two pieces share room; ``ways`` say how corners are made, by the piece that begins there."""
    found = []
    for index, way in ways.items():
        if not isinstance(way, Block | Transition) or not cuts.butted_begin[index]:
            continue
        level = _level(cuts, index)
        least = needed_size(cuts, index) if level else 0.0
        if least <= way.size + CONTACT if level else not _common(cuts, (index - 1) % cuts.course.count, index):
            continue
        larger = f"Make it at least {figure(least)}" if level else "Make it larger"
        x, y, z = cuts.course.starts[index].tolist()
        found.append(
            Check(
                kind="small-block", severity="fault",
                what=f"The two pieces overlap here: their section reaches past {way.fitting}, {figure(way.size)}.",
                remedy=f"{larger}, make the run face the other way, or make the corner another way (run card, corners).",
                thing=run.id, piece=index, chainage=float(cuts.course.begins[index]), point=(x, y, z),
            )
        )  # fmt: skip
    return found


def _level(cuts: Cuts, index: int) -> bool:
    """Return whether both pieces at the corner where a piece begins are level, straight and upright."""
    course, both = cuts.course, ((index - 1) % cuts.course.count, index)
    level = all(abs(float(course.tangents[piece, 2])) < NO_LEAN and piece not in course.paths for piece in both)
    return level and course.rule == "upright" and cuts.leans is None


def needed_size(cuts: Cuts, index: int) -> float:
    """Return the width that a block in the corner where a level piece begins must have for both pieces to keep apart, mm along the line."""
    course, before = cuts.course, (index - 1) % cuts.course.count
    normal = (course.tangents_end[before] + course.tangents[index])[None]
    slope = slopes_of(course.rights[index : index + 1], course.ups[index : index + 1], course.tangents[index : index + 1], normal)
    # How far beyond the corner the fibre that meets the halving plane last does so; the piece before is its mirror image.
    return 2 * float(cuts.on(index).furthest(slope)[0])


def _common(cuts: Cuts, first: int, second: int) -> bool:
    """Return whether two pieces as they are drawn have more in common than where they touch."""
    origin = cuts.course.starts[second]
    bodies = []
    for piece in (first, second):
        solid = piece_solid(cuts, piece, origin)
        bodies.append(body_of(solid.vertices, solid.faces))
    if any(body.status() != manifold3d.Error.NoError or body.volume() <= 0 for body in bodies):
        # What is swallowed or pinched is a fault of its own.
        return False
    common = bodies[0] ^ bodies[1]
    return bool(common.volume() > 0 and 2 * common.volume() / common.surface_area() >= CONTACT)

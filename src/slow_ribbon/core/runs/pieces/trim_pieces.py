"""How a run is cut into pieces: cutting planes, fibres, long and short points, saw settings.

Terms
-----
cut
    the plane that ends a piece: the mitre plane of a corner, or square to the piece.
fibre
    a straight through the piece along travel, at one point of its section.
slope
    how a cut leans: the fibre at section point p begins (or ends) slope·p further along
    than the fibre on the line. Sections and slopes are in the line's (right, up) frame.
mismatch
    the greatest distance by which the sections of two pieces miss each other on their mitre.

Formulas are those of sections 4 and 5 of docs/geometry.md.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import partial
from typing import Final, Literal

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices
from slow_ribbon.core.kernel.tolerances import NO_LEAN
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import FOLD
from slow_ribbon.core.lines.course import Course
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface, slopes_of
from slow_ribbon.core.runs.pieces.apply_end_treatments import Finishing, end_surfaces
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts, section_on
from slow_ribbon.core.runs.pieces.fibre_extents import measured, mismatches
from slow_ribbon.core.runs.placement.placed_section import Placed
from slow_ribbon.core.runs.placement.raked_sections import leaning, leans_along
from slow_ribbon.core.runs.treatments.corners import Carry, Meetings, Mitre, Treatment
from slow_ribbon.core.runs.treatments.joints import Joints
from slow_ribbon.core.sections.outline.profile import Shape

#: A corner that turns more than this, in radians, makes a needle mitre.
NEEDLE: Final = math.radians(150)

CornerKind = Literal["internal", "external", "rising", "falling", "end"]


def cut(
    course: Course,
    placed: Placed,
    corners: Treatment | None = None,
    external: Treatment | None = None,
    joints: Joints | None = None,
    finishing: Finishing | None = None,
    own: Mapping[int, Treatment] | None = None,
) -> Cuts:
    """Return a run's pieces: corners made as a treatment says, mitred where none is given; free ends cut square.

    ``external`` is how those that turn away from the face on plan are made, where otherwise; ``joints`` what the pieces have where they
    meet along a leg; ``finishing``, of the same course, how free ends are made; ``own`` how single corners are, by the piece that
    begins there.
    """
    corners = corners or Mitre()
    ways = corners, external or corners
    made = partial(_cut, course, placed, ways, joints, finishing, own or {})
    folded = course.turns > FOLD
    cuts = made(folded)
    unreached = _unreached(cuts) if course.paths else folded
    return made(folded | unreached) if (unreached & ~folded).any() else cuts


def _cut(
    course: Course,
    placed: Placed,
    ways: tuple[Treatment, Treatment],
    joints: Joints | None,
    finishing: Finishing | None,
    own: Mapping[int, Treatment],
    folded: Flags,
) -> Cuts:
    """Return a run's pieces as ``cut`` does, square where the line is ``folded``, (m,)."""
    tangents, count = course.tangents, course.count
    every = np.arange(count)
    square = folded | course.free
    # Where pieces meet along a leg there is nothing to turn: both end square, or to one slope.
    meet = np.flatnonzero(~square & (course.turns > 0))
    groups, internal = _groups(course, placed, ways, finishing, own, meet)
    plain, leans = course, leans_along(course, groups)
    if leans is not None:
        course = leaning(course, leans)
    planes_begin, planes_end = tangents.copy(), course.tangents_end.copy()
    offsets_begin, offsets_end = np.zeros(count), np.zeros(count)
    apart = square.copy()
    shaped: dict[tuple[int, bool], EndSurface] = {}
    refused: dict[int, str] = {}
    if len(meet):
        begins_straight, ends_straight = np.ones(count, dtype=bool), np.ones(count, dtype=bool)
        for i, path in course.paths.items():
            begins_straight[i], ends_straight[i] = (length > 0 for length in path.straights)
        for way, some in groups:
            before = (some - 1) % count
            ends = way.ends(
                Meetings(
                    rights_before=course.rights_end[before],
                    ups_before=course.ups_end[before],
                    tangents_before=course.tangents_end[before],
                    rights_after=course.rights[some],
                    ups_after=course.ups[some],
                    tangents_after=tangents[some],
                    turns=course.turns[some],
                    straight=begins_straight[some] & ends_straight[before],
                    internal=internal[some],
                    furthest_before=partial(_furthest, course, placed, before),
                    furthest_after=partial(_furthest, course, placed, some),
                    shape_before=partial(_framed, course, placed, before),
                    shape_after=partial(_framed, course, placed, some),
                    bends=np.isin(some, list(course.paths)) | np.isin(before, list(course.paths)),
                    carry_before=partial(_carry, course, before, True),
                    carry_after=partial(_carry, course, some, False),
                    right=placed.right,
                    upright=course.rule == "upright",
                    drawn=np.ones(len(some), dtype=bool) if leans is None else (leans[[some, before]] == np.eye(2)).all(axis=(0, 2, 3)),
                )
            )
            planes_begin[some], offsets_begin[some] = ends.after.normals, ends.after.offsets
            planes_end[before], offsets_end[before] = ends.before.normals, ends.before.offsets
            apart[some] = ~ends.together
            shaped |= {(int(before[corner]), True): surface for corner, surface in ends.shaped_before.items()}
            shaped |= {(int(some[corner]), False): surface for corner, surface in ends.shaped_after.items()}
            refused |= {int(some[corner]): why for corner, why in ends.refused.items()}
    if joints is not None and joints.leans:
        seams = np.flatnonzero(~square & (course.turns == 0))
        for lying, some in _lying(placed, leans, seams):
            normals, offsets = _seams(plain, lying, joints, some)
            planes_begin[some] = planes_end[(some - 1) % count] = normals
            offsets_begin[some] = offsets_end[(some - 1) % count] = offsets
    if finishing is not None:
        for (piece, end), normal in finishing.normals.items():
            planes, offsets = (planes_end, offsets_end) if end else (planes_begin, offsets_begin)
            planes[piece], offsets[piece] = normal, finishing.offsets[piece, end]
        finishing, surfaces = end_surfaces(finishing, course, partial(_lies, course, placed, leans), placed.right)
        for (piece, end), surface in surfaces.items():
            # Sawn square first, as far out as any of it is.
            least, most = _reached(surface, _framed(course, placed, every, piece))
            if end:
                offsets_end[piece] = most
            else:
                offsets_begin[piece] = least
        shaped |= surfaces
    slopes_begin = slopes_of(course.rights, course.ups, tangents, planes_begin)
    slopes_end = slopes_of(course.rights_end, course.ups_end, course.tangents_end, planes_end)
    slopes = slopes_end - slopes_begin
    lengths = course.lengths + offsets_end - offsets_begin
    cuts = Cuts(
        course=course,
        placed=placed,
        planes_begin=planes_begin,
        planes_end=planes_end,
        offsets_begin=offsets_begin,
        offsets_end=offsets_end,
        slopes_begin=slopes_begin,
        slopes_end=slopes_end,
        long_points=lengths + _furthest(course, placed, every, slopes),
        short_points=lengths - _furthest(course, placed, every, -slopes),
        mismatches=mismatches(course, placed, planes_begin, apart),
        square_begin=folded,
        butted_begin=apart & ~square,
        shaped=shaped,
        refused=refused,
        joints=joints,
        finishing=finishing,
        plain=plain,
        leans=leans,
    )
    return measured(cuts, apart)


def _unreached(cuts: Cuts) -> Flags:
    """Return for each piece, (m,), whether the fibres of a bend beside it do not reach the cut at its beginning.

    A piece is sawn longer than its line as the bend goes on: at a sharp corner its point may
    come round, or meet the cut from the far side, and what is between is no piece.
    """
    found = np.zeros(cuts.course.count, dtype=bool)
    for i in np.flatnonzero(~(cuts.square_begin | cuts.course.free)).tolist():
        for piece, end in ((i, False), ((i - 1) % cuts.course.count, True)):
            if piece in cuts.course.paths:
                found[i] |= not cuts.ends_straight(piece, end) and not _reaches(cuts, piece, end)
    return found


def _reaches(cuts: Cuts, index: int, end: bool) -> bool:
    """Return whether all fibres of a piece that bends meet its cut, at the beginning or the end, from its own side."""
    course, path, on = cuts.course, cuts.course.paths[index], cuts.on(index)
    points = on.points(on.shape.flat().points)
    at = cuts.path_end(index, points, end)
    place, plane, offset = (
        (course.ends[index] + course.tangents_end[index] * cuts.offsets_end[index], cuts.planes_end[index], path.length)
        if end
        else (course.starts[index] + course.tangents[index] * cuts.offsets_begin[index], cuts.planes_begin[index], 0.0)
    )
    here = path.at(at)
    off = (here.points + here.rights * points[:, :1] + here.ups * points[:, 1:] - place) @ plane
    beyond = float((at - offset).max(initial=0.0) if end else (offset - at).max(initial=0.0))
    bend = float(np.linalg.norm(path.at(np.array([offset])).bends[0]))
    comes = np.abs(off).max(initial=0.0) < WELD and (here.tangents @ plane).min(initial=1.0) > math.cos(FOLD / 2)
    return bool(comes and beyond * bend < math.pi / 2)


def _framed(course: Course, placed: Placed, pieces: Indices, index: int) -> Shape:
    """Return the section of one of some pieces in its (right, up) frame."""
    return section_on(course, placed, int(pieces[index])).framed


def _reached(surface: EndSurface, shape: Shape) -> tuple[float, float]:
    """Return the least and the greatest reach of an end over a section."""
    least, most = shape.extremes(surface.reach)
    there = surface.reach(shape.spread if surface.curved else shape.flat().points)
    return min(least, float(there.min())), max(most, float(there.max()))


def _carry(course: Course, pieces: Indices, end: bool, index: int) -> Carry:
    """Return the coefficients by which section points of some pieces become distances from the end, or from the beginning, of a piece."""
    piece = int(pieces[index])
    path = course.paths.get(piece)
    place, tangent = (course.ends[piece], course.tangents_end[piece]) if end else (course.starts[piece], course.tangents[piece])
    frame = np.stack([course.rights_end[piece], course.ups_end[piece]] if end else [course.rights[piece], course.ups[piece]])
    if path is None:
        return partial(_carry_straight, place, frame, tangent)
    return partial(_carry_along, path, path.length if end else 0.0)


def _carry_straight(place: Array, frame: Array, tangent: Array, points: Array, along: Array) -> tuple[Array, Array]:
    return place + points @ frame + np.outer(along, tangent), np.broadcast_to(tangent, (len(points), 3))


def _carry_along(path: Path, begin: float, points: Array, along: Array) -> tuple[Array, Array]:
    here = path.at(begin + along)
    pace = 1 - np.einsum("ij,ij->i", here.bends, points)
    # A fibre at p runs (1 − bend·p) along and |p|·twist across for each mm of the line.
    rates = here.tangents * pace[:, None] + here.twists[:, None] * (here.ups * points[:, :1] - here.rights * points[:, 1:])
    return here.points + here.rights * points[:, :1] + here.ups * points[:, 1:], rates


def _lies(course: Course, placed: Placed, leans: Array | None, piece: int) -> tuple[Shape, bool]:
    """Return the section of a piece in its (right, up) frame, and whether it is as it is drawn."""
    return section_on(course, placed, piece).framed, leans is None or bool((leans[piece] == np.eye(2)).all())


def _furthest(course: Course, placed: Placed, pieces: Indices, slopes: Array) -> Array:
    """Return max slope·p over the section on each of k pieces, for a slope of each, (k, 2); shape (k,)."""
    if placed.constant:
        return placed.furthest(slopes)
    return np.array([section_on(course, placed, i).furthest(slope[None])[0] for i, slope in zip(pieces.tolist(), slopes, strict=True)])


def _groups(
    course: Course,
    placed: Placed,
    ways: tuple[Treatment, Treatment],
    finishing: Finishing | None,
    own: Mapping[int, Treatment],
    meet: Indices,
) -> tuple[list[tuple[Treatment, Indices]], Flags]:
    """Return how corners are made, with the pieces that begin at those made so, and which are internal, (m,), where a way asks for that."""
    groups, internal = [(ways[0], meet)], np.zeros(course.count, dtype=bool)
    if not len(meet):
        return groups, internal
    if ways[0] != ways[1] or ways[0].by_side or any(way.by_side for way in own.values()):
        across, upward = _turned(course)
        level = (np.abs(across) >= NO_LEAN) | (np.abs(upward) < NO_LEAN)
        internal = level & (across * (1 if placed.right else -1) > 0)
        external = level & ~internal
        if ways[0] != ways[1]:
            groups = [(ways[0], meet[~external[meet]]), (ways[1], meet[external[meet]])]
    if own:
        by_itself = np.isin(np.arange(course.count), list(own))
        groups = [(way, some[~by_itself[some]]) for way, some in groups]
        groups += [(way, np.array([i])) for i, way in own.items() if i in meet]
    if finishing is not None and finishing.mitred.any():
        # What a run is returned by is mitred, however its corners are made.
        at_return = finishing.mitred
        groups = [(way, some[~at_return[some]]) for way, some in groups] + [(Mitre(), meet[at_return[meet]])]
    return groups, internal


def _lying(placed: Placed, leans: Array | None, pieces: Indices) -> list[tuple[Placed, Indices]]:
    """Return the section as it lies on some pieces, each with those on which it lies so."""
    if leans is None:
        return [(placed, pieces)]
    found: dict[bytes, tuple[Placed, list[int]]] = {}
    for i in pieces.tolist():
        found.setdefault(leans[i].tobytes(), (placed.leaned(leans[i]), []))[1].append(i)
    return [(lying, np.array(some)) for lying, some in found.values()]


def _seams(plain: Course, lying: Placed, joints: Joints, some: Indices) -> tuple[Array, Array]:
    """Return the planes in which pieces meet along a leg: normals (k, 3) and how far from the joint on the line, (k,) mm.

    The middle of the section meets at the joint itself.
    """
    tangents = plain.tangents[some]
    if joints.made == "scarf":
        # It leans out of the saw's bed, across the thickness of the board; the same way whichever way the line runs.
        slope = -joints.slope if joints.from_end else joints.slope
        out = plain.rights[some] * lying.bed_up[0] + plain.ups[some] * lying.bed_up[1]
        return (tangents - slope * out) / math.hypot(1, slope), np.full(len(some), -slope * sum(lying.thickness) / 2)
    plan = tangents * (1.0, 1.0, 0.0)
    sizes = np.linalg.norm(plan, axis=1)
    normals = np.where((sizes > NO_LEAN)[:, None], plan / np.maximum(sizes, NO_LEAN)[:, None], tangents)
    slopes = slopes_of(plain.rights[some], plain.ups[some], tangents, normals)
    low, high = lying.furthest(-slopes) * -1, lying.furthest(slopes)
    return normals, -(low + high) / 2


def _turned(course: Course) -> tuple[Array, Array]:
    """Return how far the line turns to the right and how far up where each piece begins, (m,) each."""
    change = course.tangents - np.roll(course.tangents_end, 1, axis=0)
    rights = course.rights + np.roll(course.rights_end, 1, axis=0)
    ups = course.ups + np.roll(course.ups_end, 1, axis=0)
    return np.einsum("ij,ij->i", change, rights), np.einsum("ij,ij->i", change, ups)


def corner_kinds(course: Course, right: bool) -> list[CornerKind]:
    """Return for each leg the kind of corner it begins with, as seen from the side faced.

    A corner that turns toward the face is internal. One that turns only up or down is rising
    or falling.
    """
    across, upward = _turned(course)
    across *= 1 if right else -1
    kinds: list[CornerKind] = []
    for index in range(course.count):
        if course.free[index]:
            kinds.append("end")
        elif abs(across[index]) < NO_LEAN and abs(upward[index]) >= NO_LEAN:
            kinds.append("rising" if upward[index] > 0 else "falling")
        else:
            kinds.append("internal" if across[index] > 0 else "external")
    return kinds

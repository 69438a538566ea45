"""Which pieces of a run are equal: one can be laid on the other, turned about itself or end for end.

What a piece is, is given by its fibre at the section's centroid: how long it is, how both cuts
lean there, and, where it bends, its parts in order, each with its length, the way it bends and
how it twists. Directions are in the section's own axes as drawn; a piece of the mirrored section
is the drawn section looked at from its other end. Two pieces are equal where a turn of the
section onto itself takes the figures of one to those of the other; or a reflection of it, the
piece taken end for end. Mirror images are not equal.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path
from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import IMMEASURABLE, ROUNDING
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.runs.end_surfaces.fibres import fibre_lengths
from slow_ribbon.core.runs.end_surfaces.planes import EndSurface
from slow_ribbon.core.runs.pieces.cut_pieces import Cuts
from slow_ribbon.core.sections.sketch.symmetry import Symmetry, symmetry_of

SAME_SLOPE: Final = 1e-5
#: Places on each part of a bent piece where its bending is compared.
_PLACES: Final = 9
#: The one part of a straight piece.
_STILL: Final = np.zeros((1, _PLACES, 2))
_NO_TWIST: Final = np.zeros((1, _PLACES))


@dataclass(frozen=True)
class Form:
    """What a piece is made of.

    ``begin`` and ``end`` (2,): slopes of its cuts at the centroid. ``lengths`` (k,) of its parts;
    ``bends`` (k, 9, 2): curvature in 1/mm at places spread evenly over each; ``twists`` (k, 9).
    A straight piece is one part that does not bend.
    """

    begin: Array
    end: Array
    lengths: Array
    bends: Array
    twists: Array

    def turned(self, matrix: Array) -> Form:
        """Return the form after a turn of the section."""
        return replace(self, begin=matrix @ self.begin, end=matrix @ self.end, bends=self.bends @ matrix.T)

    def mirrored(self) -> Form:
        """Return the form of the piece's mirror image: its section mirrored is the drawn one looked at from its other end."""
        return Form(-self.end, -self.begin, self.lengths[::-1], self.bends[::-1, ::-1], -self.twists[::-1, ::-1])

    def end_for_end(self, mirror: Array) -> Form:
        """Return the form of the piece taken end for end, which shows its section mirrored."""
        return Form(
            mirror @ -self.end, mirror @ -self.begin, self.lengths[::-1], self.bends[::-1, ::-1] @ mirror.T, self.twists[::-1, ::-1]
        )

    def numbers(self) -> Array:
        """Return the form as numbers that are compared by ``SAME_SLOPE``: slopes, then each part's bending and twist over its length."""
        sizes = self.lengths[:, None]
        return np.concatenate(
            [self.begin, self.end, (self.bends * sizes[:, :, None]).ravel(), (self.twists * sizes).ravel()]
        )  # fmt: skip


def equal_pieces(cuts: Cuts) -> list[list[int]]:
    """Return the indices of equal pieces of a run together, in order of their first."""
    symmetry = symmetry_of(cuts.placed.section)
    groups: list[list[int]] = []
    # The ways of the first piece of a group, once another comes near it in length.
    ways: dict[int, tuple[Array, Array]] = {}
    buckets: dict[tuple[int, int], list[int]] = {}
    all_forms = forms(cuts)
    for index, form in enumerate(all_forms):
        look_up()
        place = round(float(form.lengths.sum()) / (10 * IMMEASURABLE))
        parts = len(form.lengths)
        near = [group for at in (place - 1, place, place + 1) for group in buckets.get((parts, at), ())]
        for group in near:
            if group not in ways:
                first = all_forms[groups[group][0]]
                # A piece with a shaped end fits in one way only, as it lies; and so does one of a section that is symmetrical no more.
                laid = [first] if any(_shapes(cuts, groups[group][0])) else _all_ways(first, symmetry, cuts)
                ways[group] = np.array([one.lengths for one in laid]), np.array([one.numbers() for one in laid])
            first_piece = groups[group][0]
            if _shapes(cuts, index) == _shapes(cuts, first_piece) and _is_one_of(form, ways[group], symmetry):
                groups[group].append(index)
                break
        else:
            buckets.setdefault((parts, place), []).append(len(groups))
            groups.append([index])
    return groups


def equal_mirrored(cuts: Cuts, groups: list[list[int]]) -> list[int | None]:
    """Return, for each group of equal pieces of a run, which group its mirror image belongs to; None where to none of them.

    Pieces with shaped ends fit on one hand only.
    """
    symmetry = symmetry_of(cuts.placed.section)
    all_forms = forms(cuts)
    plain = [number for number, group in enumerate(groups) if not any(_shapes(cuts, group[0]))]
    ways = {}
    for number in plain:
        look_up()
        laid = _all_ways(all_forms[groups[number][0]], symmetry, cuts)
        ways[number] = np.array([one.lengths for one in laid]), np.array([one.numbers() for one in laid])
    found: list[int | None] = [None] * len(groups)
    for number in plain:
        look_up()
        image = all_forms[groups[number][0]].mirrored()
        size, parts = float(image.lengths.sum()), len(image.lengths)
        for other in plain:
            lengths = ways[other][0]
            alike = lengths.shape[1] == parts and abs(float(lengths[0].sum()) - size) < parts * IMMEASURABLE
            if alike and _is_one_of(image, ways[other], symmetry):
                found[number] = other
                break
    return found


def _shapes(cuts: Cuts, index: int) -> tuple[EndSurface | None, EndSurface | None, float, float, int]:
    """Return the ends of a piece besides planes: what they are shaped to, how much longer they are sawn for a joint; and its sort."""
    begin, end = cuts.added[index].tolist()
    return cuts.shaped.get((index, False)), cuts.shaped.get((index, True)), begin, end, int(cuts.sorts[index])


def _is_one_of(form: Form, ways: tuple[Array, Array], symmetry: Symmetry) -> bool:
    numbers = (_straightened(form) if symmetry.round else form).numbers()
    limit = SAME_SLOPE * max(1.0, float(np.abs(numbers).max(initial=0.0)))
    lengths, others = ways
    same = (np.abs(lengths - form.lengths) < IMMEASURABLE).all(axis=1) & (np.abs(others - numbers) < limit).all(axis=1)
    return bool(same.any())


def _all_ways(form: Form, symmetry: Symmetry, cuts: Cuts) -> list[Form]:
    """Return a form as it looks in every way in which the piece can be laid."""
    if symmetry.round:
        return [_straightened(form), _straightened(form.end_for_end(np.diag([1.0, -1.0])))]
    if form.twists.any() and np.abs(cuts.placed.centroid).max() > WELD:
        # A twisting section beside its line winds round it, and no turn about its own centroid lays it on itself.
        return [form]
    return [*(form.turned(turn) for turn in symmetry.turns), *(form.end_for_end(mirror) for mirror in symmetry.reflections)]


def _straightened(form: Form) -> Form:
    """Return the form of a round piece turned so that the first direction in it points to the right."""
    directions = np.concatenate([form.begin[None], form.end[None], (form.bends * form.lengths[:, None, None]).reshape(-1, 2)])
    strong = np.flatnonzero(np.hypot(directions[:, 0], directions[:, 1]) > 10 * SAME_SLOPE)
    if not len(strong):
        return form
    x, y = directions[strong[0]] / math.hypot(*directions[strong[0]])
    return form.turned(np.array([[x, y], [-y, x]]))


def forms(cuts: Cuts) -> list[Form]:
    """Return the geometry of each piece of a run, to be compared."""
    course, placed = cuts.course, cuts.placed
    centroid, matrix = placed.centroid, placed.matrix
    begins, ends = cuts.slopes_begin, cuts.slopes_end
    lengths = course.lengths + cuts.offsets_end - cuts.offsets_begin + (ends - begins) @ centroid
    # In the section's own axes, as drawn.
    begins, ends = begins @ matrix, ends @ matrix
    if placed.mirrored:
        begins, ends = -ends, -begins
    found = [Form(begin, end, length, _STILL, _NO_TWIST) for begin, end, length in zip(begins, ends, lengths[:, None], strict=True)]
    for i, path in course.paths.items():
        form = _bent_form(cuts, i, path)
        form = replace(form, begin=form.begin @ matrix, end=form.end @ matrix, bends=form.bends @ matrix)
        if placed.mirrored:
            form = Form(-form.end, -form.begin, form.lengths[::-1], form.bends[::-1, ::-1], form.twists[::-1, ::-1])
        found[i] = form
    return found


def _bent_form(cuts: Cuts, index: int, path: Path) -> Form:
    centroid = cuts.placed.centroid
    begin, end = (float(value[0]) for value in cuts.path_fibres(index, centroid[None]))
    bounds = path.bounds()
    inside = bounds[(bounds > begin + WELD) & (bounds < end - WELD)]
    places = np.concatenate([[begin], inside, [end]])
    sizes = np.diff(places)
    # Not on the bounds themselves, where the curvature may jump.
    within = places[:-1, None] + sizes[:, None] * np.linspace(1e-6, 1 - 1e-6, _PLACES)
    there = path.at(np.concatenate([[begin, end], within.ravel()]))
    all_bends, all_twists = there.bends[2:].reshape(-1, _PLACES, 2), there.twists[2:].reshape(-1, _PLACES)
    slopes = []
    for k, plane in enumerate((cuts.planes_begin[index], cuts.planes_end[index])):
        along = float(plane @ there.tangents[k])
        slopes.append(np.array([-float(plane @ there.rights[k]), -float(plane @ there.ups[k])]) / along)
    lengths: list[float] = []
    bends: list[Array] = []
    twists: list[Array] = []
    for low, high, bend, twist in zip(places[:-1].tolist(), places[1:].tolist(), all_bends, all_twists, strict=True):
        pace = 1 - bend @ centroid
        length = high - low
        if not twist.any() and (pace > 1e-6).all():
            length, bend = float(length * np.trapezoid(pace, dx=1 / (_PLACES - 1))), bend / pace[:, None]
            if np.ptp(pace) > ROUNDING:
                length = float(fibre_lengths(path.part(low, high), centroid[None], np.zeros(1), np.array([high - low]), np.zeros(1))[0])
        still = bends and _constant(bends[-1], twists[-1]) and _constant(bend, twist)
        if (
            still
            and np.abs((bends[-1][0] - bend[0]) * length).max() < SAME_SLOPE / 10
            and abs(twists[-1][0] - twist[0]) * length < SAME_SLOPE
        ):
            lengths[-1] += length
            continue
        lengths.append(length)
        bends.append(bend)
        twists.append(twist)
    return Form(slopes[0], slopes[1], np.array(lengths), np.array(bends), np.array(twists))


def _constant(bend: Array, twist: Array) -> bool:
    return bool(np.ptp(bend, axis=0).max() <= ROUNDING and np.ptp(twist) <= ROUNDING)

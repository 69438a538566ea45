"""Sections brought to other sizes: dependent sizes are computed, constraints are kept, and the outline follows."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Final, TypeVar

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.expressions import Lengths, key, work_out
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.kernel.measures import Measure, work_out_all
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.sections.document.constraints import Apart, Constraint, Hidden, Radius
from slow_ribbon.core.sections.document.section import Section, SectionBody, bed_up, section_shape
from slow_ribbon.core.sections.document.sizes import OWN, check_limits, check_names
from slow_ribbon.core.sections.outline.profile import loop_of, shape_of
from slow_ribbon.core.sections.outline.stretch import scaled, stretched
from slow_ribbon.core.sections.sketch.constraint_solver import settled_if_it_can
from slow_ribbon.core.sections.sketch.infer_constraints import as_they_are, is_outline
from slow_ribbon.core.sections.sketch.sketch import drawing_of, redrawn

_S = TypeVar("_S", bound=SectionBody)
_NO_MEASURES: Final = Lengths()


def size_values(section: SectionBody) -> dict[str, float]:
    """Return the values of the sizes of a section, mm, by the ``key`` of their names."""
    own = {name: value for name in OWN if (value := getattr(section, name)) is not None}
    return own | {key(size.name): size.value for size in section.sizes if size.value is not None}


def resized(section: _S, given: Mapping[str, float], measures: Lengths = _NO_MEASURES) -> _S:
    """Return a section with some sizes given, mm by the ``key`` of their names, and all that follows them.

    ``measures`` are those of the job; a text that names any that is not among them, or in the section, keeps the value that it
    has. Sizes that are not given and follow nothing stay, width and height only as far as what is held allows. Raises ``Refused``
    where a size is outside its limits, sizes follow one another in a circle, or the outline cannot be so.
    """
    now = size_values(section) | dict(given)
    values = _followed(section, now, measures)
    check_limits(section.sizes, values, section.name)
    sizes = tuple(
        size if key(size.name) in OWN or size.value == values[key(size.name)] else size.model_copy(update={"value": values[key(size.name)]})
        for size in section.sizes
    )
    wall = values.get("wall") if section.wall is not None else None
    after = section.model_copy(update={"sizes": sizes, "wall": wall})
    said = {key(size.name) for size in section.sizes if size.text is not None} | set(given)
    held = _held_anew(section, values, measures)
    # What is only hidden keeps nothing from growing.
    if all(isinstance(one, Hidden) for one in section.held):
        return after.model_copy(update={"width": values["width"], "height": values["height"]})
    return _drawn_to(after, values["width"], values["height"], held, said)


def in_row(section: Section, row: str) -> Section:
    """Return a section as it is in a row of its range. Raises ``Refused`` where it has no such row, or cannot be so."""
    known = _rows(section)
    if row not in known:
        found = next((one for one in section.range if one.name == row), None)
        if found is None:
            names = ", ".join(one.name for one in section.range) or "none"
            raise Refused(f"{section.name} is not made in {row}: its range has {names}.", "size", "unknown-size")
        try:
            known[row] = resized(section, {key(name): value for name, value in found.values.items()})
        except Refused as refused:
            raise Refused(f"{section.name} cannot be made in {row}: {refused.what}", refused.where, refused.code) from refused
    return known[row]


@kept_with
def _rows(_: Section) -> dict[str, Section]:
    return {}


def check_sizes(section: Section) -> None:
    """Raise ``Refused`` where the sizes of a section, or a row of its range, do not hold together."""
    check_names(section.sizes, section.range, section.wall is not None)
    check_limits(section.sizes, size_values(section), section.name)
    for row in section.range:
        made = in_row(section, row.name)
        try:
            section_shape(made)
            bed_up(made)
        except Refused as refused:
            raise Refused(f"{section.name} cannot be made in {row.name}: {refused.what}", refused.where, refused.code) from refused


def _followed(section: SectionBody, now: Mapping[str, float], measures: Lengths) -> dict[str, float]:
    """Return all sizes with those that follow a text worked out."""
    known = {**measures, **now}
    texts = [
        Measure(name=size.name, text=size.text, system=size.system)
        for size in section.sizes
        if size.text is not None and _readable(size.text, known)
    ]
    worked = work_out_all(texts, "mm", known, "Size")
    return {name: worked.get(name, value) for name, value in now.items()}


def _readable(text: str, known: Mapping[str, float]) -> bool:
    try:
        work_out(text, dict.fromkeys(known, 1.0))
    except Refused as refused:
        return refused.code != "unknown-measure"
    return True


def _held_anew(section: SectionBody, values: Mapping[str, float], measures: Lengths) -> tuple[Constraint, ...]:
    """Return the constraints of a section with the figures that follow a text worked out."""
    known = {**measures, **values}
    found: list[Constraint] = []
    for one in section.held:
        if isinstance(one, Apart | Radius) and one.text is not None and _readable(one.text, known):
            length = work_out(one.text, known, one.system or "mm").length
            if length <= 0:
                raise Refused(
                    f"{one.text} comes out as {figure(length, 3)} in {section.name}: a length must be more than zero.",
                    "held",
                    "measure-negative",
                )
            one = one.model_copy(update={"value": length})
        found.append(one)
    return tuple(found)


def _drawn_to(section: _S, width: float, height: float, held: tuple[Constraint, ...], said: Collection[str]) -> _S:
    """Return a section with other things held of it, as wide and as high as it is said to be.

    Edges that are level or upright and joints that are smooth stay so where they can; arcs stay arcs of circles.
    """
    before = drawing_of(section)
    same = max(abs(width - section.width), abs(height - section.height)) <= SAME_PLACE
    # Held figures that are not followed are what they are at this size.
    anew = tuple(now if getattr(now, "text", None) is not None else was for now, was in zip(held, before.held, strict=False))
    if same and anew == before.held:
        return section.model_copy(update={"width": width, "height": height})
    outlines = before.drawn.outlines()
    box = shape_of(outlines[0]).box
    grown = (
        stretched([loop_of(one) for one in outlines], box, width, height, section.stretching)
        if section.grows == "kept"
        else scaled(box, width, height)
    )
    begin = before.drawn.scaled(grown)
    pinned: dict[str, list[int]] = {
        name: [
            before.drawn.number_of_point(0, i) + axis
            for i, point in enumerate(outlines[0].corners())
            if min(abs(point[axis] - box[end]) for end in (axis, axis + 2)) <= SAME_PLACE
        ]
        for axis, name in enumerate(("width", "height"))
    }
    unsaid = [one for one in as_they_are(before) if one not in before.held]
    rounds = (("level", "upright", "tangent", "radius"),) if section.grows == "kept" else ()
    for sides in (tuple(pinned), tuple(name for name in pinned if name in said)):
        for kinds in (*rounds, ("level", "upright", "tangent"), ("tangent",), ()):
            kept = (one for one in unsaid if one.kind in kinds)
            drawn = settled_if_it_can(begin, (*anew, *kept), pinned=[number for name in sides for number in pinned[name]])
            if drawn is None or not is_outline(drawn):
                continue
            found = redrawn(section, replace(before, drawn=drawn, held=anew))
            off = {"width": abs(found.width - width), "height": abs(found.height - height)}
            if all(off[name] <= SAME_PLACE for name in off if name in said):
                return found
    raise Refused(
        f"What is held keeps it from {figure(width, 3)} × {figure(height, 3)}: let go of a length or a radius first.", "width", "held-size"
    )

"""Checks of rows: stretches that hold no item, ends that a ring does not have."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from slow_ribbon.core.kernel.check import Check, CheckKind, Severity
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.rows.field import side_is_there
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.on_cords import loaded_cords
from slow_ribbon.core.rows.row_set_out import RowSetOut


def _heights(row: Row, out: RowSetOut) -> Iterator[tuple[float, CheckKind, Severity, str, str]]:
    """Yield what is wrong with the heights of a row's items, at their chainages: the worst of each sort."""
    feet = out.positions[:, 2]
    uses = row.uses()
    if row.hang_to is not None and out.count:
        above = feet - row.hang_to
        hung = np.array([use.item.hangs_by is not None for use in uses])[out.dealt]
        if not hung.all():
            what = "An item here has no hanger, and cannot hang down to a level."
            yield (
                float(out.chainages[int((~hung).argmax())]),
                "no-place",
                "warning",
                what,
                "Choose a lamp on a hanger, or leave the level out.",
            )
        short = np.where(hung, -above, 0.0)
        worst = int(short.argmax())
        if short[worst] > SAME_PLACE:
            what = f"The line is too low here for an item that hangs at the level asked: it hangs {figure(float(short[worst]))} below."
            yield float(out.chainages[worst]), "no-room", "fault", what, "Hang them lower, or the line higher."
    if row.least_level is not None and out.count:
        low = row.least_level - feet
        worst = int(low.argmax())
        if low[worst] > SAME_PLACE:
            number = int((low > SAME_PLACE).sum())
            some = "An item reaches" if number == 1 else f"{number} items reach"
            what = f"{some} below the least level: the lowest, here, by {figure(float(low[worst]))}."
            yield float(out.chainages[worst]), "no-room", "fault", what, "Tighten the cord, hang it higher, or use shorter hangers."


def row_checks(row: Row, out: RowSetOut, line: Line) -> tuple[Check, ...]:
    """Return the checks of a row, each at its place on its line."""
    course = course_of(line)
    found = []
    spacing = row.spacing

    def at(chainage: float, kind: CheckKind, severity: Severity, what: str, remedy: str) -> Check:
        place = course.points_at(np.array([chainage]))[0]
        inside = chainage % course.length if course.closed else chainage
        point = (float(place[0]), float(place[1]), float(place[2]))
        return Check(kind=kind, severity=severity, what=what, remedy=remedy, thing=row.id, piece=None, chainage=inside, point=point)

    if row.filling is not None:
        if not out.count:
            found.append(
                at(
                    0.0,
                    kind="no-room",
                    severity="fault",
                    what="The inset and what is kept clear leave no room for any item within the border.",
                    remedy="Make the inset or the distances smaller, or the border larger.",
                )
            )
        if not side_is_there(row, line):
            found.append(
                at(
                    0.0,
                    kind="no-place",
                    severity="warning",
                    what="The side along which the rows of this field lay is gone; they lie along a bearing.",
                    remedy="Choose another side, or keep to the bearing.",
                )
            )
        return tuple(found)
    if not out.stretches:
        found.append(
            at(
                0.0,
                kind="no-room",
                severity="fault",
                what="The openings leave no room for any item.",
                remedy="Make the openings narrower, or let the row pass over them.",
            )
        )
    for begin, length, stretch in zip(out.begins, out.lengths, out.stretches, strict=True):
        if stretch.short:
            insets = figure(spacing.inset_start + spacing.inset_end, 2)
            found.append(
                at(
                    begin + length / 2,
                    kind="no-room",
                    severity="fault",
                    what=f"This stretch is {figure(length, 2)} long, shorter than its insets, {insets} together: it holds no item.",
                    remedy="Make the insets shorter, or the stretch longer.",
                )
            )
        if stretch.crowded:
            found.append(
                at(
                    begin + length / 2,
                    kind="no-room",
                    severity="warning",
                    what=f"This stretch, {figure(length, 2)} long, has no room for bays of another size at its ends: all are alike.",
                    remedy="Make those bays shorter, or the stretch longer.",
                )
            )
        if stretch.tight is not None and stretch.tight < -SAME_PLACE:
            found.append(
                at(
                    begin + length / 2,
                    kind="overlap",
                    severity="fault",
                    what=f"Items overlap here by {figure(-stretch.tight, 2)}: their centres are {figure(stretch.centres, 2)} apart.",
                    remedy="Set out fewer items, or narrower ones.",
                )
            )
    found += [at(*said) for said in _heights(row, out)]
    if any(cord is None for _, cord in loaded_cords(row, out, line)):
        found.append(
            at(
                0.0,
                kind="unsolved",
                severity="warning",
                what="How a cord of this line hangs under the weights of its items cannot be worked out.",
                remedy="Check the weight of each item, and that of the cord on the line's card.",
            )
        )
    marks = {mark.id: mark.at for mark in line.marks}
    for one in row.held:
        if one.mark not in marks:
            found.append(
                at(
                    0.0,
                    kind="no-place",
                    severity="warning",
                    what="An item that was held on this line has lost its place, and stands where its turn is.",
                    remedy="Let it go, or hold the item anew where it should stand.",
                )
            )
        elif not one.out and row.openings == "clear" and any(o.at + WELD < marks[one.mark] < o.at + o.width - WELD for o in line.openings):
            found.append(
                at(
                    marks[one.mark],
                    kind="no-room",
                    severity="fault",
                    what="The item that is held here stands in an opening.",
                    remedy="Move it out of the opening, leave it out, or let it go.",
                )
            )
    idle = [
        words
        for words, said in (
            (f"the inset at the start ({figure(spacing.inset_start)})", spacing.inset_start > 0),
            (f"the inset at the end ({figure(spacing.inset_end)})", spacing.inset_end > 0),
            ("leaving the first item out", not spacing.first),
            ("leaving the last item out", not spacing.last),
        )
        if said
    ]
    if out.ring and idle:
        found.append(
            at(
                0.0,
                kind="no-ends",
                severity="warning",
                what=f"The line is closed and carried round, so it has no first and no last: {', '.join(idle)} does nothing here.",
                remedy="Remove them, restart the row at corners, or open the line.",
            )
        )
    return tuple(found)

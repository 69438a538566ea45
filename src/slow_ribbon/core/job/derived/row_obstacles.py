"""What rows keep clear of, found again when the lines and rows that it is of change."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Final

from slow_ribbon.core.job.derived.expansion import Expansion, Follow, Step
from slow_ribbon.core.job.derived.same_places import check_same_places
from slow_ribbon.core.job.document.kinds import LINES, ROWS, TYPICALS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.obstacles import ClearOf, Obstacle, ground_of, obstacle
from slow_ribbon.core.rows.placement import Stood, ground_covered
from slow_ribbon.core.rows.setting_out import check_number, set_row_out

#: What more items cover would take too long to be laid together at every edit.
_MOST_ITEMS: Final = 5000


def _follows(expansion: Expansion, row: Row) -> Iterator[Follow]:
    yield row.line, None
    # Which of them stand in the places of a typical decides what may refer to what.
    yield from ((typical.id, None) for typical in expansion.all(TYPICALS))
    for one in row.clear_of:
        yield one.of, None
        other = expansion.find(ROWS, one.of)
        if other is not None:
            yield other.line, None


def _circle(names: Sequence[str]) -> Refused:
    what = f"{' and '.join(dict.fromkeys(names))} keep clear of one another in a circle: let one of them stand as it does."
    return Refused(what, "clear_of", "clear-circle")


def _derived(expansion: Expansion, row: Row) -> Row:
    row = _with_what_is_there(expansion, row) if expansion.whole else row
    there = [one for one in row.clear_of if _is_there(expansion, one.of)]
    check_same_places(expansion, row, [one.of for one in there])
    found = tuple(_obstacle(expansion, one) for one in there)
    return row if found == row.obstacles else row.model_copy(update={"obstacles": found})


def _is_there(expansion: Expansion, id: str) -> bool:
    return expansion.find(LINES, id) is not None or expansion.find(ROWS, id) is not None


def _obstacle(expansion: Expansion, one: ClearOf) -> Obstacle:
    row = expansion.find(ROWS, one.of)
    if row is None:
        return obstacle(one.of, ground_of(expansion.get(LINES, one.of)), one.by)
    line = expansion.get(LINES, row.line)
    check_number(row, line, confirmed=True)
    out = set_row_out(row, line)
    if out.count > _MOST_ITEMS:
        what = f"{row.name} has {out.count:,} items; {_MOST_ITEMS:,} is the most that others keep clear of. Keep clear of its line instead."
        raise Refused(what, "clear_of", "too-many")
    stood = Stood(out.positions, out.headings, out.tilts)
    return obstacle(one.of, ground_covered(row.uses(), out.dealt, stood, out.sizes), one.by)


def _with_what_is_there(expansion: Expansion, row: Row) -> Row:
    """Return a row that keeps clear of what is there; what an edit names and is not there is refused."""
    was = expansion.earlier(ROWS, row.id)
    known = set() if was is None else {one.of for one in was.clear_of}
    for number, one in enumerate(row.clear_of):
        if one.of == row.id or (one.of == row.line and row.filling is not None):
            what = f"{row.name} cannot keep clear of itself or of its own border: choose another line or row."
            raise Refused(what, f"clear_of.{number}.of", "to-itself")
        if not _is_there(expansion, one.of) and one.of not in known:
            what = f"There is no line or row {one.of} in this job for {row.name} to keep clear of: it may have been removed."
            raise Refused(what, f"clear_of.{number}.of", "unknown-id")
    left = tuple(one for one in row.clear_of if _is_there(expansion, one.of))
    if left == row.clear_of:
        return row
    expansion.notices.append(f"{row.name} keeps clear of one thing less: that was removed.")
    return row.model_copy(update={"clear_of": left})


#: What rows keep clear of.
OBSTACLES: Final = Step(
    name="obstacles",
    kind=ROWS,
    concerns=lambda row: bool(row.clear_of or row.obstacles),
    follows=_follows,
    derive=_derived,
    circle=_circle,
)


def with_obstacles_of(row: Row, instead: Mapping[str, str]) -> Row:
    """Return a row that keeps clear of others ``instead`` of some, given by their ids: a copy keeps clear of copies."""
    named = tuple(one.model_copy(update={"of": instead.get(one.of, one.of)}) for one in row.clear_of)
    return row if named == row.clear_of else row.model_copy(update={"clear_of": named})

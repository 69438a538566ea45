"""Runs, rows, walls and following lines, kept in place when their line is reversed, mirrored, split or joined.

Terms
-----
turned round
    left of a line is right of it and its end its start; what stands on it stays where it is.
turned over
    a line was mirrored; what stands on it is mirrored with it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from typing import Any, Literal

from slow_ribbon.core.job.derived.corner_overrides import corners_on
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.kinds import LINES, ROWS
from slow_ribbon.core.job.document.labels import tagged_things
from slow_ribbon.core.kernel.fields import Point3
from slow_ribbon.core.kernel.measures import Formula
from slow_ribbon.core.kernel.units import WELD
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.model import Line, LineBody
from slow_ribbon.core.lines.split_join import reverse, sides_over
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.rows.pattern import opposite
from slow_ribbon.core.runs.placement.placing import AnyFacing
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.runs.placement.stretches import Between, extent, stretches_between
from slow_ribbon.core.runs.treatments.ends import SquareEnd


def identified(job: Job, lines: Iterable[Line | LineBody], anew: bool = False) -> tuple[list[Any], int]:
    """Return lines whose openings and marks have ids, new ones ``anew``, and the last number given out."""
    number = job.last_number
    found = []
    for line in lines:
        parts: dict[str, Any] = {}
        for group, letter in LINES.parts.items():
            named = []
            for part in getattr(line, group):
                if anew or part.id is None:
                    number += 1
                    part = part.model_copy(update={"id": f"{letter}{number}"})
                named.append(part)
            if named:
                parts[group] = tuple(named)
        found.append(line.model_copy(update=parts) if parts else line)
    return found, number


def followers(job: Job, line: str) -> list[Line]:
    """Return the lines whose direction is that of a line they are made from."""
    return [other for other in job.lines if other.made is not None and other.made.stands_on()[:1] == (line,)]


# --- turned round -----------------------------------------------------------------------------


def turned_round(job: Job, ids: Sequence[str]) -> Job:
    """Return the job with lines gone the other way, and those that follow them; nothing that stands on them moves."""
    done: set[str] = set()

    def turn(job: Job, id: str, follows: bool) -> Job:
        if id in done:
            return job
        done.add(id)
        line = job.line(id)
        turned = reverse(line)
        made = line.made
        if not follows:
            turned = turned.model_copy(update={"made": None})
        elif made is not None:
            turned = turned.model_copy(update={"made": made.other_side()})
            if made.made_alike:
                # It is made again from the line it goes along with.
                turned = turned.model_copy(update={"start": line.start, "legs": line.legs})
        job = job.put(turned)
        length = course_of(line).length
        job = _each(job, id, lambda run: _run_round(run, length), _row_round)
        job = _formulas_round(job, {row.id for row in job.rows if row.line == id and row.filling is None})
        for follower in followers(job, id):
            job = turn(job, follower.id, True)
        return job

    for id in ids:
        job = turn(job, id, False)
    return with_rules_of_rows_kept(job, done)


def with_rules_of_rows_kept(job: Job, turned: Collection[str]) -> Job:
    """Return the job in which rows by rule stay as they are where lines were turned, round or over, and others were not.

    The row that a rule's others are like has changed with its line: one of them on a line that was not turned takes its place.
    """
    for rule in job.row_rules:
        first = job.find(ROWS, rule.row)
        if first is None or first.line not in turned:
            continue
        heir = next((row for row in job.rows if row.rule == rule.id and row.line not in turned), None)
        if heir is not None:
            job = job.put(heir.model_copy(update={"rule": None}))
            job = job.put(rule.model_copy(update={"row": heir.id, "without": (*rule.without, first.line)}))
    return job


def _each(job: Job, line: str, run: Callable[[Run], Run], row: Callable[[Row], Row]) -> Job:
    runs = tuple(run(one) if one.line == line else one for one in job.runs)
    rows = tuple(row(one) if one.line == line else one for one in job.rows)
    return job.model_copy(update={"runs": runs, "rows": rows})


def _run_round(run: Run, length: float) -> Run:
    joints = run.joints and run.joints.reversed(length)
    ends = {"first_end": run.last_end, "last_end": run.first_end}
    own = tuple(one.model_copy(update={"made": one.made.reversed()}) for one in run.own_corners)
    made = {"corners": run.corners.reversed(), "external": run.external.reversed(), "own_corners": own, "joints": joints, **ends}
    run = _other_side(run).model_copy(update=made)
    if run.stretches is not None:
        stretches = tuple(Between(after=one.before, before=one.after) for one in run.stretches)
        run = run.model_copy(update={"stretches": stretches})
    return run


def _other_side(run: Run) -> Run:
    if run.placing.facing.into_room:
        return run.model_copy(update={"room_side": "right" if run.room_side == "left" else "left"})
    return _facing(run, run.placing.facing.other_side())


def _facing(run: Run, facing: AnyFacing) -> Run:
    if facing is run.placing.facing:
        return run
    return run.model_copy(update={"placing": run.placing.model_copy(update={"facing": facing})})


def _row_round(row: Row) -> Row:
    if row.filling is not None:
        # A field lies the same whichever way its border is gone.
        return row
    spacing, half = row.spacing, row.turns_half
    swapped = {
        "rule": spacing.rule.reversed(), "inset_start": spacing.inset_end, "inset_end": spacing.inset_start,
        "first": spacing.last, "last": spacing.first,
    }  # fmt: skip
    # An item that turns with the line has turned by half a turn; its seat is measured in its own axes.
    seat = opposite(row.seat) if half else row.seat
    return row.model_copy(
        update={
            "spacing": spacing.model_copy(update=swapped), "seat": seat, "stand_off": 0.0 - row.stand_off,
            "from_mark": row.to_mark, "to_mark": row.from_mark,
            "turn": row.turn.turned_round(half=not half), "pattern": row.pattern.turned_round(half),
        }
    )  # fmt: skip


def _formulas_round(job: Job, rows: set[str]) -> Job:
    """Return the job whose formulas of rows say of the other end, and of the other side, what they said of this."""
    if not any(formula.thing in rows for formula in job.formulas):
        return job
    ends = {"spacing.inset_start": "spacing.inset_end", "spacing.inset_end": "spacing.inset_start"}
    as_they_were = {row.id for row in job.rows if not row.turns_half}

    def other(formula: Formula) -> Formula:
        if formula.thing not in rows:
            return formula
        if formula.field in ends:
            return formula.model_copy(update={"field": ends[formula.field]})
        negated = ("stand_off",) if formula.thing in as_they_were else ("stand_off", "seat.along", "seat.across")
        return _negated(formula) if formula.field in negated else formula

    return job.model_copy(update={"formulas": tuple(other(formula) for formula in job.formulas)})


def _negated(formula: Formula) -> Formula:
    text = formula.text
    whole = text.startswith("-(") and text.endswith(")") and ")" not in text[2:-1]
    return formula.model_copy(update={"text": text[2:-1] if whole else f"-({text})"})


# --- mirrored and moved -----------------------------------------------------------------------


def turned_over(job: Job, id: str, move: Callable[[Point3], Point3]) -> Job:
    """Return the job, a line of which has been mirrored in place, with what stands on it mirrored too; ``move`` maps points."""
    line = job.line(id)
    if line.wall is not None or line.strip is not None:
        job = job.put(line.model_copy(update=sides_over(line)))
    negated = {row.id: ("stand_off", f"seat.{_over_axis(row)}") for row in job.rows if row.line == id}
    job = _each(job, id, lambda run: _carried(_run_over(run), move), lambda row: _row_over(row, move))
    formulas = tuple(_negated(one) if one.field in negated.get(one.thing, ()) else one for one in job.formulas)
    job = job.model_copy(update={"formulas": formulas})
    for follower in followers(job, id):
        assert follower.made is not None  # it would not follow
        if len(follower.made.stands_on()) == 1:
            job = job.put(follower.model_copy(update={"made": follower.made.other_side()}))
            job = turned_over(job, follower.id, move)
    return job


def _run_over(run: Run) -> Run:
    """Return a run whose line was mirrored: what lay to the left of a corner, and of travel, lies to its right."""
    own = tuple(one.model_copy(update={"made": one.made.mirrored()}) for one in run.own_corners)
    made = {"corners": run.corners.mirrored(), "external": run.external.mirrored(), "own_corners": own}
    return _other_side(run).model_copy(update=made)


def _row_over(row: Row, move: Callable[[Point3], Point3]) -> Row:
    axis = _over_axis(row)
    turn, pattern = row.turn.turned_over(move, axis), row.pattern.turned_over(axis)
    if not row.is_symmetric:
        # The image of what has a front is itself, seen from behind: each is the same when it is mirrored along the line.
        turn = turn.model_copy(update={"by": (turn.by + 360.0) % 360.0 - 180.0})
    seat = row.seat.model_copy(update={axis: 0.0 - getattr(row.seat, axis)})
    held = tuple(one.model_copy(update={"turn": 0.0 - one.turn}) for one in row.held)
    over = {"seat": seat, "stand_off": 0.0 - row.stand_off, "turn": turn, "pattern": pattern, "held": held}
    return row.model_copy(update={**over, "filling": row.filling and row.filling.moved(move)})


def _over_axis(row: Row) -> Literal["along", "across"]:
    """Return which figure of a seat changes its sign in a mirror: that along an item which is seen from behind there."""
    return "across" if row.is_symmetric else "along"


def _row_carried(row: Row, move: Callable[[Point3], Point3]) -> Row:
    turn, filling = row.turn.moved(move), row.filling and row.filling.moved(move)
    return row if turn is row.turn and filling is row.filling else row.model_copy(update={"turn": turn, "filling": filling})


def moved_with(job: Job, id: str, move: Callable[[Point3], Point3]) -> Job:
    """Return the job, a line of which has been moved in place, with the points that its runs face moved too."""
    job = _each(job, id, lambda run: _carried(run, move), lambda row: _row_carried(row, move))
    for follower in followers(job, id):
        job = moved_with(job, follower.id, move)
    return job


def _carried(run: Run, move: Callable[[Point3], Point3]) -> Run:
    return _facing(run, run.placing.facing.moved(move))


# --- stretches when a line is split, joined, or loses an opening --------------------------------


def split_between(thing: Run | Row, line: Line, first: Line, second: Line | None, at: float) -> tuple[Run | Row | None, Run | Row | None]:
    """Return a run or row on the first and on the second part of a line that was split at a chainage; None where it has no part.

    A closed line that opens has only a first part; a row between marks there may still make two.
    """
    if isinstance(thing, Run):
        here, there = _split_run(thing, line, first, second, at)
        # Where the line is parted both are cut square.
        if here is not None and second is not None:
            here = here.model_copy(update={"last_end": SquareEnd()})
        if there is not None and second is not None:
            there = corners_on(there.model_copy(update={"first_end": SquareEnd()}), second)
        return jointed_between(here, line, at, opened=second is None), jointed_between(there, line, at, beyond=True)
    return _split_row(thing, line, first, second, at)


def jointed_between(run: Run | None, line: Line, at: float, opened: bool = False, beyond: bool = False) -> Run | None:
    """Return a run with those of its joints by hand that lie on its part of a line split at a chainage, given on that."""
    if run is None or run.joints is None or run.joints.at is None:
        return run
    length = course_of(line).length
    if opened:
        places = [(place - at) % length for place in run.joints.at]
    else:
        places = [place - at for place in run.joints.at if place > at] if beyond else [place for place in run.joints.at if place < at]
    return run.model_copy(update={"joints": run.joints.model_copy(update={"at": tuple(sorted(places))})})


def _split_run(run: Run, line: Line, first: Line, second: Line | None, at: float) -> tuple[Run | None, Run | None]:
    if run.stretches is None:
        return run, run if second is not None else None
    if second is None:
        parts: list[Between] = []
        length = course_of(line).length
        for one in run.stretches:
            begin, size = extent(line, one, length)
            over = (at - begin) % length
            # Where the line opens beside an opening, that comes to lie at the other end of it.
            if min(over, length - over) < WELD:
                parts.append(Between(before=one.before))
            elif abs(over - size) < WELD:
                parts.append(Between(after=one.after))
            else:
                parts.extend([Between(after=one.after), Between(before=one.before)] if over < size else [one])
        return run.model_copy(update={"stretches": tuple(dict.fromkeys(parts))}), None
    here, there = ({opening.id for opening in part.openings} for part in (first, second))
    low = [
        Between(after=one.after, before=one.before if one.before in here else None)
        for one in run.stretches
        if one.after is None or one.after in here
    ]
    high = [
        Between(after=one.after if one.after in there else None, before=one.before)
        for one in run.stretches
        if one.before is None or one.before in there
    ]
    return (
        run.model_copy(update={"stretches": tuple(low)}) if low else None,
        run.model_copy(update={"stretches": tuple(high)}) if high else None,
    )


def _split_row(row: Row, line: Line, first: Line, second: Line | None, at: float) -> tuple[Row | None, Row | None]:
    places = {mark.id: mark.at for mark in line.marks}
    if second is None:
        if row.from_mark is None or row.to_mark is None:
            return row, None
        length = course_of(line).length
        size = (places[row.to_mark] - places[row.from_mark]) % length or length
        if not 0 < (at - places[row.from_mark]) % length < size:
            return row, None
        return row.model_copy(update={"to_mark": None}), row.model_copy(update={"from_mark": None})
    here = {mark.id for mark in first.marks}
    low = row.model_copy(
        update={"to_mark": row.to_mark if row.to_mark in here else None, "held": tuple(one for one in row.held if one.mark in here)}
    )
    high = row.model_copy(
        update={
            "from_mark": None if row.from_mark in here else row.from_mark,
            "held": tuple(one for one in row.held if one.mark not in here),
        }
    )
    return (
        low if row.from_mark is None or row.from_mark in here else None,
        high if row.to_mark is None or row.to_mark not in here else None,
    )


def joined_stretches(run: Run, lines: Sequence[Line], closed: bool) -> tuple[Between, ...]:
    """Return a run's stretches on the line that ``lines``, laid end to end in this order, were joined into."""
    number = next(i for i, line in enumerate(lines) if line.id == run.line)
    line = lines[number]
    own = run.stretches or tuple(one.between for one in stretches_between(line, course_of(line).length))
    before = [opening.id for part in lines[:number] for opening in _in_order(part)]
    after = [opening.id for part in lines[number + 1 :] for opening in _in_order(part)]
    everything = [opening.id for part in lines for opening in _in_order(part)]
    if closed and everything:
        before, after = before or everything, after or everything
    found = [
        Between(
            after=one.after if one.after is not None or not before else before[-1],
            before=one.before if one.before is not None or not after else after[0],
        )
        for one in own
    ]
    return tuple(dict.fromkeys(found))


def _in_order(line: Line) -> list[Any]:
    return sorted(line.openings, key=lambda opening: opening.at)


def without_openings(job: Job, line: Line, gone: set[str]) -> Job:
    """Return the job, from a line of which openings are taken out; stretches beside them grow together."""
    left = line.model_copy(update={"openings": tuple(one for one in line.openings if one.id not in gone)})
    order: list[str | None] = [opening.id for opening in _in_order(line)]

    def next_kept(id: str | None, step: int) -> str | None:
        if id is None or id not in gone:
            return id
        at = order.index(id)
        for away in range(1, len(order) + 1):
            place = at + step * away
            if not line.closed and not 0 <= place < len(order):
                return None
            if order[place % len(order)] not in gone:
                return order[place % len(order)]
        return None

    runs = []
    for run in job.runs:
        if run.line == line.id and run.stretches is not None:
            grown = tuple(dict.fromkeys(Between(after=next_kept(s.after, -1), before=next_kept(s.before, 1)) for s in run.stretches))
            run = run.model_copy(update={"stretches": grown if left.openings else None})
        runs.append(run)
    return job.put(left).model_copy(update={"runs": tuple(runs)})


def on_line(job: Job, line: str) -> list[Run | Row]:
    """Return the runs and rows that stand on a line."""
    return [thing for thing in tagged_things(job) if thing.line == line]

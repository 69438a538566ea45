"""Making edits of lines as wholes; those of points and legs are in ``leg_apply``."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from slow_ribbon.core.derived import region
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.follow import made_geometry, with_system
from slow_ribbon.core.job import Job
from slow_ribbon.core.leg_apply import bent, inserted, known_leg, known_point, leg_set, made_closed, made_tangent, removed, rounded, screwed
from slow_ribbon.core.line import Line, LineBody, with_id
from slow_ribbon.core.line_edits import (
    AddLines,
    AddMade,
    AddRegion,
    BendLeg,
    CopyLines,
    InsertVertex,
    JoinLines,
    LineEdit,
    MakeTangent,
    MirrorLines,
    MoveVertex,
    RemoveVertex,
    ReverseLines,
    RoundCorners,
    SetClosed,
    SetLeg,
    SetLine,
    SetMade,
    SetMarks,
    SetOpenings,
    SimplifyLines,
    SplitLine,
    StartLineAt,
    TurnLeg,
)  # fmt: skip
from slow_ribbon.core.line_moves import mirrored, moved_point, turned
from slow_ribbon.core.line_work import join_lines, reverse, split, start_at
from slow_ribbon.core.made import Made
from slow_ribbon.core.row import Row
from slow_ribbon.core.run import FacingSide, Run
from slow_ribbon.core.simpler import simplified
from slow_ribbon.core.tags import free_tag, tagged_things
from slow_ribbon.core.units import FARTHEST


def line_changed(job: Job, edit: LineEdit) -> Job:
    """Return the job after an edit of its lines, not yet checked."""
    match edit:
        case AddLines():
            return _added(job, edit)
        case SetLine():
            return _put(job, job.line(edit.line), lambda line: _with(line, edit))
        case MoveVertex():
            return _put(job, job.line(edit.line), lambda line: moved_point(line, known_point(line, edit.index), edit.to))
        case InsertVertex():
            return _put(job, job.line(edit.line), lambda line: inserted(line, edit))
        case RemoveVertex():
            return _put(job, job.line(edit.line), lambda line: removed(line, edit.index))
        case SetClosed():
            return _put(job, job.line(edit.line), lambda line: made_closed(line, edit.closed))
        case SetLeg():
            return _put(job, job.line(edit.line), lambda line: leg_set(line, known_leg(line, edit.leg), edit.to_be))
        case BendLeg():
            return _put(job, job.line(edit.line), lambda line: bent(line, edit))
        case TurnLeg():
            return _put(job, job.line(edit.line), lambda line: screwed(line, edit))
        case MakeTangent():
            return _put(job, job.line(edit.line), lambda line: made_tangent(line, edit.leg))
        case RoundCorners():
            return _put(job, job.line(edit.line), lambda line: rounded(line, edit))
        case SetOpenings():
            return _put(job, job.line(edit.line), lambda line: line.model_copy(update={"openings": edit.openings}))
        case SetMarks():
            return _put(job, job.line(edit.line), lambda line: line.model_copy(update={"marks": edit.marks}))
        case SplitLine():
            return _split(job, edit)
        case JoinLines():
            return _joined(job, edit)
        case ReverseLines():
            return _reversed(job, edit.lines)
        case StartLineAt():
            return _put(job, job.line(edit.line), lambda line: start_at(line, edit.at))
        case AddMade():
            return _add_made(job, edit)
        case SetMade():
            return _put(job, job.line(edit.line), lambda line: line.model_copy(update={"made": with_system(job, edit.made)}))
        case MirrorLines():
            return _copied(job, edit.lines, lambda line, _: mirrored(line, edit.a, edit.b), 1, edit.copies)
        case CopyLines():
            return _copied(job, edit.lines, lambda line, time: _moved(line, edit, time), edit.times, edit.copies)
        case SimplifyLines():
            for id in edit.lines:
                job = _put(job, job.line(id), lambda line: simplified(line, edit.tolerance)[0])
            return job
        case AddRegion():
            lines = job.lines if edit.lines is None else [job.line(id) for id in edit.lines]
            start, legs = region(lines, edit.point)
            return _new_line(job, LineBody(name=edit.name, start=start, legs=legs, closed=True))


def _put(job: Job, line: Line, change: Callable[[Line], Line]) -> Job:
    changed = change(line)
    return job.model_copy(update={"lines": tuple(changed if old.id == line.id else old for old in job.lines)})


def _with(line: Line, edit: SetLine) -> Line:
    update = {name: getattr(edit.changes, name) for name in edit.changes.model_fields_set}
    for name, value in update.items():
        if value is None and name != "wall":
            raise Refused(f"{name.capitalize()} cannot be nothing here.", f"changes.{name}", "null")
    return line.model_copy(update=update)


def _added(job: Job, edit: AddLines) -> Job:
    origin = job.origin
    if edit.origin is not None and edit.origin != job.origin:
        if job.lines:
            raise Refused("The job's place on the site is settled by its first lines and cannot change now.", "origin", "origin")
        origin = edit.origin
    lines = tuple(with_id(body, f"L{job.last_number + 1 + index}") for index, body in enumerate(edit.lines))
    return job.model_copy(update={"lines": job.lines + lines, "last_number": job.last_number + len(lines), "origin": origin})


def _new_line(job: Job, body: LineBody) -> Job:
    return _added(job, AddLines(lines=(body,)))


def _followers(job: Job, line: str) -> list[Run | Row]:
    return [thing for thing in tagged_things(job) if thing.line == line]


def _split(job: Job, edit: SplitLine) -> Job:
    line = job.line(edit.line)
    first, second = split(line, edit.at)
    first = first.model_copy(update={"made": None})
    if second is None:
        return _put(job, line, lambda _: first)
    id = f"L{job.last_number + 1}"
    second = second.model_copy(update={"id": id, "name": f"{line.name}, part 2"[:120], "made": None})
    job = _put(job, line, lambda _: first)
    job = job.model_copy(update={"lines": (*job.lines, second), "last_number": job.last_number + 1})
    for thing in _followers(job, line.id):
        job = _duplicated(job, thing, id)
    return job


def _duplicated(job: Job, thing: Run | Row, line: str) -> Job:
    """Return the job with a run or row on another line as well."""
    number = job.last_number + 1
    changes = {"id": f"{thing.id[0]}{number}", "line": line, "tag": free_tag(job, thing.name), "name": f"{thing.name}, part 2"[:120]}
    again = thing.model_copy(update=changes | ({"stretches": None} if isinstance(thing, Run) else {}))
    group = "runs" if isinstance(thing, Run) else "rows"
    return job.model_copy(update={group: (*getattr(job, group), again), "last_number": number})


def _joined(job: Job, edit: JoinLines) -> Job:
    lines = [job.line(id) for id in edit.lines]
    if len(set(edit.lines)) != len(lines):
        raise Refused("A line is chosen twice: choose each once.", "lines", "line-twice")
    joined = join_lines(lines, edit.tolerance).model_copy(update={"id": lines[0].id, "name": lines[0].name, "made": None})
    gone = set(edit.lines[1:])
    kept = tuple(joined if line.id == joined.id else line for line in job.lines if line.id not in gone)
    changes: dict[str, Any] = {"lines": kept}
    for group in ("runs", "rows"):
        known = [_likeness(thing) for thing in getattr(job, group) if thing.line == joined.id]
        things = []
        for thing in getattr(job, group):
            if thing.line in gone:
                # What runs along both parts alike runs along the whole once.
                if _likeness(thing) in known:
                    continue
                known.append(_likeness(thing))
                thing = thing.model_copy(update={"line": joined.id})
            if thing.line == joined.id and isinstance(thing, Run) and thing.stretches is not None:
                thing = thing.model_copy(update={"stretches": None})
            things.append(thing)
        changes[group] = tuple(things)
    return job.model_copy(update=changes)


def _likeness(thing: Run | Row) -> str:
    return thing.model_dump_json(exclude={"id", "name", "tag", "line", "stretches"})


def _reversed(job: Job, ids: Sequence[str]) -> Job:
    """Reverse lines and let what stands on them stand where it did: left is right for one that goes the other way."""
    for id in dict.fromkeys(ids):
        job = _put(job, job.line(id), lambda line: reverse(line).model_copy(update={"made": None}))
        runs = []
        for run in job.runs:
            facing = run.placing.facing
            if run.line == id and isinstance(facing, FacingSide):
                other = FacingSide(kind="left" if facing.kind == "right" else "right")
                run = run.model_copy(update={"placing": run.placing.model_copy(update={"facing": other})})
            runs.append(run)
        rows = []
        for row in job.rows:
            if row.line == id:
                spacing = row.spacing
                rule = spacing.rule
                if rule.kind == "fixed-centres" and rule.origin != "centred":
                    rule = rule.model_copy(update={"origin": "end" if rule.origin == "start" else "start"})
                swapped = {
                    "rule": rule, "inset_start": spacing.inset_end, "inset_end": spacing.inset_start,
                    "first": spacing.last, "last": spacing.first,
                }  # fmt: skip
                seat = row.seat.model_copy(update={"along": -row.seat.along, "across": -row.seat.across})
                row = row.model_copy(
                    update={
                        "spacing": spacing.model_copy(update=swapped), "seat": seat, "stand_off": -row.stand_off,
                        "from_mark": row.to_mark, "to_mark": row.from_mark,
                    }
                )  # fmt: skip
            rows.append(row)
        job = job.model_copy(update={"runs": tuple(runs), "rows": tuple(rows)})
    return job


def _add_made(job: Job, edit: AddMade) -> Job:
    made = with_system(job, edit.made)
    assert made is not None  # an edit that adds a line says how
    start, legs, closed = made_geometry(job, made)
    keeps: Made | None = made if edit.follows else None
    return _new_line(job, LineBody(name=edit.name, start=start, legs=legs, closed=closed, made=keeps))


def _copied(job: Job, ids: Sequence[str], change: Callable[[Line, int], Line], times: int, copies: bool) -> Job:
    if not copies:
        for id in ids:
            job = _put(job, job.line(id), lambda line: change(line, times).model_copy(update={"made": None}))
        return job
    if len(ids) * times > 50_000:
        raise Refused(f"That would make {len(ids) * times:,} lines; 50,000 is the most.", "times", "too-many")
    for time in range(1, times + 1):
        for id in ids:
            line = job.line(id)
            name = f"{line.name}, copy" if times == 1 else f"{line.name}, copy {time}"
            copy = change(line, time).model_copy(update={"name": name[:120], "made": None, "source": None})
            body = LineBody(**{field: getattr(copy, field) for field in LineBody.model_fields})
            job = _new_line(job, body)
    return job


def _moved(line: Line, edit: CopyLines, time: int) -> Line:
    found = line
    for _ in range(time):
        found = turned(found, edit.turn, edit.about, edit.by)
    if max(abs(value) for value in found.start) > FARTHEST:
        raise Refused("The copies would lie more than ten thousand kilometres away: check the distance.", "by", "far")
    return found

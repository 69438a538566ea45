"""Making edits of lines as wholes; those of points and legs are in ``leg_apply``."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

from pydantic import TypeAdapter, ValidationError

from slow_ribbon.core.job.attachments import (
    identified,
    joined_stretches,
    moved_with,
    on_line,
    put_line,
    split_between,
    turned_over,
    turned_round,
    without_openings,
)  # fmt: skip
from slow_ribbon.core.job.dependencies import made_geometry, with_system
from slow_ribbon.core.job.document import Job
from slow_ribbon.core.job.edits.changes import MadeChanges, MarkChanges, OpeningChanges, changed
from slow_ribbon.core.job.edits.legs_apply import (
    bent,
    inserted,
    known_leg,
    known_point,
    leg_changed,
    made_closed,
    made_tangent,
    removed,
    rounded,
    screwed,
    shaped,
    unshaped,
)  # fmt: skip
from slow_ribbon.core.job.edits.lines import (
    AddLines,
    AddMade,
    AddMarks,
    AddOpenings,
    AddRegion,
    BendLeg,
    CopyLines,
    InsertVertex,
    JoinLines,
    LineEdit,
    MakeTangent,
    MirrorLines,
    MoveVertex,
    RemoveMarks,
    RemoveOpenings,
    RemoveVertex,
    RenewLines,
    ReverseLines,
    RoundCorners,
    SetClosed,
    SetLeg,
    SetLine,
    SetMade,
    SetMark,
    SetOpening,
    ShapeLeg,
    SimplifyLines,
    SplitLine,
    StartLineAt,
    TurnLeg,
    UnshapeLeg,
)  # fmt: skip
from slow_ribbon.core.job.labels import free_tag
from slow_ribbon.core.job.reissue import renewed
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.units import FARTHEST
from slow_ribbon.core.lines.alignment import course_of
from slow_ribbon.core.lines.construction import Made, Midway, Offset, Walk
from slow_ribbon.core.lines.legs import place
from slow_ribbon.core.lines.model import Line, LineBody, Mark, Opening, with_ids
from slow_ribbon.core.lines.offset import region
from slow_ribbon.core.lines.simplify import simplified
from slow_ribbon.core.lines.split_join import join_lines, moved_by, split, start_at, wall_over
from slow_ribbon.core.lines.transform import Motion, mirroring, moved_point, turning
from slow_ribbon.core.rows.model import Row
from slow_ribbon.core.runs.model import Run, stretches_between


def line_changed(job: Job, edit: LineEdit) -> Job:
    """Return the job after an edit of its lines, not yet checked."""
    match edit:
        case AddLines():
            return _added(job, edit)
        case RenewLines():
            return renewed(job, edit)
        case SetLine():
            return _put(job, job.line(edit.line), lambda line: changed(line, edit.changes))
        case MoveVertex():
            return _put(job, job.line(edit.line), lambda line: _point_moved(line, edit))
        case InsertVertex():
            return _put(job, job.line(edit.line), lambda line: inserted(line, edit))
        case RemoveVertex():
            return _put(job, job.line(edit.line), lambda line: removed(line, edit.index))
        case SetClosed():
            return _put(job, job.line(edit.line), lambda line: made_closed(line, edit.closed))
        case SetLeg():
            return _put(job, job.line(edit.line), lambda line: leg_changed(line, known_leg(line, edit.leg), edit.changes))
        case ShapeLeg():
            return _put(job, job.line(edit.line), lambda line: shaped(line, edit))
        case UnshapeLeg():
            return _put(job, job.line(edit.line), lambda line: unshaped(line, edit))
        case BendLeg():
            return _put(job, job.line(edit.line), lambda line: bent(line, edit))
        case TurnLeg():
            return _put(job, job.line(edit.line), lambda line: screwed(line, edit))
        case MakeTangent():
            return _put(job, job.line(edit.line), lambda line: made_tangent(line, edit.leg))
        case RoundCorners():
            return _put(job, job.line(edit.line), lambda line: rounded(line, edit))
        case AddOpenings():
            return _parts_added(job, edit.line, "openings", edit.openings)
        case SetOpening():
            return _part_set(job, edit.line, "openings", edit.opening, edit.changes)
        case RemoveOpenings():
            line = job.line(edit.line)
            for index, id in enumerate(edit.openings):
                _part(line, "openings", id, f"openings.{index}")
            return without_openings(job, line, set(edit.openings))
        case AddMarks():
            return _parts_added(job, edit.line, "marks", edit.marks)
        case SetMark():
            return _part_set(job, edit.line, "marks", edit.mark, edit.changes)
        case RemoveMarks():
            return _marks_removed(job, edit)
        case SplitLine():
            return _split(job, edit)
        case JoinLines():
            return _joined(job, edit)
        case ReverseLines():
            return turned_round(job, edit.lines)
        case StartLineAt():
            return _put(job, job.line(edit.line), lambda line: start_at(line, edit.at))
        case AddMade():
            return _add_made(job, edit)
        case SetMade():
            return _put(job, job.line(edit.line), lambda line: _made_set(job, line, edit.changes))
        case MirrorLines():
            return _copied(job, edit.lines, [mirroring(edit.a, edit.b)], edit.copies)
        case CopyLines():
            times = range(1, edit.times + 1) if edit.copies else (edit.times,)
            return _copied(job, edit.lines, [turning(edit.turn, edit.about, edit.by, time) for time in times], edit.copies)
        case SimplifyLines():
            for id in edit.lines:
                job = _put(job, job.line(id), lambda line: simplified(line, edit.tolerance)[0])
            return job
        case AddRegion():
            lines = job.lines if edit.lines is None else [job.line(id) for id in edit.lines]
            start, legs = region(lines, edit.point)
            return _new_line(job, LineBody(name=edit.name, start=start, legs=legs, closed=True))


def _put(job: Job, line: Line, change: Callable[[Line], Line]) -> Job:
    look_up()
    changed = change(line)
    return job.model_copy(update={"lines": tuple(changed if old.id == line.id else old for old in job.lines)})


def _point_moved(line: Line, edit: MoveVertex) -> Line:
    index = known_point(line, edit.index)
    old = line.legs[index - 1].to if index else line.start
    return moved_point(line, index, place([b if a is None else a for a, b in zip(edit.to, old, strict=True)]))


def _made_set(job: Job, line: Line, changes: MadeChanges | None) -> Line:
    if changes is None:
        return line.model_copy(update={"made": None})
    if line.made is None or changes.kind not in (None, line.made.kind):
        try:
            made = _MADE.validate_python(changes.model_dump(exclude_unset=True))
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            raise Refused(f"{line.name} cannot be made so: {first['msg'].lower()}.", "changes", "invalid") from error
        return line.model_copy(update={"made": with_system(job, made)})
    if "text" in changes.model_fields_set and "system" not in changes.model_fields_set:
        # What is written anew is written in the units the job has now.
        changes = MadeChanges.model_validate({**changes.model_dump(exclude_unset=True), "system": job.units.system})
    return line.model_copy(update={"made": changed(line.made, changes)})


_MADE: TypeAdapter[Walk | Offset | Midway] = TypeAdapter(Made)


def _parts_added(job: Job, id: str, group: Literal["openings", "marks"], parts: Sequence[Opening | Mark]) -> Job:
    line = job.line(id)
    with_new = line.model_copy(update={group: (*getattr(line, group), *(part.model_copy(update={"id": None}) for part in parts))})
    (line,), number = identified(job, [with_new])
    return put_line(job, line).model_copy(update={"last_number": number})


def _part(line: Line, group: Literal["openings", "marks"], id: str, where: str) -> int:
    for index, part in enumerate(getattr(line, group)):
        if part.id == id:
            return index
    raise Refused(f"{line.name} has no {group[:-1]} {id}: it may have been removed.", where, "unknown-id")


def _part_set(job: Job, id: str, group: Literal["openings", "marks"], part: str, changes: OpeningChanges | MarkChanges) -> Job:
    line = job.line(id)
    index = _part(line, group, part, group[:-1])
    parts = list(getattr(line, group))
    # Whoever says anything of it has seen where it is.
    parts[index] = changed(parts[index].model_copy(update={"unsettled": False}), changes)
    return put_line(job, line.model_copy(update={group: tuple(parts)}))


def _marks_removed(job: Job, edit: RemoveMarks) -> Job:
    line = job.line(edit.line)
    for index, id in enumerate(edit.marks):
        _part(line, "marks", id, f"marks.{index}")
    for row in job.rows:
        if row.line == line.id and {row.from_mark, row.to_mark} & set(edit.marks):
            raise Refused(f"{row.name} is set out from or to that place: choose another for it first.", "marks", "in-use")
    return put_line(job, line.model_copy(update={"marks": tuple(mark for mark in line.marks if mark.id not in edit.marks)}))


def _added(job: Job, edit: AddLines) -> Job:
    origin = job.origin
    if edit.origin is not None and edit.origin != job.origin:
        if job.lines:
            raise Refused("The job's place on the site is settled by its first lines and cannot change now.", "origin", "origin")
        origin = edit.origin
    first = job.last_number + 1
    named = job.model_copy(update={"last_number": job.last_number + len(edit.lines)})
    bodies, number = identified(named, edit.lines, anew=True)
    lines = tuple(with_ids(bodies, first))
    return job.model_copy(update={"lines": job.lines + lines, "last_number": number, "origin": origin})


def _new_line(job: Job, body: LineBody) -> Job:
    return _added(job, AddLines(lines=(body,)))


def _split(job: Job, edit: SplitLine) -> Job:
    line = job.line(edit.line)
    first, second = split(line, edit.at)
    first = first.model_copy(update={"made": None})
    id = line.id
    if second is not None:
        id = f"L{job.last_number + 1}"
        second = second.model_copy(update={"id": id, "name": f"{line.name}, part 2"[:120], "made": None})
        job = job.model_copy(update={"lines": (*job.lines, second), "last_number": job.last_number + 1})
    job = put_line(job, first)
    for thing in on_line(job, line.id):
        here, there = split_between(thing, line, first, second, edit.at)
        if here is not None:
            job = _put_thing(job, here)
        if there is not None:
            # What has no part on the first line goes over to the second as it is.
            job = _duplicated(job, there, id) if here is not None else _put_thing(job, there.model_copy(update={"line": id}))
    return job


def _put_thing(job: Job, thing: Run | Row) -> Job:
    group = "runs" if isinstance(thing, Run) else "rows"
    return job.model_copy(update={group: tuple(thing if old.id == thing.id else old for old in getattr(job, group))})


def _duplicated(job: Job, thing: Run | Row, line: str) -> Job:
    """Return the job with a run or row on another line as well."""
    number = job.last_number + 1
    letter, group = ("R", "runs") if isinstance(thing, Run) else ("I", "rows")
    changes = {"id": f"{letter}{number}", "line": line, "tag": free_tag(job, thing.name), "name": f"{thing.name}, part 2"[:120]}
    again = thing.model_copy(update=changes)
    return job.model_copy(update={group: (*getattr(job, group), again), "last_number": number})


def _joined(job: Job, edit: JoinLines) -> Job:
    if len(set(edit.lines)) != len(edit.lines):
        raise Refused("A line is chosen twice: choose each once.", "lines", "line-twice")
    lines = [job.line(id) for id in edit.lines]
    way = join_lines(lines, edit.tolerance)
    # Those that lay the wrong way round are turned first, with all that stands on them.
    job = turned_round(job, [id for id in edit.lines if id in way.reversed])
    lines = [job.line(id) for id in edit.lines]
    joined = join_lines(lines, edit.tolerance).line.model_copy(update={"id": lines[0].id, "name": lines[0].name, "made": None})
    ordered = [job.line(id) for id in way.order]
    gone = set(edit.lines[1:])
    kept = tuple(joined if line.id == joined.id else line for line in job.lines if line.id not in gone)
    rows: list[Row] = []
    for row in job.rows:
        row = row.model_copy(update={"line": joined.id}) if row.line in gone else row
        # What is set out along both parts alike is set out along the whole once.
        if not (row.line == joined.id and any(_likeness(row) == _likeness(other) for other in rows if other.line == joined.id)):
            rows.append(row)
    return job.model_copy(update={"lines": kept, "runs": _runs_joined(job, joined, ordered), "rows": tuple(rows)})


def _runs_joined(job: Job, joined: Line, ordered: Sequence[Line]) -> tuple[Run, ...]:
    parts = {line.id for line in ordered}
    alike: dict[str, list[Run]] = {}
    for run in job.runs:
        if run.line in parts:
            alike.setdefault(_likeness(run), []).append(run)
    runs = []
    for run in job.runs:
        if run.line in parts:
            same = alike[_likeness(run)]
            if run is not same[0]:
                continue
            stretches = None
            if any(one.stretches is not None for one in same):
                found = [part for one in same for part in joined_stretches(one, ordered, joined.closed)]
                everywhere = {one.between for one in stretches_between(joined, course_of(joined).length)}
                stretches = None if everywhere <= set(found) else tuple(dict.fromkeys(found))
            run = run.model_copy(update={"line": joined.id, "stretches": stretches})
        runs.append(run)
    return tuple(runs)


def _likeness(thing: Run | Row) -> str:
    return thing.model_dump_json(exclude={"id", "name", "tag", "line", "stretches"})


def _add_made(job: Job, edit: AddMade) -> Job:
    made = with_system(job, edit.made)
    assert made is not None  # an edit that adds a line says how
    start, legs, closed = made_geometry(job, made)
    keeps: Made | None = made if edit.follows else None
    return _new_line(job, LineBody(name=edit.name, start=start, legs=legs, closed=closed, made=keeps))


def _copied(job: Job, ids: Sequence[str], motions: Sequence[Motion], copies: bool) -> Job:
    """Return the job with lines copied once by each motion, or moved by the first with what stands on them."""
    if len(ids) * len(motions) > 50_000:
        raise Refused(f"That would make {len(ids) * len(motions):,} lines; 50,000 is the most.", "times", "too-many")
    if not copies:
        motion = motions[0]
        for id in dict.fromkeys(ids):
            look_up()
            job = put_line(job, _near(moved_by(job.line(id), motion)).model_copy(update={"made": None}))
            job = turned_over(job, id, motion.move) if motion.over else moved_with(job, id, motion.move)
        return job
    bodies = []
    for time, motion in enumerate(motions, 1):
        for id in ids:
            look_up()
            line = job.line(id)
            name = f"{line.name}, copy" if len(motions) == 1 else f"{line.name}, copy {time}"
            changes: dict[str, object] = {"name": name[:120], "made": None, "source": None, "undrawn": ""}
            if motion.over:
                changes["wall"] = wall_over(line)
            copy = _near(moved_by(line, motion)).model_copy(update=changes)
            bodies.append(LineBody(**{field: getattr(copy, field) for field in LineBody.model_fields}))
    return _added(job, AddLines(lines=tuple(bodies)))


def _near(line: Line) -> Line:
    if max(abs(value) for value in line.start) > FARTHEST:
        raise Refused("It would lie more than ten thousand kilometres away: check the distance.", "by", "far")
    return line

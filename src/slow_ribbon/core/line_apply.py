"""Making edits of lines."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from slow_ribbon.core.course import course_of
from slow_ribbon.core.derived import region
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.follow import made_geometry, with_system
from slow_ribbon.core.job import Job
from slow_ribbon.core.leg_spans import spans_of
from slow_ribbon.core.legs import AnyLeg, ArcLeg, HelixLeg, StraightLeg, helix_end, place
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
from slow_ribbon.core.line_work import halves, join_lines, leg_begins, mirrored, moved_point, reverse, simplified, split, start_at, turned
from slow_ribbon.core.made import Made
from slow_ribbon.core.model import Point3
from slow_ribbon.core.parts import line_parts
from slow_ribbon.core.row import Row
from slow_ribbon.core.run import FacingSide, Run
from slow_ribbon.core.tags import free_tag, tagged_things
from slow_ribbon.core.units import FARTHEST, WELD
from slow_ribbon.core.walk import tangent_arc


def line_changed(job: Job, edit: LineEdit) -> Job:
    """Return the job after an edit of its lines, not yet checked."""
    match edit:
        case AddLines():
            return _added(job, edit)
        case SetLine():
            return _put(job, job.line(edit.line), lambda line: _with(line, edit))
        case MoveVertex():
            return _put(job, job.line(edit.line), lambda line: moved_point(line, _point(line, edit.index), edit.to))
        case InsertVertex():
            return _put(job, job.line(edit.line), lambda line: _inserted(line, edit))
        case RemoveVertex():
            return _put(job, job.line(edit.line), lambda line: _removed(line, edit.index))
        case SetClosed():
            return _put(job, job.line(edit.line), lambda line: _closed(line, edit.closed))
        case SetLeg():
            return _put(job, job.line(edit.line), lambda line: _leg_set(line, _leg(line, edit.leg), edit.to_be))
        case BendLeg():
            return _put(job, job.line(edit.line), lambda line: _bent(line, edit))
        case TurnLeg():
            return _put(job, job.line(edit.line), lambda line: _screwed(line, edit))
        case MakeTangent():
            return _put(job, job.line(edit.line), lambda line: _tangent(line, edit.leg))
        case RoundCorners():
            return _put(job, job.line(edit.line), lambda line: _rounded(line, edit))
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


def point_count(line: Line) -> int:
    """Return how many points a line has."""
    return len(line.legs) + (0 if line.closed else 1)


def _point(line: Line, index: int) -> int:
    if index >= point_count(line):
        raise Refused(f"{line.name} has {point_count(line)} points; there is no point {index + 1}.", "index", "unknown-point")
    return index


def _leg(line: Line, leg: int) -> int:
    if leg >= len(line.legs):
        raise Refused(f"{line.name} has {len(line.legs)} legs; there is no leg {leg + 1}.", "leg", "unknown-leg")
    return leg


def _inserted(line: Line, edit: InsertVertex) -> Line:
    if edit.leg > len(line.legs) or (edit.leg == len(line.legs) and line.closed):
        raise Refused(f"{line.name} has {len(line.legs)} legs; there is no leg {edit.leg + 1}.", "leg", "unknown-leg")
    legs = list(line.legs)
    if edit.leg == len(legs):
        return line.model_copy(update={"legs": (*legs, StraightLeg(to=edit.at))})
    old = legs[edit.leg]
    if isinstance(old, StraightLeg):
        legs[edit.leg : edit.leg + 1] = [StraightLeg(to=edit.at), old]
        return line.model_copy(update={"legs": tuple(legs)})
    # A curve is cut where it comes nearest to the place, and keeps its shape; then the new point is moved there.
    plain = line.model_copy(update={"openings": (), "marks": ()})
    chainage = _nearest_on_leg(plain, edit.leg, edit.at)
    parted = halves(plain, chainage)
    cut = line.model_copy(update={"legs": (*parted.before, *parted.after)})
    return moved_point(cut, len(parted.before), edit.at) if math.dist(parted.point, edit.at) > WELD else cut


def _nearest_on_leg(line: Line, leg: int, place_near: Point3) -> float:
    at, best = 0.0, (math.inf, 0.0)
    for part in line_parts(line):
        if part.leg == leg and not part.rounding:
            places = np.linspace(0, part.span.length, 2001)[1:-1]
            away = np.linalg.norm(part.span.at(places)[0] - np.array(place_near), axis=1)
            nearest = int(np.argmin(away))
            best = min(best, (float(away[nearest]), at + float(places[nearest])))
        at += part.span.length
    return best[1]


def _removed(line: Line, index: int) -> Line:
    _point(line, index)
    least = 2 if not line.closed else 3 if all(isinstance(leg, StraightLeg) for leg in line.legs) else 2
    if point_count(line) <= least:
        kind = "A closed" if line.closed else "An open"
        raise Refused(f"{kind} line keeps at least {least} points; remove the whole line instead.", "index", "line-short")
    legs = list(line.legs)
    if index == 0:
        if line.closed:
            legs[-1] = StraightLeg(to=legs[0].to, round=legs[0].round)
        return line.model_copy(update={"start": legs[0].to, "legs": tuple(legs[1:])})
    if index == len(legs):
        legs.pop()
        legs[-1] = legs[-1].model_copy(update={"round": None})
        return line.model_copy(update={"legs": tuple(legs)})
    before, after = legs[index - 1], legs[index]
    legs[index - 1 : index + 1] = [_one_leg(line, before, after, index)]
    return line.model_copy(update={"legs": tuple(legs)})


def _one_leg(line: Line, before: AnyLeg, after: AnyLeg, index: int) -> AnyLeg:
    """Return the leg that takes the place of two: two parts of one circle make one arc again."""
    begin = leg_begins(line)[index - 1]
    if isinstance(before, ArcLeg) and isinstance(after, ArcLeg) and math.dist(begin, after.to) > WELD:
        (first,), (second,) = spans_of(before, begin), spans_of(after, before.to)
        centres = [getattr(span, "centre", None) for span in (first, second)]
        if math.dist(centres[0], centres[1]) < 1e-3:  # type: ignore[arg-type]
            return ArcLeg(to=after.to, via=before.to, round=after.round)
    return StraightLeg(to=after.to, round=after.round)


#: An open line whose ends are nearer than this, mm, and than a tenth of its length, is closed by moving its end.
NEARLY = 50.0


def _closed(line: Line, closed: bool) -> Line:
    if line.closed == closed:
        return line
    if not closed:
        last = line.legs[-1].model_copy(update={"round": None})
        return line.model_copy(update={"closed": False, "legs": (*line.legs[:-1], last)})
    gap = math.dist(line.start, line.legs[-1].to)
    if gap <= min(NEARLY, course_of(line).length / 10) and len(line.legs) > 1:
        return moved_point(line, len(line.legs), line.start).model_copy(update={"closed": True})
    return line.model_copy(update={"closed": True, "legs": (*line.legs, StraightLeg(to=line.start))})


def _leg_set(line: Line, index: int, leg: AnyLeg) -> Line:
    legs = list(line.legs)
    begin = leg_begins(line)[index]
    try:
        spans_of(leg, begin, "to_be")
    except Refused as refused:
        raise Refused(f"Leg {index + 1} of {line.name}: {refused.what}", refused.where, refused.code) from refused
    end = leg.to
    if math.dist(end, legs[index].to) <= WELD:
        legs[index] = leg.model_copy(update={"to": legs[index].to})
        return line.model_copy(update={"legs": tuple(legs)})
    moved = moved_point(line, (index + 1) % len(legs) if line.closed else index + 1, end)
    legs = list(moved.legs)
    legs[index] = leg
    return moved.model_copy(update={"legs": tuple(legs)})


def _bent(line: Line, edit: BendLeg) -> Line:
    index = _leg(line, edit.leg)
    begin, end = np.array(leg_begins(line)[index]), np.array(line.legs[index].to)
    chord = end - begin
    size = float(np.linalg.norm(chord))
    if edit.radius * 2 < size * (1 - 1e-12):
        raise Refused(
            f"Leg {edit.leg + 1} of {line.name} is {size:.1f} mm from end to end: no arc of radius {edit.radius:g} spans it. "
            f"The smallest that does is {size / 2:.2f}.",
            "radius",
            "radius-small",
        )
    flat = math.hypot(chord[0], chord[1])
    # Upright legs bulge in the plane of east and height.
    across = np.array([-chord[1], chord[0], 0.0]) / flat if flat > WELD else np.array([-1.0, 0.0, 0.0])
    if edit.side == "right":
        across = -across
    depth = math.sqrt(max(0.0, edit.radius**2 - size**2 / 4))
    sagitta = edit.radius + depth if edit.long else edit.radius - depth
    via = (begin + end) / 2 + across * sagitta
    return _leg_set(line, index, ArcLeg(to=line.legs[index].to, via=place(via), round=line.legs[index].round))


def _screwed(line: Line, edit: TurnLeg) -> Line:
    index = _leg(line, edit.leg)
    begin, end = leg_begins(line)[index], line.legs[index].to
    half = math.radians(edit.turn) / 2
    chord = np.subtract(end, begin)[:2]
    if abs(math.sin(half)) < 1e-9 or float(np.linalg.norm(chord)) < WELD:
        raise Refused(
            "A whole turn comes back over its beginning: give a turn that is not a multiple of 360°, or draw it as a walk.", "turn", "turn"
        )
    # The axis lies on the bisector of the chord, at half the chord over tan of half the turn.
    left = np.array([-chord[1], chord[0]])
    middle = np.add(begin[:2], end[:2]) / 2 + left / (2 * math.tan(half))
    centre = (float(middle[0]), float(middle[1]), begin[2])
    reached = helix_end(begin, centre, (0.0, 0.0, 1.0), edit.turn, end[2] - begin[2])
    return _leg_set(line, index, HelixLeg(to=end if math.dist(end, reached) < WELD else reached, centre=centre, turn=edit.turn))


def _tangent(line: Line, leg: int) -> Line:
    index = _leg(line, leg)
    if index == 0 and not line.closed:
        raise Refused("The first leg of an open line has no leg before it to leave in line with.", "leg", "unknown-leg")
    begin = leg_begins(line)[index]
    before = spans_of(line.legs[index - 1], leg_begins(line)[index - 1])[-1]
    along = before.at(np.array([before.length]))[1][0]
    old = line.legs[index]
    found = tangent_arc(begin, along, old.to) or StraightLeg(to=old.to)
    legs = list(line.legs)
    legs[index] = found.model_copy(update={"round": old.round})
    # Where it now leaves in line there is no corner to round.
    legs[index - 1] = legs[index - 1].model_copy(update={"round": None})
    return line.model_copy(update={"legs": tuple(legs)})


def _rounded(line: Line, edit: RoundCorners) -> Line:
    wanted = range(0 if line.closed else 1, len(line.legs)) if edit.points is None else edit.points
    legs = list(line.legs)
    for point in wanted:
        _point(line, point)
        if not line.closed and point in (0, len(legs)):
            raise Refused(f"Point {point + 1} of {line.name} is an end, not a corner: it has no radius.", "points", "round")
        index = point - 1 if point else len(legs) - 1
        if edit.points is None and edit.radius is not None and not _is_corner(line, point):
            continue
        legs[index] = legs[index].model_copy(update={"round": edit.radius})
    return line.model_copy(update={"legs": tuple(legs)})


def _is_corner(line: Line, point: int) -> bool:
    begins = leg_begins(line)
    before = spans_of(line.legs[point - 1], begins[point - 1])[-1]
    after = spans_of(line.legs[point], begins[point])[0]
    t1, t2 = before.at(np.array([before.length]))[1][0], after.at(np.zeros(1))[1][0]
    return float(np.linalg.norm(t1 - t2)) > math.radians(0.01)


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

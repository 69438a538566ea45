"""Edits of lines in words, for the history."""

from __future__ import annotations

from slow_ribbon.core.job import Job
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


def line_said(job: Job, edit: LineEdit) -> str:
    """Return an edit of lines in words; ``job`` is the job before it."""

    def name(id: str) -> str:
        return job.line(id).name

    def names(ids: tuple[str, ...]) -> str:
        return name(ids[0]) if len(ids) == 1 else f"{len(ids)} lines"

    match edit:
        case AddLines():
            return f"added line {edit.lines[0].name}" if len(edit.lines) == 1 else f"added {len(edit.lines)} lines"
        case SetLine():
            fields = [field for field in type(edit.changes).model_fields if field in edit.changes.model_fields_set]
            return f"changed {' and '.join(fields) or 'nothing'} of {name(edit.line)}"
        case MoveVertex():
            return f"moved point {edit.index + 1} of {name(edit.line)}"
        case InsertVertex():
            return f"put a point into {name(edit.line)}"
        case RemoveVertex():
            return f"took point {edit.index + 1} out of {name(edit.line)}"
        case SetClosed():
            return f"{'closed' if edit.closed else 'opened'} {name(edit.line)}"
        case SetLeg():
            return f"made leg {edit.leg + 1} of {name(edit.line)} {_kind(edit.to_be.kind)}"
        case BendLeg():
            return f"bent leg {edit.leg + 1} of {name(edit.line)} to a radius of {edit.radius:g}"
        case TurnLeg():
            return f"made leg {edit.leg + 1} of {name(edit.line)} a helix"
        case MakeTangent():
            return f"let leg {edit.leg + 1} of {name(edit.line)} leave in line"
        case RoundCorners():
            what = "all corners" if edit.points is None else "a corner" if len(edit.points) == 1 else f"{len(edit.points)} corners"
            return f"made {what} of {name(edit.line)} sharp" if edit.radius is None else f"rounded {what} of {name(edit.line)}"
        case SetOpenings():
            return f"set the openings of {name(edit.line)}"
        case SetMarks():
            return f"set the marks of {name(edit.line)}"
        case SplitLine():
            return f"split {name(edit.line)}"
        case JoinLines():
            return f"joined {len(edit.lines)} lines into {name(edit.lines[0])}"
        case ReverseLines():
            return f"reversed {names(edit.lines)}"
        case StartLineAt():
            return f"moved the start of {name(edit.line)}"
        case AddMade():
            return f"added line {edit.name}"
        case SetMade():
            return f"let {name(edit.line)} follow no more" if edit.made is None else f"changed how {name(edit.line)} is made"
        case MirrorLines():
            return f"mirrored {names(edit.lines)}"
        case CopyLines():
            return f"{'copied' if edit.copies else 'moved'} {names(edit.lines)}"
        case SimplifyLines():
            return f"simplified {names(edit.lines)}"
        case AddRegion():
            return f"added line {edit.name}"


def _kind(kind: str) -> str:
    return {"straight": "straight", "arc": "an arc", "through": "a smooth curve", "cord": "a hanging cord"}.get(kind, f"a {kind}")

"""Edits of lines in words, for the history."""

from __future__ import annotations

from collections.abc import Sequence

from slow_ribbon.core.job.document import Job
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
from slow_ribbon.core.lines.model import Mark, Opening


def line_said(job: Job, edit: LineEdit) -> str:
    """Return an edit of lines in words; ``job`` is the job before it."""

    def name(id: str) -> str:
        return job.line(id).name

    def all_of(ids: tuple[str, ...]) -> str:
        return name(ids[0]) if len(ids) == 1 else f"{len(ids)} lines"

    match edit:
        case AddLines():
            return f"added line {edit.lines[0].name}" if len(edit.lines) == 1 else f"added {len(edit.lines)} lines"
        case RenewLines():
            moved = sum(one.body is not None for one in edit.renewed)
            told = [f"{number} {word}" for number, word in ((moved, "moved"), (len(edit.gone), "gone")) if number]
            return f"brought in {edit.file} again: {', '.join(told) or 'nothing moved'}"[:200]
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
            return (
                f"made leg {edit.leg + 1} of {name(edit.line)} {_kind(edit.changes.kind)}"
                if edit.changes.kind
                else f"changed leg {edit.leg + 1} of {name(edit.line)}"
            )
        case ShapeLeg():
            return f"shaped leg {edit.leg + 1} of {name(edit.line)}"
        case UnshapeLeg():
            return f"took a point out of leg {edit.leg + 1} of {name(edit.line)}"
        case BendLeg():
            return f"bent leg {edit.leg + 1} of {name(edit.line)}"
        case TurnLeg():
            return f"made leg {edit.leg + 1} of {name(edit.line)} a helix"
        case MakeTangent():
            return f"let leg {edit.leg + 1} of {name(edit.line)} leave in line"
        case RoundCorners():
            what = "all corners" if edit.points is None else "a corner" if len(edit.points) == 1 else f"{len(edit.points)} corners"
            return f"made {what} of {name(edit.line)} sharp" if edit.radius is None else f"rounded {what} of {name(edit.line)}"
        case AddOpenings():
            return f"added {_parts([one.name for one in edit.openings], 'openings')} to {name(edit.line)}"
        case SetOpening():
            return f"changed {_named(job.line(edit.line).openings, edit.opening)} of {name(edit.line)}"
        case RemoveOpenings():
            names = [_named(job.line(edit.line).openings, id) for id in edit.openings]
            return f"took {_parts(names, 'openings')} out of {name(edit.line)}"
        case AddMarks():
            return f"named {_parts([one.name for one in edit.marks], 'places')} on {name(edit.line)}"
        case SetMark():
            return f"changed {_named(job.line(edit.line).marks, edit.mark)} of {name(edit.line)}"
        case RemoveMarks():
            names = [_named(job.line(edit.line).marks, id) for id in edit.marks]
            return f"took {_parts(names, 'marks')} out of {name(edit.line)}"
        case SplitLine():
            return f"split {name(edit.line)}"
        case JoinLines():
            return f"joined {len(edit.lines)} lines into {name(edit.lines[0])}"
        case ReverseLines():
            return f"reversed {all_of(edit.lines)}"
        case StartLineAt():
            return f"moved the start of {name(edit.line)}"
        case AddMade():
            return f"added line {edit.name}"
        case SetMade():
            return f"let {name(edit.line)} follow no more" if edit.changes is None else f"changed how {name(edit.line)} is made"
        case MirrorLines():
            return f"mirrored {all_of(edit.lines)}"
        case CopyLines():
            return f"{'copied' if edit.copies else 'moved'} {all_of(edit.lines)}"
        case SimplifyLines():
            return f"simplified {all_of(edit.lines)}"
        case AddRegion():
            return f"added line {edit.name}"


def _named(parts: Sequence[Opening | Mark], id: str) -> str:
    return next((part.name for part in parts if part.id == id), id)


def _parts(names: list[str], what: str) -> str:
    return names[0] if len(names) == 1 else f"{len(names)} {what}"


def _kind(kind: str) -> str:
    return {"straight": "straight", "arc": "an arc", "through": "a smooth curve", "cord": "a hanging cord"}.get(kind, f"a {kind}")

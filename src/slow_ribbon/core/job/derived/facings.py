"""Runs that face into a room: which side that is, found again when the lines that bound it change."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, Literal

from slow_ribbon.core.job.derived.expansion import Expansion, Follow, Step
from slow_ribbon.core.job.document.kinds import LINES, RULES, RUNS
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.model import Line
from slow_ribbon.core.runs.placement.interior_side import room_is_right
from slow_ribbon.core.runs.placement.placing import FacingRoom, FacingSide
from slow_ribbon.core.runs.placement.run import Run


def _faces_room(run: Run) -> bool:
    return run.placing.facing.into_room


def _wall(expansion: Expansion, id: str) -> Line | None:
    """Return a line that bounds a room; in place of one set out for a run, which follows where the run faces, the one beside it."""
    line: Line | None = expansion.find(LINES, id)
    while line is not None and line.made is not None and line.made.for_run is not None:
        line = expansion.find(LINES, line.made.stands_on()[0])
    return line


def _bounding(run: Run) -> set[str]:
    return {run.line, *run.placing.facing.bounding}


def _follows(expansion: Expansion, run: Run) -> Iterator[Follow]:
    for id in _bounding(run):
        wall = _wall(expansion, id)
        yield (id if wall is None else wall.id), None


def _derived(expansion: Expansion, run: Run) -> Run:
    facing = run.placing.facing
    assert isinstance(facing, FacingRoom)  # the step concerns no other
    wall = _wall(expansion, run.line)
    if wall is None:
        return run
    # A copy of a run came with the lines of the room it was copied from, which are not its own.
    copied = bool(facing.lines) and run.line not in facing.lines
    others = () if copied else tuple(id for id in facing.lines if id != run.line and expansion.find(LINES, id) is not None)
    try:
        right = room_is_right(wall, [line for id in others if (line := _wall(expansion, id)) is not None])
    except Refused as refused:
        side: Literal["left", "right"] = run.room_side or "right"
        if copied:
            return run.model_copy(update={"room_side": None, "placing": run.placing.model_copy(update={"facing": FacingSide(kind=side)})})
        if _asked(expansion, run):
            raise
        expansion.notices.append(f"{run.name} keeps facing the side it faced: {refused.what}")
    else:
        side = "right" if right else "left"
    placing = run.placing
    if run.rule is None and facing.lines != (run.line, *others):
        placing = placing.model_copy(update={"facing": FacingRoom(lines=(run.line, *others))})
    return run.model_copy(update={"room_side": side, "placing": placing})


def _asked(expansion: Expansion, run: Run) -> bool:
    """Return whether an edit let a run face a room, or a room of other lines; a line that its rule came upon later did not ask."""
    was = expansion.earlier(RUNS, run.id)
    if run.rule is not None and expansion.earlier(RULES, run.rule) == expansion.find(RULES, run.rule):
        return False
    return was is None or was.placing.facing != run.placing.facing or was.line != run.line


#: The side on which the room of a run lies. It is remembered: lines that bound a room no more leave it as it was.
ROOM_SIDES: Final = Step(
    name="room",
    kind=RUNS,
    concerns=_faces_room,
    follows=_follows,
    derive=_derived,
    remembered=True,
)

"""Runs that face into a room: which side that is, found again when the lines that bound it change."""

from __future__ import annotations

from slow_ribbon.core.job.document.delta import unlike_parts
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.runs.placement.interior_side import room_is_right
from slow_ribbon.core.runs.placement.placing import FacingRoom, FacingSide
from slow_ribbon.core.runs.placement.run import Run


def rooms_faced(before: Job, after: Job, notices: list[str]) -> Job:
    """Return a job, just edited, in which runs that face into a room face it; what bounds none any more is noted.

    Raises ``Refused`` where a run was let face a room and its lines bound none.
    """
    if before.lines is after.lines and before.runs is after.runs:
        return after
    was, now, _ = unlike_parts(before.runs, after.runs)
    old = {run.id: run for run in was}
    changed = {run.id for run in now if old.get(run.id) != run}
    lines_were, lines_are, _ = unlike_parts(before.lines, after.lines)
    moved = {line.id for line in (*lines_were, *lines_are)}
    # A line that comes later is not kept out by a rule that it does not suit.
    new_rules = {rule.id for rule in after.rules} - {rule.id for rule in before.rules if rule in after.rules}
    for run in after.runs if moved else now:
        facing = run.placing.facing
        if not isinstance(facing, FacingRoom) or (run.id not in changed and moved.isdisjoint({run.line, *facing.lines})):
            continue
        known = {line.id: line for line in after.some("lines", {run.line, *facing.lines})}
        if run.line not in known:
            continue
        # A copy of a run came with the lines of the room it was copied from, which are not its own.
        copied = bool(facing.lines) and run.line not in facing.lines
        others = () if copied else tuple(id for id in facing.lines if id in known and id != run.line)
        try:
            right = room_is_right(known[run.line], [known[id] for id in others])
        except Refused as refused:
            if copied:
                side = FacingSide(kind="right" if facing.right else "left")
                after = after.put(run.model_copy(update={"placing": run.placing.model_copy(update={"facing": side})}))
                continue
            if run.id in changed and _asked(old.get(run.id), run) and (run.rule is None or run.rule in new_rules):
                raise
            notices.append(f"{run.name} keeps facing the side it faced: {refused.what}")
            right = facing.right
        facing = FacingRoom(lines=(run.line, *others), right=right)
        if facing != run.placing.facing:
            after = after.put(run.model_copy(update={"placing": run.placing.model_copy(update={"facing": facing})}))
    return after


def _asked(before: Run | None, run: Run) -> bool:
    """Return whether an edit let a run face a room, or a room of other lines."""
    return before is None or before.placing.facing != run.placing.facing or before.line != run.line

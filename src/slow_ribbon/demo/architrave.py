"""An architrave drawn on the desk: a board of straights, cut and shaped, with what its maker wants kept of it held true."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import (
    AddSection,
    CutOutlineCorner,
    Edit,
    HoldOutline,
    PutOutlinePoint,
    RowChange,
    SetOutlineFigure,
    SetRange,
    SetSizes,
    ShapeOutlineEdge,
    SizeChange,
    apply_all,
)
from slow_ribbon.core.sections import Apart, Level, SectionBody, Upright, outline_by_points

#: The board: its back on the wall, a quirk under the moulding, mm.
_BOARD: Final = ((0.0, 0.0), (16.0, 0.0), (16.0, 52.0), (20.0, 52.0), (20.0, 74.0), (9.0, 90.0), (0.0, 90.0))
#: The edge that becomes the moulding.
_MOULDING: Final = 4


def with_architrave(job: Job) -> Job:
    """Return a job with the architrave as one more of its sections."""
    board = SectionBody(
        name="Architrave, drawn here", outline=outline_by_points(_BOARD), width=20, height=90, grows="kept", material="painted"
    )
    job = apply_all(job, [AddSection(section=board)]).job
    section = f"S{job.last_number}"
    ends = [(i, (i + 1) % len(_BOARD)) for i in range(len(_BOARD)) if i != _MOULDING]
    straight = [
        HoldOutline(section=section, held=(Level if _BOARD[a][1] == _BOARD[b][1] else Upright)(a=(0, a), b=(0, b))) for a, b in ends
    ]
    edits: list[Edit] = [
        *straight,
        SetOutlineFigure(section=section, figure=Apart(a=(0, 6), b=(0, 5), value=9), hold=True),
        SetOutlineFigure(section=section, figure=Apart(a=(0, 0), b=(0, 1), value=16), hold=True),
        # The moulding: a hollow between two rounds.
        ShapeOutlineEdge(section=section, edge=_MOULDING, shape="curve", by=((20, 80), (9, 80))),
        PutOutlinePoint(section=section, edge=_MOULDING, at=(14.5, 80)),
        CutOutlineCorner(section=section, point=1, how="round", size=3),
        # Made in three heights, its moulding the same in each; the largest from a thicker board.
        SetSizes(section=section, sizes=(SizeChange(name="board", text="16"), SizeChange(name="height", text="90", least=60, most=150))),
        SetOutlineFigure(section=section, figure=Apart(a=(0, 0), b=(0, 2), way="across", value=16, text="board"), hold=True),
        SetRange(
            section=section,
            rows=(
                RowChange(name="70", values={"height": 70}),
                RowChange(name="90", values={"height": 90}),
                RowChange(name="120", values={"height": 120, "board": 18}),
            ),
        ),
    ]
    return apply_all(job, edits).job

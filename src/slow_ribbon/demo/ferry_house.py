"""The Kestrel Slip ferry house, an invented small ferry terminal: a waiting hall and a quay.

All names and figures are invented.
"""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.apply import apply_all
from slow_ribbon.core.edits import AddRow, AddRuns, AddSection, Edit, RunChanges, SetRun
from slow_ribbon.core.job import Job
from slow_ribbon.core.library import from_library
from slow_ribbon.core.line import LineBody, Wall, line_body
from slow_ribbon.core.line_edits import AddLines
from slow_ribbon.core.row import BoxItem, RoundItem, RowBody, Seat
from slow_ribbon.core.run import FacingPoint, FacingSide, Placing
from slow_ribbon.core.spacing import EqualBays, FixedCentres, Spacing

#: The demo's id in the store, so that it is loaded once.
DEMO_ID: Final = "kestrel-slip"

#: Corners of the waiting hall, anticlockwise seen from above, mm.
HALL: Final = [
    (0, 0), (8600, 0), (8600, 1200), (12400, 1200), (14000, 2800), (14000, 6400), (12800, 8000),
    (7400, 8000), (7400, 6700), (6300, 6700), (6300, 8000), (2200, 8000), (0, 6600),
]  # fmt: skip
MIDDLE: Final = (6800.0, 4000.0, 0.0)
QUAY: Final = [(-5200, -7200), (2600, -8900), (10400, -8900), (17200, -7000), (20800, -3200)]
LAMPS: Final = [(-4700, -5600), (2750, -7300), (10250, -7300), (16300, -5600), (19300, -2400)]
RAMP: Final = [(14900, 5700, 900), (16800, 5700, 900), (16800, 1700, 560), (16800, 200, 560)]


def _level(points: list[tuple[int, int]], name: str, closed: bool = False, wall: Wall | None = None) -> LineBody:
    return line_body([(x, y, 0) for x, y in points], closed, name, wall=wall)


def ferry_house() -> Job:
    """Return the demo job."""
    east_door, south_door = ((14000, 3900), (14000, 5100)), ((3200, 0), (5000, 0))
    # Drawn against one another, as stretches from a drawing often are: facing puts both right.
    south_east = [south_door[1], *HALL[1:5], east_door[0]]
    north_west = [south_door[0], HALL[0], *reversed(HALL[5:]), east_door[1]]
    job, _ = apply_all(Job(name="Kestrel Slip ferry house"), _edits(south_east, north_west))
    return job


def _edits(south_east: list[tuple[int, int]], north_west: list[tuple[int, int]]) -> list[Edit]:
    room = FacingPoint(point=MIDDLE)
    lines: Edit = AddLines(
        lines=(
            _level(north_west, "Hall floor, door to door", wall=Wall(height=3000, thickness=200, side="left")),
            _level(south_east, "Hall floor, south-east", wall=Wall(height=3000, thickness=200, side="right")),
            _level(HALL, "Hall walls", closed=True),
            _level(QUAY, "Quay edge"),
            _level(LAMPS, "Lamp line"),
            line_body(RAMP, False, "Boarding ramp"),
        )
    )
    keys = ("skirting-chamfered", "picture-rail", "cornice-sprung", "fence-rail", "handrail-moulded")
    sections: list[Edit] = [AddSection(section=from_library(key)) for key in keys]
    skirting, picture_rail, cornice, rail, handrail = (f"S{7 + index}" for index in range(5))
    fence = FacingSide(kind="right")
    runs: list[Edit] = [
        AddRuns(section=skirting, lines=("L1",), placing=Placing(facing=room), name="Skirting, door to door"),
        AddRuns(section=skirting, lines=("L2",), placing=Placing(facing=room), name="Skirting, south-east"),
        AddRuns(section=picture_rail, lines=("L3",), placing=Placing(facing=room, lift=2150), name="Picture rail"),
        AddRuns(section=cornice, lines=("L3",), placing=Placing(facing=room, lift=3000), name="Cornice"),
        AddRuns(section=rail, lines=("L4",), placing=Placing(facing=fence, lift=420), name="Fence, lower rail"),
        AddRuns(section=rail, lines=("L4",), placing=Placing(facing=fence, lift=960), name="Fence, upper rail"),
        AddRuns(section=handrail, lines=("L6",), placing=Placing(facing=fence), name="Ramp handrail"),
    ]
    tags = ("S", "SE", "P", "C", "FL", "FU", "R")
    runs += [SetRun(run=f"R{12 + index}", changes=RunChanges(tag=tag)) for index, tag in enumerate(tags)]
    posts = RowBody(
        name="Fence posts",
        line="L4",
        item=BoxItem(along=90, across=90, height=1150),
        seat=Seat(across=45),
        spacing=Spacing(rule=EqualBays(most=1900), corners="restart"),
        material="softwood",
    )
    lamps = RowBody(
        name="Bollard lights",
        line="L5",
        item=RoundItem(diameter=150, height=950),
        spacing=Spacing(rule=FixedCentres(centres=2800, origin="centred"), inset_start=600, inset_end=600),
        material="steel",
    )
    return [lines, *sections, *runs, AddRow(row=posts), AddRow(row=lamps)]

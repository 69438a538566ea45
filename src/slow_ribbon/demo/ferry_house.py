"""The Kestrel Slip ferry house, an invented small ferry terminal: a waiting hall and a quay.

All names and figures are invented.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from slow_ribbon.core.job import Job, PictureBody
from slow_ribbon.core.job.edits import (
    AddLines,
    AddMade,
    AddMarks,
    AddOpenings,
    AddPicture,
    AddRow,
    AddRuns,
    AddSection,
    Edit,
    MakeTangent,
    NumberAnew,
    PlacingChanges,
    RunChanges,
    SetGroup,
    SetLineOut,
    SetMeasures,
    SetPlacing,
    SetRun,
    apply,
    apply_all,
)
from slow_ribbon.core.kernel import MeasureChange, Point3
from slow_ribbon.core.lines import AnyLeg, ArcLeg, CordLeg, LineBody, Mark, Offset, Opening, StraightLeg, Walk, Wall, line_body
from slow_ribbon.core.rows import (
    BalusterItem,
    BollardItem,
    ClearGap,
    EqualBays,
    FixedCentres,
    ItemPattern,
    LampItem,
    NearestBays,
    OtherItem,
    PostItem,
    RoundItem,
    RowBody,
    Seat,
    SetNumber,
    Spacing,
)
from slow_ribbon.core.runs import Between, Capped, FacingPoint, FacingSide, Placing, Returned
from slow_ribbon.core.sections import NamedDatum, from_library
from slow_ribbon.demo.architrave import with_architrave
from slow_ribbon.demo.benches import with_bench
from slow_ribbon.demo.festoon import with_festoon
from slow_ribbon.demo.garden import with_garden
from slow_ribbon.demo.gate_tie import with_gate_tie
from slow_ribbon.demo.goods_ramp import with_goods_ramp
from slow_ribbon.demo.rail_picture import rail_picture
from slow_ribbon.demo.shop_sections import with_shop_sections
from slow_ribbon.demo.slipway import with_slipway_walk, with_wind_screen
from slow_ribbon.demo.survey import ACROSS, EAST, HIGH, NORTH, SCALE, survey_content, survey_sheet
from slow_ribbon.demo.windows import with_windows

#: The demo's id in the store, so that it is loaded once.
DEMO_ID: Final = "kestrel-slip"

Point2 = tuple[float, float]

#: The waiting hall's walls before its round end, from the south door on, and after it, to the north door; mm.
SOUTH_EAST: Final[list[Point2]] = [(5000, 0), (5900, 0), (5900, 250), (6900, 250), (6900, 0), (8600, 0), (8600, 1200), (12400, 1200)]
ROUND_END: Final[tuple[Point2, Point2]] = ((15800, 4600), (12400, 8000))
NORTH_WEST: Final[list[Point2]] = [
    (3200, 0), (0, 0), (0, 6600), (2200, 8000), (6300, 8000), (6300, 6700), (7400, 6700), (7400, 8000), (8600, 8000),
]  # fmt: skip
NORTH_DOOR: Final = 10000.0
MIDDLE: Final = (6800.0, 4000.0, 0.0)
QUAY: Final[list[Point2]] = [(-5200, -7200), (2600, -8900), (10400, -8900)]
QUAY_END: Final[tuple[Point2, Point2]] = ((15950, -7580), (20800, -3200))
RAMP: Final = [(17600, 5700, 900), (19500, 5700, 900), (19500, 1700, 560), (19500, 200, 560)]


#: The end of the rail at the landing: along it, round its corner, and down to the floor.
LANDING: Final[list[Point3]] = [(16900, 7400, 1850), (19500, 7400, 1850), (19500, 6300, 1850), (19500, 6300, 900)]


def demo_files() -> dict[str, bytes]:
    """Return the files that the demo job refers to, by their names."""
    return {"survey-sheet-3.png": survey_sheet(), "grip-rail.png": rail_picture()}


def _place(point: Point2) -> Point3:
    return float(point[0]), float(point[1]), 0.0


def _legs(points: list[Point2], arc: tuple[Point2, Point2] | None = None, after: list[Point2] | None = None) -> tuple[AnyLeg, ...]:
    """Return straight legs through points, then an arc by a point on it to another, then straight legs again."""
    legs: list[AnyLeg] = [StraightLeg(to=_place(point)) for point in points]
    if arc is not None:
        legs.append(ArcLeg(via=_place(arc[0]), to=_place(arc[1])))
    legs.extend(StraightLeg(to=_place(point)) for point in after or [])
    return tuple(legs)


def _rounded(points: list[Point3], radius: float) -> tuple[AnyLeg, ...]:
    """Return straight legs through points with every corner between them rounded."""
    return tuple(StraightLeg(to=point, round=radius if number < len(points) else None) for number, point in enumerate(points, 1))


#: What the demo's lines are put together as; runs and rows go with their line.
_GROUPS = {
    "Waiting hall": ("Hall floor, door to door", "Hall floor, south-east", "Hall walls"),
    "Quay": ("Quay edge", "Lamp line", "Mast to mast", "Quay gate", "Quay gate, set out"),
    "Ramps and landing": ("Boarding ramp", "Ramp to the upper deck", "Landing rail"),
}

#: The cornice is jointed with scarfs, and the picture rail below it off from them.
_JOINTS: Final[dict[str, dict[str, object]]] = {
    "Cornice": {"made": "scarf"},
    "Picture rail": {"off_from": "R15", "apart": 250},
}


@lru_cache(maxsize=1)
def ferry_house() -> Job:
    """Return the demo job, made once."""
    job = apply_all(Job(name="Kestrel Slip ferry house"), _edits()).job
    groups = [SetGroup(ids=tuple(line.id for line in job.lines if line.name in names), group=group) for group, names in _GROUPS.items()]
    # The skirting is coped inside, and mitred outside. All other corners are mitred.
    butts = RunChanges.model_validate({"corners": {"kind": "butt"}, "external": {"kind": "butt"}})
    copes = RunChanges.model_validate({"corners": {"kind": "cope"}})
    made = [SetRun(run=run.id, changes=butts) for run in job.runs if run.name == "Notice rail"]
    made += [SetRun(run=run.id, changes=copes) for run in job.runs if run.name.startswith("Skirting")]
    # What is longer than a bar is jointed.
    bars = {"bars": [4200], "least": 600, "clear": 300}
    made += [
        SetRun(run=run.id, changes=RunChanges.model_validate({"joints": {**bars, **_JOINTS[run.name]}}))
        for run in job.runs
        if run.name in _JOINTS
    ]
    job = with_shop_sections(with_architrave(apply_all(job, [*groups, *made]).job))
    architrave = next(section.id for section in job.sections if section.name.startswith("Architrave"))
    job = with_gate_tie(with_goods_ramp(with_bench(with_windows(job, architrave))))
    job = with_wind_screen(with_festoon(with_slipway_walk(with_garden(job))))
    # Nothing of it was handed over while it was set up.
    return apply(job, NumberAnew(runs=tuple(run.id for run in job.runs)))


def _wall(side: str) -> Wall:
    return Wall.model_validate({"height": 3000, "thickness": 200, "side": side})


def _edits() -> list[Edit]:
    room = FacingPoint(point=MIDDLE)
    # Drawn against one another, as stretches from a drawing often are: facing puts both right.
    south_east = LineBody(
        name="Hall floor, south-east",
        start=_place(SOUTH_EAST[0]),
        legs=_legs(SOUTH_EAST[1:], ROUND_END, [(NORTH_DOOR, 8000)]),
        wall=_wall("right"),
    )
    north_west = LineBody(name="Hall floor, door to door", start=_place(NORTH_WEST[0]), legs=_legs(NORTH_WEST[1:]), wall=_wall("left"))
    around = [*reversed(NORTH_WEST[1:-1]), (0.0, 0.0)]
    walls = LineBody(
        name="Hall walls", start=(0, 0, 0), legs=_legs([*SOUTH_EAST[1:]], ROUND_END, around[:-1]), closed=True
    )  # fmt: skip
    quay = LineBody(name="Quay edge", start=_place(QUAY[0]), legs=_legs(QUAY[1:], QUAY_END))
    lines: list[Edit] = [
        AddLines(lines=(north_west, south_east, walls, quay)),
        MakeTangent(line="L4", leg=2),
        AddMade(name="Lamp line", made=Offset(line="L4", distance=-1700)),
        AddLines(lines=(line_body(RAMP, False, "Boarding ramp"),)),
    ]
    keys = ("skirting-chamfered", "picture-rail", "cornice-sprung", "fence-rail", "handrail-moulded")
    sections: list[Edit] = [AddSection(section=from_library(key)) for key in keys]
    skirting, picture_rail, cornice, rail, handrail = (f"S{7 + index}" for index in range(5))
    fence = FacingSide(kind="right")
    runs: list[Edit] = [
        AddRuns(section=skirting, lines=("L1",), placing=Placing(facing=room), name="Skirting, door to door"),
        AddRuns(section=skirting, lines=("L2",), placing=Placing(facing=room), name="Skirting, south-east"),
        AddRuns(section=picture_rail, lines=("L3",), placing=Placing(facing=room, lift=2150), name="Picture rail", openings="pass"),
        AddRuns(section=cornice, lines=("L3",), placing=Placing(facing=room, lift=3000), name="Cornice", openings="pass"),
        AddRuns(section=rail, lines=("L4",), placing=Placing(facing=fence, lift=420), name="Fence, lower rail"),
        AddRuns(section=rail, lines=("L4",), placing=Placing(facing=fence, lift=960), name="Fence, upper rail"),
        AddRuns(section=handrail, lines=("L6",), placing=Placing(facing=fence), name="Ramp handrail"),
    ]
    tags = ("S", "SE", "P", "C", "FL", "FU", "R")
    runs += [SetRun(run=f"R{12 + index}", changes=RunChanges(tag=tag)) for index, tag in enumerate(tags)]
    posts = RowBody(
        name="Fence posts",
        line="L4",
        item=PostItem(along=90, across=90, height=1105, cap="pyramid", cap_height=45, over=8),
        seat=Seat(across=45),
        spacing=Spacing(rule=EqualBays(most=1900), corners="restart"),
        material="softwood",
    )
    lamps = RowBody(
        name="Bollard lights",
        line="L5",
        item=BollardItem(diameter=150, height=950, dome=50),
        # Between two that are lit stands a low one that is not.
        pattern=ItemPattern(others=(OtherItem(item=BollardItem(diameter=150, height=600, dome=75)),), turns="AB"),
        spacing=Spacing(rule=FixedCentres(centres=2800, origin="centred"), inset_start=600, inset_end=600),
        material="steel",
    )
    return [*lines, *sections, *runs, AddRow(row=posts), AddRow(row=lamps), *_set_out_since()]


def _by_other_rules() -> list[RowBody]:
    """Return rows by clear gap, by number and in bays of about a size, measured on plan, along and straight from item to item."""
    return [
        # A hundred millimetres clear between them as one sees it from the side, whatever the slope.
        RowBody(
            name="Balusters of the ramp",
            line="L6",
            item=BalusterItem(width=41, waist=20, height=840, foot=150, head=120),
            seat=Seat(up=840),
            spacing=Spacing(rule=ClearGap(gap=100), measured="plan", inset_start=60, inset_end=60, corners="restart"),
            material="oak",
        ),
        # Panels of one length between them, which are straight.
        RowBody(
            name="Upper ramp posts",
            line="L26",
            item=RoundItem(diameter=42.4, height=950),
            spacing=Spacing(rule=NearestBays(near=1100), measured="chord"),
            material="steel",
        ),
        RowBody(
            name="Mooring rings",
            line="L4",
            item=RoundItem(diameter=260, height=40),
            seat=Seat(across=-180),
            spacing=Spacing(rule=SetNumber(number=6), inset_start=2000, inset_end=2000),
            material="steel",
        ),
    ]


def _set_out_since() -> list[Edit]:
    """Return the edits that add curves, walks, measures, openings and pictures; ids go on from 21."""
    tube = from_library("tube-round")
    cord = LineBody(name="Mast to mast", start=(-3000, -4500, 4300), legs=(CordLeg(to=(6500, -4500, 4500), sag=520),))
    lanterns = RowBody(
        name="Lanterns on the cord",
        line="L21",
        item=LampItem(diameter=130, height=180, hanger=50),
        spacing=Spacing(rule=FixedCentres(centres=609.6, origin="centred"), inset_start=400, inset_end=400),
        material="brass",
    )
    masts = [
        RowBody(
            name=name,
            line="L21",
            item=RoundItem(diameter=140, height=height),
            seat=Seat(up=height - 60),
            spacing=Spacing(rule=FixedCentres(centres=20_000, origin=origin)),
            material="steel",
        )
        for name, height, origin in (("West mast", 4360.0, "start"), ("East mast", 4560.0, "end"))
    ]
    portal = "up gate height, round 180, gate width, round 180, down gate height"
    return [
        AddLines(lines=(cord,)),
        AddRow(row=lanterns),
        *(AddRow(row=mast) for mast in masts),
        SetMeasures(
            measures=(
                MeasureChange(name="gate width", text="2.4 m"),
                MeasureChange(name="gate height", text="gate width - 150"),
                MeasureChange(name="ramp rise", text="300"),
            )
        ),
        AddMade(name="Quay gate", made=Walk(text=portal, start=(-1200, -5900, 0))),
        AddMade(
            name="Ramp to the upper deck",
            made=Walk(text="2400 rise ramp rise, arc left 90 radius 2600 rise ramp rise * 1.70170", start=(17600, -1600, 0)),
        ),
        AddSection(section=tube),
        AddRuns(section="S27", lines=("L25",), placing=Placing(facing=FacingSide(kind="right")), name="Gate hoop"),
        AddRuns(section="S27", lines=("L26",), placing=Placing(facing=FacingSide(kind="right"), lift=950), name="Upper ramp rail"),
        AddRuns(
            section="S8", lines=("L3",), placing=Placing(facing=FacingPoint(point=MIDDLE), lift=900), name="Dado rail", openings="break"
        ),
        AddPicture(
            picture=PictureBody(
                name="Survey sheet 3", content=survey_content(), across=ACROSS, high=HIGH, scale=SCALE, east=EAST, north=NORTH,
                strength=0.55, locked=True,
            )
        ),
        AddMarks(line="L4", marks=(Mark(name="Slip", at=9200), Mark(name="Ticket hut", at=15800))),
        AddOpenings(
            line="L3",
            openings=(Opening(name="South door", at=3200, width=1800), Opening(name="North door", at=27181.4, width=1400)),
        ),
        # Kept to the stretch from the south door round to the north door.
        AddRuns(
            section="S8", lines=("L3",), placing=Placing(facing=FacingPoint(point=MIDDLE), lift=1500), name="Notice rail",
            stretches=(Between(after="O34", before="O35"),),
        ),
        # A tube bent out of its plane: to the right, then down.
        AddLines(lines=(LineBody(name="Landing rail", start=LANDING[0], legs=_rounded(LANDING[1:], 120), frame="carried"),)),
        AddRuns(section="S27", lines=("L37",), placing=Placing(facing=FacingSide(kind="right")), name="Landing rail"),
        *(AddRow(row=row) for row in _by_other_rules()),
        # The gate's walk is where the outer faces of the hoop are to be; its tube is bent on a line of its own.
        SetPlacing(runs=("R28",), changes=PlacingChanges(stand_off=0, stand_off_of="front")),
        SetLineOut(run="R28"),
        # Over the posts, which stand behind the line, and returned to their backs where it begins; where it ends it is closed by a stop.
        AddSection(section=from_library("fence-capping")),
        AddRuns(
            section="S43", lines=("L4",), name="Fence capping",
            placing=Placing(
                datum=NamedDatum(name="middle-foot"), facing=FacingSide(kind="right"), stand_off=-45, stand_off_of="middle", lift=1150
            ),
            first_end=Returned(deep=90), last_end=Capped(cap="Capping stop"),
        ),
    ]  # fmt: skip

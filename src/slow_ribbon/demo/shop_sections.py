"""More sections of the demo: one built up of two mouldings, one traced as a closed line, one as a supplier sells it."""

from __future__ import annotations

from typing import Final

from slow_ribbon.core.job import Job, PictureBody
from slow_ribbon.core.job.edits import (
    AddLines,
    AddPicture,
    AddSection,
    CircleShape,
    CombineOutline,
    Edit,
    KeepDraft,
    Remove,
    SectionChanges,
    SectionOfLines,
    SectionShape,
    SetSection,
    apply_all,
)
from slow_ribbon.core.lines import ArcLeg, LineBody, StraightLeg
from slow_ribbon.core.sections import DraftBody, Outline, SectionBody, Stock, StraightEdge, from_library, rectangle
from slow_ribbon.demo.rail_picture import ACROSS, HIGH, LEFT, LOW, SCALE, rail_content

#: The rail's outline as it was traced, counter-clockwise from its foot, mm: a stem, two hollows and a round grip.
_STEM: Final = 11.0
_TRACED: Final = LineBody(
    name="Traced",
    start=(-_STEM, 0.0, 0.0),
    legs=(
        StraightLeg(to=(_STEM, 0, 0)),
        StraightLeg(to=(_STEM, 9, 0)),
        ArcLeg(via=(13.5, 15, 0), to=(19.5, 17.5, 0)),
        ArcLeg(via=(26, 24, 0), to=(23, 32.5, 0)),
        ArcLeg(via=(0, 42, 0), to=(-23, 32.5, 0)),
        ArcLeg(via=(-26, 24, 0), to=(-19.5, 17.5, 0)),
        ArcLeg(via=(-13.5, 15, 0), to=(-_STEM, 9, 0)),
        StraightLeg(to=(-_STEM, 0, 0)),
    ),
    closed=True,
)

_CAP: Final = Outline(start=(0.0, 0.0), edges=tuple(StraightEdge(to=to) for to in ((0.0, 18.0), (38.0, 30.0), (76.0, 18.0), (76.0, 2.0))))


def with_shop_sections(job: Job) -> Job:
    """Return a job with the three sections more."""
    board = SectionBody(name="Hall crown, built up", outline=rectangle(18, 130), width=18, height=130, material="painted")
    job = apply_all(job, [AddSection(section=board), AddSection(section=from_library("picture-rail"))]).job
    crown, rail = (section.id for section in job.sections[-2:])
    edits: list[Edit] = [
        CombineOutline(section=crown, how="join", other=SectionShape(section=rail, at=(18, 86))),
        # A bead's hollow along its foot.
        CombineOutline(section=crown, how="cut", other=CircleShape(radius=6, at=(18, 0))),
        Remove(ids=(rail,)),
        AddLines(lines=(_TRACED,)),
    ]
    job = apply_all(job, edits).job
    line = job.lines[-1].id
    stock = Stock(supplier="Skerry & Holm", code="SH-RT-60", lengths=(6000, 7500), price=8.4, currency="EUR", days=2)
    tube = from_library("round-tube-60.3-3.2").model_copy(update={"name": "Tube 60.3, as it is sold", "stock": stock})
    job = apply_all(job, [SectionOfLines(lines=(line,), name="Grip rail, traced"), Remove(ids=(line,)), AddSection(section=tube)]).job
    grip = next(section.id for section in job.sections if section.name == "Grip rail, traced")
    picture = PictureBody(
        name="Grip rail, rubbed", content=rail_content(), across=ACROSS, high=HIGH, scale=SCALE, east=LEFT, north=LOW, strength=0.7, on=grip
    )
    # A cap of sheet that is only begun: it stays a draft.
    cap = DraftBody(name="Post cap, begun", outline=_CAP)
    edits = [SetSection(section=grip, changes=SectionChanges(material="oak")), AddPicture(picture=picture), KeepDraft(draft=cap)]
    return apply_all(job, edits).job

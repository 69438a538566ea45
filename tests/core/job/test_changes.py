"""An edit says only what was done: edits of different fields hold in any order, and of what is said nothing else changes."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from slow_ribbon.core.job.conflicts import changed_fields, overlap
from slow_ribbon.core.job.derived.formulas import length_at
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.labels import free_tag
from slow_ribbon.core.job.edits.apply import apply, apply_all
from slow_ribbon.core.job.edits.registry import AnyEdit
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.legs import ArcLeg
from slow_ribbon.core.rows.items import RoundItem
from slow_ribbon.core.rows.spacing import FixedCentres
from slow_ribbon.core.sections.document.section import PointDatum
from slow_ribbon.demo import ferry_house

read = TypeAdapter(AnyEdit).validate_python
DEMO = ferry_house()


def one(kind: str, **fields: Any) -> dict[str, Any]:
    return {"kind": kind, **fields}


#: Each changes one field of one thing, and nothing else.
SINGLE: list[tuple[dict[str, Any], set[str]]] = [
    (one("move_vertex", line="L4", point=1, to=[2500, None, None]), {"L4.points.1.0"}),
    (one("move_vertex", line="L4", point=1, to=[None, -8000, None]), {"L4.points.1.1"}),
    (one("set_row", row="I19", changes={"spacing": {"inset_start": 100}}), {"I19.spacing.inset_start"}),
    (one("set_row", row="I19", changes={"spacing": {"inset_end": 50}}), {"I19.spacing.inset_end"}),
    (one("set_row", row="I19", changes={"spacing": {"rule": {"most": 1500}}}), {"I19.spacing.rule.most"}),
    (one("set_row", row="I19", changes={"item": {"across": 70}}), {"I19.item.across"}),
    (one("set_row", row="I19", changes={"seat": {"up": 5}}), {"I19.seat.up"}),
    (one("set_placing", runs=["R12"], changes={"lift": 4}), {"R12.placing.lift"}),
    (one("set_placing", runs=["R12"], changes={"facing": {"point": [6000, None, None]}}), {"R12.placing.facing.point.0"}),
    (one("set_placing", runs=["R12"], changes={"facing": {"point": [None, 4100, None]}}), {"R12.placing.facing.point.1"}),
    (one("set_opening", line="L3", opening="O34", changes={"at": 3300}), {"L3.openings.O34.at"}),
    (one("set_opening", line="L3", opening="O34", changes={"width": 1700}), {"L3.openings.O34.width"}),
    (one("set_opening", line="L3", opening="O35", changes={"name": "Upper"}), {"L3.openings.O35.name"}),
    (one("set_mark", line="L4", mark="M32", changes={"at": 9100}), {"L4.marks.M32.at"}),
    (one("set_line", line="L1", changes={"wall": {"height": 2900}}), {"L1.wall.height"}),
    (one("set_line", line="L1", changes={"wall": {"side": "right"}}), {"L1.wall.side"}),
    (one("set_section", section="S7", changes={"height": 150}), {"S7.height"}),
    (one("set_leg", line="L21", leg=0, changes={"sag": 600}), {"L21.legs.0.sag"}),
    (one("set_picture", picture="P31", changes={"turn": 3}), {"P31.turn"}),
    (one("set_measures", measures=[{"was": "ramp rise", "text": "310"}]), {"measures.ramp rise.text"}),
    (one("rename_job", name="Other"), {"name"}),
]  # fmt: skip


#: A job in which much follows: runs by a rule that face a room, joints that keep off from others, places in a grid.
NET_STORE = job_from_text((Path(__file__).parent / "kept" / "net-store-3.ribbon.json").read_text())
#: Each changes one field of it; what follows from that, in other things too, is touched by nobody.
FOLLOWED: list[tuple[dict[str, Any], set[str]]] = [
    (one("move_vertex", line="L2", point=0, to=[None, 3200, None]), {"L2.points.0.1"}),
    (one("move_vertex", line="L5", point=1, to=[6500, None, None]), {"L5.points.1.0"}),
    (one("set_rule", rule="U8", changes={"placing": {"lift": 10}}), {"U8.placing.lift"}),
    (one("set_rule", rule="U8", changes={"openings": "pass"}), {"U8.openings"}),
    (one("set_line", line="L1", changes={"name": "Store wall, north"}), {"L1.name"}),
    (one("set_line", line="L3", changes={"name": "Partition"}), {"L3.name"}),
    (one("set_run", run="R9", changes={"name": "By the door"}), {"R9.name"}),
    (one("set_run", run="R10", changes={"tag": "ZZ"}), {"R10.tag"}),
    (one("set_run", run="R13", changes={"joints": {"clear": 40}}), {"R13.joints.clear"}),
    (one("set_run", run="R14", changes={"joints": {"apart": 200}}), {"R14.joints.apart"}),
    (one("set_saw", changes={"trim": 8}), {"saw.trim"}),
    (one("set_section", section="S7", changes={"height": 70}), {"S7.height"}),
    (one("set_typical", typical=NET_STORE.typicals[0].id, changes={"base": [50, None, None]}), {f"{NET_STORE.typicals[0].id}.base.0"}),
    (one("set_note", run="R13", numbers=[1], text="Pick the straight one"), {"R13.notes"}),
]


@pytest.mark.parametrize(("edit", "fields"), FOLLOWED, ids=lambda value: json.dumps(value)[:60] if isinstance(value, dict) else "")
def test_what_follows_from_an_edit_is_touched_by_nobody(edit: dict[str, Any], fields: set[str]) -> None:
    assert changed_fields(NET_STORE, apply(NET_STORE, read(edit))) == fields


@given(st.permutations(FOLLOWED), st.permutations(range(5)))
def test_edits_from_which_much_follows_come_to_the_same_in_any_order(
    edits: list[tuple[dict[str, Any], set[str]]], order: list[int]
) -> None:
    """As a document that is read: what is derived on the way from edit to edit is what is derived of the whole at the end."""
    some = [read(edit) for edit, _ in edits[:5]]
    first, second = (apply_all(NET_STORE, chosen).job for chosen in (some, [some[place] for place in order]))
    assert changed_fields(first, second) == set()
    assert job_from_text(job_to_text(second)) == second


@pytest.mark.parametrize(("edit", "fields"), SINGLE, ids=lambda value: json.dumps(value)[:60] if isinstance(value, dict) else "")
def test_an_edit_changes_the_field_it_says_and_no_other(edit: dict[str, Any], fields: set[str]) -> None:
    changed = changed_fields(DEMO, apply(DEMO, read(edit)))
    # What follows a line or a measure changes with it.
    own = {path for path in changed if path.split(".")[0] in {field.split(".")[0] for field in fields}}
    assert own == fields


@given(st.lists(st.sampled_from(SINGLE), min_size=2, max_size=5, unique_by=str), st.randoms())
def test_edits_of_different_fields_come_to_the_same_in_any_order(edits: list[tuple[dict[str, Any], set[str]]], random: Any) -> None:
    once = apply_all(DEMO, [read(edit) for edit, _ in edits]).job
    shuffled = list(edits)
    random.shuffle(shuffled)
    assert apply_all(DEMO, [read(edit) for edit, _ in shuffled]).job == once


Single = tuple[dict[str, Any], set[str]]


@given(st.sampled_from(SINGLE), st.sampled_from(SINGLE))
def test_two_edits_touch_the_same_only_where_they_do(first: Single, second: Single) -> None:
    mine, theirs = (changed_fields(DEMO, apply(DEMO, read(edit))) for edit, _ in (first, second))
    assert overlap(mine, theirs) == bool(mine & theirs)
    assert overlap(mine, mine)
    thing = next(iter(first[1])).split(".")[0]
    if thing in {each.id for each in DEMO.things()}:
        # What is gone is touched as a whole.
        assert overlap(mine, changed_fields(DEMO, apply(DEMO, read(one("remove", ids=[thing], with_dependents=True)))))


def test_a_new_kind_takes_over_what_the_old_had() -> None:
    job = apply(DEMO, read(one("set_row", row="I19", changes={"spacing": {"rule": {"most": 1700}}})))
    job = apply(job, read(one("set_row", row="I19", changes={"spacing": {"rule": {"kind": "fixed-centres"}}, "item": {"kind": "round"}})))
    row = job.row("I19")
    assert row.spacing.rule == FixedCentres(centres=1700)
    assert row.spacing.corners == "restart"
    assert row.item == RoundItem(diameter=90, height=1105)
    job = apply(job, read(one("set_placing", runs=["R12"], changes={"datum": {"kind": "point", "x": 4}})))
    datum = job.run("R12").placing.datum
    # The section's own datum was its back foot, so the other coordinate is zero.
    assert datum == PointDatum(x=4, y=0)
    leg = apply(DEMO, read(one("bend_leg", line="L1", leg=0, radius=2000))).line("L1").legs[0]
    assert isinstance(leg, ArcLeg)
    flipped = apply(
        apply(DEMO, read(one("bend_leg", line="L1", leg=0, radius=2000))), read(one("bend_leg", line="L1", leg=0, side="right"))
    )
    other = flipped.line("L1").legs[0]
    assert isinstance(other, ArcLeg)
    assert other.via[1] == pytest.approx(-leg.via[1])


@pytest.mark.parametrize("edit", [
    one("set_row", row="I19", changes={"item": {"diameter": 50}}),
    one("set_row", row="I19", changes={"spacing": None}),
    one("set_line", line="L4", changes={"wall": {"height": 2400}}),
    one("set_opening", line="L3", opening="O99", changes={"at": 1}),
    one("shape_leg", line="L1", leg=0, point=0, to=[1, None, None]),
    one("unshape_leg", line="L4", leg=2, point=0),
])  # fmt: skip
def test_a_change_that_cannot_be_is_refused_in_words(edit: dict[str, Any]) -> None:
    with pytest.raises(Refused) as caught:
        apply(DEMO, read(edit))
    assert len(str(caught.value)) > 15
    assert caught.value.where


@pytest.mark.parametrize("field", ["across", "high", "page", "scale", "turn", "strength", "name"])
def test_only_lengths_can_follow_a_measure(field: str) -> None:
    """A picture's width in pixels is no length."""
    with pytest.raises(Refused, match="not a length"):
        length_at(DEMO.picture("P31"), field)
    assert length_at(DEMO.picture("P31"), "east") == DEMO.picture("P31").east


def test_what_stops_following_is_reported() -> None:
    job = apply_all(DEMO, [read(one("bind", formula={"thing": "R12", "field": "placing.lift", "text": "ramp rise / 10"}))]).job
    by_hand = apply_all(job, [read(one("set_placing", runs=["R12"], changes={"lift": 3}))])
    (notice,) = by_hand.notices
    assert notice == "Lift of Skirting, door to door no longer follows ramp rise / 10: it was changed."
    line = apply_all(DEMO, [read(one("move_vertex", line="L5", point=0, to=[None, 5, None]))])
    assert line.notices == ("Lamp line no longer follows: it was changed by hand.",)
    gone = apply_all(DEMO, [read(one("remove", ids=["L4"], with_dependents=True))])
    assert "Lamp line no longer follows: what it was made from was removed." in gone.notices


def test_tags_go_on_to_four_letters_and_end_in_words(monkeypatch: pytest.MonkeyPatch) -> None:
    import itertools

    from slow_ribbon.core.job.document import labels

    letters = [chr(ord("A") + index) for index in range(26)]
    used = {"".join(tag) for size in (1, 2, 3) for tag in itertools.product(letters, repeat=size)}

    class Thing:
        def __init__(self, tag: str) -> None:
            self.tag = tag

    monkeypatch.setattr(labels, "tagged_things", lambda _: [Thing(tag) for tag in used])
    assert free_tag(Job(name="x"), "Rail") == "AAAA"
    used |= {"".join(tag) for tag in itertools.product(letters, repeat=4)}
    monkeypatch.setattr(labels, "tagged_things", lambda _: [Thing(tag) for tag in used])
    with pytest.raises(Refused, match="All tags"):
        free_tag(Job(name="x"), "Rail")

"""Checks that are accepted with a reason: they no longer count, as long as they are of the same kind, thing and place."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.job import Job, with_delta
from slow_ribbon.core.job.document.delta import delta
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, Remove, RunChanges, SetRun, apply, apply_all
from slow_ribbon.core.job.edits.acceptances import AcceptCheck, WithdrawAcceptance
from slow_ribbon.core.job.edits.points import MoveVertex
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.core.kernel import Refused, plain
from slow_ribbon.core.kernel.check import Check
from slow_ribbon.core.kernel.fields import Accepted
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.runs import FacingSide, Placing
from slow_ribbon.core.sections import SectionBody
from slow_ribbon.core.sections.library import rectangle
from slow_ribbon.core.solve import solve
from slow_ribbon.exports.csv import lists_data

BATTEN = SectionBody(name="Batten", outline=rectangle(20, 60), width=20, height=60)


def test_an_accepted_check_counts_no_more_while_it_is_at_its_place() -> None:
    # A leg so short that its piece is swallowed, and another line with the same fault.
    lines = tuple(line_body([(x, 0, 0), (x + 1000, 0, 0), (x + 1000, 30, 0), (x, 30, 0)], False, f"Wall {x}") for x in (0, 5000))
    job = apply_all(
        Job(name="Nibs"),
        [
            AddLines(lines=lines),
            AddSection(section=BATTEN),
            AddRuns(section="S3", lines=("L1", "L2"), placing=Placing(facing=FacingSide(kind="left"))),
        ],
    ).job
    solved = solve(job)
    faults, warnings = solved.severities()
    assert faults == 2
    check = next(check for check in solved.checks() if check.thing == "R4")
    accepted = Accepted(thing="R4", check=check.key, what=plain(check.what), reason="scribed on site")
    known = apply(job, AcceptCheck(accepted=accepted))
    assert solve(known).severities() == (faults - 1, warnings)
    assert solve(known).reason(check) == "scribed on site"
    # It is kept in the file, reported in what is handed over, and part of what an edit changes.
    assert job_from_text(job_to_text(known)) == known
    answer = [one for one in json.loads(json.dumps(lists_data(solve(known))))["checks"] if one["accepted"]]
    assert [(one["thing"], one["accepted"]) for one in answer] == [("R4", "scribed on site")]
    assert with_delta(job, delta(job, known)) == known
    # Another reason takes the place of the first; what is elsewhere changes nothing of it.
    again = apply(known, AcceptCheck(accepted=accepted.model_copy(update={"reason": "cut by hand"})))
    assert [one.reason for one in again.accepted] == ["cut by hand"]
    aside = apply(again, MoveVertex(line="L2", point=3, to=(5200, 30, 0)))
    assert solve(aside).reason(check) == "cut by hand"
    # A little shorter, of another tag, it is the same fault at the same place; elsewhere it is another.
    worse = apply(again, MoveVertex(line="L1", point=2, to=(1000, 24, 0)))
    tagged = apply(worse, SetRun(run="R4", changes=RunChanges(tag="ZZ")))
    assert solve(tagged).severities() == (faults - 1, warnings)
    there = apply(again, MoveVertex(line="L1", point=2, to=(1040, 30, 0)))
    assert solve(there).severities()[0] == faults
    # What was accepted by what it said, as an earlier program did, is accepted still.
    place = ",".join(f"{value + 0.0:.1f}" for value in check.point)
    said = hashlib.sha256(f"{check.kind}|{plain(check.what)}|{place}".encode()).hexdigest()[:16]
    earlier = apply(job, AcceptCheck(accepted=accepted.model_copy(update={"check": said})))
    assert solve(earlier).reason(check) == "scribed on site"
    assert solve(apply(again, WithdrawAcceptance(thing="R4", check=check.key))).severities() == (faults, warnings)
    # With its run it is gone; what there is none of cannot be accepted or taken back.
    assert apply(again, Remove(ids=("R4",))).accepted == ()
    with pytest.raises(Refused, match="not accepted"):
        apply(job, WithdrawAcceptance(thing="R4", check=check.key))
    with pytest.raises(Refused, match="nothing with the id R77"):
        apply(job, AcceptCheck(accepted=accepted.model_copy(update={"thing": "R77"})))


@given(st.tuples(*[st.floats(-1e5, 1e5)] * 3), st.tuples(*[st.floats(-4.9, 4.9)] * 3))
def test_a_check_is_known_within_five_millimetres_and_not_beyond_thirty(point: tuple[float, ...], by: tuple[float, ...]) -> None:
    def at(place: Any, what: str = "It is so.") -> Check:
        return Check("pinched", "fault", what, "Mend it.", "R1", 0, 0.0, place)

    x, y, z = point
    near = (x + by[0], y + by[1], z + by[2])
    assert at(point).key in at(near, "It is otherwise.").keys
    assert at(point).key not in at((x + 30, y, z)).keys

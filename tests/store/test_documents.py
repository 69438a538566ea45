"""Documents kept as what changed: whatever was done, each revision reads as it was, whole or from deltas, here or in another process."""

from __future__ import annotations

import json
from typing import Any

import pytest
from examples import examples
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import text
from test_random_edits import edits, read

from slow_ribbon.core.job.document.delta import delta, put_on, with_delta, written
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.document.following_fields import document_of, written_change
from slow_ribbon.core.job.edits.apply import apply
from slow_ribbon.core.job.edits.runs import PlacingChanges, SetPlacing
from slow_ribbon.core.job.job_file import job_from_document, with_changes
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.demo import ferry_house
from slow_ribbon.store.database import connect
from slow_ribbon.store.jobs import Jobs
from slow_ribbon.store.records import Change, Changed


@settings(max_examples=examples(60))
@given(sequence=st.lists(edits, min_size=1, max_size=8))
def test_a_delta_makes_one_state_of_another_and_back(sequence: list[dict[str, Any]]) -> None:
    before = job = ferry_house()
    for plain in sequence:
        try:
            job = apply(job, read(plain))
        except Refused:
            continue
    for a, b in ((before, job), (job, before)):
        change = delta(a, b)
        assert with_delta(a, change) == b
        plain = json.loads(written_change(a, change))
        assert with_changes(a, [plain]) == b
        document = document_of(a)
        assert job_from_document(put_on(document, plain)) == b
        # Nothing that is computed is in it.
        assert all("legs" not in line for line in document["lines"] if line["made"] is not None)
        assert not any({"near", "seconds"} & run.keys() for run in document["runs"])
        assert all("outline" not in section for section in document["sections"] if section["member"] is not None)
        assert not delta(b, b).model_fields_set


def test_an_order_and_what_is_gone_are_reported() -> None:
    job = ferry_house()
    other = job.model_copy(update={"lines": job.lines[::-1], "runs": job.runs[2:], "notes": "new"})
    change = delta(job, other)
    said = json.loads(written(change))
    assert "put" not in said["lines"]
    assert said["runs"]["gone"] == [run.id for run in job.runs[:2]]
    assert said.keys() == {"lines", "runs", "notes"}
    assert with_delta(job, change) == other


def test_texts_with_the_character_nought_are_refused_and_others_that_look_like_it_kept(database: str) -> None:
    engine = connect(database)
    jobs = Jobs(engine)
    for name in ("a\\u0000b", "back\\\\u0000", "\\"):
        id = jobs.add(Job(name=name), "started")
        assert Jobs(engine).open(id).job.name == name
    with pytest.raises(Refused, match="zero"):
        jobs.add(Job(name="a\x00b"), "started")
    with pytest.raises(Refused, match="zero"):
        jobs.add(Job(name="a", notes="\\\x00"), "started")
    engine.dispose()


def lifting(lift: float) -> Change:
    edit = SetPlacing(runs=("R15",), changes=PlacingChanges(lift=lift))
    return lambda job, _: Changed(apply(job, edit), [], ["lifted"])


def test_a_long_history_reads_as_it_was_from_another_process_and_takes_little_room(database: str) -> None:
    engine = connect(database)
    jobs, states = Jobs(engine), [ferry_house()]
    id = jobs.add(states[0], "loaded")
    for number in range(1, 150):
        base = jobs.current(id)
        opened = jobs.change(id, base, lifting(float(number)))
        states.append(opened.job)
    fresh = Jobs(engine)
    for revision in (150, 1, 64, 65, 66, 128, 129, 130, 149):
        assert fresh.at(id, revision) == states[revision - 1]
    # One that has some in memory and hears of more puts only those on.
    behind = Jobs(engine)
    behind.at(id, 140)
    assert behind.open(id).job == states[-1]
    with engine.connect() as connection:
        whole, deltas = connection.execute(
            text("SELECT count(document), avg(pg_column_size(delta)) FROM revisions WHERE job_id = :id"), {"id": id}
        ).one()
    assert whole == 3
    # What changed is one run, reported whole; as JSONB, which keeps where each part begins, it takes half as much again.
    assert deltas < 1.6 * len(states[1].run("R15").model_dump_json())
    engine.dispose()

"""The shop's library: versions, who made them, two hands at once; and its sections as files, read back by other readers."""

from __future__ import annotations

import io
import json
import math
import re
from pathlib import Path

import ezdxf
import ezdxf.path
import jsonschema
import numpy as np
import pytest
import shapely
import svgpathtools
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, AddRuns, AddSection, RowChange, SetRange, apply, apply_all
from slow_ribbon.core.job.edits.sections import TakeVersion
from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.lines import line_body
from slow_ribbon.core.sections import SectionBody, ShopLink, sections_from_text, sections_to_text
from slow_ribbon.core.sections.document.section import section_shape
from slow_ribbon.core.sections.library import from_library, library
from slow_ribbon.demo.ferry_house import ferry_house
from slow_ribbon.exports.sections import section_dxf, section_svg

SKIRTING = from_library("skirting-chamfered")


def body(section: SectionBody, **changes: object) -> dict[str, object]:
    found: dict[str, object] = json.loads(section.model_copy(update=changes).model_dump_json())
    return found


def test_a_section_is_kept_with_its_versions_and_who_made_them(client: TestClient) -> None:
    ann, ben = {"X-Author": "Ann"}, {"X-Author": "Ben"}
    kept = client.post("/api/shop", json={"folder": "Skirtings", "section": body(SKIRTING)}, headers=ann).json()
    id = kept["id"]
    assert (kept["folder"], kept["version"]["number"], kept["version"]["author"]) == ("Skirtings", 1, "Ann")
    taller = body(SKIRTING, height=170)
    second = client.post(f"/api/shop/{id}/versions", json={"base": 1, "section": taller, "said": "taller"}, headers=ben).json()
    assert (second["version"]["number"], second["version"]["section"]["height"]) == (2, 170)
    # Somebody who has only seen the first is reported, and nothing is lost.
    late = client.post(f"/api/shop/{id}/versions", json={"base": 1, "section": body(SKIRTING, height=120)}, headers=ann)
    assert (late.status_code, late.json()["code"]) == (409, "kept-newer")
    assert "by Ben" in late.json()["detail"]
    versions = client.get(f"/api/shop/{id}/versions").json()
    assert [(one["number"], one["author"], one["said"], one["section"]["height"]) for one in versions] == [
        (2, "Ben", "taller", 170),
        (1, "Ann", "kept", SKIRTING.height),
    ]
    # Moved, taken out of the list, and brought back.
    assert client.patch(f"/api/shop/{id}", json={"folder": "Old"}).status_code == 204
    assert [(one["id"], one["folder"]) for one in client.get("/api/shop").json()] == [(id, "Old")]
    client.patch(f"/api/shop/{id}", json={"removed": True})
    assert client.get("/api/shop").json() == []
    assert client.get(f"/api/shop/{id}").json()["version"]["number"] == 2
    client.patch(f"/api/shop/{id}", json={"removed": False})
    assert len(client.get("/api/shop").json()) == 1
    assert client.get(f"/api/shop/{'0' * 32}").status_code == 404


def test_what_is_no_section_is_refused_and_nothing_is_kept(client: TestClient) -> None:
    crossing = body(SKIRTING)
    crossing["outline"] = {"start": [0, 0], "edges": [{"kind": "straight", "to": to} for to in ([10, 10], [10, 0], [0, 10], [0, 0])]}
    answer = client.post("/api/shop", json={"section": crossing})
    assert (answer.status_code, answer.json()["code"]) == (422, "outline-crosses")
    both = json.dumps({"format": "slow-ribbon-section", "version": 1, "sections": [body(SKIRTING), crossing]})
    for content, code in (
        (both, "outline-crosses"),
        ('{"format": "slow-ribbon-section", "version": 2, "sections": [], "leaves": 3}', "sections-newer"),
        ('{"format": "slow-ribbon-job", "version": 3}', "not-sections"),
        ("<html>Not found</html>", "not-sections"),
        ('{"format": "slow-ribbon-section", "version": 1, "sections": []}', "section-field"),
    ):
        answer = client.post("/api/shop/files", files={"file": ("sections.json", content)})
        assert (answer.status_code, answer.json()["code"]) == (422, code)
    assert client.get("/api/shop").json() == []


def test_a_file_of_sections_is_read_back_as_it_was_and_is_as_its_schema_says(client: TestClient) -> None:
    drawn = next(section for section in ferry_house().sections if section.held)
    text = sections_to_text((drawn, SKIRTING))
    schema = json.loads((Path(__file__).parents[2] / "docs" / "section.schema.json").read_text())
    jsonschema.validate(json.loads(text), schema)
    read = sections_from_text(text)
    assert read[0].model_dump() == {name: value for name, value in drawn.model_dump().items() if name not in ("id", "shop", "member")}
    ids = client.post("/api/shop/files", files={"file": ("two.section.json", text)}, params={"folder": "Come by post"}).json()["ids"]
    assert len(ids) == 2
    answer = client.get(f"/api/shop/{ids[0]}/versions/1/section.json")
    assert sections_from_text(answer.content) == read[:1]
    assert re.search(r'filename="Architrave-drawn-here.section.json"', answer.headers["content-disposition"])


def test_a_job_keeps_its_version_until_it_is_reported_to_take_another() -> None:
    link = ShopLink(id="a" * 32, version=1)
    job = apply_all(
        Job(name="Job"),
        [
            AddLines(lines=(line_body([(0, 0, 0), (3000, 0, 0)], False, "Wall"),)),
            AddSection(section=SKIRTING, shop=link),
            SetRange(section="S2", rows=(RowChange(name="170", values={"height": 170}),)),
            AddRuns(section="S2", size="170", lines=("L1",)),
        ],
    ).job
    assert job.section("S2").shop == link
    newer = TakeVersion(section="S2", shop=ShopLink(id="a" * 32, version=2), body=SKIRTING.model_copy(update={"height": 150}))
    # A version without the size that a run is made in cannot be taken unseen.
    with pytest.raises(Refused) as refused:
        apply(job, newer)
    assert refused.value.code == "unknown-size"
    range_of = job.section("S2").range
    job = apply(job, newer.model_copy(update={"body": SKIRTING.model_copy(update={"height": 150, "range": range_of})}))
    section = job.section("S2")
    assert (section.height, section.id, section.shop) == (150, "S2", ShopLink(id="a" * 32, version=2))
    assert apply(job, TakeVersion(section="S2", shop=link)).section("S2").height == 150


keys = st.sampled_from([entry.key for entry in library()])


@given(keys, st.floats(0.6, 1.7), st.floats(0.6, 1.7))
def test_an_outline_is_in_its_files_as_it_is(key: str, across: float, up: float) -> None:
    section = from_library(key)
    section = section.model_copy(update={"width": section.width * across, "height": section.height * up, "wall": None})
    shape = section_shape(section)
    # DXF by ezdxf: ends meet, and all of it encloses the same.
    document = ezdxf.read(io.StringIO(section_dxf(section).decode()))
    paths = [ezdxf.path.make_path(entity) for entity in document.modelspace()]
    edges = [edge for loop in shape.loops for edge in loop]
    assert len(paths) == len(edges)
    for path, edge in zip(paths, edges, strict=True):
        ends = {tuple(np.round([point.x, point.y], 5)) for point in (path.start, path.end)}
        assert ends == {tuple(np.round(point, 5)) for point in (edge.begin, edge.end)} or math.dist(edge.begin, edge.end) < 1e-6
        (middle,) = [edge.at_shares(np.array([0.5]))[0]]
        flat = shapely.LineString([(point.x, point.y) for point in path.flattening(1e-3, segments=64)])
        assert flat.distance(shapely.Point(middle)) < 2e-3
    # SVG by svgpathtools: the same area, y down, to what nine decimals leave.
    (d,) = re.findall(r' d="([^"]+)"', section_svg(section).decode())
    rings = [
        np.array([part.point(share) for part in loop for share in np.linspace(0, 1, 41)[:-1]])
        for loop in svgpathtools.parse_path(d).continuous_subpaths()
    ]
    total = shapely.Polygon(np.column_stack([rings[0].real, rings[0].imag])).area
    total -= sum(shapely.Polygon(np.column_stack([ring.real, ring.imag])).area for ring in rings[1:])
    assert total == pytest.approx(shape.area, rel=2e-3)

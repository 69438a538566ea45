"""The service over HTTP: journeys and every kind of bad input."""

from __future__ import annotations

import io
import json
import struct
from typing import Any

import ezdxf
import pytest
import trimesh
from fastapi.testclient import TestClient
from opening import cut_rows, merged, opened

from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.demo import ferry_house
from slow_ribbon.imports.isolated import LARGEST


def bench_of(client: TestClient) -> Any:
    """Return the bench behind a client, to make it forget."""
    app: Any = client.app
    return app.state.bench


@pytest.fixture
def demo(client: TestClient) -> str:
    made = client.post("/api/jobs/file", content=job_to_text(ferry_house()), headers={"Content-Type": "application/json"})
    assert made.status_code == 201, made.text
    return str(made.json()["id"])


def edit(client: TestClient, id: str, *edits: dict[str, Any], base: int | None = None, confirmed: bool = False) -> Any:
    base = base if base is not None else client.get(f"/api/jobs/{id}/revision").json()["base"]
    return client.post(f"/api/jobs/{id}/edits", json={"base": base, "edits": edits, "confirmed": confirmed})


def section(points: list[tuple[float, float]]) -> dict[str, Any]:
    """Return a section with an outline from zero through points, as a client would send it."""
    edges = [{"kind": "straight", "to": point} for point in points]
    return {"name": "Bad", "outline": {"start": (0, 0), "edges": edges}, "width": 50, "height": 40}


LIFT = {"kind": "set_placing", "runs": ["R12"], "changes": {"lift": 12}}


def check_problem(answer: Any, status: int, code: str, place: str | None = None) -> dict[str, Any]:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    received: dict[str, Any] = answer.json()
    assert received["code"] == code
    assert len(received["detail"]) > 15
    if place is not None:
        assert received["place"] == place
    return received


def test_a_job_is_started_copied_renamed_put_away_and_brought_back(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Slipway"}).json()["id"]
    assert edit(client, id, {"kind": "rename_job", "name": "Slipway steps"}).status_code == 200
    copy = client.post(f"/api/jobs/{id}/copy").json()["id"]
    client.put(f"/api/jobs/{id}/put-away", json={"put_away": True})
    listed = {job["id"]: job for job in client.get("/api/jobs").json()}
    assert (listed[id]["name"], listed[id]["put_away"]) == ("Slipway steps", True)
    assert (listed[copy]["name"], listed[copy]["put_away"]) == ("Slipway steps, copy", False)
    client.put(f"/api/jobs/{id}/put-away", json={"put_away": False})
    assert not any(job["put_away"] for job in client.get("/api/jobs").json())


def test_what_is_shown_is_what_the_lists_and_files_say(client: TestClient, demo: str) -> None:
    shown = opened(client, demo)
    assert shown["totals"]["job"]["pieces"] == 370
    assert [check["kind"] for checks in shown["checks"].values() for check in checks] == ["mismatch"]
    run = next(one for one in shown["runs"] if one["id"] == "R12")
    assert [piece["tag"] for piece in run["pieces"]][:2] == ["S1", "S2"]
    mesh = client.get(f"/api/jobs/{demo}/meshes/{run['key']}.glb")
    assert "immutable" in mesh.headers["cache-control"]
    assert struct.unpack("<4sI", mesh.content[:8]) == (b"glTF", 2)
    row = next(one for one in shown["rows"] if one["id"] == "I19")
    places = client.get(f"/api/jobs/{demo}/places/{row['key']}").content
    assert len(places) == row["count"] * 10 * 4
    wall = next(line["wall"] for line in shown["lines"] if line["wall"])
    # Several in one answer are the same as one by one; one that there is not is reported so.
    keys = [run["key"] for run in shown["runs"]] + [wall, "0" * 32]
    together = client.get(f"/api/jobs/{demo}/meshes", params={"keys": ",".join(keys)}).content
    for key in keys:
        size = struct.unpack("<I", together[32:36])[0]
        assert together[:32].decode() == key
        alone = client.get(f"/api/jobs/{demo}/meshes/{key}.glb")
        assert together[36 : 36 + size] == (alone.content if alone.status_code == 200 else b"")
        together = together[36 + size :]
    assert together == b""
    assert client.get(f"/api/jobs/{demo}/meshes/{wall}.glb").status_code == 200
    listed = client.get(f"/api/jobs/{demo}/cutting-list.csv")
    assert listed.headers["content-disposition"] == 'attachment; filename="kestrel-slip-ferry-house.cutting-list.csv"'
    # What stands in several places is listed with all of them, and not by itself.
    within = {line for typical in shown["job"]["typicals"] for line in typical["lines"]}
    alone = {run["id"] for run in shown["job"]["runs"] if run["line"] in within}
    cutting = cut_rows(client, demo, shown["cuts"])
    assert listed.text.count("\n") == 1 + sum(len(rows) for id, rows in cutting.items() if id not in alone)
    assert "job,Kestrel Slip ferry house,370" in client.get(f"/api/jobs/{demo}/schedule.csv").text
    assert trimesh.load_scene(io.BytesIO(client.get(f"/api/jobs/{demo}/model.glb").content), file_type="glb").geometry
    assert job_from_text(client.get(f"/api/jobs/{demo}/job.ribbon.json").content) == ferry_house()


def test_a_mesh_is_found_again_by_its_key_after_the_server_has_forgotten_it(client: TestClient, demo: str) -> None:
    shown = opened(client, demo)
    bench = bench_of(client)
    # As after a restart.
    bench.desks.forget()
    assert client.get(f"/api/jobs/{demo}/meshes/{shown['runs'][0]['key']}.glb").status_code == 200
    bench.desks.forget()
    assert client.get(f"/api/jobs/{demo}/places/{shown['rows'][0]['key']}").status_code == 200
    check_problem(client.get(f"/api/jobs/{demo}/meshes/{'0' * 32}.glb"), 404, "unknown-id")


def test_the_mesh_of_what_was_edited_is_made_ahead_for_a_window_that_looks_at_3d(client: TestClient, demo: str) -> None:
    ahead = bench_of(client).meshes

    def key_after(lift: int) -> str:
        changed = edit(client, demo, {"kind": "set_placing", "runs": ["R12"], "changes": {"lift": lift}}).json()
        return next(str(run["key"]) for run in changed["runs"] if run["id"] == "R12")

    # Nobody has looked at 3D yet.
    key = key_after(11)
    assert not ahead.made(key)
    alone = client.get(f"/api/jobs/{demo}/meshes/{key}.glb").content
    other, again = key_after(12), key_after(11)
    assert again == key
    assert ahead.made(key)
    assert ahead.made(other)
    assert client.get(f"/api/jobs/{demo}/meshes/{key}.glb").content == alone
    assert client.get(f"/api/jobs/{demo}/meshes/{other}.glb").content != alone


def test_edits_undo_redo_and_history(client: TestClient, demo: str) -> None:
    before = opened(client, demo)
    after = merged(before, edit(client, demo, LIFT).json())
    assert (after["revision"], after["undo"]) == (2, "changed lift of Skirting, door to door")
    back = merged(after, client.post(f"/api/jobs/{demo}/undo", json={"base": 2}).json())
    assert back["job"] == json.loads(ferry_house().model_dump_json())
    assert {**back, "redo": None} == before
    again = merged(back, client.post(f"/api/jobs/{demo}/redo", json={"base": 1}).json())
    assert again == after
    check_problem(client.post(f"/api/jobs/{demo}/redo", json={"base": 2}), 422, "nothing-to-redo")
    assert [past["number"] for past in client.get(f"/api/jobs/{demo}/history").json()] == [2, 1]


def test_the_second_window_is_reported_what_changed_and_nothing_is_lost(client: TestClient, demo: str) -> None:
    edit(client, demo, LIFT, base=1)
    lower = {"kind": "set_placing", "runs": ["R12", "R13"], "changes": {"lift": -3}}
    received = check_problem(edit(client, demo, lower, base=1), 409, "conflict")
    assert received["changes"] == ["changed lift of Skirting, door to door"]
    assert received["current"] == 2
    mine = edit(client, demo, lower, base=received["current"]).json()
    assert [run["placing"]["lift"] for run in mine["job"]["runs"]["put"]] == [-3, -3]


def test_a_preview_saves_nothing(client: TestClient, demo: str) -> None:
    looked = client.post(f"/api/jobs/{demo}/preview", json={"base": 1, "edits": [LIFT]}).json()
    assert looked["job"]["runs"]["put"][0]["placing"]["lift"] == 12
    assert client.get(f"/api/jobs/{demo}").json()["job"]["runs"][0]["placing"]["lift"] == 0
    walked = {"kind": "add_made", "name": "New", "made": {"kind": "walk", "text": "500, right 90, 700"}}
    rehearsed = client.post(f"/api/jobs/{demo}/preview", json={"base": 1, "edits": [walked]}).json()
    made = edit(client, demo, walked, base=1).json()
    assert rehearsed["made"] == made["made"] != []
    assert [rehearsed[received] for received in ("job", "lines", "totals")] == [made[received] for received in ("job", "lines", "totals")]


NOWHERE = {"name": "x", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [0, 0, 0]}]}


@pytest.mark.parametrize(
    ("bad", "status", "code", "place"),
    [
        ({"kind": "set_placing", "runs": ["R99"], "changes": {"lift": 1}}, 404, "unknown-id", "run"),
        ({"kind": "move_vertex", "line": "L4", "point": 1, "to": [-5200, -7200, 0]}, 422, "leg-zero", "legs.0.to"),
        ({"kind": "move_vertex", "line": "L4", "point": 1, "to": [1e11, 0, 0]}, 422, "invalid", None),
        ({"kind": "set_section", "section": "S7", "changes": {"width": -4}}, 422, "invalid", None),
        ({"kind": "set_section", "section": "S7", "changes": {"width": 0}}, 422, "invalid", None),
        ({"kind": "paint_it"}, 422, "invalid", None),
        ({"kind": "rename_job", "name": "x", "colour": 1}, 422, "invalid", None),
        ({"kind": "remove", "ids": ["L4"]}, 422, "in-use", "ids"),
        ({"kind": "add_section", "section": section([(50, 0), (50, 40), (0, 2)])}, 422, "outline-open", "outline.edges.2.to"),
        ({"kind": "add_section", "section": section([(40, 40), (40, 0), (0, 40), (0, 0)])}, 422, "outline-crosses", "outline"),
        (
            {"kind": "add_lines", "lines": [{"name": "x", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [0, 0, 0]}]}]},
            422,
            "leg-zero",
            "legs.0.to",
        ),
    ],
)
def test_bad_edits_are_reported_at_their_place_and_save_nothing(
    client: TestClient, demo: str, bad: dict[str, Any], status: int, code: str, place: str | None
) -> None:
    check_problem(edit(client, demo, LIFT, bad), status, code, place)
    assert client.get(f"/api/jobs/{demo}/revision").json() == {"base": 1}


def test_no_number_in_an_edit_is_refused(client: TestClient, demo: str) -> None:
    for word in ("NaN", "Infinity", "1e999"):
        body = f'{{"base": 1, "edits": [{{"kind": "move_vertex", "line": "L4", "point": 0, "to": [{word}, 0, 0]}}]}}'
        answer = client.post(f"/api/jobs/{demo}/edits", content=body, headers={"Content-Type": "application/json"})
        check_problem(answer, 422, "invalid")


def test_a_hundred_thousand_items_are_asked_about(client: TestClient, demo: str) -> None:
    many = {"kind": "set_row", "row": "I20", "changes": {"spacing": {"rule": {"kind": "fixed-centres", "centres": 0.2}}}}
    received = check_problem(edit(client, demo, many), 422, "confirm-many")
    assert "would hold" in received["detail"]
    assert edit(client, demo, many, confirmed=True).status_code == 200


def drawing(count: int = 4) -> bytes:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    points = [(0, 0), (4000, 0), (4000, 3000), (0, 3000)]
    for index in range(count):
        document.modelspace().add_line(points[index], points[(index + 1) % 4], dxfattribs={"layer": "WALL"})
    document.modelspace().add_arc((9000, 0), 100, 0, 90)
    document.modelspace().add_text("Hall")
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_a_drawing_is_looked_at_and_added_in_one_edit(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Room"}).json()["id"]
    read = client.post("/api/imports", files={"file": ("room.dxf", drawing())}).json()
    assert (read["edges"], read["unread"], read["unit"]) == (5, "1 text entity", "millimetres")
    joining = {"joining": {"tolerance": 1, "layers": ["WALL"]}}
    found = client.post(f"/api/imports/{read['content']}/lines", json=joining).json()
    assert [(line["closed"], line["length"]) for line in found["lines"]] == [(True, 14000)]
    after = client.post(f"/api/jobs/{id}/imports/{read['content']}", json={"base": 1, **joining, "lines": [0]}).json()
    assert after["revision"] == 2
    source = after["job"]["lines"]["put"][0]["source"]
    assert (source["file"], source["content"], source["layer"]) == ("room.dxf", read["content"], "WALL")
    assert len(set(source["keys"])) == 4
    bench = bench_of(client)
    # As after a restart: read again from the original.
    bench.drawings.forget()
    assert client.post(f"/api/imports/{read['content']}/lines", json=joining).json()["lines"] == found["lines"]


def test_drawings_that_cannot_be_brought_in(client: TestClient) -> None:
    check_problem(client.post("/api/imports", files={"file": ("x.dxf", b"hello")}), 422, "not-a-dxf", "file")
    check_problem(client.post("/api/imports", files={"file": ("x.dxf", drawing()[:3000])}), 422, "damaged", "file")
    check_problem(client.post("/api/imports", files={"file": ("x.dxf", b"0" * (LARGEST + 1))}), 413, "too-large", "file")
    check_problem(client.post("/api/imports", files={"file": ("x.dxf", b"0" * (LARGEST + 200_000))}), 413, "too-large", "file")
    check_problem(client.post("/api/imports"), 422, "invalid")
    content = client.post("/api/imports", files={"file": ("room.dxf", drawing())}).json()["content"]
    lines = f"/api/imports/{content}/lines"
    check_problem(client.post(lines, json={"joining": {"tolerance": 0}}), 422, "tolerance", "tolerance")
    check_problem(client.post(lines, json={"joining": {"layers": ["ROOF"]}}), 422, "unknown-layer", "layers")
    check_problem(client.post("/api/imports/none/lines", json={}), 404, "unknown-id")
    id = client.post("/api/jobs", json={"name": "Room"}).json()["id"]
    check_problem(client.post(f"/api/jobs/{id}/imports/{content}", json={"base": 1, "lines": [9]}), 422, "unknown-line", "lines")
    check_problem(client.post(f"/api/jobs/{id}/imports/{content}", json={"base": 7}), 409, "conflict")


def test_job_files_that_cannot_be_opened(client: TestClient) -> None:
    for text, code in (("{", "not-a-job"), ('{"format": "slow-ribbon-job", "version": 9}', "job-version")):
        answer = client.post("/api/jobs/file", content=text, headers={"Content-Type": "application/json"})
        check_problem(answer, 422, code)
    assert client.get("/api/jobs").json() == []


def test_unknown_addresses_and_empty_names(client: TestClient) -> None:
    check_problem(client.get("/api/jobs/none"), 404, "unknown-id")
    check_problem(client.get("/api/nowhere"), 404, "http")
    check_problem(client.post("/api/jobs", json={"name": "   "}), 422, "invalid", "name")
    check_problem(client.post("/api/lengths", json={"text": "a lot"}), 422, "length", "1")
    assert client.post("/api/lengths", json={"text": "4' 3-1/2\"", "system": "m"}).json() == {"mm": 1308.1, "uses": []}


def test_the_library_is_served_with_outlines_to_draw(client: TestClient) -> None:
    entries = client.get("/api/library").json()
    assert len(entries) >= 12
    assert all(entry["path"].startswith("M") and entry["path"].endswith("Z") for entry in entries)


def test_a_curved_section_is_run_drawn_and_reported_its_facts(client: TestClient, demo: str) -> None:
    """A quarter of a superellipse or so: its path keeps its curves, its pieces are as long as their line, and bad curves are refused."""
    outline: dict[str, Any] = {
        "start": [0, 0],
        "edges": [
            {"kind": "straight", "to": [40, 0]},
            {"kind": "curve", "to": [0, 60], "controls": [[40, 50], [30, 60]]},
            {"kind": "straight", "to": [0, 0]},
        ],
    }
    body = {"name": "Curved", "outline": outline, "width": 40, "height": 60}
    added = edit(client, demo, {"kind": "add_section", "section": body})
    assert added.status_code == 200, added.text
    figures = added.json()["sections"][0]
    assert "C40.0000 50.0000 30.0000 60.0000 0.0000 60.0000" in figures["path"]
    run = edit(client, demo, {"kind": "add_runs", "section": added.json()["made"][0], "lines": ["L1"], "placing": {}, "name": "Curved"})
    assert run.status_code == 200, run.text
    assert client.get(f"/api/jobs/{demo}/meshes/{run.json()['runs'][0]['key']}.glb").status_code == 200
    facts = client.post("/api/sections/facts", json=body).json()
    assert facts["area"] == pytest.approx(figures["area"])
    assert facts["weight"] == pytest.approx(facts["area"] * 1e-6 * 420)
    outline["edges"][1]["controls"] = [[-90, 50], [130, 60]]
    wrong = client.post("/api/sections/facts", json=body)
    assert (wrong.status_code, wrong.json()["code"]) == (422, "outline-crosses")


def test_a_place_snapped_to_is_where_the_line_is(client: TestClient, demo: str) -> None:
    def asked(**wanted: Any) -> Any:
        return client.post(f"/api/jobs/{demo}/place", json=wanted)

    assert asked(line="L3", chainage=1200.5).json() == {"chainage": 1200.5, "point": [1200.5, 0.0, 0.0]}
    # On the round end wall, 3400 from its middle, wherever along it.
    for chainage in (14_500.0, 19_441.0, 24_000.0):
        x, y, _ = asked(line="L3", chainage=chainage).json()["point"]
        assert ((x - 12_400) ** 2 + (y - 4600) ** 2) ** 0.5 == pytest.approx(3400, abs=1e-6)
    check_problem(asked(line="L3", chainage=6600.0, touched_from=(3000, 3000, 0)), 422, "touch")
    check_problem(asked(line="L99", chainage=0.0), 404, "unknown-id")
    check_problem(asked(line="L3", chainage=-1.0), 422, "invalid")


def test_runs_are_seen_on_a_plane_and_those_of_another_time_are_left_out(client: TestClient, demo: str) -> None:
    runs = opened(client, demo)["runs"]
    plane = {"a": [0, 0], "b": [1000, 0], "keys": [*(run["key"] for run in runs), "0" * 32]}
    seen = client.post(f"/api/jobs/{demo}/elevation", json=plane).json()
    assert [(one["key"], len(one["pieces"])) for one in seen] == [(run["key"], len(run["pieces"])) for run in runs]
    refused = client.post(f"/api/jobs/{demo}/elevation", json={**plane, "b": [0, 0]})
    assert (refused.status_code, refused.json()["code"]) == (422, "plane-places")


def test_a_sample_has_both_corners_and_is_filled_by_its_section(client: TestClient) -> None:
    """Its volume is the section's area times its length along the section's centroid, read from the glTF by trimesh."""
    body = client.get("/api/library").json()[1]["section"]
    got = client.post("/api/sections/sample", json=body)
    assert got.headers["content-type"] == "model/gltf-binary"
    mesh = trimesh.load(io.BytesIO(got.content), file_type="glb", force="mesh")
    assert isinstance(mesh, trimesh.Trimesh)
    mesh.merge_vertices(merge_norm=True, merge_tex=True)
    facts = client.post("/api/sections/facts", json=body).json()
    size = int.from_bytes(got.content[12:16], "little")
    assert json.loads(got.content[20 : 20 + size])["scenes"][0]["extras"] == {"facts": facts}
    reach = 2.2 * max(body["width"], body["height"])
    # Left and right once: what one corner adds along the centroid the other takes away.
    assert mesh.is_watertight
    assert mesh.volume * 1e9 == pytest.approx(facts["area"] * 3 * reach, rel=1e-3)
    crossing = section([(40, 40), (40, 0), (0, 40), (0, 0)])
    check_problem(client.post("/api/sections/sample", json=crossing), 422, "outline-crosses")


def test_rows_of_the_cutting_list_are_asked_for_by_their_keys(client: TestClient, demo: str) -> None:
    def change(base: int, edit: dict[str, Any]) -> dict[str, Any]:
        answer = client.post(f"/api/jobs/{demo}/edits", json={"base": base, "edits": [edit]})
        assert answer.status_code == 200, answer.text
        return dict(answer.json())

    shown = opened(client, demo)
    before = cut_rows(client, demo, shown["cuts"])
    # An edit names the rows that it changes, and no others.
    after = change(1, {"kind": "set_placing", "runs": ["R12"], "changes": {"stand_off": 5}})
    assert list(after["cuts"]) == ["R12"]
    assert after["cuts"]["R12"] != shown["cuts"]["R12"]
    lengths = [row["long_point"] for row in cut_rows(client, demo, after["cuts"])["R12"]]
    assert lengths != [row["long_point"] for row in before["R12"]]
    # With another setting of the saw all keys change, and rows of the earlier setting are not given.
    sawn = change(2, {"kind": "set_saw", "changes": {"step": 1}})
    assert sawn["cuts"].keys() == shown["cuts"].keys()
    assert client.get(f"/api/jobs/{demo}/cutting", params={"keys": f"{after['cuts']['R12']},{'0' * 40}"}).json() == {}
    assert cut_rows(client, demo, sawn["cuts"]).keys() == shown["cuts"].keys()
    undone = client.post(f"/api/jobs/{demo}/undo", json={"base": 3}).json()
    undone = client.post(f"/api/jobs/{demo}/undo", json={"base": undone["revision"]}).json()
    assert undone["cuts"]["R12"] == shown["cuts"]["R12"]
    assert cut_rows(client, demo, shown["cuts"]) == before

"""Setting out over the service: files of other kinds, long work that is stopped, pictures, walks, measures, dimensions."""

from __future__ import annotations

import io
import json
import threading
import time
from typing import Any

import ezdxf
import numpy as np
import pytest
import trimesh
from fastapi.testclient import TestClient
from making_files import POINTS, mesh
from opening import cut_rows, opened
from PIL import Image

from slow_ribbon.demo import ferry_house
from slow_ribbon.store.database import connect
from slow_ribbon.store.jobs import Jobs


@pytest.fixture
def demo(client: TestClient, database: str) -> str:
    engine = connect(database)
    id = Jobs(engine).add(ferry_house(), "loaded")
    engine.dispose()
    return id


def problem(answer: Any, status: int, code: str) -> dict[str, Any]:
    assert answer.status_code == status, answer.text
    received: dict[str, Any] = answer.json()
    assert received["code"] == code
    return received


def bring(client: TestClient, name: str, data: bytes, **options: Any) -> dict[str, Any]:
    answer = client.post("/api/imports", files={"file": (name, data)}, params={"options": json.dumps(options)})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_faces_of_a_mesh_are_sent_as_they_are_and_the_lines_around_them_are_added(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Plinth"}).json()["id"]
    solid = trimesh.creation.annulus(400, 700, 300, sections=32)
    read = bring(client, "ring.stl", bytes(solid.export(file_type="stl")))
    faces = read["faces"]
    assert (faces["count"], faces["can_be_shown"], [len(face["loops"]) for face in faces["largest"]]) == (4, True, [2] * 4)
    sent = client.post(f"/api/imports/{read['content']}/faces", json={})
    shown = trimesh.load_scene(io.BytesIO(sent.content), file_type="glb", process=False)
    seen = next(one for one in shown.geometry.values() if isinstance(one, trimesh.Trimesh))
    # The writer's nodes bring mm to metres; the mesh itself is in mm.
    assert seen.area == pytest.approx(solid.area, rel=1e-5)
    assert seen.metadata["pieces"][-1] == len(solid.faces)
    (top,) = [face for face in faces["largest"] if face["heights"] == [150, 150]]
    joining = {"layers": [], "loops": [loop for loop, _ in top["loops"]]}
    found = client.post(f"/api/imports/{read['content']}/lines", json={"joining": joining}).json()["lines"]
    assert [(line["closed"], line["heights"], line["rising"]) for line in found] == [(True, [150, 150], None)] * 2
    after = client.post(f"/api/jobs/{id}/imports/{read['content']}", json={"base": 1, "joining": joining}).json()
    assert {leg["to"][2] for line in after["job"]["lines"]["put"] for leg in line["legs"]} == {150}
    # A wall of it goes up and down, and is sent with its heights.
    (side,) = [face for face in faces["largest"] if face["heights"] == [-150, 150] and face["area"] > 1e6]
    both = client.post(
        f"/api/imports/{read['content']}/lines",
        json={"joining": {"layers": [], "loops": [loop for loop, _ in side["loops"]]}, "options": {"upright": "y"}},
    ).json()["lines"]
    assert all(line["rising"] and np.ptp(line["rising"]) == pytest.approx(1400, rel=1e-2) for line in both)
    problem(client.post(f"/api/imports/{read['content']}/lines", json={"joining": {"layers": [], "loops": [77]}}), 422, "unknown-loop")
    points = bring(client, "survey.csv", POINTS)
    problem(client.post(f"/api/imports/{points['content']}/faces", json={}), 422, "no-faces")


def test_very_many_lines_are_made_ready_while_they_are_looked_at_and_are_the_same(client: TestClient) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    for number in range(1100):
        document.modelspace().add_lwpolyline([(number * 10, 0), (number * 10, 500 + number), (number * 10 + 5, 900 + number)])
    out = io.StringIO()
    document.write(out)
    read = bring(client, "many.dxf", out.getvalue().encode())
    bodies = client.app.state.bench.bodies  # type: ignore[attr-defined]  # the client knows its app as any that can be called
    wanted = list(range(1050))

    def added(ahead: bool) -> list[dict[str, Any]]:
        id = client.post("/api/jobs", json={"name": "Site"}).json()["id"]
        client.post(f"/api/imports/{read['content']}/lines", json={})
        assert len(bodies._making.bodies) == 1100
        if not ahead:
            bodies._making = None
        after = client.post(f"/api/jobs/{id}/imports/{read['content']}", json={"base": 1, "lines": wanted}).json()
        assert bodies._making is None
        lines: list[dict[str, Any]] = after["job"]["lines"]["put"]
        return lines

    ahead = added(True)
    assert ahead == added(False)
    assert [line["legs"][0]["to"][1] for line in ahead] == [500 + number for number in wanted]
    assert len({line["source"]["shape"] for line in ahead}) == len(wanted)


def test_a_list_of_points_is_read_in_another_way_and_added_in_one_edit(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Site"}).json()["id"]
    read = bring(client, "survey.csv", POINTS)
    assert [layer["name"] for layer in read["layers"]] == ["KERB", "FENCE"]
    assert read["far_away"]
    options = {"order": "file"}
    again = client.post(f"/api/imports/{read['content']}/read", json={"options": options}).json()
    assert [layer["name"] for layer in again["layers"]] == ["points"]
    found = client.post(f"/api/imports/{read['content']}/lines", json={"options": options}).json()
    assert (len(found["lines"]), len(found["points"])) == (1, 5)
    after = client.post(f"/api/jobs/{id}/imports/{read['content']}", json={"base": 1, "options": options}).json()
    assert (after["revision"], len(after["job"]["lines"]["put"])) == (2, 1)
    # 500 km from the site's zero, the job's own coordinates stay small and exact.
    assert after["job"]["origin"][0] == 500_010_000
    assert after["job"]["lines"]["put"][0]["start"] == pytest.approx([-10_000, -5000, 5200], abs=1e-6)


def test_the_ways_on_at_a_junction_are_shown_and_chosen(client: TestClient) -> None:
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    for end in ((1000, 0), (-1000, 80), (0, 900)):
        document.modelspace().add_line((0, 0), end)
    out = io.StringIO()
    document.write(out)
    read = bring(client, "tee.dxf", out.getvalue().encode())
    lines = f"/api/imports/{read['content']}/lines"
    found = client.post(lines, json={}).json()
    (junction,) = found["junctions"]
    assert (len(junction["ways"]), len(junction["pairs"]), len(found["lines"])) == (3, 1, 2)
    ended = client.post(lines, json={"joining": {"ways": {"0": []}}}).json()
    assert len(ended["lines"]) == 3
    up = next(index for index, way in enumerate(junction["ways"]) if way[1] > 0.9)
    other = next(index for index, way in enumerate(junction["ways"]) if way[0] > 0.9)
    turned = client.post(lines, json={"joining": {"ways": {"0": [[up, other]]}}}).json()
    assert sorted(round(line["length"]) for line in turned["lines"]) == [1003, 1900]


def test_a_mesh_is_cut_at_another_height(client: TestClient) -> None:
    read = bring(client, "boxes.obj", mesh("obj"))
    again = client.post(f"/api/imports/{read['content']}/read", json={"options": {"levels": [100], "sharp": 80}}).json()
    assert {"sharper than 80°", "open boundaries", "edges of three faces and more", "level cut at 100 mm"} == {
        layer["name"] for layer in again["layers"]
    }


def many_edges(count: int) -> bytes:
    rows = ["0", "SECTION", "2", "ENTITIES"]
    for index in range(count):
        x, y = index % 300 * 10, index // 300 * 10
        rows += ["0", "LINE", "8", "0", "10", str(x), "20", str(y), "30", "0", "11", str(x + 9.7), "21", str(y + 3), "31", "0"]
    return "\n".join([*rows, "0", "ENDSEC", "0", "EOF", ""]).encode()


def test_long_work_tells_how_far_it_is_and_can_be_stopped(client: TestClient) -> None:
    read = bring(client, "many.dxf", many_edges(60_000))
    lines = f"/api/imports/{read['content']}/lines"
    shares: list[float] = []
    answers: list[Any] = []

    def work() -> None:
        answers.append(client.post(lines, json={"task": "joining-1", "joining": {"tolerance": 0.5}}))

    worker = threading.Thread(target=work)
    worker.start()
    while worker.is_alive():
        received = client.get("/api/tasks/joining-1").json()
        if received["share"] is not None:
            assert received["doing"] == "joining the edges"
            shares.append(received["share"])
        time.sleep(0.01)
    worker.join()
    assert answers[0].status_code == 200
    assert shares == sorted(shares)
    assert shares
    # Stopped before it begins, it does not begin; nothing is kept of it.
    client.delete("/api/tasks/joining-2")
    problem(client.post(lines, json={"task": "joining-2", "joining": {"tolerance": 0.7}}), 409, "stopped")
    client.delete("/api/tasks/reading-1")
    problem(client.post("/api/imports", files={"file": ("m.dxf", many_edges(10))}, params={"task": "reading-1"}), 409, "stopped")
    assert not client.get("/api/tasks/joining-2").json()["going"]


def test_a_picture_lies_under_the_job_is_set_to_scale_and_goes_with_its_file(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Traced"}).json()["id"]
    out = io.BytesIO()
    Image.new("RGB", (400, 200), "white").save(out, "PNG")
    read = client.post("/api/pictures", files={"file": ("plan.png", out.getvalue())}).json()
    assert (read["across"], read["high"], read["pages"]) == (400, 200, 1)
    png = client.get(f"/api/pictures/{read['content']}/0.png")
    assert (png.headers["content-type"], png.content[:4]) == ("image/png", b"\x89PNG")
    picture = {"name": "plan", "content": read["content"], "across": 400, "high": 200, "scale": 10.0}
    edits: list[dict[str, Any]] = [
        {"kind": "add_picture", "picture": picture},
        # Two places 1000 mm apart as it lies now are 2500 apart in truth: everything grows about the first.
        {"kind": "scale_picture", "picture": "P1", "a": [500, 500], "b": [1500, 500], "length": 2500},
        {"kind": "set_picture", "picture": "P1", "changes": {"turn": 30, "strength": 0.4, "locked": True, "shown": False}},
    ]
    shown = client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": edits}).json()
    (kept,) = shown["job"]["pictures"]["put"]
    assert (kept["scale"], kept["east"], kept["north"], kept["turn"]) == (25, -750, -750, 30)
    file = client.get(f"/api/jobs/{id}/job.ribbon.json").content
    again = client.post("/api/jobs/file", content=file, headers={"Content-Type": "application/json"}).json()["id"]
    assert client.get(f"/api/jobs/{again}").json()["job"]["pictures"] == shown["job"]["pictures"]["put"]
    carried = json.loads(file)
    assert list(carried["files"]) == [read["content"]]
    carried["files"] = {read["content"]: "bm90IGl0"}
    problem(
        client.post("/api/jobs/file", content=json.dumps(carried), headers={"Content-Type": "application/json"}), 422, "job-file-content"
    )
    problem(client.post("/api/pictures", files={"file": ("x.png", b"hello")}), 422, "damaged")
    problem(client.get(f"/api/pictures/{64 * chr(48)}/0.png"), 404, "unknown-id")
    same = {"kind": "scale_picture", "picture": "P1", "a": [1, 1], "b": [1, 1], "length": 5}
    problem(client.post(f"/api/jobs/{id}/edits", json={"base": 2, "edits": [same]}), 422, "scale")


def test_walks_lengths_and_dimensions_know_the_measures_of_the_job(client: TestClient, demo: str) -> None:
    walked = client.post(f"/api/jobs/{demo}/walk", json={"text": "gate width, right 90, 500"}).json()
    assert (walked["length"], walked["end"], walked["uses"]) == (2900, [2400, pytest.approx(-500), 0], ["gate width"])
    assert walked["heading"] == pytest.approx(180)
    received = problem(client.post(f"/api/jobs/{demo}/walk", json={"text": "1000, wright 3"}), 422, "unknown-measure")
    assert received["place"] == "7"
    length = {"text": "gate width / 2 + 18", "job": demo}
    assert client.post("/api/lengths", json=length).json() == {"mm": 1218, "uses": ["gate width"]}
    problem(client.post("/api/lengths", json={"text": "gate width * 2 mm", "job": demo}), 422, "measure-kind")
    assert "Nor is there a measure" in problem(client.post("/api/lengths", json={"text": "nave", "job": demo}), 422, "length")["detail"]
    spots = {"a": {"line": "L4", "chainage": 0}, "b": {"line": "L4", "chainage": 1000}}
    figures = {one["name"]: one["value"] for one in client.post(f"/api/jobs/{demo}/dimension", json=spots).json()}
    assert figures["distance"] == pytest.approx(1000)
    simpler = client.post(f"/api/jobs/{demo}/simpler", json={"lines": ["L1"], "tolerance": 1400}).json()
    assert simpler["after"] < simpler["before"]
    assert 0 < simpler["strays"] <= 1400


def test_a_line_that_is_wrong_comes_with_the_edit_that_mends_it(client: TestClient) -> None:
    id = client.post("/api/jobs", json={"name": "Faults"}).json()["id"]
    points = [[3000, 0, 0], [3000, 2000, 0], [1500, -1500, 0]]
    legs = [{"kind": "straight", "to": point} for point in points]
    body = {"kind": "add_lines", "lines": [{"name": "x", "start": [0, 0, 0], "legs": legs}]}
    shown = client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [body]}).json()
    (fault,) = shown["lines"][0]["faults"]
    assert fault["kind"] == "crosses"
    mended = client.post(f"/api/jobs/{id}/edits", json={"base": 2, "edits": [fault["mend"]]}).json()
    assert [line["faults"] for line in mended["lines"]] == [[], []]


def test_a_check_comes_with_the_edits_that_mend_it(client: TestClient) -> None:
    """A needle mitre, cut off square; the edit is sent back as it came."""
    id = client.post("/api/jobs", json={"name": "Needle"}).json()["id"]
    legs = [{"kind": "straight", "to": [3000, 0, 0]}, {"kind": "straight", "to": [100, 500, 0]}]
    line = {"kind": "add_lines", "lines": [{"name": "x", "start": [0, 0, 0], "legs": legs}]}
    edges = [{"kind": "straight", "to": to} for to in ([20, 0], [20, 60], [0, 60], [0, 0])]
    section = {"name": "Batten", "outline": {"start": [0, 0], "edges": edges}, "width": 20, "height": 60}
    edits = [line, {"kind": "add_section", "section": section}, {"kind": "add_runs", "section": "S2", "lines": ["L1"]}]
    shown = client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": edits}).json()
    ((check,),) = shown["checks"].values()
    assert (check["kind"], [mend["action"] for mend in check["mends"]]) == ("needle", ["Cut the points off square"])
    mended = client.post(f"/api/jobs/{id}/edits", json={"base": 2, "edits": [check["mends"][0]["edit"]]}).json()
    assert list(mended["checks"].values()) == [[]]


def test_what_is_shown_of_curved_and_rising_lines(client: TestClient, demo: str) -> None:
    shown = opened(client, demo)
    lines = {line["id"]: line for line in shown["lines"]}
    hall, ramp, straight = lines["L3"], lines["L26"], lines["L6"]
    assert [leg["kind"] for leg in hall["legs"]].count("arc") == 1
    assert len(hall["path"]) == len(hall["chainages"])
    assert hall["chainages"][-1] == pytest.approx(hall["length"])
    assert [round(stretch["length"]) for stretch in hall["stretches"]] == [22_181, 21_408]
    assert ramp["heights"][-1][1] == pytest.approx(810.51, abs=0.01)
    assert ramp["plan_length"] < ramp["length"]
    assert straight["path"] is None
    bent = next(row for row in cut_rows(client, demo, shown["cuts"])["R15"] if row["bends"])
    assert [round(bend["radius"]) for bend in bent["bends"] if bend["radius"]] == [3400]

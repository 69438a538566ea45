"""The served application as a process: crash safety, a database that goes away, the command line."""

from __future__ import annotations

import io
import json
import os
import re
import signal
import subprocess
import threading
import time
from pathlib import Path

import httpx
import numpy as np
import psutil
import pytest
import trimesh
from opening import opened
from pypdf import PdfReader
from served import COMMAND, ROOT, at, load_demo, load_demo_by_command, served

from slow_ribbon.cli import main
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.job_file import job_from_text, job_to_text
from slow_ribbon.demo import ferry_house


def test_every_acknowledged_edit_survives_a_kill_in_the_middle_of_a_stream_of_them(database: str) -> None:
    load_demo(database)
    acknowledged: list[tuple[int, float]] = []
    with served(database) as (address, process):

        def stream() -> None:
            base = 1
            with httpx.Client(base_url=address, timeout=60) as client:
                for lift in range(1, 10_000):
                    edits = [{"kind": "set_placing", "runs": ["R12"], "changes": {"lift": lift}}]
                    try:
                        answer = client.post("/api/jobs/kestrel-slip/edits", json={"base": base, "edits": edits})
                    except httpx.TransportError:
                        return
                    base = answer.json()["revision"]
                    acknowledged.append((base, lift))

        writer = threading.Thread(target=stream)
        writer.start()
        while len(acknowledged) < 25:
            assert writer.is_alive()
            time.sleep(0.01)
        process.send_signal(signal.SIGKILL)
        writer.join(20)
    revision, lift = acknowledged[-1]
    with served(database) as (address, _):
        after = httpx.get(f"{address}/api/jobs/kestrel-slip", timeout=60).json()
        # The last one may have been saved without its answer getting through; none before it may be missing.
        assert after["revision"] - revision in (0, 1)
        assert after["job"]["runs"][0]["placing"]["lift"] - lift in (0, 1)
        numbers = [past["number"] for past in httpx.get(f"{address}/api/jobs/kestrel-slip/history", timeout=60).json()]
        assert numbers == list(range(after["revision"], 0, -1))


def test_a_database_that_goes_away_is_reported_and_comes_back(tmp_path: Path) -> None:
    name = f"away-{os.getpid()}"
    script = str(ROOT / "script" / "database")
    started = subprocess.run([script, "start", name], check=True, capture_output=True, text=True).stdout.strip()
    try:
        load_demo_by_command(started)
        with served(started) as (address, _):
            before = httpx.get(f"{address}/api/jobs/kestrel-slip", timeout=60).json()
            subprocess.run([script, "stop", name], check=True)
            edits = [{"kind": "rename_job", "name": "Lost"}]
            received = httpx.post(f"{address}/api/jobs/kestrel-slip/edits", json={"base": 1, "edits": edits}, timeout=30)
            assert (received.status_code, received.json()["code"]) == (503, "database")
            assert received.headers["content-type"] == "application/problem+json"
            # It cannot start without a database either, and says so in one line.
            no = subprocess.run([COMMAND, "serve"], capture_output=True, text=True, timeout=30, check=False, env=at(started))
            assert (no.returncode, no.stderr.count("\n")) == (2, 1)
            assert "does not answer" in no.stderr
            # Back on the same port, as after a restart of the database alone.
            port = re.search(r":(\d+)/", started)
            assert port
            again = subprocess.run([script, "start", name, port.group(1)], check=True, capture_output=True, text=True).stdout.strip()
            assert again == started
            assert httpx.get(f"{address}/api/jobs/kestrel-slip", timeout=30).json() == before
    finally:
        subprocess.run([script, "remove", name, "--yes"], check=True)


def test_the_idle_server_with_the_demo_open_is_small(database: str) -> None:
    load_demo(database)
    with served(database) as (address, process):
        with httpx.Client(base_url=address, timeout=60) as client:
            shown = opened(client, "kestrel-slip")
            for run in shown["runs"]:
                assert client.get(f"/api/jobs/kestrel-slip/meshes/{run['key']}.glb").status_code == 200
        assert psutil.Process(process.pid).memory_info().rss < 250 * 1024**2


def run(*arguments: str, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
    return subprocess.run([COMMAND, *arguments], capture_output=True, text=True, check=False, cwd=cwd)


def test_a_drawing_goes_through_the_command_line_to_a_cutting_list(tmp_path: Path) -> None:
    import ezdxf

    document = ezdxf.new("R2000")
    document.modelspace().add_lwpolyline([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], close=True)
    document.modelspace().add_circle((0, 0), 50)
    document.saveas(tmp_path / "room.dxf")
    brought = run("import-dxf", "room.dxf", "--tolerance", "1", cwd=tmp_path)
    assert brought.returncode == 0
    assert brought.stderr.strip() == ""
    job = job_from_text(brought.stdout)
    assert [(line.closed, [leg.kind for leg in line.legs]) for line in job.lines] == [
        (True, ["straight"] * 4),
        (True, ["arc"] * 2),
    ]
    trimesh.creation.box((1.0, 2.0, 0.3)).export(tmp_path / "box.stl")
    brought = run("import", "box.stl", "--unit", "m", "--cut-at", "100", "--layer", "level cut at 100 mm", cwd=tmp_path)
    assert brought.returncode == 0, brought.stderr
    (cut,) = job_from_text(brought.stdout).lines
    assert cut.closed
    assert np.ptp(cut.points(), axis=0) == pytest.approx((1000, 2000, 0))
    (tmp_path / "demo.ribbon.json").write_text(job_to_text(ferry_house()))
    solved = run("solve", "demo.ribbon.json", "--as", "csv", cwd=tmp_path)
    assert solved.returncode == 0
    assert 'Cornice,C1,"Cornice, sprung 38°"' in solved.stdout
    lists = json.loads(run("solve", "demo.ribbon.json", "--as", "json", cwd=tmp_path).stdout)
    (whole,) = [one for one in lists["schedule"] if one["kind"] == "job"]
    assert int(whole["pieces"]) == sum(int(row["quantity"]) for row in lists["cutting_list"]) > 100


def status_of(*arguments: str) -> int | str | None:
    """Return the status that the command would end with, called here: a process of its own takes seconds to start."""
    try:
        return main(list(arguments))
    except SystemExit as ended:
        return ended.code


@pytest.mark.parametrize(
    "arguments",
    [
        ("solve", "missing.ribbon.json"),
        ("solve", "bad.ribbon.json"),
        ("import-dxf", "bad.ribbon.json"),
        ("import-dxf", "missing.dxf"),
        ("import-dxf", "missing.dxf", "--tolerance", "wide"),
        ("import", "bad.ribbon.json", "--sharp", "500"),
        ("export", "good.ribbon.json", "--as", "lines.dxf", "--paper", "a3"),
        ("export", "good.ribbon.json", "--as", "cutting-list.pdf", "--paper", "a9"),
        ("serve", "--database", "nonsense"),
        ("load-demo", "--database", "postgresql://nobody@127.0.0.1:1/none"),
    ],
)
def test_a_fault_in_the_input_is_one_plain_message_and_status_2(
    arguments: tuple[str, ...], tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    Path("bad.ribbon.json").write_text("{}")
    Path("good.ribbon.json").write_text(job_to_text(Job(name="Empty")))
    assert status_of(*arguments) == 2
    out, message = capfd.readouterr()
    assert out == ""
    assert message.startswith("slow-ribbon: ")
    assert message.count("\n") == 1
    assert "Traceback" not in message


def test_the_list_is_printed_on_the_paper_that_is_asked_for(tmp_path: Path, capfdbinary: pytest.CaptureFixture[bytes]) -> None:
    (tmp_path / "good.ribbon.json").write_text(job_to_text(Job(name="Empty")))
    assert status_of("export", str(tmp_path / "good.ribbon.json"), "--as", "cutting-list.pdf", "--paper", "a3") == 0
    (page,) = PdfReader(io.BytesIO(capfdbinary.readouterr().out)).pages
    assert [round(float(side) * 25.4 / 72) for side in (page.mediabox.width, page.mediabox.height)] == [420, 297]


def test_the_command_ends_as_its_main_function_does(tmp_path: Path) -> None:
    done = run("solve", "missing.ribbon.json", cwd=tmp_path)
    assert (done.returncode, done.stdout, done.stderr.count("\n")) == (2, "", 1)


def test_every_request_is_a_line_of_json_with_the_id_that_its_problem_tells(database: str) -> None:
    process = subprocess.Popen([COMMAND, "serve"], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=at(database))
    assert process.stdout is not None
    found = re.search(r"http://[\d.:]+", process.stdout.readline())
    assert found
    problem = httpx.get(f"{found.group()}/api/jobs/none", timeout=60).json()
    process.terminate()
    _, received = process.communicate(timeout=30)
    lines = [json.loads(line) for line in received.splitlines()]
    (line,) = [line for line in lines if line.get("request") == problem["request"]]
    assert (line["method"], line["path"], line["status"], line["from"]) == ("GET", "/api/jobs/none", 404, "slow_ribbon.requests")
    assert line["milliseconds"] > 0

"""Nobody can stop the others: requests that would take a server's memory or time are refused within limits, and crowds wait in line."""

from __future__ import annotations

import resource
import socket
import subprocess
import sys
import textwrap
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import psutil
import pytest
from fastapi.testclient import TestClient
from served import ROOT, served

from slow_ribbon.service.work.turns import Turns

#: A program that serves requests in its own process, under a limit of memory and of processor time.
PROGRAM = """
import json, resource, sys
sys.path[:0] = [{tests!r}]
from fastapi.testclient import TestClient
from slow_ribbon.service.app import create_app
with TestClient(create_app({database!r}), "http://127.0.0.1", raise_server_exceptions=False) as client:
    id = client.post("/api/jobs", json={{"name": "Job"}}).json()["id"]
    client.get("/api/library")
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    resource.setrlimit(resource.RLIMIT_CPU, (150, 150))
    answers = []
{work}
    more = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - used
    assert client.get(f"/api/jobs/{{id}}").status_code == 200
    print(json.dumps([answers, more]))
"""

BAD = {
    "a far end and controls near nought": """
    far, near = 1e10, [[1e-9, 0, 0], [0, 1e-9, 0], [1e-7, 1e-3, 0]]
    line = {"name": "x", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [1000, 0, 0]}]}
    client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [{"kind": "add_lines", "lines": [line]}]})
    for controls in (near, near[::-1], [[far * (i % 2), far * (i % 3), 0] for i in range(3000)], [[1, far, 0], [1e-6, -far, 1e-6]]):
        leg = {"kind": "curve", "to": [far, 0, 0], "controls": controls}
        edit = {"kind": "set_leg", "line": "L1", "leg": 0, "changes": leg}
        answers.append(client.post(f"/api/jobs/{id}/preview", json={"base": 2, "edits": [edit]}).status_code)
""",
    "a job file of a million empty lines": """
    for text in ('{"format":"slow-ribbon-job","version":2,"name":"x","lines":[' + ",".join(["{}"] * 1000000) + "]}",
                 '{"format":"slow-ribbon-job","version":1,"name":"x","lines":[' + ",".join(["{}"] * 300000) + "]}",
                 '{"format":"slow-ribbon-job","version":2,"name":"x","runs":[' + ",".join(["1"] * 1500000) + "]}",
                 '{"format":"slow-ribbon-job","version":2,"name":' + "[" * 900000 + "]" * 900000 + "}",
                 '{"format":"slow-ribbon-job","version":2,"name":"x","lines":[{"id":"L1","name":"x","start":[0,0,0],"legs":['
                 + ",".join(['{"kind":"arc"}'] * 400000) + "]}]}"):
        answers.append(client.post("/api/jobs/file", content=text, headers={"Content-Type": "application/json"}).status_code)
""",
    "edits by the hundred thousand": """
    for edits in ([{}] * 500000, [{"kind": "remove", "ids": ["L1"] * 400000}], [{"kind": "rename_job", "name": "x" * 10_000_000}],
                  [{"kind": "add_lines", "lines": [{}] * 400000}], [{"kind": "add_openings", "line": "L1", "openings": [{}] * 300000}]):
        answers.append(client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": edits}).status_code)
""",
    "rows of too many items and walks without end": """
    line = {"name": "x", "start": [0, 0, 0], "legs": [{"kind": "straight", "to": [1e9, 0, 0]}]}
    client.post(f"/api/jobs/{id}/edits", json={"base": 1, "edits": [{"kind": "add_lines", "lines": [line]}]})
    row = {"name": "Posts", "line": "L1", "item": {"kind": "box", "along": 1, "across": 1, "height": 1},
           "spacing": {"rule": {"kind": "fixed-centres", "centres": 1e-3}}}
    body = {"base": 2, "edits": [{"kind": "add_row", "row": row}], "confirmed": True}
    answers.append(client.post(f"/api/jobs/{id}/edits", json=body).status_code)
    answers.append(client.post(f"/api/jobs/{id}/walk", json={"text": "9" * 19999}).status_code)
    answers.append(client.post("/api/lengths", json={"text": "(" * 399}).status_code)
    answers.append(client.post(f"/api/jobs/{id}/walk", json={"text": "1000 * " * 2800 + "2"}).status_code)
""",
}


@pytest.mark.parametrize("name", list(BAD))
def test_a_bad_request_takes_little_memory_and_is_refused(name: str, database: str) -> None:
    work = textwrap.indent(textwrap.dedent(BAD[name]).strip(), "    ")
    program = PROGRAM.format(tests=str(ROOT / "tests" / "service"), database=database, work=work)
    limit = 3 * 1024**3

    def limited() -> None:
        resource.setrlimit(resource.RLIMIT_AS, (limit, limit))

    done = subprocess.run([sys.executable, "-W", "ignore", "-c", program], capture_output=True, text=True, check=False, preexec_fn=limited)
    assert done.returncode == 0, done.stderr[-2000:]
    answers, kilobytes = __import__("json").loads(done.stdout.splitlines()[-1])
    # A curve that only reaches far can be made, within the limits; the rest is the sender's fault.
    assert all(400 <= status < 500 or (status == 200 and "far end" in name) for status in answers), answers
    assert any(status >= 400 for status in answers)
    assert kilobytes < 700_000


def nested(levels: int) -> bytes:
    """An SVG of two kilobytes that unfolds to ten times as much at every level."""
    uses = ["".join(f'<use xlink:href="#g{level - 1}" x="{20 * i * 10**level}"/>' for i in range(10)) for level in range(levels)]
    groups = "".join(f'<g id="g{level}">{uses[level]}</g>' for level in range(1, levels))
    start = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><g id="g0"><path d="M0 0L10 10"/></g>'
    return f'{start}{groups}<use xlink:href="#g{levels - 1}"/></svg>'.encode()


def test_a_drawing_that_unfolds_without_bound_is_refused_at_once(client: TestClient) -> None:
    begin = time.monotonic()
    answer = client.post("/api/imports", files={"file": ("bomb.svg", nested(9))})
    assert (answer.status_code, answer.json()["code"]) == (422, "svg-unfolds")
    itself = b'<svg xmlns="http://www.w3.org/2000/svg"><g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g></svg>'
    assert client.post("/api/imports", files={"file": ("loop.svg", itself)}).status_code == 422
    assert time.monotonic() - begin < 30
    read = client.post("/api/imports", files={"file": ("fair.svg", nested(4))}).json()
    assert read["edges"] >= 1000


def many_edges(count: int) -> bytes:
    rows = ["0", "SECTION", "2", "ENTITIES"]
    for i in range(count):
        rows += [
            "0",
            "LINE",
            "8",
            "0",
            "10",
            str(i % 300 * 10),
            "20",
            str(i // 300 * 10),
            "11",
            str(i % 300 * 10 + 9.7),
            "21",
            str(i // 300 * 10 + 3),
        ]
    return "\n".join([*rows, "0", "ENDSEC", "0", "EOF", ""]).encode()


def test_a_crowd_of_files_waits_in_line_and_holds_up_nobody(database: str) -> None:
    with served(database) as (address, process), httpx.Client(base_url=address, timeout=120) as client:
        while client.get("/api/health").status_code != 200:
            time.sleep(0.1)
        small = many_edges(8000)
        waits: list[float] = []
        watched = threading.Event()

        def send(number: int) -> int:
            files = {"file": (f"{number}.dxf", small + b"\n" * number)}
            return httpx.post(f"{address}/api/imports", files=files, params={"task": f"task-{number}"}, timeout=300).status_code

        most = 0
        with ThreadPoolExecutor(14) as pool:
            sent = [pool.submit(send, number) for number in range(14)]
            while not all(one.done() for one in sent):
                begin = time.perf_counter()
                received = client.get(f"/api/tasks/task-{len(waits) % 14}").json()
                waits.append(time.perf_counter() - begin)
                if "before it" in received["doing"]:
                    watched.set()
                most = max(most, len(children(process)))
                time.sleep(0.02)
            assert [one.result() for one in sent] == [201] * 14
        assert watched.is_set()
        # Besides the two that always are (the one they are forked from, and Python's tracker of shared things): two that read.
        assert most <= 4
        assert sorted(waits)[len(waits) // 2] < 0.5


def children(process: Any) -> list[Any]:
    found: list[Any] = psutil.Process(process.pid).children(recursive=True)
    return found


def test_a_client_that_leaves_and_a_server_that_is_killed_leave_nothing_behind(database: str) -> None:
    with served(database) as (address, process):
        while httpx.get(f"{address}/api/health", timeout=60).status_code != 200:
            time.sleep(0.1)
        # The process that readers are forked from has its libraries loaded when it has read something.
        assert httpx.post(f"{address}/api/imports", files={"file": ("a.dxf", many_edges(10))}, timeout=60).status_code == 201
        large = many_edges(300_000)
        host, port = address.removeprefix("http://").split(":")

        def sent(number: int) -> socket.socket:
            """A connection that has sent a file and waits for its answer; each file is another, so that none was read before."""
            boundary = f"boundary-{number}"
            part = f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="{number}.dxf"\r\n\r\n'.encode()
            body = part + large + b"\n" * number + f"\r\n--{boundary}--\r\n".encode()
            head = f"POST /api/imports HTTP/1.1\r\nHost: {host}:{port}\r\nContent-Type: multipart/form-data; boundary={boundary}\r\n"
            connection = socket.create_connection((host, int(port)), timeout=60)
            connection.sendall(f"{head}Content-Length: {len(body)}\r\n\r\n".encode() + body)
            return connection

        def comes_to(readers: Callable[[int], bool]) -> bool:
            until = time.monotonic() + 60
            while not readers(len(children(process)) - idle):
                if time.monotonic() > until:
                    return False
                time.sleep(0.02)
            return True

        # The reader of the small file may be about to end: those that stay for a second are those that always are.
        idle, since = len(children(process)), time.monotonic()
        while time.monotonic() < since + 1:
            if (now := len(children(process))) != idle:
                idle, since = now, time.monotonic()
            time.sleep(0.02)

        leaving = sent(1)
        assert comes_to(lambda readers: readers >= 1)
        leaving.close()
        assert comes_to(lambda readers: readers == 0)

        staying = sent(2)
        assert comes_to(lambda readers: readers >= 1)
        going = children(process)
        process.kill()
        process.wait()
        psutil.wait_procs(going, timeout=10)
        assert [child.pid for child in going if child.is_running() and child.status() != psutil.STATUS_ZOMBIE] == []
        staying.close()


@pytest.mark.parametrize(
    ("slice", "order"),
    [
        (0.0, ["part 0", "short 0", "short 1", "short 2", "part 1", "part 2"]),
        # What is short is done in one go.
        (60.0, ["part 0", "part 1", "part 2", "short 0", "short 1", "short 2"]),
    ],
)
def test_long_work_lets_others_have_their_turn_in_the_order_they_asked(slice: float, order: list[str]) -> None:
    turns, received = Turns(slice), []
    begun = threading.Event()

    def long() -> None:
        with turns:
            begun.set()
            for part in range(3):
                while part == 0 and len(turns._waiting) < 3:
                    time.sleep(0.001)
                received.append(f"part {part}")
                turns.pass_on()

    def short(number: int) -> None:
        with turns:
            received.append(f"short {number}")
            if number == 0:
                raise ValueError("a turn ends whatever comes of it")

    with ThreadPoolExecutor(4) as pool:
        pool.submit(long)
        begun.wait()
        for number in range(3):
            pool.submit(short, number)
            while number < 2 and len(turns._waiting) <= number:
                time.sleep(0.001)
    assert received == order
    with turns:
        assert not turns._waiting

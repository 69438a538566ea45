"""Jobs of any size for the benchmarks, and a client that holds one as a window does."""

from __future__ import annotations

import gzip
import json
import math
import time
from http.client import HTTPConnection
from statistics import median
from typing import Any

import httpx
from opening import GROUPS

from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.job_file import job_to_text
from slow_ribbon.core.lines.model import Line, line_body, with_id
from slow_ribbon.core.runs.placement.run import Run
from slow_ribbon.core.sections.document.section import Section
from slow_ribbon.core.sections.library import rectangle


def tag(number: int) -> str:
    """Return letters for a number."""
    letters = ""
    while True:
        letters = chr(ord("A") + number % 26) + letters
        number = number // 26 - 1
        if number < 0:
            return letters


def loop(number: int, corners: int = 20) -> Line:
    """Return a closed line, different from every other."""
    angles = [2 * math.pi * i / corners for i in range(corners)]
    x, y = number % 50 * 9000.0, number // 50 * 9000.0
    points = [(x + (3000 + 500 * math.cos(3 * a)) * math.cos(a), y + (3000 + 7 * number % 400) * math.sin(a), 0.0) for a in angles]
    return with_id(line_body(points, True, f"Loop {number + 1}"), f"L{number + 1}")


def job_of(runs: int, lines: int | None = None) -> Job:
    """Return a job of runs round loops of 20 corners, and of further lines of three legs without runs."""
    loops = [loop(number) for number in range(runs)]
    straight = [
        with_id(
            line_body([(i * 300.0, -5000, 0), (i * 300.0 + 200, -5000, 0), (i * 300.0 + 200, -7000, 0)], False, f"Line {i + 1}"),
            f"L{i + 1}",
        )
        for i in range(runs, lines or 0)
    ]
    section = Section(id="S90001", name="Skirting", outline=rectangle(18, 120), width=18, height=120)
    made = tuple(Run(id=f"R{100_000 + i}", name=f"Run {i + 1}", tag=tag(i), line=f"L{i + 1}", section="S90001") for i in range(runs))
    return Job(name="Big", lines=(*loops, *straight), sections=(section,), runs=made, last_number=900_000)


def brought(client: httpx.Client, job: Job) -> str:
    """Put a job into the service and return its id."""
    made = client.post("/api/jobs/file", content=job_to_text(job), headers={"Content-Type": "application/json"}, timeout=300)
    assert made.status_code == 201, made.text
    return str(made.json()["id"])


class Window:
    """A client that knows the keys of the meshes of a job, and edits it."""

    def __init__(self, client: httpx.Client, id: str) -> None:
        self.client, self.id = client, id
        self._plain = HTTPConnection(client.base_url.host, client.base_url.port, timeout=300)
        self.times: list[float] = []
        self.bytes: list[int] = []
        self.edited: list[str] = []
        self.revision = 0
        self.runs: list[str] = []

    def open(self) -> float:
        """Fetch the first answer of opening the job; return how long it took, s."""
        begin = time.perf_counter()
        received = self.client.get(f"/api/jobs/{self.id}", timeout=300).json()
        took = time.perf_counter() - begin
        self.revision = received["revision"]
        self.runs = [run["id"] for run in received["job"]["runs"]]
        return took

    def figures(self) -> float:
        """Fetch everything else; return how long it took, s."""
        begin = time.perf_counter()
        with self.client.stream("GET", f"/api/jobs/{self.id}/figures", params={"revision": self.revision}, timeout=600) as parts:
            for line in parts.iter_lines():
                assert set(GROUPS) <= json.loads(line).keys()
        return time.perf_counter() - begin

    def edit(self) -> None:
        """Change the placing of one run after another, and fetch the meshes that changed."""
        number = len(self.times)
        run = self.runs[number % len(self.runs)]
        changes = {"lift": float(number % 50 + 1), "stand_off": float(number % 7)}
        edits = [{"kind": "set_placing", "runs": [run], "changes": changes}]
        begin = time.perf_counter()
        raw = self._asked("POST", "/edits", {"base": self.revision, "edits": edits})
        received = json.loads(raw if raw[:1] == b"{" else gzip.decompress(raw))
        for figures in received["runs"]:
            assert gzip.decompress(self._asked("GET", f"/meshes/{figures['key']}.glb"))[:4] == b"glTF"
        self.times.append(time.perf_counter() - begin)
        self.bytes.append(len(raw))
        self.edited.append(run)
        self.revision = received["revision"]

    def slowest(self) -> tuple[str, list[float], int]:
        """Return the run whose edits took the longest as a rule, their times, s, and the longest of their answers."""
        of: dict[str, list[int]] = {}
        for number, run in enumerate(self.edited):
            of.setdefault(run, []).append(number)
        run = max(of, key=lambda one: median(self.times[number] for number in of[one]))
        return run, [self.times[number] for number in of[run]], max(self.bytes[number] for number in of[run])

    def _asked(self, method: str, path: str, body: Any = None) -> bytes:
        """Return an answer as it came, compressed, by the plainest client there is: it takes its share of the same processors."""
        headers = {"Accept-Encoding": "gzip", **({} if body is None else {"Content-Type": "application/json"})}
        self._plain.request(method, f"/api/jobs/{self.id}{path}", None if body is None else json.dumps(body), headers)
        answer = self._plain.getresponse()
        raw = answer.read()
        assert answer.status == 200, raw
        return raw

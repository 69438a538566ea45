"""Mutated files by the thousand: read or refused with a reason, and so what comes of them through all that follows, never without end.

One process reads many of them, as the reader's own process would, under the same limits; the
library behind a reader may raise what it likes, but what leaves the reader is a refusal.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from examples import examples
from making_files import every_kind

#: Mutations of each kind of file.
ROUNDS = {"dxf": 400, "svg": 1000, "geojson": 2000, "csv": 2000, "obj": 500, "ply": 500, "stl": 500, "glb": 500, "ifc": 300}

WORKER = """
import json, math, random, resource, sys, time
from pathlib import Path
from slow_ribbon.core.job.edits.apply import apply_all
from slow_ribbon.core.job.edits.runs import AddRuns
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.job.document.document import Job
from slow_ribbon.core.job.edits.lines import AddLines
from slow_ribbon.core.solve.solver import solve
from slow_ribbon.demo import ferry_house
from slow_ribbon.service.views.view_cache import line_json
from slow_ribbon.service.views.imports import lines_shown
from slow_ribbon.imports.registry import READER_OF
from slow_ribbon.imports.drawing import check_drawing, site_origin
from slow_ribbon.imports.line_finding import find_lines, line_bodies
from slow_ribbon.imports.options import Options

ending, source, folder, rounds = sys.argv[1], Path(sys.argv[2]).read_bytes(), Path(sys.argv[3]), int(sys.argv[4])
resource.setrlimit(resource.RLIMIT_AS, (4 * 1024**3, 4 * 1024**3))
random.seed(ending)
path = folder / f"mutated.{ending}"
read = refused = added = 0
house = ferry_house()
bare = house.model_copy(update={"lines": (), "runs": (), "rows": (), "formulas": (), "last_number": 500})
section = house.sections[0].id
strange = [b"", b"\\0", b"-1", b"1e999", b"nan", b"9" * 40, b"<", b"{", b"\\xff\\xfe", b"10000000"]
strange += [b"../../etc/passwd", b"file:///etc/passwd"]
for number in range(rounds):
    data = bytearray(source)
    for _ in range(random.choice((1, 1, 2, 8))):
        at = random.randrange(len(data)) if data else 0
        way = random.randrange(5)
        if way == 0:
            data[at : at + random.choice((1, 4, 60))] = random.choice(strange)
        elif way == 1:
            del data[at : at + random.choice((1, 10, 500))]
        elif way == 2:
            data[at:at] = data[random.randrange(len(data) or 1) :][: random.choice((5, 200))]
        elif way == 3 and data:
            data[at] = random.randrange(256)
        else:
            data = data[: max(1, at)]
    path.write_bytes(bytes(data))
    begin = time.process_time()
    try:
        drawing = check_drawing(READER_OF[ending].read(path, ending, Options()))
        found = find_lines(drawing, None, 1.0)
        json.loads(lines_shown(found))
        bodies = line_bodies(found, None, site_origin(drawing), "f", "0" * 64)
        read += 1
        # What came of it is added, told of, and run along: done, or refused with a reason. It takes longer, and is done for some.
        if read % 12 != 1:
            continue
        try:
            job = apply_all(bare, [AddLines(lines=tuple(bodies[:20]))]).job
            for line in job.lines[:3]:
                line_json(line)
                runs = apply_all(job, [AddRuns(lines=(line.id,), section=section)]).job
                for run in solve(runs).runs.values():
                    assert math.isfinite(float(run.cuts.volumes.sum()))
        except Refused as error:
            assert len(error.what) > 15, error.what
        added += 1
    except Refused as error:
        assert len(error.what) > 15, error.what
        refused += 1
    except MemoryError:
        refused += 1
    finally:
        assert time.process_time() - begin < 60, number
    # What one file left remembered is not carried to the next.
print(read, refused, added)
"""


@pytest.mark.parametrize("ending", sorted(ROUNDS))
def test_mutated_files_are_read_or_refused(ending: str, tmp_path: Path) -> None:
    source = tmp_path / f"whole.{ending}"
    source.write_bytes(every_kind(tmp_path)[ending])
    command = [sys.executable, "-c", WORKER, ending, str(source), str(tmp_path), str(max(100, examples(ROUNDS[ending])))]
    done = subprocess.run(command, capture_output=True, text=True, timeout=1400, env={**os.environ, "OMP_NUM_THREADS": "1"}, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    read, refused, added = map(int, done.stdout.split()[-3:])
    # Mutations that leave a file whole are read, and those that do not are reported.
    assert read > 0
    assert refused > 0
    assert added > 0

"""Reading a file in a process of its own, so that a bad file can neither hang nor fill the server.

The reader gets a time and a memory limit. Its result comes back as arrays in an ``.npz``.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

from slow_ribbon.core.faults import Refused
from slow_ribbon.formats.drawing import Drawing, check_drawing

SECONDS = 120
MEMORY = 3 * 1024**3
#: Files larger than this are refused before they are read.
LARGEST = 50 * 1024 * 1024


def read_apart(path: Path, seconds: int = SECONDS, memory: int = MEMORY) -> Drawing:
    """Return the drawing in a DXF file, read in a process of its own and checked.

    Raises ``Refused`` where the file is too large, no DXF, damaged, empty of edges, or takes
    longer or more memory than the limits allow.
    """
    size = path.stat().st_size
    if size > LARGEST:
        raise Refused(
            f"The file is {size / 1024**2:.0f} MB; 50 MB is the most. Save the part you need as a file of its own.", "file", "too-large"
        )
    with tempfile.TemporaryDirectory(prefix="slow-ribbon-") as folder:
        out = Path(folder) / "drawing.npz"
        command = [sys.executable, "-m", "slow_ribbon.formats.apart", str(path), str(out), str(seconds), str(memory)]
        try:
            done = subprocess.run(command, capture_output=True, text=True, timeout=seconds + 10, check=False)
        except subprocess.TimeoutExpired as error:
            raise Refused(
                f"Reading the file took longer than {seconds} s and was stopped: bring in a part of it.", "file", "too-slow"
            ) from error
        if done.returncode == 3:
            told = json.loads(done.stdout)
            raise Refused(told["what"], told["where"], told["code"])
        if done.returncode != 0:
            why = "took too long" if done.returncode in (-9, -24) else "needed too much memory or failed"
            last = done.stderr.strip().splitlines()[-1:] or [""]
            raise Refused(f"Reading the file {why} and was stopped: bring in a part of it. {last[0]}".strip(), "file", "reader-stopped")
        with np.load(out, allow_pickle=False) as found:
            about = json.loads(str(found["about"]))
            drawing = Drawing(
                found["begins"], found["ends"], found["layer"], tuple(about["layers"]), about["unread"], about["unit"], about["unit_known"]
            )
    return check_drawing(drawing)


def _main(path: str, out: str, seconds: str, memory: str) -> int:
    from slow_ribbon.formats.dxf import read_dxf

    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds), int(seconds)))
    resource.setrlimit(resource.RLIMIT_AS, (int(memory), int(memory)))
    try:
        drawing = read_dxf(Path(path))
    except Refused as refused:
        print(json.dumps({"what": refused.what, "where": refused.where, "code": refused.code}))
        return 3
    about = {"layers": drawing.layers, "unread": drawing.unread, "unit": drawing.unit, "unit_known": drawing.unit_known}
    np.savez(out, begins=drawing.begins, ends=drawing.ends, layer=drawing.layer, about=np.array(json.dumps(about)))
    return 0


if __name__ == "__main__":
    sys.exit(_main(*sys.argv[1:]))

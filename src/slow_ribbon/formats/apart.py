"""Reading a file in a process of its own, so that a bad file can neither hang nor fill the server.

The reader gets a time and a memory limit, and can be stopped. Its result comes back as arrays
in an ``.npz``, or as a picture.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.legs import AnyLeg, Leg
from slow_ribbon.formats.drawing import Drawing, DrawnOpening, check_drawing
from slow_ribbon.formats.options import Options
from slow_ribbon.formats.pictures import PictureRead

SECONDS = 120
MEMORY = 3 * 1024**3
#: Files larger than this are refused before they are read.
LARGEST = 50 * 1024 * 1024

#: Which reader reads files of which ending.
KINDS: dict[str, str] = {
    "dxf": "dxf", "svg": "svg", "geojson": "geojson", "json": "geojson", "csv": "points", "txt": "points", "xyz": "points",
    "pts": "points", "asc": "points", "obj": "mesh", "ply": "mesh", "stl": "mesh", "glb": "mesh", "gltf": "mesh", "ifc": "ifc",
    "ifczip": "ifc",
}  # fmt: skip

_LEGS: TypeAdapter[AnyLeg] = TypeAdapter(Leg)


class Stopped(Exception):
    """The person stopped what was going on."""


def kind_of(name: str, head: bytes) -> str:
    """Return the ending that a file should have, from its name or else its first bytes. Raises ``Refused`` for one that is not read."""
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    if ending in KINDS:
        return ending
    start = head.lstrip()[:400].lower()
    for mark, found in ((b"iso-10303-21", "ifc"), (b"gltf", "glb"), (b"ply", "ply"), (b"{", "geojson")):
        if start.startswith(mark):
            return found
    if b"<svg" in start:
        return "svg"
    if start.startswith((b"0\nsection", b"0\r\nsection", b"999")) or b" binary dxf\r\n\x1a\0" in start[:24]:
        return "dxf"
    shown = f"of the kind .{ending}" if ending else "without an ending"
    raise Refused(
        f"A file {shown} cannot be brought in. DXF, SVG, GeoJSON, lists of points (CSV, TXT), meshes (OBJ, PLY, STL, glTF) and IFC can.",
        "file",
        "unknown-kind",
    )


def read_apart(
    path: Path,
    options: Options | None = None,
    ending: str | None = None,
    seconds: int = SECONDS,
    memory: int = MEMORY,
    stopped: Callable[[], bool] | None = None,
) -> Drawing:
    """Return the drawing in a file, read in a process of its own and checked.

    Raises ``Refused`` where the file is too large, of an unknown kind, damaged, empty of edges,
    or takes longer or more memory than the limits allow; ``Stopped`` where it is to stop.
    """
    _check_size(path)
    with path.open("rb") as file:
        ending = ending or kind_of(path.name, file.read(1000))
    with tempfile.TemporaryDirectory(prefix="slow-ribbon-") as folder:
        out = Path(folder) / "drawing.npz"
        told = (options or Options()).model_dump_json()
        _run([KINDS[ending], ending, str(path), str(out), told], seconds, memory, stopped)
        with np.load(out, allow_pickle=False) as found:
            about = json.loads(str(found["about"]))
            drawing = Drawing(
                found["begins"],
                found["ends"],
                found["layer"],
                tuple(about["layers"]),
                about["unread"],
                about["unit"],
                about["unit_known"],
                {int(number): _LEGS.validate_python(leg) for number, leg in about["curves"].items()},
                tuple(about["hidden"]),
                about["colours"],
                tuple(about["notes"]),
                tuple(DrawnOpening(one["name"], one["layer"], tuple(one["begin"]), tuple(one["end"])) for one in about["openings"]),
                tuple((float(x), float(y), float(z)) for x, y, z in found["points"]),
                about["by_layer"],
            )
    return check_drawing(drawing)


def read_picture_apart(path: Path, page: int = 0, seconds: int = SECONDS, memory: int = MEMORY) -> PictureRead:
    """Return a picture file read in a process of its own. Raises ``Refused`` as ``read_apart`` does."""
    _check_size(path)
    with tempfile.TemporaryDirectory(prefix="slow-ribbon-") as folder:
        out = Path(folder) / "picture.png"
        about = json.loads(_run(["picture", "", str(path), str(out), str(page)], seconds, memory, None))
        return PictureRead(out.read_bytes(), **about)


def _check_size(path: Path) -> None:
    size = path.stat().st_size
    if size > LARGEST:
        raise Refused(
            f"The file is {size / 1024**2:.0f} MB; 50 MB is the most. Save the part you need as a file of its own.", "file", "too-large"
        )
    if size == 0:
        raise Refused("The file is empty.", "file", "damaged")


def _run(arguments: list[str], seconds: int, memory: int, stopped: Callable[[], bool] | None) -> str:
    """Run this module on a file and return what it prints. Raises ``Refused`` and ``Stopped``."""
    command = [sys.executable, "-m", "slow_ribbon.formats.apart", *arguments, str(seconds), str(memory)]
    with tempfile.TemporaryFile("w+") as printed, tempfile.TemporaryFile("w+") as failed:
        process = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=printed, stderr=failed)
        until = time.monotonic() + seconds + 10
        try:
            while True:
                try:
                    status = process.wait(0.1)
                    break
                except subprocess.TimeoutExpired:
                    if stopped is not None and stopped():
                        raise Stopped from None
                    if time.monotonic() > until:
                        raise Refused(
                            f"Reading the file took longer than {seconds} s and was stopped: bring in a part of it.", "file", "too-slow"
                        ) from None
        finally:
            if process.poll() is None:
                process.kill()
                process.wait()
        printed.seek(0)
        failed.seek(0)
        said, last = printed.read(), failed.read().strip().splitlines()[-1:]
    if status == 3:
        told = json.loads(said)
        raise Refused(told["what"], told["where"], told["code"])
    if status != 0:
        why = "took too long" if status in (-9, -24) else "needed too much memory or failed"
        reason = (last or [""])[0][:200]
        raise Refused(f"Reading the file {why} and was stopped: bring in a part of it. {reason}".strip(), "file", "reader-stopped")
    return said


def _read(kind: str, ending: str, path: Path, options: Options) -> Drawing:
    # Each reader brings a library of its own, which only its own process loads.
    if kind == "dxf":
        from slow_ribbon.formats.dxf import read_dxf

        return read_dxf(path)
    if kind == "svg":
        from slow_ribbon.formats.svg import read_svg

        return read_svg(path, options)
    if kind == "geojson":
        from slow_ribbon.formats.geojson import read_geojson

        return read_geojson(path, options)
    if kind == "points":
        from slow_ribbon.formats.points import read_points

        return read_points(path, options)
    if kind == "mesh":
        from slow_ribbon.formats.mesh import read_mesh

        return read_mesh(path, ending, options)
    from slow_ribbon.formats.ifc import read_ifc

    return read_ifc(path, options)


def _main(kind: str, ending: str, path: str, out: str, told: str, seconds: str, memory: str) -> int:
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds), int(seconds)))
    resource.setrlimit(resource.RLIMIT_AS, (int(memory), int(memory)))
    # A reader writes its result and nothing like a flood of temporary files.
    resource.setrlimit(resource.RLIMIT_FSIZE, (1024**3, 1024**3))
    try:
        if kind == "picture":
            from slow_ribbon.formats.pictures import read_picture

            picture = read_picture(Path(path), int(told))
            Path(out).write_bytes(picture.png)
            print(json.dumps({name: value for name, value in vars(picture).items() if name != "png"}))
            return 0
        drawing = _read(kind, ending, Path(path), Options.model_validate_json(told))
    except Refused as refused:
        print(json.dumps({"what": refused.what, "where": refused.where, "code": refused.code}))
        return 3
    about: dict[str, Any] = {
        "layers": drawing.layers, "unread": drawing.unread, "unit": drawing.unit, "unit_known": drawing.unit_known,
        "curves": {number: leg.model_dump(mode="json") for number, leg in drawing.curves.items()},
        "hidden": drawing.hidden, "colours": drawing.colours, "notes": drawing.notes, "by_layer": drawing.by_layer,
        "openings": [vars(one) for one in drawing.openings],
    }  # fmt: skip
    points = np.array(drawing.points, dtype=float).reshape(-1, 3)
    written = np.array(json.dumps(about))
    np.savez(out, about=written, begins=drawing.begins, ends=drawing.ends, layer=drawing.layer, points=points)
    return 0


if __name__ == "__main__":
    sys.exit(_main(*sys.argv[1:]))

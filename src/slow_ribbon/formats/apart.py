"""Heavy or doubtful work in a process of its own, so that nothing sent in can hang, fill or slow the server.

A process gets a time and a memory limit, and can be stopped; it ends when the server does, and
leaves nothing on the disk. A drawing that was read comes back as arrays in an ``.npz``, a picture
as PNG, lines that were found as they are.
"""

from __future__ import annotations

import ctypes
import io
import json
import multiprocessing
import os
import pickle
import resource
import signal
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.legs import AnyLeg, Leg
from slow_ribbon.formats.drawing import Drawing, DrawnOpening, Found, Question, TableSeen, check_drawing, find_lines
from slow_ribbon.formats.options import Options
from slow_ribbon.formats.picture import PictureRead

#: Told how far work has come, as a share of one.
Report = Callable[[float], None]

#: Processes are forked from one that has no threads and, where it is kept warm, all libraries loaded.
_context = multiprocessing.get_context("forkserver")

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
_TABLE: TypeAdapter[TableSeen | None] = TypeAdapter(TableSeen | None)


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


def keep_warm() -> None:
    """Start the process that readers are forked from, with their libraries loaded, so that none has to load them again."""
    _context.set_forkserver_preload(["slow_ribbon.formats.warm"])
    forkserver.ensure_running()


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
    _check_size(path.stat().st_size)
    data = path.read_bytes()
    return read_data_apart(data, ending or kind_of(path.name, data[:1000]), options, seconds, memory, stopped)


def read_data_apart(
    data: bytes,
    ending: str,
    options: Options | None = None,
    seconds: int = SECONDS,
    memory: int = MEMORY,
    stopped: Callable[[], bool] | None = None,
    asking: bool = False,
) -> Drawing:
    """Return the drawing in the bytes of a file of a kind, as ``read_apart`` does; ``asking``, also one with a question."""
    _check_size(len(data))
    told = (options or Options()).model_dump_json()
    _, packed = _run("drawing", [KINDS[ending], ending, told], data, seconds, memory, stopped)
    with np.load(io.BytesIO(packed), allow_pickle=False) as found:
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
            _TABLE.validate_python(about["table"]),
            Question(**about["question"]) if about["question"] else None,
        )
    if drawing.question is None:
        return check_drawing(drawing)
    if asking:
        return drawing
    raise Refused(drawing.question.what, drawing.question.where, drawing.question.code)


def read_picture_apart(path: Path, page: int = 0, seconds: int = SECONDS, memory: int = MEMORY) -> PictureRead:
    """Return a picture file read in a process of its own. Raises ``Refused`` as ``read_apart`` does."""
    _check_size(path.stat().st_size)
    return picture_data_apart(path.read_bytes(), page, seconds, memory)


def picture_data_apart(
    data: bytes, page: int = 0, seconds: int = SECONDS, memory: int = MEMORY, stopped: Callable[[], bool] | None = None
) -> PictureRead:
    """Return a picture in the bytes of a file, as ``read_picture_apart`` does."""
    _check_size(len(data))
    about, png = _run("picture", [str(page)], data, seconds, memory, stopped)
    return PictureRead(png, **about)


def find_lines_apart(
    drawing: Drawing,
    layers: list[str] | None,
    tolerance: float,
    ways: Mapping[int, Sequence[tuple[int, int]]] | None = None,
    level: float | None = None,
    report: Report | None = None,
    stopped: Callable[[], bool] | None = None,
) -> Found:
    """Return the lines that a drawing's edges make, found in a process of its own; ``report`` is told the share done."""
    asked = pickle.dumps((drawing, layers, tolerance, ways, level))
    _, packed = _run("lines", [], asked, SECONDS, MEMORY, stopped, report)
    # What comes back is of our own making: the process has read no file, only a drawing that was checked.
    edges, joined, names, named_layers = pickle.loads(packed)
    return Found(drawing, edges, joined, names, named_layers, level)


def _check_size(size: int) -> None:
    if size > LARGEST:
        raise Refused(
            f"The file is {size / 1024**2:.0f} MB; 50 MB is the most. Save the part you need as a file of its own.", "file", "too-large"
        )
    if size == 0:
        raise Refused("The file is empty.", "file", "damaged")


def _run(
    what: str,
    arguments: list[str],
    data: bytes,
    seconds: int,
    memory: int,
    stopped: Callable[[], bool] | None,
    report: Report | None = None,
) -> tuple[Any, bytes]:
    """Let a process of its own work on data, and return what it tells and makes. Raises ``Refused`` and ``Stopped``."""
    here, there = _context.Pipe()
    process = _context.Process(target=_work, args=(there, what, arguments, seconds, memory), daemon=True)
    process.start()
    there.close()
    until = time.monotonic() + seconds + 10
    try:
        here.send_bytes(data)
        while True:
            if here.poll(0.1):
                told = json.loads(here.recv_bytes())
                if "share" in told:
                    if report is not None:
                        report(told["share"])
                    continue
                if "refused" in told:
                    raise Refused(told["refused"], told["where"], told["code"])
                if "failed" in told:
                    raise _given_up("needed too much memory or failed", told["failed"])
                return told["done"], here.recv_bytes()
            if stopped is not None and stopped():
                raise Stopped
            if time.monotonic() > until:
                raise Refused(f"Reading the file took longer than {seconds} s and was stopped: bring in a part of it.", "file", "too-slow")
    except (EOFError, ConnectionError, BrokenPipeError):
        # It ended without a word: stopped by a limit, or it fell over.
        process.join(5)
        late = process.exitcode in (-signal.SIGXCPU, -signal.SIGKILL)
        raise _given_up("took too long" if late else "needed too much memory or failed", "") from None
    finally:
        here.close()
        if process.is_alive():
            process.kill()
        process.join()
        process.close()


def _given_up(why: str, reason: str) -> Refused:
    what = f"Reading the file {why} and was stopped: bring in a part of it. {reason[:200]}".strip()
    return Refused(what, "file", "reader-stopped")


def _read(kind: str, ending: str, path: Path, options: Options) -> Drawing:
    # Each reader brings a library of its own, which only its own process loads.
    if kind == "dxf":
        from slow_ribbon.formats.dxf import read_dxf

        return read_dxf(path, options)
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


def _work(connection: Connection, what: str, arguments: list[str], seconds: int, memory: int) -> None:
    """Work on what comes, within limits; called in the process of its own."""
    _end_with_parent()
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    # A reader writes its result and nothing like a flood of temporary files.
    resource.setrlimit(resource.RLIMIT_FSIZE, (1024**3, 1024**3))

    def tell(**told: Any) -> None:
        connection.send_bytes(json.dumps(told).encode())

    try:
        done, packed = _TASKS[what](connection.recv_bytes(), arguments, lambda share: tell(share=share))
    except Refused as refused:
        tell(refused=refused.what, where=refused.where, code=refused.code)
    except Exception as error:  # noqa: BLE001 - whatever a library meets a bad file with is told, in the other process
        tell(failed=f"{type(error).__name__}: {error}")
    else:
        tell(done=done)
        connection.send_bytes(packed)


def _end_with_parent() -> None:
    """Let this process be killed when the one it was forked from ends, which ends with the server."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG, see prctl(2)


@contextmanager
def _in_memory(data: bytes) -> Iterator[Path]:
    """Give data a path without a file on the disk, so that nothing is left behind however this ends."""
    descriptor = os.memfd_create("file")
    try:
        with open(descriptor, "wb", closefd=False) as file:
            file.write(data)
        yield Path(f"/proc/self/fd/{descriptor}")
    finally:
        os.close(descriptor)


def _drawing(data: bytes, arguments: list[str], _: Report) -> tuple[None, bytes]:
    kind, ending, told = arguments
    with _in_memory(data) as path:
        drawing = _read(kind, ending, path, Options.model_validate_json(told))
    about: dict[str, Any] = {
        "layers": drawing.layers, "unread": drawing.unread, "unit": drawing.unit, "unit_known": drawing.unit_known,
        "curves": {number: leg.model_dump(mode="json") for number, leg in drawing.curves.items()},
        "hidden": drawing.hidden, "colours": drawing.colours, "notes": drawing.notes, "by_layer": drawing.by_layer,
        "openings": [vars(one) for one in drawing.openings],
        "table": vars(drawing.table) if drawing.table else None, "question": vars(drawing.question) if drawing.question else None,
    }  # fmt: skip
    points = np.array(drawing.points, dtype=float).reshape(-1, 3)
    out = io.BytesIO()
    np.savez(out, about=np.array(json.dumps(about)), begins=drawing.begins, ends=drawing.ends, layer=drawing.layer, points=points)
    return None, out.getvalue()


def _picture(data: bytes, arguments: list[str], _: Report) -> tuple[dict[str, Any], bytes]:
    from slow_ribbon.formats.pictures import read_picture

    with _in_memory(data) as path:
        picture = read_picture(path, int(arguments[0]))
    return {name: value for name, value in vars(picture).items() if name != "png"}, picture.png


def _lines(data: bytes, _: list[str], report: Report) -> tuple[None, bytes]:
    drawing, layers, tolerance, ways, level = pickle.loads(data)
    found = find_lines(drawing, layers, tolerance, ways, level, report)
    return None, pickle.dumps((found.edges, found.joined, found.names, found.layers))


_TASKS: dict[str, Callable[[bytes, list[str], Report], tuple[Any, bytes]]] = {"drawing": _drawing, "picture": _picture, "lines": _lines}

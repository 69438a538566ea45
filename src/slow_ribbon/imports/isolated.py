"""Files read, and lines found in them, each in a process of its own with limits: see ``sandbox``.

A drawing that was read comes back as arrays in an ``.npz``, a picture as PNG, lines that were
found as they are.
"""

from __future__ import annotations

import io
import json
import pickle
from collections.abc import Callable, Mapping, Sequence
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from slow_ribbon.core.kernel import Refused
from slow_ribbon.core.lines import AnyLeg, Leg
from slow_ribbon.imports.drawing import Drawing, DrawnOpening, Question, TableSeen, check_drawing
from slow_ribbon.imports.line_finding import Found, find_lines
from slow_ribbon.imports.mesh_faces import Faces
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.progress import reported_to
from slow_ribbon.imports.registry import READER_OF, ending_of
from slow_ribbon.imports.results import ItemRead, PictureRead
from slow_ribbon.sandbox import Bounds, Report, in_memory, work_apart

SECONDS = 120
MEMORY = 3 * 1024**3
#: Files larger than this are refused before they are read.
LARGEST = 50 * 1024 * 1024

_LEGS: TypeAdapter[AnyLeg] = TypeAdapter(Leg)
_FACES = [each.name for each in fields(Faces)]
_TABLE: TypeAdapter[TableSeen | None] = TypeAdapter(TableSeen | None)


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
    return read_data_apart(data, ending or ending_of(path.name, data[:1000]), options, seconds, memory, stopped)


def read_data_apart(
    data: bytes,
    ending: str,
    options: Options | None = None,
    seconds: int = SECONDS,
    memory: int = MEMORY,
    stopped: Callable[[], bool] | None = None,
    asking: bool = False,
    report: Report | None = None,
) -> Drawing:
    """Return the drawing in the bytes of a file of a kind, as ``read_apart`` does; ``asking``, also one with a question."""
    _check_size(len(data))
    message = (options or Options()).model_dump_json()
    _, packed = work_apart(_drawing, [ending, message], data, _bounds(seconds, memory), stopped, report)
    with np.load(io.BytesIO(packed), allow_pickle=False) as found:
        about = json.loads(str(found["about"]))
        drawing = Drawing(
            begins=found["begins"],
            ends=found["ends"],
            layer=found["layer"],
            layers=tuple(about["layers"]),
            unread=about["unread"],
            unit=about["unit"],
            unit_known=about["unit_known"],
            curves={int(number): _LEGS.validate_python(leg) for number, leg in about["curves"].items()},
            hidden=tuple(about["hidden"]),
            colours=about["colours"],
            notes=tuple(about["notes"]),
            openings=tuple(DrawnOpening(one["name"], one["layer"], tuple(one["begin"]), tuple(one["end"])) for one in about["openings"]),
            points=tuple((float(x), float(y), float(z)) for x, y, z in found["points"]),
            parts=found["parts"] if len(found["parts"]) else None,
            table=_TABLE.validate_python(about["table"]),
            question=Question(**about["question"]) if about["question"] else None,
            keys=tuple(about["keys"]),
            key=found["key"] if len(found["key"]) else None,
            groups=about["groups"],
            faces=Faces(**{name: found[f"faces_{name}"] for name in _FACES}) if "faces_loops" in found else None,
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
    about, png = work_apart(_picture, [str(page)], data, _bounds(seconds, memory), stopped)
    return PictureRead(png, **about)


def item_data_apart(data: bytes, ending: str, options: Options, stopped: Callable[[], bool] | None = None) -> ItemRead:
    """Return the item in the bytes of a mesh file of a kind, read in a process of its own. Raises as ``read_apart`` does."""
    _check_size(len(data))
    about, glb = work_apart(_item, [ending, options.model_dump_json()], data, _bounds(SECONDS, MEMORY), stopped)
    return ItemRead(glb, **about)


def find_lines_apart(
    drawing: Drawing,
    layers: list[str] | None,
    tolerance: float,
    ways: Mapping[int, Sequence[tuple[int, int]]] | None = None,
    level: float | None = None,
    report: Report | None = None,
    stopped: Callable[[], bool] | None = None,
    loops: Sequence[int] = (),
) -> Found:
    """Return the lines that a drawing's edges make, found in a process of its own; ``report`` is given the share done."""
    # What faces look like, and what edges are called, is not needed for joining.
    bare = replace(drawing, keys=(), key=None)
    if drawing.faces is not None:
        unseen = replace(drawing.faces, vertices=np.zeros((0, 3)), triangles=np.zeros((0, 3), dtype=np.int64))
        bare = replace(bare, faces=unseen)
    asked = pickle.dumps((bare, layers, tolerance, ways, level, loops))
    _, packed = work_apart(_lines, [], asked, _bounds(SECONDS, MEMORY), stopped, report)
    # What comes back is of our own making: the process has read no file, only a drawing that was checked.
    edges, joined, names, named_layers = pickle.loads(packed)
    return Found(drawing=drawing, edges=edges, joined=joined, names=names, layers=named_layers, level=level)


def _bounds(seconds: int, memory: int) -> Bounds:
    return Bounds(
        seconds=seconds, memory=memory, what="Reading the file", instead="bring in a part of it", where="file", code="reader-stopped"
    )


def _check_size(size: int) -> None:
    if size > LARGEST:
        raise Refused(
            f"The file is {size / 1024**2:.0f} MB; the limit is 50 MB. Save the part you need as a file of its own.", "file", "too-large"
        )
    if size == 0:
        raise Refused("The file is empty.", "file", "damaged")


def _drawing(data: bytes, arguments: Sequence[str], report: Report) -> tuple[None, bytes]:
    ending, message = arguments
    with in_memory(data) as path, reported_to(report):
        drawing = READER_OF[ending].read(path, ending, Options.model_validate_json(message))
    about: dict[str, Any] = {
        "layers": drawing.layers, "unread": drawing.unread, "unit": drawing.unit, "unit_known": drawing.unit_known,
        "curves": {number: leg.model_dump(mode="json") for number, leg in drawing.curves.items()},
        "hidden": drawing.hidden, "colours": drawing.colours, "notes": drawing.notes,
        "openings": [vars(one) for one in drawing.openings],
        "table": vars(drawing.table) if drawing.table else None, "question": vars(drawing.question) if drawing.question else None,
        "keys": drawing.keys, "groups": drawing.groups,
    }  # fmt: skip
    points = np.array(drawing.points, dtype=float).reshape(-1, 3)
    parts = drawing.parts if drawing.parts is not None else np.zeros(0, dtype=np.int64)
    key = drawing.key if drawing.key is not None else np.zeros(0, dtype=np.int64)
    arrays: dict[str, Any] = {"begins": drawing.begins, "ends": drawing.ends, "layer": drawing.layer}
    arrays |= {"points": points, "parts": parts, "key": key}
    if drawing.faces is not None:
        arrays |= {f"faces_{name}": getattr(drawing.faces, name) for name in _FACES}
    out = io.BytesIO()
    np.savez(out, about=np.array(json.dumps(about)), **arrays)
    return None, out.getvalue()


def _picture(data: bytes, arguments: Sequence[str], _: Report) -> tuple[dict[str, Any], bytes]:
    from slow_ribbon.imports.pictures import read_picture

    with in_memory(data) as path:
        picture = read_picture(path, int(arguments[0]))
    return {name: value for name, value in vars(picture).items() if name != "png"}, picture.png


def _item(data: bytes, arguments: Sequence[str], _: Report) -> tuple[dict[str, Any], bytes]:
    from slow_ribbon.imports.item_mesh import read_item

    item = read_item(data, arguments[0], Options.model_validate_json(arguments[1]))
    return {name: value for name, value in vars(item).items() if name != "glb"}, item.glb


def _lines(data: bytes, _: Sequence[str], report: Report) -> tuple[None, bytes]:
    drawing, layers, tolerance, ways, level, loops = pickle.loads(data)
    found = find_lines(drawing, layers, tolerance, ways, level, report, loops)
    return None, pickle.dumps((found.edges, found.joined, found.names, found.layers))

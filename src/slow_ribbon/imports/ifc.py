"""IFC models (ISO 16739), read with ifcopenshell: the boundaries of spaces, walls, slabs and columns at floor or ceiling level.

Each thing's outline is that of its level faces at the bottom or the top, a floor's at its top;
what is round in the model comes as the short straights its geometry kernel makes of it. Doors,
windows and openings without either become openings of the lines they stand in, where they reach
the level of the lines. What else the model holds is listed by kind and number.
"""

from __future__ import annotations

import re
import tempfile
import zipfile
from collections import Counter
from dataclasses import replace
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import numpy as np
from ifcopenshell.util.unit import calculate_unit_scale

from slow_ribbon.core.kernel import NO_LENGTH, Array, Indices, Refused
from slow_ribbon.core.lines import place
from slow_ribbon.imports.drawing import Drawing, DrawnOpening
from slow_ribbon.imports.edges import Edges, reason
from slow_ribbon.imports.options import UNIT_NAMES, UNITS, Options, Unit
from slow_ribbon.imports.progress import in_shares

KINDS = {
    "IfcSpace": "space", "IfcWall": "wall", "IfcSlab": "slab", "IfcColumn": "column", "IfcBeam": "beam", "IfcCovering": "covering",
    "IfcRoof": "roof",
}  # fmt: skip
#: What openings are broken out of.
_BROKEN = ("IfcSpace", "IfcWall")
#: What has its say as an opening, or as a part of something else, and is not reported as left.
_OTHERWISE = ("IfcFeatureElement", "IfcDoor", "IfcWindow", "IfcElementAssembly", "IfcVirtualElement", *KINDS)
#: A door that ends nearer to the level of the lines than this, mm, breaks them.
REACHES = 150.0
#: A line nearer to an opening's body than this, mm, runs through it.
THROUGH = 60.0
#: A thing lies no deeper than this in wholes and storeys.
_DEEPEST = 20
#: An archive may not unfold to more than this.
UNFOLDED = 300 * 1024**2


def read_ifc(path: Path, options: Options) -> Drawing:
    """Return the edges of an IFC model, in mm. Raises ``Refused`` if it is not one, is damaged, or unfolds without bound."""
    with tempfile.TemporaryDirectory(prefix="slow-ribbon-") as folder:
        try:
            model = ifcopenshell.open(str(_plain(path, Path(folder))))
        except Refused:
            raise
        except Exception as error:  # whatever ifcopenshell meets damage with
            raise Refused(f"This is not an IFC file, or it is cut off ({reason(error)}).", "file", "damaged") from error
        if model is None or not hasattr(model, "by_type"):
            raise Refused("This is not an IFC file.", "file", "damaged")
        try:
            return _edges(model, options)
        except (Refused, MemoryError):
            raise
        except Exception as error:  # see above
            raise Refused(f"The IFC model is damaged inside ({type(error).__name__}: {reason(error)}).", "file", "damaged") from error


def _plain(path: Path, folder: Path) -> Path:
    """Return the IFC file itself, out of its archive where it lies in one."""
    with path.open("rb") as file:
        if file.read(2) != b"PK":
            return path
    try:
        with zipfile.ZipFile(path) as archive:
            inside = [one for one in archive.infolist() if one.filename.lower().endswith(".ifc")]
            if len(inside) != 1:
                raise Refused(f"The archive holds {len(inside)} IFC files; it should hold one.", "file", "archive")
            if inside[0].file_size > UNFOLDED or inside[0].file_size > 200 * max(1, inside[0].compress_size):
                raise Refused(
                    f"The archive unfolds to {inside[0].file_size / 1024**2:.0f} MB, which none of its size does: send the IFC itself.",
                    "file",
                    "archive",
                )
            found = folder / "model.ifc"
            with archive.open(inside[0]) as source, found.open("wb") as target:
                left = UNFOLDED
                while block := source.read(1024 * 1024):
                    left -= len(block)
                    if left < 0:
                        raise Refused("The archive unfolds without end: send the IFC itself.", "file", "archive")
                    target.write(block)
            return found
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError) as error:
        raise Refused(f"The archive is damaged or locked ({reason(error)}).", "file", "damaged") from error


def _edges(model: Any, options: Options) -> Drawing:
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    # Walls are wanted whole; their openings are listed by themselves.
    settings.set("disable-opening-subtractions", True)
    edges = Edges()
    edges.by_layer = True
    names: Counter[str] = Counter()
    outlines: list[tuple[str, float, Array]] = []
    things = [(kind, word, thing) for kind, word in KINDS.items() for thing in model.by_type(kind)]
    for kind, word, thing in in_shares(things, 0.2, 0.9):
        shape = _shape(settings, thing)
        if shape is None:
            edges.unread[f"{word}s without geometry"] += 1
            continue
        named = str(getattr(thing, "LongName", None) or thing.Name or word)
        layer = named if named.lower().startswith(word) else f"{word} {named}"
        names[layer] += 1
        layer = layer if names[layer] == 1 else f"{layer} ({names[layer]})"
        edges.groups[layer] = _storey(thing)
        edges.key = str(thing.GlobalId or "")
        level, pairs = _outline(*shape, "ceiling" if _is_floor(thing) else options.storey)
        for begin, end in pairs:
            edges.straight(begin, end, layer)
        if not len(pairs):
            edges.unread[f"{word}s without a level face there"] += 1
        elif kind in _BROKEN:
            outlines.append((layer, level, pairs))
    if len(set(edges.groups.values())) < 2:
        edges.groups.clear()
    aside = 0
    plain = [one for one in model.by_type("IfcOpeningElement") if not getattr(one, "HasFillings", ())]
    for filling in [*model.by_type("IfcDoor"), *model.by_type("IfcWindow"), *plain]:
        taken = _openings(settings, filling, outlines, options.storey, edges)
        aside += 1 - taken
    for thing in model.by_type("IfcElement"):
        if not any(thing.is_a(kind) for kind in _OTHERWISE):
            edges.unread[_words(thing.is_a())] += 1
    reaches = "floor" if options.storey == "floor" else "ceiling"
    edges.notes.append(f"Lines are at {reaches} level; openings broken out of them: {len(edges.openings)}.")
    if aside:
        edges.notes.append(f"Doors, windows and openings that do not reach that level, or stand in no line, and break nothing: {aside}.")
    drawing = edges.drawing("millimetres", True)
    return drawing if options.unit is None else _taken_in(drawing, options.unit, calculate_unit_scale(model))


def _taken_in(drawing: Drawing, unit: Unit, metres: float) -> Drawing:
    """Return a drawing whose figures are in another unit than the model says, whose length in metres is given."""
    factor = UNITS[unit] / (metres * 1000)
    openings = tuple(
        replace(one, begin=place(np.multiply(one.begin, factor)), end=place(np.multiply(one.end, factor))) for one in drawing.openings
    )
    return replace(drawing, begins=drawing.begins * factor, ends=drawing.ends * factor, openings=openings, unit=UNIT_NAMES[unit])


def _storey(thing: Any) -> str:
    """Return the name of the storey that a thing stands in, in words where it stands in none."""
    for _ in range(_DEEPEST):
        held = getattr(thing, "ContainedInStructure", None) or ()
        whole = getattr(thing, "Decomposes", None) or ()
        if thing.is_a("IfcBuildingStorey"):
            return str(thing.LongName or thing.Name or "storey")
        if held:
            thing = held[0].RelatingStructure
        elif whole:
            thing = whole[0].RelatingObject
        else:
            break
    return "in no storey"


def _is_floor(thing: Any) -> bool:
    """Return whether people walk on a thing, so that its edge is wanted at its top."""
    return bool(thing.is_a("IfcSlab") or (thing.is_a("IfcCovering") and getattr(thing, "PredefinedType", None) == "FLOORING"))


def _words(name: str) -> str:
    """Return the plural, in words, of a kind's name: ``curtain walls`` for IfcCurtainWall."""
    return re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name.removeprefix("Ifc")).lower() + "s"


def _shape(settings: Any, thing: Any) -> tuple[Array, Indices] | None:
    """Return a thing's vertices (n, 3) in mm and triangles (f, 3); None where it has no body."""
    if getattr(thing, "Representation", None) is None:
        return None
    try:
        shape: Any = ifcopenshell.geom.create_shape(settings, thing)
        geometry = shape.geometry
    except RuntimeError:
        return None
    vertices = np.array(geometry.verts, dtype=float).reshape(-1, 3) * 1000
    faces = np.array(geometry.faces, dtype=np.int64).reshape(-1, 3)
    if not len(faces) or not np.isfinite(vertices).all():
        return None
    return vertices, faces


def _outline(vertices: Array, faces: Indices, storey: str) -> tuple[float, Array]:
    """Return the level of a body's bottom or top and the edges (k, 2, 3) round its level faces there."""
    level = float(vertices[:, 2].min() if storey == "floor" else vertices[:, 2].max())
    # Equal places are one vertex, so that inner edges are met twice.
    unique, inverse = np.unique(np.round(vertices, 3), axis=0, return_inverse=True)
    faces = inverse.reshape(-1)[faces]
    flat = (np.abs(unique[faces][:, :, 2] - level) < 0.5).all(axis=1)
    sides = np.concatenate([faces[flat][:, [0, 1]], faces[flat][:, [1, 2]], faces[flat][:, [2, 0]]])
    if not len(sides):
        return level, np.zeros((0, 2, 3))
    ordered = np.sort(sides, axis=1)
    _, first, count = np.unique(ordered, axis=0, return_index=True, return_counts=True)
    return level, unique[sides[first[count == 1]]]


def _openings(settings: Any, filling: Any, outlines: list[tuple[str, float, Array]], storey: str, edges: Edges) -> int:
    """Take the openings that a door or window makes in lines; return whether it makes any."""
    voids = [one.RelatingOpeningElement for one in getattr(filling, "FillsVoids", ()) or ()]
    shape = _shape(settings, voids[0] if voids else filling)
    if shape is None:
        return 0
    body = shape[0]
    low, high = float(body[:, 2].min()), float(body[:, 2].max())
    name = str(filling.Tag or filling.Name or filling.is_a().removeprefix("Ifc").lower())
    made = 0
    for layer, level, pairs in outlines:
        reaches = low <= level + REACHES and high >= level if storey == "floor" else high >= level - REACHES and low <= level
        if not reaches:
            continue
        along = pairs[:, 1] - pairs[:, 0]
        sizes = np.linalg.norm(along, axis=1)
        for (begin, _), size, unit in zip(pairs, sizes, along / np.maximum(sizes, NO_LENGTH)[:, None], strict=True):
            if size < 1:
                continue
            flat = body[:, :2] - begin[:2]
            ahead, aside = flat @ unit[:2], flat @ np.array([unit[1], -unit[0]])
            if aside.min() > THROUGH or aside.max() < -THROUGH:
                continue
            first, last = max(0.0, float(ahead.min())), min(float(size), float(ahead.max()))
            # A line across the wall, at its end say, passes the opening's body and is not broken by it.
            if last - first < 1 or (ahead.max() - ahead.min()) < (aside.max() - aside.min()) * 0.5:
                continue
            edges.openings.append(DrawnOpening(name, layer, place(begin + unit * first), place(begin + unit * last)))
            made = 1
    return made

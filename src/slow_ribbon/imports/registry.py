"""Every reader there is: what it reads, how its files are known, and where it lies.

Each reader brings a library of its own, which only the process that reads loads.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Final, Protocol

from slow_ribbon.core.kernel import Refused

if TYPE_CHECKING:
    from slow_ribbon.imports.drawing import Drawing
    from slow_ribbon.imports.options import Options


class Read(Protocol):
    """From a file and its ending to the drawing in it. Raises ``Refused`` where the file is damaged or empty of edges."""

    def __call__(self, path: Path, ending: str, options: Options) -> Drawing: ...


@dataclass(frozen=True, kw_only=True)
class Reader:
    """A reader of files. ``words`` is what they are called in a list; ``known`` recognizes a file by its first bytes, of any case, with no
    white space before them, and returns the ending it should have."""

    kind: str
    words: str
    endings: tuple[str, ...]
    read: Read
    known: Callable[[bytes], str | None] = lambda _: None


def _begins(*marks: tuple[bytes, str]) -> Callable[[bytes], str | None]:
    return lambda start: next((ending for mark, ending in marks if start.startswith(mark)), None)


def _dxf(path: Path, ending: str, options: Options) -> Drawing:
    from slow_ribbon.imports.dxf.read_dxf import read_dxf

    return read_dxf(path, options)


def _known_dxf(start: bytes) -> str | None:
    plain = start.startswith((b"0\nsection", b"0\r\nsection", b"999"))
    return "dxf" if plain or b" binary dxf\r\n\x1a\0" in start[:24] else None


def _svg(path: Path, ending: str, options: Options) -> Drawing:
    from slow_ribbon.imports.svg.read_svg import read_svg

    return read_svg(path, options)


def _geojson(path: Path, ending: str, options: Options) -> Drawing:
    from slow_ribbon.imports.geojson import read_geojson

    return read_geojson(path, options)


def _points(path: Path, ending: str, options: Options) -> Drawing:
    from slow_ribbon.imports.points.read_points import read_points

    return read_points(path, options)


def _mesh(path: Path, ending: str, options: Options) -> Drawing:
    from slow_ribbon.imports.mesh import read_mesh

    return read_mesh(path, ending, options)


def _ifc(path: Path, ending: str, options: Options) -> Drawing:
    from slow_ribbon.imports.ifc import read_ifc

    return read_ifc(path, options)


READERS: Final = (
    Reader(kind="dxf", words="DXF", endings=("dxf",), read=_dxf, known=_known_dxf),
    Reader(kind="svg", words="SVG", endings=("svg",), read=_svg, known=lambda start: "svg" if b"<svg" in start else None),
    Reader(kind="geojson", words="GeoJSON", endings=("geojson", "json"), read=_geojson, known=_begins((b"{", "geojson"))),
    Reader(kind="points", words="lists of points (CSV, TXT)", endings=("csv", "txt", "xyz", "pts", "asc"), read=_points),
    Reader(
        kind="mesh",
        words="meshes (OBJ, PLY, STL, glTF)",
        endings=("obj", "ply", "stl", "glb", "gltf"),
        read=_mesh,
        known=_begins((b"gltf", "glb"), (b"ply", "ply")),
    ),
    Reader(kind="ifc", words="IFC", endings=("ifc", "ifczip"), read=_ifc, known=_begins((b"iso-10303-21", "ifc"))),
)
READER_OF: Final = {ending: reader for reader in READERS for ending in reader.endings}


def ending_of(name: str, head: bytes) -> str:
    """Return the ending that a file should have, from its name or else its first bytes. Raises ``Refused`` for one that is not read."""
    ending = name.rsplit(".", 1)[-1].lower() if "." in name else ""
    if ending in READER_OF:
        return ending
    start = head.lstrip()[:400].lower()
    for reader in READERS:
        if (known := reader.known(start)) is not None:
            return known
    shown = f"of the kind .{ending}" if ending else "without an ending"
    words = [reader.words for reader in READERS]
    raise Refused(f"A file {shown} cannot be imported. {', '.join(words[:-1])} and {words[-1]} can.", "file", "unknown-kind")

"""DXF drawings, R12 to R2018, ASCII or binary, read with ezdxf.

Straight edges of LINE, LWPOLYLINE and POLYLINE are taken from model space and, to any depth,
from the blocks inserted there. Content on layer 0 of a block lies on the layer of its insert.
Curves are counted and reported, not read.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import ezdxf
import ezdxf.units
import numpy as np
from ezdxf.entities.dxfentity import DXFEntity
from ezdxf.entities.insert import Insert
from ezdxf.entities.line import Line
from ezdxf.entities.lwpolyline import LWPolyline
from ezdxf.entities.polyline import Polyline
from ezdxf.math import Matrix44, Vec3

from slow_ribbon.core.faults import Refused
from slow_ribbon.formats.drawing import Drawing

#: Kinds of entity that are curves, as the report names them.
CURVES = {"ARC": "arcs", "CIRCLE": "circles", "ELLIPSE": "ellipses", "SPLINE": "splines", "HELIX": "helices"}
#: Blocks inside blocks deeper than this are a mistake or a trap.
DEEPEST = 24
#: More edges than this cannot be worked with, and may be a small file that unfolds without end.
MOST_EDGES = 2_000_000

#: Flag of a POLYLINE's vertex that only frames a spline (DXF reference, VERTEX group code 70).
SPLINE_FRAME = 16

Ends = tuple[float, float, float]


@dataclass(frozen=True)
class Place:
    """Where content lies: the matrix to the drawing, the layer it inherits, how many blocks deep it is."""

    matrix: Matrix44
    layer: str
    depth: int


class _Reading:
    """Edges met so far, with what was left unread."""

    def __init__(self) -> None:
        self.begins: list[Ends] = []
        self.ends: list[Ends] = []
        self.layer: list[int] = []
        self.layers: dict[str, int] = {}
        self.unread: Counter[str] = Counter()

    def edge(self, begin: Vec3, end: Vec3, layer: str) -> None:
        if len(self.begins) >= MOST_EDGES:
            raise Refused(f"The drawing unfolds into more than {MOST_EDGES:,} edges: bring in a part of it.", "file", "too-many-edges")
        self.begins.append(begin.xyz)
        self.ends.append(end.xyz)
        self.layer.append(self.layers.setdefault(layer, len(self.layers)))

    def entity(self, entity: DXFEntity, place: Place) -> None:
        kind = entity.dxftype()
        layer = str(entity.dxf.get("layer", "0"))
        if layer == "0" and place.depth:
            layer = place.layer
        if isinstance(entity, Line):
            begin, end = place.matrix.transform_vertices([entity.dxf.start, entity.dxf.end])
            self.edge(begin, end, layer)
        elif isinstance(entity, LWPolyline):
            bulges = [float(row[0]) for row in entity.get_points("b")]
            self.polyline(entity.vertices_in_wcs(), bulges, bool(entity.closed), layer, place)
        elif isinstance(entity, Polyline) and (entity.is_2d_polyline or entity.is_3d_polyline):
            if any(vertex.dxf.flags & SPLINE_FRAME for vertex in entity.vertices):
                self.unread["splined polylines"] += 1
                return
            bulges = [float(vertex.dxf.get("bulge", 0.0)) for vertex in entity.vertices]
            self.polyline(entity.points_in_wcs(), bulges, bool(entity.is_closed), layer, place)
        elif isinstance(entity, Insert):
            self.insert(entity, layer, place)
        elif kind in CURVES:
            self.unread[CURVES[kind]] += 1
        else:
            self.unread[f"{kind.lower().replace('_', ' ')} entities"] += 1

    def polyline(self, vertices: Iterable[Vec3], bulges: list[float], closed: bool, layer: str, place: Place) -> None:
        points = list(place.matrix.transform_vertices(vertices))
        count = len(points)
        for index in range(count if closed else count - 1):
            if abs(bulges[index]) > 1e-9:
                self.unread["curved polyline legs"] += 1
            elif points[index] != points[(index + 1) % count]:
                self.edge(points[index], points[(index + 1) % count], layer)

    def insert(self, insert: Insert, layer: str, place: Place) -> None:
        if place.depth >= DEEPEST:
            raise Refused(f"Block {insert.dxf.name} lies more than {DEEPEST} blocks deep or holds itself.", "file", "block-depth")
        block = insert.block()
        if block is None:
            self.unread["inserts of blocks that are not in the file"] += 1
            return
        singles: Iterable[Insert] = insert.multi_insert() if insert.mcount > 1 else (insert,)
        for single in singles:
            # The matrices are multiplied rather than each insert re-expressed by angles and
            # scales, which cannot say every turned insert in an unevenly scaled one.
            inner = Place(single.matrix44() @ place.matrix, layer, place.depth + 1)
            for part in block:
                self.entity(part, inner)


def read_dxf(path: Path) -> Drawing:
    """Return the straight edges of a DXF file, in mm.

    Raises ``Refused`` where the file is no DXF, is cut off or damaged, or unfolds without bound.
    """
    try:
        document = ezdxf.readfile(path)
    except OSError as error:
        raise Refused(f"This is not a DXF file ({error}).", "file", "not-a-dxf") from error
    except Exception as error:  # ezdxf meets damage with whatever its parsers raise, StopIteration included
        raise Refused(
            f"The DXF file is cut off or damaged ({type(error).__name__}: {error}). Save it again from the program that made it.",
            "file",
            "damaged",
        ) from error
    reading = _Reading()
    try:
        for entity in document.modelspace():
            reading.entity(entity, Place(Matrix44(), "0", 0))
    except Refused:
        raise
    except Exception as error:  # see above
        raise Refused(f"The DXF file is damaged inside ({type(error).__name__}: {error}). Save it again.", "file", "damaged") from error
    units, factor, name = _unit(int(document.header.get("$INSUNITS", 0)))
    shape = (len(reading.begins), 3)
    return Drawing(
        begins=np.array(reading.begins, dtype=float).reshape(shape) * factor,
        ends=np.array(reading.ends, dtype=float).reshape(shape) * factor,
        layer=np.array(reading.layer, dtype=np.int64),
        layers=tuple(reading.layers),
        unread=dict(reading.unread),
        unit=name,
        unit_known=bool(units),
    )


def _unit(code: int) -> tuple[int, float, str]:
    """Return the unit code, its length in mm and its name; code 0 and millimetres where a drawing does not say."""
    try:
        if code:
            return (
                code,
                float(ezdxf.units.conversion_factor(code, ezdxf.units.MM)),
                str(ezdxf.units.unit_name(code)).lower().replace("meter", "metre"),
            )
    except (TypeError, KeyError, IndexError):
        # ezdxf knows no length for the rarest units, nor for codes that DXF does not have.
        pass
    return 0, 1.0, "millimetres"

"""What a reader makes of a file: loose edges with their layers, and what was left unread."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from slow_ribbon.core.geometry import Loose
from slow_ribbon.core.kernel import FARTHEST, Array, Indices, Point3, Refused
from slow_ribbon.core.lines import AnyLeg
from slow_ribbon.imports.curve_ends import looks_of
from slow_ribbon.imports.mesh_faces import Faces
from slow_ribbon.imports.options import Column, Decimal, Delimiter

#: A drawing that lies further than this from its origin, mm, is brought near zero.
FAR = 1e6
#: More edges than this cannot be worked with, and may be a small file that unfolds without end.
MOST_EDGES = 2_000_000


@dataclass(frozen=True)
class DrawnOpening:
    """An opening that a file names, such as a door: its two ends, mm, on the layer of the lines it belongs to."""

    name: str
    layer: str
    begin: Point3
    end: Point3


@dataclass(frozen=True)
class Question:
    """A question that a person must answer before a file can be read, and where reading stopped."""

    what: str
    where: str
    code: str


@dataclass(frozen=True)
class TableSeen:
    """How a table was read: ``names`` head its columns where it has a header; ``rows`` are its first of ``count``."""

    encoding: str
    delimiter: Delimiter
    decimal: Decimal
    header: bool
    columns: tuple[Column, ...]
    names: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    count: int
    without_height: int


@dataclass(frozen=True)
class Drawing:
    """A file read: begins, ends (n, 3) in mm; layer (n,) indices into ``layers``.

    ``curves`` holds the legs of edges that are no straights, by edge number, each from the
    edge's beginning to its end. ``unread`` counts what was met and not read, by kind; ``unit``
    names the drawing's unit and ``unit_known`` says whether the drawing said so itself.
    ``hidden`` are layers that are off or frozen there, ``colours`` their colours as a hint,
    ``notes`` what the person should know about how it was read. ``points`` are surveyed points. Edges
    of different ``parts`` (n,) are not joined: the things of a model, or of a map, lie against one another.
    ``keys`` name what edges were drawn as where the file does, the handle of an entity say, and
    ``key`` (n,) is the place of each edge's in them.
    ``groups`` names what layers belong to, the storeys of a model, where there are several.
    ``table`` is how a list of points was read; with a ``question`` there are no edges yet. ``faces`` are those of a mesh.
    """

    begins: Array
    ends: Array
    layer: Indices
    layers: tuple[str, ...]
    unread: dict[str, int]
    unit: str
    unit_known: bool
    curves: dict[int, AnyLeg] = field(default_factory=dict)
    hidden: tuple[str, ...] = ()
    colours: dict[str, str] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    openings: tuple[DrawnOpening, ...] = ()
    points: tuple[Point3, ...] = ()
    parts: Indices | None = None
    table: TableSeen | None = None
    question: Question | None = None
    keys: tuple[str, ...] = ()
    key: Indices | None = None
    groups: dict[str, str] = field(default_factory=dict)
    faces: Faces | None = None

    def layer_counts(self) -> list[int]:
        """Return how many edges each layer holds."""
        return [int(count) for count in np.bincount(self.layer, minlength=len(self.layers))]

    def loose(self, edges: Indices, level: float | None = None) -> Loose:
        """Return some of the edges for joining; with ``level`` all brought to one height, mm."""
        begins, ends = self.begins[edges], self.ends[edges]
        curved = np.isin(edges, np.fromiter(self.curves, dtype=np.int64, count=len(self.curves)))
        leaving, middles = np.zeros((len(edges), 2, 3)), np.zeros((len(edges), 3))
        rows = np.flatnonzero(curved)
        leaving[rows], middles[rows] = looks_of([(begins[row], self.curves[int(edges[row])]) for row in rows.tolist()])
        if level is not None:
            begins, ends = _levelled(begins, level), _levelled(ends, level)
            middles = _levelled(middles, level)
        return Loose(begins, ends, curved, leaving, middles)


def _levelled(points: Array, level: float) -> Array:
    flat = points.copy()
    flat[:, 2] = level
    return flat


def check_drawing(drawing: Drawing) -> Drawing:
    """Return the drawing. Raises ``Refused`` where it holds no edges or coordinates that cannot be."""
    if len(drawing.begins) == 0:
        found = f" Met and not read: {unread_words(drawing)}." if drawing.unread else ""
        raise Refused(f"The file holds no edges that lines could be made of.{found}", "file", "no-edges")
    points = np.concatenate([drawing.begins, drawing.ends])
    bad = np.flatnonzero(~np.isfinite(points).all(axis=1) | (np.abs(np.nan_to_num(points)) > FARTHEST).any(axis=1))
    if len(bad):
        edge = int(bad[0]) % len(drawing.begins)
        message = ", ".join(f"{value:g}" for value in points[bad[0]])
        layer = drawing.layers[int(drawing.layer[edge])]
        raise Refused(
            f"{len(bad)} edge ends have coordinates that are no numbers or lie more than ten thousand kilometres away; "
            f"the first is ({message}) mm on layer {layer}. Check the drawing's units.",
            "file",
            "coordinates",
        )
    return drawing


def unread_words(drawing: Drawing) -> str:
    """Return the entities that were not read, in words: ``1 arc, 3 circles``."""
    return ", ".join(f"{count} {_one(kind) if count == 1 else kind}" for kind, count in sorted(drawing.unread.items()))


def _one(kind: str) -> str:
    """Return the singular of a kind of entity."""
    if kind.endswith("ies"):
        return kind[:-3] + "y"
    first, _, rest = kind.partition(" ")
    return (first.removesuffix("s") + (" " + rest if rest else "")) if first.endswith("s") else kind.removesuffix("s")


def chosen_edges(drawing: Drawing, layers: list[str] | None, loops: Sequence[int] = ()) -> Indices:
    """Return the numbers of the edges on the chosen layers and of those along loops of a mesh; all where ``layers`` is ``None``.

    Raises ``Refused`` for a layer or a loop the drawing does not have.
    """
    if layers is None:
        return np.arange(len(drawing.begins))
    along = drawing.faces.along(loops) if drawing.faces is not None else np.zeros(0, dtype=np.int64)
    numbers = {name: index for index, name in enumerate(drawing.layers)}
    for name in layers:
        if name not in numbers:
            raise Refused(f"The drawing has no layer {name!r}.", "layers", "unknown-layer")
    chosen = np.isin(drawing.layer, [numbers[name] for name in layers])
    chosen[along] = True
    return np.flatnonzero(chosen)


def site_origin(drawing: Drawing) -> Point3:
    """Return where a job's zero should lie: a whole metre near a drawing that is far from its own origin."""
    points = np.concatenate([drawing.begins, drawing.ends])
    if not len(points):
        return (0.0, 0.0, 0.0)
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    if float(np.hypot(middle[0], middle[1])) < FAR:
        return (0.0, 0.0, 0.0)
    return (math.floor(middle[0] / 1000) * 1000.0, math.floor(middle[1] / 1000) * 1000.0, 0.0)

"""What a reader makes of a drawing: loose edges with their layers, and what was left unread."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from slow_ribbon.core.faults import Refused
from slow_ribbon.core.join import Joined, join
from slow_ribbon.core.line import LineBody, Source, line_body
from slow_ribbon.core.model import Point3
from slow_ribbon.core.shape import Array, Indices
from slow_ribbon.core.units import FARTHEST

#: A drawing that lies further than this from its origin, mm, is brought near nought.
FAR = 1e6


@dataclass(frozen=True)
class Drawing:
    """A drawing read: begins, ends (n, 3) in mm; layer (n,) indices into ``layers``.

    ``unread`` counts what was met and not read, by kind; ``unit`` names the drawing's unit and
    ``unit_known`` tells whether the drawing said so itself.
    """

    begins: Array
    ends: Array
    layer: Indices
    layers: tuple[str, ...]
    unread: dict[str, int]
    unit: str
    unit_known: bool

    def layer_counts(self) -> list[int]:
        """Return how many edges each layer holds."""
        return [int(count) for count in np.bincount(self.layer, minlength=len(self.layers))]


def check_drawing(drawing: Drawing) -> Drawing:
    """Return the drawing. Raises ``Refused`` where it holds no edges or coordinates that cannot be."""
    if len(drawing.begins) == 0:
        found = f" Met and not read yet: {unread_words(drawing)}." if drawing.unread else ""
        raise Refused(
            f"The drawing holds no straight edges.{found} Lines and polylines are read, in model space and in blocks.", "file", "no-edges"
        )
    points = np.concatenate([drawing.begins, drawing.ends])
    bad = np.flatnonzero(~np.isfinite(points).all(axis=1) | (np.abs(np.nan_to_num(points)) > FARTHEST).any(axis=1))
    if len(bad):
        edge = int(bad[0]) % len(drawing.begins)
        place = ", ".join(f"{value:g}" for value in points[bad[0]])
        layer = drawing.layers[int(drawing.layer[edge])]
        raise Refused(
            f"{len(bad)} edge ends have coordinates that are no numbers or lie more than ten thousand kilometres away; "
            f"the first is ({place}) mm on layer {layer}. Check the drawing's units.",
            "file",
            "coordinates",
        )
    return drawing


def unread_words(drawing: Drawing) -> str:
    """Return what was met and not read, in words: ``1 arc, 3 circles``."""
    return ", ".join(f"{count} {_one(kind) if count == 1 else kind}" for kind, count in sorted(drawing.unread.items()))


def _one(kind: str) -> str:
    """Return the singular of a kind of entity."""
    if kind.endswith("ies"):
        return kind[:-3] + "y"
    return "helix" if kind == "helices" else kind.removesuffix("s")


def chosen_edges(drawing: Drawing, layers: list[str] | None) -> Indices:
    """Return the numbers of the edges on the chosen layers; all where ``layers`` is ``None``.

    Raises ``Refused`` for a layer the drawing does not have.
    """
    if layers is None:
        return np.arange(len(drawing.begins))
    numbers = {name: index for index, name in enumerate(drawing.layers)}
    for name in layers:
        if name not in numbers:
            raise Refused(f"The drawing has no layer {name!r}.", "layers", "unknown-layer")
    wanted = [numbers[name] for name in layers]
    return np.flatnonzero(np.isin(drawing.layer, wanted))


@dataclass(frozen=True)
class Found:
    """Lines found in a drawing: ``joined`` over the chosen edges, with a name and a layer for each chain."""

    joined: Joined
    names: tuple[str, ...]
    layers: tuple[str, ...]


def find_lines(drawing: Drawing, layers: list[str] | None, tolerance: float) -> Found:
    """Return the lines that the edges on the chosen layers make."""
    edges = chosen_edges(drawing, layers)
    joined = join(drawing.begins[edges], drawing.ends[edges], tolerance)
    chain_layers = tuple(drawing.layers[int(drawing.layer[edges[min(chain.edges)]])] for chain in joined.chains)
    totals = {name: chain_layers.count(name) for name in set(chain_layers)}
    met: dict[str, int] = {}
    names = []
    for name in chain_layers:
        met[name] = met.get(name, 0) + 1
        shown = name.strip() or "Line"
        names.append(shown[:100] if totals[name] == 1 else f"{shown[:100]} {met[name]}")
    return Found(joined, tuple(names), chain_layers)


def site_origin(drawing: Drawing) -> Point3:
    """Return where a job's nought should lie: a whole metre near a drawing that is far from its own origin."""
    points = np.concatenate([drawing.begins, drawing.ends])
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    if float(np.hypot(middle[0], middle[1])) < FAR:
        return (0.0, 0.0, 0.0)
    return (math.floor(middle[0] / 1000) * 1000.0, math.floor(middle[1] / 1000) * 1000.0, 0.0)


def line_bodies(found: Found, chosen: list[int] | None, origin: Point3, file: str, content: str) -> list[LineBody]:
    """Return the chosen chains as lines near the job's nought. Raises ``Refused`` for a chain that is not there."""
    numbers = range(len(found.joined.chains)) if chosen is None else chosen
    bodies = []
    for number in numbers:
        if not 0 <= number < len(found.joined.chains):
            raise Refused(
                f"There is no line {number + 1} in this drawing at this join tolerance: look at the lines again.", "lines", "unknown-line"
            )
        chain = found.joined.chains[number]
        source = Source(file=file[:255], content=content, layer=found.layers[number][:255])
        bodies.append(line_body(chain.points - np.array(origin), chain.closed, found.names[number], source=source))
    return bodies

"""What a reader makes of a file: loose edges with their layers, and what was left unread."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from slow_ribbon.core.again import keys_kept, shape_of
from slow_ribbon.core.course import course_of
from slow_ribbon.core.faults import Refused
from slow_ribbon.core.join import Chain, Joined, Junction, Report, join
from slow_ribbon.core.legs import AnyLeg, StraightLeg, mapped, place, reshaped, reversed_leg
from slow_ribbon.core.line import Line, LineBody, Opening, Source, line_body
from slow_ribbon.core.model import Point3
from slow_ribbon.core.net import Loose
from slow_ribbon.core.shape import Array, Indices
from slow_ribbon.core.simpler import straightened
from slow_ribbon.core.units import FARTHEST
from slow_ribbon.formats.curves import looks_of
from slow_ribbon.formats.options import Column, Decimal, Delimiter

#: A drawing that lies further than this from its origin, mm, is brought near nought.
FAR = 1e6
#: More edges than this cannot be worked with, and may be a small file that unfolds without end.
MOST_EDGES = 2_000_000


@dataclass(frozen=True)
class DrawnOpening:
    """An opening that a file tells of, a door say: its two ends, mm, on the layer of the lines it belongs to."""

    name: str
    layer: str
    begin: Point3
    end: Point3


@dataclass(frozen=True)
class Question:
    """What a person must say before anything comes of a file, and where it stopped."""

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
    names the drawing's unit and ``unit_known`` tells whether the drawing said so itself.
    ``hidden`` are layers that are off or frozen there, ``colours`` their colours as a hint,
    ``notes`` what the person should know about how it was read. ``points`` are surveyed points. Edges
    of different ``parts`` (n,) are not joined: the things of a model, or of a map, lie against one another.
    ``keys`` name what edges were drawn as where the file does, the handle of an entity say, and
    ``key`` (n,) is the place of each edge's in them.
    ``groups`` names what layers belong to, the storeys of a model, where there are several.
    ``table`` is how a list of points was read; with a ``question`` there are no edges yet.
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
        told = ", ".join(f"{value:g}" for value in points[bad[0]])
        layer = drawing.layers[int(drawing.layer[edge])]
        raise Refused(
            f"{len(bad)} edge ends have coordinates that are no numbers or lie more than ten thousand kilometres away; "
            f"the first is ({told}) mm on layer {layer}. Check the drawing's units.",
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
    first, _, rest = kind.partition(" ")
    return (first.removesuffix("s") + (" " + rest if rest else "")) if first.endswith("s") else kind.removesuffix("s")


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

    drawing: Drawing
    edges: Indices
    joined: Joined
    names: tuple[str, ...]
    layers: tuple[str, ...]
    level: float | None

    def keys_of(self, numbers: Iterable[int]) -> list[tuple[str, ...]]:
        """Return the keys that lines found keep of the edges they were made of."""
        if self.drawing.key is None:
            return [() for _ in numbers]
        keys, key = self.drawing.keys, self.drawing.key[self.edges].tolist()
        return [keys_kept(keys[key[edge]] for edge in self.joined.chains[number].edges) for number in numbers]

    def also_on(self, numbers: Iterable[int]) -> list[tuple[str, ...]]:
        """Return the layers, besides its own, that the edges of lines found lie on."""
        layer, names = self.drawing.layer[self.edges].tolist(), self.drawing.layers
        all_layers = [sorted({layer[edge] for edge in self.joined.chains[number].edges}) for number in numbers]
        return [
            tuple(names[one][:255] for one in layers if names[one] != self.layers[number])[:16]
            for number, layers in zip(numbers, all_layers, strict=True)
        ]


def find_lines(
    drawing: Drawing,
    layers: list[str] | None,
    tolerance: float,
    ways: Mapping[int, Sequence[tuple[int, int]]] | None = None,
    level: float | None = None,
    report: Report | None = None,
) -> Found:
    """Return the lines that the edges on the chosen layers make; ``ways``, ``level`` and ``report`` as for joining."""
    edges = chosen_edges(drawing, layers)
    if drawing.parts is not None:
        joined = _joined_by_part(drawing, drawing.parts[edges], edges, tolerance, ways or {}, level, report)
    else:
        joined = join(drawing.loose(edges, level), tolerance, ways, report)
    chain_layers = tuple(drawing.layers[int(drawing.layer[edges[min(chain.edges)]])] for chain in joined.chains)
    totals = Counter(chain_layers)
    met: dict[str, int] = {}
    names = []
    for name in chain_layers:
        met[name] = met.get(name, 0) + 1
        shown = name.strip() or "Line"
        names.append(shown[:100] if totals[name] == 1 else f"{shown[:100]} {met[name]}")
    return Found(drawing, edges, joined, tuple(names), chain_layers, level)


def _joined_by_part(
    drawing: Drawing,
    of: Indices,
    edges: Indices,
    tolerance: float,
    ways: Mapping[int, Sequence[tuple[int, int]]],
    level: float | None,
    report: Report | None,
) -> Joined:
    """Return what joining every part of a drawing by itself finds, as one; junctions are numbered through."""
    chains: list[Chain] = []
    junctions: list[Junction] = []
    parts = []
    order = np.argsort(of, kind="stable")
    for rows in np.split(order, np.flatnonzero(np.diff(of[order])) + 1):
        here = {number - len(junctions): pairs for number, pairs in ways.items() if number >= len(junctions)}
        part = join(drawing.loose(edges[rows], level), tolerance, here, report)
        chains.extend(replace(chain, edges=tuple(int(rows[edge]) for edge in chain.edges)) for chain in part.chains)
        junctions.extend(replace(one, edges=tuple(int(rows[edge]) for edge in one.edges)) for one in part.junctions)
        parts.append(part)
    chains.sort(key=lambda chain: min(chain.edges))
    gaps = np.concatenate([part.gaps for part in parts]) if parts else np.zeros(0)
    places = np.concatenate([part.gap_places for part in parts]) if parts else np.zeros((0, 3))
    counts = [sum(getattr(part, name) for part in parts) for name in ("doubled", "tiny", "dropped_points", "overlaps", "apart")]
    doubled, tiny, dropped, overlaps, apart = counts
    return Joined(tuple(chains), doubled, tiny, dropped, tuple(junctions), gaps, places, overlaps, apart)


def site_origin(drawing: Drawing) -> Point3:
    """Return where a job's nought should lie: a whole metre near a drawing that is far from its own origin."""
    points = np.concatenate([drawing.begins, drawing.ends])
    if not len(points):
        return (0.0, 0.0, 0.0)
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    if float(np.hypot(middle[0], middle[1])) < FAR:
        return (0.0, 0.0, 0.0)
    return (math.floor(middle[0] / 1000) * 1000.0, math.floor(middle[1] / 1000) * 1000.0, 0.0)


def chain_line(found: Found, number: int, origin: Point3, name: str, **more: object) -> LineBody:
    """Return a chain as a line near the job's nought: straights without needless points, curves as they are."""
    chain = found.joined.chains[number]
    if not chain.bent:
        return line_body(chain.points - np.array(origin), chain.closed, name, **more)
    start, legs = _bent_legs(found, chain, origin)
    return LineBody(name=name, start=start, legs=legs, closed=chain.closed, **more)


def _bent_legs(found: Found, chain: Chain, origin: Point3) -> tuple[Point3, tuple[AnyLeg, ...]]:
    drawing = found.drawing
    nodes = [place(point) for point in chain.points - np.array(origin)]
    if chain.closed:
        nodes.append(nodes[0])
    legs: list[AnyLeg] = []
    run: list[Point3] = [nodes[0]]

    def settle() -> None:
        if len(run) > 1:
            tidy = straightened(np.array(run), False, min(0.1, 1.0))
            legs.extend(StraightLeg(to=place(point)) for point in tidy[1:])

    for index, (edge, forward) in enumerate(zip(chain.edges, chain.forward, strict=True)):
        number = int(found.edges[edge])
        leg = drawing.curves.get(number)
        begin, end = nodes[index], nodes[index + 1]
        if leg is None:
            run.append(end)
            continue
        settle()
        run = [end]
        old_begin = place(drawing.begins[number] - np.array(origin))
        leg = _shifted(leg, origin)
        if not forward:
            leg, old_begin = reversed_leg(leg, old_begin), leg.to
        if found.level is not None:
            leg, old_begin = _flat(leg, found.level), (old_begin[0], old_begin[1], found.level)
        # Over a gap the curve is drawn to where it meets its neighbour, in proportion.
        legs.append(reshaped(leg, old_begin, begin, end) if old_begin != begin or leg.to != end else leg)
    settle()
    return nodes[0], tuple(legs)


def _shifted(leg: AnyLeg, origin: Point3) -> AnyLeg:
    def move(point: Sequence[float]) -> Point3:
        return place(np.subtract(point, origin))

    return mapped(leg, move(leg.to), move, place, 1.0)


def _flat(leg: AnyLeg, level: float) -> AnyLeg:
    def move(point: Sequence[float]) -> Point3:
        return float(point[0]), float(point[1]), level

    def direct(value: Sequence[float]) -> Point3:
        return float(value[0]), float(value[1]), 0.0

    return mapped(leg, move(leg.to), move, direct, 1.0)


def line_bodies(found: Found, chosen: list[int] | None, origin: Point3, file: str, content: str) -> list[LineBody]:
    """Return the chosen chains as lines near the job's nought, with the openings that belong to them.

    Raises ``Refused`` for a chain that is not there.
    """
    numbers = range(len(found.joined.chains)) if chosen is None else chosen
    for number in numbers:
        if not 0 <= number < len(found.joined.chains):
            raise Refused(f"There is no line {number + 1} among the {len(found.joined.chains)} found.", "lines", "unknown-line")
    bodies = []
    for number, keys, also in zip(numbers, found.keys_of(numbers), found.also_on(numbers), strict=True):
        body = chain_line(found, number, origin, found.names[number])
        layer = found.layers[number]
        source = Source(file=file[-255:], content=content, layer=layer[:255], also=also, keys=keys, shape=shape_of(body))
        more: dict[str, object] = {"source": source}
        if found.drawing.openings:
            more["openings"] = _openings_on(found.drawing, body, layer, origin)
        bodies.append(body.model_copy(update=more))
    return bodies


def _openings_on(drawing: Drawing, body: LineBody, layer: str, origin: Point3) -> tuple[Opening, ...]:
    """Return the openings of a layer whose two ends lie on a line, from chainage to chainage, none over another."""
    course = course_of(Line(id="L1", **{name: getattr(body, name) for name in LineBody.model_fields}))
    chainages, points = course.flattened(0.5)
    found: list[Opening] = []
    names: Counter[str] = Counter()
    for opening in drawing.openings:
        if opening.layer != layer:
            continue
        ends = [_chainage_near(points, chainages, np.subtract(point, origin)) for point in (opening.begin, opening.end)]
        if max(away for _, away in ends) > 1.0:
            continue
        low, high = sorted(at for at, _ in ends)
        if course.closed and high - low > course.length / 2:
            low, high = high, low + course.length
        names[opening.name] += 1
        name = opening.name if names[opening.name] == 1 else f"{opening.name} {names[opening.name]}"
        if high - low > 1 and all(high <= other.at + 1e-6 or low >= other.at + other.width - 1e-6 for other in found):
            found.append(Opening(name=name[:120], at=low % course.length, width=high - low))
    return tuple(sorted(found, key=lambda one: one.at))


def _chainage_near(points: Array, chainages: Array, near: Array) -> tuple[float, float]:
    along = points[1:] - points[:-1]
    square = np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
    share = np.clip(np.einsum("ij,ij->i", near - points[:-1], along) / square, 0, 1)
    away = np.linalg.norm(near - points[:-1] - along * share[:, None], axis=1)
    best = int(np.argmin(away))
    return float(chainages[best] + (chainages[best + 1] - chainages[best]) * share[best]), float(away[best])

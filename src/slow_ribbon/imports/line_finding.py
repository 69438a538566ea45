"""The lines that joining makes of a drawing's edges: found, named, and made lines of a job."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from slow_ribbon.core.geometry import Chain, JoinedEdges, Junction, Report, join, nearest_chainage, straightened
from slow_ribbon.core.kernel import SAME_PLACE, Indices, Point3, Refused
from slow_ribbon.core.lines import (
    MOST_LINES,
    AnyLeg,
    Line,
    LineBody,
    Opening,
    Source,
    StraightLeg,
    check_line,
    course_of,
    keys_kept,
    line_body,
    place,
    shape_of,
    shape_of_straights,
    surely_sound,
    with_ids,
)
from slow_ribbon.imports.drawing import Drawing, chosen_edges


@dataclass(frozen=True)
class Found:
    """Lines found in a drawing: ``joined`` over the chosen edges, with a name and a layer for each chain."""

    drawing: Drawing
    edges: Indices
    joined: JoinedEdges
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
    loops: Sequence[int] = (),
) -> Found:
    """Return the lines that the edges on the chosen layers and along loops make; ``ways``, ``level`` and ``report`` as for joining."""
    edges = chosen_edges(drawing, layers, loops)
    if loops:
        # What was pointed at is joined whatever kinds of edges go around it.
        joined = join(drawing.loose(edges, level), tolerance, ways, report)
    elif drawing.parts is not None:
        joined = _joined_by_part(drawing, drawing.parts[edges], edges, tolerance, ways or {}, level, report)
    else:
        joined = join(drawing.loose(edges, level), tolerance, ways, report)
    chain_layers = tuple(drawing.layers[int(drawing.layer[edges[min(chain.edges)]])] for chain in joined.chains)
    called = chain_layers
    if drawing.faces is not None and loops:
        # What was pointed at says more than what kind of edges it has.
        faces = drawing.faces.around(loops)
        called = tuple(faces.get(int(edges[min(chain.edges)]), layer) for chain, layer in zip(joined.chains, chain_layers, strict=True))
    totals = Counter(called)
    met: dict[str, int] = {}
    names = []
    for name in called:
        met[name] = met.get(name, 0) + 1
        shown = name.strip() or "Line"
        names.append(shown[:100] if totals[name] == 1 else f"{shown[:100]} {met[name]}")
    return Found(drawing=drawing, edges=edges, joined=joined, names=tuple(names), layers=chain_layers, level=level)


def _joined_by_part(
    drawing: Drawing,
    of: Indices,
    edges: Indices,
    tolerance: float,
    ways: Mapping[int, Sequence[tuple[int, int]]],
    level: float | None,
    report: Report | None,
) -> JoinedEdges:
    """Return the lines found by joining every part of a drawing by itself, as one result; junctions are numbered through."""
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
    return JoinedEdges(
        chains=tuple(chains),
        doubled=doubled,
        tiny=tiny,
        dropped_points=dropped,
        junctions=tuple(junctions),
        gaps=gaps,
        gap_places=places,
        overlaps=overlaps,
        apart=apart,
    )


def chain_line(found: Found, number: int, origin: Point3, name: str, **more: object) -> LineBody:
    """Return a chain as a line near the job's zero: straights without needless points, curves as they are."""
    chain = found.joined.chains[number]
    if not chain.bent:
        return line_body(chain.points - origin, chain.closed, name, **more)
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
            leg, old_begin = leg.reversed(old_begin), leg.to
        if found.level is not None:
            leg, old_begin = at_level(leg, found.level), (old_begin[0], old_begin[1], found.level)
        # Over a gap the curve is drawn to where it meets its neighbour, in proportion.
        legs.append(leg.reshaped(old_begin, begin, end) if old_begin != begin or leg.to != end else leg)
    settle()
    return nodes[0], tuple(legs)


def _shifted(leg: AnyLeg, origin: Point3) -> AnyLeg:
    def move(point: Sequence[float]) -> Point3:
        return place(np.subtract(point, origin))

    return leg.mapped(move(leg.to), move, place, 1.0)


def at_level(leg: AnyLeg, level: float) -> AnyLeg:
    """Return a leg brought to one height, mm."""

    def move(point: Sequence[float]) -> Point3:
        return float(point[0]), float(point[1]), level

    def direct(value: Sequence[float]) -> Point3:
        return float(value[0]), float(value[1]), 0.0

    return leg.mapped(move(leg.to), move, direct, 1.0)


def line_bodies(found: Found, chosen: list[int] | None, origin: Point3, file: str, content: str) -> list[LineBody]:
    """Return the chosen chains as lines near the job's zero, with the openings that belong to them.

    Raises ``Refused`` for a chain that is not there.
    """
    numbers = range(len(found.joined.chains)) if chosen is None else chosen
    for number in numbers:
        if not 0 <= number < len(found.joined.chains):
            raise Refused(f"There is no line {number + 1} among the {len(found.joined.chains)} found.", "lines", "unknown-line")
    bodies = []
    for number, keys, also in zip(numbers, found.keys_of(numbers), found.also_on(numbers), strict=True):
        chain, name, layer = found.joined.chains[number], found.names[number], found.layers[number]

        def source(shape: str, keys: tuple[str, ...] = keys, also: tuple[str, ...] = also, layer: str = layer) -> Source:
            return Source(file=file[-255:], content=content, layer=layer[:255], also=also, keys=keys, shape=shape)

        if not chain.bent and not found.drawing.openings:
            # As most are, and there may be thousands: made in one go.
            points = chain.points - origin
            path = np.concatenate([points, points[:1]]) if chain.closed else points
            bodies.append(line_body(points, chain.closed, name, source=source(shape_of_straights(path, chain.closed))))
            continue
        body = chain_line(found, number, origin, name)
        openings = _openings_on(found.drawing, body, layer, origin) if found.drawing.openings else ()
        bodies.append(body.model_copy(update={"source": source(shape_of(body)), "openings": openings}))
    return bodies


def sound_lines(bodies: Sequence[LineBody]) -> tuple[list[int], list[str]]:
    """Return which lines hold together, by their place among those found, and of each of the others why it does not.

    A line that has no length, or that cannot be drawn, does not keep the others from being shown.
    """
    lines = list(with_ids(bodies, 0))
    known = surely_sound(lines)
    sound, wrong = [], []
    for number, line in enumerate(lines):
        try:
            if line.id not in known:
                check_line(line)
            sound.append(number)
        except Refused as refused:
            wrong.append(refused.what)
    return sound, wrong


def left_out(wrong: Sequence[str]) -> tuple[str, ...]:
    """Return the notice of lines that were left out, for reasons as ``sound_lines`` gives them; None where none was."""
    if not wrong:
        return ()
    count = "1 line was" if len(wrong) == 1 else f"{len(wrong):,} lines were"
    return (f"{count} left out, because no line can be made of {'it' if len(wrong) == 1 else 'them'}. {wrong[0]}",)


def to_add(bodies: Sequence[LineBody]) -> tuple[tuple[LineBody, ...], tuple[str, ...]]:
    """Return the lines that can be added to a job, and notices of what was left out. Raises ``Refused`` where none can."""
    if len(bodies) > MOST_LINES:
        raise Refused(
            f"That makes {len(bodies):,} lines, and {MOST_LINES:,} at most can be added at once: choose fewer layers or lines.",
            "lines",
            "too-many",
        )
    if not bodies:
        raise Refused("No line is chosen: choose at least one to add.", "lines", "no-lines")
    sound, wrong = sound_lines(bodies)
    if not sound:
        raise Refused(f"No line can be made of what is drawn there. {wrong[0]}", "lines", "no-lines")
    return tuple(bodies[number] for number in sound), left_out(wrong)


def _openings_on(drawing: Drawing, body: LineBody, layer: str, origin: Point3) -> tuple[Opening, ...]:
    """Return the openings of a layer whose two ends lie on a line, from chainage to chainage, none over another."""
    course = course_of(Line(id="L1", **{name: getattr(body, name) for name in LineBody.model_fields}))
    chainages, points = course.flattened(0.5)
    found: list[Opening] = []
    names: Counter[str] = Counter()
    for opening in drawing.openings:
        if opening.layer != layer:
            continue
        ends = [nearest_chainage(chainages, points, np.subtract(point, origin)) for point in (opening.begin, opening.end)]
        if max(away for _, away in ends) > 1.0:
            continue
        low, high = sorted(at for at, _ in ends)
        if course.closed and high - low > course.length / 2:
            low, high = high, low + course.length
        names[opening.name] += 1
        name = opening.name if names[opening.name] == 1 else f"{opening.name} {names[opening.name]}"
        if high - low > 1 and all(high <= other.at + SAME_PLACE or low >= other.at + other.width - SAME_PLACE for other in found):
            found.append(Opening(name=name[:120], at=low % course.length, width=high - low))
    return tuple(sorted(found, key=lambda one: one.at))

"""Collecting the edges of a file while it is read."""

from __future__ import annotations

import math
import re
from array import array
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from slow_ribbon.core.kernel import WELD, Array, Indices, Point3, Refused
from slow_ribbon.core.lines import AnyLeg, CurveLeg, leg_of, place
from slow_ribbon.imports.drawing import MOST_EDGES, Drawing, DrawnOpening, Question, TableSeen

#: What cannot be kept or sent: controls, and halves of characters that stand for bytes which are no letters in the file's encoding.
_ODD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
_BYTE = re.compile("[\udc80-\udcff]")


def legible(text: str) -> str:
    """Return a file's text as it can be kept and shown: stray bytes as Windows writes them, halves of characters as �."""
    text = _BYTE.sub(lambda found: bytes([ord(found[0]) - 0xDC00]).decode("cp1252", "replace"), text)
    return _ODD.sub("", text).encode("utf-16", "surrogatepass").decode("utf-16", "replace")


def reason(error: BaseException) -> str:
    """Return the message of a library's error, or at least the kind of error: some have no message."""
    return str(error).strip() or type(error).__name__


def _apart(names: Sequence[str]) -> tuple[str, ...]:
    """Return names with a number behind those that have become the same."""
    taken: set[str] = set()
    found = []
    for name in names:
        other, number = name, 2
        while other in taken:
            other, number = f"{name} ({number})", number + 1
        taken.add(other)
        found.append(other)
    return tuple(found)


class Edges:
    """Edges met while a file is read, in mm."""

    def __init__(self) -> None:
        # Of each edge its layer, and both ends one after another: there may be very many.
        self._layer = array("q")
        self._ends = array("d")
        self.layers: dict[str, int] = {}
        self.curves: dict[int, AnyLeg] = {}
        self.unread: Counter[str] = Counter()
        self.notes: list[str] = []
        self.hidden: set[str] = set()
        self.colours: dict[str, str] = {}
        self.openings: list[DrawnOpening] = []
        self.points: list[Point3] = []
        self.by_layer = False
        #: The storey, say, that a layer is of.
        self.groups: dict[str, str] = {}
        # The part of the file that what comes now belongs to, where parts are joined each by itself: a feature of a map.
        self.part: int | None = None
        self._parts = array("q")
        # What the file calls that which edges come from now: the handle of an entity, the number of a point, a global id.
        self.key = ""
        self._keys: dict[str, int] = {}
        self._key = array("q")
        self.table: TableSeen | None = None
        self.question: Question | None = None

    def __len__(self) -> int:
        return len(self._layer)

    def straights(self, ends: Array, layers: Sequence[str], layer: Indices, keys: Sequence[str]) -> None:
        """Take many straight edges, both ends of each (n, 2, 3), on ``layers`` by number. Raises ``Refused`` where there are too many."""
        self._check(len(self) + len(ends))
        self._ends.frombytes(np.ascontiguousarray(ends, dtype=float).tobytes())
        numbers = np.array([self.layers.setdefault(name, len(self.layers)) for name in layers], dtype=np.int64)
        self._layer.frombytes(numbers[layer].tobytes())
        self._key.extend(self._keys.setdefault(key, len(self._keys)) for key in keys)

    def _check(self, count: int) -> None:
        if count > MOST_EDGES:
            raise Refused(f"The drawing unfolds into more than {MOST_EDGES:,} edges: bring in a part of it.", "file", "too-many-edges")

    def straight(self, begin: Sequence[float], end: Sequence[float], layer: str) -> None:
        """Take a straight edge. Raises ``Refused`` where there are too many."""
        self._check(len(self) + 1)
        self._ends.extend((float(begin[0]), float(begin[1]), float(begin[2]), float(end[0]), float(end[1]), float(end[2])))
        self._layer.append(self.layers.setdefault(layer, len(self.layers)))
        self._key.append(self._keys.setdefault(self.key, len(self._keys)))
        if self.part is not None:
            self._parts.append(self.part)

    def curve(self, begin: Sequence[float], leg: AnyLeg, layer: str) -> None:
        """Take a curve from ``begin``; one that comes back to its beginning is taken in two halves."""
        if isinstance(leg, CurveLeg) and leg.plain and math.dist(begin, leg.to) > WELD:
            # As most curves are: it cannot but be drawn.
            self._curve(begin, leg, layer)
            return
        try:
            spans = leg.spans(place(begin))
        except Refused as refused:
            # A curve of no length, or that cannot be, is reported and left out.
            self.unread["curves that cannot be drawn" if refused.code != "leg-zero" else "curves of no length"] += 1
            return
        if math.dist(begin, leg.to) > WELD:
            self._curve(begin, leg, layer)
            return
        for span in spans:
            half = span.length / 2
            middle = place(span.at(np.array([half]))[0][0])
            self._curve(place(span.at(np.zeros(1))[0][0]), leg_of(span, 0.0, half).model_copy(update={"to": middle}), layer)
            self._curve(middle, leg_of(span, half, span.length), layer)

    def _curve(self, begin: Sequence[float], leg: AnyLeg, layer: str) -> None:
        if leg.straight:
            self.straight(begin, leg.to, layer)
            return
        self.straight(begin, leg.to, layer)
        self.curves[len(self) - 1] = leg

    def drawing(self, unit: str, unit_known: bool) -> Drawing:
        """Return the drawing."""
        ends, layer = np.array(self._ends, dtype=float).reshape(-1, 2, 3), np.array(self._layer, dtype=np.int64)
        names = _apart([legible(name) for name in self.layers])
        shown = dict(zip(self.layers, names, strict=True))
        return Drawing(
            begins=np.ascontiguousarray(ends[:, 0]),
            ends=np.ascontiguousarray(ends[:, 1]),
            layer=layer,
            layers=names,
            unread={legible(kind): count for kind, count in self.unread.items()},
            unit=unit,
            unit_known=unit_known,
            curves=self.curves,
            hidden=tuple(shown[name] for name in self.layers if name in self.hidden),
            colours={shown[name]: colour for name, colour in self.colours.items() if name in shown},
            notes=tuple(legible(note) for note in self.notes),
            openings=tuple(replace(one, name=legible(one.name), layer=shown.get(one.layer, one.layer)) for one in self.openings),
            points=tuple(self.points),
            parts=np.array(self._parts, dtype=np.int64) if self.part is not None else (layer if self.by_layer else None),
            table=self.table,
            question=self.question,
            # There may be as many as edges; most are plain.
            keys=tuple(key if key.isalnum() and key.isascii() else legible(key) for key in self._keys),
            key=np.array(self._key, dtype=np.int64) if any(self._keys) else None,
            groups={shown[name]: legible(group) for name, group in self.groups.items() if name in shown},
        )

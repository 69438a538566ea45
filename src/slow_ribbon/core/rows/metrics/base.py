"""The base of the ways of measuring distance along a stretch.

Terms
-----
stretch
    a length along a line that items are set out on: a whole line, or a line from corner to corner.
place
    a distance along the line from the beginning of a stretch, mm, however distance is measured.
size
    a distance measured as the metric measures.
bays
    how many sizes a stretch holds, the last of them in part: a real number that falls as the size grows.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import ClassVar

import numpy as np
from scipy.optimize import brentq

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.tolerances import NEARLY_WHOLE, NO_LENGTH, SAME_PLACE
from slow_ribbon.core.lines.course import Course


class Metric(ABC):
    """A stretch from chainage ``begin`` on, ``length`` mm along the line, as a way of measuring sees it."""

    kind: ClassVar[str]
    words: ClassVar[str]

    def __init__(self, length: float, course: Course | None = None, begin: float = 0.0) -> None:
        self.length = length
        self.course = course
        self.begin = begin

    def part(self, low: float, high: float) -> Metric:
        """Return the part of the stretch between two places."""
        return type(self)(max(0.0, high - low), self.course, self.begin + low)

    @property
    @abstractmethod
    def size(self) -> float:
        """How long the stretch is, measured so."""

    @abstractmethod
    def bays(self, size: float) -> float:
        """Return how many bays of a size the stretch holds, the last in part."""

    def at_most(self, size: float) -> float:
        """Return a number of bays that the stretch surely does not exceed, at no cost."""
        return self.length / size

    @abstractmethod
    def evenly(self, bays: int) -> float:
        """Return the size of a number of equal bays that fill the stretch."""

    @abstractmethod
    def laid(self, first: float, size: float, count: int) -> Array:
        """Return places (count,): the first at a distance from the beginning, each other a size further on."""

    @abstractmethod
    def laid_back(self, first: float, size: float, count: int) -> Array:
        """Return places (count,), in order: the last at a distance from the end, each other a size nearer the beginning."""

    @abstractmethod
    def apart(self, low: float, high: float) -> float:
        """Return the distance from one place to another, further on; with a minus where it lies back."""

    def forth(self, size: float) -> Array:
        """Return places a size apart from the beginning on, as many as there is room for."""
        return self.laid(0.0, size, math.floor(self.bays(size) + NEARLY_WHOLE) + 1)

    def back(self, size: float) -> Array:
        """Return places, in order, a size apart from the end back, as many as there is room for."""
        return self.laid_back(0.0, size, math.floor(self.bays(size) + NEARLY_WHOLE) + 1)

    def centred(self, size: float) -> Array:
        """Return places a size apart, as many as there is room for, with as much left over at both ends."""
        bays = self.bays(size)
        count = math.floor(bays + NEARLY_WHOLE) + 1
        return self.laid(max(0.0, (bays - (count - 1)) * size / 2), size, count)

    def settled(self, off: Callable[[float], float], guess: float) -> float:
        """Return where ``off`` is zero, from a guess that is right wherever distances add up."""
        here = off(guess)
        if abs(here) < NEARLY_WHOLE:
            return guess
        step = max(abs(here), 1e-3)
        for _ in range(60):
            other = guess + step if off(guess + step) * here <= 0 else guess - step
            if off(other) * here <= 0:
                return float(brentq(off, min(guess, other), max(guess, other), xtol=NO_LENGTH))
            step *= 2
        return guess


def nodes_of(stretch: Metric) -> Array:
    """Return places, both ends of a stretch included, between which its line is straight or nearly so."""
    course = stretch.course
    assert course is not None  # only a stretch of a line has nodes
    chainages = course.flattened(0.05)[0]
    turns = (-course.length, 0.0, course.length) if course.closed else (0.0,)
    places = np.concatenate([chainages + turn - stretch.begin for turn in turns])
    inside = places[(places > SAME_PLACE) & (places < stretch.length - SAME_PLACE)]
    nodes = np.unique(np.concatenate([[0.0], inside, [stretch.length]]))
    return np.asarray(nodes[np.concatenate([[True], np.diff(nodes) > SAME_PLACE * 1e-3])])

"""A line resolved: its pieces between corners, chainage, and the frames that sections stand in.

Terms
-----
corner
    a point where the direction changes by more than 0.01°.
piece
    what lies between two corners, or between a corner and a free end: a straight, or a path.
path
    a piece that bends: smooth spans end to end, with a frame at every place.
free end
    where a line begins or ends, or breaks at an opening.
course
    a line resolved into its pieces.
chainage
    distance along the line from its start, mm.

See sections 1 and 2 of docs/geometry.md: with t the unit tangent, *upright*
frames have r = t × Z / |t × Z| to the right of travel and n = r × t upward; *carried* frames
turn at each corner by the smallest rotation that takes the old tangent to the new one, and
along curves without twist.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from slow_ribbon.core.geometry.framed_path import Path, Stations
from slow_ribbon.core.geometry.frames import Rule
from slow_ribbon.core.kernel.arrays import Array, Flags, Indices, Result
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.units import WELD


@dataclass(frozen=True)
class Course(Result):
    """A line resolved into m pieces between corners and free ends.

    starts, ends (m, 3): where each piece begins and ends. tangents, rights, ups (m, 3): frames
    at the beginnings, tangents_end, rights_end, ups_end at the ends. lengths (m,): along each
    piece, mm. begins (m,): chainage where each piece begins. turns (m,): angle in radians at
    the corner where each piece begins (zero at a free end). free (m,): a piece begins at a
    free end, so that the one before, going round, ends at one. paths: those pieces that bend.
    leftover: the angle in radians by which carried frames of a closed line come back turned.
    ``length`` is the whole line's, openings included.
    """

    closed: bool
    starts: Array
    ends: Array
    tangents: Array
    rights: Array
    ups: Array
    tangents_end: Array
    rights_end: Array
    ups_end: Array
    lengths: Array
    begins: Array
    turns: Array
    free: Flags
    rule: Rule
    why: str
    leftover: float
    length: float
    paths: dict[int, Path] = field(default_factory=dict)

    @property
    def count(self) -> int:
        return len(self.lengths)

    def leg_at(self, chainage: Array) -> tuple[Indices, Array]:
        """Return the piece that holds each chainage, and the distance from that piece's beginning."""
        places = np.asarray(chainage, dtype=float)
        if self.closed:
            places = np.mod(places, self.length)
            index = np.searchsorted(self.begins, places, side="right") - 1
            # Before the first corner of a closed line one is still on the last piece, come round.
            along = np.where(index < 0, places - self.begins[-1] + self.length, places - self.begins[index])
            return np.mod(index, self.count), along
        index = np.clip(np.searchsorted(self.begins, places, side="right") - 1, 0, self.count - 1)
        return index, places - self.begins[index]

    def at(self, chainage: Array) -> Stations:
        """Return the stations at chainages (n,)."""
        index, along = self.leg_at(chainage)
        points = self.starts[index] + self.tangents[index] * along[:, None]
        tangents, rights, ups = self.tangents[index], self.rights[index], self.ups[index]
        bends, twists = np.zeros((len(index), 2)), np.zeros(len(index))
        for number in sorted(self.paths.keys() & set(index.tolist())):
            here = np.flatnonzero(index == number)
            found = self.paths[number].at(along[here])
            points[here], tangents[here], rights[here], ups[here] = found.points, found.tangents, found.rights, found.ups
            bends[here], twists[here] = found.bends, found.twists
        return Stations(points=points, tangents=tangents, rights=rights, ups=ups, bends=bends, twists=twists)

    def just_before(self, chainage: float) -> Stations:
        """Return the station where one arrives at a chainage: at a corner still with the direction and frame of the piece before."""
        index, along = self.leg_at(np.array([chainage - WELD]))
        number, distance = int(index[0]), along + WELD
        path = self.paths.get(number)
        if path is not None:
            return path.at(np.minimum(distance, path.length))
        points = self.starts[number] + self.tangents[number] * distance[:, None]
        frame = (self.tangents[number : number + 1], self.rights[number : number + 1], self.ups[number : number + 1])
        return Stations(points, *frame, np.zeros((1, 2)), np.zeros(1))

    def points_at(self, chainage: Array) -> Array:
        """Return the points (n, 3) at chainages (n,)."""
        return self.at(chainage).points

    def flattened(self, chord_height: float) -> tuple[Array, Array]:
        """Return chainages (n,) and points (n, 3) of the line as a polyline, in order from its first piece, both ends included."""
        if not self.paths:
            ends = np.stack([self.starts, self.ends], axis=1).reshape(-1, 3)
            return (self.begins[:, None] + np.stack([np.zeros(self.count), self.lengths], axis=1)).ravel(), ends
        places, points = [], []
        for i in range(self.count):
            path = self.paths.get(i)
            along, met = path.drawn(chord_height) if path else (np.array([0.0, self.lengths[i]]), np.stack([self.starts[i], self.ends[i]]))
            places.append(self.begins[i] + along)
            points.append(met)
        polyline = np.concatenate(points)
        if self.closed and float(np.abs(polyline[-1] - polyline[0]).max()) <= WELD:
            # A full turn ends where it begins but for rounding; as an outline it is closed only where it is the very same.
            polyline[-1] = polyline[0]
        return np.concatenate(places), polyline

    def broken(self, gaps: Sequence[tuple[float, float]]) -> Course:
        """Return the course without the stretches (begin chainage, length) of ``gaps``: pieces end there with free ends."""
        if not gaps:
            return self
        if self.smooth:
            # Where its line starts it is not cut: what comes before and after goes on from door to door, as the frame there says.
            last = max(((at + wide) % self.length for at, wide in gaps), default=0.0)
            begun = self.begun(last, self.leftover)
            return replace(begun, leftover=0.0)._without(gaps)
        return self._without(gaps)

    @property
    def smooth(self) -> bool:
        """Whether it comes round to where it starts with no corner anywhere."""
        return self.closed and self.count == 1 and not self.turns[0] and not self.free[0] and 0 in self.paths

    def begun(self, chainage: float, turned: float = 0.0) -> Course:
        """Return a smooth course as its one piece begins and ends at a chainage instead, its frames ``turned`` there (``Path.begun``)."""
        at = (chainage - float(self.begins[0])) % self.length
        if min(at, self.length - at) <= WELD:
            return self
        path = self.paths[0].begun(at, turned)
        ends = path.at(np.array([0.0, path.length]))
        return replace(
            self, starts=ends.points[:1], ends=ends.points[1:], tangents=ends.tangents[:1], tangents_end=ends.tangents[1:],
            rights=ends.rights[:1], rights_end=ends.rights[1:], ups=ends.ups[:1], ups_end=ends.ups[1:],
            begins=np.array([chainage % self.length]), paths={0: path},
        )  # fmt: skip

    def begun_at_a_curve(self) -> Course:
        """Return a smooth course as it begins where one of its curves does, the first from its start on; this one where it has but one."""
        path = self.paths.get(0)
        bounds = path.bounds() if self.smooth and path is not None and path.ring else np.zeros(0)
        return self.begun(float(self.begins[0] + bounds[1])) if len(bounds) > 2 else self

    def _without(self, gaps: Sequence[tuple[float, float]]) -> Course:
        rows: list[tuple[int, float, float]] = []
        for i in range(self.count):
            begin, length = float(self.begins[i]), float(self.lengths[i])
            cuts = []
            for at, wide in gaps:
                for turn in (-self.length, 0.0, self.length) if self.closed else (0.0,):
                    low, high = at + turn - begin, at + turn + wide - begin
                    if high > 0 and low < length:
                        cuts.append((max(0.0, low), min(length, high)))
            reached = 0.0
            for low, high in [*sorted(cuts), (length, length)]:
                if low - reached > WELD:
                    rows.append((i, reached, low))
                reached = max(reached, high)
        if not rows:
            raise Refused("The openings leave nothing of the line.", "openings", "nothing-left")
        if self.closed:
            rows.sort(key=lambda row: (self.begins[row[0]] + row[1]) % self.length)
        return self._taken(rows)

    def parted(self, chainages: Sequence[float]) -> Course:
        """Return the course with its pieces cut square at chainages, where they still meet."""
        rows: list[tuple[int, float, float]] = []
        for i in range(self.count):
            begin, length = float(self.begins[i]), float(self.lengths[i])
            places = [(at - begin) % self.length if self.closed else at - begin for at in chainages]
            cuts = sorted(at for at in places if WELD < at < length - WELD)
            rows.extend((i, low, high) for low, high in pairwise([0.0, *cuts, length]))
        if self.closed:
            rows.sort(key=lambda row: (self.begins[row[0]] + row[1]) % self.length)
        return self._taken(rows)

    def _taken(self, rows: list[tuple[int, float, float]]) -> Course:
        """Return the course of parts of pieces: (piece, from, to)."""
        which = np.array([row[0] for row in rows])
        low, high = np.array([row[1] for row in rows]), np.array([row[2] for row in rows])
        # A piece begins at a corner where it and the one before it both reach there.
        whole = np.abs(high - self.lengths[which]) <= WELD
        at_corner = np.roll(whole, 1) & (low <= WELD) & (((np.roll(which, 1) + 1) % self.count) == which)
        # … and on a piece where the part before it ends there.
        inside = (np.roll(which, 1) == which) & (np.roll(high, 1) == low)
        free = np.where(at_corner, self.free[which], ~inside)
        begins = self.begins[which] + low
        if self.closed:
            begins = np.mod(begins, self.length)
        starts = self.starts[which] + self.tangents[which] * low[:, None]
        ends = self.starts[which] + self.tangents[which] * high[:, None]
        frames = [values[which].copy() for values in (self.tangents, self.rights, self.ups)]
        frames_end = [values[which].copy() for values in (self.tangents, self.rights, self.ups)]
        paths = {}
        for k, (i, a, b) in enumerate(rows):
            path = self.paths.get(i)
            if path is not None:
                paths[k] = part = path.part(a, b)
                both = part.at(np.array([0.0, b - a]))
                starts[k], ends[k] = both.points
                for values, found in zip(frames, (both.tangents, both.rights, both.ups), strict=True):
                    values[k] = found[0]
                for values, found in zip(frames_end, (both.tangents, both.rights, both.ups), strict=True):
                    values[k] = found[1]
        turns = np.where(free | ~at_corner, 0.0, self.turns[which])
        return replace(
            self, starts=starts, ends=ends, tangents=frames[0], rights=frames[1], ups=frames[2], tangents_end=frames_end[0],
            rights_end=frames_end[1], ups_end=frames_end[2], lengths=high - low, begins=begins, turns=turns, free=free, paths=paths,
        )  # fmt: skip

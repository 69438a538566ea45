"""Joints: where a piece that is longer than the longest bar is made of several, end to end.

Terms
-----
bar
    what pieces are sawn from, of one of some lengths.
joint
    where two pieces meet along a leg: *butt*, square; *scarf*, both cut to one slope; *plumb*, both cut plumb, as a rail is on a
    slope; *finger* and *socket*, where they go into one
    another by an overlap, half of a finger's on either piece, all of a socket's on the one nearer the beginning.
part
    what lies between two joints, or between a joint and a corner or an end. Its length is that of its longest fibre, as it is sawn.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Final, Literal

import numpy as np
from pydantic import Field, model_validator

from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.kernel.fields import Distance, Id, Model, Size
from slow_ribbon.core.kernel.figures import figure
from slow_ribbon.core.kernel.patience import look_up
from slow_ribbon.core.kernel.tolerances import SAME_PLACE
from slow_ribbon.core.runs.treatments.joint_search import Parts, anywhere, chosen

JointKind = Literal["butt", "scarf", "plumb", "finger", "socket"]
#: No leg is made of more parts than this.
MOST: Final = 1000

Bars = Annotated[tuple[Annotated[Size, Field(le=100_000)], ...], Field(min_length=1, max_length=50, fail_fast=True)]


class Joints(Model):
    """How long pieces are jointed: from which ``bars``, how the joints are ``made`` and where they come.

    ``slope``: a scarf is this many times as long as the section is thick, out of the saw's bed. ``overlap``: a finger's or a socket's, mm.
    ``placed``: parts of ``equal`` lengths, ``full`` bars first, or the bars that leave the least (``waste``). ``clear``: how far from
    corners and ends joints keep, ``least`` the shortest part, ``shift`` how much nearer the beginning of each leg the first joint
    comes, so that the joints of runs above one another do not meet. ``from_end``: the end of each leg stands for its beginning in all
    of this. ``over``: joints come only over the line's ``marks``, the middles of its ``openings``, or the ``items`` of a ``row``.
    ``off_from``: a run from whose joints these keep off by ``apart`` mm at least along the line. ``at``: joints placed by hand, chainages
    of the line, instead of by rule.
    """

    made: JointKind = "butt"
    bars: Bars
    slope: Annotated[float, Field(ge=1, le=30)] = 8.0
    overlap: Annotated[Distance, Field(le=1000)] = 0.0
    placed: Literal["equal", "full", "waste"] = "equal"
    clear: Distance = 0.0
    least: Distance = 0.0
    shift: Distance = 0.0
    from_end: bool = False
    over: Literal["anywhere", "marks", "openings", "items"] = "anywhere"
    row: Id | None = None
    off_from: Id | None = None
    apart: Distance = 300.0
    at: Annotated[tuple[Distance, ...], Field(max_length=MOST, fail_fast=True)] | None = None

    @model_validator(mode="after")
    def _said(self) -> Joints:
        if self.over == "items" and self.row is None:
            raise ValueError("choose the row over whose items joints are placed")
        return self

    @property
    def leans(self) -> bool:
        """Whether the pieces are cut otherwise than square at a joint."""
        return self.made in ("scarf", "plumb")

    @property
    def longest(self) -> float:
        return max(self.bars)

    def less(self, trim: float) -> Joints:
        """Return the joints of pieces that ``trim`` mm are sawn longer at either end, which comes off the bars.

        Raises ``Refused`` where nothing of the bars is left.
        """
        if not trim:
            return self
        bars = tuple(bar - 2 * trim for bar in self.bars if bar > 2 * trim)
        if not bars:
            message = (
                f"Its bars are {figure(self.longest)} long, and {figure(trim)} are trimmed off either end of a piece: nothing is left."
            )
            raise Refused(message, "joints.bars", "bars-short")
        return self.model_copy(update={"bars": bars})

    def added(self, thick: float) -> tuple[float, float]:
        """Return how much longer than to the joint the piece before it is sawn, and the one after it, mm, of a section so ``thick``.

        At one that is plumb ``thick`` is how far it leans along the piece, from the section's foot to its head.
        """
        if self.made == "scarf":
            return self.slope * thick / 2, self.slope * thick / 2
        if self.made == "plumb":
            return thick / 2, thick / 2
        if self.made == "finger":
            return self.overlap / 2, self.overlap / 2
        if self.made == "socket":
            return (0.0, self.overlap) if self.from_end else (self.overlap, 0.0)
        return 0.0, 0.0

    def reversed(self, length: float) -> Joints:
        """Return the joints of the same pieces of a line so long that was gone the other way."""
        at = None if self.at is None else tuple(sorted(max(0.0, length - at) for at in self.at))
        return self.model_copy(update={"from_end": not self.from_end, "at": at})

    @property
    def words(self) -> str:
        """What the end of a piece at such a joint is called."""
        if self.made == "scarf":
            return f"scarf 1 in {self.slope:g}"
        return {"butt": "square joint", "plumb": "plumb joint", "finger": "finger joint", "socket": "socket joint"}[self.made]


def joints_along(
    length: float, before: float, after: float, joints: Joints, thick: float, ring: bool = False,
    only: Sequence[float] | None = None, off: Sequence[float] = (),
) -> list[float]:  # fmt: skip
    """Return where a piece is jointed: distances along it, none where one bar is long enough.

    ``length`` is on the line; the longest fibre begins ``before`` its beginning and ends ``after`` its end. A ``ring`` begins and
    ends at a joint. ``only``: the places where joints may come, anywhere where left out; ``off``: places from which they keep as
    far ``apart`` as is said. Raises ``Refused`` where no joints can be placed so.

    >>> joints_along(9000, 0, 0, Joints(bars=(4200,)), 20)
    [3000.0, 6000.0]
    >>> joints_along(9000, 0, 0, Joints(bars=(4200,), placed="full"), 20)
    [4200.0, 8400.0]
    >>> joints_along(9000, 0, 0, Joints(bars=(3000, 3600, 4200), placed="waste"), 20)
    [3000.0, 6000.0]
    >>> joints_along(9000, 0, 0, Joints(bars=(4200,), placed="full", least=1000), 20)
    [4200.0, 8000.0]
    >>> joints_along(9000, 0, 0, Joints(bars=(4200,)), 20, only=[1500, 2500, 4500, 5500, 6500])
    [2500.0, 5500.0]
    >>> joints_along(9000, 0, 0, Joints(bars=(4200,), apart=300), 20, off=[3100])
    [2800.0, 6000.0]
    """
    if joints.from_end:
        turned = joints.model_copy(update={"from_end": False})
        # A socket's overlap is the piece's that comes before as one goes along the line.
        added = joints.added(thick)[::-1]
        there = None if only is None else [length - at for at in only]
        return [length - at for at in reversed(_where(length, after, before, turned, added, ring, there, [length - at for at in off]))]
    return _where(length, before, after, joints, joints.added(thick), ring, only, off)


def _where(
    length: float, before: float, after: float, joints: Joints, added: tuple[float, float], ring: bool,
    only: Sequence[float] | None, off: Sequence[float],
) -> list[float]:  # fmt: skip
    if length + before + after <= joints.longest + SAME_PLACE and not ring:
        return []
    near = [at for at in off if -joints.apart < at < length + joints.apart]
    usual: list[float] = []
    if only is None:
        usual = _placed(length, before, after, joints, added, ring)
        if all(abs(place - at) >= joints.apart - SAME_PLACE for place in usual for at in near):
            return usual
    here, there = added
    if ring:
        before, after = there, here
    parts = Parts(
        length=length, before=before, after=after, here=here, there=there, bars=joints.bars, least=max(joints.least, joints.clear),
        placed=joints.placed,
    )  # fmt: skip
    if only is None:
        places = anywhere(parts, usual, near, joints.apart, joints.clear)
    else:
        free = [at for at in only if all(abs(at - other) >= joints.apart - SAME_PLACE for other in near)]
        places = [at for at in free if max(joints.clear, SAME_PLACE) <= at <= length - max(joints.clear, SAME_PLACE)]
    found = chosen(parts, places)
    if found is None:
        which = "over what they are to come over" if only is not None else f"{figure(joints.apart)} off from the joints beside them"
        raise Refused(
            f"No joints can be placed {which} in {figure(length)}: parts of at least {figure(max(joints.least, 0.0))} from bars of "
            f"{figure(joints.longest)}, {figure(joints.clear)} from corners and ends. Place them elsewhere, or use longer bars.",
            "joints",
            "no-joints",
        )
    return found


def _placed(length: float, before: float, after: float, joints: Joints, added: tuple[float, float], ring: bool) -> list[float]:
    here, there = added
    if ring:
        before, after = there, here
    longest, joint = joints.longest, here + there
    if length + before + after <= longest + SAME_PLACE and not ring:
        return []
    # Sawn lengths: every joint adds what both pieces have beyond it.
    sawn = length + before + after - joint - SAME_PLACE
    count = max(1 if ring else 2, math.ceil(sawn / (longest - joint))) if longest > joint else MOST + 1
    if count > MOST:
        message = (
            f"Its bars are {figure(longest)} long, of which a joint takes {figure(joint)}: no sensible number of them makes the length."
        )
        raise Refused(message, "joints.bars", "bars-short")
    for number in range(count, count + 3):
        sawn = length + before + after + joint * (number - 1)
        parts = _parts(sawn, number, joints)
        if parts is not None:
            reached = np.cumsum(parts)[:-1] - before - here - joint * np.arange(number - 1)
            places: list[float] = reached.tolist()
            if all(joints.clear - SAME_PLACE <= at <= length - joints.clear + SAME_PLACE for at in places):
                return places
    raise Refused(
        f"No joints can be placed in {figure(length)}: parts of at least {figure(max(joints.least, 0.0))} from bars of {figure(longest)}, "
        f"{figure(joints.clear)} from corners and ends. Place them closer to corners and ends, or use longer bars.",
        "joints",
        "no-joints",
    )


def _parts(sawn: float, number: int, joints: Joints) -> list[float] | None:
    """Return the sawn lengths of this many parts; None where that is not possible."""
    longest = joints.longest
    if number == 1:
        return [sawn] if sawn <= longest + SAME_PLACE else None
    if joints.placed == "waste":
        parts = _least_waste(sawn, number, joints.bars)
        if parts is None:
            return None
    elif joints.placed == "full":
        parts = [longest] * (number - 1) + [sawn - longest * (number - 1)]
    else:
        parts = [sawn / number] * number
    if joints.shift:
        first = parts[0] - joints.shift
        rest = (sawn - first) / (number - 1) if joints.placed == "equal" else None
        parts = [first, *([rest] * (number - 1))] if rest is not None else [first, *parts[1:-1], parts[-1] + joints.shift]
    least = max(joints.least, joints.clear, SAME_PLACE)
    # What the last part is short of is taken from the ones before it.
    for k in range(number - 1, 0, -1):
        if (short := least - parts[k]) > 0:
            parts[k] += short
            parts[k - 1] -= short
    good = all(joints.least - SAME_PLACE <= part <= longest + SAME_PLACE and part > 0 for part in parts)
    return parts if good else None


def _least_waste(sawn: float, number: int, bars: Sequence[float]) -> list[float] | None:
    """Return parts, the last the rest, from this many bars that are together as little longer as can be; None where they are too short."""
    best: tuple[float, list[float]] | None = None
    lengths = sorted(set(bars), reverse=True)
    few = max(few for few in range(1, _FEW + 1) if few == 1 or math.comb(len(lengths) + few - 1, few) <= _CHOICES)

    def take(left: float, count: int, begin: int, taken: list[float]) -> None:
        nonlocal best
        if count == 0:
            look_up()
            over = -left
            if over >= -SAME_PLACE and (best is None or over < best[0] - SAME_PLACE):
                best = over, list(taken)
            return
        for k in range(begin, len(lengths)):
            if left - lengths[k] * count > SAME_PLACE:
                # Not even this many of this length are enough, and the others are shorter.
                break
            take(left - lengths[k], count - 1, k, [*taken, lengths[k]])

    whole = max(0, number - few)
    take(sawn - lengths[0] * whole, number - whole, 0, [lengths[0]] * whole)
    if best is None:
        return None
    parts = best[1]
    # The rest is in the longest bar, so that it is the least short.
    return [*parts[1:], parts[0] - best[0]] if len(parts) > 1 else [sawn]


#: Among this many bars all choices are looked at, of which there are no more than this many; those before them are of the longest.
_FEW: Final = 6
_CHOICES: Final = 20_000

"""Runs that are drawn alike: the same skin, wherever they are. What is alike is sent to a window once."""

from __future__ import annotations

import hashlib
from typing import Final

import numpy as np

from slow_ribbon.core.kernel.arrays import Array
from slow_ribbon.core.kernel.identity_cache import kept_with
from slow_ribbon.core.solve.results import SolvedRun

#: Places that differ by less than this, mm, are drawn as one.
_FINE: Final = 1e-5
#: Places on a piece that bends, and what of it is compared there.
_LOOKS: Final = 17


@kept_with
def drawn_as(run: SolvedRun) -> str:
    """Return a hash of what a run's skin is made of, given from its origin, 16 hexadecimal digits.

    Two that have the same are drawn alike, to a hundred-thousandth of a millimetre.
    """
    cuts = run.cuts
    course, placed = cuts.course, cuts.placed
    digest = hashlib.sha256()

    def take(*values: Array) -> None:
        for one in values:
            # No zero of either sign: they are written otherwise.
            digest.update((np.round(np.asarray(one, dtype=float) / _FINE) + 0.0).tobytes())

    points = placed.points(cuts.flat().points)
    take(points, course.starts - run.origin, course.ends - run.origin, course.tangents, course.rights, course.ups)
    take(course.tangents_end, course.rights_end, course.ups_end, cuts.offsets_begin, cuts.offsets_end, cuts.slopes_begin, cuts.slopes_end)
    digest.update(cuts.open_begin().tobytes())
    for (index, end), surface in sorted(cuts.shaped.items()):
        digest.update(f"{index} {end}".encode())
        take(surface.reach(points))
    for index, path in course.paths.items():
        here = path.at(np.linspace(0, path.length, _LOOKS))
        digest.update(str(index).encode())
        take(np.array([path.length]), here.points - run.origin, here.rights, here.ups, here.bends)
    for upright in run.uprights:
        take(upright.corners() - run.origin)
    return digest.hexdigest()[:16]

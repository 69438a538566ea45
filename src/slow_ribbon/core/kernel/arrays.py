"""Array types, and the chord height of drawn curves."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Indices = NDArray[np.int64]
Flags = NDArray[np.bool_]


class Result:
    """A result that is shared once it is made: its arrays cannot be written into.

    For dataclasses: what is to be another result is made by ``dataclasses.replace``, of arrays of its own.
    """

    def __post_init__(self) -> None:
        for value in vars(self).values():
            if isinstance(value, np.ndarray):
                value.setflags(write=False)


#: Chord height of flattened curves for drawing, mm (geometry section 1).
CHORD_HEIGHT: Final = 0.2

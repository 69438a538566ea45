"""Array types, and the chord height of drawn curves."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Indices = NDArray[np.int64]
Flags = NDArray[np.bool_]

#: Chord height of flattened curves for drawing, mm (geometry section 1).
CHORD_HEIGHT: Final = 0.2

"""How far figures may differ and still be taken for the same, by name and with the reason."""

from __future__ import annotations

from typing import Final

#: Added to, or put in place of, a size that may be nothing and is divided by: what is divided is then nothing too.
TINIEST: Final = 1e-300
#: Rounding of double precision (2⁻⁵³ ≈ 1.1e-16) after some thousand steps, as a share of the figure itself.
ROUNDING: Final = 1e-12
#: A part of a unit direction, or an angle in radians, smaller than this is none: a micron in a kilometre.
NO_LEAN: Final = 1e-9
#: Places along a line that differ by less, mm, are one: a thousandth of what ``WELD`` takes for one point.
SAME_PLACE: Final = 1e-6

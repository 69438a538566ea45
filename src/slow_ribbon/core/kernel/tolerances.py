"""Numeric tolerances, by name and with the reason."""

from __future__ import annotations

from typing import Final

#: Added to, or put in place of, a size that may be nothing and is divided by: what is divided is then nothing too.
TINIEST: Final = 1e-300
#: Rounding of double precision (2⁻⁵³ ≈ 1.1e-16) after some thousand steps, as a share of the figure itself.
ROUNDING: Final = 1e-12
#: A part of a unit direction, or an angle in radians, smaller than this counts as zero: a micron in a kilometre.
NO_LEAN: Final = 1e-9
#: Places along a line that differ by less, mm, are one: a thousandth of what ``WELD`` takes for one point.
SAME_PLACE: Final = 1e-6
#: A length, mm, smaller than this counts as zero: what double precision keeps of places ten kilometres away.
NO_LENGTH: Final = 1e-9
#: Figures that differ by a smaller share of themselves are the same.
SAME_SHARE: Final = 1e-9
#: What is taken off, or added, before a quotient is rounded to a whole number, so that its last digit does not make one more.
NEARLY_WHOLE: Final = 1e-9
#: A part of a unit direction, or a product of two, smaller than this counts as zero for a rough word: level, square, smooth.
FLAT: Final = 1e-6
#: Shares, ratios and angles in radians that differ by less are the same where curves are concerned.
NEARLY_SAME: Final = 1e-6
#: Places of drawings and of outlines that are nearer to one another, mm, are one: a hundredth of what can be seen or measured.
SAME_DRAWN: Final = 1e-4
#: What is smaller, mm, is neither made nor measured in a workshop (common practice, no source).
IMMEASURABLE: Final = 0.01
#: Solids, or faces, that share or leave open less than this, mm, are in contact.
CONTACT: Final = 0.05
#: Chords of drawings at full size stray from their curves by no more, mm.
DRAWING_DEVIATION: Final = 0.02
#: Chords by which something is looked for along a curve stray from it by no more, mm; what is found is then worked out exactly.
SEARCH_DEVIATION: Final = 0.05

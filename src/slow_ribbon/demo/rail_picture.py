"""The picture under the demo's traced rail: an invented pencil rubbing of an old handrail's end, drawn here."""

from __future__ import annotations

import hashlib
import io
import math
from functools import lru_cache
from typing import Final

from PIL import Image, ImageDraw, ImageFont

#: Millimetres a pixel, and where the picture's lower left corner lies on the desk.
SCALE: Final = 0.1
LEFT: Final = -20.0
LOW: Final = -14.0
ACROSS: Final = 920
HIGH: Final = 720
#: Half of the rail from its foot, mm from its middle: as it was felt for under the paper, a little unsure.
_HALF: Final = ((11, 0), (11.2, 9), (12, 13), (14.6, 15.8), (19.3, 17.4), (23.6, 20.2), (26, 24.6), (25.6, 29), (23, 32.6), (18, 36.6),
                (12, 39.8), (6, 41.5), (0, 42.1))  # fmt: skip
_MIDDLE: Final = 26.2
_INK, _FAINT, _PAPER = (74, 70, 66), (150, 146, 138), (244, 240, 230)


@lru_cache(maxsize=1)
def rail_picture() -> bytes:
    """Return the rubbing as a PNG."""
    image = Image.new("RGB", (ACROSS, HIGH), _PAPER)
    draw = ImageDraw.Draw(image)

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - LEFT) / SCALE, HIGH - (y - LOW) / SCALE

    round_it = [*((_MIDDLE + x, y) for x, y in _HALF), *((_MIDDLE - x, y) for x, y in reversed(_HALF[:-1]))]
    # The grain of the end, rubbed through: rings about a heart far below.
    mask = Image.new("1", image.size)
    ImageDraw.Draw(mask).polygon([at(*place) for place in round_it], fill=1)
    grain = Image.new("RGB", image.size, (228, 221, 206))
    rings = ImageDraw.Draw(grain)
    for i in range(46):
        reach = 40 + 1.9 * i + 0.5 * math.sin(i * 2.3)
        middle = at(_MIDDLE - 9, -38)
        rings.ellipse([middle[0] - reach / SCALE, middle[1] - reach / SCALE, middle[0] + reach / SCALE, middle[1] + reach / SCALE],
                      outline=_FAINT, width=3 if i % 4 else 5)  # fmt: skip
    image.paste(grain, mask=mask)
    draw.line([at(*place) for place in (*round_it, round_it[0])], fill=_INK, width=6, joint="curve")
    foot = -7.0
    draw.line([at(_MIDDLE - 11, foot), at(_MIDDLE + 11, foot)], fill=_INK, width=3)
    for x in (-11, 11):
        draw.line([at(_MIDDLE + x, foot - 1.6), at(_MIDDLE + x, foot + 1.6)], fill=_INK, width=3)
    font = ImageFont.load_default(30)
    draw.text(at(_MIDDLE, foot - 3), "22", fill=_INK, font=font, anchor="mm")
    draw.text(at(LEFT + 3, 53), "old ticket hall · grip rail, rubbed from its end", fill=_FAINT, font=font, anchor="lm")
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def rail_content() -> str:
    """Return the hash by which the picture is kept."""
    return hashlib.sha256(rail_picture()).hexdigest()

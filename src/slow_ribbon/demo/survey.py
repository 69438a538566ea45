"""The picture under the demo's plan: an invented survey sheet, drawn here."""

from __future__ import annotations

import hashlib
import io
from functools import lru_cache
from typing import Final

from PIL import Image, ImageDraw, ImageFont

#: Millimetres a pixel, and where the sheet's lower left corner lies.
SCALE: Final = 20.0
EAST: Final = -7000.0
NORTH: Final = -11000.0
ACROSS: Final = 1500
HIGH: Final = 1040

_INK, _FAINT, _PAPER = (58, 66, 64), (120, 128, 124), (250, 248, 241)


@lru_cache(maxsize=1)
def survey_sheet() -> bytes:
    """Return the sheet as a PNG."""
    image = Image.new("RGB", (ACROSS, HIGH), _PAPER)
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(30)

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - EAST) / SCALE, HIGH - (y - NORTH) / SCALE

    def path(points: list[tuple[float, float]], width: int = 2, fill: tuple[int, int, int] = _INK) -> None:
        draw.line([at(*point) for point in points], fill=fill, width=width)

    for row in range(5):
        for x in range(-6600, 21000, 900):
            y = -9900 - row * 190 + (x // 900 % 3) * 55
            path([(x, y), (x + 220, y + 45), (x + 440, y)], 1, _FAINT)
    # Walls, surveyed with a tape and a little out, as they are.
    wall = [(8620, -20), (8620, 1190), (12400, 1215)]
    path([(4985, 10), (5910, 10), (5910, 240), (6890, 240), (6890, -15), *wall], 4)
    draw.arc([*at(9000, 8000), *at(15800, 1200)], -90, 90, fill=_INK, width=4)
    path([(12400, 7990), (10010, 8010)], 4)
    path([(8590, 7990), (7390, 8000), (7390, 6710), (6310, 6710), (6310, 7985), (2190, 8010), (10, 6610), (-15, 15), (3210, -10)], 4)
    for x, y, name in ((3000, 3700, "waiting hall"), (-5900, -6500, "quay"), (12600, -9900, "water")):
        draw.text(at(x, y), name, fill=_INK, font=font, anchor="mm")
    path([(-5200, -7200), (2600, -8900), (10400, -8900)], 2)
    for x in range(-3000, 6600, 9500):
        draw.ellipse([*at(x - 120, -4380), *at(x + 120, -4620)], outline=_INK, width=2)
    draw.text(at(13200, -10700), "KESTREL SLIP · survey sheet 3", fill=_FAINT, font=font, anchor="lm")
    path([(17500, 7600), (19500, 7600)], 3)
    draw.text(at(18500, 7950), "2 m", fill=_INK, font=font, anchor="mm")
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def survey_content() -> str:
    """Return the hash by which the sheet is kept."""
    return hashlib.sha256(survey_sheet()).hexdigest()

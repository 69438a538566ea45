"""What sections and items are made of, and the tones these are drawn in, in the window and in exported models."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final, Literal

Material = Literal["softwood", "oak", "painted", "steel", "brass", "stone", "aluminium", "foliage"]


@dataclass(frozen=True, kw_only=True)
class Tone:
    """Colours of a material, sRGB as six hexadecimal digits after a #: of its faces and of its edges in drawings."""

    face: str
    edge: str

    @property
    def linear(self) -> tuple[float, float, float]:
        """The face's colour in linear RGB, as glTF wants it (IEC 61966-2-1).

        >>> Tone(face="#ffffff", edge="#000000").linear
        (1.0, 1.0, 1.0)
        >>> [round(part, 4) for part in Tone(face="#808080", edge="#000000").linear]
        [0.2159, 0.2159, 0.2159]
        """
        red, green, blue = (int(self.face[at : at + 2], 16) / 255 for at in (1, 3, 5))
        return _linear(red), _linear(green), _linear(blue)


def _linear(value: float) -> float:
    return value / 12.92 if value <= 0.04045 else float(((value + 0.055) / 1.055) ** 2.4)


TONES: Final[Mapping[Material, Tone]] = {
    "softwood": Tone(face="#dcbb85", edge="#8d6b36"),
    "oak": Tone(face="#b98c56", edge="#6e4c22"),
    "painted": Tone(face="#efe9da", edge="#8e887a"),
    "steel": Tone(face="#8b9599", edge="#4a5357"),
    "brass": Tone(face="#c9a24b", edge="#7d5f1c"),
    "stone": Tone(face="#cfcabd", edge="#86806f"),
    "aluminium": Tone(face="#c2c8ca", edge="#747c80"),
    "foliage": Tone(face="#9aa977", edge="#5c6c41"),
}


@dataclass(frozen=True, kw_only=True)
class Density:
    """Mean density of a material, kg/m³, and where that is from."""

    mean: float
    source: str


DENSITIES: Final[Mapping[Material, Density]] = {
    "softwood": Density(mean=420, source="EN 338, class C24 (from memory)"),
    "oak": Density(mean=640, source="EN 338, class D30 (from memory)"),
    "painted": Density(mean=420, source="softwood under its paint"),
    "steel": Density(mean=7850, source="EN 1991-1-1, Table A.4 (from memory)"),
    "brass": Density(mean=8470, source="EN 12167, CW614N (from memory)"),
    "stone": Density(mean=2600, source="common practice, no source"),
    "aluminium": Density(mean=2700, source="EN 1991-1-1, Table A.4 (from memory)"),
    "foliage": Density(mean=900, source="green wood, common practice, no source"),
}

"""Steel sections drawn from the sizes in their standards' tables (``steel.toml``), with root and toe radii."""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Iterator, Mapping
from functools import cache
from importlib.resources import files
from typing import Any, Final

from slow_ribbon.core.sections.document.section import NamedPoint, SideBed
from slow_ribbon.core.sections.library.drawing_board import BoardOutline, Entry, entry, rectangle, rounded, rounded_rectangle
from slow_ribbon.core.sections.outline.outline import Outline, circle

SteelSizes = Mapping[str, float]


@cache
def tables() -> tuple[dict[str, Any], ...]:
    """Return the tables of the standards: their kind, family, standard, columns and rows."""
    return tuple(tomllib.loads(files("slow_ribbon.core.sections.library").joinpath("steel.toml").read_text())["tables"])


def rows() -> Iterator[tuple[dict[str, Any], SteelSizes]]:
    """Yield each row of each table by the names of its columns, with its table."""
    for table in tables():
        for row in table["rows"]:
            yield table, dict(zip(table["columns"], row, strict=True))


def _angle(s: SteelSizes) -> Outline:
    depth, width, t, root = s["depth"], s["width"], s["thickness"], s["root"]
    return rounded([(0, 0, 0), (width, 0, 0), (width, t, root / 2), (t, t, root), (t, depth, root / 2), (0, depth, 0)])


def _channel(s: SteelSizes) -> Outline:
    depth, width, web, flange, root = s["depth"], s["width"], s["web"], s["flange"], s["root"]
    foot = [(0.0, 0.0, 0.0), (width, 0.0, 0.0), (width, flange, 0.0), (web, flange, root)]
    return rounded([*foot, *((x, depth - y, r) for x, y, r in reversed(foot))])


def _lipped_channel(s: SteelSizes) -> Outline:
    depth, width, lip, t = s["depth"], s["width"], s["lip"], s["thickness"]
    foot = [(0.0, 0.0, 2 * t), (width, 0.0, 2 * t), (width, lip, 0.0), (width - t, lip, 0.0), (width - t, t, t), (t, t, t)]
    # Round the outside and back inside: the upper half is the lower one turned over.
    return rounded([*foot[1:], *((x, depth - y, r) for x, y, r in reversed(foot[1:])), (0.0, depth, 2 * t), foot[0]])


def _i_section(s: SteelSizes) -> Outline:
    depth, half, web, flange, root = s["depth"], s["width"] / 2, s["web"] / 2, s["flange"], s["root"]
    corner = [(half, 0.0, 0.0), (half, flange, 0.0), (web, flange, root)]
    right = [*corner, *((x, depth - y, r) for x, y, r in reversed(corner))]
    return rounded([*right, *((-x, y, r) for x, y, r in reversed(right))])


def _tee(s: SteelSizes) -> Outline:
    # The flange is as thick as said a quarter of its width from its edge, the web half way down; both taper by 2 in 100.
    depth, width, t = s["depth"], s["width"], s["thickness"]
    slope, half = 0.02, width / 2

    def under(x: float) -> float:
        return depth - t - slope * (half / 2 - x)

    def beside(y: float) -> float:
        return t / 2 + slope * (y - depth / 2)

    # Where the web's side meets the flange's under side.
    y = depth - t
    for _ in range(50):
        y = under(beside(y))
    right = [(beside(0), 0.0, t / 4), (beside(y), y, t), (half, under(half), t / 2), (half, depth, 0.0)]
    return rounded([*right, *((-x, up, r) for x, up, r in reversed(right))])


def _round_tube(s: SteelSizes) -> BoardOutline:
    radius = s["diameter"] / 2
    return circle(radius), (circle(radius - s["wall"]),)


def _flat_tube(s: SteelSizes) -> BoardOutline:
    depth, width, wall = s["depth"], s["width"], s["wall"]
    # EN 10219-2, annex B: outer corners by 2 t up to 6 mm, and by 2.5 t up to 10 mm.
    outer = (2.0 if wall <= 6 else 2.5) * wall
    hole = rounded_rectangle(width - 2 * wall, depth - 2 * wall, outer - wall, (wall, wall))
    return rounded_rectangle(width, depth, outer), (hole,)


_DRAWN: Final[dict[str, Callable[[SteelSizes], BoardOutline]]] = {
    "angle": _angle,
    "channel": _channel,
    "lipped channel": _lipped_channel,
    "I section": _i_section,
    "H section": _i_section,
    "tee": _tee,
    "round tube": _round_tube,
    "flat tube": _flat_tube,
    "flat bar": lambda s: rectangle(s["width"], s["depth"]),
    "round bar": lambda s: circle(s["diameter"] / 2),
    "square bar": lambda s: rectangle(s["depth"], s["depth"]),
}
_SIZES: Final = ("depth", "width", "lip", "diameter", "thickness", "web", "wall")


def steel() -> Iterator[Entry]:
    """Yield the steel sections."""
    for table, sizes in rows():
        kind = table["kind"]
        size = " × ".join(f"{sizes[name]:g}" for name in _SIZES if name in sizes)
        if kind == "square bar":
            size = f"{size} × {size}"
        name = {"flat tube": "Square tube" if sizes.get("depth") == sizes.get("width") else "Rectangular tube"}.get(kind, kind.capitalize())
        key = f"{kind} {size}".replace(" × ", "-").replace(" ", "-")
        datum: NamedPoint = "middle" if "tube" in kind or "bar" in kind else "back-foot"
        bed = SideBed(side="foot") if "tube" in kind or "round" in kind else None
        drawing = _DRAWN[kind](sizes)
        yield entry(key, table["family"], f"{name} {size}", drawing, datum, "steel", bed, sizes.get("wall"), table["standard"])

"""An SVG's tree made plain before its shapes are read: what its doctype defines is put in, what is used again stands in its
place, what is never drawn by itself is taken out, lengths are in pixels, and what is damaged is as much as can be read of it.

After W3C, "Scalable Vector Graphics (SVG) 1.1" (2011): viewports (7), use and symbol (5), error handling in paths (F.2).
"""

from __future__ import annotations

import copy
import math
import re
from collections import Counter
from dataclasses import dataclass
from typing import Any, Final
from xml.etree.ElementTree import Element

import defusedxml.ElementTree
import svgelements

from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.edges import reason

#: Elements that an SVG may unfold to.
UNFOLDED: Final = 200_000
#: Letters that its entities may unfold to.
_LETTERS: Final = 20_000_000
#: Pixels in each unit (CSS Values and Units 4: 96 pixels are an inch).
PIXELS: Final = {"": 1.0, "px": 1.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "q": 96 / 101.6, "in": 96.0, "pt": 96 / 72, "pc": 16.0}
_LENGTH: Final = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([a-zA-Z]*)\s*")
_LENGTHS: Final = ("x", "y", "x1", "y1", "x2", "y2", "cx", "cy", "r", "rx", "ry", "width", "height")
_ACROSS: Final = frozenset(("x", "x1", "x2", "cx", "rx", "width"))
_DOWN: Final = frozenset(("y", "y1", "y2", "cy", "ry", "height"))
_PERCENT: Final = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*%\s*")
_SHAPES: Final = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
#: What is only drawn where something else calls for it, and what such things are called when they are reported.
_NOT_DRAWN: Final = {
    "defs": "", "symbol": "", "metadata": "", "style": "", "title": "", "desc": "", "lineargradient": "", "radialgradient": "",
    "filter": "", "script": "scripts", "marker": "markers", "mask": "masks", "clippath": "clipping paths", "pattern": "patterns",
    "foreignobject": "foreign objects",
}  # fmt: skip
_XLINK: Final = "{http://www.w3.org/1999/xlink}href"


@dataclass(frozen=True)
class PlainTree:
    """A tree made plain. ``scale`` takes its figures to pixels across and down; ``known``: the file says how large it is in a unit.

    ``symbols``: how many that nothing uses are shown, because nothing else is drawn.
    """

    root: Element
    scale: tuple[float, float]
    known: bool
    unread: Counter[str]
    symbols: int


_NUMBER: Final = r"[-+]?+(?:[0-9]++(?:\.[0-9]++)?+|\.[0-9]++)(?:[eE][-+]?+[0-9]++)?+\s*+(?:,\s*+)?+"
#: A path of straights and Bézier curves with as many numbers as its commands take (SVG 1.1, 8.3.9).
PLAIN_PATH: Final = re.compile(
    rf"\s*+(?=[Mm])(?:[MmLlTt]\s*+(?:(?:{_NUMBER}){{2}})++|[HhVv]\s*+(?:{_NUMBER})++|[Cc]\s*+(?:(?:{_NUMBER}){{6}})++"
    rf"|[SsQq]\s*+(?:(?:{_NUMBER}){{4}})++|[Zz]\s*+)*+"
)


def plain_tree(data: bytes) -> PlainTree:
    """Return the tree of an SVG file. Raises ``Refused`` if it is not one, is cut off, or unfolds without end."""
    try:
        root = defusedxml.ElementTree.fromstring(_without_doctype(data), forbid_dtd=False)
    except Refused:
        raise
    except Exception as error:  # whatever an XML parser meets damage with
        if "undefined entity" in str(error):
            raise Refused(
                "The SVG refers to other files, which are not read: save it again as plain SVG.", "file", "xml-entities"
            ) from error
        raise Refused(f"This is not an SVG file, or it is cut off ({reason(error)}).", "file", "damaged") from error
    if _kind(root) != "svg":
        raise Refused("This is not an SVG file: its outermost element is not svg.", "file", "not-an-svg")
    _check_unfolded(root)
    unread: Counter[str] = Counter()
    shown = _symbols_shown(root)
    page = _page(root)
    scale, known = _viewport(root)
    by_id = {str(element.get("id")): element for element in reversed(list(root.iter())) if element.get("id")}
    _make_plain(root, by_id, unread, page)
    return PlainTree(root, scale, known, unread, shown)


def _symbols_shown(root: Element) -> int:
    """Let a file that draws nothing but holds symbols for others to use show them, and return how many.

    Each is a group by its name, side by side.
    """
    hidden = {element for holder in root.iter() if _kind(holder) in _NOT_DRAWN for element in holder.iter()}
    if any(_kind(element) in _SHAPES or _kind(element) == "use" for element in root.iter() if element not in hidden):
        return 0
    symbols = [element for element in root.iter() if _kind(element) == "symbol"]
    across = 0.0
    for symbol in symbols:
        box = [_number(part) for part in re.split(r"[\s,]+", str(symbol.get("viewBox", "")).strip())]
        left, low, wide = (box[0], box[1], box[2]) if len(box) == 4 else (0.0, 0.0, 100.0)
        group = Element(str(symbol.tag)[: -len("symbol")] + "g", {"id": symbol.get("id") or "symbol"})
        group.set("transform", f"translate({across - left!r},{-low!r})")
        group.extend(list(symbol))
        root.append(group)
        across += 1.25 * wide
    if symbols:
        # What each of them is drawn in says how large it is; the page says nothing of that.
        for name in ("viewBox", "width", "height"):
            root.attrib.pop(name, None)
    return len(symbols)


def _kind(element: Element) -> str:
    return str(element.tag).rsplit("}", 1)[-1].lower()


def _without_doctype(data: bytes) -> bytes | str:
    """Return the text without its doctype, and what the doctype defines within the file put in."""
    if b"<!DOCTYPE" not in data[:100_000]:
        return data
    encoding = re.search(rb"""^\s*<\?xml[^>]*encoding=["']([A-Za-z0-9._-]+)""", data[:200])
    try:
        text = data.decode(encoding.group(1).decode() if encoding else "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig")
    except (LookupError, UnicodeDecodeError) as error:
        raise Refused(f"This is not an SVG file, or it is cut off ({reason(error)}).", "file", "damaged") from error
    found = re.search(r"<!DOCTYPE\s[^\[>]*(?:\[(.*?)\]\s*)?>", text, re.DOTALL)
    if found is None:
        return data
    defined = {
        name: value for name, _, value in re.findall(r"""<!ENTITY\s+([\w.:-]+)\s+(["'])(.*?)\2\s*>""", found.group(1) or "", re.DOTALL)
    }
    text = re.sub(r"^\s*<\?xml.*?\?>", "", text[: found.start()], flags=re.DOTALL) + text[found.end() :]

    def filled(part: str, inside: tuple[str, ...]) -> str:
        out: list[str] = []
        size = 0
        for index, piece in enumerate(re.split(r"&([\w.:-]+);", part)):
            if index % 2 and piece in defined:
                if piece in inside:
                    raise _entities()
                piece = filled(defined[piece], (*inside, piece))
            elif index % 2:
                piece = f"&{piece};"
            size += len(piece)
            if size > _LETTERS:
                raise _entities()
            out.append(piece)
        return "".join(out)

    # Definitions that use one another are put together once each, not once for every use.
    for name in list(defined):
        defined[name] = filled(defined[name], (name,))
    return filled(text, ())


def _entities() -> Refused:
    return Refused(
        "The SVG's doctype defines entities that unfold without end, which no drawing needs: save it again as plain SVG.",
        "file",
        "xml-entities",
    )


def _check_unfolded(root: Element) -> None:
    """Raise ``Refused`` where elements that use one another unfold to more than any drawing holds, or without end."""
    by_id = {element.get("id"): element for element in root.iter() if element.get("id")}
    counts: dict[Any, int] = {}
    # Each element twice: before what it holds, and after.
    stack = [(root, False)]
    going: set[Any] = set()
    while stack:
        element, after = stack.pop()
        if element in counts:
            continue
        inner = list(element)
        if _kind(element) == "use":
            used = by_id.get(_used(element))
            inner += [used] if used is not None else []
        if after:
            going.discard(element)
            counts[element] = 1 + sum(counts.get(one, 0) for one in inner)
            if counts[element] > UNFOLDED:
                raise Refused(
                    f"The SVG uses its own parts over and over, and unfolds to more than {UNFOLDED:,}: save it as plain paths.",
                    "file",
                    "svg-unfolds",
                )
            continue
        if element in going:
            raise Refused("The SVG's groups are nested too deeply, or refer to themselves.", "file", "damaged")
        going.add(element)
        stack.append((element, True))
        stack.extend((one, False) for one in inner if one not in counts)


def _used(element: Element) -> str:
    return str(element.get("href") or element.get(_XLINK) or "")[1:]


def pixels(text: str | None) -> float | None:
    """Return a length in pixels, or nothing: a share of something else, or no length."""
    found = _LENGTH.fullmatch(text or "")
    if found is None or found.group(2).lower() not in PIXELS:
        return None
    return float(found.group(1)) * PIXELS[found.group(2).lower()]


def _viewport(root: Element) -> tuple[tuple[float, float], bool]:
    """Return how many pixels a figure is, across and down, and whether a unit says so; the root then has no viewport any more."""
    said = [str(root.get(name, "")).strip().lower() for name in ("width", "height")]
    known = any((found := _LENGTH.fullmatch(one)) is not None and found.group(2) not in ("", "px") for one in said)
    scale = _view_scale(root)
    for name in ("width", "height", "viewBox", "preserveAspectRatio", "x", "y"):
        root.attrib.pop(name, None)
    return scale, known


def _view_scale(element: Element, width: str | None = None, height: str | None = None) -> tuple[float, float]:
    """Return how a view box is scaled to its viewport; a side that is not said follows the other."""
    try:
        box = [float(value) for value in re.split(r"[\s,]+", str(element.get("viewBox", "")).strip())]
    except ValueError:
        return 1.0, 1.0
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        return 1.0, 1.0
    across, down = pixels(width or element.get("width")), pixels(height or element.get("height"))
    ways = [size / whole if size is not None and size > 0 else None for size, whole in zip((across, down), box[2:], strict=True)]
    if ways[0] is None or ways[1] is None:
        one = ways[0] or ways[1] or 1.0
        return one, one
    keep = str(element.get("preserveAspectRatio", ""))
    if keep.strip().startswith("none"):
        return ways[0], ways[1]
    one = max(ways[0], ways[1]) if "slice" in keep else min(ways[0], ways[1])
    return one, one


def _page(root: Element) -> tuple[float, float] | None:
    """Return how wide and high the page is in its own figures, of which percentages are shares; None where it does not say."""
    try:
        box = [float(value) for value in re.split(r"[\s,]+", str(root.get("viewBox", "")).strip())]
    except ValueError:
        box = []
    if len(box) == 4 and box[2] > 0 and box[3] > 0:
        return box[2], box[3]
    across, down = pixels(root.get("width")), pixels(root.get("height"))
    return (across, down) if across and down else None


def _shares_said(element: Element, page: tuple[float, float] | None) -> bool:
    """Put the percentages of an element's lengths in figures of the page; return whether that can be done.

    Those of lengths that lie neither across nor down are of the page's diagonal over √2 (SVG 2, section 8.9).
    """
    for name in _LENGTHS:
        share = _PERCENT.fullmatch(element.get(name) or "")
        if share is None:
            continue
        if page is None:
            return False
        whole = page[0] if name in _ACROSS else page[1] if name in _DOWN else math.hypot(*page) / math.sqrt(2)
        element.set(name, repr(float(share.group(1)) / 100 * whole))
    return True


def _make_plain(parent: Element, by_id: dict[str, Element], unread: Counter[str], page: tuple[float, float] | None) -> None:
    for element in list(parent):
        kind = _kind(element)
        if not isinstance(element.tag, str) or kind in _NOT_DRAWN:
            parent.remove(element)
            if _NOT_DRAWN.get(kind):
                unread[_NOT_DRAWN[kind]] += 1
            continue
        if kind == "use":
            used = by_id.get(_used(element))
            if used is None:
                unread["uses of what is not in the file"] += 1
                parent.remove(element)
                continue
            element = _in_place(parent, element, used)
        elif kind in _SHAPES or kind == "svg":
            if not _shares_said(element, page):
                unread["shapes sized in per cent of a page that does not say how large it is"] += 1
                parent.remove(element)
                continue
            for name in _LENGTHS:
                size = pixels(element.get(name))
                if size is not None:
                    element.set(name, repr(size))
            if kind != "svg" and not _is_sound(element):
                if kind == "path" and _shortened(element):
                    unread["paths that break off in the middle"] += 1
                else:
                    unread["damaged shapes"] += 1
                    parent.remove(element)
                    continue
        if not _is_turned_soundly(element):
            unread["groups with a damaged transform" if len(element) else "damaged shapes"] += 1
            parent.remove(element)
            continue
        _make_plain(element, by_id, unread, page)


def _in_place(parent: Element, use: Element, used: Element) -> Element:
    """Put a copy of what is used where it is used, and return it."""
    space = str(used.tag).rpartition("}")[0]
    group = Element(
        f"{space}}}g" if space else "g", {key: value for key, value in use.attrib.items() if key not in (*_LENGTHS, "href", _XLINK)}
    )
    x, y = pixels(use.get("x")) or 0.0, pixels(use.get("y")) or 0.0
    moved = f"{use.get('transform', '')} translate({x!r},{y!r})"
    held = copy.deepcopy(used)
    held.attrib.pop("id", None)
    if _kind(used) in ("symbol", "svg"):
        across, down = _view_scale(used, use.get("width"), use.get("height"))
        box = (re.split(r"[\s,]+", str(used.get("viewBox", "")).strip()) + ["0", "0"])[:2]
        moved += f" scale({across!r},{down!r}) translate({-_number(box[0])!r},{-_number(box[1])!r})"
        group.extend(list(held))
    else:
        group.append(held)
    group.set("transform", moved)
    parent[list(parent).index(use)] = group
    return group


def _number(text: str) -> float:
    return pixels(text) or 0.0


def _is_sound(element: Element) -> bool:
    try:
        if _kind(element) == "path":
            # Most are as the standard has them, which is seen in a fifteenth of the time that reading them takes.
            if PLAIN_PATH.fullmatch(path := element.get("d", "")) is None:
                svgelements.Path(path)
        elif _kind(element) in ("polyline", "polygon"):
            svgelements.Polyline(element.get("points", ""))
        else:
            return all(pixels(element.get(name)) is not None or "%" in element.get(name, "") for name in _LENGTHS if element.get(name))
    except Exception:  # noqa: BLE001 - the library meets a wrong path with whatever it stumbles over
        return False
    return True


def _shortened(element: Element) -> bool:
    """Keep as much of a path as can be read, as a picture of it would be drawn; return whether there is any."""
    parts = re.findall(r"[MmZzLlHhVvCcSsQqTtAa][^MmZzLlHhVvCcSsQqTtAa]*", element.get("d", ""))
    low, high = 0, len(parts)
    while low < high:
        middle = (low + high + 1) // 2
        element.set("d", "".join(parts[:middle]))
        low, high = (middle, high) if _is_sound(element) else (low, middle - 1)
    element.set("d", "".join(parts[:low]))
    return low > 1


def _is_turned_soundly(element: Element) -> bool:
    try:
        svgelements.Matrix(element.get("transform", ""))
    except Exception:  # noqa: BLE001 - as above
        return False
    return True

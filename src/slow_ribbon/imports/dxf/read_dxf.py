"""DXF drawings, R12 to R2018, ASCII or binary, read with ezdxf.

Everything that is an edge is taken, from model space and, to any depth, from the blocks
inserted there: LINE, ARC, CIRCLE, ELLIPSE, SPLINE, HELIX, LWPOLYLINE and POLYLINE with bulges,
the boundaries of HATCH, the edges of faces and meshes (3DFACE, MESH, POLYLINE of faces). Content
on layer 0 of a block lies on the layer of its insert.
"""

from __future__ import annotations

import contextlib
import mmap
from collections.abc import Iterable
from pathlib import Path

import ezdxf
import ezdxf.colors
import ezdxf.recover
from ezdxf.document import Drawing as Document
from ezdxf.entities.dxfentity import DXFEntity
from ezdxf.entities.insert import Insert
from ezdxf.math import Matrix44

from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.drawing import MOST_EDGES, Drawing
from slow_ribbon.imports.dxf.entities import DEEPEST, BlockPlacement, EntityReading, name_of
from slow_ribbon.imports.dxf.plain_lines import LARGE, PlainLines, taken_out
from slow_ribbon.imports.dxf.units import unit_of
from slow_ribbon.imports.edges import reason
from slow_ribbon.imports.options import UNIT_NAMES, UNITS, Options
from slow_ribbon.imports.progress import in_shares
from slow_ribbon.sandbox import in_memory


def read_dxf(path: Path, options: Options | None = None) -> Drawing:
    """Return the edges of a DXF file, in mm. The unit of the options counts more than what it says.

    Raises ``Refused`` where the file is no DXF, is damaged beyond mending, or unfolds without bound.
    """
    reading = EntityReading()
    document, lines = _opened(path, reading.edges.notes)
    # The library reports metres for a file without a head.
    units, factor, name = unit_of(int(document.header.get("$INSUNITS", 0)) if _says_unit(path) else 0)
    said = options.unit if options is not None else None
    if said is not None:
        # Whatever the file says.
        factor, name = UNITS[said], UNIT_NAMES[said]
    whole = BlockPlacement(Matrix44.scale(factor), "0", 0)
    try:
        reading.layers.update((name_of(layer.dxf.name).casefold(), name_of(layer.dxf.name)) for layer in document.layers)
        encoding = "utf-8" if document.dxfversion >= "AC1021" else document.encoding
        reading.plain(lines, encoding, factor)
        _check_unfolded(document, reading)
        for entity in in_shares(_drawn(document, reading.edges.notes, len(lines) > 0), 0.75):
            try:
                reading.entity(entity, whole)
            except Refused:
                # Of the whole drawing: it unfolds without end, say.
                raise
            except (ezdxf.DXFError, ArithmeticError, ValueError, IndexError, AttributeError, TypeError):
                # One entity with wrong figures says nothing of the others.
                reading.edges.unread[f"damaged {entity.dxftype().lower()} entities"] += 1
        if reading.elsewhere:
            names = sorted(reading.elsewhere)
            more = f" and {len(names) - 5} more" if len(names) > 5 else ""
            message = f"{', '.join(names[:5])}{more}"
            reading.edges.notes.append(f"It refers to other files, which are not read: {message}. Bring them in by themselves.")
        for layer in document.layers:
            shown = name_of(layer.dxf.name)
            if layer.is_off() or layer.is_frozen():
                reading.edges.hidden.add(shown)
            rgb = tuple(layer.rgb or ezdxf.colors.aci2rgb(abs(int(layer.dxf.get("color", 7))) or 7))
            # White is what is drawn on a black screen: no colour at all.
            if rgb != (255, 255, 255):
                reading.edges.colours[shown] = "#{:02x}{:02x}{:02x}".format(*rgb)
    except Refused:
        raise
    except Exception as error:  # see above
        raise Refused(
            f"The DXF file is damaged inside ({type(error).__name__}: {reason(error)}). Save it again.", "file", "damaged"
        ) from error
    return reading.edges.drawing(name, bool(units or said))


def _check_unfolded(document: Document, reading: EntityReading) -> None:
    """Raise ``Refused`` where blocks in blocks, and inserts in rows and columns, make more edges than can be handled.

    They are counted, once for every block, before any is read. Blocks that hold themselves are left out of that, and reported.
    """
    counts: dict[str, int] = {}
    going: list[str] = []

    def held(entities: Iterable[DXFEntity]) -> int:
        total = 0
        for entity in entities:
            if isinstance(entity, Insert):
                name = str(entity.dxf.get("name", "")).casefold()
                total += max(1, entity.mcount) * block_holds(name)
            else:
                total += 1
            if total > MOST_EDGES * 4:
                raise Refused(
                    f"Its blocks unfold into more than {MOST_EDGES:,} edges"
                    + (f", most of them by {entity.dxf.get('name')}" if isinstance(entity, Insert) else "")
                    + ": bring in a part of the drawing, or insert it fewer times.",
                    "file",
                    "too-many-edges",
                )
        return total

    def block_holds(name: str) -> int:
        if name in going:
            reading.endless.update(going[going.index(name) :])
            return 0
        if name not in counts:
            block = document.blocks.get(name)
            going.append(name)
            counts[name] = held(block) if block is not None and len(going) <= DEEPEST + 1 else 0
            going.pop()
        return counts[name]

    held(document.modelspace())


def _says_unit(path: Path) -> bool:
    """Return whether a file, written as text or binary, says its unit anywhere."""
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        return data.find(b"$INSUNITS") >= 0


def _opened(path: Path, notes: list[str]) -> tuple[Document, PlainLines]:
    """Return a DXF document and the lines that were read past it. Raises ``Refused`` as ``_document``."""
    parted = taken_out(path.read_bytes()) if path.stat().st_size >= LARGE else None
    if parted is not None and len(parted[1]):
        rest, lines = parted
        with in_memory(rest) as other, contextlib.suppress(Exception):
            # Damaged in whatever way, it is read as a whole.
            return ezdxf.readfile(other), lines
    return _document(path, notes), PlainLines()


def _drawn(document: Document, notes: list[str], more: bool) -> list[DXFEntity]:
    """Return the layout to read: the model space, or the only sheet where that is empty, unless there is ``more`` in the model.

    Sheets that are left out are reported in ``notes``.
    """
    papers = [layout for layout in document.layouts if not layout.is_modelspace]
    sheets: dict[str, list[DXFEntity]] = {layout.name: [entity for entity in layout if entity.dxftype() != "VIEWPORT"] for layout in papers}
    filled = {name: entities for name, entities in sheets.items() if entities}
    model: list[DXFEntity] = list(document.modelspace())
    if model or more or not filled:
        if filled:
            count = sum(len(entities) for entities in filled.values())
            what = f"{count} {'thing' if count == 1 else 'things'} drawn on paper"
            notes.append(f"{what} ({', '.join(filled)}) {'is' if count == 1 else 'are'} not read: only the model is.")
        return model
    name, entities = max(filled.items(), key=lambda one: len(one[1]))
    notes.append(f"Its model is empty; what is drawn on the paper {name} is read, at the size it has there.")
    return entities


def _document(path: Path, notes: list[str]) -> Document:
    """Return a DXF document; one that is damaged a little is mended, and reported in ``notes``."""
    try:
        return ezdxf.readfile(path)
    except OSError as error:
        raise Refused(f"This is not a DXF file ({reason(error)}).", "file", "not-a-dxf") from error
    except Exception as error:  # noqa: BLE001 - ezdxf meets damage with whatever its parsers raise, StopIteration included
        try:
            document, auditor = ezdxf.recover.readfile(path)
            if not len(document.modelspace()):
                raise ezdxf.DXFStructureError("nothing is left of its model space")
        except Exception:  # noqa: BLE001 - as above; the first error is reported
            raise Refused(
                f"The DXF file is cut off or damaged ({reason(error)}). Save it again from the program that made it.", "file", "damaged"
            ) from error
        mended = len(auditor.fixes) + len(auditor.errors)
        notes.append(
            "The file is damaged and was mended as far as it could be"
            + (f", in {mended} place{'' if mended == 1 else 's'}" if mended else "")
            + ": look whether anything is missing."
        )
        return document

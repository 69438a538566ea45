"""Files that nobody of this project made and that general packages carry anyway: read, or refused with a reason, none silently short."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
import svgpathtools
from svgpathtools.document import flattened_paths

import slow_ribbon
from slow_ribbon.core.kernel.errors import Refused
from slow_ribbon.core.lines.legs import place
from slow_ribbon.imports.drawing import Drawing, check_drawing
from slow_ribbon.imports.isolated import LARGEST
from slow_ribbon.imports.line_finding import find_lines
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.registry import READER_OF
from slow_ribbon.imports.svg.svg_tree import plain_tree

ROOT = Path(slow_ribbon.__file__).parents[2]
#: Where files of others lie: packages of the interpreter that runs this and of the interface, and what is installed here.
FOLDERS = [Path(pytest.__file__).parents[1], ROOT / "web" / "node_modules", Path("/usr/share/icons"), Path("/usr/share/doc")]
#: Of one kind in one folder at most this many, taken evenly.
MOST = 60
#: What the other library does not know of, or takes otherwise.
ELSE = ("<use", "clipPath", "<mask", "<marker", "<pattern", "<symbol", "display", "<switch", "style=", "<!ENTITY", "<svg:", "<text")


def files() -> list[Path]:
    found: list[Path] = []
    for folder in FOLDERS:
        for ending in READER_OF:
            there = sorted(path for path in folder.rglob(f"*.{ending}") if path.is_file() and 0 < path.stat().st_size < LARGEST // 50)
            # A package's own settings and notes are no maps and no lists of points.
            there = [path for path in there if ending not in ("json", "txt")]
            found.extend(there[:: max(1, len(there) // MOST)][:MOST])
    return found


def length(drawing: Drawing) -> float:
    total = 0.0
    for number in range(len(drawing.begins)):
        begin, leg = place(drawing.begins[number]), drawing.curves.get(number)
        total += (
            float(((drawing.ends[number] - drawing.begins[number]) ** 2).sum() ** 0.5)
            if leg is None
            else sum(s.length for s in leg.spans(begin))
        )
    return total


def theirs(path: Path) -> float | None:
    """Return the length of a drawing in mm as another library has it; None where it cannot say."""
    text = path.read_text(errors="replace")
    tree = plain_tree(path.read_bytes())
    if any(one in text for one in ELSE) or tree.scale[0] != tree.scale[1] or text.count("<svg") > 1:
        return None
    try:
        document = svgpathtools.Document(str(path))
        total = sum(one.length(error=1e-6) for one in flattened_paths(document.root))
    except Exception:  # noqa: BLE001 - what another library cannot read says nothing of ours
        return None
    return float(total) * tree.scale[0] * 25.4 / 96


def test_files_of_others_are_read_or_refused_and_none_is_silently_short() -> None:
    there = files()
    # Packages that this project needs carry some: they are there on every machine.
    assert len(there) > 10
    read = compared = 0
    answer: dict[Path, str] = {}
    for path in there:
        begin = time.process_time()
        ending = path.suffix[1:].lower()
        try:
            drawing = check_drawing(READER_OF[ending].read(path, ending, Options()))
            find_lines(drawing, None, 1.0)
        except Refused as refused:
            answer[path] = refused.what
            continue
        finally:
            assert time.process_time() - begin < 60, path
        read += 1
        other = theirs(path) if ending == "svg" and not drawing.unread else None
        if other is not None:
            assert length(drawing) == pytest.approx(other, rel=1e-3, abs=1e-6), path
            compared += 1
    assert read > compared > 0
    assert all(len(what) > 15 and str(path) not in what for path, what in answer.items()), answer
    print(f"{len(there)} files, {read} read, {compared} compared")

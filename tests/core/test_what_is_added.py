"""What adding a kind takes: its own file and its name in one registry.

The kinds in ``added/`` are put into a copy of the program, which is then run with a job that has them all. They are the examples of
docs/building.md.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

import slow_ribbon

ADDED = Path(__file__).parent / "added"
#: Of each example: where its file goes, the registry there, and what is listed.
EXAMPLES = {
    "corner_open": ("core/runs/treatments/corners", "TREATMENTS", "Open"),
    "end_splayed": ("core/runs/treatments/ends", "FINISHES", "Splayed"),
    "leg_dogleg": ("core/lines/legs", "LEGS", "Dogleg"),
    "edge_parabola": ("core/sections/edges", "EDGES", "ParabolaEdge"),
    "rule_growing": ("core/rows/spacing", "RULES", "GrowingBays"),
}


def add(program: Path, example: str) -> None:
    """Add an example to a copy of the program: copy its file, import it in the registry and list it there."""
    room, registry, name = EXAMPLES[example]
    shutil.copy(ADDED / f"{example}.py", program / room / f"{example}.py")
    index = program / room / "__init__.py"
    text = index.read_text()
    text, imported = re.subn(r"(?=\n\n#: )", f"\nfrom slow_ribbon.{room.replace('/', '.')}.{example} import {name}", text, count=1)
    text, listed = re.subn(rf"^({registry}: [^=]*= \([^)]*)\)", rf"\1, {name})", text, count=1, flags=re.MULTILINE)
    assert (imported, listed) == (1, 1), index
    index.write_text(text)


@pytest.fixture(scope="module")
def figures(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    source = Path(slow_ribbon.__file__).parent
    copy = tmp_path_factory.mktemp("added") / "slow_ribbon"
    shutil.copytree(source, copy, ignore=shutil.ignore_patterns("__pycache__", "static", "screens"))
    before = {path.relative_to(copy): path.read_bytes() for path in copy.rglob("*.py")}
    for example in EXAMPLES:
        add(copy, example)
    after = {path.relative_to(copy): path.read_bytes() for path in copy.rglob("*.py")}
    touched = {str(path) for path in after if before.get(path) != after[path]}
    assert touched == {f"{room}/{name}" for example, (room, _, _) in EXAMPLES.items() for name in (f"{example}.py", "__init__.py")}
    done = subprocess.run(
        [sys.executable, ADDED / "use_added.py"],
        env=os.environ | {"PYTHONPATH": str(copy.parent)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert not done.returncode, done.stderr
    found: dict[str, Any] = json.loads(done.stdout)
    return found


def test_an_edge_of_a_kind_of_its_own_is_drawn_measured_and_cut(figures: dict[str, Any]) -> None:
    # Archimedes: a segment of a parabola is two thirds of the rectangle round it.
    assert figures["area"] == pytest.approx(40 * 60 + 2 / 3 * 40 * 30)


def test_a_leg_a_corner_and_a_rule_of_kinds_of_their_own_come_to_their_lengths(figures: dict[str, Any]) -> None:
    # The line was turned about, so that its last piece comes first.
    assert figures["lengths"] == pytest.approx([4000 - 25, 2000 - 2 * 25, 3000 - 25])
    assert figures["places"] == pytest.approx([0, 500, 1500, 3500, 7500])


def test_a_finish_of_a_kind_of_its_own_is_sawn(figures: dict[str, Any]) -> None:
    # The foot ends with the line, and the fibre at the centroid, 40.5 up, a third of that before it.
    centroid = (40 * 60 * 30 + 2 / 3 * 40 * 30 * (60 + 2 / 5 * 30)) / figures["area"]
    assert figures["long"] == pytest.approx([3975, 1950, 2975])
    assert figures["volume"] == pytest.approx(figures["area"] * (3975 + 1950 + 2975 - centroid / 3))

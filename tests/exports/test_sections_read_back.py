"""Outlines written as DXF and SVG and read back by our own readers: joined, made a section, the same to a millionth of a millimetre.

That others read the same is shown in ``tests/store/test_shop.py`` by ezdxf and svgpathtools.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from slow_ribbon.core.job import Job
from slow_ribbon.core.job.edits import AddLines, apply
from slow_ribbon.core.job.edits.sections import SectionOfLines
from slow_ribbon.core.sections import SectionBody, from_library, library, section_shape
from slow_ribbon.core.sections.outline.profile import Shape
from slow_ribbon.exports.sections import section_dxf, section_svg
from slow_ribbon.imports.line_finding import find_lines, line_bodies
from slow_ribbon.imports.options import Options
from slow_ribbon.imports.registry import READER_OF

KEYS = [entry.key for entry in library()]


def read_back(data: bytes, ending: str, folder: Path) -> Shape:
    path = folder / f"section.{ending}"
    path.write_bytes(data)
    found = find_lines(READER_OF[ending].read(path, ending, Options()), None, 0.01)
    bodies = tuple(line_bodies(found, None, (0, 0, 0), path.name, "0" * 64))
    job = apply(Job(name="Job"), AddLines(lines=bodies))
    job = apply(job, SectionOfLines(lines=tuple(line.id for line in job.lines), name="Read"))
    return section_shape(job.sections[0])


def apart(shape: Shape, other: Shape) -> float:
    """Return how far places on a shape's edges are from another's at most, mm."""
    count = int(shape.starts[-1])
    shares = np.linspace(0.03, 0.97, 7)
    places = shape.together.at(np.repeat(np.arange(count), 7), np.tile(shares, count))
    edges = int(other.starts[-1])
    found = other.together.nearest(np.tile(np.arange(edges), len(places)), np.repeat(places, edges, axis=0))[1]
    away = np.hypot(*(found.reshape(len(places), edges, 2) - places[:, None]).transpose(2, 0, 1))
    return float(away.min(axis=1).max())


@pytest.mark.parametrize("ending", ["dxf", "svg"])
@pytest.mark.parametrize("key", KEYS)
def test_an_outline_of_the_library_is_read_back_unchanged(key: str, ending: str, tmp_path: Path) -> None:
    section = from_library(key)
    before = section_shape(section)
    after = read_back(section_dxf(section) if ending == "dxf" else section_svg(section), ending, tmp_path)
    assert max(apart(before, after), apart(after, before)) < 1e-6
    assert after.area == pytest.approx(before.area, abs=1e-5 * before.perimeter)


@pytest.mark.parametrize("ending", ["dxf", "svg"])
@pytest.mark.parametrize("key", ["handrail-moulded", "skirting-torus", "tube-round", "cornice-classical"])
def test_one_made_wider_than_it_is_drawn_keeps_its_ellipses(key: str, ending: str, tmp_path: Path) -> None:
    drawn = from_library(key)
    section = SectionBody(**{**dict(drawn), "width": drawn.width * 1.37, "height": drawn.height * 0.81, "wall": None, "grows": "scaled"})
    before = section_shape(section)
    after = read_back(section_dxf(section) if ending == "dxf" else section_svg(section), ending, tmp_path)
    assert max(apart(before, after), apart(after, before)) < 1e-6

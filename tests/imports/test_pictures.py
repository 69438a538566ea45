"""Pictures as scanners, cameras and mail programs leave them: their tones, and their size on paper."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pypdf
import pytest
from PIL import Image

from slow_ribbon.imports.pictures import read_picture
from slow_ribbon.imports.results import PictureRead


def read(data: bytes, folder: Path) -> PictureRead:
    path = folder / "picture"
    path.write_bytes(data)
    return read_picture(path)


def greys(found: PictureRead) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(found.png)).convert("L"))


def written(image: Image.Image, kind: str) -> bytes:
    out = io.BytesIO()
    image.save(out, kind)
    return out.getvalue()


def page(width: float, height: float, unit: float | None = None) -> bytes:
    """A PDF of one empty page, by pypdf; in points, times its unit."""
    writer = pypdf.PdfWriter()
    made = writer.add_blank_page(width, height)
    if unit is not None:
        made[pypdf.generic.NameObject("/UserUnit")] = pypdf.generic.FloatObject(unit)
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()


def test_sixteen_bits_of_grey_keep_their_tones(tmp_path: Path) -> None:
    ramp = np.linspace(0, 65535, 256, dtype=np.uint16).reshape(16, 16)
    found = greys(read(written(Image.fromarray(ramp), "PNG"), tmp_path))
    assert np.abs(found.ravel() - np.arange(256)).max() <= 1
    assert greys(read(written(Image.new("CMYK", (8, 8), (0, 0, 0, 255)), "JPEG"), tmp_path)).max() < 60
    assert greys(read(written(Image.new("1", (8, 8), 1), "PNG"), tmp_path)).min() == 255


@pytest.mark.parametrize("unit", [None, 10.0])
def test_a_page_is_as_large_as_its_paper(unit: float | None, tmp_path: Path) -> None:
    # A strip of 12 × 8,000 points, and A0 upright; with a unit of ten points, ten times as large.
    for width, height in ((8000, 12), (12, 8000), (2384, 3370)):
        found = read(page(width, height, unit), tmp_path)
        assert found.scale is not None
        longer = max(found.across, found.high) * found.scale
        assert longer == pytest.approx(max(width, height) * 25.4 / 72 * (unit or 1), rel=1e-9)
        shorter = min(found.across, found.high) * found.scale
        assert shorter == pytest.approx(min(width, height) * 25.4 / 72 * (unit or 1), abs=found.scale)


def test_what_stands_before_a_pdf_is_passed_over(tmp_path: Path) -> None:
    plain = page(595, 842)
    for junk in (b"\r\n", b"Content-Type: application/pdf\r\n\r\n", b"\0" * 900):
        found = read(junk + plain, tmp_path)
        assert found.scale is not None
        assert found.high * found.scale == pytest.approx(842 * 25.4 / 72, rel=1e-3)

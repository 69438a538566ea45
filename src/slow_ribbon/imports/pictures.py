"""Pictures to lie under the plan: PNG and JPEG by Pillow, a page of a PDF by PDFium, as PNG of a size that a screen can hold."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pypdf
import pypdfium2
from PIL import Image, ImageOps

from slow_ribbon.core.kernel import Refused
from slow_ribbon.imports.edges import reason
from slow_ribbon.imports.results import PictureRead

#: The longer side of a picture as it is kept for drawing, pixels.
MOST = 4000
#: A picture of more pixels than this is not unfolded at all.
MOST_PIXELS = 400_000_000
#: Of a larger picture no byte of the file stands for more pixels than this: sheets of lines scanned in black and white hold some hundreds.
_SURELY = 16_000_000
_UNFOLDS = 2000
#: Millimetres in a PDF's point.
POINT = 25.4 / 72


def read_picture(path: Path, page: int = 0) -> PictureRead:
    """Return a picture file, scaled down where it is too large. Raises ``Refused`` if it is not one or has no such page."""
    with path.open("rb") as file:
        head = file.read(1024 + 5)
    # What mail programs put before a PDF is passed over, as PDF readers do (ISO 32000-1, annex H.3, note 13 from memory).
    return _pdf(path, page) if b"%PDF-" in head else _raster(path)


def _pdf(path: Path, page: int) -> PictureRead:
    try:
        data = path.read_bytes()
        document = pypdfium2.PdfDocument(data)
        pages = len(document)
        if not 0 <= page < pages:
            raise Refused(f"The PDF has {pages} pages; there is no page {page + 1}.", "page", "unknown-page")
        sheet = document[page]
        width, height = sheet.get_size()
        if not min(width, height) >= 1 or max(width, height) > 20_000:
            raise Refused(f"The page is {width:.0f} × {height:.0f} points large, which no screen can show.", "file", "too-large")
        times = MOST / max(width, height)
        image = sheet.render(scale=min(times, 4.0)).to_pil()
    except pypdfium2.PdfiumError as error:
        raise Refused(f"The PDF is damaged or locked ({reason(error)}).", "file", "damaged") from error
    # By the longer side: the shorter may be a few pixels, of which one is cut off.
    scale = max(width, height) * POINT * _user_unit(data, page) / max(image.width, image.height)
    return PictureRead(
        png=_png(image),
        across=image.width,
        high=image.height,
        scale=scale,
        pages=pages,
        note=f"Page {page + 1} of {pages}, at its own size on paper.",
    )


def _user_unit(data: bytes, page: int) -> float:
    """Return the size of a page's unit in points, which large sheets set to more than one (ISO 32000-1, table 30); PDFium does not say."""
    try:
        unit = float(pypdf.PdfReader(io.BytesIO(data)).pages[page].get("/UserUnit", 1.0))
    except Exception:  # noqa: BLE001 - what PDFium could show is shown, if only at the size nearly all pages have
        return 1.0
    return unit if 1e-3 < unit < 1e6 else 1.0


def _raster(path: Path) -> PictureRead:
    Image.MAX_IMAGE_PIXELS = MOST_PIXELS
    try:
        with Image.open(path, formats=("PNG", "JPEG")) as image:
            size = image.size
            if size[0] * size[1] > MOST_PIXELS:
                raise Refused(
                    f"The picture has {size[0]} × {size[1]} pixels, over the {MOST_PIXELS // 1_000_000} million that can be unfolded: "
                    "save it smaller.",
                    "file",
                    "too-large",
                )
            if size[0] * size[1] > max(_SURELY, _UNFOLDS * path.stat().st_size):
                raise Refused(
                    f"The picture unfolds from {path.stat().st_size / 1000:,.0f} kB to {size[0]} × {size[1]} pixels, as only an empty one "
                    "does: save it smaller.",
                    "file",
                    "too-large",
                )
            dots = image.info.get("dpi")
            image.draft("RGB", (MOST, MOST))
            plain = _plain(ImageOps.exif_transpose(image))
            plain.thumbnail((MOST, MOST))
    except Refused:
        raise
    except Exception as error:  # whatever Pillow meets damage with
        raise Refused(f"This is not a PNG, JPEG or PDF, or it is cut off ({reason(error)}).", "file", "damaged") from error
    note = ""
    if max(size) > MOST:
        note = f"Scaled down from {size[0]} × {size[1]} to {plain.width} × {plain.height} pixels."
    scale = None
    if dots and float(dots[0]) > 1:
        scale = 25.4 / float(dots[0]) * max(size) / max(plain.size)
    return PictureRead(png=_png(plain), across=plain.width, high=plain.height, scale=scale, pages=1, note=note)


def _plain(image: Image.Image) -> Image.Image:
    """Return a picture with 8 bits a channel, in grey or in colour."""
    if image.mode.startswith("I"):
        # Greys of 16 bits: Pillow itself would take all over 255 for white.
        return Image.fromarray((np.asarray(image).clip(0, 65535) // 257).astype(np.uint8))
    if image.mode in ("RGB", "RGBA", "L"):
        return image
    return image.convert("RGB" if image.mode in ("CMYK", "YCbCr", "LAB", "HSV") else "RGBA")


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()

"""Pages of vector sheets, whatever kind of file they are in. Run it in a process with limits."""

from __future__ import annotations

import io
from typing import Any

from PIL import Image

from ..part.errors import Refusal
from ..sheet.page import Page, as_json
from ..sheet.pages import page_png
from ..sheet.proposals import kept
from ..sheet.reading import Reading, read
from ..sheet.render import as_svg
from .drawn_letters import letters_drawn, with_letters
from .sheet_dxf import read_dxf_page
from .sheet_pdf import read_pdf_page
from .sheet_picture import read_picture_page
from .sheet_svg import read_svg_page

DXF, PDF = "image/vnd.dxf", "application/pdf"
PICTURES = ("image/png", "image/jpeg")
PIXEL = 0.75  # points that a pixel of a picture stands for
SCAN = 3500  # pixels of the longer side at which a scanned page is read
FEW = 8  # strokes: a page with fewer and no letters is a scan, perhaps in a frame
MM = 25.4 / 72  # of paper, a point
RASTER = (
    "No letters could be read on this page; its sizes are ballooned by hand. "
    "A PDF, SVG or DXF of the same drawing can be read."
)


def page_of(data: bytes, media_type: str, number: int) -> tuple[Page, float | None]:
    """A page and how many mm of what is drawn a point stands for, where the file itself knows.

    Raises Refusal for a picture, or a file that cannot be read.
    """
    if media_type == "image/svg+xml":
        return read_svg_page(data), None
    if media_type == "application/pdf":
        return read_pdf_page(data, number), None
    if media_type == DXF:
        return read_dxf_page(data)
    raise Refusal(RASTER)


def scale_of(data: bytes, media_type: str, number: int) -> tuple[Page, float | None]:
    """A page and how many mm of the part a point stands for, by the file itself or by the scale the page says."""
    page, mm, _ = _lettered(data, media_type, number)
    return page, mm if mm is not None else _by_scale(read(page))


def _lettered(data: bytes, media_type: str, number: int) -> tuple[Page, float | None, bool]:
    """``page_of`` with letters that are drawn as lines recognised, and whether they were."""
    page, mm = page_of(data, media_type, number)
    if not letters_drawn(page):
        return page, mm, False
    read = with_letters(page)
    return read, mm, read is not page


def _by_scale(reading: Reading) -> float | None:
    """mm of the part that a point stands for, by the scale the page says."""
    return MM / reading.scale if reading.scale else None


def sheet_reading(data: bytes, media_type: str, number: int) -> tuple[dict[str, Any], dict[str, Any]]:
    """What a page says (``proposals.kept``, with ``mm``: of the part, a point, and whether it is ``guessed`` from a
    picture) and the page as plain data."""
    guessed = media_type in PICTURES
    if guessed:
        page, mm = _picture(data), None
    else:
        page, mm, guessed = _lettered(data, media_type, number)
    if media_type == PDF and not page.letterings and len(page.strokes) < FEW:  # a scan
        guessed, page = True, read_picture_page(page_png(data, number, SCAN), page.size)
    if not page.letterings and len(page.strokes) < 2:
        raise Refusal(RASTER)
    reading = read(page)
    scale = mm if mm is not None else _by_scale(reading)
    return {**kept(page, reading), "mm": scale, "guessed": guessed}, as_json(page)


def _picture(data: bytes) -> Page:
    with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
        size = (picture.width * PIXEL, picture.height * PIXEL)
    return read_picture_page(data, size)


def dxf_drawn(data: bytes) -> tuple[str, tuple[float, float], float]:
    """A DXF sheet as SVG, its size in points, and the mm a point of it stands for."""
    page, mm = read_dxf_page(data)
    return as_svg(page), page.size, mm

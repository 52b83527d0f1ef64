"""Sheets that are pictures: what is recognised of the demo's own sheets, drawn as such, and what of anything else."""

from __future__ import annotations

import io
import re
from functools import cache
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from PIL import Image

from sulvak_core.exchange import sheet_picture
from sulvak_core.exchange.sheet_files import sheet_reading
from sulvak_core.exchange.sheet_picture import read_picture_page, spelled
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.reading import read
from tests.examples import THOROUGH
from tests.sheets import as_pdf

DEMO = Path(__file__).parents[2] / "demo"


@cache
def picture(part: str, dpi: int) -> bytes:
    """A demo sheet as a PNG of so many dots an inch."""
    page = pypdfium2.PdfDocument(as_pdf(read_svg_page((DEMO / f"{part}.svg").read_bytes())))[0]
    out = io.BytesIO()
    page.render(scale=dpi / 72).to_pil().convert("L").save(out, "PNG")
    return out.getvalue()


def recognised(part: str, dpi: int) -> tuple[int, int]:
    """How many of a sheet's sizes are read as what they are, of how many."""
    wanted = [s.text for s in read(read_svg_page((DEMO / f"{part}.svg").read_bytes())).sizes]
    said, _ = sheet_reading(picture(part, dpi), "image/png", 0)
    assert said["guessed"]
    there = [parse(s["text"], "mm") for s in said["sizes"]]
    hit = 0
    for text in wanted:
        means = parse(text, "mm")
        if means in there:
            there.remove(means)
            hit += 1
    return hit, len(wanted)


FINE = [("ballast-bar", 300, 7)] if THOROUGH else []  # four times the dots to look at


@pytest.mark.parametrize(("part", "dpi", "least"), [("camera-cradle", 150, 12), *FINE])
def test_most_sizes_of_a_clean_picture_are_read(part: str, dpi: int, least: int) -> None:
    hit, of = recognised(part, dpi)
    assert hit >= least
    assert hit <= of


def test_each_stands_where_it_stands_on_the_sheet() -> None:
    said, _ = sheet_reading(picture("camera-cradle", 150), "image/png", 0)
    page = read_svg_page((DEMO / "camera-cradle.svg").read_bytes())
    w, h = page.size
    for text, turned in (("R15", False), ("60", False), ("45", True)):
        [mine] = [s for s in said["sizes"] if s["text"] == text]
        [true] = [s for s in read(page).sizes if s.text == text]
        left, top, right, bottom = mine["box"]
        x, y = (true.box[0] + true.box[2]) / 2 / w, (true.box[1] + true.box[3]) / 2 / h
        assert abs((left + right) / 2 - x) < 0.01
        assert abs((top + bottom) / 2 - y) < 0.01
        assert (abs(mine["turn"]) == 90) is turned


def test_a_scanned_page_of_a_pdf_is_read_as_the_picture_it_is() -> None:
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas

    whole = Image.open(io.BytesIO(picture("camera-cradle", 150)))
    wide, high = whole.width // 2, whole.height // 2
    scan, out = io.BytesIO(), io.BytesIO()
    whole.crop((0, 0, wide, high)).save(scan, "PNG")
    canvas = Canvas(out, pagesize=(421, 421 * high / wide))
    canvas.drawImage(ImageReader(scan), 0, 0, 421, 421 * high / wide)
    canvas.save()
    said, _ = sheet_reading(out.getvalue(), "application/pdf", 0)
    assert said["guessed"]
    assert {"45", "60"} <= {s["text"] for s in said["sizes"]}


def test_a_picture_without_letters_is_refused_with_a_way_out() -> None:
    for shade in (255, 0, 128):
        out = io.BytesIO()
        Image.fromarray(np.full((300, 400), shade, np.uint8)).save(out, "PNG")
        with pytest.raises(Refusal, match="ballooned by hand"):
            sheet_reading(out.getvalue(), "image/png", 0)


def test_noise_takes_no_harm() -> None:
    noise = np.random.default_rng(3).integers(0, 256, (300, 300)).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(noise).save(out, "PNG")
    page = read_picture_page(out.getvalue(), (300.0, 300.0))
    assert page.strokes == []


def test_without_the_recogniser_it_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sheet_picture.shutil, "which", lambda name: None)
    with pytest.raises(Refusal, match=re.escape("not installed here; balloon its sizes by hand")):
        read_picture_page(picture("camera-cradle", 150), (842.0, 595.0))


@pytest.mark.parametrize(
    ("read_as", "meant"),
    [
        ("@16 THRU", "Ø16 THRU"),
        ("2X 08 THRU", "2X Ø8 THRU"),
        ("O22", "Ø22"),
        ("40o", "40°"),
        ("0.5", "0.5"),
        ("10", "10"),
        ("  R15 |", "R15"),
        ("100", "100"),
    ],
)
def test_signs_that_are_taken_for_others(read_as: str, meant: str) -> None:
    assert spelled(read_as) == meant

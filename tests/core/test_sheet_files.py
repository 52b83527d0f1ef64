"""The same sheet out of each kind of vector file: PDF and DXF give the strokes and sizes the SVG has."""

from __future__ import annotations

import dataclasses
import io
from pathlib import Path
from typing import Any

import ezdxf
import pytest

from sulvak_core.exchange.sheet_dxf import read_dxf_page
from sulvak_core.exchange.sheet_pdf import read_pdf_page
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.page import Page, Stroke
from sulvak_core.sheet.reading import read
from tests.sheets import POINT, as_dxf, as_pdf

DEMO = Path(__file__).resolve().parents[2] / "demo"
SHEETS = sorted(p.stem for p in DEMO.glob("*.svg"))


def drawn(name: str) -> Page:
    """A demo sheet; signs that a PDF's own letters lack are written out."""
    page = read_svg_page((DEMO / f"{name}.svg").read_bytes())
    spelled = [dataclasses.replace(t, text=t.text.replace("↧", "DEEP").replace("⌴", "CBORE")) for t in page.letterings]
    return Page(page.size, page.strokes, spelled)


def sizes(page: Page) -> list[str]:
    return sorted(s.requirement.model_dump_json() for s in read(page).sizes)


def places(page: Page, shift: tuple[float, float] = (0.0, 0.0)) -> list[tuple[Any, ...]]:
    """Kinds, boxes to a hundredth of a point, widths and dashes, in an order of their own."""

    def rounded(s: Stroke) -> tuple[Any, ...]:
        box = s.box()
        return (s.kind, *(round(v + shift[i % 2], 1) for i, v in enumerate(box)), bool(s.dash), s.filled)

    return sorted(map(rounded, page.strokes))


def near(one: list[tuple[Any, ...]], two: list[tuple[Any, ...]]) -> None:
    assert len(one) == len(two)
    for a, b in zip(one, two, strict=True):
        assert a[0] == b[0] and a[5:] == b[5:]
        assert a[1:5] == pytest.approx(b[1:5], abs=0.21)


@pytest.mark.parametrize("name", SHEETS)
def test_a_pdf_gives_what_the_svg_gives(name: str) -> None:
    page = drawn(name)
    found = read_pdf_page(as_pdf(page), 0)
    assert found.size == pytest.approx(page.size, abs=1e-3)
    assert sizes(found) == sizes(page)
    outline = [dataclasses.replace(s, filled=False) for s in page.strokes if s.kind == "line"]
    near(places(Page(page.size, outline)), places(Page(page.size, [s for s in found.strokes if s.kind == "line"])))
    length = sum(s.length() for s in page.strokes)
    assert sum(s.length() for s in found.strokes) == pytest.approx(length, rel=1e-4)
    assert {s.kind for s in found.strokes} == {s.kind for s in page.strokes}


@pytest.mark.parametrize("turned", [90, 180, 270])
def test_a_turned_page_is_read_as_it_is_seen(turned: int) -> None:
    page = drawn("cross-plate")
    found = read_pdf_page(as_pdf(page, turned), 0)
    w, h = page.size
    assert found.size == pytest.approx((w, h) if turned == 180 else (h, w), abs=1e-3)
    # /Rotate turns the page clockwise
    wanted = {90: lambda x, y: (h - y, x), 180: lambda x, y: (w - x, h - y), 270: lambda x, y: (y, w - x)}[turned]
    at = {t.text: t for t in found.letterings}
    for t in page.letterings:
        if [o.text for o in page.letterings].count(t.text) == 1:
            assert at[t.text].at == pytest.approx(wanted(*t.at), abs=0.5)
            assert (at[t.text].turn - t.turn - turned) % 360 == pytest.approx(0, abs=0.1)
    assert sizes(found) == sizes(page)


@pytest.mark.parametrize("name", SHEETS)
def test_a_dxf_gives_what_the_svg_gives(name: str) -> None:
    page = drawn(name)
    found, mm = read_dxf_page(as_dxf(page))
    assert mm == pytest.approx(1 / POINT)
    assert sizes(found) == sizes(page)
    whole = [dataclasses.replace(s, filled=False) for s in page.strokes]
    one, two = min(s.box()[0] for s in whole), min(s.box()[1] for s in whole)
    a, b = min(s.box()[0] for s in found.strokes), min(s.box()[1] for s in found.strokes)
    near(places(Page(page.size, whole), (a - one, b - two)), places(found))
    widths = {round(s.width / POINT, 1) for s in found.strokes}
    assert widths <= {round(s.width / POINT, 1) for s in whole} | {0.1, 0.2, 0.3}


def dxf(draw: Any, **header: Any) -> bytes:
    file = ezdxf.new("R2010", setup=True)  # type: ignore[attr-defined]
    file.header["$INSUNITS"] = 4
    for name, value in header.items():
        file.header[f"${name}"] = value
    draw(file)
    out = io.StringIO()
    file.write(out)
    return out.getvalue().encode()


def test_a_dimension_gives_its_text_and_its_ends() -> None:
    def draw(file: Any) -> None:
        space = file.modelspace()
        space.add_line((0, 0), (80, 0))
        mm = {"dimlfac": 1, "dimtxt": 3, "dimdec": 1}
        space.add_linear_dim(base=(0, 20), p1=(0, 0), p2=(80, 0), text="<> ±0.1", override=mm).render()
        space.add_diameter_dim(center=(40, -40), radius=6, angle=30, text="3X <> THRU", override=mm).render()
        space.add_radius_dim(center=(0, -40), radius=9, angle=120, override=mm).render()

    page, _ = read_dxf_page(dxf(draw))
    assert sorted(s.text for s in read(page).sizes) == ["3X Ø12 THRU", "80 ±0.1", "R9"]
    given = {g.text: g for g in page.given}
    (ax, ay), (bx, by) = given["80 ±0.1"].ends
    assert (abs(bx - ax), abs(by - ay)) == (pytest.approx(80 * POINT), pytest.approx(0, abs=1e-6))
    line = next(s for s in page.strokes if s.kind == "line" and abs(s.length() - 80 * POINT) < 1e-6)
    for found, drawn_to in zip(sorted([(ax, ay), (bx, by)]), sorted(line.points), strict=True):
        assert found == pytest.approx(drawn_to, abs=1e-6)


def test_a_size_keeps_the_ends_of_its_dimension_and_its_way() -> None:
    """Texts that all lie flat tell no way; the dimensions do."""

    def draw(file: Any) -> None:
        space = file.modelspace()
        mm = {"dimlfac": 1, "dimtxt": 3, "dimtih": 1, "dimtoh": 1}
        space.add_linear_dim(base=(0, 20), p1=(0, 0), p2=(80, 10), text="80", override=mm).render()
        space.add_linear_dim(base=(-20, 0), p1=(0, 0), p2=(10, 60), text="60", angle=90, override=mm).render()
        space.add_aligned_dim(p1=(100, 0), p2=(130, 40), distance=8, text="50", override=mm).render()
        space.add_diameter_dim(center=(40, -40), radius=6, angle=30, text="Ø12", override=mm).render()
        space.add_text("44", height=3).set_placement((0, -80))

    page, _ = read_dxf_page(dxf(draw))
    found = {s.text: s for s in read(page).sizes}
    ways = {t: None if s.way is None else round(s.way, 3) for t, s in found.items()}
    # up the paper at 53.13° is 126.87° clockwise
    assert ways == {"80": 0.0, "60": 90.0, "50": 126.87, "Ø12": 150.0, "44": None}
    (ax, ay), (bx, by) = found["60"].ends
    assert (abs(bx - ax), abs(by - ay)) == (pytest.approx(10 * POINT), pytest.approx(60 * POINT))
    assert found["44"].ends == ()


def test_texts_of_several_lines_and_stacked_limits() -> None:
    def draw(file: Any) -> None:
        space = file.modelspace()
        space.add_lwpolyline([(-50, -50), (150, -50), (150, 100), (-50, 100)], close=True)
        space.add_mtext(
            "2X %%c5.5 THRU\\P{\\Fgdt.shx;v}\\U+230010 {\\Fgdt.shx;x}5", {"char_height": 3, "insert": (0, 50)}
        )
        space.add_mtext("48\\S+0.1^-0.05;", {"char_height": 3, "insert": (80, 50)})
        space.add_text("R6", height=3, rotation=90).set_placement((100, 10))

    page, _ = read_dxf_page(dxf(draw))
    found = {s.text: s for s in read(page).sizes}
    assert found["48 +0.1/-0.05"].requirement.lower == -0.05
    assert found["R6"].turn == pytest.approx(-90)
    (hole,) = [s.requirement for s in found.values() if s.requirement.kind == "diameter"]
    assert (hole.count, hole.bore, hole.bore_depth) == (2, 10, 5)


def test_blocks_layers_and_units() -> None:
    def draw(file: Any) -> None:
        block = file.blocks.new("tab")
        block.add_line((0, 0), (1, 0))
        block.add_attdef("NAME", (0, 0))
        file.layers.add("off").off()
        file.layers.add("centre", linetype="CENTER", lineweight=18)
        space = file.modelspace()
        space.add_blockref("tab", (0, 0), {"xscale": 4, "yscale": 4, "layer": "centre"})
        space.add_line((0, 0), (9, 9), {"layer": "off"})

    page, mm = read_dxf_page(dxf(draw, INSUNITS=1))
    (line,) = page.strokes
    assert line.length() * mm == pytest.approx(4 * 25.4)
    assert (line.layer, bool(line.dash), round(line.width / POINT, 2)) == ("centre", True, 0.18)


def test_a_paper_with_a_window_on_the_model() -> None:
    def draw(file: Any) -> None:
        file.modelspace().add_circle((1000, 1000), 40)
        file.modelspace().add_line((5000, 0), (5100, 0))
        paper = file.layout("Layout1")
        for y in range(12):
            paper.add_line((0, 10 * y), (200, 10 * y))
        paper.add_viewport(center=(100, 60), size=(80, 80), view_center_point=(1000, 1000), view_height=160)

    page, _ = read_dxf_page(dxf(draw))
    (circle,) = [s for s in page.strokes if s.kind == "circle"]
    assert circle.radius == pytest.approx(20 * POINT)
    assert len(page.strokes) == 13


@pytest.mark.parametrize("data", [b"", b"AC1027", b"%PDF-1.4", b"0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n"])
def test_what_is_no_dxf_sheet_is_refused(data: bytes) -> None:
    with pytest.raises(Refusal):
        read_dxf_page(data)


@pytest.mark.parametrize("data", [b"", b"%PDF-1.4 and no more", b"\x00" * 100])
def test_what_is_no_pdf_is_refused(data: bytes) -> None:
    with pytest.raises(Refusal):
        read_pdf_page(data, 0)


def test_a_page_that_is_not_there_is_refused() -> None:
    with pytest.raises(Refusal, match="no such page"):
        read_pdf_page(as_pdf(drawn("pan-hub")), 1)

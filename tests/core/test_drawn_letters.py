"""Sheets whose letters are drawing only: shapes filled, no texts."""

from __future__ import annotations

from pathlib import Path

import pytest

from sulvak_core.exchange import sheet_picture
from sulvak_core.exchange.drawn_letters import letters_drawn, with_letters
from sulvak_core.exchange.sheet_files import scale_of, sheet_reading
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.inspect.sheet_lines import compare_lines
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.page import Page, Stroke
from sulvak_core.sheet.reading import read
from tests.sheets import with_outlined_letters

from .test_sheet_lines import DEMO, made, whole

SVG = "image/svg+xml"


@pytest.fixture(scope="module")
def outlined() -> bytes:
    return with_outlined_letters(read_svg_page((DEMO / "line-cleat.svg").read_bytes()))


def test_sizes_are_recognised_and_their_strokes_are_no_lines(outlined: bytes) -> None:
    assert not read_svg_page(outlined).letterings
    said, page = sheet_reading(outlined, SVG, 0)
    assert said["guessed"]
    there = [parse(s["text"], "mm") for s in said["sizes"]]
    wanted = [parse(s.text, "mm") for s in read(read_svg_page((DEMO / "line-cleat.svg").read_bytes())).sizes]
    assert sum(w in there for w in wanted) >= 9, said["sizes"]  # of 11: each is a guess
    assert len(page["strokes"]) < len(read_svg_page(outlined).strokes) / 5


def test_all_outlines_are_held_against_the_part(outlined: bytes) -> None:
    document = whole("line-cleat")
    page, mm = scale_of(outlined, SVG, 0)
    assert mm == pytest.approx(25.4 / 72)  # the scale of the title block is recognised too
    found = compare_lines(page, [b.shape for b in made(document).state.bodies], mm, 0.1, document.projection == "third")
    assert [v.side for v in found.views] == ["front", "right"]
    assert found.share == 1.0


def test_a_page_with_texts_or_without_letters_is_left_as_it_is() -> None:
    assert not letters_drawn(read_svg_page((DEMO / "line-cleat.svg").read_bytes()))
    bare = Page((800, 600), [Stroke("line", ((10, 10 + i), (700, 10 + i))) for i in range(200)])
    assert not letters_drawn(bare)


def test_where_nothing_can_be_recognised_here_the_lines_stay(outlined: bytes, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sheet_picture, "can_read", lambda: False)
    page = read_svg_page(outlined)
    assert with_letters(page) is page
    said, _ = sheet_reading(outlined, SVG, 0)
    assert not said["guessed"]
    assert said["sizes"] == []


def test_single_signs_are_read_level_and_upwards(tmp_path: Path) -> None:
    from PIL import Image, ImageDraw, ImageFont

    from sulvak_core import drawing

    font = ImageFont.truetype(str(Path(drawing.__file__).parent / "fonts" / "plex-mono-latin-400.ttf"), 44)
    picture = Image.new("L", (900, 500), 255)
    pen = ImageDraw.Draw(picture)
    for i, text in enumerate(("8", "24", "R6", "110", "4")):
        pen.text((80 + 160 * i, 80), text, font=font, fill=0)
    upright = Image.new("L", (60, 60), 255)
    ImageDraw.Draw(upright).text((16, 0), "5", font=font, fill=0)
    picture.paste(upright.rotate(90), (200, 300))
    file = tmp_path / "signs.png"
    picture.save(file)
    found = {t.text: t.turn for t in sheet_picture.read_picture_page(file.read_bytes(), (900, 500)).letterings}
    assert found == {"8": 0.0, "24": 0.0, "R6": 0.0, "110": 0.0, "4": 0.0, "5": -90.0}


def test_a_page_full_of_short_strokes_is_given_up_in_time(monkeypatch: pytest.MonkeyPatch) -> None:
    """Thousands of marks are no letters; the page stays what it is."""
    marks = [
        Stroke("line", ((x, y), (x + dx, y + 6)), width=1.0)
        for x in range(20, 1180, 8)
        for y in range(20, 780, 16)
        for dx in (0.0, 3.0)
    ]
    page = Page((1200, 800), [*marks, Stroke("line", ((1e12, 5.0), (1e12, 9.0)))])
    assert letters_drawn(page)
    monkeypatch.setattr(sheet_picture, "SECONDS", 0.0)
    monkeypatch.setattr(sheet_picture, "_words", lambda _: [])
    assert with_letters(page) is page

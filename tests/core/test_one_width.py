"""Sheets drawn in one width: lines of dimensions are told by their arrowheads, and the views are the same."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from sulvak_core.exchange.sheet_dxf import read_dxf_page
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.sheet.dimension_lines import Head, beside, heads, one_width
from sulvak_core.sheet.page import Lettering, Page, Stroke
from sulvak_core.sheet.views import views
from tests.sheets import as_dxf

DEMO = Path(__file__).parents[2] / "demo"
PARTS = sorted(p.stem for p in DEMO.glob("*.svg"))


def line(*points: tuple[float, float], **more: object) -> Stroke:
    return Stroke("line", points, width=1.0, **more)  # type: ignore[arg-type]


def thin(page: Page) -> Page:
    return replace(page, strokes=[replace(s, width=1.0) for s in page.strokes])


@pytest.mark.parametrize("part", PARTS)
def test_the_demos_sheets_have_the_same_views_in_one_width(part: str) -> None:
    page = read_svg_page((DEMO / f"{part}.svg").read_bytes())
    for wide, one in zip(views(page), views(thin(page)), strict=True):
        assert one.box == pytest.approx(wide.box)
        assert {s.points for s in one.seen} == {s.points for s in wide.seen}
        assert len(one.hidden) == len(wide.hidden)


def test_a_dxf_in_one_width_too() -> None:
    page, _ = read_dxf_page(as_dxf(thin(read_svg_page((DEMO / "tilt-arm.svg").read_bytes()))))
    assert one_width(page.strokes)
    boxes = [v.box for v in views(page)]
    assert [(round(b[2] - b[0]), round(b[3] - b[1])) for b in boxes] == [(329, 91), (329, 40)]


def test_widths_that_differ_are_believed() -> None:
    page = read_svg_page((DEMO / "tilt-arm.svg").read_bytes())
    assert not one_width(page.strokes)


SIDES = [((10, 0), (0, 1.5)), ((0, 1.5), (0, -1.5)), ((0, -1.5), (10, 0))]
HEAD = [line(*ends, filled=True) for ends in SIDES]


def test_an_arrowhead_points_from_its_short_side() -> None:
    [head] = heads(HEAD)
    assert head == Head((10, 0), (1, 0))
    assert heads([line((0, 0), (30, 0), filled=True), line((30, 0), (15, 26), filled=True)]) == []
    square = [(0, 0), (4, 0), (4, 4), (0, 4)]
    assert heads([line(square[k], square[(k + 1) % 4], filled=True) for k in range(4)]) == []
    one_path = Stroke("curve", ((10, 0), (0, 1.5), (0, -1.5), (10, 0)), width=1.0, filled=True)
    assert heads([one_path]) == [Head((10, 0), (1, 0))]
    assert heads([line(*ends) for ends in SIDES]) == [Head((10, 0), (1, 0))]  # only outlined
    assert heads([line(*SIDES[0]), line(*SIDES[2])]) == [Head((10, 0), (1, 0))]  # two barbs
    assert heads([line((10, 0), (0, 8)), line((10, 0), (0, -8))]) == []  # a corner


def test_what_the_arrow_lies_on_its_shelf_and_what_it_ends_at() -> None:
    strokes = [
        *HEAD,
        line((10, 0), (-60, 0)),  # 3: the dimension line
        line((10, 6), (10, -40)),  # 4: the extension line
        line((10, -41), (80, -41)),  # 5: outline, 1 point away from it
        line((-60, 0), (-80, 0)),  # 6: a shelf, under a text
        line((10, 50), (10, 90)),  # 7: a line far beyond
    ]
    page = Page((200, 200), strokes, [Lettering("30", (-70, -2), 8, 0, 10)])
    assert beside(page, strokes) == {3, 4, 6}


def test_an_outline_that_an_arrow_ends_at_stays_one() -> None:
    """The arrow goes straight to a corner of the part: its edges are joined to others."""
    box = [(10, 5), (60, 5), (60, -40), (10, -40)]
    strokes = [*HEAD, line((10, 0), (-60, 0)), *(line(box[k], box[(k + 1) % 4]) for k in range(4))]
    assert beside(Page((200, 200), strokes), strokes) == {3}


def test_without_arrowheads_nothing_is_taken_for_a_dimension() -> None:
    strokes = [line((0, 0), (50, 0)), line((50, 0), (50, 50))]
    assert beside(Page((200, 200), strokes), strokes) == set()

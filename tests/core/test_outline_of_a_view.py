"""Which lines of a view come into a sketch, and which only where they are asked for."""

from __future__ import annotations

from collections import Counter

import pytest
from demo.drawing import Sheet

from sulvak_core.exchange.sheet_outline import outline_of
from sulvak_core.exchange.sheet_svg import read_svg_page

MM = 25.4 / 72


def drawn() -> Sheet:
    """A plate 60 × 40 at (60, 60): a hole, two hidden lines, a centre line through, a thin size inside."""
    sheet = Sheet("Test plate", "T 1", "6061", "1:1", [])
    sheet.rect(60, 60, 60, 40)
    sheet.circle((75, 80), 6)
    for x in (100, 110):
        sheet.line((x, 60), (x, 100), "hidden")
    sheet.line((56, 80), (124, 80), "centre")
    sheet.line((82, 90), (98, 90), "thin")
    sheet.line((122, 60), (130, 60), "thin")  # beside the view
    return sheet


@pytest.mark.parametrize(
    ("along", "more"),
    [
        ({}, {"centre lines": 1}),
        ({"centres": False}, {}),
        ({"hidden": True}, {"centre lines": 1, "hidden lines": 2}),
        ({"others": True}, {"centre lines": 1, "other lines": 1}),
        ({"centres": False, "hidden": True, "others": True}, {"hidden lines": 2, "other lines": 1}),
    ],
)
@pytest.mark.parametrize("window", [None, (0.1, 0.1, 0.7, 0.7)])
def test_what_comes_along_is_chosen(
    along: dict[str, bool], more: dict[str, int], window: tuple[float, float, float, float] | None
) -> None:
    page = read_svg_page(drawn().svg().encode())
    found = outline_of(page, 0, MM, window=window, **along)  # type: ignore[arg-type]
    assert Counter(s.layer for s in found.shapes) == {"outline": 5, **more}
    assert {s.layer for s in found.shapes if s.dashed} == {"centre lines"} & set(more)

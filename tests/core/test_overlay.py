"""Views placed by hand on a sheet of any kind: two corners pressed, the part's outline laid over."""

from __future__ import annotations

import pytest

from sulvak_core.inspect.overlay import overlaid, place_by_corners
from sulvak_core.inspect.sheet_lines import SheetLines
from sulvak_core.part.errors import Refusal
from sulvak_core.solid.shapes import Shape

from .parts import plate

POINTS = (842.0, 595.0)


def shapes(w: float = 40, h: float = 30, t: str = "10") -> list[Shape]:
    return [b.shape for b in plate(w, h, t).build().state.bodies]


def corners(x: float, y: float, w: float, h: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """A box of points as shares of the page."""
    return (x / POINTS[0], y / POINTS[1]), ((x + w) / POINTS[0], (y + h) / POINTS[1])


def box_of(found: SheetLines, k: int = 0) -> list[float]:
    return [v * POINTS[i % 2] for i, v in enumerate(found.views[k].box)]


@pytest.mark.parametrize(
    ("w", "h", "side", "turn"),
    [(160, 120, "top", 0), (160, 40, "front", 0), (120, 40, "right", 0), (120, 160, "top", 90), (40, 160, "front", 90)],
)
def test_the_side_is_the_one_in_proportion_and_the_outline_lies_on_it(w: float, h: float, side: str, turn: int) -> None:
    made = place_by_corners(shapes(), POINTS, corners(100, 80, w, h))
    assert (made.side, made.turn, made.scale) == (side, turn, pytest.approx(0.25))
    assert box_of(overlaid(shapes(), POINTS, [made])) == pytest.approx([100, 80, 100 + w, 80 + h], abs=1e-3)


def test_corners_may_be_pressed_in_any_order_and_a_little_off() -> None:
    a, b = corners(100, 80, 161, 119.5)
    made = place_by_corners(shapes(), POINTS, ((b[0], a[1]), (a[0], b[1])))
    assert made.side == "top"
    assert box_of(overlaid(shapes(), POINTS, [made])) == pytest.approx([100, 80, 261, 199.5], abs=1.5)


def test_a_known_scale_and_what_is_taken_tell_sides_apart() -> None:
    """A cube looks the same from everywhere: the next view takes the next side. Of two sides in one proportion the one
    at the page's scale is meant."""
    cube = shapes(20, 20, "20")
    first = place_by_corners(cube, POINTS, corners(0, 0, 80, 80))
    second = place_by_corners(cube, POINTS, corners(200, 0, 80, 80), taken=[first.side])
    assert (first.side, second.side) == ("front", "top")
    tall = shapes(40, 20, "10")  # 40 × 20 from above, 20 × 10 from the right
    assert place_by_corners(tall, POINTS, corners(0, 0, 80, 40), mm=0.5).side == "top"
    assert place_by_corners(tall, POINTS, corners(0, 0, 80, 40), mm=0.25).side == "right"


def test_a_side_that_is_said_is_taken_whatever_the_box() -> None:
    made = place_by_corners(shapes(), POINTS, corners(100, 80, 160, 120), side="under")
    assert made.side == "under"


@pytest.mark.parametrize(
    ("box", "said"), [((10, 10, 300, 31), "From no side"), ((10, 10, 0.2, 50), "they lie apart both ways")]
)
def test_what_fits_from_no_side_is_refused_with_a_way_out(box: tuple[float, ...], said: str) -> None:
    with pytest.raises(Refusal, match=said):
        place_by_corners(shapes(), POINTS, corners(*box))  # type: ignore[arg-type]


def test_without_a_solid_nothing_is_laid_over() -> None:
    with pytest.raises(Refusal, match="no solid yet"):
        place_by_corners([], POINTS, corners(0, 0, 50, 50))


def test_nothing_of_a_picture_is_counted_as_explained() -> None:
    made = place_by_corners(shapes(), POINTS, corners(100, 80, 160, 120))
    [view] = overlaid(shapes(), POINTS, [made]).views
    assert view.by_hand
    assert view.drawn == {"seen": 0.0, "hidden": 0.0}
    assert sum(p.length for p in view.model if p.kind == "seen") == pytest.approx(2 * (40 + 30))

"""Hidden-line removal: what a view of a part shows in full lines and what dashed, by lengths worked out by hand."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest

from sulvak_core.solid.outline import Line, lines

from .parts import Made, disc, plate
from .sketches import rectangle

FRONT, TOP = ((0.0, -1.0, 0.0), (1.0, 0.0, 0.0)), ((0.0, 0.0, 1.0), (1.0, 0.0, 0.0))


def length(runs: list[Line]) -> float:
    return sum(math.dist(p, q) for run in runs for p, q in pairwise(run))


def plumb(runs: list[Line], *at: float) -> list[Line]:
    """Those that stand upright at one of these places."""
    return [run for run in runs if any(all(abs(x - a) < 1e-6 for x, _ in run) for a in at)]


def spots(runs: list[Line]) -> set[tuple[float, float]]:
    return {(round(x, 3), round(y, 3)) for run in runs for x, y in run}


def drilled() -> Made:
    """A plate 60 × 40 × 10 on the top plane with a hole of ⌀6 through it at (20, 10)."""
    made = plate(60, 40)
    made.sketch("s8", "top", disc((20, 10), 3))
    made.extrude("s9", "s8", depth=None, operation="cut")
    return made


def test_a_hole_is_dashed_where_the_plate_hides_it() -> None:
    shapes = [b.shape for b in drilled().build().state.bodies]
    drawn = lines(shapes, *FRONT)
    assert length(drawn.seen) == pytest.approx(2 * (60 + 10))
    # besides edges that lie behind seen ones: the two sides of the hole, plumb
    assert length(plumb(drawn.hidden, 17, 23)) == pytest.approx(2 * 10)


def test_from_above_a_hole_is_a_circle_in_full_line() -> None:
    shapes = [b.shape for b in drilled().build().state.bodies]
    drawn = lines(shapes, *TOP)
    assert length(drawn.seen) == pytest.approx(2 * (60 + 40) + 2 * math.pi * 3, rel=2e-3)
    round_hole = [p for p in spots(drawn.seen) if 1 < p[0] < 59 and 1 < p[1] < 39]
    assert len(round_hole) > 40
    assert all(math.dist(p, (20, 10)) == pytest.approx(3, abs=1e-3) for p in round_hole)


def test_a_pin_behind_a_wall_is_dashed_as_far_as_the_wall_stands() -> None:
    made = plate(60, 40)
    made.sketch("s8", "top", rectangle(w=60, h=4))
    made.extrude("s9", "s8", depth="22")  # a wall along the front, 12 above the plate
    made.sketch("s10", "top", disc((30, 20), 5))
    made.extrude("s11", "s10", depth="30")
    drawn = lines([b.shape for b in made.build().state.bodies], *FRONT)
    assert length(plumb(drawn.seen, 25, 35)) == pytest.approx(2 * 8)
    assert length(plumb(drawn.hidden, 25, 35)) == pytest.approx(2 * 12)


def test_nothing_shown_has_no_lines() -> None:
    drawn = lines([], *FRONT)
    assert (drawn.seen, drawn.smooth, drawn.hidden) == ([], [], [])

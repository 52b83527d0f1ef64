"""Where lines, arcs and circles meet, places along them, pieces of them; and what constraints tell of directions."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.sketch.curves import Curve, box, meet, parameter, pieces
from sulvak_core.sketch.directions import bearings
from sulvak_core.sketch.model import Circle, Line, Sketch
from tests.examples import examples

from .sketches import arc, circle, line, ties

TIGHT = 1e-9
H = line(1, (-10, 0), (10, 0))
V = line(2, (3, -5), (3, 5))
C = circle(1, (0, 0), 5)

MEETINGS: list[tuple[Curve, Curve, list[tuple[float, float]]]] = [
    (H, V, [(3, 0)]),
    (H, line(2, (3, 1), (3, 5)), []),  # ends before it gets there
    (H, line(2, (3, 0), (3, 5)), [(3, 0)]),  # an end on it
    (H, line(2, (-10, 2), (10, 2)), []),  # parallel
    (H, C, [(-5, 0), (5, 0)]),
    (H, circle(1, (0, 5), 5), [(0, 0)]),  # touching
    (H, circle(1, (0, 6), 5), []),
    (H, circle(1, (12, 0), 3), [(9, 0)]),  # the second crossing lies beyond the end
    (C, circle(2, (6, 0), 5), [(3, -4), (3, 4)]),
    (C, circle(2, (10, 0), 5), [(5, 0)]),  # touching outside
    (C, circle(2, (3, 0), 2), [(5, 0)]),  # touching inside
    (C, circle(2, (0, 0), 4), []),  # about one centre
    (C, circle(2, (20, 0), 4), []),
    (V, arc(1, (0, 0), 5, 0, 90), [(3, 4)]),  # the other crossing is not on the arc
    (V, arc(1, (0, 0), 5, 90, 270), []),
    (arc(1, (0, 0), 5, 0, 180), arc(2, (6, 0), 5, 90, 180), [(3, 4)]),
]


@pytest.mark.parametrize(("a", "b", "wanted"), MEETINGS)
def test_where_two_curves_meet(a: Curve, b: Curve, wanted: list[tuple[float, float]]) -> None:
    for one, other in ((a, b), (b, a)):
        found = sorted({(round(x, 6) + 0.0, round(y, 6) + 0.0) for x, y in meet(one, other, TIGHT)})
        assert found == sorted((float(x), float(y)) for x, y in wanted)


@given(st.floats(0, 2 * math.pi), st.floats(0.1, 6.2), st.floats(0.001, 0.999), st.floats(0.01, 1e4))
@settings(max_examples=examples(60), deadline=None)
def test_a_place_on_an_arc_is_found_again(start: float, sweep: float, share: float, radius: float) -> None:
    curve = arc(1, (3, -2), radius, math.degrees(start), math.degrees(start + sweep))
    angle = start + share * sweep
    at = (3 + radius * math.cos(angle), -2 + radius * math.sin(angle))
    assert parameter(curve, at, 1e-7 * radius) == pytest.approx(share, abs=1e-6)
    beside = (3 + 1.01 * radius * math.cos(angle), -2 + 1.01 * radius * math.sin(angle))
    assert parameter(curve, beside, 1e-7 * radius) is None


@pytest.mark.parametrize("curve", [H, C, arc(1, (2, 3), 4, 30, 300)], ids=["line", "circle", "arc"])
def test_pieces_follow_on_one_another_and_lose_nothing(curve: Curve) -> None:
    marks = [0.1, 0.25, 0.25 + 1e-13, 0.8]
    found = pieces(curve, marks, TIGHT)
    assert len(found) == (3 if isinstance(curve, Circle) else 4)
    for one, other in pairwise(found):
        assert one.end == pytest.approx(other.start)
    whole = curve.r * sum(p.sweep for p in found) if not isinstance(curve, Line) else 0.0
    lengths = {"line": 20.0, "circle": 2 * math.pi * 5, "arc": 4 * math.radians(270)}
    told = sum(math.dist(p.start, p.end) for p in found) if isinstance(curve, Line) else whole
    assert told == pytest.approx(lengths[curve.kind])
    lo_x, lo_y, hi_x, hi_y = box(curve, 0.5)
    for p in found:
        assert lo_x <= p.middle()[0] <= hi_x
        assert lo_y <= p.middle()[1] <= hi_y


def test_bearings_follow_from_constraints_alone() -> None:
    lines = [line(n, (0, n), (10 + n, 2 * n + 1)) for n in range(1, 8)]
    sketch = Sketch(
        entities=lines,
        constraints=ties(
            "horizontal l1", "perpendicular l1 l2", "parallel l3 l2", "parallel l4 l5", "collinear l5 l6", "equal l6 l7"
        ),
    )
    told = bearings(sketch)
    assert [told[f"l{n}"] for n in (1, 2, 3)] == [("x", 0), ("x", 1), ("x", 1)]
    assert told["y"] == ("x", 1)
    assert told["l4"] == told["l5"] == told["l6"]
    assert told["l4"][0] != "x"
    assert told["l7"] == ("l7", 0)
    # joined to the axes late, all that hung together comes along
    sketch.constraints += ties("vertical l6")
    assert bearings(sketch)["l4"] == ("x", 1)

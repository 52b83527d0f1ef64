"""Lines that touch circles with their ends on them, and the outline they leave when the circles are trimmed."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sulvak_core.sketch.edit import Edit, Values, add, change_dimension
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Constraint, Dimension, Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.trim import trim

from .sketches import circle, line, numerical_freedom

VALUES = Values(lambda text, kind: float(text))


def tie(n: int, kind: str, *refs: str) -> Constraint:
    return Constraint(id=f"k{n}", kind=kind, refs=list(refs))  # type: ignore[arg-type]


def size(n: int, kind: str, value: float, *refs: str) -> Dimension:
    return Dimension(id=f"d{n}", kind=kind, refs=list(refs), expr=str(value))  # type: ignore[arg-type]


def free(edit: Edit) -> int:
    return freedom(edit.sketch, VALUES.all(edit.sketch), with_motions=False).count


def circles(big: float, small: float, apart: float) -> Edit:
    """Two sized circles on the x axis, the first about the origin."""
    return add(
        Sketch(),
        VALUES,
        [circle(1, (0, 0), big), circle(2, (apart, 0), small)],
        [tie(1, "coincident", "c1.c", "origin"), tie(2, "coincident", "c2.c", "x")],
        [
            size(1, "diameter", 2 * big, "c1"),
            size(2, "diameter", 2 * small, "c2"),
            size(3, "distance", apart, "origin", "c2.c"),
        ],
    )


def with_line(before: Edit, n: int, side: int, crossed: bool, big: float, small: float, apart: float) -> Edit:
    """A line roughly from one circle to the other, its ends on them, touching both."""
    way = -1 if crossed else 1
    turn = side * (math.acos((big - way * small) / apart) + 0.1)  # not quite where it touches
    p = (big * math.cos(turn), big * math.sin(turn))
    q = (apart + way * small * math.cos(turn), way * small * math.sin(turn))
    k = 10 * n
    return add(
        before.sketch,
        VALUES,
        [line(n, p, q)],
        [
            tie(k, "coincident", f"l{n}.p", "c1"),
            tie(k + 1, "coincident", f"l{n}.q", "c2"),
            tie(k + 2, "tangent", f"l{n}", "c2"),
            tie(k + 3, "tangent", f"l{n}", "c1"),
        ],
    )


@pytest.mark.parametrize("order", [(0, 1, 2), (2, 1, 0), (1, 2, 0)])
def test_an_end_on_a_circle_that_the_line_touches_is_held(order: tuple[int, int, int]) -> None:
    """From a held start: on the circle and tangent to it are two ties, in whatever order they come."""
    now = add(Sketch(), VALUES, [circle(1, (50, 0), 12)], [tie(1, "fixed", "c1")])
    ties = [tie(2, "coincident", "l1.p", "origin"), tie(3, "coincident", "l1.q", "c1"), tie(4, "tangent", "l1", "c1")]
    now = add(now.sketch, VALUES, [line(1, (1, 1), (47, 11))])
    for i, left in zip(order, (2, 1, 0), strict=True):
        now = add(now.sketch, VALUES, constraints=[ties[i]])
        if ties[i].kind != "coincident" or i:
            assert free(now) >= left
    assert free(now) == 0
    made = now.sketch.entity("l1")
    assert math.dist(made.p, made.q) == pytest.approx(math.sqrt(50**2 - 12**2), abs=1e-7)  # type: ignore[union-attr]


@given(
    big=st.floats(2, 30),
    ratio=st.floats(0.2, 0.95),
    gap=st.floats(1.05, 4),
    side=st.sampled_from([1, -1]),
    crossed=st.booleans(),
)
def test_a_line_that_touches_two_circles_has_no_freedom_left(
    big: float, ratio: float, gap: float, side: int, crossed: bool
) -> None:
    small = big * ratio
    apart = (big + small) * gap
    now = with_line(circles(big, small, apart), 1, side, crossed, big, small, apart)
    assert free(now) == numerical_freedom(now.sketch) == 0
    made = now.sketch.entity("l1")
    reach = big + small if crossed else big - small
    assert math.dist(made.p, made.q) == pytest.approx(math.sqrt(apart**2 - reach**2), rel=1e-7)  # type: ignore[union-attr]
    assert made.p[1] * side > 0  # type: ignore[union-attr]


def test_the_outline_of_a_lever_closes_at_its_corners() -> None:
    """What the circles lose between the lines leaves arcs joined to the lines' ends, with nothing left to move."""
    big, small, apart = 20.0, 12.0, 60.0
    now = circles(big, small, apart)
    for n, side in ((1, 1), (2, -1)):
        now = with_line(now, n, side, False, big, small, apart)
    now = trim(now.sketch, VALUES, "c1", (big, 0))
    assert now.said == []
    now = trim(now.sketch, VALUES, "c2", (apart - small, 0))
    assert free(now) == 0
    joined = [set(c.refs) for c in now.sketch.constraints if c.kind == "coincident" and all("." in r for r in c.refs)]
    assert {"a1.p", "l1.p"} in joined
    assert len(joined) == 4
    turned = math.asin((big - small) / apart)
    area = big**2 * (math.pi / 2 + turned) + small**2 * (math.pi / 2 - turned)
    area += (big + small) * math.sqrt(apart**2 - (big - small) ** 2)
    (region,) = profile(now.sketch).regions
    assert region.area == pytest.approx(area, rel=1e-9)
    # and it follows a size
    later = change_dimension(now.sketch, VALUES, "d2", {"expr": "30"})
    assert free(later) == 0
    (region,) = profile(later.sketch).regions
    turned = math.asin((big - 15) / apart)
    area = big**2 * (math.pi / 2 + turned) + 15**2 * (math.pi / 2 - turned)
    area += (big + 15) * math.sqrt(apart**2 - (big - 15) ** 2)
    assert region.area == pytest.approx(area, rel=1e-9)

"""Offset chains: parallel at one width, exactly counted, following the width and the source."""

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import words
from sulvak_core.sketch.edit import Values, add, change_dimension, delete
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Arc, Circle, Line, Sketch
from sulvak_core.sketch.offset import offset
from sulvak_core.sketch.profiles import profile
from tests.examples import examples

from .sketches import arc, circle, line, numerical_freedom, rectangle, residual, sizes, slot, ties, values

VALUES = Values(lambda text, kind: float(text))


def areas(sketch: Sketch) -> list[float]:
    return sorted(sum(p.area() for p in r.outer) for r in profile(sketch).regions)


@pytest.mark.parametrize(("at", "w", "h"), [((20, 15), 34, 24), ((-9, -9), 46, 36)])
def test_a_rectangle_in_and_out(at: tuple[float, float], w: float, h: float) -> None:
    base = rectangle()
    base.dimensions = sizes("distance 40 l1", "distance 30 l2")
    made = offset(base, VALUES, ["l1", "l2", "l3", "l4"], "3", at).sketch
    assert areas(made) == pytest.approx(sorted([1200, w * h]))
    assert freedom(made, values(made)).count == 0 == numerical_freedom(made)
    assert residual(made) < 1e-10
    wider = change_dimension(made, VALUES, "d3", {"expr": "4.5"}).sketch
    grow = 1.5 if w > 40 else -1.5
    assert areas(wider) == pytest.approx(sorted([1200, (w + 2 * grow) * (h + 2 * grow)]))
    longer = change_dimension(made, VALUES, "d1", {"expr": "60"}).sketch
    assert areas(longer) == pytest.approx(sorted([1800, (w + 20) * h]))


@pytest.mark.parametrize(("at", "r"), [((10, 0), 3), ((10, 20), 7)])
def test_a_slot_keeps_its_smooth_joints(at: tuple[float, float], r: float) -> None:
    base = slot()
    before = freedom(base, {}).count
    made = offset(base, VALUES, ["l1", "a1", "l2", "a2"], "2", at).sketch
    whole = [20 * 10 + 25 * math.pi, 40 * r + r * r * math.pi]
    assert areas(made) == pytest.approx(sorted(whole))
    assert freedom(made, values(made)).count == before == numerical_freedom(made)
    moved = add(made, VALUES, dimensions=[s.model_copy(update={"id": "d9"}) for s in sizes("radius 6 a1")]).sketch
    assert residual(moved) < 1e-9
    copy = next(e for e in moved.entities if isinstance(e, Arc) and e.id == "a3")
    assert copy.r == pytest.approx(6 + (r - 5))
    assert len(profile(moved).regions) == 2


def test_a_circle_and_its_wall() -> None:
    base = Sketch(entities=[circle(1, (3, 4), 10)], dimensions=sizes("radius 10 c1"))
    made = offset(base, VALUES, ["c1"], "2.5", (3, 4)).sketch
    inner = made.entities[1]
    assert isinstance(inner, Circle)
    assert (inner.c, inner.r) == ((3, 4), pytest.approx(7.5))
    assert freedom(made, values(made)).count == 2 == numerical_freedom(made)
    (size,) = [d for d in made.dimensions if d.kind == "distance"]
    assert words.dimension(size, 2.5) == "2.5 (circle 1 to circle 2)"
    thinner = change_dimension(made, VALUES, size.id, {"expr": "1"}).sketch
    assert thinner.entities[1].r == pytest.approx(9)  # type: ignore[union-attr]


@pytest.mark.parametrize("way", [1, -1])
def test_an_open_chain_ends_square_across(way: int) -> None:
    """A line, a corner, a line, an arc: the copy's ends stand square across from the old ones."""
    base = Sketch(
        entities=[line(1, (0, 0), (20, 0)), line(2, (20, 15), (20, 0)), arc(1, (10, 15), 10, 0, 120)],
        constraints=ties("coincident l1.q l2.q", "coincident l2.p a1.p"),
    )
    made = offset(base, VALUES, ["a1", "l1", "l2"], "2", (10, way * 2)).sketch
    assert freedom(made, values(made)).count == freedom(base, {}).count == numerical_freedom(made)
    copies = {e.id: e for e in made.entities[3:]}
    first = next(e for e in copies.values() if isinstance(e, Line) and abs(e.p[1] - e.q[1]) < 1e-9)
    assert min(first.p[0], first.q[0]) == pytest.approx(0, abs=1e-9)
    assert first.p[1] == pytest.approx(2 * way)
    round_ = next(e for e in copies.values() if isinstance(e, Arc))
    assert round_.r == pytest.approx(10 - 2 * way)
    assert math.dist(round_.q, made.entity("a1").q) == pytest.approx(2)  # type: ignore[union-attr]


def test_a_sharp_corner_between_a_line_and_an_arc() -> None:
    """A half moon: the chord and its arc, offset inwards; area by the closed form of a circular segment."""
    base = Sketch(
        entities=[line(1, (-10, 0), (10, 0)), arc(1, (0, 0), 10, 0, 180)],
        constraints=ties("coincident l1.q a1.p", "coincident a1.q l1.p"),
    )
    made = offset(base, VALUES, ["l1", "a1"], "2", (0, 5)).sketch
    half = math.acos(2 / 8)
    segment = 64 * (half - math.sin(half) * math.cos(half))
    assert areas(made) == pytest.approx([segment, 50 * math.pi])


@pytest.mark.parametrize(
    ("ids", "width", "at", "said"),
    [
        (["l1", "l3"], "1", (0, 9), "without branches|without gaps"),
        (["l1", "c1"], "1", (0, 9), "chain of its own"),
        (["p1"], "1", (0, 9), "Pick the lines"),
        (["c1"], "5", (60, 0), "radius of 4 mm"),
        (["l1", "l2", "l3", "l4"], "16", (20, 15), "nothing is left|no longer meet"),
        (["l1"], "-2", (0, 9), "more than zero"),
    ],
)
def test_what_cannot_be_offset_is_told(ids: list[str], width: str, at: Any, said: str) -> None:
    from sulvak_core.sketch.model import Point

    base = rectangle()
    base = base.model_copy(update={"entities": [*base.entities, circle(1, (60, 0), 4), Point(id="p1", at=(7, 7))]})
    before = base.model_dump()
    with pytest.raises(Refusal, match=said):
        offset(base, VALUES, ids, width, at)
    assert base.model_dump() == before


def test_offset_says_itself_and_goes_with_what_it_is_of() -> None:
    made = offset(rectangle(), VALUES, ["l1", "l2"], "3", (20, 15)).sketch
    tie = next(c for c in made.constraints if c.kind == "offset")
    assert words.constraint(tie) == "line 5 and line 6 offset from line 1 and line 2"
    less = delete(made, {"l1"}).sketch
    assert not any(c.kind == "offset" for c in less.constraints)
    assert less.entity("l5") is not None


def test_the_wall_between_circles_needs_one_centre() -> None:
    base = Sketch(entities=[circle(1, (0, 0), 10), circle(2, (1, 0), 6)])
    with pytest.raises(Refusal, match="concentric first"):
        add(base, VALUES, dimensions=sizes("distance 4 c1 c2"))


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(3, 9), st.floats(0.3, 3), st.booleans(), st.floats(0, 6))
def test_any_convex_outline(n: int, width: float, inward: bool, turn: float) -> None:
    """Area of a parallel polygon: A ∓ P·w + w²·Σ tan(half the outer angle); exact freedom every time."""
    at = [(30 * math.cos(turn + 2 * math.pi * k / n), 24 * math.sin(turn + 2 * math.pi * k / n)) for k in range(n)]
    base = Sketch(
        entities=[line(k + 1, at[k], at[(k + 1) % n]) for k in range(n)],
        constraints=ties(*(f"coincident l{k + 1}.q l{(k + 1) % n + 1}.p" for k in range(n))),
    )
    whole = profile(base).regions[0].area
    around = sum(math.dist(at[k], at[(k + 1) % n]) for k in range(n))
    bend = 0.0
    for k in range(n):
        u = (at[k][0] - at[k - 1][0], at[k][1] - at[k - 1][1])
        v = (at[(k + 1) % n][0] - at[k][0], at[(k + 1) % n][1] - at[k][1])
        bend += math.tan(math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1]) / 2)
    made = offset(base, VALUES, [f"l{k + 1}" for k in range(n)], repr(width), (0, 0) if inward else (99, 99)).sketch
    sign = -1 if inward else 1
    want = sorted([whole, whole + sign * around * width + bend * width**2])
    assert areas(made) == pytest.approx(want, rel=1e-7)
    assert freedom(made, values(made)).count == 2 * n == numerical_freedom(made)

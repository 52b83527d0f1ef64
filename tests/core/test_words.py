"""What is said of things in a sketch: every kind of thing, tie and motion in plain words."""

import pytest

from sulvak_core.sketch import words
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Sketch

from .sketches import arc, circle, line, rectangle, sizes, slot, ties

THINGS = [
    ("origin", "the origin"),
    ("x", "the horizontal axis"),
    ("y", "the vertical axis"),
    ("l3", "line 3"),
    ("l3.p", "start of line 3"),
    ("l3.q", "end of line 3"),
    ("c12.c", "centre of circle 12"),
    ("a1", "arc 1"),
    ("a1.q", "end of arc 1"),
    ("p7", "point 7"),
    ("e2", "ellipse 2"),
    ("e2.m", "first axis end of ellipse 2"),
    ("s1.k1", "point 2 of spline 1"),
    ("t4", "text 4"),
    ("t4.c", "centre of text 4"),
    ("t4.q", "right end of the base line of text 4"),
]


@pytest.mark.parametrize(("ref", "said"), THINGS)
def test_things(ref: str, said: str) -> None:
    assert words.thing(ref) == said


CONSTRAINTS = [
    ("coincident p1 l2", "point 1 on line 2"),
    ("coincident l1.q l2.p", "end of line 1 on start of line 2"),
    ("horizontal l1", "line 1 horizontal"),
    ("vertical p1 p2", "point 1 and point 2 vertical"),
    ("parallel l1 l2", "line 1 and line 2 parallel"),
    ("perpendicular l1 x", "line 1 and the horizontal axis perpendicular"),
    ("equal c1 a1", "circle 1 and arc 1 equal"),
    ("tangent l1 c1", "line 1 and circle 1 tangent"),
    ("midpoint p1 l1", "point 1 in the middle of line 1"),
    ("symmetric p1 p2 y", "point 1 and point 2 symmetric about the vertical axis"),
    ("fixed a1", "arc 1 fixed"),
]


@pytest.mark.parametrize(("row", "said"), CONSTRAINTS)
def test_constraints(row: str, said: str) -> None:
    assert words.constraint(ties(row)[0]) == said


DIMENSIONS = [
    ("distance 42 l1", 42.0, "mm", "42 (line 1)"),
    ("distance 42 l1 horizontal", 42.0, "mm", "42 horizontal (line 1)"),
    ("distance 25.4 p1 p2", 25.4, "in", "1 (point 1 to point 2)"),
    ("distance 5 p1 c1 near", 5.0, "mm", "5 (point 1 to near side of circle 1)"),
    ("distance 5 c1 c2 far", 5.0, "mm", "5 (far side of circle 1 to far side of circle 2)"),
    ("radius 7 a1", 7.0, "mm", "R7 (arc 1)"),
    ("diameter 12.5 c1", 12.5, "mm", "⌀12.5 (circle 1)"),
    ("arc_length 9 a1", 9.0, "mm", "⌒9 (arc 1)"),
    ("angle 30 l1 l2", 30.0, "mm", "30° (line 1 to line 2)"),
    ("distance wall l1", None, "mm", "wall (line 1)"),
]


@pytest.mark.parametrize(("row", "value", "unit", "said"), DIMENSIONS)
def test_dimensions(row: str, value: float | None, unit: str, said: str) -> None:
    d = sizes(row)[0]
    assert words.dimension(d, value, unit) == said  # type: ignore[arg-type]
    named = d.model_copy(update={"name": "reach"})
    assert words.dimension(named, value, unit) == f"reach = {said}"  # type: ignore[arg-type]


@pytest.mark.parametrize(("count", "said"), [(0, "fully constrained"), (1, "1 freedom left"), (7, "7 freedoms left")])
def test_freedom_left(count: int, said: str) -> None:
    assert words.freedom_left(count) == said


MOTIONS = [
    (Sketch(entities=[circle(1, (3, 4), 2)], constraints=ties("fixed c1.c")), {"circle 1 grows"}),
    (Sketch(entities=[circle(1, (3, 4), 2)], dimensions=sizes("radius 2 c1")),
     {"circle 1 slides sideways", "circle 1 slides up and down"}),
    (Sketch(entities=[line(1, (0, 0), (10, 0))], constraints=ties("coincident l1.p origin", "horizontal l1")),
     {"end of line 1 moves sideways"}),
    (Sketch(entities=[circle(1, (3, 3), 2), line(1, (0, 0), (9, 9))],
            constraints=ties("fixed l1", "coincident c1.c l1"), dimensions=sizes("radius 2 c1")),
     {"circle 1 slides along 45°"}),
    (Sketch(entities=[circle(1, (1, 1), 2), circle(2, (9, 1), 2)],
            constraints=ties("fixed c1.c", "fixed c2.c", "equal c1 c2")), {"circle 1 and circle 2 grow"}),
]  # fmt: skip


@pytest.mark.parametrize(("sketch", "said"), MOTIONS, ids=range(len(MOTIONS)))
def test_motions(sketch: Sketch, said: set[str]) -> None:
    values = {d.id: float(d.expr) for d in sketch.dimensions}
    assert {words.motion(sketch, m) for m in freedom(sketch, values).motions} == said


def test_joined_corners_and_whole_shapes_are_told_short() -> None:
    told = [words.motion(rectangle(), m) for m in freedom(rectangle(), {}).motions]
    # what grows is told from what goes along with it
    assert told == [
        "line 1 and line 3 grow, line 2 slides sideways",
        "line 2 and line 4 grow, line 3 slides up and down",
    ]
    many = [words.motion(slot(), m) for m in freedom(slot(), {}).motions]
    assert all(len(t) < 120 for t in many)


def test_a_tie_is_found_by_its_id() -> None:
    sketch = Sketch(
        entities=[line(1, (0, 0), (10, 0)), arc(1, (5, 5), 3, 0, 90)],
        constraints=ties("horizontal l1"),
        dimensions=sizes("distance 10 l1"),
    )
    assert words.tie(sketch, "k1", {}) == "line 1 horizontal"
    assert words.tie(sketch, "d1", {"d1": 10.0}) == "10 (line 1)"
    assert words.tie(sketch, "zz", {}) == "zz"

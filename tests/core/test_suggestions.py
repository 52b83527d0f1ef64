"""Suggestions to finish: they reach zero freedom, never move geometry further than allowed, and can all be taken."""

from __future__ import annotations

import math
import random
import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import edit
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import AnyEntity, Sketch, points_of
from sulvak_core.sketch.suggest import as_drawn, default_tolerance, suggest
from sulvak_core.sketch.system import Builder
from sulvak_core.steps.sketch_view import suggestions
from tests.examples import examples

from .parts import Made
from .sketches import P, arc, circle, line, rectangle, sizes, ties, values

VALUES = Values(lambda text, kind: float(text))

PLATE: list[AnyEntity] = [
    line(1, (0, 0), (60, 0)),
    line(2, (60, 0), (60, 40)),
    line(3, (60, 40), (0, 40)),
    line(4, (0, 40), (0, 0)),
    *(circle(n, c, 3) for n, c in enumerate([(10, 10), (50, 10), (50, 30), (10, 30)], 1)),
    circle(5, (30, 20), 8),
]
SLOT: list[AnyEntity] = [
    line(1, (0, 5), (30, 5)),
    line(2, (0, -5), (30, -5)),
    arc(1, (0, 0), 5, 90, 270),
    arc(2, (30, 0), 5, -90, 90),
    circle(1, (0, 0), 2),
    circle(2, (30, 0), 2),
]
TRIANGLE: list[AnyEntity] = [line(1, (3, 4), (40, 10)), line(2, (40, 10), (15, 35)), line(3, (15, 35), (3, 4))]
MIRRORED: list[AnyEntity] = [
    line(1, (-20, -10), (20, -10)),
    line(2, (20, -10), (20, 15)),
    line(3, (20, 15), (-20, 15)),
    line(4, (-20, 15), (-20, -10)),
    circle(1, (-9, 3), 4),
    circle(2, (9, 3), 4),
]
SCATTERED: list[AnyEntity] = [P(id="p1", at=(7, 3)), circle(1, (31, -14), 5), arc(1, (-20, 11), 9, 30, 250)]
GEARED: list[AnyEntity] = [circle(1, (0, 0), 20), circle(2, (21, 28), 15), circle(3, (-6, -8), 10)]
LEVER: list[AnyEntity] = [
    circle(1, (0, 0), 20),
    circle(2, (50, 0), 6),
    line(1, (5.6, 19.2), (51.68, 5.76)),
    line(2, (5.6, -19.2), (51.68, -5.76)),
]
ALL = {
    "geared": GEARED,
    "lever": LEVER,
    "plate": PLATE,
    "slot": SLOT,
    "triangle": TRIANGLE,
    "mirrored": MIRRORED,
    "scattered": SCATTERED,
}


def drawn(entities: list[AnyEntity], off: float, seed: int) -> Sketch:
    """The same, drawn by hand: every coordinate and radius up to ``off`` mm away. Arcs stay as they are."""
    noise = random.Random(seed)

    def moved(p: tuple[float, float]) -> tuple[float, float]:
        return p[0] + noise.uniform(-off, off), p[1] + noise.uniform(-off, off)

    found: list[AnyEntity] = []
    for e in entities:
        if e.kind == "line":
            e = e.model_copy(update={"p": moved(e.p), "q": moved(e.q)})
        elif e.kind == "circle":
            e = e.model_copy(update={"c": moved(e.c), "r": e.r + noise.uniform(-off, off)})
        found.append(e)
    return Sketch(entities=found)


@pytest.mark.parametrize("name", ALL)
@given(st.floats(0, 1), st.integers(0, 10**6))
@settings(max_examples=examples(12), deadline=None)
def test_they_finish_any_sketch_without_moving_it(name: str, share: float, seed: int) -> None:
    sketch = drawn(ALL[name], 0.25 * share * default_tolerance(Sketch(entities=ALL[name])), seed)
    near = default_tolerance(sketch)
    found = suggest(sketch, VALUES)
    assert found.left == 0
    assert sum(s.takes for s in found.suggestions) == freedom(sketch, {}).count
    before = {ref: at for e in sketch.entities for ref, at in points_of(e).items()}
    after = {ref: at for e in found.sketch.entities for ref, at in points_of(e).items()}
    assert max(math.dist(before[r], after[r]) for r in before) <= near + 1e-9
    # all of them at once are neither redundant nor in conflict, and leave nothing free
    made = edit.add(
        sketch,
        VALUES,
        constraints=[c for s in found.suggestions for c in s.constraints],
        dimensions=[d for s in found.suggestions for d in s.dimensions],
    ).sketch
    assert freedom(made, VALUES.all(made)).count == 0


def test_what_is_already_so_comes_before_sizes_and_few_sizes_are_needed() -> None:
    found = suggest(drawn(PLATE, 0.08, 1), VALUES)
    kinds = ["size" if s.dimensions else "tie" for s in found.suggestions]
    assert kinds == sorted(kinds, reverse=True)
    # a drafter's plate: two sides, two sizes of hole, and places; never more sizes than that
    assert kinds.count("size") <= 10
    assert [s.said for s in found.suggestions if "equal" in s.said] == [
        "circle 1 and circle 2 equal",
        "circle 1 and circle 3 equal",
        "circle 1 and circle 4 equal",
    ]


def test_a_slot_needs_three_sizes() -> None:
    found = suggest(Sketch(entities=SLOT), VALUES)
    assert [s.dimensions[0].kind for s in found.suggestions if s.dimensions] == ["radius", "diameter", "distance"]
    assert sum("tangent" in s.said for s in found.suggestions) == 4
    assert max(s.moves for s in found.suggestions) < 1e-9


def test_what_touches_is_seen() -> None:
    told = [s.said for s in suggest(drawn(GEARED, 0.03, 2), VALUES).suggestions]
    assert {t for t in told if "tangent" in t} == {"circle 1 and circle 2 tangent", "circle 1 and circle 3 tangent"}
    told = [s.said for s in suggest(drawn(LEVER, 0.03, 2), VALUES).suggestions]
    assert sum("tangent" in t for t in told) == 4
    assert "centre of circle 2 to the origin" in told[-1]  # not the length of a line between the circles


def test_symmetry_about_an_axis_is_seen() -> None:
    found = suggest(drawn(MIRRORED, 0.05, 3), VALUES)
    told = [s.said for s in found.suggestions]
    assert "line 2 and line 4 symmetric about the vertical axis" in told
    assert "centre of circle 1 and centre of circle 2 symmetric about the vertical axis" in told


def test_what_is_tied_already_is_kept_and_only_the_rest_suggested() -> None:
    base = rectangle(w=40, h=30)
    base.dimensions = sizes("distance 40 l1")
    found = suggest(base, VALUES)
    assert [s.said for s in found.suggestions] == ["30 (line 2)"]
    base.dimensions = sizes("distance 40 l1", "distance 30 l2")
    assert suggest(base, VALUES).suggestions == []


def test_any_one_can_be_taken_alone() -> None:
    sketch = drawn(PLATE, 0.05, 9)
    count = freedom(sketch, {}).count
    for s in suggest(sketch, VALUES).suggestions:
        made = edit.add(sketch, VALUES, constraints=s.constraints, dimensions=s.dimensions).sketch
        assert freedom(made, VALUES.all(made)).count == count - s.takes, s.said


def test_the_sheets_sizes_are_taken_where_they_fit_and_linked() -> None:
    made = Made()
    made.sketch("s1", "top", drawn(PLATE, 0.06, 4))
    for n, text in enumerate(["60", "40 ±0.1", "4X Ø6 THRU", "Ø16", "R99", "by hand"], 1):
        made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
    step = made.document.step("s1")
    assert step is not None
    assert step.kind == "sketch"
    told = suggestions(made.document, step)
    assert told["left"] == 0
    given_by = {s["callout"]: s["dimensions"][0]["expr"] for s in told["suggestions"] if s["callout"]}
    assert given_by == {"b1": "60", "b2": "40", "b3": "6", "b4": "16"}
    # what the sheet says nothing about is rounded as a drawing would say it; what it gives comes before that
    sized = [(s["callout"], s["dimensions"][0]["expr"]) for s in told["suggestions"] if s["dimensions"]]
    assert [callout is None for callout, _ in sized] == sorted(callout is None for callout, _ in sized)
    assert {expr for callout, expr in sized if not callout} <= {"10", "20", "30", "40"}


def test_the_sheets_sizes_choose_what_is_measured() -> None:
    """A slot's plate sized from centre to centre on the sheet is so here, though its line's length is the longer."""
    sketch = Sketch(entities=[line(1, (3, 4), (41, 4)), line(2, (3, 22), (37, 22)), circle(1, (11, 13), 4)])
    given = {"distance": [34.0, 9.0]}

    def asked(kind: str, now: float, near: float) -> float | None:
        return next((v for v in given.get(kind, []) if abs(v - now) <= near), None)

    first = [s.said for s in suggest(sketch, VALUES, wanted=asked).suggestions if s.dimensions][:2]
    assert first == ["34 (line 2)", "9 (centre of circle 1 to line 1)"]
    assert suggest(sketch, VALUES, wanted=asked).left == 0


@pytest.mark.parametrize(
    ("now", "near", "unit", "said"),
    [
        (29.8713, 0.3, "mm", 30),
        (28.1317, 0.3, "mm", 28),
        (28.4, 0.3, "mm", 28.4),  # short already: somebody meant it
        (28.413, 0.3, "mm", 28.5),
        (12.7, 0.6, "mm", 12.7),
        (26.9, 2.0, "mm", 26.9),
        (26.913, 2.0, "mm", 27),  # 25 is further than the half
        (0.2137, 0.3, "mm", 0.2),
        (1.26213, 0.02, "in", 1.25),
        (3.9995, 0.02, "in", 4),
        (2.0637, 0.004, "in", 2.0625),
        (44.9123, 0.4, "deg", 45),
        (14.0362, 1.4, "deg", 14),
        (17.3312, 0.01, "deg", 17.33),
        (17.33123, 1e-4, "mm", 17.33123),
    ],
)
def test_numbers_are_rounded_as_a_drawing_would_say_them(now: float, near: float, unit: str, said: float) -> None:
    assert as_drawn(now, near, unit) == pytest.approx(said, abs=1e-12)


TAPERED: list[AnyEntity] = [  # a trapezoid and two slots' ends about the upright axis
    line(1, (-30, 0), (30, 0)),
    line(2, (30, 0), (18, 25)),
    line(3, (18, 25), (-18, 25)),
    line(4, (-18, 25), (-30, 0)),
    arc(1, (-10, 10), 3, 90, 270),
    arc(2, (10, 10), 3, -90, 90),
]


def test_ends_and_arcs_about_an_axis_are_seen_before_odd_numbers() -> None:
    found = suggest(drawn(TAPERED, 0.05, 3), VALUES)
    told = [s.said for s in found.suggestions]
    assert "centre of arc 1 and centre of arc 2 symmetric about the vertical axis" in told
    assert sum("symmetric" in t for t in told) == 5  # two pairs of lines' ends, the arcs' centres, their loose ends
    assert found.left == 0
    # the height, from an arc, rather than the slanted line's length, which is an odd number
    numbers = [float(d.expr) for s in found.suggestions for d in s.dimensions]
    assert set(numbers) == {3, 60, 36, 12, 10}


def test_what_mirrors_about_a_centre_line_is_seen() -> None:
    """A centre line that leans: two circles and the ends of a link about it."""
    a = math.radians(30)

    def at(u: float, v: float) -> tuple[float, float]:
        return 7 + u * math.cos(a) - v * math.sin(a), 9 + u * math.sin(a) + v * math.cos(a)

    centre = line(1, at(0, 0), at(60, 0)).model_copy(update={"construction": True})
    sketch = Sketch(
        entities=[
            centre,
            circle(1, at(12, 15), 4),
            circle(2, at(12, -15), 4),
            line(2, at(20, 11), at(50, 8)),
            line(3, at(20, -11), at(50, -8)),
        ]
    )
    found = suggest(sketch, VALUES)
    about = [s.said for s in found.suggestions if "symmetric about line 1" in s.said]
    assert len(about) == 3
    assert found.left == 0


def test_too_many_at_once_is_said() -> None:
    made = Made()
    made.sketch("s1", "top", Sketch(entities=[circle(n, (5.0 * n, 0), 1) for n in range(1, 300)]))
    step = made.document.step("s1")
    with pytest.raises(Refusal, match="more than 250"):
        suggestions(made.document, step)  # type: ignore[arg-type]


def test_what_takes_long_is_given_as_far_as_it_was_found() -> None:
    """With little effort there are fewer of them, each good by itself; once they are taken the next come."""
    scattered = Sketch(entities=[circle(n, (17.3 * n, 9.1 * (n % 3)), 2 + 0.37 * n) for n in range(1, 30)])
    few = suggest(scattered, VALUES, effort=0.2)
    assert few.left > 0
    assert freedom(few.sketch, VALUES.all(few.sketch)).count == few.left
    assert sum(s.takes for s in few.suggestions) == freedom(scattered, {}).count - few.left
    assert suggest(few.sketch, VALUES).left == 0


def test_a_tolerance_says_what_counts_as_meant() -> None:
    bent = Sketch(entities=[line(1, (0, 0), (40, 0.6))], constraints=ties("coincident l1.p origin"))
    assert values(bent) == {}
    assert suggest(bent, VALUES, tolerance=1.0).suggestions[0].said == "line 1 horizontal"
    strict = suggest(bent, VALUES, tolerance=0.1)
    assert strict.left == 0
    assert "horizontal" not in [s.constraints[0].kind for s in strict.suggestions if s.constraints]


@given(st.integers(1, 10**6), st.sampled_from(["mm", "in"]), st.floats(-3e-5, 3e-5))
@settings(max_examples=examples(40), deadline=None)
def test_what_a_suggestion_says_is_what_it_stores(seed: int, unit: str, off: float) -> None:
    """Drawn a little off, sizes are stored as they are shown, to the last digit, and the geometry has them."""
    rnd = random.Random(seed)
    k = 25.4 if unit == "in" else 1.0
    w, h, r = (rnd.randint(20, 60) * k for _ in range(3))
    entities = [*rectangle(w=w + off, h=h - off).entities, circle(1, (w / 2, h / 2), r / 8 + off)]
    values = Values(lambda text, kind: float(text) * k, unit)  # type: ignore[arg-type]
    found = suggest(Sketch(entities=entities), values)
    assert found.left == 0
    for s in found.suggestions:
        for d in s.dimensions:
            shown = re.findall(r"\d+(?:\.\d+)?", s.said)
            assert d.expr in shown
            measured = Builder(found.sketch, {}).measure(d)
            assert measured == pytest.approx(float(d.expr) * k, rel=1e-9)

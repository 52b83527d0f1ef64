"""A rough sketch takes the sizes of its sheet: right sizes to the right places, nothing turned over, and what the sheet
does not say is said."""

from __future__ import annotations

import json
import math
import random
from collections import Counter
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.fit import fit
from sulvak_core.sketch.fit_ideas import Asked
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import AnyEntity, Arc, Circle, Sketch, points_of
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.solve import solve
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import Document, load
from sulvak_core.steps.shared import values_for
from tests.examples import examples

from .sketches import P, arc, circle, line, ties

VALUES = Values(lambda text, kind: float(text.removesuffix("°")))
DEMO = Path(__file__).parents[2] / "demo"


def quad(w: float, h: float, at: tuple[float, float] = (0, 0)) -> list[AnyEntity]:
    x, y = at
    return [
        line(1, (x, y), (x + w, y)),
        line(2, (x + w, y), (x + w, y + h)),
        line(3, (x + w, y + h), (x, y + h)),
        line(4, (x, y + h), (x, y)),
    ]


CORNERS = "coincident l1.q l2.p, coincident l2.q l3.p, coincident l3.q l4.p, coincident l4.q l1.p"
LEVEL = "horizontal l1, vertical l2, horizontal l3, vertical l4"
JOINED = [c for text in (CORNERS, LEVEL) for t in text.split(", ") for c in [t]]


def joined(*more: str) -> list[Any]:
    return ties(*JOINED, *more)


def lengths(*values: float) -> list[Asked]:
    return [Asked(f"b{n}", "distance", v) for n, v in enumerate(values, 1)]


def size(sketch: Sketch, ident: str) -> float:
    e = sketch.entity(ident)
    if isinstance(e, Circle | Arc):
        return e.r
    return math.dist(e.p, e.q)  # type: ignore[union-attr]


def test_a_plate_drawn_too_small_and_askew_takes_all_its_sizes() -> None:
    """Drawn at about 0.6 of its size, not in proportion: 110 × 70, a bore of 32 and four holes of 9 at 80 × 40."""
    holes = [circle(n, c, 2.2) for n, c in enumerate([(11, 11), (53, 10), (54, 33), (10.5, 34)], 2)]
    drawn = Sketch(entities=[*quad(64, 45), circle(1, (31, 22), 11), *holes], constraints=joined())
    asked = [
        *(
            Asked(f"b{n}", "distance", v, 1, along)
            for n, (v, along) in enumerate(  # type: ignore[arg-type]
                [
                    (110, "horizontal"),
                    (70, "vertical"),
                    (80, "horizontal"),
                    (40, "vertical"),
                    (15, "horizontal"),
                    (15, "vertical"),
                ],
                1,
            )
        ),
        Asked("b7", "diameter", 32),
        Asked("b8", "diameter", 9, 4),
    ]
    found = fit(drawn, VALUES, asked)
    made = found.sketch
    assert (size(made, "l1"), size(made, "l2")) == (pytest.approx(110), pytest.approx(70))
    assert size(made, "c1") == pytest.approx(16)
    assert [size(made, f"c{n}") for n in (2, 3, 4, 5)] == pytest.approx([4.5] * 4)
    at = {n: made.entity(f"c{n}").c for n in (2, 3, 4, 5)}  # type: ignore[union-attr]
    assert math.dist(at[2], at[3]) == pytest.approx(80)
    assert math.dist(at[3], at[4]) == pytest.approx(40)
    corner = made.entity("l1").p  # type: ignore[union-attr]
    assert (at[2][0] - corner[0], at[2][1] - corner[1]) == (pytest.approx(15), pytest.approx(15))
    # the sheet does not say where the bore is
    assert [m.said for m in found.missing] == [
        "The sheet gives no size that places circle 1 from left to right.",
        "The sheet gives no size that places circle 1 up and down.",
    ]
    assert found.unplaced == []
    assert {m.callout for m in found.moves if m.dimensions} == {f"b{n}" for n in range(1, 9)}


def test_all_together_is_what_is_shown_and_each_tells_how_far_it_goes() -> None:
    drawn = Sketch(entities=quad(50, 31), constraints=joined("coincident l1.p origin"))
    found = fit(drawn, VALUES, lengths(80, 50))
    assert found.left == 0
    assert found.reach == pytest.approx(math.hypot(80 - 50, 50 - 31))
    wide = next(m for m in found.moves if m.callout == "b1")
    assert wide.alone is not None
    assert wide.moves == pytest.approx(30)
    assert size(wide.alone, "l1") == pytest.approx(80)
    assert size(wide.alone, "l2") == pytest.approx(31)  # the other size is not taken with it
    done = solve(found.sketch, VALUES.all(found.sketch))
    assert done.solved
    assert done.sketch.entities == found.sketch.entities


@pytest.mark.parametrize("more", [7, 12])
def test_what_the_sheet_does_not_say_is_said(more: float) -> None:
    """A hole with a diameter and a place up and down, and none from left to right."""
    hole = circle(1, (13, 8.4), more / 2)
    drawn = Sketch(entities=[*quad(60, 40), hole], constraints=joined("coincident l1.p origin"))
    asked = [*lengths(60, 40), Asked("b3", "diameter", more), Asked("b4", "distance", 8, 1, "vertical")]
    found = fit(drawn, VALUES, asked)
    assert [m.said for m in found.missing] == ["The sheet gives no size that places circle 1 from left to right."]
    assert found.left == 1
    assert found.missing[0].refs[0] == "c1.c"


def test_no_diameter_no_length_no_angle() -> None:
    drawn = Sketch(
        entities=[circle(1, (0, 0), 10), line(1, (30, 7), (45, 28))],
        constraints=ties("coincident c1.c origin"),
    )
    found = fit(drawn, VALUES, [Asked("b1", "radius", 4)])
    told = {m.said for m in found.missing}
    assert "The sheet gives no length for line 1." in told
    assert "The sheet gives no angle for line 1." in told
    assert found.left == len(found.missing) == 4 + (found.unplaced == ["b1"])


def test_the_way_a_size_runs_on_the_sheet_decides() -> None:
    """Drawn nearly square: 52 is up and 46 across, against what the numbers alone would say."""
    drawn = Sketch(entities=quad(50, 48), constraints=joined("coincident l1.p origin"))
    across, up = Asked("b1", "distance", 46, 1, "horizontal"), Asked("b2", "distance", 52, 1, "vertical")
    made = fit(drawn, VALUES, [across, up]).sketch
    assert (size(made, "l1"), size(made, "l2")) == (pytest.approx(46), pytest.approx(52))
    told = fit(drawn, VALUES, lengths(46, 52)).sketch
    assert (size(told, "l1"), size(told, "l2")) == (pytest.approx(52), pytest.approx(46))


def test_the_view_that_leaves_least_open_is_taken() -> None:
    """Two views with a plate's sizes and a rib's: each size fits both nearly; those of one view belong together."""
    drawn = Sketch(entities=[*quad(60, 40), circle(1, (30, 20), 6)], constraints=joined("coincident l1.p origin"))
    here = [
        Asked("b1", "distance", 66, views=(0,)),
        Asked("b2", "distance", 44, views=(0,)),
        Asked("b3", "diameter", 13, views=(0,)),
    ]
    there = [Asked("b4", "distance", 59, views=(1,)), Asked("b5", "distance", 41, views=(1,))]
    made = fit(drawn, VALUES, [*there, *here])
    assert (size(made.sketch, "l1"), size(made.sketch, "l2")) == (pytest.approx(66), pytest.approx(44))
    assert set(made.unplaced) <= {"b4", "b5"}


def test_a_length_of_a_view_that_does_not_show_it_is_not_used() -> None:
    """The height of the other view would nearly place the hole; across, both views share their lengths."""
    drawn = Sketch(entities=[*quad(60, 40), circle(1, (30, 23), 6)], constraints=joined("coincident l1.p origin"))
    asked = [
        Asked("b1", "distance", 66, 1, "horizontal", views=(1, 0)),
        Asked("b2", "distance", 44, 1, "vertical", views=(0,)),
        Asked("b3", "diameter", 13, views=(0,)),
        Asked("b4", "distance", 25, 1, "vertical", views=(1,)),
    ]
    made = fit(drawn, VALUES, asked)
    assert (size(made.sketch, "l1"), size(made.sketch, "l2")) == (pytest.approx(66), pytest.approx(44))
    assert made.unplaced == ["b4"]
    assert len(made.missing) == 2


def test_a_size_of_something_else_altogether_moves_nothing() -> None:
    drawn = Sketch(entities=quad(50, 30), constraints=joined("coincident l1.p origin"))
    found = fit(drawn, VALUES, lengths(6000))
    assert found.moves == []
    assert (found.reach, found.unplaced, len(found.missing)) == (0.0, ["b1"], 2)


def test_in_inches_the_sizes_are_said_in_inches() -> None:
    inch = Values(lambda text, kind: float(text) * 25.4, "in")
    drawn = Sketch(entities=quad(50, 31), constraints=joined("coincident l1.p origin"))
    found = fit(drawn, inch, lengths(2.5 * 25.4, 1.625 * 25.4))
    assert {d.expr for m in found.moves for d in m.dimensions} == {"2.5", "1.625"}
    assert size(found.sketch, "l1") == pytest.approx(63.5)


def test_an_angle_goes_to_the_line_that_leans() -> None:
    corners = [(0, 0), (50, 0), (40, 28), (0, 28)]
    drawn = Sketch(
        entities=[line(n + 1, corners[n], corners[(n + 1) % 4]) for n in range(4)],
        constraints=ties(
            *CORNERS.split(", "), "horizontal l1", "horizontal l3", "vertical l4", "coincident l1.p origin"
        ),
    )
    found = fit(drawn, VALUES, [*lengths(60, 30), Asked("b3", "angle", 75)])
    assert found.left == 0
    leaning = found.sketch.entity("l2")
    dx, dy = (leaning.q[k] - leaning.p[k] for k in (0, 1))  # type: ignore[union-attr]
    assert math.degrees(math.atan2(dy, dx)) == pytest.approx(105)


def test_a_radius_is_given_to_no_whole_circle_that_a_diameter_fits() -> None:
    drawn = Sketch(entities=[circle(1, (0, 0), 8.5)], constraints=ties("coincident c1.c origin"))
    found = fit(drawn, VALUES, [Asked("b1", "radius", 6), Asked("b2", "diameter", 8)])
    assert size(found.sketch, "c1") == pytest.approx(4)


def test_a_slot_its_ends_and_the_ring_between_two_arcs() -> None:
    drawn = Sketch(
        entities=[
            line(1, (0, 3), (21, 3)),
            line(2, (21, -3), (0, -3)),
            arc(1, (0, 0), 3, 90, 270),
            arc(2, (21, 0), 3, -90, 90),
            circle(1, (0, 0), 7.8),
            circle(2, (0, 0), 6.3),
        ],
        constraints=ties(
            "coincident l1.p a1.p",
            "coincident l2.q a1.q",
            "coincident l1.q a2.q",
            "coincident l2.p a2.p",
            "tangent l1 a1",
            "tangent l2 a1",
            "tangent l1 a2",
            "tangent l2 a2",
            "coincident a1.c origin",
            "horizontal l1",
            "coincident c1.c origin",
            "coincident c2.c origin",
        ),
    )
    asked = [
        Asked("b1", "radius", 4, 2),
        Asked("b2", "distance", 25),
        Asked("b3", "diameter", 20),
        Asked("b4", "distance", 2),
    ]
    found = fit(drawn, VALUES, asked)
    made = found.sketch
    assert found.left == 0, [m.said for m in found.missing]
    assert [size(made, "a1"), size(made, "a2")] == pytest.approx([4, 4])
    assert size(made, "l1") == pytest.approx(25)
    assert (size(made, "c1"), size(made, "c2")) == (pytest.approx(10), pytest.approx(8))


def test_holes_on_a_circle_by_its_diameter() -> None:
    around = circle(1, (0, 0), 21).model_copy(update={"construction": True})
    hole = circle(2, (21, 0), 3)
    drawn = Sketch(
        entities=[around, hole],
        constraints=ties("coincident c1.c origin", "coincident c2.c c1", "coincident c2.c x"),
    )
    found = fit(drawn, VALUES, [Asked("b1", "diameter", 6.6, 6), Asked("b1", "diameter", 44, aid=True)])
    assert found.left == 0
    assert (size(found.sketch, "c1"), size(found.sketch, "c2")) == (pytest.approx(22), pytest.approx(3.3))


def test_what_one_of_several_holes_is_told_the_others_have_too() -> None:
    """Four holes of one callout round the origin, 36 given once: a drawing says it once of them all."""
    at = [(31, 0), (0, 34), (-33, 0), (0, -32)]
    holes = [circle(n, c, 2) for n, c in enumerate(at, 1)]
    axes = [f"coincident c{n}.c {'xy'[(n - 1) % 2]}" for n in (1, 2, 3, 4)]
    drawn = Sketch(entities=holes, constraints=ties(*axes))
    found = fit(drawn, VALUES, [Asked("b1", "diameter", 4.5, 4), Asked("b2", "distance", 36)])
    assert found.left == 0
    assert [math.hypot(*found.sketch.entity(f"c{n}").c) for n in (1, 2, 3, 4)] == pytest.approx([36] * 4)  # type: ignore[union-attr]
    assert sum(m.callout == "b2" for m in found.moves) <= 4


def test_what_has_sizes_already_is_not_scaled_and_stays() -> None:
    """A plate with its width given: its hole comes from the sheet, and the width stays."""
    done = fit(
        Sketch(entities=[*quad(60, 40), circle(1, (18, 12), 4)], constraints=joined("coincident l1.p origin")),
        VALUES,
        [Asked("b1", "distance", 60)],
    )
    wide = next(m for m in done.moves if m.callout == "b1")
    start = wide.alone
    assert start is not None
    found = fit(start, VALUES, [Asked("b2", "diameter", 16)])
    assert size(found.sketch, "l1") == pytest.approx(60)
    assert size(found.sketch, "c1") == pytest.approx(8)


def test_nothing_is_turned_over() -> None:
    """A notch that a size out of place would turn inside out: the size finds another place, or none."""
    notch = [
        line(1, (0, 0), (40, 0)),
        line(2, (40, 0), (40, 20)),
        line(3, (40, 20), (28, 20)),
        line(4, (28, 20), (28, 12)),
        line(5, (28, 12), (0, 12)),
        line(6, (0, 12), (0, 0)),
    ]
    corners = [f"coincident l{n}.q l{n % 6 + 1}.p" for n in range(1, 7)]
    level = ["horizontal l1", "vertical l2", "horizontal l3", "vertical l4", "horizontal l5", "vertical l6"]
    drawn = Sketch(entities=notch, constraints=ties(*corners, *level, "coincident l1.p origin"))
    for sizes in [(40, 20, 12, 8), (40, 18, 30), (36, 24, 13, 9), (12, 11, 10), (20, 40)]:
        found = fit(drawn, VALUES, lengths(*sizes))
        regions = profile(found.sketch).regions
        assert len(regions) == 1
        assert regions[0].around == [f"l{n}" for n in range(1, 7)]
        for e in found.sketch.entities:
            was = drawn.entity(e.id)
            assert (e.q[0] - e.p[0]) * (was.q[0] - was.p[0]) + (e.q[1] - e.p[1]) * (was.q[1] - was.p[1]) > 0  # type: ignore[union-attr]


# -- the demo's own sketches, drawn roughly again ----------------------------------------------------------

KEPT = {"coincident", "horizontal", "vertical", "tangent", "midpoint"}  # what the hand catches while drawing


def demo_sketches() -> list[tuple[str, str]]:
    found = []
    for name in ("boom-clamp", "camera-cradle", "electronics-pod", "line-cleat", "pod-lid", "tilt-arm", "cross-plate"):
        document = load(json.loads((DEMO / f"{name}.json").read_text()))
        found += [
            (name, s.id)
            for s in document.steps
            if isinstance(s, SketchStep) and s.sketch.dimensions and not s.sketch.given
        ]
    return found


def roughly(document: Document, sketch: Sketch, seed: int, off: float) -> tuple[Sketch, list[Asked]]:
    """A sketch of the same shape whose sizes are each off by some ``off`` of them, all of them as much too large or
    too small besides; and the sizes as a sheet would give them."""
    rnd = random.Random(seed)
    true = values_for(document).all(sketch)
    scale = rnd.choice([1.0, 2.3, 0.6])
    for _ in range(40):
        want = {k: v * scale * math.exp(rnd.gauss(0, off)) for k, v in true.items() if "." not in k}
        for d in sketch.dimensions:
            if d.kind == "angle" and d.driving:
                want[d.id] = min(170.0, max(5.0, true[d.id] + rnd.gauss(0, 30 * off)))
        drawn = solve(sketch, {**true, **want})
        if drawn.solved:
            break
    else:
        raise AssertionError("it cannot be drawn so")
    count = Counter((d.kind, round(true[d.id], 6)) for d in sketch.dimensions if d.driving)
    asked = []
    for n, ((kind, value), times) in enumerate(count.items(), 1):
        alike = [
            e
            for e in sketch.entities
            if isinstance(e, {"diameter": Circle, "radius": Arc}.get(kind, type(None)))
            and not e.construction  # type: ignore[union-attr]
            and abs(e.r * (2 if kind == "diameter" else 1) - value) < 1e-6  # type: ignore[union-attr]
        ]
        asked.append(Asked(f"b{n}", kind, value, max(times, len(alike))))  # type: ignore[arg-type]
    bare = drawn.sketch.model_copy(
        update={"constraints": [c for c in sketch.constraints if c.kind in KEPT], "dimensions": []}
    )
    return bare, asked


@pytest.mark.parametrize(("part", "step"), demo_sketches())
def test_the_demos_sketches_drawn_roughly_come_out_as_their_sheets_say(part: str, step: str) -> None:
    """Each size 3 % off by itself, the whole up to 2.3 times too large: every point comes out where the part has it."""
    document = load(json.loads((DEMO / f"{part}.json").read_text()))
    sketch = document.step(step).sketch  # type: ignore[union-attr]
    drawn, asked = roughly(document, sketch, 3, 0.03)
    found = fit(drawn, values_for(document), asked)
    assert found.left == 0, [m.said for m in found.missing]
    for e in found.sketch.entities:
        was = sketch.entity(e.id)
        for (_, a), (_, b) in zip(points_of(e).items(), points_of(was).items(), strict=True):
            assert math.dist(a, b) < 1e-6
        if isinstance(e, Circle | Arc):
            assert e.r == pytest.approx(was.r)


@given(st.integers(0, 10**6))
@settings(max_examples=examples(10), deadline=None)
def test_whatever_is_asked_what_comes_out_holds(seed: int) -> None:
    """Sizes at random: every one that is taken holds to the last digit, and counts are as said."""
    rnd = random.Random(seed)
    holes = [circle(n, (rnd.uniform(5, 55), rnd.uniform(5, 35)), rnd.uniform(1, 4)) for n in (1, 2)]
    drawn = Sketch(entities=[*quad(60, 40), *holes], constraints=joined("coincident l1.p origin"))
    asked = lengths(*(rnd.randint(4, 130) for _ in range(rnd.randint(1, 6))))
    asked.append(Asked("b20", "diameter", rnd.choice([4, 6.6, 9]), rnd.choice([1, 2])))
    found = fit(drawn, VALUES, asked)
    given = {a.ident: a.value for a in asked}
    made = found.sketch
    for m in found.moves:
        for d in m.dimensions:
            assert float(d.expr) == pytest.approx(given[m.callout])
    known = VALUES.all(made)
    again = solve(made, known)
    assert again.solved
    for e, same in zip(made.entities, again.sketch.entities, strict=True):
        assert all(math.dist(p, points_of(same)[ref]) < 1e-9 for ref, p in points_of(e).items())
    assert freedom(made, known).count == found.left == len(found.missing)
    assert freedom(drawn, {}).count - found.left == sum(m.takes for m in found.moves)


def test_a_point_between_is_placed_by_its_own_size() -> None:
    drawn = Sketch(
        entities=[circle(1, (0, 22), 1.1), P(id="p1", at=(0, 17))],
        constraints=ties("coincident c1.c y", "coincident p1 y"),
    )
    found = fit(drawn, VALUES, [*lengths(10, 30), Asked("b3", "diameter", 3.2)])
    assert found.left == 0
    assert found.sketch.entity("p1").at[1] == pytest.approx(30)  # type: ignore[union-attr]

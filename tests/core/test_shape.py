"""Corners rounded and things mirrored: the geometry, what is kept of what was meant, and what is refused."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import edit
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.mirror import mirror
from sulvak_core.sketch.model import Arc, Line, Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.shape import Bevel, chamfer, corners_of, fillet
from tests.examples import examples

from .parts import Made
from .sketches import arc, circle, line, numerical_freedom, rectangle, residual, sizes, ties

VALUES = Values(lambda text, kind: float(text))


def box(*more: str) -> Sketch:
    base = rectangle(w=40, h=30)
    base.dimensions = sizes("distance 40 l1", "distance 30 l2", *more)
    return base


def free(sketch: Sketch) -> int:
    return freedom(sketch, VALUES.all(sketch)).count


def test_four_corners_keep_the_outer_sizes_and_full_constraint() -> None:
    base = box()
    made = fillet(base, VALUES, list(corners_of(base)), "5").sketch
    assert free(made) == free(base) == 0
    assert numerical_freedom(made) == 0
    assert residual(made) < 1e-10
    area = sum(r.area for r in profile(made).default())
    assert area == pytest.approx(40 * 30 - (4 - math.pi) * 25, rel=1e-12)
    # the sizes still speak of the sharp corners
    grown = edit.change_dimension(made, VALUES, "d1", {"expr": "60"}).sketch
    area = sum(r.area for r in profile(grown).default())
    assert area == pytest.approx(60 * 30 - (4 - math.pi) * 25, rel=1e-12)
    radius = next(d.id for d in made.dimensions if d.kind == "radius")
    rounder = edit.change_dimension(grown, VALUES, radius, {"expr": "12"}).sketch
    area = sum(r.area for r in profile(rounder).default())
    assert area == pytest.approx(60 * 30 - (4 - math.pi) * 144, rel=1e-9)
    assert sum(isinstance(e, Arc) for e in rounder.entities) == 4


@given(st.floats(20, 160), st.floats(15, 80), st.floats(15, 80), st.floats(0.05, 0.9))
@settings(max_examples=examples(40), deadline=None)
def test_a_corner_of_any_angle(angle: float, one: float, other: float, share: float) -> None:
    turn = math.radians(angle)
    end = (other * math.cos(turn), other * math.sin(turn))
    sketch = Sketch(
        entities=[line(1, (one, 0), (0, 0)), line(2, (0, 0), end)], constraints=ties("coincident l1.q l2.p")
    )
    before = free(sketch)
    radius = share * min(one, other) * math.tan(turn / 2)
    made = fillet(sketch, VALUES, ["l2.p"], repr(radius)).sketch
    rounded = next(e for e in made.entities if isinstance(e, Arc))
    assert rounded.r == pytest.approx(radius)
    # the centre is as far from both lines as the radius says, inside the corner
    assert rounded.c[1] == pytest.approx(radius, rel=1e-9)
    off = end[0] * rounded.c[1] - end[1] * rounded.c[0]
    assert abs(off) / other == pytest.approx(radius, rel=1e-6)
    assert free(made) == before  # the radius is a size more than there was, and it is given
    sweep = math.degrees(
        (
            math.atan2(rounded.q[1] - rounded.c[1], rounded.q[0] - rounded.c[0])
            - math.atan2(rounded.p[1] - rounded.c[1], rounded.p[0] - rounded.c[0])
        )
        % (2 * math.pi)
    )
    assert sweep == pytest.approx(180 - angle, abs=1e-5)


def test_equal_sides_stay_equal_as_they_were_meant() -> None:
    square = rectangle(w=30, h=30)
    square.constraints += ties("equal l1 l2")[:1]
    square.constraints[-1] = square.constraints[-1].model_copy(update={"id": "k99"})
    square.dimensions = sizes("distance 30 l1")
    assert free(square) == 0
    made = fillet(square, VALUES, ["l1.q"], "6").sketch
    assert free(made) == 0
    area = sum(r.area for r in profile(made).default())
    assert area == pytest.approx(900 - (1 - math.pi / 4) * 36, rel=1e-9)


@pytest.mark.parametrize(
    ("corner", "radius", "said"),
    [
        ("l1.q", "31", "does not fit here: the shorter line leaves room for 30 mm at most"),
        ("l1.q", "-3", "more than zero"),
        ("l9.q", "3", "no longer in this sketch"),
        ("l5.p", "3", "1 lines meet"),
    ],
)
def test_what_cannot_be_rounded_is_said(corner: str, radius: str, said: str) -> None:
    base = box()
    base.entities.append(line(5, (80, 0), (90, 10)))
    with pytest.raises(Refusal, match=said):
        fillet(base, VALUES, [corner], radius)


def test_a_mirrored_half_closes_and_follows() -> None:
    half = Sketch(
        entities=[
            line(1, (0, 0), (20, 0)),
            line(2, (20, 0), (14, 25)),
            line(3, (14, 25), (0, 25)),
            circle(1, (9, 8), 3),
        ],
        constraints=ties(
            "coincident l1.p origin",
            "horizontal l1",
            "coincident l1.q l2.p",
            "coincident l2.q l3.p",
            "horizontal l3",
            "coincident l3.q y",
        ),
        dimensions=sizes(
            "distance 20 l1",
            "distance 14 l3",
            "distance 25 l3 l1",
            "diameter 6 c1",
            "distance 9 c1.c y",
            "distance 8 c1.c l1",
        ),
    )
    assert free(half) == 0
    made = mirror(half, VALUES, ["l1", "l2", "l3", "c1"], "y").sketch
    assert free(made) == numerical_freedom(made) == 0
    found = profile(made).default()
    assert sum(r.area for r in found) == pytest.approx(2 * ((20 + 14) / 2 * 25 - math.pi * 9), rel=1e-12)
    wider = edit.change_dimension(made, VALUES, "d1", {"expr": "31"}).sketch
    xs = sorted(x for e in wider.entities if isinstance(e, Line) for x in (e.p[0], e.q[0]))
    assert (xs[0], xs[-1]) == (pytest.approx(-31), pytest.approx(31))


def test_arcs_are_mirrored_about_any_line() -> None:
    sketch = Sketch(
        entities=[line(1, (0, 0), (30, 20), construction=True), arc(1, (4, 18), 6, 20, 200), line(2, (0, 30), (6, 26))],
        constraints=ties("fixed l1", "fixed a1"),
    )
    before = free(sketch)
    made = mirror(sketch, VALUES, ["a1"], "l1").sketch
    assert free(made) == before
    one, two = (e for e in made.entities if isinstance(e, Arc))
    assert two.r == pytest.approx(one.r)
    n = math.hypot(30, 20)
    for a, b in ((one.c, two.c), (one.p, two.q), (one.q, two.p)):
        middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        assert abs(30 * middle[1] - 20 * middle[0]) / n < 1e-9
        assert abs((b[0] - a[0]) * 30 + (b[1] - a[1]) * 20) / n < 1e-9


def test_mirroring_needs_a_line_and_something_to_mirror() -> None:
    with pytest.raises(Refusal, match="needs a line or an axis"):
        mirror(box(), VALUES, ["l1"], "origin")
    with pytest.raises(Refusal, match="Pick what to mirror"):
        mirror(box(), VALUES, ["l1"], "l1")


def test_by_command_with_a_named_radius() -> None:
    made = Made()
    made.do("set_value", name="edge", expr="4")
    made.sketch("s1", "top", box())
    made.do("sketch_fillet", step="s1", corners=["l1.q", "l3.q"], radius="edge")
    made.extrude("s2", "s1", "10")
    assert made.volume() == pytest.approx((1200 - (2 - math.pi / 2) * 16) * 10, rel=1e-12)
    made.do("set_value", name="edge", expr="7")
    assert made.volume() == pytest.approx((1200 - (2 - math.pi / 2) * 49) * 10, rel=1e-12)
    made.do("sketch_mirror", step="s1", ids=["l1", "l2", "l3", "l4"], about="y")
    assert len(made.document.steps[0].sketch.entities) == 11  # type: ignore[union-attr]


def test_chamfered_corners_keep_the_outer_sizes_and_full_constraint() -> None:
    base = box()
    made = chamfer(base, VALUES, list(corners_of(base)), "4").sketch
    assert free(made) == 0 == numerical_freedom(made)
    assert residual(made) < 1e-10
    area = sum(r.area for r in profile(made).default())
    assert area == pytest.approx(40 * 30 - 4 * 8, rel=1e-12)
    grown = edit.change_dimension(made, VALUES, "d1", {"expr": "60"}).sketch
    leg = next(d.id for d in made.dimensions if d.expr == "4")
    wider = edit.change_dimension(grown, VALUES, leg, {"expr": "6"}).sketch
    assert sum(r.area for r in profile(wider).default()) == pytest.approx(60 * 30 - 4 * 18, rel=1e-12)


@given(st.floats(25, 155), st.floats(1, 14))
@settings(max_examples=examples(30), deadline=None)
def test_a_chamfer_at_any_angle(angle: float, back: float) -> None:
    turn = math.radians(angle)
    end = (20 * math.cos(turn), 20 * math.sin(turn))
    sketch = Sketch(entities=[line(1, (15, 0), (0, 0)), line(2, (0, 0), end)], constraints=ties("coincident l1.q l2.p"))
    before = free(sketch)
    made = chamfer(sketch, VALUES, ["l1.q"], repr(back)).sketch
    assert free(made) == before == numerical_freedom(made)
    bevel = made.entity("l3")
    assert isinstance(bevel, Line)
    assert math.dist(bevel.p, bevel.q) == pytest.approx(2 * back * math.sin(turn / 2), rel=1e-9)
    with pytest.raises(Refusal, match="does not fit here"):
        chamfer(sketch, VALUES, ["l1.q"], "15.1")


@given(st.floats(25, 155), st.floats(1, 9), st.floats(1, 9), st.booleans(), st.booleans())
@settings(max_examples=examples(30), deadline=None)
def test_a_chamfer_by_two_distances(angle: float, one: float, two: float, other: bool, late: bool) -> None:
    """The first distance lies on the line that is named, whichever was drawn first."""
    turn = math.radians(angle)
    end = (20 * math.cos(turn), 20 * math.sin(turn))
    lines = [line(1, (15, 0), (0, 0)), line(2, (0, 0), end)]
    sketch = Sketch(entities=lines[::-1] if late else lines, constraints=ties("coincident l1.q l2.p"))
    before = free(sketch)
    ref = "l2.p" if other else "l1.q"
    made = chamfer(sketch, VALUES, [ref], Bevel(repr(one), repr(two))).sketch
    assert free(made) == before == numerical_freedom(made)
    first, second = made.entity("l1"), made.entity("l2")
    assert isinstance(first, Line) and isinstance(second, Line)
    along = (math.hypot(*first.q), math.hypot(*second.p))
    assert along == pytest.approx((two, one) if other else (one, two), rel=1e-9)


@given(st.floats(40, 130), st.floats(10, 45), st.floats(1, 6))
@settings(max_examples=examples(30), deadline=None)
def test_a_chamfer_by_distance_and_angle(opening: float, lean: float, back: float) -> None:
    turn = math.radians(opening)
    end = (40 * math.cos(turn), 40 * math.sin(turn))
    sketch = Sketch(entities=[line(1, (30, 0), (0, 0)), line(2, (0, 0), end)], constraints=ties("coincident l1.q l2.p"))
    made = chamfer(sketch, VALUES, ["l1.q"], Bevel(repr(back), angle=repr(lean))).sketch
    assert free(made) == free(sketch) == numerical_freedom(made)
    cut = made.entity("l3")
    assert isinstance(cut, Line)
    assert cut.p == pytest.approx((back, 0), abs=1e-9)
    # the cut leaves the first line at the angle, towards the corner
    assert math.degrees(math.atan2(cut.q[1], back - cut.q[0])) == pytest.approx(lean, abs=1e-7)
    steeper = next(d.id for d in made.dimensions if d.kind == "angle")
    turned = edit.change_dimension(made, VALUES, steeper, {"expr": repr(lean + 1)}).sketch
    cut, first = turned.entity("l3"), turned.entity("l1")
    assert isinstance(cut, Line) and isinstance(first, Line)
    to_corner = math.atan2(first.q[1] - first.p[1], first.q[0] - first.p[0])
    along = math.atan2(cut.q[1] - cut.p[1], cut.q[0] - cut.p[0])
    assert abs(math.degrees(math.remainder(along - to_corner, 2 * math.pi))) == pytest.approx(lean + 1, abs=1e-6)


def test_several_corners_take_one_chamfer_and_what_does_not_fit_is_said() -> None:
    made = chamfer(box(), VALUES, ["l1.q", "l3.q"], Bevel("4", "2")).sketch
    assert sum(r.area for r in profile(made).default()) == pytest.approx(1200 - 2 * 4, rel=1e-12)
    assert [d.expr for d in made.dimensions][-2:] == ["4", "2"]
    assert free(made) == 0
    leaning = chamfer(box(), VALUES, ["l1.q", "l3.q"], Bevel("4", angle="30")).sketch
    cut = 4 * 4 * math.tan(math.radians(30)) / 2
    assert sum(r.area for r in profile(leaning).default()) == pytest.approx(1200 - 2 * cut, rel=1e-12)
    assert free(leaning) == 0
    whole = chamfer(box(), VALUES, ["l2.p"], Bevel("30", "5")).sketch  # one side is used up, the other is not
    assert sum(r.area for r in profile(whole).default()) == pytest.approx(1200 - 75, rel=1e-12)
    for bevel, said in (
        (Bevel("5", "41"), "41 mm does not fit here: its line is"),
        (Bevel("5", angle="95"), "never meets"),
        (Bevel("5", "3", "30"), "one of them"),
        (Bevel("31"), "the shorter line is 30 mm long"),
    ):
        with pytest.raises(Refusal, match=said):
            chamfer(box(), VALUES, ["l1.q"], bevel)
    inches = Values(lambda text, kind: float(text) * 25.4, "in")
    with pytest.raises(Refusal, match=r"2 in does not fit here: the shorter line is 1\.1811 in long"):
        chamfer(box(), inches, ["l1.q"], "2")


def test_corners_are_chamfered_by_command_with_a_named_value() -> None:
    made = Made()
    made.sketch("s1", "top", box())
    made.do("set_value", name="edge", expr="3")
    made.do("sketch_chamfer", step="s1", corners=["l1.q", "l3.q"], distance="edge")
    made.extrude("s2", "s1", "10")
    assert made.volume() == pytest.approx((1200 - 9) * 10, rel=1e-12)
    made.do("set_value", name="edge", expr="5")
    assert made.volume() == pytest.approx((1200 - 25) * 10, rel=1e-12)


def test_all_corners_of_a_rectangle_held_by_symmetric_sides_can_be_rounded() -> None:
    drawn = rectangle(x=-32, y=-22, w=64, h=44, held=False)
    symmetric = [
        t.model_copy(update={"id": f"k5{n}"}) for n, t in enumerate(ties("symmetric l2 l4 y", "symmetric l1 l3 x"))
    ]
    drawn.constraints = [*drawn.constraints, *symmetric]
    drawn.dimensions = sizes("distance 64 l1", "distance 44 l2")
    assert free(drawn) == 0
    for corners in (["l1.q"], ["l1.q", "l2.q", "l3.q", "l4.q"], ["l4.q", "l2.q"]):
        made = fillet(drawn, VALUES, corners, "6").sketch
        assert free(made) == 0
        [region] = profile(made).default()
        assert region.area == pytest.approx(64 * 44 - len(corners) * (1 - math.pi / 4) * 36)


@pytest.mark.parametrize("order", [["l2.p", "l2.q"], ["l2.q", "l2.p"]])
@pytest.mark.parametrize("at_once", [True, False])
@pytest.mark.parametrize("width", [True, False], ids=["width given", "width free"])
def test_a_full_round_end(order: list[str], at_once: bool, width: bool) -> None:
    """A radius of exactly half a width leaves one arc from side to side, with nothing said twice and nothing lost."""
    bar = rectangle(w=90, h=64)
    bar.dimensions = sizes("distance 90 l1", "distance 64 l2") if width else sizes("distance 90 l1")
    for corners in [order] if at_once else [[c] for c in order]:
        bar = fillet(bar, VALUES, corners, "32").sketch
    assert free(bar) == 0 == numerical_freedom(bar)
    (region,) = profile(bar).regions
    assert region.area == pytest.approx(58 * 64 + math.pi * 32**2 / 2, rel=1e-9)
    assert len(region.outer) == 4  # three sides and one arc
    assert [d.driving for d in bar.dimensions if d.kind == "radius"][:1] == [not width]
    assert not redundant(bar)
    wider = [d.model_copy(update={"expr": "50"}) if d.expr == "64" else d for d in bar.dimensions]
    if width:
        slimmer = edit.resolve(bar.model_copy(update={"dimensions": wider}), VALUES).sketch
        assert profile(slimmer).regions[0].area == pytest.approx(65 * 50 + math.pi * 25**2 / 2, rel=1e-9)


def test_a_side_that_a_round_or_chamfer_uses_up_stays_as_construction() -> None:
    bar = rectangle(w=90, h=64)
    bar.dimensions = sizes("distance 90 l1", "distance 64 l2")
    for change, area in ((fillet, 64**2 * (1 - math.pi / 4)), (chamfer, 64**2 / 2)):
        made = change(bar, VALUES, ["l2.q"], "64").sketch
        (region,) = profile(made).regions
        assert region.area == pytest.approx(90 * 64 - area, rel=1e-9)
        assert free(made) == 0 == numerical_freedom(made)
        assert not redundant(made)
    square = rectangle(w=20, h=20)
    square.dimensions = sizes("distance 20 l1", "distance 20 l2")
    made = fillet(square, VALUES, ["l2.q"], "20").sketch
    assert profile(made).regions[0].area == pytest.approx(math.pi * 100, rel=1e-9)
    assert free(made) == 0 == numerical_freedom(made)


def redundant(sketch: Sketch) -> list[str]:
    """Ties that say what others say already."""
    said = []
    for tie in edit.ties_of(sketch):
        rest = sketch.model_copy(
            update={
                "constraints": [c for c in sketch.constraints if c.id != tie.id],
                "dimensions": [d for d in sketch.dimensions if d.id != tie.id],
            }
        )
        driving = getattr(tie, "driving", True)
        if driving and free(rest) == free(sketch):
            said.append(f"{tie.kind} {tie.refs}")
    return said

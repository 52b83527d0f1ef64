"""Closed regions: areas by closed form, islands, crossings, open ends, picks that survive."""

import math
import random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.sketch.model import Line, Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.regions import RegionPick
from tests.examples import examples

from .sketches import arc, circle, line, rectangle, slot


def areas(sketch: Sketch) -> list[float]:
    return [r.area for r in profile(sketch).regions]


def test_rectangle_with_islands() -> None:
    plate = rectangle()
    plate.entities += [circle(1, (10, 10), 4), circle(2, (10, 10), 2), circle(3, (30, 15), 5)]
    found = profile(plate)
    assert areas(plate) == pytest.approx(
        [1200 - 16 * math.pi - 25 * math.pi, 25 * math.pi, 12 * math.pi, 4 * math.pi], rel=1e-12
    )
    assert [r.depth for r in found.regions] == [0, 1, 1, 2]
    assert sum(r.area for r in found.default()) == pytest.approx(1200 - 41 * math.pi + 4 * math.pi)
    assert not found.open_ends
    for region in found.regions:
        x, y = region.inside()
        assert 0 < x < 40
        assert 0 < y < 30


def test_a_line_across_makes_two_regions_and_tails_bound_nothing() -> None:
    plate = rectangle()
    plate.entities += [line(9, (20, -5), (20, 50)), line(10, (5, 5), (9, 9))]
    found = profile(plate)
    assert [r.area for r in found.regions] == pytest.approx([600, 600])
    assert len(found.open_ends) == 4


@pytest.mark.parametrize("d", [0.0, 3.0, 7.0, 9.99])
def test_crossing_circles(d: float) -> None:
    """Lens and crescents of two circles of radius 5, d apart, by the closed form of a circular segment."""
    sketch = (
        Sketch(entities=[circle(1, (0, 0), 5), circle(2, (d, 0), 5)]) if d else Sketch(entities=[circle(1, (0, 0), 5)])
    )
    if not d:
        assert areas(sketch) == pytest.approx([25 * math.pi], rel=1e-14)
        return
    half = math.acos(d / 10)
    lens = 50 * half - d * 5 * math.sin(half)
    assert sorted(areas(sketch)) == pytest.approx(sorted([lens, 25 * math.pi - lens, 25 * math.pi - lens]), rel=1e-9)


def test_tangent_circle_inside_a_square_and_a_slot() -> None:
    square = rectangle(w=10, h=10)
    square.entities.append(circle(1, (5, 5), 5))
    assert sorted(areas(square)) == pytest.approx([(100 - 25 * math.pi) / 4] * 4 + [25 * math.pi], rel=1e-9)
    assert areas(slot()) == pytest.approx([200 + 25 * math.pi], rel=1e-12)


def test_construction_lines_bound_nothing_and_a_gap_is_told() -> None:
    sketch = rectangle()
    sketch.entities[0] = sketch.entities[0].model_copy(update={"construction": True})
    assert areas(sketch) == []
    gap = rectangle()
    top = gap.entities[2]
    assert isinstance(top, Line)
    gap.entities[2] = top.model_copy(update={"q": (0.001, 30)})
    found = profile(gap)
    assert found.regions == []
    assert len(found.open_ends) == 2


@given(st.floats(0.01, 1e4), st.floats(-1e3, 1e3), st.floats(0, 360))
@settings(max_examples=examples(60), deadline=None)
def test_any_place_turn_and_scale(scale: float, shift: float, turn: float) -> None:
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def at(x: float, y: float) -> tuple[float, float]:
        return (scale * (c * x - s * y) + shift, scale * (s * x + c * y) - shift)

    corners = [at(0, 0), at(8, 0), at(8, 5), at(0, 5)]
    lines = [line(i + 1, corners[i], corners[(i + 1) % 4]) for i in range(4)]
    sketch = Sketch(entities=[*lines, circle(1, at(4, 2.5), scale)])
    found = profile(sketch).regions
    assert [r.area for r in found] == pytest.approx([(40 - math.pi) * scale**2, math.pi * scale**2], rel=1e-7)


def test_a_pick_survives_a_change_of_size_and_knows_when_it_is_gone() -> None:
    plate = rectangle()
    plate.entities.append(line(9, (20, 0), (20, 30)))
    left = next(r for r in profile(plate).regions if r.inside()[0] < 20)
    pick = RegionPick(around=left.around, at=left.inside())
    wider = rectangle(w=90)
    wider.entities.append(line(9, (35, 0), (35, 30)))
    chosen = profile(wider).chosen([pick])[0]
    assert chosen is not None
    assert chosen.area == pytest.approx(35 * 30)
    assert profile(Sketch(entities=[circle(1, (0, 0), 3)])).chosen([pick]) == [None]


def test_what_is_drawn_over_itself_bounds_once() -> None:
    twice = rectangle(w=30, h=20)
    twice.entities += [line(9, (30, 0), (30, 20)), line(10, (-5, 0), (40, 0))]
    assert areas(twice) == pytest.approx([600])
    assert [r.around for r in profile(twice).regions] == [["l1", "l2", "l3", "l4"]]
    # a half circle drawn over a whole one, and the chord between
    over = Sketch(entities=[circle(1, (0, 0), 5), arc(2, (0, 0), 5, 0, 180), line(3, (-5, 0), (5, 0))])
    assert areas(over) == pytest.approx([12.5 * math.pi] * 2)


@pytest.mark.parametrize("first", [True, False])
def test_a_line_along_an_edge_of_the_part_closes_by_itself(first: bool) -> None:
    """What is drawn goes before what the part gives, so that walls are named by it."""
    edge = line(20, (-10, 0), (50, 0))
    box = rectangle(w=30, h=20).entities
    sketch = Sketch(entities=[edge, *box] if first else [*box, edge], given=["l20"])
    found = profile(sketch)
    assert [r.area for r in found.regions] == pytest.approx([600])
    assert found.regions[0].around == ["l1", "l2", "l3", "l4"]
    assert not found.open_ends
    without = Sketch(entities=[edge, *box[1:]], given=["l20"])
    assert profile(without).regions[0].around == ["l2", "l20", "l3", "l4"]


# -- what merely touches, and the order of drawing --------------------------------------------------

shuffled = st.randoms(use_true_random=False)


def default_areas(entities: list[Any], given: list[str] | None = None) -> list[float]:
    found = profile(Sketch(entities=entities, given=given or []))
    return sorted(round(r.area, 6) for r in found.default())


def turned(entities: list[Any], rnd: random.Random) -> list[Any]:
    """The same drawing in another order, lines drawn the other way round."""
    other = [
        e.model_copy(update={"p": e.q, "q": e.p}) if e.kind == "line" and rnd.random() < 0.5 else e for e in entities
    ]
    rnd.shuffle(other)
    return other


LOOSE = {
    "a chain towards a corner": [line(8, (66, 45), (55, 52)), line(9, (55, 52), (40, 30))],
    "a chain from a corner": [line(8, (40, 30), (55, 52)), line(9, (55, 52), (66, 45)), line(7, (66, 45), (70, 70))],
    "a chain inside": [line(8, (0, 0), (10, 10)), line(9, (10, 10), (20, 12))],
    "a line from side to corner": [line(8, (20, 0), (25, -10))],
    "a fork": [line(7, (40, 30), (50, 40)), line(8, (50, 40), (60, 40)), line(9, (50, 40), (50, 50))],
}


@pytest.mark.parametrize("loose", LOOSE.values(), ids=LOOSE)
@given(shuffled)
@settings(max_examples=examples(15), deadline=None)
def test_a_loose_chain_takes_no_region(loose: list[Any], rnd: random.Random) -> None:
    assert default_areas(turned([*rectangle().entities, *loose], rnd)) == [1200]


@given(shuffled)
@settings(max_examples=examples(15), deadline=None)
def test_what_joins_two_outlines_bounds_nothing(rnd: random.Random) -> None:
    hole = circle(1, (20, 15), 5)
    found = profile(Sketch(entities=turned([*rectangle().entities, hole, line(9, (0, 0), (15, 15))], rnd)))
    (plate,) = found.default()
    assert plate.area == pytest.approx(1200 - 25 * math.pi)
    assert (len(plate.outer), len(plate.holes)) == (4, 1)


# -- the part's edges bound where they are needed ------------------------------------------------------

BOX = [line(91, (0, 0), (40, 0)), line(92, (40, 0), (40, 30)), line(93, (40, 30), (0, 30)), line(94, (0, 30), (0, 0))]
NOTCH = [line(1, (10, 30), (10, 20)), line(2, (10, 20), (25, 20)), line(3, (25, 20), (25, 30))]
BOSS = [line(1, (10, 30), (10, 42)), line(2, (10, 42), (25, 42)), line(3, (25, 42), (25, 30))]
WITH_PART = {
    "a notch": (NOTCH, BOX, 150),
    "a boss beside": (BOSS, BOX, 180),
    "an edge and the one behind it": (NOTCH, [BOX[2], line(95, (35, 30), (-5, 30))], 150),
    "an edge and a longer one behind it": (NOTCH, [line(95, (12, 30), (22, 30)), BOX[2]], 150),
    "a hole on a rim's centre": ([circle(1, (20, 15), 4)], [circle(91, (20, 15), 9)], 16 * math.pi),
    "a hole round a rim": ([circle(1, (20, 15), 9)], [circle(91, (20, 15), 4)], 81 * math.pi),
    "a hole across an edge": ([circle(1, (20, 0), 4)], BOX, 16 * math.pi),
    "edges at both ends": (
        [line(1, (5, 5), (15, 5)), line(2, (15, 5), (15, 12)), line(3, (15, 12), (5, 12)), line(4, (5, 12), (5, 5))],
        [line(91, (5, -20), (5, 50)), line(92, (15, -20), (15, 50))],
        70,
    ),
    "a corner cut off": ([line(1, (0, 20), (10, 30))], BOX, 50),
    "a flat on a round": ([line(1, (-3, 4), (3, 4))], [circle(91, (0, 0), 5)], 25 * math.acos(0.8) - 12),
    "the part's outline alone": ([], BOX, 1200),
}


@pytest.mark.parametrize(("own", "edges", "area"), WITH_PART.values(), ids=WITH_PART)
@given(shuffled)
@settings(max_examples=examples(10), deadline=None)
def test_edges_of_the_part_bound_where_they_are_needed(
    own: list[Any], edges: list[Any], area: float, rnd: random.Random
) -> None:
    given = [e.id for e in edges]
    assert sum(default_areas(turned([*own, *edges], rnd), given)) == pytest.approx(area, abs=1e-5)


def test_the_ring_between_a_rim_and_a_circle_can_still_be_picked() -> None:
    found = profile(Sketch(entities=[circle(1, (0, 0), 9), circle(91, (0, 0), 4)], given=["c91"]))
    assert sorted(round(r.area / math.pi) for r in found.regions) == [16, 65]
    assert all(found.is_default(r) for r in found.regions)
    (ring,) = found.chosen([RegionPick(around=["c1"], at=(6, 0))])
    assert ring is not None
    assert ring.area == pytest.approx(65 * math.pi)


def test_a_ring_picked_is_not_taken_for_the_whole() -> None:
    found = profile(Sketch(entities=[circle(1, (0, 0), 9), circle(91, (0, 0), 4)], given=["c91"]))
    assert [r.area for r in found.default()] == pytest.approx([81 * math.pi])

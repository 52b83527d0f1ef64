"""Walls: thickness against closed forms, limits, sharp changes."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sulvak_core.making.checks import checked
from sulvak_core.making.patches import patches
from sulvak_core.making.walls import RINGS, _may_jump, check_walls, probe, thickness
from sulvak_core.part.shop import WallLimits
from sulvak_core.rebuild.state import Body
from sulvak_core.sketch.model import Sketch

from .parts import Made, disc, plate
from .sketches import circle, line


def bodies(made: Made) -> list[Body]:
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return built.state.bodies


def tube(outer: float = 20, inner: float = 17, long: str = "60") -> Made:
    made = Made()
    made.sketch("s1", "top", Sketch(entities=[circle(1, (0, 0), outer), circle(2, (0, 0), inner)]))
    made.extrude("s2", "s1", long)
    return made


def wedge(angle: float = 12.0, long: float = 60.0) -> Made:
    """Two planes that meet at an angle along an edge at x = 0, cut off at x = ``long``."""
    made = Made()
    high = long * math.tan(math.radians(angle))
    at = [(0.0, 0.0), (long, 0.0), (long, high)]
    made.sketch("s1", "front", Sketch(entities=[line(k + 1, at[k], at[(k + 1) % 3]) for k in range(3)]))
    made.extrude("s2", "s1", "40")
    return made


def measured(made: Made) -> tuple[Any, Any, Any]:
    p = patches(bodies(made))
    rays, balls = thickness(p, p.middles, p.outward)
    return p, rays, balls


def test_a_plate_is_as_thick_as_it_is_everywhere() -> None:
    p, rays, balls = measured(plate(80, 60, "3"))
    flat = np.abs(p.outward[:, 2]) > 0.99
    inside = flat & (np.abs(p.middles[:, 0] - 40) < 36) & (np.abs(p.middles[:, 1] - 30) < 26)
    assert inside.sum() > 500
    assert rays[inside] == pytest.approx(3, rel=1e-3)
    assert balls[inside] == pytest.approx(3, rel=1e-3)


@given(st.integers(0, 2**32 - 1), st.integers(0, 120), st.sampled_from([1.2, 1.6, 3.0]))
def test_no_sharp_change_is_passed_over_by_cubes(seed: int, count: int, times: float) -> None:
    rng = np.random.default_rng(seed)
    places = rng.uniform(-3, 3, (count, 3)) * rng.choice([0.1, 1.0], 3)
    if seed % 2:
        places = np.round(places)  # on the bounds of the cubes, and exactly within reach
    thick = rng.choice([1.0, times * (1 + 1e-12), times * 1.5, 10.0], count)
    thin, fat = _may_jump(places, thick, 1.0, times)
    near = np.linalg.norm(places[:, None] - places, axis=2) <= 1.0
    one, two = np.nonzero(near & (thick / thick[:, None] > times))
    assert thin[one].all()
    assert fat[two].all()


def test_a_ray_with_an_end_meets_what_lies_before_it() -> None:
    p = patches(bodies(tube()))
    rng = np.random.default_rng(1)
    starts = rng.uniform(-25, 25, (2000, 3)) + np.array([0, 0, 30])
    ways = rng.normal(size=(2000, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    far, met = p.rays.first(starts, ways)
    within = np.where(rng.random(2000) < 0.5, rng.uniform(0, 40, 2000), np.where(np.isfinite(far), far, 5.0))
    ended, met_before = p.rays.first(starts, ways, within)
    before = far <= within
    assert 200 < before.sum() < 1800
    assert (ended[before] == far[before]).all()
    assert (met_before[before] == met[before]).all()
    assert (ended[~before] > within[~before]).all()


def test_a_tubes_wall() -> None:
    p, rays, balls = measured(tube())
    radial = np.hypot(p.outward[:, 0], p.outward[:, 1]) > 0.99
    middle = radial & (np.abs(p.middles[:, 2] - 30) < 20)
    assert rays[middle] == pytest.approx(3, rel=1e-2)
    assert balls[middle] == pytest.approx(3, rel=1e-2)


def test_a_wedge_by_balls_and_by_rays() -> None:
    """From the lower plane at x the ray goes x tan α, the ball there has the diameter 2 x tan(α / 2)."""
    a = math.radians(12)
    p, rays, balls = measured(wedge())
    under = (p.outward[:, 2] < -0.99) & (np.abs(p.middles[:, 0] - 30) < 18) & (np.abs(p.middles[:, 1] + 20) < 12)
    x = p.middles[under][:, 0]
    assert under.sum() > 100
    assert rays[under] == pytest.approx(x * math.tan(a), rel=1e-2)
    assert balls[under] == pytest.approx(2 * x * math.tan(a / 2), rel=1e-2)


def test_a_ball_in_a_block_is_held_by_the_other_sides_only() -> None:
    """The walls beside a corner do not count: the middle of a block 40 × 30 × 10 is 10 thick."""
    assert probe(bodies(plate()), (20, 15, 10), (0, 0, 1)) == (pytest.approx(10, rel=1e-3), pytest.approx(10, rel=1e-3))


def test_limits_and_places() -> None:
    made = plate(60, 40, "8")
    made.sketch("s3", made.face("s2/end"), disc((20, 20), 8))
    made.extrude("s4", "s3", "7.2", "cut")
    found = check_walls(bodies(made), WallLimits(least=1.0, most=7.5))
    thin = [f for f in found.findings if f.kind == "thin wall"]
    assert thin[0].value == pytest.approx(0.8, rel=5e-3)
    assert thin[0].step == "s4"
    assert math.hypot(thin[0].at[0] - 20, thin[0].at[1] - 20) < 8.1  # type: ignore[index]
    assert any(f.kind == "thick wall" for f in found.findings)
    assert found.figures["thinnest"] == pytest.approx(0.8, rel=5e-3)
    assert not found.passed
    band = {b.name: b.area for b in found.bands}
    assert band["thin"] == pytest.approx(2 * math.pi * 64, rel=0.06)  # the floor from both sides
    assert (
        not check_walls(bodies(made), WallLimits(least=0.5)).findings
        or check_walls(bodies(made), WallLimits(least=0.5)).passed
    )


def test_a_sharp_change_is_told() -> None:
    made = plate(60, 40, "2")
    made.sketch("s3", made.face("s2/end"), disc((30, 20), 10))
    made.extrude("s4", "s3", "12")
    found = check_walls(bodies(made), WallLimits(least=0.5, jump=3))
    sharp = [f for f in found.findings if f.kind == "sharp change"]
    assert sharp and sharp[0].value is not None and sharp[0].value > 3
    assert sharp[0].worth == "note" and found.passed
    even = check_walls(bodies(plate(60, 40, "2")), WallLimits(least=0.5, jump=3))
    assert not [f for f in even.findings if f.kind == "sharp change"]


def test_every_body_is_measured_by_itself() -> None:
    """Two plates that lie on each other are two walls."""
    made = plate(40, 30, "3")
    made.sketch(
        "s3",
        made.face("s2/end"),
        Sketch(
            entities=[
                line(1, (5, 5), (35, 5)),
                line(2, (35, 5), (35, 25)),
                line(3, (35, 25), (5, 25)),
                line(4, (5, 25), (5, 5)),
            ]
        ),
    )
    made.extrude("s4", "s3", "5", "new")
    found = check_walls(bodies(made), WallLimits(least=1))
    assert found.figures["thinnest"] == pytest.approx(3, rel=1e-3)
    assert found.passed


def test_how_far_it_is_is_told() -> None:
    made = plate()
    told: list[tuple[int, int]] = []
    checked(made.document, made.build(), "walls", lambda k, n: told.append((k, n)))
    assert told == [(k, RINGS) for k in range(1, RINGS + 1)]
    told.clear()
    checked(made.document, made.build(), "cutters", lambda k, n: told.append((k, n)))
    assert told[-1][0] == told[-1][1] == len(told)

"""Outlines of hundreds of curves: what is asked of each of them at once comes out right, and not one by one."""

from __future__ import annotations

import math
from unittest import mock

import numpy as np
import pytest
from hypothesis import event, given, settings
from hypothesis import strategies as st

from sulvak_core.sketch import edit, freedom, full_rank, regions
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.model import Arc, Circle, Line, Sketch
from sulvak_core.sketch.offset import offset
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.shape import chamfer, fillet
from sulvak_core.sketch.trim import trim_all
from sulvak_core.steps import commands
from sulvak_core.steps.effects import apply
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import load
from tests.examples import examples

from .sketches import arc, circle, line, numerical_freedom, residual, sizes, ties, values

XY = tuple[float, float]
VALUES = Values(lambda said, kind: float(said))


def ring(n: int, radius: float = 300.0, teeth: float = 0.0) -> Sketch:
    """A closed outline of ``n`` lines, joined; every other corner stands ``teeth`` mm further out."""
    polar = [(radius + teeth * (k % 2), 2 * math.pi * k / n) for k in range(n)]
    at = [(r * math.cos(a), r * math.sin(a)) for r, a in polar]
    joints = [f"coincident l{k}.q l{k % n + 1}.p" for k in range(1, n + 1)]
    return Sketch(entities=[line(k + 1, at[k], at[(k + 1) % n]) for k in range(n)], constraints=ties(*joints))


def area(n: int, radius: float) -> float:
    return n / 2 * radius**2 * math.sin(2 * math.pi / n)


@pytest.mark.parametrize(("n", "teeth"), [(300, 20.0), (301, 0.0), (24, 200.0)])
def test_a_place_inside_is_inside_and_not_at_the_edge(n: int, teeth: float) -> None:
    (region,) = profile(ring(n, teeth=teeth)).regions
    at = region.inside()
    assert regions.covers(region, at)
    room = min(math.dist(at, p.at(t / 8)) for p in region.outer for t in range(9))
    assert room > 5.0


@st.composite
def plates(draw: st.DrawFn) -> Sketch:
    """An outline of lines, one of them bulged, with round and square holes."""
    w, d = draw(st.floats(20, 60)), draw(st.floats(20, 60))
    corners = [(0.0, 0.0), (w, 0.0), (w, d), (0.0, d)]
    found: list[Line | Arc | Circle] = [line(k + 1, corners[k], corners[(k + 1) % 4]) for k in range(3)]
    out = draw(st.booleans())
    found.append(arc(1, (0.0, d / 2), d / 2, 90, 270) if out else line(4, (0.0, d), (0.0, 0.0)))
    for k in range(draw(st.integers(0, 3))):
        found.append(circle(k + 1, (w * (k + 1) / 5, d / 3), draw(st.floats(0.5, w / 12))))
    return Sketch(entities=found)


@settings(max_examples=examples(60), deadline=None)
@given(plates(), st.lists(st.tuples(st.floats(-40, 70), st.floats(-10, 70)), min_size=1, max_size=40))
def test_many_places_at_once_are_told_like_one(sketch: Sketch, places: list[XY]) -> None:
    region = profile(sketch).regions[0]
    loops = [region.outer, *region.holes]
    for at, room in zip(places, regions._Bounds(loops).rooms(places), strict=True):
        edge = min(math.dist(at, p.at(t / 400)) for loop in loops for p in loop for t in range(401))
        if edge > 1e-6:
            assert (room >= 0.0) == regions.covers(region, at)
        if room >= 0.0:  # the edge was walked in steps; an arc counts as its whole circle
            assert room <= edge + 1e-9
            assert room > edge - 0.5 or any(isinstance(e, Arc) for e in sketch.entities)


def test_a_long_chain_is_offset_at_once() -> None:
    sketch = ring(120)
    with mock.patch.object(edit, "_one_by_one", side_effect=AssertionError("tied one by one")):
        made = offset(sketch, VALUES, [e.id for e in sketch.entities], "5", (0.0, 0.0)).sketch
    before, after = (freedom.freedom(s, values(s)).count for s in (sketch, made))
    assert (before, after) == (240, 240)  # the copy brings nothing free with it
    inner = min(r.area for r in profile(made).regions if r.depth == 1)
    apothem = 300 * math.cos(math.pi / 120)
    assert inner == pytest.approx(area(120, 300 * (apothem - 5) / apothem), rel=1e-9)


def test_as_long_a_chain_as_may_be_asked_for_is_offset() -> None:
    """Four hundred curves, joined smoothly: every one names its copy and the ends that stand square across."""
    n, r = 400, 300.0
    arcs = [arc(k + 1, (0.0, 0.0), r, 360 * k / n, 360 * (k + 1) / n) for k in range(n)]
    joints = [f"coincident a{k}.q a{k % n + 1}.p" for k in range(1, n + 1)]
    sketch = Sketch(entities=arcs, constraints=ties(*joints)).model_dump()
    step = {"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}, "sketch": sketch}
    asked = {"do": "sketch_offset", "step": "s1", "ids": [a.id for a in arcs], "distance": "5", "at": (0.0, 0.0)}
    done = apply(load({"name": "ring", "steps": [step]}), commands.read(asked)).document.steps[0]
    assert isinstance(done, SketchStep)
    made = done.sketch
    assert len(made.entities) == 2 * n
    assert {round(e.r, 9) for e in made.entities} == {295.0, 300.0}


def test_many_corners_are_rounded_and_cut_off() -> None:
    """Each corner loses what a round, or a bevel, takes from its two sides: told by closed form."""
    n, size = 80, 4.0
    sketch = ring(n)
    corners = [f"l{k}.q" for k in range(1, n + 1)]
    turn = 2 * math.pi / n
    rounded = fillet(sketch, VALUES, corners, f"{size}").sketch
    lost = n * size**2 * (math.tan(turn / 2) - turn / 2)
    assert profile(rounded).regions[0].area == pytest.approx(area(n, 300.0) - lost, rel=1e-9)
    bevelled = chamfer(sketch, VALUES, corners, f"{size}").sketch
    lost = n * size**2 / 2 * math.sin(turn)
    assert profile(bevelled).regions[0].area == pytest.approx(area(n, 300.0) - lost, rel=1e-9)
    for made in (rounded, bevelled):
        assert residual(made) < 1e-9
        assert freedom.freedom(made, values(made)).count == numerical_freedom(made) == 2 * n


def test_what_lies_far_away_cuts_nothing() -> None:
    """Every second spoke of a wheel trimmed back to the rim, among many that are not touched."""
    n = 60
    turns = [2 * math.pi * k / n for k in range(n)]
    spokes = [line(k + 1, (0.0, 0.0), (120 * math.cos(a), 120 * math.sin(a))) for k, a in enumerate(turns)]
    sketch = Sketch(entities=[circle(1, (0.0, 0.0), 100.0), *spokes])
    places = [(f"l{k + 1}", (110 * math.cos(turns[k]), 110 * math.sin(turns[k]))) for k in range(0, n, 2)]
    made = trim_all(sketch, VALUES, places).sketch
    long = {e.id: math.hypot(*e.q) for e in made.entities if isinstance(e, Line)}
    assert long == pytest.approx({f"l{k + 1}": 120.0 if k % 2 else 100.0 for k in range(n)})


@pytest.mark.parametrize("together", [1, 7, 1000])
def test_motions_are_the_same_however_many_are_told_at_once(together: int) -> None:
    joints = [f"coincident l{k}.q l{k % 6 + 1}.p" for k in range(1, 7)]
    sketch = Sketch(
        entities=[*ring(6).entities, circle(1, (3.0, 4.0), 2.0), arc(1, (9.0, 9.0), 2.0, 0, 120)],
        constraints=ties(*joints, "tangent l2 c1", "equal c1 a1"),
    )
    known = freedom.freedom(sketch, {}).motions
    with mock.patch.object(freedom, "TOGETHER", together):
        again = freedom.freedom(sketch, {}).motions
    assert len(known) == freedom.freedom(sketch, {}).count
    for one, two in zip(known, again, strict=True):
        assert (one.points, one.radii, one.entities) == (two.points, two.radii, two.entities)
        top = max([math.hypot(*s) for s in one.points.values()] + [abs(v) for v in one.radii.values()])
        assert 1.0 <= top + 1e-12 <= math.sqrt(2) + 1e-9
        movers = {ref.split(".")[0] for ref in one.points} | set(one.radii)
        assert movers == set(one.entities)


@st.composite
def trusses(draw: st.DrawFn) -> tuple[Sketch, dict[str, float]]:
    """Rods of given lengths between joints of a strip, some of them left out, some joints made level."""
    bays = draw(st.integers(20, 60))
    random = np.random.default_rng(draw(st.integers(0, 1 << 30)))
    off = random.normal(0, 0.8, (bays + 2, 2))
    joints = [(10.0 * (i // 2) + 5.0 * (i % 2) + x, 8.0 * (i % 2) + y) for i, (x, y) in enumerate(off.tolist())]
    pairs = [(i, i + 1) for i in range(bays + 1)] + [(i, i + 2) for i in range(bays)]
    rods, rows, at = [], [], dict[int, str]()
    for n, (i, j) in enumerate(pairs, 1):
        rods.append(line(n, joints[i], joints[j]))
        for joint, end in ((i, f"l{n}.p"), (j, f"l{n}.q")):
            rows += [f"coincident {at[joint]} {end}"] if joint in at else []
            at.setdefault(joint, end)
    rows.append(f"coincident {at[0]} origin")
    kept = random.random(len(rods)) < draw(st.sampled_from([0.4, 0.8, 1.0]))
    lengths = [f"distance {math.dist(r.p, r.q)!r} {r.id}" for r, keep in zip(rods, kept, strict=True) if keep]
    sketch = Sketch(entities=rods, constraints=ties(*rows), dimensions=sizes(*lengths))
    return sketch, values(sketch)


@settings(max_examples=examples(60), deadline=None)
@given(trusses())
def test_what_moves_is_the_same_by_band_as_by_pivoting(given: tuple[Sketch, dict[str, float]]) -> None:
    sketch, known = given
    reduced = freedom.reduce(freedom.Builder(sketch, known).build())
    for _, J in freedom._jacobians(reduced):
        rank, N = freedom.null_space(J)
        with mock.patch.object(full_rank, "LARGE", 1), mock.patch.object(full_rank, "FEW", 3):
            by_band = full_rank.moving(freedom.row_scaled(J))
        event(f"by band: {by_band is not None}")
        if by_band is not None:
            assert rank == len(J)
            assert by_band.tolist() == freedom._moves(N).tolist()


@pytest.mark.parametrize("share", [0.0, 1e-9, 1e-7, 1e-4])
def test_rows_that_are_nearly_one_are_left_to_pivoting(share: float) -> None:
    """Nothing is said of rows that differ by less than a millionth; of others the band says what moves."""
    n = 400
    J = np.eye(n, n + 2) - np.eye(n, n + 2, 1)
    assert full_rank.moving(freedom.row_scaled(J)) is not None
    J[7] = J[6]
    J[7, 200] = share
    found = full_rank.moving(freedom.row_scaled(J))
    assert (found is None) == (share < 1e-6)

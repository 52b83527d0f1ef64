"""Generated profiles made solid: volumes, centres and skins against closed forms, and the same part in other files."""

from __future__ import annotations

import io
import math
import struct
from typing import Any

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.exchange import solid_files
from sulvak_core.exchange.drawing import Chosen, entities
from sulvak_core.exchange.dxf_in import read_dxf
from sulvak_core.exchange.sketch_out import sketch_dxf, sketch_svg
from sulvak_core.exchange.svg_in import read_svg
from sulvak_core.sketch.model import Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.solid.bulk import bulk
from sulvak_core.solid.files import step_volumes
from tests.examples import examples

from .parts import Made
from .sketches import arc, circle, ellipse, line

sizes = st.floats(2, 80)


def polygon(corners: list[tuple[float, float]]) -> Sketch:
    n = len(corners)
    return Sketch(entities=[line(i + 1, corners[i], corners[(i + 1) % n]) for i in range(n)])


@st.composite
def stars(draw: Any) -> list[tuple[float, float]]:
    """A star-shaped polygon about the origin: never crossing itself."""
    n = draw(st.integers(3, 9))
    radii = [draw(st.floats(5, 60)) for _ in range(n)]
    return [(r * math.cos(2 * math.pi * i / n), r * math.sin(2 * math.pi * i / n)) for i, r in enumerate(radii)]


def shoelace(corners: list[tuple[float, float]]) -> tuple[float, tuple[float, float], float]:
    """Area, centre and outline of a polygon."""
    area = cx = cy = around = 0.0
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        cross = ax * by - bx * ay
        area, cx, cy = area + cross / 2, cx + (ax + bx) * cross / 6, cy + (ay + by) * cross / 6
        around += math.hypot(bx - ax, by - ay)
    return area, (cx / area, cy / area), around


def solid_of(sketch: Sketch, depth: float, on: str = "top", **more: Any) -> Made:
    made = Made()
    made.sketch("s1", on, sketch)
    made.extrude("s2", "s1", repr(depth), **more)
    return made


@settings(max_examples=examples(40), deadline=None)
@given(stars(), sizes)
def test_any_polygon_is_exact(corners: list[tuple[float, float]], depth: float) -> None:
    area, (cx, cy), around = shoelace(corners)
    made = solid_of(polygon(corners), depth)
    b = bulk(made.build().state.bodies[0].solid)
    assert b.volume == pytest.approx(area * depth, rel=1e-9)
    assert b.centre == pytest.approx((cx, cy, depth / 2), abs=1e-7)
    assert b.area == pytest.approx(2 * area + around * depth, rel=1e-9)


@settings(max_examples=examples(30), deadline=None)
@given(stars(), sizes, st.sampled_from(["front", "top", "right"]), st.booleans(), st.booleans())
def test_planes_and_ways_change_the_place_and_nothing_else(
    corners: list[tuple[float, float]], depth: float, on: str, reverse: bool, both: bool
) -> None:
    area, _, _ = shoelace(corners)
    kind = "symmetric" if both else "depth"
    made = solid_of(polygon(corners), depth, on, reverse=reverse, kind=kind)
    b = bulk(made.build().state.bodies[0].solid)
    assert b.volume == pytest.approx(area * depth, rel=1e-9)
    axis, way = {"front": (1, -1.0), "top": (2, 1.0), "right": (0, 1.0)}[on]
    expected = 0.0 if both else way * (-depth if reverse else depth) / 2
    assert b.centre[axis] == pytest.approx(expected, abs=1e-7)


@settings(max_examples=examples(30), deadline=None)
@given(st.floats(20, 60), st.lists(st.floats(0.5, 2.5), min_size=1, max_size=6), sizes)
def test_holes_take_exactly_their_cylinders(side: float, radii: list[float], depth: float) -> None:
    plate = polygon([(0, 0), (side, 0), (side, side), (0, side)])
    holes = [
        circle(i + 1, (side * (i + 1) / (len(radii) + 1), side / 2), min(r, side / 16)) for i, r in enumerate(radii)
    ]
    made = solid_of(Sketch(entities=[*plate.entities, *holes]), depth)
    gone = sum(math.pi * h.r**2 for h in holes)
    assert made.volume() == pytest.approx((side * side - gone) * depth, rel=1e-9)
    cut = solid_of(plate, depth)
    cut.sketch("s3", cut.face("s2/end"), Sketch(entities=holes))
    cut.extrude("s4", "s3", None, "cut")
    assert cut.volume() == pytest.approx(made.volume(), rel=1e-9)


@settings(max_examples=examples(25), deadline=None)
@given(st.floats(4, 30), st.floats(4, 30), st.floats(-180, 180), st.floats(1, 20))
def test_elliptical_prisms_are_pi_a_b_h(a: float, b: float, tilt: float, depth: float) -> None:
    made = solid_of(Sketch(entities=[ellipse(1, (7, -3), a, b, tilt)]), depth)
    assert made.volume() == pytest.approx(math.pi * a * b * depth, rel=1e-6)


@settings(max_examples=examples(25), deadline=None)
@given(st.floats(5, 40), st.floats(1, 20), st.floats(10, 170))
def test_overlapping_bodies_unite_to_what_inclusion_and_exclusion_say(r: float, depth: float, far: float) -> None:
    gap = min(far / 90, 1.9) * r  # between the axes of two equal cylinders
    lens = 2 * r * r * math.acos(gap / (2 * r)) - gap / 2 * math.sqrt(4 * r * r - gap * gap)
    made = solid_of(Sketch(entities=[circle(1, (0, 0), r)]), depth)
    made.sketch("s3", "top", Sketch(entities=[circle(1, (gap, 0), r)]))
    made.extrude("s4", "s3", repr(depth))
    assert made.volume() == pytest.approx((2 * math.pi * r * r - lens) * depth, rel=1e-7)


@settings(max_examples=examples(15), deadline=None)
@given(stars(), sizes)
def test_step_and_stl_hold_the_same_part(corners: list[tuple[float, float]], depth: float) -> None:
    made = solid_of(polygon(corners), depth)
    state = made.build().state
    assert step_volumes(solid_files.step(made.document, state)) == pytest.approx([state.volume()], rel=1e-9)
    data = solid_files.stl(made.document, state)
    count = struct.unpack("<I", data[80:84])[0]
    rows = np.frombuffer(data[84:], dtype=np.dtype([("n", "<f4", 3), ("p", "<f4", (3, 3)), ("a", "<u2")]))
    assert len(rows) == count
    p = rows["p"].astype(float)
    volume = np.einsum("ij,ij->i", p[:, 0], np.cross(p[:, 1], p[:, 2])).sum() / 6
    assert volume == pytest.approx(state.volume(), rel=1e-4)  # flat faces: only the file's 32 bits are lost


def area_of(sketch: Sketch) -> float:
    return sum(r.area for r in profile(sketch).default())


@settings(max_examples=examples(30), deadline=None)
@given(stars(), st.floats(1, 3))
def test_profiles_come_back_from_dxf_and_svg_the_same(corners: list[tuple[float, float]], r: float) -> None:
    sketch = Sketch(entities=[*polygon(corners).entities, circle(1, (0, 0), r), arc(1, (90, 0), 5, 20, 200)])
    drawn = sketch_dxf(sketch)
    independent = ezdxf.read(io.StringIO(drawn.decode()))  # type: ignore[attr-defined]
    kinds = sorted(e.dxftype() for e in independent.modelspace())
    assert kinds == sorted(["LINE"] * len(corners) + ["CIRCLE", "ARC"])
    for drawing in (read_dxf(drawn), read_svg(sketch_svg(sketch, "x"))):
        back = Sketch(entities=entities(drawing, Chosen()))
        assert sorted(e.kind for e in back.entities) == sorted(e.kind for e in sketch.entities)
        assert area_of(back) == pytest.approx(area_of(sketch), rel=1e-6)


@pytest.mark.parametrize("depth", ["0.01", "1/64 in", "2000", "1e4"])
def test_very_thin_and_very_deep(depth: str) -> None:
    made = Made()
    made.sketch("s1", "top", polygon([(0, 0), (10, 0), (10, 10), (0, 10)]))
    made.extrude("s2", "s1", depth)
    mm = {"0.01": 0.01, "1/64 in": 25.4 / 64, "2000": 2000.0, "1e4": 1e4}[depth]
    assert made.volume() == pytest.approx(100 * mm, rel=1e-9)


@pytest.mark.parametrize("scale", [1e-2, 1.0, 1e3])
def test_parts_of_every_size_behave_alike(scale: float) -> None:
    made = solid_of(polygon([(x * scale, y * scale) for x, y in [(0, 0), (30, 0), (30, 20), (0, 20)]]), 5 * scale)
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[circle(1, (10 * scale, 10 * scale), 4 * scale)]))
    made.extrude("s4", "s3", None, "cut")
    assert made.volume() == pytest.approx((600 - 16 * math.pi) * 5 * scale**3, rel=1e-9)

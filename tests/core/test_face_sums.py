"""Sums over faces: closed forms where faces are cut obliquely, round faces all round, free forms, and what is kept."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Plane
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf
from OCP.TopAbs import TopAbs_FORWARD
from OCP.TopoDS import TopoDS

from sulvak_core.sketch.model import Sketch
from sulvak_core.solid import face_sums, flat_sums
from sulvak_core.solid.boolean import combine
from sulvak_core.solid.bulk import bulk
from sulvak_core.solid.elementary import Cylinder, Plane
from sulvak_core.solid.extent_to_face import half_space
from sulvak_core.solid.frame import unit
from sulvak_core.solid.mesh import mesh
from sulvak_core.solid.shapes import ShapeMap, Solid, faces
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import spline

angle = st.floats(-40, 40).map(lambda v: round(v, 2))


def solid(maker: Any) -> Solid:
    return Solid(maker.Shape(), ShapeMap())


def axis(*way: float) -> gp_Ax2:
    return gp_Ax2(gp_Pnt(3, -4, 5), gp_Dir(*way))


@given(st.tuples(st.floats(-1, 1), st.floats(-1, 1), st.floats(0.2, 1)))
@settings(max_examples=examples(15))
def test_round_bodies_whichever_way_they_stand(way: tuple[float, float, float]) -> None:
    r, h, big = 7.0, 20.0, 15.0
    forms = [
        (BRepPrimAPI_MakeCylinder(axis(*way), r, h), math.pi * r * r * h, 2 * math.pi * r * (r + h)),
        (BRepPrimAPI_MakeSphere(axis(*way), r), 4 / 3 * math.pi * r**3, 4 * math.pi * r * r),
        (BRepPrimAPI_MakeTorus(axis(*way), big, r), 2 * math.pi**2 * big * r * r, 4 * math.pi**2 * big * r),
        (BRepPrimAPI_MakeCone(axis(*way), r, 0.0, h), math.pi * r * r * h / 3, math.pi * r * (r + math.hypot(r, h))),
    ]
    for maker, volume, area in forms:
        b = bulk(solid(maker))
        assert (b.volume, b.area) == pytest.approx((volume, area), rel=1e-12)
        # the inertia about the axis, of a cylinder and a ball
    ball = bulk(solid(forms[1][0]))
    assert np.diag(ball.inertia) == pytest.approx([0.4 * ball.volume * r * r] * 3, rel=1e-11)


@given(angle, angle, st.floats(2, 8))
@settings(max_examples=examples(15))
def test_a_rod_cut_off_obliquely_is_as_long_as_its_axis(a: float, b: float, r: float) -> None:
    """Cut by two planes that meet its axis 30 apart, a rod has the volume of one cut square."""
    rod = solid(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -50), gp_Dir(0, 0, 1)), r, 100))
    lean = (math.tan(math.radians(a)), math.tan(math.radians(b)))
    low = half_space((0.0, 0.0, -10.0), unit((lean[0], 0.0, -1.0)), rod)
    high = half_space((0.0, 0.0, 20.0), unit((lean[1], lean[0], 1.0)), rod)
    (cut,) = combine("subtract", [rod], [low, high], "test")
    assert bulk(cut).volume == pytest.approx(30 * math.pi * r * r, rel=1e-11)


@given(angle.map(abs), st.floats(1, 6))
@settings(max_examples=examples(10))
def test_a_hole_square_to_a_sloping_face(lean: float, r: float) -> None:
    """Drilled through a plate along a direction that leans, a hole is longer by the cosine."""
    made = plate(120, 80)
    slope = {"kind": "datum", "plane": "top"}
    made.step("datum", "s3", form="angled", plane=slope, axis={"kind": "axis", "axis": "x"}, angle=f"{lean!r}°")
    made.sketch("s4", {"kind": "plane", "step": "s3"}, disc((60, 40), r))
    for reverse in (False, True):
        made.extrude("s6" if reverse else "s5", "s4", None, "cut", reverse=reverse)
    whole = 120 * 80 * 10
    long = 10 / math.cos(math.radians(lean))
    if made.build().failed:  # the one that goes away from the plate
        assert all("removes nothing" in f.said for f in made.build().failed)
    assert made.build().state.volume() == pytest.approx(whole - math.pi * r * r * long, rel=1e-10)


def test_free_forms_tell_how_well_they_are_known() -> None:
    """A drum over a closed spline, its rim rounded: the volume against that of ever finer pictures."""
    made = Made()
    wave = spline(1, (20, 0), (14, 16), (0, 20), (-15, 12), (-20, 0), (-9, -16), (4, -19), (20, 0))
    made.sketch("s1", "top", Sketch(entities=[wave]))
    made.extrude("s2", "s1", "10")
    made.step("fillet", "s3", groups=[{"radius": "1.5", "edges": [{"by": "around", "face": {"origins": ["s2/end"]}}]}])
    body = made.build().state.bodies[0].solid
    b = bulk(body)
    assert 0 <= b.error < 1e-6 * b.volume
    coarse, fine = (_of_triangles(body, d) for d in (0.05, 0.0125))
    assert abs(fine - b.volume) < abs(coarse - fine)  # within the pictures' own error
    assert fine == pytest.approx(b.volume, rel=1e-3)


def _of_triangles(body: Solid, deflection: float) -> float:
    m = mesh(body, [], deflection, 0.05)
    a, b, c = (m.points[m.triangles[:, k]] for k in range(3))
    return float(np.einsum("ti,ti", a, np.cross(b, c)) / 6)


def test_an_edit_measures_only_what_it_changed(monkeypatch: pytest.MonkeyPatch) -> None:
    made = plate(120, 80)
    for n in range(6):
        made.sketch(f"s{10 + 2 * n}", "top", disc((15 + 15 * n, 40), 5))
        made.extrude(f"s{11 + 2 * n}", f"s{10 + 2 * n}", None, "cut")
    made.volume()
    taken: list[Any] = []
    summed = face_sums._summed
    monkeypatch.setattr(face_sums, "_summed", lambda f, q: (taken.append(f), summed(f, q))[1])
    made.sketch("s30", "right", disc((40, 5), 1))
    made.extrude("s31", "s30", "3", "cut")
    made.volume()
    assert 0 < len(taken) <= 8  # the hole itself as a tool, and the faces it has changed


def test_far_from_the_origin_nothing_is_lost() -> None:
    far = solid(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(4e5, -3e5, 2e5), gp_Dir(1, 2, 3)), 2, 9))
    b = bulk(far)
    assert b.volume == pytest.approx(36 * math.pi, rel=1e-9)
    assert sorted(np.linalg.eigvalsh(np.array(b.inertia)))[0] == pytest.approx(b.volume * 2, rel=1e-6)


@settings(max_examples=examples(30))
@given(
    st.floats(0.1, 50),
    st.floats(0.1, 80),
    st.floats(0, 6.3),
    st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: math.hypot(*v) > 0.1),
    st.booleans(),
)
def test_a_wall_all_round_is_summed_in_closed_form(
    r: float, h: float, angle: float, axis: tuple[float, float, float], mirrored: bool
) -> None:
    """As the line integrals have it that serve for any other face."""
    turn, mirror = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(4, 5, 6), gp_Dir(*axis)), angle)
    if mirrored:
        mirror.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(*axis)))
    shape = BRepBuilderAPI_Transform(BRepPrimAPI_MakeCylinder(r, h).Shape(), turn.Multiplied(mirror), True).Shape()
    (wall,) = [f for f in faces(shape) if BRepAdaptor_Surface(f).GetType() == GeomAbs_Cylinder]
    wall = TopoDS.Face(wall.Oriented(TopAbs_FORWARD))
    about = (3.0, -2.0, 7.0)
    general, _ = face_sums._on_elementary(wall, Cylinder(BRepAdaptor_Surface(wall)), np.array(about))
    near = 1e-12 * float(abs(general).max())
    assert flat_sums.round_wall(wall, about) == pytest.approx(general, rel=1e-10, abs=near)


@settings(max_examples=examples(30))
@given(
    st.floats(0.5, 50),
    st.floats(0.5, 80),
    st.floats(0.3, 6.2),
    st.floats(0, 6.3),
    st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: math.hypot(*v) > 0.1),
    st.booleans(),
)
def test_flat_faces_are_summed_in_closed_form(
    r: float, h: float, sweep: float, angle: float, axis: tuple[float, float, float], mirrored: bool
) -> None:
    """As the line integrals have it: between arcs, ellipses and lines, turned any way, mirrored, with holes."""
    turn, mirror = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(4, 5, 6), gp_Dir(*axis)), angle)
    if mirrored:
        mirror.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(*axis)))
    wedge = BRepPrimAPI_MakeCylinder(r, h, sweep).Shape()
    leaning = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(r / 2, r / 9, -h), gp_Dir(0.2, 0.1, 1)), r / 6, 4 * h).Shape()
    drilled = BRepAlgoAPI_Cut(wedge, leaning).Shape()
    shape = BRepBuilderAPI_Transform(drilled, turn.Multiplied(mirror), True).Shape()
    about = (3.0, -2.0, 7.0)
    flats = [f for f in faces(shape) if BRepAdaptor_Surface(f).GetType() == GeomAbs_Plane]
    seen = 0
    for face in (TopoDS.Face(f.Oriented(TopAbs_FORWARD)) for f in flats):
        general, _ = face_sums._on_elementary(face, Plane(BRepAdaptor_Surface(face)), np.array(about))
        found = flat_sums.flat(face, about)
        if found is not None:
            seen += 1
            assert found == pytest.approx(general, rel=1e-9, abs=1e-11 * float(abs(general).max()))
    assert seen >= 2


@pytest.mark.parametrize("sweep", [2.0, 6.28])
def test_a_wall_that_is_not_all_round_is_not_taken_for_one(sweep: float) -> None:
    (wall,) = [
        f
        for f in faces(BRepPrimAPI_MakeCylinder(5.0, 9.0, sweep).Shape())
        if BRepAdaptor_Surface(f).GetType() == GeomAbs_Cylinder
    ]
    assert flat_sums.round_wall(wall, (0.0, 0.0, 0.0)) is None
    assert face_sums.face_sums(wall).area == pytest.approx(5 * 9 * sweep, rel=1e-12)

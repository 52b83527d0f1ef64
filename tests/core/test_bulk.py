"""Volume, centre, inertia and pictures of solids against closed forms, wherever they stand."""

from __future__ import annotations

import math
import struct
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.sketch.model import Sketch
from sulvak_core.solid import mesh as meshing
from sulvak_core.solid.bulk import bulk, moments
from sulvak_core.solid.frame import dot, on_plane, unit
from sulvak_core.solid.measure import box, neighbours
from sulvak_core.solid.mesh import Mesh, mesh, packed, stl
from sulvak_core.solid.place import moved_by, placed, turned
from sulvak_core.solid.shapes import Solid, faces, from_bytes, to_bytes
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import circle, ellipse, line


def only(made: Made) -> Solid:
    [body] = made.build().state.bodies
    return body.solid


def rod(r: float = 5, long: float = 40) -> Solid:
    made = Made()
    made.sketch("s1", "top", disc((0, 0), r))
    made.extrude("s2", "s1", repr(long))
    return only(made)


def cone(r: float = 9, high: float = 24) -> Solid:
    """A cone turned from a right triangle about the Z axis, its base on the ground."""
    made = Made()
    at = [(0.0, 0.0), (r, 0.0), (0.0, high)]
    made.sketch("s1", "front", Sketch(entities=[line(i + 1, at[i], at[(i + 1) % 3]) for i in range(3)]))
    made.step("revolve", "s2", sketch="s1", axis={"kind": "line", "step": "s1", "line": "l3"}, angle="360")
    return only(made)


def drum(a: float = 12, b: float = 5, long: float = 7) -> Solid:
    """An elliptic drum: its flat faces have ellipses around them, which the quick integration gets wrong."""
    made = Made()
    made.sketch("s1", "top", Sketch(entities=[ellipse(1, (0, 0), a, b)]))
    made.extrude("s2", "s1", repr(long))
    return only(made)


W, H, T = 40.0, 30.0, 10.0


def test_a_box_by_its_closed_form() -> None:
    found = bulk(only(plate(W, H, repr(T))))
    v = W * H * T
    assert found.volume == pytest.approx(v, rel=1e-12)
    assert found.area == pytest.approx(2 * (W * H + W * T + H * T), rel=1e-12)
    assert found.centre == pytest.approx((20, 15, 5), abs=1e-12)
    wanted = np.diag([v * (H * H + T * T) / 12, v * (W * W + T * T) / 12, v * (W * W + H * H) / 12])
    assert np.array(found.inertia) == pytest.approx(wanted, rel=1e-11, abs=1e-6)


def test_a_rod_by_its_closed_form() -> None:
    r, long = 5.0, 40.0
    found = bulk(rod(r, long))
    v = math.pi * r * r * long
    across = v * (3 * r * r + long * long) / 12
    assert found.volume == pytest.approx(v, rel=1e-9)
    assert found.centre == pytest.approx((0, 0, 20), abs=1e-8)
    assert np.array(found.inertia) == pytest.approx(np.diag([across, across, v * r * r / 2]), rel=1e-9, abs=1e-4)


def test_a_cone_by_its_closed_form() -> None:
    r, high = 9.0, 24.0
    found = bulk(cone(r, high))
    v = math.pi * r * r * high / 3
    across = v * (3 / 20 * r * r + 3 / 80 * high * high)
    assert found.volume == pytest.approx(v, rel=1e-9)
    assert found.centre == pytest.approx((0, 0, high / 4), abs=1e-8)
    assert np.array(found.inertia) == pytest.approx(np.diag([across, across, 0.3 * v * r * r]), rel=1e-8, abs=1e-3)


def test_an_elliptic_drum_by_its_closed_form() -> None:
    a, b, long = 12.0, 5.0, 7.0
    found = bulk(drum(a, b, long))
    v = math.pi * a * b * long
    wanted = np.diag([v * (b * b / 4 + long * long / 12), v * (a * a / 4 + long * long / 12), v * (a * a + b * b) / 4])
    assert found.volume == pytest.approx(v, rel=1e-8)
    assert found.centre == pytest.approx((0, 0, long / 2), abs=1e-6)
    assert np.array(found.inertia) == pytest.approx(wanted, rel=1e-6, abs=1e-2)


SOLIDS = {"plate": lambda: only(plate(W, H, repr(T))), "rod": rod, "cone": cone, "drum": drum}


@pytest.mark.parametrize("name", SOLIDS)
@settings(max_examples=examples(12), deadline=None)
@given(
    st.tuples(*[st.floats(-200, 200)] * 3),
    st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda d: math.dist(d, (0, 0, 0)) > 0.1),
    st.floats(-180, 180),
)
def test_moving_and_turning_change_nothing_but_the_place(name: str, by: Any, axis: Any, angle: float) -> None:
    solid = SOLIDS[name]()
    was = bulk(solid)
    placing = turned((1.0, 2.0, 3.0), axis, angle).then(moved_by(by))
    now = bulk(placed(solid, placing))
    assert now.volume == pytest.approx(was.volume, rel=1e-9)
    assert now.area == pytest.approx(was.area, rel=1e-7)
    # the main inertias stay; the centre keeps its distance from every corner of what it belongs to
    mine, theirs = (np.linalg.eigvalsh(np.array(b.inertia)) for b in (was, now))
    assert theirs == pytest.approx(mine, rel=1e-6)
    lo, hi = box(placed(solid, placing).shape)
    assert all(a - 1e-6 <= c <= b + 1e-6 for a, c, b in zip(lo, now.centre, hi, strict=True))


@pytest.mark.parametrize("name", SOLIDS)
def test_what_was_kept_or_pictured_weighs_the_same(name: str) -> None:
    """Neither writing and reading nor a mesh on the faces changes what is integrated."""
    solid = SOLIDS[name]()
    fresh = moments(solid.shape)
    [read] = from_bytes(to_bytes([solid]))
    mesh(solid, [e for e, _ in neighbours(solid)])
    for other in (read, solid, from_bytes(to_bytes([solid]))[0]):
        volume, centre, inertia = moments(other.shape)
        assert volume == pytest.approx(fresh[0], rel=1e-12)
        assert centre == pytest.approx(fresh[1], abs=1e-9)
        assert np.array(inertia) == pytest.approx(np.array(fresh[2]), rel=1e-9, abs=1e-6)


# -- pictures ------------------------------------------------------------------------------------------


def unpacked(data: bytes) -> dict[str, np.ndarray]:
    """The packed mesh read as its description says, independently of what wrote it."""
    assert data[:4] == b"SVM1"
    n, m, f, k, e = struct.unpack_from("<5I", data, 4)
    lo, hi = np.frombuffer(data, "<f4", 3, 24), np.frombuffer(data, "<f4", 3, 36)
    at = 48

    def take(kind: str, count: int) -> np.ndarray:
        nonlocal at
        found = np.frombuffer(data, kind, count, at)
        at += (found.nbytes + 3) & ~3
        return found

    span = np.where(hi - lo > 0, hi - lo, 1)
    points = lo + take("<u2", 3 * n).reshape(-1, 3) / 65535 * span
    octa = take("i1", 2 * n).reshape(-1, 2) / 127
    z = 1 - np.abs(octa).sum(axis=1)
    x = np.where(z < 0, (1 - np.abs(octa[:, 1])) * np.where(octa[:, 0] >= 0, 1, -1), octa[:, 0])
    y = np.where(z < 0, (1 - np.abs(octa[:, 0])) * np.where(octa[:, 1] >= 0, 1, -1), octa[:, 1])
    normals = np.stack([x, y, z], axis=1)
    made = {
        "points": points,
        "normals": normals / np.linalg.norm(normals, axis=1)[:, None],
        "triangles": take("<u4" if n > 65535 else "<u2", 3 * m).reshape(-1, 3),
        "face_start": take("<u4", f),
        "edge_points": lo + take("<u2", 3 * k).reshape(-1, 3) / 65535 * span,
        "edge_start": take("<u4", e),
    }
    assert at == len(data)
    return made


def picture(solid: Solid) -> Mesh:
    return mesh(solid, [e for e, _ in neighbours(solid)])


@pytest.mark.parametrize("name", SOLIDS)
def test_a_picture_comes_back_from_its_packing(name: str) -> None:
    solid = SOLIDS[name]()
    m = picture(solid)
    found = unpacked(packed(m))
    lo, hi = (np.array(c) for c in box(solid.shape))
    step = float((hi - lo).max()) / 65535
    assert np.abs(found["points"] - m.points).max() <= step
    assert np.abs(found["edge_points"] - m.edge_points).max() <= step
    assert (found["triangles"] == m.triangles).all()
    assert found["face_start"].tolist() == list(m.face_start)
    assert found["edge_start"].tolist() == list(m.edge_start)
    assert len(m.face_start) == len(faces(solid.shape))
    assert (found["normals"] * m.normals).sum(axis=1).min() > math.cos(math.radians(1.5))


@pytest.mark.parametrize("name", SOLIDS)
def test_a_picture_is_closed_and_faces_outwards(name: str) -> None:
    m = picture(SOLIDS[name]())
    a, b, c = (m.points[m.triangles[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    assert (np.einsum("ij,ij->i", flat, m.normals[m.triangles[:, 0]]) > -1e-9).all()
    assert np.abs(flat.sum(axis=0)).max() < 1e-6 * np.abs(flat).sum()  # the areas of a closed skin balance


def seams(m: Mesh) -> dict[tuple[Any, Any], int]:
    """Edges of triangles by the places of their ends, each way; in a closed skin every one comes once each way."""
    _, place = np.unique(np.round(m.points / 1e-6).astype(np.int64), axis=0, return_inverse=True)
    tri = place.reshape(-1)[m.triangles]
    found: dict[tuple[Any, Any], int] = {}
    for a, b in ((0, 1), (1, 2), (2, 0)):
        for edge in zip(tri[:, a].tolist(), tri[:, b].tolist(), strict=True):
            found[edge] = found.get(edge, 0) + 1
    return found


@pytest.mark.parametrize("name", SOLIDS)
@pytest.mark.parametrize("deflection", [None, 0.002])
def test_a_picture_has_no_gap_between_faces(name: str, deflection: float | None) -> None:
    solid = SOLIDS[name]()
    m = mesh(solid, [e for e, _ in neighbours(solid)], deflection)
    found = seams(m)
    assert all(a != b for a, b in found)
    assert all(found.get((b, a)) == n for (a, b), n in found.items())


def test_flat_faces_with_many_holes_are_filled_and_what_stays_is_not_meshed_anew(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    made = plate(120, 80)
    holes = [circle(10 * i + j + 1, (12 + 12 * i, 10 + 8 * j), 2.5) for i in range(8) for j in range(8)]
    made.sketch("s3", "top", Sketch(entities=holes))
    made.extrude("s4", "s3", None, "cut")
    first = made.build().state.bodies[0].solid
    m = picture(first)
    a, b, c = (m.points[m.triangles[:, k]] for k in range(3))
    assert np.linalg.norm(np.cross(b - a, c - a), axis=1).min() > 0
    assert float(np.einsum("ti,ti", a, np.cross(b, c)) / 6) == pytest.approx(first.volume(), rel=2e-4)
    filled: list[int] = []
    fill = meshing._between
    monkeypatch.setattr(meshing, "_between", lambda *a: (filled.append(1), fill(*a))[1])
    made.sketch("s5", "right", disc((40, 5), 1))
    made.extrude("s6", "s5", "2", "cut")
    after = made.build().state.bodies[0].solid
    assert all(found == 1 for found in seams(picture(after)).values())
    assert len(filled) == 2  # the wall with the new hole, and the hole's bottom


def test_stl_holds_the_same_triangles() -> None:
    solid = rod()
    m = picture(solid)
    data = stl([m, m], "Rod")
    assert data[:80].rstrip() == b"Sulvak Rod"
    count = struct.unpack_from("<I", data, 80)[0]
    assert count == 2 * len(m.triangles)
    assert len(data) == 84 + 50 * count
    first = np.frombuffer(data, "<f4", 12, 84).reshape(4, 3)
    assert first[1:] == pytest.approx(m.points[m.triangles[0]], abs=1e-4)


@pytest.mark.parametrize("lean", [0.0, 1e-12, 1e-6, 3e-5, 4.4e-5, 5e-5, 1e-3])
def test_the_axes_of_a_plane_lie_in_it_however_little_it_leans(lean: float) -> None:
    for normal in ((lean, 0.0, 1.0), (0.0, lean, 1.0), (lean, -lean, -1.0)):
        frame = on_plane((3.0, 4.0, 5.0), normal)
        n = unit(normal)
        assert dot(frame.x, n) == pytest.approx(0, abs=1e-14)
        assert dot(frame.y, n) == pytest.approx(0, abs=1e-14)
        assert dot(frame.normal, n) == pytest.approx(1, abs=1e-14)


def test_a_drum_that_leans_a_little_keeps_its_inertia() -> None:
    solid = drum(12.0, 5.0, 7.0)
    placing = turned((1.0, 2.0, 3.0), (0.0, 1.0, 0.0), 0.001953125).then(moved_by((1.0, 0.0, 0.0)))
    was, now = (np.linalg.eigvalsh(np.array(bulk(s).inertia)) for s in (solid, placed(solid, placing)))
    assert now == pytest.approx(was, rel=1e-9)


@pytest.mark.parametrize(("post", "hole"), [(10.0, 5.0), (8.0, 2.0), (6.0, 5.5)])
def test_a_hole_across_a_post(post: float, hole: float) -> None:
    """What two cylinders at right angles share is 8 ∫ √(R² − x²) √(r² − x²) dx from 0 to r; no profile is bent here."""
    from scipy.integrate import quad

    made = Made()
    made.sketch("s1", "top", disc((0, 0), post))
    made.extrude("s2", "s1", "60")
    made.step("datum", "s3", form="offset", plane={"kind": "datum", "plane": "front"}, distance="30")
    made.sketch("s4", {"kind": "plane", "step": "s3"}, disc((0, 30), hole))
    made.extrude("s5", "s4", None, "cut")
    shared = quad(lambda x: math.sqrt(post**2 - x**2) * math.sqrt(hole**2 - x**2), 0, hole, epsabs=1e-12)[0]
    expected = math.pi * post**2 * 60 - 8 * shared
    assert made.volume() == pytest.approx(expected, rel=5e-9)
    whole = bulk(made.build().state.bodies[0].solid)
    assert whole.volume == pytest.approx(expected, rel=5e-9)
    assert whole.centre == pytest.approx((0, 0, 30), abs=1e-6)

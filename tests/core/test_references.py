"""Meshes from outside: read, held against a part in closed form, laid on it."""

from __future__ import annotations

import io
import json
import math
import struct
import zipfile

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from sulvak_core.exchange.mesh_files import stl
from sulvak_core.meshes.compare import compare
from sulvak_core.meshes.fit import fit
from sulvak_core.meshes.read import MeshIn, read_mesh
from sulvak_core.part.errors import Refusal
from sulvak_core.part.reference import ReferenceMesh, placed, turned, turns_of
from sulvak_core.rebuild.state import Body
from sulvak_core.solid.measure import on_face, surface
from sulvak_core.solid.off_surface import off_surface
from sulvak_core.solid.shapes import faces
from sulvak_core.steps import commands
from sulvak_core.steps.effects import apply
from tests.examples import examples

from .parts import Made, disc, plate

Array = NDArray[np.float64]
FILE = "0" * 64


def asked(**fields: object) -> ReferenceMesh:
    return ReferenceMesh.model_validate({"id": "r1", "file": FILE, **fields})


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> trimesh.Trimesh:
    return trimesh.creation.box(bounds=[low, high])


def as_read(mesh: trimesh.Trimesh) -> MeshIn:
    return read_mesh(mesh.export(file_type="stl"))


def bodies(made: Made) -> list[Body]:
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return built.state.bodies


def stepped() -> Made:
    """A block with a round boss off its middle and a hole, smooth along one edge: it fits itself in one way only."""
    made = plate()  # 40 × 30 × 10
    made.sketch("s3", made.face("s2/end"), disc((10, 9), 5))
    made.extrude("s4", "s3", "12")
    made.sketch("s5", made.face("s2/end"), disc((30, 20), 4))
    made.extrude("s6", "s5", None, "cut")
    return made


# -- reading ----------------------------------------------------------------------------------------------------------


def two(unit: float = 1.0) -> trimesh.Scene:
    """A box and a turned, shifted one of half its size."""
    scene = trimesh.Scene()
    scene.add_geometry(box((0, 0, 0), (4 * unit, 3 * unit, 2 * unit)), node_name="Large", geom_name="large")
    place = trimesh.transformations.rotation_matrix(math.radians(30), [0, 0, 1], [0, 0, 0])
    place[:3, 3] = np.array([10, 20, 30]) * unit
    scene.add_geometry(box((0, 0, 0), (2 * unit, unit, unit)), node_name="Small", geom_name="small", transform=place)
    return scene


@pytest.mark.parametrize("form", ["stl", "stl_ascii"])
def test_stl_by_another_writer_is_read_as_it_is(form: str) -> None:
    mesh = trimesh.creation.icosphere(3, 7.0)
    data = mesh.export(file_type=form)
    data = data.encode() if isinstance(data, str) else data
    for written in (data, data.replace(b"\n", b"\r\n") if form == "stl_ascii" else data + b"more"):
        found = read_mesh(written)
        assert found.unit is None and found.loose == 0
        assert len(found.triangles) == len(mesh.faces) and len(found.points) == len(mesh.vertices)
        assert found.volume == pytest.approx(mesh.volume, rel=1e-5)
        assert found.notes == (["4 bytes after the last triangle were passed over."] if written[-4:] == b"more" else [])


def test_a_binary_file_may_begin_with_the_word_of_text() -> None:
    data = b"solid by somebody".ljust(80) + trimesh.creation.icosphere(1).export(file_type="stl")[80:]
    assert len(read_mesh(data).triangles) == len(read_mesh(data + b"more").triangles) == 80


@pytest.mark.parametrize("ends", ["\n", "\r\n", "\r"])
def test_a_solid_of_text_may_be_called_by_any_words(ends: str) -> None:
    corners = ["vertex 0 0 0", "  VERTEX\t1 0 0", "vertex 0 1.0e0 +0.0"]
    lines = ["solid a vertex of mine", "facet normal 0 0 1", "outer loop", *corners, "endloop", "endfacet"]
    found = read_mesh(ends.join([*lines, "endsolid a vertex of mine", ""]).encode())
    assert len(found.triangles) == 1 and found.points.max() == 1


def test_3mf_and_glb_by_another_writer_are_read_where_they_stand() -> None:
    scene = two()
    for form, unit, scale in (("3mf", "mm", 1.0), ("glb", "m", 1000.0)):
        found = read_mesh(scene.export(file_type=form))
        points = placed(found.points, asked(unit=unit)) / scale
        volume = MeshIn(points, found.triangles, None).volume
        assert (found.unit, len(found.triangles)) == (unit, 24)
        assert volume == pytest.approx(24 + 2, rel=1e-5)
        low, high = points.min(axis=0), points.max(axis=0)
        told = scene.bounds
        if form == "glb":  # y is up there, z here
            told = np.array([[told[0][0], -told[1][2], told[0][1]], [told[1][0], -told[0][2], told[1][1]]])
        assert np.array([low, high]) == pytest.approx(told, abs=1e-5)
        assert len(found.names) == 2


def test_units_of_3mf() -> None:
    scene = two()
    data = scene.export(file_type="3mf")
    changed = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(changed, "w") as new:
        for name in old.namelist():
            content = old.read(name)
            if name.endswith(".model"):
                assert b'unit="millimeter"' in content
                content = content.replace(b'unit="millimeter"', b'unit="inch"')
            new.writestr(name, content)
    found = read_mesh(changed.getvalue())
    assert found.unit == "in"
    assert np.ptp(placed(found.points, asked(unit="in"))[:, 2]) == pytest.approx(31 * 25.4)


def glb(shape: dict[str, object], blob: bytes, views: list[dict[str, object]], **more: object) -> bytes:
    told = {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [shape]}],
        "bufferViews": views,
        "buffers": [{"byteLength": len(blob)}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3"},
            {"bufferView": 1, "componentType": 5121, "count": 4, "type": "SCALAR"},
        ],
        **more,
    }
    head = json.dumps(told).encode()
    head += b" " * (-len(head) % 4)
    blob += b"\0" * (-len(blob) % 4)
    total = 12 + 8 + len(head) + 8 + len(blob)
    made = struct.pack("<4sII", b"glTF", 2, total) + struct.pack("<I4s", len(head), b"JSON") + head
    return made + struct.pack("<I4s", len(blob), b"BIN\0") + blob


SQUARE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]], "<f4").tobytes()
VIEWS: list[dict[str, object]] = [
    {"buffer": 0, "byteOffset": 0, "byteLength": 48},
    {"buffer": 0, "byteOffset": 48, "byteLength": 4},
]


def shape(mode: int, indices: bool = True) -> dict[str, object]:
    return {"attributes": {"POSITION": 0}, "mode": mode, **({"indices": 1} if indices else {})}


def test_strips_and_fans_are_triangles_the_same_way_round() -> None:
    strip = read_mesh(glb(shape(5), SQUARE + bytes([0, 1, 2, 3]), VIEWS))
    fan = read_mesh(glb(shape(6), SQUARE + bytes([0, 1, 3, 2]), VIEWS))
    for found in (strip, fan):
        corners = found.points[found.triangles]
        n = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        assert n / 2 == pytest.approx(np.array([[0, -0.5, 0]] * 2))  # z of the file is −y here
        assert found.loose == 4 and found.volume is None
    with pytest.raises(Refusal, match="no triangles"):
        read_mesh(glb(shape(1), SQUARE + bytes([0, 1, 2, 3]), VIEWS))


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "Bring STL"),
        (b"x" * 500, "Bring STL"),
        (b"%PDF-1.7 " + b"0" * 300, "Bring STL"),
        (b"solid\n", "cut short"),
        (b"solid\nvertex 0 0 0\nvertex 1 0 0\nendsolid", "three corners"),
        (b"solid\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1,5 0\nendsolid", "1,5"),
        (b"solid\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 nan 0\nendsolid", "no part can have"),
        (b"solid\nvertex 0 0 0\nvertex 1e30 0 0\nvertex 0 1 0\nendsolid", "no part can have"),
        (b"solid\nvertex 0 0 0\nvertex 1 0 0\nvertex 2 0 0\nendsolid", "without area"),
        (b"solid\nvertex 0 0 0\nvertex 1 0", "cut short"),
        (bytes(80) + struct.pack("<I", 3) + bytes(100), "cut short"),
        (bytes(80) + struct.pack("<I", 0), "Bring STL"),
        (bytes(80) + struct.pack("<I", 2**32 - 1) + bytes(100), "Bring STL"),
        (b"PK\x03\x04", "cannot be opened"),
        (b"glTF", "damaged"),
        (b"glTF" + struct.pack("<II", 2, 2**31), "damaged"),
    ],
)
def test_what_cannot_be_read_is_refused_with_a_way_out(data: bytes, said: str) -> None:
    with pytest.raises(Refusal, match=said):
        read_mesh(data)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"scenes": [{"nodes": [7]}]}, "damaged"),
        ({"nodes": [{"mesh": 0, "children": [0]}]}, "without end"),
        ({"nodes": [{"mesh": -1}]}, "damaged"),
        ({"nodes": [{"mesh": 0, "matrix": [1, 2]}]}, "damaged"),
        ({"nodes": [{"mesh": 0, "scale": ["a", 1, 1]}]}, "damaged"),
        ({"nodes": [{"mesh": 0, "translation": [1e300, 0, 0]}]}, "no part can have"),
        ({"extensionsRequired": ["KHR_draco_mesh_compression"]}, "compressed"),
        ({"buffers": [{"byteLength": 52, "uri": "other.bin"}]}, "another file"),
        ({"accessors": [{"bufferView": 0, "componentType": 5126, "count": 10**9, "type": "VEC3"}]}, "damaged"),
        ({"accessors": [{"bufferView": 0, "componentType": 5126, "count": -4, "type": "VEC3"}]}, "damaged"),
        ({"accessors": [{"bufferView": 0, "componentType": 5123, "count": 4, "type": "VEC3"}]}, "damaged"),
        ({"bufferViews": [{"buffer": 0, "byteOffset": -8, "byteLength": 48}]}, "damaged"),
        ({"bufferViews": [{"buffer": 5, "byteOffset": 0, "byteLength": 48}]}, "damaged"),
    ],
)
def test_a_glb_that_lies_is_refused(change: dict[str, object], said: str) -> None:
    good = glb(shape(5), SQUARE + bytes([0, 1, 2, 3]), VIEWS)
    assert len(read_mesh(good).triangles) == 2
    with pytest.raises(Refusal, match=said):
        read_mesh(glb(shape(5), SQUARE + bytes([0, 1, 2, 3]), VIEWS, **change))


def test_corners_that_are_not_there_are_refused() -> None:
    with pytest.raises(Refusal, match="damaged"):
        read_mesh(glb(shape(5), SQUARE + bytes([0, 1, 2, 4]), VIEWS))


@settings(max_examples=examples(60))
@given(st.integers(0, 2**32 - 1), st.sampled_from(["stl", "stl_ascii", "3mf", "glb"]))
def test_damaged_files_are_read_or_refused(seed: int, form: str) -> None:
    chance = np.random.default_rng(seed)
    data = two().export(file_type=form) if form[0] != "s" else box((0, 0, 0), (4, 3, 2)).export(file_type=form)
    plain = bytearray(data.encode() if isinstance(data, str) else data)
    for _ in range(int(chance.integers(1, 8))):
        plain[int(chance.integers(len(plain)))] = int(chance.integers(256))
    if chance.random() < 0.3:
        del plain[int(chance.integers(len(plain))) :]
    try:
        found = read_mesh(bytes(plain))
    except Refusal:
        return
    assert np.isfinite(found.points[found.triangles]).all()


# -- distances from surfaces ------------------------------------------------------------------------------------------


def test_off_surface_in_closed_form() -> None:
    """A plate with a hole, a countersink, a filleted boss: every kind of face, on both sides."""
    made = stepped()
    kinds = set()
    for body in bodies(made):
        for face in faces(body.shape):
            off = off_surface(face)
            assert off is not None
            s = surface(face)
            kinds.add(s.kind)
            for at, n in on_face(face, 5):
                for d in (-0.4, 0.0, 0.7):
                    place = np.array([at]) + d * np.array([n])
                    assert off(place)[0] == pytest.approx(d, abs=1e-9), (s.kind, d)
    assert kinds == {"plane", "cylinder"}


# -- held against a part ----------------------------------------------------------------------------------------------


def test_a_mesh_that_is_larger_on_one_side_is_as_much_larger() -> None:
    plain = bodies(plate())  # from the corner (0, 0, 0) to (40, 30, 10)
    made = compare(plain, as_read(box((0, 0, 0), (40, 30, 10.3))), asked(within=0.1))
    f = made.figures
    assert f["most outside"] == pytest.approx(0.3, abs=1e-6)
    assert f["most inside"] == pytest.approx(0, abs=1e-6)
    assert f["part farthest"] == pytest.approx(0.3, abs=1e-6)
    # top off by 0.3; of the sides what goes on above it, by its height
    top, total = 40 * 30, 2 * (40 * 30 + 40 * 10.3 + 30 * 10.3)
    assert f["mesh within"] == pytest.approx(1 - (top + 140 * 0.2) / total, abs=0.02)
    assert f["part within"] == pytest.approx(1 - top / (2 * (1200 + 400 + 300)), abs=0.02)
    assert f["mesh volume"] == pytest.approx(40 * 30 * 10.3, rel=1e-6)
    assert f["part volume"] == pytest.approx(12000)
    sides = 140 * 0.3**3 / 3  # ∫ h² over the strip above
    square = (top * 0.09 + sides) / total
    assert f["root mean square"] == pytest.approx(math.sqrt(square), rel=0.02)
    assert made.worst[0].off == pytest.approx(0.3, abs=1e-6)


def test_a_dent_and_what_is_missing_are_found_where_they_are() -> None:
    plain = bodies(plate())
    dented = trimesh.util.concatenate([box((0, 0, 0), (40, 30, 10))])
    dented = dented.subdivide_to_size(2.0)
    near = np.linalg.norm(dented.vertices - np.array([20, 14, 10]), axis=1) < 1.2
    assert near.any()
    dented.vertices[near] -= [0, 0, 0.6]
    made = compare(plain, as_read(dented), asked(within=0.05))
    assert made.figures["most inside"] == pytest.approx(-0.6, abs=1e-5)
    worst = made.worst[0]
    assert worst.off == pytest.approx(-0.6, abs=1e-5) and abs(worst.at[0] - 20) < 2.1 and worst.of == "mesh"
    # half of it only was scanned: the other half has nothing near it
    half = box((0, 0, 0), (20, 30, 10))
    keep = [i for i, n in enumerate(half.face_normals) if n[0] < 0.5]
    half.update_faces(keep)
    made = compare(plain, as_read(half), asked(within=0.05))
    assert made.figures["most outside"] < 1e-5 and made.figures["mesh volume"] is None
    assert made.figures["part farthest"] == pytest.approx(math.hypot(20, 5), abs=1e-5)  # to the rim
    assert made.figures["part within"] == pytest.approx((1200 + 2 * 200 + 300) / 3800, abs=0.02)
    assert {w.of for w in made.worst} == {"part"}
    assert any("not closed" in n for n in made.notes)


@pytest.mark.parametrize("sides", [8, 24, 96])
def test_chords_of_a_peg_are_off_by_their_sagitta(sides: int) -> None:
    made = Made()
    made.sketch("s1", "top", disc((0, 0), 10))
    made.extrude("s2", "s1", "20")
    peg = trimesh.creation.cylinder(radius=10, height=20, sections=sides)
    peg.apply_translation([0, 0, 10])
    f = compare(bodies(made), as_read(peg), asked()).figures
    assert f["most inside"] == pytest.approx(-10 * (1 - math.cos(math.pi / sides)), abs=2e-5)
    assert f["most outside"] == pytest.approx(0, abs=2e-5)


def test_units_turns_and_places_are_taken_into_account() -> None:
    plain = bodies(plate())
    inches = box((0, 0, 0), (40, 30, 10))
    place = turned((30.0, -20.0, 75.0))
    inches.vertices = (inches.vertices - np.array([5, -3, 8])) @ place / 25.4  # what undoes the placing
    f = compare(plain, as_read(inches), asked(unit="in", turn=(30, -20, 75), at=(5, -3, 8))).figures
    assert abs(f["most outside"] or 0) < 1e-4 and abs(f["most inside"] or 0) < 1e-4
    assert f["mesh volume"] == pytest.approx(12000, rel=1e-4)


def test_without_a_solid_there_is_nothing_to_hold_it_against() -> None:
    with pytest.raises(Refusal, match="no solid"):
        compare([], as_read(box((0, 0, 0), (1, 1, 1))), asked())


# -- laid on a part ---------------------------------------------------------------------------------------------------


@settings(max_examples=examples(30) // 4, deadline=None)
@given(st.tuples(*[st.floats(-180, 180)] * 3), st.tuples(*[st.floats(-200, 200)] * 3))
def test_a_mesh_put_anywhere_is_laid_on_its_part(
    turns: tuple[float, float, float], at: tuple[float, float, float]
) -> None:
    made = stepped()
    ours = bodies(made)
    found = read_mesh(stl(made.document, made.build().state, 0.02).data)
    fitted = fit(ours, found, asked(turn=turns, at=at))
    assert fitted.after < 0.01, fitted
    f = compare(ours, found, asked(turn=fitted.turn, at=fitted.at)).figures
    assert (f["most outside"] or 0) < 0.05 and (f["most inside"] or 0) > -0.05
    assert f["part farthest"] < 0.05  # type: ignore[operator]


@given(st.tuples(*[st.floats(-180, 180)] * 3))
def test_turns_of_a_rotation_make_it_again(turns: tuple[float, float, float]) -> None:
    rotation = turned(turns)
    assert turned(turns_of(rotation)) == pytest.approx(rotation, abs=1e-9)


def test_what_lies_best_stays_where_it_is() -> None:
    made = stepped()
    found = read_mesh(stl(made.document, made.build().state, 0.02).data)
    fitted = fit(bodies(made), found, asked())
    assert np.abs([*fitted.turn, *fitted.at]).max() < 1e-3


# -- beside the part --------------------------------------------------------------------------------------------------


def test_meshes_come_change_and_go_with_ids_of_their_own() -> None:
    document = plate().document
    mesh = asked(name="scan.stl").model_dump(mode="json")

    def do(doc: object, **command: object) -> object:
        return apply(doc, commands.read(command)).document  # type: ignore[arg-type]

    one = do(document, do="add_reference", mesh=mesh)
    both = do(one, do="add_reference", mesh=mesh)
    assert [m.id for m in both.references] == ["r1", "r2"]  # type: ignore[attr-defined]
    moved = do(both, do="set_reference", mesh="r2", changes={"at": [1, 2, 3], "unit": "in"})
    first, second = moved.references  # type: ignore[attr-defined]
    assert first == both.references[0] and (second.at, second.unit, second.name) == ((1, 2, 3), "in", "scan.stl")  # type: ignore[attr-defined]
    left = do(moved, do="remove_reference", mesh="r1")
    assert [m.id for m in left.references] == ["r2"]  # type: ignore[attr-defined]
    with pytest.raises(Refusal, match="no longer beside"):
        do(left, do="set_reference", mesh="r1", changes={})
    with pytest.raises(Refusal):
        commands.read({"do": "set_reference", "mesh": "r2", "changes": {"at": [math.inf, 0, 0]}})

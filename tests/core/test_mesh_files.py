"""Files of triangles and STEP, read back by readers that are not ours."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable

import numpy as np
import pytest
import trimesh
from defusedxml import ElementTree

from sulvak_core.exchange import mesh_files, solid_files
from sulvak_core.exchange.mesh_files import Meshed
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.state import State
from sulvak_core.solid.files import Schema

from .parts import Made, disc, plate

VOLUME = 40 * 30 * 10 - np.pi * 16 * 10
NS = {"m": "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"}


def two_bodies() -> Made:
    """A plate with a hole, blue, of ABS; and a peg of steel, red, a body of its own."""
    made = plate(material="ABS")
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 4))
    made.extrude("s4", "s3", None, "cut")
    made.sketch("s5", "top", disc((60, 15), 5))
    made.extrude("s6", "s5", "20", "new")
    made.step("body", "s7", body="s2", title="Plate, grün", colour="#3366cc")
    made.step("body", "s8", body="s6", title="Peg", colour="#cc3333", material="Steel, unalloyed")
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return made


def written(write: Callable[..., Meshed], deviation: float | None = 0.01) -> Meshed:
    made = two_bodies()
    return write(made.document, made.build().state, deviation)


def loaded(file: Meshed, kind: str) -> trimesh.Scene:
    found = trimesh.load(io.BytesIO(file.data), file_type=kind, force="scene")
    assert isinstance(found, trimesh.Scene)
    return found


def of_scene(scene: trimesh.Scene) -> dict[str, trimesh.Trimesh]:
    """Meshes by their nodes' names, where they stand in the scene."""
    found = {}
    for node in scene.graph.nodes_geometry:
        place, name = scene.graph[node]
        mesh = scene.geometry[name].copy()
        mesh.apply_transform(place)
        mesh.merge_vertices(merge_norm=True, merge_tex=True)
        found[node] = mesh
    return found


def test_glb_holds_each_body_with_its_name_colour_and_place_in_metres() -> None:
    file = written(mesh_files.glb)
    found = of_scene(loaded(file, "glb"))
    assert set(found) == {"Plate, grün", "Peg"}
    plate_, peg = found["Plate, grün"], found["Peg"]
    assert plate_.is_watertight and peg.is_watertight
    assert plate_.volume == pytest.approx(VOLUME * 1e-9, rel=2e-4)
    assert peg.volume == pytest.approx(np.pi * 25 * 20 * 1e-9, rel=2e-3)
    # y is up: what is 20 mm high along z is 20 mm high along y
    assert peg.bounds == pytest.approx(np.array([[0.055, 0, -0.020], [0.065, 0.020, -0.010]]), abs=1e-5)
    colour = peg.visual.material.baseColorFactor
    srgb = [
        round(255 * (12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055))
        for c in np.array(colour[:3]) / (255 if max(colour) > 1 else 1)
    ]
    assert srgb == pytest.approx([0xCC, 0x33, 0x33], abs=3)
    assert file.triangles == sum(len(m.faces) for m in loaded(file, "glb").geometry.values())


def test_3mf_is_in_millimetres_with_names_and_colours_and_closed() -> None:
    file = written(mesh_files.threemf)
    found = of_scene(loaded(file, "3mf"))
    assert sorted(m.volume for m in found.values()) == pytest.approx(sorted([VOLUME, np.pi * 25 * 20]), rel=2e-3)
    assert all(m.is_watertight and m.is_winding_consistent for m in found.values())
    with zipfile.ZipFile(io.BytesIO(file.data)) as archive:
        model = ElementTree.fromstring(archive.read("3D/3dmodel.model"))
    assert model.attrib["unit"] == "millimeter"
    objects = model.findall(".//m:object", NS)
    assert [o.attrib["name"] for o in objects] == ["Plate, grün", "Peg"]
    bases = model.findall(".//m:basematerials/m:base", NS)
    assert [(b.attrib["name"], b.attrib["displaycolor"].upper()) for b in bases] == [
        ("ABS", "#3366CCFF"),
        ("Steel, unalloyed", "#CC3333FF"),
    ]
    assert [o.attrib["pindex"] for o in objects] == ["0", "1"]
    assert {m.attrib["name"]: m.text for m in model.findall("m:metadata", NS)}["Title"] == "Test piece"
    assert len(model.findall(".//m:triangle", NS)) == file.triangles


@pytest.mark.parametrize("write", [mesh_files.stl, mesh_files.stl_text])
def test_stl_both_ways(write: Callable[..., Meshed]) -> None:
    file = written(write)
    text = write is mesh_files.stl_text
    found = trimesh.load(io.BytesIO(file.data), file_type="stl_ascii" if text else "stl", force="mesh")
    found.merge_vertices()
    assert found.volume == pytest.approx(VOLUME + np.pi * 25 * 20, rel=1e-3)
    assert len(found.faces) == file.triangles
    assert found.is_watertight
    if text:
        assert file.data.decode().count("endsolid") == 2


def test_a_finer_deviation_gives_more_triangles_nearer_to_the_part() -> None:
    coarse, fine = written(mesh_files.threemf, 0.2), written(mesh_files.threemf, 0.005)
    assert fine.triangles > coarse.triangles
    assert (coarse.deviation, fine.deviation) == (0.2, 0.005)

    def off(file: Meshed) -> float:
        peg = min(of_scene(loaded(file, "3mf")).values(), key=lambda m: m.volume)
        middle = peg.triangles_center[np.abs(peg.face_normals[:, 2]) < 0.1]
        return float(np.abs(5 - np.hypot(middle[:, 0] - 60, middle[:, 1] - 15)).max())

    assert off(fine) <= 0.005 * 1.01
    assert off(fine) < off(coarse) <= 0.2


@pytest.mark.parametrize("write", [mesh_files.threemf, mesh_files.glb, mesh_files.stl, mesh_files.stl_text])
def test_an_empty_part_is_refused(write: Callable[..., Meshed]) -> None:
    with pytest.raises(Refusal, match="no solid yet"):
        write(Made().document, State(), None)


@pytest.mark.parametrize("write", [mesh_files.threemf, mesh_files.glb, mesh_files.stl_text])
def test_the_same_part_gives_the_same_file(write: Callable[..., Meshed]) -> None:
    assert written(write).data == written(write).data


# -- STEP --------------------------------------------------------------------------------------------------


def step(schema: Schema = "AP214", **fields: str) -> str:
    made = two_bodies()
    if fields:
        made.do("set_part", changes=fields)
    return solid_files.step(made.document, made.build().state, schema).decode("latin-1")


def flat(text: str) -> str:
    return re.sub(r"\s+", "", text)


def measures(text: str, name: str) -> list[float]:
    """The values of measures of a name, as they stand in the file."""
    return [float(v) for v in re.findall(rf"MEASURE_REPRESENTATION_ITEM\('{name}',\w+\(([-\d.E+]+)\)", flat(text))]


@pytest.mark.parametrize(
    ("schema", "named"), [("AP214", "AUTOMOTIVE_DESIGN"), ("AP242", "AP242_MANAGED_MODEL_BASED_3D_ENGINEERING")]
)
def test_step_says_what_it_can_be_checked_by(schema: Schema, named: str) -> None:
    text = step(schema)
    assert named in text
    peg = (np.pi * 25 * 20, 2 * np.pi * 25 + 2 * np.pi * 5 * 20)
    assert measures(text, "volumemeasure") == pytest.approx([VOLUME, peg[0]], rel=1e-9)
    surface = 2 * 1200 + 140 * 10 - 2 * np.pi * 16 + np.pi * 8 * 10
    assert measures(text, "surfaceareameasure") == pytest.approx([surface, peg[1]], rel=1e-9)
    assert measures(text, "densitymeasure") == pytest.approx([1.05, 7.85])
    assert "'ABS'" in text and "'Steel, unalloyed'" in text
    assert "'Peg'" in text and r"Plate, gr\X2\00FC\X0\n" in text
    assert "centrepoint" in flat(text) or "centroid" in text


def test_the_centroid_is_where_the_body_is() -> None:
    text = flat(step())
    at = re.findall(r"CARTESIAN_POINT\('(?:centrepoint|centroid)',\(([^)]*)\)\)", text)
    found = sorted(tuple(float(v) for v in p.split(",")) for p in at)
    assert found[-1] == pytest.approx((60, 15, 10), abs=1e-9)
    assert found[0] == pytest.approx((20, 15, 5), abs=1e-9)


def test_step_in_the_parts_own_unit() -> None:
    from sulvak_core.solid.files import step_volumes

    text = step(unit="in")
    assert "CONVERSION_BASED_UNIT('INCH'" in flat(text)
    assert sorted(step_volumes(text.encode("latin-1"))) == pytest.approx(sorted([VOLUME, np.pi * 25 * 20]), rel=1e-9)

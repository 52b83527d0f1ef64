"""A built part as triangles: 3MF, glTF (GLB) and STL as text, with names, colours and units."""

from __future__ import annotations

import hashlib
import io
import math
import uuid
import zipfile
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..rebuild.state import State
from ..solid.mesh import Mesh, default_deflection, mesh
from ..steps.registry import Document
from .solid_files import names, need_bodies

Array = NDArray[np.float64]
Index = NDArray[np.int64]
ANGLE = 0.2  # rad between one chord and the next
SAME = 1e-7  # mm within which corners of triangles are one
METRE = 0.001  # mm in metres, which glTF is in


@dataclass(frozen=True)
class Meshed:
    """A file, how many ``triangles`` it has, and how far they lie off the part at most (mm)."""

    data: bytes
    triangles: int
    deviation: float


def _meshes(state: State, deviation: float | None) -> tuple[list[Mesh], float]:
    need_bodies(state)
    off = deviation or max(default_deflection(b.solid) for b in state.bodies)
    return [mesh(b.solid, [], deviation, ANGLE) for b in state.bodies], off


def welded(m: Mesh) -> tuple[Array, Index]:
    """A mesh whose faces share the corners they have in common; triangles that come to nothing are left out."""
    _, first, same = np.unique(
        np.round(m.points / SAME).astype(np.int64), axis=0, return_index=True, return_inverse=True
    )
    triangles = same.reshape(-1)[m.triangles]
    a, b, c = triangles.T
    whole = (a != b) & (b != c) & (c != a)
    return m.points[first], triangles[whole]


def _rgb(colour: str) -> tuple[float, float, float]:
    return tuple(int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))  # type: ignore[return-value]


def threemf(document: Document, state: State, deviation: float | None = None) -> Meshed:
    """3MF (core specification 1.3): one object per body with its name and colour, in mm."""
    import lib3mf

    meshes, off = _meshes(state, deviation)
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    told = model.GetMetaDataGroup()
    for name, value in (
        ("Title", document.name),
        ("Description", document.description),
        ("Application", "Sulvak"),
    ):
        if value:
            told.AddMetaData("", name, value, "xs:string", True)
    colours = model.AddBaseMaterialGroup()
    count = 0
    for body, m, name in zip(state.bodies, meshes, names(document, state), strict=True):
        points, triangles = welded(m)
        count += len(triangles)
        item = model.AddMeshObject()
        item.SetName(name)
        item.SetGeometry(
            (lib3mf.Position * len(points)).from_buffer_copy(points.astype("<f4").tobytes()),
            (lib3mf.Triangle * len(triangles)).from_buffer_copy(triangles.astype("<u4").tobytes()),
        )
        r, g, b = (round(255 * v) for v in _rgb(body.colour))
        number = colours.AddMaterial(body.material or document.material or name, wrapper.RGBAToColor(r, g, b, 255))
        item.SetObjectLevelProperty(colours.GetResourceID(), number)
        # identifiers follow from what is written, so that the same part is the same file
        mark = uuid.uuid5(uuid.NAMESPACE_OID, f"{name} {number} {hashlib.sha256(points.tobytes()).hexdigest()}")
        item.SetUUID(str(mark))
        built = model.AddBuildItem(item, wrapper.GetIdentityTransform())
        built.SetUUID(str(uuid.uuid5(mark, "built")))
    model.SetBuildUUID(str(uuid.uuid5(uuid.NAMESPACE_OID, f"{document.name} {count}")))
    return Meshed(_settled(bytes(model.QueryWriter("3mf").WriteToBuffer())), count, off)


def _settled(archive: bytes) -> bytes:
    """A ZIP whose entries carry no time of their own: the same content is the same file."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(archive)) as old,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as new,
    ):
        for name in old.namelist():
            new.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), old.read(name), zipfile.ZIP_DEFLATED, 6)
    return out.getvalue()


def glb(document: Document, state: State, deviation: float | None = None) -> Meshed:
    """glTF 2.0 in one file: a node per body with its name and colour; metres, y up as the format has it."""
    import pygltflib as gl

    meshes, off = _meshes(state, deviation)
    blob = b""
    views: list[Any] = []
    accessors: list[Any] = []

    def put(values: NDArray[Any], kind: str, component: int, target: int, bounds: bool = False) -> int:
        nonlocal blob
        blob += b"\0" * (-len(blob) % 4)
        data = values.tobytes()
        views.append(gl.BufferView(buffer=0, byteOffset=len(blob), byteLength=len(data), target=target))
        blob += data
        ends = {"min": values.min(axis=0).tolist(), "max": values.max(axis=0).tolist()} if bounds else {}
        count = len(values) if kind == "VEC3" else values.size
        accessors.append(
            gl.Accessor(bufferView=len(views) - 1, componentType=component, count=count, type=kind, **ends)
        )
        return len(accessors) - 1

    nodes, made, materials, count = [], [], [], 0
    for body, m, name in zip(state.bodies, meshes, names(document, state), strict=True):
        count += len(m.triangles)
        place = put(m.points.astype("<f4"), "VEC3", gl.FLOAT, gl.ARRAY_BUFFER, bounds=True)
        normal = put(m.normals.astype("<f4"), "VEC3", gl.FLOAT, gl.ARRAY_BUFFER)
        index = put(m.triangles.astype("<u4").ravel(), "SCALAR", gl.UNSIGNED_INT, gl.ELEMENT_ARRAY_BUFFER)
        light = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in _rgb(body.colour)]
        materials.append(
            gl.Material(
                name=body.material or document.material or name,
                pbrMetallicRoughness=gl.PbrMetallicRoughness(
                    baseColorFactor=[*light, 1.0], metallicFactor=0.1, roughnessFactor=0.7
                ),
            )
        )
        shape = gl.Primitive(
            attributes=gl.Attributes(POSITION=place, NORMAL=normal), indices=index, material=len(materials) - 1
        )
        made.append(gl.Mesh(name=name, primitives=[shape]))
        nodes.append(gl.Node(name=name, mesh=len(made) - 1))
    half = math.sqrt(0.5)
    root = gl.Node(
        name=document.name,
        rotation=[-half, 0.0, 0.0, half],
        scale=[METRE] * 3,
        children=list(range(len(nodes))),
    )
    file = gl.GLTF2(
        asset=gl.Asset(version="2.0", generator="Sulvak"),
        scene=0,
        scenes=[gl.Scene(name=document.name, nodes=[len(nodes)])],
        nodes=[*nodes, root],
        meshes=made,
        materials=materials,
        accessors=accessors,
        bufferViews=views,
        buffers=[gl.Buffer(byteLength=len(blob))],
    )
    file.set_binary_blob(blob)
    return Meshed(b"".join(file.save_to_bytes()), count, off)


def stl_text(document: Document, state: State, deviation: float | None = None) -> Meshed:
    """STL as text, a solid of its own for each body, mm."""
    meshes, off = _meshes(state, deviation)
    lines: list[str] = []
    count = 0
    for m, name in zip(meshes, names(document, state), strict=True):
        word = name.encode("ascii", "replace").decode().replace("\n", " ")
        corners = m.points[m.triangles]
        n = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        n /= np.maximum(np.linalg.norm(n, axis=1), 1e-300)[:, None]
        count += len(corners)
        lines.append(f"solid {word}")
        for normal, triangle in zip(n.tolist(), corners.tolist(), strict=True):
            lines.append("facet normal " + " ".join(f"{v:.9g}" for v in normal))
            lines.append("outer loop")
            lines += ["vertex " + " ".join(f"{v:.9g}" for v in p) for p in triangle]
            lines += ["endloop", "endfacet"]
        lines.append(f"endsolid {word}")
    return Meshed(("\n".join(lines) + "\n").encode(), count, off)


def stl(document: Document, state: State, deviation: float | None = None) -> Meshed:
    """Binary STL of all bodies, mm."""
    from .solid_files import stl as binary

    data = binary(document, state, deviation)
    off = deviation or max(default_deflection(b.solid) for b in state.bodies)
    return Meshed(data, int.from_bytes(data[80:84], "little"), off)

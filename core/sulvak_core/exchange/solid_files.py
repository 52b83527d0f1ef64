"""A built part as STEP and STL. Other meshes are in ``mesh_files``."""

from __future__ import annotations

from ..part.errors import Refusal
from ..part.materials import density_of
from ..rebuild.state import State
from ..solid.bulk import bulk
from ..solid.files import NamedShape, Schema, step_bytes
from ..solid.measure import neighbours
from ..solid.mesh import mesh
from ..solid.mesh import stl as stl_bytes
from ..solid.shapes import KernelError
from ..steps.registry import Document


def _title(document: Document) -> str:
    return " ".join(t for t in (document.number, document.name, f"rev {document.revision}") if t)


def _description(document: Document) -> list[str]:
    """What a file tells about the part, a line each."""
    known = {
        "description": document.description,
        "part number": document.number,
        "revision": document.revision,
        "material": document.material,
        **document.properties,
    }
    return [f"{key}: {value}"[:240] for key, value in known.items() if value]


def step(document: Document, state: State, schema: Schema = "AP214", written: str = "") -> bytes:
    """STEP, one solid per body with name, colour, material, and its volume, surface and centroid to be checked by; in
    the part's own unit. ``written``: the time it says of itself (ISO 8601), empty for now."""
    need_bodies(state)
    items = []
    for b, name in zip(state.bodies, names(document, state), strict=True):
        material = b.material or document.material
        density = density_of(material, document.materials)
        try:
            known = bulk(b.solid)
        except KernelError:  # a solid whose sums do not close is written without what it could be checked by
            items.append(NamedShape(b.shape, name, b.colour, material, density))
            continue
        items.append(NamedShape(b.shape, name, b.colour, material, density, known.volume, known.area, known.centre))
    return step_bytes(items, _title(document), _description(document), schema, document.unit, written)


def names(document: Document, state: State) -> list[str]:
    """What each body is called in a file."""
    alone = len(state.bodies) == 1
    return [b.title or (document.name if alone else f"{document.name} {b.id}") for b in state.bodies]


def stl(document: Document, state: State, deflection: float | None = None) -> bytes:
    """Binary STL of all bodies, mm."""
    need_bodies(state)
    meshes = [mesh(b.solid, [e for e, _ in neighbours(b.solid)], deflection, 0.2) for b in state.bodies]
    return stl_bytes(meshes, _title(document))


def need_bodies(state: State) -> None:
    """Raises Refusal where there is nothing to write."""
    if not state.bodies:
        raise Refusal("There is no solid yet to write; extrude a profile first.")

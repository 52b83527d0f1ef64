"""A built part as STEP and STL."""

from __future__ import annotations

from ..part.errors import Refusal
from ..rebuild.state import State
from ..solid.files import NamedShape, step_bytes
from ..solid.measure import neighbours
from ..solid.mesh import mesh
from ..solid.mesh import stl as stl_bytes
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


def step(document: Document, state: State) -> bytes:
    """STEP AP214, one named and coloured solid per body, mm."""
    _need_bodies(state)
    alone = len(state.bodies) == 1
    names = [b.title or (document.name if alone else f"{document.name} {b.id}") for b in state.bodies]
    items = [NamedShape(b.shape, name, b.colour) for b, name in zip(state.bodies, names, strict=True)]
    return step_bytes(items, _title(document), _description(document))


def stl(document: Document, state: State, deflection: float | None = None) -> bytes:
    """Binary STL of all bodies, mm."""
    _need_bodies(state)
    meshes = [mesh(b.solid, [e for e, _ in neighbours(b.solid)], deflection, 0.2) for b in state.bodies]
    return stl_bytes(meshes, _title(document))


def _need_bodies(state: State) -> None:
    if not state.bodies:
        raise Refusal("There is no solid yet to write; extrude a profile first.")

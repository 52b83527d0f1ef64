"""Effects of the commands on the meshes held beside a part."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..part import reference
from ..part.errors import Refusal
from . import reference_commands as c
from .registry import Document
from .shared import Outcome, altered


def _add(document: Document, command: c.AddReference) -> Outcome:
    if len(document.references) >= reference.MOST:
        raise Refusal(f"{reference.MOST} meshes are beside this part; take one away first.")
    taken = {m.id for m in document.references}
    mesh = command.mesh
    if mesh.id in taken:
        mesh = mesh.model_copy(update={"id": f"r{max(int(i[1:]) for i in taken) + 1}"})
    return Outcome(altered(document, references=[*document.references, mesh]))


def _there(document: Document, ident: str) -> reference.ReferenceMesh:
    found = next((m for m in document.references if m.id == ident), None)
    if found is None:
        raise Refusal("This mesh is no longer beside the part.")
    return found


def _set(document: Document, command: c.SetReference) -> Outcome:
    mesh = _there(document, command.mesh)
    changes = {k: v for k, v in command.changes if v is not None}
    changed = mesh.model_copy(update=changes)
    return Outcome(altered(document, references=[changed if m is mesh else m for m in document.references]))


def _remove(document: Document, command: c.RemoveReference) -> Outcome:
    gone = _there(document, command.mesh)
    return Outcome(altered(document, references=[m for m in document.references if m is not gone]))


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.AddReference: _add,
    c.SetReference: _set,
    c.RemoveReference: _remove,
}

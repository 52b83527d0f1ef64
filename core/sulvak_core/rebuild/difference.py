"""What one state of a part has and another has not, as meshes for the preview."""

from __future__ import annotations

import hashlib
from typing import Any, Literal

from ..solid.boolean import combine
from ..solid.measure import neighbours
from ..solid.mesh import mesh, packed
from ..solid.shapes import KernelError, Solid
from .state import State

Piece = tuple[str, bytes, float]


Side = Literal["added", "removed"]


def sides_of(step: Any) -> tuple[Side, ...]:
    """What a step can do to the part: one that only cuts adds nothing, and the other way round."""
    operation = "cut" if step.kind == "hole" else getattr(step, "operation", "")
    if step.kind in ("extrude", "revolve", "hole"):
        return ("added",) if operation in ("add", "new") else ("removed",)
    return ("added", "removed")


def difference(before: State, after: State, sides: tuple[Side, ...] = ("added", "removed")) -> dict[str, list[Piece]]:
    """``added`` and ``removed`` pieces, each (key, packed mesh, volume in mm³). Equal bodies cost nothing, and a
    side that is not asked for neither."""
    same = {id(b.solid) for b in before.bodies} & {id(b.solid) for b in after.bodies}
    old = [b.solid for b in before.bodies if id(b.solid) not in same]
    new = [b.solid for b in after.bodies if id(b.solid) not in same]
    return {
        "added": _pieces(new, old) if "added" in sides else [],
        "removed": _pieces(old, new) if "removed" in sides else [],
    }


def _pieces(have: list[Solid], lack: list[Solid]) -> list[Piece]:
    if not have:
        return []
    try:
        left = combine("subtract", have, lack, "preview") if lack else have
    except KernelError:
        return []
    found = []
    for solid in left:
        data = packed(mesh(solid, [e for e, sides in neighbours(solid) if len(sides) > 1]))  # seams are no edges
        found.append(("p" + hashlib.sha256(data).hexdigest(), data, solid.volume()))
    return found

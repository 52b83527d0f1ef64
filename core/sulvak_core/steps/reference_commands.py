"""Commands on the meshes held beside a part."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..part.document import Strict
from ..part.reference import MeshUnit, Place, ReferenceId, ReferenceMesh, Turn, Within


class AddReference(Strict):
    """One more mesh beside the part; its id is given to it when it has none that is free."""

    do: Literal["add_reference"] = "add_reference"
    mesh: ReferenceMesh


class ReferenceChanges(Strict):
    """Only the fields that are given change."""

    name: Annotated[str, Field(max_length=200)] | None = None
    unit: MeshUnit | None = None
    turn: tuple[Turn, Turn, Turn] | None = None
    at: tuple[Place, Place, Place] | None = None
    within: Within | None = None


class SetReference(Strict):
    do: Literal["set_reference"] = "set_reference"
    mesh: ReferenceId
    changes: ReferenceChanges


class RemoveReference(Strict):
    do: Literal["remove_reference"] = "remove_reference"
    mesh: ReferenceId

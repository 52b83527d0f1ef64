"""Materials that a workspace's parts were given with densities of their own, kept for the next part."""

from collections.abc import Iterable
from typing import Any

from sulvak_core.part.materials import LIBRARY, PER_UNIT

from .models import WorkspaceMaterial

MOST = 500


def keep(workspace_id: int, materials: Iterable[dict[str, Any]]) -> None:
    """Remember these (as a part's document holds them); one of a name known already takes the newer density."""
    room = MOST - WorkspaceMaterial.objects.filter(workspace_id=workspace_id).count()
    for m in list(materials)[: max(room, 0)]:
        fields = {"value": m["value"], "unit": m["unit"], "source": m.get("source", "")}
        WorkspaceMaterial.objects.update_or_create(workspace_id=workspace_id, name=m["name"], defaults=fields)


def offered(workspace_id: int | None) -> list[dict[str, Any]]:
    """What a part of the workspace can be made of: its own materials first, then the library."""
    own = WorkspaceMaterial.objects.filter(workspace_id=workspace_id).order_by("name") if workspace_id else []
    mine = [
        {
            "name": m.name,
            "density": m.value * PER_UNIT[m.unit],
            "source": m.source,
            "family": "",
            "own": {"name": m.name, "value": m.value, "unit": m.unit, "source": m.source},
        }
        for m in own
    ]
    library = [
        {"name": m.name, "density": m.density, "source": m.source, "family": m.family, "own": None} for m in LIBRARY
    ]
    return mine + library

"""The one place where it is decided who may see or change what.

What does not exist and what is not allowed to be seen look alike: both raise NotThere.
"""

from typing import Any
from uuid import UUID

from parts.models import PartRecord

from .models import Membership, Workspace

RANK = {"viewer": 0, "editor": 1, "owner": 2}


class NotThere(Exception):
    """Unknown, or not for this person to see."""


class NotAllowed(Exception):
    """Seen, but this person's role does not reach that far."""

    def __init__(self, role: str) -> None:
        super().__init__(role)
        self.sentence = f"You are here as {role}; ask an owner of the workspace to let you change things."


def role_in(user: Any, workspace_id: int) -> str:
    """The role of ``user`` in a workspace; NotThere if none."""
    if not getattr(user, "is_authenticated", False):
        raise NotThere()
    row = Membership.objects.filter(user=user, workspace_id=workspace_id).first()
    if row is None:
        raise NotThere()
    return row.role


def _enough(role: str, needed: str) -> str:
    if RANK[role] < RANK[needed]:
        raise NotAllowed(role)
    return role


def workspace_for(user: Any, workspace_id: int, needed: str = "viewer") -> tuple[Workspace, str]:
    role = _enough(role_in(user, workspace_id), needed)
    return Workspace.objects.get(pk=workspace_id), role


def part_role(user: Any, part_id: UUID, needed: str = "viewer") -> str:
    """The user's role on a part, which itself is not read."""
    workspace = PartRecord.objects.filter(pk=part_id).values_list("workspace_id", flat=True).first()
    if workspace is None:
        raise NotThere()
    return _enough(role_in(user, workspace), needed)


def part_for(user: Any, part_id: UUID, needed: str = "viewer") -> tuple[PartRecord, str]:
    """A part and the user's role on it."""
    part = PartRecord.objects.filter(pk=part_id).select_related("workspace").first()
    if part is None:
        raise NotThere()
    return part, _enough(role_in(user, part.workspace_id), needed)

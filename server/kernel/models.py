"""What kernel work leaves behind."""

from typing import Any

from django.contrib.postgres.indexes import GinIndex
from django.db import models

from parts.models import PartRecord
from sulvak_core.rebuild.version import KERNEL_VERSION
from workspaces.models import Workspace


class Artifact(models.Model):
    """Something made from content that never changes, by the hash of that content: a step's solids, a mesh, a file."""

    key = models.CharField(max_length=80, primary_key=True)
    kind = models.CharField(max_length=12)
    head = models.JSONField(null=True)
    data = models.BinaryField()
    made = models.DateTimeField(auto_now_add=True)
    # whose it is, where it is shown to people; what is kept by content and read by kernel processes alone has none
    workspace = models.ForeignKey(Workspace, null=True, on_delete=models.CASCADE, related_name="+")

    class Meta:
        indexes = [models.Index(fields=["kind", "made"], name="kept_results_by_age")]


class BuildRecord(models.Model):
    """The newest finished build of a part: which version, made with what, its figures, its bodies' pictures by key."""

    part = models.OneToOneField(PartRecord, on_delete=models.CASCADE, related_name="build", primary_key=True)
    version = models.PositiveIntegerField()
    kernel = models.CharField(max_length=60, default="")
    figures = models.JSONField()
    bodies = models.JSONField()
    outline = models.TextField(default="")
    finished = models.DateTimeField(auto_now=True)
    card = models.JSONField(null=True)  # what the library tells of the figures, so that it need not read them

    class Meta:
        indexes = [GinIndex(fields=["bodies"], name="builds_by_picture")]

    def is_of(self, version: int) -> bool:
        """Whether this is the build of that version, made with the kernel of now."""
        return self.version == version and self.kernel == KERNEL_VERSION


class PreviewTurn(models.Model):
    """The newest preview each window asked for; older ones are not begun."""

    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE)
    window = models.CharField(max_length=40)
    turn = models.PositiveBigIntegerField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "window"], name="one_turn_a_window")]


def build_card(figures: dict[str, Any]) -> dict[str, Any]:
    """What the library tells of a build's figures."""
    mass = figures.get("mass") or {}
    verdicts = figures.get("callouts") or []
    return {
        "proven": sum(v["state"] == "proven" for v in verdicts),
        "callouts": sum(v["state"] not in ("note", "reference") for v in verdicts),
        "failed": len(figures.get("failed") or []),
        "mass": mass.get("mass"),
        "within": mass.get("within"),
    }

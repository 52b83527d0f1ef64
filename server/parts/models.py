"""Parts, their command log, and stored files."""

import uuid
from typing import Any

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models.fields.json import KT
from django.db.models.functions import Concat, Lower

from workspaces.models import Workspace

SPACE = models.Value(" ", output_field=models.TextField())


class PartRecord(models.Model):
    """A part: its document as it is now, and the version that says which that is."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="parts")
    version = models.PositiveIntegerField(default=0)
    document = models.JSONField()
    settled = models.PositiveIntegerField(default=0)  # how often sketches went along with the part they lie on
    archived = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)
    # what a search looks at, kept by the database itself so that no way of changing a part can forget it
    words = models.GeneratedField(
        expression=Lower(
            Concat(
                *[x for name in ("name", "number", "description", "material") for x in (KT(f"document__{name}"), SPACE)]
            )
        ),
        output_field=models.TextField(),
        db_persist=True,
    )
    # what the library tells of the document, worked out when it is first asked for, and of which version it is
    card = models.JSONField(null=True)
    card_version = models.PositiveIntegerField(null=True)

    class Meta:
        ordering = ["-changed"]
        indexes = [
            models.Index(fields=["workspace", "archived", "-changed"], name="parts_by_change"),
            GinIndex(OpClass("words", name="gin_trgm_ops"), name="parts_by_words"),
        ]


class LogEntry(models.Model):
    """One change of a part, in order. ``forward`` and ``backward`` are JSON patches (RFC 6902) between versions,
    so any version can be had again whatever later releases make of a command."""

    KINDS = [("command", "command"), ("undo", "undo"), ("redo", "redo")]
    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE, related_name="log")
    version = models.PositiveIntegerField()
    kind = models.CharField(max_length=8, choices=KINDS)
    command = models.JSONField()
    forward = models.JSONField()
    backward = models.JSONField()
    target = models.PositiveIntegerField(null=True)  # the version an undo or redo speaks of
    # the versions that undo and redo would speak of after this change; None where there is nothing
    undo_top = models.PositiveIntegerField(null=True)
    redo_top = models.PositiveIntegerField(null=True)
    document = models.JSONField(null=True)  # the whole document as it was then, at some versions
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["version"]
        constraints = [models.UniqueConstraint(fields=["part", "version"], name="one_entry_a_version")]


class VersionName(models.Model):
    """A version somebody gave a name, to find it again."""

    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE, related_name="names")
    version = models.PositiveIntegerField()
    name = models.CharField(max_length=80)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "version"], name="one_name_a_version")]


class StoredFile(models.Model):
    """An uploaded file, by its content, within a workspace."""

    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE)
    sha256 = models.CharField(max_length=64)
    media_type = models.CharField(max_length=60)
    data = models.BinaryField()
    stored = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "sha256"], name="one_file_a_content")]


class Weighing(models.Model):
    """What the bench scale, which is simulated, read of a made example of one version of a part."""

    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE, related_name="weighings")
    version = models.PositiveIntegerField()
    by = models.CharField(max_length=150)
    at = models.DateTimeField(auto_now_add=True)
    grams = models.FloatField()
    reading = models.JSONField()

    class Meta:
        ordering = ["-at", "-id"]


class KeptReport(models.Model):
    """An inspection report of one version of a part, as it was made. It is never changed."""

    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE, related_name="reports")
    version = models.PositiveIntegerField()
    revision = models.CharField(max_length=40)
    by = models.CharField(max_length=150)
    at = models.DateTimeField(auto_now_add=True)
    kernel = models.CharField(max_length=200)
    proven = models.PositiveIntegerField()
    judged = models.PositiveIntegerField()
    csv = models.BinaryField()
    xlsx = models.BinaryField()
    pdf = models.BinaryField()

    class Meta:
        ordering = ["-at", "-id"]

    def save(self, *args: Any, **kwargs: Any) -> None:
        if self.pk is not None:
            raise ValueError("a kept report is never changed")
        super().save(*args, **kwargs)

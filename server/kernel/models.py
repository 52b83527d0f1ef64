"""What kernel work leaves behind."""

from django.db import models

from parts.models import PartRecord


class Artifact(models.Model):
    """Something made from content that never changes, by the hash of that content: a step's solids, a mesh, a file."""

    key = models.CharField(max_length=80, primary_key=True)
    kind = models.CharField(max_length=12)
    head = models.JSONField(null=True)
    data = models.BinaryField()
    made = models.DateTimeField(auto_now_add=True)


class BuildRecord(models.Model):
    """The newest finished build of a part: which version, its figures, and its bodies' pictures by key."""

    part = models.OneToOneField(PartRecord, on_delete=models.CASCADE, related_name="build", primary_key=True)
    version = models.PositiveIntegerField()
    figures = models.JSONField()
    bodies = models.JSONField()
    outline = models.TextField(default="")
    finished = models.DateTimeField(auto_now=True)


class PreviewTurn(models.Model):
    """The newest preview each window asked for; older ones are not begun."""

    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE)
    window = models.CharField(max_length=40)
    turn = models.PositiveBigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["part", "window"], name="one_turn_a_window")]

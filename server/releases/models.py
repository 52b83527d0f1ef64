"""Released revisions of parts, and what the shop says of them."""

from typing import Any

from django.db import models

from parts.models import PartRecord


class Revision(models.Model):
    """A released revision: the part as it was, what held and what did not, and its pack, byte for byte. It is never
    changed: not by this code, and the database refuses it too (migration 0001)."""

    part = models.ForeignKey(PartRecord, on_delete=models.CASCADE, related_name="revisions")
    letter = models.CharField(max_length=3)
    version = models.PositiveIntegerField()
    by = models.CharField(max_length=150)
    at = models.DateTimeField()
    document = models.JSONField()
    manifest = models.JSONField()
    sha256 = models.CharField(max_length=64)  # of the pack
    pack = models.BinaryField()

    class Meta:
        ordering = ["-at", "-id"]
        constraints = [models.UniqueConstraint(fields=["part", "letter"], name="one_revision_a_letter")]

    def save(self, *args: Any, **kwargs: Any) -> None:
        if self.pk is not None:
            raise ValueError("a released revision is never changed")
        super().save(*args, **kwargs)


class ShopAnswer(models.Model):
    """How a revision fares at the shop's inbox, which is simulated. ``state``: waiting (to be sent), unreachable (sent
    again later), looking, accepted, rejected. ``said``: the shop's reasons, or why it could not be reached."""

    revision = models.OneToOneField(Revision, on_delete=models.CASCADE, related_name="shop")
    state = models.CharField(max_length=12, default="waiting")
    said = models.JSONField(default=list)
    tries = models.PositiveIntegerField(default=0)
    ident = models.CharField(max_length=64, default="")
    by = models.CharField(max_length=150)
    asked = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

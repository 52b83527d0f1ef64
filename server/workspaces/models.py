"""Workspaces and who may do what in them."""

from django.conf import settings
from django.db import models


class Workspace(models.Model):
    name = models.CharField(max_length=120)
    members = models.ManyToManyField(settings.AUTH_USER_MODEL, through="Membership", related_name="workspaces")
    shop = models.JSONField(null=True)  # the limits of the shop that its new parts begin with; None: Sulvak's own

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """Roles: an owner may do everything, an editor may change parts, a viewer may look."""

    ROLES = [("owner", "owner"), ("editor", "editor"), ("viewer", "viewer")]
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    role = models.CharField(max_length=10, choices=ROLES)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "user"], name="one_role_each")]


class WorkspaceMaterial(models.Model):
    """A material that a part of the workspace was given with a density of its own: offered again for the next part."""

    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="materials")
    name = models.CharField(max_length=80)
    value = models.FloatField()
    unit = models.CharField(max_length=10)
    source = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_material_each")]

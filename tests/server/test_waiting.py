"""What who waits for kernel work is told when it does not come."""

import pytest
from django.contrib.auth.models import User
from django.test import Client

from kernel import artifacts, tasks
from kernel.models import Artifact, BuildRecord
from parts.routers.library import create
from sulvak_core.part.errors import Refusal
from sulvak_core.steps.registry import Document
from workspaces.models import Membership, Workspace

pytestmark = pytest.mark.django_db


def test_who_asked_about_a_version_gone_by_may_ask_again_at_once() -> None:
    tasks._superseded("a key")
    with pytest.raises(Refusal, match="changed meanwhile") as told:
        artifacts.wait_for("a key", 5.0, "late")
    assert told.value.detail == {"offer": "again"}
    assert not Artifact.objects.filter(key="a key").exists()  # and is not told so for ever


def test_what_failed_is_not_asked_for_again() -> None:
    Artifact.objects.create(key="another", kind="failure", head="It cannot be drawn.", data=b"")
    with pytest.raises(Refusal, match="It cannot be drawn") as told:
        artifacts.wait_for("another", 5.0, "late")
    assert told.value.detail["offer"] == ""


def test_what_is_late_or_lost_may_be_asked_for_again(monkeypatch: pytest.MonkeyPatch) -> None:
    with pytest.raises(Refusal, match="still being made") as late:
        artifacts.wait_for("nothing", -1.0, "This is still being made.")
    monkeypatch.setattr(artifacts, "LOOKED_AFTER", -1.0)
    with pytest.raises(Refusal, match="stopped before it was done") as lost:
        artifacts.wait_for("nothing", 5.0, "late")
    assert late.value.detail == lost.value.detail == {"offer": "again"}


def test_a_part_without_a_build_is_not_taken_for_built_at_its_first_version() -> None:
    """Both would be version 0, and who waits for the build of a part as it began would wait for ever."""
    place, who = Workspace.objects.create(name="South bank"), User.objects.create_user("smew")
    Membership.objects.create(workspace=place, user=who, role="editor")
    part = create(place.pk, Document(name="Just begun"))
    assert part.version == 0 and not BuildRecord.objects.filter(part=part).exists()
    client = Client()
    client.force_login(who)
    told = client.get(f"/api/parts/{part.pk}/build").json()
    assert (told["version"], told["ready"]) == (-1, False)

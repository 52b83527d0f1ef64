"""What who waits for kernel work is told when it does not come."""

import pytest

from kernel import artifacts, tasks
from kernel.models import Artifact
from sulvak_core.part.errors import Refusal

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

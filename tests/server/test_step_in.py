"""STEP files brought into a part: read apart from everything else, taken in whole or not at all."""

from __future__ import annotations

import hashlib
import json
import math
from typing import Any

import pytest

from tests.conftest import PASSWORD, Client, Part, Service

PIN = 25 * math.pi * 20  # Ø10, 20 long


@pytest.fixture(scope="module")
def file(service: Service) -> bytes:
    """A STEP file of a block 40 × 30 × 10, written by the service itself."""
    part = Client(service).new_part("Written")
    part.block()
    part.built()
    status, data, _ = part.client.raw("GET", f"{part.path}/export/step")
    assert status == 200
    return data


def bring(part: Part, data: bytes, step: str = "s1", name: str = "block.step") -> tuple[int, Any]:
    return part.client.upload(f"{part.path}/solids", name, data, version=str(part.now["version"]), step=step)


def test_a_file_becomes_the_first_body(wren: Client, file: bytes) -> None:
    part = wren.new_part("From outside")
    status, told = bring(part, file)
    assert status == 200, told
    assert told["said"] == ["1 body taken in from block.step."]
    part.now = told
    built = part.built()
    assert built["mass"]["volume"] == pytest.approx(12000, rel=1e-9)
    assert built["steps"][0]["sentence"] == "Take in the bodies of block.step"
    assert built["bodies"][0]["faces"][0]["said"] == "face 1 of the file of step 10"


def test_it_is_one_action_and_can_be_undone(wren: Client, file: bytes) -> None:
    part = wren.new_part("Undone")
    part.now = bring(part, file)[1]
    assert part.travel("undo") == 200
    assert not part.now["document"]["steps"]
    assert part.travel("redo") == 200
    assert part.built()["mass"]["volume"] == pytest.approx(12000, rel=1e-9)


def test_a_copy_of_the_part_still_has_its_file(wren: Client, file: bytes) -> None:
    part = wren.new_part("Original")
    part.now = bring(part, file)[1]
    status, made = wren.post(f"{part.path}/copy", {"name": "Copied"})
    assert status == 200
    assert Part(wren, made["id"]).built()["mass"]["volume"] == pytest.approx(12000, rel=1e-9)


BAD = [
    (b"", "does not begin"),
    (b"hello", "does not begin"),
    (b"PK\x03\x04" + b"\0" * 100, "does not begin"),
    (b"ISO-10303-21;HEADER;ENDSEC;DATA;", "cut short"),
    (b"ISO-10303-21;HEADER;ENDSEC;DATA;#1=P((1.,NaN));ENDSEC;END-ISO-10303-21;", "numbers"),
    (b"ISO-10303-21;HEADER;ENDSEC;DATA;#1=P(" + b"(" * 9000 + b")" * 9000 + b");ENDSEC;END-ISO-10303-21;", "parenth"),
    (b"ISO-10303-21;HEADER;ENDSEC;DATA;ENDSEC;END-ISO-10303-21;", "no solid"),
]


@pytest.mark.parametrize(("data", "words"), BAD)
def test_a_bad_file_changes_nothing_and_is_not_kept(wren: Client, data: bytes, words: str) -> None:
    part = wren.new_part("Refused")
    status, told = bring(part, data)
    assert status == 422
    assert words in told["sentence"]
    after = part.client.get(part.path)[1]
    assert after["version"] == part.now["version"]
    assert not after["document"]["steps"]


def test_a_stale_version_and_a_taken_id_are_answered(wren: Client, file: bytes) -> None:
    part = wren.new_part("Stale")
    part.block()
    assert bring(part, file, step="s2")[0] == 422
    seen = part.now
    part.now = {**seen, "version": seen["version"] - 1}
    assert bring(part, file, step="s9")[0] == 409


def test_who_may_bring(wren: Client, file: bytes, service: Service) -> None:
    part = wren.new_part("Mine")
    viewer, nobody = (Part.__new__(Part) for _ in range(2))
    for other, client in ((viewer, Client(service, "rook")), (nobody, Client(service, None))):
        other.client, other.id, other.path, other.now = client, part.id, part.path, part.now
    assert bring(viewer, file)[0] == 403
    assert bring(nobody, file)[0] == 401


@pytest.fixture
def stranger(service: Service) -> Client:
    """Somebody with a workspace of their own and none of ours."""
    service.shell(
        "from django.contrib.auth.models import User; from workspaces.models import *;"
        "u, fresh = User.objects.get_or_create(username='plover');"
        f"fresh and u.set_password({PASSWORD!r}); u.save();"  # another password would end who is signed in
        "w, _ = Workspace.objects.get_or_create(name='Other side of the fen');"
        "Membership.objects.get_or_create(workspace=w, user=u, defaults={'role': 'owner'})",
    )
    return Client(service, "plover")


def test_what_a_workspace_never_had_is_not_to_be_had(wren: Client, stranger: Client, file: bytes) -> None:
    """Who knows a file's digest, a body's picture or a document has nothing of what they show."""
    ours = wren.new_part("Ours")
    assert bring(ours, file)[0] == 200
    shown = [b["key"] for b in ours.built()["bodies"]]
    document = ours.client.get(ours.path)[1]["document"]
    digest = document["steps"][0]["file"]
    theirs = stranger.new_part("Theirs")
    status, answer = theirs.send(do="add_step", step={"kind": "import", "id": "s1", "file": digest})
    assert (status, "bring it in first" in answer["sentence"]) == (422, True)
    for key in shown:
        assert stranger.raw("GET", f"{theirs.path}/mesh/{key}")[0] == 404
        assert wren.raw("GET", f"{ours.path}/mesh/{key}")[0] == 200
    # the whole document as a part file: its steps are there, the file is not, whatever is kept of it
    data = json.dumps({**document, "name": "Ours"}).encode()
    status, made = stranger.upload("/api/parts/import", "ours.json", data, workspace=str(stranger.workspace()))
    assert status == 200, made
    copy = Part(stranger, made["id"])
    built = copy.built()
    assert [s["state"] for s in built["steps"]] == ["failed"]
    assert "is not here; bring it in again." in built["steps"][0]["said"]
    assert built["bodies"] == []
    assert stranger.raw("GET", f"{copy.path}/export/step")[0] == 422


def test_a_mesh_that_a_workspace_never_had_is_not_to_be_had(wren: Client, stranger: Client) -> None:
    ours = wren.new_part("Ours with a mesh")
    ours.block()
    _, data, _ = wren.raw("GET", f"{ours.path}/export/stl")
    status, after = wren.upload(f"{ours.path}/meshes", "block.stl", data, version=str(ours.now["version"]))
    assert status == 200, after
    [mesh] = after["document"]["references"]
    assert wren.get(f"{ours.path}/meshes/r1/compared")[0] == 200  # it is in a process's memory now
    theirs = stranger.new_part("Theirs with a mesh")
    theirs.block()
    status, answer = theirs.send(do="add_reference", mesh=mesh)
    assert (status, "bring it in first" in answer["sentence"]) == (422, True)
    content = json.dumps(after["document"]).encode()
    status, made = stranger.upload("/api/parts/import", "ours.json", content, workspace=str(stranger.workspace()))
    assert status == 200, made
    copy = Part(stranger, made["id"])
    assert copy.now["document"]["references"] == []
    assert stranger.get(f"{copy.path}/meshes/r1/compared")[0] == 422
    assert stranger.get(f"{ours.path}/meshes/r1/compared")[0] == 404
    # what it is told of is said in the history
    assert "put a mesh beside the part" in json.dumps(wren.get(f"{ours.path}/history")[1])


def test_a_sheet_is_one_that_was_looked_at(wren: Client) -> None:
    part = wren.new_part("Sheeted")
    bad = b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script>1</script></svg>'
    status, _ = wren.upload(f"{part.path}/drawings", "bad.svg", bad)
    sheet = {"name": "x", "sha256": hashlib.sha256(bad).hexdigest(), "media_type": "image/svg+xml", "pages": [[9, 9]]}
    for wrong in (sheet, {**sheet, "sha256": "0" * 64}, {**sheet, "media_type": "image/png"}):
        status, answer = part.send(do="set_sheet", sheet=wrong)
        assert (status, "bring it in first" in answer["sentence"]) == (422, True)

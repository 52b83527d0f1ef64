"""STEP files brought into a part: read apart from everything else, taken in whole or not at all."""

from __future__ import annotations

import math
from typing import Any

import pytest

from tests.conftest import Client, Part, Service

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


def test_a_file_of_another_workspace_is_not_to_be_had(wren: Client) -> None:
    """A step can name any file; only those of the part's own workspace are given to it."""
    part = wren.new_part("Guessed")
    part.do(do="add_step", step={"kind": "import", "id": "s1", "file": "0" * 64, "title": "theirs.step"})
    built = part.built()
    assert built["steps"][0]["state"] == "failed"
    assert built["steps"][0]["said"] == "The file theirs.step is not here; bring it again."

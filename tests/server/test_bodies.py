"""Bodies saved as parts of their own: linked to where they came from, told when that has changed, taken anew."""

from __future__ import annotations

from typing import Any

import pytest

from tests.conftest import Client, Part


def two_blocks(client: Client, name: str) -> Part:
    """A part of two bodies: a block 40 × 30 × 10, and one 10 × 10 × 8 beside it."""
    part = client.new_part(name)
    part.block()
    part.do(do="add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "datum", "plane": "top"}})
    at = [(100, 0), (110, 0), (110, 10), (100, 10)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": at[i], "q": at[(i + 1) % 4]} for i in range(4)]
    part.do(do="sketch_add", step="s3", entities=lines)
    extrude = {"kind": "extrude", "id": "s4", "sketch": "s3", "operation": "new"}
    part.do(do="add_step", step={**extrude, "extent": {"kind": "depth", "depth": "8"}})
    part.do(do="add_step", step={"kind": "body", "id": "s5", "body": "s4", "title": "Foot", "material": "ABS"})
    part.built()
    return part


def saved(part: Part, body: str = "s4", name: str = "") -> Part:
    status, made = part.client.post(f"{part.path}/bodies/{body}/part", {"version": part.now["version"], "name": name})
    assert status == 200, made
    return Part(part.client, made["id"])


def source(part: Part) -> dict[str, Any]:
    [found] = part.client.get(f"{part.path}/sources")[1]
    return dict(found)


def test_a_body_becomes_a_part_and_knows_where_it_came_from(wren: Client) -> None:
    blocks = two_blocks(wren, "Two blocks")
    foot = saved(blocks)
    built = foot.built()
    document = foot.now["document"]
    assert document["name"] == "Foot"
    assert document["material"] == "ABS"
    assert built["mass"]["volume"] == pytest.approx(800, rel=1e-9)
    assert built["bodies"][0]["title"] == "Foot"
    found = source(foot)
    assert (found["step"], found["part"], found["state"]) == ("s1", blocks.path.rsplit("/", 1)[1], "same")
    assert found["said"] == "This is Foot of Two blocks, as it is there now."
    assert wren.get(f"{blocks.path}/sources")[1] == []
    assert saved(blocks, "s2", "Plinth").now["document"]["name"] == "Plinth"
    # made into a part twice: told
    again = {"version": blocks.now["version"], "name": "Foot again"}
    assert wren.post(f"{blocks.path}/bodies/s4/part", again)[1]["before"] == ["Foot"]


def test_it_is_told_when_the_source_has_moved_on_and_taken_anew(wren: Client) -> None:
    blocks = two_blocks(wren, "Moving on")
    foot = saved(blocks)
    foot.built()
    blocks.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "12"}})  # the other body
    blocks.built()
    assert source(foot)["state"] == "same"
    blocks.do(do="set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "9"}})
    blocks.built()
    found = source(foot)
    assert found["state"] == "moved"
    assert "800.00 mm³ then, 900.00 now" in found["said"]
    assert foot.built()["mass"]["volume"] == pytest.approx(800)  # nothing changes unasked
    status, told = wren.post(f"{foot.path}/sources/s1", {"version": foot.now["version"]})
    assert status == 200, told
    assert told["said"] == ["Taken as it is in Moving on now."]
    foot.now = told
    assert foot.built()["mass"]["volume"] == pytest.approx(900, rel=1e-9)
    assert source(foot)["state"] == "same"
    assert foot.travel("undo") == 200
    assert foot.built()["mass"]["volume"] == pytest.approx(800, rel=1e-9)


def test_what_cannot_be_is_said(wren: Client) -> None:
    blocks = two_blocks(wren, "Odd asks")
    version = blocks.now["version"]
    status, told = wren.post(f"{blocks.path}/bodies/s9/part", {"version": version})
    assert (status, "no longer in the part" in told["sentence"]) == (422, True)
    status, told = wren.post(f"{blocks.path}/bodies/s4/part", {"version": version - 1})
    assert (status, "has changed since" in told["sentence"]) == (422, True)
    status, told = wren.post(f"{blocks.path}/sources/s2", {"version": version})
    assert (status, "no body of another part" in told["sentence"]) == (422, True)
    foot = saved(blocks)
    foot.built()
    blocks.do(do="delete_step", step="s5")
    blocks.do(do="delete_step", step="s4")
    blocks.built()
    assert source(foot)["state"] == "gone"
    status, told = wren.post(f"{foot.path}/sources/s1", {"version": foot.now["version"]})
    assert (status, "no longer in the part" in told["sentence"]) == (422, True)


def test_a_stranger_neither_saves_bodies_nor_learns_where_they_came_from(wren: Client) -> None:
    blocks = two_blocks(wren, "Not yours")
    foot = saved(blocks)
    stranger = Client(wren.service, None)
    shut = (401, 403, 404)
    assert stranger.post(f"{blocks.path}/bodies/s4/part", {"version": blocks.now["version"]})[0] in shut
    assert stranger.get(f"{foot.path}/sources")[0] in shut
    assert stranger.post(f"{foot.path}/sources/s1", {"version": 1})[0] in shut

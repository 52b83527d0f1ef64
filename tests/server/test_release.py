"""Releases over HTTP: looked over, released, never changed again; the shop's inbox, up and down."""

from __future__ import annotations

import hashlib
import json
import math
import time
from pathlib import Path
from typing import Any

import pytest

from sulvak_core.release.verify import verify
from tests.conftest import Client
from tests.service import Part, Service


def released(client: Client, part: Any, **reasons: str) -> dict[str, Any]:
    version = client.get(part.path)[1]["version"]
    status, made = client.post(f"{part.path}/release", {"version": version, "reasons": reasons})
    assert status == 200, made
    return dict(made)


OPEN = ("constrained", "covered", "proven", "mass", "check-cutters")  # of the block below, or not


def bored_block(client: Client, name: str) -> Part:
    """A block with a bore through its side, which no cutter comes to from above: a part quickly looked over."""
    part = client.new_part(name, material="ABS", number="FKS-0950")
    part.block()
    part.do(do="add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "datum", "plane": "front"}})
    part.do(do="sketch_add", step="s3", entities=[{"kind": "circle", "id": "c1", "c": [20, 5], "r": 3}])
    extent = {"kind": "through_all"}
    cut = {"kind": "extrude", "id": "s4", "sketch": "s3", "operation": "cut", "extent": extent, "reverse": True}
    part.do(do="add_step", step=cut)
    return part


def test_a_part_is_released_and_goes_on_as_the_next_revision(wren: Client) -> None:
    part = wren.copy("Cross plate", "Cross plate to release")
    status, looked = wren.get(f"{part.path}/release/conditions")
    assert status == 200, looked
    open_lines = [c["key"] for c in looked["conditions"] if not c["holds"]]
    assert open_lines == ["covered"]
    version = looked["version"]
    status, refused = wren.post(f"{part.path}/release", {"version": version})
    assert status == 422 and "say why it is released all the same" in refused["sentence"]
    assert wren.get(part.path)[1]["version"] == version
    made = released(wren, part, covered="both arms are alike")
    assert (made["letter"], made["by"], made["version"]) == ("A", "wren", version)
    assert [c["reason"] for c in made["conditions"] if not c["holds"]] == ["both arms are alike"]
    document = wren.get(part.path)[1]["document"]
    assert document["revision"] == "B"
    status, pack, _ = wren.raw("GET", f"{part.path}/revisions/A/pack")
    assert status == 200 and hashlib.sha256(pack).hexdigest() == made["sha256"] and len(pack) == made["bytes"]
    told, wrong = verify(pack)
    assert wrong == [] and told["part"]["revision"] == "A" and told["released"]["by"] == "wren"
    assert any(f["path"] == "sheet-1.svg" for f in told["files"])
    status, step, _ = wren.raw("GET", f"{part.path}/revisions/A/files/solid.step")
    assert status == 200 and hashlib.sha256(step).hexdigest() in {f["sha256"] for f in made["files"]}
    for path in ("revisions/A/files/../pack", "revisions/A/files/none.txt", "revisions/C/pack"):
        assert wren.raw("GET", f"{part.path}/{path}")[0] == 404

    # the part goes on: another size, another release, and the first stays as it was
    part = wren.part_named("Cross plate to release")
    part.do(do="sketch_dimension", step="s1", dimension="d5", changes={"expr": "18"})
    part.do(do="set_callout", callout={**document["callouts"][5], "text": "Ø18 THRU"})
    second = released(wren, part, covered="as before", mass="lighter, agreed with the shop")
    assert second["letter"] == "B"
    assert wren.raw("GET", f"{part.path}/revisions/A/pack")[1] == pack
    _, compared = wren.get(f"{part.path}/revisions/A/compare/B")
    assert {"what": "callout 6", "before": "Ø16 THRU", "after": "Ø18 THRU"} in compared["callouts"]
    assert [(s["before"], s["after"]) for s in compared["sizes"]] == [("16", "18")]
    mass = next(f for f in compared["figures"] if f["what"] == "mass")
    assert mass["before"] > mass["after"]
    states = {f["path"]: f["state"] for f in compared["files"]}
    assert states["sheet-1.svg"] == "the same" and states["solid.step"] == "another"
    # as shapes: the bore grew by a ring of 4, whatever becomes of the part meanwhile
    part = wren.part_named("Cross plate to release")
    part.do(do="sketch_dimension", step="s1", dimension="d5", changes={"expr": "10"})
    status, shapes = wren.get(f"{part.path}/revisions/A/shapes/B")
    assert status == 200, shapes
    assert shapes["volumes"]["removed"] == pytest.approx(math.pi * (9**2 - 8**2) * 4, rel=1e-6)
    assert not shapes["added"] and not shapes["volumes"].get("added")
    [body] = shapes["bodies"]
    for key in (body["key"], *shapes["removed"]):
        assert wren.raw("GET", f"{part.path}/mesh/{key}")[0] == 200
    assert wren.get(f"{part.path}/revisions/A/shapes/Z")[0] == 404
    _, listed = wren.get(f"{part.path}/release")
    assert [r["letter"] for r in listed["revisions"]] == ["B", "A"] and listed["letter"] == "C"


def test_a_release_of_an_older_version_is_refused(wren: Client) -> None:
    part = wren.copy("Pan hub", "Not to be released")
    version = wren.get(part.path)[1]["version"]
    part.do(do="set_part", changes={"description": "another"})
    status, told = wren.post(f"{part.path}/release", {"version": version, "reasons": {}})
    assert status == 409, told
    assert not wren.get(f"{part.path}/release")[1]["revisions"]


def test_the_database_itself_refuses_to_change_what_was_released(service: Service, wren: Client) -> None:
    released(wren, bored_block(wren, "Block to release"), **dict.fromkeys(OPEN, "seen"))
    import psycopg

    with psycopg.connect(service.database, autocommit=True) as c:
        for column, value in (("letter", "Z"), ("pack", b""), ("manifest", "{}")):
            with pytest.raises(psycopg.errors.RaiseException, match="never changed"):
                c.execute(f"UPDATE releases_revision SET {column} = %s", [value])


def answer(client: Client, path: str, *states: str) -> dict[str, Any]:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        _, told = client.get(path)
        shop = told["revisions"][0]["shop"]
        if shop and shop["state"] in states:
            return dict(shop)
        time.sleep(0.2)
    raise AssertionError(f"the shop says {shop}")


def test_the_shop_is_down_then_up_and_says_what_it_thinks(service: Service, wren: Client) -> None:
    part = bored_block(wren, "Block for the shop")
    part.do(
        do="set_part", changes={"shop": {"asked": ["solid", "cutters"], "cutters": {"ways": ["+z"], "diameter": 12.0}}}
    )
    reasons = dict.fromkeys(OPEN, "to see what the shop says")
    released(wren, part, **reasons)
    path = f"{part.path}/release"
    status, shop = wren.post(f"{part.path}/revisions/A/shop", {})
    assert status == 200 and shop["state"] == "waiting"
    shop = answer(wren, path, "unreachable")
    assert shop["tries"] >= 1 and "does not answer" in shop["said"][0]
    service.start_inbox()
    try:
        shop = answer(wren, path, "accepted", "rejected")
        assert shop["state"] == "rejected" and shop["said"][0].startswith("Cutters do not reach it")
        assert wren.post(f"{part.path}/revisions/A/shop", {})[1]["state"] == "rejected"  # asked again it says the same
        part = wren.part_named("Block for the shop")
        part.do(do="set_part", changes={"shop": {"asked": ["solid"]}})
        released(wren, part, **reasons)
        wren.post(f"{part.path}/revisions/B/shop", {})
        assert answer(wren, path, "accepted", "rejected")["state"] == "accepted"
    finally:
        service.kill("inbox")


def test_the_inbox_looks_again_at_what_it_had_when_it_was_stopped(tmp_path: Path) -> None:
    from shop_inbox.__main__ import Inbox

    first = Inbox(tmp_path, 60)
    ident = first.take(b"no pack at all")
    assert first.answer(ident) == {"state": "looking", "said": []} and first.answer("0" * 64) is None
    again = Inbox(tmp_path, 0)
    deadline = time.monotonic() + 10
    while (again.answer(ident) or {})["state"] == "looking" and time.monotonic() < deadline:
        time.sleep(0.05)
    told = again.answer(ident)
    assert told and told["state"] == "rejected" and "cannot be opened" in told["said"][0]
    assert json.loads((tmp_path / f"{ident}.json").read_text()) == told

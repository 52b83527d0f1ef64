"""The checks of the shop over HTTP, against limits that are the part's data."""

from __future__ import annotations

import struct

import numpy as np
import pytest

from tests.conftest import Client, Service


def test_the_tilt_arms_checks(wren: Client) -> None:
    part = wren.part_named("Tilt arm")
    for name in ("solid", "mould", "walls", "cutters"):
        status, found = wren.get(f"{part.path}/checks/{name}")
        assert status == 200, found
        assert found["check"] == name
        if name == "solid":
            assert found["passed"] and found["paint"] is None and not found["findings"]
            continue
        status, data, _ = wren.raw("GET", f"{part.path}/mesh/{found['paint']}")
        assert status == 200 and data[:4] == b"SVP1"
        (n,) = struct.unpack("<I", data[4:8])
        assert len(data) == 8 + n * 48
        corners = np.frombuffer(data[8 : 8 + 36 * n], "<f4").reshape(-1, 3, 3).astype(float)
        area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
        assert area == pytest.approx(9320.9, rel=3e-3)
        assert sum(b["area"] for b in found["bands"]) == pytest.approx(area, rel=1e-3)
    assert wren.get(f"{part.path}/checks/taste")[0] == 422


def test_limits_are_the_parts_own_and_undone_like_anything(wren: Client) -> None:
    part = wren.new_part("Plate with limits of its own")
    part.block(depth="4")
    assert wren.get(f"{part.path}/checks/walls")[1]["passed"]
    part.do(do="set_part", changes={"shop": {"walls": {"least": 4.5}}})
    _, found = wren.get(f"{part.path}/checks/walls")
    assert not found["passed"]
    first = found["findings"][0]
    assert (first["kind"], first["limit"], first["unit"]) == ("thin wall", 4.5, "mm")
    assert first["value"] == pytest.approx(4, rel=1e-3)
    assert first["step_number"] and "4.5 mm" in first["said"]
    part.do(do="set_part", changes={"unit": "in"})
    said = wren.get(f"{part.path}/checks/walls")[1]["findings"][0]["said"]
    assert "0.1575 in" in said and "mm" not in said
    assert part.travel("undo") == 200
    assert part.travel("undo") == 200
    assert wren.get(f"{part.path}/checks/walls")[1]["passed"]


def test_a_workspace_has_limits_that_its_new_parts_begin_with(wren: Client, service: Service) -> None:
    part = wren.new_part()
    status, found = wren.get(f"{part.path}/workspace-shop")
    assert (status, found["role"], found["shop"]["asked"]) == (200, "owner", ["solid"])
    for unit, drills in (("mm", "metric"), ("in", "inch")):  # while it has none of its own
        assert wren.new_part(unit=unit).now["document"]["shop"]["cutters"]["drills"] == drills
    before = found["shop"]
    own = {**before, "asked": ["solid", "walls"], "walls": {"least": 1.6, "most": 0, "jump": 3}}
    try:
        status, kept = wren.post(f"{part.path}/workspace-shop", own)
        assert (status, kept["shop"]) == (200, own)
        assert wren.get(part.path)[1]["document"]["shop"] == before  # parts that are there keep theirs
        fresh = wren.new_part()
        assert fresh.now["document"]["shop"] == own
        rook = Client(service, "rook")
        assert rook.get(f"{part.path}/workspace-shop")[1]["shop"] == own
        assert rook.post(f"{part.path}/workspace-shop", own)[0] == 403
        wrong = {**own, "walls": {"least": -1}}
        assert wren.post(f"{part.path}/workspace-shop", wrong)[0] == 422
    finally:
        wren.post(f"{part.path}/workspace-shop", before)

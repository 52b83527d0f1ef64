"""Meshes beside a part over HTTP: brought, held against the part, laid on it, taken away."""

from __future__ import annotations

import struct

import numpy as np
import pytest

from tests.conftest import Client


def test_a_mesh_is_brought_compared_and_laid_on_the_part(wren: Client) -> None:
    part = wren.new_part("Block and its scan")
    part.block()
    _, data, _ = wren.raw("GET", f"{part.path}/export/stl?deviation=0.05")
    version = str(part.now["version"])
    status, after = wren.upload(f"{part.path}/meshes", "scan.stl", data, version=version)
    assert status == 200, after
    assert any("does not say its unit" in said for said in after["said"])
    [mesh] = after["document"]["references"]
    assert (mesh["id"], mesh["name"], mesh["unit"]) == ("r1", "scan.stl", "mm")
    status, found = wren.get(f"{part.path}/meshes/r1/compared")
    assert status == 200, found
    figures = found["figures"]
    assert 0 < figures["most_outside"] <= 0.05
    assert figures["mesh_within"] == figures["part_within"] == 1
    assert figures["mesh_volume"] == pytest.approx(figures["part_volume"], rel=2e-3)
    for paint in (found["on_mesh"], found["on_part"]):
        status, painted, _ = wren.raw("GET", f"{part.path}/mesh/{paint}")
        assert status == 200
        (n,) = struct.unpack("<I", painted[4:8])
        values = np.frombuffer(painted[8 + 36 * n :], "<f4")
        assert len(values) == 3 * n and np.abs(values).max() <= 0.0501
    # pushed aside, it is found again
    part.now = after
    part.do(do="set_reference", mesh="r1", changes={"turn": [4, -3, 5], "at": [2, 1, -1]})
    off = wren.get(f"{part.path}/meshes/r1/compared")[1]["figures"]
    assert off["most_outside"] > 2
    status, fitted = wren.post(f"{part.path}/meshes/r1/fit")
    assert status == 200, fitted
    assert fitted["after"] < 0.01 < fitted["before"]
    part.do(do="set_reference", mesh="r1", changes={"turn": fitted["turn"], "at": fitted["at"]})
    again = wren.get(f"{part.path}/meshes/r1/compared")[1]["figures"]
    assert again["most_outside"] < 0.06 and again["most_inside"] > -0.06
    part.do(do="remove_reference", mesh="r1")
    status, gone = wren.get(f"{part.path}/meshes/r1/compared")
    assert status == 422 and "no longer beside" in gone["sentence"]
    assert part.travel("undo") == 200  # the file is still there
    assert wren.get(f"{part.path}/meshes/r1/compared")[0] == 200


def test_what_is_no_mesh_changes_nothing(wren: Client) -> None:
    part = wren.new_part()
    version = str(part.now["version"])
    for name, data, said in (
        ("a.stl", b"", "Bring STL, 3MF or glTF"),
        ("b.stl", b"solid a\nfacet normal 0 0 1\nvertex 0 0 0\n", "cut short"),
        ("c.3mf", b"PK\x03\x04nothing", "cannot be opened"),
        ("d.glb", b"glTF\x02\0\0\0\xff\xff\xff\xff", "damaged"),
    ):
        status, refused = wren.upload(f"{part.path}/meshes", name, data, version=version)
        assert status == 422 and said in refused["sentence"], (name, refused)
    assert wren.get(part.path)[1]["version"] == part.now["version"]
    assert wren.get(f"{part.path}/meshes/r1/fit")[0] == 405

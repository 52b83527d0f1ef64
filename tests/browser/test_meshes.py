"""A scan beside the part: brought, laid on it, its dent found, measured on, taken away and back."""

from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np
import trimesh
from playwright.sync_api import expect

from tests.conftest import Client

from .conftest import Desk

LONG = 120_000


def test_the_dent_of_a_scan_is_found(desk: Desk, wren: Client, tmp_path: Path) -> None:
    part = wren.new_part("Block and its scan")
    part.block()
    _, data, _ = wren.raw("GET", f"{part.path}/export/stl?deviation=0.02")
    scan = trimesh.load(io.BytesIO(data), file_type="stl", force="mesh")
    assert isinstance(scan, trimesh.Trimesh)
    scan = scan.subdivide_to_size(3)
    near = np.linalg.norm(scan.vertices - [20, 15, 10], axis=1)
    scan.vertices[:, 2] -= 0.4 * np.exp(-((near / 4) ** 2))
    place = trimesh.transformations.euler_matrix(0.4, 1.1, -0.7)
    place[:3, 3] = [12, -40, 60]
    scan.apply_transform(place)
    scan.export(tmp_path / "scan.stl")

    desk.at(part)
    page = desk.page
    page.get_by_role("link", name="Inspection").click()
    page.get_by_role("tab", name="Meshes").click()
    expect(page.get_by_text("Nothing is beside this part yet")).to_be_visible()
    page.get_by_label("File of a mesh").set_input_files(tmp_path / "scan.stl")
    expect(page.get_by_text("it is taken for mm")).to_be_visible(timeout=LONG)
    figures = page.get_by_label("Figures of the mesh")
    expect(figures).to_contain_text("0.0 %", timeout=LONG)  # nowhere near
    page.get_by_role("button", name="Lay it on the part").click()
    expect(page.get_by_text("Laid on the part")).to_be_visible(timeout=LONG)
    places = page.get_by_role("list", name="Places farthest off").get_by_role("button")
    expect(places.first).to_contain_text("the mesh within the part", timeout=LONG)
    found = float(places.first.inner_text().split(" mm")[0])
    assert math.isclose(found, 0.4, abs_tol=0.05)
    # two places on what is painted are measured between
    seen = page.get_by_role("group", name="The part as measured")
    places.first.click()
    spot = seen.get_by_role("button", name="Finding 1", exact=True).bounding_box()
    assert spot
    x, y = spot["x"] + spot["width"] / 2, spot["y"] + spot["height"] / 2
    page.mouse.click(x - 15, y - 14)
    measured = page.get_by_role("status", name="Measured between places")
    expect(measured).to_contain_text("press another place")
    page.mouse.click(x + 18, y + 14)
    expect(measured).to_contain_text("apart")
    page.get_by_label("the part, by how far the mesh is off it").check()
    expect(page.get_by_role("figure", name="What the colours mean")).to_be_visible()
    # taken away, and back
    page.get_by_role("button", name="Take scan.stl away").click()
    expect(page.get_by_text("Nothing is beside this part yet")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(figures).to_be_visible(timeout=LONG)

"""Mass over HTTP: figures in a frame, what drives them, a target met and taken, the bench scale."""

from __future__ import annotations

import pytest

from tests.conftest import Client
from tests.service import Part, Service


def grams(wall: float, depth: float = 10) -> float:
    """What the box below weighs."""
    return 1.05e-3 * (40 * 30 * depth - (40 - 2 * wall) * (30 - 2 * wall) * (depth - wall))


@pytest.fixture(scope="module")
def box(service: Service) -> Part:
    """An open box of ABS, 40 × 30 × 10, its wall 2; a small part, for what is asked here is built many times over."""
    part = Client(service).new_part("Box to be weighed", material="ABS")
    part.block()
    opened = [{"by": "pick", "face": {"origins": ["s2/end"]}}]
    part.do(do="add_step", step={"kind": "shell", "id": "s3", "faces": opened, "thickness": "2"})
    part.do(do="set_callout", callout={"id": "b1", "number": 1, "text": "2 ±0.1"})
    part.do(do="link_callout", callout="b1", step="s3", field="thickness")
    return part


def test_figures_come_in_the_frame_that_is_asked_for(wren: Client) -> None:
    part = wren.part_named("Tilt arm")
    status, found = wren.get(f"{part.path}/mass")
    assert status == 200, found
    assert found["mass"] == pytest.approx(60.82, abs=0.1)
    sketch = next(f["id"] for f in found["frames"] if f["name"].startswith("Sketch"))
    status, other = wren.get(f"{part.path}/mass?frame={sketch}")
    assert (status, other["frame"]) == (200, sketch)
    assert other["moments"] == pytest.approx(found["moments"])  # whichever way it is looked at
    assert wren.get(f"{part.path}/mass?frame=../x")[0] == 422


def test_what_drives_the_mass_and_the_band_of_the_limits(wren: Client, box: Part) -> None:
    status, found = wren.get(f"{box.path}/mass/drivers")
    assert status == 200, found
    assert found["weighed"]
    slopes = {r["size"]["key"]: r["slope"] for r in found["rows"] if r["size"]["kind"] == "length"}
    by_hand = {"s3:thickness": 1.05e-3 * (2 * 26 * 8 + 2 * 36 * 8 + 36 * 26), "s2:extent.depth": 1.05e-3 * (1200 - 936)}
    assert slopes == pytest.approx(by_hand, rel=1e-6)
    assert list(slopes) == list(by_hand)  # what brings most stands first
    band = found["band"]
    assert band["now"] == pytest.approx(grams(2))
    assert band["least"] <= band["likely_least"] <= band["now"] <= band["likely_most"] <= band["most"]
    status, extremes = wren.post(f"{box.path}/mass/extremes")
    assert status == 200, extremes
    assert extremes == pytest.approx([grams(1.9), grams(2.1)], abs=1e-6)
    assert extremes == pytest.approx([band["least"], band["most"]], abs=0.01)


def test_a_target_is_met_and_taken_with_one_command(wren: Client, box: Part) -> None:
    part = wren.copy("Box to be weighed", "Box to be heavier")
    _, found = wren.get(f"{part.path}/mass/drivers")
    size = next(r["size"] for r in found["rows"] if r["size"]["kind"] == "length" and r["state"] == "ok")
    target = found["band"]["now"] + 0.2
    bounds = [{"key": size["key"], "low": size["value"] * 0.9, "high": size["value"] * 1.1}]
    asked = {"target": target, "tolerance": 0.05, "bounds": bounds}
    status, met = wren.post(f"{part.path}/mass/meet", asked)
    assert status == 200, met
    assert met["values"], met["said"]
    assert abs(met["grams"] - target) <= 0.05
    part.do(do="together", commands=met["commands"])
    assert part.built()["mass"]["mass"] == pytest.approx(met["grams"], abs=1e-6)
    status, gone = wren.post(f"{part.path}/mass/meet", {**asked, "bounds": [{"key": "s99:d1", "low": 1, "high": 2}]})
    assert status == 422 and "no longer in the part" in gone["sentence"]


def test_a_changed_part_is_drawn_beside_what_it_is(wren: Client, box: Part) -> None:
    part = box
    _, found = wren.get(f"{part.path}/mass/drivers")
    size = found["rows"][0]["size"]
    status, shown = wren.post(f"{part.path}/mass/changed", {"values": {size["key"]: size["value"] * 1.05}})
    assert status == 200, shown
    assert shown["before"]["seen"] != shown["after"]["seen"]
    assert size["key"] == "s3:thickness" and shown["grams"] == pytest.approx(grams(2.1))


def test_readings_of_the_bench_scale_are_kept_with_the_part(wren: Client, service: Service, box: Part) -> None:
    part = box
    status, one = wren.post(f"{part.path}/weighings", {"seed": 4})
    assert status == 200, one
    assert one["inside"] and one["grams"] == pytest.approx(one["expected"], rel=0.02)
    assert wren.post(f"{part.path}/weighings", {"seed": 4})[1]["grams"] == one["grams"]
    status, kept = wren.get(f"{part.path}/weighings")
    assert [k["grams"] for k in kept] == [one["grams"]] * 2
    assert kept[0]["by"] == "wren"
    rook = Client(service, "rook")  # a viewer may look, not weigh
    assert rook.get(f"{part.path}/weighings")[0] == 200
    assert rook.post(f"{part.path}/weighings", {"seed": 4})[0] == 403

"""Sheets over HTTP: DXF ones drawn as pictures, pages of PDFs sharp, and what stands on a page read."""

import io
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from sulvak_core.exchange.sheet_svg import read_svg_page
from tests.conftest import Client, Part
from tests.sheets import as_dxf, as_pdf

DEMO = Path(__file__).resolve().parents[2] / "demo"
SVG = (DEMO / "tilt-arm.svg").read_bytes()


def with_sheet(client: Client, data: bytes, name: str = "arm.svg") -> tuple[Part, dict[str, Any]]:
    part = client.new_part("Arm")
    status, answer = client.upload(f"{part.path}/sheet", name, data, version="0")
    assert status == 200, answer
    part.now = answer
    return part, answer["document"]["sheet"]


@pytest.mark.parametrize("kind", ["svg", "dxf", "pdf"])
def test_every_vector_sheet_is_shown_and_read(wren: Client, kind: str) -> None:
    page = read_svg_page(SVG)
    data = {"svg": SVG, "dxf": as_dxf(page), "pdf": as_pdf(page)}[kind]
    part, sheet = with_sheet(wren, data, f"arm.{kind}")
    status, shown, headers = wren.raw("GET", f"{part.path}/sheet/0")
    assert (status, "sandbox" in headers["Content-Security-Policy"]) == (200, True)
    assert shown.startswith(b"\x89PNG" if kind == "pdf" else b"<svg")
    status, said = wren.get(f"{part.path}/sheet/0/reading")
    assert status == 200, said
    assert len(said["sizes"]) == 16
    assert said["mm"] == pytest.approx(25.4 / 72)
    assert {s["kind"] for s in said["sizes"]} <= {"linear", "diameter", "radius", "angle", "chamfer", "thread"}
    for size in said["sizes"]:
        left, top, right, bottom = size["box"]
        assert 0 <= left < right <= 1 and 0 <= top < bottom <= 1
        assert all(0 <= v <= 1 for v in size["at"])
        assert size["callout"] is None
    if kind == "dxf":
        assert sheet["looks"]["0"]["scale"] == pytest.approx(25.4 / 72)


def test_what_has_a_balloon_is_told(wren: Client) -> None:
    part, _ = with_sheet(wren, SVG)
    said = wren.get(f"{part.path}/sheet/0/reading")[1]
    first, other = said["sizes"][:2]
    callouts = [{"id": f"b{i}", "number": i, "text": s["text"], "at": s["at"]} for i, s in enumerate((first, other), 1)]
    commands = [{"do": "set_callout", "callout": c} for c in callouts]
    assert part.send(do="together", commands=commands)[0] == 200
    again = wren.get(f"{part.path}/sheet/0/reading")[1]
    assert [s["callout"] for s in again["sizes"][:3]] == ["b1", "b2", None]
    # another balloon with the same text far away is another size
    part.send(do="set_callout", callout={**callouts[0], "at": [0.99, 0.99]})
    assert wren.get(f"{part.path}/sheet/0/reading")[1]["sizes"][0]["callout"] is None


def test_a_page_of_a_pdf_is_as_sharp_as_asked_for(wren: Client) -> None:
    part, _ = with_sheet(wren, as_pdf(read_svg_page(SVG)), "arm.pdf")

    def width(asked: int) -> int:
        status, data, _ = wren.raw("GET", f"{part.path}/sheet/0?longest={asked}")
        assert status == 200
        return int.from_bytes(data[16:20], "big")

    assert [width(900), width(3000), width(999_999)] == [1200, 4800, 9600]


def test_a_picture_without_letters_cannot_be_read_and_says_what_can(wren: Client) -> None:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), "white").save(out, "PNG")
    part, _ = with_sheet(wren, out.getvalue(), "photo.png")
    status, answer = wren.get(f"{part.path}/sheet/0/reading")
    assert status == 422
    assert "PDF, SVG or DXF" in answer["sentence"]
    assert wren.get(f"{part.path}/sheet/7/reading")[0] == 404


def test_a_damaged_dxf_is_refused_and_nothing_changes(wren: Client) -> None:
    part = wren.new_part()
    status, answer = wren.upload(f"{part.path}/sheet", "x.dxf", b"0\nSECTION\n2\nENTITIES\n0\nLINE\n", version="0")
    assert status == 422
    assert "DXF" in answer["sentence"]
    assert wren.get(part.path)[1]["document"]["sheet"] is None


def test_lines_are_held_against_the_part_as_it_is(wren: Client) -> None:
    part, _ = with_sheet(wren, SVG)
    status, bare = wren.get(f"{part.path}/sheet/0/lines")
    assert (status, bare["share"]) == (200, 0)
    assert {v["side"] for v in bare["views"]} == {None}
    whole = wren.part_named("Tilt arm")
    status, found = wren.get(f"{whole.path}/sheet/0/lines?tolerance=0.1")
    assert status == 200, found
    assert found["share"] > 0.99
    assert [v["side"] for v in found["views"]] == ["top", "front"]
    assert found["views"][0]["model"]
    assert wren.get(f"{whole.path}/sheet/0/lines?tolerance=0")[0] == 422
    assert wren.get(f"{whole.path}/sheet/9/lines")[0] == 404


def test_the_outline_of_a_view_goes_into_a_sketch_to_scale(wren: Client) -> None:
    part, _ = with_sheet(wren, (DEMO / "cross-plate.svg").read_bytes(), "plate.svg")
    sketch = {"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}}
    assert part.send(do="add_step", step=sketch)[0] == 200
    said = wren.get(f"{part.path}/sheet/0/reading")[1]
    assert len(said["views"]) == 2
    version = wren.get(part.path)[1]["version"]
    status, after = wren.post(f"{part.path}/sketches/s1/outline", {"version": version, "page": 0, "view": 0})
    assert status == 200, after
    entities = after["document"]["steps"][0]["sketch"]["entities"]
    drawn = [e for e in entities if not e["construction"]]
    assert sorted(e["kind"] for e in drawn) == ["circle"] * 5 + ["line"] * 12
    # the plate's arms reach 45 out of its middle, where its centre lines cross
    xs = [v for e in drawn if e["kind"] == "line" for v in (e["p"][0], e["q"][0])]
    assert (min(xs), max(xs)) == (-45, 45)
    assert {e["r"] for e in drawn if e["kind"] == "circle"} == {2.25, 8.0}
    # a window round the hole in the middle: only what lies wholly within comes in
    page = wren.get(f"{part.path}/sheet/0/reading")[1]["views"][0]
    middle = [(page[0] + page[2]) / 2, (page[1] + page[3]) / 2]
    window = [middle[0] - 0.05, middle[1] - 0.06, middle[0] + 0.05, middle[1] + 0.06]
    body = {"version": after["version"], "page": 0, "window": window}
    status, after = wren.post(f"{part.path}/sketches/s1/outline", body)
    assert status == 200, after
    fresh = after["document"]["steps"][0]["sketch"]["entities"][len(entities) :]
    assert [e["r"] for e in fresh if e["kind"] == "circle"] == [8.0]
    empty = {"version": after["version"], "page": 0, "window": [0.9, 0.1, 0.95, 0.2]}
    assert wren.post(f"{part.path}/sketches/s1/outline", empty)[0] == 422
    assert wren.post(f"{part.path}/sketches/s1/outline", {"version": after["version"], "page": 0, "view": 7})[0] == 422
    assert wren.post(f"{part.path}/sketches/s1/outline", {"version": after["version"], "page": 3, "view": 0})[0] == 422


def test_a_rough_sketch_is_fitted_to_what_its_sheet_says(wren: Client) -> None:
    part, _ = with_sheet(wren, (DEMO / "electronics-pod.svg").read_bytes(), "pod.svg")
    corners = [(0, 0), (40, 0), (40, 47), (0, 47)]
    lines = [{"kind": "line", "id": f"l{n + 1}", "p": corners[n], "q": corners[(n + 1) % 4]} for n in range(4)]
    pairs = [("coincident", [f"l{n}.q", f"l{n % 4 + 1}.p"]) for n in range(1, 5)]
    levels = [("horizontal", ["l1"]), ("vertical", ["l2"]), ("horizontal", ["l3"]), ("vertical", ["l4"])]
    ties = [
        {"id": f"k{n}", "kind": kind, "refs": refs}
        for n, (kind, refs) in enumerate([*pairs, *levels, ("coincident", ["l1.p", "origin"])], 1)
    ]
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    part.do(do="sketch_add", step="s1", entities=lines, constraints=ties)
    assert wren.get(f"{part.path}/sketches/s1/fit")[0] == 422  # no callout is open
    said = wren.get(f"{part.path}/sheet/0/reading")[1]["sizes"]
    for n, size in enumerate(said, 1):
        callout = {"id": f"b{n}", "number": n, "text": size["text"], "page": 0, "at": size["at"]}
        part.do(do="set_callout", callout=callout)
    status, found = wren.get(f"{part.path}/sketches/s1/fit")
    assert status == 200, found
    # 64 stands level on the sheet and 44 upright, though it is drawn higher than wide
    wide = {d["expr"]: d["refs"] for m in found["moves"] for d in m["dimensions"]}
    assert set(wide) == {"64", "44"}
    at = {e["id"]: e for e in found["entities"]}
    assert at["l1"]["q"] == [64.0, 0.0]
    assert at["l2"]["q"] == [64.0, 44.0]
    assert found["left"] == 0
    [sketch] = wren.get(part.path)[1]["document"]["steps"]
    assert sketch["sketch"]["entities"][0]["q"] == [40.0, 0.0]  # nothing is stored
    assert wren.get(f"{part.path}/sketches/s9/fit")[0] == 422


def test_a_part_is_inspected_and_reported(wren: Client) -> None:
    part = wren.part_named("Tilt arm")
    status, found = wren.get(f"{part.path}/inspection")
    assert status == 200, found
    assert (len(found["rows"]), {r["verdict"] for r in found["rows"]}) == (16, {"proven"})
    assert (found["ready"], found["vector"], found["pages"]) == (True, True, 1)
    assert [u["what"] for u in found["uncovered"]] == ["distance of line 4 to the vertical axis in Sketch 50"]
    status, table, headers = wren.raw("GET", f"{part.path}/inspection.csv")
    assert status == 200
    assert headers["Content-Type"].startswith("text/csv")
    lines = table.decode("utf-8-sig").splitlines()
    assert lines[0] == "part,Tilt arm"
    assert sum(",proven," in line for line in lines) == 16
    fresh = wren.new_part()
    assert wren.get(f"{fresh.path}/inspection")[1]["rows"] == []


def test_a_view_is_placed_on_a_picture_and_the_part_laid_over_it(wren: Client) -> None:
    picture = io.BytesIO()
    Image.new("RGB", (800, 600), "white").save(picture, "PNG")
    part, sheet = with_sheet(wren, picture.getvalue(), "photo.png")
    part.block()
    part.built()
    wide, high = sheet["pages"][0]
    # the block is 40 × 30 from above: pressed as such
    corners = [[0.2, 0.2], [0.2 + 0.4, 0.2 + 0.3 * wide / high]]
    version = wren.get(part.path)[1]["version"]
    status, after = wren.post(f"{part.path}/sheet/0/view", {"version": version, "corners": corners})
    assert status == 200, after
    [view] = after["document"]["sheet"]["looks"]["0"]["views"]
    assert view["side"] == "top"
    status, found = wren.get(f"{part.path}/sheet/0/lines")
    assert status == 200, found
    assert [(v["side"], v["by_hand"]) for v in found["views"]] == [("top", True)]
    assert found["views"][0]["box"] == pytest.approx([*corners[0], *corners[1]], abs=1e-3)
    body = {"version": after["version"], "corners": corners, "side": "under", "instead": 0}
    status, after = wren.post(f"{part.path}/sheet/0/view", body)
    assert [v["side"] for v in after["document"]["sheet"]["looks"]["0"]["views"]] == ["under"]
    bad = {"version": after["version"], "corners": [[0.1, 0.1], [0.9, 0.12]]}
    assert wren.post(f"{part.path}/sheet/0/view", bad)[0] == 422


def test_a_newer_issue_over_http_tells_what_changed(wren: Client) -> None:
    part, _ = with_sheet(wren, SVG)
    for n, size in enumerate(wren.get(f"{part.path}/sheet/0/reading")[1]["sizes"], 1):
        callout = {"id": f"b{n}", "number": n, "text": size["text"], "page": 0, "at": size["at"]}
        part.do(do="set_callout", callout=callout)
    version = str(wren.get(part.path)[1]["version"])
    newer = SVG.decode().replace(">R16<", ">R16.5<").encode()
    status, answer = wren.upload(f"{part.path}/sheet", "arm-2.svg", newer, version=version, how="newer", number="0")
    assert status == 200, answer
    assert any("15 callouts are as they were; changed: " in s for s in answer["said"]), answer["said"]
    assert [c["newer"] for c in answer["document"]["callouts"] if c["newer"]] == ["R16.5"]
    further = (DEMO / "cross-plate.svg").read_bytes()
    status, answer = wren.upload(
        f"{part.path}/sheet", "plate.svg", further, version=str(answer["version"]), how="further"
    )
    assert [s["name"] for s in answer["document"]["further"]] == ["plate.svg"]
    assert len(wren.get(f"{part.path}/sheet/1/reading")[1]["sizes"]) == 8
    assert wren.raw("GET", f"{part.path}/sheet/1")[0] == 200
    assert wren.raw("GET", f"{part.path}/sheet/2")[0] == 404

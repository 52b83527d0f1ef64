"""The drawing made from a part, over HTTP."""

from __future__ import annotations

from tests.conftest import Client


def test_the_drawing_of_a_part_as_it_is(wren: Client) -> None:
    part = wren.copy("Cross plate", "Cross plate drawn anew")
    status, found = wren.get(f"{part.path}/drawing")
    assert status == 200, found
    assert (found["paper"], found["size"], found["overlaps"]) == ("A4", [297.0, 210.0], 0)
    assert {"90", "Ø16 THRU", "4X Ø4.5 THRU"} <= {s["text"] for s in found["sizes"]}
    assert found["svg"].startswith("<svg") and "FENMARSH KITE SURVEY" in found["svg"]
    part.do(do="place_sizes", sizes={"b1": {"hidden": True}})
    _, after = wren.get(f"{part.path}/drawing")
    assert [h["key"] for h in after["hidden"]] == ["b1"] and len(after["sizes"]) == len(found["sizes"]) - 1
    part.do(do="set_drawing", changes={"paper": "A3", "scale": "2:1", "isometric": False})
    _, large = wren.get(f"{part.path}/drawing")
    assert (large["paper"], large["scale"]) == ("A3", "2:1") and "iso" not in {v["name"] for v in large["views"]}
    part.do(do="set_drawing", changes={"paper": "A4", "scale": "20:1"})
    status, refused = wren.get(f"{part.path}/drawing")
    assert status == 422 and "does not fit" in refused["sentence"]


def test_the_drawing_as_files(wren: Client) -> None:
    part = wren.part_named("Pan hub")
    for form, start, media in (
        ("pdf", b"%PDF", "application/pdf"),
        ("svg", b"<svg", "image/svg+xml"),
        ("dxf", b"  0", "image/vnd.dxf"),
    ):
        status, data, headers = wren.raw("GET", f"{part.path}/drawing/file/{form}")
        assert status == 200 and data.startswith(start), form
        assert headers["Content-Type"].startswith(media)
        assert wren.raw("GET", f"{part.path}/drawing/file/{form}")[1] == data
    assert wren.get(f"{part.path}/drawing/file/png")[0] == 422

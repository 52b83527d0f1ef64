"""Drawings brought into sketches over HTTP: read with limits, put in as one change, nothing half done."""

import io
from typing import Any

import ezdxf
import pytest

from sulvak_core.exchange.dxf_in import read_dxf
from tests.conftest import Client, Part, Service


def plate() -> bytes:
    """A plate with two holes on layers of their own, a hidden layer, a size and a note."""
    file = ezdxf.new("R2010", setup=True)  # type: ignore[attr-defined]
    file.header["$INSUNITS"] = 4
    file.layers.add("HIDDEN").off()
    space = file.modelspace()
    space.add_lwpolyline([(100, 50), (160, 50), (160, 90), (100, 90)], close=True)
    for x in (110, 150):
        space.add_circle((x, 70), 4, {"layer": "HOLES"})
    space.add_line((0, 0), (5, 5), {"layer": "HIDDEN"})
    space.add_linear_dim((130, 40), (100, 50), (160, 50)).render()
    space.add_text("FIRST ISSUE")
    out = io.StringIO()
    file.write(out)
    return out.getvalue().encode()


def begun(client: Client, name: str = "From a drawing") -> Part:
    part = client.new_part(name)
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    return part


def bring(part: Part, data: bytes, name: str = "plate.dxf") -> tuple[int, Any]:
    return part.client.upload(f"{part.path}/drawings", name, data)


def put(part: Part, sha256: str, callouts: bool = False, **chosen: Any) -> tuple[int, Any]:
    body = {"version": part.now["version"], "sha256": sha256, "chosen": chosen, "callouts": callouts}
    status, answer = part.client.post(f"{part.path}/sketches/s1/drawing", body)
    if status == 200:
        part.now = answer
    return status, answer


def test_a_drawing_is_read_chosen_from_and_put_in(wren: Client) -> None:
    part = begun(wren)
    before = part.now["version"]
    status, read = bring(part, plate())
    assert status == 200
    assert (read["unit"], read["sizes"], read["notes"]) == ("mm", ["60"], ["FIRST ISSUE"])
    assert [(la["name"], la["count"], la["shown"]) for la in read["layers"]] == [
        ("0", 4, True),
        ("HIDDEN", 1, False),
        ("HOLES", 2, True),
    ]
    assert read["box"] == pytest.approx([0, -90, 160, 90])
    assert set(read["outlines"]) == {"0", "HIDDEN", "HOLES"}
    assert part.client.get(part.path)[1]["version"] == before  # reading changes nothing
    status, answer = put(part, read["sha256"], callouts=True, place="corner")
    assert status == 200
    assert answer["said"] == ["6 lines, arcs and circles brought in.", "1 size taken as a callout."]
    assert [c["text"] for c in answer["document"]["callouts"]] == ["60"]
    state = answer["sketches"]["s1"]
    assert sorted(round(r["area"], 6) for r in state["regions"]) == [50.265482, 50.265482, 2299.469035]
    assert part.travel("undo") == 200  # geometry and callouts were one change
    assert part.now["document"]["callouts"] == []
    assert part.now["document"]["steps"][0]["sketch"]["entities"] == []
    assert put(part, read["sha256"], layers=["HOLES"], unit="in", place="centre")[0] == 200
    circles = part.now["document"]["steps"][0]["sketch"]["entities"]
    assert [c["c"] for c in circles] == [pytest.approx([-508, 0]), pytest.approx([508, 0])]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no DXF file"),
        (b"PK\x03\x04 a zip", "no DXF file"),
        (b'<!DOCTYPE x [<!ENTITY a "b">]><svg/>', "definitions of its own"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"/>', "nothing in this drawing"),
        (plate()[:700], "damaged|nothing in this drawing"),
    ],
    ids=["empty", "zip", "entities", "nothing", "cut short"],
)
def test_what_is_no_drawing_is_said_and_changes_nothing(wren: Client, data: bytes, said: str) -> None:
    part = begun(wren)
    status, answer = bring(part, data)
    assert status == 422
    assert any(s in answer["sentence"] for s in said.split("|"))
    assert part.client.get(part.path)[1]["version"] == part.now["version"]


def test_too_large_and_too_many(wren: Client) -> None:
    part = begun(wren)
    assert "larger than 20 MB" in bring(part, b"  0\nSECTION\n" + b" " * (21 << 20))[1]["sentence"]
    rows = "".join(f"  0\nPOINT\n  8\n0\n 10\n{k}\n 20\n0\n" for k in range(5001))
    status, read = bring(part, f"  0\nSECTION\n  2\nENTITIES\n{rows}  0\nENDSEC\n  0\nEOF\n".encode())
    assert status == 200
    status, answer = put(part, read["sha256"])
    assert (status, "5,001 lines and arcs are more than a sketch takes" in answer["sentence"]) == (422, True)


def test_a_bomb_is_stopped_and_others_go_on(wren: Client) -> None:
    """Blocks in blocks, ten to the ninth of them: refused in a sentence, and the next drawing is read."""
    file = ezdxf.new("R2010")  # type: ignore[attr-defined]
    file.blocks.new("B0").add_line((0, 0), (1, 1))
    for k in range(1, 10):
        block = file.blocks.new(f"B{k}")
        for i in range(10):
            block.add_blockref(f"B{k - 1}", (i, 0))
    file.modelspace().add_blockref("B9", (0, 0))
    out = io.StringIO()
    file.write(out)
    part = begun(wren)
    status, answer = bring(part, out.getvalue().encode())
    assert (status, "more than 20,000 times" in answer["sentence"]) == (422, True)
    assert bring(part, plate())[0] == 200


def test_who_may_bring_and_take_drawings(wren: Client, service: Service) -> None:
    part = begun(wren)
    read = bring(part, plate())[1]
    put(part, read["sha256"])
    rook = Part(Client(service, "rook"), part.id)
    assert bring(rook, plate())[0] == 403
    assert put(rook, read["sha256"])[0] == 403
    assert rook.client.raw("GET", f"{part.path}/sketches/s1/file/dxf")[0] == 200
    nobody = Client(service, None)
    assert nobody.raw("GET", f"{part.path}/sketches/s1/file/dxf")[0] == 401
    assert put(part, "0" * 64)[1]["sentence"].startswith("This drawing is not here any more")
    status, answer = wren.post(
        f"{part.path}/sketches/s1/drawing", {"version": 1, "sha256": read["sha256"], "chosen": {}}
    )
    assert status == 409
    assert "Meanwhile" in answer["sentence"]


def test_a_sketch_is_taken_out_as_a_file(wren: Client) -> None:
    part = begun(wren, "Taken Out")
    put(part, bring(part, plate())[1]["sha256"])
    status, data, headers = wren.raw("GET", f"{part.path}/sketches/s1/file/dxf")
    assert status == 200
    assert headers["Content-Disposition"] == 'attachment; filename="Taken-Out-sketch-10.dxf"'
    assert len(read_dxf(data).shapes) == 6
    status, data, headers = wren.raw("GET", f"{part.path}/sketches/s1/file/svg")
    assert (status, headers["Content-Type"]) == (200, "image/svg+xml")
    assert data.count(b"<circle") == 2
    assert wren.raw("GET", f"{part.path}/sketches/s1/file/exe")[0] == 404
    assert wren.raw("GET", f"{part.path}/sketches/s9/file/dxf")[0] == 422


def test_the_profile_check_over_http(wren: Client) -> None:
    part = begun(wren)
    corners = [(0, 0), (40, 0), (40, 30), (0, 30)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": p, "q": corners[(i + 1) % 4]} for i, p in enumerate(corners)]
    lines[0]["q"] = (39.9, 0)
    part.do(do="sketch_add", step="s1", entities=lines)
    check = f"{part.path}/sketches/s1/check"
    assert wren.get(check)[1]["counts"] == {"gap": 1}
    assert wren.get(f"{check}?tolerance=0.05")[1]["counts"] == {"open chain": 1}
    assert wren.get(f"{check}?tolerance=-1")[0] == 422
    finding = wren.get(check)[1]["findings"][0]
    assert finding["said"] == "End of line 1 and start of line 2 are 0.1 mm apart"
    would = wren.get(f"{part.path}/sketches/s1/mending?key={finding['key'].replace(' ', '%20')}")[1]
    assert (would["before"], would["after"], would["gone"]) == ({"gap": 1}, {}, [])
    assert {e["id"] for e in would["changed"]} >= {"l1", "l2"}
    assert wren.get(check)[1]["counts"] == {"gap": 1}  # only tried
    answer = part.do(do="sketch_mend", step="s1", keys=[finding["key"]])
    assert answer["said"] == ["To mend: 1 before, 0 now.", "Closed regions: 0 before, 1 now."]
    status, answer = part.send(do="sketch_mend", step="s1")
    assert (status, answer["sentence"]) == (422, "There is nothing of that left to mend.")

"""A DXF with mistakes in it, as received: brought in, checked, mended, finished by suggestions, extruded."""

import io
import re
from pathlib import Path

import ezdxf
import pytest
from playwright.sync_api import expect

from .conftest import Desk
from .test_drawing_tools import begin


def bracket(folder: Path) -> Path:
    file = ezdxf.new("R2010", setup=True)  # type: ignore[attr-defined]
    file.header["$INSUNITS"] = 4
    file.layers.add("AXES", linetype="CENTER")
    space = file.modelspace()
    corners = [(0, 0), (80, 0), (80, 20), (20, 20), (20, 60), (0, 60)]
    for i, p in enumerate(corners):
        q = corners[(i + 1) % 6]
        space.add_line(p, q if i != 2 else (20.1, 20))
    space.add_line((80, 20), (80, 0))
    space.add_circle((10, 50, 4), 4)
    space.add_line((5, 50), (15, 50), {"layer": "AXES"})
    space.add_linear_dim((40, -10), (0, 0), (80, 0)).render()
    space.add_diameter_dim((10, 50), radius=4, angle=30).render()
    out = io.StringIO()
    file.write(out)
    path = folder / "bracket.dxf"
    path.write_text(out.getvalue())
    return path


def test_a_broken_dxf_becomes_a_fully_constrained_part(desk: Desk, tmp_path: Path) -> None:
    begin(desk, "Bracket from outside")
    page = desk.page
    desk.keys("d", "f")
    leaf = page.get_by_role("complementary", name="Bring in a drawing")
    leaf.get_by_label("DXF or SVG file").set_input_files(bracket(tmp_path))
    expect(leaf.get_by_text("80 × 60 mm")).to_be_visible()
    expect(leaf.get_by_label("Unit")).to_have_value("mm")
    expect(leaf.get_by_label("its 2 sizes as callouts")).to_be_checked()
    leaf.get_by_role("checkbox", name="AXES 1").uncheck()
    leaf.get_by_role("button", name="Put 8 into the sketch").click()
    panel = page.get_by_role("region", name="Profile check")
    expect(panel.get_by_text("1 off the plane, 1 drawn twice, 1 gap")).to_be_visible()
    panel.get_by_role("button", name="Mend all 3").click()
    expect(page.get_by_text(re.compile(r"^To mend: 3 before, 0 now\."))).to_be_visible()
    expect(panel.get_by_text("7 curves, 2 closed regions: nothing to mend.")).to_be_visible()
    desk.keys("k", "s")
    page.get_by_role("button", name="Take all").click()
    expect(desk.gauge("Freedom")).to_contain_text("0")
    desk.saved()
    fed = {c["text"] for c in desk.document()["callouts"] if c["link"]}
    assert fed == {"80", "Ø8"}
    area = sum(
        r["area"]
        for r in page.request.get(f"/api/parts/{page.url.rsplit('/', 1)[1]}").json()["sketches"]["s1"]["regions"]
        if r["default"]
    )
    assert area == pytest.approx(1600 + 800 - 16 * 3.14159265, rel=2e-3)
    desk.extrude("5")
    expect(desk.route.get_by_text("Extrude sketch 10 by 5 mm")).to_be_visible()


def test_a_wrong_file_is_named(desk: Desk, tmp_path: Path) -> None:
    begin(desk, "Wrong file")
    desk.keys("d", "f")
    wrong = tmp_path / "plan.dxf"
    wrong.write_bytes(b"%PDF-1.4 not what its name says")
    desk.page.get_by_label("DXF or SVG file").set_input_files(wrong)
    expect(desk.page.get_by_text("This is no DXF file, whatever its name says")).to_be_visible()
    expect(desk.page.get_by_role("button", name="Put")).to_have_count(0)


def test_the_open_sketch_goes_out_as_dxf(desk: Desk) -> None:
    begin(desk, "Going out")
    desk.keys("d", "c")
    desk.press(0, 0)
    desk.move(6, 0)
    desk.typed("12")
    desk.page.get_by_role("button", name="Files out").click()
    with desk.page.expect_download() as got:
        desk.page.get_by_role("menuitem", name="Sketch as DXF").click()
    assert got.value.suggested_filename == "Going-out-sketch-10.dxf"
    file = ezdxf.readfile(got.value.path())  # type: ignore[attr-defined]
    (circle,) = file.modelspace().query("CIRCLE")
    assert circle.dxf.radius == pytest.approx(6)

"""Drawings made from parts: read back by Sulvak's own reader of sheets and by ezdxf, and what stays of what was put by
hand."""

from __future__ import annotations

import io
from collections import Counter
from typing import Any

import ezdxf
import pytest

from sulvak_core.drawing.paper import PAPERS, overlap
from sulvak_core.drawing.sheet import DrawnSheet, DrawnSize, DrawnView, draw
from sulvak_core.drawing.title_block import block_box, frame
from sulvak_core.exchange.drawing_dxf import drawing_dxf
from sulvak_core.exchange.drawing_pdf import drawing_pdf
from sulvak_core.exchange.drawing_svg import drawing_svg
from sulvak_core.exchange.sheet_dxf import read_dxf_page
from sulvak_core.exchange.sheet_pdf import read_pdf_page
from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.inspect.prove import Prover
from sulvak_core.inspect.sheet_lines import SheetLines, compare_lines
from sulvak_core.part.callout import Callout, Link
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.engine import Build
from sulvak_core.sheet.page import Page
from sulvak_core.sheet.reading import read
from sulvak_core.sketch.model import Sketch
from sulvak_core.steps.commands import read as read_command
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document
from tests.examples import in_turn

from .parts import Made, disc, plate
from .sketches import circle, line, sizes, ties
from .test_sheet_lines import VIEWS, made, whole

MM = 25.4 / 72
NAMES = sorted(VIEWS)
READERS: dict[str, Any] = {
    "svg": (drawing_svg, read_svg_page),
    "pdf": (drawing_pdf, lambda data: read_pdf_page(data, 0)),
    "dxf": (drawing_dxf, lambda data: read_dxf_page(data)[0]),
}
_known: dict[str, tuple[Document, Build, DrawnSheet]] = {}


def drawn(name: str) -> tuple[Document, Build, DrawnSheet]:
    if name not in _known:
        document = whole(name)
        built = made(document)
        _known[name] = (document, built, draw(document, built, "Fenmarsh Kite Survey"))
    return _known[name]


def bare(text: str) -> str:
    return text.replace(" ", "")


def explained(page: Page, document: Document, built: Build, scale: float) -> SheetLines:
    shapes = [b.shape for b in built.state.bodies]
    return compare_lines(page, shapes, MM / scale, third_angle=document.projection == "third")


@pytest.mark.parametrize(("name", "form"), in_turn(NAMES, sorted(READERS)))
def test_a_drawing_reads_itself(name: str, form: str) -> None:
    document, built, sheet = drawn(name)
    write, reader = READERS[form]
    data = write(sheet, document.name)
    assert data == write(sheet, document.name)
    page = reader(data)
    found = read(page)
    assert Counter(bare(s.text) for s in found.sizes) == Counter(bare(s.text) for s in sheet.sizes)
    over, under = map(int, sheet.scale.split(":"))
    assert found.scale == pytest.approx(over / under)
    lines = explained(page, document, built, found.scale or 0)
    assert lines.share == pytest.approx(1, abs=1e-4), [(v.side, v.name, v.unexplained[:2]) for v in lines.views]
    assert len(lines.views) == len(sheet.views)
    assert all(v.projected for v in lines.views)


@pytest.mark.parametrize("name", NAMES)
def test_all_callouts_are_on_it_and_every_size_is_proven(name: str) -> None:
    """What the reader reads is measured on the part where it is drawn from: as callouts linked there."""
    document, built, sheet = drawn(name)
    found = read(read_svg_page(drawing_svg(sheet, document.name)))
    k = 72 / 25.4
    prover = Prover(document, built)
    callouts = {c.id: c for c in document.callouts}
    told = []
    for size in found.sizes:
        x, y = (size.box[0] + size.box[2]) / 2 / k, sheet.size[1] - (size.box[1] + size.box[3]) / 2 / k
        own = next(s for s in sheet.sizes if s.boxes[0][0] < x < s.boxes[0][2] and s.boxes[0][1] < y < s.boxes[0][3])
        step, _, field = own.key.partition(".")
        link = callouts[own.key].link if own.key in callouts else Link(step=step, field=field)
        verdict = prover.verdict(Callout(id="b999", number=999, text=size.text, link=link))
        assert verdict.state in ("proven", "reference"), (size.text, verdict)
        told.append(own.key)
    assert len(told) == len(set(told))
    linked = {c.id for c in document.callouts if c.link or c.gauged}
    assert linked <= set(told) and not sheet.left_out and not sheet.lost


@pytest.mark.parametrize("name", NAMES)
def test_nothing_lies_on_anything(name: str) -> None:
    _, _, sheet = drawn(name)
    assert sheet.overlaps() == 0
    letters = [b for s in sheet.sizes for b in s.boxes]
    assert not any(overlap(a, b, -0.05) for i, a in enumerate(letters) for b in letters[i + 1 :])
    left, low, right, high = frame(sheet.size)
    for view in sheet.views:
        assert left < view.extent[0] and low < view.extent[1] and view.extent[2] < right and view.extent[3] < high
        assert not overlap(view.extent, block_box(sheet.size))


@pytest.mark.parametrize("name", NAMES)
def test_dxf_holds_real_dimensions(name: str) -> None:
    document, _, sheet = drawn(name)
    file = ezdxf.read(io.StringIO(drawing_dxf(sheet, document.name).decode()))  # type: ignore[attr-defined]
    assert not file.audit().errors
    dimensions = list(file.modelspace().query("DIMENSION"))
    assert len(dimensions) == sum(s.dimension is not None for s in sheet.sizes) >= 0.7 * len(sheet.sizes)
    factor = file.dimstyles.get("SIZES").dxf.dimlfac
    by_text = {s.text: s for s in sheet.sizes}
    for d in dimensions:
        size = by_text[d.dxf.text]
        nominal = float("".join(c for c in size.text.split("X ")[-1].split(" ")[0] if c.isdigit() or c == "."))
        sign = size.text.split("X ")[-1].lstrip("(")[0]
        if d.dimtype == 0 and sign.isdigit():
            assert d.get_measurement() * factor == pytest.approx(nominal, abs=2e-3), size.text
        if d.dimtype in (3, 4) and sign in "RØ":
            assert d.get_measurement() * factor == pytest.approx(nominal, abs=2e-3), size.text
        assert len(list(file.blocks.get(d.dxf.geometry))) >= 3


def test_views_stand_as_the_angle_of_projection_asks() -> None:
    part = plate()
    part.sketch("s4", part.face("s2/end"), disc((10, 8), 3))
    part.extrude("s5", "s4", "4", "cut")
    part.do("set_drawing", changes={"main": "front", "views": ["top", "right", "left"]})
    for projection, above, right in (("third", "top", "right"), ("first", "under", "left")):
        part.do("set_part", changes={"projection": projection})
        if projection == "first":
            part.do("set_drawing", changes={"views": ["top", "under", "right", "left"]})
        at = {v.name: v for v in drawing_of(part).views}
        main = at["front"]
        assert at[above].at[1] > main.at[1] and at[above].at[0] == pytest.approx(main.at[0])
        assert at[right].at[0] > main.at[0] and at[right].at[1] == pytest.approx(main.at[1])


def drawing_of(part: Made) -> DrawnSheet:
    built = part.build()
    assert not built.failed, [r.said for r in built.failed]
    return draw(part.document, built)


def placed_disc(x: float, y: float, diameter: float) -> Sketch:
    """A circle with its place from both axes and its diameter."""
    made = Sketch(entities=[circle(1, (x, y), diameter / 2)])
    made.dimensions = sizes(f"distance {x} c1.c y", f"distance {y} c1.c x", f"diameter {diameter} c1")
    return made


def dimensioned() -> Made:
    """A plate 40 × 30 × 10 with all its sizes, and a hole ⌀8 at (12, 15)."""
    part = plate()
    part.sketch("s3", part.face("s2/end"), placed_disc(12, 15, 8))
    part.extrude("s4", "s3", None, "cut")
    return part


def size_of(sheet: DrawnSheet, key: str) -> DrawnSize:
    return next(s for s in sheet.sizes if s.key == key)


def view_of(sheet: DrawnSheet, name: str) -> DrawnView:
    return next(v for v in sheet.views if v.name == name)


def test_sizes_write_themselves_as_the_trade_does() -> None:
    sheet = drawing_of(dimensioned())
    assert {s.key: s.text for s in sheet.sizes} == {
        "s1.d1": "40", "s1.d2": "30", "s2.depth": "10", "s3.d1": "12", "s3.d2": "15", "s3.d3": "Ø8 THRU",
    }  # fmt: skip
    assert all(s.proven and not s.hits for s in sheet.sizes)


def test_what_is_put_by_hand_stays_where_it_was_put_when_the_part_changes() -> None:
    part = dimensioned()
    sheet = drawing_of(part)
    size = size_of(sheet, "s1.d1")
    top = view_of(sheet, size.view)
    part.do("place_sizes", sizes={"s1.d1": {"at": (4.0, 21.0), "side": -1}, "s3.d3": {"at": (20.0, 17.0)}})
    part.do("place_views", places={top.name: (150.0, 120.0)})
    for width in ("40", "55"):
        part.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": width})
        sheet = drawing_of(part)
        view, size, hole = view_of(sheet, top.name), size_of(sheet, "s1.d1"), size_of(sheet, "s3.d3")
        assert size.text == width and (size.at, size.side) == ((4.0, 21.0), -1)
        assert size.dimension is not None
        assert size.dimension.line[1] == pytest.approx(view.outline[1] - 21.0)
        assert (view.outline[0] + view.outline[2]) / 2 == pytest.approx(150) and hole.at == (20.0, 17.0)
        knee = (view.at[0] + 12 * view.scale + 20, view.at[1] + 15 * view.scale + 17)
        shelf = [c.curve.at["p"] for c in hole.ink.strokes if c.curve.kind == "line"]
        assert any(p == pytest.approx(knee) for p in shelf)
    part.do("place_sizes", sizes={"s1.d1": None})
    assert size_of(drawing_of(part), "s1.d1").at != (4.0, 21.0)


def test_sizes_are_taken_off_moved_to_another_view_and_added() -> None:
    part = dimensioned()
    part.do("set_drawing", changes={"main": "top", "views": ["front", "right"]})
    assert size_of(drawing_of(part), "s1.d1").view == "top"
    part.do("place_sizes", sizes={"s1.d1": {"view": "front"}, "s2.depth": {"hidden": True}})
    sheet = drawing_of(part)
    assert size_of(sheet, "s1.d1").view == "front"
    assert [h["key"] for h in sheet.hidden] == ["s2.depth"] and "s2.depth" not in {s.key for s in sheet.sizes}
    spots = [{"kind": "face", "origins": [[o]]} for o in ("s4/side/c1", "s2/side/l4")]
    part.do("add_size", gauged={"spots": spots, "figure": "distance from axis to plane"})
    added = size_of(drawing_of(part), "a1")
    assert added.text == "12" and added.proven
    part.do("delete_step", step="s4")
    sheet = drawing_of(part)
    assert "a1" in sheet.lost and "gone" in sheet.lost["a1"] and "a1" not in {s.key for s in sheet.sizes}
    part.do("remove_size", size="a1")
    assert not drawing_of(part).lost


def test_sections_and_details_are_drawn_and_read_back() -> None:
    document = whole("tilt-arm")
    built = made(document)
    asked = {
        "sections": [{"letter": "A", "side": "front", "at": 0.0}],
        "details": [{"letter": "B", "of": "top", "centre": (60.0, 0.0), "radius": 12.0, "times": 2.0}],
        "balloons": True,
    }
    document = apply(document, read_command({"do": "set_drawing", "changes": asked})).document
    sheet = draw(document, built)
    assert sheet.overlaps() == 0
    over, under = map(int, sheet.scale.split(":"))
    assert view_of(sheet, "detail-B").title == f"B ({2 * over // under}:1)"
    assert size_of(sheet, "b14").view == "section-A"  # the pocket's depth shows nowhere else
    page = read_svg_page(drawing_svg(sheet, document.name))
    assert Counter(bare(s.text) for s in read(page).sizes) == Counter(bare(s.text) for s in sheet.sizes)
    lines = explained(page, document, built, over / under)
    assert lines.share == pytest.approx(1, abs=1e-4)
    assert {v.name for v in lines.views} == {"", "A–A", "detail B", "isometric"}
    # a mistake in a detail is found: the pocket's corners sharp
    sharp = document.model_copy(update={"steps": [s for s in document.steps if s.id != "s7"]})
    wrong = explained(page, sharp, made(sharp), over / under)
    detail = next(v for v in wrong.views if v.name == "detail B")
    assert 0.5 < sum(p.length for p in detail.unexplained) < 12


def test_an_inch_part_has_inch_paper_and_inch_sizes() -> None:
    part = dimensioned()
    part.do("set_part", changes={"unit": "in"})
    sheet = drawing_of(part)
    assert sheet.paper in ("A", "B") and sheet.size == PAPERS[sheet.paper]
    assert size_of(sheet, "s2.depth").text == "0.3937" or size_of(sheet, "s2.depth").text == "(0.3937)"
    assert any(w.text == "ALL SIZES IN INCHES" for w in sheet.ink.words)


def test_the_title_block_says_what_the_part_is() -> None:
    document, _, sheet = drawn("pan-hub")
    words = {w.text for w in sheet.ink.words}
    assert {"PAN HUB", document.number, "A", document.material, "FENMARSH KITE SURVEY", sheet.scale} <= words
    assert any(w.endswith(" g") for w in words)


REFUSED: list[tuple[dict[str, Any], str]] = [
    ({"do": "set_drawing", "changes": {"scale": "1:0"}}, "above nought"),
    ({"do": "set_drawing", "changes": {"scale": "half"}}, "cannot be read"),
    ({"do": "set_drawing", "changes": {"paper": "B5"}}, "cannot be read"),
    ({"do": "remove_size", "size": "a7"}, "no longer on the drawing"),
    ({"do": "place_sizes", "sizes": {"../x": None}}, "cannot be read"),
    ({"do": "place_views", "places": {"front": (float("nan"), 0)}}, "cannot be read"),
]


@pytest.mark.parametrize(("command", "says"), REFUSED)
def test_what_cannot_be_is_refused(command: dict[str, Any], says: str) -> None:
    with pytest.raises(Refusal, match=says):
        apply(dimensioned().document, read_command(command))


def test_what_cannot_be_drawn_is_refused_in_words() -> None:
    with pytest.raises(Refusal, match="no solid yet"):
        draw(Made().document, Made().build())
    part = dimensioned()
    part.do("set_drawing", changes={"paper": "A4", "scale": "20:1"})
    with pytest.raises(Refusal, match="does not fit"):
        drawing_of(part)
    part.do("set_drawing", changes={"scale": "", "sections": [{"letter": "C", "side": "front", "at": 900.0}]})
    with pytest.raises(Refusal, match="Section C-C: The plane does not cut"):
        drawing_of(part)
    twice = [{"letter": "C", "side": s, "at": 5.0} for s in ("front", "left")]
    with pytest.raises(Refusal, match="letter C"):
        part.do("set_drawing", changes={"sections": twice})


def test_many_sizes_find_room() -> None:
    """Sixteen pockets and holes placed one by one from two edges: fifty sizes and more."""
    part = plate(200, 120, "12")
    for i in range(16):
        x, y = 12 + 11 * i, 14 + (37 * i) % 90
        step = f"s{3 + 2 * i}"
        part.sketch(step, part.face("s2/end"), placed_disc(x, y, 6 + i % 3))
        part.extrude(f"s{4 + 2 * i}", step, str(3 + i % 4), "cut")
    sheet = drawing_of(part)
    assert sheet.overlaps() == 0 and not sheet.left_out
    assert len({(s.view, s.text, s.boxes) for s in sheet.sizes}) == len(sheet.sizes) >= 52


def test_a_size_that_no_face_shows_is_told_not_drawn() -> None:
    part = dimensioned()
    for step, diameter in (("s5", 4), ("s7", 9)):  # the first hole is gone in the second
        part.sketch(step, part.face("s2/end"), placed_disc(30, 20, diameter))
        part.extrude(f"s{int(step[1:]) + 1}", step, None, "cut")
    sheet = drawing_of(part)
    assert "Ø4" in [t.split(" (")[0] for t in sheet.unmeasured]
    assert "s5.d3" not in {s.key for s in sheet.sizes} and "s7.d3" in {s.key for s in sheet.sizes}


def test_a_turned_part_shows_its_radii_from_its_axis() -> None:
    part = Made(name="Spindle")
    at = [(0, 0), (60, 0), (60, 8), (40, 8), (40, 14), (0, 14)]
    outline = Sketch(entities=[line(i + 1, at[i], at[(i + 1) % 6]) for i in range(6)])
    rows = [f"coincident l{i}.q l{i % 6 + 1}.p" for i in range(1, 7)]
    rows += [f"{('horizontal', 'vertical')[i % 2]} l{i + 1}" for i in range(6)]
    outline.constraints = ties(*rows, "coincident l1.p origin")
    outline.dimensions = sizes("distance 60 l1", "distance 8 l2", "distance 40 l5", "distance 14 l6")
    part.sketch("s1", "front", outline)
    part.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "x"}, angle="360")
    sheet = drawing_of(part)
    assert sorted(s.text for s in sheet.sizes) == ["14", "40", "60", "8"] and not sheet.unmeasured
    assert all(s.proven for s in sheet.sizes) and sheet.overlaps() == 0

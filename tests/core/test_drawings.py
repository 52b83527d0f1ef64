"""Drawings from outside: what is read, what is told, what is refused; and sketches written and read back."""

import io
import math
from collections import Counter
from pathlib import Path
from typing import Any

import ezdxf
import pytest
from ezdxf.document import Drawing as DxfFile
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.exchange.arcs import fitted, through
from sulvak_core.exchange.drawing import Chosen, Drawing, entities
from sulvak_core.exchange.dxf_in import read_dxf
from sulvak_core.exchange.sketch_out import sketch_dxf, sketch_svg
from sulvak_core.exchange.svg_in import read_svg
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.check import check
from sulvak_core.sketch.edit import Values, add
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.mend import mend
from sulvak_core.sketch.model import Arc, Circle, Line, Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.suggest import suggest

from .sketches import arc, circle, line, residual, values

VALUES = Values(lambda text, kind: float(text))


def written(file: DxfFile) -> bytes:
    out = io.StringIO()
    file.write(out)
    return out.getvalue().encode()


def drawn(version: str = "R2010", unit: int = 4) -> tuple[DxfFile, Any]:
    file = ezdxf.new(version, setup=True)  # type: ignore[attr-defined]
    if version != "R12":
        file.header["$INSUNITS"] = unit
    return file, file.modelspace()


def taken(drawing: Drawing, **how: Any) -> list[Any]:
    return entities(drawing, Chosen(**how))


def svg(body: str, size: str = 'width="100mm" height="60mm" viewBox="0 0 100 60"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{body}</svg>'.encode()


def area(found: list[Any]) -> float:
    return sum(r.area for r in profile(Sketch(entities=found)).default())


# -- DXF in ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("version", ["R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018"])
def test_the_same_plate_from_every_version(version: str) -> None:
    file, space = drawn(version)
    corners = [(0, 0), (60, 0), (60, 40), (0, 40)]
    for i, p in enumerate(corners):
        space.add_line(p, corners[(i + 1) % 4])
    space.add_circle((20, 20), 5)
    space.add_arc((40, 20), 6, 300, 60)
    drawing = read_dxf(written(file))
    assert drawing.unit == (None if version == "R12" else "mm")
    assert Counter(s.kind for s in drawing.shapes) == {"line": 4, "circle": 1, "arc": 1}
    found = taken(drawing)
    assert area(found) == pytest.approx(2400 - 25 * math.pi, abs=1e-9)
    bow = next(e for e in found if isinstance(e, Arc))
    assert bow.p == pytest.approx((43, 20 - 6 * math.sqrt(3) / 2), abs=1e-9)
    assert bow.q == pytest.approx((43, 20 + 6 * math.sqrt(3) / 2), abs=1e-9)


@pytest.mark.parametrize(
    ("code", "unit", "mm"), [(1, "in", 25.4), (2, "ft", 304.8), (4, "mm", 1), (5, "cm", 10), (6, "m", 1000)]
)
def test_units_are_honoured(code: int, unit: str, mm: float) -> None:
    file, space = drawn(unit=code)
    space.add_line((0, 0), (2, 0))
    drawing = read_dxf(written(file))
    assert drawing.unit == unit
    (found,) = taken(drawing, unit=unit)
    assert found.q == pytest.approx((2 * mm, 0))
    (found,) = taken(drawing, unit=unit, scale=0.5)
    assert found.q == pytest.approx((mm, 0))


def test_a_polyline_with_bulges_is_lines_and_arcs() -> None:
    """A slot as one closed polyline: two straights, two half circles (bulge 1)."""
    for make in ("add_lwpolyline", "add_polyline2d"):
        file, space = drawn()
        getattr(space, make)([(0, 0, 0), (30, 0, 1), (30, 10, 0), (0, 10, 1)], format="xyb", close=True)
        found = taken(read_dxf(written(file)))
        assert Counter(e.kind for e in found) == {"line": 2, "arc": 2}
        assert area(found) == pytest.approx(300 + 25 * math.pi, rel=1e-12)


def test_blocks_are_opened_where_they_are_placed() -> None:
    file, space = drawn()
    hole = file.blocks.new("HOLE")
    hole.add_circle((0, 0), 2)
    hole.add_line((0, 0), (3, 0), {"layer": "MARKS"})
    pair = file.blocks.new("PAIR")
    pair.add_blockref("HOLE", (10, 0))
    pair.add_blockref("HOLE", (-10, 0))
    space.add_blockref("PAIR", (50, 30), {"rotation": 90, "layer": "HOLES"})
    space.add_blockref("HOLE", (0, 0), {"xscale": -2, "yscale": 2, "zscale": 2})
    grid = space.add_blockref("HOLE", (100, 0))
    grid.dxf.column_count, grid.dxf.column_spacing = 3, 20
    drawing = read_dxf(written(file))
    found = taken(drawing)
    rounds = sorted((round(e.c[0], 6), round(e.c[1], 6), round(e.r, 6)) for e in found if isinstance(e, Circle))
    assert rounds == [(0, 0, 4), (50, 20, 2), (50, 40, 2), (100, 0, 2), (120, 0, 2), (140, 0, 2)]
    mirrored = next(e for e in found if isinstance(e, Line) and e.p == pytest.approx((0, 0)))
    assert mirrored.q == pytest.approx((-6, 0))
    assert {(la.name, la.count) for la in drawing.layers} == {("0", 4), ("HOLES", 2), ("MARKS", 6)}
    only = taken(drawing, layers=["HOLES"])
    assert len(only) == 2


def test_a_block_stretched_one_way_makes_its_circle_an_oval_of_arcs() -> None:
    file, space = drawn()
    file.blocks.new("HOLE").add_circle((0, 0), 5)
    space.add_blockref("HOLE", (0, 0), {"xscale": 3, "yscale": 1})
    drawing = read_dxf(written(file))
    assert drawing.fitted == 1
    assert area(taken(drawing)) == pytest.approx(75 * math.pi, rel=2e-4)


def test_elevations_are_kept_until_they_are_flattened() -> None:
    file, space = drawn()
    corners = [(0, 0), (60, 0), (60, 40), (0, 40)]
    for i, p in enumerate(corners):
        space.add_line((*p, 12.5 * (i == 2)), (*corners[(i + 1) % 4], 12.5 * (i == 2)))
    space.add_lwpolyline([(5, 5), (15, 5), (15, 15)], close=True, dxfattribs={"elevation": -3})
    space.add_line((0, 0, 0), (0, 0, 9))
    space.add_circle((30, 20), 4, {"extrusion": (0, 1, 0)})
    drawing = read_dxf(written(file))
    assert drawing.left_out == {
        "line at an angle to the drawing's plane": 1,
        "circle at an angle to the drawing's plane": 1,
    }
    sketch = Sketch(entities=taken(drawing))
    found = check(sketch)
    assert found.counts["off plane"] == 4
    made = mend(sketch, VALUES)
    assert made.after.counts == {}
    assert area(made.sketch.entities) == pytest.approx(2400 - 50)


def test_what_is_seen_from_behind_is_turned_round() -> None:
    """Extrusion −Z: x is mirrored, and an arc runs the other way."""
    file, space = drawn()
    space.add_arc((10, 0), 5, 0, 90, dxfattribs={"extrusion": (0, 0, -1)})
    (found,) = taken(read_dxf(written(file)))
    assert found.c == pytest.approx((-10, 0))
    assert found.p == pytest.approx((-10, 5), abs=1e-9)
    assert found.q == pytest.approx((-15, 0), abs=1e-9)


def test_ellipses_and_free_curves_become_arcs_within_tolerance() -> None:
    file, space = drawn()
    space.add_ellipse((0, 0), (20, 0), 0.5)
    space.add_ellipse((0, 0), (30, 0), 0.5, 0, math.pi / 2)
    space.add_spline([(50, 0), (60, 10), (70, -5), (80, 0)])
    drawing = read_dxf(written(file))
    assert drawing.fitted == 3
    found = taken(drawing)
    whole = [e for e in found if not isinstance(e, Line) and max(abs(e.p[0]), abs(e.q[0])) < 20.001 and e.r < 60]
    assert area(whole[: len(whole)]) == pytest.approx(200 * math.pi, rel=5e-4)
    assert all(s.kind in ("arc", "line") for s in drawing.shapes)


def test_words_and_sizes_are_read() -> None:
    file, space = drawn()
    space.add_line((0, 0), (35, 0))
    space.add_text("BREAK SHARP EDGES")
    space.add_mtext("Deburr\\Pall over")
    space.add_linear_dim((0, 10), (0, 0), (35, 0)).render()
    space.add_linear_dim((0, 10), (0, 0), (35, 0), text="2X <>").render()
    space.add_diameter_dim((50, 50), radius=4, angle=30).render()
    space.add_radius_dim((50, 50), radius=4.25, angle=30).render()
    drawing = read_dxf(written(file))
    assert drawing.notes == ["BREAK SHARP EDGES", "Deburr all over"]
    assert drawing.sizes == ["35", "2X 35", "Ø8", "R4.25"]
    assert len(drawing.shapes) == 1  # not the arrows of the dimensions


def test_hidden_layers_and_chain_lines() -> None:
    file, space = drawn()
    file.layers.add("OFF").off()
    file.layers.add("COLD").freeze()
    file.layers.add("AXES", linetype="CENTER")
    for name in ("0", "OFF", "COLD", "AXES"):
        space.add_line((0, 0), (10, 0), {"layer": name})
    space.add_line((0, 5), (10, 5), {"linetype": "DASHED"})
    drawing = read_dxf(written(file))
    assert {la.name for la in drawing.layers if la.shown} == {"0", "AXES"}
    assert sorted(e.construction for e in taken(drawing)) == [False, True, True]
    assert not any(e.construction for e in taken(drawing, dashed=False))
    assert len(taken(drawing, layers=["OFF", "COLD"])) == 2


@pytest.mark.parametrize(("place", "at"), [("as drawn", (1005, -30)), ("corner", (0, 0)), ("centre", (-20, -10))])
def test_where_it_is_put(place: str, at: tuple[float, float]) -> None:
    file, space = drawn()
    space.add_lwpolyline([(1005, -30), (1045, -30), (1045, -10), (1005, -10)], close=True)
    found = taken(read_dxf(written(file)), place=place)
    assert found[0].p == pytest.approx(at)


def test_ids_go_on_from_those_used() -> None:
    file, space = drawn()
    space.add_line((0, 0), (1, 0))
    space.add_circle((0, 0), 1)
    found = entities(read_dxf(written(file)), Chosen(), {"l": 7})
    assert [e.id for e in found] == ["l8", "c1"]


def cut_short() -> bytes:
    file, space = drawn()
    for k in range(40):
        space.add_line((k, 0), (k, 9))
    return written(file)[:-4000]


def with_value(text: str) -> bytes:
    file, space = drawn("R12")
    space.add_line((12345.5, 0), (1, 1))
    return written(file).replace(b"12345.5", text.encode(), 1)


def nothing() -> bytes:
    return written(drawn()[0])


def only_words() -> bytes:
    file, space = drawn()
    space.add_hatch()
    space.add_text("nothing else")
    return written(file)


def blocks_in_blocks() -> bytes:
    """Ten blocks, each placing the one before ten times: 10^10 lines if opened."""
    file, space = drawn()
    file.blocks.new("B0").add_line((0, 0), (1, 1))
    for k in range(1, 10):
        block = file.blocks.new(f"B{k}")
        for i in range(10):
            block.add_blockref(f"B{k - 1}", (i, 0))
    space.add_blockref("B9", (0, 0))
    return written(file)


def rows_and_columns() -> bytes:
    file, space = drawn()
    file.blocks.new("B").add_line((0, 0), (1, 1))
    many = space.add_blockref("B", (0, 0))
    many.dxf.column_count = many.dxf.row_count = 30_000
    many.dxf.column_spacing = many.dxf.row_spacing = 2
    return written(file)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no DXF file"),
        (b"%PDF-1.4 hello", "no DXF file"),
        (b"AC1032\x00\x00\x00", "closed format"),
        (b"  0\nSECTION\n  2\nENTITIES\n  0\nLINE\n 10\nabc\n", "damaged|nothing in this drawing"),
        (nothing(), "nothing in this drawing"),
        (only_words(), "It holds only 1 hatch"),
        (with_value("nan"), "no numbers|nothing in this drawing"),
        (with_value("inf"), "no numbers|nothing in this drawing"),
        (with_value("1e300"), "no numbers"),
        (blocks_in_blocks(), "blocks more than 20,000 times"),
        (rows_and_columns(), "blocks more than 20,000 times"),
    ],
    ids=["empty", "pdf", "closed", "broken", "nothing", "words", "nan", "inf", "huge", "blocks", "grid"],
)
def test_what_cannot_be_taken_is_refused_in_a_sentence(data: bytes, said: str) -> None:
    with pytest.raises(Refusal, match=said):
        read_dxf(data)


def test_a_file_cut_short_gives_what_is_whole_or_says_so() -> None:
    try:
        drawing = read_dxf(cut_short())
    except Refusal as refusal:
        assert "damaged" in refusal.sentence or "nothing" in refusal.sentence
    else:
        assert all(math.isfinite(v) for s in drawing.shapes for v in (*(s.p or ()), *(s.q or ())))


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**32), st.integers(1, 12))
def test_spoilt_bytes_never_do_more_than_be_refused(seed: int, count: int) -> None:
    """Bytes changed at random: either it is read with sound numbers or it is refused with a sentence."""
    import random

    pick = random.Random(seed)
    file, space = drawn("R2000")
    space.add_lwpolyline([(0, 0, 0), (30, 0, 1), (30, 10, 0), (0, 10, 1)], format="xyb", close=True)
    space.add_circle((9, 9), 2)
    data = bytearray(written(file))
    for _ in range(count):
        data[pick.randrange(len(data))] = pick.randrange(256)
    try:
        drawing = read_dxf(bytes(data))
    except Refusal as refusal:
        assert refusal.sentence.endswith(".")
    else:
        for s in drawing.shapes:
            assert all(math.isfinite(v) and abs(v) <= 1e7 for v in (*(s.p or ()), *(s.q or ()), *(s.c or ())))


def test_too_many_for_one_sketch() -> None:
    file, space = drawn()
    for k in range(5100):
        space.add_point((k, 0))
    drawing = read_dxf(written(file))
    with pytest.raises(Refusal, match="5,100 lines and arcs are more than a sketch takes"):
        taken(drawing)
    with pytest.raises(Refusal, match="No layer with lines"):
        taken(drawing, layers=[])


# -- from a broken drawing to a fully constrained sketch -------------------------------------------


def test_a_received_drawing_becomes_a_fully_constrained_sketch() -> None:
    """A bracket as somebody sent it: a gap, a line twice, one off the plane; mended, then finished by suggestions."""
    file, space = drawn(unit=1)
    for p, q in [
        ((0, 0), (3.999, 0)),
        ((4, 0), (4, 1)),
        ((4, 1), (1, 1)),
        ((1, 1), (1, 3)),
        ((1, 3), (0, 3)),
        ((0, 3), (0, 0)),
    ]:
        space.add_line(p, q)
    space.add_line((4, 1), (4, 0))
    space.add_circle((0.5, 2.5, 0.25), 0.2)
    space.add_circle((3.4, 0.5), 0.2)
    drawing = read_dxf(written(file))
    sketch = Sketch(entities=taken(drawing, unit=drawing.unit))
    made = mend(sketch, VALUES)
    assert made.before.counts == {"off plane": 1, "duplicate": 1, "gap": 1}
    assert made.after.counts == {}
    found = suggest(made.sketch, VALUES, None, lambda kind, now, near: None)
    assert found.left == 0
    done = add(
        made.sketch,
        VALUES,
        constraints=[c for s in found.suggestions for c in s.constraints],
        dimensions=[d for s in found.suggestions for d in s.dimensions],
    ).sketch
    assert freedom(done, values(done)).count == 0
    inch = 25.4**2
    assert area(done.entities) == pytest.approx((4 + 2 - 2 * 0.04 * math.pi) * inch, rel=1e-3)


def test_the_drawing_that_ships_with_the_demo() -> None:
    """The line cleat as received: all its mistakes found, mended, and the area it was meant to have."""
    drawing = read_dxf((Path(__file__).parents[2] / "demo" / "line-cleat.dxf").read_bytes())
    assert (drawing.unit, drawing.notes) == (None, ["LINE CLEAT, 10 THICK"])
    made = mend(Sketch(entities=taken(drawing)), VALUES, 0.16)
    assert made.before.counts == {"off plane": 1, "tiny": 1, "duplicate": 1, "gap": 1, "open chain": 1}
    assert (made.after.counts, made.after.regions) == ({}, 3)
    whole = 60 * 6 + 20 * 10 + 52 * 8 + 16 * math.pi - 2 * 6.25 * math.pi
    assert area(made.sketch.entities) == pytest.approx(whole, rel=2e-3)


# -- SVG in ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("body", "kinds", "whole"),
    [
        ('<rect x="10" y="10" width="30" height="20"/>', {"line": 4}, 600),
        ('<rect x="10" y="10" width="30" height="20" rx="5"/>', {"line": 4, "arc": 4}, 600 - (4 - math.pi) * 25),
        ('<circle cx="20" cy="20" r="6"/>', {"circle": 1}, 36 * math.pi),
        ('<ellipse cx="20" cy="20" rx="6" ry="6"/>', {"circle": 1}, 36 * math.pi),
        ('<polygon points="0,0 30,0 30,40"/>', {"line": 3}, 600),
        ('<path d="M0 0h40v20h-40z"/>', {"line": 4}, 800),
        ('<path d="M5 0H35A5 5 0 0 1 35 10H5A5 5 0 0 1 5 0Z"/>', {"line": 2, "arc": 2}, 300 + 25 * math.pi),
        ('<g transform="translate(10 5) scale(2)"><circle cx="1" cy="1" r="3"/></g>', {"circle": 1}, 36 * math.pi),
        ('<g transform="rotate(30)"><rect width="10" height="4"/></g>', {"line": 4}, 40),
        (
            '<defs><circle id="h" r="2"/></defs><use href="#h" x="5"/><use href="#h" x="25"/>',
            {"circle": 2},
            8 * math.pi,
        ),
    ],
)
def test_svg_shapes(body: str, kinds: dict[str, int], whole: float) -> None:
    drawing = read_svg(svg(body))
    assert drawing.unit == "mm"
    assert Counter(s.kind for s in drawing.shapes) == kinds
    assert area(taken(drawing)) == pytest.approx(whole, rel=1e-6)


def test_svg_is_turned_up_and_knows_its_layers() -> None:
    body = '<g id="cut"><path d="M0 0L10 20"/></g><g id="fold" stroke-dasharray="4 2"><path d="M0 0L5 0"/></g>'
    drawing = read_svg(svg(body))
    found = taken(drawing)
    assert found[0].q == pytest.approx((10, -20))
    assert [la.name for la in drawing.layers] == ["cut", "fold"]
    assert [e.construction for e in found] == [False, True]
    assert read_svg(svg(body, 'width="100" height="60"')).unit is None


def test_svg_curves_are_fitted() -> None:
    drawing = read_svg(svg('<path d="M0 0C10 20 30 20 40 0Q20 -10 0 0"/>'))
    assert drawing.fitted == 2
    assert profile(Sketch(entities=taken(drawing))).regions


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"<svg", "damaged"),
        (b"<html></html>", "no SVG"),
        (b'<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"/>', "definitions of its own"),
        (svg(""), "nothing in this drawing"),
        (svg("<text>hello</text>"), "nothing in this drawing"),
        (svg('<path d="M0 0L1e12 5"/>'), "larger than ten kilometres"),
    ],
)
def test_svg_refusals(data: bytes, said: str) -> None:
    with pytest.raises(Refusal, match=said):
        read_svg(data)


# -- out and back ----------------------------------------------------------------------------------

PLATE = Sketch(
    entities=[
        line(1, (0, 0), (40.123456789, 0)),
        line(2, (40.123456789, 0), (31, 17)),
        arc(1, (20, 20), 7.5, -80, 200),
        circle(1, (11, -4), 3.25),
        line(3, (-9, 0), (9, 0), construction=True),
    ]
)


@pytest.mark.parametrize("form", ["dxf", "svg"])
def test_a_sketch_goes_out_and_comes_back(form: str) -> None:
    data = sketch_dxf(PLATE) if form == "dxf" else sketch_svg(PLATE, "Plate <1>")
    drawing = read_dxf(data) if form == "dxf" else read_svg(data)
    assert drawing.unit == "mm"
    back = {(e.kind, e.construction): e for e in taken(drawing)}
    assert len(taken(drawing)) == len(PLATE.entities)
    for e in PLATE.entities:
        if e.id == "l1":
            continue  # two plain lines: the second is compared
        twin = back[(e.kind, e.construction)]
        for name in ("p", "q", "c"):
            if hasattr(e, name):
                assert getattr(twin, name) == pytest.approx(getattr(e, name), abs=1e-8)


def test_an_independent_reader_agrees_on_what_was_written() -> None:
    file = ezdxf.read(io.StringIO(sketch_dxf(PLATE).decode()))  # type: ignore[attr-defined]
    assert not file.audit().has_errors
    assert file.units == 4
    assert Counter(e.dxftype() for e in file.modelspace()) == {"LINE": 3, "ARC": 1, "CIRCLE": 1}
    assert next(iter(file.modelspace().query('LINE[layer=="CONSTRUCTION"]'))).dxf.end.x == 9


@settings(max_examples=50, deadline=None)
@given(st.floats(0.05, 20), st.floats(0.05, 20), st.floats(0, 3))
def test_arcs_stay_within_the_tolerance(a: float, b: float, wave: float) -> None:
    """Along any oval with a wave in it, every arc lies within the tolerance of the curve and joins the next."""

    def at(t: float) -> tuple[float, float]:
        u = 2 * math.pi * t
        return a * math.cos(u), b * math.sin(u) + wave * 0.05 * math.sin(3 * u)

    tolerance = 0.002 * max(a, b)
    shapes = fitted(at, tolerance, "0", 8)
    ends = Counter((round(p[0], 9), round(p[1], 9)) for s in shapes for p in (s.p, s.q) if p)
    assert set(ends.values()) == {2}
    sketch = Sketch(entities=entities(Drawing(shapes=shapes, layers=[]), Chosen(layers=["0"])))
    assert residual(sketch) < 1e-9
    for s in shapes:
        if s.kind == "arc" and s.c and s.r and s.p:
            assert abs(math.dist(s.c, s.p) - s.r) < 1e-9 * max(1, s.r)


def test_an_arc_through_three_places() -> None:
    found = through((1, 0), (0, 1), (-1, 0))
    assert found is not None
    assert found[0] == pytest.approx((0, 0), abs=1e-12)
    assert found[1:] == (pytest.approx(1), True)
    assert through((-1, 0), (0, 1), (1, 0))[2] is False  # type: ignore[index]
    assert through((0, 0), (1, 1), (2, 2)) is None

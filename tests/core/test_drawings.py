"""Drawings from outside as DXF: what is read, what is told, what is refused; one made a fully constrained sketch."""

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

from sulvak_core.exchange.drawing import Chosen, Drawing, entities
from sulvak_core.exchange.dxf_in import read_dxf
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.check import check
from sulvak_core.sketch.edit import Values, add
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.mend import mend
from sulvak_core.sketch.model import Arc, Circle, Line, Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.suggest import suggest
from tests.examples import examples

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


@settings(max_examples=examples(60), deadline=None)
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
    inches = Values(lambda text, kind: float(text) * (25.4 if kind == "length" else 1.0), "in")
    found = suggest(made.sketch, inches)
    assert found.left == 0
    done = add(
        made.sketch,
        inches,
        constraints=[c for s in found.suggestions for c in s.constraints],
        dimensions=[d for s in found.suggestions for d in s.dimensions],
    ).sketch
    assert freedom(done, inches.all(done)).count == 0
    inch = 25.4**2
    # the gap's 3.9995 in is 4 in again, as the drawing would say it
    assert area(done.entities) == pytest.approx((4 + 2 - 2 * 0.04 * math.pi) * inch, rel=1e-9)


def test_the_drawing_that_ships_with_the_demo() -> None:
    """The line cleat as received: all its mistakes found, mended, and the area it was meant to have."""
    drawing = read_dxf((Path(__file__).parents[2] / "demo" / "line-cleat.dxf").read_bytes())
    assert (drawing.unit, drawing.notes) == (None, ["LINE CLEAT, 10 THICK"])
    made = mend(Sketch(entities=taken(drawing)), VALUES, 0.16)
    assert made.before.counts == {"off plane": 1, "tiny": 1, "duplicate": 1, "gap": 1, "open chain": 1}
    assert (made.after.counts, made.after.regions) == ({}, 3)
    whole = 60 * 6 + 20 * 10 + 52 * 8 + 16 * math.pi - 2 * 6.25 * math.pi
    assert area(made.sketch.entities) == pytest.approx(whole, rel=2e-3)

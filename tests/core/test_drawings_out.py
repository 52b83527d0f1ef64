"""SVG read as drawings, and sketches written out as DXF and SVG and read back."""

import io
import math
from collections import Counter

import ezdxf
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.exchange.arcs import fitted, through
from sulvak_core.exchange.drawing import Chosen, Drawing, entities
from sulvak_core.exchange.dxf_in import read_dxf
from sulvak_core.exchange.sketch_out import sketch_dxf, sketch_svg
from sulvak_core.exchange.svg_in import read_svg
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.model import Sketch
from sulvak_core.sketch.profiles import profile
from tests.examples import examples

from .sketches import arc, circle, line, residual
from .test_drawings import area, taken
from .test_drawings_of_others import svg

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


@settings(max_examples=examples(50), deadline=None)
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

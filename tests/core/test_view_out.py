"""Faces, views and sections as DXF and SVG, read back by ezdxf and by our own sheet reader."""

from __future__ import annotations

import io
import itertools
import math
from collections import Counter
from typing import Any

import ezdxf
import pytest

from sulvak_core.exchange.sheet_svg import read_svg_page
from sulvak_core.exchange.view_out import Drawn, as_dxf, as_svg, face_drawn, section_drawn, view_drawn
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.state import State
from sulvak_core.solid.measure import surface
from sulvak_core.solid.shapes import faces

from .parts import Made, disc, plate

MM = 72 / 25.4


def part() -> Made:
    """A plate 40 × 30 × 10 with rounded corners R4, a hole ⌀8 through and one ⌀6, 4 deep."""
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "4"}])
    made.sketch("s4", made.face("s2/end"), disc((12, 15), 4))
    made.extrude("s5", "s4", None, "cut")
    made.sketch("s6", made.face("s2/end"), disc((30, 15), 3))
    made.extrude("s7", "s6", "4", "cut")
    return made


def state(made: Made) -> State:
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return built.state


def entities(data: bytes) -> list[Any]:
    return list(ezdxf.read(io.StringIO(data.decode())).modelspace())


def kinds(data: bytes) -> Counter[tuple[str, str]]:
    return Counter((e.dxf.layer, e.dxftype()) for e in entities(data))


def top_face(found: State) -> int:
    for i, f in enumerate(faces(found.bodies[0].shape)):
        s = surface(f)
        if s.kind == "plane" and s.direction[2] > 0.9 and abs(s.at[2] - 10) < 1e-9:
            return i
    raise AssertionError


def test_a_face_in_its_true_shape() -> None:
    found = state(part())
    drawn = face_drawn(found, "s2", top_face(found))
    data = as_dxf(drawn)
    assert kinds(data) == {("OUTLINE", "LINE"): 4, ("OUTLINE", "ARC"): 4, ("OUTLINE", "CIRCLE"): 2}
    radii = sorted(e.dxf.radius for e in entities(data) if e.dxftype() != "LINE")
    assert radii == pytest.approx([3, 4, 4, 4, 4, 4])
    long = sorted(e.dxf.start.distance(e.dxf.end) for e in entities(data) if e.dxftype() == "LINE")
    assert long == pytest.approx([22, 22, 32, 32])
    assert ezdxf.read(io.StringIO(data.decode())).units == 4  # mm


def test_in_inches_everything_is_smaller_by_that() -> None:
    found = state(part())
    data = as_dxf(face_drawn(found, "s2", top_face(found)), "in")
    assert sorted(e.dxf.radius for e in entities(data) if e.dxftype() == "CIRCLE") == pytest.approx(
        [3 / 25.4, 4 / 25.4]
    )
    assert ezdxf.read(io.StringIO(data.decode())).units == 1


def test_a_view_tells_hidden_lines_apart() -> None:
    found = state(part())
    data = as_dxf(view_drawn(found, "front"))
    hidden = [e for e in entities(data) if e.dxf.layer == "HIDDEN"]
    # both holes' walls, and the floor of the blind one
    upright = sorted({round(e.dxf.start[0], 6) for e in hidden if abs(e.dxf.start[0] - e.dxf.end[0]) < 1e-9})
    assert [x for x in upright if x in (8, 16, 27, 33)] == [8, 16, 27, 33]
    layer = ezdxf.read(io.StringIO(data.decode())).layers.get("HIDDEN")
    assert (layer.dxf.linetype, layer.dxf.lineweight) == ("DASHED", 25)
    assert not [e for e in entities(as_dxf(view_drawn(found, "front", hidden=False))) if e.dxf.layer == "HIDDEN"]


def test_a_section_is_cut_lined_and_seen_behind() -> None:
    found = state(part())
    drawn = section_drawn(found, "front", 15)
    data = as_dxf(drawn)
    cut = [e for e in entities(data) if e.dxf.layer == "CUT"]
    # three pieces: left of the hole, between, right; the blind hole leaves the floor
    total = sum(e.dxf.start.distance(e.dxf.end) for e in cut)
    assert total == pytest.approx(2 * (8 + 10) + 2 * (24 + 10) + 2 * 4, abs=1e-6)
    lining = [e for e in entities(data) if e.dxf.layer == "LINING"]
    assert len(lining) > 8
    for e in lining:
        (ax, ay, _), (bx, by, _) = e.dxf.start, e.dxf.end
        assert ay - by == pytest.approx(ax - bx, abs=1e-9)  # 45°
        x, y = (ax + bx) / 2, (ay + by) / 2
        assert 0 <= x <= 40 and 0 <= y <= 10
        assert not 8 < x < 16
        assert not (27 < x < 33 and y > 6)


def test_a_plane_that_misses_and_faces_that_are_not_there_are_refused() -> None:
    found = state(part())
    with pytest.raises(Refusal, match="does not cut"):
        section_drawn(found, "front", 31)
    with pytest.raises(Refusal, match="no longer on the part"):
        face_drawn(found, "s2", 99)
    with pytest.raises(Refusal, match="no longer on the part"):
        face_drawn(found, "s99", 0)
    with pytest.raises(Refusal, match="no solid yet"):
        view_drawn(State(), "top")
    hollow = next(i for i, f in enumerate(faces(found.bodies[0].shape)) if surface(f).kind == "cylinder")
    with pytest.raises(Refusal, match="this one is round"):
        face_drawn(found, "s2", hollow)


def lengths(drawn: Drawn, layer: str) -> float:
    page = read_svg_page(as_svg(drawn, "test"))
    return sum(s.length() for s in page.strokes if s.layer == layer.lower()) / MM


def test_the_svg_is_one_to_one_and_says_the_same() -> None:
    found = state(part())
    face = face_drawn(found, "s2", top_face(found))
    around = 2 * (22 + 32) + 2 * math.pi * 4 + 2 * math.pi * (4 + 3)
    assert lengths(face, "OUTLINE") == pytest.approx(around, rel=1e-6)
    section = section_drawn(found, "front", 15)
    assert lengths(section, "CUT") == pytest.approx(2 * (8 + 10) + 2 * (24 + 10) + 8, rel=1e-6)
    page = read_svg_page(as_svg(section, "test"))
    assert page.size == (pytest.approx(50 * MM), pytest.approx(20 * MM))


@pytest.mark.parametrize("side", ["front", "top", "right", "left", "under", "back"])
def test_a_tilted_round_face_is_an_ellipse_where_it_is_one(side: Any) -> None:
    """A boss on a slope: DXF and SVG agree in how long everything is."""
    made = plate(40, 30, "20")
    made.step("chamfer", "s3", edges=[made.edge("s2/end", "s2/side/l1")], first="12")
    made.sketch("s4", "top", disc((20, 5), 3))
    made.extrude("s5", "s4", None, "cut")
    drawn = view_drawn(state(made), side)
    svg = sum(lengths(drawn, layer) for layer in drawn)
    total = 0.0
    for e in entities(as_dxf(drawn)):
        if e.dxftype() == "LINE":
            total += e.dxf.start.distance(e.dxf.end)
        else:
            points = [(p[0], p[1]) for p in (e.flattening(1e-4) if hasattr(e, "flattening") else e.get_points("xy"))]
            total += sum(math.dist(a, b) for a, b in itertools.pairwise(points))
    assert total == pytest.approx(svg, rel=2e-3)

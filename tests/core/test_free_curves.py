"""Ellipses, splines and letters: where they run, meet, close and what solid they make, against closed forms."""

from __future__ import annotations

import io
import itertools
import math

import ezdxf
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline
from scipy.special import ellipeinc

from sulvak_core.exchange.sketch_out import sketch_dxf, sketch_svg
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import edit, free_curves, words
from sulvak_core.sketch.check import check
from sulvak_core.sketch.curves import Piece, ends, letters, meet, parameter, pieces, position
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.lettering import outlines, slenderness
from sulvak_core.sketch.mirror import mirror
from sulvak_core.sketch.model import Sketch, Spline, points_of
from sulvak_core.sketch.profiles import profile
from sulvak_core.solid.bulk import bulk
from sulvak_core.solid.frame import DATUM_FRAMES
from sulvak_core.solid.prism import prism

from .sketches import circle, ellipse, ellipse_arc, line, sizes, spline, text, ties
from .test_constraints import VALUES

HUMP = spline(1, (0, 0), (10, 15), (25, 12), (40, 0))


def test_an_ellipse_encloses_pi_a_b_however_it_is_turned_and_cut() -> None:
    for tilt in (0, 17, 90, -133):
        whole = ellipse(1, (3, -2), 20, 8, tilt)
        assert profile(Sketch(entities=[whole])).regions[0].area == pytest.approx(160 * math.pi, rel=1e-12)
        cut = profile(Sketch(entities=[whole, line(1, (-40, -7), (40, 5))]))
        assert len(cut.regions) == 2
        assert sum(r.area for r in cut.regions) == pytest.approx(160 * math.pi, rel=1e-12)


def test_a_chord_parallel_to_an_axis_cuts_off_the_known_segment() -> None:
    # the segment above y = h of an ellipse is that of a circle of radius b, stretched by a / b
    a, b, h = 20.0, 10.0, 3.0
    found = profile(Sketch(entities=[ellipse(1, (0, 0), a, b), line(1, (-30, h), (30, h))]))
    segment = a / b * (b * b * math.acos(h / b) - h * math.sqrt(b * b - h * h))
    assert sorted(r.area for r in found.regions)[0] == pytest.approx(segment, rel=1e-10)


def test_an_arc_of_an_ellipse_closes_with_its_chord() -> None:
    half = ellipse_arc(1, (0, 0), 12, 5, 0, 180)
    found = profile(Sketch(entities=[half, line(1, (-12, 0), (12, 0))]))
    assert [r.area for r in found.regions] == [pytest.approx(30 * math.pi, rel=1e-12)]
    assert not found.open_ends


def test_a_spline_through_points_is_the_natural_one() -> None:
    reference = CubicSpline(HUMP.knots, HUMP.points, bc_type="natural")
    assert [ends(HUMP)[0], ends(HUMP)[1]] == [(0, 0), (40, 0)]
    for t in np.linspace(0, 1, 41):
        _, gap = free_curves.nearest(free_curves.path(HUMP), tuple(reference(t)))
        assert gap < 1e-9
    for at in HUMP.points:
        assert parameter(HUMP, at, 1e-9) is not None


def test_a_spline_of_four_control_points_is_their_bezier() -> None:
    drawn = spline(1, (0, 0), (10, 15), (25, 12), (40, 0), form="control")
    assert free_curves.spans(drawn) == [tuple(drawn.points)]
    # area under a Bézier against its chord: 3/20 of the cross products of its legs (Bézier's own formula)
    found = profile(Sketch(entities=[drawn, line(1, (0, 0), (40, 0))]))
    t = np.linspace(0, 1, 200_001)[:, None]
    p = np.array(drawn.points)
    w = 1 - t
    walked = w**3 * p[0] + 3 * w * w * t * p[1] + 3 * w * t * t * p[2] + t**3 * p[3]
    polygon = abs(np.trapezoid(walked[:, 1], walked[:, 0]))
    assert found.regions[0].area == pytest.approx(polygon, rel=1e-8)


def test_control_splines_stay_inside_their_points_and_start_along_the_first_leg() -> None:
    drawn = spline(1, (0, 0), (5, 20), (30, 25), (45, -10), (60, 0), (80, 5), form="control")
    _, places = free_curves.path(drawn).samples()
    assert places[:, 1].max() < 25
    assert places[:, 1].min() > -10
    weights = free_curves.heading_weights(drawn, "p")
    assert weights[2:] == [0.0] * 4
    assert weights[0] == -weights[1] < 0


def test_what_is_cut_in_pieces_is_whole_again() -> None:
    for curve in (HUMP, ellipse_arc(1, (0, 0), 12, 5, 20, 300), ellipse(2, (1, 2), 9, 4, 30)):
        cut = pieces(curve, [0.2, 0.55, 0.7], 1e-9)
        whole = pieces(curve, [0.2], 1e-9) if curve.kind == "ellipse" else pieces(curve, [], 1e-9)
        assert sum(p.area() for p in cut) == pytest.approx(sum(p.area() for p in whole), rel=1e-12)
        for before, after in itertools.pairwise(cut):
            assert before.end == pytest.approx(after.start, abs=1e-12)
        back = [p.reversed() for p in reversed(cut)]
        assert sum(p.area() for p in back) == pytest.approx(-sum(p.area() for p in cut), rel=1e-12)
        for p in cut:
            assert p.at(0) == pytest.approx(p.start, abs=1e-9)
            assert p.at(1) == pytest.approx(p.end, abs=1e-9)
            heading, bend = p.heading()
            (ax, ay), (bx, by), (cx, cy) = p.at(0), p.at(1e-4), p.at(2e-4)
            assert math.cos(heading - math.atan2(by - ay, bx - ax)) > 1 - 1e-6
            turned = (bx - ax) * (cy - by) - (by - ay) * (cx - bx)
            assert abs(bend) < 1e-9 or turned * bend > 0


X = math.sqrt(80)
MEETINGS = [
    (ellipse(1, (0, 0), 20, 10), line(1, (-30, 0), (30, 0)), [(-20, 0), (20, 0)]),
    (ellipse(1, (0, 0), 20, 10), line(1, (-30, 10), (30, 10)), [(0, 10)]),
    (ellipse(1, (0, 0), 20, 10), circle(1, (0, 0), 10), [(0, 10), (0, -10)]),
    (ellipse(1, (0, 0), 20, 10), circle(1, (30, 0), 10), [(20, 0)]),
    (ellipse(1, (0, 0), 20, 10), ellipse(2, (0, 0), 20, 10, 90), [(s * X, t * X) for s in (1, -1) for t in (1, -1)]),
    (ellipse(1, (0, 0), 20, 10), line(1, (0, 11), (30, 11)), []),
    (HUMP, line(1, (10, -5), (10, 30)), [(10, 15)]),
    (HUMP, line(1, (-5, 30), (50, 30)), []),
    (HUMP, circle(1, (0, 0), 1e-3), None),
]  # fmt: skip


@pytest.mark.parametrize(
    ("one", "two", "where"), MEETINGS, ids=[f"{a.kind}-{b.kind}-{n}" for n, (a, b, _) in enumerate(MEETINGS)]
)
def test_free_curves_curves_meet_where_algebra_says(one, two, where) -> None:  # type: ignore[no-untyped-def]
    for a, b in ((one, two), (two, one)):
        found = sorted({(round(x, 3) + 0.0, round(y, 3) + 0.0) for x, y in meet(a, b, 1e-7)})
        if where is None:
            assert len(found) == 1
        else:
            assert found == [pytest.approx(w, abs=1.1e-3) for w in sorted(where)]
        for at in meet(a, b, 1e-7):
            assert parameter(a, at, 2e-7) is not None
            assert parameter(b, at, 2e-7) is not None


@given(
    st.floats(4, 30), st.floats(2, 30), st.floats(-180, 180), st.floats(-10, 10), st.floats(-10, 10), st.floats(0, 180)
)
def test_ellipses_and_lines_cross_where_both_are(
    a: float, b: float, tilt: float, x: float, y: float, way: float
) -> None:
    drawn = ellipse(1, (x, y), a, b, tilt)
    u, v = math.cos(math.radians(way)), math.sin(math.radians(way))
    through = line(1, (x - 90 * u, y - 90 * v), (x + 90 * u, y + 90 * v))
    found = meet(drawn, through, 1e-7)
    assert len(found) == 2
    for px, py in found:
        assert abs((px - x) * v - (py - y) * u) < 1e-6
    assert math.dist(((found[0][0] + found[1][0]) / 2, (found[0][1] + found[1][1]) / 2), (x, y)) < 1e-6


def test_the_way_round_an_ellipse_is_its_elliptic_integral() -> None:
    piece = pieces(ellipse(1, (0, 0), 20, 10), [], 1e-9)[0]
    walked = [piece.at(k / 20000) for k in range(20001)]
    length = sum(math.dist(p, q) for p, q in itertools.pairwise(walked))
    assert length == pytest.approx(80 * ellipeinc(math.pi / 2, 1 - 0.25), rel=1e-7)


def solids(*entities) -> list:  # type: ignore[no-untyped-def]
    found = profile(Sketch(entities=list(entities)))
    return [(r.area, prism(DATUM_FRAMES["front"], r, 0.0, 4.0, "s1")) for r in found.default()]


@pytest.mark.parametrize(
    "entities",
    [
        [ellipse(1, (5, 5), 20, 8, 30)],
        [ellipse(1, (5, 5), 8, 20, 30)],
        [ellipse(1, (0, 0), 20, 10), line(1, (-30, 3), (30, 3))],
        [ellipse(1, (0, 0), 20, 10), circle(1, (2, 1), 4)],
        [ellipse_arc(1, (0, 0), 5, 12, 0, 180), line(1, (-5, 0), (5, 0))],
        [HUMP, line(1, (0, 0), (40, 0))],
        [HUMP, line(1, (0, 0), (40, 0)), circle(1, (20, 10), 6)],
        [spline(1, (0, 0), (5, 20), (30, 25), (45, -10), (60, 0), form="control"), line(1, (0, 0), (60, 0))],
        [text(1, "KITE 8g", (0, 0), (60, 10))],
    ],
    ids=lambda e: " ".join(x.kind for x in e),
)
def test_solids_over_bent_profiles_have_the_volume_of_their_area(entities: list) -> None:
    made = solids(*entities)
    assert made
    for area, solid in made:
        assert solid.volume() == pytest.approx(4 * area, rel=1e-7)


def test_an_elliptical_cylinder_has_its_known_inertia_and_skin() -> None:
    [(_, solid)] = solids(ellipse(1, (0, 0), 20, 10))
    b = bulk(solid)
    assert b.volume == pytest.approx(math.pi * 200 * 4, rel=1e-8)
    assert b.area == pytest.approx(2 * math.pi * 200 + 4 * 80 * ellipeinc(math.pi / 2, 0.75), rel=2e-5)
    # about the axis along the extrusion (the part's y): V·(a² + b²)/4
    assert b.inertia[1][1] == pytest.approx(b.volume * (400 + 100) / 4, rel=1e-6)


def test_letters_fill_the_box_they_are_given() -> None:
    wide = 1 / slenderness("HH")
    loops = outlines("HH", (10, 5), (10 + wide * 3, 5))
    xs = [x for loop in loops for span in loop for x, _ in span]
    ys = [y for loop in loops for span in loop for _, y in span]
    assert (min(xs), max(xs)) == (pytest.approx(10), pytest.approx(10 + 3 * wide))
    assert (min(ys), max(ys)) == (pytest.approx(5), pytest.approx(8))
    turned = outlines("HH", (0, 0), (0, 30))
    assert min(x for loop in turned for span in loop for x, _ in span) == pytest.approx(-30 * slenderness("HH"))


def test_counters_of_letters_are_holes() -> None:
    b = profile(Sketch(entities=[text(1, "B", (0, 0), (8, 0))]))
    assert [len(r.holes) for r in b.default()] == [2]
    assert len(profile(Sketch(entities=[text(1, "8o%", (0, 0), (30, 0))])).default()) == 5
    assert any(p.straight for p in letters(text(1, "B", (0, 0), (8, 0))))


def test_letters_that_are_not_there_are_told() -> None:
    with pytest.raises(Refusal, match="no “漢”"):
        slenderness("漢")
    with pytest.raises(Refusal, match="leaves ink"):
        slenderness("  ")


def test_a_text_is_centred_in_a_circle_and_sized_by_its_height() -> None:
    sketch = Sketch(entities=[text(1, "120 g", (3, 4), (40, 9)), circle(1, (0, 0), 25)])
    held = ties("coincident c1.c origin", "concentric t1 c1", "horizontal t1")
    made = edit.add(sketch, VALUES, constraints=held, dimensions=sizes("diameter 50 c1", "distance 6 t1.p t1.m")).sketch
    assert freedom(made, {d.id: float(d.expr) for d in made.dimensions}).count == 0
    at = points_of(made.entities[0])
    assert at["t1.c"] == pytest.approx((0, 0), abs=1e-9)
    assert at["t1.m"][1] - at["t1.p"][1] == pytest.approx(6)
    assert at["t1.q"][0] - at["t1.p"][0] == pytest.approx(6 / slenderness("120 g"))


def test_bad_ones_are_refused_in_words() -> None:
    skew = ellipse(1, (0, 0), 10, 5).model_copy(update={"n": (3.0, 5.0)})
    off = ellipse_arc(2, (0, 0), 10, 5, 0, 90).model_copy(update={"q": (0.0, 7.0)})
    doubled = Spline(id="s1", points=[(0, 0), (1e-9, 0), (5, 5)])
    flat = text(1, "A", (0, 0), (1, 0)).model_copy(update={"q": (0.0, 0.0)})
    for bad, said in [(skew, "square"), (off, "do not lie"), (doubled, "one place"), (flat, "no length")]:
        with pytest.raises(Refusal, match=said):
            edit.add(Sketch(), VALUES, [bad])
    with pytest.raises(Refusal, match="join one of them"):
        edit.add(Sketch(entities=[HUMP, line(1, (0, -9), (9, -9))]), VALUES, constraints=ties("tangent s1 l1"))
    with pytest.raises(ValueError, match="knots"):
        Spline(id="s1", points=[(0, 0), (1, 0), (5, 5)], knots=[0, 0.5, 0.4])


def test_a_dragged_spline_point_moves_alone_and_an_ellipse_by_its_axis_keeps_square() -> None:
    moved = edit.drag(Sketch(entities=[HUMP]), VALUES, "s1.k1", (12, 20)).sketch.entities[0]
    assert moved.points == [(0, 0), (12, 20), (25, 12), (40, 0)]  # type: ignore[union-attr]
    turned = edit.drag(Sketch(entities=[ellipse(1, (0, 0), 20, 10)]), VALUES, "e1.m", (15, 15)).sketch.entities[0]
    at = points_of(turned)
    (cx, cy), (mx, my), (nx, ny) = at["e1.c"], at["e1.m"], at["e1.n"]
    assert (mx, my) == pytest.approx((15, 15), abs=1e-3)
    assert (mx - cx) * (nx - cx) + (my - cy) * (ny - cy) == pytest.approx(0, abs=1e-9)


def test_mirror_images_of_bent_curves_are_the_same_shape_turned_over() -> None:
    arc = ellipse_arc(1, (30, 5), 12, 5, 20, 140)
    sketch = Sketch(entities=[arc, spline(1, (10, 0), (20, 12), (35, 3))])
    made = mirror(sketch, VALUES, ["e1", "s1"], "y").sketch
    image, curve = made.entities[-2:]
    assert profile(_closed(image)).regions[0].area == pytest.approx(profile(_closed(arc)).regions[0].area, rel=1e-9)
    assert curve.points == [(-10, 0), (-20, 12), (-35, 3)]  # type: ignore[union-attr]
    before = freedom(sketch, {}).count
    assert freedom(made, {}).count == before
    pulled = edit.drag(made, VALUES, "s1.k1", (22, 15)).sketch
    assert points_of(pulled.entities[-1])["s2.k1"] == pytest.approx((-22, 15), abs=1e-3)
    with pytest.raises(Refusal, match="not mirrored"):
        mirror(Sketch(entities=[text(1, "A", (2, 0), (9, 0))]), VALUES, ["t1"], "y")


def _closed(arc) -> Sketch:  # type: ignore[no-untyped-def]
    return Sketch(entities=[arc, line(9, arc.p, arc.q)])


def test_the_check_sees_gaps_at_bent_ends_and_counts_them() -> None:
    gapped = Sketch(entities=[HUMP, line(1, (0, 0), (39.95, 0))])
    found = check(gapped, 0.1)
    assert [f.kind for f in found.findings] == ["gap"]
    assert found.curves == 2
    assert not check(Sketch(entities=[HUMP, line(1, (0, 0), (40, 0))]), 0.1).findings
    lifted = HUMP.model_copy(update={"lift": 2.0})
    assert [f.kind for f in check(Sketch(entities=[lifted]), 0.1).findings] == ["off plane"]


def test_free_motions_of_bent_things_are_named() -> None:
    sketch = Sketch(entities=[text(1, "A", (0, 0), (9, 0)), HUMP])
    for motion in freedom(sketch, {}).motions:
        said = words.motion(sketch, motion)
        assert "text 1" in said or "spline 1" in said
    assert words.thing("s1.k2") == "point 3 of spline 1"
    assert words.thing("t1.m") == "top left corner of text 1"
    assert words.thing("e2.n") == "second axis end of ellipse 2"


def test_free_curves_curves_leave_as_dxf_and_svg_that_others_read() -> None:
    entities = [
        ellipse(1, (5, 5), 8, 20, 30), ellipse_arc(2, (0, 0), 12, 5, 20, 200), HUMP, text(1, "o", (0, 0), (9, 0)),
    ]  # fmt: skip
    sketch = Sketch(entities=entities)
    file = ezdxf.read(io.StringIO(sketch_dxf(sketch).decode()))  # type: ignore[attr-defined]
    kinds = [e.dxftype() for e in file.modelspace()]
    assert kinds.count("ELLIPSE") == 2
    assert kinds.count("SPLINE") == 3
    for entity, e in zip(file.modelspace().query("ELLIPSE"), entities, strict=False):
        assert entity.dxf.ratio <= 1
        for at in entity.vertices(np.linspace(entity.dxf.start_param, entity.dxf.end_param, 7)):
            assert parameter(e, (at.x, at.y), 1e-6) is not None  # type: ignore[arg-type]
    first = file.modelspace().query("SPLINE").first
    for at in first.construction_tool().points(np.linspace(0, 3, 13)):
        assert parameter(HUMP, (at.x, at.y), 1e-6) is not None
    svg = sketch_svg(sketch, "all").decode()
    assert svg.count("<path") == 4
    assert position(HUMP, 0.0) == (0, 0)
    assert Piece("l1", (0, 0), (3, 4)).walk() == [(0, 0), (3, 4)]

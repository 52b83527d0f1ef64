"""Edges of the part in sketches: how they are seen, that they hold fast, close regions, and follow the part."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.external_edges import on_offer
from sulvak_core.sketch import edit
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Sketch, points_of
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.trim import trim
from sulvak_core.solid.frame import DATUM_FRAMES, Frame, unit
from sulvak_core.solid.measure import curve
from sulvak_core.solid.project import cut_edges, projected
from sulvak_core.solid.shapes import edges

from .parts import Made, disc, plate
from .sketches import circle, line, numerical_freedom, rectangle, values
from .test_constraints import VALUES

TOP = Frame((0.0, 0.0, 10.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))


def cylinder(r: float = 8.0) -> Made:
    made = Made()
    made.sketch("s1", "top", disc((5, 3), r))
    made.extrude("s2", "s1", "12")
    return made


def seen(made: Made, frame: Frame) -> list[Any]:
    return [projected(e, frame) for e in edges(made.build().state.bodies[0].shape)]


def test_a_plate_from_above_is_its_rectangle_and_its_corners() -> None:
    flats = seen(plate(), TOP)
    assert sorted(f.kind for f in flats) == ["line"] * 8 + ["point"] * 4
    assert {f.key() for f in flats if f.kind == "line"} == {
        ("line", 0.0, (0, 0), (40, 0)),
        ("line", 0.0, (0, 0), (0, 30)),
        ("line", 0.0, (0, 30), (40, 30)),
        ("line", 0.0, (40, 0), (40, 30)),
    }


def test_a_circle_is_a_circle_a_line_or_an_ellipse_by_how_it_is_seen() -> None:
    made = cylinder()
    assert {f.key() for f in seen(made, TOP) if f.kind == "circle"} == {("circle", 8.0, (5, 3))}
    front = [f for f in seen(made, DATUM_FRAMES["front"]) if f.kind == "line"]
    level = [f for f in front if abs(f.at["p"][1] - f.at["q"][1]) < 1e-9]
    assert all(sorted((f.at["p"][0], f.at["q"][0])) == pytest.approx([-3, 13]) for f in level)
    assert len(level) == 2
    tilted = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), unit((0.0, 1.0, 1.0)))
    ellipses = [f for f in seen(made, tilted) if f.kind == "ellipse"]
    assert len(ellipses) == 2
    for f in ellipses:
        c, m, n = f.at["c"], f.at["m"], f.at["n"]
        assert sorted((math.dist(c, m), math.dist(c, n))) == pytest.approx([8 * math.sqrt(0.5), 8])


def test_arcs_run_counter_clockwise_however_their_edge_does() -> None:
    made = Made()
    made.sketch("s1", "top", rectangle())
    made.do("sketch_fillet", step="s1", corners=["l1.q"], radius="6")
    made.extrude("s2", "s1", "10")
    for frame in (TOP, Frame((0.0, 0.0, 0.0), (-1.0, 0.0, 0.0), (0.0, 1.0, 0.0))):
        arcs = [f for f in seen(made, frame) if f.kind == "arc"]
        assert len(arcs) == 2
        for f in arcs:
            (cx, cy), (px, py), (qx, qy) = f.at["c"], f.at["p"], f.at["q"]
            assert (px - cx) * (qy - cy) - (py - cy) * (qx - cx) == pytest.approx(36)  # a quarter turn to the left
    side = [f for f in seen(made, DATUM_FRAMES["front"]) if f.kind == "line"]
    assert any({round(f.at["p"][0], 6), round(f.at["q"][0], 6)} == {34.0, 40.0} for f in side)


def test_a_plane_through_the_part_cuts_its_walls() -> None:
    made = plate()
    middle = Frame((0.0, 0.0, 4.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    cut = cut_edges(made.build().state.bodies[0].shape, middle)
    assert sorted(round(curve(e).length, 6) for e in cut) == [30, 30, 40, 40]
    assert cut_edges(made.build().state.bodies[0].shape, Frame((0.0, 0.0, 99.0), (1, 0, 0), (0, 1, 0))) == []


def offers(made: Made, frame: Frame = TOP) -> list[dict[str, Any]]:
    built = made.build()
    return on_offer([b.solid for b in built.state.bodies], frame, built.guides, [s.id for s in made.document.steps])


def test_what_is_on_offer_is_each_place_once_those_in_the_plane_first() -> None:
    found = offers(plate())
    assert [o["in_plane"] for o in found[:4]] == [True] * 4
    lines = [o for o in found if o["entity"]["kind"] == "line"]
    assert len(lines) == 4
    assert not any(o["cut"] for o in lines)
    through = offers(cylinder(), Frame((0.0, 0.0, 5.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)))
    assert [o["entity"]["kind"] for o in through] == ["circle"]  # both rims and the cut in one place
    upright = offers(cylinder(), DATUM_FRAMES["front"])
    cuts = [o["entity"] for o in upright if o["cut"] and o["entity"]["kind"] == "line"]
    walls = [e for e in cuts if abs(e["p"][0] - e["q"][0]) < 1e-9]
    half = math.sqrt(64 - 9)
    assert sorted(round(e["p"][0], 6) for e in walls) == pytest.approx([5 - half, 5 + half], abs=1e-5)


def on_top(made: Made, *more: Any, use: int = 1) -> str:
    """A sketch s3 on the plate's top face with the edges nearest to y = 30 in it, and what is drawn besides."""
    made.sketch("s3", made.face("s2/end"))
    lines = [o for o in offers(made) if o["entity"]["kind"] == "line"]
    picked = sorted(lines, key=lambda o: -o["entity"]["p"][1] - o["entity"]["q"][1])[:use]
    entities = [{**o["entity"], "id": f"l{90 + i}"} for i, o in enumerate(picked)]
    projections = [{"of": o["of"], "entity": f"l{90 + i}"} for i, o in enumerate(picked)]
    made.do("sketch_add", step="s3", entities=entities, projections=projections)
    drawn = [e.model_dump(mode="json") for e in more]
    if drawn:
        made.do("sketch_add", step="s3", entities=drawn)
    return "l90"


def test_an_edge_of_the_part_holds_fast_and_closes_a_notch() -> None:
    made = plate()
    edge = on_top(made, line(1, (10, 30), (10, 22)), line(2, (10, 22), (18, 22)), line(3, (18, 22), (18, 30)))
    made.do("sketch_add", step="s3", constraints=[
        {"id": f"k{n}", "kind": kind, "refs": refs}
        for n, (kind, *refs) in enumerate([
            ("coincident", "l1.p", edge), ("coincident", "l1.q", "l2.p"), ("coincident", "l2.q", "l3.p"),
            ("coincident", "l3.q", edge), ("vertical", "l1"), ("horizontal", "l2"), ("vertical", "l3"),
        ], 1)
    ])  # fmt: skip
    step = made.document.step("s3")
    sketch = step.sketch  # type: ignore[union-attr]
    assert sketch.given == ["l90"]
    assert freedom(sketch, {}).count == 3 == numerical_freedom(sketch)  # two sides and the depth; the edge adds none
    [region] = profile(sketch).default()
    assert region.area == pytest.approx(64)
    made.extrude("s4", "s3", None, "cut")
    assert made.volume() == pytest.approx(12000 - 640)
    dragged = edit.drag(sketch, VALUES, "l90.p", (0, 50)).sketch
    assert points_of(dragged.entity("l90")) == points_of(sketch.entity("l90"))  # type: ignore[arg-type]
    with pytest.raises(Refusal, match="edge of the part"):
        trim(sketch, VALUES, "l90", (14, 30))


def test_it_follows_the_part_and_the_sketch_with_it() -> None:
    made = plate()
    edge = on_top(made, circle(1, (20, 24), 3))
    made.do("sketch_add", step="s3", dimensions=[
        {"id": "d1", "kind": "distance", "refs": ["c1.c", edge], "expr": "6"},
        {"id": "d2", "kind": "distance", "refs": ["c1.c", "y"], "expr": "20"},
        {"id": "d3", "kind": "diameter", "refs": ["c1"], "expr": "6"},
    ])  # fmt: skip
    made.extrude("s4", "s3", None, "cut")
    assert made.volume() == pytest.approx(12000 - 90 * math.pi)
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "50"})
    build = made.build()
    followed = build.sketches["s3"]
    assert followed.entity("c1").c == pytest.approx((20, 44))  # type: ignore[union-attr]
    assert made.volume() == pytest.approx(20000 - 90 * math.pi)
    assert freedom(followed, values(followed)).count == 0


def test_a_lost_edge_is_told_and_the_rest_stands() -> None:
    made = plate()
    on_top(made, use=4)
    made.sketch("s5", "top", Sketch(entities=[circle(1, (20, 15), 4)]))
    # the outline drawn anew: no wall comes from the same lines any more
    made.do("sketch_delete", step="s1", ids=["l3"])
    made.do("sketch_add", step="s1", entities=[
        {"kind": "line", "id": "l7", "p": [40, 30], "q": [20, 36]},
        {"kind": "line", "id": "l8", "p": [20, 36], "q": [0, 30]},
    ])  # fmt: skip
    build = made.build()
    report = next(r for r in build.reports if r.id == "s3")
    assert report.state == "ok"
    assert "l90" in report.offers["lost"]
    assert "gone; what was drawn stays" in report.said
    assert not build.failed


def test_a_sketch_that_cannot_follow_fails_and_says_why() -> None:
    made = plate()
    edge = on_top(made, circle(1, (20, 24), 3))
    made.do("sketch_add", step="s3", constraints=[{"id": "k1", "kind": "fixed", "refs": ["c1.c"]}])
    made.do("sketch_add", step="s3", constraints=[{"id": "k2", "kind": "tangent", "refs": ["c1", edge]}])
    made.do("sketch_add", step="s3", entities=[{"kind": "point", "id": "p1", "at": [0, 0]}])
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "24"})
    report = next(r for r in made.build().reports if r.id == "s3")
    assert report.state == "failed"
    assert "cannot follow" in report.said


def test_projections_go_with_what_stands_for_them_and_guard_the_order() -> None:
    made = plate()
    edge = on_top(made)
    assert len(made.document.step("s3").projections) == 1  # type: ignore[union-attr]
    with pytest.raises(Refusal):
        made.do("move_step", step="s3", before="s1")
    made.do("sketch_delete", step="s3", ids=[edge])
    step = made.document.step("s3")
    assert step.projections == [] == step.sketch.given  # type: ignore[union-attr]
    with pytest.raises(Refusal, match="comes with the line"):
        made.do("sketch_add", step="s3", projections=[{"of": offers(made)[0]["of"], "entity": "l55"}])


def test_a_bore_seen_from_above_centres_a_boss() -> None:
    made = cylinder()
    made.sketch("s3", made.face("s2/end"))
    end = Frame((0.0, 0.0, 12.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    rim = next(o for o in offers(made, end) if o["entity"]["kind"] == "circle")
    made.do("sketch_add", step="s3", entities=[{**rim["entity"], "id": "c9", "construction": True}],
            projections=[{"of": rim["of"], "entity": "c9"}])  # fmt: skip
    made.do("sketch_add", step="s3", entities=[{"kind": "circle", "id": "c1", "c": [6, 4], "r": 2}],
            constraints=[{"id": "k1", "kind": "concentric", "refs": ["c1", "c9"]}],
            dimensions=[{"id": "d1", "kind": "diameter", "refs": ["c1"], "expr": "5"}])  # fmt: skip
    made.extrude("s4", "s3", "3")
    assert made.volume() == pytest.approx(math.pi * (64 * 12 + 6.25 * 3))
    made.do("sketch_drag", step="s1", ref="c1.c", to=(30, 20))
    assert made.build().sketches["s3"].entity("c1").c == pytest.approx((30, 20), abs=1e-6)  # type: ignore[union-attr]
    assert made.volume() == pytest.approx(math.pi * (64 * 12 + 6.25 * 3))


def test_a_cut_through_a_wall_follows_it_too() -> None:
    made = cylinder()
    made.sketch("s3", "front")
    cuts = [o for o in offers(made, DATUM_FRAMES["front"]) if o["cut"]]
    wall = next(o for o in cuts if min(o["entity"]["p"][0], o["entity"]["q"][0]) > 5)
    made.do("sketch_add", step="s3", entities=[{**wall["entity"], "id": "l1"}],
            projections=[{"of": wall["of"], "entity": "l1"}])  # fmt: skip
    made.do("sketch_add", step="s1", dimensions=[{"id": "d1", "kind": "radius", "refs": ["c1"], "expr": "10"}])
    followed = made.build().sketches["s3"].entity("l1")
    assert followed.p[0] == pytest.approx(5 + math.sqrt(100 - 9))  # type: ignore[union-attr]

"""Silhouettes in sketches: where curved faces turn away, exact for the surfaces that parts are made of."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.frame import DATUM_FRAMES, Frame, unit
from sulvak_core.solid.project import projected
from sulvak_core.solid.shapes import faces
from sulvak_core.solid.silhouette import silhouettes

from .parts import Made, disc, plate
from .sketches import line, rectangle
from .test_external_edges import offers

FRONT, TOP = DATUM_FRAMES["front"], DATUM_FRAMES["top"]


def turned(*lines: Any) -> Made:
    """A profile in the front plane (x from the axis, y along it) turned round the vertical axis of the part."""
    made = Made()
    made.sketch("s1", "front", Sketch(entities=list(lines)))
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "z"})
    assert made.volume() > 0
    return made


def ring(r: float, out: float) -> Made:
    made = Made()
    made.sketch("s1", "front", disc((out, 0), r))
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "z"})
    return made


def seen(made: Made, frame: Frame) -> list[Any]:
    solids = [b.solid for b in made.build().state.bodies]
    return [projected(e, frame) for s in solids for f in faces(s.shape) for e in silhouettes(f, frame)]


def uprights(made: Made, frame: Frame = FRONT) -> list[float]:
    return sorted(round(f.at["p"][0], 9) for f in seen(made, frame) if f.kind == "line")


def test_a_cylinder_turns_away_at_its_radius_from_wherever_it_is_seen() -> None:
    made = Made()
    made.sketch("s1", "top", disc((5, 3), 8))
    made.extrude("s2", "s1", "12")
    assert uprights(made) == [-3, 13]
    assert all(sorted([f.at["p"][1], f.at["q"][1]]) == pytest.approx([0, 12]) for f in seen(made, FRONT))
    assert uprights(made, DATUM_FRAMES["right"]) == [-5, 11]
    aslant = Frame((0.0, 0.0, 0.0), unit((1.0, 1.0, 0.0)), (0.0, 0.0, 1.0))
    assert uprights(made, aslant) == pytest.approx([8 / math.sqrt(2) - 8, 8 / math.sqrt(2) + 8])
    assert seen(made, TOP) == []  # a wall seen end on
    assert seen(plate(), FRONT) == []


def test_only_the_part_of_a_wall_that_is_there_has_a_silhouette() -> None:
    made = Made()
    made.sketch("s1", "top", rectangle())
    made.do("sketch_fillet", step="s1", corners=["l1.q"], radius="6")
    made.extrude("s2", "s1", "10")
    # a quarter round ends just where it turns away: those lines are edges already
    assert [o for o in offers(made, FRONT) if o["silhouette"]] == []
    aslant = Frame((0.0, 0.0, 0.0), unit((1.0, -1.0, 0.0)), (0.0, 0.0, 1.0))
    [one] = [o for o in offers(made, aslant) if o["silhouette"]]
    assert one["entity"]["p"][0] == pytest.approx((34 - 6) / math.sqrt(2) + 6)


def test_a_cone_turns_away_along_two_generators_and_not_when_seen_into() -> None:
    made = turned(line(1, (0, 0), (10, 0)), line(2, (10, 0), (4, 18)), line(3, (4, 18), (0, 18)),
                  line(4, (0, 18), (0, 0)))  # fmt: skip
    slopes = [f for f in seen(made, FRONT) if f.kind == "line"]
    ends = {tuple(sorted([tuple(round(v, 6) for v in f.at["p"]), tuple(round(v, 6) for v in f.at["q"])]))
            for f in slopes}  # fmt: skip
    assert ends == {((4, 18), (10, 0)), ((-10, 0), (-4, 18))}
    assert seen(made, TOP) == []
    # from 30° above: the generators stand where cos(turn) = tan(lean) · tan(elevation)
    lean, lift = math.atan(6 / 18), math.radians(30)
    tilted = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, math.sin(lift), math.cos(lift)))
    found = [f for f in seen(made, tilted) if f.kind == "line"]
    turn = math.acos(math.tan(lean) * math.tan(lift))
    assert sorted(round(max(abs(f.at["p"][0]), abs(f.at["q"][0])), 6) for f in found) == pytest.approx(
        [round(10 * math.sin(turn), 6)] * 2
    )


def test_a_ball_is_a_circle_and_a_ring_seen_along_its_axis_two() -> None:
    made = Made()
    half = {"kind": "arc", "id": "a1", "c": (0, 12), "r": 9, "p": (0, 3), "q": (0, 21)}
    made.sketch("s1", "front", Sketch(entities=[line(1, (0, 21), (0, 3))]))
    made.do("sketch_add", step="s1", entities=[half])
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "z"})
    flats = seen(made, Frame((0.0, 0.0, 0.0), unit((1.0, 2.0, 0.0)), unit((0.0, 0.0, 1.0))))
    assert {(f.kind, round(f.r, 6)) for f in flats} <= {("circle", 9), ("arc", 9)}
    assert flats
    found = {(f.kind, round(f.r, 6), f.at["c"]) for f in seen(ring(3, 10), TOP)}
    assert {(k, r) for k, r, _ in found} == {("circle", 13), ("circle", 7)}


def test_a_ring_seen_from_the_side_is_walked_along() -> None:
    flats = seen(ring(3, 10), FRONT)
    ends = sorted((round(f.at["c"][0], 6), round(f.r, 6)) for f in flats if f.kind in ("circle", "arc"))
    assert ends == [(-10, 3), (10, 3)]
    level = [f for f in flats if f.kind == "line"]
    assert {round(abs(f.at["p"][1]), 4) for f in level} == {3}
    assert max(abs(f.at["p"][0]) for f in level) == pytest.approx(10, abs=0.01)


def test_a_surface_of_no_simple_kind_is_walked_along() -> None:
    made = Made()
    bow = {"kind": "spline", "id": "s1", "points": [(6, 0), (9, 8), (5, 16), (7, 24)]}
    made.sketch("s1", "front", Sketch(entities=[line(1, (7, 24), (0, 24)), line(2, (0, 24), (0, 0)),
                                               line(3, (0, 0), (6, 0))]))  # fmt: skip
    made.do("sketch_add", step="s1", entities=[bow])
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "z"})
    assert made.volume() > 0
    flats = [f for f in seen(made, FRONT) if f.kind == "spline"]
    widest = max(x for f in flats for x, _ in f.points)
    from_above = [math.hypot(*at) for f in seen(made, TOP) for at in f.points]
    assert widest == pytest.approx(max(from_above), rel=5e-3)  # 24 places of a curve stand for it
    assert widest > 8.5
    assert min(x for f in flats for x, _ in f.points) == pytest.approx(-widest, rel=5e-3)


def test_a_silhouette_in_a_sketch_follows_the_part() -> None:
    made = Made()
    made.sketch("s1", "top", disc((5, 3), 8))
    made.extrude("s2", "s1", "12")
    made.sketch("s3", "front")
    outlines = [o for o in offers(made, FRONT) if o["silhouette"]]
    assert len(outlines) == 2
    assert not any(o["cut"] or o["in_plane"] for o in outlines)
    right = max(outlines, key=lambda o: o["entity"]["p"][0])
    made.do("sketch_add", step="s3", entities=[{**right["entity"], "id": "l1"}],
            projections=[{"of": right["of"], "entity": "l1"}])  # fmt: skip
    made.do("sketch_add", step="s1", dimensions=[{"id": "d1", "kind": "radius", "refs": ["c1"], "expr": "10"}])
    followed = made.build().sketches["s3"].entity("l1")
    assert followed.p[0] == pytest.approx(15) == followed.q[0]  # type: ignore[union-attr]
    made.do("sketch_delete", step="s1", ids=["c1"])
    made.do("sketch_add", step="s1", entities=[{"kind": "circle", "id": "c5", "c": [0, 0], "r": 4}])
    assert "l1" in made.report("s3").offers["lost"]

"""Measuring between faces, edges, corners and bodies of finished parts, against closed forms."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.inspect.measuring import Answer, Pick, measure
from sulvak_core.part.errors import Refusal
from sulvak_core.solid import distance
from sulvak_core.solid.distance import Trait
from sulvak_core.solid.measure import neighbours
from sulvak_core.solid.shapes import faces
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import line

W, H, T = 40.0, 30.0, 10.0


def drilled(**fields: Any) -> Made:
    """The plate with holes Ø6 at (10, 10) and Ø8 at (30, 20), through."""
    made = plate(**fields)
    made.sketch("s3", made.face("s2/end"), disc((10, 10), 3))
    made.extrude("s4", "s3", None, "cut", kind="through_all")
    made.sketch("s5", made.face("s2/end"), disc((30, 20), 4))
    made.extrude("s6", "s5", None, "cut", kind="through_all")
    return made


def wedge() -> Made:
    """A right triangle 40 × 30 in the front plane, 10 deep: its slope is 3:4."""
    made = Made(material="")
    at = [(0, 0), (40, 0), (0, 30)]
    from sulvak_core.sketch.model import Sketch

    made.sketch("s1", "front", Sketch(entities=[line(i + 1, at[i], at[(i + 1) % 3]) for i in range(3)]))
    made.extrude("s2", "s1")
    return made


class Bench:
    """A built part to measure on, things of it found by where they come from."""

    def __init__(self, made: Made) -> None:
        self.document, self.build = made.document, made.build()
        self.body = self.build.state.bodies[0]

    def face(self, origin: str, at: tuple[float, float, float] | None = None) -> Pick:
        for i, f in enumerate(faces(self.body.shape)):
            if origin in self.body.solid.face_tags(f):
                return Pick(body=self.body.id, kind="face", index=i, at=at)
        raise AssertionError(origin)

    def edge(self, one: str, two: str) -> Pick:
        every = faces(self.body.shape)
        for i, (_, at) in enumerate(neighbours(self.body.solid)):
            tags = [self.body.solid.face_tags(every[j]) for j in at]
            if len(tags) == 2 and any(one in a and two in b for a, b in (tags, tags[::-1])):
                return Pick(body=self.body.id, kind="edge", index=i)
        raise AssertionError((one, two))

    def corner(self, *at: float) -> Pick:
        return Pick(body=self.body.id, kind="corner", at=at)  # type: ignore[arg-type]

    def whole(self) -> Pick:
        return Pick(body=self.body.id)

    def __call__(self, *picks: Pick) -> Answer:
        return measure(self.document, self.build.state, list(picks))


def values(answer: Answer) -> dict[str, float]:
    return {f.name: f.value for f in answer.figures}


@pytest.fixture(scope="module")
def bench() -> Bench:
    return Bench(drilled())


HOLE, OTHER, TOP, BOTTOM, LEFT = "s4/side/c1", "s6/side/c1", "s2/end", "s2/start", "s2/side/l4"
RIGHT, FRONT = "s2/side/l2", "s2/side/l1"

ALONE = [
    (lambda b: b.face(HOLE), {"diameter": 6, "radius": 3, "area": 60 * math.pi}),
    (lambda b: b.face(RIGHT), {"area": 300, "length around": 80}),
    (lambda b: b.face(TOP), {"area": 1200 - 25 * math.pi, "length around": 140 + 14 * math.pi}),
    (lambda b: b.edge(HOLE, TOP), {"diameter": 6, "radius": 3, "length": 6 * math.pi}),
    (lambda b: b.edge(RIGHT, TOP), {"length": 30}),
    (lambda b: b.corner(40, 30, 10), {"X": 40, "Y": 30, "Z": 10}),
    (lambda b: b.corner(40.004, 30, 9.998), {"X": 40, "Y": 30, "Z": 10}),  # as a picture's coarse numbers have it
    (lambda b: b.whole(), {"volume": 12000 - 250 * math.pi, "surface": 2400 + 1400 - 50 * math.pi + 140 * math.pi}),
]
AXES = math.hypot(20, 10)
TWO = [
    (lambda b: (b.face(TOP), b.face(BOTTOM)), {"distance of the planes": 10}),
    (lambda b: (b.face(LEFT), b.face(RIGHT)), {"distance of the planes": 40}),
    (lambda b: (b.face(TOP), b.face(RIGHT)), {"angle": 90, "shortest way": 0}),
    (lambda b: (b.face(HOLE), b.face(OTHER)), {"distance of the axes": AXES, "shortest way": AXES - 7}),
    (lambda b: (b.face(HOLE), b.face(LEFT)), {"distance from axis to plane": 10, "shortest way": 7}),
    (lambda b: (b.edge(HOLE, TOP), b.edge(OTHER, BOTTOM)), {"distance of the axes": AXES}),
    (lambda b: (b.edge(RIGHT, TOP), b.edge(LEFT, BOTTOM)), {"distance of the lines": math.hypot(40, 10)}),
    (lambda b: (b.edge(RIGHT, TOP), b.edge(FRONT, TOP)), {"angle": 90, "shortest way": 0}),
    (lambda b: (b.edge(RIGHT, TOP), b.face(BOTTOM)), {"distance from line to plane": 10}),
    (lambda b: (b.corner(0, 0, 0), b.corner(40, 30, 10)), {"distance": math.sqrt(2600), "along X": 40, "along Z": 10}),
    (lambda b: (b.corner(0, 0, 0), b.face(RIGHT)), {"distance from corner to plane": 40}),
    (lambda b: (b.corner(0, 0, 10), b.face(HOLE)), {"distance from corner to axis": math.hypot(10, 10)}),
    (lambda b: (b.face(HOLE), b.corner(0, 0, 10)), {"distance from axis to corner": math.hypot(10, 10)}),
]


@pytest.mark.parametrize(("pick", "wanted"), ALONE)
def test_one_thing(bench: Bench, pick: Any, wanted: dict[str, float]) -> None:
    found = values(bench(pick(bench)))
    assert {k: found[k] for k in wanted} == pytest.approx(wanted, rel=1e-9)


@pytest.mark.parametrize(("picks", "wanted"), TWO)
def test_two_things(bench: Bench, picks: Any, wanted: dict[str, float]) -> None:
    found = values(bench(*picks(bench)))
    assert {k: found[k] for k in wanted} == pytest.approx(wanted, rel=1e-9, abs=1e-9)
    turned = values(bench(*reversed(picks(bench))))
    assert sorted(turned.values()) == pytest.approx(sorted(found.values()), rel=1e-9, abs=1e-9)


def test_a_distance_shows_where_it_is(bench: Bench) -> None:
    """The line of a figure is as long as the figure says, and ends on what was measured."""
    for picks, _ in TWO:
        for figure in bench(*picks(bench)).figures:
            if figure.line:
                assert math.dist(*figure.line) == pytest.approx(figure.value, rel=1e-9, abs=1e-9)


def test_words_and_notation(bench: Bench) -> None:
    answer = bench(bench.face(HOLE))
    assert answer.said == "wall of step 40 from circle 1"
    assert [(f.text, f.callout) for f in answer.figures[:2]] == [("Ø6 mm", "Ø6"), ("R3 mm", "R3")]
    two = bench(bench.face(TOP), bench.face(BOTTOM))
    assert two.said == "end face of step 20 and start face of step 20"
    assert two.figures[0].callout == "10"


def test_a_slope(bench: Bench) -> None:
    b = Bench(wedge())
    slope = values(b(b.face("s2/side/l2"), b.face("s2/side/l1")))
    assert slope["angle"] == pytest.approx(math.degrees(math.atan2(3, 4)), rel=1e-9)
    edge = values(b(b.edge("s2/side/l2", "s2/end"), b.face("s2/side/l3")))
    assert edge["angle"] == pytest.approx(math.degrees(math.atan2(4, 3)), rel=1e-9)


def test_inches_are_told_in_inches() -> None:
    b = Bench(plate(1, 1, "1", unit="in"))
    answer = b(b.face(LEFT), b.face(RIGHT))
    assert answer.figures[0].text == "1 in"
    assert answer.figures[0].value == pytest.approx(25.4)
    assert b(b.face(TOP)).figures[0].text == "1 in²"
    assert next(f for f in b(b.whole()).figures if f.of == "volume").text.endswith("in³")


def test_mass_of_a_body_needs_a_material() -> None:
    bare = Bench(plate())
    assert "mass" not in values(bare(bare.whole()))
    b = Bench(plate(material="Aluminium EN AW-6082"))
    assert values(b(b.whole()))["mass"] == pytest.approx(12000 * 2.70e-3, rel=1e-9)


WALLS = [
    (TOP, (20, 4, 10), 10.0),  # beside the holes: the whole plate
    (LEFT, (0, 10, 5), 7.0),  # to the wall of the hole
    (LEFT, (0, 29, 5), 40.0),
    (HOLE, (7, 10, 5), 7.0),  # from the hole out to the left face
    (HOLE, (10, 13, 5), 17.0),
]


@pytest.mark.parametrize(("origin", "at", "wanted"), WALLS)
def test_material_behind_a_place(bench: Bench, origin: str, at: tuple[float, float, float], wanted: float) -> None:
    found = bench(bench.face(origin, at))
    figure = next(f for f in found.figures if f.name == "material behind this place")
    assert figure.value == pytest.approx(wanted, abs=1e-7)


def test_material_behind_a_place_beside_the_face(bench: Bench) -> None:
    """A picture's place lies a little off the face: the thickness is taken from the face itself."""
    off = bench(bench.face(TOP, (20, 4, 10.02)))
    assert values(off)["material behind this place"] == pytest.approx(10, abs=1e-7)


def test_what_is_not_there_is_refused(bench: Bench) -> None:
    for picks in (
        [],
        [bench.whole()] * 3,
        [Pick(body="nobody")],
        [Pick(body=bench.body.id, kind="face", index=99)],
        [Pick(body=bench.body.id, kind="edge", index=99)],
        [Pick(body=bench.body.id, kind="corner")],
        [bench.corner(20, 20, 20)],
    ):
        with pytest.raises(Refusal):
            measure(bench.document, bench.build.state, picks)


def test_the_same_thing_twice_is_one(bench: Bench) -> None:
    assert values(bench(bench.face(HOLE), bench.face(HOLE)))["diameter"] == pytest.approx(6)


number = st.floats(-50, 50, allow_nan=False).map(lambda v: round(v, 3))
place = st.tuples(number, number, number)
way = place.filter(lambda v: math.dist(v, (0, 0, 0)) > 1).map(lambda v: tuple(c / math.dist(v, (0, 0, 0)) for c in v))


@settings(max_examples=examples(150), deadline=None)
@given(place, place, way, st.sampled_from(["plane", "line"]))
def test_a_point_and_its_distance(p: Any, q: Any, n: Any, kind: str) -> None:
    """The foot of a point on a plane or line lies on it, and nothing of it is nearer."""
    found = distance.apart(Trait("point", p), Trait(kind, q, n))
    assert found is not None
    far, _, foot = found
    d = [f - c for f, c in zip(foot, q, strict=True)]
    along = sum(a * b for a, b in zip(d, n, strict=True))
    off = math.dist(foot, [c + along * w for c, w in zip(q, n, strict=True)])
    assert (abs(along) if kind == "plane" else off) == pytest.approx(0, abs=1e-9)
    assert math.dist(p, foot) == pytest.approx(far, abs=1e-9)
    if kind == "line":
        for step in (-0.1, 0.1):
            assert math.dist(p, [c + step * w for c, w in zip(foot, n, strict=True)]) >= far - 1e-9


@settings(max_examples=examples(150), deadline=None)
@given(way, way)
def test_angles_are_symmetric_and_complementary(a: Any, b: Any) -> None:
    lines = distance.angle(Trait("line", way=a), Trait("line", way=b))
    assert lines == pytest.approx(distance.angle(Trait("line", way=b), Trait("line", way=a)), abs=1e-9)
    assert lines == pytest.approx(distance.angle(Trait("plane", way=a), Trait("plane", way=b)), abs=1e-9)
    mixed = distance.angle(Trait("line", way=a), Trait("plane", way=b))
    assert lines is not None and mixed is not None
    assert lines + mixed == pytest.approx(90, abs=1e-9)
    assert 0 <= lines <= 90

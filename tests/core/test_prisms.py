"""Prisms over several regions: those that are alike but for where they lie are copies of the first, named their own."""

from __future__ import annotations

import math

from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.sketch.curves import Piece
from sulvak_core.sketch.regions import Region
from sulvak_core.solid.boolean import combine
from sulvak_core.solid.extent import box
from sulvak_core.solid.extent_to_face import block
from sulvak_core.solid.frame import Frame
from sulvak_core.solid.measure import face_area
from sulvak_core.solid.prism import prism, prisms
from sulvak_core.solid.shapes import Solid, faces
from tests.examples import examples

LEANING = Frame((1.0, 2.0, 3.0), (0.8, 0.0, 0.6), (0.0, 1.0, 0.0))
FLAT = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
XY = tuple[float, float]


def round_loop(name: str, at: XY, r: float, clockwise: bool = False) -> list[Piece]:
    start = (at[0] + r, at[1])
    return [Piece(name, start, start, at, r, -2 * math.pi if clockwise else 2 * math.pi)]


def oval(name: str, at: XY) -> list[Piece]:
    start = (at[0] + 2.0, at[1])
    return [Piece(name, start, start, at, 0.0, 2 * math.pi, ((2.0, 0.0), (0.0, 1.0)))]


def corners(names: list[str], at: XY, places: list[XY]) -> list[Piece]:
    there = [(at[0] + x, at[1] + y) for x, y in places]
    return [Piece(n, p, q) for n, p, q in zip(names, there, [*there[1:], there[0]], strict=True)]


def region(kind: str, k: int, at: XY) -> Region:
    if kind == "circle":
        return Region(round_loop(f"c{k}", at, 1.5))
    if kind == "larger":
        return Region(round_loop(f"c{k}", at, 1.6))
    if kind == "washer":
        return Region(round_loop(f"c{k}", at, 2.0), [round_loop(f"d{k}", at, 0.7, clockwise=True)])
    if kind == "oval":
        return Region(oval(f"e{k}", at))
    names = [f"l{k}.{i}" for i in range(3)]
    if kind == "one entity twice":
        names[2] = names[0]
    return Region(corners(names, at, [(0.0, 0.0), (3.0, 0.0), (0.0, 2.0)]))


def told(solid: Solid) -> list[tuple[list[str], float]]:
    return sorted((sorted(solid.face_tags(f)), round(face_area(f), 7) + 0.0) for f in faces(solid.shape))


kinds = st.sampled_from(["circle", "larger", "washer", "oval", "triangle", "one entity twice"])
places = st.tuples(st.floats(-40, 40), st.floats(-40, 40))


@settings(max_examples=examples(30))
@given(st.lists(st.tuples(kinds, places), min_size=1, max_size=6), st.sampled_from([LEANING, FLAT]), st.booleans())
def test_each_is_as_if_it_were_made_alone(asked: list[tuple[str, XY]], frame: Frame, leaning: bool) -> None:
    regions = [region(kind, k, at) for k, (kind, at) in enumerate(asked)]
    way = tuple(n + 0.2 * x for n, x in zip(frame.normal, frame.x, strict=True)) if leaning else None
    made = prisms(frame, regions, 1.0, 4.0, "s2", way=way)  # type: ignore[arg-type]
    alone = [prism(frame, r, 1.0, 4.0, "s2", way=way) for r in regions]  # type: ignore[arg-type]
    assert [told(m) for m in made] == [told(a) for a in alone]
    for m, a in zip(made, alone, strict=True):
        assert abs(m.volume() - a.volume()) < 1e-9 * a.volume()
        for one, two in zip(box(m.shape), box(a.shape), strict=True):
            assert math.dist(one, two) < 1e-9


def test_only_those_alike_are_copies() -> None:
    asked = ["circle", "larger", "circle", "triangle", "one entity twice", "triangle", "circle"]
    made = prisms(FLAT, [region(kind, k, (7.0 * k, 0.0)) for k, kind in enumerate(asked)], 0.0, 4.0, "s2")
    assert [m.copy_of.solid if m.copy_of else None for m in made] == [None, None, made[0], None, None, made[3], made[0]]


def test_many_circles_of_one_sketch_are_cut_at_once() -> None:
    body = block((0.0, 0.0, 0.0), (80.0, 20.0, 10.0))
    for i, face in enumerate(faces(body.shape)):
        body.tags.put(face, frozenset({f"s0/{i}"}))
    tools = prisms(FLAT, [region("circle", k, (4.0 + 5 * k, 10.0)) for k in range(15)], -1.0, 11.0, "s2", check=False)
    (after,) = combine("subtract", [body], tools, "test")
    assert math.isclose(body.volume() - after.volume(), 15 * 10 * math.pi * 1.5**2, rel_tol=1e-12)
    walls = sorted(t for f in faces(after.shape) for t in after.face_tags(f) if t.startswith("s2/side"))
    assert walls == sorted(f"s2/side/c{k}" for k in range(15))

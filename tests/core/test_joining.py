"""Faces that fall into one: told where they may be, and left alone where nothing can be joined."""

from __future__ import annotations

from collections.abc import Callable
from unittest import mock

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from sulvak_core.solid import boolean
from sulvak_core.solid.boolean import combine
from sulvak_core.solid.extent_to_face import block
from sulvak_core.solid.measure import face_area
from sulvak_core.solid.shapes import KernelError, ShapeMap, Solid, edges, faces
from tests.examples import examples

Corner = tuple[float, float, float]
few = st.integers(0, 4).map(float)  # so few that sides often lie in one plane


@st.composite
def tools(draw: st.DrawFn) -> tuple[str, Solid]:
    name = draw(st.sampled_from(["union", "subtract", "subtract", "intersect"]))
    low = (draw(few), draw(few), draw(few))
    size = (draw(few) + 1, draw(few) + 1, draw(few) + 1)
    if draw(st.booleans()):
        solid = block(low, (low[0] + size[0], low[1] + size[1], low[2] + size[2]))
    else:
        way = draw(st.sampled_from([(1, 0, 0), (0, 1, 0), (0, 0, 1)]))
        axis = gp_Ax2(gp_Pnt(*low), gp_Dir(*way))
        solid = Solid(BRepPrimAPI_MakeCylinder(axis, draw(st.sampled_from([0.5, 1.0])), size[2]).Solid(), ShapeMap())
    return name, solid


def assert_same(one: list[Solid], two: list[Solid]) -> None:
    """As many solids, of as many faces and edges each, every face of the same origins and as large but for what the
    kernel's sums differ by."""
    told = [_told(made) for made in (one, two)]
    assert [t[:3] for t in told[0]] == [t[:3] for t in told[1]]
    for first, second in zip(*told, strict=True):
        assert first[3] == pytest.approx(second[3], rel=1e-7, abs=1e-9)


def _told(made: list[Solid]) -> list[tuple[int, int, list[list[str]], list[float]]]:
    found = []
    for s in made:
        known = sorted((sorted(s.face_tags(f)), face_area(f)) for f in faces(s.shape))
        found.append((len(known), len(edges(s.shape)), [tags for tags, _ in known], [area for _, area in known]))
    return sorted(found)


def tagged(solid: Solid, step: str) -> Solid:
    for i, face in enumerate(faces(solid.shape)):
        solid.tags.put(face, frozenset({f"{step}/{i}"}))
    return solid


Combine = Callable[[str, list[Solid], list[Solid], str], list[Solid]]


def alike(
    operation: str, bodies: tuple[Solid, Solid], tool: Solid, ways: tuple[Combine, Combine]
) -> tuple[Solid, Solid] | None:
    """A boolean done in two ways, each to a body of its own, gives the same or is refused alike: the body that comes
    of either. None where there is not one to go on with."""
    after: list[list[Solid] | str] = []
    for body, way in zip(bodies, ways, strict=True):
        try:
            after.append(way(operation, [body], [tool], "test"))
        except KernelError as error:
            after.append(error.sentence)
    one, two = after
    if isinstance(one, str) or isinstance(two, str):
        assert one == two
        return None
    assert_same(one, two)
    return (one[0], two[0]) if len(one) == 1 else None


def always_joined(operation: str, bodies: list[Solid], cutters: list[Solid], doing: str) -> list[Solid]:
    with mock.patch.object(boolean, "may_join", lambda *_: True):
        return combine(operation, bodies, cutters, doing)


@given(st.lists(tools(), min_size=1, max_size=6))
@settings(max_examples=examples(60), deadline=None)
def test_what_is_not_joined_could_not_be(asked: list[tuple[str, Solid]]) -> None:
    """Any row of booleans gives the same with faces joined only where they may be, as with a try every time."""
    start = tagged(block((0.0, 0.0, 0.0), (5.0, 5.0, 4.0)), "s0")
    start.joined = True
    ways: tuple[Solid, Solid] | None = (start, start)
    for k, (operation, solid) in enumerate(asked):
        ways = alike(operation, ways, tagged(solid, f"s{k + 1}"), (combine, always_joined))
        if ways is None:
            return


@pytest.mark.parametrize(
    ("operation", "low", "high", "joins"),
    [
        ("subtract", (1.0, 1.0, 2.0), (2.0, 2.0, 9.0), False),  # a pocket in the middle
        ("subtract", (4.0, 1.0, 2.0), (9.0, 2.0, 9.0), False),  # a notch out of a side
        ("union", (5.0, 0.0, 0.0), (6.0, 5.0, 4.0), True),  # as long again: four sides go on
        ("union", (1.0, 1.0, 4.0), (2.0, 2.0, 5.0), False),  # a boss
        ("union", (4.0, 0.0, 4.0), (5.0, 1.0, 5.0), True),  # flush with two sides
    ],
)
def test_the_kernel_is_asked_to_join_where_faces_may_be_one(
    operation: str, low: Corner, high: Corner, joins: bool
) -> None:
    start = block((0.0, 0.0, 0.0), (5.0, 5.0, 4.0))
    start.joined = True
    with mock.patch.object(boolean, "_merged", wraps=boolean._merged) as merging:
        made = combine(operation, [start], [block(low, high)], "test")
    assert merging.called is joins
    assert all(s.joined for s in made)

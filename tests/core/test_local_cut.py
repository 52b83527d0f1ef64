"""A cut worked out in a block around it gives what the boolean of the whole gives, and what comes after it works."""

from __future__ import annotations

import math
from collections.abc import Callable
from unittest import mock

import pytest
from hypothesis import event, given, settings
from hypothesis import strategies as st
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from sulvak_core.solid import boolean, local_cut
from sulvak_core.solid.blend import fillet
from sulvak_core.solid.boolean import combine
from sulvak_core.solid.bulk import bulk
from sulvak_core.solid.extent_to_face import block
from sulvak_core.solid.measure import face_area
from sulvak_core.solid.place import Placing, mirrored, moved_by, placed, turned
from sulvak_core.solid.shapes import KernelError, ShapeMap, Solid, edges, faces, from_bytes, solids, to_bytes
from tests.examples import examples

from .test_joining import assert_same, tagged

W, D, H = 30.0, 24.0, 12.0
WAYS = [(1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0), (0, 0, 1), (0, 0, -1), (1, 2, 3)]


def place(draw: st.DrawFn) -> tuple[float, float, float]:
    return tuple(round(draw(st.floats(-2, far + 2)), 1) for far in (W, D, H))  # type: ignore[return-value]


def made(shape: object) -> Solid:
    return Solid(solids(shape)[0], ShapeMap())


@st.composite
def tools(draw: st.DrawFn) -> Solid:
    at, size = place(draw), draw(st.sampled_from([0.7, 1.5, 3.0]))
    axis = gp_Ax2(gp_Pnt(*at), gp_Dir(*draw(st.sampled_from(WAYS))))
    kind = draw(st.sampled_from(["block", "drill", "cone", "ring", "tube", "groove"]))
    long = draw(st.sampled_from([2.0, 5.0, 40.0]))
    if kind == "block":
        return block(at, (at[0] + size, at[1] + 2 * size, at[2] + long))
    if kind == "drill":
        return made(BRepPrimAPI_MakeCylinder(axis, size, long).Shape())
    if kind == "cone":
        return made(BRepPrimAPI_MakeCone(axis, size, 0.0, long).Shape())
    if kind == "ring":
        return made(BRepPrimAPI_MakeTorus(axis, 2 * size, size / 2).Shape())
    outer = made(BRepPrimAPI_MakeCylinder(axis, size, long).Shape())
    inner = made(BRepPrimAPI_MakeCylinder(axis, size / 2, long).Shape())
    return made(BRepAlgoAPI_Cut(outer.shape, inner.shape).Shape())


def whole_block() -> Solid:
    body = tagged(block((0.0, 0.0, 0.0), (W, D, H)), "s0")
    body.joined = True
    return body


def whole(operation: str, bodies: list[Solid], cutters: list[Solid], doing: str = "test") -> list[Solid]:
    with mock.patch.object(boolean, "local_cut", lambda *_: None):
        return combine(operation, bodies, cutters, doing)


def tried(how: Callable[..., list[Solid]], operation: str, body: Solid, *cutters: Solid) -> list[Solid] | str:
    try:
        return how(operation, [body], list(cutters), "test")
    except KernelError as error:
        return error.sentence


def held_against(made: list[Solid] | str, at_once: list[Solid] | str) -> list[Solid] | None:
    """A cut is what the boolean of the whole makes of the same body, or refused alike; where that could not join what
    falls into one, of the same volume. What was made; None where it was refused."""
    if isinstance(made, str) or isinstance(at_once, str):
        assert made == at_once
        return None
    assert volume(made) == pytest.approx(volume(at_once), rel=1e-9)
    if all(s.joined for s in at_once):
        assert_same(made, at_once)
    assert all(BRepCheck_Analyzer(s.shape).IsValid() for s in made)
    return made


@given(st.lists(st.tuples(st.sampled_from(["subtract", "subtract", "subtract", "union"]), tools()), max_size=6))
@settings(max_examples=examples(60), deadline=None)
def test_a_row_of_cuts_is_that_of_whole_booleans(asked: list[tuple[str, Solid]]) -> None:
    """Every cut of a row gives what the boolean of the whole makes of the same body; where that could not join what
    falls into one, but the block could, the same volume. A row of whole booleans alone comes to the same volumes, as
    long as neither is refused."""
    body = whole_block()
    other: Solid | None = body
    with mock.patch.object(local_cut, "FEW", 0):
        for k, (operation, solid) in enumerate(asked):
            tool = tagged(solid, f"s{k + 1}")
            event(f"{operation}: {'put in' if operation == 'subtract' and _local(body, tool) else 'whole'}")
            found, at_once = tried(combine, operation, body, tool), tried(whole, operation, body, tool)
            apart = tried(whole, operation, other, tool) if other else "refused before"
            made = held_against(found, at_once)
            if made is None:
                return
            if not isinstance(apart, str):
                assert volume(made) == pytest.approx(volume(apart), rel=1e-9)
            if len(made) != 1:
                return
            body = made[0]
            other = None if isinstance(apart, str) or len(apart) != 1 else apart[0]


def volume(made: list[Solid]) -> float:
    return sum(s.volume() for s in made)


def _local(body: Solid, *cutters: Solid) -> bool:
    """Whether a cut is worked out in blocks."""
    found = local_cut.local_cut(body, cutters, lambda part, t: boolean._whole("subtract", [part], [t], "test"))
    return found is not None


CUTS = [
    block((2, 2, 8), (4, 5, 20)),
    made(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(3, 3, -5), gp_Dir(0, 0, 1)), 1, 30).Shape()),
    made(BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(3, 3, 13), gp_Dir(0, 0, -1)), 1.2, 0.0, 5).Shape()),
    made(BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(3.5, 3.5, 12), gp_Dir(0, 0, 1)), 1.5, 0.5).Shape()),
]


@st.composite
def copies(draw: st.DrawFn) -> list[Solid]:
    """A tool and copies of it with other names: moved aside, a few of them turned or mirrored too, or lying deeper."""
    inside = draw(st.booleans())  # a tool near a corner of the block, whose copies stay in the block as a rule
    first = tagged(draw(st.sampled_from(CUTS)) if inside else draw(tools()), "s1")
    made = [first]
    places = st.tuples(st.integers(0, 4), st.integers(0, 3)) if inside else st.tuples(*[st.integers(-4, 4)] * 2)
    for k, (i, j) in enumerate(draw(st.lists(places.filter(any), min_size=1, max_size=5, unique=True))):
        way = draw(st.sampled_from(["aside"] * 12 + ["turned", "mirrored"]))
        deeper = draw(st.sampled_from([0.0] * 6 + [-0.5]))
        where = {
            "aside": Placing(),
            "turned": turned((15.0, 12.0, 6.0), (0.0, 0.0, 1.0), 90.0),
            "mirrored": mirrored((15.0, 12.0, 6.0), (1.0, 0.0, 0.0)),
        }[way].then(moved_by((5.3 * i, 5.3 * j, deeper)))
        made.append(placed(first, where, lambda tags, k=k: frozenset(f"p/i{k}/{t}" for t in tags)))  # type: ignore[misc]
    return made


@given(st.lists(copies(), min_size=1, max_size=2))
@settings(max_examples=examples(60), deadline=None)
def test_many_copies_are_cut_as_by_whole_booleans(asked: list[list[Solid]]) -> None:
    """Copies of tools cut at once, with the next ones cut into what comes of it."""
    body = whole_block()
    with mock.patch.object(local_cut, "FEW", 0):
        for cutters in asked:
            event("put in" if _local(body, *cutters) else "whole")
            found, at_once = tried(combine, "subtract", body, *cutters), tried(whole, "subtract", body, *cutters)
            made = held_against(found, at_once)
            if made is None or len(made) != 1:
                return
            body = made[0]


def drilled(at: tuple[float, float, float], radius: float, deep: float) -> Solid:
    return made(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(0, 0, 1)), radius, deep).Shape())


def noting(blocks: list[Solid]) -> Callable[[Solid, Solid], list[Solid]]:
    """The boolean of a block and a tool; each block is noted."""

    def subtract(part: Solid, tool: Solid) -> list[Solid]:
        blocks.append(part)
        return boolean._whole("subtract", [part], [tool], "test")

    return subtract


def rows_of(tool: Solid, count: int) -> list[Solid]:
    """A tool with names, and copies of it with other names, 3 mm apart along x."""
    first = tagged(tool, "s1")
    rest = [
        placed(first, moved_by((3.0 * k, 0.0, 0.0)), lambda tags, k=k: frozenset(f"p/i{k}/{t}" for t in tags))  # type: ignore[misc]
        for k in range(1, count)
    ]
    return [first, *rest]


@pytest.mark.parametrize(
    ("tool", "removed"),
    [
        (block((2, 10, 8), (4, 14, 20)), 2 * 4 * 4),
        (drilled((3, 12, -5), 1, 30), 12 * math.pi),
        (block((2, -5, 5), (4, 4, 9)), 2 * 4 * 4),
    ],
)
def test_a_row_of_copies_is_worked_out_once(tool: Solid, removed: float) -> None:
    body = whole_block()
    cutters = rows_of(tool, 8)
    blocks: list[Solid] = []
    after = local_cut.local_cut(body, cutters, noting(blocks))
    assert after is not None
    assert len(blocks) == 1
    assert body.volume() - after.volume() == pytest.approx(8 * removed, rel=1e-9)
    assert_same([after], whole("subtract", [body], cutters))
    # copies of which one was named anew are no longer told by their first one
    cutters[3].tags.put(faces(cutters[3].shape)[0], frozenset({"other"}))
    blocks.clear()
    again = local_cut.local_cut(body, cutters, noting(blocks))
    assert again is None or len(blocks) == 2
    with mock.patch.object(local_cut, "FEW", 0):
        again = local_cut.local_cut(body, cutters, noting(blocks))
    assert again is not None
    assert_same([again], whole("subtract", [body], cutters))


def test_copies_of_copies_are_worked_out_once() -> None:
    """A row of rows, as when a pattern is repeated."""
    body = whole_block()
    row = rows_of(block((2, 3, 8), (4, 5, 20)), 4)
    again = [placed(t, moved_by((0.0, 8.0, 0.0)), lambda tags: frozenset(f"q/{t}" for t in tags)) for t in row]
    blocks: list[Solid] = []
    cutters = [*row, *again]
    after = local_cut.local_cut(body, cutters, noting(blocks))
    assert after is not None
    assert len(blocks) == 1
    assert_same([after], whole("subtract", [body], cutters))
    moved = row[1]
    for _ in range(5):
        moved = placed(moved, moved_by((0.1, 0.0, 0.0)))
    assert moved.copy_of is not None
    assert moved.copy_of.solid is row[0]  # none of those in between is kept


def test_copies_that_touch_or_lie_deeper_are_no_one_cut() -> None:
    body = whole_block()
    pocket = tagged(block((2, 10, 8), (4, 14, 20)), "s1")
    beside = placed(pocket, moved_by((2.0, 0.0, 0.0)))
    assert local_cut.local_cut(body, [pocket, beside] * 10, lambda *_: []) is None
    deeper = [placed(pocket, moved_by((3.0 * k, 0.0, -0.1 * k))) for k in range(8)]
    with mock.patch.object(local_cut, "FEW", 0):
        assert _local(body, *deeper)
    assert not _local(body, *deeper)  # each would be worked out by itself, which costs more than all at once
    (one,), (two,) = combine("subtract", [body], deeper, "test"), whole("subtract", [body], deeper)
    assert_same([one], [two])


RING = made(BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(15, 12, 12), gp_Dir(0, 0, 1)), 5, 1).Shape())
TUBES = [made(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(2, 6.6, 7.3), gp_Dir(0, 1, 0)), r, 40).Shape()) for r in (3, 1.5)]
BORE = made(BRepAlgoAPI_Cut(TUBES[0].shape, TUBES[1].shape).Shape())
GROOVE = made(BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(2, 3.1, 9.7), gp_Dir(-1, 0, 0)), 6, 1.5).Shape())
PIECES = {
    "a pocket": (block((5, 5, 8), (9, 9, 20)), True, 4 * 4 * 4),
    "a hole through": (drilled((15, 12, -5), 2, 30), True, 48 * math.pi),
    "a hole that ends on the far face": (block((5, 5, 0), (9, 9, 20)), True, 4 * 4 * 12),
    "a hole that leaves a thin floor": (block((5, 5, 0.001), (9, 9, 20)), True, 16 * 11.999),
    "from a side": (block((-5, 5, 5), (4, 9, 9)), True, 4 * 4 * 4),
    "a ring": (RING, True, 5 * math.pi**2),
    "over an edge": (block((-1, 5, 8), (9, 9, 20)), False, 9 * 4 * 4),
    "close to an edge": (block((0.005, 5, 8), (9, 9, 20)), False, 8.995 * 4 * 4),
    "wholly inside": (block((5, 5, 5), (9, 9, 9)), False, 64),
    "wholly outside": (block((5, 5, 13), (9, 9, 19)), False, 0),
}


@pytest.mark.parametrize("name", PIECES)
def test_what_is_worked_out_in_a_block(name: str) -> None:
    tool, local, removed = PIECES[name]
    body = whole_block()
    with mock.patch.object(local_cut, "FEW", 0):
        assert _local(body, tool) == local
        (after,) = combine("subtract", [body], [tagged(tool, "s1")], "test")
    assert body.volume() - after.volume() == pytest.approx(removed, rel=1e-9, abs=1e-9)
    assert bulk(after).error < 1e-9
    assert all(after.face_tags(f) for f in faces(after.shape))
    assert not any(t.startswith(local_cut.LOCAL) for f in faces(after.shape) for t in after.face_tags(f))


def test_a_gap_between_two_walls_is_not_taken_for_material() -> None:
    """A tool that comes out of one wall and ends before the next one goes through one face only; one that goes on
    through the next through three or four."""
    body = whole_block()
    (fork,) = whole("subtract", [body], [block((10, -1, -1), (20, 30, 10))])  # two walls with a gap, joined at the top
    with mock.patch.object(local_cut, "FEW", 0):
        for far, count in ((14.0, True), (25.0, False), (40.0, False)):
            tool = block((-5, 8, 3), (far, 12, 7))
            assert _local(fork, tool) is count
            (one,), (two,) = combine("subtract", [fork], [tool], "test"), whole("subtract", [fork], [tool])
            assert_same([one], [two])


def test_what_comes_after_a_cut_in_a_block_works() -> None:
    body = whole_block()
    with mock.patch.object(local_cut, "FEW", 0):
        for k in range(4):
            tool = tagged(block((4 + 6 * k, 8, 6), (7 + 6 * k, 14, 20)), f"s{k + 1}")
            assert _local(body, tool)
            (body,) = combine("subtract", [body], [tool], "test")
    (kept,) = from_bytes(to_bytes([body]))
    assert_same([kept], [body])
    assert kept.joined
    top = [f for f in faces(body.shape) if body.face_tags(f) == {"s0/5"} or body.face_tags(f) == {"s0/4"}]
    rim = [e for f in top if face_area(f) < W * D - 1 for e in edges(f)]
    assert len(rim) == 4 + 16
    rounded = fillet(body, [(e, 0.4) for e in rim[-4:]], "s9")
    assert rounded.volume() < body.volume()
    slot = block((-1, 10, 9), (40, 12, 20))  # across all pockets
    (across,) = combine("subtract", [body], [slot], "test")
    assert body.volume() - across.volume() == pytest.approx(W * 2 * 3 - 4 * 3 * 2 * 3, rel=1e-9)
    (filled,) = combine("union", [body], [block((4, 8, 6), (7, 14, 12))], "test")
    assert filled.volume() - body.volume() == pytest.approx(3 * 6 * 6, rel=1e-9)


def test_a_part_that_keeps_a_seam_is_cut_as_a_whole() -> None:
    """A cone that lies half in a face, its point on an edge, leaves a seam that cannot be joined: the boolean of the
    whole then leaves the halves of a later tool apart too, so a cut clear of it does as well."""
    along = [gp_Ax2(gp_Pnt(*at), gp_Dir(1, 0, 0)) for at in ((0, 3, 0), (10, 10, 0))]
    cone = made(BRepPrimAPI_MakeCone(along[0], 0.7, 0.0, 2.0).Shape())
    lying = tagged(made(BRepPrimAPI_MakeCylinder(along[1], 0.7, 2.0).Shape()), "s2")
    with mock.patch.object(local_cut, "FEW", 0):
        body = whole_block()
        assert _local(body, lying)
        (body,) = combine("subtract", [body], [tagged(cone, "s1")], "test")
        assert not body.joined
        assert not _local(body, lying)
        one, two = combine("subtract", [body], [lying], "test"), whole("subtract", [body], [lying])
        assert_same(one, two)


def test_a_cut_that_the_kernel_gets_wrong_is_tried_again() -> None:
    """A ring along the wall of a bore: the kernel's boolean leaves 99.5 mm³ of the 8,325, and no word of it."""
    (bored,) = combine("subtract", [whole_block()], [BORE], "test")
    (rest, left) = sorted(combine("subtract", [bored], [GROOVE], "test"), key=lambda s: -s.volume())
    assert left.volume() == pytest.approx(99.529182, abs=1e-4)
    assert 0 < bored.volume() - rest.volume() - left.volume() < GROOVE.volume()


def test_a_volume_that_cannot_be_is_refused() -> None:
    body, tool = whole_block(), block((5, 5, 5), (9, 9, 9))
    for operation in ("union", "subtract", "intersect"):
        for wrong in ([], [body, body]):
            if operation == "intersect" and not wrong:
                continue
            with (
                mock.patch.object(boolean, "_once", lambda *_, w=wrong: w),
                pytest.raises(KernelError, match="could not be worked out"),
            ):
                whole(operation, [body], [tool])

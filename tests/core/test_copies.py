"""Patterns, stencils, moving and pasting: where copies go, that they follow, exact freedom, what is refused."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import copies, edit, pattern, place, stencil
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Dimension, Sketch, points_of
from sulvak_core.sketch.place import Transform
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.trim import trim
from tests.examples import examples

from .parts import Made
from .sketches import (
    P,
    arc,
    circle,
    ellipse,
    ellipse_arc,
    line,
    numerical_freedom,
    rectangle,
    residual,
    sizes,
    slot,
    spline,
    text,
    ties,
    values,
)

VALUES = Values(lambda expr, kind: float(expr.strip("()").replace("(", "").replace(")", "")))
HOLE = Sketch(
    entities=[circle(1, (10, 5), 3)],
    constraints=ties("fixed c1.c"),
    dimensions=sizes("diameter 6 c1"),
)


def named(row: str, **more: Any) -> Dimension:
    return sizes(row)[0].model_copy(update=more)


def at(sketch: Sketch, ref: str) -> tuple[float, float]:
    return copies.place_of(sketch, ref)


def test_a_row_of_holes_takes_its_count_and_spacing() -> None:
    made = pattern.linear(HOLE, VALUES, ["c1"], (10, 5), [(22, 5)], ["5"], ["12"])
    sketch = made.sketch
    assert made.said == ["5 of circle 1"]
    circles = [e for e in sketch.entities if e.kind == "circle"]
    assert [c.c for c in circles] == [(10 + 12 * i, pytest.approx(5)) for i in range(5)]
    assert freedom(sketch, values(sketch)).count == 0 == numerical_freedom(sketch)
    wider = edit.change_dimension(sketch, VALUES, sketch.dimensions[-1].id, {"expr": "15"}).sketch
    assert [e.c[0] for e in wider.entities if e.kind == "circle"] == pytest.approx([10, 25, 40, 55, 70])
    bigger = edit.change_dimension(wider, VALUES, "d1", {"expr": "9"}).sketch
    assert {round(e.r, 9) for e in bigger.entities if e.kind == "circle"} == {4.5}


def test_two_directions_need_not_be_square() -> None:
    made = pattern.linear(HOLE, VALUES, ["c1"], (0, 0), [(12, 0), (5, 9)], ["4", "3"], ["", ""]).sketch
    centres = {(round(e.c[0], 6), round(e.c[1], 6)) for e in made.entities if e.kind == "circle"}
    assert centres == {(10 + 12 * i + 5 * j, 5 + 9 * j) for i in range(4) for j in range(3)}
    # one step slides along its level line, the other is free both ways
    assert freedom(made, values(made)).count == 3 == numerical_freedom(made)


@pytest.mark.parametrize(
    ("angle", "turn", "held"),
    [
        ("30", 30, "30"),
        ("-30", -30, "30"),
        ("210", -150, "150"),
        ("0", 0, None),
        ("90", 90, None),
        ("-90", -90, None),
        ("2*17", 34, "2*17"),
        ("180", 180, None),
    ],
)
def test_a_row_takes_a_typed_angle(angle: str, turn: float, held: str | None) -> None:
    """Where the first copy was shown says how far; the angle turns that, and is a size that can be changed."""
    typed = Values(lambda text, kind: 34.0 if text == "2*17" else float(text))
    made = pattern.linear(HOLE, typed, ["c1"], (0, 0), [(0.0, 12.0)], ["3"], ["12"], [angle]).sketch
    a = math.radians(turn)
    centres = [e.c for e in made.entities if e.kind == "circle"]
    assert [x for x, _ in centres] == pytest.approx([10 + 12 * i * math.cos(a) for i in range(3)])
    assert [y for _, y in centres] == pytest.approx([5 + 12 * i * math.sin(a) for i in range(3)])
    assert [d.expr for d in made.dimensions if d.kind == "angle"] == ([held] if held else [])
    assert freedom(made, typed.all(made)).count == 0
    if held == "30":
        lean = next(d.id for d in made.dimensions if d.kind == "angle")
        steeper = edit.change_dimension(made, typed, lean, {"expr": "40"}).sketch
        far = [e.c for e in steeper.entities if e.kind == "circle"][2]
        assert far[1] - 5 == pytest.approx(math.copysign(24 * math.sin(math.radians(40)), turn))


def test_holes_round_a_centre_stand_evenly_or_at_an_angle() -> None:
    even = pattern.circular(HOLE, VALUES, ["c1"], "origin", "6").sketch
    angles = sorted(math.degrees(math.atan2(e.c[1], e.c[0])) % 360 for e in even.entities)
    assert [b - a for a, b in itertools.pairwise(angles)] == pytest.approx([60] * 5)
    assert {round(math.hypot(*e.c), 9) for e in even.entities} == {round(math.hypot(10, 5), 9)}
    some = pattern.circular(HOLE, VALUES, ["c1"], "origin", "3", "25").sketch
    start = math.degrees(math.atan2(5, 10))
    assert [math.degrees(math.atan2(e.c[1], e.c[0])) - start for e in some.entities] == pytest.approx([0, 25, 50])
    assert freedom(some, values(some)).count == 0 == numerical_freedom(some)


def test_counts_change_and_copies_come_and_go() -> None:
    made = pattern.circular(HOLE, VALUES, ["c1"], "origin", "6").sketch
    kept = [e.id for e in made.entities]
    more = pattern.change(made, VALUES, "r1", {"count": "8"}).sketch
    assert len(more.entities) == 8
    assert [e.id for e in more.entities][:6] == kept  # what was there keeps its name
    sized = edit.add(
        more, VALUES, dimensions=[sizes("distance 3 c8.c x")[0].model_copy(update={"id": "d7", "driving": False})]
    )
    fewer = pattern.change(sized.sketch, VALUES, "r1", {"count": "4"}).sketch
    assert len(fewer.entities) == 4
    assert [d.id for d in fewer.dimensions] == ["d1"]  # the size of a copy that went, went with it
    again = pattern.change(fewer, VALUES, "r1", {"count": "5"}).sketch
    assert again.entities[-1].id == "c9"  # no name is given twice


def test_single_copies_are_left_out_and_put_back() -> None:
    made = pattern.linear(HOLE, VALUES, ["c1"], (10, 5), [(22, 5)], ["5"], ["12"]).sketch
    third = next(e.id for e in made.entities if e.kind == "circle" and abs(e.c[0] - 34) < 1e-9)
    without = edit.delete(made, {third}).sketch
    assert without.patterns[0].left_out == [(2, 0)]
    assert sum(e.kind == "circle" for e in without.entities) == 4
    solved = edit.resolve(without, VALUES).sketch
    assert sum(e.kind == "circle" for e in solved.entities) == 4
    back = pattern.change(solved, VALUES, "r1", {"left_out": []}).sketch
    assert sum(e.kind == "circle" for e in back.entities) == 5


EVERY = [
    P(id="p1", at=(22, 3)),
    line(1, (20, 0), (25, 4)),
    arc(1, (25, 9), 4, 20, 160),
    ellipse(1, (30, 2), 6, 3, 15),
    ellipse_arc(2, (24, -8), 6, 3, 10, 140),
    spline(1, (18, 0), (21, 6), (27, 2), (30, 8)),
    text(1, "R4", (20, -14), (28, -13)),
    circle(1, (33, 9), 2),
]


@pytest.mark.parametrize("kind", ["linear", "circular"])
@pytest.mark.parametrize("entity", EVERY, ids=lambda e: e.kind)
def test_every_kind_is_copied_whole_and_follows(entity: Any, kind: str) -> None:
    sketch = Sketch(entities=[entity])
    own = freedom(sketch, {}).count
    if kind == "linear":
        made = pattern.linear(sketch, VALUES, [entity.id], (0, 0), [(15, 2)], ["3"], [""]).sketch
        assert freedom(made, {}).count == own + 2 == numerical_freedom(made)
    else:
        made = pattern.circular(sketch, VALUES, [entity.id], "origin", "5").sketch
        assert freedom(made, {}).count == own == numerical_freedom(made)
    assert residual(made) < 1e-9
    ref = next(iter(points_of(entity)))
    x, y = at(made, ref)
    pulled = edit.drag(made, VALUES, ref, (x + 3, y - 2)).sketch
    assert residual(pulled) < 1e-9
    assert at(pulled, ref) == pytest.approx((x + 3, y - 2), abs=0.05)
    if kind == "linear":
        return  # the step may give way, so that copies need not move
    last = made.patterns[0].instances[-1].ids[entity.id]
    moved = math.dist(at(pulled, last + ref[len(entity.id) :]), at(made, last + ref[len(entity.id) :]))
    assert moved > 1


def test_a_copy_can_be_measured_from_and_dragged() -> None:
    loose = Sketch(entities=[circle(1, (10, 0), 2)])
    made = pattern.circular(loose, VALUES, ["c1"], "origin", "4").sketch
    third = made.patterns[0].instances[1].ids["c1"]
    pulled = edit.drag(made, VALUES, f"{third}.c", (-20, 0)).sketch
    assert at(pulled, "c1.c") == pytest.approx((20, 0), abs=0.05)
    sized = edit.add(made, VALUES, dimensions=sizes(f"distance 30 {third}.c origin")).sketch
    assert math.hypot(*at(sized, "c1.c")) == pytest.approx(30)


def test_a_pattern_of_an_outline_closes_as_often() -> None:
    made = pattern.linear(slot(), VALUES, ["l1", "l2", "a1", "a2"], (0, 0), [(0, 14)], ["4"], ["14"]).sketch
    areas = [r.area for r in profile(made).regions]
    assert areas == [pytest.approx(200 + 25 * math.pi)] * 4


def test_what_makes_no_pattern_is_told_why() -> None:
    refused: list[tuple[Any, str]] = [
        (lambda: pattern.linear(HOLE, VALUES, [], (0, 0), [(5, 0)], ["3"], [""]), "Pick what"),
        (lambda: pattern.linear(HOLE, VALUES, ["c1"], (0, 0), [(0, 0)], ["3"], [""]), "direction"),
        (lambda: pattern.linear(HOLE, VALUES, ["c1"], (0, 0), [(5, 0)], ["2.5"], [""]), "whole number"),
        (lambda: pattern.linear(HOLE, VALUES, ["c1"], (0, 0), [(5, 0)], ["0"], [""]), "whole number"),
        (lambda: pattern.linear(HOLE, VALUES, ["c1"], (0, 0), [(5, 0), (0, 5)], ["100", "100"], ["", ""]), "at most"),
        (lambda: pattern.linear(HOLE, VALUES, ["c1"], (0, 0), [(5, 0)], ["3", "3"], [""]), "one or two"),
        (lambda: pattern.circular(HOLE, VALUES, ["c1"], "origin", "5", "95"), "more than once round"),
        (lambda: pattern.circular(HOLE, VALUES, ["c1"], "c1.c", "5"), "cannot be a point"),
        (lambda: pattern.circular(HOLE, VALUES, ["c1"], "l9.p", "5"), "no longer"),
        (lambda: pattern.change(HOLE, VALUES, "r1", {}), "no longer"),
    ]
    for make, said in refused:
        with pytest.raises(Refusal, match=said):
            make()
    made = pattern.circular(HOLE, VALUES, ["c1"], "origin", "4").sketch
    with pytest.raises(Refusal, match="can be changed"):
        pattern.change(made, VALUES, "r1", {"of": ["c2"]})
    with pytest.raises(Refusal, match="made by a pattern"):
        trim(made, VALUES, "c2", (0, 0))
    with pytest.raises(Refusal, match="made by a pattern"):
        place.move(made, VALUES, ["c2"], Transform(to=(5, 5)))


def test_deleting_originals_takes_copies_and_letting_go_frees_them() -> None:
    made = pattern.circular(HOLE, VALUES, ["c1"], "origin", "4").sketch
    assert edit.delete(made, {"c1"}).sketch.entities == []
    freed = pattern.let_go(made, "r1")
    assert freed.said == ["3 copies are free of their pattern"]
    assert len(freed.sketch.entities) == 4
    assert freedom(freed.sketch, values(freed.sketch)).count == 9
    row = pattern.linear(HOLE, VALUES, ["c1"], (10, 5), [(22, 5)], ["3"], ["12"]).sketch
    way = row.patterns[0].steps[0]
    cut = edit.delete(row, {way}).sketch  # its direction gone, what is there stays
    assert not cut.patterns
    assert sum(e.kind == "circle" for e in cut.entities) == 3


# -- moving, turning, scaling, pasting -----------------------------------------------------------


def test_moving_keeps_shape_and_inner_ties_and_tells_what_goes() -> None:
    sketch = rectangle()
    made = place.move(sketch, VALUES, ["l1", "l2", "l3", "l4"], Transform(to=(7, 3)))
    assert at(made.sketch, "l1.p") == pytest.approx((7, 3))
    assert made.said == ["1 constraint or size to what stays behind went"]
    assert freedom(made.sketch, {}).count == freedom(sketch, {}).count + 2


@pytest.mark.parametrize(("turn", "level"), [(90, "vertical"), (180, "horizontal"), (-90, "vertical"), (30, None)])
def test_turning_turns_level_ties(turn: float, level: str | None) -> None:
    sketch = rectangle(held=False)
    made = place.move(sketch, VALUES, ["l1", "l2", "l3", "l4"], Transform(base=(0, 0), to=(0, 0), turn=turn)).sketch
    kinds = {c.refs[0]: c.kind for c in made.constraints if c.kind in ("horizontal", "vertical")}
    assert kinds.get("l1") == level
    x, y = at(made, "l1.q")
    assert (x, y) == pytest.approx((40 * math.cos(math.radians(turn)), 40 * math.sin(math.radians(turn))), abs=1e-9)
    assert profile(made).regions[0].area == pytest.approx(1200)


def test_scaling_scales_what_was_typed() -> None:
    source = rectangle(held=False)
    sketch = edit.add(source, VALUES, dimensions=sizes("distance 40 l1 horizontal", "distance 30 l2")).sketch
    made = Made()
    made.sketch("s1", "top", sketch)
    made.do("sketch_move", step="s1", ids=["l1", "l2", "l3", "l4"], base=(0, 0), to=(5, 5), scale="1/2", copy_it=True)
    dims = made.document.step("s1").sketch.dimensions
    assert [d.expr for d in dims] == ["40", "30", "(40)*0.5", "(30)*0.5"]
    areas = sorted(r.area for r in profile(made.document.step("s1").sketch).regions)
    assert areas == [pytest.approx(300), pytest.approx(900)]  # the small one lies inside the large one


def test_copies_bring_the_ties_between_them_and_no_names() -> None:
    sketch = edit.add(
        rectangle(), VALUES, dimensions=[d.model_copy(update={"name": "wide"}) for d in sizes("distance 50 l1")]
    )
    made = place.copy(sketch.sketch, VALUES, ["l1", "l2", "l3", "l4"], Transform(to=(100, 0))).sketch
    assert len(made.entities) == 8
    assert [d.name for d in made.dimensions] == ["wide", ""]
    assert freedom(made, values(made)).count == freedom(sketch.sketch, values(sketch.sketch)).count + 3
    with pytest.raises(Refusal, match="ties this to what stays behind"):
        tied = edit.add(
            sketch.sketch, VALUES, [P(id="p1", at=(9, 9))],
            dimensions=[named("distance 12 l1.q p1", id="d5", name="gap")],
        ).sketch  # fmt: skip
        place.move(tied, VALUES, ["p1"], Transform(to=(1, 1)))
    for bad, said in [(Transform(scale=0), "more than zero"), (Transform(scale=-1), "more than zero")]:
        with pytest.raises(Refusal, match=said):
            place.move(sketch.sketch, VALUES, ["l1"], bad)
    with pytest.raises(Refusal, match="Pick what"):
        place.copy(sketch.sketch, VALUES, ["l77"], Transform())


@settings(max_examples=examples(60))
@given(st.floats(-180, 180), st.floats(0.2, 5), st.floats(-50, 50), st.floats(-50, 50))
def test_there_and_back_again(turn: float, scale: float, x: float, y: float) -> None:
    sketch = Sketch(entities=EVERY)
    ids = [e.id for e in EVERY]
    there = place.move(sketch, VALUES, ids, Transform((1, 2), (x, y), turn, scale)).sketch
    back = place.move(there, VALUES, ids, Transform((x, y), (1, 2), -turn, 1 / scale)).sketch
    for e in sketch.entities:
        for ref, place_before in points_of(e).items():
            assert at(back, ref) == pytest.approx(place_before, abs=1e-6)


# -- stencils --------------------------------------------------------------------------------------


def link() -> Made:
    """A link of a chain drawn in a sketch: two holes 30 apart in a slot outline, made a stencil about one hole."""
    made = Made()
    entities = [*slot().entities, circle(1, (0, 0), 2), circle(2, (20, 0), 2)]
    made.sketch(
        "s1", "top", Sketch(entities=entities, constraints=slot("concentric c1 a2", "concentric c2 a1").constraints)
    )
    made.do("sketch_stencil", step="s1", ids=[e.id for e in entities], at=(0, 0), name="link")
    return made


def test_a_stencil_is_made_of_a_selection_and_its_place_is_kept() -> None:
    made = link()
    first, second = made.document.steps
    assert (first.id, first.stencil, second.id) == ("s2", "link", "s1")
    assert len(first.sketch.constraints) == 11
    assert set(first.sketch.constraints[-1].refs) == {"a2.c", "origin"}  # the hole's centre is the insertion point
    [placement] = second.sketch.placements
    assert placement.ids == {e.id: e.id for e in first.sketch.entities}
    assert second.sketch.constraints == []
    assert freedom(second.sketch, {}).count == 3 == numerical_freedom(second.sketch)  # it slides and turns, no more
    report = made.build().reports
    assert report[0].sentence == "Stencil “link”"


def test_placements_move_like_a_linkage() -> None:
    made = link()
    made.do("sketch_placement", step="s1", stencil="s2", at=(20, 0), turn="40", onto="c2.c")
    made.do("sketch_placement", step="s1", stencil="s2", at=(60, 30), turn="-75")
    sketch = made.document.step("s1").sketch
    _, two, three = sketch.placements
    assert freedom(sketch, {}).count == 3 + 1 + 3 == numerical_freedom(sketch)
    end = two.ids["c2"]
    made.do("sketch_add", step="s1", constraints=[
        {"id": "k90", "kind": "coincident", "refs": [f"{end}.c", f"{three.ids['c1']}.c"]},
        {"id": "k91", "kind": "coincident", "refs": ["c1.c", "origin"]},
    ])  # fmt: skip
    sketch = made.document.step("s1").sketch
    assert freedom(sketch, {}).count == 3 == numerical_freedom(sketch)  # a chain of three held at one end
    tip = f"{three.ids['c2']}.c"
    pulled = edit.drag(sketch, VALUES, tip, (10, 25)).sketch
    assert at(pulled, tip) == pytest.approx((10, 25), abs=0.05)
    for p in pulled.placements:
        a, b = at(pulled, f"{p.ids['c1']}.c"), at(pulled, f"{p.ids['c2']}.c")
        assert math.dist(a, b) == pytest.approx(20, abs=1e-9)  # links stay as long as they are
    assert at(pulled, "c1.c") == pytest.approx((0, 0), abs=1e-9)


def test_editing_the_stencil_updates_every_placement() -> None:
    made = link()
    made.do("sketch_placement", step="s1", stencil="s2", at=(70, 0))
    made.do("sketch_add", step="s2", dimensions=[
        {"id": "d1", "kind": "distance", "refs": ["a1.c", "a2.c"], "expr": "32"},
        {"id": "d2", "kind": "diameter", "refs": ["c1"], "expr": "5"},
    ])  # fmt: skip
    sketch = made.document.step("s1").sketch
    for p in sketch.placements:
        assert math.dist(at(sketch, f"{p.ids['a1']}.c"), at(sketch, f"{p.ids['a2']}.c")) == pytest.approx(32)
        assert sketch.entity(p.ids["c1"]).r == pytest.approx(2.5)  # type: ignore[union-attr]
    made.do("sketch_add", step="s2", entities=[{"id": "c3", "kind": "circle", "c": (10, 0), "r": 1}])
    made.do("sketch_delete", step="s2", ids=["c2"])
    sketch = made.document.step("s1").sketch
    assert sum(e.kind == "circle" for e in sketch.entities) == 4
    assert all("c3" in p.ids and "c2" not in p.ids for p in sketch.placements)
    assert residual(sketch) < 1e-9


@pytest.mark.parametrize("size", ["32", "7.5", "55"])
def test_joints_hold_whatever_becomes_of_the_stencil(size: str) -> None:
    made = link()
    made.do("sketch_placement", step="s1", stencil="s2", at=(20, 0), turn="40", onto="c2.c")
    made.do("sketch_add", step="s2", dimensions=[
        {"id": "d1", "kind": "distance", "refs": ["a1.c", "a2.c"], "expr": size},
        {"id": "d2", "kind": "radius", "refs": ["a1"], "expr": "6"},
    ])  # fmt: skip
    sketch = made.document.step("s1").sketch
    one, two = sketch.placements
    assert math.dist(at(sketch, f"{one.ids['c2']}.c"), at(sketch, f"{two.ids['c1']}.c")) < 1e-9
    assert math.dist(at(sketch, f"{one.ids['c1']}.c"), at(sketch, f"{one.handle}.p")) < 1e-9


def test_placements_are_deleted_whole_let_go_and_refused_where_they_cannot_be() -> None:
    made = link()
    made.do("sketch_placement", step="s1", stencil="s2", at=(70, 0))
    two = made.document.step("s1").sketch.placements[1]
    made.do("sketch_let_go", step="s1", placement=two.id)
    sketch = made.document.step("s1").sketch
    assert len(sketch.placements) == 1
    assert sketch.entity(two.ids["c1"]) is not None
    assert sketch.entity(two.handle) is None
    made.do("sketch_delete", step="s1", ids=["c1"])
    sketch = made.document.step("s1").sketch
    assert not sketch.placements
    assert {e.id for e in sketch.entities} == set(two.ids.values())
    made = link()
    for command, said in [
        ({"do": "sketch_placement", "step": "s2", "stencil": "s1", "at": (0, 0)}, "is no stencil"),
        ({"do": "sketch_placement", "step": "s2", "stencil": "s2", "at": (0, 0)}, "after it"),
        ({"do": "sketch_stencil", "step": "s1", "ids": ["c1"], "at": (0, 0), "name": "x"}, "made by a stencil"),
        ({"do": "sketch_stencil", "step": "s2", "ids": ["c1"], "at": (0, 0), "name": "x"}, "stencil already"),
        ({"do": "delete_step", "step": "s2"}, "built on"),
    ]:
        with pytest.raises(Refusal, match=said):
            made.do(str(command.pop("do")), **command)


def test_an_empty_stencil_and_a_named_size_are_refused() -> None:
    with pytest.raises(Refusal, match="empty"):
        stencil.put_in(Sketch(), VALUES, "s1", [], (0, 0))
    wide = edit.add(rectangle(), VALUES, dimensions=[named("distance 50 l1", name="w")])
    with pytest.raises(Refusal, match="take the name away"):
        stencil.taken(wide.sketch, VALUES, ["l1", "l2", "l3", "l4"], (0, 0), "s9")
    with pytest.raises(Refusal, match="no longer"):
        stencil.let_go(Sketch(), "g1")


# -- as commands ------------------------------------------------------------------------------------


def test_counts_are_values_like_any_other() -> None:
    made = Made()
    made.sketch("s1", "top", HOLE)
    made.do("set_value", name="holes", expr="6", kind="number")
    made.do("sketch_pattern", step="s1", ids=["c1"], counts=["holes"], about="origin")
    made.do("set_value", name="holes", expr="9")
    assert len(made.document.step("s1").sketch.entities) == 9
    made.do("set_value", name="holes", rename_to="bores")
    assert made.document.step("s1").sketch.patterns[0].count == "bores"
    with pytest.raises(Refusal, match="is used in step 10"):
        made.do("delete_value", name="bores")
    made.do("sketch_repattern", step="s1", pattern="r1", changes={"count": "bores/3"})
    assert len(made.document.step("s1").sketch.entities) == 3
    with pytest.raises(Refusal, match="whole number"):
        made.do("set_value", name="bores", expr="10")
    assert len(made.document.step("s1").sketch.entities) == 3
    made.do("sketch_repattern", step="s1", pattern="r1", let_go=True)
    assert not made.document.step("s1").sketch.patterns


def test_what_is_taken_from_one_sketch_is_put_into_another() -> None:
    made = Made()
    made.sketch("s1", "top", HOLE)
    made.sketch("s2", "front", Sketch())
    part = place.fragment(HOLE, ["c1"])
    made.do("sketch_paste", step="s2", base=(10, 5), to=(1, 2),
            entities=[e.model_dump() for e in part.entities],
            dimensions=[d.model_dump() for d in part.dimensions])  # fmt: skip
    sketch = made.document.step("s2").sketch
    assert sketch.entities[0].c == pytest.approx((1, 2))  # type: ignore[union-attr]
    assert sketch.dimensions[0].expr == "6"
    with pytest.raises(Refusal, match="where the pattern starts"):
        made.do("sketch_pattern", step="s2", ids=["c1"], counts=["3"])
    with pytest.raises(Refusal, match="at most 10000"):
        made.do("sketch_move", step="s2", ids=["c1"], base=(0, 0), to=(0, 0), scale="1e5")

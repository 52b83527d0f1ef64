"""Pieces cut away: what stays, how it is tied, what goes and is told."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import edit as editing
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Arc, Line, Sketch
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.trim import extend, split, trim, trim_all

from .parts import Made
from .sketches import P, arc, circle, line, numerical_freedom, rectangle, residual, sizes, ties

VALUES = Values(lambda text, kind: float(text))
CROSS = [line(1, (0, 0), (40, 0)), line(2, (10, -10), (10, 10)), line(3, (30, -10), (30, 10))]


def free(sketch: Sketch) -> int:
    return freedom(sketch, VALUES.all(sketch)).count


def test_the_end_of_a_line_goes_as_far_as_the_next_crossing() -> None:
    made = trim(Sketch(entities=CROSS), VALUES, "l1", (36, 1)).sketch
    l1 = made.entity("l1")
    assert isinstance(l1, Line)
    assert l1.q == pytest.approx((30, 0))
    assert [(c.kind, c.refs) for c in made.constraints] == [("coincident", ["l1.q", "l3"])]
    assert free(made) == numerical_freedom(made) == 11
    # the other end
    made = trim(made, VALUES, "l1", (2, -1)).sketch
    assert made.entity("l1").p == pytest.approx((10, 0))  # type: ignore[union-attr]


def test_a_piece_in_the_middle_leaves_two_parts_on_one_line() -> None:
    held = Sketch(
        entities=CROSS,
        constraints=ties("horizontal l1", "coincident l1.p origin", "vertical l2", "vertical l3"),
        dimensions=sizes("distance 40 l1", "distance 10 l2 y", "distance 30 l3 y"),
    )
    edit = trim(held, VALUES, "l1", (20, 0))
    assert (edit.said, edit.lost) == ([], [])
    (whole,) = [d for d in edit.sketch.dimensions if d.expr == "40"]  # from end to end, over the gap
    assert whole.refs == ["l1.p", "l4.q"]
    parts = [e for e in edit.sketch.entities if isinstance(e, Line) and abs(e.p[1] - e.q[1]) < 1e-9]
    assert [(p.p[0], p.q[0]) for p in parts] == [(0, pytest.approx(10)), (pytest.approx(30), pytest.approx(40))]
    assert residual(edit.sketch) < 1e-10
    assert free(edit.sketch) == numerical_freedom(edit.sketch)


@pytest.mark.parametrize(("at", "area"), [((-8, 0), "right"), ((8, 0), "left")])
def test_a_circle_cut_by_a_line_becomes_an_arc_and_keeps_its_size(at: tuple[float, float], area: str) -> None:
    sketch = Sketch(
        entities=[circle(1, (0, 0), 8), line(1, (4, -12), (4, 12))],
        constraints=ties("coincident c1.c origin", "fixed l1"),
        dimensions=sizes("diameter 16 c1"),
    )
    made = trim(sketch, VALUES, "c1", at).sketch
    kept = made.entity("a1")
    assert isinstance(kept, Arc)
    assert kept.r == pytest.approx(8)
    assert (made.dimensions[0].refs, free(made)) == (["a1"], 0)
    # and the line's tails: what is left is one closed segment
    for end in ((4, 11), (4, -11)):
        loose = made.model_copy(update={"constraints": [c for c in made.constraints if c.kind != "fixed"]})
        made = trim(loose, VALUES, "l1", end).sketch
    half = math.acos(0.5)
    cap = 64 * (half - math.sin(half) * math.cos(half))
    wanted = cap if area == "right" else math.pi * 64 - cap
    assert sum(r.area for r in profile(made).regions) == pytest.approx(wanted, rel=1e-9)
    assert profile(made).open_ends == []


def test_an_arc_is_split_and_its_parts_stay_one_circle() -> None:
    sketch = Sketch(entities=[arc(1, (0, 0), 10, 0, 180), line(1, (-3, 0), (-3, 14)), line(2, (3, 0), (3, 14))])
    made = trim(sketch, VALUES, "a1", (0, 10)).sketch
    arcs = [e for e in made.entities if isinstance(e, Arc)]
    assert len(arcs) == 2
    assert arcs[0].q == pytest.approx((3, math.sqrt(91)))
    assert arcs[1].p == pytest.approx((-3, math.sqrt(91)))
    assert sorted(c.kind for c in made.constraints) == ["coincident", "coincident", "concentric", "equal"]
    assert free(made) == numerical_freedom(made)


def test_what_nothing_crosses_goes_whole_and_points_cannot_be_trimmed() -> None:
    lone = Sketch(entities=[line(1, (0, 0), (5, 5)), circle(1, (40, 0), 3), P(id="p1", at=(1, 9))])
    assert [e.id for e in trim(lone, VALUES, "l1", (1, 1)).sketch.entities] == ["c1", "p1"]
    assert [e.id for e in trim(lone, VALUES, "c1", (43, 0)).sketch.entities] == ["l1", "p1"]
    with pytest.raises(Refusal, match="cannot be trimmed"):
        trim(lone, VALUES, "p1", (1, 9))
    with pytest.raises(Refusal, match="cannot be trimmed"):
        trim(lone, VALUES, "l9", (1, 9))


def test_a_frame_trimmed_from_crossing_lines_builds() -> None:
    """Four lines drawn past each other, their eight tails trimmed: a closed profile, extruded."""
    made = Made()
    lines = [
        line(1, (-5, 0), (45, 0)),
        line(2, (40, -5), (40, 35)),
        line(3, (45, 30), (-5, 30)),
        line(4, (0, 35), (0, -5)),
    ]
    made.sketch("s1", "top", Sketch(entities=lines))
    for ident, at in (
        ("l1", (-4, 0)),
        ("l1", (44, 0)),
        ("l2", (40, -4)),
        ("l2", (40, 34)),
        ("l3", (44, 30)),
        ("l3", (-4, 30)),
        ("l4", (0, 34)),
        ("l4", (0, -4)),
    ):
        made.do("sketch_trim", step="s1", entity=ident, at=at)
    made.extrude("s2", "s1", "10")
    assert made.volume() == pytest.approx(40 * 30 * 10, rel=1e-9)


def test_pieces_swept_over_go_in_one_command_and_each_once() -> None:
    made = Made()
    bars = [line(i, (10 * i, -20), (10 * i, 20)) for i in (1, 2, 3)]
    rails = [line(7, (0, 8), (40, 8)), line(8, (0, -8), (40, -8))]
    made.sketch("s1", "top", Sketch(entities=[*bars, *rails]))
    then = [{"entity": "l7", "at": (25, 8)}, {"entity": "l2", "at": (20, 0)}, {"entity": "l2", "at": (20, 0.5)}]
    made.do("sketch_trim", step="s1", entity="l7", at=(15, 8), then=then)
    sketch = made.document.steps[0].sketch  # type: ignore[union-attr]
    runs = sorted(sorted((e.p, e.q)) for e in sketch.entities if isinstance(e, Line) and e.p[1] == e.q[1] == 8)
    assert runs == [[(0, 8), (10, 8)], [(30, 8), (40, 8)]]
    middle = [e for e in sketch.entities if isinstance(e, Line) and e.p[0] == e.q[0] == 20]
    assert sorted(max(e.p[1], e.q[1]) for e in middle) == [-8, 20]  # the piece between the rails went, once
    assert freedom(sketch, {}).count == numerical_freedom(sketch)


def test_an_end_is_carried_on_to_the_next_curve() -> None:
    base = Sketch(
        entities=[
            line(1, (0, 0), (10, 0)),
            line(2, (20, -5), (20, 9)),
            line(3, (40, -5), (40, 9)),
            line(4, (-6, -9), (-6, 9)),
        ]
    )
    made = extend(base, VALUES, "l1", (8, 1)).sketch
    assert made.entity("l1").q == pytest.approx((20, 0))  # type: ignore[union-attr]
    assert [set(c.refs) for c in made.constraints] == [{"l1.q", "l2"}]
    both = extend(made, VALUES, "l1", (1, 1)).sketch
    assert both.entity("l1").p == pytest.approx((-6, 0))  # type: ignore[union-attr]
    with pytest.raises(Refusal, match="is joined already: end of line 1 on line 2"):
        extend(both, VALUES, "l1", (19, 0))
    with pytest.raises(Refusal, match="Nothing lies ahead of end of line 3"):
        extend(base, VALUES, "l3", (40, 9))


def test_an_arc_is_carried_on_round_its_circle() -> None:
    base = Sketch(entities=[arc(1, (0, 0), 10, 20, 60), line(1, (0, 4), (0, 20)), line(2, (3, 0), (20, 0))])
    made = extend(base, VALUES, "a1", (5, 8.7)).sketch
    assert made.entity("a1").q == pytest.approx((0, 10), abs=1e-9)  # type: ignore[union-attr]
    made = extend(made, VALUES, "a1", (9.4, 3.4)).sketch
    assert made.entity("a1").p == pytest.approx((10, 0), abs=1e-9)  # type: ignore[union-attr]
    with pytest.raises(Refusal, match="has no end to extend"):
        extend(Sketch(entities=[circle(1, (0, 0), 3)]), VALUES, "c1", (3, 0))


def test_a_size_of_the_old_length_goes_and_is_told() -> None:
    base = Sketch(
        entities=[line(1, (0, 0), (10, 0)), line(2, (20, -5), (20, 9))],
        dimensions=sizes("distance 10 l1", "distance 20 l2.p l2.q vertical"),
    )
    base.dimensions[1] = base.dimensions[1].model_copy(update={"expr": "14"})
    made = extend(base, VALUES, "l1", (9, 0))
    assert [d.id for d in made.sketch.dimensions] == ["d2"]
    assert made.said[0].startswith("With its old length went: ")
    assert [d.driving for d in made.lost] == [False]


@pytest.mark.parametrize("what", [line(1, (0, 0), (30, 12)), arc(1, (0, 0), 10, 20, 200)], ids=["line", "arc"])
def test_split_in_two_that_stay_in_line(what: Any) -> None:
    base = Sketch(entities=[what, line(9, (50, 50), (60, 60))], constraints=ties(f"coincident {what.id}.q l9.p"))
    before = freedom(base, {}).count
    made = split(base, VALUES, what.id, (11, 6)).sketch
    second = made.entities[1]
    assert made.entities[0].q == pytest.approx(second.p)  # type: ignore[union-attr]
    assert {f"{second.id}.q", "l9.p"} in [set(c.refs) for c in made.constraints]
    assert freedom(made, {}).count == before + 1 == numerical_freedom(made)  # where it is cut can slide
    with pytest.raises(Refusal, match="between the two ends"):
        split(base, VALUES, what.id, what.p)
    with pytest.raises(Refusal, match="cannot be split"):
        split(Sketch(entities=[circle(1, (0, 0), 3)]), VALUES, "c1", (3, 0))


# -- where ties and sizes go ------------------------------------------------------------------------------


def test_tangency_stays_with_the_arc_that_touches() -> None:
    """A circle between two lines that touch it, cut by two uprights: each line touches the piece it touched."""
    entities = [
        circle(1, (0, 0), 10),
        line(1, (-20, 10), (20, 10)),
        line(2, (-20, -10), (20, -10)),
        line(3, (-3, -20), (-3, 20)),
        line(4, (3, -20), (3, 20)),
    ]
    rows = ("coincident c1.c origin", "tangent l1 c1", "tangent l2 c1", "vertical l3", "vertical l4")
    sketch = Sketch(entities=entities, constraints=ties(*rows), dimensions=sizes("diameter 20 c1"))
    before = free(sketch)
    made = trim_all(sketch, VALUES, [("c1", (10, 0)), ("c1", (-10, 0))]).sketch
    arcs = {e.id: e for e in made.entities if isinstance(e, Arc)}
    touching = {c.refs[0]: arcs[c.refs[1]] for c in made.constraints if c.kind == "tangent"}
    assert touching["l1"].p[1] > 0 > touching["l2"].p[1]
    assert free(made) == before == numerical_freedom(made)
    # each arc holds its line when the other is gone
    other = editing.delete(made, {touching["l2"].id}).sketch
    assert {c.refs[0] for c in other.constraints if c.kind == "tangent"} == {"l1"}


def test_points_on_a_curve_stay_with_the_piece_they_lie_on() -> None:
    entities = [
        line(1, (0, 0), (40, 0)),
        line(2, (10, -5), (10, 5)),
        line(3, (30, -5), (30, 5)),
        line(4, (36, 0), (36, 9)),
    ]
    sketch = Sketch(entities=entities, constraints=ties("coincident l4.p l1", "horizontal l1"))
    made = trim(sketch, VALUES, "l1", (20, 0)).sketch
    (on,) = [c for c in made.constraints if c.refs[0] == "l4.p"]
    assert on.refs[1] != "l1"
    assert free(made) == numerical_freedom(made)


def test_sizes_live_on_to_the_sharp_corner() -> None:
    """A rectangle's side cut short by a line across: what was 40 is so still, to the corner where the next side is."""
    plate = rectangle()
    plate.dimensions = sizes("distance 40 l1", "distance 30 l2", "distance 30 l9 l4")
    plate.entities.append(line(9, (30, -5), (30, 35)))
    plate.constraints += [c.model_copy(update={"id": "k90"}) for c in ties("vertical l9")]
    before = free(plate)
    plate = plate.model_copy(
        update={"dimensions": [d.model_copy(update={"expr": "30"}) if d.id == "d3" else d for d in plate.dimensions]}
    )
    cut = trim(plate, VALUES, "l1", (38, 0))
    assert (cut.said, cut.lost) == ([], [])
    assert next(d.refs for d in cut.sketch.dimensions) == ["l1.p", "l2.p"]
    assert free(cut.sketch) == before + 1  # the side that is no longer tied to it can slide up and down
    wider = editing.change_dimension(cut.sketch, VALUES, "d1", {"expr": "50"}).sketch
    corner = wider.entity("l2")
    assert isinstance(corner, Line)
    assert corner.p[0] == pytest.approx(50)


def test_a_size_that_cannot_live_on_is_told_and_can_stay_for_reference() -> None:
    sketch = Sketch(
        entities=[line(1, (0, 0), (40, 0)), line(2, (30, -5), (30, 5))],
        constraints=ties("horizontal l1", "coincident l1.p origin", "fixed l2"),
        dimensions=sizes("distance 40 l1"),
    )
    cut = trim(sketch, VALUES, "l1", (38, 0))
    assert cut.said == ["With what was cut away went: 40 (line 1)."]
    (kept,) = cut.lost
    made = editing.add(cut.sketch, VALUES, dimensions=[kept]).sketch
    assert [(d.driving, d.expr) for d in made.dimensions] == [(False, "30")]


def test_the_length_of_an_arc_does_not_hold_what_is_cut() -> None:
    sketch = Sketch(entities=[arc(1, (0, 0), 10, 0, 180), line(1, (0, 0), (0, 20))], constraints=ties("fixed l1"))
    sketch.dimensions = sizes("arc_length 31.41592653589793 a1")
    cut = trim(sketch, VALUES, "a1", (-7, 7))
    assert [d.kind for d in cut.lost] == ["arc_length"]
    kept = cut.sketch.entity("a1")
    assert isinstance(kept, Arc)
    assert kept.q == pytest.approx((0, 10), abs=1e-9)

"""The solver as a whole: property tests on generated sketches, conflicts, drags, no flips."""

import math
from typing import Any
from unittest import mock

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import diagnosis, edit, words
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.equations import ClusterEquations
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Arc, Constraint, Dimension, Line, Sketch
from sulvak_core.sketch.solution_branches import with_branches
from sulvak_core.sketch.solve import Drag, solve
from tests.examples import examples

from .sketches import circle, line, numerical_freedom, rectangle, residual, sizes, ties, values

VALUES = Values(lambda text, kind: float(text))
coordinate = st.floats(-50, 50).map(lambda v: round(v, 3))
point = st.tuples(coordinate, coordinate)


@st.composite
def loose_sketches(draw: st.DrawFn) -> Sketch:
    """A few lines and circles anywhere, with random sensible constraints put on one after the other."""
    lines = []
    for n in range(1, draw(st.integers(2, 5)) + 1):
        p, q = draw(point), draw(point)
        if math.dist(p, q) < 2:
            q = (p[0] + 7, p[1] + 3)
        lines.append(line(n, p, q))
    circles = [circle(n, draw(point), draw(st.floats(1, 9))) for n in range(1, draw(st.integers(0, 3)) + 1)]
    names = [e.id for e in lines]
    rounds = [e.id for e in circles]
    wanted = []
    for n in range(draw(st.integers(1, 9))):
        a, b = draw(st.sampled_from(names)), draw(st.sampled_from(names))
        kind = draw(
            st.sampled_from(["join", "horizontal", "vertical", "parallel", "perpendicular", "equal", "size", "hold"])
        )
        if kind == "join":
            row = f"coincident {a}.q {b}.p"
        elif kind == "hold":
            row = f"coincident {a}.p origin"
        elif kind in ("horizontal", "vertical"):
            row = f"{kind} {a}"
        elif kind == "size" and rounds:
            row = f"tangent {draw(st.sampled_from(rounds))} {a}"
        elif kind == "size":
            row = f"vertical {a}.p {b}.q"
        else:
            row = f"{kind} {a} {b}"
        refs = row.split()[1:]
        if len(set(refs)) == len(refs):
            wanted.append(Constraint(id=f"k{n + 1}", kind=row.split()[0], refs=refs))  # type: ignore[arg-type]
    sketch = Sketch(entities=[*lines, *circles])
    for constraint in wanted:
        try:
            sketch = edit.add(sketch, VALUES, constraints=[constraint]).sketch
        except Refusal:
            continue
    return sketch


@given(loose_sketches())
@settings(max_examples=examples(120), deadline=None)
def test_freedom_is_the_numerical_rank(sketch: Sketch) -> None:
    # a line that is about to vanish (an equal hypotenuse and leg, say) has a rank of its own at every tolerance
    assume(all(not 0 < math.dist(e.p, e.q) < 1e-4 for e in sketch.entities if isinstance(e, Line)))
    assert residual(sketch) < 1e-9
    assert freedom(sketch, {}).count == numerical_freedom(sketch)


@given(loose_sketches())
@settings(max_examples=examples(60), deadline=None)
def test_every_free_motion_keeps_the_constraints(sketch: Sketch) -> None:
    found = freedom(sketch, {})
    assert len(found.motions) == found.count
    before = residual(sketch)
    step = 1e-5
    for motion in found.motions:
        moved = []
        for e in sketch.entities:
            data = e.model_dump()
            for end in ("p", "q", "c"):
                speed = motion.points.get(f"{e.id}.{end}")
                if speed and end in data:
                    data[end] = (data[end][0] + step * speed[0], data[end][1] + step * speed[1])
            if e.id in motion.radii:
                data["r"] += step * motion.radii[e.id]
            moved.append(type(e).model_validate(data))
        # off by the square of the step at most
        assert residual(sketch.model_copy(update={"entities": moved})) < before + 1e-7
        assert words.motion(sketch, motion)
    loose = {i for m in found.motions for i in m.entities}
    assert found.loose == loose


@given(loose_sketches())
@settings(max_examples=examples(40), deadline=None)
def test_solving_what_is_solved_moves_nothing_and_is_deterministic(sketch: Sketch) -> None:
    one, two = solve(sketch, {}), solve(sketch, {})
    assert one.sketch == two.sketch
    for a, b in zip(sketch.entities, one.sketch.entities, strict=True):
        if isinstance(a, Line) and isinstance(b, Line):
            assert math.dist(a.p, b.p) < 1e-7
            assert math.dist(a.q, b.q) < 1e-7


@given(st.floats(0.001, 1000), st.floats(0.05, 20), st.floats(0.05, 20))
@settings(max_examples=examples(60), deadline=None)
def test_any_scale_and_any_change_of_size_never_flips(scale: float, width: float, height: float) -> None:
    sketch = rectangle(w=40 * scale, h=30 * scale)
    sketch.dimensions = sizes(f"distance {40 * scale * width} l1", f"distance {30 * scale * height} l2")
    solution = solve(sketch, values(sketch))
    assert solution.solved
    l3 = solution.sketch.entity("l3")
    assert isinstance(l3, Line)
    assert l3.p[0] == pytest.approx(40 * scale * width, rel=1e-12)
    assert l3.p[1] == pytest.approx(30 * scale * height, rel=1e-12)
    assert freedom(solution.sketch, values(sketch)).count == 0


def test_a_triangle_grows_without_turning_over() -> None:
    sketch = Sketch(
        entities=[line(1, (0, 0), (10, 0)), line(2, (10, 0), (4, 8)), line(3, (4, 8), (0, 0))],
        constraints=ties(
            "coincident l1.q l2.p",
            "coincident l2.q l3.p",
            "coincident l3.q l1.p",
            "coincident l1.p origin",
            "horizontal l1",
        ),
        dimensions=sizes("distance 10 l1", "distance 9 l2", "distance 8 l3"),
    )
    for a, b, c in [(10, 9, 8), (100, 90, 80), (3, 4, 5), (3, 2.9, 5.8), (10, 6, 5)]:
        solution = solve(sketch, {"d1": a, "d2": b, "d3": c})
        assert solution.solved
        l2 = solution.sketch.entity("l2")
        assert isinstance(l2, Line)
        x = (a * a + c * c - b * b) / (2 * a)
        assert l2.q == pytest.approx((x, math.sqrt(c * c - x * x)), abs=1e-9)
        sketch = solution.sketch
    failed = solve(sketch, {"d1": 100, "d2": 1, "d3": 1})
    assert not failed.solved
    assert failed.sketch == sketch
    assert set(diagnosis.conflict(sketch, {"d1": 100, "d2": 1, "d3": 1}, "d1", failed.missed)) == {
        "k1",
        "k2",
        "k3",
        "d1",
        "d2",
        "d3",
    }


@pytest.mark.parametrize("n", [2, 3, 5])
def test_a_conflict_names_a_smallest_set(n: int) -> None:
    """Chains of lines with horizontal ties between: the set that fights is minimal: each left out frees the rest."""
    entities = [line(i, (0, 10 * i), (20, 10 * i + 1)) for i in range(1, n + 1)]
    rows = ["horizontal l1"] + [f"parallel l{i} l{i + 1}" for i in range(1, n)]
    sketch = edit.add(Sketch(entities=entities), VALUES, constraints=ties(*rows)).sketch
    clash = Constraint(id="k99", kind="vertical", refs=[f"l{n}"])
    with pytest.raises(Refusal) as refusal:
        edit.add(sketch, VALUES, constraints=[clash])
    fighting = set(refusal.value.detail["because"])
    assert fighting == {"k99", *(f"k{i}" for i in range(1, n + 1))}
    with_clash = sketch.model_copy(update={"constraints": [*sketch.constraints, clash]})
    for left_out in fighting:
        rest = diagnosis.without(with_clash, {left_out})
        assert solve(rest, {}).solved
    assert sketch.constraints == edit.add(sketch, VALUES).sketch.constraints


def test_a_level_line_made_upright_is_turned_not_shrunk() -> None:
    level = edit.add(Sketch(entities=[line(1, (0, 5), (20, 5))]), VALUES, constraints=ties("vertical l1")).sketch
    upright = level.entity("l1")
    assert isinstance(upright, Line)
    assert upright.p == pytest.approx((10, -5))
    assert upright.q == pytest.approx((10, 15))


def test_a_line_turned_over_on_the_way_still_holds_its_circle() -> None:
    """Found by the property test above: joining a line's end beyond its start reverses it under a tangent circle."""
    sketch = Sketch(entities=[line(1, (-1, 2), (-8, 2)), line(2, (-8, 2), (7, 3)), circle(1, (0, -0.5), 0.5)])
    for n, row in enumerate(["coincident l1.q l2.p", "horizontal l1", "tangent c1 l1", "coincident l2.p origin"], 1):
        tie = ties(row)[0].model_copy(update={"id": f"k{n}"})
        sketch = edit.add(sketch, VALUES, constraints=[tie]).sketch
        assert residual(sketch) < 1e-9
    assert freedom(sketch, {}).count == numerical_freedom(sketch)


def test_a_conflict_in_words_names_values() -> None:
    sketch = rectangle()
    sketch.dimensions = sizes("distance 40 l1")
    with pytest.raises(Refusal) as refusal:
        edit.add(sketch, VALUES, dimensions=[Dimension(id="d2", kind="distance", refs=["l3"], expr="41")])
    assert "41 (line 3) cannot hold" in refusal.value.sentence
    assert "40 (line 1)" in refusal.value.sentence


def test_dragging_keeps_everything_and_moves_what_is_free() -> None:
    sketch = rectangle()
    sketch.dimensions = sizes("distance 40 l1")
    drag = Drag(sketch, values(sketch), "l3.q")
    for step in range(1, 20):
        moved = drag.to(0 + step, 30 + step)
    assert residual(moved) < 1e-10
    top = moved.entity("l3")
    assert isinstance(top, Line)
    assert top.q == pytest.approx((0, 49), abs=1e-9)  # free upwards only
    assert top.p == pytest.approx((40, 49), abs=1e-9)


def test_dragging_a_rim_sizes_the_circle_and_a_fixed_one_stays() -> None:
    sketch = Sketch(entities=[circle(1, (5, 5), 3)], constraints=ties("fixed c1.c"))
    assert Drag(sketch, {}, "c1").to(15, 5).entity("c1").r == pytest.approx(10)  # type: ignore[union-attr]
    full = edit.add(sketch, VALUES, dimensions=sizes("radius 3 c1")).sketch
    assert edit.drag(full, VALUES, "c1", (50, 50)).sketch.entities == full.entities


def test_a_drag_never_pulls_a_linkage_inside_out() -> None:
    """A crank of two rods: dragged beyond its reach it stays stretched and comes back on its own side."""
    sketch = Sketch(
        entities=[line(1, (0, 0), (10, 5)), line(2, (10, 5), (20, 0))],
        constraints=ties("coincident l1.p origin", "coincident l1.q l2.p"),
    )
    sketch.dimensions = sizes("distance 11 l1", "distance 11 l2")
    sketch = solve(sketch, values(sketch)).sketch
    drag = Drag(sketch, values(sketch), "l2.q")
    for x in [20, 30, 60, 90, 60, 30, 20]:
        moved = drag.to(x, 0)
        assert residual(moved) < 1e-9
    elbow = moved.entity("l1")
    assert isinstance(elbow, Line)
    assert elbow.q[1] > 0


def test_redundant_size_says_what_fixes_it() -> None:
    sketch = rectangle()
    sketch.dimensions = sizes("distance 40 l1", "distance 30 l2")
    with pytest.raises(Refusal) as refusal:
        edit.add(sketch, VALUES, dimensions=[Dimension(id="d3", kind="distance", refs=["l4"], expr="30")])
    because = refusal.value.detail["because"]
    assert "d2" in because
    assert "d1" not in because
    assert "reference dimension" in refusal.value.sentence


def test_deleting_takes_what_hangs_on_it_and_tells() -> None:
    sketch = rectangle()
    sketch.dimensions = sizes("distance 40 l1")
    told = edit.removal(sketch, {"l1"})
    assert told.entities == ["l1"]
    assert set(told.ties) == {"k1", "k4", "k5", "k9", "d1"}
    after = edit.delete(sketch, {"l1"})
    assert [e.id for e in after.sketch.entities] == ["l2", "l3", "l4"]
    assert after.said
    fresh = edit.add(after.sketch, VALUES, entities=[line(9, (0, 0), (5, 5))]).sketch
    assert fresh.used["l"] == 9  # numbers are never given twice


def elbow() -> Sketch:
    """A two-bar linkage from the origin, each bar 20 long."""
    return Sketch(
        entities=[line(1, (0, 0), (20, 0)), line(2, (20, 0), (20, 20))],
        constraints=ties("coincident l1.p origin", "coincident l1.q l2.p"),
        dimensions=sizes("distance 20 l1", "distance 20 l2"),
    )


@given(st.lists(st.tuples(st.floats(-39, 39), st.floats(-39, 39)), min_size=2, max_size=8))
@settings(max_examples=examples(60), deadline=None)
def test_what_is_shown_while_dragging_is_what_is_stored(way: list[tuple[float, float]]) -> None:
    sketch = elbow()
    pull = Drag(sketch, VALUES.all(sketch), "l2.q")
    for at in way:
        seen = pull.to(*at)
    shown = [e for old, e in zip(sketch.entities, seen.entities, strict=True) if e != old]
    stored = edit.drag(sketch, VALUES, "l2.q", way[-1], shown).sketch
    assert stored.entities == seen.entities
    assert residual(stored) < 1e-9
    assert edit.resolve(stored, VALUES).sketch.entities[0].q == pytest.approx(seen.entities[0].q, abs=1e-6)


def test_what_does_not_hold_is_not_stored_as_it_is_said() -> None:
    """A screen that shows an older state, or nonsense, does not get past what is tied."""
    sketch = elbow()
    shown = [line(1, (0, 0), (25, 0)), line(2, (25, 0), (25, 20)), circle(7, (0, 0), 4)]
    stored = edit.drag(sketch, VALUES, "l2.q", (25, 20), shown).sketch
    assert residual(stored) < 1e-9
    assert [e.id for e in stored.entities] == ["l1", "l2"]


def serpentine(n: int) -> Sketch:
    """Lines joined by half circles that touch them, all lines and all arcs alike; the first line and arc are sized."""
    entities: list[Any] = []
    ties: list[Constraint] = []

    def tie(kind: str, *refs: str) -> None:
        ties.append(Constraint(id=f"k{len(ties) + 1}", kind=kind, refs=list(refs)))  # type: ignore[arg-type]

    for i in range(n):
        y, right = 10.0 * i, i % 2 == 0
        ends = ((0.0, y), (30.0, y)) if right else ((30.0, y), (0.0, y))
        entities.append(Line(id=f"l{i + 1}", p=ends[0], q=ends[1]))
        if i == n - 1:
            break
        x = 30.0 if right else 0.0
        p, q = ((x, y), (x, y + 10)) if right else ((x, y + 10), (x, y))
        entities.append(Arc(id=f"a{i + 1}", c=(x, y + 5), r=5, p=p, q=q))
        near, far = ("p", "q") if right else ("q", "p")
        tie("coincident", f"l{i + 1}.q", f"a{i + 1}.{near}")
        tie("coincident", f"a{i + 1}.{far}", f"l{i + 2}.p")
        tie("tangent", f"l{i + 1}", f"a{i + 1}")
        tie("tangent", f"a{i + 1}", f"l{i + 2}")
        if i:
            tie("equal", "a1", f"a{i + 1}")
        tie("equal", "l1", f"l{i + 2}")
    sizes = [
        Dimension(id="d1", kind="radius", refs=["a1"], expr="5"),
        Dimension(id="d2", kind="distance", refs=["l1"], expr="30"),
        Dimension(id="d3", kind="distance", refs=["l2.p", f"l{n}.q"], expr="2000"),  # farther than it can stretch
    ]
    return Sketch(entities=entities, constraints=ties, dimensions=sizes)


@pytest.mark.parametrize("n", [25, 50])
def test_what_cannot_hold_is_given_up_early(n: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """A size that 50 or 100 entities cannot take: the work that tells so is bounded, counted in looks at the equations
    (some 0.2 ms each; it was 40 s)."""
    looks = 0
    before = ClusterEquations.evaluate

    def counted(self: ClusterEquations, z: Any) -> Any:
        nonlocal looks
        looks += 1
        return before(self, z)

    monkeypatch.setattr(ClusterEquations, "evaluate", counted)
    sketch = with_branches(serpentine(n), {"d3", *(f"k{i}" for i in range(1, 6 * n))})
    values = {"d1": 5.0, "d2": 30.0, "d3": 2000.0}
    failed = solve(sketch, values)
    assert not failed.solved
    assert "d3" in diagnosis.conflict(sketch, values, "d3", failed.missed)
    assert 100 < looks < 9000


@given(loose_sketches(), st.data())
@settings(max_examples=examples(30), deadline=None)
def test_what_settles_a_tie_is_found_near_it_as_in_the_whole_sketch(sketch: Sketch, data: st.DataObject) -> None:
    assume(sketch.constraints)
    again = data.draw(st.sampled_from(sketch.constraints)).model_copy(update={"id": "k99"})
    asked = sketch.model_copy(update={"constraints": [*sketch.constraints, again]})
    with mock.patch.object(diagnosis, "MOST_ROWS", 10**6):
        whole = diagnosis.fixed_by(asked, {}, "k99")
    with mock.patch.object(diagnosis, "MOST_ROWS", 80):  # 5 rows first, then 20, then all
        assert diagnosis.fixed_by(asked, {}, "k99") == whole
    assert whole


def test_what_settles_a_tie_in_a_large_sketch_takes_no_large_matrix(monkeypatch: pytest.MonkeyPatch) -> None:
    plates = [rectangle(4 * n + 1, 50 * n, 0, held=not n) for n in range(60)]
    joints = [f"coincident l{4 * n + 2}.p l{4 * n + 5}.p" for n in range(59)]
    numbered = [c for p in plates for c in p.constraints] + ties(*joints)
    large = Sketch(
        entities=[e for p in plates for e in p.entities],
        constraints=[c.model_copy(update={"id": f"k{n}"}) for n, c in enumerate(numbered, 1)],
    )
    large = solve(large, {}).sketch
    looked: list[int] = []
    near = diagnosis._fixed_by
    monkeypatch.setattr(diagnosis, "_fixed_by", lambda s, i: looked.append(len(s.rows)) or near(s, i))
    square = Constraint(id="k999", kind="perpendicular", refs=["l117", "l118"])
    with pytest.raises(Refusal) as refused:
        edit.add(large, VALUES, constraints=[square])
    assert refused.value.sentence == "This is already settled by line 117 horizontal; line 118 vertical."
    assert looked == [diagnosis.MOST_ROWS // 16]

"""For each constraint and each pair it takes: a solved example, exact freedom, refused when redundant, its words."""

import math

import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import edit, words
from sulvak_core.sketch.curves import pieces
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Constraint, Dimension, Sketch
from sulvak_core.sketch.solve import solve
from sulvak_core.sketch.system import Builder

from .sketches import (
    P,
    arc,
    circle,
    ellipse,
    ellipse_arc,
    line,
    numerical_freedom,
    residual,
    sizes,
    slot,
    spline,
    text,
    ties,
    values,
)

VALUES = Values(lambda text, kind: float(text))

L1, L2 = line(1, (1, 2), (31, 7)), line(2, (4, 20), (33, 14))
C1, C2 = circle(1, (12, 30), 7), circle(2, (40, 33), 9)
A1 = arc(1, (50, 5), 8, 20, 140)
E1, E2 = ellipse(1, (20, 40), 14, 6, 20), ellipse(2, (60, 45), 10, 5, -35)
EA = ellipse_arc(3, (30, -30), 12, 7, 10, 150)
S1 = spline(1, (0, 50), (12, 60), (25, 52), (40, 58))
S2 = spline(2, (0, 50), (12, 60), (25, 52), (40, 58), form="control")
# ends that lie where others start, so that both stay tied when one is made tangent
SL, SC = line(3, (-30, 40), (0, 50)), arc(2, (50, 50), 12.806248474865697, 141.3401917459, 300)
SE = ellipse_arc(4, (-12, 50), 12, 7, 0, 150)
T1 = text(1, "BALLAST", (5, 70), (45, 72))
P1, P2 = P(id="p1", at=(3, 4)), P(id="p2", at=(17, 9))

# entities, constraint, how many degrees of freedom it takes
CONSTRAINTS = [
    ([P1, P2], "coincident p1 p2", 2),
    ([P1], "coincident p1 origin", 2),
    ([L1, L2], "coincident l1.q l2.p", 2),
    ([P1, L1], "coincident p1 l1", 1),
    ([P1], "coincident p1 x", 1),
    ([P1, C1], "coincident p1 c1", 1),
    ([P1, A1], "coincident p1 a1", 1),
    ([L1, A1], "coincident l1.q a1.p", 2),
    ([L1], "horizontal l1", 1),
    ([L1], "vertical l1", 1),
    ([P1, P2], "horizontal p1 p2", 1),
    ([P1, C1], "vertical p1 c1.c", 1),
    ([L1, L2], "parallel l1 l2", 1),
    ([L1], "parallel l1 x", 1),
    ([L1, L2], "perpendicular l1 l2", 1),
    ([L1], "perpendicular l1 x", 1),
    ([L1, L2], "collinear l1 l2", 2),
    ([L1], "collinear l1 y", 2),
    ([L1, L2], "equal l1 l2", 1),
    ([C1, C2], "equal c1 c2", 1),
    ([C1, A1], "equal c1 a1", 1),
    ([C1, C2], "concentric c1 c2", 2),
    ([C1, A1], "concentric c1 a1", 2),
    ([L1, C1], "tangent l1 c1", 1),
    ([L1, A1], "tangent l1 a1", 1),
    ([C1], "tangent x c1", 1),
    ([C1, C2], "tangent c1 c2", 1),
    ([C1, A1], "tangent c1 a1", 1),
    ([P1, L1], "midpoint p1 l1", 2),
    ([P1, P2, L1], "symmetric p1 p2 l1", 2),
    ([P1, P2], "symmetric p1 p2 y", 2),
    ([L1, L2], "symmetric l1 l2 x", 4),
    ([C1, C2], "symmetric c1 c2 y", 3),
    ([P1, E1], "coincident p1 e1", 1),
    ([L1, EA], "coincident l1.p e3", 1),
    ([L1, EA], "coincident l1.p e3.q", 2),
    ([P1, S1], "coincident p1 s1.p", 2),
    ([P1, S1], "coincident p1 s1.k2", 2),
    ([E1, C1], "concentric e1 c1", 2),
    ([T1, C1], "concentric t1 c1", 2),
    ([L1, E1], "tangent l1 e1", 1),
    ([E1], "tangent x e1", 1),
    ([C1, E1], "tangent c1 e1", 1),
    ([E1, E2], "tangent e1 e2", 1),
    ([A1, EA], "tangent a1 e3", 1),
    ([T1], "horizontal t1", 1),
    ([T1, L1], "parallel t1 l1", 1),
    ([T1, L1], "collinear l1 t1", 2),
    ([E1], "horizontal e1.c e1.m", 1),
    ([E1], "fixed e1", 5),
    ([S1], "fixed s1", 8),
    ([T1], "fixed t1", 4),
    ([P1], "fixed p1", 2),
    ([L1], "fixed l1", 4),
    ([C1], "fixed c1", 3),
    ([A1], "fixed a1", 5),
    ([L1], "fixed l1.p", 2),
]

DIMENSIONS = [
    ([L1], "distance 44 l1", 1),
    ([L1], "distance 25 l1 horizontal", 1),
    ([L1], "distance 6 l1 vertical", 1),
    ([P1, P2], "distance 21 p1 p2", 1),
    ([P1], "distance 9 origin p1", 1),
    ([P1, P2], "distance 9 p1 p2 vertical", 1),
    ([P1, L2], "distance 12 p1 l2", 1),
    ([P1], "distance 12 p1 x", 1),
    ([C1, L1], "distance 31 c1.c l1", 1),
    ([L1, L2], "angle 40 l1 l2", 1),
    ([L1], "angle 30 x l1", 1),
    ([C1], "radius 11 c1", 1),
    ([C1], "diameter 11 c1", 1),
    ([A1], "radius 9.5 a1", 1),
    ([A1], "arc_length 19 a1", 1),
    ([P1, C1], "distance 15 p1 c1 near", 1),
    ([P1, C1], "distance 33 p1 c1 far", 1),
    ([P1, A1], "distance 30 a1 p1 near", 1),
    ([L1, C1], "distance 14 c1 l1 near", 1),
    ([L1, C1], "distance 36 l1 c1 far", 1),
    ([C1], "distance 20 c1 x near", 1),
    ([P1, L2], "distance 26 p1 l2 across", 1),
    ([P1], "distance 26 y p1 across", 1),
    ([C1], "distance 31 c1.c x across", 1),
    ([E1], "distance 17 e1.c e1.m", 1),
    ([E1], "distance 4 e1.n e1.c", 1),
    ([T1], "distance 5 t1.p t1.m", 1),
    ([T1], "distance 60 t1", 1),
    ([S1], "distance 15 s1.p s1.k1", 1),
    ([C1, C2], "distance 10 c1 c2 near", 1),
    ([C1, C2], "distance 40 c1 c2 far", 1),
]
# an arc's own freedom is 5: seven values less the two rows that keep its ends on it
OWN = {"point": 2, "line": 4, "circle": 3, "arc": 5, "ellipse": 5, "ellipse_arc": 7, "spline": 8, "text": 4}


@pytest.mark.parametrize(("entities", "row", "takes"), CONSTRAINTS, ids=lambda v: v if isinstance(v, str) else "")
def test_constraint(entities: list, row: str, takes: int) -> None:
    loose = Sketch(entities=entities)
    edited = edit.add(loose, VALUES, constraints=ties(row)).sketch
    assert residual(edited) < 1e-10
    own = sum(OWN[e.kind] for e in entities)
    assert freedom(edited, {}).count == own - takes == numerical_freedom(edited)
    assert words.constraint(edited.constraints[0])[0] != ""
    again = Constraint(id="k9", kind=ties(row)[0].kind, refs=row.split()[1:])
    with pytest.raises(Refusal) as refusal:
        edit.add(edited, VALUES, constraints=[again])
    assert refusal.value.detail["reason"] == "redundant"
    assert refusal.value.detail["because"] == ["k1"]
    assert edit.add(edited, VALUES, constraints=[again], inferred=frozenset({"k9"})).skipped == ["k9"]


@pytest.mark.parametrize(("entities", "row", "takes"), DIMENSIONS, ids=lambda v: v if isinstance(v, str) else "")
def test_dimension(entities: list, row: str, takes: int) -> None:
    loose = Sketch(entities=entities)
    edited = edit.add(loose, VALUES, dimensions=sizes(row)).sketch
    d = edited.dimensions[0]
    assert residual(edited) < 1e-10
    assert Builder(edited, values(edited)).measure(d) == pytest.approx(float(d.expr), abs=1e-9)
    own = sum(OWN[e.kind] for e in entities)
    assert freedom(edited, values(edited)).count == own - takes == numerical_freedom(edited)
    again = d.model_copy(update={"id": "d9"})
    with pytest.raises(Refusal) as refusal:
        edit.add(edited, VALUES, dimensions=[again])
    assert refusal.value.detail == {"reason": "redundant", "because": ["d1"], "offer": "reference"}
    kept = edit.add(edited, VALUES, dimensions=[again.model_copy(update={"driving": False})]).sketch
    assert freedom(kept, values(kept)).count == own - takes
    clash = again.model_copy(update={"expr": str(float(d.expr) * 1.25)})
    with pytest.raises(Refusal) as refusal:
        edit.add(edited, VALUES, dimensions=[clash])
    assert refusal.value.detail["reason"] == "conflict"
    assert set(refusal.value.detail["because"]) == {"d1", "d9"}


JOINED = [
    ([S1, SL], "coincident s1.p l3.q", "tangent s1 l3"),
    ([S2, SL], "coincident s2.p l3.q", "tangent l3 s2"),
    ([S1, SC], "coincident s1.q a2.p", "tangent s1 a2"),
    ([S2, SC], "coincident s2.q a2.p", "tangent s2 a2"),
    ([S1, SE], "coincident s1.p e4.p", "tangent e4 s1"),
    ([SL, SE], "coincident l3.q e4.p", "tangent l3 e4"),
    ([SC, EA], "coincident a2.p e3.q", "tangent a2 e3"),
    ([SE, EA], "coincident e4.q e3.q", "tangent e4 e3"),
]


@pytest.mark.parametrize(("entities", "joint", "row"), JOINED, ids=lambda v: v if isinstance(v, str) else "")
def test_free_curves_curves_run_smoothly_through_a_joint(entities: list, joint: str, row: str) -> None:
    joined = edit.add(Sketch(entities=entities), VALUES, constraints=ties(joint)).sketch
    smooth = ties(joint, row)[1]
    edited = edit.add(joined, VALUES, constraints=[smooth]).sketch
    assert residual(edited) < 1e-10
    own = sum(OWN[e.kind] for e in entities)
    assert freedom(edited, {}).count == own - 3 == numerical_freedom(edited)
    place = joint.split()[1]
    assert _heading(edited, place) == pytest.approx(_heading(edited, joint.split()[2]), abs=1e-7)
    with pytest.raises(Refusal, match="settled"):
        edit.add(edited, VALUES, constraints=[smooth.model_copy(update={"id": "k9"})])


def _heading(sketch: Sketch, ref: str) -> float:
    """Direction of a curve at one of its ends, in degrees below 180."""
    ident, end = ref.split(".")
    piece = pieces(sketch.entity(ident), [], 1e-9)[0]  # type: ignore[arg-type]
    found = math.degrees((piece if end == "p" else piece.reversed()).heading()[0]) % 180
    return 0.0 if found > 179.999999 else found


def test_a_width_across_is_both_sides_of_a_centre_line() -> None:
    half = Sketch(entities=[line(1, (0, -20), (0, 20), construction=True), line(2, (9, -8), (10, 8))])
    held = ties("vertical l1", "parallel l1 l2", "fixed l1")
    made = edit.add(half, VALUES, constraints=held, dimensions=sizes("distance 30 l1 l2 across")).sketch
    assert [x for x, _ in (made.entities[1].p, made.entities[1].q)] == pytest.approx([15, 15])  # type: ignore[union-attr]
    assert words.dimension(made.dimensions[0], 30.0) == "30 across (line 1 to line 2)"
    with pytest.raises(Refusal, match="needs a centre line"):
        edit.add(Sketch(entities=[P1, P2]), VALUES, dimensions=sizes("distance 30 p1 p2 across"))


@pytest.mark.parametrize(
    ("row", "entities"),
    [
        ("coincident p1 s1", [P1, S1]),
        ("equal e1 e2", [E1, E2]),
        ("midpoint p1 e1", [P1, E1]),
        ("parallel l1 c1", [L1, C1]),
        ("tangent l1 l2", [L1, L2]),
        ("horizontal c1", [C1]),
        ("equal l1 c1", [L1, C1]),
        ("midpoint p1 c1", [P1, C1]),
        ("concentric l1 c1", [L1, C1]),
        ("fixed origin", []),
        ("horizontal x", []),
        ("symmetric p1 l1 x", [P1, L1]),
        ("coincident l1 l2", [L1, L2]),
        ("tangent e1 p1", [E1, P1]),
    ],
)
def test_wrong_picks_are_refused_in_words(row: str, entities: list) -> None:
    with pytest.raises(Refusal, match="needs"):
        edit.add(Sketch(entities=entities), VALUES, constraints=ties(row))


def test_missing_and_doubled_refs_are_refused() -> None:
    sketch = Sketch(entities=[L1])
    for row, said in [("parallel l1 l7", "no longer"), ("parallel l1 l1", "twice")]:
        with pytest.raises(Refusal, match=said):
            edit.add(sketch, VALUES, constraints=ties(row))
    with pytest.raises(Refusal, match="drawn already"):
        edit.add(sketch, VALUES, entities=[L1])
    with pytest.raises(Refusal, match="no length"):
        edit.add(sketch, VALUES, entities=[line(5, (1, 1), (1, 1))])


def test_tangent_at_a_shared_end_is_counted_right() -> None:
    """A slot: two lines, two arcs, joined and tangent; six freedoms are left (two circles' worth)."""
    assert freedom(slot(), {}).count == 6
    finished = slot().model_copy(
        update={
            "constraints": [
                *slot().constraints,
                *(
                    c.model_copy(update={"id": f"m{c.id}"})
                    for c in ties("coincident a2.c origin", "horizontal l1", "equal a1 a2")
                ),
            ],
            "dimensions": sizes("radius 4 a1", "distance 25 a1.c a2.c"),
        }
    )
    solution = solve(finished, values(finished))
    assert solution.solved
    assert freedom(solution.sketch, values(finished)).count == 0
    assert math.dist(solution.sketch.entity("a1").c, (25, 0)) < 1e-9  # type: ignore[union-attr]


def test_arcs_tangent_at_a_shared_end() -> None:
    sketch = Sketch(
        entities=[arc(1, (0, 0), 10, 0, 90), arc(2, (3, 22), 9, 200, 300)],
        constraints=ties("coincident a1.q a2.p", "tangent a1 a2"),
    )
    solution = solve(sketch, {})
    assert solution.solved
    assert freedom(solution.sketch, {}).count == 10 - 3 == numerical_freedom(solution.sketch)


def test_reference_dimension_follows() -> None:
    sketch = Sketch(entities=[L1], dimensions=sizes("distance 44 l1"))
    reference = Dimension(id="d2", kind="distance", refs=["l1"], expr="1", driving=False)
    grown = edit.add(sketch, VALUES, dimensions=[reference]).sketch
    changed = edit.change_dimension(grown, VALUES, "d1", {"expr": "50"}).sketch
    assert changed.dimensions[1].expr == "50"

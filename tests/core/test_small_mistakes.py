"""Small mistakes that no other test noticed when they were made on purpose (tools/mutants.py), each by one case."""

from __future__ import annotations

import pytest

from sulvak_core.naming import find
from sulvak_core.naming.model import EdgeRef, FaceRef
from sulvak_core.naming.words import origin
from sulvak_core.rebuild.describe import LONG, Sayer
from sulvak_core.sheet.notation import parse
from sulvak_core.sketch.model import Circle, Constraint, Dimension, Sketch
from sulvak_core.sketch.solve import solve
from sulvak_core.solid.measure import face_centre
from sulvak_core.solid.project import middle
from sulvak_core.solid.shapes import faces

from .parts import Made, plate
from .sketches import rectangle


@pytest.mark.parametrize(("first", "other"), [(5.0, 8.0), (8.0, 5.0)])
def test_the_wall_between_two_circles_has_its_size_from_the_first_solve(first: float, other: float) -> None:
    """Which of the two is the outer one is taken from the drawing where nothing is remembered yet."""
    sketch = Sketch(
        entities=[Circle(id="c1", c=(0, 0), r=first), Circle(id="c2", c=(0, 0), r=other)],
        constraints=[Constraint(id="k1", kind="coincident", refs=["c1.c", "c2.c"])],
        dimensions=[Dimension(id="d1", kind="distance", refs=["c1", "c2"], expr="4")],
    )
    found = solve(sketch, {"d1": 4.0})
    assert found.solved
    one, two = (e.r for e in found.sketch.entities if isinstance(e, Circle))
    assert two - one == pytest.approx(4 if other > first else -4)


def parted() -> Made:
    """A plate with a groove that parts its top in two."""
    made = plate(60, 40, "10")
    groove = rectangle(x=20, y=-10, w=4, h=60, held=False)
    groove.constraints, groove.dimensions = [], []
    made.sketch("s3", made.face("s2/end"), groove)
    made.extrude("s4", "s3", "3", "cut")
    return made


def test_of_two_pieces_of_a_face_the_nearer_one_is_meant() -> None:
    (body,) = parted().build().state.bodies
    pieces = [(i, f) for i, f in enumerate(faces(body.shape)) if "s2/end" in body.solid.face_tags(f)]
    assert len(pieces) == 2
    for i, f in pieces:
        x, y, z = face_centre(f)
        found = find.face([body.solid], FaceRef(origins=["s2/end"], near=(x + 0.5, y - 0.5, z)))
        assert found is not None and found.index == i


def test_of_two_edges_between_the_same_faces_the_nearer_one_is_meant() -> None:
    (body,) = parted().build().state.bodies
    ends = (FaceRef(origins=["s2/end"]), FaceRef(origins=["s2/side/l1"]))
    for x in (2.0, 55.0):
        found = find.edge([body.solid], EdgeRef(between=ends, near=(x, 0.0, 10.0)))
        assert found is not None
        assert abs(middle(found)[0] - x) < 20


def test_the_right_side_of_a_thin_wall_is_named_by_its_line() -> None:
    assert origin("s2/side/bl3", lambda step: 20) == "right side of the wall of step 20 along line 3"
    assert origin("s2/side/c3", lambda step: 20) == "wall of step 20 from circle 3"


def test_a_list_is_told_while_it_is_short() -> None:
    told = Sayer._listed
    assert told(["edge a", "edge b"], "edge") == "edge a and edge b"
    assert told(["edge a", "edge b", "edge c"], "edge") == "3 edges"
    assert told(["x" * LONG, "edge b"], "edge") == "2 edges"
    assert told(["x" * (2 * LONG)], "edge") == "x" * (2 * LONG)
    assert told([], "edge") == "no edges yet"


@pytest.mark.parametrize(
    ("text", "kind"), [("2×90°", "note"), ("2×89°", "chamfer"), ("2×0.5°", "chamfer"), ("2×0°", "note")]
)
def test_a_chamfer_leans_between_flat_and_square(text: str, kind: str) -> None:
    assert parse(text).kind == kind

"""References that survive: faces and edges of several parts looked for again after edits of many kinds.

The judge is independent of how references are kept: a face is the same if it grew from the same line, arc or circle
in the same role and still faces the same way (a wall the same side, a round the same axis). A wrong hit counts double.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import pytest

from sulvak_core.naming.find import edge, edge_reference, face, reference
from sulvak_core.naming.model import EdgeRef, FaceRef
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.measure import Surface, neighbours, surface
from sulvak_core.solid.shapes import Solid, faces

from .parts import Made, disc, plate
from .sketches import circle, line, rectangle, sizes, slot, ties


def block() -> Made:
    return plate()


def block_with_pocket() -> Made:
    made = plate()
    made.sketch("s3", made.face("s2/end"), rectangle(x=10, y=8, w=15, h=12, held=False))
    made.extrude("s4", "s3", "4", "cut")
    return made


def drilled() -> Made:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[circle(n, (8 * n, 15), 2.5) for n in range(1, 5)]))
    made.extrude("s4", "s3", None, "cut")
    return made


def angle_iron() -> Made:
    at = [(0, 0), (40, 0), (40, 6), (6, 6), (6, 30), (0, 30)]
    lines = [line(i + 1, at[i], at[(i + 1) % 6]) for i in range(6)]
    held = [f"coincident l{i + 1}.q l{(i + 1) % 6 + 1}.p" for i in range(6)]
    held += [f"{('horizontal', 'vertical')[i % 2]} l{i + 1}" for i in range(6)] + ["coincident l1.p origin"]
    made = Made()
    made.sketch("s1", "front", Sketch(entities=lines, constraints=ties(*held)))
    made.do("sketch_add", step="s1", dimensions=[d.model_dump() for d in sizes("distance 40 l1", "distance 30 l6")])
    made.extrude("s2", "s1", "20")
    return made


def bossed() -> Made:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 6))
    made.extrude("s4", "s3", "7")
    made.sketch("s5", made.face("s4/end"), disc((20, 15), 3))
    made.extrude("s6", "s5", None, "cut")
    return made


def slotted() -> Made:
    made = plate(60, 40)
    inner = slot()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=inner.entities, constraints=inner.constraints))
    made.do("sketch_move", step="s3", ids=["l1", "l2", "a1", "a2"], base=(0, 0), to=(20, 20))
    made.extrude("s4", "s3", None, "cut")
    return made


PARTS = [block, block_with_pocket, drilled, angle_iron, bossed, slotted]


def wider(made: Made) -> None:
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "55"})


def lower(made: Made) -> None:
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "37"})


def thicker(made: Made) -> None:
    made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "13"}})


def both_ways(made: Made) -> None:
    made.do("set_step", step="s2", changes={"extent": {"kind": "symmetric", "depth": "10"}})


def rounded(made: Made) -> None:
    made.do("sketch_fillet", step="s1", corners=["l1.q"], radius="2")


def chamfered(made: Made) -> None:
    made.do("sketch_chamfer", step="s1", corners=["l1.p"], distance="1.5")


def drilled_later(made: Made) -> None:
    made.sketch("s90", made.face("s2/end"), disc((3, 3), 1))
    made.extrude("s91", "s90", None, "cut")


def inserted_before(made: Made) -> None:
    made.do("add_step", step={"kind": "sketch", "id": "s80", "on": {"kind": "datum", "plane": "right"}}, after=None)
    made.do("move_step", step="s80", before="s1")


def last_suppressed(made: Made) -> None:
    made.do("set_step", step=made.document.steps[-1].id, changes={"suppressed": True})


def turned_over(made: Made) -> None:
    made.do("set_step", step="s2", changes={"reverse": True})


EDITS = [wider, lower, thicker, both_ways, rounded, chamfered, drilled_later, inserted_before, last_suppressed]


@dataclass
class Known:
    """A face or an edge before an edit: how it is kept, and what an impartial eye would know it by."""

    ref: FaceRef | EdgeRef
    marks: list[tuple[frozenset[str], str, Any]]


def eye(solid: Solid, index: int) -> tuple[frozenset[str], str, Any]:
    """What tells a face apart without its reference: what it grew from, its kind, and which way it faces."""
    f = faces(solid.shape)[index]
    s: Surface = surface(f)
    way = tuple(round(v, 6) + 0.0 for v in s.direction)
    if s.kind != "plane":  # an axis has no sense
        way = max(way, tuple(-v + 0.0 for v in way))
    return frozenset(solid.face_tags(f)), s.kind, (way, s.hollow)


def known_of(made: Made) -> list[Known]:
    found: list[Known] = []
    for body in made.build().state.bodies:
        solid = body.solid
        found += [Known(reference(solid, i), [eye(solid, i)]) for i in range(len(faces(solid.shape)))]
        for item, sides in neighbours(solid):
            if len(sides) == 2 and sides[0] != sides[1]:
                found.append(Known(edge_reference(solid, item, sides), [eye(solid, i) for i in sides]))
    return found


def same(before: tuple[frozenset[str], str, Any], after: tuple[frozenset[str], str, Any]) -> bool:
    return bool(before[0] & after[0]) and before[1:] == after[1:]


def looked_for(made: Made, known: Known) -> str:
    """“found”, “lost” or “wrong”."""
    solids = [b.solid for b in made.build().state.bodies]
    if isinstance(known.ref, FaceRef):
        hit = face(solids, known.ref)
        if hit is None:
            return "lost"
        return "found" if same(known.marks[0], eye(solids[hit.solid], hit.index)) else "wrong"
    item = edge(solids, known.ref)
    if item is None:
        return "lost"
    for solid in solids:
        for other, sides in neighbours(solid):
            if other.IsSame(item):
                one, two = (eye(solid, i) for i in sides)
                a, b = known.marks
                return "found" if (same(a, one) and same(b, two)) or (same(a, two) and same(b, one)) else "wrong"
    return "wrong"


def still_there(made: Made, known: Known) -> bool:
    """Whether an impartial eye finds the thing after the edit at all; an edit may really take it away."""
    for body in made.build().state.bodies:
        solid = body.solid
        eyes = [eye(solid, i) for i in range(len(faces(solid.shape)))]
        if isinstance(known.ref, FaceRef):
            if any(same(known.marks[0], e) for e in eyes):
                return True
            continue
        for _, sides in neighbours(solid):
            if len(sides) == 2:
                one, two = (eyes[i] for i in sides)
                a, b = known.marks
                if (same(a, one) and same(b, two)) or (same(a, two) and same(b, one)):
                    return True
    return False


def scores(make: Callable[[], Made], change: Callable[[Made], None]) -> tuple[int, int, list[str]]:
    """How many references should be found after an edit, how many were, and what went wrong."""
    made = make()
    before = known_of(made)
    change(made)
    assert not made.build().failed, [r.said for r in made.build().failed]
    wanted = got = 0
    troubles = []
    for known in before:
        verdict = looked_for(made, known)
        if still_there(made, known):
            wanted += 1
            got += verdict == "found"
            if verdict != "found":
                troubles.append(f"{verdict}: {known.marks}")
        if verdict == "wrong":
            got -= 1
            troubles.append(f"wrong: {known.marks}")
    return wanted, got, troubles


# of a part with one solid step nothing is left when that is suppressed
CASES = [(m, c) for m in PARTS for c in EDITS if not (c is last_suppressed and m in (block, angle_iron))]


@pytest.mark.parametrize(("make", "change"), CASES, ids=lambda f: f.__name__)
def test_faces_and_edges_are_found_again(make: Callable[[], Made], change: Callable[[Made], None]) -> None:
    wanted, got, troubles = scores(make, change)
    assert wanted > 0
    assert got == wanted, troubles[:4]


def test_what_is_really_gone_is_never_another() -> None:
    made = drilled()
    bore = next(k for k in known_of(made) if isinstance(k.ref, FaceRef) and "s4/side/c2" in k.ref.origins)
    made.do("sketch_delete", step="s3", ids=["c2"])
    assert looked_for(made, bore) == "lost"
    rim = [k for k in known_of(drilled()) if isinstance(k.ref, EdgeRef) and any("s4/side/c2" in m[0] for m in k.marks)]
    assert len(rim) == 2
    assert {looked_for(made, k) for k in rim} == {"lost"}


def test_turning_a_step_over_keeps_its_roles() -> None:
    made = block()
    before = known_of(made)
    turned_over(made)
    for known in before:
        if isinstance(known.ref, FaceRef):
            hit = face([b.solid for b in made.build().state.bodies], known.ref)
            assert hit is not None
            solid = made.build().state.bodies[hit.solid].solid
            assert solid.face_tags(hit.face) == known.marks[0][0]


def test_a_sketch_on_a_face_goes_with_it_through_every_edit() -> None:
    for change in (wider, lower, thicker, rounded, chamfered, inserted_before):
        made = bossed()
        change(made)
        build = made.build()
        top = 13.0 if change is thicker else 10.0
        assert build.frames["s3"].origin[2] == pytest.approx(top)
        assert build.frames["s5"].origin[2] == pytest.approx(top + 7)


def test_the_order_that_references_need_is_guarded() -> None:
    made = bossed()
    for step, before in (("s3", "s1"), ("s5", "s3"), ("s6", "s5")):
        with pytest.raises(Refusal):
            made.do("move_step", step=step, before=before)

"""References to what treating and repeating steps made, looked for again after edits.

Each case names a face by what it is (a judge of its own: kind, radius, place), makes a reference to it, edits the part,
and asks that the reference finds the face that is still that one; a face of another origin is never taken.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from sulvak_core.naming.find import edge, edge_reference, face, reference
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.measure import Surface, face_centre, neighbours, surface
from sulvak_core.solid.shapes import Solid, faces

from .parts import Made, disc, plate
from .sketches import P, rectangle
from .test_steps import pick


def solid_of(made: Made) -> Solid:
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return built.state.bodies[0].solid


def tagged(solid: Solid, tag: str) -> list[int]:
    return [i for i, f in enumerate(faces(solid.shape)) if tag in solid.face_tags(f)]


def found(made: Made, ref: Any) -> tuple[Surface, frozenset[str]]:
    solid = solid_of(made)
    hit = face([solid], ref)
    assert hit is not None, f"{ref.origins} is lost"
    return surface(hit.face), solid.face_tags(hit.face)


# -- parts ---------------------------------------------------------------------------------------------


def rounded_box() -> Made:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "3"}])
    return made


def tray() -> Made:
    made = rounded_box()
    made.step("shell", "s4", faces=[pick("s2/end")], thickness="2")
    return made


def holes() -> Made:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[P(id="p1", at=(8, 8)), P(id="p2", at=(30, 20))]))
    made.step("hole", "s4", sketch="s3", form="counterbore", size="M3", bore_diameter="7", bore_depth="3")
    return made


def row() -> Made:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((6, 6), 2))
    made.extrude("s4", "s3", "5")
    made.step("pattern", "s5", of=["s4"], along={"kind": "axis", "axis": "x"}, count="4", spacing="9")
    return made


def moulded() -> Made:
    made = plate()
    groups = [{"faces": [{"by": "sides", "step": "s2"}], "angle": "4"}]
    made.step("draft", "s3", groups=groups, neutral={"kind": "face", "face": {"origins": ["s2/start"]}})
    return made


# -- edits ---------------------------------------------------------------------------------------------


def wider(made: Made) -> None:
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "52"})


def taller(made: Made) -> None:
    made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "14"}})


def notch_before(made: Made) -> None:
    """A notch in the far long side, put in right after the base."""
    made.do("add_step", step={"kind": "sketch", "id": "s91", "on": {"kind": "datum", "plane": "top"}}, after="s2")
    data = rectangle(x=16, y=26, w=6, h=8, held=False).model_dump(mode="json")
    made.do("sketch_add", step="s91", entities=data["entities"], constraints=data["constraints"])
    cut = {"kind": "extrude", "id": "s92", "sketch": "s91", "operation": "cut", "extent": {"kind": "through_all"}}
    made.do("add_step", step=cut, after="s91")


def named(made: Made) -> None:
    made.do("set_step", step="s2", changes={"name": "Base"})


def moved_in_space(made: Made) -> None:
    made.step("move", "s93", bodies=["s2"], x="13", y="-4", z="2")


def mirrored_copy(made: Made) -> None:
    made.step("datum", "s94", form="offset", plane={"kind": "datum", "plane": "right"}, distance="90")
    made.step("pattern", "s95", form="mirror", bodies=["s2"], plane={"kind": "plane", "step": "s94"}, join=False)


PARTS: dict[str, tuple[Callable[[], Made], list[str]]] = {
    "rounded box": (rounded_box, ["s2/side/l1", "s2/side/l3", "s2/end"]),
    "tray": (tray, ["s4/inner/s2/start", "s4/inner/s2/side/l1", "s4/inner/s2/side/l4"]),
    "holes": (holes, ["s4/drill/p1", "s4/bore/p2", "s4/shoulder/p1"]),
    "row": (row, ["s4/end", "s5/i1/s4/end", "s5/i3/s4/side/c1"]),
    "moulded": (moulded, ["s2/side/l1", "s2/side/l2", "s2/end"]),
}
EDITS = [wider, taller, notch_before, named, moved_in_space, mirrored_copy]


@pytest.mark.parametrize("edit", EDITS, ids=lambda e: e.__name__)
@pytest.mark.parametrize("name", PARTS)
def test_faces_are_found_again(name: str, edit: Callable[[Made], None]) -> None:
    make, tags = PARTS[name]
    made = make()
    solid = solid_of(made)
    refs = {}
    for tag in tags:
        (index,) = tagged(solid, tag)
        refs[tag] = (reference(solid, index), surface(faces(solid.shape)[index]))
    edit(made)
    for tag, (ref, was) in refs.items():
        now, carried = found(made, ref)
        assert tag in carried
        assert now.kind == was.kind
        if was.kind == "cylinder":
            assert now.radius == pytest.approx(was.radius) and now.hollow == was.hollow
        else:
            assert now.direction == pytest.approx(was.direction, abs=1e-9)


@pytest.mark.parametrize("edit", EDITS, ids=lambda e: e.__name__)
def test_rounds_keep_their_names_and_the_edges_beside_them(edit: Callable[[Made], None]) -> None:
    made = rounded_box()
    solid = solid_of(made)
    every = faces(solid.shape)
    rounds = {t: i for i, f in enumerate(every) for t in solid.face_tags(f) if "/round/" in t}
    assert len(rounds) == 4
    kept = {t: (reference(solid, i), face_centre(every[i])) for t, i in rounds.items()}
    beside = [(e, sides) for e, sides in neighbours(solid) if len(sides) == 2 and set(sides) & set(rounds.values())]
    edges = [edge_reference(solid, e, sides) for e, sides in beside]
    edit(made)
    for tag, (ref, _) in kept.items():
        now, carried = found(made, ref)
        assert tag in carried and now.kind == "cylinder" and now.radius == pytest.approx(3)
    after = solid_of(made)
    assert all(edge([after], r) is not None for r in edges)


def test_what_is_gone_is_not_found_elsewhere() -> None:
    made = row()
    solid = solid_of(made)
    (last,) = tagged(solid, "s5/i3/s4/end")
    ref = reference(solid, last)
    made.do("set_step", step="s5", changes={"count": "3"})
    assert face([solid_of(made)], ref) is None
    made.do("set_step", step="s5", changes={"count": "4", "left_out": [(3, 0)]})
    assert face([solid_of(made)], ref) is None
    made.do("set_step", step="s5", changes={"left_out": []})
    assert face([solid_of(made)], ref) is not None


def test_a_sketch_on_a_copy_stays_with_it() -> None:
    made = row()
    made.sketch("s6", made.face("s5/i2/s4/end"))
    at = made.build().frames["s6"].origin
    made.do("set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "8"}})
    made.do("set_step", step="s5", changes={"spacing": "10"})
    moved = made.build().frames["s6"].origin
    assert moved[2] == pytest.approx(at[2] + 3)
    assert made.build().reports[-1].sentence == ("Sketch on the copy 2 of the end face of step 40 (step 50)")

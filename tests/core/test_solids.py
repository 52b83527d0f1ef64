"""Extrusions against closed forms; faces by origin; references that survive; failures that keep the part."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.inspect.mass import mass
from sulvak_core.naming import find
from sulvak_core.naming.model import FaceRef
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.state import Cache, Kept
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.bulk import bulk
from sulvak_core.solid.measure import neighbours, surface
from sulvak_core.solid.mesh import mesh, packed
from sulvak_core.solid.shapes import faces
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import arc, circle, line, rectangle, sizes


@given(st.floats(0.1, 500), st.floats(0.1, 500), st.floats(0.1, 300), st.sampled_from(["front", "top", "right"]))
@settings(max_examples=examples(25), deadline=None)
def test_a_block_is_exact_on_every_plane(w: float, h: float, depth: float, plane: str) -> None:
    made = Made()
    made.sketch("s1", plane, rectangle(w=w, h=h))
    made.extrude("s2", "s1", repr(depth))
    b = bulk(made.build().state.bodies[0].solid)
    assert b.volume == pytest.approx(w * h * depth, rel=1e-9)
    assert b.area == pytest.approx(2 * (w * h + w * depth + h * depth), rel=1e-9)
    centre = {"top": (w / 2, h / 2, depth / 2), "front": (w / 2, -depth / 2, h / 2), "right": (depth / 2, w / 2, h / 2)}
    assert b.centre == pytest.approx(centre[plane], rel=1e-9, abs=1e-9)


def test_a_tube_with_an_island_and_inertia() -> None:
    made = Made(material="Brass CW614N")
    made.sketch("s1", "top", Sketch(entities=[circle(1, (0, 0), 10), circle(2, (0, 0), 6), circle(3, (0, 0), 2)]))
    made.extrude("s2", "s1", "30")
    told = mass(made.document, made.build().state)
    area = math.pi * (100 - 36 + 4)
    assert told["volume"] == pytest.approx(area * 30, rel=1e-12)
    assert told["mass"] == pytest.approx(area * 30 * 8.47e-3, rel=1e-12)
    assert len(told["bodies"]) == 2
    # about the axis: ½·π·ρ·h·(R⁴ − r⁴ + s⁴)
    about_z = 0.5 * math.pi * 8.47e-3 * 30 * (10**4 - 6**4 + 2**4)
    assert told["inertia"][2][2] == pytest.approx(about_z, rel=1e-9)
    # across: ¼·π·ρ·h·(R⁴ − …) + m·h²/12
    assert told["inertia"][0][0] == pytest.approx(about_z / 2 + told["mass"] * 900 / 12, rel=1e-9)


@pytest.mark.parametrize(
    ("operation", "depth", "more", "volume"),
    [
        ("cut", "4", {}, 12000 - 25 * math.pi * 4),
        ("cut", "10", {}, 12000 - 25 * math.pi * 10),
        ("cut", "400", {}, 12000 - 25 * math.pi * 10),
        ("cut", None, {}, 12000 - 25 * math.pi * 10),
        ("cut", "8", {"kind": "symmetric"}, 12000 - 25 * math.pi * 4),
        ("add", "6", {}, 12000 + 25 * math.pi * 6),
        ("add", "6", {"kind": "symmetric"}, 12000 + 25 * math.pi * 3),
        ("new", "6", {}, 12000 + 25 * math.pi * 6),
        ("add", "14", {"reverse": True}, 12000 + 25 * math.pi * 4),
    ],
)
def test_extents_on_a_face(operation: str, depth: str | None, more: dict, volume: float) -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", depth, operation, **more)
    assert made.volume() == pytest.approx(volume, rel=1e-12)
    assert len(made.build().state.bodies) == (2 if operation == "new" else 1)


def test_a_cut_that_removes_nothing_offers_to_turn_round() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", "3", "cut", reverse=True)
    report = made.build().reports[-1]
    assert report.state == "failed"
    assert "removes nothing" in report.said
    assert report.offers["offer"] == {"label": "Turn round", "changes": {"reverse": False}}
    made.do("set_step", step="s4", changes={"reverse": False})
    assert made.volume() == pytest.approx(12000 - 75 * math.pi)
    made.do("set_step", step="s3", changes={})
    outside = plate()
    outside.sketch("s3", "top", disc((200, 15), 5))
    outside.extrude("s4", "s3", None, "cut")
    report = outside.build().reports[-1]
    assert "removes nothing" in report.said
    assert "offer" not in report.offers


def test_what_cannot_be_done_is_said_and_the_part_stays() -> None:
    made = plate()
    before = made.volume()
    made.sketch("s3", "top", Sketch(entities=[line(1, (0, 0), (9, 0)), line(2, (9, 0), (9, 9))]))
    made.extrude("s4", "s3", "5")
    build = made.build()
    assert [r.state for r in build.reports] == ["ok", "ok", "ok", "failed"]
    assert "no closed profile" in build.reports[3].said
    assert "2 open ends" in build.reports[3].said
    assert build.state.volume() == pytest.approx(before)
    made.sketch("s5", "top", disc((5, 5), 2))
    made.extrude("s6", "s5", None, "cut")
    assert made.build().state.volume() == pytest.approx(before - 40 * math.pi)
    for depth in ("0", "-3"):
        with pytest.raises(Refusal, match="more than zero"):
            made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": depth}})
    empty = Made()
    empty.sketch("s1", "top", disc((0, 0), 3))
    empty.extrude("s2", "s1", None, "cut")
    assert "nothing yet to cut" in empty.build().reports[1].said


def test_through_all_adds_nothing() -> None:
    made = plate()
    made.do("add_step", step={"kind": "extrude", "id": "s9", "sketch": "s1", "extent": {"kind": "through_all"}})
    assert "for cutting" in made.build().reports[-1].said


def test_bodies_stand_apart_join_and_fall_apart() -> None:
    made = plate()
    made.sketch("s3", "top", disc((100, 0), 5))
    made.extrude("s4", "s3", "10")
    build = made.build()
    assert [b.id for b in build.state.bodies] == ["s2", "s4"]
    assert "stands apart" in build.reports[-1].said
    made.sketch("s5", "top", rectangle(1, 30, 0, 80, 3, held=False))
    made.extrude("s6", "s5", "10")
    build = made.build()
    assert [b.id for b in build.state.bodies] == ["s2"]
    assert "joins" in build.reports[-1].said
    made.sketch("s7", "top", rectangle(1, 15, -50, 2, 100, held=False))
    made.extrude("s8", "s7", None, "cut")
    build = made.build()
    assert [b.id for b in build.state.bodies] == ["s2", "s2x2"]
    assert "falls into 2" in build.reports[-1].said


def test_names_colours_and_materials_of_bodies() -> None:
    made = plate(material="Brass CW614N")
    step = {"kind": "body", "id": "s3", "body": "s2", "title": "Base", "colour": "#336699", "material": "ABS"}
    made.do("add_step", step=step)
    body = made.build().state.bodies[0]
    assert (body.title, body.colour, body.material) == ("Base", "#336699", "ABS")
    assert mass(made.document, made.build().state)["mass"] == pytest.approx(12 * 1.05)


# -- faces by origin ----------------------------------------------------------------------------


def tags(made: Made) -> list[set[str]]:
    return [set(b.solid.face_tags(f)) for b in made.build().state.bodies for f in faces(b.shape)]


def test_every_face_has_an_origin_through_cuts_and_unions() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", "3", "cut")
    made.sketch("s5", made.face("s2/side/l2"), rectangle(1, 5, 2, 20, 5, held=False))
    made.extrude("s6", "s5", "4")
    found = tags(made)
    assert all(found)
    assert {"s4/side/c1"} in found
    assert {"s4/end"} in found
    assert {"s6/end"} in found
    assert sum("s2/side/l2" in t for t in found) == 1


def test_faces_that_become_one_keep_both_names() -> None:
    made = plate()
    made.sketch("s3", "top", rectangle(1, 40, 0, 10, 30, held=False))
    made.extrude("s4", "s3", "10")
    found = tags(made)
    assert {"s2/end", "s4/end"} in found
    assert {"s2/side/l1", "s4/side/l1"} in found
    assert len(found) == 6


EDITS = {
    "wider": lambda m: m.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "77"}),
    "deeper": lambda m: m.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "23"}}),
    "a notch added": lambda m: (
        m.do("add_step", step={"kind": "sketch", "id": "s8", "on": {"kind": "datum", "plane": "top"}}, after="s2"),
        m.do("sketch_add", step="s8", entities=[circle(1, (0, 0), 4).model_dump(mode="json")]),
        m.do(
            "add_step",
            step={"kind": "extrude", "id": "s9", "sketch": "s8", "operation": "cut", "extent": {"kind": "through_all"}},
            after="s8",
        ),
    ),
    "a hole in the base's sketch": lambda m: m.do(
        "sketch_add", step="s1", entities=[circle(7, (33, 25), 2).model_dump(mode="json")]
    ),
    "symmetric": lambda m: m.do("set_step", step="s2", changes={"extent": {"kind": "symmetric", "depth": "10"}}),
}


@pytest.mark.parametrize("edit", sorted(EDITS))
@pytest.mark.parametrize("origin", ["s2/end", "s2/start", "s2/side/l1", "s2/side/l2", "s2/side/l3"])
def test_a_sketch_on_a_face_survives(edit: str, origin: str) -> None:
    made = plate()
    made.sketch("s3", made.face(origin), disc((8, 5), 1.5))
    made.extrude("s4", "s3", "2")
    before = made.build()
    assert not before.failed
    EDITS[edit](made)
    after = made.build()
    assert not after.failed, [r.said for r in after.failed]
    hit = find.face([b.solid for b in after.state.bodies], FaceRef(origins=[origin]))
    assert hit is not None
    plane = surface(hit.face)
    frame = after.frames["s3"]
    assert plane.direction == pytest.approx(frame.normal, abs=1e-12)
    assert sum((a - b) * n for a, b, n in zip(plane.at, frame.origin, frame.normal, strict=True)) == pytest.approx(
        0, abs=1e-9
    )


def test_pieces_of_a_split_face_are_told_apart_and_a_lost_one_is_said() -> None:
    made = plate()
    made.sketch("s3", "top", rectangle(1, 18, -5, 4, 50, held=False))
    made.extrude("s4", "s3", None, "cut")
    tops = [f for b in made.build().state.bodies for f in faces(b.shape) if "s2/end" in b.solid.face_tags(f)]
    assert len(tops) == 2
    solids = [b.solid for b in made.build().state.bodies]
    refs = [find.reference(s, i) for s in solids for i, f in enumerate(faces(s.shape)) if "s2/end" in s.face_tags(f)]
    wide = plate(w=60)
    wide.sketch("s3", "top", rectangle(1, 18, -5, 4, 50, held=False))
    wide.extrude("s4", "s3", None, "cut")
    after = [b.solid for b in wide.build().state.bodies]
    sides = {"s2/side/l4": 9, "s2/side/l2": 41}  # the piece beside the left end, the one beside the right end
    for ref in refs:
        hit = find.face(after, ref)
        assert hit is not None
        beside = next(s for s in sides if s in ref.ring)
        from sulvak_core.solid.measure import face_centre

        assert face_centre(hit.face)[0] == pytest.approx(sides[beside])
    made.sketch("s5", made.face("s4/side/l2"), disc((5, 5), 1))
    made.do("set_step", step="s4", changes={"suppressed": True})
    report = next(r for r in made.build().reports if r.id == "s5")
    assert report.state == "failed"
    assert "wall of step 40 from line 2" in report.said
    assert report.offers["pick"] == "face"


# -- the route ------------------------------------------------------------------------------------


def test_only_what_changed_is_built_again() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", "3", "cut")
    made.build()
    made.cache.hits = made.cache.misses = 0
    made.do("set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "4"}})
    made.build()
    assert (made.cache.hits, made.cache.misses) == (1, 1)
    made.do("set_step", step="s4", changes={"extent": {"kind": "depth", "depth": "2 + 1"}, "name": "Pocket"})
    made.build()
    assert (made.cache.hits, made.cache.misses) == (3, 1)  # the value it had before: nothing is built


def test_hold_point_and_suppression() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", "3", "cut")
    made.do("set_hold", step="s2")
    build = made.build()
    assert [r.state for r in build.reports] == ["ok", "ok", "held", "held"]
    assert build.state.volume() == pytest.approx(12000)
    made.do("set_hold", step="s4")
    assert made.document.hold is None
    made.do("set_step", step="s2", changes={"suppressed": True})
    assert [r.state for r in made.build().reports] == ["ok", "suppressed", "failed", "failed"]


def test_results_survive_in_a_store() -> None:
    kept: dict[str, bytes] = {}

    class Shelf:
        def get(self, key: str) -> bytes | None:
            return kept.get(key)

        def put(self, key: str, data: bytes) -> None:
            kept[key] = data

    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", "3", "cut")
    made.cache = Cache(Shelf())
    made.build()
    key, entry = next(iter(made.cache.memory.items()))
    kept[key] = Kept.from_bytes(entry.to_bytes()).to_bytes()
    fresh = Cache(Shelf())
    made.cache = fresh
    assert made.volume() == pytest.approx(12000 - 75 * math.pi, rel=1e-12)
    assert fresh.hits >= 1
    assert all(tags(made))


def test_the_mesh_is_closed_and_small() -> None:
    made = Made()
    made.sketch(
        "s1", "front", Sketch(entities=[arc(1, (0, 0), 10, -90, 90), line(1, (0, 10), (0, -10)), circle(1, (4, 0), 2)])
    )
    made.extrude("s2", "s1", "5")
    solid = made.build().state.bodies[0].solid
    m = mesh(solid, [e for e, _ in neighbours(solid)])
    p = m.points[m.triangles]
    volume = (p[:, 0] * _cross(p[:, 1], p[:, 2])).sum() / 6
    assert volume == pytest.approx(bulk(solid).volume, rel=0.02)
    assert len(packed(m)) < 0.5 * (84 + 50 * len(m.triangles))
    assert len(m.face_start) == len(faces(solid.shape))


def _cross(a, b):  # type: ignore[no-untyped-def]
    import numpy as np

    return np.cross(a, b)


def test_the_sketch_of_the_demo_is_dimensioned_in_named_values() -> None:
    made = plate()
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"name": "width"})
    made.do("set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "width/4"}})
    made.do("set_value", name="wall", expr="width/20")
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "width - 5*wall"})
    assert made.volume() == pytest.approx(40 * 30 * 10)
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "80"})
    assert made.volume() == pytest.approx(80 * 60 * 20)
    assert sizes("radius 1 c1")[0].name == ""

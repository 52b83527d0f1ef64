"""What of a sketch hangs together: freedom, edits and regions by components are those of the whole sketch."""

from __future__ import annotations

import copy
import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from sulvak_core.part.errors import Refusal
from sulvak_core.sketch import edit, freedom, profiles
from sulvak_core.sketch.components import components, parted
from sulvak_core.sketch.identity_cache import IdentityCache
from sulvak_core.sketch.model import Line, Sketch, points_of
from sulvak_core.sketch.profiles import network, profile
from sulvak_core.sketch.regions import Region, nest
from sulvak_core.sketch.solve import Drag, solve
from sulvak_core.steps.registry import Opened, load, to_json
from sulvak_core.steps.shared import sketch_step
from tests.examples import examples

from .sketches import arc, circle, ellipse, line, numerical_freedom, rectangle, residual, sizes, text, ties
from .sketches import values as now
from .test_solver import VALUES, loose_sketches


def shifted(sketch: Sketch, by: int) -> Sketch:
    """The same sketch under other numbers."""

    def ref(r: str) -> str:
        ident, dot, rest = r.partition(".")
        return r if ident in ("origin", "x", "y") else f"{ident[0]}{int(ident[1:]) + by}{dot}{rest}"

    def renamed(t: Any) -> Any:
        return t.model_copy(
            update={"id": ref(t.id), **({"refs": [ref(r) for r in t.refs]} if hasattr(t, "refs") else {})}
        )

    return Sketch(
        entities=[renamed(e) for e in sketch.entities],
        constraints=[renamed(c) for c in sketch.constraints],
        dimensions=[renamed(d) for d in sketch.dimensions],
    )


def mixed(*sketches: Sketch) -> Sketch:
    """Several sketches in one, drawn by turns."""
    many = [shifted(s, 100 * n) for n, s in enumerate(sketches)]
    found: dict[str, list[Any]] = {}
    for field in ("entities", "constraints", "dimensions"):
        lists = [list(getattr(s, field)) for s in many]
        found[field] = [items.pop(0) for k in range(max(map(len, lists))) for items in lists if items]
    return Sketch(**found)


@given(st.lists(loose_sketches(), min_size=1, max_size=3))
@settings(max_examples=examples(25), deadline=None)
def test_freedom_by_components_is_that_of_the_whole(sketches: list[Sketch]) -> None:
    whole = mixed(*sketches)
    parts = components(whole)
    assert sorted(e.id for p in parts for e in p.entities) == sorted(e.id for e in whole.entities)
    assert sorted(c.id for p in parts for c in p.constraints) == sorted(c.id for c in whole.constraints)
    for _ in range(2):  # worked out, and remembered
        found, all_at_once = freedom.freedom(whole, {}, with_motions=False), freedom.freedom(whole, {})
        assert (found.count, found.loose) == (all_at_once.count, all_at_once.loose)
    assert found.count == sum(freedom.freedom(p, {}).count for p in parts)


def test_where_curves_touch_counts_to_what_touches() -> None:
    """Two ellipses that touch have variables of their own for where they do."""
    touching = Sketch(
        entities=[ellipse(1, (0, 5), 8, 4), ellipse(2, (14, 6), 5, 3)],
        constraints=ties("fixed e1.c", "horizontal e1.c e1.m", "tangent e1 e2"),
    )
    touching = solve(touching, {}).sketch
    whole = mixed(touching, rectangle(), touching)
    assert len(components(whole)) == 3
    for sketch in (touching, whole):
        found = freedom.freedom(sketch, now(sketch), with_motions=False)
        assert found.count == freedom.freedom(sketch, now(sketch)).count == numerical_freedom(sketch)


PLATE = rectangle(held=False).model_copy(update={"dimensions": sizes("distance 40 l1")})
FREE = Sketch(entities=[line(1, (60, 0), (80, 5)), circle(1, (70, 20), 4)], constraints=ties("tangent c1 l1"))


def standing() -> Sketch:
    whole = mixed(PLATE, FREE, PLATE)
    return solve(whole, VALUES.all(whole)).sketch


def drawn(sketch: Sketch) -> edit.Edit:
    new = line(900, (81, 6), (95, 30))
    return edit.add(sketch, VALUES, [new], [tied("coincident l900.p l101.q")], [sized("distance 33 l900")])


EDITS = {
    "add": (drawn, {"l101", "c101"}),
    "refer": (
        lambda s: edit.add(
            s, VALUES, dimensions=[sized("distance 1 c101.c l2.p").model_copy(update={"driving": False})]
        ),
        set(),
    ),
    "size": (lambda s: edit.change_dimension(s, VALUES, s.dimensions[0].id, {"expr": "52"}), {"l1", "l2", "l3", "l4"}),
    "drag": (lambda s: edit.drag(s, VALUES, "c101.c", (75, 33)), {"l101", "c101"}),
}


def tied(row: str) -> Any:
    return ties(row)[0].model_copy(update={"id": "k900"})


def sized(row: str) -> Any:
    return sizes(row)[0].model_copy(update={"id": "d900"})


@pytest.mark.parametrize("name", EDITS)
def test_what_an_edit_does_not_touch_stays_the_same_object(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    change, touched = EDITS[name]
    before = standing()
    old = {x.id: x for items in (before.entities, before.constraints, before.dimensions) for x in items}
    after = change(before).sketch
    for e in after.entities:
        assert e is old.get(e.id) or e.id in {*touched, "l900"}
    assert all(c is old[c.id] for c in after.constraints if c.id in old)
    assert residual(after) < 1e-9
    monkeypatch.setattr(edit, "parted", lambda sketch, idents: None)
    whole = change(before).sketch
    assert [t.id for t in edit.ties_of(after)] == [t.id for t in edit.ties_of(whole)]
    for e, other in zip(after.entities, whole.entities, strict=True):
        for ref, at in points_of(e).items():
            assert math.dist(at, points_of(other)[ref]) < 1e-7


def test_what_does_not_hold_elsewhere_is_put_right_as_well() -> None:
    """A sketch whose other parts do not stand as their sizes say is solved as a whole."""
    wrong = mixed(PLATE, FREE)
    wrong = wrong.model_copy(update={"dimensions": [d.model_copy(update={"expr": "41"}) for d in wrong.dimensions[:1]]})
    assert residual(wrong) > 1e-4
    assert residual(edit.drag(wrong, VALUES, "c101.c", (75, 33)).sketch) < 1e-9


def test_what_fights_is_told_as_in_the_whole_sketch(monkeypatch: pytest.MonkeyPatch) -> None:
    sketch = standing()
    said = []
    for _ in range(2):
        with pytest.raises(Refusal) as refused:
            edit.add(sketch, VALUES, dimensions=[sized("distance 77 l1.p l3.p horizontal")])
        said.append((refused.value.sentence, refused.value.detail))
        monkeypatch.setattr(edit, "parted", lambda sketch, idents: None)
    assert said[0] == said[1]
    assert said[0][1]["reason"] == "conflict"


def test_what_is_dragged_moves_as_in_the_whole_sketch() -> None:
    sketch = standing()
    held = edit.taken(sketch, VALUES, "c101.c")
    assert {e.id for e in held.sketch.entities} == {"l101", "c101"}
    whole = Drag(sketch, VALUES.all(sketch), "c101.c")
    for place in ((72.0, 25.0), (90.0, 40.0)):
        there = {e.id: e for e in whole.to(*place).entities}
        for e in held.to(*place).entities:
            for ref, at in points_of(e).items():
                assert math.dist(at, points_of(there[e.id])[ref]) < 1e-7


def test_ties_to_the_origin_join_nothing_and_those_of_axes_alone_concern_all() -> None:
    sketch = mixed(rectangle(), rectangle())
    assert len(components(sketch)) == 2
    apart = parted(sketch, {"l1"})
    assert apart is not None
    assert {e.id for e in apart[0].entities} == {"l1", "l2", "l3", "l4"}
    assert parted(sketch, {"l1", "l101"}) is None
    only = sketch.model_copy(update={"constraints": [*sketch.constraints, *ties("perpendicular x y")]})
    assert parted(only, {"k1", "l1"}) is None


# -- regions -------------------------------------------------------------------------------------------

place = st.tuples(st.floats(-60, 60), st.floats(-60, 60)).map(lambda p: (round(p[0], 2), round(p[1], 2)))


@st.composite
def drawings(draw: st.DrawFn) -> Sketch:
    found: list[Any] = []
    for n in range(1, draw(st.integers(1, 9)) + 1):
        at, size = draw(place), draw(st.floats(1, 25))
        kind = draw(st.sampled_from(["box", "circle", "line", "arc", "ellipse", "text"]))
        if kind == "box":
            found += rectangle(10 * n, *at, size, size / 2, held=False).entities
        elif kind == "circle":
            found.append(circle(n, at, size))
        elif kind == "line":
            found.append(line(10 * n + 9, at, (at[0] + size, at[1] + draw(st.floats(-20, 20)))))
        elif kind == "arc":
            found.append(arc(n, at, size, 20, draw(st.floats(60, 350))))
        elif kind == "ellipse":
            found.append(ellipse(n, at, size, size / 2))
        else:
            found.append(text(n, "i", at, (at[0] + size, at[1])))
    given = draw(st.lists(st.sampled_from([e.id for e in found]), unique=True, max_size=4))
    return Sketch(entities=found, given=given)


def told(regions: list[Region]) -> list[Any]:
    return sorted((round(r.area, 6), r.depth, r.around, len(r.holes)) for r in regions)


@given(drawings())
@settings(max_examples=examples(60), deadline=None)
def test_regions_by_clumps_are_those_of_the_whole(sketch: Sketch) -> None:
    web, given = network(sketch), set(sketch.given)
    found = profile(sketch)
    assert told(found.regions) == told(web.regions())
    whole = nest(profiles._faces(profiles._drawn(web.single, given))) if given else web.regions()
    assert told(found.drawn) == told(whole)
    ends = [n for n, around in web.around.items() if len(around) == 1 and web.edges[around[0]][2].entity not in given]
    assert sorted(found.open_ends) == sorted(web.nodes[n] for n in ends)


def test_a_curve_drawn_works_out_its_own_clump_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    many = Sketch(entities=[e for k in range(20) for e in rectangle(10 * k + 1, 50 * k, 0, held=False).entities])
    assert len(profile(many).regions) == 20
    seen: list[list[str]] = []
    clump = profiles._clump
    monkeypatch.setattr(profiles, "_clump", lambda b, *more: seen.append([e.id for e in b]) or clump(b, *more))
    more = many.model_copy(update={"entities": [*many.entities, circle(1, (20, 15), 5)]})
    assert len(profile(more).regions) == 21
    assert seen == [["c1"]]


# -- what is remembered --------------------------------------------------------------------------------


def test_findings_go_with_the_objects_longest_not_asked_for() -> None:
    memory: IdentityCache[str] = IdentityCache(most=4)
    a, b, c = [object(), object()], [object(), object()], [object(), object()]
    assert memory.put("a", a, 1) == "a"
    memory.put("b", b, 1)
    assert memory.get(a, 1) == "a"
    assert memory.get(a, 2) is None
    memory.put("c", c, 1)
    assert (memory.get(a, 1), memory.get(b, 1), memory.get(c, 1)) == ("a", None, "c")


def test_what_findings_are_about_never_changes() -> None:
    drawn_line = line(1, (0, 0), (1, 0))
    assert isinstance(drawn_line, Line)
    for thing, field in ((drawn_line, "p"), (ties("horizontal l1")[0], "kind"), (sizes("distance 1 l1")[0], "expr")):
        with pytest.raises(ValidationError):
            setattr(thing, field, getattr(thing, field))


def test_a_change_taken_back_finds_again_what_was_known() -> None:
    """Data read again are the same objects where they are equal, and share what they are written as."""
    sketch = mixed(PLATE, FREE).model_dump(mode="json")
    on = {"kind": "datum", "plane": "top"}
    document = load({"name": "plate", "steps": [{"kind": "sketch", "id": "s1", "on": on, "sketch": sketch}]})
    before = Opened(to_json(document), document)
    changed = copy.deepcopy(before.data)
    changed["steps"][0]["sketch"]["entities"][0]["p"] = [-1.0, 0.0]
    after = load(changed, before)
    old, new = sketch_step(document, "s1").sketch, sketch_step(after, "s1").sketch
    shared = [a is b for a, b in zip(old.entities, new.entities, strict=True)]
    assert shared == [False, *[True] * (len(shared) - 1)]
    assert all(a is b for a, b in zip(edit.ties_of(old), edit.ties_of(new), strict=True))
    data = to_json(after, before)
    assert data == changed == after.model_dump(mode="json")
    assert list(data["steps"][0]) == list(before.data["steps"][0])
    raw, was = (d["steps"][0]["sketch"]["entities"] for d in (data, before.data))
    assert [a is b for a, b in zip(raw, was, strict=True)] == shared

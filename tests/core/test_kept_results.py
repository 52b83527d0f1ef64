"""What is kept between builds: by content and by object, tried results apart; what a preview works out."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.rebuild import engine
from sulvak_core.rebuild.difference import difference, sides_of
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache, Recent
from sulvak_core.sketch.model import Point, Sketch
from sulvak_core.steps.registry import load

from .parts import Made, disc, plate
from .sketches import circle


class Shelf:
    """A store that remembers what was put in."""

    def __init__(self) -> None:
        self.kept: dict[str, bytes] = {}

    def get(self, key: str) -> bytes | None:
        return self.kept.get(key)

    def put(self, key: str, data: bytes) -> None:
        self.kept[key] = data


@pytest.fixture
def slow(monkeypatch: pytest.MonkeyPatch) -> None:
    """Every step counts as one that took long."""
    monkeypatch.setattr(engine, "LASTING_SECONDS", -1.0)


def drilled(r: float = 3.0) -> Made:
    made = plate()
    made.sketch("s3", "top", Sketch(entities=[circle(1, (20, 15), r)]))
    made.extrude("s4", "s3", None, "cut")
    return made


@pytest.mark.usefixtures("slow")
def test_what_is_tried_goes_to_the_store_only_when_it_is_meant() -> None:
    document, shelf = drilled().document, Shelf()
    cache = Cache(shelf)
    cache.trying = True
    tried = build(document, cache)
    assert shelf.kept == {}
    assert len(cache.owed) == 2  # the extrusion and the cut
    cache.trying = False
    meant = build(document, cache)
    assert meant.key == tried.key
    assert (len(shelf.kept), cache.owed) == (2, set())
    fresh = Cache(shelf)
    again = build(document, fresh)
    assert fresh.misses == 0
    assert again.state.volume() == pytest.approx(meant.state.volume(), rel=1e-12)
    assert [r.said for r in again.reports] == [r.said for r in meant.reports]


@pytest.mark.usefixtures("slow")
def test_of_many_tries_only_those_still_in_memory_are_owed() -> None:
    cache = Cache(Shelf(), limit=50_000)
    cache.trying = True
    for r in (1.0, 2.0, 3.0, 4.0):
        build(drilled(r).document, cache)
    assert len(cache.owed) <= 2
    assert cache.owed <= set(cache.memory)


def test_what_is_worked_out_of_an_object_is_worked_out_once() -> None:
    cache, asked = Cache(), []

    def make(thing: Any) -> int:
        asked.append(thing)
        return len(asked)

    one, other = Sketch(), Sketch()
    assert [cache.of(one, "a", make), cache.of(one, "a", make), cache.of(one, "b", make)] == [1, 1, 2]
    assert cache.of(other, "a", make) == 3  # equal, and yet another object
    cache.known = Recent(1)
    assert (cache.of(one, "a", make), cache.of(other, "a", make), cache.of(one, "a", make)) == (4, 5, 6)


def test_a_part_read_anew_has_the_same_keys() -> None:
    """What is kept by object never shows in a result."""
    made = drilled()
    first = build(made.document, made.cache)
    plain = load(made.document.model_dump(mode="json"))
    assert build(plain, Cache()).key == build(plain, made.cache).key == first.key
    made.do("sketch_dimension", step="s1", dimension="d2", changes={"expr": "31"})
    assert build(made.document, made.cache).key != first.key


STEPS: list[tuple[str, dict[str, Any], tuple[str, ...]]] = [
    ("extrude", {"sketch": "s5", "operation": "add", "extent": {"kind": "depth", "depth": "14"}}, ("added",)),
    ("extrude", {"sketch": "s5", "operation": "new", "extent": {"kind": "depth", "depth": "14"}}, ("added",)),
    ("extrude", {"sketch": "s5", "operation": "cut", "extent": {"kind": "through_all"}}, ("removed",)),
    ("extrude", {"sketch": "s5", "operation": "intersect", "extent": {"kind": "depth", "depth": "4"}}, ("removed",)),
    ("hole", {"sketch": "s5", "diameter": "5"}, ("removed",)),
    ("fillet", {"groups": [{"edges": [{"by": "corners", "step": "s2"}], "radius": "2"}]}, ("added", "removed")),
    ("shell", {"faces": [], "thickness": "1"}, ("added", "removed")),
]


@pytest.mark.parametrize(("kind", "fields", "sides"), STEPS, ids=[f"{k} {f.get('operation', '')}" for k, f, _ in STEPS])
def test_a_preview_looks_only_where_a_step_can_change_something(
    kind: str, fields: dict[str, Any], sides: tuple[str, ...]
) -> None:
    made = plate()
    made.sketch("s5", made.face("s2/end") if fields.get("operation") == "cut" or kind == "hole" else "top",
                disc((10, 10), 4))  # fmt: skip
    before = made.build().state
    made.step(kind, "s6", **fields)
    after = made.build()
    assert not after.failed, [r.said for r in after.failed]
    assert sides_of(made.document.step("s6")) == sides
    whole = difference(before, after.state)
    part = difference(before, after.state, sides)  # type: ignore[arg-type]
    for side in ("added", "removed"):
        assert sum(v for _, _, v in part[side]) == pytest.approx(sum(v for _, _, v in whole[side]), rel=1e-9, abs=1e-9)
    gained = sum(v for _, _, v in part["added"]) - sum(v for _, _, v in part["removed"])
    if fields.get("operation") != "new":
        assert gained == pytest.approx(after.state.volume() - before.volume(), rel=1e-6)


# -- equal keys mean equal results ------------------------------------------------------------------------


def xy_plate() -> Made:
    """A plate with values x and y, whose names are also words of rules and choices."""
    made = plate()
    made.do("set_value", name="x", expr="2")
    made.do("set_value", name="y", expr="3")
    return made


def kept_and_fresh(made: Made, *changes: dict[str, Any]) -> None:
    """After every change the volume is that of a build that has kept nothing."""
    for change in changes:
        made.do(**change)
        assert made.volume() == pytest.approx(build(made.document, Cache()).state.volume(), rel=1e-12)


def test_a_rule_that_reads_like_a_value_is_no_value() -> None:
    made = xy_plate()
    edges = {"by": "along", "axis": "x", "step": "s2"}
    made.step("chamfer", "s3", form="two", first="x", second="y", edges=[edges])
    before = made.volume()
    kept_and_fresh(made, {"command": "set_step", "step": "s3", "changes": {"edges": [{**edges, "axis": "y"}]}})
    assert made.volume() != pytest.approx(before, rel=1e-6)


@pytest.mark.parametrize(
    "changes",
    [
        [{"first": "y", "second": "x"}, {"first": "x", "second": "y"}, {"first": "x", "second": "x"}],
        [{"form": "angle"}, {"form": "equal"}, {"form": "angle", "angle": "30"}],
        [{"edges": [{"by": "along", "axis": a, "step": "s2"}]} for a in "zyx"],
    ],
)
def test_every_change_of_a_step_is_told_by_its_key(changes: list[dict[str, Any]]) -> None:
    made = xy_plate()
    made.step("chamfer", "s3", form="two", first="x", second="y", edges=[{"by": "along", "axis": "x", "step": "s2"}])
    kept_and_fresh(made, *({"command": "set_step", "step": "s3", "changes": c} for c in changes))


def test_a_hole_at_a_point_that_is_construction_follows_it() -> None:
    made = plate()
    made.sketch("s3", "top", Sketch(entities=[Point(id="p1", at=(38, 15), construction=True)]))
    made.step("hole", "s4", sketch="s3", diameter="6", end="through", points=["p1"], reverse=True)
    assert made.volume() > 12000 - 280  # half of it beside the plate
    made.do("sketch_drag", step="s3", ref="p1", to=(20, 15))
    assert made.volume() == pytest.approx(12000 - 90 * math.pi, rel=1e-9)


def test_what_is_kept_weighs_no_more_than_the_limit_but_the_newest_stays() -> None:
    recent: Recent[int] = Recent(10, lambda v: v)
    for key, value in (("a", 4), ("b", 5), ("c", 6), ("a", 3), ("d", 2)):
        recent[key] = value
    assert list(recent) == ["a", "d"]
    assert recent.weight == sum(recent.values()) <= 10
    recent["e"] = 99
    assert list(recent) == ["e"]
    recent["f"] = 1
    assert (list(recent), recent.weight) == (["f"], 1)

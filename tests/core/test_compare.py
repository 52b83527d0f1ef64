"""Two states of a part held against each other."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.inspect.compare import Change, _moved, changes, volumes
from sulvak_core.rebuild.difference import difference
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import circle


def drilled() -> Made:
    made = plate(material="Aluminium EN AW-6082")
    made.sketch("s3", made.face("s2/end"), disc((10, 10), 3))
    made.extrude("s4", "s3", None, "cut", kind="through_all")
    return made


def told(edit: Callable[[Made], object]) -> list[Change]:
    made = drilled()
    before = made.document
    edit(made)
    return changes(before, made.document)


DEPTH = {"kind": "depth", "depth": "12"}
EDITS: list[tuple[str, Callable[[Made], object], list[Change]]] = [
    ("nothing", lambda m: None, []),
    (
        "a depth",
        lambda m: m.do("set_step", step="s2", changes={"extent": DEPTH}),
        [Change(20, "step", "Extrude sketch 10 by 10 mm", "Extrude sketch 10 by 12 mm")],
    ),
    (
        "a size of a sketch",
        lambda m: m.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "50"}),
        [Change(10, "distance of line 1", "40", "50")],
    ),
    (
        "a size becomes a reference",
        lambda m: m.do("sketch_dimension", step="s1", dimension="d1", changes={"driving": False}),
        [Change(10, "distance of line 1", "40", "(40)")],
    ),
    (
        "a circle more",
        lambda m: m.do("sketch_add", step="s3", entities=[circle(2, (30, 20), 2).model_dump()]),
        [Change(30, "entities", "1", "2 (1 new, 0 gone)")],
    ),
    (
        "the material",
        lambda m: m.do("set_part", changes={"material": "Copper, pure"}),
        [Change(None, "Material", "Aluminium EN AW-6082", "Copper, pure")],
    ),
    (
        "a value",
        lambda m: m.do("set_value", name="deep", expr="7"),
        [Change(None, "Value deep", "", "7")],
    ),
    (
        "a property",
        lambda m: m.do("set_part", changes={"properties": {"finish": "anodised"}}),
        [Change(None, "finish", "", "anodised")],
    ),
    (
        "a step left out",
        lambda m: m.do("set_step", step="s4", changes={"suppressed": True}),
        [Change(40, "suppressed", "no", "yes")],
    ),
    (
        "a step's name",
        lambda m: m.do("set_step", step="s4", changes={"name": "Cable hole"}),
        [Change(40, "name of the step", "", "Cable hole")],
    ),
    (
        "a step gone",
        lambda m: m.do("delete_step", step="s4"),
        [Change(40, "step gone", "Cut sketch 30 through all", "")],
    ),
    (
        "a step more",
        lambda m: m.step("shell", "s5", faces=[], thickness="2"),
        [Change(50, "new step", "", "Shell to a wall of 2 mm inwards")],
    ),
]


@pytest.mark.parametrize(("edit", "wanted"), [e[1:] for e in EDITS], ids=[e[0] for e in EDITS])
def test_each_change_is_told_once(edit: Callable[[Made], object], wanted: list[Change]) -> None:
    found = told(edit)
    assert [c.what for c in found] == [c.what for c in wanted]
    for one, other in zip(found, wanted, strict=True):
        assert one.step == other.step
        assert one.before.startswith(other.before)
        assert one.after.startswith(other.after)


def test_the_way_back_tells_the_same_turned_round() -> None:
    for _, edit, _ in EDITS:
        made = drilled()
        before = made.document
        edit(made)
        there, back = changes(before, made.document), changes(made.document, before)
        assert len(there) == len(back)
        values = [c for c in there if c.what in ("step", "Material", "suppressed", "distance of line 1")]
        assert [(c.after, c.before) for c in values] == [
            (c.before, c.after) for c in back if c.what in ("step", "Material", "suppressed", "distance of line 1")
        ]


def test_a_moved_step_is_told_and_those_it_passed_are_not() -> None:
    made = drilled()
    made.sketch("s5", "top", disc((60, 0), 4))
    made.extrude("s6", "s5", "5", "new")
    before = made.document
    made.do("move_step", step="s5", before="s1")
    found = changes(before, made.document)
    assert [(c.what, c.before, c.after) for c in found] == [("place on the route", "step 50", "step 10")]


@settings(max_examples=examples(200), deadline=None)
@given(st.permutations([f"s{i}" for i in range(8)]))
def test_the_fewest_moved_steps_explain_an_order(order: list[str]) -> None:
    """Without the moved ones both orders are the same, and no smaller set does that."""
    start = sorted(order)
    moved = _moved(start, order)
    assert [s for s in start if s not in moved] == [s for s in order if s not in moved]
    longest = max(len(run) for run in _rising([start.index(s) for s in order]))
    assert len(order) - len(moved) == longest


def _rising(numbers: list[int]) -> list[list[int]]:
    """Every longest rising run that ends at each place, by plain search."""
    runs: list[list[int]] = []
    for i, n in enumerate(numbers):
        best = max((r for r, end in zip(runs, numbers[:i], strict=True) if end < n), key=len, default=[])
        runs.append([*best, n])
    return runs


def test_what_came_and_went_by_volume() -> None:
    made = drilled()
    before = made.build().state
    made.do("set_step", step="s2", changes={"extent": DEPTH})
    taller = volumes(difference(before, made.build().state))
    assert taller["added"] == pytest.approx((1200 - 9 * math.pi) * 2, rel=1e-9)
    assert taller["removed"] == pytest.approx(0, abs=1e-6)
    made.do("set_step", step="s4", changes={"suppressed": True})
    filled = volumes(difference(before, made.build().state))
    assert filled["added"] == pytest.approx(12000 * 1.2 - (12000 - 90 * math.pi), rel=1e-9)
    back = volumes(difference(made.build().state, before))
    assert back["removed"] == pytest.approx(filled["added"], rel=1e-9)

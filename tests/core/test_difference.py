"""Patches between documents: exact both ways, and silent about what did not change."""

from __future__ import annotations

import copy
from typing import Any

import jsonpatch
from hypothesis import given
from hypothesis import strategies as st

from sulvak_core.part.difference import difference

leaf = st.none() | st.booleans() | st.integers(-9, 9) | st.floats(-9, 9) | st.text("a/~b", max_size=3)
plain = st.recursive(
    leaf, lambda x: st.lists(x, max_size=3) | st.dictionaries(st.text("k/~", max_size=3), x, max_size=3), max_leaves=6
)


def listed(inner: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    ids = st.lists(st.sampled_from("abcdefgh"), unique=True, max_size=8)
    return ids.flatmap(
        lambda names: st.tuples(*[st.fixed_dictionaries({"id": st.just(n)}, optional={"x": inner}) for n in names]).map(
            list
        )
    )


documents = st.fixed_dictionaries({}, optional={"steps": listed(listed(plain)), "name": leaf, "values": plain})


@given(documents, documents)
def test_a_patch_makes_the_one_from_the_other(before: Any, after: Any) -> None:
    kept = copy.deepcopy((before, after))
    made = jsonpatch.apply_patch(before, difference(before, after))
    assert made == after
    assert (before, after) == kept


def steps(*ids: str) -> dict[str, Any]:
    return {"steps": [{"id": i, "depth": "5"} for i in ids]}


def test_an_inserted_step_is_one_operation_and_touches_no_other() -> None:
    ops = difference(steps("a", "b", "c"), steps("a", "n", "b", "c"))
    assert ops == [{"op": "add", "path": "/steps/1", "value": {"id": "n", "depth": "5"}}]


def test_a_moved_step_is_one_move_either_way() -> None:
    first, last = steps("a", "b", "c", "d"), steps("b", "c", "d", "a")
    assert difference(first, last) == [{"op": "move", "from": "/steps/0", "path": "/steps/3"}]
    assert difference(last, first) == [{"op": "move", "from": "/steps/3", "path": "/steps/0"}]


def test_a_changed_field_is_named_alone() -> None:
    after = steps("a", "b")
    after["steps"][1]["depth"] = "6"
    assert difference(steps("a", "b"), after) == [{"op": "replace", "path": "/steps/1/depth", "value": "6"}]


def test_true_is_not_one() -> None:
    assert difference({"a": 1}, {"a": True}) == [{"op": "replace", "path": "/a", "value": True}]

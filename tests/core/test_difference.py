"""Patches between documents: exact both ways, and silent about what did not change."""

from __future__ import annotations

import copy
import json
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


def test_of_a_list_without_ids_what_came_and_went_is_told() -> None:
    many = [{"area": k, "at": [k, 0]} for k in range(20)]
    shorter = [*many[:3], *many[5:]]
    assert difference({"r": many}, {"r": shorter}) == [{"op": "remove", "path": f"/r/{i}"} for i in (4, 3)]
    assert difference({"r": shorter}, {"r": many}) == [
        {"op": "add", "path": f"/r/{i}", "value": many[i]} for i in (3, 4)
    ]
    assert difference({"r": many}, {"r": [many[-1], *many[:-1]]}) == [
        {"op": "remove", "path": "/r/19"},
        {"op": "add", "path": "/r/0", "value": many[-1]},
    ]
    one = [{**m, "area": -1} if m["area"] == 7 else m for m in many]
    assert difference({"r": many}, {"r": one}) == [{"op": "replace", "path": "/r/7/area", "value": -1}]


few = st.sampled_from([0, 1, True, 1.0, "a", None, {"x": 1}, {"x": True}, {"x": 2}, [1]]).map(copy.deepcopy)
lists = st.lists(few, max_size=9)


@given(lists, lists)
def test_any_list_becomes_any_other(before: Any, after: Any) -> None:
    made = jsonpatch.apply_patch({"r": before}, difference({"r": before}, {"r": after}))
    told, wanted = (json.dumps(x).replace("1.0", "1") for x in (made["r"], after))
    assert told == wanted

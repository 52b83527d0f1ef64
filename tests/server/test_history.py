"""Undo, redo and going back: exact, at any depth, whatever was done in between."""

from __future__ import annotations

import random
from typing import Any

import jsonpatch

from tests.conftest import Client, Part

WALK = 115  # changes: further than a document kept whole


def restored(part: Part, version: int) -> dict[str, Any]:
    status, answer = part.client.post(f"{part.path}/restore", {"version": part.now["version"], "to": version})
    assert status == 200, answer
    part.now = answer
    return dict(answer["document"])


def test_any_walk_of_changes_undo_and_redo_is_exact(wren: Client) -> None:
    """Against two plain stacks of documents; any version is had again as it was."""
    part = wren.new_part("Walk")
    draw = random.Random(14)
    at = {part.now["version"]: part.now["document"]}
    undo: list[tuple[Any, Any]] = []  # (before, after), the last on top
    redo: list[tuple[Any, Any]] = []
    for i in range(WALK):
        before = part.now["document"]
        ways = [*["command"] * 4, *["undo"] * (4 if undo else 0), *["redo"] * (3 if redo else 0)]
        way = draw.choice(ways)
        if way == "command":
            part.do(do="set_part", changes={"description": f"note {i}"})
            undo.append((before, part.now["document"]))
            redo.clear()
        elif way == "undo":
            assert part.travel("undo") == 200
            redo.append(undo.pop())
            assert part.now["document"] == redo[-1][0]
        else:
            assert part.travel("redo") == 200
            undo.append(redo.pop())
            assert part.now["document"] == undo[-1][1]
        assert (part.now["can_undo"], part.now["can_redo"]) == (bool(undo), bool(redo))
        at[part.now["version"]] = part.now["document"]
    for version in (0, 1, 57, 99, 100, 101, max(at)):
        assert restored(part, version) == at[version], version
    while part.now["can_undo"]:
        assert part.travel("undo") == 200
    assert part.now["document"] == at[0]
    assert part.travel("undo") == 422


def test_undo_gives_a_moved_inserted_and_deleted_step_back_exactly(wren: Client) -> None:
    part = wren.new_part("Exactly")
    part.block()
    start = part.now["document"]
    part.do(
        do="together",
        commands=[
            {"do": "set_step", "step": "s1", "changes": {"name": "Outline"}},
            {"do": "set_step", "step": "s2", "changes": {"note": "first", "suppressed": True}},
        ],
    )
    middle = part.now["document"]
    part.do(do="delete_step", step="s2")
    end = part.now["document"]
    for way, wanted in (("undo", middle), ("undo", start), ("redo", middle), ("redo", end), ("undo", middle)):
        assert part.travel(way) == 200
        assert {**part.now["document"], "used": 0} == {**wanted, "used": 0}


def test_what_is_told_as_changed_makes_the_part_before_into_the_part_after(wren: Client) -> None:
    """Answers that tell changes only, put onto what was known before, are what a whole answer says."""
    part = wren.new_part("Changes")
    part.block()
    circle = {"kind": "circle", "id": "c1", "c": [20, 15], "r": 4}
    hole = {"kind": "extrude", "id": "s4", "sketch": "s3", "operation": "cut", "extent": {"kind": "through_all"}}
    on_top = {"kind": "sketch", "id": "s3", "on": {"kind": "face", "face": {"origins": ["s2/end"]}}}
    commands: list[dict[str, Any]] = [
        {"do": "add_step", "step": {**on_top, "sketch": {"entities": [circle]}}},
        {"do": "add_step", "step": hole},
        {"do": "set_value", "name": "wall", "expr": "12"},
        {"do": "set_step", "step": "s2", "changes": {"extent": {"kind": "depth", "depth": "wall"}}},
        {"do": "set_callout", "callout": {"id": "b1", "number": 1, "text": "Ø8 THRU"}},
        {"do": "sketch_add", "step": "s3", "entities": [{**circle, "id": "c2", "c": [30, 15]}]},
        {"do": "sketch_drag", "step": "s3", "ref": "c2.c", "to": [32, 16]},
        {"do": "move_step", "step": "s4", "after": "s4"},
        {"do": "set_part", "changes": {"unit": "in"}},
        {"do": "set_step", "step": "s4", "changes": {"suppressed": True}},
        {"do": "delete_callout", "callout": "b1"},
        {"do": "delete_step", "step": "s4"},
    ]

    def told(path: str, **asked: Any) -> bool:
        now = part.now
        seen = {"version": now["version"], "settled": now["settled"], "answer": "changes"}
        status, answer = wren.post(f"{part.path}/{path}", {**seen, **asked})
        if status == 422:
            return False
        content = jsonpatch.apply_patch({k: now[k] for k in ("document", "sketches", "callouts")}, answer.pop("patch"))
        whole = wren.get(part.path)[1]
        assert {**now, **answer, **content, "said": [], "lost": []} == whole
        part.now = whole
        return True

    done = [told("commands", command=command) for command in commands]
    assert done.count(False) <= 1  # a step cannot be moved to where it stands
    while part.now["can_undo"]:
        assert told("undo")
    while part.now["can_redo"]:
        assert told("redo")

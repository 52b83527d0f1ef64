"""Undo, redo and going back: exact, at any depth, whatever was done in between."""

from __future__ import annotations

import random
from typing import Any

from tests.conftest import Client, Part

WALK = 115  # changes: further than a document kept whole


def restored(part: Part, version: int) -> dict[str, Any]:
    status, answer = part.client.post(f"{part.path}/restore", {"version": part.now["version"], "to": version})
    assert status == 200, answer
    part.now = answer
    return dict(answer["document"])


def test_any_walk_of_changes_undo_and_redo_is_exact(wren: Client) -> None:
    """Against two plain stacks of documents; versions before and after a document kept whole are had again as they were."""
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

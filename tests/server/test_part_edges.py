"""Edges of the part in sketches over the API: offered, used, followed when the part changes, undone with it."""

import math
import time
from typing import Any

import pytest

from tests.conftest import Client, Part

pytestmark = pytest.mark.usefixtures("service")


def on_top(part: Part) -> dict[str, Any]:
    """A sketch s3 on the block's top face; the face as the build names it."""
    faces = part.built()["bodies"][0]["faces"]
    top = next(f for f in faces if f["origins"] == ["s2/end"])
    ref = {"origins": top["origins"], "ring": top["ring"], "near": top["near"], "said": top["said"]}
    part.do(do="add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "face", "face": ref}})
    return ref


def edges(part: Part, step: str = "s3") -> list[dict[str, Any]]:
    status, found = part.client.get(f"{part.path}/sketches/{step}/edges")
    assert status == 200, found
    return list(found)


def sketch(part: Part, step: int = 2) -> dict[str, Any]:
    return dict(part.client.get(part.path)[1]["document"]["steps"][step]["sketch"])


def until(what: Any, wanted: Any) -> None:
    deadline = time.monotonic() + 60
    while what() != wanted and time.monotonic() < deadline:
        time.sleep(0.1)
    assert what() == wanted


def test_edges_are_offered_used_followed_and_undone(wren: Client) -> None:
    part = wren.new_part("Follows")
    part.block()
    part.do(do="sketch_add", step="s1", dimensions=[{"id": "d1", "kind": "distance", "refs": ["l2"], "expr": "30"}])
    on_top(part)
    found = edges(part)
    assert [e["in_plane"] for e in found[:4]] == [True] * 4
    back = next(e for e in found if e["in_plane"] and e["entity"]["p"][1] == e["entity"]["q"][1] == 30)
    part.do(do="sketch_add", step="s3", entities=[{**back["entity"], "id": "l1"}],
            projections=[{"of": back["of"], "entity": "l1"}])  # fmt: skip
    part.do(do="sketch_add", step="s3", entities=[{"kind": "circle", "id": "c1", "c": [20, 24], "r": 3}],
            dimensions=[{"id": "d1", "kind": "distance", "refs": ["c1.c", "l1"], "expr": "6"}])  # fmt: skip
    part.built()
    part.do(do="sketch_dimension", step="s1", dimension="d1", changes={"expr": "50"})
    version = part.now["version"]
    part.built()

    def off() -> float:
        """How far the circle's centre stands from the edge; its drawer asked for 6 mm."""
        edge, circle = sketch(part)["entities"]
        (px, py), (qx, qy), (cx, cy) = edge["p"], edge["q"], circle["c"]
        return abs((qx - px) * (cy - py) - (qy - py) * (cx - px)) / math.dist(edge["p"], edge["q"])

    def moved() -> bool:
        return math.dist(sketch(part)["entities"][0]["p"], back["entity"]["p"]) > 1

    until(moved, True)
    assert off() == pytest.approx(6)
    now = part.client.get(part.path)[1]
    assert now["version"] == version  # no change of anybody's: what followed from the last one
    part.now = now
    assert part.travel("undo") == 200
    part.built()
    assert not moved()
    assert part.travel("redo") == 200
    part.built()
    until(moved, True)
    assert off() == pytest.approx(6)


def test_what_cannot_be_asked_is_told(wren: Client) -> None:
    part = wren.new_part("Edges refused")
    part.block()
    assert edges(part, "s1") == []
    for step, said in [("s2", "no longer in the route"), ("s9", "no longer in the route")]:
        status, answer = part.client.get(f"{part.path}/sketches/{step}/edges")
        assert (status, said in answer["sentence"]) == (422, True)
    on_top(part)
    part.do(do="set_step", step="s2", changes={"suppressed": True})
    status, answer = part.client.get(f"{part.path}/sketches/s3/edges")
    assert status == 422
    assert "no place in the part" in answer["sentence"]
    stranger = Client(wren.service, None)
    assert stranger.get(f"{part.path}/sketches/s1/edges")[0] in (401, 403, 404)


def test_copying_commands_over_the_api(wren: Client) -> None:
    part = wren.new_part("Copies")
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    part.do(do="sketch_add", step="s1", entities=[{"kind": "circle", "id": "c1", "c": [10, 0], "r": 2}])
    answer = part.do(do="sketch_pattern", step="s1", ids=["c1"], counts=["5"], about="origin")
    assert answer["said"] == ["5 of circle 1 round the origin"]
    assert part.travel("undo") == 200
    assert len(part.now["document"]["steps"][0]["sketch"]["entities"]) == 1
    assert part.travel("redo") == 200
    assert len(part.now["document"]["steps"][0]["sketch"]["entities"]) == 5
    status, refused = part.send(do="sketch_repattern", step="s1", pattern="r1", changes={"count": "1.5"})
    assert (status, "whole number" in refused["sentence"]) == (422, True)
    values = part.client.get(f"{part.path}/values")[1]["values"]
    assert [(v["what"], v["value"]) for v in values] == [("count of pattern 1 of Sketch 10", 5)]
    entity = {"kind": "text", "id": "t1", "text": "8 g", "p": [0, 0], "q": [20, 0], "m": [0, 5], "c": [10, 2.5]}
    part.do(do="sketch_add", step="s1", entities=[entity])
    letters = part.now["sketches"]["s1"]["letters"]["t1"]
    assert letters.startswith("M")
    part.do(do="sketch_text", step="s1", entity="t1", text="12 g")
    assert part.now["sketches"]["s1"]["letters"]["t1"] != letters
    status, refused = part.send(do="sketch_text", step="s1", entity="t1", text="漢")
    assert (status, "no “漢”" in refused["sentence"]) == (422, True)
    history = part.client.get(f"{part.path}/history")[1]
    told = str(history)
    assert "made a pattern in a sketch" in told
    assert "changed a text in a sketch" in told

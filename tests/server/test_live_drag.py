"""Dragging over the live channel: solved on the server as the pointer moves, and only what moves is told."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from websockets.exceptions import InvalidStatus
from websockets.sync.client import ClientConnection, connect

from tests.conftest import Client, Part


@contextmanager
def channel(part: Part) -> Iterator[ClientConnection]:
    address = part.client.service.address
    cookies = "; ".join(f"{c.name}={c.value}" for c in part.client.jar)
    live = f"ws{address[4:]}/live/parts/{part.id}"
    with connect(live, origin=address, additional_headers={"Cookie": cookies}) as socket:
        yield socket


def answer(socket: ClientConnection, *kinds: str) -> dict[str, Any]:
    """The next message of one of these kinds."""
    while True:
        told = json.loads(socket.recv(20))
        if told["kind"] in kinds:
            return dict(told)


def drag(socket: ClientConnection, x: float, y: float, turn: int = 1) -> dict[str, Any]:
    socket.send(json.dumps({"kind": "drag", "x": x, "y": y, "turn": turn}))
    return answer(socket, "dragged", "refused")


def two_pieces(client: Client) -> Part:
    """A sketch of two lines joined at an end, and a circle that has nothing to do with them."""
    part = client.new_part("Dragged")
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    part.do(do="sketch_add", step="s1", entities=[
        {"kind": "line", "id": "l1", "p": (0, 0), "q": (20, 0)},
        {"kind": "line", "id": "l2", "p": (20, 0), "q": (20, 15)},
        {"kind": "circle", "id": "c1", "c": (60, 0), "r": 5},
    ], constraints=[{"id": "k1", "kind": "coincident", "refs": ["l1.q", "l2.p"]},
                    {"id": "k2", "kind": "horizontal", "refs": ["l1"]}])  # fmt: skip
    return part


def test_only_what_moves_is_told_and_nothing_is_stored(wren: Client) -> None:
    part = two_pieces(wren)
    with channel(part) as socket:
        socket.send(json.dumps({"kind": "drag_start", "step": "s1", "ref": "l1.q"}))
        told = drag(socket, 26.0, 4.0, turn=7)
        moved = {e["id"]: e for e in told["entities"]}
        assert told["turn"] == 7
        assert set(moved) == {"l1", "l2"}
        assert moved["l1"]["q"] == pytest.approx([26, 4], abs=1e-6) == moved["l2"]["p"]
        assert moved["l1"]["p"][1] == pytest.approx(4)  # level still
        back = drag(socket, 20.0, 0.0, turn=8)
        for e in back["entities"]:  # nearly where it began: told, since it is not the same to the last figure
            assert e["id"] in ("l1", "l2")
        socket.send(json.dumps({"kind": "drag_start", "step": "s1", "ref": "c1"}))
        told = drag(socket, 68.0, 0.0, turn=9)
        assert [e["id"] for e in told["entities"]] == ["c1"]
        assert told["entities"][0]["r"] == pytest.approx(8)
        socket.send(json.dumps({"kind": "drag_end"}))
    version = part.now["version"]
    assert wren.get(part.path)[1]["version"] == version
    lines = wren.get(part.path)[1]["document"]["steps"][0]["sketch"]["entities"]
    assert lines[0]["q"] == [20, 0]


def test_what_cannot_be_dragged_is_refused_in_words(wren: Client) -> None:
    part = two_pieces(wren)
    with channel(part) as socket:
        socket.send(json.dumps({"kind": "drag_start", "step": "s9", "ref": "l1.q"}))
        assert "no longer in the route" in answer(socket, "refused")["sentence"]
        for nonsense in (
            {"kind": "drag_start", "step": "s1", "ref": "zz"},
            {"kind": "drag_start"},
            {"kind": "drag_start", "step": 3},
        ):
            socket.send(json.dumps(nonsense))
            assert answer(socket, "refused")["sentence"]
        socket.send(json.dumps({"kind": "drag_start", "step": "s1", "ref": "l1.q"}))
        socket.send(json.dumps({"kind": "drag", "x": "far", "y": None}))
        assert "cannot be read" in answer(socket, "refused")["sentence"]
        for junk in (
            json.dumps(["not", "a", "request"]),
            "{",
            "[" * 9000,
            '{"kind": "nothing"}',
            '{"kind": ["drag"]}',
            b"\x00\x01",
        ):
            socket.send(junk)
            assert "cannot be read" in answer(socket, "refused")["sentence"]
        for far in ("1e400", "NaN", "-1e9"):
            socket.send(f'{{"kind": "drag", "x": {far}, "y": 0, "turn": 3}}')
            assert answer(socket, "refused")["sentence"]
        for turn in ("1e30", "-4", '"x"'):
            socket.send(f'{{"kind": "preview", "turn": {turn}, "command": null}}')
            assert answer(socket, "refused")["sentence"]
        assert drag(socket, 22.0, 0.0)["kind"] == "dragged"  # and the channel goes on


@pytest.mark.parametrize("origin", ["http://127.0.0.1:1", "http://elsewhere.example", "", "null"])
def test_only_pages_of_this_address_and_port_are_let_in(wren: Client, origin: str) -> None:
    part = two_pieces(wren)
    cookies = "; ".join(f"{c.name}={c.value}" for c in part.client.jar)
    live = f"ws{part.client.service.address[4:]}/live/parts/{part.id}"
    with pytest.raises(InvalidStatus):
        connect(live, origin=origin or None, additional_headers={"Cookie": cookies})  # type: ignore[arg-type]


def test_a_flood_of_drags_is_passed_over_and_others_are_served(wren: Client) -> None:
    part = two_pieces(wren)
    with channel(part) as socket, channel(part) as other:
        socket.send(json.dumps({"kind": "drag_start", "step": "s1", "ref": "l1.q"}))
        for k in range(3000):
            socket.send(json.dumps({"kind": "drag", "x": 20 + k / 100, "y": 1, "turn": k}))
        other.send(json.dumps({"kind": "drag_start", "step": "s1", "ref": "c1"}))
        assert drag(other, 70.0, 0.0, turn=1)["kind"] == "dragged"
        answered = 0
        with pytest.raises(TimeoutError):
            while True:
                answered += json.loads(socket.recv(2))["kind"] == "dragged"
        assert 0 < answered < 1500

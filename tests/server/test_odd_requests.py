"""Requests that hold what no text can be, or nothing that can be read: refused in a sentence."""

from __future__ import annotations

import json
from typing import Any

import pytest

from tests.conftest import Client

NUL, HALF = "a\\u0000b", "a\\ud800b"


@pytest.mark.parametrize("odd", [NUL, HALF])
def test_texts_that_are_none_are_refused_everywhere(wren: Client, odd: str) -> None:
    part = wren.new_part("Odd")
    headers = {"Content-Type": "application/json", "X-CSRFToken": wren.token()}
    version = part.now["version"]
    bodies = {
        f"{part.path}/commands": '{"version": %d, "command": {"do": "set_part", "changes": {"name": "%s"}}}',
        f"{part.path}/versions": '{"version": %d, "name": "%s"}',
        f"{part.path}/copy": '{"version": %d, "name": "%s"}',
        "/api/sign-in": '{"v": %d, "name": "%s", "password": "x"}',
        "/api/parts": f'{{"workspace": {wren.workspace()}, "v": %d, "name": "%s"}}',
    }
    for path, body in bodies.items():
        status, text, _ = wren.raw("POST", path, (body % (version, odd)).encode(), headers)
        assert status == 422, path
        assert "no text can have" in json.loads(text)["sentence"]
    named = f'{{"do": "set_part", "changes": {{"properties": {{"{odd}": "x"}}}}}}'
    properties = f'{{"version": {version}, "command": {named}}}'
    assert wren.raw("POST", f"{part.path}/commands", properties.encode(), headers)[0] == 422
    assert wren.get(part.path)[1]["version"] == version


def test_odd_paths_and_forms(wren: Client) -> None:
    part = wren.new_part("Odd paths")
    for path in ("/at/s%00", "/mesh/m%00", "/export/st%00ep"):
        status, text, _ = wren.raw("GET", part.path + path)
        assert (status, "sentence" in json.loads(text)) == (422, True)
    status, _ = wren.upload("/api/parts/import", "x.json", b"{}", workspace="1\x00")
    assert status == 422


@pytest.mark.parametrize(
    "body",
    [b"[" * 100_000, b'{"name": ' * 5000, b'{"name": ["x"], "password": "y"}', b"\xff\xfe", b"", b"null",
     b'{"name": "' + b"x" * 50_000 + b'", "password": "y"}'],
)  # fmt: skip
def test_sign_in_with_anything(service: Any, body: bytes) -> None:
    client = Client(service, None)
    headers = {"Content-Type": "application/json", "X-CSRFToken": client.token()}
    status, text, _ = client.raw("POST", "/api/sign-in", body, headers)
    assert status == 400
    assert json.loads(text)["sentence"] == "Give your name and your password."


def test_a_source_that_is_no_part_is_refused(wren: Client) -> None:
    part = wren.new_part("Sourced")
    source = {"part": "-" * 36, "name": "x", "which": "s2", "volume": 1, "area": 1, "centre": [0, 0, 0]}
    step = {"kind": "import", "id": "s1", "file": "0" * 64, "source": source}
    assert part.send(do="add_step", step=step)[0] == 422

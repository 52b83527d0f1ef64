"""Measuring over the API: who may ask, what is answered, what is refused."""

from __future__ import annotations

from typing import Any

import pytest

from tests.conftest import Client, Part, Service


@pytest.fixture
def block(wren: Client) -> Part:
    part = wren.new_part("Measured block")
    part.block()
    part.built()
    return part


def measure(part: Part, *picks: dict[str, Any], client: Client | None = None) -> tuple[int, Any]:
    return (client or part.client).post(f"{part.path}/measure", {"picks": list(picks)})


def face(part: Part, origin: str) -> dict[str, Any]:
    body = part.built()["bodies"][0]
    index = next(i for i, f in enumerate(body["faces"]) if origin in f["origins"])
    return {"body": body["id"], "kind": "face", "index": index}


def test_two_faces(block: Part) -> None:
    status, told = measure(block, face(block, "s2/start"), face(block, "s2/end"))
    assert status == 200
    assert told["said"] == "start face of step 20 and end face of step 20"
    [figure] = told["figures"]
    assert (figure["name"], figure["value"], figure["text"]) == ("distance of the planes", 10, "10 mm")
    assert len(figure["line"]) == 2


def test_it_follows_the_part(block: Part) -> None:
    def height() -> float:
        return float(measure(block, face(block, "s2/start"), face(block, "s2/end"))[1]["figures"][0]["value"])

    assert height() == 10
    block.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "17"}})
    assert height() == pytest.approx(17)


BAD = [
    [],
    [{"body": "s2", "kind": "face", "index": -1}],
    [{"body": "s2", "kind": "face", "index": 999}],
    [{"body": "s2", "kind": "soul"}],
    [{"body": "nobody"}],
    [{"body": "s2"}] * 3,
    [{"body": "s2", "kind": "corner", "at": [1, 2]}],
    [{"body": "s2", "kind": "corner", "at": [1, 2, "NaN"]}],
    [{"body": "s2", "kind": "corner", "at": [5, 5, 5]}],
]


@pytest.mark.parametrize("picks", BAD)
def test_nonsense_is_refused_with_a_sentence(block: Part, picks: list[dict[str, Any]]) -> None:
    status, told = measure(block, *picks)
    assert status == 422
    assert told["sentence"].endswith(".")


def test_who_is_not_signed_in_sees_nothing(block: Part, service: Service) -> None:
    status, told = measure(block, {"body": "s2"}, client=Client(service, None))
    assert status == 401
    assert "volume" not in str(told)
    assert measure(block, {"body": "s2"}, client=Client(service, "rook"))[0] == 200  # a viewer may look

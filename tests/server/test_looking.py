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


# -- holding against -----------------------------------------------------------------------------------


def compare(part: Part, query: str, client: Client | None = None) -> tuple[int, Any]:
    return (client or part.client).get(f"{part.path}/compare?{query}")


def test_versions_are_compared(block: Part) -> None:
    was = block.now["version"]
    block.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "17"}})
    block.do(do="set_part", changes={"material": "Copper, pure"})
    status, told = compare(block, f"version={was}")
    assert status == 200
    assert told["volumes"] == {"added": pytest.approx(1200 * 7), "removed": 0}
    assert told["volume"] == [pytest.approx(12000), pytest.approx(20400)]
    assert told["grams"] == [None, pytest.approx(20400 * 8.96e-3)]
    assert [(c["step"], c["what"]) for c in told["changes"]] == [(None, "Material"), (20, "step")]
    [mesh] = told["added"]
    assert block.client.raw("GET", f"{block.path}/mesh/{mesh}")[0] == 200


def test_parts_are_compared(block: Part, wren: Client) -> None:
    other = wren.new_part("Wider block")
    other.block(w=50)
    status, told = compare(block, f"other={other.id}")
    assert status == 200
    assert told["volumes"] == {"added": 0, "removed": pytest.approx(3000)}
    assert ("Name", "Wider block", "Measured block") in [(c["what"], c["before"], c["after"]) for c in told["changes"]]


@pytest.mark.parametrize(
    ("query", "status"),
    [
        ("", 422),
        ("version=-1", 422),
        ("version=999", 422),
        ("version=x", 422),
        ("other=nonsense", 422),
        ("other=00000000-0000-0000-0000-000000000000", 404),
        ("version=0&other=00000000-0000-0000-0000-000000000000", 422),
    ],
)
def test_what_cannot_be_compared_is_said(block: Part, query: str, status: int) -> None:
    found, told = compare(block, query)
    assert found == status
    assert told["sentence"]


def test_the_lines_of_a_view(block: Part) -> None:
    view = {"towards": [0, -1, 0], "right": [1, 0, 0], "bodies": ["s2"]}
    status, told = block.client.post(f"{block.path}/lines", view)
    assert status == 200
    assert told["seen"] and told["hidden"] and not told["smooth"]
    across = {round(p[1], 6) for run in told["seen"] for p in run}
    assert max(across) - min(across) == 10
    assert block.client.post(f"{block.path}/lines", {**view, "bodies": []})[1]["seen"] == []


@pytest.mark.parametrize("right", [[0, -1, 0], [0, 0, 0], [1, 1, 0], [1, 0], [1, 0, "NaN"]])
def test_a_view_that_is_none_is_refused(block: Part, right: list[Any]) -> None:
    status, told = block.client.post(f"{block.path}/lines", {"towards": [0, -1, 0], "right": right, "bodies": ["s2"]})
    assert status == 422
    assert told["sentence"].endswith(".")

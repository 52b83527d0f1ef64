"""What can be asked of a sketch and a route over the API, and that asking changes nothing."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from tests.conftest import Client, Part, Service

GAP = 0.05


def ask(part: Part, path: str, client: Client | None = None) -> Any:
    status, told = (client or part.client).get(f"{part.path}/{path}")
    assert status == 200, told
    return told


@pytest.fixture(scope="module")
def loose(service: Service) -> Part:
    """A rectangle of four loose lines with a small gap, and one line twice."""
    part = Client(service).new_part("Loose")
    at = [(0, 0), (40, 0), (40, 30), (0, 30)]
    lines = [{"kind": "line", "id": f"l{i + 1}", "p": at[i], "q": at[(i + 1) % 4]} for i in range(4)]
    lines[0]["q"] = (40 - GAP, 0)
    lines.append({"kind": "line", "id": "l5", "p": (0, 30), "q": (0, 0)})
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    part.do(do="sketch_add", step="s1", entities=lines)
    return part


@pytest.fixture
def unchanged(loose: Part) -> Iterator[Part]:
    before = loose.client.get(loose.path)[1]
    yield loose
    after = loose.client.get(loose.path)[1]
    assert after["version"] == before["version"]
    assert after["document"] == before["document"]


def test_the_profile_check_finds_and_counts(unchanged: Part) -> None:
    found = ask(unchanged, "sketches/s1/check?tolerance=0.1")
    assert found["counts"] == {"gap": 1, "duplicate": 1}
    assert found["regions"] == 0
    kinds = {f["kind"]: f for f in found["findings"]}
    assert kinds["gap"]["size"] == pytest.approx(GAP)
    assert kinds["gap"]["at"] == pytest.approx((40, 0), abs=GAP)
    assert kinds["duplicate"]["mends"]


def test_a_smaller_tolerance_is_honoured(unchanged: Part) -> None:
    found = ask(unchanged, "sketches/s1/check?tolerance=0.01")
    assert "gap" not in found["counts"]
    assert any(f["kind"] in ("near miss", "open chain", "tail") for f in found["findings"])


def test_a_mending_is_tried_before_it_is_done(unchanged: Part) -> None:
    check = ask(unchanged, "sketches/s1/check?tolerance=0.1")
    whole = ask(unchanged, "sketches/s1/mending?tolerance=0.1")
    assert sum(whole["after"].values()) < sum(whole["before"].values())
    key = next(f["key"] for f in check["findings"] if f["kind"] == "duplicate")
    one = ask(unchanged, f"sketches/s1/mending?tolerance=0.1&key={key}")
    assert len(one["gone"]) == 1 and one["gone"][0] in ("l4", "l5")
    assert one["after"] == {"gap": 1}


def test_free_motions_keep_what_holds(unchanged: Part) -> None:
    motions = ask(unchanged, "sketches/s1/motions")
    assert len(motions) >= 4
    assert all(m["said"] and m["entities"] for m in motions)


def test_suggestions_take_the_freedom_to_nothing(unchanged: Part) -> None:
    state = unchanged.client.get(unchanged.path)[1]["sketches"]["s1"]
    found = ask(unchanged, "sketches/s1/suggestions?tolerance=0.1")
    taken = sum(s["takes"] for s in found["suggestions"])
    assert taken + found["left"] == state["freedom"]
    assert all(s["moves"] <= 0.1 + 1e-9 for s in found["suggestions"])
    assert all(s["constraints"] or s["dimensions"] for s in found["suggestions"])


@pytest.mark.parametrize(
    "path",
    [
        "sketches/s9/check",
        "sketches/s9/motions",
        "sketches/s9/mending",
        "sketches/s9/suggestions",
        "sketches/s9/edges",
        "at/s9",
        "advice/s9",
        "sketches/s1/check?tolerance=-1",
        "sketches/s1/check?tolerance=x",
        "sketches/s1/suggestions?tolerance=0",
    ],
)
def test_what_is_not_there_or_makes_no_sense_is_a_sentence(unchanged: Part, path: str) -> None:
    status, told = unchanged.client.get(f"{unchanged.path}/{path}")
    assert status == 422
    assert told["sentence"].endswith(".")


# -- the route -------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def tube(service: Service) -> Part:
    """A block with a hole, shelled after it: the adviser has something to say."""
    part = Client(service).new_part("Tube")
    part.block()
    face = {"origins": ["s2/end"]}
    part.do(do="add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "face", "face": face}})
    part.do(do="sketch_add", step="s3", entities=[{"kind": "point", "id": "p1", "at": (20, 15)}])
    part.do(do="add_step", step={"kind": "hole", "id": "s4", "sketch": "s3", "diameter": "6"})
    shell = {"kind": "shell", "id": "s5", "faces": [{"by": "pick", "face": face}], "thickness": "2"}
    part.do(do="add_step", step=shell)
    return part


def test_the_adviser_is_asked(tube: Part) -> None:
    [said] = ask(tube, "advice")
    assert (said["step"], said["kind"]) == ("s4", "tube")
    assert said["volume"] < 0
    assert said["grams"] is None  # no material yet
    assert said["command"]["do"] == "move_step"
    status, after = tube.client.post(
        f"{tube.path}/commands", {"version": tube.now["version"], "command": said["command"]}
    )
    assert status == 200
    before = tube.now
    tube.now = after
    assert ask(tube, "advice") == []
    assert tube.travel("undo") == 200
    assert tube.now["document"] == before["document"]


def test_where_a_step_could_stand(tube: Part) -> None:
    places = ask(tube, "advice/s4")
    assert [p["now"] for p in places] == [True, False]
    assert places[0]["volume"] == 0 and places[1]["volume"] < 0


def test_the_part_as_a_step_finds_and_leaves_it(tube: Part) -> None:
    before, after = ask(tube, "at/s4"), ask(tube, "at/s4?side=after")
    assert [len(s["bodies"]) for s in (before, after)] == [1, 1]
    faces = [len(s["bodies"][0]["faces"]) for s in (before, after)]
    assert faces == [6, 7]
    assert any("wall of the hole" in f["said"] for f in after["bodies"][0]["faces"])
    for state in (before, after):
        assert tube.client.raw("GET", f"{tube.path}/mesh/{state['bodies'][0]['key']}")[0] == 200
    assert not ask(tube, "at/s2")["bodies"]


def test_every_kind_of_step_has_its_sentence(wren: Client) -> None:
    status, kinds = wren.get("/api/step-kinds")
    assert status == 200
    fresh = {s["kind"] for s in kinds["starts"]}
    assert fresh <= set(kinds["sentences"])
    assert {"extrude", "hole", "fillet", "draft", "shell", "import"} <= set(kinds["sentences"])
    for parts in kinds["sentences"].values():
        assert all(p["is"] in ("words", "slot", "group") for p in parts)
        for p in parts:
            if p["is"] == "slot":
                assert p["field"] and p["label"]
    assert "M4" in kinds["sizes"]


def test_materials_tell_where_their_density_is_from(wren: Client) -> None:
    status, found = wren.get("/api/materials")
    assert status == 200
    assert all(m["density"] > 0 and m["source"] for m in found)


def test_a_density_of_its_own_is_kept_in_the_workspace(wren: Client, service: Service) -> None:
    [home, *_] = wren.get("/api/me")[1]["workspaces"]
    own = {"name": "Bearing metal", "value": 7300, "unit": "kg/m³", "source": "melt sheet"}
    status, made = wren.post("/api/parts", {"workspace": home["id"], "name": "Weighed", "own": own})
    assert status == 200
    document = wren.get(f"/api/parts/{made['id']}")[1]["document"]
    assert (document["material"], document["materials"]) == ("Bearing metal", [own])
    change = {"do": "set_part", "changes": {"materials": [own, {"name": "7.4 g/cm³", "value": 7.4}]}}
    assert wren.post(f"/api/parts/{made['id']}/commands", {"version": 0, "command": change})[0] == 200
    path = f"/api/materials?workspace={home['id']}"
    first, second = wren.get(path)[1][:2]
    assert (first["own"]["name"], second["own"], second["density"]) == ("7.4 g/cm³", own, 7.3)
    left = wren.post(f"/api/workspaces/{home['id']}/materials/forget", {"name": "7.4 g/cm³"})
    assert [m["own"]["name"] for m in left[1] if m["own"]] == ["Bearing metal"]
    nobody = Client(service, None)
    assert nobody.get(path)[0] == 401
    assert wren.get("/api/materials?workspace=999999")[0] == 404


def test_asking_for_others_parts_gives_nothing(tube: Part, service: Service) -> None:
    nobody = Client(service, None)
    for path in ("advice", "advice/s4", "at/s4", "compare?version=0", "sketches/s1/check", "values"):
        assert nobody.get(f"{tube.path}/{path}")[0] == 401

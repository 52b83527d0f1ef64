"""The API with real PostgreSQL and real kernel workers: commands, undo, versions, builds, files."""

import json
import math
import subprocess

import psycopg
import pytest
from tools.places import ROOT

from sulvak_core.solid.files import step_volumes
from tests.conftest import Client, Part, Service

pytestmark = pytest.mark.usefixtures("service")


def test_from_nothing_to_step_and_stl(wren: Client) -> None:
    part = wren.new_part("Block", material="ABS")
    part.block()
    build = part.built()
    assert build["mass"]["volume"] == pytest.approx(12000, rel=1e-12)
    assert build["mass"]["mass"] == pytest.approx(12 * 1.05)
    assert [s["state"] for s in build["steps"]] == ["ok", "ok"]
    assert build["steps"][1]["mass_change"] == pytest.approx(12.6)
    assert len(build["bodies"][0]["faces"]) == 6
    status, data, headers = wren.raw("GET", f"{part.path}/mesh/{build['bodies'][0]['key']}")
    assert (status, data[:4]) == (200, b"SVM1")
    assert "immutable" in headers["Cache-Control"]
    status, step, headers = wren.raw("GET", f"{part.path}/export/step")
    assert status == 200
    assert headers["Content-Disposition"] == 'attachment; filename="Block.step"'
    assert step_volumes(step) == pytest.approx([12000], rel=1e-9)
    status, stl, _ = wren.raw("GET", f"{part.path}/export/stl")
    assert int.from_bytes(stl[80:84], "little") == 12
    assert len(stl) == 84 + 50 * 12
    status, svg, _ = wren.raw("GET", f"{part.path}/picture")
    assert svg.startswith(b"<svg")


def test_a_refusal_changes_nothing(wren: Client) -> None:
    part = wren.new_part()
    part.block()
    before = part.now
    circle = {"kind": "circle", "id": "c1", "c": [5, 5], "r": 2}
    refused = [
        {"do": "sketch_add", "step": "s1", "entities": [circle, {**circle, "id": "l1"}]},
        {"do": "sketch_add", "step": "s9", "entities": [circle]},
        {"do": "set_step", "step": "s2", "changes": {"extent": {"kind": "depth", "depth": "2 +"}}},
        {"do": "set_step", "step": "s2", "changes": {"extent": {"kind": "sideways"}}},
        {"do": "move_step", "step": "s2", "before": "s1"},
        {"do": "delete_step", "step": "s1"},
        {"do": "set_part", "changes": {"material": "cheese"}},
        {"do": "set_value", "name": "2x", "expr": "3"},
        {"do": "set_value", "name": "a", "expr": "a+1"},
        {"do": "link_callout", "callout": "b1", "step": "s2", "field": "depth"},
        {"do": "set_callout", "callout": {"id": "b1", "number": 1, "text": "  "}},
    ]
    for command in refused:
        status, answer = part.send(**command)
        assert status == 422, command
        assert answer["sentence"].endswith((".", "…", "?")), answer
    for nonsense in [{"do": "explode"}, {"do": "sketch_add", "step": "s1", "entities": [{**circle, "r": -1}]}]:
        assert part.send(**nonsense)[0] == 422
    status, answer = part.send(do="sketch_add", step="s1", entities=[{**circle, "c": [float("1e300"), 0]}])
    assert status == 422
    assert wren.get(part.path)[1] == before
    status, answer = part.send(do="delete_step", step="s1")
    assert answer["detail"]["dependents"] == ["s2"]
    assert "Step 20 is built on step 10" in answer["sentence"]


def test_undo_and_redo_without_limit_outlive_the_client(wren: Client, service: Service) -> None:
    part = wren.new_part()
    part.block()
    seen = [json.dumps(part.now["document"], sort_keys=True)]
    for depth in range(11, 31):
        part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": str(depth)}})
        seen.append(json.dumps(part.now["document"], sort_keys=True))
    again = Part(Client(service), part.id)  # another browser, another day
    for wanted in reversed(seen[:-1]):
        assert again.travel("undo") == 200
        assert json.dumps(again.now["document"], sort_keys=True) == wanted
    for wanted in seen[1:]:
        assert again.travel("redo") == 200
        assert json.dumps(again.now["document"], sort_keys=True) == wanted
    assert not again.now["can_redo"]
    assert again.travel("redo") == 422
    again.travel("undo")
    again.do(do="set_part", changes={"description": "another way"})
    assert not again.now["can_redo"]
    again.travel("undo")
    assert again.now["can_redo"]
    kinds = [h["kind"] for h in wren.get(f"{part.path}/history")[1]]
    assert kinds.count("undo") == 22


def test_a_stale_command_is_told_what_happened(wren: Client, service: Service) -> None:
    part = wren.new_part()
    part.block()
    other = Part(Client(service, "tern"), part.id)
    other.do(do="set_part", changes={"description": "by tern"})
    status, answer = part.send(do="set_part", changes={"description": "by wren"})
    assert status == 409
    assert "tern changed the part's data" in answer["sentence"]
    assert answer["part"]["document"]["description"] == "by tern"
    part.now = answer["part"]
    part.do(do="set_part", changes={"description": "by wren"})


def test_part_files_go_out_and_come_in_the_same(wren: Client) -> None:
    part = wren.part_named("Cross plate")
    status, text, _ = wren.raw("GET", f"{part.path}/file")
    assert status == 200
    status, made = wren.upload("/api/parts/import", "p.json", text, workspace=str(wren.workspace()))
    assert status == 200
    copy = Part(wren, made["id"])
    assert copy.now["document"] == part.now["document"]
    assert copy.built()["mass"]["mass"] == pytest.approx(part.built()["mass"]["mass"])
    for bad, said in [
        (b"", "JSON"),
        (b"[1, 2", "JSON"),
        (b"{}", "format"),
        (b'{"format": "sulvak-part", "format_version": 9}', "newer"),
        (b'{"format": "sulvak-part", "format_version": 1}', "name"),
        (text.replace(b'"l1.q"', b'"l77.q"'), "no longer"),
        (text.replace(b'"expr": "16"', b'"expr": "spam"'), "no value named"),
        (b"[" * 100000, "JSON"),
    ]:
        status, answer = wren.upload("/api/parts/import", "p.json", bad, workspace=str(wren.workspace()))
        assert status == 422, said
        assert said in answer["sentence"]


def test_units_change_what_is_shown_and_no_size(wren: Client) -> None:
    part = wren.new_part()
    part.block()
    part.do(do="set_part", changes={"unit": "in"})
    assert part.now["document"]["steps"][1]["extent"]["depth"] == "10 mm"
    assert part.built()["mass"]["volume"] == pytest.approx(12000)
    part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": '1 1/4"'}})
    assert part.built()["mass"]["volume"] == pytest.approx(1200 * 31.75)


def test_callouts_feed_and_are_proven(wren: Client) -> None:
    part = wren.new_part()
    part.block()
    part.do(do="set_callout", callout={"id": "b1", "number": 1, "text": "12.5 ±0.1"})
    part.do(do="set_callout", callout={"id": "b2", "number": 2, "text": "DEBURR"})
    assert [c["state"] for c in part.built()["callouts"]] == ["open", "note"]
    part.do(do="link_callout", callout="b1", step="s2", field="depth")
    build = part.built()
    assert build["callouts"][0]["state"] == "proven"
    assert build["callouts"][0]["measured"] == pytest.approx(12.5)
    part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "13"}})
    assert part.built()["callouts"][0]["state"] == "out"
    part.do(do="set_callout", callout={"id": "b1", "number": 1, "text": "14"})
    assert part.built()["mass"]["volume"] == pytest.approx(1200 * 14)
    assert part.send(do="link_callout", callout="b2", step="s2", field="depth")[0] == 422


def test_copies_searches_and_the_archive(wren: Client) -> None:
    bar = wren.part_named("Ballast bar")
    status, made = wren.post(f"{bar.path}/copy", {"name": "Another bar", "empty": True})
    assert status == 200
    path = f"/api/workspaces/{wren.workspace()}/parts"

    def named(asked: str) -> list[str]:
        return [c["name"] for c in wren.get(f"{path}?{asked}")[1]["parts"]]

    assert named("search=another+brass") == ["Another bar"]
    wren.post(f"/api/parts/{made['id']}/archive", {"archived": True})
    assert named("search=another") == []
    assert named("search=another&archived=true") == ["Another bar"]
    assert wren.post("/api/parts", {"workspace": wren.workspace(), "name": "  "})[0] == 422


def test_free_motions_are_told(wren: Client) -> None:
    part = wren.part_named("Pan hub")
    status, motions = wren.get(f"{part.path}/sketches/s3/motions")
    assert status == 200
    assert len(motions) == part.now["sketches"]["s3"]["freedom"] > 0
    assert any("grow" in m["said"] for m in motions)


def test_versions_are_named_found_and_gone_back_to(wren: Client) -> None:
    part = wren.new_part("Versions")
    part.block()
    good = part.now["version"]
    status, history = wren.post(f"{part.path}/versions", {"version": good, "name": "for review"})
    assert status == 200
    assert history[0]["name"] == "for review"
    before = part.now["document"]
    part.do(do="set_step", step="s2", changes={"extent": {"kind": "depth", "depth": "99"}})
    part.do(do="add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "datum", "plane": "front"}})
    status, after = wren.post(f"{part.path}/restore", {"version": part.now["version"], "to": good})
    assert status == 200
    assert after["document"]["steps"] == before["steps"]
    assert after["document"]["used"] == 3  # step 3 was there once; its number is not given again
    part.now = after
    assert part.built()["mass"]["volume"] == pytest.approx(12000)
    # going back is a change like any other
    assert part.travel("undo") == 200
    assert [s["id"] for s in part.now["document"]["steps"]] == ["s1", "s2", "s3"]
    named = wren.get(f"{part.path}/history?named=true")[1]
    assert [(e["version"], e["name"]) for e in named] == [(good, "for review")]
    wren.post(f"{part.path}/versions", {"version": good, "name": " "})
    assert wren.get(f"{part.path}/history?named=true")[1] == []
    for path, data in (("versions", {"version": 999, "name": "x"}), ("restore", {"version": 0, "to": 0})):
        assert wren.post(f"{part.path}/{path}", data)[0] in (409, 422)


def test_every_version_can_be_had_again(wren: Client) -> None:
    """Commands, undo and redo in any order: each version's document comes back exactly."""
    part = wren.new_part("Replayed")
    part.block()
    seen = {part.now["version"]: part.now["document"]}
    for n in range(4):
        part.do(do="set_part", changes={"description": f"text {n}"})
        seen[part.now["version"]] = part.now["document"]
        if n % 2:
            part.travel("undo")
            seen[part.now["version"]] = part.now["document"]
    part.travel("redo")
    seen[part.now["version"]] = part.now["document"]
    for version, document in seen.items():
        status, now = wren.post(f"{part.path}/restore", {"version": part.now["version"], "to": version})
        assert status == 200
        part.now = now
        assert now["document"] == document


def test_own_properties_travel_into_step(wren: Client) -> None:
    part = wren.new_part("Told", material="Brass CW614N", number="FKS-Ø9")
    part.block()
    part.do(do="set_part", changes={"properties": {"finish": "brushed, as 'sample 2'"}})
    status, data, _ = wren.raw("GET", f"{part.path}/export/step")
    assert status == 200
    head = data.decode("ascii").split("DATA;")[0].replace("\n", "")
    for words in ("part number: FKS-\\X2\\00D8\\X0\\9", "material: Brass CW614N", "finish: brushed, as ''sample 2''"):
        assert words in head


def test_old_results_are_forgotten_and_the_shown_ones_kept(wren: Client, service: Service) -> None:
    part = wren.new_part("Kept")
    part.block()
    mesh = part.built()["bodies"][0]["key"]
    painted = wren.get(f"{part.path}/checks/walls")[1]["paint"]
    with psycopg.connect(service.database, autocommit=True) as c:
        for key, kind in (("old-preview", "preview"), ("old-mesh", "mesh"), ("old-solids", "solids")):
            c.execute(
                "INSERT INTO kernel_artifact (key, kind, data, made) VALUES (%s, %s, '', now() - interval '30 days')",
                [key, kind],
            )
        c.execute("UPDATE kernel_artifact SET made = now() - interval '30 days' WHERE key = %s", [mesh])
        # as old as an answer may be: what it speaks of is still to be had
        c.execute("UPDATE kernel_artifact SET made = now() - interval '47 hours' WHERE key = %s", [painted])
        c.execute(
            'INSERT INTO kernel_previewturn (part_id, "window", turn, at) VALUES'
            " (%(part)s, 'long gone', 1, now() - interval '2 days'), (%(part)s, 'of now', 1, now())",
            {"part": part.id},
        )
        code = "from kernel.retention import forget_old; print(forget_old())"
        subprocess.run(["python", "server/manage.py", "shell", "-c", code], cwd=ROOT, env=service._env(), check=True)
        left = {row[0] for row in c.execute("SELECT key FROM kernel_artifact").fetchall()}
        windows = {row[0] for row in c.execute('SELECT "window" FROM kernel_previewturn').fetchall()}
    assert "of now" in windows
    assert "long gone" not in windows
    assert mesh in left and painted in left
    assert not {"old-preview", "old-mesh", "old-solids"} & left


def test_files_that_no_part_and_no_undo_speak_of_are_forgotten(wren: Client, service: Service) -> None:
    """A sheet that is shown stays, one that undo would bring back too; one that was never used goes, once it is old."""
    part = wren.new_part("Sheets")
    digests = []
    for width in (200, 210, 220):
        svg = (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="90mm"><path d="M0 0h9"/></svg>'.encode()
        )
        status, now = wren.upload(f"{part.path}/sheet", f"{width}.svg", svg, version=str(part.now["version"]))
        assert status == 200, now
        part.now = now
        digests.append(now["document"]["sheet"]["sha256"])
    unused = "0" * 64
    with psycopg.connect(service.database, autocommit=True) as c:
        columns = "workspace_id, sha256, media_type, data, stored"
        c.execute(
            f"INSERT INTO parts_storedfile ({columns}) VALUES (%s, %s, 'x', '', now())", [wren.workspace(), unused]
        )
        for age, gone in (("10 days", set()), ("40 days", {unused})):
            c.execute(f"UPDATE parts_storedfile SET stored = now() - interval '{age}'")
            service.shell("from kernel.retention import forget_files; forget_files()")
            left = {row[0] for row in c.execute("SELECT sha256 FROM parts_storedfile").fetchall()}
            assert {*digests, unused} - left == gone


def test_a_build_by_an_older_kernel_is_made_again(wren: Client, service: Service) -> None:
    part = wren.new_part("Older")
    part.block()
    part.built()
    with psycopg.connect(service.database, autocommit=True) as c:
        c.execute("UPDATE kernel_buildrecord SET kernel = 'before' WHERE part_id = %s", [part.id])
    assert wren.get(f"{part.path}/build")[1]["ready"] is False
    assert part.built()["mass"]["volume"] == pytest.approx(12000)


def test_numbers_taken_back_by_undo_are_never_given_again(wren: Client) -> None:
    part = wren.new_part()
    part.block()
    part.do(do="sketch_add", step="s1", entities=[{"kind": "circle", "id": "c7", "c": (5, 5), "r": 2}])
    part.do(do="add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "datum", "plane": "top"}})
    used = part.now["document"]["steps"][0]["sketch"]["used"]
    for _ in range(2):
        assert part.travel("undo") == 200
    now = part.now["document"]
    assert (now["used"], now["steps"][0]["sketch"]["used"]) == (3, used)
    assert part.now["redoes"]["kind"] == "undo"
    for _ in range(2):
        assert part.travel("redo") == 200
    assert [s["id"] for s in part.now["document"]["steps"]] == ["s1", "s2", "s3"]
    assert part.now["undoes"]["who"] == "wren"


def test_several_commands_together_are_one_change(wren: Client) -> None:
    part = wren.new_part()
    part.block()
    before = part.now
    both = [
        {"do": "set_value", "name": "wall", "expr": "2"},
        {"do": "set_step", "step": "s2", "changes": {"name": "Base"}},
    ]
    part.do(do="together", commands=both)
    assert part.now["version"] == before["version"] + 1
    assert part.travel("undo") == 200
    assert part.now["document"] == before["document"]
    status, answer = part.send(do="together", commands=[*both, {"do": "delete_value", "name": "rib"}])
    assert (status, "rib" in answer["sentence"]) == (422, True)
    assert part.client.get(part.path)[1]["document"] == before["document"]


def test_files_are_named_as_the_part_is_and_triangles_as_fine_as_asked(wren: Client) -> None:
    part = wren.new_part("Hülse 2. Art")
    part.do(do="add_step", step={"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}})
    part.do(do="sketch_add", step="s1", entities=[{"kind": "circle", "id": "c1", "c": (0, 0), "r": 20}])
    part.do(
        do="add_step",
        step={"kind": "extrude", "id": "s2", "sketch": "s1", "extent": {"kind": "depth", "depth": "10"}},
    )
    part.built()
    status, coarse, headers = wren.raw("GET", f"{part.path}/export/stl?deviation=0.5")
    assert status == 200
    assert headers["Content-Disposition"] == "attachment; filename*=utf-8''H%C3%BClse-2.-Art.stl"
    status, fine, _ = wren.raw("GET", f"{part.path}/export/stl?deviation=0.01")
    assert status == 200
    # a cylinder of n sides is off by r (1 - cos(pi / n)); its triangles are 4 n - 4
    sides = [(int.from_bytes(data[80:84], "little") + 4) / 4 for data in (coarse, fine)]
    off = [20 * (1 - math.cos(math.pi / n)) for n in sides]
    assert off[0] <= 0.5
    assert off[1] <= 0.01 < off[0]
    for wrong in ("0", "-1", "nan", "inf", "fine"):
        assert wren.raw("GET", f"{part.path}/export/stl?deviation={wrong}")[0] == 422


def test_other_files_of_triangles_tell_how_many_and_how_near(wren: Client) -> None:
    part = wren.part_named("Tilt arm")
    for form, begins in (("3mf", b"PK"), ("glb", b"glTF"), ("stl-text", b"solid "), ("stl", b"Sulvak")):
        status, data, headers = wren.raw("GET", f"{part.path}/export/{form}?deviation=0.05")
        assert status == 200, data
        assert data.startswith(begins)
        assert int(headers["X-Triangles"]) > 500
        assert float(headers["X-Deviation"]) == 0.05
    status, data, headers = wren.raw("GET", f"{part.path}/export/step242")
    assert status == 200 and b"AP242" in data and "X-Triangles" not in headers
    assert b"geometric validation property" in data
    status, answer, _ = wren.raw("GET", f"{part.path}/export/obj")
    assert status == 422 and b"3MF" in answer


def test_views_sections_and_faces_as_drawings(wren: Client) -> None:
    part = wren.part_named("Tilt arm")
    body = part.built()["bodies"][0]["id"]
    for what, asked in (
        ("view", "side=top&hidden=false"),
        ("section", "side=front&at=0"),
        ("face", f"body={body}&face=0"),
    ):
        for form, begins in (("dxf", b"  0"), ("svg", b"<svg")):
            status, data, headers = wren.raw("GET", f"{part.path}/drawn/{what}.{form}?{asked}")
            if what == "face" and status == 422:  # a round one
                assert b"Only a flat face" in data
                continue
            assert status == 200, data
            assert data.startswith(begins)
            assert "attachment" in headers["Content-Disposition"]
    status, data, _ = wren.raw("GET", f"{part.path}/drawn/section.dxf?side=front&at=500")
    assert status == 422 and b"does not cut the part" in data
    for wrong in ("view.dxf?side=askew", "section.dxf?at=nan", "view.pdf", "face.dxf?face=-1"):
        assert wren.raw("GET", f"{part.path}/drawn/{wrong}")[0] == 422

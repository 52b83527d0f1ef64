"""./sulvak check and ./sulvak export: exit codes, pure JSON, whole files or none."""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest

from sulvak_core import command_check, command_compare, command_draw, command_export, command_release, command_verify
from sulvak_core.exchange import part_file
from sulvak_core.solid.files import step_volumes

from .parts import disc, plate

DEMO = Path(__file__).resolve().parents[2] / "demo"


def test_a_sound_part_passes_and_says_so(capsys: pytest.CaptureFixture[str]) -> None:
    assert command_check.main([str(DEMO / "cross-plate.json")]) == 0
    said = capsys.readouterr().out
    assert "callouts  8 of 8 proven" in said
    assert "within its target" in said
    assert "solid  passed" in said and "walls" not in said


def test_what_does_not_hold_is_told_with_exit_code_1(capsys: pytest.CaptureFixture[str]) -> None:
    assert command_check.main([str(DEMO / "electronics-pod.json"), "--only", "solid,mould"]) == 1
    captured = capsys.readouterr()
    assert "mould  not passed" in captured.out
    assert "The mass is off its target" in captured.err
    assert "the check “mould” does not pass" in captured.err


def test_everything_as_json_and_nothing_else(capsys: pytest.CaptureFixture[str]) -> None:
    names = "solid,mould,walls,cutters"
    code = command_check.main([str(DEMO / "tilt-arm.json"), "--json", "--only", names])
    told = json.loads(capsys.readouterr().out)
    assert [c["check"] for c in told["checks"]] == names.split(",")
    assert told["ok"] is (code == 0)
    assert {c["state"] for c in told["callouts"]} == {"proven"}
    assert told["checks"][2]["figures"]["thinnest"] == pytest.approx(1.94, abs=0.02)


@pytest.mark.parametrize("as_json", [True, False])
def test_what_cannot_be_checked(tmp_path: Path, capsys: pytest.CaptureFixture[str], as_json: bool) -> None:
    bad = tmp_path / "bad.json"
    bad.write_text("{}")
    for path, said in ((bad, "not a Sulvak part file"), (tmp_path / "none.json", "No such file")):
        assert command_check.main([str(path), *(["--json"] if as_json else [])]) == 1
        captured = capsys.readouterr()
        assert said in captured.err
        if as_json:
            assert json.loads(captured.out)["ok"] is False
    with pytest.raises(SystemExit) as wrong:
        command_check.main([str(bad), "--only", "taste"])
    assert wrong.value.code == 2


def test_files_by_their_endings(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    outs = [tmp_path / f"o{e}" for e in (".step", ".stl", ".3mf", ".glb")]
    part = str(DEMO / "cross-plate.json")
    assert command_export.main([part, *map(str, outs), "--json", "--deviation", "0.1", "--ap242"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [f["bytes"] for f in told["files"]] == [o.stat().st_size for o in outs]
    assert all(f["triangles"] > 50 and f["deviation"] == 0.1 for f in told["files"][1:])
    assert step_volumes(outs[0].read_bytes()) == pytest.approx([16941.28], rel=1e-6)
    assert b"AP242" in outs[0].read_bytes()
    begins = [o.read_bytes()[:4] for o in outs]
    assert begins[2:] == [b"PK\x03\x04", b"glTF"]
    assert command_export.main([part, str(outs[1]), "--text"]) == 0
    assert outs[1].read_text().startswith("solid Cross plate")
    assert "triangles within" in capsys.readouterr().out
    assert sorted(p.name for p in tmp_path.iterdir()) == ["o.3mf", "o.glb", "o.step", "o.stl"]
    assert os.stat(outs[0]).st_mode & 0o777 == 0o666 & ~command_export._umask()


@pytest.mark.parametrize(
    ("outs", "more", "said"),
    [
        (["a.obj"], [], "not a.obj"),
        (["a.step", "b.doc"], [], "not b.doc"),
        (["a.stl"], ["--deviation", "0"], "between 0.001 and 10 mm"),
        (["nowhere/a.stl"], [], "No such file"),
    ],
)
def test_what_cannot_be_written_leaves_nothing(
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
    outs: list[str],
    more: list[str],
    said: str,
) -> None:
    monkeypatch.chdir(tmp_path)
    assert command_export.main([str(DEMO / "cross-plate.json"), *outs, *more]) == 1
    assert said in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


def test_a_part_that_does_not_build_is_not_written(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    made = plate()
    made.sketch("s3", "top", disc((500, 0), 3))
    made.extrude("s4", "s3", None, "cut")
    path, out = tmp_path / "part.json", tmp_path / "o.glb"
    path.write_text(part_file.write(made.document))
    assert command_export.main([str(path), str(out)]) == 1
    assert "Step 40" in capsys.readouterr().err
    assert not out.exists()


def test_a_write_that_fails_leaves_the_file_that_was_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "o.stl"
    path.write_bytes(b"before")

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(command_export.os, "replace", full)
    with pytest.raises(OSError, match="No space"):
        command_export.put(path, b"after")
    assert path.read_bytes() == b"before"
    assert list(tmp_path.iterdir()) == [path]


def test_a_drawing_is_written_and_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = [str(tmp_path / f"hub.{form}") for form in ("pdf", "svg", "dxf")]
    assert command_draw.main([str(DEMO / "finished" / "pan-hub.json"), *out, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["ok"] and told["overlaps"] == 0 and len(told["sizes"]) == 9
    assert [os.path.getsize(f) for f in out] == [f["bytes"] for f in told["files"]]
    assert command_draw.main([str(DEMO / "pan-hub.json"), str(tmp_path / "a.pdf"), str(tmp_path / "a.png")]) == 1
    assert "not" in capsys.readouterr().err and not (tmp_path / "a.pdf").exists()


def test_a_pack_is_released_verified_and_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    part, pack = str(DEMO / "cross-plate.json"), tmp_path / "plate.zip"
    assert command_release.main([part, "--look", "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert [c["key"] for c in told["conditions"] if not c["holds"]] == ["covered"]
    assert command_release.main([part, str(pack), "--by", "wren"]) == 1
    assert "say why" in capsys.readouterr().err and not pack.exists()
    by = ["--by", "wren", "--at", "2031-05-12T08:30:00Z", "--reason", "covered=alike"]
    assert command_release.main([part, str(pack), *by]) == 0
    first = pack.read_bytes()
    assert command_release.main([part, str(pack), *by]) == 0 and pack.read_bytes() == first
    capsys.readouterr()
    assert command_verify.main([str(pack), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["manifest"]["released"] == {"by": "wren", "at": "2031-05-12T08:30:00Z"}
    pack.write_bytes(first[:-100])
    assert command_verify.main([str(pack)]) == 1 and capsys.readouterr().err
    assert command_verify.main([str(tmp_path / "none.zip")]) == 1
    for wrong in (["--reason", "mass"], ["--at", "noon"], ["--revision", "I"], ["--reason", "taste=good"]):
        try:
            code = command_release.main([part, str(tmp_path / "b.zip"), *wrong])
        except SystemExit as left:
            code = int(str(left.code))
        assert code in (1, 2) and not (tmp_path / "b.zip").exists(), wrong


def test_a_mesh_is_compared_from_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    part, mesh = str(DEMO / "cross-plate.json"), tmp_path / "plate.stl"
    assert command_export.main([part, str(mesh), "--deviation", "0.05"]) == 0
    capsys.readouterr()
    assert command_compare.main([part, str(mesh), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["ok"] and told["unit"] == "mm" and 0 < told["figures"]["most outside"] < 0.05
    # the same figures taken for inches are far off, and cannot be laid on it
    assert command_compare.main([part, str(mesh), "--unit", "in", "--lay"]) == 1
    assert "off each other" in capsys.readouterr().err
    mesh.write_bytes(mesh.read_bytes()[:-7])
    assert command_compare.main([part, str(mesh), "--json"]) == 1
    captured = capsys.readouterr()
    assert not json.loads(captured.out)["ok"] and "cut short" in captured.err
    assert command_compare.main([part, str(tmp_path / "none.stl")]) == 1
    with pytest.raises(SystemExit):
        command_compare.main([part, str(mesh), "--within", "nan"])

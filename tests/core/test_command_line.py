"""./sulvak build: figures as JSON, files, and a sentence with exit code 1 when it does not build."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from sulvak_core import command_line
from sulvak_core.exchange import part_file
from sulvak_core.part.errors import Refusal
from sulvak_core.solid.files import step_volumes

from .parts import disc, plate

DEMO = Path(__file__).resolve().parents[2] / "demo"


def test_figures_and_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    step, stl = tmp_path / "o.step", tmp_path / "o.stl"
    code = command_line.main(
        [str(DEMO / "cross-plate.json"), "--json", "--mass", "--step", str(step), "--stl", str(stl)]
    )
    told = json.loads(capsys.readouterr().out)
    assert code == 0
    assert told["ok"]
    assert {c["state"] for c in told["callouts"]} == {"proven"}
    assert told["mass"]["within"]
    assert step_volumes(step.read_bytes()) == pytest.approx([told["mass"]["volume"]], rel=1e-9)
    assert b"Cross plate" in step.read_bytes()
    assert len(stl.read_bytes()) == 84 + 50 * int.from_bytes(stl.read_bytes()[80:84], "little")


def test_plain_words(capsys: pytest.CaptureFixture[str]) -> None:
    assert command_line.main([str(DEMO / "pan-hub.json"), "--mass"]) == 0
    said = capsys.readouterr().out
    assert "Extrude sketch 10 by 8 mm" in said
    assert "mass    20.41" in said


@pytest.mark.parametrize("as_json", [True, False])
def test_what_does_not_build_says_so(tmp_path: Path, capsys: pytest.CaptureFixture[str], as_json: bool) -> None:
    made = plate()
    made.sketch("s3", "top", disc((500, 0), 3))
    made.extrude("s4", "s3", None, "cut")
    good, bad, none = tmp_path / "fails.json", tmp_path / "bad.json", tmp_path / "none.json"
    good.write_text(part_file.write(made.document))
    bad.write_text("{}")
    empty = plate()
    empty.do("delete_step", step="s2")
    blank = tmp_path / "blank.json"
    blank.write_text(part_file.write(empty.document))
    for path, said in [(good, "Step 40"), (bad, "not a Sulvak part file"), (none, "No such file"), (blank, "no solid")]:
        out = tmp_path / "never.step"
        assert command_line.main([str(path), "--step", str(out), *(["--json"] if as_json else [])]) == 1
        captured = capsys.readouterr()
        assert said in captured.err
        assert not out.exists()
        if as_json:
            assert json.loads(captured.out)["ok"] is False


def test_the_demo_ships_what_the_generator_makes(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from demo import make, maker

    for module in (make, maker):  # the second writes the sheets
        monkeypatch.setattr(module, "HERE", tmp_path)
    make.main()
    made = [path for path in sorted(tmp_path.rglob("*")) if path.is_file()]
    assert len(made) == 2 * len(make.SHOWN) + len(make.FINISHED) + 2
    for path in made:
        assert path.read_text() == (DEMO / path.relative_to(tmp_path)).read_text(), path.name


@pytest.mark.parametrize(
    ("data", "kind"),
    [
        (b"solid thing\n facet normal 0 0 1", "an STL file"),
        (b" " * 80 + (1).to_bytes(4, "little") + bytes(50), "an STL file"),
        (b"PK\x03\x04 3D/3dmodel.model", "a 3MF file"),
        (b"\x89PNG\r\n", "a picture"),
        (b"%PDF-1.7", "a PDF drawing"),
        (b"ISO-10303-21;", "a STEP file"),
        (b'<?xml version="1.0"?><svg/>', "an SVG drawing"),
        (b"0\r\nSECTION\r\n", "a DXF drawing"),
    ],
)
def test_what_is_brought_by_mistake_is_named(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], data: bytes, kind: str
) -> None:
    (tmp_path / "x.json").write_bytes(data)
    assert command_line.main([str(tmp_path / "x.json")]) == 1
    assert f"This is no part file but {kind}" in capsys.readouterr().err


def test_one_object_whatever_happens(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code = command_line.main([str(DEMO / "pan-hub.json"), "--json", "--stl", str(tmp_path / "none" / "x.stl")])
    captured = capsys.readouterr()
    told = json.loads(captured.out)
    assert (code, told["ok"], told["name"]) == (1, False, "Pan hub")
    assert "No such file" in told["error"] and told["error"] in captured.err


def test_figures_in_inches(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    made = plate(40, 30)
    made.do("set_part", changes={"unit": "in"})
    (tmp_path / "p.json").write_text(part_file.write(made.document))
    assert command_line.main([str(tmp_path / "p.json"), "--mass"]) == 0
    said = capsys.readouterr().out
    assert "volume  0.73228 in³" in said
    assert "centre  0.7874 in, 0.5906 in, 0.1969 in" in said


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"steps": [{"kind": "extrude", "id": "s1"}]}, "“sketch” is missing"),
        ({"colour": "red"}, "“colour” is not known there"),
        ({"unit": "yd"}, "“unit” is one of 'mm' or 'in'"),
        ({"steps": [{"kind": "weld", "id": "s1"}]}, "of the kind “weld”"),
        ({"used": "many"}, "a whole number is wanted for “used”"),
    ],
)
def test_errors_of_a_part_file_are_in_plain_words(change: dict[str, object], said: str) -> None:
    data = {**json.loads(part_file.write(plate().document)), **change}
    with pytest.raises(Refusal, match=said):
        part_file.read(json.dumps(data))


def test_a_small_part_loads_no_more_than_it_needs(tmp_path: Path) -> None:
    """What solves equations takes half a second to load, and a part whose sketches hold needs none of it."""
    file = tmp_path / "plate.json"
    file.write_text(part_file.write(plate().document))
    code = (
        "import sys; from sulvak_core.command_line import main; assert main([sys.argv[1]]) == 0;"
        "print([m for m in ('scipy.linalg', 'scipy.optimize', 'scipy.sparse') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code, str(file)], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"

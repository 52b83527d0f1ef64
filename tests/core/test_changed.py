"""./sulvak test --changed: what a change touches, and nothing that it does not."""

import subprocess
from pathlib import Path

import pytest
from tools import changed
from tools.places import ROOT


@pytest.mark.parametrize(
    ("path", "runs", "not_these"),
    [
        ("core/sulvak_core/sheet/notation.py", ["test_notation.py", "test_proving.py"], ["test_solver.py"]),
        (
            "core/sulvak_core/sketch/trim.py",
            ["test_trim.py", "test_what_stays.py"],
            ["test_notation.py", "test_extent"],
        ),
        ("tests/core/test_trim.py", ["test_trim.py"], ["test_shape.py"]),
        ("tests/core/sketches.py", ["test_trim.py", "test_solver.py"], ["test_notation.py"]),
    ],
)
def test_a_file_of_the_core_runs_what_imports_it(path: str, runs: list[str], not_these: list[str]) -> None:
    found = changed.touched([ROOT / path])
    for name in runs:
        assert f"tests/core/{name}" in found
    for name in not_these:
        assert f"tests/core/{name}" not in found


def test_what_runs_as_a_process_of_its_own_runs_its_room() -> None:
    assert changed.touched([ROOT / "web/src/main.tsx"]) == ["screen", "tests/browser"]
    assert "tests/server" in changed.touched([ROOT / "server/parts/log.py"])
    assert changed.touched([ROOT / "docs/steps.md"]) == []


def test_changed_files_are_those_git_sees(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def git(*words: str) -> None:
        who = ["-c", "user.name=wren", "-c", "user.email=wren@example.org"]
        subprocess.run(["git", *who, *words], cwd=tmp_path, check=True, capture_output=True)

    git("init")
    for name in ("one", "two"):
        (tmp_path / name).write_text("as it was")
    git("add", ".")
    git("commit", "-m", "begun")
    (tmp_path / "two").write_text("changed")
    (tmp_path / "three").write_text("new")
    monkeypatch.setattr(changed, "ROOT", tmp_path)
    assert [p.name for p in changed.changed_files()] == ["two", "three"]

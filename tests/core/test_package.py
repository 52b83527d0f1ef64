"""The core as a package of its own: what pip installs builds a part, away from the checkout."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tomllib
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel, built from a copy of what it is made of, so that nothing is left in the checkout."""
    folder = tmp_path_factory.mktemp("package")
    for name in ("pyproject.toml", "README.md", "core"):
        subprocess.run(["cp", "-r", str(ROOT / name), str(folder)], check=True)
    how = ["--no-deps", "--no-build-isolation", "--no-index", "-q", "-w", str(folder)]
    subprocess.run([sys.executable, "-m", "pip", "wheel", *how, str(folder)], check=True, capture_output=True)
    return next(folder.glob("sulvak-*.whl"))


def test_it_holds_the_core_alone(wheel: Path) -> None:
    names = zipfile.ZipFile(wheel).namelist()
    assert {n.split("/")[0] for n in names if ".dist-info" not in n} == {"sulvak", "sulvak_core"}
    here = {str(p.relative_to(ROOT / "core")) for p in (ROOT / "core").rglob("*") if p.suffix in (".py", ".typed")}
    assert here <= set(names)
    assert any(n.startswith("sulvak_core/sketch/fonts/") and not n.endswith(".py") for n in names)


def test_its_command_builds_a_part_away_from_here(wheel: Path, tmp_path: Path) -> None:
    installed = tmp_path / "installed"
    zipfile.ZipFile(wheel).extractall(installed)
    [points] = installed.glob("*.dist-info/entry_points.txt")
    module, function = re.findall(r"sulvak-build = ([\w.]+):(\w+)", points.read_text())[0]
    call = f"import sys; from {module} import {function}; sys.exit({function}(sys.argv[1:]))"
    env = {**os.environ, "PYTHONPATH": str(installed)}
    part = next((ROOT / "demo").rglob("finished/ballast-bar.json"))
    done = subprocess.run(
        [sys.executable, "-c", call, str(part), "--mass"], cwd=tmp_path, env=env, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr
    assert re.search(r"mass +[\d.]+ g", done.stdout)


def test_it_asks_for_what_it_imports() -> None:
    asked = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    names = {re.split(r"[=><]", a)[0].lower() for a in asked}
    called = {"OCP": "cadquery-ocp-novtk", "fontTools": "fonttools", "igl": "libigl", "PIL": "pillow"}
    called["typing_extensions"] = "typing-extensions"
    imported = {
        found
        for file in (ROOT / "core").rglob("*.py")
        for found in re.findall(r"^\s*(?:from|import) (\w+)", file.read_text(), re.MULTILINE)
        if found not in sys.stdlib_module_names and found not in ("sulvak_core", "__future__")
    }
    assert {called.get(n, n).lower() for n in imported} == names

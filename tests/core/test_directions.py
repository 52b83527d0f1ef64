"""Imports run one way: web → server → core, and inside the core from the files up to the kernel."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "core" / "sulvak_core"
# what each room may use of the others
MAY_USE = {
    "part": set(),
    "solid": {"part"},
    "sheet": {"part"},
    "naming": {"part", "solid"},
    "sketch": {"part", "solid"},
    "steps": {"part", "solid", "sheet", "naming", "sketch"},
    "rebuild": {"part", "solid", "sheet", "naming", "sketch", "steps"},
    "inspect": {"part", "solid", "sheet", "naming", "sketch", "steps", "rebuild"},
    "weighing": {"part", "solid", "sheet", "naming", "sketch", "steps", "rebuild", "inspect"},
    "making": {"part", "solid", "sheet", "naming", "sketch", "steps", "rebuild", "inspect"},
    "meshes": {"part", "solid", "sheet", "naming", "sketch", "steps", "rebuild", "inspect", "making"},
    "drawing": {"part", "solid", "sheet", "naming", "sketch", "steps", "rebuild", "inspect"},
    "exchange": {
        "part",
        "solid",
        "sheet",
        "naming",
        "sketch",
        "steps",
        "rebuild",
        "inspect",
        "weighing",
        "making",
        "drawing",
    },
}


WEB = ROOT / "web" / "src"
# each room of the screen may use those above it
WEB_ROOMS = [
    "api",
    "geometry",
    "view",
    "ui",
    "state",
    "document",
    "camera",
    "sketch",
    "steps",
    "inspect",
    "drawing",
    "release",
    "sheet",
    "route",
    "shell",
    "library",
]
OWN_IMPORT = re.compile(r"""(?:from|import)\s*\(?\s*["'](\.[^"']*)["']""")


def imports(path: Path) -> set[str]:
    """Absolute names of everything a module imports."""
    package = ["sulvak_core", *path.relative_to(CORE).parts[:-1]] if CORE in path.parents else []
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        if isinstance(node, ast.ImportFrom):
            base = ".".join(package[: len(package) - node.level + 1]) if node.level else ""
            found.add(".".join(p for p in (base, node.module or "") if p))
    return found


@pytest.mark.parametrize("room", sorted(MAY_USE))
def test_rooms_of_the_core(room: str) -> None:
    for path in (CORE / room).rglob("*.py"):
        for name in imports(path):
            parts = name.split(".")
            if parts[0] == "sulvak_core" and len(parts) > 1 and (CORE / parts[1]).is_dir():
                assert parts[1] in MAY_USE[room] | {room}, f"{path.name} imports {name}"


def screen_imports(path: Path) -> set[Path]:
    """The files of our own that a file of the screen imports."""
    found = set()
    for spec in OWN_IMPORT.findall(path.read_text()):
        base = (path.parent / spec).resolve()
        near = [Path(f"{base}{end}") for end in ("", ".ts", ".tsx") if Path(f"{base}{end}").is_file()]
        assert near, f"{path.relative_to(WEB)} imports {spec}, which is not there"
        found.add(near[0])
    return found


def test_rooms_of_the_screen() -> None:
    """Imports go up the list of rooms; every file of the screen stands in one of them, but for where it starts."""
    seen = 0
    for path in [*WEB.rglob("*.ts"), *WEB.rglob("*.tsx")]:
        room, *rest = path.relative_to(WEB).parts
        if not rest:
            assert room in ("main.tsx", "App.tsx")
            continue
        for other in screen_imports(path):
            theirs = other.relative_to(WEB).parts[0]
            assert WEB_ROOMS.index(theirs) <= WEB_ROOMS.index(room), f"{path.name} in {room} imports {theirs}"
            seen += 1
    assert seen > 400


def test_the_view_and_the_geometry_of_the_screen_know_no_react() -> None:
    for room in ("api", "geometry", "view"):
        for path in [*(WEB / room).rglob("*.ts"), *(WEB / room).rglob("*.tsx")]:
            assert 'from "react"' not in path.read_text(), path.name


def test_only_the_solid_room_imports_the_kernel() -> None:
    users = {
        p.relative_to(CORE).parts[0] for p in CORE.rglob("*.py") if any(n.split(".")[0] == "OCP" for n in imports(p))
    }
    assert users == {"solid"}


def test_the_core_knows_no_django_and_the_web_process_no_kernel() -> None:
    for path in CORE.rglob("*.py"):
        assert not any(n.split(".")[0] in ("django", "ninja", "channels", "parts", "kernel") for n in imports(path))
    for folder in ("parts", "live", "workspaces", "sulvak_server"):
        for path in (ROOT / "server" / folder).rglob("*.py"):
            for name in imports(path):
                assert not name.startswith(("OCP", "sulvak_core.solid", "sulvak_core.rebuild")), (
                    f"{path} imports {name}"
                )


def test_the_web_process_really_does_not_load_the_kernel() -> None:
    import subprocess
    import sys

    code = "import sulvak_core.steps.effects, sulvak_core.steps.sketch_view, sys; print('OCP' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, cwd=ROOT / "core")
    assert done.stdout.strip() == "False"


def test_the_glossary_names_files_that_are_there() -> None:
    named = re.findall(r"`([a-z_]+/[\w/.-]*[a-z])`", (ROOT / "docs" / "glossary.md").read_text())
    assert len(named) > 60
    places = (ROOT, CORE, WEB)
    assert [n for n in named if n != "step/role/what" and not any((place / n).exists() for place in places)] == []


def test_no_two_answers_of_the_api_have_one_name() -> None:
    """The description of the API knows them by their names alone: the second would take the first one's place."""
    found: dict[str, list[str]] = {}
    for path in sorted((ROOT / "server").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ClassDef) and node.name.endswith(("Out", "In")):
                found.setdefault(node.name, []).append(path.name)
    assert {n: at for n, at in found.items() if len(at) > 1} == {}

"""Which tests a change touches: by what they import, all the way down, and by the room of what has no importer."""

from __future__ import annotations

import ast
import subprocess
from functools import cache
from pathlib import Path

from .places import ROOT

SOURCES = ("core", "server", ".")  # where absolute imports begin


def changed_files(since: str = "HEAD") -> list[Path]:
    """Files that differ from a commit, those not yet known to git among them."""
    ask = (["git", "diff", "--name-only", since], ["git", "ls-files", "--others", "--exclude-standard"])
    names = [n for words in ask for n in subprocess.check_output(words, cwd=ROOT, text=True).split("\n") if n]
    return [ROOT / n for n in dict.fromkeys(names)]


@cache
def imported(path: Path) -> frozenset[Path]:
    """Our own files that a Python file imports directly."""
    found: set[Path] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            for name in node.names:
                found |= _files(name.name.split("."), None)
        elif isinstance(node, ast.ImportFrom):
            base = path.parents[node.level - 1] if node.level else None
            parts = (node.module or "").split(".") if node.module else []
            found |= _files(parts, base)
            for name in node.names:
                found |= _files([*parts, name.name], base)
    return frozenset(found - {path})


def _files(parts: list[str], base: Path | None) -> set[Path]:
    found: set[Path] = set()
    for root in [base] if base else [ROOT / s for s in SOURCES]:
        for n in range(len(parts) + 1):
            at = root.joinpath(*parts[:n])
            found |= {f for f in (at / "__init__.py", at.with_suffix(".py")) if n and f.is_file()}
    return found


def reached(path: Path) -> set[Path]:
    """A file and all of ours that it imports, directly or not."""
    seen: set[Path] = set()
    ahead = [path]
    while ahead:
        here = ahead.pop()
        if here not in seen:
            seen.add(here)
            ahead += imported(here)
    return seen


def touched(changed: list[Path]) -> list[str]:
    """Tests to run for changed files, as paths from the root. What runs as a process of its own (server, screen) is
    reached by no import: its room is run as a whole."""
    rooms = set()
    for path in changed:
        top = path.relative_to(ROOT).parts[0]
        if top in ("server", "demo") or path.suffix == ".sql":
            rooms.add("tests/server")
        if top == "web":
            rooms |= {"screen", "tests/browser"}
    meant = {p.resolve() for p in changed}
    alone = [
        str(test.relative_to(ROOT))
        for test in sorted((ROOT / "tests").rglob("test_*.py"))
        if str(test.parent.relative_to(ROOT)) not in rooms and reached(test) & meant
    ]
    return [*sorted(rooms), *alone]

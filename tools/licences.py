"""Writes docs/licences.md: what ships with Sulvak or is installed to run it, and under which licences.

Run with ``python -m tools.licences`` from the virtual environment, with the node packages installed.
"""

from __future__ import annotations

import json
import re
from importlib import metadata
from pathlib import Path

from .places import ROOT, WEB

HEAD = """# Licences of others

What runs in Sulvak and was made by others, by `python -m tools.licences`. PostgreSQL (PostgreSQL Licence),
Tesseract with its English data (Apache-2.0) and Chromium (BSD and others; for the tests alone) come from Debian's
packages; Python's packages are installed by uv (MIT or Apache-2.0) or pip (MIT). The geometry kernel inside
`cadquery-ocp-novtk` is Open CASCADE Technology (LGPL-2.1 with its exception).

"""


def python_packages() -> list[tuple[str, str, str]]:
    """(name, version, licence) of what requirements/run.txt pins."""
    pinned = re.findall(r"^([A-Za-z0-9_.-]+)==([^ \\;]+)", (ROOT / "requirements/run.txt").read_text(), re.M)
    return [(name, version, _licence(name)) for name, version in pinned]


def _licence(name: str) -> str:
    try:
        told = metadata.metadata(name)
    except metadata.PackageNotFoundError:
        return "not installed here"

    def field(of: str) -> str:
        return told[of] if of in told else ""  # noqa: SIM401 - it knows no get

    said = field("License-Expression")
    classes = [c.split(" :: ")[-1] for c in told.get_all("Classifier") or [] if c.startswith("License ::")]
    whole = field("License").strip()
    bsd = "Redistribution and use in source and binary forms" in whole
    text = "BSD" if bsd else whole.split("\n")[0]
    return said or (text if 0 < len(text) < 60 else "") or ", ".join(classes) or "see its files"


def node_packages() -> list[tuple[str, str, str]]:
    """(name, version, licence) of what ends up in the front end: no packages for building or testing."""
    locked = json.loads((WEB / "package-lock.json").read_text())["packages"]
    found = []
    for path, entry in locked.items():
        if not path or entry.get("dev") or entry.get("optional"):
            continue
        about = WEB / path / "package.json"
        own = json.loads(about.read_text()) if about.is_file() else {}
        licence = own.get("license") or entry.get("license") or "see its files"
        found.append((path.split("node_modules/")[-1], entry["version"], str(licence)))
    return sorted(set(found))


def fonts() -> list[tuple[str, str, str]]:
    """Fonts that ship in the repository itself."""
    kept = sorted(p for p in ROOT.glob("core/**/*.ttf") if ".venv" not in p.parts)
    return [(p.name, str(p.relative_to(ROOT).parent), "OFL-1.1" if _open_font(p) else "see its files") for p in kept]


def _open_font(path: Path) -> bool:
    beside = path.with_name("LICENSE")
    return beside.is_file() and "SIL Open Font License" in beside.read_text()


def table(title: str, heads: tuple[str, str, str], rows: list[tuple[str, str, str]]) -> str:
    lines = [f"## {title}", "", f"| {' | '.join(heads)} |", "|---|---|---|", *(f"| {' | '.join(r)} |" for r in rows)]
    return "\n".join(lines) + "\n"


def main() -> None:
    parts = [
        table("Python", ("package", "version", "licence"), python_packages()),
        table("Front end", ("package", "version", "licence"), node_packages()),
        table("Fonts in the repository", ("font", "where", "licence"), fonts()),
    ]
    (ROOT / "docs/licences.md").write_text(HEAD + "\n".join(parts))


if __name__ == "__main__":
    main()

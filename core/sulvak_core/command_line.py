"""``sulvak build``: a part file built, checked and exported without a browser."""

from __future__ import annotations

import argparse
import hashlib
import json
import sys
from pathlib import Path

from .exchange import part_file, solid_files
from .inspect.prove import prove
from .inspect.report import figures
from .part.errors import Refusal
from .part.units import number
from .rebuild.engine import build
from .rebuild.state import Cache
from .rebuild.version import FILE, HAS
from .solid.incoming import LARGEST


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when the part builds; 1 with a sentence on stderr when it does not; 2 for a wrong call."""
    p = argparse.ArgumentParser(prog="sulvak build", description="Build a part file, tell its figures, export.")
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument("--step", type=Path, metavar="OUT", help="write STEP (AP214)")
    p.add_argument("--stl", type=Path, metavar="OUT", help="write binary STL")
    p.add_argument("--mass", action="store_true", help="tell mass, volume, area and centre of mass")
    p.add_argument("--json", action="store_true", help="tell all figures as JSON")
    a = p.parse_args(argv)
    try:
        return _run(a)
    except Refusal as error:
        return _fail(error.sentence, a.json)
    except OSError as error:
        return _fail(f"{error.filename}: {error.strerror}.", a.json)


def _fail(sentence: str, as_json: bool) -> int:
    if as_json:
        print(json.dumps({"ok": False, "error": sentence}, ensure_ascii=False))
    print(sentence, file=sys.stderr)
    return 1


def _run(a: argparse.Namespace) -> int:
    document = part_file.read(a.file.read_bytes())
    result = build(document, Cache(_Beside(a.file.parent)))
    told = figures(document, result) | {"callouts": prove(document, result)}
    failed = [r for r in result.reports if r.state == "failed"]
    if failed:
        sentence = " ".join(f"Step {r.number} ({r.sentence}): {r.said}" for r in failed)
    elif not result.state.bodies:
        sentence = "The route makes no solid; extrude a profile first."
    else:
        sentence = ""
    if a.json:
        head: dict[str, object] = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, "name": document.name, **told}, indent=1))
    if sentence:
        print(sentence, file=sys.stderr)
        return 1
    if a.step:
        a.step.write_bytes(solid_files.step(document, result.state))
    if a.stl:
        a.stl.write_bytes(solid_files.stl(document, result.state))
    if not a.json:
        _tell(told, a.mass)
    return 0


class _Beside:
    """Files that a part takes bodies from lie beside the part's own file, under any name."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def get(self, key: str) -> bytes | None:
        if not key.startswith((FILE, HAS)):
            return None
        digest = key.removeprefix(FILE).removeprefix(HAS)
        for path in sorted(self.folder.iterdir()):
            if path.suffix.lower() in (".step", ".stp", ".p21") and path.stat().st_size <= LARGEST:
                data = path.read_bytes()
                if hashlib.sha256(data).hexdigest() == digest:
                    return data
        return None

    def put(self, key: str, data: bytes) -> None:
        pass


def _tell(told: dict, whole: bool) -> None:  # type: ignore[type-arg]
    for s in told["steps"]:
        change = "" if not s["volume_change"] else f"  {s['volume_change']:+.3f} mm³"
        print(f"{s['number']:>5}  {s['sentence']}{change}")
    m = told["mass"]
    if whole:
        print(f"volume  {number(m['volume'], 6)} mm³\narea    {number(m['area'], 6)} mm²")
        print("centre  " + ", ".join(number(c, 6) for c in m["centre"]) + " mm")
        print(f"mass    {number(m['mass'], 6)} g" if m["mass"] is not None else "mass    no material is set")
    for c in told["callouts"]:
        print(f"({c['number']})  {c['said']}")


if __name__ == "__main__":
    sys.exit(main())

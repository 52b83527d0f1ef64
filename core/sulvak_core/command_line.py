"""``sulvak build``: a part file built, checked and exported without a browser."""

from __future__ import annotations

import argparse
import gc
import hashlib
import json
import sys
from pathlib import Path
from typing import Any

# what takes long to load (the kernel, the algebra) is loaded once the call is understood


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when the part builds; 1 with a sentence on stderr when it does not; 2 for a wrong call."""
    p = argparse.ArgumentParser(prog="sulvak build", description="Build a part file, tell its figures, export.")
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument("--step", type=Path, metavar="OUT", help="write STEP (AP214)")
    p.add_argument("--stl", type=Path, metavar="OUT", help="write binary STL")
    p.add_argument(
        "--deviation",
        type=float,
        metavar="MM",
        help="how far STL triangles may lie off the part (a thousandth of its size)",
    )
    p.add_argument("--mass", action="store_true", help="tell mass, volume, area and centre of mass")
    p.add_argument("--json", action="store_true", help="tell all figures as JSON, in mm and g")
    a = p.parse_args(argv)
    told: dict[str, Any] = {}
    try:
        data = a.file.read_bytes()
        sentence = foreign(data) or _run(a, data, told)
    except OSError as error:
        sentence = f"{error.filename or a.file}: {error.strerror}."
    if a.json:  # one object, whatever happens
        head = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, **told}, indent=1, ensure_ascii=False))
    if sentence:
        print(sentence, file=sys.stderr)
    return 1 if sentence else 0


def foreign(data: bytes) -> str:
    """What a file is that somebody takes for a part file, in a sentence; empty where it may be one."""
    head = data[:400].lstrip(b"\xef\xbb\xbf \t\r\n")
    kinds = (
        ("a STEP file; take it in on the board, or name it in an import step", head.startswith(b"ISO-10303-21")),
        ("a PDF drawing", head.startswith(b"%PDF")),
        ("a picture", head.startswith((b"\x89PNG", b"\xff\xd8\xff", b"GIF8", b"BM", b"RIFF"))),
        ("an SVG drawing", head.startswith(b"<") and b"<svg" in data[:4000]),
        ("a 3MF file, which holds triangles, or another packed file", head.startswith(b"PK\x03\x04")),
        ("a DXF drawing", b"SECTION" in head[:200] and head[:1] in (b"0", b"9")),
        ("an STL file, which holds triangles", head.startswith(b"solid ") or _binary_stl(data)),
    )
    kind = next((name for name, is_one in kinds if is_one), "")
    return f"This is no part file but {kind}." if kind else ""


def _binary_stl(data: bytes) -> bool:
    return len(data) > 84 and len(data) == 84 + 50 * int.from_bytes(data[80:84], "little")


def _run(a: argparse.Namespace, data: bytes, told: dict[str, Any]) -> str:
    """Build, write what is asked for, and put the figures into ``told``; a sentence where something did not work."""
    document, result, sentence = built(a.file, data)
    from .exchange import solid_files
    from .inspect.prove import prove
    from .inspect.report import figures
    from .part.errors import Refusal

    if document is None or result is None:
        return sentence
    told |= {"name": document.name, **figures(document, result), "callouts": prove(document, result)}
    if sentence:
        return sentence
    try:
        if a.step:
            a.step.write_bytes(solid_files.step(document, result.state))
        if a.stl:
            a.stl.write_bytes(solid_files.stl(document, result.state, a.deviation))
    except Refusal as error:
        return error.sentence
    if not a.json:
        _tell(told, a.mass, document.unit)
    return ""


def built(path: Path, data: bytes) -> tuple[Any, Any, str]:
    """The document in a part file and its build, None where it cannot be read; and why it is no finished part."""
    gc.disable()  # what is loaded stays: looking through it for what could go takes a third of a second
    from .exchange import part_file
    from .part.errors import Refusal
    from .rebuild.engine import build
    from .rebuild.state import Cache

    gc.freeze()
    gc.enable()
    try:
        document = part_file.read(data)
        result = build(document, Cache(Beside(path.parent)))
    except Refusal as error:
        return None, None, error.sentence
    failed = [r for r in result.reports if r.state == "failed"]
    sentence = " ".join(f"Step {r.number} ({r.sentence}): {r.said}" for r in failed)
    if not failed and not result.state.bodies:
        sentence = "The route makes no solid; extrude a profile first."
    return document, result, sentence


class Beside:
    """Files that a part takes bodies from lie beside the part's own file, under any name."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def get(self, key: str) -> bytes | None:
        from .rebuild.version import FILE, HAS
        from .solid.incoming import LARGEST

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


def _tell(told: dict[str, Any], whole: bool, unit: Any) -> None:
    """The figures in the part's unit."""
    from .part.units import in_unit, number
    from .part.units import told as measure

    def said(value: float, power: Any = 1) -> str:
        return in_unit(measure(value, power), unit)

    for s in told["steps"]:
        change = s["volume_change"]
        sign = "+" if change and change > 0 else ""
        print(f"{s['number']:>5}  {s['sentence']}" + (f"  {sign}{said(change, 3)}" if change else ""))
    m = told["mass"]
    if whole:
        print(f"volume  {said(m['volume'], 3)}\narea    {said(m['area'], 2)}")
        print("centre  " + ", ".join(said(c) for c in m["centre"]))
        print(f"mass    {number(m['mass'], 6)} g" if m["mass"] is not None else "mass    no material is set")
    for c in told["callouts"]:
        print(f"({c['number']})  {c['said']}")


if __name__ == "__main__":
    sys.exit(main())

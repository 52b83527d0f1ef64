"""``sulvak compare``: a mesh (STL, 3MF, GLB) held against a part file."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .command_line import built, foreign
from .part.reference import MM


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when mesh and part lie within the limit of each other everywhere; 1 with a sentence on stderr where not;
    2 for a wrong call."""
    p = argparse.ArgumentParser(prog="sulvak compare", description="Hold a mesh against a part file.")
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument("mesh", type=Path, help="a mesh: STL, 3MF or GLB")
    p.add_argument("--unit", choices=list(MM), help="of the mesh's figures (what the file says, or mm)")
    p.add_argument("--within", type=float, default=0.1, metavar="MM", help="how far it may lie off (0.1)")
    p.add_argument("--lay", action="store_true", help="lay it on the part before it is measured")
    p.add_argument("--json", action="store_true", help="tell everything as JSON, in mm and degrees")
    a = p.parse_args(argv)
    if not 0 < a.within <= 1000:
        p.error("--within is in mm, above 0 and at most 1000")
    told: dict[str, Any] = {}
    try:
        data, mesh = a.file.read_bytes(), a.mesh.read_bytes()
        sentence = foreign(data) or _compare(a, data, mesh, told)
    except OSError as error:
        sentence = f"{error.filename or a.file}: {error.strerror}."
    if a.json:
        head: dict[str, Any] = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, **told}, indent=1, ensure_ascii=False))
    elif told:
        f = told["figures"]
        print(f"the mesh  {f['most outside']:.4f} mm out of the part, {-f['most inside']:.4f} mm within it at most")
        within = f"within {a.within:g} mm"
        print(f"          {100 * f['mesh within']:.1f} % {within}, root mean square {f['root mean square']:.4f} mm")
        print(f"the part  {f['part farthest']:.4f} mm from the mesh at most, {100 * f['part within']:.1f} % {within}")
        for note in told["notes"]:
            print(f"  {note}")
    if sentence:
        print(sentence, file=sys.stderr)
    return 1 if sentence else 0


def _compare(a: argparse.Namespace, data: bytes, mesh: bytes, told: dict[str, Any]) -> str:
    """Put all that was found into ``told``; a sentence where something lies off too far."""
    _, result, sentence = built(a.file, data)
    if sentence:
        return sentence
    from .meshes.fit import held
    from .meshes.read import read_mesh
    from .part.errors import Refusal

    try:
        told |= held(result.state.bodies, read_mesh(mesh), a.unit, a.within, a.lay)
    except Refusal as error:
        return error.sentence
    f = told["figures"]
    off = max(f["most outside"], -f["most inside"], f["part farthest"])
    return f"Mesh and part lie up to {off:.4f} mm off each other." if off > a.within else ""


if __name__ == "__main__":
    sys.exit(main())

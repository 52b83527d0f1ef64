"""``sulvak draw``: the drawing of a part file as PDF, SVG or DXF."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from .command_export import put
from .command_line import built, foreign

FORMS = (".pdf", ".svg", ".dxf")


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when all is written; 1 with a sentence on stderr, and nothing written, where not; 2 for a wrong call."""
    p = argparse.ArgumentParser(prog="sulvak draw", description="Draw a part file: views, sizes, title block.")
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument("out", type=Path, nargs="+", help="files to write: .pdf, .svg, .dxf")
    p.add_argument("--owner", default="", help="whose drawing it is, for the title block")
    p.add_argument("--json", action="store_true", help="tell what stands on the drawing as JSON, in mm of the paper")
    a = p.parse_args(argv)
    told: dict[str, Any] = {}
    try:
        data = a.file.read_bytes()
        sentence = foreign(data) or _draw(a, data, told)
    except OSError as error:
        sentence = f"{error.filename or a.file}: {error.strerror}."
    if a.json:
        head: dict[str, Any] = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, **told}, indent=1, ensure_ascii=False))
    elif not sentence:
        print(f"{told['paper']}  {told['scale']}  {len(told['sizes'])} sizes, {told['overlaps']} lie on something")
        for text in told["left_out"]:
            print(f"  no view shows {text}")
        for file in told["files"]:
            print(f"{file['file']}: {file['bytes']} bytes")
    if sentence:
        print(sentence, file=sys.stderr)
    return 1 if sentence else 0


def _draw(a: argparse.Namespace, data: bytes, told: dict[str, Any]) -> str:
    unknown = [str(o) for o in a.out if o.suffix.lower() not in FORMS]
    if unknown:
        return f"Sulvak draws .pdf, .svg and .dxf, not {', '.join(unknown)}."
    document, result, sentence = built(a.file, data)
    if sentence:
        return sentence
    from .drawing.sheet import draw
    from .drawing.told import told as all_of
    from .exchange.drawing_dxf import drawing_dxf
    from .exchange.drawing_pdf import drawing_pdf
    from .exchange.drawing_svg import drawing_svg
    from .part.errors import Refusal

    write = {".pdf": drawing_pdf, ".svg": drawing_svg, ".dxf": drawing_dxf}
    try:
        sheet = draw(document, result, a.owner)
        files = [(out, write[out.suffix.lower()](sheet, document.name)) for out in a.out]
    except Refusal as error:
        return error.sentence
    told |= {**all_of(sheet), "files": [{"file": str(out), "bytes": len(content)} for out, content in files]}
    for out, content in files:  # all of them are made before the first is written
        put(out, content)
    return ""


if __name__ == "__main__":
    sys.exit(main())

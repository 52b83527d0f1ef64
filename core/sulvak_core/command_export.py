"""``sulvak export``: a part file written in other formats, by the ending of each file that is asked for."""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from pathlib import Path
from typing import Any

from .command_line import built, foreign

FORMS = {".step": "step", ".stp": "step", ".stl": "stl", ".3mf": "3mf", ".glb": "glb"}


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when all is written; 1 with a sentence on stderr, and nothing written, where not; 2 for a wrong call."""
    p = argparse.ArgumentParser(prog="sulvak export", description="Write a part file in other formats.")
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument("out", type=Path, nargs="+", help="files to write: .step, .stl, .3mf, .glb")
    p.add_argument("--ap242", action="store_true", help="STEP by AP242 instead of AP214")
    p.add_argument("--text", action="store_true", help="STL as text")
    p.add_argument("--deviation", type=float, metavar="MM", help="how far triangles may lie off the part")
    p.add_argument("--json", action="store_true", help="tell what was written as JSON")
    a = p.parse_args(argv)
    told: list[dict[str, Any]] = []
    try:
        data = a.file.read_bytes()
        sentence = foreign(data) or _write(a, data, told)
    except OSError as error:
        sentence = f"{error.filename or a.file}: {error.strerror}."
    if a.json:
        head: dict[str, Any] = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, "files": told}, indent=1, ensure_ascii=False))
    elif not sentence:
        for file in told:
            more = f", {file['triangles']} triangles within {file['deviation']:.6g} mm" if "triangles" in file else ""
            print(f"{file['file']}: {file['bytes']} bytes{more}")
    if sentence:
        print(sentence, file=sys.stderr)
    return 1 if sentence else 0


def _write(a: argparse.Namespace, data: bytes, told: list[dict[str, Any]]) -> str:
    if a.deviation is not None and not 0.001 <= a.deviation <= 10:
        return "A deviation is between 0.001 and 10 mm."
    unknown = [str(o) for o in a.out if o.suffix.lower() not in FORMS]
    if unknown:
        return f"Sulvak writes .step, .stl, .3mf and .glb, not {', '.join(unknown)}."
    document, result, sentence = built(a.file, data)
    if sentence:
        return sentence
    from .exchange import mesh_files, solid_files
    from .part.errors import Refusal

    files: list[tuple[Path, bytes, dict[str, Any]]] = []
    try:
        for out in a.out:
            form = FORMS[out.suffix.lower()]
            if form == "step":
                files.append((out, solid_files.step(document, result.state, "AP242" if a.ap242 else "AP214"), {}))
                continue
            stl = mesh_files.stl_text if a.text else mesh_files.stl
            write = {"stl": stl, "3mf": mesh_files.threemf, "glb": mesh_files.glb}[form]
            made = write(document, result.state, a.deviation)
            files.append((out, made.data, {"triangles": made.triangles, "deviation": made.deviation}))
    except Refusal as error:
        return error.sentence
    for out, content, more in files:  # all of them are made before the first is written
        put(out, content)
        told.append({"file": str(out), "bytes": len(content), **more})
    return ""


def put(path: Path, content: bytes) -> None:
    """Write a file whole: under another name first, so that there is never half of it."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
        os.chmod(name, 0o666 & ~_umask())
        os.replace(name, path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


if __name__ == "__main__":
    sys.exit(main())

"""``sulvak verify``: a release pack checked without a server."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when the pack is as it says; 1 with what is wrong on stderr; 2 for a wrong call."""
    p = argparse.ArgumentParser(
        prog="sulvak verify", description="Check a release pack: its files, the part, the solid."
    )
    p.add_argument("pack", type=Path, help="a release pack (.zip)")
    p.add_argument("--json", action="store_true", help="tell the manifest and what is wrong as JSON")
    a = p.parse_args(argv)
    told: dict[str, Any] = {}
    wrong: list[str] = []
    from .part.errors import Refusal
    from .release.verify import verify

    try:
        manifest, wrong = verify(a.pack.read_bytes())
        told = {"manifest": manifest}
    except Refusal as refusal:
        wrong = [refusal.sentence]
    except OSError as error:
        wrong = [f"{error.filename or a.pack}: {error.strerror}."]
    if a.json:
        print(json.dumps({"ok": not wrong, "wrong": wrong, **told}, indent=1, ensure_ascii=False))
    elif not wrong:
        part, files = told["manifest"]["part"], told["manifest"]["files"]
        print(f"{part['number']} {part['name']}, revision {part['revision']}: {len(files)} files, all as released")
    for sentence in wrong:
        print(sentence, file=sys.stderr)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())

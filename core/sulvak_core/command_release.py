"""``sulvak release``: a part file's release pack, where all holds that must, or a reason is given."""

from __future__ import annotations

import argparse
import getpass
import json
import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from .command_export import put
from .command_line import built, foreign


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when the pack is written, or with --look when all holds; 1 with a sentence on stderr, and nothing written,
    where not; 2 for a wrong call."""
    p = argparse.ArgumentParser(prog="sulvak release", description="Look a part file over, and write its release pack.")
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument("pack", type=Path, nargs="?", help="the pack to write (.zip)")
    p.add_argument("--look", action="store_true", help="only tell what holds and what does not")
    p.add_argument("--by", default="", help="who releases it (who is signed in here)")
    p.add_argument("--at", default="", metavar="TIME", help="when, as 2031-05-12T08:30:00Z (now)")
    p.add_argument("--owner", default="", help="whose part it is")
    p.add_argument("--revision", default="", help="its letter (what the part file says)")
    p.add_argument(
        "--reason",
        action="append",
        default=[],
        metavar="KEY=WORDS",
        help="why it is released though a line does not hold; once for each",
    )
    p.add_argument("--json", action="store_true", help="tell everything as JSON")
    a = p.parse_args(argv)
    if not a.look and a.pack is None:
        p.error("say where to write the pack, or --look")
    if any("=" not in r for r in a.reason):
        p.error("a reason is KEY=WORDS, such as mass='agreed with the shop'")
    told: dict[str, Any] = {}
    try:
        at = _time(a.at)
        data = a.file.read_bytes()
        sentence = foreign(data) or _release(a, at, data, told)
    except ValueError:
        sentence = f"“{a.at}” is no time; write it as 2031-05-12T08:30:00Z."
    except OSError as error:
        sentence = f"{error.filename or a.file}: {error.strerror}."
    if a.json:
        head: dict[str, Any] = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, **told}, indent=1, ensure_ascii=False))
    else:
        for c in told.get("conditions", []):
            print(f"{'holds' if c['holds'] else 'OPEN '}  {c['key']:<16} {c['what']}: {c['said']}")
        if "pack" in told:
            print(f"{told['pack']}: {told['bytes']} bytes, revision {told['revision']}")
    if sentence:
        print(sentence, file=sys.stderr)
    return 1 if sentence else 0


def _time(text: str) -> str:
    if not text:
        return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    return datetime.strptime(text, "%Y-%m-%dT%H:%M:%SZ").strftime("%Y-%m-%dT%H:%M:%SZ")


def _release(a: argparse.Namespace, at: str, data: bytes, told: dict[str, Any]) -> str:
    document, result, sentence = built(a.file, data)
    if document is None:
        return sentence
    from .part.errors import Refusal
    from .release.conditions import plain
    from .release.letters import is_letter
    from .release.manifest import Release
    from .release.pack import looked_over, pack

    letter = a.revision or document.revision
    if not is_letter(letter):
        return f"“{letter}” is no revision letter; say --revision A."
    document = document.model_copy(update={"revision": letter})
    looked = looked_over(document, result, a.owner, every=True)
    told |= {"name": document.name, "revision": letter, "conditions": plain(looked.conditions)}
    open_lines = [c.key for c in looked.conditions if not c.holds]
    if a.look:
        return f"{len(open_lines)} lines do not hold: {', '.join(open_lines)}." if open_lines else ""
    reasons = dict(r.split("=", 1) for r in a.reason)
    unknown = reasons.keys() - {c.key for c in looked.conditions}
    if unknown:
        return f"There is no line called {', '.join(sorted(unknown))}."
    try:
        made = pack(document, result, Release(letter, a.by or getpass.getuser(), at, a.owner, reasons), (), looked)
    except Refusal as error:
        return error.sentence
    put(a.pack, made)
    told |= {"pack": str(a.pack), "bytes": len(made)}
    return ""


if __name__ == "__main__":
    sys.exit(main())

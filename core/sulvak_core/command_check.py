"""``sulvak check``: a part file held against its callouts, its mass and the shop's limits, without a browser."""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

from .command_line import built, foreign

CHECKS = ("solid", "mould", "walls", "cutters")


def main(argv: list[str] | None = None) -> int:
    """Exit 0 when everything that is asked for holds; 1 when something does not, or the part does not build; 2 for a
    wrong call."""
    p = argparse.ArgumentParser(
        prog="sulvak check", description="Hold a part file against its callouts, its mass and the shop's limits."
    )
    p.add_argument("file", type=Path, help="a part file (.json)")
    p.add_argument(
        "--only",
        metavar="NAMES",
        help=f"which of {', '.join(CHECKS)}, with commas between (those the part asks for before its release)",
    )
    p.add_argument("--json", action="store_true", help="tell everything as JSON, in mm, degrees and g")
    a = p.parse_args(argv)
    only = a.only.split(",") if a.only else None
    if only and not set(only) <= set(CHECKS):
        p.error(f"there are the checks {', '.join(CHECKS)}")
    told: dict[str, Any] = {}
    try:
        data = a.file.read_bytes()
        sentence = foreign(data) or _check(a, data, only, told)
    except OSError as error:
        sentence = f"{error.filename or a.file}: {error.strerror}."
    if a.json:
        head: dict[str, Any] = {"ok": False, "error": sentence} if sentence else {"ok": True}
        print(json.dumps({**head, **told}, indent=1, ensure_ascii=False))
    if sentence:
        print(sentence, file=sys.stderr)
    return 1 if sentence else 0


def _check(a: argparse.Namespace, data: bytes, only: list[str] | None, told: dict[str, Any]) -> str:
    """Put all that was found into ``told``; a sentence where something does not hold."""
    document, result, sentence = built(a.file, data)
    if document is None or sentence:
        return sentence
    from .inspect.mass import mass
    from .inspect.prove import prove
    from .making.checks import checked
    from .part.units import in_unit

    callouts = prove(document, result)
    weighed = mass(document, result.state)
    made = [checked(document, result, name) for name in (only or document.shop.asked)]  # type: ignore[arg-type]
    told |= {
        "name": document.name,
        "callouts": callouts,
        "mass": {k: weighed[k] for k in ("mass", "target", "within")},
        "checks": [
            {
                "check": c.check,
                "passed": c.passed,
                "findings": [{**asdict(f), "said": in_unit(f.said, document.unit)} for f in c.findings],
                "figures": c.figures,
            }
            for c in made
        ],
    }
    judged = [c for c in callouts if c["state"] not in ("note", "reference")]
    proven = sum(c["state"] == "proven" for c in judged)
    wrong = [f"{len(judged) - proven} of {len(judged)} callouts are not proven"] if proven < len(judged) else []
    wrong += ["the mass is off its target"] if weighed["within"] is False else []
    wrong += [f"the check “{c.check}” does not pass" for c in made if not c.passed]
    if not a.json:
        print(f"callouts  {proven} of {len(judged)} proven")
        for c in judged:
            if c["state"] != "proven":
                print(f"  ({c['number']})  {c['said']}")
        if weighed["mass"] is not None:
            within = {True: ", within its target", False: ", off its target", None: ""}[weighed["within"]]
            print(f"mass  {weighed['mass']:.3f} g{within}")
        for one in made:
            print(f"{one.check}  {'passed' if one.passed else 'not passed'}")
            for f in one.findings:
                print(f"  {'' if f.worth == 'out' else '(to know) '}{in_unit(f.said, document.unit)}")
    return f"{'; '.join(wrong)[0].upper()}{'; '.join(wrong)[1:]}." if wrong else ""


if __name__ == "__main__":
    sys.exit(main())

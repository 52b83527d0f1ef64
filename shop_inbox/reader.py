"""What a shop looks at before it takes a pack. Written on its own, from what docs/release.md says of packs: it shares
no code with what writes them, and needs nothing but Python."""

from __future__ import annotations

import hashlib
import io
import json
import math
import re
import zipfile
import zlib
from typing import Any

MOST = 300_000_000  # bytes unpacked
MINDED = {"mould": "It does not leave the mould", "cutters": "Cutters do not reach it"}


def reasons_against(data: bytes) -> list[str]:
    """Why the shop does not take a pack, in sentences; nothing where it does."""
    try:
        files = _files(data)
    except (zipfile.BadZipFile, OSError, ValueError, RuntimeError, NotImplementedError, EOFError, zlib.error) as error:
        return [f"The pack cannot be opened ({error})."]
    try:
        told = json.loads(files["manifest.json"])
        return [*_digests(told, files), *_of_the_part(told, files), *_of_the_shop(files)]
    except KeyError as missing:
        return [f"The pack lacks {missing}."]
    except (ValueError, TypeError, AttributeError, RecursionError):
        return ["The pack's own words about itself cannot be read."]


def _files(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as z:
        if sum(i.file_size for i in z.infolist()) > MOST:
            raise ValueError("it would unpack to more than 300 MB")
        return {i.filename: z.read(i) for i in z.infolist()}


def _digests(told: dict[str, Any], files: dict[str, bytes]) -> list[str]:
    wrong = []
    for entry in told["files"]:
        content = files.get(entry["path"])
        if content is None:
            wrong.append(f"{entry['path']} is announced, but not there.")
        elif hashlib.sha256(content).hexdigest() != entry["sha256"]:
            wrong.append(f"{entry['path']} is not the file that was released.")
    extra = files.keys() - {e["path"] for e in told["files"]} - {"manifest.json"}
    return wrong + [f"{name} came along unannounced." for name in sorted(extra)]


def _of_the_part(told: dict[str, Any], files: dict[str, bytes]) -> list[str]:
    wrong = []
    part, figures = told["part"], told["figures"]
    step = files["solid.step"].decode("latin-1")
    if not step.startswith("ISO-10303-21"):
        wrong.append("solid.step is no STEP file.")
    inches = re.search(r"CONVERSION_BASED_UNIT\s*\(\s*'INCH'", step) is not None
    if part["unit"] != ("in" if inches else "mm") or ".METRE." not in step:
        wrong.append(f"The solid is not in {part['unit']}, as the pack says.")
    if part["number"] and part["number"] not in step:
        wrong.append(f"The solid does not carry the number {part['number']}.")
    if figures["mass"] is None:
        wrong.append("Nobody says what it weighs.")
    else:
        whole = sum(b["mass"] for b in figures["bodies"])
        if not math.isclose(whole, figures["mass"], rel_tol=1e-6):
            wrong.append(f"The bodies weigh {whole:.4g} g together, the part {figures['mass']:.4g} g.")
        if figures["within"] is False:
            wrong.append(f"At {figures['mass']:.4g} g it misses its own target.")
    document = json.loads(files["part.sulvak.json"])
    wrong += [
        f"The part file's {k} is another than the pack's."
        for k in ("number", "revision", "material", "unit")
        if document[k] != part[k]
    ]
    if not files["drawing.pdf"].startswith(b"%PDF"):
        wrong.append("drawing.pdf is no PDF.")
    return wrong


def _of_the_shop(files: dict[str, bytes]) -> list[str]:
    """What the checks found that this shop minds: only those that the part itself asks for."""
    wrong = []
    for check in json.loads(files["checks.json"]):
        if check["check"] in MINDED and check["required"] and not check["passed"]:
            out = [f["said"] for f in check["findings"] if f["worth"] == "out"]
            wrong.append(f"{MINDED[check['check']]}: {out[0] if out else 'not passed'}")
    return wrong

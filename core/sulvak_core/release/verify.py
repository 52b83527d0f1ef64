"""A release pack checked without a server: that every file is as the manifest says, and what they say of the part
agrees. A pack comes from outside and may be anything."""

from __future__ import annotations

import hashlib
import io
import json
import math
import zipfile
from typing import Any

from ..part.errors import Refusal
from .letters import is_letter
from .manifest import FORMAT, VERSION
from .step_volume import step_volume

MOST_FILES, MOST_BYTES, MOST_RATIO = 200, 300_000_000, 400
NEEDED = ("part.sulvak.json", "solid.step", "drawing.pdf", "inspection.pdf", "checks.json", "summary.pdf")
SAME = 1e-6  # share of a volume or mass that may be off


def open_pack(data: bytes) -> tuple[dict[str, Any], dict[str, bytes]]:
    """The manifest and the files of a pack. Raises Refusal for what is none, or is unsafe."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as z:
            infos = z.infolist()
            if len(infos) > MOST_FILES or sum(i.file_size for i in infos) > MOST_BYTES:
                raise Refusal("This pack holds more than a release pack ever does; it was not opened.")
            for i in infos:
                if i.file_size > 1000 and i.file_size > MOST_RATIO * max(i.compress_size, 1):
                    raise Refusal("A file of this pack would swell beyond all measure; it was not opened.")
                if i.filename.startswith(("/", "\\")) or ".." in i.filename or "/" in i.filename or "\\" in i.filename:
                    raise Refusal("A file of this pack wants to lie outside of it; it was not opened.")
            names = [i.filename for i in infos]
            if len(set(names)) < len(names):
                raise Refusal("Two files of this pack have one name; it was not opened.")
            files = {i.filename: z.read(i) for i in infos}
    except (
        zipfile.BadZipFile,
        zipfile.LargeZipFile,
        NotImplementedError,
        RuntimeError,
        EOFError,
        OSError,
        ValueError,
    ) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal("This is no release pack: it cannot be opened as a ZIP.") from None
    text = files.pop("manifest.json", None)
    if text is None:
        raise Refusal("This is no release pack: it has no manifest.json.")
    try:
        told = json.loads(text)
    except (ValueError, RecursionError):
        raise Refusal("The manifest of this pack is damaged and cannot be read.") from None
    if not isinstance(told, dict) or told.get("format") != FORMAT:
        raise Refusal("This is no release pack of Sulvak: its manifest says another format.")
    if told.get("format_version") != VERSION:
        raise Refusal("This pack was made by a newer Sulvak; update this one to check it.")
    return told, files


def verify(data: bytes) -> tuple[dict[str, Any], list[str]]:
    """The manifest of a pack, and what is wrong with the pack, in sentences; nothing where all is as it says. Raises
    Refusal for what cannot be opened."""
    told, files = open_pack(data)
    try:
        return told, _wrong(told, files)
    except (KeyError, TypeError, AttributeError, ValueError):
        return told, ["The manifest does not say what a manifest says."]


def _wrong(told: dict[str, Any], files: dict[str, bytes]) -> list[str]:
    wrong = []
    listed = {f["path"]: f for f in told["files"]}
    wrong += [f"{p} is in the manifest, but not in the pack." for p in sorted(listed.keys() - files.keys())]
    wrong += [f"{p} is in the pack, but not in the manifest." for p in sorted(files.keys() - listed.keys())]
    for path in sorted(listed.keys() & files.keys()):
        if (
            hashlib.sha256(files[path]).hexdigest() != listed[path]["sha256"]
            or len(files[path]) != listed[path]["bytes"]
        ):
            wrong.append(f"{path} is not as it was released: its digest is another.")
    wrong += [f"A pack needs {p}, and this one has none." for p in NEEDED if p not in files]
    if wrong:
        return wrong
    if not is_letter(told["part"]["revision"]):
        wrong.append(f"“{told['part']['revision']}” is no revision letter.")
    wrong += [
        f"“{c['what']}” does not hold, and no reason is given."
        for c in told["conditions"]
        if not c["holds"] and not c["reason"]
    ]
    wrong += _part_agrees(told, files["part.sulvak.json"])
    wrong += _solid_agrees(told, files["solid.step"])
    checks = {c["check"]: c["passed"] for c in json.loads(files["checks.json"])}
    wrong += [
        f"The check “{c['check']}” came out otherwise than the manifest says."
        for c in told["checks"]
        if checks.get(c["check"]) != c["passed"]
    ]
    return wrong


def _part_agrees(told: dict[str, Any], data: bytes) -> list[str]:
    """The part file built anew weighs what the manifest says."""
    from ..exchange import part_file
    from ..inspect.mass import mass
    from ..rebuild.engine import build

    try:
        document = part_file.read(data.decode())
    except (Refusal, UnicodeDecodeError) as error:
        return [f"part.sulvak.json cannot be read: {getattr(error, 'sentence', 'it is no text')}"]
    wrong = [
        f"The part file says the {name} “{getattr(document, name)}”, the manifest “{told['part'][name]}”."
        for name in ("name", "number", "revision", "material", "unit")
        if getattr(document, name) != told["part"][name]
    ]
    found = mass(document, build(document).state)
    for name, unit in (("volume", "mm³"), ("mass", "g")):
        one, two = found[name], told["figures"][name]
        if (one is None) != (two is None) or (one is not None and not math.isclose(one, two, rel_tol=SAME)):
            wrong.append(f"Built anew the part has the {name} {one} {unit}; the manifest says {two}.")
    return wrong


def _solid_agrees(told: dict[str, Any], data: bytes) -> list[str]:
    """The STEP file, read back, holds the volume the manifest says."""
    try:
        volume = step_volume(data)
    except Refusal as refusal:
        return [f"solid.step cannot be read: {refusal.sentence}"]
    said = told["figures"]["volume"]
    return (
        []
        if math.isclose(volume, said, rel_tol=SAME)
        else [f"solid.step holds {volume} mm³; the manifest says {said}."]
    )

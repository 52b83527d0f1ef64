"""What a release pack says of itself: the part, what it weighs, what held and what did not, and each file's digest."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..drawing.sheet import DrawnSheet
from ..inspect.mass import mass
from ..inspect.prove import prove
from ..making.finding import Checked
from ..part.shop import CheckName
from ..rebuild.engine import Build
from ..rebuild.version import KERNEL_VERSION
from ..steps.registry import Document
from .conditions import Condition

FORMAT = "sulvak-release-pack"
VERSION = 1
Content = tuple[bytes, str, str]  # of a file: data, media type, what it is


@dataclass(frozen=True)
class Release:
    """What is told of a release besides the part: its ``revision`` letter, who released it ``by`` and ``at`` (ISO 8601,
    UTC, to the second), whose it is, and the ``reasons`` given for lines that did not hold, by their keys."""

    revision: str
    by: str
    at: str
    owner: str
    reasons: Mapping[str, str]


@dataclass
class Looked:
    """A part looked over: its conditions, and what was made on the way."""

    conditions: list[Condition]
    checks: dict[CheckName, Checked]
    sheet: DrawnSheet | None


def entry(path: str, data: bytes, media_type: str, what: str) -> dict[str, Any]:
    """A file in the manifest's list."""
    digest = hashlib.sha256(data).hexdigest()
    return {"path": path, "sha256": digest, "bytes": len(data), "media_type": media_type, "what": what}


def manifest(document: Document, build: Build, release: Release, looked: Looked) -> dict[str, Any]:
    """What the pack says of itself, all but the list of its files. Lengths in mm, areas mm², volumes mm³, masses g."""
    weighed = mass(document, build.state)
    judged = [v for v in prove(document, build) if v["state"] not in ("note", "reference")]
    return {
        "format": FORMAT,
        "format_version": VERSION,
        "part": {
            "name": document.name,
            "number": document.number,
            "description": document.description,
            "revision": release.revision,
            "material": document.material,
            "unit": document.unit,
            "owner": release.owner,
            "properties": dict(document.properties),
        },
        "released": {"by": release.by, "at": release.at},
        "figures": {
            "volume": weighed["volume"],
            "area": weighed["area"],
            "centre": weighed["centre"],
            "box": weighed["box"],
            "mass": weighed["mass"],
            "target": weighed["target"],
            "within": weighed["within"],
            "bodies": [
                {"name": b["title"] or b["id"], "volume": b["volume"], "mass": b["mass"], "material": b["material"]}
                for b in weighed["bodies"]
            ],
        },
        "callouts": {"proven": sum(v["state"] == "proven" for v in judged), "of": len(judged)},
        "conditions": [
            {
                "key": c.key,
                "what": c.what,
                "holds": c.holds,
                "said": c.said,
                "reason": "" if c.holds else release.reasons.get(c.key, ""),
            }
            for c in looked.conditions
        ],
        "checks": [
            {"check": c.check, "passed": c.passed, "required": c.check in document.shop.asked}
            for c in looked.checks.values()
        ],
        "drawing": {"paper": looked.sheet.paper, "scale": looked.sheet.scale, "sizes": len(looked.sheet.sizes)}
        if looked.sheet
        else None,
        "made_with": {"kernel": KERNEL_VERSION, "part_format": document.format_version},
    }

"""How each size is measured, in words, and a table of all of them as CSV (RFC 4180)."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from typing import Any

from ..part.document import Callout
from ..part.units import MM_PER, number
from ..sketch.model import Dimension
from ..sketch.words import thing
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import AnyStep, Document
from ..steps.shared import how_it_came, read_callout

_BY_FIELD = {
    "taper": "angle of the walls of step {n} to the direction of their sketch",
    "wall": "between the two sides of the thin wall of step {n}",
    "radius": "round faces of step {n}",
    "thickness": "between the faces of the shell of step {n} and those behind them",
    "diameter": "drilled walls of step {n}, and what is sunk at their mouths",
    "size": "drilled walls of step {n}, and what is sunk at their mouths",
    "bore_diameter": "counterbores of step {n}",
    "bore_depth": "counterbores of step {n}, from their mouths",
    "first": "what the flats of step {n} take off the faces beside them",
    "second": "what the flats of step {n} take off the faces beside them",
}


def method(document: Document, callout: Callout) -> str:
    """How a callout is measured on the finished part; empty while nothing uses it."""
    if callout.gauged is not None and callout.link is None:
        kinds = " and ".join(f"a {spot.kind}" for spot in callout.gauged.spots)
        return f"{callout.gauged.figure} of {kinds} of the part"
    if callout.link is None:
        return ""
    step = document.step(callout.link.step)
    if step is None:
        return ""
    if isinstance(step, SketchStep):
        d = next((d for d in step.sketch.dimensions if d.id == callout.link.field), None)
        return _of_sketch(d, document.position(step.id)) if d is not None else ""
    return _of_step(step, callout.link.field, document.position(step.id))


def _of_sketch(d: Dimension, n: int) -> str:
    names = [thing(r) for r in d.refs]
    where = f"(sketch {n})"
    if d.kind in ("radius", "diameter"):
        return f"{d.kind} of the round wall from {names[0]} {where}"
    if d.kind == "angle":
        return f"between the walls from {names[0]} and {names[1]} {where}"
    if d.kind == "arc_length":
        return f"length of the wall from {names[0]} {where}"
    way = {"horizontal": ", along the sketch's x", "vertical": ", along the sketch's y"}.get(d.along, "")
    if len(names) == 1:
        return f"between the walls at the ends of {names[0]}{way} {where}"
    rim = {"near": ", to its near side", "far": ", to its far side"}.get(d.rim, "")
    both = ", both sides of it" if d.across else ""
    return f"between what stands on {names[0]} and {names[1]}{rim}{both}{way} {where}"


_BY_KIND = {
    ("pattern", "spacing"): "from the faces of each copy of step {n} to those it is a copy of, along the row",
    ("pattern", "second_spacing"): "from the faces of each copy of step {n} to those it is a copy of, across the row",
    ("pattern", "angle"): "round the axis of step {n}, from the faces of each copy to those of the one before",
    ("revolve", "angle"): "between the end faces of step {n}, round its axis",
    ("rib", "thickness"): "between the two sides of the rib of step {n}",
    ("text", "height"): "across the level edges of the letters of step {n}",
    ("text", "depth"): "from the letters of step {n} to the face they are on",
    ("hole", "sink_diameter"): "countersinks of step {n}, at their mouths",
    ("hole", "sink_angle"): "countersinks of step {n}, by their two rims",
    ("hole", "tip_angle"): "drill points of step {n}, by rim and tip",
}


def _of_step(step: AnyStep, field: str, n: int) -> str:
    words = _BY_KIND.get((step.kind, field))
    if words is not None:
        return words.format(n=n)
    for name, words in _BY_FIELD.items():
        if field == name or (name == "radius" and field.startswith("radius")):
            return words.format(n=n)
    if field.startswith("angle"):
        return f"faces of step {n}, to its neutral plane"
    return f"between the end faces of step {n}, along its direction"


def rows(document: Document, verdicts: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """A row for every callout, in balloon order: ``number``, ``text``, ``page``, ``nominal``, ``lower`` and ``upper``
    limits, ``measured``, ``deviation`` (mm or degrees, None where there is none), ``verdict``, ``said``, ``how``."""
    by_id = {v["callout"]: v for v in verdicts}
    found = []
    for c in sorted(document.callouts, key=lambda c: c.number):
        v, r = by_id.get(c.id), read_callout(document, c)
        measured = v["measured"] if v else None
        nominal = r.nominal if r.kind != "note" else None
        low = None if nominal is None or r.bound == "max" else nominal + r.lower
        high = None if nominal is None or r.bound == "min" else nominal + r.upper
        found.append(
            {
                "callout": c.id,
                "number": c.number,
                "text": c.text or how_it_came(document, c),
                "page": c.page + 1 if c.at else None,
                "unit": "°" if r.kind == "angle" else "" if nominal is None else "mm",
                "nominal": nominal,
                "lower": low,
                "upper": high,
                "toleranced": r.toleranced,
                "general": r.general,
                "measured": measured,
                "deviation": measured - nominal if measured is not None and nominal is not None else None,
                "verdict": v["state"] if v else "open",
                "said": v["said"] if v else "",
                "how": method(document, c),
                "faces": (v or {}).get("faces", []),
            }
        )
    return found


def as_csv(document: Document, verdicts: Sequence[Mapping[str, Any]], heading: Mapping[str, str]) -> str:
    """The table as CSV, lengths in the part's unit; before it the lines of ``heading``, name and value."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    for name, value in heading.items():
        writer.writerow([name, _plain(value)])
    writer.writerow([])
    columns = ("nominal", "lower", "upper", "measured", "deviation")
    writer.writerow(["balloon", "callout", "page", "unit", *columns, "verdict", "remark", "method"])
    for row in rows(document, verdicts):
        length = row["unit"] == "mm"
        k = MM_PER[document.unit] if length else 1.0
        figures = ["" if row[c] is None else number(row[c] / k, 6) for c in columns]
        unit = document.unit if length else row["unit"]
        words = [_plain(row[k]) for k in ("verdict", "said", "how")]
        writer.writerow([row["number"], _plain(row["text"]), row["page"] or "", unit, *figures, *words])
    return out.getvalue()


def _plain(text: str) -> str:
    """Text that no table program takes for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text

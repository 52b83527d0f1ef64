"""Callout text in the notation of ASME Y14.5 / ISO 129 read into a Requirement.

Read here: ``48``, ``48 ±0.1``, ``48 +0.1/-0.05``, ``(52)``, ``3X Ø3.4 THRU``, ``⌀8 ↧ 5``, ``Ø8 DEEP 5``,
``R6``, ``2X R9``, ``30°``, ``2×45°`` (a chamfer), ``1 1/4"``; after a hole's diameter ``⌴ Ø14 ↧ 5`` (or CBORE) and
``⌵ Ø9 × 90°`` (or CSK); threads by their designation, ``4X M5 THRU``, ``1/4-20 ↧ 12``. What cannot be read whole is
a note.
"""

from __future__ import annotations

import re
from typing import Literal

from pydantic import BaseModel

from ..part.errors import ExpressionError
from ..part.expressions import evaluate
from ..part.threads import THREADS
from ..part.units import LengthUnit, number

Kind = Literal["linear", "diameter", "radius", "angle", "chamfer", "thread", "note"]

_NUMBER = r"\d+(?:\s+\d+/\d+|/\d+)?(?:[.,]\d+)?|[.,]\d+"
_UNIT = r"(?:\s*(?P<unit>mm|in|\"|″))?"
_TOL = (
    r"(?:\s*(?:±|\+/-|\+-)\s*(?P<both>[\d.,]+)"
    r"|\s*\+\s*(?P<plus>[\d.,]+)\s*/?\s*[-−]\s*(?P<minus>[\d.,]+))?"
)
_DEPTH = r"(?:\s*(?:(?P<thru>THRU(?:\s+ALL)?|THROUGH(?:\s+ALL)?)|(?:↧|DEEP|DEPTH)\s*(?P<depth>" + _NUMBER + r")))?"
_SIZE = re.compile(
    r"(?:(?P<count>\d{1,4})\s*[xX×]\s*)?"
    r"(?P<sign>⌀|Ø|ø|∅|DIA\s|R(?=[\d.,\s]))?\s*"
    rf"(?P<value>{_NUMBER})\s*(?P<degree>°)?"
    + _UNIT
    + _TOL
    + r"\s*(?:°)?"
    + _UNIT.replace("unit", "unit2")
    + _DEPTH
    + r"\Z",
    re.IGNORECASE,
)
_BORE = re.compile(
    rf"(?:⌴|C'?BORE)\s*(?:⌀|Ø|ø|∅)?\s*(?P<wide>{_NUMBER})\s*(?:↧|DEEP|DEPTH)\s*(?P<deep>{_NUMBER})", re.I
)
_SINK = re.compile(
    rf"(?:⌵|CSK|C'?SINK)\s*(?:⌀|Ø|ø|∅)?\s*(?P<wide>{_NUMBER})\s*[xX×]\s*(?P<angle>\d+(?:[.,]\d+)?)\s*°", re.I
)
_THREAD = re.compile(
    r"(?:(?P<count>\d{1,4})\s*[xX×]\s*(?=[M#\d]))?(?P<name>(?:M|#)?\d+(?:[./]\d+)?(?:-\d+)?)"
    r"(?:\s*[xX×]\s*(?P<pitch>\d+(?:\.\d+)?))?(?:\s*UN[CF])?(?:\s*-\s*\d[GH])?" + _DEPTH + r"\Z",
    re.I,
)
_CHAMFER = re.compile(rf"(?P<leg>{_NUMBER})\s*[xX×]\s*(?P<angle>\d+(?:[.,]\d+)?)\s*°\Z")


class Requirement(BaseModel):
    """What a callout asks for. Lengths in mm, angles in degrees.

    ``upper`` and ``lower`` are deviations from ``nominal`` (0 and 0 when the callout gives none).
    ``reference`` sizes, in parentheses, are told but not required. ``bore`` and ``bore_depth`` are a counterbore's,
    ``sink`` and ``sink_angle`` a countersink's. A ``thread`` is named as the tables do; its nominal is its diameter.
    """

    kind: Kind
    count: int = 1
    nominal: float | None = None
    upper: float = 0.0
    lower: float = 0.0
    toleranced: bool = False
    through: bool = False
    depth: float | None = None
    angle: float | None = None
    reference: bool = False
    bore: float | None = None
    bore_depth: float | None = None
    sink: float | None = None
    sink_angle: float | None = None
    thread: str = ""
    typed: str = ""  # the nominal as a typed expression, to be used in a field


def parse(text: str, unit: LengthUnit = "mm") -> Requirement:
    """The requirement a callout's text makes; kind “note” when it cannot be read as a size."""
    plain = text.strip()
    reference = plain.startswith("(") and plain.endswith(")")
    if reference:
        plain = plain[1:-1].strip()
    try:
        found = _chamfer(plain, unit, reference) or _thread(plain, unit, reference) or _hole(plain, unit, reference)
        return found or Requirement(kind="note")
    except (ExpressionError, ValueError):
        return Requirement(kind="note")


def _chamfer(text: str, unit: LengthUnit, reference: bool) -> Requirement | None:
    match = _CHAMFER.match(text)
    if match is None:
        return None
    leg = evaluate(match["leg"], "length", unit)
    angle = float(match["angle"].replace(",", "."))
    return Requirement(kind="chamfer", nominal=leg, angle=angle, reference=reference, typed=match["leg"])


def _thread(text: str, unit: LengthUnit, reference: bool) -> Requirement | None:
    match = _THREAD.match(text)
    if match is None:
        return None
    name, pitch = match["name"].upper(), match["pitch"]
    known = THREADS.get(f"{name}x{pitch}" if pitch else name)
    if known is None and pitch and name in THREADS and THREADS[name].pitch == float(pitch):
        known = THREADS[name]  # the coarse pitch may be said or left out
    if known is None:
        return None
    return Requirement(
        kind="thread",
        count=int(match["count"] or 1),
        nominal=known.diameter,
        through=bool(match["thru"]),
        depth=evaluate(match["depth"], "length", unit) if match["depth"] else None,
        reference=reference,
        thread=known.name,
        typed=known.name,
    )


def _hole(text: str, unit: LengthUnit, reference: bool) -> Requirement | None:
    """A size, or a hole's diameter with what is sunk at its mouth."""
    head = text
    more: dict[str, float] = {}
    for pattern in (_BORE, _SINK):
        match = pattern.search(head)
        if match is not None:
            wide = evaluate(match["wide"], "length", unit)
            if pattern is _BORE:
                more |= {"bore": wide, "bore_depth": evaluate(match["deep"], "length", unit)}
            else:
                more |= {"sink": wide, "sink_angle": float(match["angle"].replace(",", "."))}
            head = (head[: match.start()] + head[match.end() :]).strip()
    found = _size(head, unit, reference)
    if found is None or not more:
        return found
    return found.model_copy(update=more) if found.kind == "diameter" else None


def _size(text: str, unit: LengthUnit, reference: bool) -> Requirement | None:
    match = _SIZE.match(text)
    if match is None or (match["unit"] and match["unit2"]):
        return None
    sign = (match["sign"] or "").strip().upper()
    angle = bool(match["degree"])
    if angle and (sign or match["unit"]):
        return None
    own = match["unit"] or match["unit2"] or ""
    kind: Kind = "angle" if angle else "radius" if sign == "R" else "diameter" if sign else "linear"
    typed = match["value"] + (f" {own}" if own in ("mm", "in") else own)

    def size(value: str | None) -> float:
        if value is None:
            return 0.0
        return float(value.replace(",", ".")) if angle else evaluate(value + " " + own, "length", unit)

    nominal = float(match["value"].replace(",", ".")) if angle else size(match["value"])
    if nominal <= 0 and kind != "linear":
        return None
    both, plus, minus = match["both"], match["plus"], match["minus"]
    return Requirement(
        kind=kind,
        count=int(match["count"] or 1),
        nominal=nominal,
        upper=size(both) if both else size(plus),
        lower=-(size(both) if both else size(minus)),
        toleranced=bool(both or plus),
        through=bool(match["thru"]),
        depth=size(match["depth"]) if match["depth"] else None,
        reference=reference,
        typed=typed + ("°" if angle else ""),
    )


def said(r: Requirement) -> str:
    """A requirement in words: “4 × diameter 4 mm, through”."""
    if r.kind == "note" or r.nominal is None:
        return "a note, not measured"
    times = f"{r.count} × " if r.count > 1 else ""
    size = {
        "linear": f"{number(r.nominal)} mm",
        "diameter": f"diameter {number(r.nominal)} mm",
        "radius": f"radius {number(r.nominal)} mm",
        "angle": f"angle {number(r.nominal)}°",
        "thread": f"thread {r.thread}",
        "chamfer": f"chamfer {number(r.nominal)} mm at {number(r.angle or 45)}°",
    }[r.kind]
    depth = ", through" if r.through else f", {number(r.depth)} mm deep" if r.depth else ""
    if r.bore is not None:
        depth += f", counterbored to diameter {number(r.bore)} mm, {number(r.bore_depth or 0)} mm deep"
    if r.sink is not None:
        depth += f", countersunk to diameter {number(r.sink)} mm at {number(r.sink_angle or 90)}°"
    limits = f", {number(r.lower)}/+{number(r.upper)}" if r.toleranced else ""
    return f"{times}{size}{depth}{limits}" + (", for reference" if r.reference else "")

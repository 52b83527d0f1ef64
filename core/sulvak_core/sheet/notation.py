"""Callout text in the notation of ASME Y14.5 / ISO 129 read into a Requirement.

Read here: ``35``, ``35 ±0.1``, ``35 +0.1/-0.05``, ``(42)``, ``4X Ø4 THRU``, ``⌀8 ↧ 5``, ``Ø8 DEEP 5``,
``R5``, ``2X R9``, ``30°``, ``2×45°`` (a chamfer), ``1 1/2"``. What cannot be read whole is a note.
"""

from __future__ import annotations

import re
from typing import Literal

from pydantic import BaseModel

from ..part.errors import ExpressionError
from ..part.expressions import evaluate
from ..part.units import LengthUnit, number

Kind = Literal["linear", "diameter", "radius", "angle", "chamfer", "note"]

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
_CHAMFER = re.compile(rf"(?P<leg>{_NUMBER})\s*[xX×]\s*(?P<angle>\d+(?:[.,]\d+)?)\s*°\Z")


class Requirement(BaseModel):
    """What a callout asks for. Lengths in mm, angles in degrees.

    ``upper`` and ``lower`` are deviations from ``nominal`` (0 and 0 when the callout gives none).
    ``reference`` sizes, in parentheses, are told but not required.
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
    typed: str = ""  # the nominal as a typed expression, to be used in a field


def parse(text: str, unit: LengthUnit = "mm") -> Requirement:
    """The requirement a callout's text makes; kind “note” when it cannot be read as a size."""
    plain = text.strip()
    reference = plain.startswith("(") and plain.endswith(")")
    if reference:
        plain = plain[1:-1].strip()
    try:
        return _chamfer(plain, unit, reference) or _size(plain, unit, reference) or Requirement(kind="note")
    except (ExpressionError, ValueError):
        return Requirement(kind="note")


def _chamfer(text: str, unit: LengthUnit, reference: bool) -> Requirement | None:
    match = _CHAMFER.match(text)
    if match is None:
        return None
    leg = evaluate(match["leg"], "length", unit)
    angle = float(match["angle"].replace(",", "."))
    return Requirement(kind="chamfer", nominal=leg, angle=angle, reference=reference, typed=match["leg"])


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
        "chamfer": f"chamfer {number(r.nominal)} mm at {number(r.angle or 45)}°",
    }[r.kind]
    depth = ", through" if r.through else f", {number(r.depth)} mm deep" if r.depth else ""
    limits = f", {number(r.lower)}/+{number(r.upper)}" if r.toleranced else ""
    return f"{times}{size}{depth}{limits}" + (", for reference" if r.reference else "")

"""Units of length, angle and mass, and how values are written.

The core computes in millimetres and degrees (angles enter trigonometry in radians);
1 in = 25.4 mm exactly and 1 lb = 16 oz = 453.59237 g exactly (international yard and pound, 1959).
"""

from __future__ import annotations

import math
import re
from typing import Literal

LengthUnit = Literal["mm", "in"]
MassUnit = Literal["g", "kg", "oz", "lb"]

MM_PER: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
DEGREES_PER: dict[str, float] = {"deg": 1.0, "rad": 180.0 / math.pi}
GRAMS_PER: dict[str, float] = {"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237}


def number(value: float, places: int = 4) -> str:
    """``value`` in the shortest decimal notation with at most ``places`` places (never ``-0``)."""
    text = f"{value:.{places}f}".rstrip("0").rstrip(".") if places else f"{value:.0f}"
    return "0" if text in ("-0", "") else text


def length(mm: float, unit: LengthUnit = "mm", places: int = 4) -> str:
    """A length in mm written in ``unit`` without the unit's sign."""
    return number(mm / MM_PER[unit], places)


# A sentence about a step is kept with the step's result, whatever the part's unit is when it is shown; so a measure in
# it is written down in mm, between brackets of its own and with its power, until ``in_unit`` says it.
_MEASURE = re.compile(r"⟨([^;⟩]+);([123]);(s?)⟩")
_PLACES = {("mm", 1): 4, ("mm", 2): 2, ("mm", 3): 2, ("in", 1): 4, ("in", 2): 4, ("in", 3): 5}
_POWER = {1: "", 2: "²", 3: "³"}


def told(value: float, power: Literal[1, 2, 3] = 1, sign: bool = True) -> str:
    """A length in mm, an area in mm² or a volume in mm³ (``power``) for a sentence, with its unit or without."""
    return f"⟨{float(value)!r};{power};{'s' if sign else ''}⟩"


def in_unit(sentence: str, unit: LengthUnit) -> str:
    """The sentence with every measure that ``told`` put in said in ``unit``."""

    def said(found: re.Match[str]) -> str:
        value, power = float(found[1]), int(found[2])
        text = number(value / MM_PER[unit] ** power, _PLACES[unit, power])
        return f"{text} {unit}{_POWER[power]}" if found[3] else text

    return _MEASURE.sub(said, sentence)


def rounded_down(value: float, figures: int = 3) -> float:
    """``value`` > 0 with so many significant figures, rounded down, so that what fits still does."""
    place = 10.0 ** (figures - 1 - math.floor(math.log10(value)))
    return math.floor(value * place) / place


def mass_text(grams: float, unit: MassUnit, places: int = 4) -> str:
    """A mass in grams written in ``unit``, with its sign."""
    value = grams / GRAMS_PER[unit]
    whole = len(str(int(abs(value))))
    return f"{number(value, max(0, places - whole))} {unit}"

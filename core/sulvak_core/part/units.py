"""Units of length, angle and mass, and how values are written.

The core computes in millimetres and degrees (angles enter trigonometry in radians);
1 in = 25.4 mm exactly and 1 lb = 453.59237 g exactly (international yard and pound, 1959).
"""

from __future__ import annotations

import math
from typing import Literal

LengthUnit = Literal["mm", "in"]
MassUnit = Literal["g", "kg", "lb"]

MM_PER: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
DEGREES_PER: dict[str, float] = {"deg": 1.0, "rad": 180.0 / math.pi}
GRAMS_PER: dict[str, float] = {"g": 1.0, "kg": 1000.0, "lb": 453.59237}


def number(value: float, places: int = 4) -> str:
    """``value`` in the shortest decimal notation with at most ``places`` places (never ``-0``)."""
    text = f"{value:.{places}f}".rstrip("0").rstrip(".") if places else f"{value:.0f}"
    return "0" if text in ("-0", "") else text


def length(mm: float, unit: LengthUnit = "mm", places: int = 4) -> str:
    """A length in mm written in ``unit`` without the unit's sign."""
    return number(mm / MM_PER[unit], places)

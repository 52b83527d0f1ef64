"""Tolerances of sizes that the sheet gives none for: ISO 2768-1, or by the number of decimals written.

Source: tables 1 to 3 of ISO 2768-1:1989. A part's general tolerance is written as a drafter does: ``ISO 2768-m`` (also
``ISO 2768-mK``; the second letter is for form and position), or ``.X ±.03 .XX ±.01 .XXX ±.005 ANGLES ±0.5°``.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal

from ..part.units import MM_PER, LengthUnit

_UP_TO = (3, 6, 30, 120, 400, 1000, 2000, 4000)
_LINEAR: dict[str, tuple[float | None, ...]] = {
    "f": (0.05, 0.05, 0.1, 0.15, 0.2, 0.3, 0.5, None),
    "m": (0.1, 0.1, 0.2, 0.3, 0.5, 0.8, 1.2, 2.0),
    "c": (0.2, 0.3, 0.5, 0.8, 1.2, 2.0, 3.0, 4.0),
    "v": (None, 0.5, 1.0, 1.5, 2.5, 4.0, 6.0, 8.0),
}
_BROKEN_UP_TO = (3, 6)
_BROKEN = {"f": (0.2, 0.5, 1.0), "m": (0.2, 0.5, 1.0), "c": (0.4, 1.0, 2.0), "v": (0.4, 1.0, 2.0)}
_LEG_UP_TO = (10, 50, 120, 400)
_ANGLE = {  # degrees, by the length of the shorter leg
    "f": (1.0, 1 / 2, 1 / 3, 1 / 6, 1 / 12),
    "m": (1.0, 1 / 2, 1 / 3, 1 / 6, 1 / 12),
    "c": (1.5, 1.0, 1 / 2, 1 / 4, 1 / 6),
    "v": (3.0, 2.0, 1.0, 1 / 2, 1 / 3),
}
LEAST = 0.5  # mm: smaller sizes have no general tolerance

Sort = Literal["linear", "broken", "angle"]  # “broken”: outside radii and chamfer heights


@dataclass(frozen=True)
class GeneralTolerance:
    """``grade`` of ISO 2768-1 (f, m, c, v), or ``by_decimals``: mm either way by the number of decimals written;
    ``angle`` in degrees either way."""

    grade: str = ""
    by_decimals: dict[int, float] = field(default_factory=dict)
    angle: float | None = None

    def of(self, size: float, sort: Sort, decimals: int, leg: float | None = None) -> float | None:
        """How far a ``size`` (mm or degrees) written with ``decimals`` may lie off either way, in mm or degrees.

        ``leg``: of an angle, the length of its shorter side in mm; where it is not known the tightest of the standard
        is not guessed at, but the one of the shortest sides. None where nothing is said for it.
        """
        if sort == "angle":
            if self.grade:
                return _ANGLE[self.grade][bisect_left(_LEG_UP_TO, leg or 0.0)]
            return self.angle
        if self.grade:
            if size < LEAST:
                return None
            if sort == "broken":
                return _BROKEN[self.grade][bisect_left(_BROKEN_UP_TO, size)]
            return _LINEAR[self.grade][bisect_left(_UP_TO, size)] if size <= _UP_TO[-1] else None
        return self.by_decimals.get(decimals)


_ISO = re.compile(r"ISO\s*2768(?:\s*-\s*1)?\s*[-–—\s]\s*(?P<grade>[fmcv])[HKL]?(?:-E)?\b", re.IGNORECASE)
_DECIMALS = re.compile(r"0?[.,](?P<places>[Xx]{1,4})(?![\dXx])\s*[:=]?\s*(?:±|\+/-|\+-)\s*(?P<by>\d*[.,]?\d+)")
_WHOLE = re.compile(r"(?<![.,\w])[Xx](?![.,\w])\s*[:=]?\s*(?:±|\+/-|\+-)\s*(?P<by>\d*[.,]?\d+)")
_UNIT = re.compile(r"\((mm|in)\)", re.IGNORECASE)
_ANGLES = re.compile(r"ANG(?:LES?|ULAR)?\.?\s*[:=]?\s*(?:±|\+/-|\+-)\s*(?P<by>\d*[.,]?\d+)\s*(?:°|DEG)?", re.IGNORECASE)


@lru_cache(maxsize=64)
def read(text: str, unit: LengthUnit = "mm") -> GeneralTolerance | None:
    """The general tolerance a note states, None where it states none. Bare numbers are in ``unit``."""
    found = _ISO.search(text)
    if found:
        return GeneralTolerance(found["grade"].lower())
    own = _UNIT.search(text)
    unit = own[1].lower() if own else unit  # type: ignore[assignment]
    by = {len(m["places"]): _figure(m["by"]) * MM_PER[unit] for m in _DECIMALS.finditer(text)}
    whole = _WHOLE.search(text)
    if whole:
        by[0] = _figure(whole["by"]) * MM_PER[unit]
    angles = _ANGLES.search(text)
    if not by:
        return None
    return GeneralTolerance("", by, _figure(angles["by"]) if angles else None)


def in_its_unit(text: str, unit: LengthUnit) -> str:
    """The note with the unit of its figures said, so that it means the same in a part of another."""
    found = read(text, unit)
    return f"{text} ({unit})" if found is not None and not found.grade and not _UNIT.search(text) else text


def _figure(text: str) -> float:
    return float(text.replace(",", "."))

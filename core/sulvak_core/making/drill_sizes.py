"""Diameters that drills are to be had in.

Metric: after the rows of ISO 235 for drills with parallel shanks, in steps of 0.05 mm to 3, 0.1 to 14, 0.25 to 32, 0.5
beyond. Inch: the fractions, numbers and letters of ASME B94.11M.
"""

from __future__ import annotations

from bisect import bisect_left
from functools import cache
from typing import Literal

from ..part.units import number

INCH = 25.4
_ROWS = ((0.3, 3.0, 0.05), (3.0, 14.0, 0.1), (14.0, 32.0, 0.25), (32.0, 100.0, 0.5))
# from number 80 down to number 1, in thousandths of an inch
_NUMBERS = (
    "13.5 14.5 16 18 20 21 22.5 24 25 26 28 29.2 31 32 33 35 36 37 38 39 40 41 42 43 46.5 52 55 59.5 63.5 67 70 73 76 "
    "78.5 81 82 86 89 93.5 96 98 99.5 101.5 104 106.5 110 111 113 116 120 128.5 136 140.5 144 147 149.5 152 154 157 "
    "159 161 166 169.5 173 177 180 182 185 189 191 193.5 196 199 201 204 205.5 209 213 221 228"
)
_LETTERS = "234 238 242 246 250 257 261 266 272 277 281 290 295 302 316 323 332 339 348 358 368 377 386 397 404 413"


@cache
def _table(which: str) -> tuple[list[float], list[str]]:
    """Diameters in mm, rising, and what each is called."""
    named: dict[float, str] = {}
    if which == "metric":
        for low, high, step in _ROWS:
            for k in range(round((high - low) / step) + 1):
                d = round(low + k * step, 4)
                named[d] = f"⌀{number(d)}"
    else:
        for n, mils in zip(range(80, 0, -1), _NUMBERS.split(), strict=True):
            named[float(mils) / 1000 * INCH] = f"number {n}"
        for letter, mils in zip("ABCDEFGHIJKLMNOPQRSTUVWXYZ", _LETTERS.split(), strict=True):
            named[float(mils) / 1000 * INCH] = f"letter {letter}"
        for k in range(1, 193):  # sixty-fourths to 3 in
            over, under = k, 64
            while over % 2 == 0 and under > 1:
                over, under = over // 2, under // 2
            whole, rest = divmod(over, under)
            words = " ".join(([str(whole)] if whole else []) + ([f"{rest}/{under}"] if rest else []))
            named[k / 64 * INCH] = f"{words} in"
    sizes = sorted(named)
    return sizes, [named[s] for s in sizes]


def nearest_drill(diameter: float, which: Literal["metric", "inch", "any"]) -> tuple[str, float] | None:
    """The drill nearest to a diameter in mm: its name and its own diameter. None where any will do, or it is beyond
    what is drilled."""
    if which == "any":
        return None
    sizes, names = _table(which)
    if not sizes[0] - 0.1 <= diameter <= sizes[-1] + 1:
        return None
    i = bisect_left(sizes, diameter)
    best = min((k for k in (i - 1, i) if 0 <= k < len(sizes)), key=lambda k: abs(sizes[k] - diameter))
    return names[best], sizes[best]

"""Sizes of screw threads and of the holes for them.

Metric: diameters and pitches of ISO 262 (coarse, and the fine pitches in common use), drills for tapping of ISO 2306
(about diameter less pitch), clearance holes of ISO 273 (fine, medium and coarse series; here close, medium, coarse).
Inch: UNC and UNF of ASME B1.1 with tapping drills for about 75 % thread, clearance holes of ASME B18.2.8.
"""

from __future__ import annotations

from dataclasses import dataclass

INCH = 25.4


@dataclass(frozen=True)
class Thread:
    """A thread size. All in mm: major ``diameter``, ``pitch``, ``drill`` for tapping, clearance holes by fit."""

    name: str
    diameter: float
    pitch: float
    drill: float
    close: float
    medium: float
    coarse: float

    def clearance(self, fit: str) -> float:
        """The clearance hole for a fit: close, medium or coarse."""
        return {"close": self.close, "medium": self.medium, "coarse": self.coarse}[fit]


# d, coarse pitch, tapping drill, clearance close, medium, coarse, {fine pitch: tapping drill}
_METRIC: list[tuple[float, float, float, float, float, float, dict[float, float]]] = [
    (1.6, 0.35, 1.25, 1.7, 1.8, 2.0, {}),
    (2, 0.4, 1.6, 2.2, 2.4, 2.6, {}),
    (2.5, 0.45, 2.05, 2.7, 2.9, 3.1, {}),
    (3, 0.5, 2.5, 3.2, 3.4, 3.6, {}),
    (3.5, 0.6, 2.9, 3.7, 3.9, 4.2, {}),
    (4, 0.7, 3.3, 4.3, 4.5, 4.8, {}),
    (5, 0.8, 4.2, 5.3, 5.5, 5.8, {}),
    (6, 1, 5.0, 6.4, 6.6, 7.0, {}),
    (8, 1.25, 6.8, 8.4, 9.0, 10.0, {1: 7.0}),
    (10, 1.5, 8.5, 10.5, 11.0, 12.0, {1.25: 8.8, 1: 9.0}),
    (12, 1.75, 10.2, 13.0, 13.5, 14.5, {1.5: 10.5, 1.25: 10.8}),
    (14, 2, 12.0, 15.0, 15.5, 16.5, {1.5: 12.5}),
    (16, 2, 14.0, 17.0, 17.5, 18.5, {1.5: 14.5}),
    (18, 2.5, 15.5, 19.0, 20.0, 21.0, {1.5: 16.5}),
    (20, 2.5, 17.5, 21.0, 22.0, 24.0, {1.5: 18.5}),
    (22, 2.5, 19.5, 23.0, 24.0, 26.0, {1.5: 20.5}),
    (24, 3, 21.0, 25.0, 26.0, 28.0, {2: 22.0}),
    (27, 3, 24.0, 28.0, 30.0, 32.0, {2: 25.0}),
    (30, 3.5, 26.5, 31.0, 33.0, 35.0, {2: 28.0}),
    (33, 3.5, 29.5, 34.0, 36.0, 38.0, {2: 31.0}),
    (36, 4, 32.0, 37.0, 39.0, 42.0, {3: 33.0}),
]

# designation, major diameter, threads per inch, tapping drill, clearance close, normal, loose; all in inches
_INCH: list[tuple[str, float, int, float, float, float, float]] = [
    ("#4-40", 0.112, 40, 0.0890, 0.1200, 0.1285, 0.1440),
    ("#6-32", 0.138, 32, 0.1065, 0.1470, 0.1540, 0.1695),
    ("#8-32", 0.164, 32, 0.1360, 0.1730, 0.1800, 0.1960),
    ("#10-24", 0.190, 24, 0.1495, 0.1990, 0.2055, 0.2210),
    ("#10-32", 0.190, 32, 0.1590, 0.1990, 0.2055, 0.2210),
    ("1/4-20", 0.250, 20, 0.2010, 0.265625, 0.28125, 0.296875),
    ("1/4-28", 0.250, 28, 0.2130, 0.265625, 0.28125, 0.296875),
    ("5/16-18", 0.3125, 18, 0.2570, 0.328125, 0.34375, 0.359375),
    ("5/16-24", 0.3125, 24, 0.2720, 0.328125, 0.34375, 0.359375),
    ("3/8-16", 0.375, 16, 0.3125, 0.390625, 0.40625, 0.421875),
    ("3/8-24", 0.375, 24, 0.3320, 0.390625, 0.40625, 0.421875),
    ("1/2-13", 0.5, 13, 0.421875, 0.53125, 0.5625, 0.609375),
    ("1/2-20", 0.5, 20, 0.453125, 0.53125, 0.5625, 0.609375),
]


def _all() -> dict[str, Thread]:
    found: dict[str, Thread] = {}
    for d, pitch, drill, close, medium, coarse, fine in _METRIC:
        found[f"M{d:g}"] = Thread(f"M{d:g}", d, pitch, drill, close, medium, coarse)
        for p, tap in fine.items():
            found[f"M{d:g}x{p:g}"] = Thread(f"M{d:g}x{p:g}", d, p, tap, close, medium, coarse)
    for name, major, per_inch, tap, close, normal, loose in _INCH:
        found[name] = Thread(name, major * INCH, INCH / per_inch, *(v * INCH for v in (tap, close, normal, loose)))
    return found


THREADS: dict[str, Thread] = _all()


def thread(name: str) -> Thread | None:
    """A thread by its designation, however its × is written; None if the tables do not have it."""
    plain = name.strip().replace("×", "x").replace("X", "x").replace(" ", "")
    for known, found in THREADS.items():
        if known.lower() == plain.lower():
            return found
    return None

"""Places on a page of the sheet, given as shares of its width and height from the top left."""

from __future__ import annotations

import math


def on_page(size: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> float:
    """Distance in points between two places on a page of ``size`` (width, height in points)."""
    return math.hypot((b[0] - a[0]) * size[0], (b[1] - a[1]) * size[1])


def around(
    at: tuple[float, float] | None, size: tuple[float, float], middle: tuple[float, float] = (0.5, 0.5)
) -> float:
    """How far round the ``middle`` of a page of ``size`` a place lies, clockwise as seen from the direction of its top
    left corner, in turns (0…1). Places in shares of the page."""
    if at is None:
        return 1.0
    x, y = (at[0] - middle[0]) * size[0], (at[1] - middle[1]) * size[1]
    start = math.atan2(-size[1], -size[0])
    return ((math.atan2(y, x) - start) / math.tau) % 1.0

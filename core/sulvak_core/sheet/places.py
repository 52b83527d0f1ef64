"""Places on a page of the sheet, given as shares of its width and height from the top left."""

from __future__ import annotations

import math


def on_page(size: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> float:
    """Distance in points between two places on a page of ``size`` (width, height in points)."""
    return math.hypot((b[0] - a[0]) * size[0], (b[1] - a[1]) * size[1])

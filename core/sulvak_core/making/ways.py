"""The six directions that the shop comes from, as unit vectors and in words."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..part.shop import Way

WORDS: dict[Way, str] = {
    "+x": "from the right",
    "-x": "from the left",
    "+y": "from behind",
    "-y": "from the front",
    "+z": "from above",
    "-z": "from under",
}


def vector(way: Way) -> NDArray[np.float64]:
    """Towards where it comes from: of “+z” straight up."""
    made = np.zeros(3)
    made["xyz".index(way[1])] = 1.0 if way[0] == "+" else -1.0
    return made


def opposite(way: Way) -> Way:
    return ("-" if way[0] == "+" else "+") + way[1]  # type: ignore[return-value]

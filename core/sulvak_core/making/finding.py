"""What a check of the shop says: findings with their place, value and limit, and what to paint on the part."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..part.shop import CheckName

XYZ = tuple[float, float, float]
Progress = Callable[[int, int], None]  # told how much is done, of how much
Array = NDArray[np.float64]
MOST = 60  # findings told


@dataclass
class Finding:
    """``kind`` names what is looked for, ``said`` tells it in a sentence; ``value`` against ``limit`` in ``unit``.
    ``faces`` by body and number among its faces; ``at`` in mm. ``step``: the one that would change it, with its
    ``field``. ``worth``: of a finding that only wants to be known, not mended, it is “note”."""

    kind: str
    said: str
    value: float | None = None
    limit: float | None = None
    unit: str = ""
    faces: list[tuple[str, int]] = field(default_factory=list)
    at: XYZ | None = None
    step: str | None = None
    field: str = ""
    worth: Literal["out", "note"] = "out"


@dataclass
class Band:
    """A class that places of the part are in, with its name, what it means in words, and its area in mm²."""

    name: str
    said: str
    area: float
    tone: Literal["good", "fair", "poor", "bad", "plain"] = "plain"


@dataclass
class Paint:
    """What is painted on the part: ``corners`` of triangles (n, 3, 3) in mm, and at each corner a ``value``: the number
    of a band, or mm; NaN where nothing is known."""

    corners: NDArray[np.float32]
    values: NDArray[np.float32]


@dataclass
class Checked:
    """What a check found. ``passed``: nothing that is out. ``figures``: what else it tells, by name."""

    check: CheckName
    findings: list[Finding]
    bands: list[Band] = field(default_factory=list)
    paint: Paint | None = None
    figures: dict[str, float | str | None] = field(default_factory=dict)

    @property
    def passed(self) -> bool:
        return not any(f.worth == "out" for f in self.findings)


def untold(done: int, of: int) -> None:
    """For who does not want to know how far it is."""


def step_of(tags: frozenset[str] | Sequence[str]) -> str | None:
    """The last of the steps that had to do with a face, by its origins: the one that would change it."""
    ids = sorted({t.split("/")[0] for t in tags}, key=lambda i: int(i[1:]) if i[1:].isdigit() else 0)
    return ids[-1] if ids else None


def place(at: Array) -> XYZ:
    """A place of an array as three numbers."""
    return float(at[0]), float(at[1]), float(at[2])


def together(paints: Sequence[Paint]) -> Paint | None:
    """What is painted on several bodies as one; None for none."""
    if not paints:
        return None
    return Paint(np.concatenate([p.corners for p in paints]), np.concatenate([p.values for p in paints]))

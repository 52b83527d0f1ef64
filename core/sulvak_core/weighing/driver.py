"""How many grams a size brings, as it is told; worked out in ``drivers``."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from .sizes import Size

State = Literal["ok", "kink", "one-sided", "breaks", "each"]


@dataclass(frozen=True)
class Driver:
    """``slope``: grams (mm³ while a body has no material) a mm, a degree, or for a count one more. ``less`` and
    ``more``: the slopes to either side where they differ or only one side builds; of a count, what one less and one
    more bring. ``state``: ok; kink, the slopes to both sides differ; one-sided, the part does not build on the other;
    breaks, on neither; each, of a count. ``step``: by how much it was changed."""

    size: Size
    state: State
    slope: float
    less: float | None = None
    more: float | None = None
    step: float = 0.0
    said: str = ""


def from_data(data: dict[str, Any]) -> Driver:
    """A driver from plain data, as ``dataclasses.asdict`` gives it."""
    return Driver(**{**data, "size": Size(**data["size"])})


def ranked(found: Sequence[Driver]) -> list[Driver]:
    """Lengths, angles, then counts, each by how much they bring."""
    order = ("length", "angle", "number")
    return sorted(found, key=lambda d: (order.index(d.size.kind), -abs(d.slope)))

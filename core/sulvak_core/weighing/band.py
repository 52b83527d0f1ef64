"""Between which masses a part may come out whose sizes are within their callouts' limits.

Each limit's effect is the size's slope times how far the limit lies from the size as it is modelled; taken together
they are the worst case, and in the root of their squares what is likely. To confirm, both extremes are built for real
(``extremes``).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..steps import walk
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import Document
from ..steps.shared import read_callout
from .driver import Driver
from .sizes import Size


@dataclass(frozen=True)
class Play:
    """How far a callout lets its sizes go: ``low`` and ``high`` in mm or degrees from where they are modelled (None: no
    limit to that side), and what that brings in grams (or mm³) to either side."""

    callout: str
    number: int
    text: str
    sizes: tuple[Size, ...]
    slope: float
    low: float | None
    high: float | None

    def effects(self) -> tuple[float, float]:
        """The least and the most that its limits bring."""
        both = [self.slope * v for v in (self.low, self.high) if v is not None]
        return min([0.0, *both]), max([0.0, *both])


@dataclass(frozen=True)
class Band:
    """``now`` as modelled; the worst case and the likely band (root of the sum of squares), in grams (or mm³)."""

    now: float
    least: float
    most: float
    likely_least: float
    likely_most: float
    plays: tuple[Play, ...]


def play_from_data(data: dict[str, Any]) -> Play:
    """From plain data, as ``dataclasses.asdict`` gives it."""
    return Play(**{**data, "sizes": tuple(Size(**s) for s in data["sizes"])})


def band_from_data(data: dict[str, Any]) -> Band:
    return Band(**{**data, "plays": tuple(play_from_data(p) for p in data["plays"])})


def band(document: Document, now: float, found: Sequence[Driver]) -> Band:
    """The band of a part that weighs ``now``, by the slopes of its sizes."""
    by_place = {(d.size.step, _field(d)): d for d in found if d.size.callout}
    by_callout: dict[str, list[Driver]] = {}
    for d in found:
        if d.size.callout and d.state != "breaks" and d.size.kind != "number":
            by_callout.setdefault(d.size.callout, []).append(d)
    plays = []
    for callout in document.callouts:
        mine = by_callout.get(callout.id, [])
        if callout.link is not None and (own := by_place.get((callout.link.step, callout.link.field))):
            mine = [own]  # of a hole's the one that is toleranced: its diameter
        r = read_callout(document, callout)
        if not mine or r.nominal is None or not r.toleranced or r.reference or r.basic:
            continue
        k = _share(document, mine[0].size, r.kind)
        off = k * r.nominal - mine[0].size.value
        low = None if r.bound == "max" else off + k * r.lower
        high = None if r.bound == "min" else off + k * r.upper
        slope = sum(d.slope for d in mine)
        plays.append(Play(callout.id, callout.number, callout.text, tuple(d.size for d in mine), slope, low, high))
    ends = [p.effects() for p in plays]
    less, more = sum(a for a, _ in ends), sum(b for _, b in ends)
    rss_less, rss_more = (math.sqrt(sum(e[k] ** 2 for e in ends)) for k in (0, 1))
    return Band(now, now + less, now + more, now - rss_less, now + rss_more, tuple(plays))


def _field(d: Driver) -> str:
    """What a callout's link knows a driver's size by."""
    return walk.field_name(tuple(int(p) if p.isdigit() else p for p in d.size.path.split(".")))


def _share(document: Document, size: Size, asked: str) -> float:
    """What of a callout's size a dimension holds: half where a diameter is asked of a radius, twice the other way."""
    step = document.step(size.step) if size.step else None
    drawn = (
        next((d.kind for d in step.sketch.dimensions if d.id == size.path), "") if isinstance(step, SketchStep) else ""
    )
    return {("diameter", "radius"): 0.5, ("radius", "diameter"): 2.0}.get((asked, drawn), 1.0)

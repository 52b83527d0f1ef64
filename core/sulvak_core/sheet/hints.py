"""Where the sizes of callouts stand on their page, and what that tells: along what they are measured, in which view."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..part.document import Callout
from ..part.units import LengthUnit
from .page import Box
from .proposals import proposals

IN_LINE = 0.05  # of its width that the middles of views in projection may lie apart


@dataclass(frozen=True)
class Hint:
    """``along``: the way a length is measured on the paper, where its text tells; ``views``: places in the reading's
    list of the views it speaks of, the nearest first. A length across speaks of views above and below one another too,
    one up of those side by side."""

    along: Literal["", "horizontal", "vertical"] = ""
    views: tuple[int, ...] = ()


def hints(data: dict[str, Any], page: int, callouts: Sequence[Callout], unit: LengthUnit) -> dict[str, Hint]:
    """By callout id, from what was read of a page (``proposals.kept``). The texts of lengths stand along their lines
    where any of them stands upright (ISO 129-1); where all lie flat, they tell nothing of the way. What the file holds
    as a dimension tells it by itself, and its view by the places it measures between."""
    read = list(proposals(data, page, callouts, unit)["sizes"])
    told = any(s["kind"] == "linear" and _upright(s["turn"]) for s in read)
    found = {}
    for size in read:
        if size["callout"] is None:
            continue
        along: Literal["", "horizontal", "vertical"] = ""
        way = size["way"] if size["way"] is not None else size["turn"]
        if (told or size["way"] is not None) and size["kind"] == "linear":
            along = "vertical" if _upright(way) else "horizontal" if _level(way) else ""
        nearest = _view(_around(size), data["views"], data["points"])
        found[size["callout"]] = Hint(along, _shared(nearest, along, data["views"]))
    return found


def _around(size: dict[str, Any]) -> Box:
    """The box round the places that a size measures between; round its letters where they are not known."""
    if not size["ends"]:
        box: Box = size["box"]
        return box
    xs, ys = zip(*size["ends"], strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _shared(nearest: int | None, along: str, views: Sequence[Box]) -> tuple[int, ...]:
    """The nearest view and those in projection with it that show the same length."""
    if nearest is None:
        return ()
    k = {"horizontal": 0, "vertical": 1}.get(along)
    own = views[nearest]
    others = [
        i
        for i, v in enumerate(views)
        if k is not None and i != nearest and _in_line((v[k], v[k + 2]), (own[k], own[k + 2]))
    ]
    return (nearest, *others)


def _in_line(a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Whether two stretches of the page have one middle."""
    return abs(sum(a) - sum(b)) / 2 < IN_LINE * (b[1] - b[0])


def _upright(turn: float) -> bool:
    return abs(math.cos(math.radians(turn))) < 0.02


def _level(turn: float) -> bool:
    return abs(math.sin(math.radians(turn))) < 0.02


def _view(box: Box, views: Sequence[Box], points: Sequence[float]) -> int | None:
    """The view nearest to a text, both as shares of a page of so many points."""
    x, y = (box[0] + box[2]) / 2 * points[0], (box[1] + box[3]) / 2 * points[1]

    def away(view: Box) -> float:
        left, top, right, bottom = (v * points[i % 2] for i, v in enumerate(view))
        return math.hypot(max(left - x, x - right, 0.0), max(top - y, y - bottom, 0.0))

    return min(range(len(views)), key=lambda i: (away(views[i]), i), default=None)

"""What has been read of a page, kept as plain data, and told of a part: which of its sizes have a balloon already."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from ..part.document import Callout
from ..part.units import LengthUnit
from .notation import parse
from .page import Box, Page, Stroke
from .reading import Reading, Size
from .requirement import Requirement, said

XY = tuple[float, float]

RADIUS = 2.0  # of the height of the letters: a balloon and some room round it
FAR = 6.0  # of the size: a balloon farther from a text than that is not its own


def kept(page: Page, reading: Reading) -> dict[str, Any]:
    """A reading as plain data; places as shares of the page's width and height from its top left."""
    pieces = _pieces(page.strokes)
    boxes = [t.box() for t in page.letterings]

    def one(size: Size) -> dict[str, Any]:
        return {
            "text": size.text,
            "box": _shares(page, size.box),
            "turn": round(size.turn, 2),
            "at": _share(page, _free_place(page, size, pieces, boxes)),
        }

    return {
        "sizes": [one(s) for s in reading.sizes],
        "notes": [one(s) for s in reading.notes],
        "general": reading.general,
        "scale": reading.scale,
        "unit": reading.unit,
        "points": page.size,
    }


def _share(page: Page, at: XY) -> XY:
    w, h = page.size
    return min(1.0, max(0.0, round(at[0] / w, 6))), min(1.0, max(0.0, round(at[1] / h, 6)))


def _shares(page: Page, box: Box) -> Box:
    return (*_share(page, box[:2]), *_share(page, box[2:]))


# -- where a balloon stands --------------------------------------------------------------------------------


def _pieces(strokes: Sequence[Stroke]) -> np.ndarray[Any, np.dtype[np.float64]]:
    """Straight pieces (a, b) of all strokes, n × 4; of arcs by their chords."""
    found: list[tuple[float, float, float, float]] = []
    for s in strokes:
        points = s.points
        if s.centre is not None:
            start = math.atan2(points[0][1] - s.centre[1], points[0][0] - s.centre[0])
            count = max(2, math.ceil(abs(s.sweep) / 0.4))
            turns = [start + s.sweep * i / count for i in range(count + 1)]
            points = tuple((s.centre[0] + s.radius * math.cos(t), s.centre[1] + s.radius * math.sin(t)) for t in turns)
        found += [(*a, *b) for a, b in itertools.pairwise(points)]
    return np.array(found, dtype=float).reshape(-1, 4)


def _free_place(page: Page, size: Size, pieces: np.ndarray[Any, np.dtype[np.float64]], boxes: Sequence[Box]) -> XY:
    """The middle of a balloon beside a text: behind it or before it as it is read, above or below it, where least is
    drawn."""
    left, top, right, bottom = size.box
    upright = abs(math.sin(math.radians(size.turn))) > 0.7
    letters = (right - left) if upright else (bottom - top)
    r = RADIUS * letters
    x, y = (left + right) / 2, (top + bottom) / 2
    along = [(x, top - r), (x, bottom + r)] if upright else [(right + r, y), (left - r, y)]
    across = [(left - r, y), (right + r, y)] if upright else [(x, top - r), (x, bottom + r)]
    best, least = along[0], math.inf
    for i, at in enumerate([*along, *across]):
        if not (r / 2 < at[0] < page.size[0] - r / 2 and r / 2 < at[1] < page.size[1] - r / 2):
            continue
        cost = 0.5 * i + _inked(pieces, at, r * 0.7)
        cost += 4 * sum(b[0] - r < at[0] < b[2] + r and b[1] - r < at[1] < b[3] + r for b in boxes if b != size.box)
        if cost < least:
            best, least = at, cost
    return best


def _inked(pieces: np.ndarray[Any, np.dtype[np.float64]], at: XY, r: float) -> int:
    """How many pieces come nearer to a place than ``r``."""
    if not len(pieces):
        return 0
    a, b = pieces[:, :2], pieces[:, 2:]
    d = b - a
    length = np.maximum((d * d).sum(axis=1), 1e-12)
    t = np.clip((((np.array(at) - a) * d).sum(axis=1)) / length, 0, 1)
    near = a + t[:, None] * d - np.array(at)
    return int(((near * near).sum(axis=1) < r * r).sum())


# -- beside a part's callouts ------------------------------------------------------------------------------


def proposals(data: dict[str, Any], page: int, callouts: Sequence[Callout], unit: LengthUnit) -> dict[str, Any]:
    """What was read of a page (``kept``), each size with its meaning in a part that counts in ``unit``, and the id of
    the callout that has it already."""
    bare: LengthUnit = data["unit"] or unit
    w, h = data["points"]
    mine = [c for c in callouts if c.page == page]
    taken: set[str] = set()

    def told(one: dict[str, Any], note: bool) -> dict[str, Any]:
        r = Requirement(kind="note") if note else parse(one["text"], bare)
        owner = _owner(one, r, [c for c in mine if c.id not in taken], (w, h), bare)
        if owner:
            taken.add(owner)
        return {**one, "kind": r.kind, "said": said(r), "callout": owner}

    sizes = [told(s, False) for s in data["sizes"]]
    notes = [told(s, True) for s in data["notes"]]
    own = bare if bare != unit else None
    return {"sizes": sizes, "notes": notes, "general": data["general"], "scale": data["scale"], "unit": own}


def _owner(one: dict[str, Any], r: Requirement, callouts: Sequence[Callout], size: XY, unit: LengthUnit) -> str | None:
    """The callout that is this text: it says the same, and its balloon stands beside it or nowhere."""
    left, top, right, bottom = (v * size[i % 2] for i, v in enumerate(one["box"]))
    letters = min(right - left, bottom - top)
    best: tuple[float, str] | None = None
    for c in callouts:
        same = c.text == one["text"] or (r.kind != "note" and parse(c.text, c.unit or unit) == r)
        if not same:
            continue
        away = 0.0
        if c.at is not None:
            x, y = c.at[0] * size[0], c.at[1] * size[1]
            away = math.hypot(max(left - x, x - right, 0.0), max(top - y, y - bottom, 0.0))
        if away <= FAR * letters and (best is None or away < best[0]):
            best = (away, c.id)
    return best[1] if best else None

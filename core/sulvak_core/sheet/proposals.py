"""What has been read of a page, kept as plain data, and told of a part: which of its sizes have a balloon already."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from ..part.document import Callout
from ..part.units import LengthUnit
from .notation import parse
from .page import Box, Page, Stroke
from .reading import Reading, Size
from .requirement import Requirement, said
from .views import run, views

XY = tuple[float, float]

RADIUS = 2.0  # of the height of the letters: a balloon and some room round it
FAR = 6.0  # of the size: a balloon farther from a text than that is not its own


def kept(page: Page, reading: Reading) -> dict[str, Any]:
    """A reading as plain data; places as shares of the page's width and height from its top left."""
    every = [*reading.sizes, *reading.notes]
    at = dict(zip(map(id, every), _free_places(page, every), strict=True))

    def one(size: Size) -> dict[str, Any]:
        return {
            "text": size.text,
            "box": _shares(page, size.box),
            "turn": round(size.turn, 2),
            "at": _share(page, at[id(size)]),
            "ends": [_share(page, p) for p in size.ends],
            "way": size.way,
        }

    return {
        "sizes": [one(s) for s in reading.sizes],
        "notes": [one(s) for s in reading.notes],
        "general": reading.general,
        "scale": reading.scale,
        "unit": reading.unit,
        "points": page.size,
        "views": [_shares(page, v.box) for v in views(page)],
    }


def _share(page: Page, at: XY) -> XY:
    w, h = page.size
    return min(1.0, max(0.0, round(at[0] / w, 6))), min(1.0, max(0.0, round(at[1] / h, 6)))


def _shares(page: Page, box: Box) -> Box:
    return (*_share(page, box[:2]), *_share(page, box[2:]))


# -- where a balloon stands --------------------------------------------------------------------------------


def _index(strokes: Sequence[Stroke]) -> shapely.STRtree:
    """All strokes, to be found by where they are."""
    runs = [run(s, 0.5) for s in strokes]
    places = np.concatenate(runs) if runs else np.zeros((0, 2))
    owners = np.repeat(np.arange(len(runs)), [len(r) for r in runs])
    return shapely.STRtree(shapely.linestrings(places, indices=owners))


def _free_places(page: Page, sizes: Sequence[Size]) -> list[XY]:
    """For each text the middle of a balloon beside it: behind it or before it as it is read, above or below it, where
    least is drawn."""
    options = [_around(s) for s in sizes]
    places = np.array([at for mine, _ in options for at in mine]).reshape(-1, 2)
    reach = np.repeat([0.7 * r for _, r in options], 4)
    inked = np.zeros(len(places))
    if len(places) and page.strokes:
        near, _ = _index(page.strokes).query(shapely.points(places), predicate="dwithin", distance=reach)
        inked = np.bincount(near, minlength=len(places)).astype(float)
    boxes = np.array([t.box() for t in page.letterings]).reshape(-1, 4)
    found: list[XY] = []
    for k, (size, (mine, r)) in enumerate(zip(sizes, options, strict=True)):
        best, least = mine[0], math.inf
        for i, (x, y) in enumerate(mine):
            if not (r / 4 < x < page.size[0] - r / 4 and r / 4 < y < page.size[1] - r / 4):
                continue
            inside = (boxes[:, 0] - r < x) & (x < boxes[:, 2] + r) & (boxes[:, 1] - r < y) & (y < boxes[:, 3] + r)
            own = size.box[0] - r < x < size.box[2] + r and size.box[1] - r < y < size.box[3] + r
            cost = 0.5 * i + float(inked[4 * k + i]) + 4 * max(0, int(inside.sum()) - own)
            cost += 4 * sum(math.dist((x, y), other) < 1.5 * r for other in found)
            if cost < least:
                best, least = (x, y), cost
        found.append(best)
    return found


def _around(size: Size) -> tuple[list[XY], float]:
    """Four places round a text, and how far from it they are."""
    left, top, right, bottom = size.box
    upright = abs(math.sin(math.radians(size.turn))) > 0.7
    r = RADIUS * ((right - left) if upright else (bottom - top))
    x, y = (left + right) / 2, (top + bottom) / 2
    along = [(x, top - r), (x, bottom + r)] if upright else [(right + r, y), (left - r, y)]
    across = [(left - r, y), (right + r, y)] if upright else [(x, top - r), (x, bottom + r)]
    return [*along, *across], r


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
    kept_too = {k: data[k] for k in ("general", "scale", "views")}
    return {"sizes": sizes, "notes": notes, "unit": own, **kept_too}


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

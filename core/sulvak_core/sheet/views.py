"""The views drawn on a page: which strokes are outlines, hidden or centre lines, and which of them hang together.

Outlines are told by their width (ISO 128-2 draws them twice as wide as the lines of dimensions and hatching), hidden
and centre lines by their dashes (ISO 128-2 types 02 and 04: dashed; long dashed dotted). On a sheet drawn in one width
the lines of dimensions are told by their arrowheads.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from .dimension_lines import beside, one_width
from .page import Box, Page, Stroke, merged
from .ruling import furniture
from .section_marks import lining

WIDE = 0.7  # of the widest: as wide as that a line is an outline
NEAR = 1.0  # points: outlines that come so near each other belong to one view
SMALL = 0.08  # of the largest view's length: what is smaller and stands alone is a sign, not a view
DOTS = 0.4  # of the longest dash: a pattern with one so short between the long ones is a centre line's


@dataclass
class SheetView:
    """Strokes that are one view; ``box`` around its outlines in points; ``lining`` marks what is cut there."""

    box: Box
    seen: list[Stroke] = field(default_factory=list)
    hidden: list[Stroke] = field(default_factory=list)
    centre: list[Stroke] = field(default_factory=list)
    lining: list[Stroke] = field(default_factory=list)


def role(stroke: Stroke, widest: float) -> str:
    """“seen”, “hidden”, “centre”, or “beside” for what belongs to dimensions, hatching and the like."""
    if stroke.filled or stroke.layer == "hatch":
        return "beside"
    if len(stroke.dash) >= 2:
        dashes = stroke.dash[::2]
        return "centre" if len(dashes) > 1 and min(dashes) < DOTS * max(dashes) else "hidden"
    return "seen" if stroke.width >= WIDE * widest else "beside"


def views(page: Page) -> list[SheetView]:
    """The views of a page, the largest first."""
    frame, ruled = furniture(page)
    inside = [s for s in page.strokes if _drawn_on(s.box(), frame, ruled)]
    solid = [s for s in inside if not s.dash and not s.filled and s.layer != "hatch"]
    widest = max((s.width for s in solid), default=0.0)
    lined = lining(inside) if one_width(solid) else set()
    aids = beside(page, inside) | lined if one_width(solid) else set()
    by_role: dict[str, list[Stroke]] = {}
    for i, s in enumerate(inside):
        by_role.setdefault("beside" if i in aids else role(s, widest), []).append(s)
    by_role["lining"] = [inside[i] for i in lined] or _lining(by_role.get("beside", []))
    found = [SheetView(merged([s.box() for s in group]), group) for group in _together(by_role.get("seen", []))]
    found = [v for v in found if not _of_a_cutting_line(v, by_role.get("centre", []))]
    found = _within_one_another(found)
    largest = max((_long(v.box) for v in found), default=0.0)
    found = [v for v in found if _long(v.box) >= SMALL * largest]
    for name in ("hidden", "centre", "lining"):
        for s in by_role.get(name, []):
            owner = _owner(found, s)
            if owner is not None:
                getattr(owner, name).append(s)
    return sorted(found, key=lambda v: -_long(v.box))


def _of_a_cutting_line(view: SheetView, chains: list[Stroke]) -> bool:
    """Whether an outline is no more than the wide end of a cutting line: it lies on a chain line, with an end at one of
    that one's (ISO 128-3)."""
    if len(view.seen) != 1 or view.seen[0].kind != "line":
        return False
    a, b = view.seen[0].points
    for s in chains:
        if s.kind != "line" or s.length() <= math.dist(a, b):
            continue
        p, q = s.points
        off = [abs((q[0] - p[0]) * (e[1] - p[1]) - (q[1] - p[1]) * (e[0] - p[0])) / s.length() for e in (a, b)]
        if max(off) < NEAR and min(math.dist(e, end) for e in (a, b) for end in (p, q)) < 2 * NEAR:
            return True
    return False


def _lining(beside: list[Stroke]) -> list[Stroke]:
    return [beside[i] for i in sorted(lining(beside))]


def _drawn_on(box: Box, frame: Box, ruled: list[Box]) -> bool:
    """Whether something is drawn inside the frame, and not in a table."""
    left, top, right, bottom = frame
    if not (box[0] > left + NEAR and box[1] > top + NEAR and box[2] < right - NEAR and box[3] < bottom - NEAR):
        return False
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    return not any(b[0] - NEAR <= x <= b[2] + NEAR and b[1] - NEAR <= y <= b[3] + NEAR for b in ruled)


def _long(box: Box) -> float:
    return max(box[2] - box[0], box[3] - box[1])


def run(stroke: Stroke, off: float = 0.05) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """Points along a stroke, n × 2, lines between which lie off it by ``off`` (points) at most."""
    if stroke.centre is None:
        return np.array(stroke.points)
    (x, y), r = stroke.points[0], stroke.radius
    start = np.arctan2(y - stroke.centre[1], x - stroke.centre[0])
    bend = 2 * np.arccos(max(0.0, 1 - off / max(r, off)))
    turns = start + np.linspace(0, stroke.sweep, max(2, int(np.ceil(abs(stroke.sweep) / max(bend, 1e-3))) + 1))
    return np.array(stroke.centre) + r * np.stack([np.cos(turns), np.sin(turns)], axis=1)


def _together(strokes: list[Stroke]) -> list[list[Stroke]]:
    """Strokes that touch each other, directly or over others."""
    if not strokes:
        return []
    runs = [run(s, 0.2) for s in strokes]
    owners = np.repeat(np.arange(len(runs)), [len(r) for r in runs])
    shapes = shapely.linestrings(np.concatenate(runs), indices=owners)
    one, two = shapely.STRtree(shapes).query(shapes, predicate="dwithin", distance=NEAR)
    graph = coo_matrix((np.ones(len(one)), (one, two)), shape=(len(strokes), len(strokes)))
    _, group = connected_components(graph, directed=False)
    groups: dict[int, list[Stroke]] = {}
    for i, s in enumerate(strokes):
        groups.setdefault(int(group[i]), []).append(s)
    return list(groups.values())


def _within_one_another(found: list[SheetView]) -> list[SheetView]:
    """What is drawn inside the outline of a view belongs to it."""
    found = sorted(found, key=lambda v: -(v.box[2] - v.box[0]) * (v.box[3] - v.box[1]))
    kept: list[SheetView] = []
    boxes = np.zeros((len(found), 4))
    for v in found:
        x, y = (v.box[0] + v.box[2]) / 2, (v.box[1] + v.box[3]) / 2
        b = boxes[: len(kept)]
        owners = np.flatnonzero((b[:, 0] <= x) & (x <= b[:, 2]) & (b[:, 1] <= y) & (y <= b[:, 3]))
        if not len(owners):
            boxes[len(kept)] = v.box
            kept.append(v)
        else:
            owner = kept[owners[0]]
            owner.seen += v.seen
            owner.box = merged([owner.box, v.box])
            boxes[owners[0]] = owner.box
    return kept


def _owner(found: list[SheetView], stroke: Stroke) -> SheetView | None:
    """The view a hidden or centre line belongs to: the one whose box it lies in, with room for what runs over."""
    box = stroke.box()
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    best: tuple[float, SheetView] | None = None
    for v in found:
        away = max(v.box[0] - x, x - v.box[2], v.box[1] - y, y - v.box[3], 0.0)
        if away <= 0.1 * _long(v.box) and (best is None or away < best[0]):
            best = (away, v)
    return best[1] if best else None

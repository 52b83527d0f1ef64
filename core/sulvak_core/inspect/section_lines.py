"""Sections, half sections and broken-out views: where the plane may lie that cuts a view of the sheet."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
import shapely

from ..part.document import Side
from ..sheet.section_marks import Trace
from ..solid.measure import surface
from ..solid.outline import Line, Lines
from ..solid.shapes import faces
from .model_lines import SIDES, CutStep, Model, Seen, axis

MOST = 8  # planes tried of a side
SAME = 0.05  # mm: planes nearer than this are one
ROUND = 3.0  # points of a sheet round the lining that belong to what is broken out

Place = tuple[tuple[float, float, float], tuple[float, float, float], tuple[float, float], float]


def planes_of_traces(found: Iterable[Trace], place: Place) -> list[Seen]:
    """The planes of cutting lines on a view, seen from both their sides. ``place``: what of the part points to the
    right and up on the page, where its origin lies (points), and mm of it a point."""
    to_right, to_top, at, mm = place
    planes: list[Seen] = []

    def far(level: bool, v: float) -> float:
        """From the part's origin, in mm: up the page where ``level``, to the right otherwise."""
        return round((at[1] - v if level else v - at[0]) * mm, 6)

    for t in found:
        way, along = (to_top, to_right) if t.level else (to_right, to_top)
        for sign in (1.0, -1.0):
            normal = tuple(sign * v for v in way)
            steps = []
            for begin, end, place_ in t.steps:
                ends = sorted(far(not t.level, v) for v in (begin, end))
                steps.append(CutStep(along, ends[0], ends[1], sign * far(t.level, place_)))
            steps.sort(key=lambda s: s.begin)
            planes += [
                Seen(side, sign * far(t.level, t.at), tuple(steps))
                for side, (towards, _) in SIDES.items()
                if towards == normal
            ]
    return planes


def likely_planes(model: Model, sides: Iterable[Side]) -> list[Seen]:
    """Planes that a section without a cutting line goes through: the middle of the part, its origin, and the axes of
    its round faces, of each of ``sides``."""
    low, high = model.extent()
    axes = _axes(model)
    found: list[Seen] = []
    for side in sides:
        k, sign = axis(side), sum(SIDES[side][0])
        places = [(low[k] + high[k]) / 2, 0.0, *axes[k]]
        kept: list[float] = []
        for p in places:
            if low[k] + SAME < p < high[k] - SAME and all(abs(p - q) > SAME for q in kept):
                kept.append(p)
        found += [Seen(side, round(sign * p, 6)) for p in kept[:MOST]]
    return found


def _axes(model: Model) -> tuple[list[float], list[float], list[float]]:
    """Where the axes of round faces lie along the part's own axes, of those that run square to them; the commonest
    first."""
    counts: tuple[dict[float, int], ...] = ({}, {}, {})
    for shape in model.shapes:
        for face in faces(shape):
            s = surface(face)
            if s.kind in ("cylinder", "cone"):
                for k in range(3):
                    if abs(s.direction[k]) < 1e-6:
                        key = round(s.at[k], 4)
                        counts[k][key] = counts[k].get(key, 0) + 1
    return tuple(sorted(c, key=lambda v, c=c: -c[v]) for c in counts)  # type: ignore[misc,return-value]


def hull(lining: Sequence[np.ndarray], room: float) -> shapely.Geometry:
    """What is cut of a view, by its lining (runs of places)."""
    return shapely.convex_hull(shapely.multipoints(np.concatenate(lining))).buffer(room)


def covered(lining: Sequence[np.ndarray], box: tuple[float, float, float, float]) -> float:
    """The share of a view's box that its lining spans."""
    whole = (box[2] - box[0]) * (box[3] - box[1])
    return float(shapely.area(hull(lining, 0.0))) / whole if whole else 1.0


def mixed(outside: Lines, cut: Lines, where: shapely.Geometry) -> tuple[Lines, Lines]:
    """A view of which a part is cut: the lines that explain it, and those it is asked to show. ``where`` it is cut, in
    the coordinates of the lines (mm)."""
    inside = Lines(_kept(cut.seen, where), _kept(cut.smooth, where), [])
    explains = Lines([*outside.seen, *inside.seen], [*outside.smooth, *inside.smooth], outside.hidden)
    return explains, Lines(_left(outside.seen, where), [], [])


def _kept(runs: Sequence[Line], where: shapely.Geometry) -> list[Line]:
    return [r for run in runs for r in _runs(shapely.intersection(shapely.linestrings(run), where))]


def _left(runs: Sequence[Line], where: shapely.Geometry) -> list[Line]:
    return [r for run in runs for r in _runs(shapely.difference(shapely.linestrings(run), where))]


def _runs(found: shapely.Geometry) -> list[Line]:
    parts = shapely.get_parts(found)
    lines = [g for g in parts if g.geom_type == "LineString" and math.isfinite(g.length) and g.length > 0]
    return [[(float(x), float(y)) for x, y in g.coords] for g in lines]

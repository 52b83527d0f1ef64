"""Every line of the sheet held against the part: which edge explains it, what no edge explains, what is not drawn.

A view is placed by itself where it can be: seen from one of the six sides, its outline is as wide and high as the part
is from there, and of the sides of which that is so the one whose edges explain most of it is meant. Then both are
looked at in small steps: a place of the sheet's line is explained where an edge runs within the tolerance.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..part.document import Side
from ..sheet.page import Page, Stroke
from ..sheet.views import SheetView, run, views
from ..solid.outline import Lines, lines
from ..solid.shapes import Shape

Array = NDArray[np.float64]
XY = tuple[float, float]
XYZ = tuple[float, float, float]

# towards the viewer, to the right on the sheet; in the order in which they are tried
SIDES: dict[Side, tuple[XYZ, XYZ]] = {
    "front": ((0.0, -1.0, 0.0), (1.0, 0.0, 0.0)),
    "top": ((0.0, 0.0, 1.0), (1.0, 0.0, 0.0)),
    "right": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "left": ((-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "under": ((0.0, 0.0, -1.0), (1.0, 0.0, 0.0)),
    "back": ((0.0, 1.0, 0.0), (-1.0, 0.0, 0.0)),
}
TOLERANCE = 0.1  # mm
ALIKE = 0.006  # of its size that a view's outline may differ from the part's and be of the same side
DEEP = 0.01  # mm that a run may lie off its curve
FINE = 0.5  # of the tolerance: the step in which lines are looked at
MOST = 1_500_000  # places looked at
SHORT = 4.0  # times the tolerance: a shorter piece is a corner's or a crossing's
SHOWN = 0.25  # what it counts that the part's edges are drawn: a sheet leaves some out
TRIED = 8  # sides a view is tried from together with the others
APART = 0.04  # what it costs when views are not in projection: what they show counts for more
PIECES = 400  # told of each kind


@dataclass(frozen=True)
class Piece:
    """A run of a line, as shares of the page; ``length`` in mm of the part."""

    kind: Literal["seen", "hidden"]
    points: list[XY]
    length: float


@dataclass
class Compared:
    """One view held against the part. ``origin``: where the part's origin lies, in shares of the page; ``turn``: by how
    many degrees the view is turned clockwise. Lengths in mm."""

    box: tuple[float, float, float, float]
    side: Side | None
    turn: int = 0
    mm: float = 0.0
    origin: XY = (0.0, 0.0)
    drawn: dict[str, float] = field(default_factory=lambda: {"seen": 0.0, "hidden": 0.0})
    explained: dict[str, float] = field(default_factory=lambda: {"seen": 0.0, "hidden": 0.0})
    edges: float = 0.0  # of the part that are seen from there
    shown: float = 0.0  # of these on the sheet
    unexplained: list[Piece] = field(default_factory=list)
    missing: list[Piece] = field(default_factory=list)
    model: list[Piece] = field(default_factory=list)  # the part's own lines, to be laid over the sheet
    by_hand: bool = False  # it was placed by hand: laid over, not compared
    projected: bool = True  # it stands to the others as the part has it, in the angle of projection asked for


@dataclass
class SheetLines:
    """All views of a page. ``share``: of the length of the outlines and hidden lines that edges explain."""

    views: list[Compared]
    share: float


@dataclass
class Place:
    """How a view lies on the page: part in mm (right, up) → page in points."""

    side: Side
    turn: int
    mm: float
    at: XY  # of the part's origin, points

    def to_page(self, p: Array) -> Array:
        c, s = _quarter(self.turn)
        x, y = p[:, 0] / self.mm, -p[:, 1] / self.mm
        return np.stack([self.at[0] + c * x - s * y, self.at[1] + s * x + c * y], axis=1)


def _quarter(turn: int) -> tuple[int, int]:
    return {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}[turn]


@dataclass
class _Model:
    """The part's lines from each side, worked out once."""

    shapes: list[Shape]
    known: dict[Side, Lines] = field(default_factory=dict)

    def lines(self, side: Side) -> Lines:
        if side not in self.known:
            self.known[side] = lines(self.shapes, *SIDES[side], deep=DEEP)
        return self.known[side]

    def box(self, side: Side) -> tuple[float, float, float, float]:
        drawn = self.lines(side)
        at = np.array([p for line in (*drawn.seen, *drawn.smooth, *drawn.hidden) for p in line])
        (left, low), (right, high) = at.min(axis=0), at.max(axis=0)
        return float(left), float(low), float(right), float(high)


def compare_lines(
    page: Page,
    shapes: list[Shape],
    mm: float | None,
    tolerance: float = TOLERANCE,
    third_angle: bool = True,
) -> SheetLines:
    """The lines of a page held against the part's. ``mm``: of the part, a point of the page; None where it is not
    known, and then each view's own scale is taken from its size. ``tolerance`` in mm of the part. Views beside and
    above each other are taken to be in projection, third angle or first."""
    model = _Model(shapes)
    drawn_views = views(page)
    tried = [_tried(page, view, model, mm, tolerance) if shapes else [] for view in drawn_views]
    chosen = _agreeing(tried, third_angle)
    placed = [c for c in chosen if c is not None]
    for c in placed:
        c.projected = not any(_disagree(c, o, third_angle) for o in placed if o is not c)
    found = [c or _unplaced(page, v, mm) for v, c in zip(drawn_views, chosen, strict=True)]
    drawn = sum(sum(v.drawn.values()) for v in found)
    explained = sum(sum(v.explained.values()) for v in found)
    return SheetLines(found, explained / drawn if drawn else 0.0)


def _unplaced(page: Page, view: SheetView, mm: float | None) -> Compared:
    made = Compared(_shares(page, view), None, mm=mm or 0.0)
    k = mm or 25.4 / 72
    for kind, strokes in _by_kind(view):
        made.drawn[kind] = sum(s.length() for s in strokes) * k
        made.unexplained += [Piece(kind, _share_run(page, run(s)), s.length() * k) for s in strokes][:PIECES]
    return made


def _by_kind(view: SheetView) -> list[tuple[Literal["seen", "hidden"], list[Stroke]]]:
    return [("seen", view.seen), ("hidden", view.hidden)]


def _shares(page: Page, view: SheetView) -> tuple[float, float, float, float]:
    w, h = page.size
    return view.box[0] / w, view.box[1] / h, view.box[2] / w, view.box[3] / h


def _share_run(page: Page, points: Array) -> list[XY]:
    w, h = page.size
    return [(round(float(x) / w, 6), round(float(y) / h, 6)) for x, y in points]


def _candidates(view: SheetView, model: _Model, mm: float | None) -> list[Place]:
    """The sides from which the part is as wide and as high as the view."""
    left, top, right, bottom = view.box
    found = []
    for side in SIDES:
        a, b, c, d = model.box(side)
        for turn in (0, 90, 180, 270):
            wide, high = ((c - a), (d - b)) if turn % 180 == 0 else ((d - b), (c - a))
            own = mm or math.sqrt(wide * max(high, 1e-9) / (max(right - left, 1e-9) * max(bottom - top, 1e-9)))
            w, h = (right - left) * own, (bottom - top) * own
            play = ALIKE * max(wide, high) + 0.05
            if abs(w - wide) > play or abs(h - high) > play:
                continue
            middle = np.array([[(a + c) / 2, (b + d) / 2]])
            at = Place(side, turn, own, (0.0, 0.0)).to_page(middle)[0]
            place = ((left + right) / 2 - float(at[0]), (top + bottom) / 2 - float(at[1]))
            found.append(Place(side, turn, own, place))
    return found


def _tried(
    page: Page, view: SheetView, model: _Model, mm: float | None, tolerance: float
) -> list[tuple[float, Compared]]:
    """A view compared from every side that it may be seen from, each with how well it is explained; the best first."""
    found = []
    for place in _candidates(view, model, mm):
        compared = _compared(page, view, model.lines(place.side), place, tolerance)
        drawn = sum(compared.drawn.values())
        score = sum(compared.explained.values()) / (drawn or 1.0) + SHOWN * compared.shown / (compared.edges or 1.0)
        found.append((score - 0.02 * (place.turn != 0), compared))
    return sorted(found, key=lambda c: -c[0])


def _agreeing(tried: list[list[tuple[float, Compared]]], third_angle: bool) -> list[Compared | None]:
    """One choice for every view, so that together they show one part, in projection where they stand in it."""
    best: tuple[float, list[Compared | None]] | None = None
    for anchor, mine in enumerate(tried):
        for start, first in mine[:TRIED]:
            chosen: list[Compared | None] = [None] * len(tried)
            chosen[anchor] = first
            total = start
            for k, others in enumerate(tried):
                if k == anchor or not others:
                    continue
                settled = [c for c in chosen if c is not None]
                score, chosen[k] = max(
                    ((s - APART * sum(_disagree(c, o, third_angle) for o in settled), c) for s, c in others[:TRIED]),
                    key=lambda pair: pair[0],
                )
                total += score
            if best is None or total > best[0] + 1e-9:
                best = (total, chosen)
    return best[1] if best else [None] * len(tried)


def _axes(c: Compared) -> tuple[XYZ, XYZ, XYZ]:
    """What of the part points to the right and up on the page, and towards who looks."""
    assert c.side is not None
    towards, right = SIDES[c.side]
    up = tuple(np.cross(towards, right).tolist())
    cos, sin = _quarter(c.turn)
    # turned clockwise, what pointed to the right points down
    to_right = tuple(cos * r + sin * u for r, u in zip(right, up, strict=True))
    to_top = tuple(cos * u - sin * r for r, u in zip(right, up, strict=True))
    return to_right, to_top, towards  # type: ignore[return-value]


def _disagree(one: Compared, two: Compared, third_angle: bool) -> bool:
    """Whether two views that stand in projection show the part as it cannot stand. In third angle a view beside another
    is what is seen from that side; in first angle from the other."""
    way = 1.0 if third_angle else -1.0
    if _in_line(one.box[0::2], two.box[0::2]):  # one above the other
        above, below = (one, two) if one.box[1] < two.box[1] else (two, one)
        (r1, _, t1), (r2, u2, _) = _axes(above), _axes(below)
        return r1 != r2 or t1 != tuple(way * v for v in u2)
    if _in_line(one.box[1::2], two.box[1::2]):  # side by side
        left, right = (one, two) if one.box[0] < two.box[0] else (two, one)
        (r1, u1, _), (_, u2, t2) = _axes(left), _axes(right)
        return u1 != u2 or t2 != tuple(way * v for v in r1)
    return False


def _in_line(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    """Whether two stretches of the page have one middle, to a twentieth of the longer."""
    return abs(sum(a) - sum(b)) / 2 < 0.05 * max(a[1] - a[0], b[1] - b[0])


def _compared(page: Page, view: SheetView, model: Lines, place: Place, tolerance: float) -> Compared:
    near = tolerance / place.mm  # points
    seen, smooth, hidden = (
        [place.to_page(np.array(r)) for r in runs] for runs in (model.seen, model.smooth, model.hidden)
    )
    origin = _share_run(page, np.array([place.at]))[0]
    made = Compared(_shares(page, view), place.side, place.turn, place.mm, origin)
    step = near * FINE
    whole = sum(map(_length, (*seen, *smooth, *hidden)))
    step = max(step, whole / MOST)
    edges = {"seen": _tree([*seen, *smooth], step), "hidden": _tree(hidden, step)}
    either = _tree([*seen, *smooth, *hidden], step)
    for kind, strokes in _by_kind(view):
        for stroke in strokes:
            along = run(stroke)
            length = _length(along)
            # an outline is explained by an edge that is seen; a hidden line may lie before one too
            runs = _apart(along, edges["seen"] if kind == "seen" else either, near, step)
            off = sum(map(_length, runs))
            made.drawn[kind] += length * place.mm
            made.explained[kind] += (length - off) * place.mm
            made.unexplained += [Piece(kind, _share_run(page, r), _length(r) * place.mm) for r in runs]
    sheet = _tree([run(s) for s in (*view.seen, *view.hidden)], step)
    for edge in seen:
        length = _length(edge)
        runs = _apart(edge, sheet, near, step)
        made.edges += length * place.mm
        made.shown += (length - sum(map(_length, runs))) * place.mm
        made.missing += [Piece("seen", _share_run(page, r), _length(r) * place.mm) for r in runs]
    for pieces in (made.unexplained, made.missing):
        pieces.sort(key=lambda p: -p.length)
        del pieces[PIECES:]
    for sort, lines_ in (("seen", seen), ("hidden", hidden)):
        made.model += [Piece(sort, _share_run(page, r), _length(r) * place.mm) for r in lines_]  # type: ignore[arg-type]
    return made


# -- runs looked at in steps -------------------------------------------------------------------------------


def _length(points: Array) -> float:
    d = np.diff(points, axis=0)
    return float(np.sqrt((d * d).sum(axis=1)).sum())


def _stepped(points: Array, step: float) -> Array:
    """Places along a run, ``step`` or less from each other, both ends among them."""
    d = np.diff(points, axis=0)
    lengths = np.sqrt((d * d).sum(axis=1))
    far = np.concatenate([[0.0], np.cumsum(lengths)])
    count = max(2, math.ceil(far[-1] / step) + 1)
    at = np.linspace(0.0, far[-1], count)
    return np.stack([np.interp(at, far, points[:, i]) for i in (0, 1)], axis=1)


def _tree(runs: list[Array], step: float) -> Any:
    """All places of runs, to be searched; None where there are none."""
    places = [_stepped(r, step) for r in runs if len(r) > 1]
    return cKDTree(np.concatenate(places)) if places else None


def _apart(points: Array, tree: Any, near: float, step: float) -> list[Array]:
    """The pieces of a run that lie farther from all of a tree's places than ``near``. Pieces too short to be more than
    a corner's, and places where another line merely crosses, are counted to what is beside them."""
    at = _stepped(points, step)
    if tree is None:
        return [at[[0, -1]] if len(points) == 2 else at]
    reach = math.hypot(near, step / 2)
    off = tree.query(at, distance_upper_bound=reach)[0] > reach
    if not off.any():
        return []
    spacing = _length(at) / max(1, len(at) - 1)
    least = max(1, round(SHORT * near / max(spacing, 1e-12)))
    off = _smoothed(_smoothed(off, False, least), True, least)
    ends = np.flatnonzero(np.diff(np.concatenate([[0], off.astype(int), [0]])))
    return [_thinned(at[a:b]) for a, b in zip(ends[::2], ends[1::2], strict=True) if b - a > 1]


def _smoothed(off: NDArray[np.bool_], value: bool, least: int) -> NDArray[np.bool_]:
    """Stretches of ``value`` shorter than ``least`` places between others turned over; at the ends they stay."""
    edges = np.flatnonzero(np.diff(off.astype(int))) + 1
    made = off.copy()
    for a, b in itertools.pairwise(edges):
        if off[a] == value and b - a < least:
            made[a:b] = not value
    return made


def _thinned(points: Array) -> Array:
    """A run with the places left out that lie on the line between those before and behind."""
    if len(points) < 3:
        return points
    d = np.diff(points, axis=0)
    bent = np.abs(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]) > 1e-9 * (np.abs(d[:-1]).sum(axis=1) + 1e-12)
    keep = np.concatenate([[True], bent, [True]])
    found: Array = points[keep]
    return found

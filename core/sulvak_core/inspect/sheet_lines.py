"""Every line of the sheet held against the part: which edge explains it, what no edge explains, what is not drawn.

A view is placed by itself where it can be: seen from one of the six sides, its outline is as wide and high as the part
is from there, and of the sides of which that is so the one whose edges explain most of it is meant. Then both are
looked at in small steps: a place of the sheet's line is explained where an edge runs within the tolerance.

Sections are told by their titles and by section lining; they are held against the part as it is cut by the plane of
their cutting line, or where there is none by the plane that explains most.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..part.document import Side
from ..sheet.page import Page, Stroke
from ..sheet.section_marks import SectionTitle, titled, titles, traces
from ..sheet.views import SheetView, run, views
from ..solid.outline import Lines
from ..solid.shapes import Shape
from .model_lines import SIDES, Model, Seen, around
from .runs import places, run_length, runs_apart
from .section_lines import ROUND, covered, hull, likely_planes, mixed, planes_of_traces

Array = NDArray[np.float64]
XY = tuple[float, float]
XYZ = tuple[float, float, float]

TOLERANCE = 0.1  # mm
ALIKE = 0.006  # of its size that a view's outline may differ from the part's and be of the same side
FINE = 0.5  # of the tolerance: the step in which lines are looked at
MOST = 1_500_000  # places looked at
SHOWN = 0.25  # what it counts that the part's edges are drawn: a sheet leaves some out
TRIED = 8  # sides a view is tried from together with the others
APART = 0.04  # what it costs when views are not in projection: what they show counts for more
GOOD = 1.1  # a view so well explained need not be tried any further
PARTLY = 0.01  # what it costs that only a part of a view is cut
LINED = 0.6  # of a view that a section is lined at least
UNLIKELY = 0.15  # what it costs to take a view for a section of which less is lined
LIKELY = 0.6  # of a picture's lines that edges explain, or it is none of the part
PICTORIAL: tuple[XYZ, ...] = tuple((x, y, z) for z in (1.0, -1.0) for y in (-1.0, 1.0) for x in (1.0, -1.0))
WHOLE = 0.85  # of a view that is lined: it is cut all through
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
    name: str = ""  # of a section: its letters
    cut: float | None = None  # where the plane lies that cuts it, along the part's own axis
    partly: bool = False  # only a part of it is cut: a half section, or broken out
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
    cut: float | None = None

    @property
    def seen(self) -> Seen:
        return Seen(self.side, self.cut)

    def to_part(self, p: Array) -> Array:
        """Places on the page as places in the view's own coordinates, mm."""
        c, s = _quarter(self.turn)
        x, y = p[:, 0] - self.at[0], p[:, 1] - self.at[1]
        return np.stack([(c * x + s * y) * self.mm, (s * x - c * y) * self.mm], axis=1)

    def to_page(self, p: Array) -> Array:
        c, s = _quarter(self.turn)
        x, y = p[:, 0] / self.mm, -p[:, 1] / self.mm
        return np.stack([self.at[0] + c * x - s * y, self.at[1] + s * x + c * y], axis=1)


def _quarter(turn: int) -> tuple[int, int]:
    return {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}[turn]


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
    model = Model(shapes)
    drawn_views = views(page)
    named = titled([v.box for v in drawn_views], titles(page))
    whole = [i not in named and not v.lining for i, v in enumerate(drawn_views)]
    uncut: list[Seen] = [Seen(side) for side in SIDES]
    tried = [
        _tried(page, view, model, mm, tolerance, uncut) if shapes and whole[i] else []
        for i, view in enumerate(drawn_views)
    ]
    chosen = _agreeing(tried, third_angle)
    placed = [c for c in chosen if c is not None]
    for c in placed:
        c.projected = not any(_disagree(c, o, third_angle) for o in placed if o is not c)
    for i, view in enumerate(drawn_views):
        if shapes and not whole[i]:
            chosen[i] = _section(page, view, model, mm, tolerance, named.get(i), placed, third_angle)
    for i, view in enumerate(drawn_views):
        if shapes and whole[i] and chosen[i] is None:
            chosen[i] = _pictorial(page, view, model, tolerance)
    found = [c or _unplaced(page, v, mm) for v, c in zip(drawn_views, chosen, strict=True)]
    drawn = sum(sum(v.drawn.values()) for v in found)
    explained = sum(sum(v.explained.values()) for v in found)
    return SheetLines(found, explained / drawn if drawn else 0.0)


def _pictorial(page: Page, view: SheetView, model: Model, tolerance: float) -> Compared | None:
    """A view as an isometric picture of the part (ISO 5456-3), whatever its scale; None where it is none."""
    left, top, right, bottom = view.box
    best: tuple[float, Compared] | None = None
    for towards in PICTORIAL:
        drawn_from = model.pictorial(towards)
        a, b, c, d = around((*drawn_from.seen, *drawn_from.smooth, *drawn_from.hidden))
        mm = math.sqrt((c - a) * max(d - b, 1e-9) / (max(right - left, 1e-9) * max(bottom - top, 1e-9)))
        play = ALIKE * max(c - a, d - b) + 0.05
        if abs((right - left) * mm - (c - a)) > play or abs((bottom - top) * mm - (d - b)) > play:
            continue
        at = ((left + right) / 2 - (a + c) / 2 / mm, (top + bottom) / 2 + (b + d) / 2 / mm)
        made = _compared(page, view, drawn_from, drawn_from, Place("front", 0, mm, at), tolerance)
        made.side, made.name = None, "isometric"
        score = sum(made.explained.values()) / (sum(made.drawn.values()) or 1.0)
        if best is None or score > best[0]:
            best = (score, made)
    return best[1] if best and best[0] > LIKELY else None


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


def _section(
    page: Page,
    view: SheetView,
    model: Model,
    mm: float | None,
    tolerance: float,
    title: SectionTitle | None,
    placed: list[Compared],
    third_angle: bool,
) -> Compared | None:
    """A view that is cut, held against the part as it is cut where that explains most: by the planes of its letters
    first, then by likely ones. Without a title it may be cut in part only, or not at all."""
    own = 25.4 / 72 / title.ratio if title and title.ratio else mm
    marked = []
    for c in placed if title else []:
        w, h = page.size
        box = (c.box[0] * w, c.box[1] * h, c.box[2] * w, c.box[3] * h)
        to_right, to_top, _ = _axes(c)
        place = (to_right, to_top, (c.origin[0] * w, c.origin[1] * h), c.mm)
        marked += planes_of_traces(traces(page, title.letter, box), place) if title else []
    found = _tried(page, view, model, own, tolerance, marked)
    if not found or found[0][0] < GOOD:
        sides = dict.fromkeys(p.side for p in _candidates(view, model, own, [Seen(side) for side in SIDES]))
        planes = likely_planes(model, sides)
        share = covered([run(s) for s in view.lining], view.box) if view.lining else 1.0
        unlikely = UNLIKELY * (title is None and share < LINED)
        found += [(s - unlikely, c) for s, c in _tried(page, view, model, own, tolerance, planes)]
        if not title:
            found += _tried(page, view, model, own, tolerance, [Seen(side) for side in SIDES])
        if view.lining and share < WHOLE:
            found += _tried(page, view, model, own, tolerance, planes, partly=True)
    if not found:
        return None
    off = {id(c): any(_disagree(c, o, third_angle) for o in placed) for _, c in found}
    best = max(found, key=lambda f: f[0] - APART * off[id(f[1])])[1]
    best.projected = best.cut is not None or not off[id(best)]
    best.name = title.name if title else ""
    return best


def _candidates(view: SheetView, model: Model, mm: float | None, ways: list[Seen]) -> list[Place]:
    """Of ways to see the part those in which it is as wide and as high as the view."""
    left, top, right, bottom = view.box
    found = []
    for seen in ways:
        a, b, c, d = model.box(seen)
        for turn in (0, 90, 180, 270):
            wide, high = ((c - a), (d - b)) if turn % 180 == 0 else ((d - b), (c - a))
            own = mm or math.sqrt(wide * max(high, 1e-9) / (max(right - left, 1e-9) * max(bottom - top, 1e-9)))
            w, h = (right - left) * own, (bottom - top) * own
            play = ALIKE * max(wide, high) + 0.05
            if abs(w - wide) > play or abs(h - high) > play:
                continue
            middle = np.array([[(a + c) / 2, (b + d) / 2]])
            at = Place(seen.side, turn, own, (0.0, 0.0)).to_page(middle)[0]
            place = ((left + right) / 2 - float(at[0]), (top + bottom) / 2 - float(at[1]))
            found.append(Place(seen.side, turn, own, place, seen.cut))
    return found


def _tried(
    page: Page,
    view: SheetView,
    model: Model,
    mm: float | None,
    tolerance: float,
    ways: list[Seen],
    partly: bool = False,
) -> list[tuple[float, Compared]]:
    """A view compared in every way that it may be seen, each with how well it is explained; the best first. ``partly``:
    only where the view is lined the part is cut."""
    found = []
    for place in _candidates(view, model, mm, [Seen(w.side) for w in ways] if partly else ways):
        if partly:
            found += [
                _rated(_compared(page, view, *_half(view, model, cut), cut, tolerance), place.turn, True)
                for cut in (replace(place, cut=w.cut) for w in ways if w.side == place.side)
            ]
            continue
        drawn_from = model.lines(place.seen)
        found.append(_rated(_compared(page, view, drawn_from, drawn_from, place, tolerance), place.turn, False))
    return sorted(found, key=lambda c: -c[0])


def _half(view: SheetView, model: Model, place: Place) -> tuple[Lines, Lines]:
    where = hull([place.to_part(run(s)) for s in view.lining], ROUND * place.mm)
    return mixed(model.lines(Seen(place.side)), model.lines(place.seen), where)


def _rated(compared: Compared, turn: int, partly: bool) -> tuple[float, Compared]:
    compared.partly = partly
    drawn = sum(compared.drawn.values())
    score = sum(compared.explained.values()) / (drawn or 1.0) + SHOWN * compared.shown / (compared.edges or 1.0)
    return score - 0.02 * (turn != 0) - PARTLY * partly, compared


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


def _compared(page: Page, view: SheetView, model: Lines, asked: Lines, place: Place, tolerance: float) -> Compared:
    """``model``: the lines that explain what is drawn; ``asked``: those that the view is to show."""
    near = tolerance / place.mm  # points
    seen, smooth, hidden = (
        [place.to_page(np.array(r)) for r in runs] for runs in (model.seen, model.smooth, model.hidden)
    )
    origin = _share_run(page, np.array([place.at]))[0]
    made = Compared(_shares(page, view), place.side, place.turn, place.mm, origin, cut=place.seen.coordinate())
    step = near * FINE
    whole = sum(map(run_length, (*seen, *smooth, *hidden)))
    step = max(step, whole / MOST)
    edges = {"seen": places([*seen, *smooth], step), "hidden": places(hidden, step)}
    either = places([*seen, *smooth, *hidden], step)
    for kind, strokes in _by_kind(view):
        for stroke in strokes:
            along = run(stroke)
            length = run_length(along)
            # an outline is explained by an edge that is seen; a hidden line may lie before one too
            runs = runs_apart(along, edges["seen"] if kind == "seen" else either, near, step)
            off = sum(map(run_length, runs))
            made.drawn[kind] += length * place.mm
            made.explained[kind] += (length - off) * place.mm
            made.unexplained += [Piece(kind, _share_run(page, r), run_length(r) * place.mm) for r in runs]
    sheet = places([run(s) for s in (*view.seen, *view.hidden)], step)
    for edge in seen if asked is model else [place.to_page(np.array(r)) for r in asked.seen]:
        length = run_length(edge)
        runs = runs_apart(edge, sheet, near, step)
        made.edges += length * place.mm
        made.shown += (length - sum(map(run_length, runs))) * place.mm
        made.missing += [Piece("seen", _share_run(page, r), run_length(r) * place.mm) for r in runs]
    for pieces in (made.unexplained, made.missing):
        pieces.sort(key=lambda p: -p.length)
        del pieces[PIECES:]
    behind = hidden if place.cut is None else []  # a section is drawn without what it hides
    for sort, lines_ in (("seen", seen), ("hidden", behind)):
        made.model += [Piece(sort, _share_run(page, r), run_length(r) * place.mm) for r in lines_]  # type: ignore[arg-type]
    return made

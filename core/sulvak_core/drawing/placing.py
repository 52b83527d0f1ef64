"""Sizes put round a view so that nothing lies on anything else.

Every size has many places where it may stand: dimension lines at either side of the outline in rows, leaders at many
angles and lengths. Each is rated by what it would lie on and how far out it is; the best is taken. Shorter dimensions
come first, so that they stand further in. In mm of the paper, from where the part's origin lies in the view.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from ..part.drawing_sheet import SizePlace
from ..solid.project import Flat
from .paper import ARROW, LETTER, RING, WIDE, XY, Arrow, Box, Dimension, Ink, Stroke, Word, merged

FIRST, NEXT = 9.0, 7.5  # of a dimension line from the outline, and from one to the next
ROWS = 9
OFF = 1.5  # between an outline and an extension line; that runs on as far beyond the dimension line
ABOVE = 1.2  # of the letters over the line
ROOM = 0.45  # that is kept free round letters
SHELF = 1.0  # of a leader before and after its letters
OUTLINE = 0.4  # what it costs that a line crosses an outline
TEXT, THROUGH, OVER, CROSS = 400.0, 200.0, 120.0, 6.0  # what it costs that letters lie on letters, a line on letters, …
LONG = (5.0, 8.0, 12.0, 17.0, 24.0, 32.0, 42.0, 56.0)
WAYS = 24


@dataclass
class Placed:
    """A size as it is drawn. ``hits``: how often its letters lie on something, or it on other letters. ``side`` and
    ``at`` as they would be kept if it stayed there by hand; ``along``: the way of its dimension line (a unit vector),
    none for a leader; ``span``: where the outline lies across it."""

    key: str
    ink: Ink
    boxes: list[shapely.Polygon]
    lines: list[shapely.LineString]
    hits: int = 0
    side: int = 1
    at: XY = (0.0, 0.0)
    along: XY | None = None
    span: XY = (0.0, 0.0)
    dimension: Dimension | None = None
    middle: XY = (0.0, 0.0)

    def extent(self) -> Box:
        return merged([tuple(g.bounds) for g in (*self.boxes, *self.lines)])  # type: ignore[misc]


@dataclass
class LinearSize:
    """Along ``way`` (a unit vector) between features, each by its places."""

    key: str
    text: str
    way: XY
    a: list[XY]
    b: list[XY]
    number: int | None = None


@dataclass
class LeaderSize:
    """Points at one of ``tips``, each with the way out of it; ``centre``: of what it belongs to; ``round``: the circle
    it measures, for files that hold dimensions."""

    key: str
    text: str
    tips: list[tuple[XY, XY]]
    centre: XY
    number: int | None = None
    round: tuple[str, XY, float] | None = None


@dataclass
class AngleSize:
    """Between two directions (rad) from ``apex``, the first to the second counter-clockwise."""

    key: str
    text: str
    apex: XY
    one: float
    two: float
    spans: tuple[XY, XY]
    number: int | None = None


@dataclass
class Field:
    """What is drawn round a view so far: its outlines, and the sizes placed."""

    outlines: list[shapely.LineString]
    box: Box
    placed: list[Placed] = field(default_factory=list)
    fixed: list[shapely.Polygon] = field(default_factory=list)  # letters that stand already, such as titles
    _tree: shapely.STRtree | None = None

    def rate(
        self, boxes: list[list[shapely.Polygon]], lines: list[list[shapely.LineString]]
    ) -> tuple[np.ndarray, np.ndarray]:
        """What candidates cost by what they would lie on, and how many of those are letters lying on something or
        lain on."""
        n = len(boxes)
        cost, hits = np.zeros(n), np.zeros(n)
        if self._tree is None:
            self._tree = shapely.STRtree(self.outlines)
        letters = [b for p in self.placed for b in p.boxes] + self.fixed
        others = [x for p in self.placed for x in p.lines]
        flat_boxes = [(i, b) for i, group in enumerate(boxes) for b in group]
        flat_lines = [(i, x) for i, group in enumerate(lines) for x in group]

        def count(mine: list[tuple[int, shapely.Geometry]], tree: shapely.STRtree) -> np.ndarray:
            found = np.zeros(n)
            if mine and len(tree):
                at, _ = tree.query([g for _, g in mine], predicate="intersects")
                np.add.at(found, np.array([i for i, _ in mine])[at], 1)
            return found

        on_letters = count(flat_boxes, shapely.STRtree(letters))
        on_outline = count(flat_boxes, self._tree)
        on_lines = count(flat_boxes, shapely.STRtree(others))
        through = count(flat_lines, shapely.STRtree(letters))
        crossing = count(flat_lines, shapely.STRtree(others))
        cost += TEXT * on_letters + OVER * on_outline + THROUGH * (on_lines + through) + CROSS * crossing
        cost += OUTLINE * count(flat_lines, self._tree)
        hits += on_letters + on_outline + on_lines + through
        return cost, hits


def _box(word: Word, room: float = ROOM) -> shapely.Polygon:
    return shapely.Polygon(word.corners(room))


def _ring(at: XY, number: int | None, size: float = LETTER) -> tuple[Ink, list[shapely.Polygon]]:
    """A balloon."""
    ink = Ink()
    if number is None:
        return ink, []
    ink.strokes.append(_stroke(Flat("circle", {"c": at}, RING)))
    word = Word(str(number), (at[0], at[1] - 0.26 * size * 0.85), size * 0.85)
    ink.words.append(word)
    return ink, [shapely.Point(at).buffer(RING + ROOM)]


def _stroke(c: Flat) -> Stroke:
    return Stroke("SIZES", c)


def place(
    sizes: Sequence[LinearSize | LeaderSize | AngleSize], around: Field, by_hand: dict[str, SizePlace]
) -> list[Placed]:
    """All sizes of a view: those put by hand first, then dimension lines from the shortest, angles, leaders; what lies
    on something is tried again when all others stand."""

    def order(s: LinearSize | LeaderSize | AngleSize) -> tuple[bool, int, float]:
        hand = by_hand[s.key].at is not None if s.key in by_hand else False
        if isinstance(s, LinearSize):
            return not hand, 1, abs(_along(s.b[0], s.way) - _along(s.a[0], s.way))
        return not hand, 0 if isinstance(s, AngleSize) else 2, float(len(s.text)) * -1

    for s in sorted(sizes, key=order):
        around.placed.append(_best(s, around, by_hand.get(s.key)))
    by_key = {s.key: s for s in sizes}
    for _ in range(3):
        poor = [p for p in around.placed if p.hits or _lain_on(p, around)]
        moved = False
        for p in poor:
            if p.key in by_hand and by_hand[p.key].at is not None:
                continue
            around.placed.remove(p)
            again = _best(by_key[p.key], around, by_hand.get(p.key))
            moved |= again.middle != p.middle
            around.placed.append(again)
        if not moved:
            break
    for p in around.placed:
        p.hits = _lain_on(p, around)
    return around.placed


def _lain_on(p: Placed, around: Field) -> int:
    """How often letters of a size lie on something else that is drawn, or something on them."""
    others = [o for o in around.placed if o is not p]
    things = [*around.outlines, *around.fixed, *(g for o in others for g in (*o.boxes, *o.lines))]
    tree = shapely.STRtree(things)
    found = len(tree.query(p.boxes, predicate="intersects")[0]) if p.boxes else 0
    letters = shapely.STRtree([b for o in others for b in o.boxes])
    return found + (len(letters.query(p.lines, predicate="intersects")[0]) if p.lines and len(letters) else 0)


def _best(s: LinearSize | LeaderSize | AngleSize, around: Field, hand: SizePlace | None) -> Placed:
    if isinstance(s, LinearSize):
        found = _linear(s, around, hand)
    elif isinstance(s, AngleSize):
        found = _angle(s, around, hand)
    else:
        found = _leaders(s, around, hand)
    cost, hits = around.rate([p.boxes for _, p in found], [p.lines for _, p in found])
    total = cost + np.array([c for c, _ in found])
    k = int(np.argmin(np.round(total, 6)))
    found[k][1].hits = int(hits[k])
    return found[k][1]


# -- dimension lines ---------------------------------------------------------------------------------------


def _along(p: XY, way: XY) -> float:
    return p[0] * way[0] + p[1] * way[1]


def _upright(way: XY) -> XY:
    """A direction so that letters along it are read from below or from the right (ISO 129-1)."""
    if way[0] < -1e-9 or (abs(way[0]) <= 1e-9 and way[1] < 0):
        return -way[0], -way[1]
    return way


def _linear(s: LinearSize, around: Field, hand: SizePlace | None) -> list[tuple[float, Placed]]:
    u = _upright(s.way)
    v = (-u[1], u[0])
    a, b = (s.a, s.b) if _along(s.a[0], u) <= _along(s.b[0], u) else (s.b, s.a)
    ua, ub = _along(a[0], u), _along(b[0], u)
    level = abs(u[0]) < 1e-6 or abs(u[1]) < 1e-6
    left, low, right, high = around.box
    corners = [(x, y) for x in (left, right) for y in (low, high)]
    across = [_along(p, v) for p in (corners if level else [*a, *b])]
    span = (min(across), max(across))
    text = WIDE * LETTER * len(s.text) + (2 * RING + 2 if s.number is not None else 0)
    inside = ub - ua >= 2 * ARROW + 1.5
    beyond = (ub - ua + text) / 2 + ARROW + 2
    shifts = [0.0] if ub - ua >= text + 1 else [beyond, -beyond]  # letters too long for their place stand beside it
    if ub - ua >= text + 14:
        shifts += [(ub - ua - text) / 4, -(ub - ua - text) / 4]
    found = []
    if hand is not None and hand.at is not None:
        line = span[1] + hand.at[1] if hand.side > 0 else span[0] - hand.at[1]
        return [(0.0, _drawn_linear(s, u, v, a, b, line, hand.at[0], hand.side, span, inside))]
    for side in (1, -1):
        for row in range(ROWS):
            line = span[1] + FIRST + NEXT * row if side > 0 else span[0] - FIRST - NEXT * row
            reach = sum(min(abs(_along(p, v) - line) for p in end) for end in (a, b))
            for k, shift in enumerate(shifts):
                cost = 3.0 * row + 0.06 * reach + 0.8 * (k > 0) + 0.1 * (side < 0)
                found.append((cost, _drawn_linear(s, u, v, a, b, line, shift, side, span, inside)))
    return found


def _drawn_linear(
    s: LinearSize, u: XY, v: XY, a: list[XY], b: list[XY], line: float, shift: float, side: int, span: XY, inside: bool
) -> Placed:
    def at(along: float, across: float) -> XY:
        return along * u[0] + across * v[0], along * u[1] + across * v[1]

    ua, ub = _along(a[0], u), _along(b[0], u)
    ink, lines = Ink(), []
    nearest = [min(end, key=lambda p: abs(_along(p, v) - line)) for end in (a, b)]
    for p, w in zip(nearest, (ua, ub), strict=True):
        start = _along(p, v)
        if abs(start - line) > OFF:
            way = math.copysign(1.0, line - start)
            ink.line("SIZES", at(w, start + way * OFF), at(w, line + way * OFF))
            lines.append(shapely.LineString([at(w, start + way * OFF), at(w, line + way * OFF)]))
    text = WIDE * LETTER * len(s.text)
    ring = 2 * RING + 2 if s.number is not None else 0.0
    middle = (ua + ub) / 2 + shift
    lo, hi = ua, ub
    if abs(shift) > (ub - ua) / 2:  # the letters stand beyond an end: the line runs on under them
        lo, hi = min(ua, middle - (text + ring) / 2), max(ub, middle + (text + ring) / 2)
    turn = math.atan2(u[1], u[0])
    if not inside:
        lo, hi = min(lo, ua - ARROW - 3), max(hi, ub + ARROW + 3)
    ink.line("SIZES", at(lo, line), at(hi, line))
    lines.append(shapely.LineString([at(lo, line), at(hi, line)]))
    ink.arrows.append(Arrow(at(ua, line), turn + (math.pi if inside else 0.0)))
    ink.arrows.append(Arrow(at(ub, line), turn + (0.0 if inside else math.pi)))
    word = Word(s.text, at(middle - ring / 2, line + ABOVE), LETTER, math.degrees(turn))
    ink.words.append(word)
    balloon, rings = _ring(at(middle - ring / 2 + text / 2 + RING + 1.4, line + ABOVE + 0.9 + RING - 2.0), s.number)
    ink.add(balloon)
    places = (shift, line - span[1] if side > 0 else span[0] - line)
    d = Dimension("linear", s.text, nearest[0], nearest[1], at(ub, line), word.at, math.degrees(turn))
    return Placed(s.key, ink, [_box(word), *rings], lines, 0, side, places, u, span, d, at(middle, line))


# -- leaders -----------------------------------------------------------------------------------------------


def _leaders(s: LeaderSize, around: Field, hand: SizePlace | None) -> list[tuple[float, Placed]]:
    if hand is not None and hand.at is not None:
        knee = (s.centre[0] + hand.at[0], s.centre[1] + hand.at[1])
        tip = min(s.tips, key=lambda t: math.dist(t[0], knee))
        return [(0.0, _drawn_leader(s, tip[0], knee))]
    left, low, right, high = around.box
    found = []
    for tip, out in s.tips:
        for long in LONG:
            knee = (tip[0] + long * out[0], tip[1] + long * out[1])
            outside = max(left - knee[0], knee[0] - right, low - knee[1], knee[1] - high)
            flat = 1.5 * (min(abs(out[0]), abs(out[1])) < 0.2)  # neither level nor upright
            cost = 0.09 * long + 0.12 * max(0.0, outside) + flat + 0.8 * (outside < 0)
            found.append((cost, _drawn_leader(s, tip, knee)))
    return found


def _drawn_leader(s: LeaderSize, tip: XY, knee: XY) -> Placed:
    ink = Ink()
    way = 1 if knee[0] >= tip[0] else -1
    text = WIDE * LETTER * len(s.text)
    long = text + 2 * SHELF
    end = (knee[0] + way * long, knee[1])
    ink.line("SIZES", tip, knee)
    ink.line("SIZES", knee, end)
    ink.arrows.append(Arrow(tip, math.atan2(tip[1] - knee[1], tip[0] - knee[0])))
    word = Word(s.text, (knee[0] + way * long / 2, knee[1] + ABOVE))
    ink.words.append(word)
    balloon, rings = _ring((end[0] + way * (RING + 0.2), end[1]), s.number)
    ink.add(balloon)
    # the last of a leader lies on what it points to
    d = math.dist(tip, knee) or 1.0
    start = (tip[0] + (knee[0] - tip[0]) * min(0.4 / d, 0.5), tip[1] + (knee[1] - tip[1]) * min(0.4 / d, 0.5))
    lines = [shapely.LineString([start, knee]), shapely.LineString([knee, end])]
    dimension = None
    if s.round is not None:
        kind, centre, radius = s.round
        u = ((tip[0] - centre[0]) / radius, (tip[1] - centre[1]) / radius)
        if kind == "diameter":
            far = (centre[0] - radius * u[0], centre[1] - radius * u[1])
            dimension = Dimension("diameter", s.text, far, tip, knee, word.at)
        else:
            dimension = Dimension("radius", s.text, centre, tip, knee, word.at)
    at = (knee[0] - s.centre[0], knee[1] - s.centre[1])
    return Placed(s.key, ink, [_box(word), *rings], lines, 0, 1, at, None, (0.0, 0.0), dimension, knee)


# -- angles ------------------------------------------------------------------------------------------------


def _angle(s: AngleSize, around: Field, hand: SizePlace | None) -> list[tuple[float, Placed]]:
    if hand is not None and hand.at is not None:
        return [(0.0, _drawn_angle(s, max(4.0, hand.at[1])))]
    far = max(*(span[1] for span in s.spans), 12.0)
    radii = sorted({*(8.0 + 5.0 * k for k in range(10)), *(far + 6.0 + 6.0 * k for k in range(5))})
    return [(0.05 * r, _drawn_angle(s, r)) for r in radii]


def _drawn_angle(s: AngleSize, radius: float) -> Placed:
    def at(turn: float, r: float = radius) -> XY:
        return s.apex[0] + r * math.cos(turn), s.apex[1] + r * math.sin(turn)

    ink, lines = Ink(), []
    sweep = (s.two - s.one) % math.tau
    two = s.one + sweep
    for turn, (near, end) in zip((s.one, two), s.spans, strict=True):
        if radius > end + 0.5:
            start = end + OFF if end else 0.0
            ink.line("SIZES", at(turn, start), at(turn, radius + OFF))
            lines.append(shapely.LineString([at(turn, start), at(turn, radius + OFF)]))
        elif radius < near - 0.5:
            ink.line("SIZES", at(turn, near - OFF), at(turn, max(radius - OFF, 0.0)))
    bend = ARROW / (2 * radius)
    tight = sweep * radius < 2 * ARROW + 2
    lo, hi = (s.one - (ARROW + 3) / radius, two + (ARROW + 3) / radius) if tight else (s.one, two)
    ink.strokes.append(_stroke(Flat("arc", {"c": s.apex, "p": at(lo), "q": at(hi)}, radius)))
    lines.append(shapely.LineString([at(lo + (hi - lo) * k / 16) for k in range(17)]))
    if tight:
        ink.arrows.append(Arrow(at(s.one), s.one + math.pi / 2 - bend))
        ink.arrows.append(Arrow(at(two), two - math.pi / 2 + bend))
    else:
        ink.arrows.append(Arrow(at(s.one), s.one - math.pi / 2 + bend))
        ink.arrows.append(Arrow(at(two), two + math.pi / 2 - bend))
    middle = s.one + sweep / 2
    word_at = at(hi, radius) if tight else at(middle, radius)
    wide = WIDE * LETTER * len(s.text)
    if tight:  # beyond the arc's end
        way = 1 if math.cos(hi + math.pi / 2) >= 0 else -1
        word = Word(s.text, (word_at[0] + way * (wide / 2 + 1.5), word_at[1] - 0.3 * LETTER))
    else:
        out = (math.cos(middle), math.sin(middle))
        word = Word(s.text, (word_at[0] + out[0] * (wide / 2 + 1.5), word_at[1] + out[1] * 2.6 - 0.26 * LETTER))
    ink.words.append(word)
    x = word.at[0] + wide / 2 + RING + 1.4
    balloon, rings = _ring((x, word.at[1] + 0.9), s.number)
    ink.add(balloon)
    d = Dimension(
        "angle",
        s.text,
        s.apex,
        at(s.one, max(s.spans[0][1], 1.0)),
        at(middle),
        word.at,
        0.0,
        at(two, max(s.spans[1][1], 1.0)),
    )
    return Placed(s.key, ink, [_box(word), *rings], lines, 0, 1, (0.0, radius), None, (0.0, 0.0), d, word_at)

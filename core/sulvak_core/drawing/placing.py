"""Sizes put round a view so that nothing lies on anything else.

Every size has many places where it may stand: dimension lines at either side of the outline in rows, leaders at many
angles and lengths. Each is rated by what it would lie on and how far out it is; the best is taken. Shorter dimensions
come first, so that they stand further in. In mm of the paper, from where the part's origin lies in the view.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..part.drawing_sheet import SizePlace
from ..solid.project import Flat
from .paper import ARROW, FALL, LETTER, RING, RISE, WIDE, XY, Arrow, Box, Dimension, Ink, Stroke, Word, merged

FIRST, NEXT = 9.0, 7.5  # of a dimension line from the outline, and from one to the next
ROWS = (range(3), range(3, 9), range(9, 20))  # tried together, until one is free
OFF = 1.5  # between an outline and an extension line; that runs on as far beyond the dimension line
ABOVE = 1.2  # of the letters over the line
ROOM = 0.45  # that is kept free round letters
SHELF = 1.0  # of a leader before and after its letters
OUTLINE = 0.4  # what it costs that a line crosses an outline
TEXT, THROUGH, OVER, CROSS = 400.0, 200.0, 120.0, 6.0  # what it costs that letters lie on letters, a line on letters, …
LONG = (5.0, 8.0, 12.0, 17.0, 24.0, 32.0, 42.0, 56.0)
WAYS = 24


Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


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
    bars: list[shapely.Polygon] = field(default_factory=list)

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
class Trials:
    """Places where one size may stand, numbered; what each would be drawn with, all at once: ``boxes`` round letters and
    ``bars`` round dimension lines as corners (m × 4 × 2), ``lines`` as ends (m × 2 × 2), each with the number of its
    trial; ``cost`` before anything else is looked at; ``draw`` makes one of them."""

    cost: Floats
    boxes: tuple[Floats, Ints]
    lines: tuple[Floats, Ints]
    bars: tuple[Floats, Ints]
    draw: Callable[[int], Placed]


@dataclass
class Field:
    """What is drawn round a view so far: its outlines, and the sizes placed."""

    outlines: list[shapely.LineString]
    box: Box
    placed: list[Placed] = field(default_factory=list)
    fixed: list[shapely.Polygon] = field(default_factory=list)  # letters that stand already, such as titles

    @cached_property
    def _outline(self) -> shapely.STRtree:
        return shapely.STRtree(self.outlines)

    def trees(self) -> tuple[shapely.STRtree, shapely.STRtree, shapely.STRtree, shapely.STRtree]:
        """Outlines; letters, lines and dimension lines of what is placed."""
        letters = [b for p in self.placed for b in p.boxes] + self.fixed
        lines = [x for p in self.placed for x in p.lines]
        bars = [x for p in self.placed for x in p.bars]
        return self._outline, shapely.STRtree(letters), shapely.STRtree(lines), shapely.STRtree(bars)

    def rate(self, trials: Trials) -> tuple[Floats, Floats]:
        """What each trial costs by what it would lie on, and how often letters would lie on something or be lain on, or
        dimension lines on one another."""
        outline, letters, lines, bars = self.trees()
        n = len(trials.cost)

        def count(mine: Any, numbers: Ints, tree: shapely.STRtree) -> Floats:
            found = np.zeros(n)
            if len(numbers) and len(tree):
                at, _ = tree.query(mine, predicate="intersects")
                np.add.at(found, numbers[at], 1)
            return found

        box, line, bar = shapely.polygons(trials.boxes[0]), shapely.linestrings(trials.lines[0]), shapely.polygons(trials.bars[0])
        on_letters = count(box, trials.boxes[1], letters)
        on_outline = count(box, trials.boxes[1], outline)
        on_lines = count(box, trials.boxes[1], lines)
        through = count(line, trials.lines[1], letters)
        over = count(bar, trials.bars[1], bars)
        cost = TEXT * on_letters + OVER * on_outline + THROUGH * (on_lines + through) + TEXT * over
        cost += CROSS * count(line, trials.lines[1], lines) + OUTLINE * count(line, trials.lines[1], outline)
        return cost, on_letters + on_outline + on_lines + through + over


Wanted = LinearSize | LeaderSize | AngleSize


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
    sizes: Sequence[Wanted], around: Field, by_hand: dict[str, SizePlace]
) -> list[Placed]:
    """All sizes of a view: those put by hand first, then dimension lines from the shortest, angles, leaders; what lies
    on something is tried again when all others stand."""

    def order(s: Wanted) -> tuple[bool, int, float]:
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
    """How often letters of a size lie on something else that is drawn, or something on them, or its dimension line on
    another."""
    others = [o for o in around.placed if o is not p]
    things = [*around.outlines, *around.fixed, *(g for o in others for g in (*o.boxes, *o.lines))]
    found = len(shapely.STRtree(things).query(p.boxes, predicate="intersects")[0])
    letters = shapely.STRtree([b for o in others for b in o.boxes])
    bars = shapely.STRtree([b for o in others for b in o.bars])
    return found + sum(
        len(tree.query(mine, predicate="intersects")[0]) for mine, tree in ((p.lines, letters), (p.bars, bars)) if len(mine) and len(tree)
    )


def _best(s: Wanted, around: Field, hand: SizePlace | None) -> Placed:
    best: tuple[float, Placed] | None = None
    for trials in _trials(s, around, hand):
        cost, hits = around.rate(trials)
        total = np.round(cost + trials.cost, 6)
        k = int(np.argmin(total))
        if best is None or total[k] < best[0]:
            made = trials.draw(k)
            made.hits = int(hits[k])
            best = (float(total[k]), made)
        if not best[1].hits:
            break  # what comes next is farther out
    assert best is not None
    return best[1]


def _trials(s: Wanted, around: Field, hand: SizePlace | None) -> Iterator[Trials]:
    """Places for a size, those further in first."""
    if isinstance(s, LinearSize):
        yield from _linear(s, around, hand)
    elif isinstance(s, AngleSize):
        yield _angle(s, hand)
    else:
        yield _leaders(s, around, hand)


# -- dimension lines ---------------------------------------------------------------------------------------


def _along(p: XY, way: XY) -> float:
    return p[0] * way[0] + p[1] * way[1]


def _upright(way: XY) -> XY:
    """A direction so that letters along it are read from below or from the right (ISO 129-1)."""
    if way[0] < -1e-9 or (abs(way[0]) <= 1e-9 and way[1] < 0):
        return -way[0], -way[1]
    return way


def _linear(s: LinearSize, around: Field, hand: SizePlace | None) -> Iterator[Trials]:
    u = _upright(s.way)
    v = (-u[1], u[0])
    a, b = (s.a, s.b) if _along(s.a[0], u) <= _along(s.b[0], u) else (s.b, s.a)
    ua, ub = _along(a[0], u), _along(b[0], u)
    level = abs(u[0]) < 1e-6 or abs(u[1]) < 1e-6
    left, low, right, high = around.box
    corners = [(x, y) for x in (left, right) for y in (low, high)]
    across = [_along(p, v) for p in (corners if level else [*a, *b])]
    span = (min(across), max(across))
    text = _text_width(s)
    if hand is not None and hand.at is not None:
        line = span[1] + hand.at[1] if hand.side > 0 else span[0] - hand.at[1]
        yield _linear_trials(s, (u, v), (a, b), [(0.0, line, hand.at[0], hand.side)], span)
        return
    beyond = (ub - ua + text) / 2 + ARROW + 2
    shifts = [0.0] if ub - ua >= text + 1 else [beyond, -beyond]  # letters too long for their place stand beside it
    if ub - ua >= text + 14:
        shifts += [(ub - ua - text) / 4, -(ub - ua - text) / 4]
    if ub - ua >= text + 40:
        shifts += [(ub - ua - text) / 2 - 6, -(ub - ua - text) / 2 + 6]
    near = {side: [min(abs(_along(p, v) - edge) for p in end) for end in (a, b)] for side, edge in ((1, span[1]), (-1, span[0]))}
    for rows in ROWS:
        tried = []
        for side in (1, -1):
            for row in rows:
                out = FIRST + NEXT * row
                cost = 3.0 * row + 0.06 * (sum(near[side]) + 2 * out) + 0.1 * (side < 0)
                line = span[1] + out if side > 0 else span[0] - out
                tried += [(cost + 0.8 * (k > 0), line, shift, side) for k, shift in enumerate(shifts)]
        yield _linear_trials(s, (u, v), (a, b), tried, span)


def _text_width(s: Wanted) -> float:
    return WIDE * LETTER * len(s.text) + (2 * RING + 2 if s.number is not None else 0.0)


def _linear_trials(
    s: LinearSize, axes: tuple[XY, XY], ends: tuple[list[XY], list[XY]], tried: list[tuple[float, float, float, int]], span: XY
) -> Trials:
    """``tried``: cost, where the dimension line stands, shift of the letters, side."""
    u, v = axes
    ua, ub = _along(ends[0][0], u), _along(ends[1][0], u)
    inside = ub - ua >= 2 * ARROW + 1.5
    text = _text_width(s)
    cost, line, shift, side = (np.array(x, dtype=float) for x in zip(*tried, strict=True))
    turn = np.array([u, v])  # along, across → right, up
    number = np.arange(len(line))
    middle = (ua + ub) / 2 + shift
    lo, hi = _reach(ua, ub, middle, text, inside)
    boxes = _boxes(middle - text / 2 - ROOM, middle + text / 2 + ROOM, line + ABOVE - FALL * LETTER - ROOM, line + ABOVE + RISE * LETTER + ROOM) @ turn
    bars = _boxes(lo + 0.4, hi - 0.4, line - 1.0, line + 1.0) @ turn
    segments = [np.stack([np.stack([lo, line], 1), np.stack([hi, line], 1)], 1)]
    numbers = [number]
    for end, w in zip(ends, (ua, ub), strict=True):
        at = np.array([_along(p, v) for p in end])
        start = at[np.argmin(np.abs(at[None, :] - line[:, None]), axis=1)]
        way = np.where(line > start, 1.0, -1.0)
        there = np.abs(start - line) > OFF
        flat = np.full(len(line), w)
        run = np.stack([np.stack([flat, start + way * OFF], 1), np.stack([flat, line + way * OFF], 1)], 1)
        segments.append(run[there])
        numbers.append(number[there])
    lines = np.concatenate(segments) @ turn

    def draw(k: int) -> Placed:
        return _drawn_linear(s, u, v, ends[0], ends[1], float(line[k]), float(shift[k]), int(side[k]), span, inside)

    return Trials(cost, (boxes, number), (lines, np.concatenate(numbers)), (bars, number), draw)


def _reach(ua: float, ub: float, middle: Floats, text: float, inside: bool) -> tuple[Floats, Floats]:
    """From where to where dimension lines run: under letters that stand beyond an end too, and under arrows outside."""
    lo, hi = np.full(len(middle), ua), np.full(len(middle), ub)
    outside = np.abs(middle - (ua + ub) / 2) > (ub - ua) / 2
    lo = np.where(outside, np.minimum(lo, middle - text / 2), lo)
    hi = np.where(outside, np.maximum(hi, middle + text / 2), hi)
    if not inside:
        lo, hi = np.minimum(lo, ua - ARROW - 3), np.maximum(hi, ub + ARROW + 3)
    return lo, hi


def _boxes(left: Floats, right: Floats, low: Floats, high: Floats) -> Floats:
    """Corners of boxes, n × 4 × 2."""
    return np.stack([np.stack(p, 1) for p in ((left, low), (right, low), (right, high), (left, high))], 1)


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
    lo, hi = (float(x[0]) for x in _reach(ua, ub, np.array([middle]), text + ring, inside))
    turn = math.atan2(u[1], u[0])
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
    bar = shapely.Polygon([at(lo + 0.4, line - 1), at(hi - 0.4, line - 1), at(hi - 0.4, line + 1), at(lo + 0.4, line + 1)])
    return Placed(s.key, ink, [_box(word), *rings], lines, 0, side, places, u, span, d, at(middle, line), [bar])


# -- leaders -----------------------------------------------------------------------------------------------


def _leaders(s: LeaderSize, around: Field, hand: SizePlace | None) -> Trials:
    if hand is not None and hand.at is not None:
        put = (s.centre[0] + hand.at[0], s.centre[1] + hand.at[1])
        tip = min(s.tips, key=lambda t: math.dist(t[0], put))[0]
        return _leader_trials(s, np.zeros(1), np.array([tip]), np.array([put]))
    left, low, right, high = around.box
    tips = np.repeat(np.array([t for t, _ in s.tips]), len(LONG), axis=0)
    out = np.repeat(np.array([o for _, o in s.tips]), len(LONG), axis=0)
    long = np.tile(np.array(LONG), len(s.tips))
    knees = tips + long[:, None] * out
    x, y = knees[:, 0], knees[:, 1]
    outside = np.max([left - x, x - right, low - y, y - high], axis=0)
    flat = 1.5 * (np.min(np.abs(out), axis=1) < 0.2)  # neither level nor upright
    cost = 0.09 * long + 0.12 * np.maximum(0.0, outside) + flat + 0.8 * (outside < 0)
    return _leader_trials(s, cost, tips, knees)


def _leader_trials(s: LeaderSize, cost: Floats, tips: Floats, knees: Floats) -> Trials:
    n = np.arange(len(cost))
    way = np.where(knees[:, 0] >= tips[:, 0], 1.0, -1.0)
    long = WIDE * LETTER * len(s.text) + 2 * SHELF
    x, y = knees[:, 0], knees[:, 1]
    end = x + way * long
    middle, half = x + way * long / 2, long / 2 - SHELF + ROOM
    boxes = _boxes(middle - half, middle + half, y + ABOVE - FALL * LETTER - ROOM, y + ABOVE + RISE * LETTER + ROOM)
    numbers = n
    if s.number is not None:
        c = end + way * (RING + 0.2)
        boxes = np.concatenate([boxes, _boxes(c - RING - ROOM, c + RING + ROOM, y - RING - ROOM, y + RING + ROOM)])
        numbers = np.concatenate([n, n])
    away = np.hypot(*(knees - tips).T)
    start = tips + (knees - tips) * np.minimum(0.4 / np.maximum(away, 1e-9), 0.5)[:, None]
    shelf = np.stack([end, y], 1)
    lines = np.concatenate([np.stack([start, knees], 1), np.stack([knees, shelf], 1)])

    def draw(k: int) -> Placed:
        return _drawn_leader(s, (float(tips[k, 0]), float(tips[k, 1])), (float(x[k]), float(y[k])))

    none = (np.zeros((0, 4, 2)), np.zeros(0, dtype=int))
    return Trials(cost, (boxes, numbers), (lines, np.concatenate([n, n])), none, draw)


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


def _angle(s: AngleSize, hand: SizePlace | None) -> Trials:
    if hand is not None and hand.at is not None:
        tried = [(max(4.0, hand.at[1]), hand.at[0] / max(4.0, hand.at[1]))]
    else:
        far = max(*(span[1] for span in s.spans), 12.0)
        sweep = (s.two - s.one) % math.tau
        tried = [(r, share * sweep) for r in sorted({*(8.0 + 5.0 * k for k in range(10)), *(far + 6.0 + 6.0 * k for k in range(5))})
                 for share in (0.0, 0.25, -0.25)]  # fmt: skip
    made = [_drawn_angle(s, *t) for t in tried]
    boxes = [(k, np.array(b.minimum_rotated_rectangle.exterior.coords)[:4]) for k, m in enumerate(made) for b in m.boxes]
    lines = [(k, np.array([p, q])) for k, m in enumerate(made) for x in m.lines
             for p, q in zip(x.coords[:-1], x.coords[1:], strict=True)]  # fmt: skip

    def stacked(found: list[tuple[int, Floats]]) -> tuple[Floats, Ints]:
        return np.array([g for _, g in found]), np.array([k for k, _ in found])

    none = (np.zeros((0, 4, 2)), np.zeros(0, dtype=int))
    cost = np.array([0.05 * r + 0.5 * (turn != 0) for r, turn in tried])
    return Trials(cost, stacked(boxes), stacked(lines), none, lambda k: made[k])


def _drawn_angle(s: AngleSize, radius: float, off: float = 0.0) -> Placed:
    """``off``: how far (rad) its letters stand from the middle of the arc."""

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
    middle = s.one + sweep / 2 + off
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
    return Placed(s.key, ink, [_box(word), *rings], lines, 0, 1, (off * radius, radius), None, (0.0, 0.0), d, word_at)

"""Dimension lines round a view: in rows at either side of its outline, letters above the line (ISO 129-1)."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import shapely

from ..part.drawing_sheet import SizePlace
from .paper import ARROW, FALL, LETTER, RING, RISE, WIDE, XY, Arrow, Box, Dimension, Ink, Word
from .size_shapes import (
    ABOVE,
    ROOM,
    Floats,
    LinearSize,
    Placed,
    Trials,
    along,
    box_of,
    corner_boxes,
    ring,
    text_width,
)

FIRST, NEXT = 9.0, 7.5  # of a dimension line from the outline, and from one to the next
ROWS = (range(3), range(3, 9), range(9, 20))  # tried together, until one is free
OFF = 1.5  # between an outline and an extension line; that runs on as far beyond the dimension line


def _upright(way: XY) -> XY:
    """A direction so that letters along it are read from below or from the right (ISO 129-1)."""
    if way[0] < -1e-9 or (abs(way[0]) <= 1e-9 and way[1] < 0):
        return -way[0], -way[1]
    return way


def linear_trials(s: LinearSize, box: Box, hand: SizePlace | None) -> Iterator[Trials]:
    u = _upright(s.way)
    v = (-u[1], u[0])
    a, b = (s.a, s.b) if along(s.a[0], u) <= along(s.b[0], u) else (s.b, s.a)
    ua, ub = along(a[0], u), along(b[0], u)
    level = abs(u[0]) < 1e-6 or abs(u[1]) < 1e-6
    left, low, right, high = box
    corners = [(x, y) for x in (left, right) for y in (low, high)]
    across = [along(p, v) for p in (corners if level else [*a, *b])]
    span = (min(across), max(across))
    text = text_width(s)
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
    near = {
        side: [min(abs(along(p, v) - edge) for p in end) for end in (a, b)]
        for side, edge in ((1, span[1]), (-1, span[0]))
    }
    for rows in ROWS:
        tried = []
        for side in (1, -1):
            for row in rows:
                out = FIRST + NEXT * row
                cost = 3.0 * row + 0.06 * (sum(near[side]) + 2 * out) + 0.1 * (side < 0)
                line = span[1] + out if side > 0 else span[0] - out
                tried += [(cost + 0.8 * (k > 0), line, shift, side) for k, shift in enumerate(shifts)]
        yield _linear_trials(s, (u, v), (a, b), tried, span)


def _linear_trials(
    s: LinearSize,
    axes: tuple[XY, XY],
    ends: tuple[list[XY], list[XY]],
    tried: list[tuple[float, float, float, int]],
    span: XY,
) -> Trials:
    """``tried``: cost, where the dimension line stands, shift of the letters, side."""
    u, v = axes
    ua, ub = along(ends[0][0], u), along(ends[1][0], u)
    inside = ub - ua >= 2 * ARROW + 1.5
    text = text_width(s)
    cost, line, shift, side = (np.array(x, dtype=float) for x in zip(*tried, strict=True))
    turn = np.array([u, v])  # along, across → right, up
    number = np.arange(len(line))
    middle = (ua + ub) / 2 + shift
    lo, hi = _reach(ua, ub, middle, text, inside)
    boxes = (
        corner_boxes(
            middle - text / 2 - ROOM,
            middle + text / 2 + ROOM,
            line + ABOVE - FALL * LETTER - ROOM,
            line + ABOVE + RISE * LETTER + ROOM,
        )
        @ turn
    )
    bars = corner_boxes(lo + 0.4, hi - 0.4, line - 1.0, line + 1.0) @ turn
    segments = [np.stack([np.stack([lo, line], 1), np.stack([hi, line], 1)], 1)]
    numbers = [number]
    for end, w in zip(ends, (ua, ub), strict=True):
        at = np.array([along(p, v) for p in end])
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


def _drawn_linear(
    s: LinearSize, u: XY, v: XY, a: list[XY], b: list[XY], line: float, shift: float, side: int, span: XY, inside: bool
) -> Placed:
    def at(along: float, across: float) -> XY:
        return along * u[0] + across * v[0], along * u[1] + across * v[1]

    ua, ub = along(a[0], u), along(b[0], u)
    ink, lines = Ink(), []
    nearest = [min(end, key=lambda p: abs(along(p, v) - line)) for end in (a, b)]
    for p, w in zip(nearest, (ua, ub), strict=True):
        start = along(p, v)
        if abs(start - line) > OFF:
            way = math.copysign(1.0, line - start)
            ink.line("SIZES", at(w, start + way * OFF), at(w, line + way * OFF))
            lines.append(shapely.LineString([at(w, start + way * OFF), at(w, line + way * OFF)]))
    text = WIDE * LETTER * len(s.text)
    wide_ring = 2 * RING + 2 if s.number is not None else 0.0
    middle = (ua + ub) / 2 + shift
    lo, hi = (float(x[0]) for x in _reach(ua, ub, np.array([middle]), text + wide_ring, inside))
    turn = math.atan2(u[1], u[0])
    ink.line("SIZES", at(lo, line), at(hi, line))
    lines.append(shapely.LineString([at(lo, line), at(hi, line)]))
    ink.arrows.append(Arrow(at(ua, line), turn + (math.pi if inside else 0.0)))
    ink.arrows.append(Arrow(at(ub, line), turn + (0.0 if inside else math.pi)))
    word = Word(s.text, at(middle - wide_ring / 2, line + ABOVE), LETTER, math.degrees(turn))
    ink.words.append(word)
    balloon, rings = ring(at(middle - wide_ring / 2 + text / 2 + RING + 1.4, line + ABOVE + 0.9 + RING - 2.0), s.number)
    ink.add(balloon)
    places = (shift, line - span[1] if side > 0 else span[0] - line)
    d = Dimension("linear", s.text, nearest[0], nearest[1], at(ub, line), word.at, math.degrees(turn))
    bar = shapely.Polygon(
        [at(lo + 0.4, line - 1), at(hi - 0.4, line - 1), at(hi - 0.4, line + 1), at(lo + 0.4, line + 1)]
    )
    return Placed(s.key, ink, [box_of(word), *rings], lines, 0, side, places, u, span, d, at(middle, line), [bar])

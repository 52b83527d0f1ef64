"""Angles: an arc between the two sides, letters beside it (ISO 129-1)."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..part.drawing_sheet import SizePlace
from ..solid.project import Flat
from .paper import ARROW, LETTER, RING, WIDE, XY, Arrow, Dimension, Ink, Word
from .size_shapes import (
    AngleSize,
    Floats,
    Ints,
    Placed,
    Trials,
    box_of,
    ring,
    stroke,
)

OFF = 1.5  # between a side and an extension line, and beyond the arc


def angle_trials(s: AngleSize, hand: SizePlace | None) -> Trials:
    if hand is not None and hand.at is not None:
        tried = [(max(4.0, hand.at[1]), hand.at[0] / max(4.0, hand.at[1]))]
    else:
        far = max(*(span[1] for span in s.spans), 12.0)
        sweep = (s.two - s.one) % math.tau
        radii = sorted({*(8.0 + 5.0 * k for k in range(10)), *(far + 6.0 + 6.0 * k for k in range(5))})
        tried = [(r, share * sweep) for r in radii for share in (0.0, 0.25, -0.25)]
    made = [_drawn_angle(s, *t) for t in tried]
    boxes = [
        (k, np.array(b.minimum_rotated_rectangle.exterior.coords)[:4]) for k, m in enumerate(made) for b in m.boxes
    ]
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
    ink.strokes.append(stroke(Flat("arc", {"c": s.apex, "p": at(lo), "q": at(hi)}, radius)))
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
    balloon, rings = ring((x, word.at[1] + 0.9), s.number)
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
    return Placed(s.key, ink, [box_of(word), *rings], lines, 0, 1, (off * radius, radius), None, (0.0, 0.0), d, word_at)

"""Leaders: from what they point to, to a shelf under their letters (ISO 129-1)."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..part.drawing_sheet import SizePlace
from .paper import FALL, LETTER, RING, RISE, WIDE, XY, Arrow, Box, Dimension, Ink, Word
from .size_shapes import (
    ABOVE,
    ROOM,
    Floats,
    LeaderSize,
    Placed,
    Trials,
    box_of,
    corner_boxes,
    ring,
)

SHELF = 1.0  # of a leader before and after its letters
LONG = (5.0, 8.0, 12.0, 17.0, 24.0, 32.0, 42.0, 56.0)


def leader_trials(s: LeaderSize, box: Box, hand: SizePlace | None) -> Trials:
    if hand is not None and hand.at is not None:
        put = (s.centre[0] + hand.at[0], s.centre[1] + hand.at[1])
        tip = min(s.tips, key=lambda t: math.dist(t[0], put))[0]
        return _leader_trials(s, np.zeros(1), np.array([tip]), np.array([put]))
    left, low, right, high = box
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
    boxes = corner_boxes(
        middle - half, middle + half, y + ABOVE - FALL * LETTER - ROOM, y + ABOVE + RISE * LETTER + ROOM
    )
    numbers = n
    if s.number is not None:
        c = end + way * (RING + 0.2)
        boxes = np.concatenate(
            [boxes, corner_boxes(c - RING - ROOM, c + RING + ROOM, y - RING - ROOM, y + RING + ROOM)]
        )
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
    balloon, rings = ring((end[0] + way * (RING + 0.2), end[1]), s.number)
    ink.add(balloon)
    # the last of a leader lies on what it points to
    d = math.dist(tip, knee) or 1.0
    start = (tip[0] + (knee[0] - tip[0]) * min(0.4 / d, 0.5), tip[1] + (knee[1] - tip[1]) * min(0.4 / d, 0.5))
    lines = [shapely.LineString([start, knee]), shapely.LineString([knee, end])]
    dimension = None
    if s.measures:
        centre, radius = min(s.rings, key=lambda ring: abs(math.dist(tip, ring[0]) - ring[1]))
        u = ((tip[0] - centre[0]) / radius, (tip[1] - centre[1]) / radius)
        far = (centre[0] - radius * u[0], centre[1] - radius * u[1])
        dimension = Dimension(s.measures, s.text, far if s.measures == "diameter" else centre, tip, knee, word.at)
    at = (knee[0] - s.centre[0], knee[1] - s.centre[1])
    return Placed(s.key, ink, [box_of(word), *rings], lines, 0, 1, at, None, (0.0, 0.0), dimension, knee)

"""How much too large or too small a rough sketch is drawn, across and up, judged by the sizes a sheet gives."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations

import numpy as np

from .candidates import line_sizes, places, widths
from .fit_ideas import FAR, FAR_ROUND, UNLIKELY, Asked, Sizes, rings, sort_of, spans
from .model import Arc, Circle, Sketch, moved, points_of
from .suggest import Work

HAND = 0.03  # of the sketch's size: what a hand is off however small the thing drawn is
OVERALL = 2.0  # how much more it counts that a size over all is given
FAR_OVERALL = 0.2  # … from which it is taken not to be given
SUM = 0.1  # what it costs more that it is the sum of two
UNEVEN = 0.5  # what it costs to be drawn larger one way than the other
ASIS = 0.05  # what it costs not to be drawn to size
STARTS = 6  # how many guesses are followed
WILD = math.log(25)  # nobody draws so much too large or too small


def reach_of(sketch: Sketch) -> float:
    """The longer side (mm) of the box around what is drawn; 0 for nothing."""
    return max(_overall(sketch))


def _overall(sketch: Sketch) -> tuple[float, float]:
    """How wide and how high (mm) what is drawn is over all."""
    boxes = []
    for e in sketch.entities:
        r = e.r if isinstance(e, Circle) else 0.0
        boxes += [(x - r, y - r, x + r, y + r) for x, y in points_of(e).values()]
    if not boxes:
        return 0.0, 0.0
    x0, y0, x1, y1 = np.array(boxes).T
    return float(x1.max() - x0.min()), float(y1.max() - y0.min())


def scaled(sketch: Sketch, sx: float, sy: float) -> Sketch:
    """``sketch`` ``sx`` times as wide and ``sy`` times as high about its origin."""
    entities = []
    for e in sketch.entities:
        at = {ref: (x * sx, y * sy) for ref, (x, y) in points_of(e).items()}
        r = e.r * math.sqrt(sx * sy) if isinstance(e, Circle | Arc) else None
        entities.append(moved(e, at.__getitem__, r))
    return sketch.model_copy(update={"entities": entities})


def scales(work: Work, asked: Sequence[Asked], near: float) -> tuple[float, float]:
    """By how much the sketch of ``work`` is to grow across and up, so that the sizes ``asked`` are least off all
    together; 1 and 1 where they do not tell."""
    judge = _Judge(work, [a for a in asked if not a.beside], near)
    guesses = sorted(judge.guesses(), key=abs)
    found = []
    for start in sorted(guesses, key=lambda g: judge.off(g, g))[:STARTS]:
        gx = gy = start
        around = [g for g in guesses if abs(g - start) < FAR]
        for _ in range(2):
            gx = min([gx, *around], key=lambda g: judge.off(g, gy))
            gy = min([gy, *around], key=lambda g: judge.off(gx, g))
        found.append((judge.off(gx, gy), gx, gy))
    _, gx, gy = min(found)
    return math.exp(gx), math.exp(gy)


class _Judge:
    """How far the sizes asked are off at a scale, which is told by its logarithms."""

    def __init__(self, work: Work, asked: Sequence[Asked], near: float) -> None:
        sizes = Sizes(work, (widths, line_sizes, spans, rings, places), near)
        lengths = [a for a in asked if a.kind == "distance"]
        rounds = [a for a in asked if a.kind in ("diameter", "radius") and not a.aid]
        drawn = [e.r for e in work.sketch.entities if isinstance(e, Circle | Arc) and not e.construction]
        self.hand = HAND * reach_of(work.sketch)
        self.now, self.way = sizes.now, sizes.way
        self.unlikely = np.array([UNLIKELY[sort_of(i)] for i in sizes.ideas])
        self.lengths = np.array([a.value for a in lengths])
        along = np.array([{"horizontal": 0, "vertical": 1}.get(a.along, -1) for a in lengths])
        self.wrong = (along[:, None] >= 0) & (along[:, None] != self.way[None, :])
        self.radii = np.log([a.value if a.kind == "radius" else a.value / 2 for a in rounds]) if rounds else np.zeros(0)
        self.drawn = np.log(drawn) if drawn else np.zeros(0)
        # a size over all is given, or it is a diameter, or the sum of two that are given
        single = [v for a in lengths for v in [a.value] * a.count]
        two = [a + b for a, b in combinations([v for a in lengths for v in [a.value] * min(a.count, 2)], 2)]
        self.over = _overall(work.sketch)
        self.once = len(single)
        self.whole = np.array([*single, *(2 * math.exp(r) for r in self.radii), *two])
        self.odd = np.array([0.0] * (len(single) + len(self.radii)) + [SUM] * len(two))

    def guesses(self) -> set[float]:
        """Logarithms of the scales at which some size is just as drawn."""
        drawn = [d for d in (*self.now, *self.over) if d > 0]
        lengths = {round(math.log(a / d), 3) for a in self.lengths for d in drawn}
        rounds = {round(float(a - d), 3) for a in self.radii for d in self.drawn}
        return {0.0} | {g for g in lengths | rounds if abs(g) < WILD}

    def off(self, gx: float, gy: float) -> float:
        """How far off all sizes are together."""
        total = UNEVEN * abs(gx - gy) + ASIS * abs(gx + gy)
        if len(self.lengths) and len(self.now):
            total += self._lengths_off(gx, gy) + self._overall_off(gx, gy)
        if len(self.radii) and len(self.drawn):
            off = np.minimum(np.abs(self.radii[:, None] - (self.drawn + (gx + gy) / 2)[None, :]), FAR_ROUND)
            total += float(off.min(axis=1).sum())
            total += float(off.min(axis=0).sum()) / max(1, len(self.drawn) // len(self.radii))
        return total

    def _lengths_off(self, gx: float, gy: float) -> float:
        hand = self.hand * math.exp((gx + gy) / 2)
        grown = self.now * np.exp(np.where(self.way == 0, gx, np.where(self.way == 1, gy, (gx + gy) / 2)))
        off = np.abs(np.log((self.lengths[:, None] + hand) / (grown + hand)[None, :]))
        off = np.where(self.wrong, FAR, off + self.unlikely[None, :])
        return float(np.minimum(off.min(axis=1), FAR).sum())

    def _overall_off(self, gx: float, gy: float) -> float:
        """What is farthest over all is most likely given, each way by a size of its own."""
        hand, total, used = self.hand * math.exp((gx + gy) / 2), 0.0, -1
        for size, g in zip(self.over, (gx, gy), strict=True):
            off = np.abs(np.log((self.whole + hand) / (size * math.exp(g) + hand))) + self.odd
            if used >= 0:
                off[used] = FAR
            best = int(off.argmin())
            total += OVERALL * min(float(off[best]), FAR_OVERALL)
            used = best if best < self.once and off[best] < FAR_OVERALL else -1
        return total

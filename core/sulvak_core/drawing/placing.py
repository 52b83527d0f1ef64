"""Sizes put round a view so that nothing lies on anything else.

Every size has many places where it may stand: dimension lines at either side of the outline in rows, leaders at many
angles and lengths. Each is rated by what it would lie on and how far out it is; the best is taken. Shorter dimensions
come first, so that they stand further in. In mm of the paper, from where the part's origin lies in the view.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..part.drawing_sheet import SizePlace
from .angle_arc import angle_trials
from .dimension_line import linear_trials
from .leader import leader_trials
from .paper import Box
from .size_shapes import (
    AngleSize,
    Floats,
    Ints,
    LinearSize,
    Placed,
    Trials,
    Wanted,
    along,
)

OUTLINE = 0.4  # what it costs that a line crosses an outline
TEXT, THROUGH, OVER, CROSS = (
    400.0,
    200.0,
    120.0,
    6.0,
)  # that letters lie on letters, a line on letters, letters on an outline, lines cross


class Among:
    """Things that are drawn, to be asked which of others they meet."""

    def __init__(self, things: Sequence[shapely.Geometry]) -> None:
        self.tree = shapely.STRtree(things)
        self.things = self.tree.geometries
        self.plain = plain(self.things)

    def met(self, mine: Any, mine_plain: NDArray[np.bool_]) -> tuple[Ints, Ints]:
        """Pairs of numbers: of those of ``mine`` and of these that have a place in common."""
        at, on = self.tree.query(mine)
        sure = mine_plain[at] & self.plain[on]  # their boxes meet, and they are their boxes
        if not sure.all():
            unsure = np.flatnonzero(~sure)
            sure[unsure] = shapely.intersects(self.things[on[unsure]], mine[at[unsure]])
        return at[sure], on[sure]


def plain(things: Any) -> NDArray[np.bool_]:
    """Which of them are all of their bounding boxes: level and upright lines, and rectangles that stand straight."""
    left, low, right, high = shapely.bounds(things).T if len(things) else np.zeros((4, 0))
    wide, tall = right - left, high - low
    made: NDArray[np.bool_] = (wide == 0) | (tall == 0) | (shapely.area(things) >= wide * tall * (1 - 1e-12))
    return made


@dataclass
class Field:
    """What is drawn round a view so far: its outlines, and the sizes placed."""

    outlines: list[shapely.LineString]
    box: Box
    placed: list[Placed] = field(default_factory=list)
    fixed: list[shapely.Polygon] = field(default_factory=list)  # letters that stand already, such as titles

    @cached_property
    def _outline(self) -> Among:
        made = Among(self.outlines)
        shapely.prepare(made.things)  # they are asked again and again
        return made

    def among(self) -> tuple[Among, Among, Among, Among]:
        """Outlines; letters, lines and dimension lines of what is placed."""
        letters = [b for p in self.placed for b in p.boxes] + self.fixed
        lines = [x for p in self.placed for x in p.lines]
        bars = [x for p in self.placed for x in p.bars]
        return self._outline, Among(letters), Among(lines), Among(bars)

    def rate(self, trials: Trials, among: tuple[Among, Among, Among, Among]) -> tuple[Floats, Floats]:
        """What each trial costs by what it would lie on, and how often letters would lie on something or be lain on, or
        dimension lines on one another."""
        outline, letters, lines, bars = among
        n = len(trials.cost)

        def count(mine: tuple[Any, NDArray[np.bool_]], numbers: Ints, others: Among) -> Floats:
            if not len(numbers) or not len(others.things):
                return np.zeros(n)
            at, _ = others.met(*mine)
            return np.bincount(numbers[at], minlength=n).astype(float)

        made = shapely.polygons(trials.boxes[0]), shapely.linestrings(trials.lines[0]), shapely.polygons(trials.bars[0])
        box, line, bar = ((things, plain(things)) for things in made)
        on_letters = count(box, trials.boxes[1], letters)
        on_outline = count(box, trials.boxes[1], outline)
        on_lines = count(box, trials.boxes[1], lines)
        through = count(line, trials.lines[1], letters)
        over = count(bar, trials.bars[1], bars)
        cost = TEXT * on_letters + OVER * on_outline + THROUGH * (on_lines + through) + TEXT * over
        cost += CROSS * count(line, trials.lines[1], lines) + OUTLINE * count(line, trials.lines[1], outline)
        return cost, on_letters + on_outline + on_lines + through + over


def place(sizes: Sequence[Wanted], around: Field, by_hand: dict[str, SizePlace]) -> list[Placed]:
    """All sizes of a view: those put by hand first, then dimension lines from the shortest, angles, leaders; what lies
    on something is tried again when all others stand."""

    def order(s: Wanted) -> tuple[bool, int, float]:
        hand = by_hand[s.key].at is not None if s.key in by_hand else False
        if isinstance(s, LinearSize):
            return not hand, 1, abs(along(s.b[0], s.way) - along(s.a[0], s.way))
        return not hand, 0 if isinstance(s, AngleSize) else 2, float(len(s.text)) * -1

    for s in sorted(sizes, key=order):
        around.placed.append(_best(s, around, by_hand.get(s.key)))
    by_key = {s.key: s for s in sizes}
    for _ in range(3):
        poor = [p for p, lain in zip(around.placed, _lain_on(around), strict=True) if p.hits or lain]
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
    for p, lain in zip(around.placed, _lain_on(around), strict=True):
        p.hits = lain
    return around.placed


def _lain_on(around: Field) -> list[int]:
    """How often letters of each size placed lie on something else that is drawn, or something on them, or its dimension
    line on another."""
    placed = around.placed
    own = range(len(placed))
    boxes = [(k, b) for k in own for b in placed[k].boxes]
    lines = [(k, x) for k in own for x in placed[k].lines]
    bars = [(k, x) for k in own for x in placed[k].bars]
    fixed = [(-1, g) for g in (*around.outlines, *around.fixed)]
    found = np.zeros(len(placed), dtype=int)
    for mine, others in ((boxes, [*fixed, *boxes, *lines]), (lines, boxes), (bars, bars)):
        if not mine or not others:
            continue
        at, on = shapely.STRtree([g for _, g in others]).query([g for _, g in mine], predicate="intersects")
        one, two = np.array([k for k, _ in mine])[at], np.array([k for k, _ in others])[on]
        np.add.at(found, one[one != two], 1)
    return [int(n) for n in found]


def _best(s: Wanted, around: Field, hand: SizePlace | None) -> Placed:
    best: tuple[float, Placed] | None = None
    among = around.among()
    for trials in _trials(s, around, hand):
        cost, hits = around.rate(trials, among)
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
        yield from linear_trials(s, around.box, hand)
    elif isinstance(s, AngleSize):
        yield angle_trials(s, hand)
    else:
        yield leader_trials(s, around.box, hand)

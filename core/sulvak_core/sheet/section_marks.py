"""What a sheet says about its sections: titles such as “A–A (2:1)”, the letters at the ends of cutting lines, and the
section lining of what is cut (ISO 128-3: views, sections and cuts)."""

from __future__ import annotations

import itertools
import math
import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .page import XY, Box, Lettering, Page, Stroke

FEW = 4  # parallel lines that section lining has at least
LEVEL = math.radians(8)  # lining is inclined by more than that
STEP = 1.0  # degree within which lining runs in one direction
EVEN = 0.12  # of its spacing that lining may stand off it
MOST_EVEN = 0.85  # of the lines that stand in the spacing
FAR = 70.0  # points from its view that a title may stand
BESIDE = 2.5  # times its letters' size: how far from a letter the line runs that it names
LEAN = 0.05  # points that a level line may rise
JOINT = 1.0  # points between lines that go on into each other
MOST_PLACES = 12  # corners of a cutting line in steps, its ends among them
ASIDE = 0.3  # points that both ends of an inclined cutting line may lie off it
MOST_INCLINED = 4  # such lines looked at
SHORT = 4.0  # points: a cutting line's end is no shorter
_TITLE = re.compile(
    r"^\s*(?:SECTION|SECT\.?|CUT)?\s*([A-Z])\s*[-\u2010-\u2015]\s*\1\s*(?:\(?\s*(?:SCALE\s*)?"
    r"(\d+(?:[.,]\d+)?)\s*[:/]\s*(\d+(?:[.,]\d+)?)\s*\)?)?\s*$",
    re.IGNORECASE,
)
_DETAIL = re.compile(
    r"^\s*(?:DETAIL\s+)?([A-Z])\s*\(?\s*(?:SCALE\s*)?(\d+(?:[.,]\d+)?)\s*:\s*(\d+(?:[.,]\d+)?)\s*\)?\s*$", re.IGNORECASE
)
_RATIO = re.compile(r"^\s*\(?\s*(?:SCALE\s*)?(\d+(?:[.,]\d+)?)\s*:\s*(\d+(?:[.,]\d+)?)\s*\)?\s*$", re.IGNORECASE)


@dataclass(frozen=True)
class SectionTitle:
    """``letter`` of the cutting line; ``ratio``: how many times as large as the part it is drawn, None where the title
    does not say; ``at`` in points."""

    letter: str
    ratio: float | None
    at: XY

    @property
    def name(self) -> str:
        return f"{self.letter}\u2013{self.letter}"


def titles(page: Page) -> list[SectionTitle]:
    """The titles of sections on a page."""
    found = []
    for t in page.letterings:
        if m := _TITLE.match(t.text):
            ratio = _ratio(m[2], m[3]) if m[2] else _ratio_beside(page, t)
            found.append(SectionTitle(m[1].upper(), ratio, t.middle()))
    return found


def _ratio(one: str, two: str) -> float | None:
    a, b = (float(v.replace(",", ".")) for v in (one, two))
    return a / b if a > 0 and b > 0 else None


def _ratio_beside(page: Page, title: Lettering) -> float | None:
    """The scale written under a title or behind it."""
    x, y = title.middle()
    for t in page.letterings:
        m = _RATIO.match(t.text)
        if m and t is not title:
            u, v = t.middle()
            if abs(v - y) < 2.5 * title.size and abs(u - x) < title.wide + t.wide + 2 * title.size:
                return _ratio(m[1], m[2])
    return None


@dataclass(frozen=True)
class DetailMark:
    """A detail by its title such as “B (2:1)” (``at``, ``ratio`` to the part) and the ring round what it shows (its
    centre and radius on the page); in points."""

    letter: str
    ratio: float
    at: XY
    centre: XY
    radius: float


def details(page: Page) -> list[DetailMark]:
    """The details of a page: titles of one letter and a scale, with a thin ring somewhere beside which that letter
    stands (ISO 128-3)."""
    found = []
    for t in page.letterings:
        m = _DETAIL.match(t.text)
        ratio = _ratio(m[2], m[3]) if m else None
        if m is None or ratio is None:
            continue
        letters = [o for o in page.letterings if o.text.strip().upper() == m[1].upper()]
        rings = [
            (abs(math.dist(o.middle(), s.centre) - s.radius), s)
            for s in page.strokes
            if s.kind == "circle" and s.centre is not None and not s.dash and not s.filled
            for o in letters
            if abs(math.dist(o.middle(), s.centre) - s.radius) < 2.5 * o.size
        ]
        if rings:
            ring = min(rings, key=lambda r: r[0])[1]
            assert ring.centre is not None
            found.append(DetailMark(m[1].upper(), ratio, t.middle(), ring.centre, ring.radius))
    return found


def titled(boxes: Sequence[Box], found: Sequence[SectionTitle]) -> dict[int, SectionTitle]:
    """Which view each title names, by the views' boxes: the nearest above or under it."""
    named: dict[int, SectionTitle] = {}
    for title in found:
        x, y = title.at
        best: tuple[float, int] | None = None
        for i, (left, top, right, bottom) in enumerate(boxes):
            away = max(top - y, y - bottom, 0.0) + 2 * max(left - x, x - right, 0.0)
            if away < FAR and i not in named and (best is None or away < best[0]):
                best = (away, i)
        if best:
            named[best[1]] = title
    return named


@dataclass(frozen=True)
class Trace:
    """A plane that cuts a view square to the page: upright at a page's ``x``, or level at its ``y``, in points. One in
    ``steps`` (ISO 128-3, planes in parallel): where each begins and ends along the page, and its own place; the first
    begins and the last ends beyond the view."""

    level: bool
    at: float
    steps: tuple[tuple[float, float, float], ...] = ()


def _marks(page: Page, letter: str, box: Box) -> list[Lettering]:
    """Such letters that stand by a view."""
    room = 0.35 * max(box[2] - box[0], box[3] - box[1]) + 30
    return [
        t
        for t in page.letterings
        if t.text.strip().upper() == letter
        and box[0] - room < t.middle()[0] < box[2] + room
        and box[1] - room < t.middle()[1] < box[3] + room
    ]


def traces(page: Page, letter: str, box: Box) -> list[Trace]:
    """Where planes of a letter may cut the view in ``box``: along the lines that run between two such letters, the
    likeliest first. Only lines that are level or upright are told."""
    marks = _marks(page, letter, box)
    found: list[Trace] = []
    for i, one in enumerate(marks):
        for two in marks[i + 1 :]:
            (ax, ay), (bx, by) = one.middle(), two.middle()
            level = abs(bx - ax) > abs(by - ay)
            reach = BESIDE * max(one.size, two.size)
            found += _stepped(page, one, two, reach)
            if min(abs(bx - ax), abs(by - ay)) > 2 * reach:
                continue
            axis = 1 if level else 0
            lines = _running(page, level, (one.middle(), two.middle()), reach)
            here = (one.middle()[axis] + two.middle()[axis]) / 2
            lines.sort(key=lambda v: abs(v - here))
            found += [Trace(level, v) for v in [*lines, here] if all(abs(v - f.at) > 0.1 for f in found)]
    return found


def inclined_traces(page: Page, letter: str, box: Box) -> list[tuple[XY, XY]]:
    """Lines that are neither level nor upright, whole or only their thick ends, between two such letters by the view in
    ``box``; their ends, the longest first."""
    found: list[tuple[XY, XY]] = []
    for one, two in itertools.combinations(_marks(page, letter, box), 2):
        reach = 2 * BESIDE * max(one.size, two.size)
        near: list[list[tuple[XY, XY]]] = [[], []]
        for s in page.strokes:
            if s.kind != "line" or s.filled or math.dist(*s.points) < SHORT or _straight(s.points):
                continue
            for i, mark in enumerate((one, two)):
                near[i] += [(a, b) for a, b in (s.points, s.points[::-1]) if math.dist(a, mark.middle()) < reach]
        for a, b in near[0]:
            for c, d in near[1]:
                # both in one line, which is one piece or two
                if all(_off(p, a, c) < ASIDE for p in (b, d)) and math.dist(a, c) > 2 * reach:
                    found.append((a, c))
    return sorted(found, key=lambda ends: -math.dist(*ends))[:MOST_INCLINED]


def _off(p: XY, a: XY, b: XY) -> float:
    """How far a place is from the line through two others."""
    (x, y), (u, v) = (b[0] - a[0], b[1] - a[1]), (p[0] - a[0], p[1] - a[1])
    return abs(x * v - y * u) / (math.hypot(x, y) or 1.0)


def _stepped(page: Page, one: Lettering, two: Lettering, reach: float) -> list[Trace]:
    """The cutting line in steps between two letters, if there is one."""
    lines = [s.points for s in page.strokes if s.kind == "line" and not s.filled and _straight(s.points)]
    for level in (True, False):
        along, across = (0, 1) if level else (1, 0)
        if corners := _corners(lines, one, two, reach, along):
            if corners[0][along] > corners[-1][along]:
                corners.reverse()
            steps = [(a[along], b[along], a[across]) for a, b in zip(corners[::2], corners[1::2], strict=True)]
            steps[0], steps[-1] = (-math.inf, *steps[0][1:]), (steps[-1][0], math.inf, steps[-1][2])
            if all(begin < end for begin, end, _ in steps):
                return [Trace(level, steps[0][2], tuple(steps))]
    return []


def _straight(ends: Sequence[XY]) -> bool:
    """Whether a line is level or upright."""
    (ax, ay), (bx, by) = ends
    return (abs(ax - bx) < LEAN) != (abs(ay - by) < LEAN)


def _corners(
    lines: Sequence[Sequence[XY]], one: Lettering, two: Lettering, reach: float, along: int
) -> list[XY] | None:
    """From a line's end beside one letter to one beside another: lines along an axis of the page and across it in turn,
    each from the end of the one before, the first and the last along."""
    across = 1 - along
    leaving: dict[tuple[int, int], list[tuple[XY, XY]]] = defaultdict(list)  # by where a line begins
    for one_end, other in lines:
        for near, far in ((one_end, other), (other, one_end)):
            leaving[_cell(near)].append((near, far))

    def running(way: int, at: XY) -> list[XY]:
        """The far ends of the lines along an axis that begin at a place."""
        x, y = _cell(at)
        return [
            far
            for i in (x - 1, x, x + 1)
            for j in (y - 1, y, y + 1)
            for near, far in leaving.get((i, j), ())
            if math.dist(near, at) < JOINT and abs(far[1 - way] - near[1 - way]) < LEAN
        ]

    def beside(p: XY, letter: Lettering) -> bool:
        q = letter.middle()
        return abs(p[along] - q[along]) < 2 * reach and abs(p[across] - q[across]) < reach

    paths = [[p] for p in sorted({p for ends in lines for p in ends if beside(p, one)})]
    been: set[tuple[bool, tuple[int, int]]] = set()  # every place is gone on from once each way: the shortest is found
    while paths and len(paths[0]) < MOST_PLACES:
        longer = []
        for path in paths:
            straight = len(path) % 2 == 1
            for far in running(along if straight else across, path[-1]):
                if straight and len(path) > 2 and beside(far, two):
                    return [*path, far]
                if (straight, _cell(far)) not in been:
                    been.add((straight, _cell(far)))
                    longer.append([*path, far])
        paths = longer
    return None


def _cell(p: XY) -> tuple[int, int]:
    return math.floor(p[0] / JOINT), math.floor(p[1] / JOINT)


def _running(page: Page, level: bool, ends: tuple[XY, XY], reach: float) -> list[float]:
    """The places of level or upright lines, whole or only their thick ends, of which an end lies near a letter."""
    along, across = (0, 1) if level else (1, 0)
    found = []
    for s in page.strokes:
        if s.kind != "line" or s.filled:
            continue
        a, b = s.points
        if abs(a[across] - b[across]) > LEAN or abs(a[along] - b[along]) < SHORT:
            continue
        near = [
            any(abs(p[along] - e[along]) < 2 * reach and abs(p[across] - e[across]) < reach for p in (a, b))
            for e in ends
        ]
        if all(near) or (any(near) and abs(a[along] - b[along]) < 3 * reach):
            found.append(a[across])
    return sorted(set(found))


def lining(strokes: Sequence[Stroke]) -> set[int]:
    """Which strokes are section lining: evenly spaced, inclined, parallel lines, or what the file itself says is."""
    found = {i for i, s in enumerate(strokes) if s.layer == "hatch"}
    by_way: dict[int, list[int]] = {}
    angles: dict[int, float] = {}
    for i, s in enumerate(strokes):
        if s.kind != "line" or s.dash or s.filled:
            continue
        (ax, ay), (bx, by) = s.points[0], s.points[-1]
        turn = math.atan2(by - ay, bx - ax) % math.pi
        off = turn % (math.pi / 2)
        if LEVEL < off < math.pi / 2 - LEVEL:
            angles[i] = turn
            by_way.setdefault(round(math.degrees(turn) / STEP), []).append(i)
    for key, members in by_way.items():
        both = members + by_way.get(key + 1, [])
        mean = float(np.mean([angles[i] for i in both]))
        x, y = -math.sin(mean), math.cos(mean)
        ends = np.array([strokes[i].points for i in both])
        offsets = ends.mean(axis=1) @ np.array([x, y])
        found |= {both[k] for k in _even(offsets)}
    return found


def _even(offsets: np.ndarray) -> list[int]:
    """Which of places along a line stand evenly; none where too few do."""
    own = np.unique(np.round(offsets, 2))
    if len(own) < FEW:
        return []
    gaps = np.diff(own)
    gaps = gaps[gaps > 0.3]
    if not len(gaps):
        return []
    gap = float(np.median(gaps[gaps < 1.5 * gaps.min()]))
    best: np.ndarray = np.zeros(len(offsets), dtype=bool)
    for start in own[:FEW]:
        steps = (offsets - start) / gap
        fits = np.abs(steps - np.round(steps)) < EVEN
        if fits.sum() > best.sum():
            best = fits
    steps = np.unique(np.round(offsets[best] / gap, 0))
    if best.sum() < MOST_EVEN * len(offsets) or len(steps) < FEW or gap * len(steps) < 0.5 * np.ptp(offsets):
        return []
    return [int(k) for k in np.flatnonzero(best)]

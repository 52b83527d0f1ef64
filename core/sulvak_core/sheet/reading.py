"""The sizes of a vector page, read: every text that is a size with its place, and what is said beside them.

Frames, title blocks and the numbers of earlier balloons are no sizes, though they hold figures: what is ruled in lines
that hang on the frame, or in a table with the words of a title block, is left to be read as notes.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

from ..part.units import LengthUnit
from .general_tolerance import read as read_general
from .lettering import Block, blocks, joined_lines
from .notation import parse
from .page import Box, Lettering, Page, Stroke, merged
from .requirement import Requirement

LONG = 0.55  # of the page: lines so long, near its edges, are its frame
MARGIN = 0.14  # of the page: how far from its edges a frame may stand
TOUCHING = 1.0  # points
ROWS = 24  # that a page is read in
_LABEL = re.compile(
    r"\b(TITLE|SCALE|DRAWN|MATERIAL|DATE|NAME|REV(ISION)?|SHEET|NUMBER|PART NO|DWG|FINISH|CHECKED|OWNER|PROJECTION)\b",
    re.I,
)


@dataclass(frozen=True)
class Size:
    """A size as it stands on the page: its text, what it means, and the box its letters stand in, in points."""

    text: str
    requirement: Requirement
    box: Box
    turn: float


@dataclass
class Reading:
    """What a page says. ``frame`` is the box inside which it is drawn; ``ruled`` the tables that hang on it."""

    sizes: list[Size] = field(default_factory=list)
    notes: list[Size] = field(default_factory=list)
    frame: Box = (0.0, 0.0, 0.0, 0.0)
    ruled: list[Box] = field(default_factory=list)
    general: str = ""  # the note that states the general tolerance
    scale: float | None = None  # of the paper to the part: 0.5 for 1:2
    unit: LengthUnit | None = None


def read(page: Page, unit: LengthUnit = "mm") -> Reading:
    """The sizes and notes of a page; bare numbers are in ``unit`` unless the page itself says which it is in."""
    found = Reading()
    found.frame, found.ruled = furniture(page)
    found.unit = _unit_said(page)
    bare = found.unit or unit

    def readable(text: str) -> bool:
        return parse(text, bare).kind != "note"

    lines = joined_lines([t for t in page.letterings if t.text.strip()], readable)
    inside: list[Lettering] = []
    outside: list[Lettering] = []
    for t in lines:
        (outside if _apart(t, found) else inside).append(t)
    for block in blocks([t for t in inside if not _in_a_ring(t, page.strokes)], readable):
        text = _tidy(block.text)
        if _boxed(block, page.strokes):
            text = f"[{text}]"
        size = Size(text, parse(text, bare), block.box(), block.head.turn)
        (found.notes if size.requirement.kind == "note" else found.sizes).append(size)
    found.sizes.sort(key=lambda s: _reading_order(s.box, page.size[1]))
    found.notes += [Size(_tidy(t.text), parse(""), t.box(), t.turn) for t in outside]
    for text in (n.text for n in found.notes):
        if read_general(text, bare) is not None and not found.general:
            found.general = text
        found.scale = found.scale or _scale_said(text)
    return found


def _reading_order(box: Box, height: float) -> tuple[int, float]:
    """From the top down, what stands at about one height from the left."""
    return round(ROWS * (box[1] + box[3]) / 2 / height), box[0]


def _tidy(text: str) -> str:
    return " ".join(text.split())


# -- what is not a size ------------------------------------------------------------------------------------


def _apart(t: Lettering, found: Reading) -> bool:
    """Whether a text stands outside the frame or in a table."""
    x, y = t.middle()
    left, top, right, bottom = found.frame
    if not (left < x < right and top < y < bottom):
        return True
    return any(b[0] <= x <= b[2] and b[1] <= y <= b[3] for b in found.ruled)


def _in_a_ring(t: Lettering, strokes: list[Stroke]) -> bool:
    """Whether a text is the number of a balloon."""
    if len(t.text.strip()) > 3:
        return False
    x, y = t.middle()
    return any(
        s.kind == "circle"
        and s.centre is not None
        and s.radius < 2.2 * t.size
        and math.dist(s.centre, (x, y)) < 0.5 * t.size
        for s in strokes
    )


def _straight(strokes: list[Stroke]) -> tuple[list[Stroke], list[Stroke]]:
    """Level and upright lines."""
    level, upright = [], []
    for s in strokes:
        if s.kind == "line" and not s.dash and not s.filled:
            (ax, ay), (bx, by) = s.points
            if abs(ay - by) < 0.05 < abs(ax - bx):
                level.append(s)
            elif abs(ax - bx) < 0.05 < abs(ay - by):
                upright.append(s)
    return level, upright


def furniture(page: Page) -> tuple[Box, list[Box]]:
    """The box inside the page's frame (the whole page where it has none), and the boxes of ruled tables."""
    w, h = page.size
    level, upright = _straight(page.strokes)
    frames = _frames(level, upright, page.size)
    frame = max(frames, key=lambda f: f.box[0]).box if frames else (0.0, 0.0, w, h)
    edges = [s for f in frames for s in f.sides]
    hanging = _hanging([s for s in (*level, *upright) if s not in edges], edges)
    ruled = [merged([s.box() for s in group]) for group in _groups(hanging) if len(group) > 1]
    ruled += _tables([s for s in (*level, *upright) if s not in edges and s not in hanging], page.letterings)
    return frame, [b for b in ruled if (b[2] - b[0]) * (b[3] - b[1]) < 0.5 * w * h]


@dataclass(frozen=True)
class _Frame:
    box: Box
    sides: tuple[Stroke, ...]


def _frames(level: list[Stroke], upright: list[Stroke], size: tuple[float, float]) -> list[_Frame]:
    """The rectangles of long lines near the page's edges whose corners meet, one within another."""
    w, h = size
    tops = [s for s in level if s.length() > LONG * w and s.points[0][1] < MARGIN * h]
    bottoms = [s for s in level if s.length() > LONG * w and s.points[0][1] > (1 - MARGIN) * h]
    lefts = [s for s in upright if s.length() > LONG * h and s.points[0][0] < MARGIN * w]
    rights = [s for s in upright if s.length() > LONG * h and s.points[0][0] > (1 - MARGIN) * w]
    found = []
    for top in tops:
        beside = [s for s in (*lefts, *rights) if _meets(s, top)]
        left, right = (next((s for s in beside if s in side), None) for side in (lefts, rights))
        bottom = next((s for s in bottoms if left and right and _meets(s, left) and _meets(s, right)), None)
        if left and right and bottom:
            box = (left.points[0][0], top.points[0][1], right.points[0][0], bottom.points[0][1])
            found.append(_Frame(box, (top, left, right, bottom)))
    return found


def _meets(a: Stroke, b: Stroke) -> bool:
    """Whether an end of one level or upright line lies on the other."""
    for one, two in ((a, b), (b, a)):
        left, top, right, bottom = two.box()
        for x, y in one.points:
            if left - TOUCHING <= x <= right + TOUCHING and top - TOUCHING <= y <= bottom + TOUCHING:
                return True
    return False


def _hanging(lines: list[Stroke], edges: list[Stroke]) -> list[Stroke]:
    """Lines that end on the frame, or on lines that do."""
    found: list[Stroke] = []
    front, left = list(edges), list(lines)
    while front:
        reached = [s for s in left if any(_meets(s, f) for f in front)]
        left = [s for s in left if s not in reached]
        found += reached
        front = reached
    return found


def _groups(lines: list[Stroke]) -> list[list[Stroke]]:
    """Lines that meet, together."""
    groups: list[list[Stroke]] = []
    for s in lines:
        touching = [g for g in groups if any(_meets(s, o) for o in g)]
        groups = [g for g in groups if g not in touching]
        groups.append([s, *(o for g in touching for o in g)])
    return groups


def _tables(lines: list[Stroke], letterings: list[Lettering]) -> list[Box]:
    """Ruled boxes that stand free and hold the words of a title block."""
    labels = [t for t in letterings if _LABEL.search(t.text)]
    found = []
    for group in _groups(lines) if len(labels) > 1 else []:
        box = merged([s.box() for s in group])
        within = [t for t in labels if box[0] < t.middle()[0] < box[2] and box[1] < t.middle()[1] < box[3]]
        if len(group) >= 6 and len(within) >= 2:
            found.append(box)
    return found


# -- what is said about a size by what is drawn beside it ---------------------------------------------------


def _boxed(block: Block, strokes: list[Stroke]) -> bool:
    """Whether a frame stands close round a text: a theoretically exact size."""
    left, top, right, bottom = block.box()
    near = 1.0 * block.head.size
    sides = {"left": False, "top": False, "right": False, "bottom": False}
    level, upright = _straight([s for s in strokes if s.length() < 3 * (right - left + bottom - top)])
    for s in level:
        (x1, y), (x2, _) = sorted(s.points)
        if left - 2 * near < x1 < left + near / 2 and right - near / 2 < x2 < right + 2 * near:
            sides["top"] |= top - near < y < top + near / 3
            sides["bottom"] |= bottom - near / 3 < y < bottom + near
    for s in upright:
        (x, y1), (_, y2) = sorted(s.points, key=lambda p: p[1])
        if top - 2 * near < y1 < top + near / 2 and bottom - near / 2 < y2 < bottom + 2 * near:
            sides["left"] |= left - near < x < left + near / 3
            sides["right"] |= right - near / 3 < x < right + near
    return all(sides.values())


_SCALE = re.compile(r"(?:SCALE\s*[:=]?\s*)?\b(\d{1,4})\s*[:/]\s*(\d{1,4})\b")


def _scale_said(text: str) -> float | None:
    found = _SCALE.search(text)
    if found is None or ("SCALE" not in text.upper() and not re.match(r"\s*\d+\s*:\s*\d+", text)):
        return None
    over, under = int(found[1]), int(found[2])
    return over / under if over and under else None


def _unit_said(page: Page) -> LengthUnit | None:
    """The unit the page says its sizes are in."""
    text = " ".join(t.text for t in page.letterings).upper()
    inch = re.search(r"(?:SIZES|DIMENSIONS|UNITS?)\b[^.]{0,30}\bINCH(?:ES)?\b", text)
    mm = re.search(r"(?:SIZES|DIMENSIONS|UNITS?)\b[^.]{0,30}\b(?:MM|MILLIMET(?:ER|RE)S?)\b", text)
    return "in" if inch and not mm else "mm" if mm and not inch else None

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
from .lettering import blocks, joined_lines
from .notation import parse
from .page import XY, Box, Given, Lettering, Page, Stroke
from .requirement import Requirement
from .ruling import ruling

ROWS = 24  # that a page is read in


@dataclass(frozen=True)
class Size:
    """A size as it stands on the page: its text, what it means, and the box its letters stand in, in points; where the
    file holds it as a dimension, the places it measures between and the direction in which (degrees clockwise)."""

    text: str
    requirement: Requirement
    box: Box
    turn: float
    ends: tuple[XY, ...] = ()
    way: float | None = None


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
    ruled = ruling(page)
    found.frame, found.ruled = ruled.furniture(page.letterings)
    rings = [s for s in page.strokes if s.kind == "circle"]
    found.unit = _unit_said(page)
    bare = found.unit or unit

    def readable(text: str) -> bool:
        return parse(text, bare).kind != "note"

    lines = joined_lines([t for t in page.letterings if t.text.strip()], readable)
    inside: list[Lettering] = []
    outside: list[Lettering] = []
    for t in lines:
        (outside if _apart(t, found) else inside).append(t)
    for block in blocks([t for t in inside if not _in_a_ring(t, rings)], readable):
        text = _tidy(block.text)
        if ruled.boxed(block.box(), block.head.size):
            text = f"[{text}]"
        of = _dimension_of(block.head, page)
        ends, way = (of.ends, of.turn if len(of.ends) == 2 else None) if of else ((), None)
        size = Size(text, parse(text, bare), block.box(), block.head.turn, ends, way)
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


def _dimension_of(head: Lettering, page: Page) -> Given | None:
    """The dimension of the file that a text is the text of: it stands just there."""
    near = [g for g in page.given if math.dist(g.at, head.at) < head.size / 2]
    return min(near, key=lambda g: math.dist(g.at, head.at), default=None)


def _in_a_ring(t: Lettering, rings: list[Stroke]) -> bool:
    """Whether a text is the number of a balloon."""
    x, y = t.middle()
    near = 0.5 * t.size
    return len(t.text.strip()) <= 3 and any(
        s.centre is not None and s.radius < 2.2 * t.size and math.dist(s.centre, (x, y)) < near for s in rings
    )


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

"""Letters that a vector sheet has as drawing only, as outlines filled or as strokes of a plotter's pen: recognised in a
picture of its short strokes, and no lines of the drawing any more. A guess, as that of any picture."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from PIL import Image, ImageChops, ImageDraw

from ..part.errors import Refusal
from ..sheet.page import XY, Box, Lettering, Page, Stroke
from ..sheet.views import run
from .sheet_picture import read_grey

DOTS = 300 / 72  # of the picture, a point of the page
LARGEST = 6000  # dots of the picture's longer side
LONG = 30.0  # points: letters of 10 mm have no longer strokes
MANY = 60  # short strokes: fewer write no size
PEN = 0.7  # points: letters drawn thinner are read worse
CLOSE = 0.02  # points: ends so near each other are one
AROUND = 0.35  # of a letter's size: what lies so near its run is part of it


def letters_drawn(page: Page) -> bool:
    """Whether nothing on a page is written as text, and there are strokes enough for letters."""
    if any(c.isdigit() for t in page.letterings for c in t.text) or page.given:
        return False
    return sum(map(_short, page.strokes)) >= MANY


def with_letters(page: Page) -> Page:
    """The page with what could be recognised as texts, and without the strokes that these were made of; as it is where
    nothing is recognised, or nothing can be here."""
    k = min(DOTS, LARGEST / max(page.size))
    own = [s for s in page.strokes if _short(s) and _on_page(s, page.size)]
    try:
        read = read_grey(np.asarray(_picture(own, page.size, k)), page.size)
    except Refusal:
        return page
    found = [t for t in read.letterings if len(t.text) > 1 or t.text.isalnum()]
    taken = _within(own, found)
    return replace(page, strokes=[s for s in page.strokes if id(s) not in taken], letterings=page.letterings + found)


def _short(s: Stroke) -> bool:
    left, top, right, bottom = s.box()
    return max(right - left, bottom - top) <= LONG and not s.dash


def _on_page(s: Stroke, size: XY) -> bool:
    left, top, right, bottom = s.box()
    return left >= 0 and top >= 0 and right <= size[0] and bottom <= size[1]


def _picture(strokes: Sequence[Stroke], size: XY, k: float) -> Image.Image:
    """Short strokes in black on white, filled shapes whole but for what lies in them; arrowheads left out."""
    picture = Image.new("L", (math.ceil(size[0] * k), math.ceil(size[1] * k)), 255)
    pen = ImageDraw.Draw(picture)
    for s in strokes:
        if not s.filled:
            pen.line(
                [(x * k, y * k) for x, y in run(s, 0.3).tolist()], fill=0, width=max(2, round(max(s.width, PEN) * k))
            )
    for ring in _rings([s for s in strokes if s.filled]):
        if len(ring) > 4:
            _turn_over(picture, [(x * k, y * k) for x, y in ring])
    return picture


def _rings(strokes: Sequence[Stroke]) -> Iterator[list[XY]]:
    """Filled strokes that go on where the one before ended, as the corners of closed shapes."""
    ring: list[XY] = []
    for s in strokes:
        points = [(float(x), float(y)) for x, y in run(s, 0.3)]
        if ring and math.dist(ring[-1], points[0]) > CLOSE:
            yield ring
            ring = []
        ring += points[1:] if ring else points
        if math.dist(ring[0], ring[-1]) < CLOSE:
            yield ring
            ring = []
    if ring:
        yield ring


def _turn_over(picture: Image.Image, ring: list[XY]) -> None:
    """Black where it was white and white where it was black, within a ring: what lies in a letter stays open."""
    xs, ys = zip(*ring, strict=True)
    left, top = math.floor(min(xs)), math.floor(min(ys))
    box = (left, top, math.ceil(max(xs)) + 1, math.ceil(max(ys)) + 1)
    mask = Image.new("L", (box[2] - left, box[3] - top), 0)
    ImageDraw.Draw(mask).polygon([(x - left, y - top) for x, y in ring], fill=255)
    picture.paste(ImageChops.difference(picture.crop(box), mask), box[:2])


def _within(strokes: Sequence[Stroke], texts: Sequence[Lettering]) -> set[int]:
    """The strokes (by identity) that lie within a text's box, or nearly."""
    boxes = np.array([_wider(t) for t in texts]).reshape(-1, 4)
    found = set()
    for s in strokes:
        left, top, right, bottom = s.box()
        inside = (boxes[:, 0] <= left) & (boxes[:, 1] <= top) & (right <= boxes[:, 2]) & (bottom <= boxes[:, 3])
        if inside.any():
            found.add(id(s))
    return found


def _wider(t: Lettering) -> Box:
    left, top, right, bottom = t.box()
    more = AROUND * t.size
    return left - more, top - more, right + more, bottom + more

"""A sheet that is a picture, read by character recognition: always a guess, to be looked at before it is taken.

Lines are told from letters by size: pieces of ink much larger than most letters are drawing. What is left is gathered
into runs, level ones and upright ones, which are turned level and put one under the other into a picture of text
alone; Debian's tesseract reads that in one go. Single signs are where it errs: arrowheads look like fours.
"""

from __future__ import annotations

import csv
import io
import math
import re
import shutil
import subprocess
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from ..part.errors import Refusal
from ..sheet.page import Lettering, Page

Grey = NDArray[np.uint8]
Ink = NDArray[np.bool_]
SECONDS = 25.0  # that recognition may take; whatever was begun by then may take as long again
LETTERS = 30  # pixels that letters are to be high at least: smaller ones are enlarged before they are recognised
LARGEST = 40_000_000  # pixels looked at
INK = 150  # grey below which there is ink
EVERY = np.ones((3, 3), dtype=bool)  # pieces hang together across corners too
TOGETHER = 60  # runs read in one go
MISSING = "Reading pictures needs tesseract, which is not installed here; balloon its sizes by hand."
SLOW = "Reading this picture takes too long; balloon its sizes by hand."
SINGLE = 1.05  # of its height: a run narrower than that is one sign
RINGS = "0OoQD"  # what a small circle by itself is taken for
SURE = 30.0  # per cent that a single sign must be sure


@dataclass(frozen=True)
class _Run:
    """Letters that follow on one another: rows and columns of the picture, whether they are read upwards."""

    top: int
    left: int
    bottom: int
    right: int
    upright: bool

    def holds(self, other: _Run) -> bool:
        """Whether another is a part of it."""
        return (
            self.left <= other.left
            and other.right <= self.right
            and self.top <= other.top
            and other.bottom <= self.bottom
        )


def can_read() -> bool:
    """Whether characters can be recognised on this machine."""
    return shutil.which("tesseract") is not None


def read_picture_page(data: bytes, size: tuple[float, float]) -> Page:
    """The letters of a PNG or JPG as a page of that size in points, without any lines. Raises Refusal where nothing can
    be recognised here, or it takes too long."""
    if not can_read():
        raise Refusal(MISSING)
    with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
        if picture.width * picture.height > LARGEST:
            raise Refusal("This picture has too many pixels to be read; save it smaller, with letters 3 mm high or so.")
        grey = np.array(picture.convert("L"))
    return read_grey(grey, size)


def read_grey(grey: Grey, size: tuple[float, float]) -> Page:
    """The letters of a picture as shades of grey (rows of 0 black to 255 white), as ``read_picture_page``."""
    if not can_read():
        raise Refusal(MISSING)
    tall = _height(grey)
    if not tall:
        return Page(size)
    k = size[0] / grey.shape[1]
    return Page(size, letterings=[_lettering(run, text, k) for run, text in _read(grey, tall)])


def _height(grey: Grey) -> int:
    """How high (pixels) most letters are; 0 where there are none."""
    _, found = _pieces(grey < INK)
    high, wide = found[:, 2] - found[:, 0], found[:, 3] - found[:, 1]
    like = (high > 8) & (high < 120) & (wide > 2) & (wide < 120)
    if not like.any():
        return 0
    return int(np.argmax(np.convolve(np.bincount(high[like]), [1, 1, 1], "same")))


def _pieces(ink: Ink) -> tuple[NDArray[Any], NDArray[Any]]:
    """Pieces of ink, each with a number, and their boxes: top, left, bottom, right."""
    numbered, _ = ndimage.label(ink, structure=EVERY)
    boxes = [(b[0].start, b[1].start, b[0].stop, b[1].stop) for b in ndimage.find_objects(numbered)]
    return numbered, np.array(boxes).reshape(-1, 4)


def _read(grey: Grey, tall: int) -> Iterator[tuple[_Run, str]]:
    numbered, boxes = _pieces(grey < INK)
    large = np.maximum(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
    letters = np.concatenate([[False], (large <= 1.7 * tall) & (large >= 0.07 * tall)])[numbered]
    near = ndimage.maximum_filter(letters.view(np.uint8), 5) > 0
    alone = np.where(near, grey, 255).astype(np.uint8)
    upwards = _runs(letters, tall, True)
    level = [r for r in _runs(letters, tall, False) if not (r.upright and any(u.holds(r) for u in upwards))]
    runs = [*level, *upwards]
    larger = math.ceil(LETTERS / tall)
    until = time.monotonic() + SECONDS
    for start in range(0, len(runs), TOGETHER):
        if time.monotonic() > until:
            raise Refusal(SLOW)
        some = runs[start : start + TOGETHER]
        cuts = [_enlarged(_cut(alone, r), larger) for r in some]
        single = [c.shape[1] < SINGLE * c.shape[0] for c in cuts]
        cuts = [_thrice(c, larger * tall) if one else c for c, one in zip(cuts, single, strict=True)]
        for run, one, (text, sure) in zip(some, single, _recognised(cuts, larger * tall), strict=True):
            text = spelled(_agreed(text) if one else text)
            if not text or text in RINGS or (len(text) == 1 and (sure < SURE or _solid(letters, run))):
                continue
            yield run, text


def _runs(letters: Ink, tall: int, upright: bool) -> list[_Run]:
    """Runs of letters; upright ones only where they are longer than a sign is."""
    reach = int(0.9 * tall) | 1
    along = 0 if upright else 1
    spread = ndimage.maximum_filter1d(np.pad(letters, tall).view(np.uint8), reach, axis=along)
    closed = ndimage.minimum_filter1d(spread, reach, axis=along)
    _, boxes = _pieces(closed[tall:-tall, tall:-tall] > 0)
    found = []
    for top, left, bottom, right in boxes.tolist():
        high, wide = bottom - top, right - left
        lying = high < 0.85 * wide and 0.8 * tall < wide < 1.3 * tall and _piece(letters[top:bottom, left:right])
        if upright:
            fits = high >= 1.1 * tall and 0.55 * tall <= wide <= 1.9 * tall
        else:
            fits = 0.55 * tall <= high <= 1.9 * tall
        if fits:
            found.append(_Run(top, left, bottom, right, upright or lying))
    return found


def _piece(letters: Ink) -> bool:
    """Whether letters hang together: those of one sign, read upwards where it is wider than high."""
    return int(ndimage.label(letters, structure=EVERY)[1]) == 1


def _cut(grey: Grey, run: _Run) -> Grey:
    piece = grey[max(0, run.top - 2) : run.bottom + 2, max(0, run.left - 2) : run.right + 2]
    return np.ascontiguousarray(np.rot90(piece, -1)) if run.upright else piece


def _enlarged(piece: Grey, by: int) -> Grey:
    if by == 1:
        return piece
    size = (by * piece.shape[1], by * piece.shape[0])
    return np.asarray(Image.fromarray(piece).resize(size, Image.Resampling.LANCZOS))


def _thrice(piece: Grey, tall: int) -> Grey:
    """A sign three times in a row: single signs are passed over, or taken for marks of the paper."""
    apart = np.full((piece.shape[0], max(1, int(0.12 * tall))), 255, np.uint8)
    return np.hstack([piece, apart, piece, apart, piece])


def _agreed(text: str) -> str:
    """The sign that was read most often where one stood three times; nothing where none was twice."""
    signs = Counter("".join(text.split())).most_common(1)
    return signs[0][0] if signs and signs[0][1] > 1 else ""


def _solid(letters: Ink, run: _Run) -> bool:
    """Whether a sign is full as an arrowhead is: hardly a row or column of it that leaves off and goes on again."""
    piece = letters[run.top : run.bottom, run.left : run.right]
    starts = [(np.diff(np.pad(p, ((0, 0), (1, 0))).astype(np.int8), axis=1) > 0).sum(1) for p in (piece, piece.T)]
    return bool(piece.mean() > 0.35 and (np.concatenate(starts) > 1).mean() < 0.1)


def _recognised(pieces: list[Grey], tall: int) -> list[tuple[str, float]]:
    """What each piece says and how sure (per cent) that is, all read as lines of one text."""
    gap = int(1.2 * tall)
    wide = max(p.shape[1] for p in pieces) + 4 * gap
    page = np.full((sum(p.shape[0] + 2 * gap for p in pieces) + gap, wide), 255, np.uint8)
    rows, y = [], gap
    for p in pieces:
        page[y : y + p.shape[0], 2 * gap : 2 * gap + p.shape[1]] = p
        rows.append((y, y + p.shape[0]))
        y += p.shape[0] + 2 * gap
    words = _words(page)
    found = []
    for low, high in rows:
        mine = [w for w in words if low - gap / 2 <= w[1] <= high + gap / 2]
        mine.sort()
        found.append((" ".join(w[2] for w in mine), min((w[3] for w in mine), default=0.0)))
    return found


def _words(page: Grey) -> list[tuple[int, float, str, float]]:
    """Left, middle height, text and sureness of each word."""
    out = io.BytesIO()
    Image.fromarray(page).save(out, "PNG", dpi=(300, 300))
    command = ["tesseract", "stdin", "stdout", "--psm", "6", "-l", "eng", "tsv"]
    try:
        made = subprocess.run(command, input=out.getvalue(), capture_output=True, timeout=SECONDS, check=True)
    except subprocess.TimeoutExpired:
        raise Refusal(SLOW) from None
    except (OSError, subprocess.CalledProcessError):
        raise Refusal("This picture could not be read; balloon its sizes by hand.") from None
    table = csv.DictReader(io.StringIO(made.stdout.decode(errors="replace")), delimiter="\t", quoting=csv.QUOTE_NONE)
    rows = [r for r in table if r["level"] == "5" and r["text"].strip()]
    return [(int(r["left"]), int(r["top"]) + int(r["height"]) / 2, r["text"].strip(), float(r["conf"])) for r in rows]


_AS_DIAMETER = re.compile(r"(^|[X×x] ?|[A-Z] )[OQ0](?=\d)")
_AS_DEGREES = re.compile(r"(?<=\d)[oO](?=$|\s)")


def spelled(text: str) -> str:
    """Signs of drawings that are taken for others, as they are meant: @16 is Ø16, 40o is 40°."""
    text = text.replace("@", "Ø").replace("©", "Ø").replace("⌀", "Ø")
    text = _AS_DEGREES.sub("°", _AS_DIAMETER.sub(r"\1Ø", text))
    return " ".join(text.split()).strip("|_—~ ")


def _lettering(run: _Run, text: str, k: float) -> Lettering:
    """``k`` points a pixel."""
    x, y = (run.left + run.right) / 2, (run.top + run.bottom) / 2
    if run.upright:  # read from below; its baseline is to the right
        size = (run.right - run.left) / 0.72
        return Lettering(text, (run.right * k, y * k), size * k, -90.0, (run.bottom - run.top) * k)
    size = (run.bottom - run.top) / 0.72
    return Lettering(text, (x * k, run.bottom * k), size * k, 0.0, (run.right - run.left) * k)

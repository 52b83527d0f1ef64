"""What is ruled on a page: its frame, the tables that hang on it, and frames close round a text.

All of it is made of level and upright lines. Those that meet are found over an index, so that a page of many thousand
lines is no more trouble than its size.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from .page import Box, Lettering, Page

Array = NDArray[np.float64]

LONG = 0.55  # of the page: lines so long, near its edges, are its frame
MARGIN = 0.14  # of the page: how far from its edges a frame may stand
TOUCHING = 1.0  # points
STRAIGHT = 0.05  # points that a level line may rise
TABLE = 6  # lines that a table has at least
_LABEL = re.compile(
    r"\b(TITLE|SCALE|DRAWN|MATERIAL|DATE|NAME|REV(ISION)?|SHEET|NUMBER|PART NO|DWG|FINISH|CHECKED|OWNER|PROJECTION)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Ruling:
    """Level and upright lines of a page as boxes, n × 4 (left, top, right, bottom), and which of them are level."""

    boxes: Array
    level: NDArray[np.bool_]
    size: tuple[float, float]

    # -- frames and tables ---------------------------------------------------------------------------------

    def furniture(self, letterings: list[Lettering]) -> tuple[Box, list[Box]]:
        """The box inside the page's frame (the whole page where it has none), and the boxes of ruled tables."""
        w, h = self.size
        frames = self._frames()
        frame = max((self._frame_box(f) for f in frames), key=lambda b: b[0], default=(0.0, 0.0, w, h))
        one, two = self._meeting()
        count = len(self.boxes)
        edges = np.zeros(count, dtype=bool)
        edges[[k for f in frames for k in f]] = True
        # lines apart from the frame's own hang together; those groups that touch the frame are its tables
        loose = ~edges[one] & ~edges[two]
        graph = coo_matrix((np.ones(int(loose.sum())), (one[loose], two[loose])), shape=(count, count))
        _, group = connected_components(graph, directed=False)
        on_frame = set(group[two[edges[one] & ~edges[two]]].tolist())
        sizes = np.bincount(group[~edges], minlength=int(group.max(initial=0)) + 1)
        ruled = [self._around(group == g) for g in on_frame if sizes[g] > 1]
        labels = [t.middle() for t in letterings if _LABEL.search(t.text)]
        for g in np.flatnonzero(sizes >= TABLE).tolist() if len(labels) > 1 else []:
            if g not in on_frame:
                left, top, right, bottom = box = self._around((group == g) & ~edges)
                if sum(left < x < right and top < y < bottom for x, y in labels) >= 2:
                    ruled.append(box)
        return frame, [b for b in ruled if (b[2] - b[0]) * (b[3] - b[1]) < 0.5 * w * h]

    def _around(self, which: NDArray[np.bool_]) -> Box:
        low, high = self.boxes[which, :2].min(axis=0), self.boxes[which, 2:].max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def _meeting(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Pairs of lines of which an end of one lies on the other, both ways round."""
        if not len(self.boxes):
            return np.zeros(0, dtype=np.intp), np.zeros(0, dtype=np.intp)
        b = self.boxes
        lines = shapely.box(*(b + np.array([-1, -1, 1, 1]) * TOUCHING).T)
        ends = shapely.points(np.concatenate([b[:, :2], b[:, 2:]]))
        end, line = shapely.STRtree(lines).query(ends, predicate="intersects")
        own = end % len(b)
        other = own != line
        own, line = own[other], line[other]
        return np.concatenate([own, line]), np.concatenate([line, own])

    def _frames(self) -> list[tuple[int, int, int, int]]:
        """The rectangles of long lines near the page's edges whose corners meet, one within another: top, left, right
        and bottom."""
        w, h = self.size
        b, long = self.boxes, self.boxes[:, 2:] - self.boxes[:, :2]
        level, upright = self.level & (long[:, 0] > LONG * w), ~self.level & (long[:, 1] > LONG * h)
        tops = np.flatnonzero(level & (b[:, 1] < MARGIN * h))
        bottoms = np.flatnonzero(level & (b[:, 1] > (1 - MARGIN) * h))
        lefts = np.flatnonzero(upright & (b[:, 0] < MARGIN * w))
        rights = np.flatnonzero(upright & (b[:, 0] > (1 - MARGIN) * w))
        found = []
        for top in tops.tolist():
            left = next((k for k in lefts.tolist() if self._meets(k, top)), None)
            right = next((k for k in rights.tolist() if self._meets(k, top)), None)
            if left is None or right is None:
                continue
            under = (k for k in bottoms.tolist() if self._meets(k, left) and self._meets(k, right))
            bottom = next(under, None)
            if bottom is not None:
                found.append((top, left, right, bottom))
        return found

    def _frame_box(self, frame: tuple[int, int, int, int]) -> Box:
        top, left, right, bottom = frame
        b = self.boxes
        return float(b[left, 0]), float(b[top, 1]), float(b[right, 0]), float(b[bottom, 1])

    def _meets(self, i: int, k: int) -> bool:
        for one, two in ((self.boxes[i], self.boxes[k]), (self.boxes[k], self.boxes[i])):
            for x, y in (one[:2], one[2:]):
                inside = two[0] - TOUCHING <= x <= two[2] + TOUCHING and two[1] - TOUCHING <= y <= two[3] + TOUCHING
                if inside:
                    return True
        return False

    # -- close round a text --------------------------------------------------------------------------------

    def boxed(self, box: Box, size: float) -> bool:
        """Whether a frame stands close round letters of a size in a box: a theoretically exact size."""
        left, top, right, bottom = box
        b = self.boxes
        short = (b[:, 2:] - b[:, :2]).sum(axis=1) < 3 * (right - left + bottom - top)
        across = b[short & self.level]
        across = across[_over(across[:, 0], across[:, 2], left, right, size)]
        along = b[short & ~self.level]
        along = along[_over(along[:, 1], along[:, 3], top, bottom, size)]
        y, x = across[:, 1], along[:, 0]
        return bool(
            ((top - size < y) & (y < top + size / 3)).any()
            and ((bottom - size / 3 < y) & (y < bottom + size)).any()
            and ((left - size < x) & (x < left + size / 3)).any()
            and ((right - size / 3 < x) & (x < right + size)).any()
        )


def _over(a: Array, b: Array, low: float, high: float, size: float) -> NDArray[np.bool_]:
    """Whether lines from ``a`` to ``b`` run from one end of the letters to the other, and not far beyond."""
    return (low - 2 * size < a) & (a < low + size / 2) & (high - size / 2 < b) & (b < high + 2 * size)


def ruling(page: Page) -> Ruling:
    """The level and upright lines of a page, in no pattern and not filled."""
    found: list[tuple[float, float, float, float]] = []
    level: list[bool] = []
    for s in page.strokes:
        if s.kind == "line" and not s.dash and not s.filled:
            (ax, ay), (bx, by) = s.points
            flat, steep = abs(ay - by) < STRAIGHT, abs(ax - bx) < STRAIGHT
            if flat != steep:
                found.append((min(ax, bx), min(ay, by), max(ax, bx), max(ay, by)))
                level.append(flat)
    boxes = np.array(found, dtype=float).reshape(-1, 4)
    return Ruling(boxes, np.array(level, dtype=bool), page.size)


def furniture(page: Page) -> tuple[Box, list[Box]]:
    """The box inside a page's frame (the whole page where it has none), and the boxes of ruled tables."""
    return ruling(page).furniture(page.letterings)

"""The part's outline laid over a view that is placed by hand, on a sheet of any kind: by two opposite corners of what
is drawn there, which are matched with those of the part as it is seen from a side."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..part.document import PlacedView, Side
from ..part.errors import Refusal
from ..solid.outline import Lines, lines
from ..solid.shapes import Shape
from .compared_view import Compared, Piece, Place
from .model_lines import DEEP, SIDES
from .sheet_lines import SheetLines

XY = tuple[float, float]
Box = tuple[float, float, float, float]
ALIKE = 0.03  # of its size that a view pressed by hand may differ from the part's
LIKELY: tuple[Side, ...] = ("front", "top", "right", "left", "under", "back")


def place_by_corners(
    shapes: Sequence[Shape],
    points: XY,
    corners: tuple[XY, XY],
    side: Side | None = None,
    mm: float = 0.0,
    taken: Sequence[Side] = (),
) -> PlacedView:
    """A view between two corners (shares of a page of so many ``points``). Without a ``side`` the one is taken from
    which the part is in the same proportion, at the page's scale where that is known (``mm`` of the part, a point);
    sides that are ``taken`` come last. Raises Refusal where the part fits from none."""
    (ax, ay), (bx, by) = corners
    left, right = sorted((ax * points[0], bx * points[0]))
    top, bottom = sorted((ay * points[1], by * points[1]))
    w, h = right - left, bottom - top
    if w < 1 or h < 1:
        raise Refusal("Press two opposite corners of the view: they lie apart both ways.")
    if not shapes:
        raise Refusal("There is no solid yet to be laid over the sheet.")
    best: tuple[float, PlacedView] | None = None
    for rank, name in enumerate(LIKELY if side is None else (side,)):
        low, high = _extent(lines(list(shapes), *SIDES[name], deep=DEEP))
        for turn in (0, 90):
            wide, tall = high - low if turn == 0 else (high - low)[::-1]
            own = math.sqrt(wide * tall / (w * h)) if wide > 1e-9 and tall > 1e-9 else max(wide, tall) / max(w, h)
            odd = max(abs(wide / own - w) / w, abs(tall / own - h) / h)
            off = abs(math.log(own / mm)) if mm else 0.0
            cost = odd + off + 0.005 * rank + 0.05 * (turn != 0) + 0.02 * (name in taken)
            if best is not None and cost >= best[0]:
                continue
            middle = np.array([(low + high) / 2])
            shift = Place(name, turn, own, (0.0, 0.0)).to_page(middle)[0]
            origin = (((left + right) / 2 - shift[0]) / points[0], ((top + bottom) / 2 - shift[1]) / points[1])
            if odd < ALIKE or side is not None:
                at = (float(origin[0]), float(origin[1]))
                best = (cost, PlacedView(side=name, turn=turn, scale=own, origin=at, corners=corners))
    if best is None:
        raise Refusal(
            "From no side is the part in the proportion of this box. Press the corners of the view's outline closely, "
            "or choose from which side it is seen."
        )
    return best[1]


def _extent(drawn: Lines) -> tuple[np.ndarray, np.ndarray]:
    at = np.array([p for run in (*drawn.seen, *drawn.smooth, *drawn.hidden) for p in run])
    return at.min(axis=0), at.max(axis=0)


def overlaid(shapes: Sequence[Shape], points: XY, views: Sequence[PlacedView]) -> SheetLines:
    """The part's lines in each view that was placed; nothing of the sheet is compared."""
    found = []
    for view in views:
        place = Place(view.side, view.turn, view.scale, (view.origin[0] * points[0], view.origin[1] * points[1]))
        drawn = lines(list(shapes), *SIDES[view.side], deep=DEEP)
        model = [
            *_pieces("seen", [*drawn.seen, *drawn.smooth], place, points),
            *_pieces("hidden", drawn.hidden, place, points),
        ]
        every = [p for piece in model for p in piece.points] or [(0.0, 0.0)]
        xs, ys = zip(*every, strict=True)
        made = Compared(
            (min(xs), min(ys), max(xs), max(ys)), view.side, view.turn, view.scale, view.origin, model=model
        )
        made.by_hand = True
        found.append(made)
    return SheetLines(found, 0.0)


def _pieces(kind: str, runs: Sequence[Sequence[XY]], place: Place, points: XY) -> list[Piece]:
    found = []
    for run in runs:
        at = place.to_page(np.array(run))
        length = float(np.sqrt((np.diff(np.array(run), axis=0) ** 2).sum(axis=1)).sum())
        shares = [(round(float(x) / points[0], 6), round(float(y) / points[1], 6)) for x, y in at]
        found.append(Piece(kind, shares, length))  # type: ignore[arg-type]
    return found

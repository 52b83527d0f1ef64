"""Views on the paper: in projection with the main one, the others where there is room (ISO 5456-2)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .looks import Drawn
from .paper import XY, Box, merged, overlap
from .size_shapes import Placed

GAP = 9.0  # mm between views with all their sizes
STEP = 4.0  # in which free places are looked for
INSET = 4.0  # from the frame


@dataclass
class Block:
    """A view with its sizes, in mm of the paper from where the part's origin lies in it. ``extent`` holds everything;
    ``outline`` the part only; ``at``: where its origin is put on the paper."""

    drawn: Drawn
    scale: float
    outline: Box
    extent: Box
    placed: list[Placed]
    at: XY = (0.0, 0.0)

    @property
    def name(self) -> str:
        return self.drawn.look.name

    def on_paper(self, box: Box | None = None) -> Box:
        left, low, right, high = box or self.extent
        x, y = self.at
        return left + x, low + y, right + x, high + y


def arranged(
    projected: Sequence[Block],
    free: Sequence[Block],
    area: Box,
    kept: Sequence[Box],
    third: bool,
    by_hand: Mapping[str, XY],
) -> bool:
    """Puts blocks on the paper, within ``area`` and off what is ``kept`` free. False where they do not fit.
    ``by_hand``: where the middles of views were put."""
    main = projected[0]
    main.at = (0.0, 0.0)
    _in_projection(projected, third)
    if main.name in by_hand:
        _to_hand(main, projected, by_hand)
    elif not _shift(projected, area, kept):
        return False
    for b in projected[1:]:
        if b.name in by_hand:
            x, y = _origin_for(b, by_hand[b.name])
            level = b.drawn.look.seat in ("right", "left", "rear")
            b.at = (x, b.at[1]) if level else (b.at[0], y)
    taken = [b.on_paper() for b in projected]
    for b in free:
        if b.name in by_hand:
            b.at = _origin_for(b, by_hand[b.name])
        elif not _free_place(b, area, [*kept, *taken], main):
            return False
        taken.append(b.on_paper())
    return True


def _origin_for(b: Block, middle: XY) -> XY:
    left, low, right, high = b.outline
    return middle[0] - (left + right) / 2, middle[1] - (low + high) / 2


def _to_hand(main: Block, projected: Sequence[Block], by_hand: Mapping[str, XY]) -> None:
    x, y = _origin_for(main, by_hand[main.name])
    for b in projected:
        b.at = (b.at[0] + x, b.at[1] + y)


def _in_projection(blocks: Sequence[Block], third: bool) -> None:
    """Each beside the main one, at the side that the angle of projection asks for; in line with it."""
    seats = {b.drawn.look.seat: b for b in blocks}
    way = {"right": "right", "left": "left", "above": "above", "below": "below"}
    if not third:
        way = {"right": "left", "left": "right", "above": "below", "below": "above"}
    beside = {way[s]: b for s, b in seats.items() if s in way}
    column = [b.extent for b in [seats["main"], *(beside[k] for k in ("above", "below") if k in beside)]]
    row = [b.extent for b in [seats["main"], *(beside[k] for k in ("left", "right") if k in beside)]]
    left, _, right, _ = merged(column)
    _, low, _, high = merged(row)
    if "right" in beside:
        beside["right"].at = (right + GAP - beside["right"].extent[0], 0.0)
    if "left" in beside:
        beside["left"].at = (left - GAP - beside["left"].extent[2], 0.0)
    if "above" in beside:
        beside["above"].at = (0.0, high + GAP - beside["above"].extent[1])
    if "below" in beside:
        beside["below"].at = (0.0, low - GAP - beside["below"].extent[3])
    if "rear" in seats:
        far = max(b.on_paper()[2] for b in blocks if b.drawn.look.seat != "rear")
        seats["rear"].at = (far + GAP - seats["rear"].extent[0], 0.0)


def _shift(blocks: Sequence[Block], area: Box, kept: Sequence[Box]) -> bool:
    """Moves all together to a place where nothing lies on what is kept free: the middle, or as near to it as can be."""
    left, low, right, high = merged([b.on_paper() for b in blocks])
    room_x, room_y = area[2] - area[0] - (right - left), area[3] - area[1] - (high - low)
    if room_x < 0 or room_y < 0:
        return False
    starts = sorted(
        ((x, y) for x in _steps(area[0] - left, room_x) for y in _steps(area[1] - low, room_y)),
        key=lambda d: abs(d[0] - area[0] + left - room_x * 0.4) + abs(d[1] - area[1] + low - room_y * 0.55),
    )
    for dx, dy in starts:
        boxes = [(a + dx, b + dy, c + dx, d + dy) for a, b, c, d in (x.on_paper() for x in blocks)]
        if not any(overlap(b, k, 3.0) for b in boxes for k in kept):
            for b in blocks:
                b.at = (b.at[0] + dx, b.at[1] + dy)
            return True
    return False


def _steps(start: float, room: float) -> list[float]:
    n = max(1, int(room / STEP))
    return [start + room * k / n for k in range(n + 1)]


def _free_place(b: Block, area: Box, taken: Sequence[Box], main: Block) -> bool:
    left, low, right, high = b.extent
    room_x, room_y = area[2] - area[0] - (right - left), area[3] - area[1] - (high - low)
    if room_x < 0 or room_y < 0:
        return False
    mx, my = main.at
    places = [(x, y) for x in _steps(area[0] - left, room_x) for y in _steps(area[1] - low, room_y)]
    # not too near what stands, and rather to the right and up than elsewhere
    places.sort(key=lambda p: abs(p[0] - mx) + abs(p[1] - my) - 0.6 * (p[0] - mx) - 0.6 * (p[1] - my))
    for x, y in places:
        box = (left + x, low + y, right + x, high + y)
        if not any(overlap(box, t, 6.0) for t in taken):
            b.at = (x, y)
            return True
    return False

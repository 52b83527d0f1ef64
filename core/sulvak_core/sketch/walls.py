"""Open chains of a sketch in the order they are walked, and the outline of a wall along one."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import replace

from ..part.errors import Refusal
from .curves import Piece
from .model import XY, Sketch
from .profiles import network
from .regions import Region

SMOOTH = 1e-6  # sine of the turn under which two pieces run on into each other
TOO_THICK = "This wall cannot be made: it is too thick for the bends of the chain."


def chains(sketch: Sketch) -> list[list[Piece]]:
    """Every open chain without branches as pieces end to end, starting at the end drawn first."""
    graph = network(sketch)
    found = []
    for loose in graph.loose_chains():
        at: dict[int, list[int]] = defaultdict(list)
        for k, (i, j, _) in enumerate(loose):
            at[i].append(k)
            at[j].append(k)
        ends = [n for n, ks in at.items() if len(ks) == 1]
        if len(ends) != 2 or any(len(ks) > 2 for ks in at.values()):
            continue
        node, left, chain = ends[0], set(range(len(loose))), []
        while left:
            k = next(k for k in at[node] if k in left)
            left.discard(k)
            i, j, piece = loose[k]
            chain.append(piece if i == node else piece.reversed())
            node = j if i == node else i
        found.append(chain)
    return found


def wall_region(chain: list[Piece], left: float, right: float) -> Region:
    """The outline of a wall that reaches ``left`` mm to the left of an open chain and ``right`` mm to its right.

    Pieces on the left keep their entity's name, those on the right have a ``b`` before it, the two ends are ``tp``
    and ``tq``. Raises Refusal for other curves than lines and arcs, and where the wall is too thick.
    """
    if any(p.axes or p.spans for p in chain):
        raise Refusal("A wall follows lines and arcs; this chain has other curves.")
    one = beside(chain, left)
    two = [replace(p, entity=f"b{p.entity}") for p in beside(chain, -right)]
    outline = [
        *two,
        Piece("tq", two[-1].end, one[-1].end),
        *(p.reversed() for p in reversed(one)),
        Piece("tp", one[0].start, two[0].start),
    ]
    return Region(outer=outline)


def beside(chain: list[Piece], by: float) -> list[Piece]:
    """A chain of lines and arcs moved ``by`` mm to its left (negative: right), meeting again at its corners."""
    if by == 0:
        return chain
    moved = [_moved(p, by) for p in chain]
    for k in range(len(moved) - 1):
        a, b = moved[k], moved[k + 1]
        at = _joint(chain[k], a, b)
        moved[k], moved[k + 1] = replace(a, end=at), replace(b, start=at)
    return [_swept(p, old) for p, old in zip(moved, chain, strict=True)]


def heading(p: Piece, last: bool) -> XY:
    """The unit direction in which a piece is walked at its start or end."""
    x, y = p.end if last else p.start
    if p.spans or p.axes:
        a, b = p.walk()[-2:] if last else p.walk()[:2]
        if p.spans:
            a, b = p.spans[-1][2:] if last else p.spans[0][:2]
        n = math.dist(a, b)
        return (b[0] - a[0]) / n, (b[1] - a[1]) / n
    if p.straight:
        n = math.dist(p.start, p.end)
        return (p.end[0] - p.start[0]) / n, (p.end[1] - p.start[1]) / n
    turn = math.copysign(1.0, p.sweep) / p.radius
    return -(y - p.centre[1]) * turn, (x - p.centre[0]) * turn


def _moved(p: Piece, by: float) -> Piece:
    (ax, ay), (bx, by_) = heading(p, False), heading(p, True)
    start = (p.start[0] - ay * by, p.start[1] + ax * by)
    end = (p.end[0] - by_ * by, p.end[1] + bx * by)
    if p.straight:
        return replace(p, start=start, end=end)
    radius = p.radius - math.copysign(by, p.sweep * by)
    if radius <= 0:
        raise Refusal(TOO_THICK)
    return replace(p, start=start, end=end, radius=radius)


def _joint(old: Piece, a: Piece, b: Piece) -> XY:
    """Where two neighbours meet again once they are moved."""
    (ux, uy), (vx, vy) = heading(a, True), heading(b, False)
    if abs(ux * vy - uy * vx) < SMOOTH and ux * vx + uy * vy > 0:
        return a.end
    near = old.end
    found = _meetings(a, b)
    if not found:
        raise Refusal(TOO_THICK)
    return min(found, key=lambda p: math.dist(p, near))


def _meetings(a: Piece, b: Piece) -> list[XY]:
    """Where the whole lines or circles of two pieces meet."""
    if a.straight and b.straight:
        (ux, uy), (vx, vy) = heading(a, False), heading(b, False)
        t = ((b.start[0] - a.start[0]) * vy - (b.start[1] - a.start[1]) * vx) / (ux * vy - uy * vx)
        return [(a.start[0] + t * ux, a.start[1] + t * uy)]
    if a.straight or b.straight:
        line, arc = (a, b) if a.straight else (b, a)
        (ux, uy), (cx, cy) = heading(line, False), arc.centre
        along = (cx - line.start[0]) * ux + (cy - line.start[1]) * uy
        fx, fy = line.start[0] + along * ux, line.start[1] + along * uy
        left = arc.radius**2 - (fx - cx) ** 2 - (fy - cy) ** 2
        if left < 0:
            return []
        half = math.sqrt(left)
        return [(fx + half * ux, fy + half * uy), (fx - half * ux, fy - half * uy)]
    dx, dy = b.centre[0] - a.centre[0], b.centre[1] - a.centre[1]
    d = math.hypot(dx, dy)
    along = (d * d + a.radius**2 - b.radius**2) / (2 * d) if d else math.inf
    left = a.radius**2 - along * along
    if not left >= 0:
        return []
    h = math.sqrt(left)
    fx, fy = a.centre[0] + along * dx / d, a.centre[1] + along * dy / d
    return [(fx - h * dy / d, fy + h * dx / d), (fx + h * dy / d, fy - h * dx / d)]


def _swept(p: Piece, old: Piece) -> Piece:
    """A moved piece with its sweep as its ends are now. Raises Refusal when it would run backwards."""
    if p.straight:
        dx, dy = p.end[0] - p.start[0], p.end[1] - p.start[1]
        if dx * (old.end[0] - old.start[0]) + dy * (old.end[1] - old.start[1]) <= 0:
            raise Refusal(TOO_THICK)
        return p
    first = math.atan2(p.start[1] - p.centre[1], p.start[0] - p.centre[0])
    last = math.atan2(p.end[1] - p.centre[1], p.end[0] - p.centre[0])
    sweep = (last - first) % (2 * math.pi) if old.sweep > 0 else -((first - last) % (2 * math.pi))
    if abs(sweep - old.sweep) > math.pi:
        raise Refusal(TOO_THICK)
    return replace(p, sweep=sweep)

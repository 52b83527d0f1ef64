"""Parallel copies of a chain of lines and arcs at one distance, kept parallel by one constraint and one dimension.

The constraint ``offset`` ties pairs (old, new) to one width: a new line runs parallel at that width, a new arc
about the same centre with its radius more or less by it. Neighbours that meet at a corner meet again where their
copies cross; where they run on smoothly, and at open ends, each new end stands square across from the old one.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..part.errors import Refusal
from . import words
from .check import middle_of
from .curves import Curve, parameter
from .edit import Edit, Values, add
from .model import XY, AnyEntity, Arc, Circle, Constraint, Dimension, Line, Sketch
from .numbers import Numbers
from .profiles import SAME_PLACE
from .variables import same_places

SMOOTH = 1e-4  # radians: a joint turned by less runs on


@dataclass
class _Link:
    """An element of the chain as it is walked; ``forward`` from p to q."""

    curve: Curve
    forward: bool = True

    def end(self, first: bool) -> str:
        return f"{self.curve.id}.{'p' if first == self.forward else 'q'}"

    def at(self, first: bool) -> XY:
        found: XY = getattr(self.curve, self.end(first)[-1])
        return found

    def way(self, first: bool) -> XY:
        """Direction of the walk at its first or last end."""
        c = self.curve
        if isinstance(c, Line):
            n = math.dist(c.p, c.q)
            sign = 1 if self.forward else -1
            return sign * (c.q[0] - c.p[0]) / n, sign * (c.q[1] - c.p[1]) / n
        x, y = self.at(first)
        rx, ry = (x - c.c[0]) / c.r, (y - c.c[1]) / c.r
        return (-ry, rx) if self.forward else (ry, -rx)


def offset(sketch: Sketch, values: Values, idents: list[str], expr: str, at: XY) -> Edit:
    """Copy a chain to the side on which ``at`` (mm) lies, at the distance ``expr``.

    Raises Refusal when what is picked is no single chain, or the distance does not fit.
    """
    chosen = [e for e in sketch.entities if e.id in set(idents)]
    curves = [e for e in chosen if isinstance(e, Line | Arc | Circle)]
    if not curves or len(curves) != len(chosen):
        raise Refusal("Pick the lines, arcs or the circle to offset: one chain, joined end to end.")
    width = values.of(Dimension(id="d1", kind="distance", refs=["l1"], expr=expr))
    chain, closed = _chain(sketch, curves)
    side = _side(chain, at)
    numbers = Numbers(sketch)
    copies: list[_Link] = []
    sides: list[Literal[-1, 1]] = []
    for link in chain:
        copy, s = _copy(link, side, width, numbers)
        copies.append(copy)
        sides.append(1 if s > 0 else -1)
    refs = [r for link, copy in zip(chain, copies, strict=True) for r in (link.curve.id, copy.curve.id)]
    joins: list[tuple[str, str]] = []
    across: list[tuple[str, str]] = []
    if not isinstance(chain[0].curve, Circle):
        _joints(chain, copies, closed, side * width, joins, across)
        for link, copy in zip(chain, copies, strict=True):
            _still_runs(link, copy)
    refs += [r for pair in across for r in pair]
    ties = [Constraint(id=numbers.new("k"), kind="coincident", refs=list(j)) for j in joins]
    made: list[AnyEntity] = [c.curve for c in copies]
    ties.append(Constraint(id=numbers.new("k"), kind="offset", refs=refs, sides=sides))
    size = Dimension(id=numbers.new("d"), kind="distance", refs=_measured(chain, copies), expr=expr)
    return add(sketch, values, made, ties, [size])


def _chain(sketch: Sketch, curves: list[Curve]) -> tuple[list[_Link], bool]:
    """The picked curves in the order in which they are joined, and whether they close."""
    if len(curves) == 1 and isinstance(curves[0], Circle):
        return [_Link(curves[0])], True
    if any(isinstance(c, Circle) for c in curves):
        raise Refusal("A circle is a chain of its own; offset it without the others.")
    same = same_places(sketch)

    def place(ref: str, at: XY) -> str:
        for other, spot in spots:
            if same[other] == same[ref] or math.dist(spot, at) < SAME_PLACE:
                return other
        spots.append((ref, at))
        return ref

    spots: list[tuple[str, XY]] = []
    ends = {c.id: (place(f"{c.id}.p", c.p), place(f"{c.id}.q", c.q)) for c in curves}  # type: ignore[union-attr]
    around: dict[str, list[Curve]] = {}
    for c in curves:
        for node in ends[c.id]:
            around.setdefault(node, []).append(c)
    crowded = next((n for n, here in around.items() if len(here) > 2), None)
    loose = [n for n, here in around.items() if len(here) == 1]
    if crowded or len(loose) > 2:
        raise Refusal("These do not form one chain: pick lines and arcs joined end to end, without branches.")
    node = loose[0] if loose else ends[curves[0].id][0]
    left, chain = list(curves), []
    while left:
        link = next((c for c in left if node in ends[c.id]), None)
        if link is None:
            raise Refusal("These do not form one chain: pick lines and arcs joined end to end, without gaps.")
        forward = ends[link.id][0] == node
        chain.append(_Link(link, forward))
        node = ends[link.id][1 if forward else 0]
        left.remove(link)
    return chain, not loose


def _side(chain: list[_Link], at: XY) -> int:
    """1 when ``at`` lies left of the walk, −1 right of it; told by the link nearest to it."""

    def off(link: _Link) -> tuple[float, float]:
        """How far away it is; of two that share the nearest corner the one seen more squarely comes first."""
        c = link.curve
        square = math.dist(at, _foot(c, at))
        if isinstance(c, Circle) or parameter(c, _foot(c, at), 1e-6) is not None:
            return round(square, 9), -square
        return round(min(math.dist(at, link.at(True)), math.dist(at, link.at(False))), 9), -square

    c = (link := min(chain, key=off)).curve
    if isinstance(c, Line):
        (ux, uy), (px, py) = link.way(True), link.at(True)
        left = ux * (at[1] - py) - uy * (at[0] - px) >= 0
    else:
        left = (math.dist(at, c.c) < c.r) == link.forward
    return 1 if left else -1


def _foot(c: Curve, at: XY) -> XY:
    if isinstance(c, Line):
        dx, dy = c.q[0] - c.p[0], c.q[1] - c.p[1]
        t = ((at[0] - c.p[0]) * dx + (at[1] - c.p[1]) * dy) / (dx * dx + dy * dy)
        return c.p[0] + t * dx, c.p[1] + t * dy
    d = math.dist(at, c.c) or 1.0
    return c.c[0] + (at[0] - c.c[0]) * c.r / d, c.c[1] + (at[1] - c.c[1]) * c.r / d


def _copy(link: _Link, side: int, width: float, numbers: Numbers) -> tuple[_Link, int]:
    """The link moved aside, its ends square across from the old ones; and on which side of the curve itself it lies."""
    c = link.curve
    own = side if link.forward else -side  # left of the curve's own direction
    ident = numbers.new(c.id[0])
    if isinstance(c, Line):
        (ux, uy) = link.way(True)
        dx, dy = -uy * side * width, ux * side * width
        moved: Curve = c.model_copy(
            update={"id": ident, "p": (c.p[0] + dx, c.p[1] + dy), "q": (c.q[0] + dx, c.q[1] + dy)}
        )
        return _Link(moved, link.forward), own
    r = c.r - own * width  # left of a counter-clockwise arc lies its centre
    if r <= 1e-9 * c.r:
        raise Refusal(
            f"{words.thing(c.id).capitalize()} has a radius of {c.r:g} mm: it cannot be offset inwards so far."
        )
    update: dict[str, object] = {"id": ident, "r": r}
    if isinstance(c, Arc):
        k = r / c.r
        for name, end in (("p", c.p), ("q", c.q)):
            update[name] = (c.c[0] + k * (end[0] - c.c[0]), c.c[1] + k * (end[1] - c.c[1]))
    return _Link(c.model_copy(update=update), link.forward), own


def _joints(
    chain: list[_Link],
    copies: list[_Link],
    closed: bool,
    reach: float,
    joins: list[tuple[str, str]],
    across: list[tuple[str, str]],
) -> None:
    """Let neighbours meet at corners again; note which ends to join and which to hold square across."""
    n = len(chain)
    pairs = [(i, (i + 1) % n) for i in range(n if closed and n > 1 else n - 1)]
    for i, j in pairs:
        u, v = chain[i].way(False), chain[j].way(True)
        turn = math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])
        ends = (copies[i].end(False), copies[j].end(True))
        if abs(turn) < SMOOTH:
            across += [(chain[i].end(False), ends[0]), (chain[j].end(True), ends[1])]
            continue
        corner = chain[i].at(False)
        half = (u[0] + v[0], u[1] + v[1])
        size = math.hypot(*half) or 1.0
        long = reach / max(0.05, math.cos(turn / 2))
        guess = (corner[0] - half[1] / size * long, corner[1] + half[0] / size * long)
        meet = _crossing(copies[i].curve, copies[j].curve, guess)
        if meet is None:
            one, two = words.thing(chain[i].curve.id), words.thing(chain[j].curve.id)
            raise Refusal(f"At this distance the copies of {one} and {two} no longer meet; make it smaller.")
        for link, first in ((copies[i], False), (copies[j], True)):
            link.curve = link.curve.model_copy(update={link.end(first)[-1]: meet})
        joins.append(ends)
    if not closed:
        across += [(chain[0].end(True), copies[0].end(True)), (chain[-1].end(False), copies[-1].end(False))]


def _crossing(a: Curve, b: Curve, near: XY) -> XY | None:
    """Where the endless straights or circles that carry two curves cross nearest to a place (Newton's iteration)."""
    x, y = near
    for _ in range(40):
        (f, fx, fy), (g, gx, gy) = _carrier(a, x, y), _carrier(b, x, y)
        det = fx * gy - fy * gx
        if abs(det) < 1e-9:
            return None
        dx, dy = (f * gy - g * fy) / det, (g * fx - f * gx) / det
        x, y = x - dx, y - dy
        if math.hypot(dx, dy) < 1e-12 * (1 + math.hypot(x, y)):
            return x, y
    return None


def _carrier(c: Curve, x: float, y: float) -> tuple[float, float, float]:
    if isinstance(c, Line):
        dx, dy = c.q[0] - c.p[0], c.q[1] - c.p[1]
        n = math.hypot(dx, dy)
        return (dx * (y - c.p[1]) - dy * (x - c.p[0])) / n, -dy / n, dx / n
    d = math.hypot(x - c.c[0], y - c.c[1]) or 1e-12
    return d - c.r, (x - c.c[0]) / d, (y - c.c[1]) / d


def _still_runs(old: _Link, new: _Link) -> None:
    """A copy that would run backwards has been eaten up by its neighbours."""
    c = new.curve
    said = f"At this distance nothing is left of {words.thing(old.curve.id)}; make it smaller or leave that out."
    if isinstance(c, Line):
        u, v = old.way(True), (new.at(False)[0] - new.at(True)[0], new.at(False)[1] - new.at(True)[1])
        if u[0] * v[0] + u[1] * v[1] <= 0:
            raise Refusal(said, ref=old.curve.id)
    elif isinstance(c, Arc) and isinstance(old.curve, Arc):
        x, y = middle_of(old.curve)
        k = c.r / old.curve.r
        spot = (c.c[0] + k * (x - c.c[0]), c.c[1] + k * (y - c.c[1]))
        if parameter(c, spot, 1e-6 * c.r) is None:
            raise Refusal(said, ref=old.curve.id)


def _measured(chain: list[_Link], copies: list[_Link]) -> list[str]:
    """What the one dimension stands between: a line and its copy's start, else two round ones about one centre."""
    for link, copy in zip(chain, copies, strict=True):
        if isinstance(link.curve, Line):
            return [copy.end(True), link.curve.id]
    return [chain[0].curve.id, copies[0].curve.id]

"""Sizes as they are put round a view: from where they are shown on the part to places on the paper."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np

from ..solid.frame import XYZ, dot, plus, scaled
from .anchors import Anchor, Angle, Linear, Round
from .asked import Asked
from .best_view import circle
from .looks import Drawn
from .paper import XY
from .size_shapes import AngleSize, LeaderSize, LinearSize, Wanted

WAYS = 24  # directions in which leaders are tried
RINGS = 4  # of alike holes that are tried for a leader


def size_in(view: Drawn, asked: Asked, anchor: Anchor, k: float, balloon: bool) -> Wanted | None:
    """A size as it is drawn in a view, ``k`` mm of the paper a mm of the part; None where nothing can be pointed at."""
    number = asked.number if balloon else None

    def flat(p: XYZ) -> XY:
        x, y = view.look.flat(p)
        return x * k, y * k

    if isinstance(anchor, Linear) and view.look.level(anchor.way):
        way = view.look.flat(anchor.way)
        long = math.hypot(*way)
        u = (way[0] / long, way[1] / long)
        return LinearSize(
            asked.key, asked.text, u, [flat(p) for p in anchor.a.points], [flat(p) for p in anchor.b.points], number
        )
    if isinstance(anchor, Angle) and abs(dot(anchor.normal, view.look.towards)) > 1 - 1e-6:
        sides = []
        for side, span in zip((anchor.one, anchor.two), anchor.spans, strict=True):
            x, y = view.look.flat(side)
            sides.append((math.atan2(y, x), (span[0] * k, span[1] * k)))
        (one, s1), (two, s2) = sides
        if (two - one) % math.tau > math.pi:
            (one, s1), (two, s2) = (two, s2), (one, s1)
        return AngleSize(asked.key, asked.text, flat(anchor.apex), one, two, (s1, s2), number)
    if isinstance(anchor, Round):
        return _round(view, asked, anchor, k, number)
    points = [view.look.flat(p) for p in _places(anchor)]
    tips = [p for p in points if view.share_seen([p])[0]] or [p for p in points if view.share_seen([p])[1]] or points
    return _pointing(view, asked, tips[:40], k, number) if tips else None


def _places(anchor: Anchor) -> Sequence[XYZ]:
    if isinstance(anchor, Linear):
        return [*anchor.a.points, *anchor.b.points]
    if isinstance(anchor, Round):
        return [c for c, _ in anchor.rings]
    if isinstance(anchor, Angle):
        return [plus(anchor.apex, scaled(anchor.two, sum(anchor.spans[1]) / 2))]
    return anchor.points


def _pointing(view: Drawn, asked: Asked, tips: Sequence[XY], k: float, number: int | None) -> LeaderSize:
    """A leader to one of places, away from the middle of the view."""
    left, low, right, high = view.box
    mx, my = (left + right) / 2, (low + high) / 2
    found = []
    for x, y in tips:
        out = math.atan2(y - my, x - mx)
        for t in np.arange(WAYS) * math.tau / WAYS:
            if math.cos(t - out) > 0.2:
                found.append(((x * k, y * k), (math.cos(t), math.sin(t))))
    at = (float(np.mean([p[0] for p in tips])) * k, float(np.mean([p[1] for p in tips])) * k)
    return LeaderSize(asked.key, asked.text, found, at, number)


def _round(view: Drawn, asked: Asked, anchor: Round, k: float, number: int | None) -> LeaderSize | None:
    """A leader to a circle, in line with its middle."""
    if abs(dot(anchor.axis, view.look.towards)) < 1 - 1e-6:
        points = [view.look.flat(c) for c, _ in anchor.rings]
        return _pointing(view, asked, points[:RINGS], k, number)
    left, low, right, high = view.box
    mx, my = (left + right) / 2, (low + high) / 2
    rings = [(view.look.flat(c), r) for c, r in anchor.rings]
    rings.sort(key=lambda ring: -round(math.dist(ring[0], (mx, my)), 3))
    tips: list[tuple[XY, XY]] = []
    for level in (0, 1):  # on lines that are seen; where there are none, on any
        for c, r in rings:
            n = WAYS if r * k > 2 else WAYS // 2
            for p in circle(c, r, n):
                if view.share_seen([p])[level]:
                    out = ((p[0] - c[0]) / r, (p[1] - c[1]) / r)
                    tips.append(((p[0] * k, p[1] * k), out))
                    # of a bore and of a rounded corner the leader may come from within
                    tips.append(((p[0] * k, p[1] * k), (-out[0], -out[1])))
            if len(tips) >= 2 * WAYS * RINGS:
                break
        if tips:
            break
    if not tips:
        return _pointing(view, asked, [c for c, _ in rings][:RINGS], k, number)
    large = [((c[0] * k, c[1] * k), r * k) for c, r in rings]
    measures: Literal["radius", "diameter"] = "radius" if asked.requirement.kind == "radius" else "diameter"
    return LeaderSize(asked.key, asked.text, tips, large[0][0], number, measures, large)

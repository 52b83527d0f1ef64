"""Which views a drawing needs, and which of them shows each size best."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..part.callout import Side
from ..solid.frame import XYZ, dot, plus, scaled
from .anchors import Anchor, Angle, Feature, Linear, Round
from .looks import BESIDE, Drawn, Look, look_beside, main_look, side_of

TRUE = 0.4  # what it is worth that a size is shown in the view its sketch was drawn for
BEHIND = 0.5  # what a line that is hidden shows, against one that is seen
GAIN = 0.3  # what a further view must bring
MOST = 5  # views in projection
ORDER: dict[bool, tuple[Side, ...]] = {  # which side is looked for first, in third angle and in first
    True: ("front", "top", "right", "left", "under", "back"),
    False: ("front", "top", "left", "right", "under", "back"),
}


def worth(anchor: Anchor, view: Drawn) -> float:
    """How well a view shows a size: 0 not at all, 1 and more by lines that are seen."""
    look = view.look
    if isinstance(anchor, Linear):
        if not look.level(anchor.way):
            return 0.0
        way = look.flat(anchor.way)
        ends = [_shown(f, view, way) for f in (anchor.a, anchor.b)]
        true = TRUE if anchor.normal is not None and abs(dot(anchor.normal, look.towards)) > 1 - 1e-6 else 0.0
        return 0.1 + (0.9 + true) * min(ends)
    if isinstance(anchor, Round):
        if abs(dot(anchor.axis, look.towards)) < 1 - 1e-6:
            return 0.02 + 0.1 * max(_shown(Feature((c,), (c,)), view) for c, _ in anchor.rings)
        return 0.1 + (0.9 + TRUE) * max(_ring_shown(look, c, r, view) for c, r in anchor.rings)
    if isinstance(anchor, Angle):
        if abs(dot(anchor.normal, look.towards)) < 1 - 1e-6:
            return 0.0
        along = [
            plus(anchor.apex, scaled(way, k))
            for way, (near, far) in zip((anchor.one, anchor.two), anchor.spans, strict=True)
            if far
            for k in (near, (near + far) / 2, far)
        ]
        return 0.1 + (0.9 + TRUE) * (_shown(Feature((), tuple(along)), view) if along else 1.0)
    seen, either = view.share_seen([look.flat(p) for p in anchor.points])
    return 0.05 + 0.7 * max(min(1.0, 2 * seen), BEHIND * min(1.0, either))


def _shown(f: Feature, view: Drawn, way: tuple[float, float] | None = None) -> float:
    """1 where it lies on lines that are seen, less where it is hidden; some of its places are enough."""
    if f.rings:
        if abs(dot(f.axis, view.look.towards)) < 1 - 1e-6:
            return BEHIND * 0.8  # by its axis only
        return max(_ring_shown(view.look, c, r, view) for c, r in f.rings)
    seen, either = view.share_seen([view.look.flat(p) for p in f.proof], way)
    return max(min(1.0, 2 * seen), BEHIND * min(1.0, 2 * either))


def _ring_shown(look: Look, centre: XYZ, radius: float, view: Drawn) -> float:
    seen, either = view.share_seen(circle(look.flat(centre), radius))
    # of a rounded corner only a quarter is there
    return max(min(1.0, 5 * seen), BEHIND * min(1.0, 5 * either))


def circle(centre: tuple[float, float], radius: float, n: int = 24) -> list[tuple[float, float]]:
    """Places round a circle."""
    turns = (np.arange(n) + 0.5) * 2 * np.pi / n
    return [(centre[0] + radius * float(np.cos(t)), centre[1] + radius * float(np.sin(t))) for t in turns]


def chosen(
    anchors: Sequence[Anchor],
    sides: Mapping[Side, Drawn],
    third: bool,
    by_hand: Side | None,
    wanted: Sequence[Side] | None,
) -> list[Look]:
    """The views in projection, the main one first. ``sides``: the part as it is seen from each; ``by_hand``: the main
    side, and ``wanted`` the views, where they are chosen so."""
    table = {s: np.array([worth(a, d) for a in anchors] or [0.0]) for s, d in sides.items()}
    longest = max(d.length() for d in sides.values()) or 1.0
    order = ORDER[third]
    wide = {s: d.box[2] - d.box[0] for s, d in sides.items()}
    most = max(wide.values()) or 1.0

    def shows(s: Side) -> float:
        return float(table[s].sum()) + 1.5 * sides[s].length() / longest + wide[s] / most - 0.2 * order.index(s)

    may_be = [s for s in order if wanted is None or s in wanted] or list(order)
    main: Side = by_hand if by_hand is not None else max(may_be, key=shows)
    middle = main_look(main)
    looks = [middle]
    beside = sorted(
        (look_beside(middle, seat) for seat in BESIDE), key=lambda b: ORDER[third].index(side_of(b.towards))
    )
    if wanted is not None:
        return looks + [b for b in beside if b.name in wanted]
    best = table[main]
    while len(looks) < MOST:
        left = [b for b in beside if b not in looks]
        gains = [float(np.maximum(0.0, table[b.name] - best).sum()) for b in left]  # type: ignore[index]
        k = int(np.argmax(gains)) if gains else 0
        if not gains or (gains[k] < GAIN and len(looks) > 1):
            break
        looks.append(left[k])
        best = np.maximum(best, table[left[k].name])  # type: ignore[index]
    return sorted(looks, key=lambda v: -1 if v.seat == "main" else BESIDE.index(v.seat))


def assigned(anchors: Mapping[str, Anchor], views: Sequence[Drawn], by_hand: Mapping[str, str]) -> dict[str, Drawn]:
    """The view each size is drawn in; the first of those that show it equally well. A size that none shows is left
    out."""
    names = {v.look.name: v for v in views}
    found = {}
    for key, anchor in anchors.items():
        rated = [(worth(anchor, v), v) for v in views]
        value, view = max(rated, key=lambda p: round(p[0], 3))
        wanted = names.get(by_hand.get(key, ""))
        if wanted is not None and worth(anchor, wanted) > 0:
            view, value = wanted, 1.0
        if value > 0:
            found[key] = view
    return found

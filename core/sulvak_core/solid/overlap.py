"""What two bodies hold in common: material that would be counted twice."""

from __future__ import annotations

from .boolean import combine
from .measure import box
from .shapes import KernelError, Solid

SHARE = 1e-6  # of the smaller body: what is less is where they touch
_KNOWN = 64
_known: dict[tuple[int, int], tuple[Solid, Solid, float]] = {}  # the newest pairs; the solids stay, so ids do too


def shared_volume(a: Solid, b: Solid) -> float:
    """The volume two solids share, in mm³; 0 where they merely touch, or where it cannot be worked out."""
    key = (id(a), id(b))
    if key not in _known:
        if len(_known) >= _KNOWN:
            del _known[next(iter(_known))]
        _known[key] = (a, b, _shared(a, b))
    return _known[key][2]


def _shared(a: Solid, b: Solid) -> float:
    (low, high), (low2, high2) = box(a.shape), box(b.shape)
    deep = [min(high[i], high2[i]) - max(low[i], low2[i]) for i in range(3)]
    if min(deep) <= 1e-6 * max(1.0, *(high[i] - low[i] for i in range(3))):
        return 0.0
    try:
        found = sum(s.volume() for s in combine("intersect", [a], [b], "comparison"))
    except KernelError:
        return 0.0
    return found if found > SHARE * min(a.volume(), b.volume()) else 0.0

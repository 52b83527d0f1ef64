"""What drives the mass: how many grams a millimetre, a degree or one more of each size brings.

Each size is changed and the part rebuilt: by a step to either side (central differences), and by half of it to one,
against which the slope is checked. The four masses give the slope of the cubic through them, exact where the mass is a
polynomial of the third degree in the size, as it is for lengths of prismatic parts.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from ..part.errors import Refusal
from ..rebuild.engine import Build
from ..rebuild.state import Cache
from ..rebuild.trials import Trial, Trials
from ..steps.registry import Document
from .driver import Driver, ranked
from .sizes import Size, changed, sizes

SHARE = 0.005  # of a size: the step it is changed by
STEPS = {"length": (0.002, 0.5), "angle": (0.01, 0.5)}  # mm, degrees: no smaller, no larger
KINK = 0.05  # of the slope: how far both sides may differ and be one slope
NOTHING = 1e-9  # of the part's weight a unit: that is no slope
MOST = 400  # sizes looked at


def drivers(
    document: Document,
    made: Build,
    cache: Cache,
    share: tuple[int, int] = (0, 1),
    progress: Callable[[int, int], None] | None = None,
    stop: Callable[[], bool] | None = None,
) -> list[Driver]:
    """What each size brings, the most first: lengths, angles, then counts. Sizes that change nothing are left out.
    ``share`` (k, n): every n-th size only, from the k-th on."""
    trials = Trials(document, made, cache, stop)
    mine = sizes(document)[:MOST][share[0] :: share[1]]
    found = []
    for i, size in enumerate(mine):
        if progress:
            progress(i, len(mine))
        one = driver(trials, size)
        if one.state == "breaks" or abs(one.slope) > NOTHING * trials.now().weight() or one.state == "kink":
            found.append(one)
    return ranked(found)


def step_of(size: Size) -> float:
    """By how much a length (mm) or an angle (degrees) is changed."""
    low, high = STEPS[size.kind]
    return min(high, max(low, SHARE * abs(size.value)))


def driver(trials: Trials, size: Size) -> Driver:
    """What one size brings."""
    if size.kind == "number":
        return _count(trials, size)
    h, w0 = step_of(size), trials.now().weight()
    above, below = _at(trials, size, h), _at(trials, size, -h)
    if above.broken and below.broken:
        return Driver(size, "breaks", 0.0, step=h, said=above.said or below.said)
    if above.broken or below.broken:
        way, far = (-1.0, below) if above.broken else (1.0, above)
        near = _at(trials, size, way * h / 2)
        if near.broken:
            return Driver(size, "breaks", 0.0, step=h, said=near.said)
        slope = way * (4 * near.weight() - far.weight() - 3 * w0) / h
        said = (
            f"{'Larger' if above.broken else 'Smaller'} it breaks the part. {(above if above.broken else below).said}"
        )
        less, more = (slope, None) if above.broken else (None, slope)
        return Driver(size, "one-sided", slope, less, more, h, said.strip())
    up, down = (above.weight() - w0) / h, (w0 - below.weight()) / h
    half = _at(trials, size, h / 2)
    central = (up + down) / 2
    if half.broken:
        return Driver(size, "kink", central, down, up, h, half.said)
    # the cubic through −h, 0, h/2 and h: its slope at 0, times h
    c, s, q = h * central, (above.weight() + below.weight()) / 2 - w0, half.weight() - w0
    slope = (8 * (q - s / 4) - c) / 3 / h
    size_of = max(abs(up), abs(down))
    noise = 1e-7 * abs(w0) / max(abs(size.value), 1.0)
    if abs(up - down) > KINK * size_of + noise or abs(slope - central) > KINK * size_of + noise:
        return Driver(
            size, "kink", central, down, up, h, "It changes what meets what: either way has a slope of its own."
        )
    return Driver(size, "ok", slope, step=h)


def _count(trials: Trials, size: Size) -> Driver:
    w0 = trials.now().weight()
    more = _at(trials, size, 1.0)
    less = _at(trials, size, -1.0) if size.value >= 2 else None
    gain = None if more.broken else more.weight() - w0
    loss = None if less is None or less.broken else less.weight() - w0
    if gain is None and loss is None:
        return Driver(size, "breaks", 0.0, step=1.0, said=more.said)
    return Driver(size, "each", gain if gain is not None else -(loss or 0.0), loss, gain, 1.0)


def _at(trials: Trials, size: Size, by: float) -> Trial:
    """The part with a size changed by so much; broken where a sketch cannot follow."""
    try:
        tried = trials.of(changed(trials.document, {size: size.value + by}))
    except Refusal as refusal:
        return Trial(math.nan, None, (size.step or size.path,), refusal.sentence)
    return tried

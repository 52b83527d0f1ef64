"""A bench scale that is simulated: it weighs a made example of the part.

The example's sizes are scattered within their limits by a seed, its density about the material's; it is built for real,
and what it weighs is read with the scale's own error and resolution.
"""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass, field

from ..part.errors import Refusal
from ..rebuild.engine import Build
from ..rebuild.state import Cache
from ..rebuild.trials import Trials
from ..steps.registry import Document
from .band import Band, Play
from .sizes import Size, changed

# capacity in g, resolution in g: the smallest scale that takes the part is used
SCALES = ((200.0, 0.001), (2_000.0, 0.01), (20_000.0, 0.1), (200_000.0, 1.0), (math.inf, 10.0))
ERROR = 1.5  # times its resolution: the standard deviation of a reading
SPREAD = 1 / 6  # of the limits' distance: the standard deviation of a made size about their middle
DENSITY = 0.002  # of the density: the standard deviation of a batch of material
TOLD = 5
SURE = 3.0  # times what is likely: a size so far off its limits explains nothing


@dataclass(frozen=True)
class Suspect:
    """A size that would explain a reading by itself: how far off (mm or degrees) it would have to be, and that as a
    share of its limits (1: just at the limit)."""

    callout: str
    number: int
    text: str
    off: float
    share: float


@dataclass
class Reading:
    """``grams`` read; ``resolution`` of the scale; ``expected`` as modelled. ``inside`` the band that the limits allow,
    ``within`` the target's; None without one. ``suspects``: what would explain a reading outside the band."""

    grams: float
    resolution: float
    seed: int
    expected: float
    inside: bool
    within: bool | None
    said: str
    suspects: list[Suspect] = field(default_factory=list)


def weigh(document: Document, made: Build, cache: Cache, found: Band, seed: int) -> Reading:
    """Weigh the example that ``seed`` makes. Raises Refusal for a part without a material, or one that breaks."""
    trials = Trials(document, made, cache)
    now = trials.now().grams
    if now is None:
        raise Refusal("The part has no mass yet: choose a material first.")
    if made.failed:
        raise Refusal("A step of this part fails; put it right first, then an example can be made.")
    chance = random.Random(f"bench scale {seed}")
    values: dict[Size, float] = {}
    for p in found.plays:
        off = _scattered(p, chance)
        values |= {s: s.value + off for s in p.sizes}
    tried = trials.whole(changed(document, values)) if values else trials.now()
    if tried.broken or tried.grams is None:
        raise Refusal(f"The example that was to be made does not hold together. {tried.said}")
    true = tried.grams * (1 + chance.gauss(0, DENSITY))
    resolution = next(step for capacity, step in SCALES if true <= capacity)
    read = round((true + chance.gauss(0, ERROR * resolution)) / resolution) * resolution
    return judged(document, found, round(read, 3), resolution, seed)


def _scattered(p: Play, chance: random.Random) -> float:
    """How far a made size lies from where it is modelled: about the middle of its limits, within them."""
    low = p.low if p.low is not None else (p.high or 0.0) - 0.1
    high = p.high if p.high is not None else (p.low or 0.0) + 0.1
    while True:
        off = chance.gauss((low + high) / 2, SPREAD * (high - low))
        if low <= off <= high:
            return off


def judged(document: Document, found: Band, grams: float, resolution: float, seed: int = 0) -> Reading:
    """A reading held against the band of the limits, with the scale's and the material's own spread, and the target."""
    play = 3 * ERROR * resolution + 3 * DENSITY * found.now
    inside = found.least - play <= grams <= found.most + play
    target = document.target_mass
    within = None if target is None else abs(grams - target.grams) <= target.tolerance + resolution / 2
    said = "a made part within the band" if inside else "a made part outside the band"
    suspects = [] if inside else suspected(found.plays, grams - found.now)
    return Reading(grams, resolution, seed, found.now, inside, within, said, suspects)


def suspected(plays: Sequence[Play], excess: float) -> list[Suspect]:
    """Sizes each of which would explain ``excess`` grams by itself, the likeliest first: what lies least beyond its
    limits."""
    found = []
    for p in plays:
        if not p.slope:
            continue
        off = excess / p.slope
        limit = p.high if off > 0 else p.low
        share = abs(off / limit) if limit else math.inf
        found.append(Suspect(p.callout, p.number, p.text, off, share))
    found.sort(key=lambda s: s.share)
    return found[:TOLD]

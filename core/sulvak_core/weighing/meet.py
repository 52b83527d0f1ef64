"""Meet the mass: the value of a size, or of several within bounds, that brings the part to its target.

Every mass is that of a part that was rebuilt. Between values whose masses lie on either side of the target it is
narrowed down (Brent's method, as SciPy has it), then rounded as far as the target's tolerance lets it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from scipy.optimize import brentq

from ..inspect.prove import prove
from ..part.errors import Refusal
from ..part.units import number
from ..rebuild.engine import Build, build
from ..rebuild.state import Cache
from ..rebuild.trials import Trials
from ..steps.registry import Document
from .sizes import Size, changed

LOOKS = 8  # stretches between the bounds that are looked at for a way across the target
CLOSE = 1e-9  # of the bounds' distance to which a value is narrowed down
LOOSE = 1e-3  # of the target, where it has no tolerance: so near rounding keeps it
ROUND = (1.0, 0.5, 0.1, 0.05, 0.01, 0.001)  # to which a value is rounded, the coarsest that does
MOST = 12  # sizes at once


@dataclass(frozen=True)
class Bounds:
    """Between which values (mm or degrees) a size may go."""

    size: Size
    low: float
    high: float


@dataclass(frozen=True)
class CalloutAfter:
    """A callout whose verdict would change: before and after, with what would be measured."""

    callout: str
    number: int
    text: str
    before: str
    after: str
    said: str


@dataclass
class Met:
    """``values`` by the sizes' keys (mm or degrees), rounded to ``rounded``; None where no value does, and ``said``
    tells why. ``grams`` by a rebuild with these values; ``exact``: before rounding; ``commands`` take them."""

    said: str
    values: dict[str, float] | None = None
    exact: dict[str, float] = field(default_factory=dict)
    rounded: float | None = None
    grams: float | None = None
    callouts: list[CalloutAfter] = field(default_factory=list)
    commands: list[dict[str, object]] = field(default_factory=list)


@dataclass
class _Line:
    """The way from the sizes as they are to where they may go, by a share 0 … 1; and what the part weighs on it."""

    trials: Trials
    starts: list[float]
    ends: list[float]
    sizes: list[Size]
    weights: dict[float, float | None] = field(default_factory=dict)
    troubles: list[str] = field(default_factory=list)
    progress: Callable[[], None] = lambda: None

    def values(self, share: float) -> dict[Size, float]:
        return {s: a + (b - a) * share for s, a, b in zip(self.sizes, self.starts, self.ends, strict=True)}

    def grams(self, share: float) -> float | None:
        """None where the part does not build."""
        if share not in self.weights:
            self.progress()
            self.weights[share] = self._weigh(self.values(share))
        return self.weights[share]

    def _weigh(self, values: dict[Size, float]) -> float | None:
        try:
            tried = self.trials.of(changed(self.trials.document, values))
        except Refusal as refusal:
            self.troubles.append(refusal.sentence)
            return None
        if tried.broken:
            self.troubles.append(tried.said)
            return None
        return tried.grams


def meet(
    document: Document,
    made: Build,
    cache: Cache,
    target: float,
    tolerance: float,
    bounds: Sequence[Bounds],
    progress: Callable[[int, int], None] | None = None,
    stop: Callable[[], bool] | None = None,
) -> Met:
    """The values that bring the part to ``target`` grams. Several sizes go towards their bounds together, each by the
    same share of its way. Raises Refusal for what cannot be asked."""
    _check(document, made, bounds, target)
    trials = Trials(document, made, cache, stop)
    now = trials.now().grams
    if now is None:
        raise Refusal("The part has no mass yet: choose a material first.")
    done = 0

    def step() -> None:
        nonlocal done
        done += 1
        if progress:
            progress(done, 4 * LOOKS)

    if len(bounds) == 1:
        b = bounds[0]
        line = _Line(trials, [b.low], [b.high], [b.size], progress=step)
        start = (b.size.value - b.low) / (b.high - b.low)
    else:
        ends = _ways(trials, bounds, target > now, step)
        line = _Line(trials, [b.size.value for b in bounds], ends, [b.size for b in bounds], progress=step)
        start = 0.0
    crossing = _crossing(line, start, target)
    if crossing is None:
        return Met(_why_not(line, bounds, target))
    share = _narrowed(line, crossing, target)
    return _finished(document, made, cache, line, share, target, tolerance)


def _check(document: Document, made: Build, bounds: Sequence[Bounds], target: float) -> None:
    if not 1 <= len(bounds) <= MOST:
        raise Refusal(f"Choose one size, or up to {MOST}, that may change.")
    if target <= 0:
        raise Refusal("A target is more than nothing; type the grams the part may weigh.")
    if made.failed:
        raise Refusal("A step of this part fails; put it right first, then its mass can be met.")
    for b in bounds:
        if b.size.kind == "number":
            raise Refusal(f"“{b.size.what}” is a count, which goes by whole numbers; change it by hand.")
        if not b.low < b.high:
            raise Refusal(f"The bounds of “{b.size.what}” are the wrong way round: the lower one comes first.")


def _ways(trials: Trials, bounds: Sequence[Bounds], heavier: bool, step: Callable[[], None]) -> list[float]:
    """For each of several sizes the bound that leads towards the target; where it stands when neither does."""
    now = trials.now().weight()
    ends = []
    for b in bounds:
        best, end = 0.0, b.size.value
        for bound in (b.low, b.high):
            step()
            try:
                tried = trials.of(changed(trials.document, {b.size: bound}))
            except Refusal:
                continue
            gain = tried.weight() - now
            if not tried.broken and (gain > 0) == heavier and abs(gain) > best:
                best, end = abs(gain), bound
        ends.append(end)
    return ends


def _crossing(line: _Line, start: float, target: float) -> tuple[float, float] | None:
    """Two neighbouring shares whose masses lie on either side of the target, the nearest to where the sizes are."""
    places = sorted({0.0, 1.0, min(max(start, 0.0), 1.0), *(k / LOOKS for k in range(1, LOOKS))})
    order = sorted(range(len(places) - 1), key=lambda i: max(abs(places[i] - start), abs(places[i + 1] - start)))
    for i in order:
        a, b = line.grams(places[i]), line.grams(places[i + 1])
        if a is not None and b is not None and (a - target) * (b - target) <= 0:
            return places[i], places[i + 1]
    return None


def _narrowed(line: _Line, crossing: tuple[float, float], target: float) -> float:
    low, high = crossing

    def off(share: float) -> float:
        grams = line.grams(share)
        if grams is None:
            raise Refusal(f"Between the values that were tried the part breaks. {line.troubles[-1]}".strip())
        return grams - target

    if off(low) == 0.0:
        return low
    if off(high) == 0.0:
        return high
    return float(brentq(off, low, high, xtol=CLOSE, rtol=1e-12, maxiter=60))


def _why_not(line: _Line, bounds: Sequence[Bounds], target: float) -> str:
    """Why no value within the bounds meets the target, with how far they go."""
    known = [w for w in line.weights.values() if w is not None]
    if not known:
        why = f" {line.troubles[0]}" if line.troubles else ""
        return f"With none of the values between the bounds the part can be built.{why}"
    what = "these bounds" if len(bounds) > 1 else f"{number(bounds[0].low)} and {number(bounds[0].high)}"
    said = f"Between {what} the part weighs {number(min(known), 3)} to {number(max(known), 3)} g: "
    said += f"{number(target, 3)} g is out of reach. Widen the bounds, or let another size change too."
    broken = sum(w is None for w in line.weights.values())
    return said + (f" With {broken} of the values tried it breaks: {line.troubles[0]}" if broken else "")


def _finished(
    document: Document, made: Build, cache: Cache, line: _Line, share: float, target: float, tolerance: float
) -> Met:
    """The values rounded as far as they may, the part built whole with them, and what becomes of its callouts."""
    exact = line.values(share)
    allowed = tolerance or LOOSE * target
    best: tuple[dict[Size, float], float | None] = (exact, None)
    lows = {s: min(a, b) for s, a, b in zip(line.sizes, line.starts, line.ends, strict=True)}
    highs = {s: max(a, b) for s, a, b in zip(line.sizes, line.starts, line.ends, strict=True)}
    for grid in ROUND:
        tried = {s: round(round(v / grid) * grid, 6) for s, v in exact.items()}
        if not all(lows[s] - 1e-9 <= v <= highs[s] + 1e-9 for s, v in tried.items()):
            continue
        grams = line._weigh(tried)
        if grams is not None and abs(grams - target) <= allowed:
            best = (tried, grid)
            break
    values, grid_used = best
    if all(abs(v - s.value) < 1e-9 for s, v in values.items()):
        return Met(f"The part weighs {number(_now(line), 3)} g as it is: that is near enough, nothing need change.")
    after_document = changed(document, values)
    after = build(after_document, cache)
    weighed = Trials(after_document, after, cache).now().grams
    return Met(
        "",
        {s.key: v for s, v in values.items()},
        {s.key: v for s, v in exact.items()},
        grid_used,
        weighed,
        _callouts(document, made, after_document, after),
        [
            {"do": "set_expression", "step": s.step, "path": s.path, "expr": typed(s, v, document)}
            for s, v in values.items()
        ],
    )


def _now(line: _Line) -> float:
    """What the part weighs as it is."""
    return line.trials.now().grams or 0.0


def typed(size: Size, value: float, document: Document) -> str:
    """A value as one would type it in the part's own unit."""
    if size.kind == "angle":
        return f"{number(value, 6)}°"
    return number(value, 6) if document.unit == "mm" else f"{number(value, 6)} mm"


def _callouts(before: Document, made: Build, after: Document, built: Build) -> list[CalloutAfter]:
    was = {v["callout"]: v for v in prove(before, made)}
    found = []
    for v in prove(after, built):
        old = was.get(v["callout"])
        if old is not None and old["state"] != v["state"]:
            text = next(c.text for c in after.callouts if c.id == v["callout"])
            found.append(CalloutAfter(v["callout"], v["number"], text, old["state"], v["state"], v["said"]))
    return found

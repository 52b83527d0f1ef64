"""The lightest and the heaviest part that limits allow, built for real."""

from __future__ import annotations

from collections.abc import Sequence

from ..part.errors import Refusal
from ..rebuild.engine import Build
from ..rebuild.state import Cache
from ..rebuild.trials import Trials
from ..steps.registry import Document
from .band import Play
from .sizes import Size, changed


def extremes(document: Document, made: Build, cache: Cache, plays: Sequence[Play]) -> tuple[float, float]:
    """The masses (g, or mm³ without a material) of the part built with every size at the limit that makes it lightest,
    and heaviest. Raises Refusal where it does not build there."""
    trials = Trials(document, made, cache)
    weights = []
    for heavy in (False, True):
        values: dict[Size, float] = {}
        for p in plays:
            ends = [v for v in (p.low, p.high) if v is not None]
            way = p.slope if heavy else -p.slope
            best = max(ends) if way > 0 else min(ends)
            if way * best > 0:
                values |= {s: s.value + best for s in p.sizes}
        tried = trials.whole(changed(document, values)) if values else trials.now()
        if tried.broken:
            raise Refusal(
                f"With all sizes at their {'heaviest' if heavy else 'lightest'} the part breaks. {tried.said}"
            )
        weights.append(tried.weight())
    return weights[0], weights[1]

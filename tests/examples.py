"""How many examples a property is tried with: few in every run, many when asked (`./sulvak test --thorough`)."""

from __future__ import annotations

import itertools
import os
from collections.abc import Sequence

THOROUGH = bool(os.environ.get("SULVAK_THOROUGH"))


def examples(many: int) -> int:
    """A number of examples for now, where ``many`` are enough to be sure of the property."""
    return 2 * many if THOROUGH else max(6, 2 * many // 5)


def in_turn(these: Sequence[str], those: Sequence[str]) -> list[tuple[str, str]]:
    """Pairs in which each of both comes: every pair when asked to be thorough, else each of ``these`` with the next of
    ``those`` in turn."""
    if THOROUGH:
        return list(itertools.product(these, those))
    return [(one, those[k % len(those)]) for k, one in enumerate(these)]

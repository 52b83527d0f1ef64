"""How many examples a property is tried with: few in every run, many when asked (`./sulvak test --thorough`)."""

from __future__ import annotations

import os

THOROUGH = bool(os.environ.get("SULVAK_THOROUGH"))


def examples(many: int) -> int:
    """A number of examples for now, where ``many`` are enough to be sure of the property."""
    return 2 * many if THOROUGH else max(6, 2 * many // 5)

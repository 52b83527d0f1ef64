"""What measuring a size gives, and what it says where nothing on the solid shows it."""

from __future__ import annotations

Measured = tuple[float, int | None, list[str]]  # mm or degrees, how many places show it, what else is wrong


class Unmeasurable(Exception):
    """Nothing on the solid shows this size; the sentence says why."""

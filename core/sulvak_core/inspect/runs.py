"""Runs of places (n × 2) looked at in small steps: which pieces of one lie apart from all of others."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

Array = NDArray[np.float64]
SHORT = 4.0  # times the tolerance: a shorter piece is a corner's or a crossing's


def run_length(points: Array) -> float:
    d = np.diff(points, axis=0)
    return float(np.sqrt((d * d).sum(axis=1)).sum())


def _stepped(runs: Sequence[Array], step: float) -> tuple[Array, NDArray[np.int64]]:
    """Places along runs, each ``step`` or less from the next, both ends of every run among them (n × 2); and how many
    of them each run has. All runs are walked at once, one behind the other, as if they were one."""
    runs = [r if len(r) > 1 else np.repeat(r, 2, axis=0) for r in runs]
    corners = np.concatenate(runs)
    first = np.cumsum([0, *(len(r) for r in runs)])
    d = np.diff(corners, axis=0)
    length = np.sqrt((d * d).sum(axis=1))
    length[first[1:-1] - 1] = 0.0  # from the end of one run to the beginning of the next
    far = np.concatenate([[0.0], np.cumsum(length)])
    begin, end = far[first[:-1]], far[first[1:] - 1]
    count = np.maximum(2, np.ceil((end - begin) / step).astype(np.int64) + 1)
    number = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count)
    at = np.repeat(begin, count) + number * np.repeat((end - begin) / (count - 1), count)
    # which corner each place comes after, within its own run: a run may begin where the one before it ended
    after = np.clip(
        np.searchsorted(far, at, side="right") - 1, np.repeat(first[:-1], count), np.repeat(first[1:] - 2, count)
    )
    share = (at - far[after]) / np.where(length[after] > 0, length[after], 1.0)
    return corners[after] + np.clip(share, 0.0, 1.0)[:, None] * (corners[after + 1] - corners[after]), count


def places(runs: list[Array], step: float) -> Any:
    """All places of runs, to be searched; None where there are none."""
    long = [r for r in runs if len(r) > 1]
    return cKDTree(_stepped(long, step)[0]) if long else None


def runs_apart(runs: list[Array], tree: Any, near: float, step: float) -> list[list[Array]]:
    """Of each run the pieces that lie farther from all of a tree's places than ``near``. Pieces too short to be more
    than a corner's, and places where another line merely crosses, are counted to what is beside them."""
    if not runs:
        return []
    at, counts = _stepped(runs, step)
    each = np.split(at, np.cumsum(counts)[:-1])
    if tree is None:
        return [[a[[0, -1]] if len(r) == 2 else a] for r, a in zip(runs, each, strict=True)]
    reach = math.hypot(near, step / 2)
    off = tree.query(at, distance_upper_bound=reach)[0] > reach
    return [
        _pieces(a, o, near) if o.any() else [] for a, o in zip(each, np.split(off, np.cumsum(counts)[:-1]), strict=True)
    ]


def _pieces(at: Array, off: NDArray[np.bool_], near: float) -> list[Array]:
    spacing = run_length(at) / max(1, len(at) - 1)
    least = max(1, round(SHORT * near / max(spacing, 1e-12)))
    off = _smoothed(_smoothed(off, False, least), True, least)
    ends = np.flatnonzero(np.diff(np.concatenate([[0], off.astype(int), [0]])))
    return [_thinned(at[a:b]) for a, b in zip(ends[::2], ends[1::2], strict=True) if b - a > 1]


def _smoothed(off: NDArray[np.bool_], value: bool, least: int) -> NDArray[np.bool_]:
    """Stretches of ``value`` shorter than ``least`` places between others turned over; at the ends they stay."""
    edges = np.flatnonzero(np.diff(off.astype(int))) + 1
    made = off.copy()
    for a, b in itertools.pairwise(edges):
        if off[a] == value and b - a < least:
            made[a:b] = not value
    return made


def _thinned(points: Array) -> Array:
    """A run with the places left out that lie on the line between those before and behind."""
    if len(points) < 3:
        return points
    d = np.diff(points, axis=0)
    bent = np.abs(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0]) > 1e-9 * (np.abs(d[:-1]).sum(axis=1) + 1e-12)
    keep = np.concatenate([[True], bent, [True]])
    found: Array = points[keep]
    return found

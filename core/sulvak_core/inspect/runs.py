"""Runs of places (n × 2) looked at in small steps: which pieces of one lie apart from all of others."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

Array = NDArray[np.float64]
SHORT = 4.0  # times the tolerance: a shorter piece is a corner's or a crossing's


def run_length(points: Array) -> float:
    d = np.diff(points, axis=0)
    return float(np.sqrt((d * d).sum(axis=1)).sum())


def _stepped(points: Array, step: float) -> Array:
    """Places along a run, ``step`` or less from each other, both ends among them."""
    d = np.diff(points, axis=0)
    lengths = np.sqrt((d * d).sum(axis=1))
    far = np.concatenate([[0.0], np.cumsum(lengths)])
    count = max(2, math.ceil(far[-1] / step) + 1)
    at = np.linspace(0.0, far[-1], count)
    return np.stack([np.interp(at, far, points[:, i]) for i in (0, 1)], axis=1)


def places(runs: list[Array], step: float) -> Any:
    """All places of runs, to be searched; None where there are none."""
    stepped = [_stepped(r, step) for r in runs if len(r) > 1]
    return cKDTree(np.concatenate(stepped)) if stepped else None


def runs_apart(points: Array, tree: Any, near: float, step: float) -> list[Array]:
    """The pieces of a run that lie farther from all of a tree's places than ``near``. Pieces too short to be more than
    a corner's, and places where another line merely crosses, are counted to what is beside them."""
    at = _stepped(points, step)
    if tree is None:
        return [at[[0, -1]] if len(points) == 2 else at]
    reach = math.hypot(near, step / 2)
    off = tree.query(at, distance_upper_bound=reach)[0] > reach
    if not off.any():
        return []
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

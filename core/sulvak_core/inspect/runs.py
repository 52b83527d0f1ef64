"""Runs of places (n × 2) looked at in small steps: which pieces of one lie apart from all of others."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

Array = NDArray[np.float64]
Marks = NDArray[np.bool_]
SHORT = 4.0  # times the tolerance: a shorter piece is a corner's or a crossing's


def run_length(points: Array) -> float:
    d = np.diff(points, axis=0)
    return float(np.sqrt((d * d).sum(axis=1)).sum())


@dataclass(frozen=True)
class Walked:
    """Runs looked at in small steps. ``at``: places along them, both ends of every run among them, one run behind the
    other (n × 2); ``counts``: how many of these each run has; ``lengths`` of the runs; ``corners``: how many places
    each run was given by."""

    at: Array
    counts: NDArray[np.int64]
    lengths: Array
    corners: NDArray[np.int64]

    @cached_property
    def tree(self) -> Any:
        """The places, to be searched; None where there are none. A run of a single place is no line."""
        lines = np.repeat(self.corners > 1, self.counts)
        return cKDTree(self.at[lines], balanced_tree=False) if lines.any() else None


def walked(runs: Sequence[Array], step: float) -> Walked:
    """Runs in steps of ``step`` or less. All are walked at once, one behind the other, as if they were one."""
    if not runs:
        return Walked(np.zeros((0, 2)), np.zeros(0, np.int64), np.zeros(0), np.zeros(0, np.int64))
    given = np.array([len(r) for r in runs])
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
    places = corners[after] + np.clip(share, 0.0, 1.0)[:, None] * (corners[after + 1] - corners[after])
    return Walked(places, count, end - begin, given)


def apart(at: Array, others: Iterable[Walked], near: float, step: float) -> Marks:
    """Which places lie farther than ``near`` from all lines that were walked in steps of ``step``."""
    reach = math.hypot(near, step / 2)
    off = np.ones(len(at), bool)
    for other in others:
        if other.tree is not None and off.any():
            off[off] = other.tree.query(at[off], distance_upper_bound=reach)[0] > reach
    return off


def pieces(runs: Walked, at: Array, off: Marks, near: float) -> list[list[Array]]:
    """Of each run the pieces that are ``off``, by the places ``at`` which the walked ones lie in the end. Pieces too
    short to be more than a corner's, and places where another line merely crosses, are counted to what is beside
    them."""
    found: list[list[Array]] = [[] for _ in runs.counts]
    end = np.cumsum(runs.counts)
    begin = end - runs.counts
    if not len(end):
        return found
    any_off = np.logical_or.reduceat(off, begin)
    all_off = np.logical_and.reduceat(off, begin)
    for k in np.flatnonzero(any_off):
        own = at[begin[k] : end[k]]
        if all_off[k]:
            found[k] = [own[[0, -1]] if runs.corners[k] == 2 else _thinned(own)]
        else:
            found[k] = _pieces(own, off[begin[k] : end[k]], near)
    return found


def _pieces(at: Array, off: Marks, near: float) -> list[Array]:
    spacing = run_length(at) / max(1, len(at) - 1)
    least = max(1, round(SHORT * near / max(spacing, 1e-12)))
    off = _smoothed(_smoothed(off, False, least), True, least)
    ends = np.flatnonzero(np.diff(np.concatenate([[0], off.astype(int), [0]])))
    return [_thinned(at[a:b]) for a, b in zip(ends[::2], ends[1::2], strict=True) if b - a > 1]


def _smoothed(off: Marks, value: bool, least: int) -> Marks:
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

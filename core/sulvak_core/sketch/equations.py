"""A cluster's equations, and Newton's iteration on them.

For residuals f and derivative J the step is −W⁻¹Jᵀ(J·W⁻¹·Jᵀ + λI)⁻¹f: of all steps that mend f it
moves the geometry least, each free variable weighted by how many sketch variables follow it
(Levenberg's damping; see Nocedal & Wright, *Numerical Optimization*, 2nd ed., chapter 10). Rows of a
sketch meet few others, so in the order of Cuthill and McKee the matrix is a narrow band, factored as one.
"""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from .reduce import Cluster, Reduced
from .rows import Batch, Floats, Ints

GOOD = 1e-13  # residual (scaled) that ends the iteration
ACCEPT = 1e-10  # residual that counts as solved if no step gets further
STEPS = 60
STALE, SLOW = 6, 0.98  # so many steps in a row that leave so much of the sum of squares: the rows contradict each other
NARROW = 40  # rows up to which looking for a band costs more than the whole matrix


class _Band(NamedTuple):
    """Where each product of two derivatives goes in the band of J·W⁻¹·Jᵀ (lower diagonals × rows)."""

    order: Ints  # row of the band for each row of J
    width: int
    one: Ints
    other: Ints
    flat: Ints


class ClusterEquations:
    """A cluster's rows as functions of its own free variables."""

    def __init__(self, reduced: Reduced, cluster: Cluster) -> None:
        self.reduced, self.cluster = reduced, cluster
        self.rows = [reduced.rows[i] for i in cluster.rows]
        # only the variables these rows touch, renumbered
        batch = reduced.batch if len(self.rows) == reduced.batch.count else Batch(self.rows)
        used = np.union1d(batch.cols, [0])
        small = np.zeros(len(reduced.column), dtype=np.intp)
        small[used] = np.arange(len(used))
        self.batch = batch.renumbered(small)
        self.sign, self.offset = reduced.sign[used], reduced.offset[used]
        place = np.full(reduced.free + 1, -1, dtype=np.intp)
        place[cluster.free] = np.arange(len(cluster.free))
        self.column = np.where(reduced.column[used] >= 0, place[reduced.column[used]], -1)
        cols = self.column[self.batch.cols]
        self.keep = np.flatnonzero(cols >= 0)
        self.entry_rows, self.entry_cols = self.batch.rows[self.keep], cols[self.keep]
        self.entry_sign = self.sign[self.batch.cols][self.keep]
        self.shape = (len(self.rows), len(cluster.free))
        self.padded = np.zeros(self.shape[1] + 1)  # column −1: what is fixed
        self.flat = self.entry_rows * self.shape[1] + self.entry_cols

    def evaluate(self, z: Floats) -> tuple[Floats, Floats]:
        self.padded[:-1] = z
        return self.batch.evaluate(self.sign * self.padded[self.column] + self.offset)

    def jacobian(self, entries: Floats) -> Floats:
        """Dense derivative (rows × free variables)."""
        values = entries[self.keep] * self.entry_sign
        flat: Any = np.bincount(self.flat, values, self.shape[0] * self.shape[1])
        return flat.reshape(self.shape)

    @cached_property
    def band(self) -> _Band:
        m, n = self.shape
        touches: Any = scipy.sparse.csr_matrix(
            (np.ones(len(self.keep)), (self.entry_rows, self.entry_cols)), shape=self.shape
        )
        order = np.empty(m, dtype=np.intp)
        order[scipy.sparse.csgraph.reverse_cuthill_mckee((touches @ touches.T).tocsr(), symmetric_mode=True)] = (
            np.arange(m)
        )
        # every entry with every entry of its column
        by_column = np.argsort(self.entry_cols, kind="stable")
        count = np.bincount(self.entry_cols, minlength=n)
        first = (np.cumsum(count) - count)[self.entry_cols]
        many = count[self.entry_cols]
        one = np.repeat(np.arange(len(many)), many)
        within = np.arange(len(one)) - np.repeat(np.cumsum(many) - many, many)
        other = by_column[np.repeat(first, many) + within]
        below = order[self.entry_rows[one]] - order[self.entry_rows[other]]
        lower = below >= 0
        one, other, below = one[lower], other[lower], below[lower]
        return _Band(order, int(below.max(initial=0)), one, other, below * m + order[self.entry_rows[other]])

    def step(self, f: Floats, entries: Floats, weight: Floats, damping: float) -> Floats:
        """The damped least move that mends ``f``. Raises LinAlgError when the rows cannot be told apart."""
        m, n = self.shape
        if m <= NARROW:
            J = self.jacobian(entries)
            JW = J / weight
            A = JW @ J.T
            diagonal = A.ravel()[:: m + 1]
            diagonal += damping * (1.0 + diagonal.sum() / m)
            _, y, info = scipy.linalg.lapack.dposv(A, f, overwrite_a=1)
            if info:
                raise np.linalg.LinAlgError
            return -(y @ JW)
        band = self.band
        values = entries[self.keep] * self.entry_sign
        light = values / weight[self.entry_cols]
        B: Any = np.bincount(band.flat, light[band.one] * values[band.other], (band.width + 1) * m)
        B = B.reshape(band.width + 1, m)
        B[0] += damping * (1.0 + B[0].mean())
        right = np.empty(m)
        right[band.order] = f
        _, y, info = scipy.linalg.lapack.dpbsv(B, right, lower=1, overwrite_ab=1)
        if info:
            raise np.linalg.LinAlgError
        move: Any = np.bincount(self.entry_cols, light * y[band.order][self.entry_rows], n)
        return -move


def settle(equations: ClusterEquations, z: Floats, weight: Floats) -> tuple[Floats, float, Floats]:
    """Newton's iteration on one cluster. Returns (z, worst residual, residuals)."""
    f, entries = equations.evaluate(z)
    worst = float(np.abs(f).max(initial=0.0))
    damping = 1e-12
    stale = 0
    for _ in range(STEPS):
        if worst <= GOOD or not math.isfinite(worst):
            break
        try:
            step = equations.step(f, entries, weight, damping)
        except np.linalg.LinAlgError:
            damping = max(damping * 100, 1e-10)
            if damping > 1:
                break
            continue
        longest = float(np.abs(step).max(initial=0.0))
        if longest > 0.5:
            step *= 0.5 / longest
        norm, share, moved = float(f @ f), 1.0, False
        while share > 1e-3:
            new_f, new_entries = equations.evaluate(z + share * step)
            if float(new_f @ new_f) < norm:
                z = z + share * step
                f, entries, moved = new_f, new_entries, True
                break
            share *= 0.5
        if not moved:
            if damping > 1e-2 or worst <= ACCEPT:
                break
            damping = max(damping * 100, 1e-10)
            continue
        stale = stale + 1 if float(f @ f) > SLOW * norm else 0
        if stale >= STALE and worst > ACCEPT:
            break
        damping = max(damping / 10, 1e-12)
        worst = float(np.abs(f).max(initial=0.0))
    return z, worst, f

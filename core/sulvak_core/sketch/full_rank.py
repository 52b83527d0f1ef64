"""What moves in a large cluster whose rows are plainly independent, without a factorisation of the whole.

The rows of a sketch meet few others, so J·Jᵀ is a narrow band in the order of Cuthill and McKee, and its Cholesky
factor takes little. It squares the condition of J: so it says nothing where the rows are anywhere near dependent, and
``freedom`` looks with pivoting then. The projection on what J leaves free is e − Jᵀ(J·Jᵀ)⁻¹J·e, taken again against
rounding (Golub & Van Loan, *Matrix Computations*, 4th ed., 5.5 and 5.3.8).
"""

from __future__ import annotations

from typing import Any

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from .rows import Floats

LARGE = 100  # rows from which it is worth it
FEW = 50  # free motions up to which they are found themselves
PLAIN = 1e-13  # least over largest eigenvalue of J·Jᵀ that tells rows apart for certain; pivoting goes to 1e-16
ROUGH = 1e-3  # what is left of a unit step's square, where the first projection is good enough
STILL, MOVES = 1e-7, 1e-6  # what is left of a unit step: less is none, more is some, between them is not said


def moving(J: Floats) -> np.ndarray[Any, np.dtype[np.bool_]] | None:
    """Which variables move while the row-scaled ``J`` (rows × variables) stays, if its rows are independent; None where
    that is not plain."""
    m, n = J.shape
    if m < LARGE or m > n:
        return None
    sparse: Any = scipy.sparse.csr_matrix(J)
    order = scipy.sparse.csgraph.reverse_cuthill_mckee((sparse @ sparse.T).tocsr(), symmetric_mode=True)
    sparse = sparse[order]
    gram = (sparse @ sparse.T).tocoo()
    below = gram.row - gram.col
    lower = below >= 0
    width = int(below.max(initial=0)) + 1
    if width > m // 4:
        return None  # no band to speak of
    band = np.zeros((width, m))
    band[below[lower], gram.col[lower]] = gram.data[lower]
    try:
        factor = scipy.linalg.cholesky_banded(band, lower=True, check_finite=False)
    except np.linalg.LinAlgError:
        return None

    def solved(right: Floats) -> Floats:
        found: Floats = scipy.linalg.cho_solve_banded((factor, True), right, check_finite=False)
        return found

    if _least(solved, m) < PLAIN * float(abs(gram).sum(axis=1).max()):
        return None

    def projected(steps: Floats) -> Floats:
        for _ in range(5):
            steps = steps - sparse.T @ solved(sparse @ steps)
        return steps

    if m == n:
        return np.zeros(n, dtype=bool)
    if n - m <= FEW:  # that many directions span all motions
        basis, _ = np.linalg.qr(projected(np.random.default_rng(7).normal(size=(n, n - m))))
        length = np.linalg.norm(projected(basis), axis=1)
    else:
        off = 1.0 - np.asarray(sparse.multiply(solved(sparse.toarray())).sum(axis=0)).ravel()
        length = np.sqrt(np.maximum(off, 0.0))
        left = np.flatnonzero(off < ROUGH)
        steps = np.zeros((n, len(left)))
        steps[left, np.arange(len(left))] = 1.0
        length[left] = np.linalg.norm(projected(steps), axis=0)
    if ((length > STILL) & (length < MOVES)).any():
        return None
    return length >= MOVES


def _least(solved: Any, m: int) -> float:
    """About the least eigenvalue, from above, of what ``solved`` divides by (inverse iteration)."""
    v = np.random.default_rng(7).normal(size=m)
    size = 1.0
    for _ in range(12):
        v = solved(v / np.linalg.norm(v))
        size = float(np.linalg.norm(v))
    return 1.0 / size

"""Substitution before any matrix: rows that settle one variable by another leave the system.

A row is simplified with what the ties already know. A distance between points at the same height
is a plain difference; a line known to be level makes point–line distances plain differences, and so
on. Directions come from where the geometry is, so a line never turns over.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from . import rows as R
from .rows import Batch, Floats, Ints, Row
from .substitution import Ties
from .variables import System

_ONE_LESS_ONE = (1.0, -1.0)
SNUG = 1e-9  # scaled: below this two lengths are the same


@dataclass
class Cluster:
    """Rows and free variables that hang together; indices into Reduced.rows and the free vector z."""

    rows: list[int]
    free: Ints


@dataclass
class Reduced:
    """What is left of a system. Every variable is ``sign·z[column] + offset`` (column −1: fixed)."""

    system: System
    rows: list[Row]
    column: Ints
    sign: Floats
    offset: Floats
    weight: Floats
    start: Floats
    clusters: list[Cluster]
    batch: Batch  # all of ``rows``
    dependent: list[tuple[Row, float]]  # rows that followed from others, and by how much they miss

    @property
    def free(self) -> int:
        return len(self.start)

    def spread(self, z: Floats) -> Floats:
        """All variables from the free ones."""
        padded = np.append(z, 0.0)
        return self.sign * padded[self.column] + self.offset


def reduce(system: System, heavy: dict[int, float] | None = None) -> Reduced:
    """Ties first, then what hangs together. ``heavy`` gives variables that should follow their present value more."""
    ties = Ties(len(system.x))
    ties.parent[0] = 0
    left, dependent = _substitute(system, ties)
    roots, sign, offset = ties.arrays()
    free_roots = np.flatnonzero(np.bincount(roots, minlength=len(roots)))[1:]  # all but the ground
    lookup = np.full(len(roots), -1, dtype=np.intp)
    lookup[free_roots] = np.arange(len(free_roots))
    column = lookup[roots]
    # least move: a root starts at the mean of what its members would want
    weights = np.ones(len(roots))
    for i, w in (heavy or {}).items():
        weights[i] = w
    total: Floats = np.bincount(roots, weights)[free_roots].astype(float)
    start = np.bincount(roots, weights * sign * (system.x - offset))[free_roots] / np.maximum(total, 1e-300)
    batch = Batch(left)
    clusters = _clusters(batch, column, len(free_roots))
    return Reduced(system, left, column, sign, offset, total, start, clusters, batch, dependent)


def _clusters(batch: Batch, column: Ints, free: int) -> list[Cluster]:
    """Rows joined by the free variables they share."""
    parent = list(range(batch.count))

    def find(i: int) -> int:
        while parent[i] != i:
            parent[i] = i = parent[parent[i]]
        return i

    first = [-1] * free  # the first row that touches a variable
    for col, row in zip(column[batch.cols].tolist(), batch.rows.tolist(), strict=True):
        if col < 0:
            continue
        before = first[col]
        if before < 0:
            first[col] = row
        elif before != row:
            a, b = find(before), find(row)
            if a != b:
                parent[a] = b
    rows: dict[int, list[int]] = {}
    for row in range(batch.count):
        rows.setdefault(find(row), []).append(row)
    members: dict[int, list[int]] = {}
    for col, row in enumerate(first):
        if row >= 0:
            members.setdefault(find(row), []).append(col)
    return [Cluster(r, np.array(members.get(root, []), dtype=np.intp)) for root, r in rows.items()]


def _substitute(system: System, ties: Ties) -> tuple[list[Row], list[tuple[Row, float]]]:
    simpler = _Simplifier(system, ties)
    dependent: list[tuple[Row, float]] = []

    def through(rows: list[Row]) -> list[Row]:
        left = []
        for row in rows:
            linear = simpler.linear(row)
            if linear is None:
                left.append(row)
                continue
            done, miss = _take(linear, ties)
            if not done:
                left.append(linear)
            elif miss is not None:
                dependent.append((row, miss))
        return left

    # what is linear as it stands goes first, so that the others find most ties made
    left, others = [], []
    for row in system.rows:
        if row.kind != R.LINEAR:
            others.append(row)
        elif row.value != 0.0 or row.signs != _ONE_LESS_ONE or not ties.same(*row.vars):
            done, miss = _take(row, ties)
            if not done:
                left.append(row)
            elif miss is not None:
                dependent.append((row, miss))
    left += others
    count = -1
    while len(left) != count:
        count, left = len(left), through(left)
    return left, dependent


def _take(row: Row, ties: Ties) -> tuple[bool, float | None]:
    """Use a linear row as a tie if it can be one. Returns (used up, miss if it was dependent)."""
    if row.signs == _ONE_LESS_ONE:
        return True, ties.tie(row.vars[0], row.vars[1], 1.0, row.value)
    terms: dict[int, float] = {}
    rest = row.value
    for v, k in zip(row.vars, row.signs, strict=True):
        root, sign, offset = ties.find(v)
        rest -= k * offset
        if root != 0:
            terms[root] = terms.get(root, 0.0) + k * sign
    live = [(v, k) for v, k in terms.items() if abs(k) > 1e-12]
    if not live:
        return True, abs(rest)
    if len(live) == 1:
        ties.tie(live[0][0], 0, 1.0, rest / live[0][1])
        return True, None
    if len(live) == 2 and abs(abs(live[0][1]) - abs(live[1][1])) < 1e-12:
        (i, ki), (j, kj) = live
        ties.tie(i, j, -round(kj / ki), rest / ki)
        return True, None
    return False, None


class _Simplifier:
    def __init__(self, system: System, ties: Ties) -> None:
        self.x, self.ties = system.x, ties
        self.rules = {kind: getattr(self, f"_{kind.lower()}") for kind in R.KINDS if kind != R.LINEAR}

    def linear(self, row: Row) -> Row | None:
        """``row`` as a LINEAR row if the ties make it one, else None."""
        if row.kind == R.LINEAR:
            return row
        found = self.rules[row.kind](row.vars, row.signs, row.value)
        if found is None:
            return None
        terms, value = found
        return Row(R.LINEAR, tuple(terms), value, row.owner, tuple(terms.values()))

    def level(self, a: int, b: int) -> bool:
        d = self.ties.difference(a, b)
        return d is not None and abs(d) < 1e-13

    def direction(self, ax: int, ay: int, bx: int, by: int) -> tuple[int, float] | None:
        """(0, ±1) for a level line, (1, ±1) for an upright one, None otherwise."""
        if self.level(ay, by) and not self.level(ax, bx):
            return 0, 1.0 if self.x[bx] >= self.x[ax] else -1.0
        if self.level(ax, bx) and not self.level(ay, by):
            return 1, 1.0 if self.x[by] >= self.x[ay] else -1.0
        return None

    def _span(self, v, s, value):  # type: ignore[no-untyped-def]
        radii = 0.0
        loose: list[tuple[int, float]] = []
        for i, k in ((v[4], s[0]), (v[5], s[1])):
            if k:
                known = self.ties.fixed(i)
                if known is None:
                    loose.append((i, k))
                else:
                    radii += k * known
        reach = value + radii
        for axis in (0, 1):
            other = self.ties.difference(v[1 - axis], v[3 - axis])
            if other is None:
                continue
            p, q = v[axis], v[2 + axis]
            gap = self.x[p] - self.x[q]
            if abs(gap) < SNUG:
                return None
            way = 1.0 if gap > 0 else -1.0
            if loose:
                if abs(other) > 1e-13:
                    return None
                return _sum([(p, way), (q, -way), *((i, -k) for i, k in loose)]), reach
            if reach * reach - other * other <= SNUG * SNUG:
                return None
            return _sum([(p, 1.0), (q, -1.0)]), way * math.sqrt(reach * reach - other * other)
        return None

    def _off(self, v, s, value):  # type: ignore[no-untyped-def]
        found = self.direction(*v[2:6])
        if found is None:
            return None
        axis, way = found
        k = way if axis == 0 else -way
        p, a = (v[1], v[3]) if axis == 0 else (v[0], v[2])
        return _sum([(p, k), (a, -k), (v[6], -s[0])]), value

    def _middle(self, v, s, value):  # type: ignore[no-untyped-def]
        found = self.direction(*v[4:8])
        if found is None:
            return None
        axis, way = found
        k = way if axis == 0 else -way
        p, q, a = (v[1], v[3], v[5]) if axis == 0 else (v[0], v[2], v[4])
        return _sum([(p, k / 2), (q, k / 2), (a, -k)]), value

    def _square(self, v, s, value):  # type: ignore[no-untyped-def]
        found = self.direction(*v[4:8])
        if found is None:
            return None
        axis, way = found
        return _sum([(v[2 + axis], way), (v[axis], -way)]), value

    def _turn(self, v, s, value):  # type: ignore[no-untyped-def]
        if s[0] > 4:
            return None  # a directed angle: a tie would forget which way
        quarter = value / (math.pi / 2)
        if abs(quarter - round(quarter)) > 1e-12:
            return None
        one, two = self.direction(*v[:4]), self.direction(*v[4:8])
        if (one is None) == (two is None):
            return None  # neither known, or both: then it only says what is already so
        axis = (one or two)[0]  # type: ignore[index]
        if round(quarter) % 2:
            axis = 1 - axis
        a, b = (v[4:6], v[6:8]) if two is None else (v[:2], v[2:4])
        return _sum([(a[1 - axis], 1.0), (b[1 - axis], -1.0)]), 0.0

    def _along(self, v, s, value):  # type: ignore[no-untyped-def]
        return None  # never straight

    def _on_ellipse(self, v, s, value):  # type: ignore[no-untyped-def]
        return None

    def _lean(self, v, s, value):  # type: ignore[no-untyped-def]
        return None

    def _same(self, v, s, value):  # type: ignore[no-untyped-def]
        one, two = self.direction(*v[:4]), self.direction(*v[4:8])
        if one is None or two is None:
            return None
        (i, k), (j, m) = one, two
        return _sum([(v[2 + i], k), (v[i], -k), (v[6 + j], -m), (v[4 + j], m)]), value


def _sum(terms: list[tuple[int, float]]) -> dict[int, float]:
    found: dict[int, float] = {}
    for v, k in terms:
        found[v] = found.get(v, 0.0) + k
    return found


__all__ = ["Batch", "Cluster", "Reduced", "reduce"]

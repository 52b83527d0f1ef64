"""Substitution: variables tied to one another by v = s·w + o (s = ±1) share one root and leave the matrix.

A union-find with sign and offset. The ground (variable 0) is the root of all that is fixed.
"""

from __future__ import annotations

import numpy as np

from .rows import Floats, Ints


class Ties:
    def __init__(self, count: int) -> None:
        self.parent = list(range(count))
        self.sign = [1.0] * count
        self.offset = [0.0] * count

    def find(self, i: int) -> tuple[int, float, float]:
        """Root, sign and offset with v_i = sign·v_root + offset."""
        parent = self.parent
        root = parent[i]
        if parent[root] == root:
            return root, self.sign[i], self.offset[i]
        chain = []
        while parent[i] != i:
            chain.append(i)
            i = parent[i]
        root = i
        sign, offset = 1.0, 0.0
        for j in reversed(chain):
            sign, offset = self.sign[j] * sign, self.sign[j] * offset + self.offset[j]
            parent[j], self.sign[j], self.offset[j] = root, sign, offset
        return root, self.sign[chain[0]], self.offset[chain[0]]

    def same(self, i: int, j: int) -> bool:
        """Ask for v_i = v_j where both, as far as tied, follow their roots as they are: the usual case, at less cost
        than ``tie``. False, and nothing done, where it is another."""
        parent, sign, offset = self.parent, self.sign, self.offset
        ri, rj = parent[i], parent[j]
        if ri == rj or parent[ri] != ri or parent[rj] != rj:
            return False
        if sign[i] != 1.0 or sign[j] != 1.0 or offset[i] or offset[j]:
            return False
        if ri == 0:
            ri, rj = rj, ri
        parent[ri] = rj  # a root's own sign is 1 and its offset 0
        return True

    def tie(self, i: int, j: int, sign: float, offset: float) -> float | None:
        """Ask for v_i = sign·v_j + offset.

        Returns None if this removed a variable, else by how much it is already missed
        (0: it was there before, so it is redundant).
        """
        ri, si, oi = self.find(i)
        rj, sj, oj = self.find(j)
        # si·Ri + oi = sign·(sj·Rj + oj) + offset
        rhs = sign * oj + offset - oi
        if ri == rj:
            k = si - sign * sj
            if ri == 0 or k == 0:
                return abs(rhs)
            self._join(ri, 0, 1.0, rhs / k)
            return None
        if ri == 0:
            # Rj = (oi − sign·oj − offset) / (sign·sj)
            self._join(rj, 0, 1.0, -rhs / (sign * sj))
            return None
        self._join(ri, rj, sign * sj / si, rhs / si)
        return None

    def _join(self, root: int, to: int, sign: float, offset: float) -> None:
        self.parent[root], self.sign[root], self.offset[root] = to, sign, offset

    def fixed(self, i: int) -> float | None:
        """The value of a variable tied to the ground, or None."""
        root, _, offset = self.find(i)
        return offset if root == 0 else None

    def difference(self, i: int, j: int) -> float | None:
        """v_i − v_j if the ties settle it, else None."""
        a, b = self.parent[i], self.parent[j]
        if a != b and self.parent[a] == a and self.parent[b] == b:
            return None
        ri, si, oi = self.find(i)
        rj, sj, oj = self.find(j)
        return oi - oj if ri == rj and (si == sj or ri == 0) else None

    def arrays(self) -> tuple[Ints, Floats, Floats]:
        """Root, sign and offset of every variable."""
        roots, signs, offsets = zip(*map(self.find, range(len(self.parent))), strict=True)
        return np.array(roots, dtype=np.intp), np.array(signs), np.array(offsets)

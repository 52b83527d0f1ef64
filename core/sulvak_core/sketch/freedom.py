"""What can still move: exact degrees of freedom, the free motions themselves, and each entity's state.

Rank by QR with column pivoting of the row-scaled derivative at the solution (Golub & Van Loan,
*Matrix Computations*, 4th ed., 5.4.2); the columns of Q beyond the rank span the free motions.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.linalg import qr

from .model import Arc, Circle, Sketch, points_of
from .reduce import Reduced, reduce
from .rows import Floats
from .solve import ClusterEquations
from .system import Builder, System

RANK_TOLERANCE = 1e-8


@dataclass
class Motion:
    """One free motion: how fast each point moves (mm per unit) and each radius grows; the largest speed is 1."""

    points: dict[str, tuple[float, float]]
    radii: dict[str, float]
    entities: tuple[str, ...]


@dataclass
class Freedom:
    """``count`` degrees of freedom; ``loose`` the entities that can still move; ``points`` those of their points."""

    count: int
    loose: frozenset[str]
    motions: list[Motion] = field(default_factory=list)
    redundant: tuple[str, ...] = ()


def row_scaled(J: Floats) -> Floats:
    size = np.sqrt((J * J).sum(axis=1))
    return J / np.where(size > 1e-14, size, 1.0)[:, None]


def null_space(J: Floats) -> tuple[int, Floats]:
    """Rank and an orthonormal basis (n × n−rank) of the motions that change no row of ``J``."""
    m, n = J.shape
    if m == 0:
        return 0, np.eye(n)
    q, r, _ = qr(row_scaled(J).T, mode="full", pivoting=True, check_finite=False)
    d = np.abs(np.diag(r))
    rank = int((d > RANK_TOLERANCE * max(d[0], 1e-300)).sum()) if d.size and d[0] > 1e-12 else 0
    return rank, q[:, rank:]


def plain_basis(N: Floats) -> Floats:
    """The same motions, each touching as few variables as elimination with full pivoting gives."""
    A = N.T.copy()
    k = len(A)
    for i in range(k):
        at = np.unravel_index(np.argmax(np.abs(A[i:, :])), A[i:, :].shape)
        p, c = int(at[0]) + i, int(at[1])
        A[[i, p]] = A[[p, i]]
        if abs(A[i, c]) < 1e-12:
            break
        A[i] /= A[i, c]
        share = A[:, c].copy()
        share[i] = 0.0
        A -= np.outer(share, A[i])
    A[np.abs(A) < 1e-9] = 0.0
    return A.T


def freedom(sketch: Sketch, values: Mapping[str, float], with_motions: bool = True) -> Freedom:
    """Freedom of a solved sketch; ``values`` as for solve()."""
    system = Builder(sketch, values).build()
    reduced = reduce(system)
    free = reduced.free
    moving = np.ones(free, dtype=bool)
    count = free
    columns: list[Floats] = []
    in_cluster = np.zeros(free, dtype=bool)
    for cluster in reduced.clusters:
        equations = ClusterEquations(reduced, cluster)
        _, entries = equations.evaluate(reduced.start[cluster.free])
        rank, N = null_space(equations.jacobian(entries))
        count -= rank
        in_cluster[cluster.free] = True
        moving[cluster.free] = np.abs(N).max(axis=1, initial=0.0) > 1e-7 if N.shape[1] else False
        if with_motions and N.shape[1]:
            for vector in plain_basis(N).T:
                z = np.zeros(free)
                z[cluster.free] = vector
                columns.append(z)
    if with_motions:
        for i in np.flatnonzero(~in_cluster):
            z = np.zeros(free)
            z[i] = 1.0
            columns.append(z)
    loose_var = np.append(moving, False)[reduced.column]
    loose = frozenset(e.id for e in sketch.entities if any(loose_var[i] for i in _variables(system, e)))
    teller = _Teller(sketch, system, reduced)
    motions = [teller.motion(z) for z in columns]
    return Freedom(count, loose, motions)


def _variables(system: System, entity) -> list[int]:  # type: ignore[no-untyped-def]
    found = [i for ref in points_of(entity) for i in system.point[ref]]
    return found + ([system.radius[entity.id]] if isinstance(entity, Circle | Arc) else [])


class _Teller:
    """Turns speeds of all variables into motions of points and radii; the look-ups are made once."""

    def __init__(self, sketch: Sketch, system: System, reduced: Reduced) -> None:
        self.reduced = reduced
        refs = [(e.id, ref, *system.point[ref]) for e in sketch.entities for ref in points_of(e)]
        self.owners = [r[0] for r in refs]
        self.refs = [r[1] for r in refs]
        self.ix = np.array([r[2] for r in refs], dtype=np.intp)
        self.iy = np.array([r[3] for r in refs], dtype=np.intp)
        self.rounds = list(system.radius)
        self.ir = np.array(list(system.radius.values()), dtype=np.intp)
        self.order = {e.id: n for n, e in enumerate(sketch.entities)}

    def motion(self, z: Floats) -> Motion:
        speed = self.reduced.sign * np.append(z, 0.0)[self.reduced.column]
        vx, vy, vr = speed[self.ix], speed[self.iy], speed[self.ir]
        live = np.flatnonzero(np.abs(vx) + np.abs(vy) > 1e-9)
        grows = np.flatnonzero(np.abs(vr) > 1e-9)
        top = max(np.abs(vx).max(initial=0), np.abs(vy).max(initial=0), np.abs(vr).max(initial=0)) or 1.0
        points = {self.refs[k]: (float(vx[k] / top), float(vy[k] / top)) for k in live}
        radii = {self.rounds[k]: float(vr[k] / top) for k in grows}
        moved = {self.owners[k] for k in live} | set(radii)
        return Motion(points, radii, tuple(sorted(moved, key=self.order.__getitem__)))

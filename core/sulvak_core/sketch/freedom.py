"""What can still move: exact degrees of freedom, the free motions themselves, and each entity's state.

Rank by QR with column pivoting of the row-scaled derivative at the solution (Golub & Van Loan,
*Matrix Computations*, 4th ed., 5.4.2). With J·P = Q·[R₁ R₂] the columns of P·[−R₁⁻¹R₂; I] span the
free motions, each of them led by one variable that the others leave alone.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from .equations import ClusterEquations
from .model import Arc, Circle, Sketch, points_of
from .reduce import Reduced, reduce
from .rows import Floats, Ints
from .system import Builder
from .variables import System

RANK_TOLERANCE = 1e-8


@dataclass
class Motion:
    """One free motion: how fast each point moves and each radius grows (mm per unit); the largest speed is 1.

    ``at`` numbers the points that move in ``refs``, ``speed`` (k × 2) is theirs; so for ``radii``.
    """

    refs: list[str]
    at: Ints
    speed: Floats
    radii: dict[str, float]
    entities: tuple[str, ...]

    @property
    def points(self) -> dict[str, tuple[float, float]]:
        """Speeds by point."""
        speeds: list[list[float]] = self.speed.tolist()
        return {self.refs[i]: (x, y) for i, (x, y) in zip(self.at.tolist(), speeds, strict=True)}


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
    """Rank, and a basis (n × n−rank) of the motions that change no row of ``J``."""
    m, n = J.shape
    if m == 0:
        return 0, np.eye(n)
    r, order = scipy.linalg.qr(row_scaled(J), mode="r", pivoting=True, check_finite=False)
    d = np.abs(np.diag(r))
    rank = int((d > RANK_TOLERANCE * d[0]).sum()) if d.size and d[0] > 1e-12 else 0
    basis = np.zeros((n, n - rank))
    basis[order[rank:]] = np.eye(n - rank)
    if 0 < rank < n:
        basis[order[:rank]] = -scipy.linalg.solve_triangular(r[:rank, :rank], r[:rank, rank:], check_finite=False)
    basis[np.abs(basis) < 1e-9] = 0.0
    return rank, basis


def freedom(sketch: Sketch, values: Mapping[str, float], with_motions: bool = True) -> Freedom:
    """Freedom of a solved sketch; ``values`` as for solve()."""
    return freedom_of(Builder(sketch, values), with_motions)


def freedom_of(builder: Builder, with_motions: bool = True) -> Freedom:
    """The same of a sketch for which a builder is at hand; it is built with it."""
    sketch, system = builder.sketch, builder.build()
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
            for vector in N.T:
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
    if not columns:
        return Freedom(count, loose)
    teller = _Teller(sketch, system, reduced)
    return Freedom(count, loose, [teller.motion(z) for z in columns])


def _variables(system: System, entity) -> list[int]:  # type: ignore[no-untyped-def]
    found = [i for ref in points_of(entity) for i in system.point[ref]]
    return found + ([system.radius[entity.id]] if isinstance(entity, Circle | Arc) else [])


class _Teller:
    """Turns speeds of all variables into motions of points and radii; the look-ups are made once."""

    def __init__(self, sketch: Sketch, system: System, reduced: Reduced) -> None:
        self.reduced = reduced
        refs = [(n, ref, *system.point[ref]) for n, e in enumerate(sketch.entities) for ref in points_of(e)]
        self.idents = [e.id for e in sketch.entities]
        self.owner = np.array([r[0] for r in refs], dtype=np.intp)
        self.refs = [r[1] for r in refs]
        self.ixy = np.array([r[2:] for r in refs], dtype=np.intp).reshape(-1, 2)
        order = {ident: n for n, ident in enumerate(self.idents)}
        self.rounds = list(system.radius)
        self.round_owner = np.array([order[i] for i in self.rounds], dtype=np.intp)
        self.ir = np.array(list(system.radius.values()), dtype=np.intp)

    def motion(self, z: Floats) -> Motion:
        speed = self.reduced.sign * np.append(z, 0.0)[self.reduced.column]
        v, vr = speed[self.ixy], speed[self.ir]
        live = np.flatnonzero(np.abs(v).max(axis=1, initial=0.0) > 1e-9)
        grows = np.flatnonzero(np.abs(vr) > 1e-9)
        top = max(np.abs(v).max(initial=0.0), np.abs(vr).max(initial=0.0)) or 1.0
        radii = {self.rounds[k]: float(vr[k] / top) for k in grows}
        moved = np.union1d(self.owner[live], self.round_owner[grows])
        return Motion(self.refs, live, v[live] / top, radii, tuple(self.idents[k] for k in moved.tolist()))

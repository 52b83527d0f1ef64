"""What can still move: exact degrees of freedom, the free motions themselves, and each entity's state.

Rank by QR with column pivoting of the row-scaled derivative at the solution (Golub & Van Loan,
*Matrix Computations*, 4th ed., 5.4.2). With J·P = Q·[R₁ R₂] the columns of P·[−R₁⁻¹R₂; I] span the
free motions, each of them led by one variable that the others leave alone.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from . import full_rank
from .components import beside, components, things, together
from .identity_cache import IdentityCache
from .model import Arc, Circle, Sketch, points_of
from .reduce import Cluster, Reduced, reduce
from .rows import Floats, Ints
from .system import Builder
from .variables import GROUND, UNIT, System

T = TypeVar("T")
Moving = np.ndarray[Any, np.dtype[np.bool_]]
RANK_TOLERANCE = 1e-8
TOGETHER = 100  # motions told at once: each takes a row of all variables


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

    @cached_property
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


_found: IdentityCache[Freedom] = IdentityCache()


def freedom(sketch: Sketch, values: Mapping[str, float], with_motions: bool = True) -> Freedom:
    """Freedom of a solved sketch; ``values`` as for solve(). Without motions it is remembered of all that stays."""
    if with_motions:
        return _with_motions(sketch, values)
    parts = components(sketch)
    found = [_found.get(things(part), *beside(part, values)) for part in parts]
    missing = [part for part, known in zip(parts, found, strict=True) if known is None]
    fresh = iter(_of_each(missing, values) if missing else [])
    count, loose = 0, set[str]()
    for part, known in zip(parts, found, strict=True):
        if known is None:
            known = _found.put(next(fresh), things(part), *beside(part, values))
        count += known.count
        loose |= known.loose
    return Freedom(count, frozenset(loose))


def _of_each(parts: list[Sketch], values: Mapping[str, float]) -> list[Freedom]:
    """Freedom of each of several components, worked out together, without motions."""
    system = Builder(together(parts), values).build()
    reduced = reduce(system)
    owner = np.full(len(system.x), -1, dtype=np.intp)
    for n, part in enumerate(parts):
        for e in part.entities:
            owner[_variables(system, e)] = n
    _helpers(system, owner)
    of_column = np.full(reduced.free, -1, dtype=np.intp)
    live = (reduced.column >= 0) & (owner >= 0)
    of_column[reduced.column[live]] = owner[live]
    counts = np.bincount(of_column, minlength=len(parts))
    moving = np.ones(reduced.free, dtype=bool)
    for cluster, (rank, theirs) in _of_clusters(reduced, _rank_and_moving):
        moving[cluster.free] = theirs
        if rank:
            counts[of_column[cluster.free[0]]] -= rank
    loose_var = np.append(moving, False)[reduced.column]
    return [
        Freedom(n, frozenset(e.id for e in part.entities if loose_var[_variables(system, e)].any()))
        for part, n in zip(parts, counts.tolist(), strict=True)
    ]


def _helpers(system: System, owner: Ints) -> None:
    """Give variables that are of no entity (where two curves touch) to the component whose rows speak of them."""
    left = set(np.flatnonzero(owner < 0).tolist()) - {GROUND, UNIT}
    rows = [row.vars for row in system.rows if not left.isdisjoint(row.vars)] if left else []
    while left:
        for mine in rows:
            known = [owner[v] for v in mine if owner[v] >= 0]
            if known:
                for v in left.intersection(mine):
                    owner[v] = known[0]
        still = {v for v in left if owner[v] < 0}
        if still == left:
            raise RuntimeError("a variable of a sketch is in no equation")
        left = still


def _rank_and_moving(J: Floats) -> tuple[int, Moving]:
    """The rank of a cluster's derivative, and which of its variables move while its rows stay."""
    found = full_rank.moving(row_scaled(J))
    if found is not None:
        return len(J), found
    rank, N = null_space(J)
    return rank, _moves(N)


def _moves(N: Floats) -> Moving:
    """Which variables of a cluster the motions ``N`` move."""
    found: Moving = np.abs(N).max(axis=1, initial=0.0) > 1e-7
    return found


def _with_motions(sketch: Sketch, values: Mapping[str, float]) -> Freedom:
    system = Builder(sketch, values).build()
    reduced = reduce(system)
    free = reduced.free
    moving = np.ones(free, dtype=bool)
    count = free
    found: list[tuple[Ints, Floats]] = []  # which variables each motion moves, and how fast
    in_cluster = np.zeros(free, dtype=bool)
    for cluster, (rank, N) in _of_clusters(reduced, null_space):
        count -= rank
        in_cluster[cluster.free] = True
        moving[cluster.free] = _moves(N)
        found += [(cluster.free, vector) for vector in N.T]
    found += [(i, np.ones(1)) for i in np.flatnonzero(~in_cluster)[:, None]]
    loose_var = np.append(moving, False)[reduced.column]
    loose = frozenset(e.id for e in sketch.entities if any(loose_var[i] for i in _variables(system, e)))
    if not found:
        return Freedom(count, loose)
    teller = _Teller(sketch, system, reduced)
    blocks = (found[k : k + TOGETHER] for k in range(0, len(found), TOGETHER))
    return Freedom(count, loose, [m for some in blocks for m in teller.motions(some)])


def _of_clusters(reduced: Reduced, told: Callable[[Floats], T]) -> Iterator[tuple[Cluster, T]]:
    """Each cluster with what its derivative tells. That of equal derivatives is worked out once."""
    known: dict[tuple[tuple[int, ...], bytes], T] = {}
    for cluster, J in _jacobians(reduced):
        key = (J.shape, J.tobytes())
        if key not in known:
            known[key] = told(J)
        yield cluster, known[key]


def _jacobians(reduced: Reduced) -> Iterator[tuple[Cluster, Floats]]:
    """Each cluster with the derivative of its rows (dense, rows × its free variables); all rows evaluated at once."""
    batch, clusters = reduced.batch, reduced.clusters
    _, entries = batch.evaluate(reduced.spread(reduced.start))
    keep = np.flatnonzero(reduced.column[batch.cols] >= 0)
    rows, cols = batch.rows[keep], reduced.column[batch.cols[keep]]
    values = entries[keep] * reduced.sign[batch.cols[keep]]
    of_row, row_place = np.zeros(batch.count, dtype=np.intp), np.zeros(batch.count, dtype=np.intp)
    col_place = np.zeros(reduced.free, dtype=np.intp)
    for n, cluster in enumerate(clusters):
        of_row[cluster.rows], row_place[cluster.rows] = n, np.arange(len(cluster.rows))
        col_place[cluster.free] = np.arange(len(cluster.free))
    order = np.argsort(of_row[rows], kind="stable")
    ends = np.searchsorted(of_row[rows][order], np.arange(len(clusters) + 1))
    rows, cols, values = row_place[rows][order], col_place[cols][order], values[order]
    for n, cluster in enumerate(clusters):
        mine = slice(ends[n], ends[n + 1])
        shape = (len(cluster.rows), len(cluster.free))
        flat: Any = np.bincount(rows[mine] * shape[1] + cols[mine], values[mine], shape[0] * shape[1])
        yield cluster, flat.reshape(shape)


def _variables(system: System, entity) -> list[int]:  # type: ignore[no-untyped-def]
    found = [i for ref in points_of(entity) for i in system.point[ref]]
    return found + ([system.radius[entity.id]] if isinstance(entity, Circle | Arc) else [])


class _Teller:
    """Turns speeds of all variables into motions of points and radii; the look-ups are made once."""

    def __init__(self, sketch: Sketch, system: System, reduced: Reduced) -> None:
        self.reduced = reduced
        refs = [(n, ref, *system.point[ref]) for n, e in enumerate(sketch.entities) for ref in points_of(e)]
        self.idents = np.array([e.id for e in sketch.entities], dtype=object)
        self.owner = np.array([r[0] for r in refs], dtype=np.intp)
        self.refs = [r[1] for r in refs]
        self.ixy = np.array([r[2:] for r in refs], dtype=np.intp).reshape(-1, 2)
        order = {e.id: n for n, e in enumerate(sketch.entities)}
        self.rounds = list(system.radius)
        self.round_owner = np.array([order[i] for i in self.rounds], dtype=np.intp)
        self.ir = np.array(list(system.radius.values()), dtype=np.intp)

    def motions(self, asked: Sequence[tuple[Ints, Floats]]) -> list[Motion]:
        """Of speeds of free variables: all at once, since a call costs as much for one."""
        z = np.zeros((len(asked), self.reduced.free + 1))
        for k, (free, vector) in enumerate(asked):
            z[k, free] = vector
        speed = self.reduced.sign * z[:, self.reduced.column]
        v, vr = speed[:, self.ixy], speed[:, self.ir]  # motions × points × 2, motions × radii
        fast, grow = np.abs(v).max(axis=2), np.abs(vr)
        top = np.maximum(fast.max(axis=1, initial=0.0), grow.max(axis=1, initial=0.0))
        top[top == 0.0] = 1.0
        live, growing = fast > 1e-9, grow > 1e-9
        moved = np.zeros((len(asked), len(self.idents)), dtype=bool)
        for which, owner in ((live, self.owner), (growing, self.round_owner)):
            one, place = np.nonzero(which)
            moved[one, owner[place]] = True
        found = []
        for k, most in enumerate(top.tolist()):
            at = np.flatnonzero(live[k])
            radii = {self.rounds[n]: float(vr[k, n] / most) for n in np.flatnonzero(growing[k]).tolist()}
            found.append(Motion(self.refs, at, v[k, at] / most, radii, tuple(self.idents[moved[k]].tolist())))
        return found

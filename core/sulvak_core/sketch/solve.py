"""Moving a sketch until its rows hold: damped Gauss–Newton with the least move, cluster by cluster.

For residuals f and derivative J the step is −W⁻¹Jᵀ(J·W⁻¹·Jᵀ + λI)⁻¹f: of all steps that mend f it
moves the geometry least, each free variable weighted by how many sketch variables follow it
(Levenberg's damping; see Nocedal & Wright, *Numerical Optimization*, 2nd ed., chapter 10).
A value that changes much is walked to in stages, so that nothing turns over on the way.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np
from scipy.linalg import LinAlgError, cho_factor, cho_solve
from scipy.sparse import coo_matrix, identity
from scipy.sparse.linalg import splu

from .model import AnyEntity, Arc, Constraint, Dimension, Line, Sketch, sweep_of
from .reduce import Cluster, Reduced, reduce
from .rows import Batch, Floats
from .system import Builder, System, geometry, with_branches

T = TypeVar("T", Constraint, Dimension)

GOOD = 1e-13  # residual (scaled) that ends the iteration
ACCEPT = 1e-10  # residual that counts as solved if no step gets further
SPARSE_FROM = 160  # rows from which a cluster is solved with sparse factors
STEPS = 60
VANISHED = 1e-9  # scaled length under which a line or radius has shrunk to nothing


@dataclass
class Solution:
    """``sketch`` is the moved sketch when ``worst`` (scaled residual) is small enough, else the unmoved one."""

    sketch: Sketch
    solved: bool
    worst: float
    missed: tuple[str, ...]  # owners of rows that do not hold, the worst first


class ClusterEquations:
    """A cluster's rows as functions of its own free variables."""

    def __init__(self, reduced: Reduced, cluster: Cluster) -> None:
        self.reduced, self.cluster = reduced, cluster
        self.rows = [reduced.rows[i] for i in cluster.rows]
        # only the variables these rows touch, renumbered
        used = np.unique(np.array([v for row in self.rows for v in row.vars], dtype=np.intp))
        used = np.union1d(used, [0])
        small = {int(v): k for k, v in enumerate(used)}
        local = [type(r)(r.kind, tuple(small[v] for v in r.vars), r.value, r.owner, r.signs) for r in self.rows]
        self.batch = Batch(local)
        self.sign, self.offset = reduced.sign[used], reduced.offset[used]
        place = np.full(reduced.free + 1, -1, dtype=np.intp)
        place[cluster.free] = np.arange(len(cluster.free))
        self.column = np.where(reduced.column[used] >= 0, place[reduced.column[used]], -1)
        cols = self.column[self.batch.cols]
        self.keep = np.flatnonzero(cols >= 0)
        self.entry_rows, self.entry_cols = self.batch.rows[self.keep], cols[self.keep]
        self.entry_sign = self.sign[self.batch.cols][self.keep]
        self.shape = (len(self.rows), len(cluster.free))
        self.flat = self.entry_rows * self.shape[1] + self.entry_cols

    def evaluate(self, z: Floats) -> tuple[Floats, Floats]:
        x = self.sign * np.append(z, 0.0)[self.column] + self.offset
        return self.batch.evaluate(x)

    def jacobian(self, entries: Floats) -> Floats:
        """Dense derivative (rows × free variables)."""
        values = entries[self.keep] * self.entry_sign
        flat: Any = np.bincount(self.flat, values, self.shape[0] * self.shape[1])
        return flat.reshape(self.shape)

    def step(self, f: Floats, entries: Floats, weight: Floats, damping: float) -> Floats:
        if self.shape[0] < SPARSE_FROM:
            J = self.jacobian(entries)
            JW = J / weight
            A = JW @ J.T
            A.flat[:: len(A) + 1] += damping * (1.0 + np.trace(A) / len(A))
            return -(cho_solve(cho_factor(A, overwrite_a=True, check_finite=False), f, check_finite=False) @ JW)
        values = entries[self.keep] * self.entry_sign
        S: Any = coo_matrix((values, (self.entry_rows, self.entry_cols)), shape=self.shape).tocsr()
        SW = S.multiply(1.0 / weight[None, :]).tocsr()
        B = (SW @ S.T).tocsc()
        B = B + identity(len(f), format="csc") * (damping * (1.0 + B.diagonal().mean()))
        return -(SW.T @ splu(B).solve(f))


def settle(equations: ClusterEquations, z: Floats, weight: Floats) -> tuple[Floats, float, Floats]:
    """Newton's iteration on one cluster. Returns (z, worst residual, residuals)."""
    f, entries = equations.evaluate(z)
    worst = float(np.abs(f).max(initial=0.0))
    damping = 1e-12
    for _ in range(STEPS):
        if worst <= GOOD or not math.isfinite(worst):
            break
        try:
            step = equations.step(f, entries, weight, damping)
        except (LinAlgError, RuntimeError):
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
        damping = max(damping / 10, 1e-12)
        worst = float(np.abs(f).max(initial=0.0))
    return z, worst, f


def solve_reduced(reduced: Reduced) -> tuple[Floats, float, list[tuple[float, str]]]:
    """All variables solved, the worst residual, and who misses by how much."""
    z = reduced.start.copy()
    misses = [(miss, row.owner) for row, miss in reduced.dependent if miss > ACCEPT]
    for cluster in reduced.clusters:
        equations = ClusterEquations(reduced, cluster)
        part, worst, f = settle(equations, z[cluster.free], np.maximum(reduced.weight[cluster.free], 1e-9))
        z[cluster.free] = part
        if not worst <= ACCEPT:
            misses += [(abs(float(r)), row.owner) for r, row in zip(f, equations.rows, strict=True) if abs(r) > ACCEPT]
    x = reduced.spread(z)
    misses += [(1.0, "") for _ in range(_vanished(reduced.system, x))]
    misses.sort(key=lambda m: -m[0])
    return x, misses[0][0] if misses else 0.0, misses


def _vanished(system: System, x: Floats) -> int:
    """How many circles and lines would shrink to nothing: a solution that no drafter means."""
    gone = sum(1 for radius in system.radius.values() if not x[radius] > VANISHED)
    for (ax, ay), (bx, by) in system.lines.values():
        if math.hypot(x[bx] - x[ax], x[by] - x[ay]) < VANISHED:
            gone += 1
    return gone


def _once(sketch: Sketch, values: Mapping[str, float], heavy: dict[str, float] | None = None) -> Solution:
    system = Builder(sketch, values).build()
    x, worst, misses = solve_reduced(reduce(system, _heavy(system, heavy)))
    if misses:
        owners = dict.fromkeys(owner for _, owner in misses if owner)
        return Solution(sketch, False, worst, tuple(owners))
    return Solution(geometry(sketch, system, x), True, worst, ())


def _heavy(system: System, refs: dict[str, float] | None) -> dict[int, float] | None:
    if not refs:
        return None
    return {i: w for ref, w in refs.items() for i in system.point[ref]}


def _turned_over(before: Sketch, after: Sketch) -> bool:
    """Whether a line or arc jumped to a mirror image of itself."""
    if _turned_lines(before, after):
        return True
    for a, b in zip(before.entities, after.entities, strict=True):
        if isinstance(a, Arc) and isinstance(b, Arc) and abs(sweep_of(a)[1] - sweep_of(b)[1]) > math.pi:
            return True
    return False


def _holds(sketch: Sketch, values: Mapping[str, float]) -> bool:
    """Whether every row holds, nothing substituted."""
    system = Builder(sketch, values).build()
    return bool(np.abs(Batch(system.rows).evaluate(system.x)[0]).max(initial=0.0) <= 10 * ACCEPT)


def _settled(sketch: Sketch, values: Mapping[str, float]) -> Solution:
    """One solution. Where a line turned over on the way, what lay on its left lies on its right now: the sides
    remembered by its direction are taken anew from where things are."""
    found = _once(sketch, values)
    if not found.solved:
        return found
    sided = _sides_missed(found.sketch)
    if not sided:
        return found
    forgotten = found.sketch.model_copy(
        update={
            "constraints": [_sideless(c) if c.id in sided else c for c in found.sketch.constraints],
            "dimensions": [_sideless(d) if d.id in sided else d for d in found.sketch.dimensions],
        }
    )
    found.sketch = with_branches(forgotten, sided)
    return found if _holds(found.sketch, values) else Solution(sketch, False, 1.0, tuple(sorted(sided)))


def _sides_missed(sketch: Sketch) -> set[str]:
    """Tangents to lines and distances from lines that stand on the other side than remembered."""
    b = Builder(sketch, {})
    missed = set()
    for c in sketch.constraints:
        lines = [r for r in c.refs if r in b.lines]
        if c.kind == "tangent" and c.branch is not None and len(lines) == 1:
            circle = next(r for r in c.refs if r in b.radius)
            if b.side(b.point[f"{circle}.c"], lines[0]) * c.branch < 0:
                missed.add(c.id)
    for d in sketch.dimensions:
        if d.kind == "distance" and d.driving and d.branch is not None and any(r in b.lines for r in d.refs):
            points, lines = b.split(d)
            if lines and b.side(points[0], lines[0]) * d.branch < 0:
                missed.add(d.id)
    return missed


def _sideless(tie: T) -> T:
    return tie.model_copy(update={"branch": None})


def _turned_lines(before: Sketch, after: Sketch) -> set[str]:
    """Lines that point the other way after a solve."""
    found = set()
    for a, b in zip(before.entities, after.entities, strict=True):
        if isinstance(a, Line) and isinstance(b, Line):
            dot = (a.q[0] - a.p[0]) * (b.q[0] - b.p[0]) + (a.q[1] - a.p[1]) * (b.q[1] - b.p[1])
            if dot < 0:
                found.add(a.id)
    return found


def _told_axes(sketch: Sketch) -> dict[str, int]:
    """Lines that must be level (0) or upright (1), told so themselves or through parallel and perpendicular ones."""
    axis = {"x": 0, "y": 1}
    for c in sketch.constraints:
        if c.kind in ("horizontal", "vertical") and len(c.refs) == 1:
            axis.setdefault(c.refs[0], int(c.kind == "vertical"))
    turns = {"parallel": 0, "perpendicular": 1}
    pairs = [(c.refs, turns[c.kind]) for c in sketch.constraints if c.kind in turns]
    while True:
        known = len(axis)
        for (one, two), turn in pairs:
            for a, b in ((one, two), (two, one)):
                if a in axis:
                    axis.setdefault(b, axis[a] ^ turn)
        if len(axis) == known:
            return axis


def _turned_upright(sketch: Sketch) -> Sketch | None:
    """A start for lines that lie square to what they are told to be, or None if there are none.

    The least move from level to upright would shrink such a line to nothing; a drafter turns it.
    """
    wanted = _told_axes(sketch)
    moved: list[AnyEntity] = []
    for e in sketch.entities:
        if isinstance(e, Line) and e.id in wanted:
            dx, dy = e.q[0] - e.p[0], e.q[1] - e.p[1]
            along = abs(dx) if wanted[e.id] == 0 else abs(dy)
            if along < 0.02 * math.hypot(dx, dy):
                mx, my = (e.p[0] + e.q[0]) / 2, (e.p[1] + e.q[1]) / 2
                e = e.model_copy(update={"p": (mx + dy / 2, my - dx / 2), "q": (mx - dy / 2, my + dx / 2)})
        moved.append(e)
    return sketch.model_copy(update={"entities": moved}) if moved != sketch.entities else None


def solve(sketch: Sketch, values: Mapping[str, float]) -> Solution:
    """Move ``sketch`` until every constraint and driving dimension holds.

    ``values``: each driving dimension's value in mm or degrees. The unmoved sketch comes back when
    it cannot be done. Deterministic: the same input gives the same output.
    """
    direct = _settled(sketch, values)
    if not direct.solved and not direct.missed:
        turned = _turned_upright(sketch)
        if turned is not None:
            again = _settled(turned, values)
            if again.solved:
                return again
    if direct.solved and not _turned_over(sketch, direct.sketch):
        return direct
    builder = Builder(sketch, {})
    driving = [d for d in sketch.dimensions if d.driving]
    now = {d.id: builder.measure(d) for d in driving}
    if all(abs(now[k] - values[k]) <= 1e-9 * (1 + abs(values[k])) for k in now):
        return direct
    for stages in (8, 48):
        at = sketch
        for stage in range(1, stages + 1):
            share = stage / stages
            step = _settled(at, {k: now[k] + share * (values[k] - now[k]) for k in now})
            if not step.solved:
                break
            at = step.sketch
        else:
            return Solution(at, True, step.worst, ())
    return direct


class Drag:
    """A point being dragged: built once, then solved at every move of the pointer from where it was last.

    ``ref`` is a point, or a circle's or arc's id (its size follows the pointer).
    Only the clusters that the dragged point belongs to are solved again.
    """

    HEAVY = 1e4

    def __init__(self, sketch: Sketch, values: Mapping[str, float], ref: str) -> None:
        self.sketch, self.values, self.ref = sketch, values, ref
        self.system = Builder(sketch, values).build()
        self.reduced = reduce(self.system)
        self.z = self.reduced.start.copy()
        r = self.system
        self.targets = list(r.point[ref]) if ref in r.point else [r.radius[ref]]
        self.lines = r.lines.get(ref)
        columns = {int(self.reduced.column[i]) for i in self.targets} - {-1}
        self.weight = np.maximum(self.reduced.weight, 1e-9)
        for column in columns:
            self.weight[column] *= self.HEAVY
        self.equations = [
            ClusterEquations(self.reduced, c) for c in self.reduced.clusters if columns & set(c.free.tolist())
        ]

    def to(self, x: float, y: float) -> Sketch:
        """Pull towards (x, y) in mm; the sketch as it then is (as it was, if it cannot follow)."""
        s = self.system.size
        if self.ref in self.system.point:
            wish = dict(zip(self.targets, (x / s, y / s), strict=True))
        else:
            cx, cy = self.system.point[f"{self.ref}.c"]
            now = self.reduced.spread(self.z)
            wish = {self.targets[0]: max(math.hypot(x / s - now[cx], y / s - now[cy]), 1e-6)}
        goal = {}
        for i, value in wish.items():
            column = int(self.reduced.column[i])
            if column >= 0:
                goal[column] = float(self.reduced.sign[i]) * (value - float(self.reduced.offset[i]))
        reach = max((abs(v - self.z[c]) for c, v in goal.items()), default=0.0)
        stages = min(max(1, math.ceil(reach / 0.1)), 10)
        for left in range(stages, 0, -1):
            trial = self.z.copy()
            for column, value in goal.items():
                trial[column] += (value - trial[column]) / left
            for equations in self.equations:
                free = equations.cluster.free
                part, worst, _f = settle(equations, trial[free], self.weight[free])
                if not worst <= ACCEPT:
                    return geometry(self.sketch, self.system, self.reduced.spread(self.z))
                trial[free] = part
            if _vanished(self.system, self.reduced.spread(trial)):
                break
            self.z = trial
        return geometry(self.sketch, self.system, self.reduced.spread(self.z))

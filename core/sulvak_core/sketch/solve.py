"""Moving a sketch until its rows hold, with the least move from where it is.

A value that changes much is walked to in stages, so that nothing turns over on the way.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from .components import beside, things, together
from .directions import bearings
from .equations import ACCEPT, ClusterEquations, settle
from .identity_cache import IdentityCache
from .model import X_AXIS, AnyEntity, Arc, Constraint, Dimension, Line, Sketch, sweep_of
from .reduce import Cluster, Reduced, reduce
from .rows import Batch, Floats
from .solution_branches import with_branches
from .system import Builder
from .variables import System, geometry

T = TypeVar("T", Constraint, Dimension)

PACK = 64  # free variables up to which small clusters are solved together
VANISHED = 1e-9  # scaled length under which a line or radius has shrunk to nothing


@dataclass
class Solution:
    """``sketch`` is the moved sketch when ``worst`` (scaled residual) is small enough, else the unmoved one."""

    sketch: Sketch
    solved: bool
    worst: float
    missed: tuple[str, ...]  # owners of rows that do not hold, the worst first


def _packs(clusters: list[Cluster]) -> Iterator[list[Cluster]]:
    """Small clusters by the handful: one matrix of many blocks costs less than many matrices."""
    pack: list[Cluster] = []
    free = 0
    for cluster in clusters:
        if pack and free + len(cluster.free) > PACK:
            yield pack
            pack, free = [], 0
        pack.append(cluster)
        free += len(cluster.free)
    if pack:
        yield pack


def _joined(pack: list[Cluster]) -> Cluster:
    if len(pack) == 1:
        return pack[0]
    return Cluster(sorted(i for c in pack for i in c.rows), np.concatenate([c.free for c in pack]))


def solve_reduced(reduced: Reduced) -> tuple[Floats, float, list[tuple[float, str]]]:
    """All variables solved, the worst residual, and who misses by how much."""
    z = reduced.start.copy()
    misses = [(miss, row.owner) for row, miss in reduced.dependent if miss > ACCEPT]
    weight = np.maximum(reduced.weight, 1e-9)
    for pack in _packs(reduced.clusters):
        together = _joined(pack)
        equations = ClusterEquations(reduced, together)
        part, worst, f = settle(equations, z[together.free], weight[together.free])
        if worst <= ACCEPT:
            z[together.free] = part
            continue
        for cluster in pack:
            if len(pack) > 1:
                equations = ClusterEquations(reduced, cluster)
                part, worst, f = settle(equations, z[cluster.free], weight[cluster.free])
            z[cluster.free] = part
            if not worst <= ACCEPT:
                rows = zip(f, equations.rows, strict=True)
                misses += [(abs(float(r)), row.owner) for r, row in rows if not abs(r) <= ACCEPT]
    x = reduced.spread(z)
    misses += [(1.0, "") for _ in range(_vanished(reduced.system, x))]
    misses.sort(key=lambda m: -m[0])
    return x, misses[0][0] if misses else 0.0, misses


def _vanished(system: System, x: Floats) -> int:
    """How many circles and lines would shrink to nothing: a solution that no drafter means."""
    at: list[float] = x.tolist()
    gone = sum(1 for radius in system.radius.values() if not at[radius] > VANISHED)
    segments = [*system.lines.values(), *((c, end) for c, *ends in system.ellipse.values() for end in ends)]
    for (ax, ay), (bx, by) in segments:
        if math.hypot(at[bx] - at[ax], at[by] - at[ay]) < VANISHED:
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
    if turned_lines(before, after):
        return True
    for a, b in zip(before.entities, after.entities, strict=True):
        if isinstance(a, Arc) and isinstance(b, Arc) and abs(sweep_of(a)[1] - sweep_of(b)[1]) > math.pi:
            return True
    return False


def _holds(sketch: Sketch, values: Mapping[str, float]) -> bool:
    """Whether every row holds, nothing substituted."""
    system = Builder(sketch, values).build()
    return bool(np.abs(Batch(system.rows).evaluate(system.x)[0]).max(initial=0.0) <= 10 * ACCEPT)


_held: IdentityCache[bool] = IdentityCache()


def all_hold(parts: Sequence[Sketch], values: Mapping[str, float]) -> bool:
    """Whether every row of several components holds; what was found to hold is remembered."""
    unknown = [part for part in parts if not _held.get(things(part), *beside(part, values))]
    if not unknown:
        return True
    if not _holds(together(unknown), values):
        return False
    for part in unknown:
        _held.put(True, things(part), *beside(part, values))
    return True


def _settled(sketch: Sketch, values: Mapping[str, float]) -> Solution:
    """One solution. Where a line turned over on the way, what lay on its left lies on its right now: the sides
    remembered by its direction are taken anew from where things are."""
    found = _once(sketch, values)
    sided = _sides_missed(found.sketch) if found.solved else set()
    if not sided:
        return found
    found.sketch = _with_sides_anew(found.sketch, sided)
    return found if _holds(found.sketch, values) else Solution(sketch, False, 1.0, tuple(sorted(sided)))


def _with_sides_anew(sketch: Sketch, sided: set[str]) -> Sketch:
    forgotten = sketch.model_copy(
        update={
            "constraints": [_sideless(c) if c.id in sided else c for c in sketch.constraints],
            "dimensions": [_sideless(d) if d.id in sided else d for d in sketch.dimensions],
        }
    )
    return with_branches(forgotten, sided)


def standing(sketch: Sketch, values: Mapping[str, float]) -> Sketch | None:
    """The sketch just as it stands, with the sides it lies on remembered; None where not all that is tied holds."""
    sketch = _with_sides_anew(sketch, _sides_missed(sketch))
    system = Builder(sketch, values).build()
    return sketch if _holds(sketch, values) and not _vanished(system, system.x) else None


def _sides_missed(sketch: Sketch) -> set[str]:
    """Tangents to lines and distances from lines that stand on the other side than remembered."""
    ties = [c for c in sketch.constraints if c.kind == "tangent" and c.branch is not None]
    sizes = [d for d in sketch.dimensions if d.kind == "distance" and d.driving and d.branch is not None]
    missed: set[str] = set()
    if not ties and not sizes:
        return missed
    b = Builder(sketch, {})
    for c in ties:
        lines = [r for r in c.refs if r in b.lines]
        if len(lines) == 1:
            circle = next(r for r in c.refs if r in b.radius)
            if b.side(b.point[f"{circle}.c"], lines[0]) * c.branch < 0:  # type: ignore[operator]
                missed.add(c.id)
    for d in sizes:
        if d.rim:
            points, lines, _ = b.rims(d)
            if lines and b.side(points[0], lines[0]) * d.branch < 0:  # type: ignore[operator]
                missed.add(d.id)
        elif any(r in b.lines for r in d.refs):
            points, lines = b.split(d)
            if lines and b.side(points[0], lines[0]) * d.branch < 0:  # type: ignore[operator]
                missed.add(d.id)
    return missed


def _sideless(tie: T) -> T:
    return tie.model_copy(update={"branch": None})


def turned_lines(before: Sketch, after: Sketch) -> set[str]:
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
    return {ident: turn for ident, (lead, turn) in bearings(sketch).items() if lead == X_AXIS}


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


STAGES = (8, 48)  # in how many steps a value is walked to where it does not settle at once


def solve(sketch: Sketch, values: Mapping[str, float], stages: tuple[int, ...] = STAGES) -> Solution:
    """Move ``sketch`` until every constraint and driving dimension holds.

    ``values``: each driving dimension's value in mm or degrees; ``stages``: in how many steps it is walked to where it
    does not settle at once. The unmoved sketch comes back when it cannot be done. Deterministic: the same input gives
    the same output.
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
    for count in stages:
        at = sketch
        for stage in range(1, count + 1):
            share = stage / count
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

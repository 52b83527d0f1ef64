"""What would finish a sketch: constraints that hold already within a tolerance, then sizes.

Each suggestion is tried on the solver before it is made: it must take freedom away, must not fight with
anything, and must not move the geometry further than the tolerance. Together they leave nothing free.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from ..part.units import length, number
from . import words
from .bearings import bearings
from .branches import with_branches
from .candidates import PHASES, Idea, Scene
from .edit import Values, used_numbers, with_tie
from .freedom import null_space
from .model import ORIGIN, X_AXIS, Constraint, Dimension, Line, Sketch, points_of
from .rows import Batch, Floats
from .solve import solve
from .system import Builder


@dataclass
class Suggestion:
    """``ties`` to add, in words, how many freedoms they take and how far (mm) the geometry moves for them."""

    constraints: list[Constraint]
    dimensions: list[Dimension]
    said: str
    takes: int
    moves: float
    refs: list[str] = field(default_factory=list)


@dataclass
class Finish:
    """Suggestions in the order they would be taken, the sketch with all of them, and what is left free then."""

    suggestions: list[Suggestion]
    sketch: Sketch
    left: int


def default_tolerance(sketch: Sketch) -> float:
    """How near is near, in mm: half a per cent of the sketch's larger side."""
    at = [p for e in sketch.entities for p in points_of(e).values()]
    if not at:
        return 0.0
    xs, ys = zip(*at, strict=True)
    reach = max([max(xs) - min(xs), max(ys) - min(ys), *(2 * e.r for e in sketch.entities if e.kind == "circle")])
    return 0.005 * reach


def suggest(
    sketch: Sketch,
    values: Values,
    tolerance: float | None = None,
    wanted: Callable[[str, float, float], float | None] | None = None,
) -> Finish:
    """What would finish ``sketch``. ``tolerance`` in mm, by default half a per cent of its size.

    ``wanted(kind, now, tolerance)`` may give a rounder value (mm or degrees) that the sheet asks for; without
    one a size is what it measures.
    """
    near = default_tolerance(sketch) if tolerance is None else tolerance
    work = _Work(sketch, values, near)
    for phase in PHASES:
        for idea in phase(Scene(work.sketch, near)):
            if not work.left:
                return Finish(work.found, work.sketch, 0)
            work.take(idea, wanted)
    return Finish(work.found, work.sketch, work.left)


class _Work:
    def __init__(self, sketch: Sketch, values: Values, near: float) -> None:
        self.sketch, self.values, self.near = sketch, values, near
        self.began = {ref: at for e in sketch.entities for ref, at in points_of(e).items()}
        self.radii = {e.id: e.r for e in sketch.entities if e.kind in ("circle", "arc")}
        self.found: list[Suggestion] = []
        self.rows = [0, 0]  # dimension lines so far below the sketch, and to its left
        self.next = {"k": 0, "d": 0} | used_numbers(sketch, [])
        self._measure()

    @property
    def left(self) -> int:
        return self.free.shape[1]

    def _measure(self) -> None:
        """The free motions of the sketch as it is, in all its variables."""
        self.free = null_space(_derivative(self.sketch, self.values.all(self.sketch)))[1]

    def take(self, idea: Idea, wanted: Callable[[str, float, float], float | None] | None) -> None:
        """Keep an idea if it does what a suggestion must do."""
        tie = self._tie(idea, wanted)
        if tie is None:
            return
        rows = _derivative_of(self.sketch, tie)
        rank = int(np.linalg.matrix_rank(rows @ self.free, tol=1e-7))
        # symmetry of what is level already says a part of it again; nothing else may
        if rank == 0 or (rank < len(rows) and idea.kind != "symmetric"):
            return
        trial = with_tie(self.sketch, tie)
        solution = solve(trial, self.values.all(trial))
        if not solution.solved:
            return
        moves = self._moved(solution.sketch)
        if moves > self.near + 1e-9:
            return
        before, self.sketch = self.sketch, solution.sketch
        left = self.left
        self._measure()
        if left - self.left != rank:
            self.sketch = before
            self._measure()
            return
        self.next[tie.id[0]] += 1
        if isinstance(tie, Constraint):
            made = Suggestion([tie], [], words.constraint(tie), rank, moves, list(tie.refs))
        else:
            said = words.dimension(tie, self.values.of(tie), self.values.unit)
            made = Suggestion([], [tie], said, rank, moves, list(tie.refs))
        self.found.append(made)

    def _tie(
        self, idea: Idea, wanted: Callable[[str, float, float], float | None] | None
    ) -> Constraint | Dimension | None:
        if idea.kind in ("distance", "radius", "diameter", "angle"):
            ident = f"d{self.next['d'] + 1}"
            tie = Dimension.model_validate(
                {"id": ident, "kind": idea.kind, "refs": list(idea.refs), "expr": "1", "along": idea.along}
            )
            now = Builder(self.sketch, {}).measure(tie)
            limit = self.near if idea.kind != "angle" else math.degrees(self.near / max(idea.reach, self.near))
            if now <= (limit if idea.kind != "angle" else 0.05) or (idea.kind == "angle" and now > 179.95):
                return None
            asked = wanted(idea.kind, now, limit) if wanted else None
            value = now if asked is None else asked
            # what is shown is what is stored: the geometry moves by the difference
            text = number(value) if idea.kind == "angle" else length(value, self.values.unit)
            if text == "0":
                return None
            tie = tie.model_copy(update={"expr": text, "at": self._text_place(tie)})
            return next(d for d in with_branches(with_tie(self.sketch, tie), {tie.id}).dimensions if d.id == tie.id)
        tie = Constraint(id=f"k{self.next['k'] + 1}", kind=idea.kind, refs=list(idea.refs))  # type: ignore[arg-type,assignment]
        return next(c for c in with_branches(with_tie(self.sketch, tie), {tie.id}).constraints if c.id == tie.id)

    def _text_place(self, d: Dimension) -> tuple[float, float] | None:
        """Sizes across go below the sketch, sizes up to its left, each a row further out; others where they fall."""
        at = {ORIGIN: (0.0, 0.0)} | {ref: p for e in self.sketch.entities for ref, p in points_of(e).items()}
        lines = {e.id: e for e in self.sketch.entities if isinstance(e, Line)}
        ends = [at[r] for r in d.refs if r in at] + [p for r in d.refs if r in lines for p in (lines[r].p, lines[r].q)]
        if d.kind != "distance" or not ends:
            return None
        told = bearings(self.sketch)
        way = {"horizontal": 0, "vertical": 1}.get(d.along)
        for r in d.refs:
            if r in told and told[r][0] == X_AXIS and way is None:
                way = told[r][1] if len(d.refs) == 1 else 1 - told[r][1]
        if way is None:
            return None
        low = [min(p[k] for p in at.values()) for k in (0, 1)]
        reach = max(max(p[k] for p in at.values()) - low[k] for k in (0, 1))
        self.rows[way] += 1
        middle = (min(p[way] for p in ends) + max(p[way] for p in ends)) / 2
        out = low[1 - way] - reach * (0.06 + 0.07 * self.rows[way])
        return (middle, out) if way == 0 else (out, middle)

    def _moved(self, after: Sketch) -> float:
        most = 0.0
        for e in after.entities:
            for ref, at in points_of(e).items():
                most = max(most, math.dist(at, self.began[ref]))
            if e.kind in ("circle", "arc"):
                most = max(most, abs(e.r - self.radii[e.id]))
        return most


def _derivative(sketch: Sketch, known: dict[str, float]) -> Floats:
    """Derivative of all rows by all variables but the ground, dense."""
    system = Builder(sketch, known).build()
    batch = Batch(system.rows)
    J = np.zeros((batch.count, len(system.x)))
    np.add.at(J, (batch.rows, batch.cols), batch.evaluate(system.x)[1])
    return J[:, 1:]


def _derivative_of(sketch: Sketch, tie: Constraint | Dimension) -> Floats:
    """The row-scaled derivative of one tie's rows."""
    alone = sketch.model_copy(update={"constraints": [], "dimensions": []})
    # what a tie becomes can depend on what is joined: the joins stay in sight, their rows do not
    joined = alone.model_copy(update={"constraints": sketch.constraints})
    builder = Builder(with_tie(joined, tie), {})
    builder.rows.clear()
    if isinstance(tie, Constraint):
        builder.constrain(tie)
    else:
        builder.dimension(tie, builder.measure(tie))
    rows = [r for r in builder.rows if r.owner == tie.id]
    batch = Batch(rows)
    x = np.array(builder.data)
    J = np.zeros((batch.count, len(x)))
    np.add.at(J, (batch.rows, batch.cols), batch.evaluate(x)[1])
    size = np.linalg.norm(J[:, 1:], axis=1)
    return np.asarray(J[:, 1:] / np.where(size > 1e-14, size, 1.0)[:, None])

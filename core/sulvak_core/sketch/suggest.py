"""What would finish a sketch: constraints that hold already within a tolerance, then sizes.

Each suggestion is tried on the solver before it is made: it must take freedom away, must not fight with
anything, and must not move the geometry further than the tolerance. Together they leave nothing free.
"""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from ..part.units import MM_PER, length, number
from . import words
from .candidates import SIZES, TIES, Idea, Scene, line_sizes, places, round_sizes, widths
from .directions import bearings
from .edit import Values, used_numbers, with_tie
from .freedom import null_space
from .model import ORIGIN, X_AXIS, Arc, Circle, Constraint, Dimension, Line, Sketch, points_of
from .rows import Batch, Floats
from .solution_branches import branched
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
    effort: float = math.inf,
    times: Callable[[str, float], int] = lambda kind, value: 1,
) -> Finish:
    """What would finish ``sketch``. ``tolerance`` in mm, by default half a per cent of its size.

    ``wanted(kind, now, tolerance)`` may give a value (mm or degrees) that the sheet asks for: sizes that it gives come
    first, each value as many ``times`` as it gives it. Where they are settled already by others, they are shown for
    reference. Any other size is rounded as a drawing would say it, as far as the tolerance allows; what
    was drawn to a short number already keeps it. After ``effort`` seconds of work what was found by then is given.
    """
    until = time.thread_time() + effort
    near = default_tolerance(sketch) if tolerance is None else tolerance
    work = Work(sketch, values, near, wanted or (lambda kind, now, near: None))
    for phase in TIES:
        for idea in phase(Scene(work.sketch, near)):
            if not work.left or time.thread_time() > until:
                return Finish(work.found, work.sketch, work.left)
            work.take(idea)
    for pick in (_given, _round, _any):
        for phase in [*SIZES, widths] if pick is _given else SIZES:
            for idea in phase(Scene(work.sketch, near)):
                if not work.left or time.thread_time() > until:
                    break
                work.size(idea, pick, times)
    if not work.left:
        for phase in [round_sizes, line_sizes, widths, places]:
            for idea in phase(Scene(work.sketch, near)):
                if time.thread_time() > until:
                    break
                work.refer(idea, times)
    return Finish(work.found, work.sketch, work.left)


EXACT = 1e-6  # mm or degrees: what a size for reference must agree to
MEASURED = ("distance", "radius", "diameter", "angle")
# what a drawing counts in, the roundest first: mm, inches (fractions that are short as decimals) and degrees
_COUNTED = {"mm": (5.0, 1.0, 0.5, 0.1, 0.05, 0.01), "in": (0.5, 0.25, 0.125, 0.0625, 0.01, 0.001)}
_COUNTED_DEGREES = (15.0, 5.0, 1.0, 0.5, 0.1, 0.01)
_COARSE = 0.5  # share of the tolerance within which a number coarser than a whole one is meant
_WHOLE = {"mm": 1.0, "in": 0.125}  # and 1 for degrees
_PLAIN = 2  # what a size is counted in that nobody takes for an odd number


def as_drawn(now: float, near: float, unit: str) -> float:
    """``now`` as a drawing would say it, no further than ``near`` away; all in ``unit``: mm, in or deg.

    What is short already stays: somebody meant 12.7.
    """
    counted = _COUNTED.get(unit, _COUNTED_DEGREES)
    if abs(now - round(now / counted[-1]) * counted[-1]) < 1e-7 * max(1.0, abs(now)):
        return now
    for step in counted:
        value = round(now / step) * step
        if value > 0 and abs(value - now) <= near * (_COARSE if step > _WHOLE.get(unit, 1.0) else 1.0):
            return value
    return now


@dataclass(frozen=True)
class _Size:
    """The values a size may have, in mm or degrees: as the sheet asks, as a drawing would say it, as it measures."""

    asked: float | None
    rounded: float
    now: float
    plain: bool


def _given(size: _Size) -> list[float]:
    """What the sheet says comes first …"""
    return [] if size.asked is None else [size.asked]


def _round(size: _Size) -> list[float]:
    """… then sizes that are plain numbers …"""
    return [size.rounded] if size.plain else []


def _any(size: _Size) -> list[float]:
    """… and odd ones only where nothing else is left to say."""
    return [*_given(size), size.rounded, size.now]


class Work:
    """A sketch on its way to being finished: each tie is tried, and kept if it does what a suggestion must do.

    ``near`` (mm) is how near is near, ``limit`` how far geometry may move altogether.
    """

    def __init__(
        self,
        sketch: Sketch,
        values: Values,
        near: float,
        wanted: Callable[[str, float, float], float | None],
        limit: float | None = None,
    ) -> None:
        self.sketch, self.values, self.near, self.wanted = sketch, values, near, wanted
        self.limit = near if limit is None else limit
        self.began = sketch
        self.found: list[Suggestion] = []
        self.given: Counter[tuple[str, float]] = Counter()  # how often a value of the sheet has gone to a size
        self.rows = [0, 0]  # dimension lines so far below the sketch, and to its left
        self.next = {"k": 0, "d": 0} | used_numbers(sketch, [])
        self._measure()

    @property
    def left(self) -> int:
        return self.free.shape[1]

    def _measure(self) -> None:
        """The free motions of the sketch as it is, in all its variables."""
        self.free = null_space(derivative(self.sketch, self.values.all(self.sketch)))[1]
        self.probe = Builder(self.sketch, {})  # what is asked of the sketch as it is, without building it each time

    def take(self, idea: Idea) -> bool:
        """Keep a constraint if it does what a suggestion must do."""
        tie = Constraint(id=f"k{self.next['k'] + 1}", kind=idea.kind, refs=list(idea.refs))  # type: ignore[arg-type]
        return self._take(idea, branched(self.probe, tie))

    def size(self, idea: Idea, pick: Callable[[_Size], list[float]], times: Callable[[str, float], int]) -> None:
        """Keep a size with the first of the values picked that does; what the sheet gives once goes to one size."""
        if idea.kind not in MEASURED:
            if pick is _any:
                self.take(idea)
            return
        values = self._values(idea)
        for value in pick(values) if values else []:
            text = number(value) if idea.kind == "angle" else length(value, self.values.unit)
            if text == "0" or (pick is _given and self.given[idea.kind, value] >= times(idea.kind, value)):
                continue
            # what is shown is what is stored: the geometry moves by the difference
            if self._take(idea, self._dimension(idea, text)):
                self.given[idea.kind, value] += value == values.asked if values else 0
                return

    def place(self, idea: Idea, text: str) -> bool:
        """Keep a size of ``text``, in the part's unit, if it does what a suggestion must do."""
        return self._take(idea, self._dimension(idea, text))

    def free_size(self, idea: Idea) -> None:
        """Keep a size or a tie that takes the last freedom of something, whatever it is."""
        self.size(idea, _any, lambda kind, value: 1)

    def put(self, sketch: Sketch) -> None:
        """Go on from ``sketch``, in which the same is tied and things may stand elsewhere."""
        self.sketch = sketch
        self._measure()

    def back(self, sketch: Sketch, found: list[Suggestion]) -> None:
        """Be again as it was with ``sketch`` and what had been found by then."""
        self.found = found
        self.put(sketch)

    def refer(self, idea: Idea, times: Callable[[str, float], int]) -> None:
        """Show a size that the sheet gives and that others settle already: for reference, to be compared with it."""
        values = self._values(idea) if idea.kind in MEASURED else None
        if values is None or values.asked is None or abs(values.asked - values.now) > EXACT:
            return
        key = (idea.kind, values.asked)
        if self.given[key] >= times(*key):
            return
        text = number(values.asked) if idea.kind == "angle" else length(values.asked, self.values.unit)
        tie = self._dimension(idea, text).model_copy(update={"driving": False})
        tie = tie.model_copy(update={"at": self.text_place(tie)})
        self.given[key] += 1
        self.next["d"] += 1
        self.sketch = self.sketch.model_copy(update={"dimensions": [*self.sketch.dimensions, tie]})
        said = words.dimension(tie, values.asked, self.values.unit)
        self.found.append(Suggestion([], [tie], f"{said}, for reference", 0, 0.0, list(tie.refs)))

    def _values(self, idea: Idea) -> _Size | None:
        """What a size may be, or None where there is nothing to measure."""
        tie = bare(idea, "d0", "1")
        now, angle = self.probe.measure(tie), idea.kind == "angle"
        limit = math.degrees(self.near / max(idea.reach, self.near)) if angle else self.near
        if now <= (0.05 if angle else limit) or (angle and now > 179.95):
            return None
        unit, per = ("deg", 1.0) if angle else (self.values.unit, MM_PER[self.values.unit])
        value = as_drawn(now / per, limit / per, unit)
        counted = _COUNTED.get(unit, _COUNTED_DEGREES)[_PLAIN]
        plain = abs(value - round(value / counted) * counted) < 1e-7
        return _Size(self.wanted(idea.kind, now, limit), value * per, now, plain)

    def _dimension(self, idea: Idea, text: str) -> Dimension:
        return branched(self.probe, bare(idea, f"d{self.next['d'] + 1}", text))

    def _take(self, idea: Idea, tie: Constraint | Dimension) -> bool:
        rows = derivative_of(self.probe, tie)
        rank = int(np.linalg.matrix_rank(rows @ self.free, tol=1e-7))
        # symmetry of what is level already says a part of it again; nothing else may
        if rank == 0 or (rank < len(rows) and idea.kind != "symmetric"):
            return False
        trial = with_tie(self.sketch, tie)
        solution = solve(trial, self.values.all(trial))
        if not solution.solved:
            return False
        moves = farthest(self.began, solution.sketch)
        if moves > self.limit + 1e-9:
            return False
        before, self.sketch = self.sketch, solution.sketch
        left = self.left
        self._measure()
        if left - self.left != rank:
            self.sketch = before
            self._measure()
            return False
        self.next[tie.id[0]] += 1
        if isinstance(tie, Constraint):
            made = Suggestion([tie], [], words.constraint(tie), rank, moves, list(tie.refs))
        else:
            tie = tie.model_copy(update={"at": self.text_place(tie)})
            self.sketch = self.sketch.model_copy(
                update={"dimensions": [tie if d.id == tie.id else d for d in self.sketch.dimensions]}
            )
            said = words.dimension(tie, self.values.of(tie), self.values.unit)
            made = Suggestion([], [tie], said, rank, moves, list(tie.refs))
        self.found.append(made)

        return True

    def text_place(self, d: Dimension) -> tuple[float, float] | None:
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


def farthest(before: Sketch, after: Sketch) -> float:
    """How far (mm) the point moves that moves farthest, or the radius grows that grows most."""
    was = {e.id: e for e in before.entities}
    most = 0.0
    for e in after.entities:
        old = was[e.id]
        places = points_of(old)
        most = max([most, *(math.dist(at, places[ref]) for ref, at in points_of(e).items())])
        if isinstance(e, Circle | Arc) and isinstance(old, Circle | Arc):
            most = max(most, abs(e.r - old.r))
    return most


def bare(idea: Idea, ident: str, expr: str) -> Dimension:
    return Dimension.model_validate(
        {"id": ident, "kind": idea.kind, "refs": list(idea.refs), "expr": expr, "along": idea.along}
    )


def derivative(sketch: Sketch, known: dict[str, float]) -> Floats:
    """Derivative of all rows by all variables but the ground, dense."""
    system = Builder(sketch, known).build()
    batch = Batch(system.rows)
    J = np.zeros((batch.count, len(system.x)))
    np.add.at(J, (batch.rows, batch.cols), batch.evaluate(system.x)[1])
    return J[:, 1:]


def derivative_of(builder: Builder, tie: Constraint | Dimension) -> Floats:
    """The row-scaled derivative of one tie's rows, asked of a builder that is left as it was."""
    before = len(builder.rows)
    if isinstance(tie, Constraint):
        builder.constrain(tie)
    else:
        builder.dimension(tie, builder.measure(tie))
    rows = [r for r in builder.rows[before:] if r.owner == tie.id]
    del builder.rows[before:]
    batch = Batch(rows)
    x = np.array(builder.data)
    J = np.zeros((batch.count, len(x)))
    np.add.at(J, (batch.rows, batch.cols), batch.evaluate(x)[1])
    size = np.linalg.norm(J[:, 1:], axis=1)
    return np.asarray(J[:, 1:] / np.where(size > 1e-14, size, 1.0)[:, None])

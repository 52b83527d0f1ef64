"""Which of two solutions is meant: taken from where things are when a constraint or dimension is made."""

from __future__ import annotations

from typing import TypeVar

from .model import (
    Constraint,
    Dimension,
    Sketch,
)
from .system import Builder

Tied = TypeVar("Tied", Constraint, Dimension)


def with_branches(sketch: Sketch, fresh: set[str]) -> Sketch:
    """``sketch`` with the branches of the constraints and dimensions in ``fresh`` taken from where things are now."""
    touched = {r.partition(".")[0] for c in sketch.constraints if c.id in fresh for r in c.refs}
    few = Builder(Sketch(entities=[e for e in sketch.entities if e.id in touched]), {})
    constraints = [branched(few, c) if c.id in fresh else c for c in sketch.constraints]
    dimensions = sketch.dimensions
    if any(d.id in fresh for d in dimensions):
        b = Builder(sketch, {})  # whether two lines are told to be parallel, their ties say
        dimensions = [branched(b, d) if d.id in fresh else d for d in dimensions]
    return sketch.model_copy(update={"constraints": constraints, "dimensions": dimensions})


def branched(b: Builder, tie: Tied) -> Tied:
    """``tie`` with its branch, unless it has one, taken from where things are in ``b``."""
    if tie.branch is not None:
        return tie
    branch = _branch_now(b, tie) if isinstance(tie, Constraint) else _dimension_branch_now(b, tie)
    return tie.model_copy(update={"branch": branch})


def _branch_now(b: Builder, c: Constraint) -> int | None:
    lines = [r for r in c.refs if r in b.lines]
    if c.kind == "tangent" and any(r in b.ellipse or r in b.splines for r in c.refs):
        return None  # where they touch is told by where they are
    if c.kind == "tangent" and len(lines) == 1:
        circle = next((r for r in c.refs if r in b.radius), None)
        return (1 if b.side(b.point[f"{circle}.c"], lines[0]) >= 0 else -1) if circle else None
    if c.kind == "tangent" and len(c.refs) == 2 and all(r in b.radius for r in c.refs):
        one, two = c.refs
        between = b.gap(b.point[f"{one}.c"], b.point[f"{two}.c"])
        r1, r2 = b.data[b.radius[one]], b.data[b.radius[two]]
        return -1 if abs(between - abs(r1 - r2)) < abs(between - r1 - r2) else 1
    if c.kind == "symmetric" and len(c.refs) == 3 and len(lines) == 3:
        return b.mirror_branch(*c.refs)
    return None


def _dimension_branch_now(b: Builder, d: Dimension) -> int | None:
    if d.kind == "angle" and len(d.refs) == 2 and all(r in b.lines for r in d.refs):
        return 1 if b.angle(d.refs[0], d.refs[1]) >= 0 else -1
    if d.kind != "distance":
        return None
    if d.rim:
        points, lines, _ = b.rims(d)
        return (1 if b.side(points[0], lines[0]) >= 0 else -1) if lines else None
    if all(r in b.radius for r in d.refs):
        one, two = (b.data[b.radius[r]] for r in d.refs)
        return 1 if two >= one else -1
    points, lines = b.split(d)
    if lines:
        return 1 if b.side(points[0], lines[0]) >= 0 else -1
    if d.along == "shortest":
        return None
    axis = 0 if d.along == "horizontal" else 1
    return 1 if b.data[points[1][axis]] >= b.data[points[0][axis]] else -1

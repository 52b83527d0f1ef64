"""Building sketches for tests in few words."""

from __future__ import annotations

from typing import Any

import numpy as np

from sulvak_core.sketch.lettering import slenderness
from sulvak_core.sketch.model import (
    AnyEntity,
    Arc,
    Circle,
    Constraint,
    Dimension,
    Ellipse,
    EllipseArc,
    Line,
    Point,
    Sketch,
    Spline,
    Text,
)
from sulvak_core.sketch.rows import Batch
from sulvak_core.sketch.system import Builder
from sulvak_core.sketch.variables import GROUND

P, L, C, A = Point, Line, Circle, Arc


def line(n: int, p: tuple[float, float], q: tuple[float, float], **more: Any) -> Line:
    return Line(id=f"l{n}", p=p, q=q, **more)


def circle(n: int, c: tuple[float, float], r: float, **more: Any) -> Circle:
    return Circle(id=f"c{n}", c=c, r=r, **more)


def arc(n: int, c: tuple[float, float], r: float, start: float, end: float) -> Arc:
    """Angles in degrees, counter-clockwise."""
    a, b = np.radians([start, end])
    p = (c[0] + r * float(np.cos(a)), c[1] + r * float(np.sin(a)))
    q = (c[0] + r * float(np.cos(b)), c[1] + r * float(np.sin(b)))
    return Arc(id=f"a{n}", c=c, r=r, p=p, q=q)


def ellipse(n: int, c: tuple[float, float], a: float, b: float, tilt: float = 0.0) -> Ellipse:
    """Half axes ``a`` and ``b``, the first turned by ``tilt`` degrees."""
    u, v = float(np.cos(np.radians(tilt))), float(np.sin(np.radians(tilt)))
    return Ellipse(id=f"e{n}", c=c, m=(c[0] + a * u, c[1] + a * v), n=(c[0] - b * v, c[1] + b * u))


def ellipse_arc(n: int, c: tuple[float, float], a: float, b: float, start: float, end: float) -> EllipseArc:
    """Part of an ellipse with level axes, between eccentric anomalies in degrees."""
    whole = ellipse(n, c, a, b)
    p, q = ((c[0] + a * float(np.cos(t)), c[1] + b * float(np.sin(t))) for t in np.radians([start, end]))
    return EllipseArc(id=f"e{n}", c=c, m=whole.m, n=whole.n, p=p, q=q)


def spline(n: int, *points: tuple[float, float], form: str = "through") -> Spline:
    return Spline(id=f"s{n}", points=list(points), form=form)  # type: ignore[arg-type]


def text(n: int, said: str, p: tuple[float, float], q: tuple[float, float]) -> Text:
    k = slenderness(said)
    m = (p[0] - k * (q[1] - p[1]), p[1] + k * (q[0] - p[0]))
    return Text(id=f"t{n}", text=said, p=p, q=q, m=m, c=((m[0] + q[0]) / 2, (m[1] + q[1]) / 2))


def ties(*rows: str) -> list[Constraint]:
    """``"parallel l1 l2"`` → Constraint k1 …"""
    found = []
    for n, row in enumerate(rows, 1):
        kind, *refs = row.split()
        found.append(Constraint(id=f"k{n}", kind=kind, refs=refs))  # type: ignore[arg-type]
    return found


def sizes(*rows: str) -> list[Dimension]:
    """``"distance 40 l1"``, ``"distance 10 l1.p l2.q horizontal"`` → Dimension d1 …"""
    found = []
    for n, row in enumerate(rows, 1):
        kind, expr, *refs = row.split()
        across = refs[-1] == "across" and bool(refs.pop())
        along = refs.pop() if refs[-1] in ("horizontal", "vertical") else "shortest"
        rim = refs.pop() if refs[-1] in ("near", "far") else ""
        found.append(Dimension(id=f"d{n}", kind=kind, refs=refs, expr=expr, along=along, rim=rim, across=across))  # type: ignore[arg-type]
    return found


def values(sketch: Sketch) -> dict[str, float]:
    return {d.id: float(d.expr) for d in sketch.dimensions if d.driving}


def rectangle(first: int = 1, x: float = 0, y: float = 0, w: float = 40, h: float = 30, held: bool = True) -> Sketch:
    at = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
    n = [first + i for i in range(4)]
    lines: list[AnyEntity] = [line(n[i], at[i], at[(i + 1) % 4]) for i in range(4)]
    rows = [f"coincident l{n[i]}.q l{n[(i + 1) % 4]}.p" for i in range(4)]
    rows += [f"{('horizontal', 'vertical')[i % 2]} l{n[i]}" for i in range(4)]
    if held:
        rows.append(f"coincident l{n[0]}.p origin")
    return Sketch(entities=lines, constraints=ties(*rows))


def numerical_freedom(sketch: Sketch) -> int:
    """Degrees of freedom by the rank of the whole system differentiated numerically: an independent count."""
    system = Builder(sketch, values(sketch)).build()
    batch = Batch(system.rows)
    free = [i for i in range(len(system.x)) if i != GROUND]
    J = np.zeros((batch.count, len(free)))
    for k, i in enumerate(free):
        step = 1e-6
        up, down = system.x.copy(), system.x.copy()
        up[i] += step
        down[i] -= step
        J[:, k] = (batch.evaluate(up)[0] - batch.evaluate(down)[0]) / (2 * step)
    size = np.linalg.norm(J, axis=1)
    J = J[size > 1e-12] / size[size > 1e-12][:, None]
    s = np.linalg.svd(J, compute_uv=False)
    return len(free) - int((s > 1e-6).sum())


def residual(sketch: Sketch) -> float:
    """The worst residual of all rows, scaled."""
    system = Builder(sketch, values(sketch)).build()
    return float(np.abs(Batch(system.rows).evaluate(system.x)[0]).max(initial=0.0))


def slot(*more: str) -> Sketch:
    """A slot of radius 5 between centres 20 apart: two lines, two arcs, joined and tangent; ``more`` constraints."""
    entities: list[AnyEntity] = [
        line(1, (0, 5), (20, 5)),
        line(2, (20, -5), (0, -5)),
        arc(1, (20, 0), 5, -90, 90),
        arc(2, (0, 0), 5, 90, 270),
    ]
    joints = ("coincident l1.q a1.q", "coincident a1.p l2.p", "coincident l2.q a2.q", "coincident a2.p l1.p")
    smooth = ("tangent l1 a1", "tangent a1 l2", "tangent l2 a2", "tangent a2 l1")
    return Sketch(entities=entities, constraints=ties(*joints, *smooth, *more))

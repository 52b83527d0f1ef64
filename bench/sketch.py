"""The sketch solver's rows."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import AnyEntity, Circle, Constraint, Dimension, Line, Sketch
from sulvak_core.sketch.offset import offset
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.reduce import reduce
from sulvak_core.sketch.regions import Region
from sulvak_core.sketch.rows import Batch
from sulvak_core.sketch.shape import fillet
from sulvak_core.sketch.solve import Drag, solve, solve_reduced
from sulvak_core.sketch.system import Builder
from sulvak_core.sketch.variables import GROUND, System

from .timing import median, p95, ratio, samples


def truss(bays: int) -> tuple[Sketch, dict[str, float]]:
    """A strip of triangles with every rod's length given: one cluster that no substitution takes apart.

    Two unknowns a joint; drawn 2 % off its lengths.
    """
    rng = np.random.default_rng(3)
    joints = [(10.0 * (i // 2) + 5.0 * (i % 2), 8.0 * (i % 2)) for i in range(bays + 2)]
    drawn = [(x + rng.normal(0, 0.15), y + rng.normal(0, 0.15)) for x, y in joints]
    entities: list[AnyEntity] = []
    ties: list[Constraint] = []
    sizes: list[Dimension] = []
    values: dict[str, float] = {}
    at: dict[int, str] = {}
    pairs = [(i, i + 1) for i in range(bays + 1)] + [(i, i + 2) for i in range(bays)]
    for n, (i, j) in enumerate(pairs, 1):
        entities.append(Line(id=f"l{n}", p=drawn[i], q=drawn[j]))
        for joint, end in ((i, f"l{n}.p"), (j, f"l{n}.q")):
            if joint in at:
                ties.append(Constraint(id=f"k{len(ties) + 1}", kind="coincident", refs=[at[joint], end]))
            else:
                at[joint] = end
        sizes.append(Dimension(id=f"d{n}", kind="distance", refs=[f"l{n}"], expr="1"))
        values[f"d{n}"] = math.dist(joints[i], joints[j])
    ties.append(Constraint(id="k9001", kind="coincident", refs=[at[0], "origin"]))
    ties.append(Constraint(id="k9002", kind="horizontal", refs=[at[0], at[2]]))
    return Sketch(entities=entities, constraints=ties, dimensions=sizes), values


def chain(count: int) -> tuple[Sketch, dict[str, float]]:
    """Rectangles with a hole each, every one hung on the one before: about 11 unknowns each before substitution."""
    entities: list[AnyEntity] = []
    ties: list[Constraint] = []
    sizes: list[Dimension] = []
    values: dict[str, float] = {}

    def tie(kind: str, *refs: str) -> None:
        ties.append(Constraint(id=f"k{len(ties) + 1}", kind=kind, refs=list(refs)))  # type: ignore[arg-type]

    def size(kind: str, value: float, *refs: str) -> None:
        ident = f"d{len(sizes) + 1}"
        sizes.append(Dimension(id=ident, kind=kind, refs=list(refs), expr="1"))  # type: ignore[arg-type]
        values[ident] = value

    for i in range(count):
        x, n = 22.0 * i, 4 * i + 1
        at = [(x, 0.0), (x + 19.7, 0.3), (x + 20.2, 10.1), (x, 9.8)]
        entities += [Line(id=f"l{n + k}", p=at[k], q=at[(k + 1) % 4]) for k in range(4)]
        entities.append(Circle(id=f"c{i + 1}", c=(x + 9, 5.2), r=3))
        for k in range(4):
            tie("coincident", f"l{n + k}.q", f"l{n + (k + 1) % 4}.p")
            tie("vertical" if k % 2 else "horizontal", f"l{n + k}")
        size("distance", 20, f"l{n}")
        size("distance", 10, f"l{n + 1}")
        size("radius", 2.5, f"c{i + 1}")
        # the centre 11 from one corner and 7 from another: two circles to cut, no substitution
        size("distance", math.hypot(10, 5), f"c{i + 1}.c", f"l{n}.p")
        size("distance", math.hypot(10, 5), f"c{i + 1}.c", f"l{n}.q")
        if i:
            tie("horizontal", f"l{n}.p", f"l{n - 4}.p")
            size("distance", 22, f"l{n - 1}", f"l{n + 3}")
        else:
            tie("coincident", "l1.p", "origin")
    return Sketch(entities=entities, constraints=ties, dimensions=sizes), values


def _scipy(system: System) -> tuple[int, Callable[[], object]]:
    """The number of unknowns, and least_squares on all of a system's rows and variables with our derivatives."""
    batch, n = Batch(system.rows), len(system.x) - 1  # variable 0 is the ground

    def everything(z: Any) -> Any:
        return np.concatenate([[0.0], z])

    def residuals(z):  # type: ignore[no-untyped-def]
        return batch.evaluate(everything(z))[0]

    def jacobian(z):  # type: ignore[no-untyped-def]
        J = np.zeros((batch.count, n + 1))
        np.add.at(J, (batch.rows, batch.cols), batch.evaluate(everything(z))[1])
        return J[:, 1:]

    return n, lambda: least_squares(residuals, system.x[1:], jac=jacobian, xtol=1e-14, ftol=1e-14, gtol=1e-14)


def _against(sketch: Sketch, values: dict[str, float], whole: bool = False) -> str:
    system = Builder(sketch, values).build()
    n, theirs = _scipy(system)
    assert solve(sketch, values).solved
    found = ratio((lambda: solve(sketch, values)) if whole else (lambda: solve_reduced(reduce(system))), theirs, 9)
    return f"{1 / found[0]:.1f}× ({n} unknowns, {1000 * found[1]:.1f} ms against {1000 * found[2]:.0f} ms)"


def against_scipy() -> str:
    """sketch solve (substitution included) against scipy least_squares with our Jacobian on the same rows and
    variables, 120 unknowns: truss; rectangles with holes | 10× | 40×"""
    return f"{_against(*truss(14))}; {_against(*chain(6))}"


def against_scipy_hard() -> str:
    """the same with 485 unknowns, of which 120 are left in one cluster after substitution | 10× | 40×"""
    return _against(*truss(60))


def against_scipy_whole() -> str:
    """the same from the document to the moved document, reading and writing the sketch included | – | –"""
    return f"{_against(*truss(14), whole=True)}; {_against(*truss(60), whole=True)}"


def _drag(sketch: Sketch, values: dict[str, float], ref: str, start: tuple[float, float]) -> float:
    drag = Drag(sketch, values, ref)
    turn = iter(range(10**6))

    def step() -> None:
        k = next(turn)
        drag.to(start[0] + 2 * math.sin(k / 9), start[1] + 2 * math.cos(k / 7))

    step()
    return p95(samples(step, 60))


def drag_small() -> str:
    """one drag step, p95, 120 unknowns in one cluster | 8 ms | 3 ms"""
    sketch, values = truss(60)
    loose = sketch.model_copy(update={"dimensions": sketch.dimensions[1:]})
    solved = solve(loose, {d.id: values[d.id] for d in loose.dimensions}).sketch
    last = solved.entities[60]
    assert isinstance(last, Line)
    return f"{1000 * _drag(solved, values, 'l61.q', last.q):.1f} ms"


def drag_large() -> str:
    """one drag step, p95, 1,000 unknowns in clusters | 16 ms | 8 ms"""
    sketch, values = chain(90)
    gone = {"d3"}
    loose = sketch.model_copy(update={"dimensions": [d for d in sketch.dimensions if d.id not in gone]})
    solved = solve(loose, values).sketch
    return f"{1000 * _drag(solved, values, 'c1', (14.0, 5.0)):.1f} ms"


def freedom_300() -> str:
    """freedom count and free motions, 300 unknowns | 60 ms | 20 ms"""
    sketch, values = truss(150)
    loose = sketch.model_copy(update={"dimensions": sketch.dimensions[::2]})
    solved = solve(loose, values).sketch
    return f"{1000 * median(lambda: freedom(solved, values), 7):.0f} ms"


def growth() -> str:
    """growth of solve time from 100 to 2,000 unknowns (chain of rectangles with holes), exponent | 1.3 | 1.1"""
    sizes, times = [], []
    for count in (5, 20, 95):
        sketch, values = chain(count)
        assert solve(sketch, values).solved
        sizes.append(len([i for i in range(len(Builder(sketch, values).build().x)) if i != GROUND]))
        times.append(median(lambda s=sketch, v=values: solve(s, v), 5))  # type: ignore[misc]
    exponent = np.polyfit(np.log(sizes), np.log(times), 1)[0]
    return f"{exponent:.2f} ({sizes[0]}: {1000 * times[0]:.0f} ms, {sizes[-1]}: {1000 * times[-1]:.0f} ms)"


def freedom_2000() -> str:
    """freedom of 2,000 unknowns in one cluster, all tied; half of them free | 1 s | 400 ms"""
    taken = []
    for every in (1, 2):
        sketch, values = truss(1000)
        sketch = solve(sketch.model_copy(update={"dimensions": sketch.dimensions[::every]}), values).sketch
        first = sketch.dimensions[0].id
        turns = itertools.count(1)  # another size each time, since what stays is remembered

        def told(s: Sketch, v: dict[str, float], first: str, turns: Iterator[int]) -> None:
            freedom(s, {**v, first: v[first] + 1e-12 * next(turns)}, with_motions=False)

        taken.append(1000 * median(partial(told, sketch, values, first, turns), 3))
    return f"{taken[0]:.0f} ms, {taken[1]:.0f} ms"


def outline_500() -> str:
    """an outline of 500 lines: a place inside; 200 corners rounded; 400 copied aside | 0.5, 8, 4 s | 0.1, 2, 1 s"""
    turns = [2 * math.pi * k / 500 for k in range(500)]
    at = [((300 + 20 * (k % 2)) * math.cos(a), (300 + 20 * (k % 2)) * math.sin(a)) for k, a in enumerate(turns)]
    lines: list[AnyEntity] = [Line(id=f"l{k + 1}", p=at[k], q=at[(k + 1) % 500]) for k in range(500)]
    joints = [[f"l{k + 1}.q", f"l{(k + 1) % 500 + 1}.p"] for k in range(500)]
    ties = [Constraint(id=f"k{k + 1}", kind="coincident", refs=refs) for k, refs in enumerate(joints)]
    sketch = Sketch(entities=lines, constraints=ties)
    typed = Values(lambda said, _: float(said))
    regions = profile(sketch).regions
    turned = itertools.count(1)

    def inside() -> None:  # moved each time, since what stays is remembered
        by = 1e-9 * next(turned)
        moved = [(p, (p.start[0] + by, p.start[1]), (p.end[0] + by, p.end[1])) for p in regions[0].outer]
        outer = [replace(p, start=start, end=end) for p, start, end in moved]
        Region(outer, [], regions[0].area).inside()

    corners = [f"l{k}.q" for k in range(10, 210)]
    names = [e.id for e in lines[:400]]
    rounds, copies = (
        (lambda: fillet(sketch, typed, corners, "0.3")),
        (lambda: offset(sketch, typed, names, "0.2", (400, 9))),
    )
    return ", ".join(f"{median(work, 3):.2f} s" for work in (inside, rounds, copies))


ROWS = [
    against_scipy,
    against_scipy_hard,
    against_scipy_whole,
    drag_small,
    drag_large,
    freedom_300,
    freedom_2000,
    outline_500,
    growth,
]

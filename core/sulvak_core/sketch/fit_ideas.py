"""What a sheet asks of a sketch, and the sizes of a sketch that it may mean: one for each way it can still move."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from .candidates import Idea, Scene
from .model import ORIGIN, X_AXIS, Arc, Circle, Point
from .rows import Floats
from .suggest import Work, bare, derivative_of

FAR = 0.5  # |ln(asked / drawn)| from which a size is not meant by what was drawn: some 1.6 times as large
FAR_ROUND = 0.9  # … for circles and arcs, of which there are fewer to be taken for one another
BESIDE = 0.3  # what a size costs more that the sheet gives in another view
ODD = 0.1  # … a diameter on an arc
NEVER = 0.6  # … a radius on a whole circle, which no drafter gives
TURN = 60.0  # degrees that count as much as a size e times as large
LEVEL = math.radians(5)  # a line drawn by hand nearer than this to a direction is meant to have it

Phase = Callable[[Scene], Iterator[Idea]]
Along = Literal["", "horizontal", "vertical"]


@dataclass(frozen=True)
class Asked:
    """A size of the sheet that nothing uses yet: ``value`` in mm or degrees, asked ``count`` times.

    ``along`` is how its dimension line runs and ``views`` those views of the sheet that it speaks of, where that is
    known; ``beside``: it stands at a view that does not show this sketch. ``aid``: the diameter of a circle that is
    only drawn to place others.
    """

    ident: str
    kind: Literal["distance", "diameter", "radius", "angle"]
    value: float
    count: int = 1
    along: Along = ""
    views: tuple[int, ...] = ()
    beside: bool = False
    aid: bool = False


def spans(s: Scene) -> Iterator[Idea]:
    """From centre to centre across, up, and straight where they are in no row."""
    centres = {f"{e.id}.c": e.c for e in s.rounds if not e.construction}
    centres |= {e.id: e.at for e in s.entities if isinstance(e, Point)}
    for (a, at), (b, to) in sorted(combinations(centres.items(), 2), key=lambda p: math.dist(p[0][1], p[1][1])):
        dx, dy = abs(at[0] - to[0]), abs(at[1] - to[1])
        pair = (a, b)
        if dx > s.near:
            yield Idea("distance", pair, "horizontal")
        if dy > s.near:
            yield Idea("distance", pair, "vertical")
        if min(dx, dy) > 0.05 * max(dx, dy):
            yield Idea("distance", pair)


def rings(s: Scene) -> Iterator[Idea]:
    """Between circles and arcs about one centre."""
    for a, b in combinations(s.rounds, 2):
        if s.together(f"{a.id}.c", f"{b.id}.c") and abs(a.r - b.r) > s.near:
            yield Idea("distance", (a.id, b.id))


def corner_angles(s: Scene) -> Iterator[Idea]:
    """Between lines that are neither level nor upright and the lines they meet."""
    for e in s.lines:
        if s.told(e.id) is None:
            yield Idea("angle", (X_AXIS, e.id), reach=math.dist(e.p, e.q))
    for a, b in combinations(s.lines, 2):
        slanted = s.told(a.id) is None or s.told(b.id) is None
        if slanted and any(s.together(f"{a.id}.{i}", f"{b.id}.{j}") for i in "pq" for j in "pq"):
            yield Idea("angle", (a.id, b.id), reach=math.dist(b.p, b.q))


# How much less likely a size is given so, where several ways give the same number.
UNLIKELY = {"line": 0.0, "width": 0.01, "span": 0.02, "wall": 0.04, "place": 0.1, "skew": 0.15}


def sort_of(idea: Idea) -> str:
    if len(idea.refs) == 1:
        return "line"
    if ORIGIN in idea.refs:
        return "place"
    points = sum("." in r for r in idea.refs)
    if points == 2 and idea.along == "shortest":
        return "skew"
    return ("width", "wall", "span")[points]


def by_size(idea: Idea) -> bool:
    """Equal lengths are told by sizes first: what was drawn by hand says little of them."""
    return idea.kind == "equal" and idea.refs[0].startswith("l")


def off(a: Asked, value: float, now: float) -> float:
    apart = abs(value - now) / TURN if a.kind == "angle" else abs(math.log(value / max(now, 1e-9)))
    return apart + (BESIDE if a.beside else 0.0)


def off_round(a: Asked, e: Circle | Arc) -> float:
    r = a.value if a.kind == "radius" else a.value / 2
    odd = {("radius", "circle"): NEVER, ("diameter", "arc"): ODD}.get((a.kind, e.kind), 0.0)
    return abs(math.log(r / e.r)) + odd + (BESIDE if a.beside else 0.0)


def round_value(a: Asked, e: Circle | Arc) -> float:
    r = a.value if a.kind == "radius" else a.value / 2
    return 2 * r if isinstance(e, Circle) else r


def round_idea(e: Circle | Arc) -> Idea:
    return Idea("diameter" if isinstance(e, Circle) else "radius", (e.id,))


def asked_as(a: Asked, kind: str) -> float | None:
    """The size asked as one of ``kind``, or None where it is of another."""
    if a.kind == kind:
        return a.value
    return {("radius", "diameter"): 2 * a.value, ("diameter", "radius"): a.value / 2}.get((a.kind, kind))


def assigned(cost: Floats, far: float) -> list[tuple[int, int]]:
    """Rows to columns, each once at most, so that the sum is least; none farther off than ``far``."""
    rows, columns = cost.shape
    limited = np.where(cost < far, cost, 2 * far)
    wide = np.hstack([limited, np.full((rows, rows), far)])  # a row may also stay without one
    found = zip(*scipy.optimize.linear_sum_assignment(wide), strict=True)
    return [(int(i), int(j)) for i, j in found if j < columns and cost[i, j] < far]


class Sizes:
    """Sizes that could be given to the sketch of ``work``, one for each way it can move: ``ideas``, what they measure
    ``now``, along what they run (``way``: 0 across, 1 up, −1 neither)."""

    def __init__(self, work: Work, phases: Iterable[Phase], near: float) -> None:
        scene = Scene(work.sketch, near, LEVEL)
        seen: set[tuple[bytes, float]] = set()
        self.ideas: list[Idea] = []
        now = []
        for phase in phases:
            for idea in phase(scene):
                movement = motion(work, idea) if idea.kind in ("distance", "angle") else None
                if movement is None:
                    continue
                measured = work.probe.measure(bare(idea, "d0", "1"))
                key = (movement, round(measured, 6))
                if key not in seen and measured > 1e-6:
                    seen.add(key)
                    self.ideas.append(idea)
                    now.append(measured)
        self.now = np.array(now)
        self.way = np.array([way_of(idea, scene) for idea in self.ideas], dtype=int)


def motion(work: Work, idea: Idea) -> bytes | None:
    """How the free motions change a size, made comparable; None where they do not."""
    row = (derivative_of(work.probe, bare(idea, "d0", "1")) @ work.free)[0]
    size = float(np.linalg.norm(row))
    if size < 1e-7:
        return None
    row = row / size
    lead = row[np.argmax(np.abs(row) > 1e-6)]
    return bytes(np.round(row * np.sign(lead), 5).tobytes())


def way_of(idea: Idea, scene: Scene) -> int:
    """0 for a size across, 1 for one up, −1 for any other."""
    if idea.along != "shortest":
        return 0 if idea.along == "horizontal" else 1
    told = [scene.told(r) for r in idea.refs if "." not in r and r in scene.bearing]
    turn = next((t for t in told if t is not None), None)
    if turn is None:
        return -1
    return turn if len(idea.refs) == 1 else 1 - turn

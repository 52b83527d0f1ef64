"""Fitting a rough sketch to its sheet: what the sheet says and the sketch does not have yet.

Suggestions (``suggest``) say what nearly holds already. Here things move: a sketch that is right in shape and wrong in
size takes the sizes of the sheet. Which size belongs where is an assignment problem: of all sizes a drafter could give
(one for each way the sketch can still move) those are chosen that together are least off, as ratios; each is tried on
the solver, and nothing may turn over. The assignment is the Hungarian method's (Kuhn 1955; SciPy's
``linear_sum_assignment``), done again after each size, since each brings the others nearer to what they are.
"""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
from scipy.optimize import linear_sum_assignment

from ..part.errors import Refusal
from ..part.units import length, number
from . import words
from .candidates import (
    SIZES,
    Idea,
    Scene,
    alignments,
    centres,
    directions,
    equals,
    joins,
    levels,
    line_sizes,
    on_curves,
    places,
    symmetries,
    tangents,
    widths,
)
from .edit import Values, with_tie
from .model import ORIGIN, X_AXIS, Y_AXIS, Arc, Circle, Point, Sketch, moved, points_of
from .profiles import profile
from .rows import Floats
from .solve import solve, turned_lines
from .suggest import Suggestion, Work, bare, derivative_of

FAR = 0.5  # |ln(asked / drawn)| from which a size is not meant by what was drawn: some 1.6 times as large
FAR_ROUND = 0.9  # … for circles and arcs, of which there are fewer to be taken for one another
BESIDE = 0.15  # what a size costs more that the sheet gives in another view
ODD = 0.1  # … a diameter on an arc, a radius on a circle
HAND = 0.03  # of the sketch's size: what a hand is off however small the thing drawn is
OVERALL = 2.0  # how much more it counts that a size over all is given
STARTS = 6  # how many guesses at the scale are followed
SUM = 0.1  # what it costs more that it is the sum of two
UNEVEN = 0.5  # what it costs to be drawn larger one way than the other
TURN = 60.0  # degrees that count as much as a size e times as large
LEVEL = math.radians(5)  # a line drawn by hand nearer than this to a direction is meant to have it

Phase = Callable[[Scene], Iterator[Idea]]
Along = Literal["", "horizontal", "vertical"]


@dataclass(frozen=True)
class Asked:
    """A size of the sheet that nothing uses yet: ``value`` in mm or degrees, asked ``count`` times.

    ``along`` is how its dimension line runs where that is known; ``beside``: the sheet gives it in a view that does
    not show this sketch. ``aid``: the diameter of a circle that is only drawn to place others.
    """

    ident: str
    kind: Literal["distance", "diameter", "radius", "angle"]
    value: float
    count: int = 1
    along: Along = ""
    beside: bool = False
    aid: bool = False


@dataclass
class Move(Suggestion):
    """A suggestion that moves things. ``moves`` is how far (mm) this one does alone, and ``alone`` the sketch then;
    None where it holds only together with those before it."""

    callout: str = ""
    alone: Sketch | None = None


@dataclass
class Missing:
    """What the sheet does not say, in words, and the refs it is about."""

    said: str
    refs: list[str]


@dataclass
class Fit:
    """``moves`` in order; ``sketch`` with all of them, ``reach`` how far (mm) anything moves then, ``left`` its
    freedom; ``missing`` what the sheet does not say of it; ``unplaced`` the callouts that found no place."""

    moves: list[Move]
    sketch: Sketch
    reach: float
    left: int
    missing: list[Missing]
    unplaced: list[str]


@dataclass(frozen=True)
class _Manner:
    """How a try goes about it: ``near`` as a share of the sketch's size, and whether what may be a chance (equal,
    in a row, mirrored) is taken before the sizes or only for what they leave free."""

    near: float
    chance_first: bool


MANNERS = (_Manner(0.02, True), _Manner(0.035, False), _Manner(0.01, False), _Manner(0.05, True))
_SURE = [joins, centres, levels, tangents, directions]
_CHANCE = [symmetries, on_curves, alignments]


def fit(sketch: Sketch, values: Values, asked: Sequence[Asked], effort: float = math.inf) -> Fit:
    """What would fit ``sketch`` to the sizes ``asked``. Several manners are tried and the one that leaves least
    unsaid and unused is given; after ``effort`` seconds of work no further one is begun.

    Nothing is turned over: lines keep their way, circles and holes stay within what they are in.
    """
    until = time.thread_time() + effort
    best: tuple[float, _Try] | None = None
    for manner in MANNERS:
        made = _Try(sketch, values, asked, manner, until)
        cost = made.cost()
        if best is None or cost < best[0] - 1e-6:
            best = (cost, made)
        if cost < 1e-6 or time.thread_time() > until:
            break
    assert best is not None
    return best[1].told()


def reach_of(sketch: Sketch) -> float:
    """The longer side (mm) of the box around what is drawn; 0 for nothing."""
    box = _box(sketch)
    return max(box[2] - box[0], box[3] - box[1]) if box else 0.0


def _box(sketch: Sketch) -> tuple[float, float, float, float] | None:
    boxes = []
    for e in sketch.entities:
        at = list(points_of(e).values())
        r = e.r if isinstance(e, Circle) else 0.0
        boxes += [(x - r, y - r, x + r, y + r) for x, y in at]
    if not boxes:
        return None
    x0, y0, x1, y1 = np.array(boxes).T
    return float(x0.min()), float(y0.min()), float(x1.max()), float(y1.max())


class _Try:
    """One way through: ties that are sure, the scale, sizes, what is left."""

    def __init__(self, sketch: Sketch, values: Values, asked: Sequence[Asked], manner: _Manner, until: float) -> None:
        self.began, self.values, self.asked, self.manner, self.until = sketch, values, asked, manner, until
        self.near = manner.near * reach_of(sketch)
        self.work = Work(sketch, values, self.near, _nothing_wanted, limit=2 * self.near)
        self.callout: dict[str, str] = {}  # which callout a dimension's size is from
        self.placed: Counter[str] = Counter()
        self.off = 0.0  # how far off the sizes were that were placed, summed
        self.shape: object = None
        self._ties(_SURE)
        if manner.chance_first:
            self._ties(_CHANCE)
        self.shape = _shape(self.work.sketch)
        self._scale()
        self._rounds()
        self._sizes()
        self._chance()
        self._confirm()
        self.missing = self._missing()

    # -- in order --------------------------------------------------------------------------------------

    def _late(self) -> bool:
        return not self.work.left or time.thread_time() > self.until

    def _ties(self, phases: Iterable[Phase], lengths_too: bool = False) -> None:
        for phase in phases:
            for idea in phase(Scene(self.work.sketch, self.near, LEVEL)):
                if self._late():
                    return
                if _by_size(idea) and not lengths_too:
                    continue
                self._kept(lambda idea=idea: self.work.take(idea))  # type: ignore[misc]

    def _kept(self, take) -> bool:  # type: ignore[no-untyped-def]
        """Take something unless it turns a line over or changes what encloses what."""
        before, found = self.work.sketch, list(self.work.found)
        if not take():
            return False
        if not turned_lines(before, self.work.sketch) and self.shape in (None, _shape(self.work.sketch)):
            return True
        self.work.back(before, found)
        return False

    def _scale(self) -> None:
        """Bring what has no size at all nearer to the sizes of the sheet, as a whole, before any is given."""
        work, s = self.work, self.work.sketch
        if (
            s.given
            or s.placements
            or any(d.driving for d in s.dimensions)
            or any(c.kind == "fixed" for c in s.constraints)
        ):
            self.work.limit = math.inf
            return
        sx, sy = self._scales()
        self.work.limit = math.inf
        if (sx, sy) == (1.0, 1.0):
            return
        grown = _scaled(s, sx, sy)
        solution = solve(grown, self.values.all(grown))
        if not solution.solved or turned_lines(s, solution.sketch):
            return
        if _shape(solution.sketch) != self.shape:
            return
        work.put(solution.sketch)

    def _scales(self) -> tuple[float, float]:
        """By how much across and up; 1 where the sheet does not tell."""
        ideas, now, way = self._ideas((widths, line_sizes, spans, rings, places))
        unlikely = np.array([_UNLIKELY[_sort(i)] for i in ideas])
        lengths = [a for a in self.asked if a.kind == "distance" and not a.beside]
        rounds = [a for a in self.asked if a.kind in ("diameter", "radius") and not a.beside and not a.aid]
        drawn_rounds = [e.r for e in self.work.sketch.entities if isinstance(e, Circle | Arc) and not e.construction]
        if not (lengths and len(now)) and not (rounds and drawn_rounds):
            return 1.0, 1.0
        asked = np.array([a.value for a in lengths])
        asked_r = np.log([a.value if a.kind == "radius" else a.value / 2 for a in rounds]) if rounds else np.zeros(0)
        drawn_r = np.log(drawn_rounds) if drawn_rounds else np.zeros(0)
        along = np.array([{"horizontal": 0, "vertical": 1}.get(a.along, -1) for a in lengths])
        wrong = (along[:, None] >= 0) & (way[None, :] >= 0) & (along[:, None] != way[None, :])
        box = _box(self.work.sketch)
        over = [box[2] - box[0], box[3] - box[1]] if box else [0.0, 0.0]
        # a size over all is given, or it is that of two that are
        two = [a + b for a, b in combinations([v for a in lengths for v in [a.value] * min(a.count, 2)], 2)]
        whole, odd = np.array([*asked, *two]), np.array([0.0] * len(asked) + [SUM] * len(two))
        hand = HAND * reach_of(self.work.sketch)

        def cost(gx: float, gy: float) -> float:
            shift = np.where(way == 0, gx, np.where(way == 1, gy, (gx + gy) / 2))
            total = UNEVEN * abs(gx - gy) + 0.01 * abs(gx)
            if len(asked) and len(now):
                h = hand * math.exp((gx + gy) / 2)
                grown = now * np.exp(shift)
                off = np.abs(np.log((asked[:, None] + h) / (grown + h)[None, :]))
                off = np.where(wrong, FAR, off + unlikely[None, :])
                total += float(np.minimum(off.min(axis=1), FAR).sum())
                # and what is farthest over all is most likely given, too
                for size, g in zip(over, (gx, gy), strict=True):
                    off = np.abs(np.log((whole + h) / (size * math.exp(g) + h))) + odd
                    total += OVERALL * min(float(off.min()), FAR)
            if len(asked_r) and len(drawn_r):
                off = np.minimum(np.abs(asked_r[:, None] - (drawn_r + (gx + gy) / 2)[None, :]), FAR_ROUND)
                total += float(off.min(axis=1).sum())
                total += float(off.min(axis=0).sum()) / max(1, len(drawn_r) // len(asked_r))
            return total

        tries = {0.0}
        if len(asked) and len(now):
            tries |= {round(math.log(a / d), 3) for a in asked for d in [*now, *over] if d > 0}
        if len(asked_r) and len(drawn_r):
            tries |= {round(float(a - d), 3) for a in asked_r for d in drawn_r}
        ordered = sorted(tries, key=abs)
        starts = sorted(ordered, key=lambda g: cost(g, g))[:STARTS]
        found = []
        for both in starts:
            gx = gy = both
            for _ in range(2):
                gx = min([gx, *(t for t in ordered if abs(t - both) < FAR)], key=lambda g: cost(g, gy))
                gy = min([gy, *(t for t in ordered if abs(t - both) < FAR)], key=lambda g: cost(gx, g))
            found.append((cost(gx, gy), gx, gy))
        _, gx, gy = min(found)
        return math.exp(gx), math.exp(gy)

    def _rounds(self) -> None:
        """Diameters and radii: the circles and arcs that are free in size, to the sizes given for such."""
        for aid in (False, True):
            free = [
                e
                for e in self.work.sketch.entities
                if isinstance(e, Circle | Arc) and e.construction == aid and self._motion(_round_idea(e)) is not None
            ]
            slots = [a for a in self.asked if a.kind in ("diameter", "radius") and a.aid == aid for _ in range(a.count)]
            if not free or not slots:
                continue
            cost = np.array([[_off_round(a, e) for e in free] for a in slots])
            pairs = _assigned(cost, FAR_ROUND)
            groups: dict[str, list[Circle | Arc]] = {}
            for i, j in pairs:
                groups.setdefault(slots[i].ident, []).append(free[j])
            told = {a.ident: a for a in slots}
            for ident, group in groups.items():
                self._round_group(told[ident], group)

    def _round_group(self, a: Asked, group: list[Circle | Arc]) -> None:
        leads: dict[str, str] = {}  # one of each kind has the size, the others are equal to it
        for e in group:
            if self._late():
                return
            lead = leads.get(e.kind)
            idea = _round_idea(e)
            if lead is not None:
                self._kept(lambda lead=lead, e=e: self.work.take(Idea("equal", (lead, e.id))))  # type: ignore[misc]
            elif self._placed(idea, a, _round_value(a, e)):
                leads[e.kind] = e.id

    def _placed(self, idea: Idea, a: Asked, value: float) -> bool:
        text = number(value) if idea.kind == "angle" else length(value, self.values.unit)
        now = self.work.probe.measure(bare(idea, "d0", "1"))
        if text == "0" or not self._kept(lambda: self.work.place(idea, text)):
            return False
        made = self.work.found[-1].dimensions[0]
        self.callout[made.id] = a.ident
        self.placed[a.ident] += 1
        self.off += _off(a, value, now)
        return True

    def _sizes(self) -> None:
        """Lengths and angles, each to the size that it is least off, all together least."""
        barred: set[tuple[str, Idea]] = set()
        while not self._late():
            ideas, now, way = self._ideas((widths, line_sizes, rings, spans, places, corner_angles))
            slots = [
                a for a in self.asked if a.kind in ("distance", "angle") for _ in range(a.count - self.placed[a.ident])
            ]
            if not slots or not ideas:
                return
            cost = np.full((len(slots), len(ideas)), np.inf)
            for i, a in enumerate(slots):
                for j, (idea, measured) in enumerate(zip(ideas, now, strict=True)):
                    if (idea.kind == "angle") == (a.kind == "angle") and (a.ident, idea) not in barred:
                        wrong = a.along and way[j] >= 0 and a.along != ("horizontal", "vertical")[way[j]]
                        cost[i, j] = math.inf if wrong else _off(a, a.value, measured) + _UNLIKELY[_sort(idea)]
            pairs = sorted(_assigned(cost, FAR), key=lambda p: (cost[p], p))
            if not pairs:
                return
            for i, j in pairs:
                if self._placed(ideas[j], slots[i], slots[i].value):
                    break
                barred.add((slots[i].ident, ideas[j]))

    def _chance(self) -> None:
        """What the sizes leave free: what nearly holds; where all of it can be anywhere, a place at the origin."""
        self.work.limit = math.inf
        self._ties([equals, *_CHANCE], lengths_too=True)
        self._sizes()
        free = self.work.free
        if not self.work.left:
            return
        ends = sorted(
            ((math.hypot(*at), ref) for e in self.work.sketch.entities for ref, at in points_of(e).items()),
        )
        afloat = [k for k in (0, 1) if _afloat(self.work, free, k)]
        if not ends or not afloat:
            return
        _, ref = ends[0]
        if len(afloat) == 2:
            self._kept(lambda: self.work.take(Idea("coincident", (ref, ORIGIN))))
        else:
            self._kept(lambda: self.work.take(Idea("coincident", (ref, Y_AXIS if afloat[0] == 0 else X_AXIS))))

    def _confirm(self) -> None:
        """Sizes that the others settle already, and that agree with the sheet: shown for reference."""
        open_ones = [a for a in self.asked if not self.placed[a.ident]]
        if not open_ones:
            return

        def wanted(kind: str, now: float, near: float) -> float | None:
            fits = [v for a in open_ones if (v := _as(a, kind)) is not None and abs(v - now) < 1e-6]
            return fits[0] if fits else None

        self.work.wanted = wanted
        scene = Scene(self.work.sketch, self.near)
        for phase in (*SIZES, widths, spans, places):
            for idea in phase(scene):
                before = len(self.work.found)
                self.work.refer(idea, lambda kind, value: 1)
                if len(self.work.found) > before:
                    made = self.work.found[-1].dimensions[0]
                    value = self.work.probe.measure(made)
                    owner = next(a for a in open_ones if abs((_as(a, made.kind) or math.inf) - value) < 1e-6)
                    self.callout[made.id] = owner.ident
                    self.placed[owner.ident] += 1
                    open_ones.remove(owner)
        self.work.wanted = _nothing_wanted

    def _missing(self) -> list[Missing]:
        """A size for each freedom that is left, as a drafter would give it: what the sheet does not say."""
        if not self.work.left:
            return []
        rest = Work(self.work.sketch, self.values, 1e-3 * self.near, _nothing_wanted, limit=math.inf)
        found = []
        for phase in SIZES:
            for idea in phase(Scene(rest.sketch, 1e-3 * self.near)):
                if not rest.left or time.thread_time() > self.until + 2:
                    break
                before = len(rest.found)
                rest.free_size(idea)
                if len(rest.found) > before:
                    found.append(Missing(_unsaid(idea, self._way(idea)), list(idea.refs)))
        return found

    # -- what could be sized ---------------------------------------------------------------------------

    def _ideas(self, phases: Iterable[Phase]) -> tuple[list[Idea], Floats, Floats]:
        """Sizes that could be given, one for each way the sketch can move, what they measure, and along what they run
        (0 across, 1 up, −1 neither)."""
        scene = Scene(self.work.sketch, 1e-3 * self.near, LEVEL)
        seen: set[tuple[bytes, float]] = set()
        ideas: list[Idea] = []
        for phase in phases:
            for idea in phase(scene):
                if idea.kind not in ("distance", "angle"):
                    continue
                motion = self._motion(idea)
                if motion is None:
                    continue
                key = (motion, round(self.work.probe.measure(bare(idea, "d0", "1")), 6))
                if key not in seen:
                    seen.add(key)
                    ideas.append(idea)
        now = np.array([self.work.probe.measure(bare(i, "d0", "1")) for i in ideas])
        keep = [k for k, v in enumerate(now) if v > 1e-6]
        way = np.array([self._way(ideas[k], scene) for k in keep], dtype=int)
        return [ideas[k] for k in keep], now[keep], way

    def _motion(self, idea: Idea) -> bytes | None:
        """How the free motions change a size, made comparable; None where they do not."""
        row = (derivative_of(self.work.probe, bare(idea, "d0", "1")) @ self.work.free)[0]
        size = float(np.linalg.norm(row))
        if size < 1e-7:
            return None
        row = row / size
        lead = row[np.argmax(np.abs(row) > 1e-6)]
        return bytes(np.round(row * np.sign(lead), 5).tobytes())

    def _way(self, idea: Idea, scene: Scene | None = None) -> int:
        scene = scene or Scene(self.work.sketch, self.near, LEVEL)
        if idea.along != "shortest":
            return 0 if idea.along == "horizontal" else 1
        told = [(r, scene.told(r)) for r in idea.refs if "." not in r and r in scene.bearing]
        turns = [(r, t) for r, t in told if t is not None]
        if not turns:
            return -1
        _, turn = turns[0]
        return turn if len(idea.refs) == 1 else 1 - turn

    # -- what comes of it ------------------------------------------------------------------------------

    def cost(self) -> float:
        """What this way leaves unsaid and unused: the less, the more likely it is what was meant."""
        unplaced = sum(0.2 if a.beside else 1.0 for a in self.asked if not self.placed[a.ident])
        return 2.0 * len(self.missing) + 0.5 * unplaced + 0.05 * self.off + (3.0 if self._unfinished() else 0.0)

    def _unfinished(self) -> bool:
        return bool(self.work.left) and not self.missing

    def told(self) -> Fit:
        began = self.began
        moves = []
        texts = {d.id: d.model_copy(update={"at": None}) for d in self.work.sketch.dimensions}
        self.work.rows = [0, 0]
        ended = {i: d.model_copy(update={"at": self.work.text_place(d)}) for i, d in texts.items()}
        ties = {c.id: c for c in self.work.sketch.constraints}
        for s in self.work.found:
            constraints, dimensions = [ties[c.id] for c in s.constraints], [ended[d.id] for d in s.dimensions]
            alone = _alone(began, self.values, constraints, dimensions)
            owner = self.callout.get(dimensions[0].id, "") if dimensions else ""
            far = _moved(began, alone) if alone is not None else s.moves
            moves.append(Move(constraints, dimensions, s.said, s.takes, far, s.refs, owner, alone))
        sketch = self.work.sketch.model_copy(
            update={
                "dimensions": [
                    ended[d.id] if not any(o.id == d.id for o in began.dimensions) else d
                    for d in self.work.sketch.dimensions
                ]
            }
        )
        unplaced = [a.ident for a in self.asked if not self.placed[a.ident] and not a.aid]
        return Fit(moves, sketch, _moved(began, sketch), self.work.left, self.missing, list(dict.fromkeys(unplaced)))


# -- further sizes that may be given -----------------------------------------------------------------------


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
_UNLIKELY = {"line": 0.0, "width": 0.01, "span": 0.02, "wall": 0.04, "place": 0.1}


def _sort(idea: Idea) -> str:
    if len(idea.refs) == 1:
        return "line"
    if ORIGIN in idea.refs:
        return "place"
    points = sum("." in r for r in idea.refs)
    return ("width", "wall", "span")[points]


def _by_size(idea: Idea) -> bool:
    """Equal lengths are told by sizes first: what was drawn by hand says little of them."""
    return idea.kind == "equal" and idea.refs[0].startswith("l")


# -- how far off -------------------------------------------------------------------------------------------


def _off(a: Asked, value: float, now: float) -> float:
    apart = abs(value - now) / TURN if a.kind == "angle" else abs(math.log(value / max(now, 1e-9)))
    return apart + (BESIDE if a.beside else 0.0)


def _off_round(a: Asked, e: Circle | Arc) -> float:
    odd = (a.kind == "radius") == (e.kind == "circle")
    r = a.value if a.kind == "radius" else a.value / 2
    return abs(math.log(r / e.r)) + (ODD if odd else 0.0) + (BESIDE if a.beside else 0.0)


def _round_value(a: Asked, e: Circle | Arc) -> float:
    r = a.value if a.kind == "radius" else a.value / 2
    return 2 * r if isinstance(e, Circle) else r


def _round_idea(e: Circle | Arc) -> Idea:
    return Idea("diameter" if isinstance(e, Circle) else "radius", (e.id,))


def _as(a: Asked, kind: str) -> float | None:
    """The size asked as one of ``kind``, or None where it is of another."""
    if a.kind == kind:
        return a.value
    return {("radius", "diameter"): 2 * a.value, ("diameter", "radius"): a.value / 2}.get((a.kind, kind))


def _assigned(cost: Floats, far: float) -> list[tuple[int, int]]:
    """Rows to columns, each once at most, so that the sum is least; none farther off than ``far``."""
    rows, columns = cost.shape
    limited = np.where(cost < far, cost, 2 * far)
    wide = np.hstack([limited, np.full((rows, rows), far)])  # a row may also stay without one
    found = zip(*linear_sum_assignment(wide), strict=True)
    return [(int(i), int(j)) for i, j in found if j < columns and cost[i, j] < far]


# -- what a sketch is --------------------------------------------------------------------------------------


def _nothing_wanted(kind: str, now: float, near: float) -> None:
    return None


def _shape(sketch: Sketch) -> object:
    """What encloses what: each closed region's lines, how deep it lies and how many holes it has."""
    return sorted((r.around, r.depth, len(r.holes)) for r in profile(sketch).regions)


def _scaled(sketch: Sketch, sx: float, sy: float) -> Sketch:
    """``sketch`` ``sx`` times as wide and ``sy`` times as high about its origin."""
    entities = []
    for e in sketch.entities:
        at = {ref: (x * sx, y * sy) for ref, (x, y) in points_of(e).items()}
        r = e.r * math.sqrt(sx * sy) if isinstance(e, Circle | Arc) else None
        entities.append(moved(e, at.__getitem__, r))
    return sketch.model_copy(update={"entities": entities})


def _moved(before: Sketch, after: Sketch) -> float:
    """How far (mm) the point moves that moves farthest, or the radius grows that grows most."""
    was = {e.id: e for e in before.entities}
    most = 0.0
    for e in after.entities:
        old = was[e.id]
        for (_, a), (_, b) in zip(points_of(old).items(), points_of(e).items(), strict=True):
            most = max(most, math.dist(a, b))
        if isinstance(e, Circle | Arc) and isinstance(old, Circle | Arc):
            most = max(most, abs(e.r - old.r))
    return most


def _alone(sketch: Sketch, values: Values, constraints, dimensions) -> Sketch | None:  # type: ignore[no-untyped-def]
    """The sketch with these ties and no other, or None where that cannot be."""
    trial = sketch
    for tie in [*constraints, *dimensions]:
        trial = with_tie(trial, tie)
    try:
        solution = solve(trial, values.all(trial))
    except Refusal:  # between lines that are not parallel yet
        return None
    return solution.sketch if solution.solved and not turned_lines(sketch, solution.sketch) else None


def _afloat(work: Work, free: Floats, k: int) -> bool:
    """Whether all of a sketch can be moved along axis ``k`` as it is."""
    system = work.probe
    slide = np.zeros(free.shape[0] + 1)
    for ref, place in system.point.items():
        if ref != ORIGIN:
            slide[place[k]] = 1.0
    slide = slide[1:]
    size = np.linalg.norm(slide)
    if not size:
        return False
    basis, _ = np.linalg.qr(free)
    return bool(np.linalg.norm(slide - basis @ (basis.T @ slide)) < 1e-6 * size)


def _unsaid(idea: Idea, way: int) -> str:
    """What the sheet does not say, as a sentence."""
    first = idea.refs[0]
    owner = words.thing(first.split(".")[0]) if first.endswith(".c") else words.thing(first)
    if idea.kind in ("diameter", "radius"):
        return f"The sheet gives no {idea.kind} for {owner}."
    if idea.kind == "angle":
        return f"The sheet gives no angle for {words.thing(idea.refs[-1])}."
    if len(idea.refs) == 1:
        return f"The sheet gives no length for {owner}."
    run = {0: " from left to right", 1: " up and down"}.get(way, "")
    if idea.kind == "coincident" and way < 0:
        run = " up and down" if idea.refs[-1] == X_AXIS else " from left to right"
    return f"The sheet gives no size that places {owner}{run}."

"""Fitting a rough sketch to its sheet: what the sheet says and the sketch does not have yet.

Suggestions (``suggest``) say what nearly holds already. Here things move: a sketch that is right in shape and wrong in
size takes the sizes of the sheet. Which size belongs where is an assignment problem: of all sizes a drafter could give
(one for each way the sketch can still move) those are chosen that together are least off, as ratios; each is tried on
the solver, and nothing may turn over. The assignment is the Hungarian method's (Kuhn 1955; SciPy's
``linear_sum_assignment``),
before that the whole is brought to scale (``fit_scale``).
"""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

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
from .fit_ideas import (
    FAR,
    FAR_ROUND,
    LEVEL,
    UNLIKELY,
    Asked,
    Phase,
    Sizes,
    asked_as,
    assigned,
    by_size,
    corner_angles,
    motion,
    off,
    off_round,
    rings,
    round_idea,
    round_value,
    sort_of,
    spans,
    way_of,
)
from .fit_scale import reach_of, scaled, scales
from .model import ORIGIN, X_AXIS, Y_AXIS, Arc, Circle, Constraint, Dimension, Sketch, points_of
from .profiles import profile
from .rows import Floats
from .solve import solve, turned_lines
from .suggest import Suggestion, Work, bare, farthest

MOST_VIEWS = 4
GOOD = 0.1  # what a way costs that leaves nothing unsaid and nothing unused, at most
FAR_ALIKE = 0.3  # how far off what one of several circles is told is no longer meant of the others
SHARP = 1e-3  # of how near is near: where sizes are looked for, ties are settled


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
    found: list[tuple[float, int, _Try]] = []
    for manner in MANNERS:
        for here in _by_view(asked):
            if found and time.thread_time() > until:
                break
            made = _Try(sketch, values, here, manner, until)
            found.append((made.cost(), len(found), made))
        if found and min(found)[0] < GOOD:
            break
    return min(found)[-1].told() if found else Fit([], sketch, 0.0, 0, [], [])


def _by_view(asked: Sequence[Asked]) -> list[list[Asked]]:
    """The sizes as they are asked if this view shows the sketch or that one; the one with most sizes first."""
    views = Counter(a.views[0] for a in asked if a.views)
    if len(views) < 2:
        return [list(asked)]
    return [
        [replace(a, beside=bool(a.views) and v not in a.views) for a in asked] for v, _ in views.most_common(MOST_VIEWS)
    ]


class _Try:
    """One way through: ties that are sure, the scale, sizes, what is left."""

    def __init__(self, sketch: Sketch, values: Values, asked: Sequence[Asked], manner: _Manner, until: float) -> None:
        self.began, self.values, self.asked, self.manner, self.until = sketch, values, asked, manner, until
        self.near = manner.near * reach_of(sketch)
        self.work = Work(sketch, values, self.near, _nothing_wanted, limit=2 * self.near)
        self.callout: dict[str, str] = {}  # which callout a dimension's size is from
        self.placed: Counter[str] = Counter()
        self.groups: dict[str, list[str]] = {}  # which circles and arcs took the size of a callout
        self.off = 0.0  # how far off the sizes were that were placed, summed
        self.shape: object = None
        self._ties(_SURE)
        if manner.chance_first:
            self._ties(_CHANCE)
        self.shape = _shape(self.work.sketch)
        self._scale()
        self._rounds()
        self._sizes()
        self._alike()
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
                if by_size(idea) and not lengths_too:
                    continue
                self._kept(partial(self.work.take, idea))

    def _kept(self, take: Callable[[], bool]) -> bool:
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
        work.limit = math.inf
        if (
            s.given
            or s.placements
            or any(d.driving for d in s.dimensions)
            or any(c.kind == "fixed" for c in s.constraints)
        ):
            return
        sx, sy = scales(self.work, self.asked, SHARP * self.near)
        if (sx, sy) == (1.0, 1.0):
            return
        grown = scaled(s, sx, sy)
        solution = solve(grown, self.values.all(grown))
        if not solution.solved or turned_lines(s, solution.sketch):
            return
        if _shape(solution.sketch) != self.shape:
            return
        work.put(solution.sketch)

    def _rounds(self) -> None:
        """Diameters and radii: the circles and arcs that are free in size, to the sizes given for such."""
        for aid in (False, True):
            free = [
                e
                for e in self.work.sketch.entities
                if isinstance(e, Circle | Arc)
                and e.construction == aid
                and motion(self.work, round_idea(e)) is not None
            ]
            slots = [a for a in self.asked if a.kind in ("diameter", "radius") and a.aid == aid for _ in range(a.count)]
            if not free or not slots:
                continue
            cost = np.array([[off_round(a, e) for e in free] for a in slots])
            pairs = assigned(cost, FAR_ROUND)
            groups: dict[str, list[Circle | Arc]] = {}
            for i, j in pairs:
                groups.setdefault(slots[i].ident, []).append(free[j])
            told = {a.ident: a for a in slots}
            for ident, group in groups.items():
                self._round_group(told[ident], group)

    def _round_group(self, a: Asked, group: list[Circle | Arc]) -> None:
        self.groups[a.ident] = [e.id for e in group]
        leads: dict[str, str] = {}  # one of each kind has the size, the others are equal to it
        for e in group:
            if self._late():
                return
            lead = leads.get(e.kind)
            idea = round_idea(e)
            if lead is not None:
                self._kept(partial(self.work.take, Idea("equal", (lead, e.id))))
            elif self._placed(idea, a, round_value(a, e)):
                leads[e.kind] = e.id

    def _placed(self, idea: Idea, a: Asked, value: float) -> bool:
        text = number(value) if idea.kind == "angle" else length(value, self.values.unit)
        now = self.work.probe.measure(bare(idea, "d0", "1"))
        if text == "0" or not self._kept(partial(self.work.place, idea, text)):
            return False
        made = self.work.found[-1].dimensions[0]
        self.callout[made.id] = a.ident
        self.placed[a.ident] += 1
        self.off += off(a, value, now)
        return True

    def _sizes(self) -> None:
        """Lengths and angles, each to the size that it is least off, all together least."""
        barred: set[tuple[str, Idea]] = set()
        while not self._late():
            sizes = Sizes(self.work, (widths, line_sizes, rings, spans, places, corner_angles), SHARP * self.near)
            ideas, now, way = sizes.ideas, sizes.now, sizes.way
            slots = [
                a for a in self.asked if a.kind in ("distance", "angle") for _ in range(a.count - self.placed[a.ident])
            ]
            if not slots or not ideas:
                return
            cost = np.full((len(slots), len(ideas)), np.inf)
            for i, a in enumerate(slots):
                for j, (idea, measured) in enumerate(zip(ideas, now, strict=True)):
                    if (idea.kind == "angle") == (a.kind == "angle") and (a.ident, idea) not in barred:
                        wrong = a.along and (a.beside or a.along != ("horizontal", "vertical", "")[way[j]])
                        cost[i, j] = math.inf if wrong else off(a, a.value, measured) + UNLIKELY[sort_of(idea)]
            pairs = sorted(assigned(cost, FAR), key=lambda p: (cost[p], p))
            if not pairs:
                return
            for i, j in pairs:
                if self._late() or not self._placed(ideas[j], slots[i], slots[i].value):
                    barred.add((slots[i].ident, ideas[j]))

    def _alike(self) -> None:
        """What several circles of one callout have in common is told of one of them: the others stand as far off."""
        given = [d for s in self.work.found for d in s.dimensions if d.kind == "distance" and d.id in self.callout]
        for group in self.groups.values():
            for d in given:
                told = next(a for a in self.asked if a.ident == self.callout[d.id])
                for refs in self._bases(d, group, told.value):
                    for along in (d.along,) if d.along == "shortest" else ("horizontal", "vertical"):
                        self._again(Idea("distance", refs, along), told)

    def _bases(self, d: Dimension, group: list[str], value: float) -> Iterator[tuple[str, ...]]:
        """What a size of one of a group would be between for the others: from the same base, or from the origin where
        that is as far off."""
        mine = [e for e in group if f"{e}.c" in d.refs]
        for other in group:
            if len(mine) == 1:
                yield tuple(f"{other}.c" if r == f"{mine[0]}.c" else r for r in d.refs)
        at = {e.id: e.c for e in self.work.sketch.entities if isinstance(e, Circle | Arc)}
        k = {"horizontal": 0, "vertical": 1}.get(d.along)
        if k is not None and any(abs(abs(at[e][k]) - value) < 1e-6 for e in mine):
            yield from ((f"{other}.c", ORIGIN) for other in group)

    def _again(self, idea: Idea, a: Asked) -> None:
        if self._late() or motion(self.work, idea) is None:
            return
        now = self.work.probe.measure(bare(idea, "d0", "1"))
        if off(a, a.value, now) < FAR_ALIKE:
            self._placed(idea, a, a.value)

    def _chance(self) -> None:
        """What the sizes leave free: what nearly holds; where all of it can be anywhere, a place at the origin."""
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
            self._kept(partial(self.work.take, Idea("coincident", (ref, ORIGIN))))
        else:
            self._kept(partial(self.work.take, Idea("coincident", (ref, Y_AXIS if afloat[0] == 0 else X_AXIS))))

    def _confirm(self) -> None:
        """Sizes that the others settle already, and that agree with the sheet: shown for reference."""
        open_ones = [a for a in self.asked if not self.placed[a.ident]]
        if not open_ones:
            return

        def wanted(kind: str, now: float, near: float) -> float | None:
            fits = [v for a in open_ones if (v := asked_as(a, kind)) is not None and abs(v - now) < 1e-6]
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
                    owner = next(a for a in open_ones if abs((asked_as(a, made.kind) or math.inf) - value) < 1e-6)
                    self.callout[made.id] = owner.ident
                    self.placed[owner.ident] += 1
                    open_ones.remove(owner)
        self.work.wanted = _nothing_wanted

    def _missing(self) -> list[Missing]:
        """A size for each freedom that is left, as a drafter would give it: what the sheet does not say."""
        if not self.work.left:
            return []
        rest = Work(self.work.sketch, self.values, 1e-3 * self.near, _nothing_wanted, limit=math.inf)
        found, scene = [], Scene(self.work.sketch, self.near, LEVEL)
        for phase in SIZES:
            for idea in phase(Scene(rest.sketch, 1e-3 * self.near)):
                if not rest.left or time.thread_time() > self.until + 2:
                    break
                before = len(rest.found)
                rest.free_size(idea)
                if len(rest.found) > before:
                    found.append(Missing(_unsaid(idea, way_of(idea, scene)), list(idea.refs)))
        return found

    # -- what comes of it ------------------------------------------------------------------------------

    def cost(self) -> float:
        """What this way leaves unsaid and unused: the less, the more likely it is what was meant."""
        unplaced = sum(0.2 if a.beside else 1.0 for a in self.asked if not self.placed[a.ident])
        strange = sum(a.beside for a in self.asked if self.placed[a.ident])
        return (
            2.0 * len(self.missing)
            + 0.6 * strange
            + 0.5 * unplaced
            + 0.05 * self.off
            + (3.0 if self._unfinished() else 0.0)
        )

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
            alone = _alone(began, self.values, [*constraints, *dimensions])
            owner = self.callout.get(dimensions[0].id, "") if dimensions else ""
            far = farthest(began, alone) if alone is not None else s.moves
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
        return Fit(moves, sketch, farthest(began, sketch), self.work.left, self.missing, list(dict.fromkeys(unplaced)))


# -- what a sketch is --------------------------------------------------------------------------------------


def _nothing_wanted(kind: str, now: float, near: float) -> None:
    return None


def _shape(sketch: Sketch) -> object:
    """What encloses what: each closed region's lines, how deep it lies and how many holes it has."""
    return sorted((r.around, r.depth, len(r.holes)) for r in profile(sketch).regions)


def _alone(sketch: Sketch, values: Values, ties: Sequence[Constraint | Dimension]) -> Sketch | None:
    """The sketch with these ties and no other, or None where that cannot be."""
    trial = sketch
    for tie in ties:
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

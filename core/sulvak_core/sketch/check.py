"""The profile check: what keeps lines, arcs and circles from closing into clean regions, located and in words.

Nothing is changed here; ``mend`` does that. ``tolerance`` (mm) is how far apart things may lie and still be
meant as one. Construction geometry bounds nothing and is left out.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Literal, get_args

import numpy as np
import scipy  # its parts are loaded when they are first used: many a build needs none

from ..part.units import LengthUnit, length
from . import words
from .curves import AnyCurve, Curve, box, ends, parameter, position
from .free_curves import Bent, nearest, path
from .model import XY, Arc, Circle, Line, Sketch, Text, extent, sweep_of
from .profiles import SAME_PLACE, Edge, Network, network, piece_length

FindingKind = Literal[
    "off plane",
    "no length",
    "tiny",
    "duplicate",
    "overlap",
    "gap",
    "near miss",
    "tail",
    "crossing",
    "branching",
    "open chain",
    "part edges",
]
# the order in which things are mended: what is left over by one is found by the next
KINDS: tuple[FindingKind, ...] = get_args(FindingKind)
TINY = 0.2  # of the tolerance: what is shorter is a leftover, not a line somebody meant
TAIL = 0.1  # of the sketch's size: what hangs on an outline and is longer may be a wall that somebody meant
NOTHING = 1e-6  # mm
MENDABLE = frozenset(KINDS[:8])


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong or worth knowing: where (mm), which refs, how large (mm), in words."""

    kind: FindingKind
    at: XY
    refs: tuple[str, ...]
    size: float
    said: str

    @property
    def mends(self) -> bool:
        return self.kind in MENDABLE

    @property
    def key(self) -> str:
        """Names the finding as long as what it is about stays."""
        return f"{self.kind}:{','.join(self.refs)}"


@dataclass
class Check:
    """All findings of a sketch, the number of curves looked at and of closed regions found."""

    findings: list[Finding]
    tolerance: float
    curves: int
    regions: int
    counts: dict[str, int] = field(init=False)

    def __post_init__(self) -> None:
        found = Counter(f.kind for f in self.findings)
        self.counts = {k: found[k] for k in KINDS if found[k]}

    @property
    def troubles(self) -> int:
        """How many findings can be mended or keep a chain from closing."""
        return sum(n for k, n in self.counts.items() if k not in ("crossing", "branching", "part edges"))


def default_tolerance(sketch: Sketch) -> float:
    """A four-hundredth of the sketch's size, at least a hundredth and at most half a millimetre."""
    return min(0.5, max(0.01, extent(sketch) / 400))


def check(sketch: Sketch, tolerance: float | None = None, unit: LengthUnit = "mm") -> Check:
    """Everything the profile check finds, mendable kinds first. What lies along the part's own edges, or is theirs
    alone, is no trouble: they bound where they are of use. Of several in one place the first counts, which is told."""
    tol = tolerance or default_tolerance(sketch)
    real: list[Curve] = [e for e in sketch.entities if isinstance(e, Line | Arc | Circle) and not e.construction]
    others = [e for e in sketch.entities if isinstance(e, Bent | Text) and not e.construction]
    findings = [_off_plane(c, unit) for c in (*real, *others) if c.lift]
    flat = [c for c in real if not c.lift]
    short = [c for c in flat if length_of(c) < tol * TINY]
    findings += [_short(c, unit) for c in short]
    left_over = {c.id for c in short}
    whole = [c for c in flat if c.id not in left_over]
    given = set(sketch.given)
    same = list(duplicates(whole, min(tol, SAME_PLACE * 100)))
    twins = [p for p in same if given.isdisjoint((p[0].id, p[1].id))]
    findings += [_duplicate(a, b) for a, b in twins]
    findings += [_along_the_part(a, b, length_of(b), unit) for a, b in same if {a.id, b.id} <= given]
    told = {frozenset((a.id, b.id)) for a, b in same}
    gone = {c.id for c in short if length_of(c) < NOTHING} | {b.id for _, b in twins}
    whole = [c for c in whole if c.id not in gone]
    lying = [p for p in overlaps(whole, tol) if frozenset((p[0].id, p[1].id)) not in told]
    laps = [p for p in lying if given.isdisjoint((p[0].id, p[1].id))]
    findings += [_overlap(a, b, n, unit) for a, b, n in laps]
    findings += [_along_the_part(a, b, n, unit) for a, b, n in lying if {a.id, b.id} <= given]
    gone |= {b.id for _, b, _ in laps}
    web = network(sketch.model_copy(update={"entities": [*(c for c in flat if c.id not in gone), *others]}))
    ends = _Ends(web, tol)
    findings += ends.near(unit)
    findings += _loose(web, ends.taken, TAIL * extent(sketch), unit)
    findings += _meetings(web)
    findings = [f for f in findings if not _of_the_part(f, given)]
    findings.sort(key=lambda f: KINDS.index(f.kind))
    return Check(findings, tol, len(real) + len(others), len(web.regions()))


def _of_the_part(finding: Finding, given: set[str]) -> bool:
    own = {r.split(".")[0] for r in finding.refs} - given
    if finding.kind == "part edges":
        return False
    return not own or (finding.kind == "branching" and len(own) < len(finding.refs))


def length_of(c: Curve) -> float:
    """Length of a curve in mm."""
    if isinstance(c, Line):
        return math.dist(c.p, c.q)
    return c.r * (2 * math.pi if isinstance(c, Circle) else sweep_of(c)[1])


def _mm(value: float, unit: LengthUnit) -> str:
    return f"{length(value, unit)} {unit}"


def _off_plane(c: AnyCurve | Text, unit: LengthUnit) -> Finding:
    away = _mm(abs(c.lift), unit)
    side = "above" if c.lift > 0 else "below"
    at = c.c if isinstance(c, Text) else position(c, 0.5) if isinstance(c, Bent) else middle_of(c)
    return Finding("off plane", at, (c.id,), abs(c.lift), f"{_the(c.id)} lies {away} {side} the sketch plane")


def _short(c: Curve, unit: LengthUnit) -> Finding:
    size = length_of(c)
    if size < NOTHING:
        return Finding("no length", middle_of(c), (c.id,), 0.0, f"{_the(c.id)} has no length")
    return Finding("tiny", middle_of(c), (c.id,), size, f"{_the(c.id)} is only {_mm(size, unit)} long")


def _duplicate(a: Curve, b: Curve) -> Finding:
    said = f"{_the(b.id)} lies on {words.thing(a.id)}, a second time the same"
    return Finding("duplicate", middle_of(b), (a.id, b.id), length_of(b), said)


def _overlap(a: Curve, b: Curve, size: float, unit: LengthUnit) -> Finding:
    said = f"{_the(a.id)} and {words.thing(b.id)} lie on each other for {_mm(size, unit)}"
    return Finding("overlap", middle_of(b), (a.id, b.id), size, said)


def _along_the_part(a: Curve, b: Curve, size: float, unit: LengthUnit) -> Finding:
    """Edges of the part on each other, as one behind the other is seen: the first that was brought in counts."""
    pair = f"{_the(a.id)} and {words.thing(b.id)} are edges of the part that lie on each other for {_mm(size, unit)}"
    return Finding("part edges", middle_of(b), (a.id, b.id), size, f"{pair}; {words.thing(a.id)} counts there")


def middle_of(c: Curve) -> XY:
    return position(c, 0.5)


def _the(ref: str) -> str:
    said = words.thing(ref)
    return said[0].upper() + said[1:]


# -- the same drawn twice ------------------------------------------------------------------------


def duplicates(curves: list[Curve], tolerance: float) -> Iterator[tuple[Curve, Curve]]:
    """Pairs (first, same again), each same-again told once."""
    told: set[str] = set()
    for a, b in _alike(curves, _features, tolerance):
        if b.id not in told and a.id not in told and _same(a, b, tolerance):
            told.add(b.id)
            yield a, b


def _features(c: Curve) -> tuple[float, ...]:
    if isinstance(c, Circle):
        return (*c.c, c.r, -1.0)
    x, y = middle_of(c)
    return (x, y, 0.0 if isinstance(c, Line) else c.r, length_of(c))


def _same(a: Curve, b: Curve, tolerance: float) -> bool:
    if type(a) is not type(b):
        return False
    if isinstance(a, Circle) or isinstance(b, Circle):
        return True
    if isinstance(a, Arc):
        return math.dist(a.p, b.p) < tolerance and math.dist(a.q, b.q) < tolerance
    straight = math.dist(a.p, b.p) < tolerance and math.dist(a.q, b.q) < tolerance
    return straight or (math.dist(a.p, b.q) < tolerance and math.dist(a.q, b.p) < tolerance)


def _alike(
    curves: list[Curve], features: Callable[[Curve], tuple[float, ...]], tolerance: float
) -> Iterator[tuple[Curve, Curve]]:
    """Pairs of curves with features within ``tolerance``, in the order they were drawn."""
    if len(curves) < 2:
        return
    tree = scipy.spatial.cKDTree(np.array([features(c) for c in curves]))
    for i, j in sorted(tree.query_pairs(2 * tolerance)):
        yield curves[i], curves[j]


# -- on each other for a while -------------------------------------------------------------------


def overlaps(curves: list[Curve], tolerance: float) -> Iterator[tuple[Curve, Curve, float]]:
    """Lines on one straight, arcs on one circle, that lie on each other for more than ``tolerance`` mm."""
    told: set[str] = set()
    for group in _carriers(curves, tolerance):
        for i, a in enumerate(group):
            for b in group[i + 1 :]:
                size = shared(a, b, tolerance)
                if size > tolerance and not {a.id, b.id} & told:
                    told.add(b.id)
                    yield a, b, size


def _carriers(curves: list[Curve], tolerance: float) -> Iterator[list[Curve]]:
    """Curves grouped by the straight or circle that carries them, roughly; a group may hold more than fits."""
    lines = [c for c in curves if isinstance(c, Line)]
    groups: dict[tuple[int, ...], list[Curve]] = defaultdict(list)
    for c in lines:
        turn = math.atan2(c.q[1] - c.p[1], c.q[0] - c.p[0]) % math.pi
        for step in {round(turn * 200) % 628, round(turn * 200 + 0.5) % 628}:
            groups[(step,)].append(c)
    for group in groups.values():
        if len(group) > 1:
            yield from _by_offset(group, tolerance)
    rounds: list[Curve] = [c for c in curves if not isinstance(c, Line)]
    near: dict[str, list[Curve]] = defaultdict(list)
    for a, b in _alike(rounds, lambda c: (*c.c, c.r), tolerance):  # type: ignore[union-attr]
        near[a.id] += [b] if near[a.id] else [a, b]
    yield from near.values()


def _by_offset(group: list[Curve], tolerance: float) -> Iterator[list[Curve]]:
    """Lines of about one direction, in runs of about one distance from the origin."""
    first = group[0]
    assert isinstance(first, Line)
    ux, uy = first.q[0] - first.p[0], first.q[1] - first.p[1]
    n = math.hypot(ux, uy)

    def off(c: Curve) -> float:
        x, y = middle_of(c)
        return (ux * y - uy * x) / n

    # lines of nearly this direction may stand off by their length times the angle between them
    slack = tolerance + 0.006 * max(length_of(c) for c in group)
    run: list[Curve] = []
    for c in sorted(group, key=off):
        if run and off(c) - off(run[-1]) > slack:
            if len(run) > 1:
                yield run
            run = []
        run.append(c)
    if len(run) > 1:
        yield run


def shared(a: Curve, b: Curve, tolerance: float) -> float:
    """Length (mm) over which ``b`` lies on ``a``, 0 if they lie on different straights or circles."""
    if isinstance(a, Line) != isinstance(b, Line):
        return 0.0
    if isinstance(a, Line) and isinstance(b, Line):
        ux, uy = a.q[0] - a.p[0], a.q[1] - a.p[1]
        n = math.hypot(ux, uy)
        across = [abs(ux * (e[1] - a.p[1]) - uy * (e[0] - a.p[0])) / n for e in (b.p, b.q)]
        if max(across) > min(tolerance, 1e-3 * n):
            return 0.0
        along = sorted((ux * (e[0] - a.p[0]) + uy * (e[1] - a.p[1])) / n for e in (b.p, b.q))
        return max(0.0, min(n, along[1]) - max(0.0, along[0]))
    assert not isinstance(a, Line)
    assert not isinstance(b, Line)
    if math.dist(a.c, b.c) > tolerance or abs(a.r - b.r) > tolerance:
        return 0.0
    if isinstance(a, Circle) or isinstance(b, Circle):
        return min(length_of(a), length_of(b))
    (s, u), (t, v) = sweep_of(a), sweep_of(b)
    start = (t - s) % (2 * math.pi)  # b's start as seen from a's
    both = max(0.0, min(u, start + v) - start) + max(0.0, min(u, start + v - 2 * math.pi))
    return a.r * both


# -- ends that do not meet -----------------------------------------------------------------------


class _Ends:
    """Places where a chain ends, and what each nearly meets."""

    def __init__(self, web: Network, tolerance: float) -> None:
        self.web, self.tolerance = web, tolerance
        self.taken: set[int] = set()  # nodes told as gaps or near misses
        self.ends = [n for n, around in web.around.items() if len(around) == 1]
        self.boxes = np.array([box(c, tolerance) for c in web.curves]).reshape(-1, 4)

    def near(self, unit: LengthUnit) -> list[Finding]:
        return self._gaps(unit) + self._misses(unit)

    def _gaps(self, unit: LengthUnit) -> list[Finding]:
        found = []
        pairs = []
        if len(self.ends) > 1:
            at = np.array([self.web.nodes[n] for n in self.ends])
            for i, j in scipy.spatial.cKDTree(at).query_pairs(self.tolerance):
                pairs.append((float(np.linalg.norm(at[i] - at[j])), self.ends[i], self.ends[j]))
        for size, i, j in sorted(pairs):
            one, two = self._ref(i), self._ref(j)
            if {i, j} & self.taken or not one or not two or _of(one) == _of(two):
                continue
            self.taken |= {i, j}
            (ax, ay), (bx, by) = self.web.nodes[i], self.web.nodes[j]
            said = f"{_the(one)} and {words.thing(two)} are {_mm(size, unit)} apart"
            found.append(Finding("gap", ((ax + bx) / 2, (ay + by) / 2), (one, two), size, said))
        return found

    def _misses(self, unit: LengthUnit) -> list[Finding]:
        """Ends that lie beside a corner or a curve."""
        found = []
        corners = [n for n in self.web.around if n not in self.taken]
        tree = scipy.spatial.cKDTree(np.array([self.web.nodes[n] for n in corners])) if corners else None
        for i in self.ends:
            ref = self._ref(i)
            if i in self.taken or not ref:
                continue
            at = self.web.nodes[i]
            near = [] if tree is None else [corners[k] for k in tree.query_ball_point(at, self.tolerance)]
            others = sorted((math.dist(at, self.web.nodes[n]), n) for n in near if n != i)
            target = next((r for _, n in others if (r := self._ref(n)) and _of(r) != _of(ref)), None)
            size = others[0][0] if others else 0.0
            if target is None:
                target, size = self._beside(at, ref)
            if target is None:
                continue
            self.taken.add(i)
            said = f"{_the(ref)} misses {words.thing(target)} by {_mm(size, unit)}"
            found.append(Finding("near miss", at, (ref, target), size, said))
        return found

    def _beside(self, at: XY, ref: str) -> tuple[str | None, float]:
        """The curve nearest to a place, within the tolerance, and how far off it is."""
        best: tuple[str | None, float] = (None, self.tolerance)
        x, y = at
        b = self.boxes
        for k in np.flatnonzero((b[:, 0] <= x) & (b[:, 1] <= y) & (x <= b[:, 2]) & (y <= b[:, 3])):
            c = self.web.curves[k]
            if c.id == _of(ref):
                continue
            off = _distance(c, at)
            if off < best[1] and parameter(c, at, self.tolerance) is not None:
                best = (c.id, off)
        corner = self._corner_of(best[0], at)
        return corner if corner else best

    def _corner_of(self, ident: str | None, at: XY) -> tuple[str, float] | None:
        """The end of a curve that is meant when somebody misses it just beside that end."""
        curve = self.web.by_id.get(ident or "")
        if curve is None or not ends(curve):
            return None
        off, end = min((math.dist(place, at), name) for name, place in zip("pq", ends(curve), strict=True))
        return (f"{curve.id}.{end}", off) if off < 2 * self.tolerance else None

    def _ref(self, node: int) -> str | None:
        """An entity's end that stands at a node."""
        return self.web.end_at(node)


def _of(ref: str) -> str:
    return ref.split(".")[0]


def _distance(c: AnyCurve, at: XY) -> float:
    if isinstance(c, Bent):
        return nearest(path(c), at)[1]
    if isinstance(c, Line):
        dx, dy = c.q[0] - c.p[0], c.q[1] - c.p[1]
        return abs((at[0] - c.p[0]) * dy - (at[1] - c.p[1]) * dx) / (math.hypot(dx, dy) or 1.0)
    return abs(math.dist(at, c.c) - c.r)


# -- chains that do not close, and places where more than two pieces meet -------------------------


def _loose(web: Network, told: set[int], longest: float, unit: LengthUnit) -> Iterable[Finding]:
    """Tails (pieces cut off a curve that goes on, and short ones that hang on an outline) and open chains."""
    held = {n for i, j, _ in web.kept for n in (i, j)}
    kept = {p.entity for _, _, p in web.kept}
    for chain in web.loose_chains():
        entities = {p.entity for _, _, p in chain}
        ends = [n for i, j, _ in chain for n in (i, j) if n in web.around and len(web.around[n]) == 1]
        if ends and all(n in told for n in ends):
            continue  # told as gaps or near misses already
        size = sum(piece_length(p) for _, _, p in chain)
        if len(entities) == 1 and entities <= kept:
            (ident,) = entities
            said = f"{_the(ident)} has a tail of {_mm(size, unit)} that bounds nothing"
            yield Finding("tail", chain[-1][2].middle(), (ident,), size, said)
            continue
        end = next((n for n in ends if n not in told), chain[0][0])
        listed = sorted(entities, key=lambda i: (i[0], int(i[1:]) if i[1:].isdigit() else 0))
        hangs = any(n in held for i, j, _ in chain for n in (i, j))
        if hangs and len(ends) == 1 and size <= longest and entities.isdisjoint(kept):
            what = " and ".join(words.thing(i) for i in listed)
            is_a = "is a tail" if len(listed) == 1 else "are a tail"
            said = f"{what[0].upper()}{what[1:]} {is_a} of {_mm(size, unit)} that bounds nothing"
            yield Finding("tail", chain[-1][2].middle(), tuple(listed), size, said)
            continue
        count = f"{len(listed)} entities" if len(listed) > 1 else words.thing(listed[0])
        said = f"A chain of {count} does not close: {_why_open(web, chain, ends, unit)}"
        yield Finding("open chain", web.nodes[end], tuple(listed), size, said)


def _why_open(web: Network, chain: list[Edge], ends: list[int], unit: LengthUnit) -> str:
    """Why a chain bounds nothing: its ends are apart, it hangs on what closes without it, or joins two outlines."""
    held = {n for i, j, _ in web.kept for n in (i, j)}
    hung = list(dict.fromkeys(n for i, j, _ in chain for n in (i, j) if n in held))

    def on(node: int) -> str:
        return words.thing(next(p.entity for i, j, p in web.kept if node in (i, j)))

    if not ends:
        return (
            f"it runs from {on(hung[0])} to {on(hung[-1])} and bounds nothing on either side"
            if hung
            else "it bounds nothing"
        )
    named = [words.thing(ref) if (ref := web.end_at(n)) else "an end" for n in ends[:2]]
    if len(ends) == 1 and hung:
        return f"it ends free at {named[0]}, and hangs on {on(hung[0])}, which closes without it"
    if len(ends) == 2:
        away = _mm(math.dist(web.nodes[ends[0]], web.nodes[ends[1]]), unit)
        return f"{named[0]} and {named[1]} are {away} apart"
    return f"it has {len(ends)} free ends, the first at {named[0]}"


def _meetings(web: Network) -> Iterable[Finding]:
    around: dict[int, list[str]] = defaultdict(list)
    for i, j, p in web.kept:
        around[i].append(p.entity)
        around[j].append(p.entity)
    for node, entities in around.items():
        if len(entities) < 3:
            continue
        kinds = Counter(entities)
        listed = tuple(sorted(kinds))
        named = " and ".join(words.thing(i) for i in listed)
        if len(entities) == 4 and len(kinds) == 2 and set(kinds.values()) == {2}:
            yield Finding("crossing", web.nodes[node], listed, 0.0, f"{named[0].upper()}{named[1:]} cross")
        else:
            said = f"{len(entities)} pieces meet here: more than one region, to be picked"
            yield Finding("branching", web.nodes[node], listed, 0.0, said)

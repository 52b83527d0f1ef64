"""Closed regions of a sketch, found by themselves; islands become holes.

The lines, arcs and circles that are not construction are cut where they meet; the pieces form a
plane graph whose faces are the regions (half-edges sorted by angle at every node; de Berg et al.,
*Computational Geometry*, 3rd ed., chapter 2). Loose tails bound nothing.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass
from functools import cached_property

from .curves import AnyCurve, Piece, box, ends, letters, meet_along, pieces
from .groups import Groups
from .identity_cache import IdentityCache
from .model import Sketch, Text, extent
from .regions import Boxes, Region, RegionPick, covering, nest

XY = tuple[float, float]

SAME_PLACE = 5e-8  # mm; the kernel takes points within 1e-7 for one


@dataclass
class Profile:
    """``regions`` are all that can be picked; ``drawn`` are those that the sketch's own lines, arcs and circles bound,
    with the help of the part's edges only where they need it."""

    regions: list[Region]
    drawn: list[Region]
    open_ends: list[XY]  # places where a chain ends without closing

    def default(self) -> list[Region]:
        """What a drafter means by a profile: material outside, islands left out, islands in islands again material."""
        return [r for r in self.drawn if r.depth % 2 == 0]

    def is_default(self, region: Region) -> bool:
        """Whether one of ``regions`` belongs to the default: an edge of the part may cut what was drawn up."""
        if self.regions is self.drawn:
            return region.depth % 2 == 0
        regions, boxes = self._covering
        return covering(regions, boxes, region.inside())

    @cached_property
    def _covering(self) -> tuple[list[Region], Boxes]:
        regions = self.default()
        return regions, Boxes([r.outer for r in regions])

    def chosen(self, picks: list[RegionPick]) -> list[Region | None]:
        """The region each pick means now, None where it is gone."""
        return [self._find(p) for p in picks]

    def _find(self, pick: RegionPick) -> Region | None:
        return _meant(self.regions, pick) or _meant(self.drawn, pick)


def _meant(regions: list[Region], pick: RegionPick) -> Region | None:
    wanted = set(pick.around)
    best, score = None, (0.0, 0.0)
    for region in regions:
        mine = set(region.around)
        alike = len(mine & wanted) / len(mine | wanted)
        x, y = region.inside()
        near = 1.0 / (1.0 + math.hypot(x - pick.at[0], y - pick.at[1]))
        if alike >= 0.5 and (round(alike, 6), near) > score:
            best, score = region, (round(alike, 6), near)
    return best


def profile(sketch: Sketch) -> Profile:
    """All regions of a sketch, the largest first, and open ends of chains. The part's own edges may end anywhere."""
    given = frozenset(sketch.given)
    clumps = _clumps(sketch, given)
    regions = nest([loop for c in clumps for loop in c.loops])
    drawn = regions
    if given:
        own = any(c.own for c in clumps)
        drawn = nest([loop for c in clumps for loop in (c.drawn if c.own else [] if own else c.loops)])
    return Profile(regions, drawn, [at for c in clumps for at in c.open_ends])


Edge = tuple[int, int, Piece]


@dataclass
class Network:
    """The plane graph of a sketch: ``nodes`` (mm), all pieces between them, each place ``single`` in it, and those
    ``kept`` as bounding something.

    ``around`` gives the pieces at each node.
    """

    curves: list[AnyCurve]
    nodes: list[XY]
    edges: list[Edge]
    single: list[Edge]
    kept: list[Edge]
    around: dict[int, list[int]]

    @cached_property
    def by_id(self) -> dict[str, AnyCurve]:
        return {c.id: c for c in self.curves}

    def regions(self) -> list[Region]:
        return nest(_faces(self.kept))

    def end_at(self, node: int) -> str | None:
        """The end of a line or arc that stands at a node, as a ref; the first drawn where there are several."""
        return next(iter(self.ends_at(node)), None)

    def ends_at(self, node: int) -> list[str]:
        """All ends of lines and arcs that stand at a node, as refs."""
        x, y = self.nodes[node]
        found: dict[str, None] = {}
        for k in self.around[node]:
            ident = self.edges[k][2].entity
            for name, end in zip("pq", ends(self.by_id[ident]) if ident in self.by_id else (), strict=False):
                if math.hypot(end[0] - x, end[1] - y) < 2 * SAME_PLACE:
                    found[f"{ident}.{name}"] = None
        return list(found)

    def loose_chains(self) -> list[list[Edge]]:
        """The pieces that bound nothing, joined where they meet."""
        kept = {id(p) for _, _, p in self.kept}
        left = [e for e in self.edges if id(e[2]) not in kept]
        held = {n for i, j, _ in self.kept for n in (i, j)}
        groups = Groups(range(len(left)))
        first: dict[int, int] = {}
        for k, (i, j, _) in enumerate(left):
            for node in (i, j):
                if node in held:
                    continue  # hanging on what closes is no joint between tails
                if node in first:
                    groups.join(first[node], k)
                first.setdefault(node, k)
        chains: dict[int, list[Edge]] = defaultdict(list)
        for k, edge in enumerate(left):
            chains[groups.find(k)].append(edge)
        return list(chains.values())


def network(sketch: Sketch) -> Network:
    """Cut a sketch's curves where they meet and join the pieces at their ends."""
    return _network(_bounds(sketch), set(sketch.given), _tolerance(sketch))


Bound = AnyCurve | Text


def _tolerance(sketch: Sketch) -> float:
    return min(max(1e-9 * extent(sketch), 1e-10), SAME_PLACE)


def _bounds(sketch: Sketch) -> list[Bound]:
    """What bounds regions: all but construction geometry and what lies off the plane."""
    return [e for e in sketch.entities if isinstance(e, Bound) and not e.construction and not e.lift]


def _network(bounds: Sequence[Bound], given: AbstractSet[str], tolerance: float) -> Network:
    curves: list[AnyCurve] = [e for e in bounds if not isinstance(e, Text)]
    nodes = _Nodes(tolerance)
    found = _cut(curves, tolerance)
    for e in bounds:
        if isinstance(e, Text):
            found += letters(e)
    edges = [(nodes.index(p.start), nodes.index(p.end), p) for p in found]
    edges = [(i, j, p.between(nodes.at[i], nodes.at[j])) for i, j, p in edges]
    around: dict[int, list[int]] = defaultdict(list)
    for k, (i, j, _) in enumerate(edges):
        around[i].append(k)
        around[j].append(k)
    single = _once(edges, given)
    return Network(curves, nodes.at, edges, single, _bounding(single), dict(around))


@dataclass
class Clump:
    """Curves whose boxes touch, and the regions they bound: nothing beyond them meets them.

    ``loops`` are the faces of all of it, ``own`` says whether any of it is the sketch's own and not the part's.
    """

    web: Network
    given: frozenset[str]
    loops: list[list[Piece]]
    open_ends: list[XY]
    own: bool

    @cached_property
    def drawn(self) -> list[list[Piece]]:
        """The faces that the sketch's own pieces bound."""
        return _faces(_drawn(self.web.single, self.given))


_known: IdentityCache[Clump] = IdentityCache()


def _clumps(sketch: Sketch, given: frozenset[str]) -> list[Clump]:
    """The clumps of a sketch, in the order of their first curves; each is worked out once."""
    tolerance = _tolerance(sketch)
    found = []
    for bounds in _touching(_bounds(sketch), tolerance):
        theirs = frozenset(e.id for e in bounds if e.id in given)
        known = _known.get(bounds, tolerance, theirs)
        found.append(known or _known.put(_clump(bounds, theirs, tolerance), bounds, tolerance, theirs))
    return found


def _clump(bounds: Sequence[Bound], given: frozenset[str], tolerance: float) -> Clump:
    web = _network(bounds, given, tolerance)
    loose = [n for n, around in web.around.items() if len(around) == 1 and web.edges[around[0]][2].entity not in given]
    own = any(p.entity not in given for _, _, p in web.edges)
    return Clump(web, given, _faces(web.kept), [web.nodes[n] for n in loose], own)


def _touching(bounds: list[Bound], tolerance: float) -> list[list[Bound]]:
    """Curves and texts in groups whose boxes touch, each in the order in which it was drawn."""
    boxes = [box(e, 2 * tolerance) if not isinstance(e, Text) else _text_box(e, 2 * tolerance) for e in bounds]
    groups = Groups(range(len(bounds)))
    active: list[int] = []
    for i in sorted(range(len(bounds)), key=lambda i: boxes[i][0]):
        x0, y0, _, y1 = boxes[i]
        active = [j for j in active if boxes[j][2] >= x0]
        for j in active:
            if boxes[j][1] <= y1 and y0 <= boxes[j][3]:
                groups.join(j, i)
        active.append(i)
    found: dict[int, list[Bound]] = {}
    for k, e in enumerate(bounds):
        found.setdefault(groups.find(k), []).append(e)
    return list(found.values())


def _text_box(text: Text, pad: float) -> tuple[float, float, float, float]:
    places = [at for p in letters(text) for at in (p.start, p.end, *(q for span in p.spans for q in span))]
    xs, ys = [x for x, _ in places] or [text.p[0]], [y for _, y in places] or [text.p[1]]
    return min(xs) - pad, min(ys) - pad, max(xs) + pad, max(ys) + pad


def _once(edges: list[Edge], given: AbstractSet[str]) -> list[Edge]:
    """What is drawn over itself bounds as one: of pieces in one place the first, one of the sketch's own before one
    that the part gives."""
    found: dict[tuple[int, int], list[Edge]] = defaultdict(list)
    for edge in sorted(edges, key=lambda e: e[2].entity in given):
        i, j, piece = edge
        here = found[(min(i, j), max(i, j))]
        if not any(_same_place(piece, other) for _, _, other in here):
            here.append(edge)
    kept = {id(e) for group in found.values() for e in group}
    return [e for e in edges if id(e) in kept]


def _same_place(one: Piece, two: Piece) -> bool:
    """Whether two pieces between the same ends run the same way."""
    (ax, ay), (bx, by) = one.middle(), two.middle()
    return math.hypot(ax - bx, ay - by) < 4 * SAME_PLACE


class _Nodes:
    """Places merged within a tolerance, by a grid of cells."""

    def __init__(self, tolerance: float) -> None:
        self.cell = tolerance * 4
        self.tolerance = tolerance
        self.at: list[XY] = []
        self.grid: dict[tuple[int, int], list[int]] = defaultdict(list)
        self.known: dict[XY, int] = {}  # places asked for before

    def index(self, p: XY) -> int:
        if p not in self.known:
            self.known[p] = self._index(p)
        return self.known[p]

    def _index(self, p: XY) -> int:
        i, j = math.floor(p[0] / self.cell), math.floor(p[1] / self.cell)
        for a in (i - 1, i, i + 1):
            for b in (j - 1, j, j + 1):
                for k in self.grid.get((a, b), ()):
                    if math.hypot(self.at[k][0] - p[0], self.at[k][1] - p[1]) <= self.tolerance:
                        return k
        self.at.append(p)
        self.grid[(i, j)].append(len(self.at) - 1)
        return len(self.at) - 1


def _bounding(edges: list[Edge]) -> list[Edge]:
    """The pieces that part one face from another: all but loose tails and what joins two outlines (the bridges of the
    graph: Tarjan, *A note on finding the bridges of a graph*, 1974)."""
    at: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for k, (i, j, _) in enumerate(edges):
        at[i].append((k, j))
        at[j].append((k, i))
    order: dict[int, int] = {}  # when a node was first come to
    low: dict[int, int] = {}  # the earliest node that can be come to from it without the piece it was come to by
    bridges: set[int] = set()
    for root in at:
        if root in order:
            continue
        order[root] = low[root] = len(order)
        path = [(root, -1, iter(at[root]))]
        while path:
            node, by, rest = path[-1]
            step = next(rest, None)
            if step is None:
                path.pop()
                if path:
                    low[path[-1][0]] = min(low[path[-1][0]], low[node])
                    if low[node] > order[path[-1][0]]:
                        bridges.add(by)
                continue
            k, other = step
            if k == by:
                continue
            if other in order:
                low[node] = min(low[node], order[other])
            else:
                order[other] = low[other] = len(order)
                path.append((other, k, iter(at[other])))
    return [e for k, e in enumerate(edges) if k not in bridges]


def _drawn(edges: list[Edge], given: AbstractSet[str]) -> list[Edge]:
    """What bounds the default: what the sketch's own pieces close, and what they close with pieces of the part's edges.

    An own piece that closes nothing alone has a face on either side. It is drawn for the one that takes less of the
    part's edges to close: a notch, not what is left of the part beside it. Without own pieces the part's edges count.
    """
    own = [e for e in edges if e[2].entity not in given]
    if not own:
        return _bounding(edges)
    closed = _bounding(own)
    alone = {id(p) for _, _, p in closed}
    loose = {_key(p) for _, _, p in own if id(p) not in alone}
    if not loose:
        return closed
    best: dict[tuple[object, ...], float] = {}
    faces = []
    for loop in _faces(_bounding(edges)):
        mine = {k for p in loop if (k := _key(p)) in loose}
        if mine and sum(p.area() for p in loop) > 1e-14:
            length = sum(piece_length(p) for p in loop if p.entity in given)
            faces.append((length, mine, loop))
            for k in mine:
                best[k] = min(best.get(k, math.inf), length)
    wanted = {
        _key(p) for length, mine, loop in faces if any(length <= best[k] + SAME_PLACE for k in mine) for p in loop
    }
    return _bounding([e for e in edges if id(e[2]) in alone or _key(e[2]) in wanted])


def _key(p: Piece) -> tuple[object, ...]:
    """Names a piece whichever way it is walked."""
    return (p.entity, *sorted((p.start, p.end)), tuple(round(c, 6) for c in p.middle()))


def piece_length(p: Piece) -> float:
    """Length in mm; of free curves near enough to compare."""
    if p.radius:
        return abs(p.sweep) * p.radius
    return sum(math.dist(a, b) for a, b in itertools.pairwise(p.walk()))


def _faces(edges: list[Edge]) -> list[list[Piece]]:
    """Loops of the plane graph, each walked with its face on the left."""
    half = []  # (from, to, piece); 2k and 2k+1 are twins
    for i, j, p in edges:
        half += [(i, j, p), (j, i, p.reversed())]
    leaving: dict[int, list[int]] = defaultdict(list)
    for k, (i, _, _) in enumerate(half):
        leaving[i].append(k)
    after: dict[int, int] = {}
    for around in leaving.values():

        def turn(k: int) -> tuple[float, float]:
            angle, bend = half[k][2].heading()
            angle %= 2 * math.pi
            if angle > 2 * math.pi - 1e-9:
                angle = 0.0
            return round(angle, 9), bend

        around.sort(key=turn)
        for n, k in enumerate(around):
            after[k ^ 1] = around[n - 1]  # arriving against k: leave by the next one clockwise
    seen: set[int] = set()
    loops = []
    for k in range(len(half)):
        loop = []
        while k not in seen:
            seen.add(k)
            loop.append(half[k][2])
            k = after[k]
        if loop:
            loops.append(loop)
    return loops


# -- cutting where curves meet ---------------------------------------------------------------


def _cut(curves: list[AnyCurve], tolerance: float) -> list[Piece]:
    boxes = [box(c, tolerance) for c in curves]
    cuts: list[set[float]] = [set() for _ in curves]
    order = sorted(range(len(curves)), key=lambda i: boxes[i][0])
    active: list[int] = []
    for i in order:
        active = [j for j in active if boxes[j][2] >= boxes[i][0]]
        for j in active:
            if boxes[j][1] <= boxes[i][3] and boxes[i][1] <= boxes[j][3]:
                for _, mine, its in meet_along(curves[i], curves[j], tolerance):
                    cuts[i].add(mine)
                    cuts[j].add(its)
        active.append(i)
    found: list[Piece] = []
    for curve, ts in zip(curves, cuts, strict=True):
        found += pieces(curve, sorted(ts), tolerance)
    return found

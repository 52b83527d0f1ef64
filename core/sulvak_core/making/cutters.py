"""Whether cutters get at a part: faces no cutter reaches, corners sharper than it, deep pockets, narrow slots, holes.

What is reached is looked for on a grid of heights from each direction (``height_field``); corners, slots and holes on
the exact faces.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..part.shop import CutterLimits, Way
from ..part.units import number, told
from ..rebuild.state import Body
from ..solid.edge_convexity import bend
from ..solid.measure import Curve, Surface, curve, neighbours, surface
from ..solid.shapes import Shape, edges, faces
from .drill_sizes import nearest_drill
from .finding import MOST, Band, Checked, Finding, Paint, Progress, place, step_of, together, untold
from .height_field import height_field, reached
from .holes import Hole, holes
from .patches import FINE, OFF, Patches, clusters, last_step, of_body
from .ways import WORDS, vector

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
SMALL = 3e-3  # of the part's surface: less that is not reached is the grid's own coarseness
HALF = 0.5  # of a face that is reached from a side: it is milled from there
ALONG = 1e-6  # sine within which an axis runs along a direction


def check_cutters(
    bodies: Sequence[Body],
    limits: CutterLimits,
    threads: Sequence[tuple[str, float, float]] = (),
    progress: Progress = untold,
) -> Checked:
    """Findings from the chosen directions; every body is a piece by itself, held in nobody's way. ``threads``: step,
    diameter and depth (mm) of each threaded hole."""
    pieces: list[_Piece] = []
    for body in bodies:
        pieces.append(_Piece.of(body, limits, lambda k, n: progress(len(pieces) * n + k, len(bodies) * n)))
    found = [f for piece in pieces for f in piece.findings(limits)]
    for step, diameter, depth in threads:
        if depth > limits.thread_depth * diameter + 1e-9:
            said = f"A thread {told(depth)} deep, {number(depth / diameter, 2)} times its diameter; "
            said += f"more than {number(limits.thread_depth)} times holds no better and breaks taps."
            found.append(Finding("deep thread", said, depth / diameter, limits.thread_depth, "× d", step=step))
    ways = list(dict.fromkeys(w for piece in pieces for w in piece.setups))
    areas = [0.0] * (len(ways) + 1)
    paints = []
    for piece in pieces:
        band = np.full(len(piece.p.face), len(ways), dtype=np.int64)
        for w in reversed(piece.setups):
            band[piece.by_way[w]] = ways.index(w)
        areas = [v + float(piece.p.areas[band == k].sum()) for k, v in enumerate(areas)]
        paints.append(Paint(piece.p.corners.astype(np.float32), np.repeat(band[:, None], 3, axis=1).astype(np.float32)))
    bands = [Band(w, f"set-up {k + 1}, {WORDS[w]}", areas[k], "good") for k, w in enumerate(ways)]
    bands.append(Band("unreached", "no cutter reaches it", areas[-1], "bad"))
    figures: dict[str, float | str | None] = {
        "set-ups": float(max((len(piece.setups) for piece in pieces), default=0)),
        "unreached": areas[-1],
        "from": ", ".join(ways),
    }
    return Checked("cutters", found[:MOST], bands, together(paints), figures)


@dataclass
class _Piece:
    """One body, and what of it is reached from where."""

    body: Body
    p: Patches
    holes: list[Hole]
    by_way: dict[Way, Flags]
    anywhere: Flags
    setups: list[Way]

    @staticmethod
    def of(body: Body, limits: CutterLimits, progress: Progress) -> _Piece:
        p = of_body(body)
        seen = holes([body])
        by_way: dict[Way, Flags] = {}
        ways = list(dict.fromkeys(limits.ways))
        for w in ways:
            by_way[w] = _reached(p, w, limits, seen)
            progress(len(by_way), len(ways))
        anywhere = np.any(list(by_way.values()), axis=0) if by_way else np.zeros(len(p.face), dtype=bool)
        return _Piece(body, p, seen, by_way, anywhere, chosen_setups(p, by_way, anywhere))

    def findings(self, limits: CutterLimits) -> list[Finding]:
        ways = list(self.by_way)
        return [
            *_unreached(self.p, self.anywhere, limits),
            *_corners([self.body], limits, ways, shares(self.p, self.by_way)),
            *_slots(self.p, limits, ways, self.holes),
            *_holes(self.holes, limits, ways),
            *_near_edges(self.p, self.holes, limits),
        ]


def _reached(p: Patches, way: Way, limits: CutterLimits, found: Sequence[Hole]) -> Flags:
    """What a cutter reaches from one side; drills reach the holes whose axis runs that way and that are open there."""
    seen = height_field(p, vector(way), limits.diameter / 2, limits.stands_out, limits.holder / 2)
    made = reached(seen, p)
    v = vector(way)
    number_of = {named: i for i, named in enumerate(p.faces)}
    start = p.middles + p.outward * (OFF * p.size)
    for hole in found:
        if abs(abs(float(np.dot(hole.axis, v))) - 1) > ALONG:
            continue
        for face in hole.faces:
            mine = p.face == number_of[face]
            made[mine] |= p.rays.free(start[mine], v) | hole.opens(v)
    return made


def chosen_setups(p: Patches, by_way: dict[Way, Flags], anywhere: Flags) -> list[Way]:
    """The fewest directions that reach all that is reached from any; of as few those that look most of it in the face,
    so that ends of cutters do more than sides."""
    a = p.areas
    need = anywhere & (a > 0)
    if not need.any():
        return []
    ways = sorted(by_way, key=lambda w: -float(a[by_way[w]].sum()))
    whole = float(a[need].sum())
    facing = {w: float((a * np.maximum(p.outward @ vector(w), 0.0))[by_way[w]].sum()) / whole for w in ways}
    for count in range(1, len(ways) + 1):
        best: tuple[float, tuple[Way, ...]] | None = None
        for some in itertools.combinations(ways, count):
            share = float(a[need & np.any([by_way[w] for w in some], axis=0)].sum()) / whole
            looked = sum(facing[w] for w in some)
            if share > 1 - SMALL and (best is None or looked > best[0] + 1e-6):
                best = (looked, some)
        if best:
            return list(best[1])
    return ways


def _unreached(p: Patches, anywhere: Flags, limits: CutterLimits) -> list[Finding]:
    made = []
    whole = float(p.areas.sum())
    for group in clusters(p, ~anywhere):
        area = float(p.areas[group].sum())
        if area < SMALL * whole:
            continue
        chosen = np.zeros(len(anywhere), dtype=bool)
        chosen[group] = True
        sides = "any side" if len(limits.ways) == 6 else "the chosen sides"
        held = limits.stands_out > 0 and limits.holder > limits.diameter
        how = f" that stands out {told(limits.stands_out)} from its holder" if held else ""
        said = f"{told(area, 2)} that a cutter of ⌀{told(limits.diameter)}{how} does not reach from {sides}."
        at = place(p.middles[group].mean(axis=0))
        made.append(Finding("out of reach", said, area, 0.0, "mm²", p.named(chosen), at, last_step(p, chosen)))
    return made


# -- corners -----------------------------------------------------------------------------------------------


def _runs_along(direction: Sequence[float], ways: Sequence[Way]) -> bool:
    return any(abs(abs(float(np.dot(direction, vector(w)))) - 1) < ALONG for w in ways)


def _corners(
    bodies: Sequence[Body], limits: CutterLimits, ways: Sequence[Way], seen: dict[tuple[str, int], dict[Way, float]]
) -> list[Finding]:
    """Inside corners between walls: sharp ones, rounds smaller than the cutter, pockets deep for their corners; and
    where walls meet floors, against the cutter's own corner."""
    found: list[Finding] = []
    leaves = f"a cutter of ⌀{told(limits.diameter)} leaves at least R{told(limits.diameter / 2)}"
    for body in bodies:
        every = faces(body.shape)
        known = [surface(f) for f in every]
        tags = [body.solid.face_tags(f) for f in every]
        for edge, beside in neighbours(body.solid):
            if len(beside) != 2 or beside[0] == beside[1]:
                continue
            c = curve(edge)
            if bend(edge, every[beside[0]], every[beside[1]]) > -1.0:
                continue  # an outside corner, or none
            on = [(body.id, i) for i in beside]
            step = step_of([t for i in beside for t in tags[i]])
            if _upright(known, beside, c, ways) and not _milled_across(
                known, beside, c.direction, [seen[f] for f in on]
            ):
                said = f"An inside corner without a round, {told(c.length)} long: {leaves} there."
                limit = limits.diameter / 2
                found.append(Finding("sharp corner", said, 0.0, limit, "mm", on, c.start, step, "radius"))
            elif limits.corner > 0 and c.kind in ("line", "circle"):
                said = f"A sharp edge between wall and floor, {told(c.length)} long; the cutter's own corner is "
                said += f"R{told(limits.corner)}."
                found.append(Finding("sharp floor", said, 0.0, limits.corner, "mm", on, c.start, step, worth="note"))
        for i, s in enumerate(known):
            if s.kind != "cylinder" or not s.hollow or s.sweep > 1.1 * math.pi or not _runs_along(s.direction, ways):
                continue
            long = _length_along(every[i], s.direction)
            step = step_of(tags[i])
            at = curve(edges(every[i])[0]).start
            if s.radius < limits.diameter / 2 - 1e-6:
                said = f"An inside corner of R{told(s.radius)}; {leaves}."
                found.append(
                    Finding(
                        "small corner", said, s.radius, limits.diameter / 2, "mm", [(body.id, i)], at, step, "radius"
                    )
                )
            deep = long / (2 * s.radius)
            if deep > limits.pocket_depth + 1e-6:
                said = (
                    f"A pocket {told(long)} deep with corners of R{told(s.radius)}: {number(deep, 1)} times as deep as "
                )
                said += f"its cutter is wide; {number(limits.pocket_depth)} times at most is asked."
                found.append(
                    Finding("deep pocket", said, deep, limits.pocket_depth, "×", [(body.id, i)], at, step, "radius")
                )
    return found


def _upright(known: Sequence[Surface], beside: Sequence[int], c: Curve, ways: Sequence[Way]) -> bool:
    """Whether an edge runs along a direction of the cutter between two flat walls."""
    return (
        c.kind == "line"
        and _runs_along(c.direction, ways)
        and all(
            known[i].kind == "plane" and abs(float(np.dot(known[i].direction, c.direction))) < ALONG for i in beside
        )
    )


def _milled_across(
    known: Sequence[Surface], beside: Sequence[int], along: Sequence[float], seen: Sequence[dict[Way, float]]
) -> bool:
    """Whether an inside corner lies between a wall and a floor that is milled from a side square to it."""
    for i, reach in zip(beside, seen, strict=True):
        for w, share in reach.items():
            v = vector(w)
            if (
                share > HALF
                and abs(float(np.dot(v, along))) < ALONG
                and float(np.dot(v, known[i].direction)) > 1 - ALONG
            ):
                return True
    return False


def shares(p: Patches, by_way: dict[Way, Flags]) -> dict[tuple[str, int], dict[Way, float]]:
    """Of each face, how much is reached from each side."""
    count = len(p.faces)
    whole = np.maximum(np.bincount(p.face, weights=p.areas, minlength=count), 1e-12)
    mine = {w: np.bincount(p.face[r], weights=p.areas[r], minlength=count) / whole for w, r in by_way.items()}
    return {face: {w: float(share[i]) for w, share in mine.items()} for i, face in enumerate(p.faces)}


def _length_along(face: Shape, direction: Sequence[float]) -> float:
    at = [float(np.dot(p, direction)) for e in edges(face) for c in [curve(e)] for p in (c.start, c.end)]
    return max(at) - min(at)


# -- slots -------------------------------------------------------------------------------------------------


def _slots(p: Patches, limits: CutterLimits, ways: Sequence[Way], found: Sequence[Hole]) -> list[Finding]:
    """Gaps between walls that look at each other, narrower than the cutter."""
    in_holes = {face for hole in found for face in hole.faces}
    drilled = np.array([f in in_holes for f in p.faces])
    start = p.middles + p.outward * (OFF * p.size)
    far, hit = p.rays.first(start, p.outward)
    facing = (hit >= 0) & ((p.rays.flat[np.maximum(hit, 0)] * p.outward).sum(axis=1) < -0.999)
    gap = far + OFF * p.size
    # a wall stands along one of the directions that cutters come from
    wall = np.any([np.abs(p.outward @ vector(w)) < 1e-3 for w in ways], axis=0) if ways else facing
    narrow = facing & wall & (gap < limits.diameter * (1 - 1e-4)) & ~drilled[p.face]
    made = []
    for group in clusters(p, narrow, lambda size: max(2.2 * FINE * size, 1.05 * limits.diameter)):
        if p.areas[group].sum() < SMALL * float(p.areas.sum()):
            continue
        worst = group[np.argmin(gap[group])]
        chosen = np.zeros(len(narrow), dtype=bool)
        chosen[group] = True
        said = f"A gap of {told(float(gap[worst]))}, narrower than the cutter of ⌀{told(limits.diameter)}."
        at = place(p.middles[worst])
        made.append(
            Finding(
                "narrow slot", said, float(gap[worst]), limits.diameter, "mm", p.named(chosen), at, last_step(p, chosen)
            )
        )
    return made


# -- holes -------------------------------------------------------------------------------------------------


def _holes(found: Sequence[Hole], limits: CutterLimits, ways: Sequence[Way]) -> list[Finding]:
    made: list[Finding] = []
    for hole in found:
        on, at, step = list(hole.faces), hole.at, hole.step
        name = f"A hole of ⌀{told(hole.diameter)}"
        deep = hole.depth / hole.diameter
        if deep > limits.hole_depth + 1e-6:
            said = f"{name}, {told(hole.depth)} deep: {number(deep, 1)} times its diameter; "
            said += f"{number(limits.hole_depth)} times at most is asked."
            made.append(Finding("deep hole", said, deep, limits.hole_depth, "× d", on, at, step, "depth"))
        if hole.flat_end:
            said = f"{name} ends flat: a drill leaves a point, so an end mill or a second cut is needed."
            made.append(Finding("flat end", said, faces=on, at=at, step=step, worth="note"))
        if hole.slope is not None and hole.slope > 0.5:
            said = f"{name} begins on a face that leans {number(hole.slope, 1)}°: a drill runs off; spot-face it first."
            made.append(Finding("hole on a slope", said, hole.slope, 0.0, "°", on, at, step))
        if not _runs_along(hole.axis, ways):
            said = f"{name} runs along none of the directions that cutters come from."
            made.append(Finding("inclined hole", said, faces=on, at=at, step=step))
        nearest = nearest_drill(hole.diameter, limits.drills)
        if nearest is not None and abs(nearest[1] - hole.diameter) > 1e-3 and not _counterbored(hole, found):
            said = f"{name} is of no drill's size; the nearest is {nearest[0]}."
            made.append(
                Finding("no drill", said, hole.diameter, nearest[1], "mm", on, at, step, "diameter", worth="note")
            )
    return made


def _counterbored(hole: Hole, found: Sequence[Hole]) -> bool:
    """Whether a narrower hole goes on from it: such a bore is counterbored or milled, not drilled."""
    axis = np.array(hole.axis)
    for other in found:
        if other.body != hole.body or other.diameter > hole.diameter - 1e-6:
            continue
        away = np.array(other.at) - np.array(hole.at)
        along = float(away @ axis)
        if (
            abs(abs(float(axis @ np.array(other.axis))) - 1) < ALONG
            and np.linalg.norm(away - along * axis) < 1e-6 * max(1.0, hole.diameter)
            and abs(along) < (hole.depth + other.depth) / 2 + hole.diameter
        ):
            return True
    return False


def _near_edges(p: Patches, found: Sequence[Hole], limits: CutterLimits) -> list[Finding]:
    """Holes that leave too little material to the nearest outside."""
    if not limits.edge:
        return []
    made = []
    number_of = {named: i for i, named in enumerate(p.faces)}
    of_hole = np.full(len(p.faces), -1)
    for k, hole in enumerate(found):
        for face in hole.faces:
            of_hole[number_of[face]] = k
    for k, hole in enumerate(found):
        mine = np.isin(p.face, [number_of[f] for f in hole.faces])
        axis = np.array(hole.axis)
        mine &= np.abs(p.outward @ axis) < 0.1
        if not mine.any():
            continue
        out = -p.outward[mine]  # into the material, away from the axis
        start = p.middles[mine] + out * (OFF * p.size)
        far, hit = p.rays.first(start, out)
        # another stretch of the same wall is no outside
        other = (hit >= 0) & (of_hole[p.rays.face[np.maximum(hit, 0)]] != k)
        wall = np.where(other, far + OFF * p.size, np.inf)
        j = int(np.argmin(wall))
        if wall[j] < limits.edge * hole.diameter * (1 - 1e-3):
            share = float(wall[j]) / hole.diameter
            said = (
                f"A hole of ⌀{told(hole.diameter)} leaves {told(float(wall[j]))} to the outside, {number(share, 2)} of "
            )
            said += f"its diameter; {number(limits.edge)} is asked."
            at = place(p.middles[mine][j])
            made.append(
                Finding(
                    "near an edge",
                    said,
                    float(wall[j]) / hole.diameter,
                    limits.edge,
                    "× d",
                    list(hole.faces),
                    at,
                    hole.step,
                )
            )
    return made

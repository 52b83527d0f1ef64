"""Holes as the finished solid shows them, whichever step or file they are from."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from ..part.units import number
from ..sheet.requirement import Requirement
from ..solid.frame import XYZ, dot, plus, scaled
from ..solid.measure import Surface, curve, inside, off_axis, one_axis, surface
from ..solid.shapes import Solid, edges, faces
from .layout import misplaced

EXACT = 1e-6
SQUARE = 1e-9
BEYOND = 1e-4  # mm past the end of a wall, where it is looked whether there is material


@dataclass
class Stretch:
    """A round wall along its axis: ``radius`` (mm) at its start and end, ``low`` and ``high`` along the axis."""

    low: float
    high: float
    radii: tuple[float, float]


@dataclass
class SeenHole:
    """Hollow walls about one axis, one behind the other. ``at``: the point of the axis nearest to the part's origin;
    ``open``: whether there is air beyond the low and the high end."""

    at: XYZ
    way: XYZ
    walls: list[Stretch]
    cones: list[Stretch] = field(default_factory=list)
    open: tuple[bool, bool] = (True, True)

    @property
    def through(self) -> bool:
        return all(self.open)

    def of(self, radius: float) -> Stretch | None:
        """The wall of that radius."""
        return next((w for w in self.walls if abs(w.radii[0] - radius) < EXACT), None)

    def depth(self, radius: float) -> float:
        """From the mouth to where the wall of a radius ends, mm."""
        wall, every = self.of(radius), [*self.walls, *self.cones]
        if wall is None:
            return 0.0
        high = max(s.high for s in every)
        low = min(s.low for s in every)
        return wall.high - low if self.open[0] and not self.open[1] else high - wall.low


def holes(solids: Sequence[Solid], hollow: bool = True) -> list[SeenHole]:
    """Every hole of the solids; with ``hollow`` False what stands out round: pins and bosses."""
    groups: list[tuple[Surface, Solid, list[tuple[Surface, Stretch]]]] = []
    for solid in solids:
        for face in faces(solid.shape):
            s = surface(face)
            if s.kind not in ("cylinder", "cone") or s.hollow != hollow:
                continue
            rims = [c for e in edges(face) for c in [curve(e)]]
            mine = next((g for g in groups if g[1] is solid and one_axis(g[0], s)), None)
            if mine is None:
                mine = (s, solid, [])
                groups.append(mine)
            way = mine[0].direction
            at = [(dot(p, way), off_axis(p, mine[0])) for c in rims for p in (c.start, c.end)]
            if at:
                low, high = min(at), max(at)
                ends = (low[1], high[1]) if s.kind == "cone" else (s.radius, s.radius)
                mine[2].append((s, Stretch(low[0], high[0], ends)))
    found = []
    for lead, solid, parts in groups:
        for run in _runs([p[1] for p in parts]):
            foot = plus(lead.at, scaled(lead.direction, -dot(lead.at, lead.direction)))
            walls = _merged([s for s in run if s.radii[0] == s.radii[1]])
            cones = _merged([s for s in run if s.radii[0] != s.radii[1]])
            beyond = (min(s.low for s in run) - BEYOND, max(s.high for s in run) + BEYOND)
            air = [not inside(solid.shape, plus(foot, scaled(lead.direction, z))) for z in beyond]
            found.append(SeenHole(foot, lead.direction, walls, cones, (air[0], air[1])))
    return found


def _runs(stretches: list[Stretch]) -> list[list[Stretch]]:
    """Stretches that follow on one another, without a gap between."""
    found: list[list[Stretch]] = []
    end = -math.inf
    for s in sorted(stretches, key=lambda s: s.low):
        if found and s.low <= end + EXACT:
            found[-1].append(s)
            end = max(end, s.high)
        else:
            found.append([s])
            end = s.high
    return found


def _merged(stretches: list[Stretch]) -> list[Stretch]:
    """Halves of one wall, and pieces of it that follow on one another, as one."""
    found: list[Stretch] = []
    for s in sorted(stretches, key=lambda s: (s.radii, s.low)):
        last = found[-1] if found else None
        if last is not None and last.radii == s.radii and s.low <= last.high + EXACT:
            last.high = max(last.high, s.high)
        else:
            found.append(Stretch(s.low, s.high, s.radii))
    return found


def held_to(r: Requirement, radius: float, seen: Sequence[SeenHole]) -> tuple[int, list[str]]:
    """How many of the holes have a wall of ``radius`` (mm), and what of them is not as a callout says. Where enough of
    them are just so, others of that size are somebody else's."""
    mine = [h for h in seen if h.of(radius) is not None]
    just_so = [h for h in mine if not _hole_wrong(h, radius, r)]
    mine = just_so if len(just_so) >= r.count else mine
    wrong: list[str] = []
    for hole in mine:
        wrong += [w for w in _hole_wrong(hole, radius, r) if w not in wrong]
    if mine and all(abs(abs(dot(h.way, mine[0].way)) - 1) < SQUARE for h in mine):
        wrong += misplaced([h.at for h in mine], mine[0].way, r)
    return len(mine), wrong


def _hole_wrong(hole: SeenHole, radius: float, r: Requirement) -> list[str]:
    wrong = ["not through"] if r.through and not hole.through else []
    if r.depth is not None and r.kind != "thread":
        wrong += _unlike([hole.depth(radius)], r.depth, "depth ")
    larger = [w for w in hole.walls if w.radii[0] > radius + EXACT]
    for wide, deep, name in ((r.bore, r.bore_depth, "counterbore"), (r.spot, r.spot_depth, "spotface")):
        if wide is not None:
            wrong += _unlike([2 * w.radii[0] for w in larger], wide, f"{name} Ø")
            if deep is not None:
                wrong += _unlike([w.high - w.low for w in larger], deep, f"{name} ↧ ")
    if r.sink is not None:
        sinks = [2 * max(c.radii) for c in hole.cones if max(c.radii) > radius + EXACT]
        wrong += _unlike(sinks, r.sink, "countersink Ø")
    return wrong


def _unlike(found: list[float], wanted: float, what: str) -> list[str]:
    if any(abs(v - wanted) <= EXACT * 10 for v in found):
        return []
    return [f"{what}{number(found[0])}, {number(wanted)} asked"] if found else [f"no {what.strip(' Ø↧')}"]

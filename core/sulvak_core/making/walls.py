"""How thick walls are, in every place: along rays square to the surface, and by the balls that fit in between.

A ray measures from a place of the surface straight into the material to where it comes out. A ball that lies on the
surface in that place is as large as the nearest other side lets it be: through a place at distance t in a direction
that leans θ from the inward normal it has the diameter t / cos θ. Of the other side counts what looks the other way by
more than ``FACING``; the walls beside an outside corner do not.
"""

from __future__ import annotations

import itertools
import math

import numpy as np
from numpy.typing import NDArray

from ..part.shop import WallLimits
from ..part.units import number, told
from ..rebuild.state import Body
from ..solid.shapes import Remembered, Solid
from .finding import MOST, Band, Checked, Finding, Paint, Progress, place, together, untold
from .patches import FINE, OFF, Patches, clusters, last_step, of_body, patches

Array = NDArray[np.float64]
FACING = 0.1  # cosine: the other side looks away by more than 96°
STEEPEST = math.radians(75)
RINGS, ROUND = 9, 12  # directions about the normal: rings up to the steepest, and round each
SAME = 1e-9  # relative: what is no difference
SEEN = 0.98  # of the normal's length: where triangles turn more than that, there is an edge


def thickness(p: Patches, places: Array, normals: Array, progress: Progress = untold) -> tuple[Array, Array]:
    """Along rays, and by balls, in mm (inf: nothing on the other side), in places of the surface with outward unit
    normals. ``progress`` is told after each of the ``RINGS``."""
    n = len(places)
    if not n:
        return np.zeros(0), np.zeros(0)
    start = places - normals * (OFF * p.size)
    straight, hit = p.rays.first(start, -normals)
    straight = straight + OFF * p.size
    faces_away = _away(p, hit, normals)
    rays = np.where(faces_away, straight, np.inf)
    balls = rays.copy()
    along, across = _axes(normals)
    for k in range(1, RINGS + 1):
        lean = STEEPEST * k / RINGS
        for j in range(ROUND):
            turn = 2 * math.pi * (j + k / 2) / ROUND
            way = -normals * math.cos(lean) + math.sin(lean) * (along * math.cos(turn) + across * math.sin(turn))
            far, met = p.rays.first(start, way, balls * math.cos(lean))  # what lies farther off lets a larger ball be
            ball = (far + OFF * p.size) / math.cos(lean)
            smaller = np.flatnonzero(ball < balls)
            better = smaller[_away(p, met[smaller], normals[smaller])]
            balls[better] = ball[better]
        progress(k, RINGS)
    return rays, balls


def _away(p: Patches, hit: NDArray[np.int64], normals: Array) -> NDArray[np.bool_]:
    """Whether the triangle that was met looks the other way than the place does."""
    flat = p.rays.flat[np.maximum(hit, 0)]
    made: NDArray[np.bool_] = (hit >= 0) & ((flat * normals).sum(axis=1) < -FACING)
    return made


def _axes(normals: Array) -> tuple[Array, Array]:
    """Two unit directions square to each normal and to one another."""
    other = np.where(np.abs(normals[:, :1]) < 0.6, [[1.0, 0.0, 0.0]], [[0.0, 1.0, 0.0]])
    along = np.cross(normals, other)
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    return along, np.cross(normals, along)


def check_walls(bodies: list[Body], limits: WallLimits, progress: Progress = untold) -> Checked:
    """Walls of all bodies against their limits. Thickness is the smaller of ray and ball."""
    found: list[Finding] = []
    paints: list[Paint] = []
    least: tuple[float, Array | None] = (math.inf, None)
    most: tuple[float, Array | None] = (0.0, None)
    least_ray = math.inf
    areas = {"thin": 0.0, "good": 0.0, "thick": 0.0, "open": 0.0}
    for i, body in enumerate(bodies):
        done = i * RINGS
        p, rays, balls = _measured(
            body,
            lambda k, n, done=done: progress(done + k, len(bodies) * n),  # type: ignore[misc]
        )
        thick = np.minimum(rays, balls)
        known = np.isfinite(thick)
        if known.any():
            k, j = int(np.argmin(np.where(known, thick, np.inf))), int(np.argmax(np.where(known, thick, -np.inf)))
            least = min(least, (float(thick[k]), p.middles[k]), key=lambda v: v[0])
            most = max(most, (float(thick[j]), p.middles[j]), key=lambda v: v[0])
            least_ray = min(least_ray, float(np.min(np.where(np.isfinite(rays), rays, np.inf))))
        thin = known & (thick < limits.least * (1 - 1e-4))
        fat = known & (limits.most > 0) & (thick > limits.most * (1 + 1e-4))
        a = p.areas
        for name, which in (("thin", thin), ("thick", fat), ("open", ~known), ("good", known & ~thin & ~fat)):
            areas[name] += float(a[which].sum())
        found += _outside(p, thick, thin, limits.least, "thin wall", "thinner than")
        found += _outside(p, thick, fat, limits.most, "thick wall", "thicker than")
        found += _jumps(p, thick, known, limits.jump)
        paints.append(Paint(p.corners.astype(np.float32), np.repeat(thick[:, None], 3, axis=1).astype(np.float32)))
    bands = [
        Band("thin", f"thinner than {told(limits.least)}", areas["thin"], "bad"),
        Band("good", "within the limits", areas["good"], "good"),
    ]
    if limits.most:
        bands.append(Band("thick", f"thicker than {told(limits.most)}", areas["thick"], "poor"))
    if areas["open"] > 1e-9:
        bands.append(Band("open", "nothing on the other side", areas["open"], "plain"))
    figures = {"thinnest": None if least[1] is None else least[0], "thickest": None if most[1] is None else most[0]}
    figures["thinnest by rays"] = least_ray if math.isfinite(least_ray) else None
    whole = together(paints)
    found.sort(key=lambda f: (f.kind != "thin wall", f.worth, f.value or 0.0))
    return Checked("walls", found[:MOST], bands, whole, dict(figures))


_known: Remembered[tuple[Solid, Patches, Array, Array]] = Remembered(8)


def _measured(body: Body, progress: Progress) -> tuple[Patches, Array, Array]:
    """A body in small triangles, and how thick it is in the middle of each, along rays and by balls. Remembered for the
    last bodies: the limits may change, the walls do not."""

    def made() -> tuple[Solid, Patches, Array, Array]:
        p = of_body(body)
        return body.solid, p, *thickness(p, p.middles, p.outward, progress)

    _, p, rays, balls = _known.get(body.shape, (body.id, id(body.solid)), made)
    return p, rays, balls


def _outside(p: Patches, thick: Array, which: NDArray[np.bool_], limit: float, kind: str, words: str) -> list[Finding]:
    """A finding for each stretch of wall that is out."""
    made = []
    for group in clusters(p, which):
        worst = group[np.argmin(thick[group]) if kind == "thin wall" else np.argmax(thick[group])]
        chosen = np.zeros(len(thick), dtype=bool)
        chosen[group] = True
        at = place(p.middles[worst])
        area = told(float(p.areas[group].sum()), 2)
        said = f"A wall of {told(float(thick[worst]))}, {words} {told(limit)}, over {area}."
        step = last_step(p, chosen)
        made.append(Finding(kind, said, float(thick[worst]), limit, "mm", p.named(chosen), at, step))
    return made


def _may_jump(places: Array, thick: Array, reach: float, times: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Places that may have another within reach where the wall is so many times as thick, and those that may have one
    where it is as thin: by cubes of that size, and the thickest and thinnest walls in those round each."""
    if not len(places):
        return np.zeros(0, dtype=bool), np.zeros(0, dtype=bool)
    cube = ((places - places.min(axis=0)) / (reach * (1 + SAME))).astype(np.int64) + 1
    wide = cube.max(axis=0) + 2
    cubes, mine = np.unique((cube[:, 0] * wide[1] + cube[:, 1]) * wide[2] + cube[:, 2], return_inverse=True)
    most, least = np.zeros(len(cubes)), np.full(len(cubes), np.inf)
    np.maximum.at(most, mine, thick)
    np.minimum.at(least, mine, thick)
    thickest, thinnest = most.copy(), least.copy()
    for x, y, z in itertools.product((-1, 0, 1), repeat=3):
        there = cubes + (x * wide[1] + y) * wide[2] + z
        k = np.minimum(np.searchsorted(cubes, there), len(cubes) - 1)
        is_there = cubes[k] == there
        thickest = np.maximum(thickest, np.where(is_there, most[k], 0))
        thinnest = np.minimum(thinnest, np.where(is_there, least[k], np.inf))
    less = times * (1 - SAME)
    return thickest[mine] > less * thick, thick > less * thinnest[mine]


def _jumps(p: Patches, thick: Array, known: NDArray[np.bool_], times: float) -> list[Finding]:
    """Where a wall becomes so many times as thick within its own thickness: material sinks there."""
    from scipy.spatial import cKDTree

    reach = 1.6 * FINE * p.size
    at = np.flatnonzero(known)
    middles, outward = p.middles, p.outward
    thin, fat = (at[which] for which in _may_jump(middles[at], thick[at], reach, times))
    if not len(thin) or not len(fat):
        return []
    pairs = cKDTree(middles[thin]).sparse_distance_matrix(cKDTree(middles[fat]), reach, output_type="ndarray")
    one, two = thin[pairs["i"]], fat[pairs["j"]]
    smooth = (outward[one] * outward[two]).sum(axis=1) > SEEN
    one, two = one[smooth], two[smooth]
    ratio = np.maximum(thick[one], thick[two]) / np.minimum(thick[one], thick[two])
    sharp = ratio > times
    chosen = np.zeros(len(thick), dtype=bool)
    chosen[one[sharp]] = chosen[two[sharp]] = True
    worst_at = np.zeros(len(thick))
    for ends in (one[sharp], two[sharp]):
        np.maximum.at(worst_at, ends, ratio[sharp])
    made = []
    for group in clusters(p, chosen):
        k = int(group[np.argmax(worst_at[group])])
        times_at = float(worst_at[k])
        here = np.zeros(len(thick), dtype=bool)
        here[group] = True
        said = f"The wall becomes {number(times_at, 1)} times as thick beside this; it sinks or tears there."
        at_ = place(middles[k])
        step = last_step(p, here)
        made.append(Finding("sharp change", said, times_at, times, "×", p.named(here), at_, step, worth="note"))
    return made


def probe(
    bodies: list[Body], at: tuple[float, float, float], normal: tuple[float, float, float]
) -> tuple[float, float]:
    """Thickness along the ray and by the ball (mm) in one place of the surface."""
    p = patches(bodies)
    n = np.array([normal]) / np.linalg.norm(normal)
    rays, balls = thickness(p, np.array([at]), n)
    return float(rays[0]), float(balls[0])

"""A mesh held against a part: how far it lies off the part in every place, and what of the part it does not cover.

Distances are from places on the mesh to the nearest place of the part, above zero outside its material. The part's
triangles find the nearest face; for planes, cylinders, cones, spheres and tori the distance is then that from the
surface itself, so that it does not depend on how fine the triangles are. The greatest ones are measured on the solid.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property

import igl
import numpy as np
from numpy.typing import NDArray

from ..making.finding import Paint, place
from ..making.patches import divided, patches
from ..part.errors import Refusal
from ..part.reference import MM, ReferenceMesh, placed
from ..rebuild.state import Body
from ..solid.distance import point_shape, shortest
from ..solid.measure import inside
from ..solid.mesh import default_deflection, mesh
from ..solid.off_surface import Off, off_surface
from ..solid.shapes import compound, faces
from .read import MeshIn

XYZ = tuple[float, float, float]
Array = NDArray[np.float64]
Index = NDArray[np.int64]
FINER, TURN = 4.0, 0.09  # as fine as the checks of the shop look at a part
SAMPLES = 60_000  # small triangles of a mesh, about, at which it is measured
CLOSE = 1.5  # times the triangles' deflection: as far as a nearest triangle may be wrong
WORST = 12  # places told
APART = 1 / 12  # of the part's size: places nearer to each other are told as one
ROUNDS = 7  # a worst place is looked for so many times more closely


@dataclass(frozen=True)
class WorstPlace:
    """Where a mesh lies off (mm; above zero: outside the part), and the part's face that is nearest there. ``of``: a
    place of the mesh, or one of the part that has no mesh near it."""

    at: XYZ
    off: float
    face: tuple[str, int]
    of: str


@dataclass
class Compared:
    """``figures`` in mm, mm², mm³ and shares; ``mesh`` and ``part``: what to paint, mm at each corner."""

    figures: dict[str, float | None]
    worst: list[WorstPlace]
    mesh: Paint
    part: Paint
    notes: list[str] = field(default_factory=list)


class PartSurface:
    """The surface of bodies, to ask how far places lie off it."""

    def __init__(self, bodies: list[Body]) -> None:
        if not bodies:
            raise Refusal("There is no solid yet that a mesh could be held against.")
        self.bodies = bodies
        points, triangles, face = [], [], []
        self.named: list[tuple[str, int]] = []
        self.offs: list[Off | None] = []
        self.shapes = []
        self.near = 0.0
        count = 0
        for body in bodies:
            deflection = default_deflection(body.solid) / FINER
            m = mesh(body.solid, [], deflection, TURN)
            self.near = max(self.near, CLOSE * deflection)
            starts = [*m.face_start, len(m.triangles)]
            for i, shape in enumerate(faces(body.shape)):
                face.append(np.full(starts[i + 1] - starts[i], len(self.named), dtype=np.int64))
                self.named.append((body.id, i))
                self.offs.append(off_surface(shape))
                self.shapes.append(shape)
            points.append(m.points)
            triangles.append(m.triangles + count)
            count += len(m.points)
        self.points = np.ascontiguousarray(np.concatenate(points))
        self.triangles = np.ascontiguousarray(np.concatenate(triangles))
        self.face: Index = np.concatenate(face)
        self.box = self.points.min(axis=0), self.points.max(axis=0)
        self.size = float(np.linalg.norm(self.box[1] - self.box[0]))
        self.tree = igl.AABB()
        self.tree.init(self.points, self.triangles)

    @cached_property
    def normals(self) -> Array:
        """Of the triangles, units."""
        a, b, c = (self.points[self.triangles[:, k]] for k in range(3))
        n = np.cross(b - a, c - a)
        made: Array = n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)
        return made

    def nearest(self, places: Array) -> tuple[Array, Index]:
        """The nearest place of the triangles to each, and the face it is on."""
        _, triangle, there = self.tree.squared_distance(self.points, self.triangles, np.ascontiguousarray(places))
        return there, self.face[triangle]

    def off(self, places: Array) -> tuple[Array, Index]:
        """Signed distances (mm, above zero outside the material) and the nearest faces."""
        there, face = self.nearest(places)
        far = np.linalg.norm(places - there, axis=1)
        signed = far.copy()
        open_ = np.ones(len(places), dtype=bool)  # on which side they are is still to be found out
        for k in np.unique(face):
            off = self.offs[k]
            if off is None:
                continue
            mine = np.flatnonzero(face == k)
            exact = off(places[mine])
            # beside an edge the surface goes on where the face does not: there the triangles have it right
            good = np.abs(np.abs(exact) - far[mine]) <= self.near
            signed[mine[good]] = exact[good]
            open_[mine[good]] = False
        if open_.any():
            within = igl.fast_winding_number(self.points, self.triangles, np.ascontiguousarray(places[open_])) > 0.5
            signed[open_] *= np.where(within, -1.0, 1.0)
        return signed, face

    def exactly(self, at: Array) -> float:
        """Measured on the solid: the signed distance of one place."""
        p = (float(at[0]), float(at[1]), float(at[2]))
        far, _, _ = shortest(point_shape(p), compound(self.shapes))
        return -far if any(inside(b.shape, p) for b in self.bodies) else far


def compare(bodies: list[Body], found: MeshIn, asked: ReferenceMesh, surface: PartSurface | None = None) -> Compared:
    """Hold a mesh against a part where it is placed; ``surface``: of the bodies, where it is known. Raises Refusal
    where there is no solid."""
    part = surface or PartSurface(bodies)
    points = np.ascontiguousarray(placed(found.points, asked))
    corners = points[found.triangles]
    small = _small(corners)
    once, of = _once(small.reshape(-1, 3))
    values = part.off(once)[0][of].reshape(-1, 3)
    areas = _areas(small)
    worst = _worst_on_mesh(part, small, values, asked.within)

    p = patches(bodies)
    places, normals = _on_surface(part, p.corners.reshape(-1, 3), p.face), p.normals.reshape(-1, 3)
    once, of = _once(places)
    _, _, there = igl.point_mesh_squared_distance(once, points, found.triangles)
    away = there[of] - places
    gap = np.linalg.norm(away, axis=1)
    toward = np.where((away * normals).sum(axis=1) < 0, -1.0, 1.0)
    bare = (gap * toward).reshape(-1, 3)
    worst += _worst_on_part(p.corners, bare, [p.faces[i] for i in p.face], asked.within)
    worst.sort(key=lambda w: -abs(w.off))
    own = p.areas
    outside = [w.off for w in worst if w.of == "mesh" and w.off > 0]
    within = [w.off for w in worst if w.of == "mesh" and w.off < 0]
    volume = found.volume
    scale = MM[asked.unit]
    figures: dict[str, float | None] = {
        "most outside": max([0.0, float(values.max()), *outside]),
        "most inside": min([0.0, float(values.min()), *within]),
        "mean": _mean(values, areas, 1),
        "root mean square": math.sqrt(_mean(values, areas, 2)),
        "mesh within": float(areas[(np.abs(values) <= asked.within).all(axis=1)].sum() / areas.sum()),
        "part farthest": float(gap.max()),
        "part within": float(own[(np.abs(bare) <= asked.within).all(axis=1)].sum() / own.sum()),
        "mesh area": float(_areas(corners).sum()),
        "mesh volume": None if volume is None else abs(volume) * scale**3,
        "part volume": math.fsum(b.solid.volume() for b in bodies),
        "triangles": float(len(found.triangles)),
        "loose edges": float(found.loose),
    }
    notes = list(found.notes)
    if found.loose:
        notes.append("The mesh is not closed; it has no volume.")
    return Compared(
        figures,
        _apart(worst, part.size * APART)[:WORST],
        Paint(small.astype(np.float32), values.astype(np.float32)),
        Paint(p.corners.astype(np.float32), bare.astype(np.float32)),
        notes,
    )


def _once(places: Array) -> tuple[Array, Index]:
    """Places without those that come again, and which of them each is."""
    _, first, of = np.unique(np.round(places, 9), axis=0, return_index=True, return_inverse=True)
    return np.ascontiguousarray(places[first]), of.reshape(-1)


def _areas(corners: Array) -> Array:
    a, b, c = (corners[:, k] for k in range(3))
    made: Array = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    return made


def _mean(values: Array, areas: Array, power: int) -> float:
    """Over the mesh's area, values running straight between corners: of v or of v²."""
    if power == 1:
        each = values.mean(axis=1)
    else:
        a, b, c = values.T
        each = (a * a + b * b + c * c + a * b + b * c + c * a) / 6
    return float((each * areas).sum() / areas.sum())


def _small(corners: Array) -> Array:
    """A mesh's triangles, cut up where they are large for what a part is measured at."""
    edge = math.sqrt(2.3 * float(_areas(corners).sum()) / SAMPLES)
    if len(corners) > SAMPLES:
        return corners
    made, _, _ = divided(corners, np.zeros_like(corners), np.zeros(len(corners), dtype=np.int64), edge)
    return made


def _on_surface(part: PartSurface, places: Array, face: Index) -> Array:
    """Places of triangles of known faces, put onto the surfaces themselves."""
    made = places.copy()
    owner = np.repeat(face, 3)
    step = 1e-4
    for k in np.unique(face):
        off = part.offs[k]
        if off is None:
            continue
        mine = np.flatnonzero(owner == k)
        at = places[mine]
        far = off(at)
        slope = np.stack([(off(at + step * e) - off(at - step * e)) / (2 * step) for e in np.eye(3)], axis=1)
        made[mine] = at - np.where(np.abs(far) <= part.near, far, 0.0)[:, None] * slope
    return made


def _worst_on_mesh(part: PartSurface, small: Array, values: Array, within: float) -> list[WorstPlace]:
    """The places that lie off most, outside and inside: looked at more closely, and measured on the solid."""
    made: list[WorstPlace] = []
    for sign in (1.0, -1.0):
        signed = sign * values
        best = signed.max(axis=1)
        order = np.argsort(-best)
        chosen: list[int] = []
        middles = small.mean(axis=1)
        for i in order[:4000]:
            if chosen and (best[i] <= within or len(chosen) >= WORST):
                break
            if all(np.linalg.norm(middles[i] - middles[j]) > part.size * APART for j in chosen):
                chosen.append(int(i))
        if not chosen:
            continue
        t = small[chosen]
        for _ in range(ROUNDS):
            t, at, _off, its = _closer(part, t, sign)
        for k in range(len(chosen)):
            value = part.exactly(at[k])
            if sign * value > 0:
                made.append(WorstPlace(place(at[k]), value, part.named[int(its[k])], "mesh"))
    return made


def _closer(part: PartSurface, triangles: Array, sign: float) -> tuple[Array, Array, Array, Index]:
    """Of the four quarters of each triangle that which goes farthest off: it, and its farthest corner."""
    a, b, c = (triangles[:, k] for k in range(3))
    ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
    quarters = np.stack(
        [np.stack(q, axis=1) for q in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))], axis=1
    )  # (n, 4, 3, 3)
    off, face = part.off(quarters.reshape(-1, 3))
    o = sign * off.reshape(len(triangles), 4, 3)
    f = face.reshape(len(triangles), 4, 3)
    # among those that share the farthest corner, the one that goes on farthest
    rank = o.max(axis=2) + 1e-3 * o.mean(axis=2)
    q = rank.argmax(axis=1)
    n = np.arange(len(triangles))
    k = o[n, q].argmax(axis=1)
    return quarters[n, q], quarters[n, q, k], off.reshape(len(triangles), 4, 3)[n, q, k], f[n, q, k]


def _worst_on_part(corners: Array, bare: Array, face: list[tuple[str, int]], within: float) -> list[WorstPlace]:
    """Places of the part that have no mesh near them, the barest first."""
    far = np.abs(bare)
    best = far.max(axis=1)
    made = []
    for i in np.argsort(-best)[:4000]:
        if best[i] <= within:
            break
        k = int(far[i].argmax())
        made.append(WorstPlace(place(corners[i, k]), float(bare[i, k]), face[int(i)], "part"))
    return made


def _apart(worst: list[WorstPlace], far: float) -> list[WorstPlace]:
    """The worst of places that lie together."""
    kept: list[WorstPlace] = []
    for one in worst:
        if all(math.dist(one.at, other.at) > far or other.of != one.of for other in kept):
            kept.append(one)
    return kept

"""A part's surface in small triangles of about one size, each known by its face, and rays among them.

Rays are Embree's (single precision, scaled to the part): good to some millionths of the part's size.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from ..rebuild.state import Body
from ..solid.mesh import default_deflection, mesh
from ..solid.shapes import Remembered, Solid, faces
from .finding import step_of

Array = NDArray[np.float64]
Index = NDArray[np.int64]

FINE = 1 / 60  # of a part's diagonal: no edge of a small triangle is longer, while there are not too many
MOST = 24_000  # small triangles, about
FINER = 4.0  # times as fine as on screen
TURN = 0.09  # radians between one chord and the next
FEW = 3000  # triangles on screen up to which a part is looked at as fine as that
OFF = 2e-5  # of the diagonal: how far from its own face a ray begins
UNIT = 100.0  # to which the part is scaled for rays
FAR = 1e30  # where a ray ends that has no end
SLACK = 1 + 1e-5  # of the end of a ray: it is rounded to single precision


@dataclass
class Patches:
    """Small triangles of bodies: ``corners`` (n, 3, 3) mm, ``normals`` of the surface at each (n, 3, 3), outward units;
    ``face`` (n,) numbers all faces, of which ``faces`` tells body and number, ``tags`` the origins."""

    corners: Array
    normals: Array
    face: Index
    faces: list[tuple[str, int]]
    tags: list[frozenset[str]]
    size: float
    rays: Rays = field(repr=False)

    @cached_property
    def middles(self) -> Array:
        made: Array = self.corners.mean(axis=1)
        return made

    @cached_property
    def outward(self) -> Array:
        """The surface's normal in the middle of each triangle."""
        made: Array = self.normals.mean(axis=1)
        size = np.linalg.norm(made, axis=1, keepdims=True)
        return np.divide(made, size, out=np.zeros_like(made), where=size > 0)

    @cached_property
    def areas(self) -> Array:
        a, b, c = (self.corners[:, k] for k in range(3))
        made: Array = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        return made

    def named(self, chosen: NDArray[np.bool_]) -> list[tuple[str, int]]:
        """The faces that chosen triangles lie on, those with most of them first."""
        areas = np.bincount(self.face[chosen], weights=self.areas[chosen], minlength=len(self.faces))
        return [self.faces[i] for i in np.argsort(-areas) if areas[i] > 0]


class Rays:
    """The first triangle that a ray meets: of the part as it was before it was cut up small."""

    def __init__(self, corners: Array, face: Index) -> None:
        self.face = face  # that each triangle lies on, by its number among all faces
        low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
        self.middle = (low + high) / 2
        self.scale = UNIT / max(float(np.linalg.norm(high - low)), 1e-9)
        self.scene = EmbreeScene()
        # without a reference the scene would forget its triangles
        self.mesh = TriangleMesh(self.scene, ((corners - self.middle) * self.scale).astype(np.float32))
        a, b, c = (corners[:, k] for k in range(3))
        n = np.cross(b - a, c - a)
        self.flat: Array = n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-300)

    def first(self, origins: Array, ways: Array, within: Array | None = None) -> tuple[Array, Index]:
        """How far along unit directions the first triangle is (mm; inf: none), and its number (−1: none). Triangles
        farther off than ``within`` (mm, each) need not be found."""
        if not len(origins):
            return np.zeros(0), np.zeros(0, dtype=np.int64)
        o = ((origins - self.middle) * self.scale).astype(np.float32)
        end = None if within is None else np.minimum(within * (self.scale * SLACK), FAR).astype(np.float32)
        found = self.scene.run(o, ways.astype(np.float32), dists=end, output=True)
        far = found["tfar"].astype(float) / self.scale
        hit = found["primID"].astype(np.int64)
        return np.where(hit < 0, np.inf, far), hit

    def free(self, origins: Array, way: Array) -> NDArray[np.bool_]:
        """Whether nothing lies in one direction from places."""
        _, hit = self.first(origins, np.broadcast_to(way, origins.shape))
        made: NDArray[np.bool_] = hit < 0
        return made


def patches(bodies: list[Body], fine: float = FINE, most: int = MOST) -> Patches:
    """The surface of bodies in small triangles."""
    corners, normals, owner = [], [], []
    named: list[tuple[str, int]] = []
    tags: list[frozenset[str]] = []
    for body in bodies:
        m = mesh(body.solid, [])
        if len(m.triangles) * len(bodies) < FEW:
            m = mesh(body.solid, [], default_deflection(body.solid) / FINER, TURN)
        starts = [*m.face_start, len(m.triangles)]
        for i, face in enumerate(faces(body.shape)):
            t = m.triangles[starts[i] : starts[i + 1]]
            corners.append(m.points[t])
            normals.append(m.normals[t])
            owner.append(np.full(len(t), len(named), dtype=np.int64))
            named.append((body.id, i))
            tags.append(body.solid.face_tags(face))
    every, n, f = np.concatenate(corners), np.concatenate(normals), np.concatenate(owner)
    good = np.linalg.norm(np.cross(every[:, 1] - every[:, 0], every[:, 2] - every[:, 0]), axis=1) > 1e-12
    every, n, f = every[good], n[good], f[good]
    size = float(np.linalg.norm(every.max(axis=(0, 1)) - every.min(axis=(0, 1))))
    area = float(np.linalg.norm(np.cross(every[:, 1] - every[:, 0], every[:, 2] - every[:, 0]), axis=1).sum() / 2)
    edge = max(fine * size, (2.3 * area / most) ** 0.5)  # so that about so many triangles come of it
    rays = Rays(every, f)
    every, n, f = divided(every, n, f, edge)
    return Patches(every, n, f, named, tags, size, rays)


_known: Remembered[tuple[Solid, Patches]] = Remembered(8)


def of_body(body: Body) -> Patches:
    """The surface of one body in small triangles; the last bodies' are remembered, since each check looks at them."""
    _, made = _known.get(body.shape, (body.id, id(body.solid)), lambda: (body.solid, patches([body])))
    return made


def divided(corners: Array, normals: Array, owner: Index, edge: float) -> tuple[Array, Array, Index]:
    """Triangles cut into rows from their sharpest corner, and the rows into cells, none much longer than ``edge``: as
    many as their area asks for, however long and thin they are."""
    sides = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2)  # from each corner to the next
    # the corner opposite the shortest side comes first
    order = ((sides.argmin(axis=1) + 2)[:, None] + np.arange(3)) % 3
    each = np.arange(len(corners))[:, None]
    c, n = corners[each, order], normals[each, order]
    long = np.maximum(np.linalg.norm(c[:, 1] - c[:, 0], axis=1), np.linalg.norm(c[:, 2] - c[:, 0], axis=1))
    wide = np.linalg.norm(c[:, 2] - c[:, 1], axis=1)
    rows = np.maximum(1, np.ceil(long / edge)).astype(np.int64)
    t = np.repeat(np.arange(len(c)), rows)  # the triangle of each row
    row = np.arange(len(t)) - np.repeat(np.cumsum(rows) - rows, rows)
    near, far = row / rows[t], (row + 1) / rows[t]
    cells = np.maximum(1, np.ceil((near + far) / 2 * wide[t] / edge)).astype(np.int64)
    r = np.repeat(np.arange(len(t)), cells)  # the row of each cell
    cell = np.arange(len(r)) - np.repeat(np.cumsum(cells) - cells, cells)
    left, right = cell / cells[r], (cell + 1) / cells[r]
    s0, s1, of = near[r], far[r], t[r]

    def weights(along: Array, across: Array) -> Array:
        return np.stack([1 - along, along * (1 - across), along * across], axis=1)

    w = [weights(s0, left), weights(s1, left), weights(s1, right), weights(s0, right)]
    one = np.stack([w[0], w[1], w[2]], axis=1)
    two = np.stack([w[0], w[2], w[3]], axis=1)[s0 > 0]  # a row that begins in the corner has cells of three sides
    every, mine = np.concatenate([one, two]), np.concatenate([of, of[s0 > 0]])
    return every @ c[mine], every @ n[mine], owner[mine]


def last_step(p: Patches, chosen: NDArray[np.bool_]) -> str | None:
    """The last of the steps that made the two faces on which most of the chosen triangles lie."""
    number = {named: i for i, named in enumerate(p.faces)}
    return step_of([t for face in p.named(chosen)[:2] for t in p.tags[number[face]]])


def clusters(
    p: Patches, chosen: NDArray[np.bool_], apart: Callable[[float], float] = lambda size: 2.2 * FINE * size
) -> list[Index]:
    """Chosen triangles in groups that hang together, the largest first; ``apart``: from the part's size, how far the
    middles of two that do may lie."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    at = np.flatnonzero(chosen)
    if not len(at):
        return []
    tree = cKDTree(p.middles[at])
    pairs = tree.query_pairs(apart(p.size), output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(at), len(at)))
    count, group = connected_components(graph, directed=False)
    areas = np.bincount(group, weights=p.areas[at], minlength=count)
    return [at[group == g] for g in np.argsort(-areas)]

"""Where a mesh lies on a part best: least squares of its distances to the part's surface, over all ways of standing.

Each round moves the mesh by the small turn and shift that brings its places nearest to the planes that touch the part
where it is nearest (Y. Chen, G. Medioni, Object modelling by registration of multiple range images, 1992). It starts
where the mesh is, and, if that leads nowhere, from all 24 ways in which its box fits the part's box and from its axes
of inertia.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..part.reference import MeshUnit, ReferenceMesh, placed, turned, turns_of
from ..rebuild.state import Body
from .compare import PartSurface, compare
from .read import MeshIn

Array = NDArray[np.float64]
FEW, MANY = 400, 4000  # places of the mesh, to try a start with and to end with
TRIES, ROUNDS = 8, 40
SETTLED = 1e-8  # of the part's size: a round that moves no further is the last
GOOD = 5e-4  # of the part's size: a mesh that lies as near as this, lies right
TRIED, ENDS = 12, 3  # starts that are gone on with, and to the end


@dataclass(frozen=True)
class Fitted:
    """Where the mesh lies best, as a ``ReferenceMesh`` has it; the root mean square of its distances (mm) before and
    after."""

    turn: tuple[float, float, float]
    at: tuple[float, float, float]
    before: float
    after: float


def fit(bodies: list[Body], found: MeshIn, asked: ReferenceMesh, surface: PartSurface | None = None) -> Fitted:
    """The place of a mesh at which the root mean square of its distances to the part is least; ``surface``: of the
    bodies, where it is known. Raises Refusal where there is no solid."""
    part = surface or PartSurface(bodies)
    points = _sampled(placed(found.points, asked)[found.triangles], MANY)
    before = _rms(part, points)
    # the same figures for the same files
    few = points[:: max(1, len(points) // FEW)]
    rotation, shift = _settled(part, points, np.eye(3), np.zeros(3), ROUNDS)
    after = _rms(part, points @ rotation.T + shift)
    if after > GOOD * part.size:
        starts = sorted(_starts(part, points), key=lambda rt: _rms(part, few @ rt[0].T + rt[1]))
        tried = [_settled(part, few, r, t, TRIES) for r, t in starts[:TRIED]]
        tried.sort(key=lambda rt: _rms(part, few @ rt[0].T + rt[1]))
        for r, t in tried[:ENDS]:
            r, t = _settled(part, points, r, t, ROUNDS)
            rms = _rms(part, points @ r.T + t)
            if rms < after * (1 - 1e-9):
                rotation, shift, after = r, t, rms
            if after <= GOOD * part.size:
                break
    if after >= before:
        return Fitted(asked.turn, asked.at, before, before)
    a, b, c = (round(v, 7) + 0.0 for v in turns_of(rotation @ turned(asked.turn)))
    x, y, z = (round(float(v), 6) + 0.0 for v in rotation @ np.array(asked.at) + shift)
    end = asked.model_copy(update={"turn": (a, b, c), "at": (x, y, z)})
    where = _sampled(placed(found.points, end)[found.triangles], MANY)
    return Fitted(end.turn, end.at, before, _rms(part, where))


def held(bodies: list[Body], found: MeshIn, unit: MeshUnit | None, within: float, lay: bool) -> dict[str, Any]:
    """A mesh held against a part as plain data: ``figures`` and ``worst`` places as ``compare`` gives them, the
    ``unit``, ``turn`` and ``at`` at which it was held, ``notes``. ``unit`` None: what the file says, or mm; ``lay``: it
    is laid on the part first. Raises Refusal."""
    asked = ReferenceMesh(id="r1", file="0" * 64, unit=unit or found.unit or "mm", within=within)
    surface = PartSurface(bodies)
    if lay:
        best = fit(bodies, found, asked, surface)
        asked = asked.model_copy(update={"turn": best.turn, "at": best.at})
    made = compare(bodies, found, asked, surface)
    told = {"unit": asked.unit, "turn": asked.turn, "at": asked.at, "within": within, "notes": made.notes}
    return {"figures": made.figures, "worst": [asdict(w) for w in made.worst], **told}


def _rms(part: PartSurface, points: Array) -> float:
    there, _ = part.nearest(points)
    return float(np.sqrt(((points - there) ** 2).sum(axis=1).mean()))


def _sampled(corners: Array, count: int) -> Array:
    """Places spread over triangles by their area: at equal shares of it, so the same ones whenever it is asked."""
    a, b, c = (corners[:, k] for k in range(3))
    areas = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    share = np.cumsum(areas) / areas.sum()
    k = np.minimum(np.searchsorted(share, (np.arange(count) + 0.5) / count), len(corners) - 1)
    # places within the triangles that are spread evenly as well (Weyl's sequences)
    u, v = (np.arange(count) * 0.7548776662) % 1, (np.arange(count) * 0.5698402910) % 1
    over = u + v > 1
    u[over], v[over] = 1 - u[over], 1 - v[over]
    made: Array = a[k] + u[:, None] * (b[k] - a[k]) + v[:, None] * (c[k] - a[k])
    # neighbours in the file are not neighbours among the samples, so that every tenth of them is spread as well
    return made[np.argsort((np.arange(count) * 0.6180339887) % 1)]


def _settled(part: PartSurface, points: Array, rotation: Array, shift: Array, rounds: int) -> tuple[Array, Array]:
    """Rotation and shift after rounds of least squares from where they are."""
    for _ in range(rounds):
        p = points @ rotation.T + shift
        there, face_normal = _touched(part, p)
        middle = p.mean(axis=0)
        arm = p - middle
        rows = np.concatenate([np.cross(arm, face_normal), face_normal], axis=1)
        rows[:, :3] /= part.size  # turns and shifts of the same worth
        off = ((p - there) * face_normal).sum(axis=1)
        # ways in which the part stays as it is (about its axis) are left alone
        move, *_ = np.linalg.lstsq(rows, -off, rcond=1e-6)
        turn = move[:3] / part.size
        angle = float(np.linalg.norm(turn))
        if angle > 0.5:
            turn, angle = turn * (0.5 / angle), 0.5
        step = _rotation(turn, angle)
        rotation = step @ rotation
        shift = step @ (shift - middle) + middle + move[3:]
        if angle * part.size + np.linalg.norm(move[3:]) < SETTLED * part.size:
            break
    return _orthogonal(rotation), shift


def _touched(part: PartSurface, p: Array) -> tuple[Array, Array]:
    """The part's nearest places and the normals of its surface there."""
    _, triangle, there = part.tree.squared_distance(part.points, part.triangles, np.ascontiguousarray(p))
    return there, part.normals[triangle]


def _rotation(turn: Array, angle: float) -> Array:
    if angle < 1e-15:
        return np.eye(3)
    x, y, z = turn / angle
    k = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    made: Array = np.eye(3) + math.sin(angle) * k + (1 - math.cos(angle)) * (k @ k)
    return made


def _orthogonal(rotation: Array) -> Array:
    u, _, v = np.linalg.svd(rotation)
    made: Array = u @ v
    return made


def _starts(part: PartSurface, points: Array) -> list[tuple[Array, Array]]:
    """Rotations and shifts that lay the middle of the mesh on that of the part: of its box and of its axes."""
    low, high = part.box
    box = (low + high) / 2
    made = []
    for turn in _of_a_cube():
        there = points @ turn.T
        made.append((turn, box - (there.max(axis=0) + there.min(axis=0)) / 2))
    ours = _sampled(part.points[part.triangles], MANY)
    a, b = _axes(points), _axes(ours)
    for turn in _of_a_cube():
        r = b @ turn @ a.T
        made.append((r, ours.mean(axis=0) - r @ points.mean(axis=0)))
    return made


def _axes(points: Array) -> Array:
    """Axes of inertia as columns, right-handed."""
    _, axes = np.linalg.eigh(np.cov(points.T))
    if np.linalg.det(axes) < 0:
        axes[:, 0] *= -1
    made: Array = axes
    return made


def _of_a_cube() -> list[Array]:
    """The 24 rotations of a cube."""
    made = []
    for order in itertools.permutations(range(3)):
        for signs in itertools.product((1.0, -1.0), repeat=3):
            r = np.zeros((3, 3))
            r[range(3), order] = signs
            if np.linalg.det(r) > 0:
                made.append(r)
    return made

"""Finding the face a reference means in the part as it is now, and saying faces in words."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from ..solid.frame import XYZ
from ..solid.measure import face_centre, neighbours
from ..solid.project import middle
from ..solid.shapes import Shape, Solid, Tags, edges, faces
from .model import EdgeRef, FaceRef

STROKE = re.compile(r"(/side/t\d+)c\d+k\d+$")  # a wall on one stroke of a letter
ENOUGH = 0.34  # share of common origins from which two faces can be the same


@dataclass
class Found:
    """A face with the solid it belongs to (index into the list searched)."""

    solid: int
    index: int
    face: Shape


def rings(solid: Solid) -> list[set[str]]:
    """For every face of a solid, the origins of its neighbours; a text is one of them, not each stroke of it."""
    told = [_strokes_as_one(solid.face_tags(f)) for f in faces(solid.shape)]
    beside: list[set[int]] = [set() for _ in told]
    for _, sides in neighbours(solid):
        for i in sides:
            beside[i].update(j for j in sides if j != i)
    return [set().union(*(told[j] for j in around)) for around in beside]


def ring(solid: Solid, index: int) -> set[str]:
    """The same for one face."""
    every = faces(solid.shape)
    beside = {j for _, sides in neighbours(solid) if index in sides for j in sides if j != index}
    return set().union(*(_strokes_as_one(solid.face_tags(every[j])) for j in beside))


def _strokes_as_one(tags: Tags) -> set[str]:
    return {STROKE.sub(r"\1", t) if "/side/t" in t else t for t in tags}


def _alike(a: set[str] | Tags, b: set[str] | Tags) -> float:
    return len(a & b) / len(a | b) if a or b else 1.0


def face(solids: list[Solid], ref: FaceRef) -> Found | None:
    """The face ``ref`` means, or None if it is gone.

    Origins decide; among pieces of one origin the likest ring of neighbours, then the nearest place.
    A face with other origins is never taken, however near it lies.
    """
    wanted, around = set(ref.origins), set(ref.ring)
    candidates: list[tuple[float, int, int, Shape]] = []
    for s, solid in enumerate(solids):
        for i, f in enumerate(faces(solid.shape)):
            tags = solid.face_tags(f)
            if (tags & wanted and _alike(tags, wanted) >= ENOUGH) or wanted <= tags:
                candidates.append((_alike(tags, wanted), s, i, f))
    if not candidates:
        return None
    if len(candidates) == 1:
        _, s, i, f = candidates[0]
        return Found(s, i, f)
    known = {s: rings(solids[s]) for s in {c[1] for c in candidates}}  # of many twins each is asked for

    def rank(c: tuple[float, int, int, Shape]) -> tuple[float, float, float]:
        alike, s, i, f = c
        near = -math.dist(face_centre(f), ref.near) if ref.near else 0.0
        return round(alike, 6), round(_alike(known[s][i], around), 6), near

    _, s, i, f = max(candidates, key=rank)
    return Found(s, i, f)


def _meaning(solid: Solid, ref: FaceRef) -> dict[int, float]:
    """The faces of a solid that can be the one meant, with how alike their origins are."""
    wanted = set(ref.origins)
    found = {}
    for i, f in enumerate(faces(solid.shape)):
        tags = solid.face_tags(f)
        if (tags & wanted and _alike(tags, wanted) >= ENOUGH) or wanted <= tags:
            found[i] = _alike(tags, wanted)
    return found


def edge(solids: list[Solid], ref: EdgeRef) -> Shape | None:
    """The edge between the two faces meant, the nearest where there are several; None if it is gone."""
    best: tuple[float, float] | None = None
    found: Shape | None = None
    for solid in solids:
        one, two = (_meaning(solid, side) for side in ref.between)
        if not one or not two:
            continue
        for candidate, sides in neighbours(solid):
            if len(sides) != 2:
                continue
            for i, j in (sides, sides[::-1]):
                if i in one and j in two:
                    near = -math.dist(middle(candidate), ref.near) if ref.near else 0.0
                    rank = (round(one[i] + two[j], 6), near)
                    if best is None or rank > best:
                        best, found = rank, candidate
    return found


def edge_reference(solid: Solid, item: Shape, sides: list[int]) -> EdgeRef:
    """A reference to an edge of a solid as it is now; ``sides``: its two faces' indices."""
    one, two = (FaceRef(origins=sorted(solid.face_tags(faces(solid.shape)[i]))) for i in sides)
    return EdgeRef(between=(one, two), near=middle(item))


def reference(solid: Solid, index: int, said: str = "") -> FaceRef:
    """A reference to one face of a solid as it is now."""
    f = faces(solid.shape)[index]
    near: XYZ = face_centre(f)
    return FaceRef(origins=sorted(solid.face_tags(f)), ring=sorted(ring(solid, index)), near=near, said=said)


def edge_in(solids: list[Solid], ref: EdgeRef) -> tuple[int, Shape] | None:
    """The edge meant, with the solid it belongs to (index into the list searched)."""
    hit = edge(solids, ref)
    if hit is None:
        return None
    for i, solid in enumerate(solids):
        if any(e.IsSame(hit) for e in edges(solid.shape)):
            return i, hit
    return None

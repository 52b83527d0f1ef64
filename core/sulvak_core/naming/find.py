"""Finding the face a reference means in the part as it is now, and saying faces in words."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..solid.frame import XYZ
from ..solid.measure import face_centre, neighbours
from ..solid.shapes import Shape, Solid, Tags, faces
from .model import FaceRef

ENOUGH = 0.34  # share of common origins from which two faces can be the same


@dataclass
class Found:
    """A face with the solid it belongs to (index into the list searched)."""

    solid: int
    index: int
    face: Shape


def rings(solid: Solid) -> list[set[str]]:
    """For every face of a solid, the origins of its neighbours."""
    every = faces(solid.shape)
    found: list[set[str]] = [set() for _ in every]
    for _, sides in neighbours(solid):
        for i in sides:
            for j in sides:
                if i != j:
                    found[i] |= solid.face_tags(every[j])
    return found


def _alike(a: set[str] | Tags, b: set[str] | Tags) -> float:
    return len(a & b) / len(a | b) if a or b else 1.0


def face(solids: list[Solid], ref: FaceRef) -> Found | None:
    """The face ``ref`` means, or None if it is gone.

    Origins decide; among pieces of one origin the likest ring of neighbours, then the nearest place.
    A face with other origins is never taken, however near it lies.
    """
    wanted, ring = set(ref.origins), set(ref.ring)
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
    known = {s: rings(solids[s]) for s in {c[1] for c in candidates}}

    def rank(c: tuple[float, int, int, Shape]) -> tuple[float, float, float]:
        alike, s, i, f = c
        near = -math.dist(face_centre(f), ref.near) if ref.near else 0.0
        return round(alike, 6), round(_alike(known[s][i], ring), 6), near

    _, s, i, f = max(candidates, key=rank)
    return Found(s, i, f)


def reference(solid: Solid, index: int, said: str = "") -> FaceRef:
    """A reference to one face of a solid as it is now."""
    f = faces(solid.shape)[index]
    near: XYZ = face_centre(f)
    return FaceRef(origins=sorted(solid.face_tags(f)), ring=sorted(rings(solid)[index]), near=near, said=said)

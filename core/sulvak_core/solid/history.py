"""What became of each face of a solid: tags carried through a kernel operation."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from typing import Any

from .measure import neighbours
from .shapes import Shape, ShapeMap, Solid, Tags, edges, faces, listed, solids, vertices

Name = Callable[[Shape], str]


def between(solid: Solid, edge_sides: Iterable[int]) -> str:
    """A short name for an edge by the origins of the faces it lies between: the same after every rebuild."""
    every = faces(solid.shape)
    return _name(solid.face_tags(every[i]) for i in edge_sides)


def _name(sides: Iterable[Tags]) -> str:
    told = sorted(",".join(sorted(tags)) for tags in sides)
    return "h" + hashlib.sha256("|".join(told).encode()).hexdigest()[:10]


def edge_names(solid: Solid) -> ShapeMap[str]:
    """``between`` for every edge of a solid."""
    names: ShapeMap[str] = ShapeMap()
    tags = [solid.face_tags(f) for f in faces(solid.shape)]
    for edge, sides in neighbours(solid):
        names.put(edge, _name(tags[i] for i in sides))
    return names


def corner_names(solid: Solid) -> ShapeMap[str]:
    """Short names for the corners of a solid, by the origins of the faces that meet there."""
    around: ShapeMap[list[Tags]] = ShapeMap()
    for face in faces(solid.shape):
        for vertex in vertices(face):
            around.put(vertex, [*(around.get(vertex) or []), solid.face_tags(face)])
    names: ShapeMap[str] = ShapeMap()
    for vertex, sides in around.items():
        names.put(vertex, _name(sides))
    return names


def carried(worker: Any, solid: Solid, shape: Shape, generated: Callable[[Shape], str] | None = None) -> list[Solid]:
    """The solids in ``shape``, made of ``solid`` by ``worker``: faces that were changed keep their tags.

    ``generated`` names what an edge or a corner of the old solid gave rise to. Faces that nothing accounts for have
    no tags.
    """
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(solid.shape):
        mine = solid.face_tags(face)
        become = listed(worker.Modified(face))
        if not become and not worker.IsDeleted(face):
            become = [face]
        for after in become:
            tags.put(after, (tags.get(after) or frozenset()) | mine)
    if generated is not None:
        for part in (*edges(solid.shape), *vertices(solid.shape)):
            for after in listed(worker.Generated(part)):
                tags.put(after, (tags.get(after) or frozenset()) | {generated(part)})
    return split_up(shape, tags)


def split_up(shape: Shape, tags: ShapeMap[Tags]) -> list[Solid]:
    """The solids of a shape, each with its own faces' tags."""
    found = []
    for one in solids(shape):
        own: ShapeMap[Tags] = ShapeMap()
        for face in faces(one):
            own.put(face, tags.get(face) or frozenset())
        found.append(Solid(one, own))
    return found


def named_rest(solid: Solid, tag: Callable[[int], str]) -> None:
    """Give every face without an origin one; ``tag`` gets a running number."""
    count = 0
    for face in faces(solid.shape):
        if not solid.face_tags(face):
            count += 1
            solid.tags.put(face, frozenset({tag(count)}))

"""Solids with tagged faces, and walking over their parts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepCheck import BRepCheck_Analyzer, BRepCheck_NoError, BRepCheck_Shell
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID, TopAbs_VERTEX
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Compound

T = TypeVar("T")
Shape = Any  # the kernel's shape types carry no Python types
Tags = frozenset[str]


class KernelError(Exception):
    """The kernel could not make a shape; the sentence is for the person, ``cause`` for the log."""

    def __init__(self, sentence: str, cause: str = "") -> None:
        super().__init__(sentence)
        self.sentence, self.cause = sentence, cause


class ShapeMap(Generic[T]):
    """A dictionary keyed by the kernel's sameness of shapes (same place, whatever the orientation)."""

    def __init__(self) -> None:
        self._slots: dict[int, list[tuple[Shape, T]]] = {}

    def get(self, shape: Shape) -> T | None:
        for other, value in self._slots.get(hash(shape), ()):
            if other.IsSame(shape):
                return value
        return None

    def put(self, shape: Shape, value: T) -> None:
        slot = self._slots.setdefault(hash(shape), [])
        for i, (other, _) in enumerate(slot):
            if other.IsSame(shape):
                slot[i] = (other, value)
                return
        slot.append((shape, value))

    def items(self) -> Iterator[tuple[Shape, T]]:
        for slot in self._slots.values():
            yield from slot

    def __len__(self) -> int:
        return sum(len(s) for s in self._slots.values())


def _walk(shape: Shape, kind: Any) -> list[Shape]:
    seen: ShapeMap[bool] = ShapeMap()
    found = []
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        item = explorer.Current()
        if not seen.get(item):
            seen.put(item, True)
            found.append(item)
        explorer.Next()
    return found


def listed(shapes: Any) -> list[Shape]:
    """The shapes of a kernel list. Emptied one by one: the binding's own iterator costs half a millisecond a list."""
    found: list[Shape] = []
    if not shapes.IsEmpty():
        rest = type(shapes)(shapes)
        while not rest.IsEmpty():
            found.append(rest.First())
            rest.RemoveFirst()
    return found


def faces(shape: Shape) -> list[Shape]:
    return [TopoDS.Face(f) for f in _walk(shape, TopAbs_FACE)]


def edges(shape: Shape) -> list[Shape]:
    return [TopoDS.Edge(e) for e in _walk(shape, TopAbs_EDGE)]


def vertices(shape: Shape) -> list[Shape]:
    return [TopoDS.Vertex(v) for v in _walk(shape, TopAbs_VERTEX)]


def solids(shape: Shape) -> list[Shape]:
    return _walk(shape, TopAbs_SOLID)


def compound(shapes: list[Shape]) -> Shape:
    builder, whole = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return whole


def volume(shape: Shape, wavy: bool = False) -> float:
    """Volume in mm³ (exact for planes and cylinders, to 1e-8 where ``wavy``).

    Without centre and inertia: where edges are ellipses those cost the adaptive integration a thousand times more.
    """
    properties = GProp_GProps()
    if wavy:
        BRepGProp.VolumePropertiesGK_s(shape, properties, 1e-8, False, True, False, False, False)
    else:
        BRepGProp.VolumeProperties_s(shape, properties)
    return float(properties.Mass())


def bent(shape: Shape) -> bool:
    """Whether the quick integration would miss this shape's volume: an edge is neither straight nor a circle."""
    return any(
        not BRep_Tool.Degenerated_s(e) and BRepAdaptor_Curve(e).GetType() not in (GeomAbs_Line, GeomAbs_Circle)
        for e in edges(shape)
    )


@dataclass
class Solid:
    """One solid with the origins of its faces."""

    shape: Shape
    tags: ShapeMap[Tags]
    wavy: bool = False  # whether some of its edges are ellipses or splines
    _volume: float | None = None

    def volume(self) -> float:
        """Volume in mm³, measured once."""
        if self._volume is None:
            self._volume = volume(self.shape, self.wavy)
        return self._volume

    def face_tags(self, face: Shape) -> Tags:
        return self.tags.get(face) or frozenset()


def checked(solid: Solid, doing: str, known: ShapeMap[bool] | None = None) -> Solid:
    """``solid`` if it is one valid, closed, right-way-out solid; KernelError otherwise.

    ``known``: faces of solids that were checked before; only the others are looked at again, and how all
    of them join. A solid of several shells is looked at whole.
    """
    shells = _walk(solid.shape, TopAbs_SHELL)
    if known is None or len(shells) != 1:
        valid = BRepCheck_Analyzer(solid.shape).IsValid()
    else:
        fresh = (f for f in faces(solid.shape) if not known.get(f))
        valid = all(BRepCheck_Analyzer(f).IsValid() for f in fresh) and _closed(shells[0])
    if not valid:
        raise KernelError(f"The {doing} gives a shape that is not a valid solid; change its size or place a little.")
    if solid.volume() <= 0:
        raise KernelError(f"The {doing} gives a solid without volume; check that the profile has an area.")
    return solid


def _closed(shell: Shape) -> bool:
    """Whether a shell's faces leave no gap and all turn the same side out."""
    check = BRepCheck_Shell(TopoDS.Shell(shell))
    return bool(check.Closed() == BRepCheck_NoError and check.Orientation() == BRepCheck_NoError)


def to_bytes(items: list[Solid]) -> bytes:
    """Solids with their tags, for keeping; read back by from_bytes."""
    import io
    import json

    stream = io.BytesIO()
    BinTools.Write_s(compound([s.shape for s in items]), stream)
    tags = [[sorted(s.face_tags(f)) for f in faces(s.shape)] for s in items]
    head = json.dumps([[s.wavy, *named] for s, named in zip(items, tags, strict=True)]).encode()
    return len(head).to_bytes(8, "little") + head + stream.getvalue()


def from_bytes(data: bytes) -> list[Solid]:
    import io
    import json

    from OCP.TopoDS import TopoDS_Shape

    size = int.from_bytes(data[:8], "little")
    tags = json.loads(data[8 : 8 + size])
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(data[8 + size :]))
    found = []
    for solid, (wavy, *per_face) in zip(solids(shape), tags, strict=True):
        table: ShapeMap[Tags] = ShapeMap()
        for face, names in zip(faces(solid), per_face, strict=True):
            table.put(face, frozenset(names))
        found.append(Solid(solid, table, wavy))
    return found

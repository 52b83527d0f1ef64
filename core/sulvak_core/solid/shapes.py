"""Solids with tagged faces, and walking over their parts."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepCheck import BRepCheck_Analyzer, BRepCheck_Face, BRepCheck_NoError, BRepCheck_Shell, BRepCheck_Wire
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher
from OCP.GeomAbs import GeomAbs_Plane
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID, TopAbs_VERTEX, TopAbs_WIRE
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Edge

if TYPE_CHECKING:
    from .place import Placing

T = TypeVar("T")
Shape = Any  # the kernel's shape types carry no Python types
Tags = frozenset[str]
MANY_LOOPS = 30  # more than these in a flat face are looked at one by one


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
    """The parts of one kind of a shape, each once, in the order they are come upon."""
    seen = IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher()
    TopExp.MapShapes_s(shape, kind, seen)
    return [seen.FindKey(i) for i in range(1, seen.Extent() + 1)]


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


def wires(shape: Shape) -> list[Shape]:
    return [TopoDS.Wire(w) for w in _walk(shape, TopAbs_WIRE)]


def vertices(shape: Shape) -> list[Shape]:
    return [TopoDS.Vertex(v) for v in _walk(shape, TopAbs_VERTEX)]


def solids(shape: Shape) -> list[Shape]:
    return _walk(shape, TopAbs_SOLID)


def shells(shape: Shape) -> list[Shape]:
    return _walk(shape, TopAbs_SHELL)


def compound(shapes: list[Shape]) -> Shape:
    builder, whole = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    return whole


def volume(shape: Shape) -> float:
    """Volume in mm³ (see ``bulk``)."""
    from . import bulk

    return bulk.volume(shape)


class Remembered(Generic[T]):
    """What was made of faces or edges lately, ``kept`` of it, found again by what they are, which way round they are,
    and how it was made."""

    def __init__(self, kept: int) -> None:
        self.kept = kept
        self.slots: OrderedDict[tuple[Any, ...], list[tuple[Shape, T]]] = OrderedDict()

    def find(self, shape: Shape, how: tuple[Any, ...]) -> T | None:
        for other, made in self.slots.get((hash(shape), shape.Orientation(), *how), ()):
            if other.IsSame(shape):
                return made
        return None

    def put(self, shape: Shape, how: tuple[Any, ...], made: T) -> T:
        key = (hash(shape), shape.Orientation(), *how)
        self.slots[key] = [*self.slots.get(key, []), (shape, made)]
        while len(self.slots) > self.kept:
            self.slots.popitem(last=False)
        return made

    def get(self, shape: Shape, how: tuple[Any, ...], make: Callable[[], T]) -> T:
        """What there is, made now where there is none."""
        for other, made in self.slots.get((hash(shape), shape.Orientation(), *how), ()):
            if other.IsSame(shape):
                return made
        return self.put(shape, how, make())


@dataclass(frozen=True)
class CopyOf:
    """Where a copy came from: faces come in the same order, and their origins are those ``retag`` gives."""

    solid: Solid
    placing: Placing
    retag: Callable[[Tags], Tags] | None


@dataclass
class Solid:
    """One solid with the origins of its faces."""

    shape: Shape
    tags: ShapeMap[Tags]
    _volume: float | None = None
    _sides: list[tuple[Shape, list[int]]] | None = field(default=None, compare=False, repr=False)  # see ``neighbours``
    joined: bool = field(default=False, compare=False, repr=False)  # no two faces are known to fall into one
    copy_of: CopyOf | None = field(default=None, compare=False, repr=False)  # of what is made here, not of what is kept

    def volume(self) -> float:
        """Volume in mm³, measured once."""
        if self._volume is None:
            self._volume = volume(self.shape)
        return self._volume

    def gapes(self) -> bool:
        """Whether its faces leave gaps too wide to tell its mass."""
        from . import bulk

        if self._volume is None:
            self._volume = bulk.volume_if_closed(self.shape)
        return self._volume is None

    def face_tags(self, face: Shape) -> Tags:
        return self.tags.get(face) or frozenset()


def checked(solid: Solid, doing: str, known: ShapeMap[bool] | None = None) -> Solid:
    """``solid`` if it is one valid, closed, right-way-out solid; KernelError otherwise.

    ``known``: faces of solids that were checked before; only the others are looked at again, and how all
    of them join. A solid of several shells is looked at whole.
    """
    skins = shells(solid.shape)
    if known is None or len(skins) != 1:
        valid = BRepCheck_Analyzer(solid.shape).IsValid()
    else:
        fresh = (f for f in faces(solid.shape) if not known.get(f))
        valid = all(sound_face(f) for f in fresh) and _closed(skins[0])
    if not valid:
        raise KernelError(f"The {doing} gives a shape that is not a valid solid; change its size or place a little.")
    if solid.gapes():
        raise KernelError(f"The {doing} gives a solid with gaps between its faces; change its size or place a little.")
    if solid.volume() <= 0:
        raise KernelError(f"The {doing} gives a solid without volume; check that the profile has an area.")
    return solid


def lies_on(face: Shape) -> BRepAdaptor_Surface:
    """The whole surface a face lies on. Asked for with the face's bounds, the kernel walks round all its edges."""
    return BRepAdaptor_Surface(TopoDS.Face(face), False)


def sound_face(face: Shape) -> bool:
    """Whether a face is valid. The kernel's own check looks every corner up in the whole face, which takes the square
    of their number; a flat face with many holes is looked at loop by loop, and how the loops lie to each other."""
    loops = wires(face)
    if len(loops) < MANY_LOOPS or lies_on(face).GetType() != GeomAbs_Plane:
        return bool(BRepCheck_Analyzer(face).IsValid())
    whole = BRepCheck_Face(face)
    return all(
        status == BRepCheck_NoError
        for status in (whole.IntersectWires(), whole.ClassifyWires(), whole.OrientationOfWires())
    ) and all(_sound_loop(loop, face) for loop in loops)


def _sound_loop(loop: Shape, face: Shape) -> bool:
    check = BRepCheck_Wire(loop)
    crossing = check.SelfIntersect(face, TopoDS_Edge(), TopoDS_Edge())
    found = (check.Closed(), check.Orientation(face), crossing)
    return bool(all(status == BRepCheck_NoError for status in found) and BRepCheck_Analyzer(loop).IsValid())


def closed_and_valid(shape: Shape) -> bool:
    """Whether a solid is valid in every face and how they join."""
    skins = shells(shape)
    return bool(skins) and bool(BRepCheck_Analyzer(shape).IsValid()) and all(_closed(s) for s in skins)


def _closed(shell: Shape) -> bool:
    """Whether a shell's faces leave no gap and all turn the same side out."""
    check = BRepCheck_Shell(TopoDS.Shell(shell))
    return bool(check.Closed() == BRepCheck_NoError and check.Orientation() == BRepCheck_NoError)


def sound_skin(solid: Solid) -> bool:
    """Whether a solid of faces that are valid each is closed by them, right way out, without gaps."""
    return all(_closed(s) for s in shells(solid.shape)) and not solid.gapes() and solid.volume() > 0


def to_bytes(items: list[Solid]) -> bytes:
    """Solids with their tags and whether their faces are joined, for keeping, without the triangles they were given;
    read back by from_bytes."""
    import io
    import json

    stream = io.BytesIO()
    newest = BinTools_FormatVersion.BinTools_FormatVersion_CURRENT
    BinTools.Write_s(compound([s.shape for s in items]), stream, False, False, newest)
    tags = [[sorted(s.face_tags(f)) for f in faces(s.shape)] for s in items]
    head = json.dumps({"tags": tags, "joined": [s.joined for s in items]}).encode()
    return len(head).to_bytes(8, "little") + head + stream.getvalue()


def from_bytes(data: bytes) -> list[Solid]:
    import io
    import json

    from OCP.TopoDS import TopoDS_Shape

    size = int.from_bytes(data[:8], "little")
    head = json.loads(data[8 : 8 + size])
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(data[8 + size :]))
    found = []
    for solid, per_face, joined in zip(solids(shape), head["tags"], head["joined"], strict=True):
        table: ShapeMap[Tags] = ShapeMap()
        for face, names in zip(faces(solid), per_face, strict=True):
            table.put(face, frozenset(names))
        found.append(Solid(solid, table, joined=joined))
    return found

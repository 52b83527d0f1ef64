"""What a designer pointed at, found in the part as it is now: planes, axes, faces and edges, by hand or by rule."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field

from ..naming import find
from ..naming import words as face_words
from ..naming.model import EdgeRef, FaceRef
from ..part.errors import Lost
from ..sketch.model import Line, Sketch, points_of
from ..solid.edge_convexity import corner
from ..solid.frame import DATUM_FRAMES, XYZ, Frame, dot, on_plane, plus, scaled, unit
from ..solid.measure import curve, face_centre, neighbours, surface
from ..solid.shapes import Shape, ShapeMap, Solid, faces
from ..steps.choices import (
    AxisChoice,
    Corner,
    CornersOf,
    EdgeAxis,
    EdgeChoice,
    EdgesAlong,
    EdgesAround,
    FaceAxis,
    FaceChoice,
    FacePlane,
    InsideEdges,
    LineAxis,
    MadeBy,
    PartAxis,
    PartOrigin,
    PickedEdge,
    PickedFace,
    PlaneChoice,
    PointChoice,
    RingAround,
    SidesOf,
    StepAxis,
    StepPlane,
    StepPoint,
    WhereMet,
)
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import Document
from .state import State
from .tooling import StepFailure

AXES: dict[str, XYZ] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
PARALLEL = 1e-9


@dataclass(frozen=True)
class Axis:
    """A straight line in space: a point on it (mm) and a unit direction."""

    at: XYZ
    direction: XYZ


@dataclass
class Guides:
    """What a route makes besides bodies, by step: ``planes``, ``axes`` and ``points`` (mm) of datum steps, ``frames``
    where sketches lie, ``sketches`` those that moved because the part's edges in them did."""

    planes: dict[str, Frame] = field(default_factory=dict)
    axes: dict[str, Axis] = field(default_factory=dict)
    points: dict[str, XYZ] = field(default_factory=dict)
    frames: dict[str, Frame] = field(default_factory=dict)
    sketches: dict[str, Sketch] = field(default_factory=dict)


class Pointing:
    """Finds references in one state of the part and among its guides."""

    def __init__(self, document: Document, state: State, guides: Guides) -> None:
        self.document, self.state, self.guides = document, state, guides
        self.solids = [b.solid for b in state.bodies]

    # -- planes and axes -------------------------------------------------------------------------

    def frame(self, choice: PlaneChoice, what: str = "plane") -> Frame:
        """The plane chosen. Raises StepFailure when it is gone or not flat."""
        if isinstance(choice, FacePlane):
            hit = self.face(choice.face)
            s = surface(hit[1])
            if s.kind != "plane":
                raise StepFailure(f"The face this {what} is taken from is no longer flat. Pick another.", pick="face")
            return on_plane(s.at, s.direction)
        if isinstance(choice, StepPlane):
            if choice.step not in self.guides.planes:
                n = self.document.position(choice.step)
                raise StepFailure(f"The plane of step {n} is not there; put that step right first.", needs=choice.step)
            return self.guides.planes[choice.step]
        return DATUM_FRAMES[choice.plane]

    def axis(self, choice: AxisChoice) -> Axis:
        """The axis chosen. Raises StepFailure when it is gone or has no direction."""
        if isinstance(choice, PartAxis):
            return Axis((0.0, 0.0, 0.0), AXES[choice.axis])
        if isinstance(choice, EdgeAxis):
            c = curve(self.edge(choice.edge)[1])
            if c.kind == "other":
                raise StepFailure("This edge is neither straight nor round, so it gives no axis. Pick another.")
            return Axis(c.at, c.direction)
        if isinstance(choice, FaceAxis):
            s = surface(self.face(choice.face)[1])
            if s.kind == "other":
                raise StepFailure("This face is neither flat nor round, so it gives no axis. Pick another.")
            return Axis(s.at, s.direction)
        if isinstance(choice, StepAxis):
            if choice.step not in self.guides.axes:
                n = self.document.position(choice.step)
                raise StepFailure(f"The axis of step {n} is not there; put that step right first.", needs=choice.step)
            return self.guides.axes[choice.step]
        return self.line(choice)

    def line(self, choice: LineAxis) -> Axis:
        """A sketch's line in space."""
        sketch, frame = self._drawn(choice.step)
        if choice.line in ("x", "y"):
            return Axis(frame.origin, frame.x if choice.line == "x" else frame.y)
        line = sketch.entity(choice.line)
        if not isinstance(line, Line):
            n = self.document.position(choice.step)
            raise StepFailure(f"The line this axis ran along is no longer in sketch {n}. Pick another.", pick="axis")
        return Axis(frame.point(*line.p), unit(frame.direction(line.q[0] - line.p[0], line.q[1] - line.p[1])))

    def _drawn(self, ident: str) -> tuple[Sketch, Frame]:
        """A sketch as it is now, and where it lies. Raises StepFailure while it has no place."""
        step, frame = self.document.step(ident), self.guides.frames.get(ident)
        if not isinstance(step, SketchStep) or frame is None:
            n = self.document.position(ident)
            raise StepFailure(f"Sketch {n} has no place in the part just now; put it right first.", needs=ident)
        return self.guides.sketches.get(ident, step.sketch), frame

    # -- points ----------------------------------------------------------------------------------

    def point(self, choice: PointChoice) -> XYZ:
        """Where a point is now, mm. Raises StepFailure when what gave it is gone."""
        if isinstance(choice, Corner):
            return self.corner(choice)
        if isinstance(choice, PartOrigin):
            return (0.0, 0.0, 0.0)
        n = self.document.position(choice.step)
        if isinstance(choice, StepPoint):
            if choice.step not in self.guides.points:
                raise StepFailure(f"The point of step {n} is not there; put that step right first.", needs=choice.step)
            return self.guides.points[choice.step]
        sketch, frame = self._drawn(choice.step)
        entity = sketch.entity(choice.point.split(".")[0])
        at = points_of(entity).get(choice.point) if entity is not None else None
        if at is None:
            raise StepFailure(f"A point this step uses is no longer in sketch {n}. Pick another.", pick="corners")
        return frame.point(*at)

    def centre(self, choice: AxisChoice) -> XYZ:
        """The middle of a round edge or face, of a straight edge, or of a flat face. Raises StepFailure for others."""
        if isinstance(choice, EdgeAxis):
            c = curve(self.edge(choice.edge)[1])
            if c.kind == "circle":
                return c.at
            if c.kind == "line":
                return scaled(plus(c.start, c.end), 0.5)
        if isinstance(choice, FaceAxis):
            face = self.face(choice.face)[1]
            s, middle = surface(face), face_centre(face)
            if s.kind == "plane":
                return middle
            if s.kind in ("cylinder", "cone"):
                return plus(s.at, scaled(s.direction, dot(plus(middle, scaled(s.at, -1.0)), s.direction)))
        raise StepFailure("This has no centre; press a round or straight edge, or a flat or round face.", pick="axis")

    def corner(self, choice: Corner) -> XYZ:
        """Where a corner is now. Raises StepFailure when its edge is gone."""
        c = curve(self.edge(choice.edge)[1])
        if c.kind == "circle" and math.dist(c.start, c.end) < 1e-9:
            return c.at
        return min((c.start, c.end), key=lambda end: math.dist(end, choice.at))

    # -- single faces and edges ------------------------------------------------------------------

    def face(self, ref: FaceRef) -> tuple[int, Shape]:
        """A face with the index of its body. Raises StepFailure naming what it was."""
        hit = find.face(self.solids, ref)
        if hit is None:
            was = ref.said or face_words.face(ref.origins, self.document.position)
            raise StepFailure(
                f"A face this step uses is gone: it was the {was}. Pick another.", pick="face", lost=_lost(ref)
            )
        return hit.solid, hit.face

    def edge(self, ref: EdgeRef) -> tuple[int, Shape]:
        """An edge with the index of its body. Raises StepFailure naming what it was."""
        hit = find.edge_in(self.solids, ref)
        if hit is None:
            one, two = (face_words.face(f.origins, self.document.position) for f in ref.between)
            raise StepFailure(
                f"An edge this step uses is gone: it was the edge between the {one} and the {two}. Pick another.",
                pick="edge",
                lost={"near": ref.near},
            )
        return hit

    # -- by rule ---------------------------------------------------------------------------------

    def faces(self, choices: Iterable[FaceChoice]) -> list[tuple[int, Shape]]:
        """All faces chosen, each once, with the index of its body. Raises StepFailure when a choice finds none."""
        found: ShapeMap[int] = ShapeMap()
        order: list[tuple[int, Shape]] = []
        for choice in choices:
            hits = self._faces(choice)
            if not hits:
                raise StepFailure(f"{self.face_rule(choice).capitalize()}: there are none any more. Choose again.")
            for body, face in hits:
                if found.get(face) is None:
                    found.put(face, body)
                    order.append((body, face))
        return order

    def _faces(self, choice: FaceChoice) -> list[tuple[int, Shape]]:
        if isinstance(choice, PickedFace):
            return [self.face(choice.face)]
        if isinstance(choice, RingAround):
            body, face = self.face(choice.face)
            solid = self.solids[body]
            every = faces(solid.shape)
            ring = {
                i
                for _, sides in neighbours(solid)
                if any(every[s].IsSame(face) for s in sides)
                for i in sides
                if not every[i].IsSame(face)
            }
            return [(body, every[i]) for i in sorted(ring)]
        prefix = f"{choice.step}/side/" if isinstance(choice, SidesOf) else f"{choice.step}/"
        return [
            (b, f)
            for b, solid in enumerate(self.solids)
            for f in faces(solid.shape)
            if any(t.startswith(prefix) for t in solid.face_tags(f))
        ]

    def edges(self, choices: Iterable[EdgeChoice], left_out: Iterable[EdgeChoice] = ()) -> list[tuple[int, Shape]]:
        """All edges chosen, each once, with the index of its body, without those left out."""
        found: ShapeMap[int] = ShapeMap()
        order: list[tuple[int, Shape]] = []
        without: ShapeMap[bool] = ShapeMap()
        for choice in left_out:
            for _, edge in self._edges(choice):
                without.put(edge, True)
        for choice in choices:
            hits = self._edges(choice)
            if not hits:
                raise StepFailure(f"{self.edge_rule(choice).capitalize()}: there are none any more. Choose again.")
            for body, edge in hits:
                if found.get(edge) is None and not without.get(edge):
                    found.put(edge, body)
                    order.append((body, edge))
        return order

    def _edges(self, choice: EdgeChoice) -> list[tuple[int, Shape]]:
        if isinstance(choice, PickedEdge):
            return [self.edge(choice.edge)]
        if isinstance(choice, EdgesAround):
            body, face = self.face(choice.face)
            solid = self.solids[body]
            every = faces(solid.shape)
            return [
                (body, e)
                for e, sides in neighbours(solid)
                if len(sides) == 2 and any(every[s].IsSame(face) for s in sides) and not _smooth(solid, every, e, sides)
            ]
        found = []
        for b, solid in enumerate(self.solids):
            every = faces(solid.shape)
            for e, sides in neighbours(solid):
                if len(sides) == 2 and sides[0] != sides[1] and self._fits(choice, solid, every, e, sides):
                    found.append((b, e))
        return found

    def _fits(self, choice: EdgeChoice, solid: Solid, every: list[Shape], edge: Shape, sides: list[int]) -> bool:
        if isinstance(choice, PickedEdge | EdgesAround):
            return False
        if isinstance(choice, CornersOf):
            walls = [any(t.startswith(f"{choice.step}/side/") for t in solid.face_tags(every[s])) for s in sides]
            return all(walls) and not _smooth(solid, every, edge, sides)
        own = [
            choice.step is None or any(t.startswith(f"{choice.step}/") for t in solid.face_tags(every[s]))
            for s in sides
        ]
        if isinstance(choice, WhereMet):
            theirs = [any(not t.startswith(f"{choice.step}/") for t in solid.face_tags(every[s])) for s in sides]
            met = (own[0] and theirs[1] and not own[1]) or (own[1] and theirs[0] and not own[0])
            return met and not _smooth(solid, every, edge, sides)
        if not any(own):
            return False
        if isinstance(choice, EdgesAlong):
            c = curve(edge)
            along = AXES[choice.axis]
            if c.kind != "line" or abs(abs(sum(a * b for a, b in zip(c.direction, along, strict=True))) - 1) > PARALLEL:
                return False
            return not _smooth(solid, every, edge, sides)
        wanted = "inside" if isinstance(choice, InsideEdges) else "outside"
        return all(own) and corner(edge, every[sides[0]], every[sides[1]]) == wanted

    # -- in words --------------------------------------------------------------------------------

    def face_rule(self, choice: FaceChoice) -> str:
        return face_rule_words(choice, self.document)

    def edge_rule(self, choice: EdgeChoice) -> str:
        return edge_rule_words(choice, self.document)


def face_now(ref: FaceRef, document: Document) -> str:
    """A face in words, its steps by their present numbers; as it was called once where a step of it is gone."""
    here = {s.id for s in document.steps}
    if ref.said and not {o.split("/")[0] for o in ref.origins} <= here:
        return ref.said
    return face_words.face(ref.origins, document.position)


def face_rule_words(choice: FaceChoice, document: Document) -> str:
    """A choice of faces in words."""
    number = document.position
    if isinstance(choice, PickedFace):
        return f"the {face_now(choice.face, document)}"
    if isinstance(choice, RingAround):
        return f"the ring of faces around the {face_words.face(choice.face.origins, number)}"
    if isinstance(choice, SidesOf):
        return f"all walls of step {number(choice.step)}"
    assert isinstance(choice, MadeBy)
    return f"all faces of step {number(choice.step)}"


def edge_rule_words(choice: EdgeChoice, document: Document) -> str:
    """A choice of edges in words."""
    number = document.position
    if isinstance(choice, PickedEdge):
        one, two = (face_words.face(f.origins, number) for f in choice.edge.between)
        return f"the edge between the {one} and the {two}"
    if isinstance(choice, EdgesAround):
        return f"the edges around the {face_words.face(choice.face.origins, number)}"
    of = f" of step {number(choice.step)}" if choice.step else " of the part"
    if isinstance(choice, CornersOf):
        return f"the corners between the walls of step {number(choice.step)}"
    if isinstance(choice, WhereMet):
        return f"the edges where step {number(choice.step)} meets the rest"
    if isinstance(choice, EdgesAlong):
        return f"the edges along {choice.axis.upper()}{of}"
    return f"the {'inside' if isinstance(choice, InsideEdges) else 'outside'} edges{of}"


def point_words(choice: PointChoice, document: Document) -> str:
    """A point in words."""
    if isinstance(choice, PartOrigin):
        return "the origin"
    if isinstance(choice, Corner):
        return f"a corner of the {face_now(choice.edge.between[0], document)}"
    n = document.position(choice.step)
    return f"the point of step {n}" if isinstance(choice, StepPoint) else f"a point of sketch {n}"


def _smooth(solid: Solid, every: list[Shape], edge: Shape, sides: list[int]) -> bool:
    return corner(edge, every[sides[0]], every[sides[1]]) == "smooth"


def _lost(ref: FaceRef) -> Lost:
    return {"near": ref.near, "origins": ref.origins}


__all__ = ["Axis", "Guides", "Pointing", "edge_rule_words", "face_rule_words"]

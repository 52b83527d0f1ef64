"""What a designer pointed at, found in the part as it is now: planes, axes, faces and edges, by hand or by rule."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from ..naming import find
from ..naming import words as face_words
from ..naming.model import EdgeRef, FaceRef
from ..solid.convex import corner
from ..solid.frame import DATUM_FRAMES, XYZ, Frame, on_plane
from ..solid.measure import curve, neighbours, surface
from ..solid.shapes import Shape, ShapeMap, Solid, faces
from ..steps.choices import (
    AxisChoice,
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
    OutsideEdges,
    PartAxis,
    PickedEdge,
    PickedFace,
    PlaneChoice,
    RingAround,
    SidesOf,
    StepAxis,
    StepPlane,
    WhereMet,
)
from ..steps.registry import Document
from .state import State
from .working import StepFailure

AXES: dict[str, XYZ] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
PARALLEL = 1e-9


@dataclass(frozen=True)
class Axis:
    """A straight line in space: a point on it (mm) and a unit direction."""

    at: XYZ
    direction: XYZ


class Pointing:
    """Finds references in one state of the part. ``planes`` and ``axes``: what datum steps made; ``lines``: where a
    sketch's line runs in space."""

    def __init__(
        self,
        document: Document,
        state: State,
        planes: dict[str, Frame],
        axes: dict[str, Axis],
        sketches: dict[str, Frame],
    ) -> None:
        self.document, self.state = document, state
        self.planes, self.axes, self.sketches = planes, axes, sketches
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
            if choice.step not in self.planes:
                n = self.document.position(choice.step)
                raise StepFailure(f"The plane of step {n} is not there; put that step right first.", needs=choice.step)
            return self.planes[choice.step]
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
            if choice.step not in self.axes:
                n = self.document.position(choice.step)
                raise StepFailure(f"The axis of step {n} is not there; put that step right first.", needs=choice.step)
            return self.axes[choice.step]
        return self.line(choice)

    def line(self, choice: LineAxis) -> Axis:
        """A sketch's line in space."""
        from ..sketch.model import Line
        from ..steps.sketch_step import SketchStep

        step = self.document.step(choice.step)
        n = self.document.position(choice.step)
        frame = self.sketches.get(choice.step)
        if not isinstance(step, SketchStep) or frame is None:
            raise StepFailure(f"Sketch {n} has no place in the part just now; put it right first.", needs=choice.step)
        if choice.line in ("x", "y"):
            return Axis(frame.origin, frame.x if choice.line == "x" else frame.y)
        line = step.sketch.entity(choice.line)
        if not isinstance(line, Line):
            raise StepFailure(f"The line this axis ran along is no longer in sketch {n}. Pick another.", pick="axis")
        from ..solid.frame import unit

        return Axis(frame.point(*line.p), unit(frame.direction(line.q[0] - line.p[0], line.q[1] - line.p[1])))

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


def face_rule_words(choice: FaceChoice, document: Document) -> str:
    """A choice of faces in words."""
    number = document.position
    if isinstance(choice, PickedFace):
        return "the " + (choice.face.said or face_words.face(choice.face.origins, number))
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


def _smooth(solid: Solid, every: list[Shape], edge: Shape, sides: list[int]) -> bool:
    return corner(edge, every[sides[0]], every[sides[1]]) == "smooth"


def _lost(ref: FaceRef) -> dict[str, object]:
    return {"near": ref.near, "origins": ref.origins}


__all__ = ["Axis", "OutsideEdges", "Pointing", "edge_rule_words", "face_rule_words"]

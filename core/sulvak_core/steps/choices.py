"""What a designer points at: faces and edges by hand or by rule, planes and axes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..naming.model import EdgeRef, FaceRef
from ..part.document import StepId, Strict
from ..sketch.model import Ref


class PickedFace(Strict):
    by: Literal["pick"] = "pick"
    face: FaceRef


class SidesOf(Strict):
    """All walls a step grew from its profile."""

    by: Literal["sides"] = "sides"
    step: StepId


class MadeBy(Strict):
    """All faces a step made."""

    by: Literal["made"] = "made"
    step: StepId


class RingAround(Strict):
    """All faces that meet one face."""

    by: Literal["ring"] = "ring"
    face: FaceRef


FaceChoice = Annotated[PickedFace | SidesOf | MadeBy | RingAround, Field(discriminator="by")]
Faces = Annotated[list[FaceChoice], Field(max_length=500)]


class PickedEdge(Strict):
    by: Literal["pick"] = "pick"
    edge: EdgeRef


class EdgesAround(Strict):
    """All edges of one face."""

    by: Literal["around"] = "around"
    face: FaceRef


class WhereMet(Strict):
    """All edges in which what a step made meets what others made."""

    by: Literal["met"] = "met"
    step: StepId


class EdgesAlong(Strict):
    """All straight edges of a step's faces that run along an axis of the part; of any step without one."""

    by: Literal["along"] = "along"
    axis: Literal["x", "y", "z"]
    step: StepId | None = None


class CornersOf(Strict):
    """All edges in which two walls of a step meet, however they lean."""

    by: Literal["corners"] = "corners"
    step: StepId


class InsideEdges(Strict):
    """All edges of a step's faces in which the part has an inside corner."""

    by: Literal["inside"] = "inside"
    step: StepId | None = None


class OutsideEdges(Strict):
    """All edges of a step's faces in which the part has an outside corner."""

    by: Literal["outside"] = "outside"
    step: StepId | None = None


EdgeChoice = Annotated[
    PickedEdge | EdgesAround | WhereMet | EdgesAlong | CornersOf | InsideEdges | OutsideEdges, Field(discriminator="by")
]
Edges = Annotated[list[EdgeChoice], Field(max_length=500)]


class DatumPlane(Strict):
    kind: Literal["datum"] = "datum"
    plane: Literal["front", "top", "right"]


class FacePlane(Strict):
    kind: Literal["face"] = "face"
    face: FaceRef


class StepPlane(Strict):
    """A plane that a datum step made."""

    kind: Literal["plane"] = "plane"
    step: StepId


PlaneChoice = Annotated[DatumPlane | FacePlane | StepPlane, Field(discriminator="kind")]


class PartAxis(Strict):
    kind: Literal["axis"] = "axis"
    axis: Literal["x", "y", "z"]


class EdgeAxis(Strict):
    """A straight edge, or the axis of a round one."""

    kind: Literal["edge"] = "edge"
    edge: EdgeRef


class FaceAxis(Strict):
    """The axis of a round face, or the direction square to a flat one."""

    kind: Literal["face"] = "face"
    face: FaceRef


class LineAxis(Strict):
    """A line of a sketch, or its own axis ``x`` or ``y``."""

    kind: Literal["line"] = "line"
    step: StepId
    line: Ref


class StepAxis(Strict):
    """An axis that a datum step made."""

    kind: Literal["datum"] = "datum"
    step: StepId


AxisChoice = Annotated[PartAxis | EdgeAxis | FaceAxis | LineAxis | StepAxis, Field(discriminator="kind")]
BodyId = Annotated[str, Field(pattern=r"^s[0-9]{1,6}(x[0-9]{1,4})?$")]


class Corner(Strict):
    """A corner of the part: the end of an edge that is nearest to ``at`` (mm, where it was picked); of a whole circle
    its centre."""

    edge: EdgeRef
    at: tuple[float, float, float]


class PartOrigin(Strict):
    kind: Literal["origin"] = "origin"


class StepPoint(Strict):
    """A point that a datum step made."""

    kind: Literal["datum"] = "datum"
    step: StepId


class SketchPoint(Strict):
    """A point of a sketch: a point entity, an end, a centre."""

    kind: Literal["point"] = "point"
    step: StepId
    point: Ref


PointChoice = Corner | PartOrigin | StepPoint | SketchPoint
Points = Annotated[list[PointChoice], Field(max_length=3)]

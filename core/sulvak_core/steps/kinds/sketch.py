"""The sketch step: a sketch on a datum plane, a planar face of the part so far, or a plane a step made."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...naming.model import CutRef, EdgeRef, GuideRef, SilhouetteRef
from ...part.document import StepBase, Strict
from ...sketch.model import Ident, Sketch
from ..choices import DatumPlane, FacePlane, PlaneChoice
from ..kind import StepKind
from ..sentence import Part, Slot, Words, when

DATUMS = {"front": "Front plane", "top": "Top plane", "right": "Right plane"}


class Projection(Strict):
    """An entity of the sketch that the part gives, as it is now: an edge, a face's silhouette, a cut through it, or a
    datum point or axis."""

    of: EdgeRef | CutRef | SilhouetteRef | GuideRef
    entity: Ident


class SketchStep(StepBase):
    """A sketch; its own geometry is in ``sketch``. With a ``stencil`` name it is drawn to be placed in later ones,
    its origin being the insertion point. ``projections`` tell where its given entities come from."""

    kind: Literal["sketch"] = "sketch"
    on: PlaneChoice
    sketch: Sketch = Field(default_factory=Sketch)
    projections: list[Projection] = Field(default_factory=list, max_length=2000)
    stencil: Annotated[str, Field(max_length=60)] = ""


SENTENCE: tuple[Part, ...] = (
    Words("Sketch on", when("stencil.set", "false")),
    Slot("on", "plane", "Plane", when=when("stencil.set", "false")),
    Words("Stencil", when("stencil.set", "true")),
    Slot("stencil", "text", "Name of the stencil", when=when("stencil.set", "true")),
)


SKETCH = StepKind(
    SketchStep,
    SENTENCE,
    makes="sketch",
)

__all__ = ["DATUMS", "DatumPlane", "FacePlane", "Projection", "SketchStep"]

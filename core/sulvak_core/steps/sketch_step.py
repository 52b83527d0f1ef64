"""The sketch step: a sketch on a datum plane or on a planar face of the part so far."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..naming.model import FaceRef
from ..part.document import StepBase, Strict
from ..sketch.model import Sketch

DATUMS = {"front": "Front plane", "top": "Top plane", "right": "Right plane"}


class DatumPlane(Strict):
    kind: Literal["datum"] = "datum"
    plane: Literal["front", "top", "right"]


class FacePlane(Strict):
    kind: Literal["face"] = "face"
    face: FaceRef


class SketchStep(StepBase):
    """A sketch; its own geometry is in ``sketch``."""

    kind: Literal["sketch"] = "sketch"
    on: Annotated[DatumPlane | FacePlane, Field(discriminator="kind")]
    sketch: Sketch = Field(default_factory=Sketch)

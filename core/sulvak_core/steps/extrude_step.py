"""The extrude step: a profile moved square to its plane, to add material, cut it away, or start a new body."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..part.document import LengthText, StepBase, StepId, Strict
from ..sketch.profiles import RegionPick


class ByDepth(Strict):
    kind: Literal["depth"] = "depth"
    depth: LengthText


class Symmetric(Strict):
    """Half of ``depth`` to either side of the sketch."""

    kind: Literal["symmetric"] = "symmetric"
    depth: LengthText


class ThroughAll(Strict):
    kind: Literal["through_all"] = "through_all"


Extent = Annotated[ByDepth | Symmetric | ThroughAll, Field(discriminator="kind")]


class ExtrudeStep(StepBase):
    """``regions`` None takes the sketch's profile as a drafter means it: outside in, islands left out.

    ``reverse`` goes against the sketch's normal. A cut goes into the part by itself when the sketch
    lies on a face: there ``reverse`` false means into the material.
    """

    kind: Literal["extrude"] = "extrude"
    sketch: StepId
    regions: Annotated[list[RegionPick], Field(max_length=500)] | None = None
    operation: Literal["add", "cut", "new"] = "add"
    extent: Extent
    reverse: bool = False
    bodies: Annotated[list[str], Field(max_length=200)] | None = None

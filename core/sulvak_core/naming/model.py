"""How a face or an edge is written down in a document: by origin, never by number.

An *origin* is ``step/role`` or ``step/role/what``: ``s2/side/l1`` is the wall that line 1 of the
sketch grew in step s2, ``s2/start`` and ``s2/end`` are the two caps. What comes from a face takes its
origin along: ``s5/inner/s2/side/l1`` is the wall a shell put behind it, ``s7/i2/s2/side/l1`` its second
copy in a pattern. A face that later steps merged
with another has several origins; one that was split shares its origin with its other pieces.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..part.document import StepId, Strict

Origin = Annotated[str, Field(pattern=r"^s[0-9]{1,6}(/[a-z][a-z0-9]{0,20}){1,24}$")]


class FaceRef(Strict):
    """A face by its ``origins``; ``ring`` (its neighbours' origins) and ``near`` (a point in mm) tell pieces apart."""

    origins: list[Origin] = Field(min_length=1, max_length=50)
    ring: list[Origin] = Field(default_factory=list, max_length=200)
    near: tuple[float, float, float] | None = None
    said: Annotated[str, Field(max_length=200)] = ""


class EdgeRef(Strict):
    """An edge by the two faces it lies between; ``near`` tells pieces apart."""

    between: tuple[FaceRef, FaceRef]
    near: tuple[float, float, float] | None = None


class GuideRef(Strict):
    """A datum point, or a datum axis, of a step."""

    step: StepId


class CutRef(Strict):
    """Where the sketch's plane cuts a face; ``near`` tells pieces apart."""

    face: FaceRef
    near: tuple[float, float, float]


class SilhouetteRef(Strict):
    """Where a curved face turns away from the sketch's plane; ``near`` tells pieces apart."""

    silhouette: FaceRef
    near: tuple[float, float, float]

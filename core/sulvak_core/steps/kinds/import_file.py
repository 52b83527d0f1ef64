"""Bodies taken in from a STEP file of others."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ...part.document import StepBase, Strict
from ..choices import BodyId
from ..kind import StepKind
from ..sentence import Part, Slot, Words

ALIKE = 1e-9  # relative: figures this close are of the same body


class BodySource(Strict):
    """The body of another part that a file was made from, with its figures (mm³, mm², mm) as they were then: by them
    it is told whether that body has changed since."""

    part: Annotated[str, Field(pattern=r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")]
    name: Annotated[str, Field(max_length=200)]
    which: BodyId  # of its bodies; not ``body``, which names one of this part
    title: Annotated[str, Field(max_length=200)] = ""
    volume: float
    area: float
    centre: tuple[float, float, float]

    def same(self, figures: Mapping[str, Any]) -> bool:
        """Whether a body with these figures (``volume``, ``area``, ``centre``) is still the one that was taken."""
        size = self.volume ** (1 / 3)
        return (
            math.isclose(self.volume, figures["volume"], rel_tol=ALIKE)
            and math.isclose(self.area, figures["area"], rel_tol=ALIKE)
            and math.dist(self.centre, figures["centre"]) <= ALIKE * size
        )


class ImportStep(StepBase):
    """The solids of a file, known by the SHA-256 of its content; ``title`` is what the file was called. ``source``:
    the body of another part that it is."""

    kind: Literal["import"] = "import"
    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    title: Annotated[str, Field(max_length=200)] = ""
    source: BodySource | None = None


SENTENCE: tuple[Part, ...] = (Words("Take in the bodies of"), Slot("title", "text", "File"))


IMPORT = StepKind(
    ImportStep,
    SENTENCE,
)

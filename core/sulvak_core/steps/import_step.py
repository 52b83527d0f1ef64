"""Bodies taken in from a STEP file of others."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..part.document import StepBase
from .sentence import Part, Slot, Words


class ImportStep(StepBase):
    """The solids of a file, known by the SHA-256 of its content; ``title`` is what the file was called."""

    kind: Literal["import"] = "import"
    file: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    title: Annotated[str, Field(max_length=200)] = ""


SENTENCE: tuple[Part, ...] = (Words("Take in the bodies of"), Slot("title", "text", "File"))

"""What the work of a kind of step may ask of the run it is part of: no more than this, so that kinds do not know it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

from ..part.expressions import Names
from ..sketch.model import Sketch
from ..sketch.profiles import Profile
from ..solid.frame import Frame
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import Document
from .resolve import Guides, Pointing
from .state import Cache, State
from .tooling import Done, Tooling


class Report(Protocol):
    """What became of a step, as far as its work tells it."""

    said: str
    volume_change: float | None
    frame: dict[str, Any] | None
    extra: dict[str, Any]


class Context(Protocol):
    """The part as a step finds it, what names and references mean there, and where its result is kept."""

    document: Document
    cache: Cache
    names: Names
    state: State
    guides: Guides
    tooling: dict[str, Tooling]
    broken: dict[str, str]

    def pointing(self) -> Pointing:
        """Finds references in the part as it is at this step."""
        ...

    def source(self, ident: str) -> tuple[SketchStep, Sketch, Frame]:
        """A sketch a step is made from. Raises StepFailure while it has no place."""
        ...

    def profile(self, ident: str, sketch: Sketch) -> Profile: ...

    def on_face(self, step: SketchStep) -> bool: ...

    def kept(self, own: Any, report: Any, work: Callable[[], Done]) -> None:
        """The result of a step's work, done only if its content ``own`` was not worked out before."""
        ...

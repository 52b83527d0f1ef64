"""The route run: every step in order, each result kept by what went into it.

A step's key is a hash of the keys before it and of its own *evaluated* content (expressions as
values, a sketch as its geometry), so an edit rebuilds what comes after it and nothing else, and
undoing one rebuilds nothing. A step that fails leaves the part before it.
"""

from __future__ import annotations

import hashlib
import json
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ..part.errors import Refusal
from ..part.expressions import Names
from ..sketch.model import Sketch
from ..sketch.profiles import Profile, profile
from ..solid.frame import Frame
from ..solid.shapes import KernelError
from ..steps.registry import AnyStep, Document, names
from ..steps.shared import values_for
from ..steps.sketch_step import DatumPlane, FacePlane, SketchStep
from . import given, kinds
from .pointing import Axis, Pointing
from .said import Sayer
from .state import Cache, Kept, State
from .version import KERNEL_VERSION
from .working import Done, StepFailure, Tooling

LASTING_SECONDS = 0.03  # results that took longer than this outlive the worker


@dataclass
class StepReport:
    """What became of a step. ``state``: ok, failed, held (after the hold point) or suppressed.

    ``extra``: what a step tells besides, such as the callout and thread of holes.
    """

    id: str
    number: int
    state: str
    sentence: str
    said: str = ""
    volume_change: float | None = None
    offers: dict[str, Any] = field(default_factory=dict)
    frame: dict[str, Any] | None = None
    extra: dict[str, Any] = field(default_factory=dict)
    seconds: float = 0.0


@dataclass
class Build:
    """A finished route run: the bodies, a report per step, the key of the result, sketch frames by step.

    ``sketches``: those that moved because edges of the part in them did. ``states``: the part after each step.
    """

    state: State
    reports: list[StepReport]
    key: str
    frames: dict[str, Frame]
    states: dict[str, State]
    sketches: dict[str, Sketch] = field(default_factory=dict)

    @property
    def failed(self) -> list[StepReport]:
        return [r for r in self.reports if r.state == "failed"]


class Run:
    """One run over a document's route. ``stop`` is asked between steps and ends the run with Stopped.

    ``planes`` and ``axes`` are what datum steps have made so far, ``tooling`` how steps add or take away.
    """

    def __init__(self, document: Document, cache: Cache, stop: Callable[[], bool] | None = None) -> None:
        self.document, self.cache, self.stop = document, cache, stop
        self.names: Names = names(document)
        self.sayer = Sayer(document, self.names)
        self.state = State()
        self.key = content_hash(KERNEL_VERSION)
        self.frames: dict[str, Frame] = {}
        self.planes: dict[str, Frame] = {}
        self.axes: dict[str, Axis] = {}
        self.tooling: dict[str, Tooling] = {}
        self.profiles: dict[str, Profile] = {}
        self.broken: dict[str, str] = {}
        self.states: dict[str, State] = {}
        self.sketches: dict[str, Sketch] = {}

    def build(self, progress: Callable[[int, int], None] | None = None) -> Build:
        reports: list[StepReport] = []
        held = False
        for i, step in enumerate(self.document.steps):
            if self.stop and self.stop():
                raise Stopped()
            if progress:
                progress(i, len(self.document.steps))
            report = StepReport(step.id, 10 * (i + 1), "ok", self.sayer.sentence(step))
            if held:
                report.state = "held"
            elif step.suppressed:
                report.state = "suppressed"
                self.broken[step.id] = "suppressed"
            else:
                started = time.perf_counter()
                self._do(step, report)
                report.seconds = time.perf_counter() - started
            reports.append(report)
            self.states[step.id] = self.state
            held = held or step.id == self.document.hold
        return Build(self.state, reports, self.key, self.frames, self.states, self.sketches)

    def _do(self, step: AnyStep, report: StepReport) -> None:
        try:
            if isinstance(step, SketchStep):
                self._sketch(step, report)
            else:
                kinds.WORK[step.kind](self, step, report)
        except (StepFailure, KernelError, Refusal) as error:
            report.state, report.said = "failed", error.sentence
            report.offers = dict(getattr(error, "offers", {}))
            self.broken[step.id] = "failed"
        except Exception as error:  # whatever the kernel throws: the part before the step stays
            report.state = "failed"
            report.said = "The geometry kernel gave up on this step; change its size or place a little."
            report.offers = {"cause": f"{type(error).__name__}: {error}"[:300]}
            self.broken[step.id] = "failed"

    # -- sketches --------------------------------------------------------------------------------

    def _sketch(self, step: SketchStep, report: StepReport) -> None:
        frame = self.plane(step)
        self.frames[step.id] = frame
        report.frame = frame_data(frame)
        if step.projections:
            self._follow(step, frame, report)

    def _follow(self, step: SketchStep, frame: Frame, report: StepReport) -> None:
        """The part's edges in a sketch, where they are now."""
        of = [p.model_dump(mode="json") for p in step.projections]
        key = content_hash(self.key, [frame.origin, frame.x, frame.y], of)
        flats = self.cache.seen.get(key)
        if flats is None:
            solids = [b.solid for b in self.state.bodies]
            flats = self.cache.seen[key] = [given.seen(solids, p.of, frame) for p in step.projections]
        followed = given.follow(step, flats, values_for(self.document))
        if followed.sketch is not step.sketch:
            self.sketches[step.id] = followed.sketch
        if followed.lost:
            report.said, report.offers = given.lost_words(followed.lost), {"lost": followed.lost}

    # -- what kinds of step ask for ---------------------------------------------------------------

    def plane(self, step: SketchStep) -> Frame:
        """The plane a sketch lies on; kept, since looking for a face takes long."""
        if not isinstance(step.on, FacePlane):
            return self.pointing().frame(step.on, "sketch")
        key = content_hash(self.key, step.on.face.model_dump(mode="json"))
        frame = self.cache.places.get(key)
        if frame is None:
            frame = self.cache.places[key] = self.pointing().frame(step.on, "sketch")
        return frame

    def pointing(self) -> Pointing:
        """Finds references in the part as it is at this step."""
        return Pointing(self.document, self.state, self.planes, self.axes, self.frames)

    def source(self, ident: str) -> tuple[SketchStep, Sketch, Frame]:
        """A sketch a step is made from. Raises StepFailure while it has no place."""
        step = self.document.step(ident)
        number = self.document.position(ident)
        if not isinstance(step, SketchStep):
            raise StepFailure("This step is made from a sketch; choose one.", pick="sketch")
        if ident not in self.frames:
            why = "is suppressed" if self.broken.get(ident) == "suppressed" else "has failed"
            raise StepFailure(f"Sketch {number} {why}; put that right first.", needs=ident)
        return step, self.sketches.get(ident, step.sketch), self.frames[ident]

    def profile(self, ident: str, sketch: Sketch) -> Profile:
        if ident not in self.profiles:
            self.profiles[ident] = profile(sketch)
        return self.profiles[ident]

    def on_face(self, step: SketchStep) -> bool:
        return not isinstance(step.on, DatumPlane)

    def kept(self, own: Any, report: StepReport, work: Callable[[], Done]) -> None:
        """The result of a step's work, done only if its content ``own`` was not worked out before."""
        key = content_hash(self.key, own)
        found = self.cache.get(key)
        if found is None:
            before, started = self.state.volume(), time.perf_counter()
            done = work()
            told = {"said": done.said, "volume_change": done.state.volume() - before, "extra": done.extra}
            found = Kept(done.state, told)
            self.cache.put(key, found, time.perf_counter() - started > LASTING_SECONDS)
        self.key, self.state = key, found.state
        report.said, report.volume_change = found.report["said"], found.report["volume_change"]
        report.extra = found.report.get("extra", {})


class Stopped(Exception):
    """The run was stopped on request; nothing is lost."""


def frame_data(frame: Frame) -> dict[str, Any]:
    return {"origin": frame.origin, "x": frame.x, "y": frame.y, "normal": frame.normal}


def content_hash(*parts: Any) -> str:
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()


def build(document: Document, cache: Cache | None = None, **options: Any) -> Build:
    """Run a document's route. Raises nothing for a failing step: its report says so."""
    return Run(document, cache or Cache()).build(**options)

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

from ..naming import find
from ..naming import words as face_words
from ..naming.model import FaceRef
from ..part.errors import Refusal
from ..part.expressions import Names
from ..sketch.model import Sketch
from ..sketch.profiles import Profile, profile
from ..solid.frame import DATUM_FRAMES, Frame, on_plane
from ..solid.measure import surface
from ..solid.shapes import KernelError
from ..steps.body_step import BodyStep
from ..steps.extrude_step import ExtrudeStep
from ..steps.registry import AnyStep, Document, names
from ..steps.sketch_step import DATUMS, DatumPlane, SketchStep
from .extrude import StepFailure, extrude, sentence
from .state import Cache, Kept, State
from .version import KERNEL_VERSION

LASTING_SECONDS = 0.03  # results that took longer than this outlive the worker


@dataclass
class StepReport:
    """What became of a step. ``state``: ok, failed, held (after the hold point) or suppressed."""

    id: str
    number: int
    state: str
    sentence: str
    said: str = ""
    volume_change: float | None = None
    offers: dict[str, Any] = field(default_factory=dict)
    frame: dict[str, Any] | None = None
    seconds: float = 0.0


@dataclass
class Build:
    """A finished route run: the bodies, a report per step, the key of the result, sketch frames by step."""

    state: State
    reports: list[StepReport]
    key: str
    frames: dict[str, Frame]
    states: dict[str, State]

    @property
    def failed(self) -> list[StepReport]:
        return [r for r in self.reports if r.state == "failed"]


class Run:
    """One run over a document's route. ``stop`` is asked between steps and ends the run with Stopped."""

    def __init__(self, document: Document, cache: Cache, stop: Callable[[], bool] | None = None) -> None:
        self.document, self.cache, self.stop = document, cache, stop
        self.names: Names = names(document)
        self.state = State()
        self.key = _hash(KERNEL_VERSION)
        self.frames: dict[str, Frame] = {}
        self.profiles: dict[str, Profile] = {}
        self.broken: dict[str, str] = {}
        self.states: dict[str, State] = {}

    def build(self, progress: Callable[[int, int], None] | None = None) -> Build:
        reports: list[StepReport] = []
        held = False
        for i, step in enumerate(self.document.steps):
            if self.stop and self.stop():
                raise Stopped()
            if progress:
                progress(i, len(self.document.steps))
            report = StepReport(step.id, 10 * (i + 1), "ok", self.sentence(step))
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
        return Build(self.state, reports, self.key, self.frames, self.states)

    def _do(self, step: AnyStep, report: StepReport) -> None:
        try:
            if isinstance(step, SketchStep):
                self._sketch(step, report)
            elif isinstance(step, ExtrudeStep):
                self._extrude(step, report)
            else:
                self._body(step, report)
        except (StepFailure, KernelError, Refusal) as error:
            report.state, report.said = "failed", error.sentence
            report.offers = dict(getattr(error, "offers", {}))
            self.broken[step.id] = "failed"
        except Exception as error:  # whatever the kernel throws: the part before the step stays
            report.state = "failed"
            report.said = "The geometry kernel gave up on this step; change its size or place a little."
            report.offers = {"cause": f"{type(error).__name__}: {error}"[:300]}
            self.broken[step.id] = "failed"

    # -- kinds of step ---------------------------------------------------------------------------

    def _sketch(self, step: SketchStep, report: StepReport) -> None:
        frame = self._frame(step)
        self.frames[step.id] = frame
        report.frame = {"origin": frame.origin, "x": frame.x, "y": frame.y, "normal": frame.normal}

    def _frame(self, step: SketchStep) -> Frame:
        if isinstance(step.on, DatumPlane):
            return DATUM_FRAMES[step.on.plane]
        ref = step.on.face
        key = _hash(self.key, ref.model_dump(mode="json"))
        frame = self.cache.places.get(key)
        if frame is None:
            frame = self.cache.places[key] = self._face_frame(ref)
        return frame

    def _face_frame(self, ref: FaceRef) -> Frame:
        hit = find.face([b.solid for b in self.state.bodies], ref)
        if hit is None:
            was = ref.said or face_words.face(ref.origins, self.document.position)
            raise StepFailure(f"The face this sketch lay on is gone: it was the {was}. Pick another face.", pick="face")
        s = surface(hit.face)
        if s.kind != "plane":
            raise StepFailure("The face this sketch lay on is no longer flat. Pick another face.", pick="face")
        return on_plane(s.at, s.direction)

    def _extrude(self, step: ExtrudeStep, report: StepReport) -> None:
        source = self.document.step(step.sketch)
        assert isinstance(source, SketchStep)
        number = self.document.position(step.sketch)
        if step.sketch not in self.frames:
            why = "is suppressed" if self.broken.get(step.sketch) == "suppressed" else "has failed"
            raise StepFailure(f"Sketch {number} {why}; put that right first.", needs=step.sketch)
        depth = self.depth(step)
        if depth is not None and depth <= 0:
            raise StepFailure("A depth is more than zero; to go the other way, turn it round.", field="depth")
        frame = self.frames[step.sketch]
        on_face = not isinstance(source.on, DatumPlane)
        own = {
            "step": step.model_dump(mode="json", exclude={"name", "note"}) | {"extent": step.extent.kind},
            "depth": depth,
            "frame": [frame.origin, frame.x, frame.y],
            "on_face": on_face,
            "sketch": [e.model_dump(mode="json") for e in source.sketch.entities if not e.construction],
        }
        self._kept(
            step,
            own,
            report,
            lambda: extrude(step, depth, frame, self._profile(source.id, source.sketch), self.state, on_face),
        )

    def _kept(self, step: AnyStep, own: Any, report: StepReport, work: Callable[[], Any]) -> None:
        key = _hash(self.key, own)
        kept = self.cache.get(key)
        if kept is None:
            before, started = self.state.volume(), time.perf_counter()
            done = work()
            told = {"said": done.said, "volume_change": done.state.volume() - before}
            kept = Kept(done.state, told)
            self.cache.put(key, kept, time.perf_counter() - started > LASTING_SECONDS)
        self.key, self.state = key, kept.state
        report.said, report.volume_change = kept.report["said"], kept.report["volume_change"]

    def _body(self, step: BodyStep, report: StepReport) -> None:
        if step.body not in {b.id for b in self.state.bodies}:
            raise StepFailure("The body this step names is gone; pick another.", pick="body")
        changes = {k: v for k, v in (("title", step.title), ("colour", step.colour), ("material", step.material)) if v}
        bodies = [_changed(b, changes) if b.id == step.body else b for b in self.state.bodies]
        self.key = _hash(self.key, {"body": step.body, **changes})
        self.state = State(bodies)
        report.volume_change = 0.0

    # -- helpers ---------------------------------------------------------------------------------

    def depth(self, step: ExtrudeStep) -> float | None:
        return None if step.extent.kind == "through_all" else self.names.value(step.extent.depth, "length")

    def _profile(self, ident: str, sketch: Sketch) -> Profile:
        if ident not in self.profiles:
            self.profiles[ident] = profile(sketch)
        return self.profiles[ident]

    def sentence(self, step: AnyStep) -> str:
        if isinstance(step, SketchStep):
            return f"Sketch on {self.place(step)}"
        if isinstance(step, ExtrudeStep):
            try:
                depth = self.depth(step)
            except Refusal:
                depth = None
            return sentence(step, self.document.position(step.sketch), depth, self.document.unit)
        changes = [step.title and f"“{step.title}”", step.material, step.colour and f"colour {step.colour}"]
        number = self.document.position(step.body.split("x")[0])
        return f"Body of step {number}: {', '.join(c for c in changes if c) or 'as it is'}"

    def place(self, step: SketchStep) -> str:
        """What a sketch lies on, in words."""
        if isinstance(step.on, DatumPlane):
            return DATUMS[step.on.plane]
        return "the " + face_words.face(step.on.face.origins, self.document.position)


class Stopped(Exception):
    """The run was stopped on request; nothing is lost."""


def _changed(body: Any, changes: dict[str, Any]) -> Any:
    from dataclasses import replace

    return replace(body, **changes)


def _hash(*parts: Any) -> str:
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()


def build(document: Document, cache: Cache | None = None, **options: Any) -> Build:
    """Run a document's route. Raises nothing for a failing step: its report says so."""
    return Run(document, cache or Cache()).build(**options)

"""The route run: every step in order, each result kept by what went into it.

A step's key is a hash of the keys before it and of its own *evaluated* content (expressions as
values, a sketch as its geometry), so an edit rebuilds what comes after it and nothing else, and
undoing one rebuilds nothing. A step that fails leaves the part before it.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ..naming.model import GuideRef
from ..part.errors import Offers, Refusal
from ..part.expressions import Names
from ..part.units import MM_PER, in_unit, rounded_down
from ..sketch.model import Sketch
from ..sketch.profiles import Profile, profile
from ..solid.frame import Frame
from ..solid.shapes import KernelError
from ..steps.kinds.sketch import DatumPlane, FacePlane, SketchStep
from ..steps.registry import AnyStep, Document, names
from ..steps.shared import values_for
from . import external_edges
from .describe import Sayer
from .kinds import WORK
from .resolve import Guides, Pointing
from .state import Cache, Kept, State
from .tooling import Done, StepFailure, Tooling
from .version import KERNEL_VERSION, content_hash

log = logging.getLogger("sulvak.rebuild")
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
    offers: Offers = field(default_factory=Offers)
    frame: dict[str, Any] | None = None
    extra: dict[str, Any] = field(default_factory=dict)
    seconds: float = 0.0


@dataclass
class Build:
    """A finished route run: the bodies, a report per step, the key of the result, the part after each step, and what
    the route made besides bodies."""

    state: State
    reports: list[StepReport]
    key: str
    states: dict[str, State]
    guides: Guides
    tooling: dict[str, Tooling] = field(default_factory=dict)  # how steps made what they added or took away

    @property
    def frames(self) -> dict[str, Frame]:
        """Where sketches lie."""
        return self.guides.frames

    @property
    def sketches(self) -> dict[str, Sketch]:
        """Sketches that moved with the part."""
        return self.guides.sketches

    @property
    def failed(self) -> list[StepReport]:
        return [r for r in self.reports if r.state == "failed"]


class Run:
    """One run over a document's route. ``stop`` is asked between steps and ends the run with Stopped.

    ``guides`` are what datum and sketch steps have made so far, ``tooling`` how steps add or take away.
    """

    def __init__(
        self, document: Document, cache: Cache, stop: Callable[[], bool] | None = None, saying: bool = True
    ) -> None:
        """``saying``: reports say each step in a sentence."""
        self.document, self.cache, self.stop, self.saying = document, cache, stop, saying
        self.names: Names = names(document)
        self.sayer = Sayer(document, self.names)
        self.state = State()
        self.key = content_hash(KERNEL_VERSION)
        self.guides = Guides()
        self.tooling: dict[str, Tooling] = {}
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
            report = StepReport(step.id, 10 * (i + 1), "ok", self.sayer.sentence(step) if self.saying else "")
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
        return Build(self.state, reports, self.key, self.states, self.guides, self.tooling)

    def _do(self, step: AnyStep, report: StepReport) -> None:
        try:
            if isinstance(step, SketchStep):
                self._sketch(step, report)
            else:
                WORK[step.kind](self, step, report)
        except (StepFailure, KernelError, Refusal) as error:
            report.state, report.said = "failed", in_unit(error.sentence, self.document.unit)
            report.offers = Offers(**error.offers) if isinstance(error, StepFailure) else Offers()
            length = report.offers.get("quantity", "length") == "length"
            if (
                "largest" in report.offers and length and self.document.unit != "mm"
            ):  # it goes into a field as it stands
                report.offers["largest"] = rounded_down(report.offers["largest"] / MM_PER[self.document.unit])
            self.broken[step.id] = "failed"
        except Exception as error:  # whatever the kernel throws: the part before the step stays
            log.exception("step %s (%s) broke down", step.id, step.kind)
            report.state = "failed"
            report.said = "The geometry kernel gave up on this step; change its size or place a little."
            report.offers = {"cause": f"{type(error).__name__}: {error}"[:300]}
            self.broken[step.id] = "failed"

    # -- sketches --------------------------------------------------------------------------------

    def _sketch(self, step: SketchStep, report: StepReport) -> None:
        frame = self.plane(step)
        self.guides.frames[step.id] = frame
        report.frame = frame_data(frame)
        if step.projections:
            self._follow(step, frame, report)

    def _follow(self, step: SketchStep, frame: Frame, report: StepReport) -> None:
        """The part's edges in a sketch, where they are now."""
        of = [p.model_dump(mode="json") for p in step.projections]
        used = [p.of.step for p in step.projections if isinstance(p.of, GuideRef)]
        stood = [external_edges.guide(ident, frame, self.guides) for ident in used]
        key = content_hash(self.key, [frame.origin, frame.x, frame.y], of, [f and (f.kind, f.at) for f in stood])
        flats = self.cache.seen.get(key)
        if flats is None:
            solids = [b.solid for b in self.state.bodies]
            flats = self.cache.seen[key] = [
                external_edges.seen(solids, p.of, frame, self.guides) for p in step.projections
            ]
        followed = external_edges.follow(step, flats, values_for(self.document))
        if followed.sketch is not step.sketch:
            self.guides.sketches[step.id] = followed.sketch
        if followed.lost:
            report.said, report.offers = external_edges.lost_words(followed.lost), {"lost": followed.lost}

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
        return Pointing(self.document, self.state, self.guides)

    def source(self, ident: str) -> tuple[SketchStep, Sketch, Frame]:
        """A sketch a step is made from. Raises StepFailure while it has no place."""
        step = self.document.step(ident)
        number = self.document.position(ident)
        if not isinstance(step, SketchStep):
            raise StepFailure("This step is made from a sketch; choose one.", pick="sketch")
        if ident not in self.guides.frames:
            why = "is suppressed" if self.broken.get(ident) == "suppressed" else "has failed"
            raise StepFailure(f"Sketch {number} {why}; put that right first.", needs=ident)
        return step, self.guides.sketches.get(ident, step.sketch), self.guides.frames[ident]

    def profile(self, ident: str, sketch: Sketch) -> Profile:
        return self.cache.of(sketch, "profile", profile)

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
        report.said = in_unit(found.report["said"], self.document.unit)
        report.volume_change = found.report["volume_change"]
        report.extra = dict(found.report.get("extra", {}))
        if "callout" in report.extra:
            report.extra["callout"] = in_unit(report.extra["callout"], self.document.unit)


class Stopped(Exception):
    """The run was stopped on request; nothing is lost."""


def frame_data(frame: Frame) -> dict[str, Any]:
    return {"origin": frame.origin, "x": frame.x, "y": frame.y, "normal": frame.normal}


def build(document: Document, cache: Cache | None = None, **options: Any) -> Build:
    """Run a document's route. Raises nothing for a failing step: its report says so."""
    return Run(document, cache or Cache()).build(**options)

"""Proving callouts: each linked size is measured on the faces of the finished solid, never read from the input."""

from __future__ import annotations

import logging
import math
from dataclasses import dataclass, field
from typing import Any

from ..part.document import GONE, Callout
from ..part.units import number
from ..rebuild.engine import Build
from ..rebuild.resolve import Pointing
from ..sheet.requirement import Requirement
from ..solid.frame import dot
from ..solid.measure import surface
from ..solid.shapes import faces
from ..steps.kinds.extrude import ExtrudeStep, TwoDepths
from ..steps.kinds.hole import HoleStep
from ..steps.kinds.revolve import RevolveStep
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import Document
from ..steps.shared import read_callout
from .measured_callouts import faces_of, gauged
from .prove_built import between_sides
from .prove_sketch import EXACT, ShownFace, ShownFaces, SketchSize, reach_of
from .prove_steps import measure
from .shown import Measured, Unmeasurable

MOST = 60  # faces told of one callout

log = logging.getLogger(__name__)


@dataclass
class Verdict:
    """``state``: note, open (nothing uses it), used (used, but nothing to measure yet), proven, out, reference,
    changed (a newer issue of the sheet says otherwise, which is neither taken nor left)."""

    callout: str
    number: int
    state: str
    said: str
    measured: float | None = None
    nominal: float | None = None
    lower: float = 0.0
    upper: float = 0.0
    count: int | None = None
    faces: list[tuple[str, int]] = field(default_factory=list)  # that show it: body, and number among its faces


class Prover:
    def __init__(self, document: Document, build: Build) -> None:
        self.document, self.build = document, build
        self.solids = [b.solid for b in build.state.bodies]
        self.faces = [ShownFace(s, f, surface(f), s.face_tags(f)) for s in self.solids for f in faces(s.shape)]
        self.shown = ShownFaces(self.faces)
        of = [(b.id, i) for b in build.state.bodies for i, _ in enumerate(faces(b.solid.shape))]
        self.places = {id(f): place for f, place in zip(self.faces, of, strict=True)}
        self.used: list[ShownFace] = []  # the faces that the last size was measured on
        self.done = {r.id for r in build.reports if r.state == "ok"}
        self.steps = {s.id: s for s in document.steps}
        self.numbers = {s.id: 10 * (i + 1) for i, s in enumerate(document.steps)}
        self.users: dict[str, list[str]] = {}  # which steps made something of a sketch
        for s in document.steps:
            if isinstance(s, ExtrudeStep | RevolveStep | HoleStep) and s.id in self.done:
                self.users.setdefault(s.sketch, []).append(s.id)

    def verdict(self, callout: Callout) -> Verdict:
        r = read_callout(self.document, callout)
        v = Verdict(callout.id, callout.number, "open", "not used yet", None, r.nominal, r.lower, r.upper)
        if r.kind == "note" or r.nominal is None:
            v.state, v.said = "note", "a note"
            return v
        if callout.newer:
            v.state = "changed"
            v.said = "no longer on the sheet" if callout.newer == GONE else f"now {callout.newer} on the sheet"
            return v
        if callout.link is None and callout.gauged is None:
            return v
        v.state = "used"
        where = f"used in {self.numbers.get(callout.link.step, 0)}" if callout.link else "measured on the part"
        try:
            if callout.link:
                measured, count, extra = self._measure(callout, r)
            else:
                assert callout.gauged is not None
                measured, count, extra = gauged(self.document, self.build.state, callout.gauged, r)
        except Unmeasurable as reason:
            v.said = f"{where}; {reason}"
            return v
        except Exception:  # whatever the kernel throws at an odd shape: one size is not measured, the others are
            log.exception("measuring callout %s (%s)", callout.text, where)
            v.said = f"{where}; it could not be measured here"
            return v
        v.measured, v.count, v.faces = measured, count, self._shown_on(callout)
        return self._judge(v, r, extra)

    def _shown_on(self, callout: Callout) -> list[tuple[str, int]]:
        """The faces a callout was just measured on: a sketch size's, all that its step made, or those pointed at."""
        if callout.link is None:
            return faces_of(self.build.state, callout.gauged) if callout.gauged else []
        mine = {id(f): f for f in self.used or self.shown.from_step(callout.link.step)}
        return sorted(self.places[i] for i in mine)[:MOST]

    def _judge(self, v: Verdict, r: Requirement, extra: list[str]) -> Verdict:
        assert v.measured is not None and r.nominal is not None
        off = v.measured - r.nominal
        fits = r.fits(v.measured, EXACT)
        counted = v.count is None or v.count == r.count or r.typical
        shown = number(v.measured, 3 if abs(off) < EXACT or r.toleranced else 4)
        if r.reference:
            v.state, v.said = "reference", f"measures {shown}"
        elif fits and counted and not extra:
            v.state, v.said = "proven", f"proven {shown}"
            if r.general and abs(off) > EXACT:
                v.said += f", {number(abs(off))} {'over' if off > 0 else 'under'} {number(r.nominal)}"
        else:
            wrong = [*extra]
            if not fits:
                wrong.insert(0, f"measures {shown}")
            if not counted:
                wrong.append(f"{v.count} found, {r.count} asked")
            v.state, v.said = "out", "; ".join(wrong)
        return v

    def _measure(self, callout: Callout, r: Requirement) -> Measured:
        link, self.used = callout.link, []
        assert link is not None
        step = self.steps.get(link.step)
        if step is None:
            raise Unmeasurable("its step is gone")
        if not isinstance(step, SketchStep) and step.id not in self.done:
            raise Unmeasurable("its step is not built")
        if isinstance(step, ExtrudeStep):
            if link.field == "wall":
                return between_sides([f.surface for f in self._walls(step)]), None, []
            if link.field == "taper":
                return self._taper(step)
            return self._depth(step, link.field)
        if not isinstance(step, SketchStep):
            pointing = Pointing(self.document, self.build.state, self.build.guides)
            return measure(step, link.field, r, self.solids, pointing)
        d = next((d for d in step.sketch.dimensions if d.id == link.field), None)
        users = self.users.get(step.id, [])
        if d is None or not users or step.id not in self.build.frames:
            raise Unmeasurable("no solid is made from it yet")
        sketch = self.build.sketches.get(step.id, step.sketch)
        work = SketchSize(self.shown, self.solids, sketch, self.build.frames[step.id], users)
        self.used = work.used
        if d.kind in ("radius", "diameter"):
            return work.round(d, r)
        if d.kind == "angle":
            return work.angle(d, r), None, []
        if d.kind == "arc_length":
            return work.arc_length(d), None, []
        return work.distance(d), None, work.row(d, r)

    def _walls(self, step: ExtrudeStep) -> list[ShownFace]:
        """The walls a step grew; one that has become part of another step's shows no size of its own."""
        walls = self.shown.from_step(f"{step.id}/side")
        own = [f for f in walls if all(t.startswith(f"{step.id}/") for t in f.tags)]
        self.used += own or walls
        if not walls:
            raise Unmeasurable("nothing of its walls is left on the part")
        return own or walls

    def _taper(self, step: ExtrudeStep) -> Measured:
        n = self.build.frames[step.sketch].normal
        leans = [abs(dot(f.surface.direction, n)) for f in self._walls(step) if f.surface.kind == "plane"]
        if not leans:
            raise Unmeasurable("none of its walls is flat")
        found = [math.degrees(math.asin(min(1.0, lean))) for lean in leans]
        odd = max(found) - min(found)
        return found[0], None, [f"they differ by {number(odd)}°"] if odd > EXACT else []

    def _depth(self, step: ExtrudeStep, field: str) -> Measured:
        n = self.build.frames[step.sketch].normal
        caps = {}
        for end in ("start", "end"):
            tag = f"{step.id}/{end}"
            for f in self.shown.by_tag.get(tag, ()):
                if f.surface.kind == "plane":
                    self.used.append(f)
                    caps[end] = dot(f.surface.at, n)
        if isinstance(step.extent, TwoDepths):
            cap = caps.get("start" if field == "back" else "end")
            if cap is None:
                raise Unmeasurable("the face it ends at is no longer on the part")
            return abs(cap - dot(self.build.frames[step.sketch].origin, n)), None, []
        if len(caps) == 2:
            return abs(caps["end"] - caps["start"]), None, []
        return reach_of(self._walls(step), n), None, []


def prove(document: Document, build: Build) -> list[dict[str, Any]]:
    """A verdict for every callout, in balloon order."""
    prover = Prover(document, build)
    return [dict(vars(prover.verdict(c))) for c in sorted(document.callouts, key=lambda c: c.number)]

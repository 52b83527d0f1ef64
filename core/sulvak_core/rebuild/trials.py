"""What a part would weigh with a value changed, told by rebuilding no more of its route than that takes.

The route is run from the first step that changes to the last that hangs on it. What comes after is left out where it
cannot feel the change: it names none of those steps, works by sizes of its own, and the boxes around its tools and
around theirs are apart. Then it adds or takes away what it did before, to the last digit.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from ..part.errors import ExpressionError
from ..part.materials import density_of
from ..part.units import in_unit
from ..solid.blend import only_tried
from ..solid.extent import box
from ..solid.frame import XYZ
from ..solid.shapes import KernelError
from ..steps.kinds.body import BodyStep
from ..steps.kinds.datum import DatumStep
from ..steps.kinds.extrude import ExtrudeStep
from ..steps.kinds.hole import HoleStep
from ..steps.kinds.pattern import PatternStep
from ..steps.kinds.revolve import RevolveStep
from ..steps.kinds.sketch import SketchStep
from ..steps.kinds.text import TextStep
from ..steps.registry import AnyStep, Document, expressions, names, needs
from .engine import Build, Run
from .state import Cache, State
from .tooling import StepFailure

Box = tuple[XYZ, XYZ]
APART = 1e-3  # mm between boxes that cannot feel each other
OWN_EXTENTS = {"depth", "symmetric", "two_depths", "through_all", "through_both"}


@dataclass(frozen=True)
class Trial:
    """A part as it would be. ``volume`` in mm³; ``grams`` None while a body has no material. ``broken``: ids of steps
    that fail then and do not now, ``said`` what the first of them says; ``whole``: the route was run to its end."""

    volume: float
    grams: float | None
    broken: tuple[str, ...] = ()
    said: str = ""
    whole: bool = True

    def weight(self) -> float:
        """Grams, or mm³ while they are not known."""
        return self.volume if self.grams is None else self.grams


@dataclass
class Trials:
    """Changes of one built document tried one after the other. ``made`` is its build; ``stop`` ends a run."""

    document: Document
    made: Build
    cache: Cache
    stop: Callable[[], bool] | None = None
    _boxes: dict[str, list[Box] | None] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.failing = {r.id for r in self.made.failed}
        self.route = self.document.built()
        self.names = names(self.document)
        self.needs = {id(s): frozenset(needs(s)) for s in self.route}

    def now(self) -> Trial:
        """The part as it is."""
        return self.told(self.document, self.made)

    def of(self, changed: Document) -> Trial:
        """The part with a change that leaves the steps and their order as they are."""
        felt = self._felt(changed)
        last = None if felt is None else self._last(felt)
        if felt is None or last is None:
            return self.whole(changed)
        if last == "":
            return self.now()
        tried = self._built(changed.model_copy(update={"hold": last}))
        broken = self._broken(tried)
        if not broken and self._same_bodies(tried, last) and self._unfelt(felt, tried, last):
            before, after = self.made.states[last], tried.states[last]
            change = {
                b.id: a.solid.volume() - b.solid.volume() for a, b in zip(after.bodies, before.bodies, strict=True)
            }
            return self._changed(change)
        return self.whole(changed)

    def whole(self, changed: Document) -> Trial:
        """The same by the whole route."""
        return self.told(changed, self._built(changed))

    def _built(self, changed: Document) -> Build:
        with only_tried():
            return Run(changed, self.cache, self.stop, saying=False).build()

    def _broken(self, tried: Build) -> tuple[str, ...]:
        return tuple(r.id for r in tried.failed if r.id not in self.failing)

    def told(self, document: Document, tried: Build) -> Trial:
        """What came of a build of the changed document."""
        broken = self._broken(tried)
        first = next((r for r in tried.failed if r.id in broken), None)
        grams = self._grams(document, tried.state, {b.id: b.solid.volume() for b in tried.state.bodies})
        said = f"Step {first.number}: {in_unit(first.said, document.unit)}" if first else ""
        return Trial(tried.state.volume(), grams, broken, said)

    def _changed(self, change: dict[str, float]) -> Trial:
        volumes = {b.id: b.solid.volume() + change.get(b.id, 0.0) for b in self.made.state.bodies}
        grams = self._grams(self.document, self.made.state, volumes)
        return Trial(self.made.state.volume() + sum(change.values()), grams, whole=False)

    @staticmethod
    def _grams(document: Document, state: State, volumes: dict[str, float]) -> float | None:
        total = 0.0
        for body in state.bodies:
            rho = density_of(body.material or document.material, document.materials)
            if rho is None:
                return None
            total += volumes[body.id] * rho / 1000
        return total if state.bodies else None

    # -- how far a change is felt ------------------------------------------------------------------------------

    def _last(self, felt: set[str]) -> str | None:
        """The last of the steps that feel a change; "" where none does, None where what follows may feel it too."""
        if not felt:
            return ""
        last = max(i for i, s in enumerate(self.route) if s.id in felt)
        if all(_by_its_own(s) for s in self.route[last + 1 :]):
            return self.route[last].id
        return None

    def _felt(self, changed: Document) -> set[str] | None:
        """The steps that say something else than before, and those built on them; None where the route is another."""
        route = changed.built()
        if [s.id for s in route] != [s.id for s in self.route] or changed.hold != self.document.hold:
            return None
        known = names(changed)
        named = known.texts != self.names.texts
        felt: set[str] = set()
        for before, after in zip(self.route, route, strict=True):
            on = self.needs[id(before)] if before is after else frozenset(needs(after))
            if felt & on or (before is not after and before != after):
                felt.add(after.id)
                continue
            if not named:
                continue
            for _, text, kind in expressions(after):
                try:
                    if self.names.value(text, kind) != known.value(text, kind):
                        felt.add(after.id)
                        break
                except ExpressionError:
                    felt.add(after.id)
                    break
        return felt

    def _same_bodies(self, tried: Build, last: str) -> bool:
        """Whether the change leaves the same bodies, and these are there at the end."""
        mine = [b.id for b in self.made.states[last].bodies]
        end = {b.id for b in self.made.state.bodies}
        return mine == [b.id for b in tried.states[last].bodies] and set(mine) <= end

    def _unfelt(self, felt: set[str], tried: Build, last: str) -> bool:
        """Whether the steps after ``last`` are apart from all that changed."""
        at = next(i for i, s in enumerate(self.route) if s.id == last)
        changes: list[Box] = []
        for made in (self.made, tried):
            around = _around([box(b.shape) for b in made.states[last].bodies])
            for ident in felt:
                if isinstance(self.document.step(ident), SketchStep | BodyStep | DatumStep):
                    continue
                tools = _tools(made, ident)
                if tools is None or around is None:
                    return False
                changes += [_meet(t, around) for t in tools]
        end = _around([box(b.shape) for b in self.made.state.bodies])
        for step in self.route[at + 1 :]:
            if isinstance(step, SketchStep | BodyStep | DatumStep) or step.id in self.failing:
                continue
            if step.id not in self._boxes:
                self._boxes[step.id] = _tools(self.made, step.id)
            mine = self._boxes[step.id]
            if mine is None or end is None or any(_touch(a, b) for a in mine for b in changes):
                return False
        return True


def _by_its_own(step: AnyStep) -> bool:
    """Whether a step does the same wherever nothing it touches changes: its extent is its own, and it asks nothing of
    the rest of the part."""
    if isinstance(step, SketchStep):
        return not step.projections
    if isinstance(step, ExtrudeStep):
        return step.operation != "intersect" and step.extent.kind in OWN_EXTENTS
    if isinstance(step, HoleStep):
        return step.end != "next"
    if isinstance(step, RevolveStep):
        return step.operation != "intersect"
    if isinstance(step, PatternStep):
        return not step.bodies and not step.faces
    return isinstance(step, TextStep | BodyStep | DatumStep)


def _tools(made: Build, ident: str) -> list[Box] | None:
    """The boxes around a step's tools; None where it has none to show."""
    tooling = made.tooling.get(ident)
    if tooling is None:
        return None
    try:
        return [box(s.shape) for s in tooling.make(None, None)]
    except (KernelError, StepFailure):
        return None


def _around(boxes: list[Box]) -> Box | None:
    if not boxes:
        return None
    lows, highs = zip(*boxes, strict=True)
    low, high = (min(v) for v in zip(*lows, strict=True)), (max(v) for v in zip(*highs, strict=True))
    return tuple(low), tuple(high)  # type: ignore[return-value]


def _meet(a: Box, b: Box) -> Box:
    """The box that two share: of a tool that reaches beyond the part, what is in it."""
    low = tuple(max(p, q) for p, q in zip(a[0], b[0], strict=True))
    high = tuple(min(p, q) for p, q in zip(a[1], b[1], strict=True))
    return low, high  # type: ignore[return-value]


def _touch(a: Box, b: Box) -> bool:
    return all(a[0][k] <= b[1][k] + APART and b[0][k] <= a[1][k] + APART for k in range(3))

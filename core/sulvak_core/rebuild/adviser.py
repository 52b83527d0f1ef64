"""The order adviser: steps that would do better elsewhere on the route, found by what they did to the geometry.

Every piece of advice that moves a step has been tried: the route was run with the step moved, and what would differ
in volume is told. Advice that would break a step that builds now is not given.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from ..part.units import LengthUnit, in_unit, number, told
from ..solid.boolean import combine
from ..solid.frame import dot
from ..solid.shapes import KernelError
from ..steps.commands import MoveStep
from ..steps.effects import apply
from ..steps.kinds.chamfer import ChamferStep
from ..steps.kinds.draft import DraftStep
from ..steps.kinds.extrude import ExtrudeStep
from ..steps.kinds.fillet import FilletStep
from ..steps.kinds.hole import HoleStep
from ..steps.kinds.pattern import PatternStep
from ..steps.kinds.revolve import RevolveStep
from ..steps.kinds.shell import ShellStep
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import AnyStep, Document, needs
from .adviser_geometry import (
    SAME,
    alike,
    blends_beside,
    changed_faces,
    degrees_off,
    kept_bodies,
    main_directions,
    pieces,
    taken,
)
from .engine import Build, build
from .state import Cache, State

REFILLED = 0.95


@dataclass
class Advice:
    """One sentence about a step. ``command``: what to do about it; ``volume``: what the part would gain by it, mm³."""

    step: str
    kind: str
    said: str
    command: dict[str, Any] | None = None
    label: str = ""
    volume: float | None = None
    about: list[str] = field(default_factory=list)


class Adviser:
    """Looks at a finished build of a document. ``cache`` is shared, so that trials cost only what differs."""

    def __init__(self, document: Document, made: Build, cache: Cache) -> None:
        self.document, self.made, self.cache = document, made, cache
        self.steps = document.built()
        self.place = {s.id: i for i, s in enumerate(self.steps)}
        self.ok = {r.id for r in made.reports if r.state == "ok"}
        self.volume = made.state.volume()

    def all(self) -> list[Advice]:
        """Everything there is to say, in route order, one piece a step."""
        found: list[Advice] = []
        looks: list[Callable[[], Iterator[Advice]]] = [
            self._failing_shells,
            self._tubes,
            self._drafted_blends,
            self._before_union,
            self._tilted,
            self._cut_blends,
            self._refilled,
            self._idle,
        ]
        for look in looks:
            try:
                found += list(look())
            except KernelError:
                continue
        said: set[str] = set()
        kept = []
        for a in sorted(found, key=lambda a: self.place.get(a.step, 0)):
            if a.step not in said:
                said.add(a.step)
                kept.append(a)
        return kept

    # -- helpers ---------------------------------------------------------------------------------

    def n(self, ident: str) -> int:
        return self.document.position(ident)

    def before(self, ident: str) -> State:
        at = self.place[ident]
        return self.made.states[self.steps[at - 1].id] if at else State()

    def after(self, ident: str) -> State:
        return self.made.states[ident]

    def good(self, *kinds: type) -> list[Any]:
        return [s for s in self.steps if isinstance(s, kinds) and s.id in self.ok]

    def cuts(self) -> list[AnyStep]:
        """Steps that take material away: cuts, holes, patterns of them; letters are too shallow to be advised about."""
        found: list[AnyStep] = []
        for s in self.good(ExtrudeStep, RevolveStep, HoleStep, PatternStep):
            report = next(r for r in self.made.reports if r.id == s.id)
            if (report.volume_change or 0) < 0:
                found.append(s)
        return found

    def moved(self, ident: str, before: str | None) -> Build | None:
        """The part with a step moved before another (None: to the end); None when that cannot be or breaks a step."""
        return trial(self.document, self.made, self.cache, ident, before)

    def without(self, ident: str) -> Build | None:
        """The part with a step suppressed; None when a step would fail then that builds now."""
        steps = [s.model_copy(update={"suppressed": True}) if s.id == ident else s for s in self.document.steps]
        tried = build(self.document.model_copy(update={"steps": steps}), self.cache)
        failing = {r.id for r in self.made.failed}
        return None if any(r.id not in failing for r in tried.failed) else tried

    def next_of(self, ident: str) -> str | None:
        order = [s.id for s in self.document.steps]
        at = order.index(ident) + 1
        return order[at] if at < len(order) else None

    def move(
        self, step: str, before: str | None, kind: str, said: str, about: str, differs: bool = True
    ) -> Iterator[Advice]:
        """Advice to move ``step``, if it can be and makes a difference."""
        tried = self.moved(step, before)
        if tried is None:
            return
        gain = tried.state.volume() - self.volume
        if differs and abs(gain) <= SAME * self.volume:
            return
        command = {"do": "move_step", "step": step, "before": before, "bring": True}
        where = f"before step {self.n(before)}" if before else "to the end"
        label = f"Move step {self.n(step)} {where}"
        yield Advice(step, kind, f"{said} {_gain(gain, self.document.unit)}", command, label, gain, [about])

    # -- what it notices -------------------------------------------------------------------------

    def _failing_shells(self) -> Iterator[Advice]:
        """A shell does not fit after rounds, chamfers or cuts, and does before them. The nearest place that builds."""
        for shell in self.steps:
            if not isinstance(shell, ShellStep) or shell.id in self.ok:
                continue
            before = self.steps[: self.place[shell.id]]
            blends = [s for s in before if isinstance(s, FilletStep | ChamferStep) and s.id in self.ok]
            cuts = {s.id for s in self.cuts()}
            hindering = [s for s in before if s in blends or s.id in cuts]
            # before the last of them, before all rounds, before all: a shell can take the kernel long
            places = [s.id for s in (*hindering[-1:], *blends[:1], *hindering[:1])]
            for place in dict.fromkeys(places):
                tried = self.moved(shell.id, place)
                if tried is None or any(r.id == shell.id for r in tried.failed):
                    continue
                what = {"fillet": "rounds", "chamfer": "chamfers"}.get(self.steps[self.place[place]].kind, "cuts")
                said = (
                    f"The shell of step {self.n(shell.id)} does not fit after the {what} of step {self.n(place)}; "
                    "made before them it does."
                )
                yield from self.move(shell.id, place, "failing shell", said, place, differs=False)
                break

    def _tubes(self) -> Iterator[Advice]:
        """A shell put a wall behind the wall of a hole or pocket made before it."""
        for shell in self.good(ShellStep):
            grown = {t for b in self.after(shell.id).bodies for _, tags in b.solid.tags.items() for t in tags}
            for cut in self.cuts():
                if self.place[cut.id] >= self.place[shell.id]:
                    continue
                if any(t.startswith((f"{shell.id}/inner/{cut.id}/", f"{shell.id}/outer/{cut.id}/")) for t in grown):
                    what = "hole" if isinstance(cut, HoleStep) else "cut"
                    said = (
                        f"The shell of step {self.n(shell.id)} grows a wall around the {what} of step "
                        f"{self.n(cut.id)}. Made after the shell, it would only go through the wall."
                    )
                    yield from self.move(cut.id, self.next_of(shell.id), "tube", said, shell.id)

    def _drafted_blends(self) -> Iterator[Advice]:
        """Faces were drafted that carry rounds already."""
        for draft in self.good(DraftStep):
            state = self.before(draft.id)
            changed = changed_faces(state, self.after(draft.id), draft.id)
            blends = {step for b in state.bodies for step in blends_beside(b.solid, changed.__contains__)}
            rounds = [f for f in self.good(FilletStep) if f.id in blends and self.place[f.id] < self.place[draft.id]]
            if rounds:
                first = min(rounds, key=lambda f: self.place[f.id])
                said = (
                    f"Step {self.n(draft.id)} drafts faces that carry the rounds of step {self.n(first.id)}. "
                    "Draft first, then round: that is how the pattern is made."
                )
                yield from self.move(draft.id, first.id, "draft after rounds", said, first.id, differs=False)

    def _before_union(self) -> Iterator[Advice]:
        """A round, chamfer, draft or shell worked on one of two bodies that are united only later."""
        for step in self.good(FilletStep, ChamferStep, DraftStep, ShellStep):
            bodies = self.before(step.id).bodies
            if len(bodies) < 2:
                continue
            touched = {
                b.id for b, a in kept_bodies(self.before(step.id), self.after(step.id)) if b.solid is not a.solid
            }
            for later in self.steps[self.place[step.id] + 1 :]:
                if later.id not in self.ok or isinstance(later, SketchStep):
                    continue
                gone = {b.id for b in self.before(later.id).bodies} - {b.id for b in self.after(later.id).bodies}
                known = {b.id for b in bodies}
                grown = _grown(self, later.id)
                # the body worked on was taken in by one that grew, or it grew by taking in another
                if not gone & known or not (grown if touched & gone else grown & touched):
                    continue
                verb = {"fillet": "rounds", "chamfer": "chamfers", "draft": "drafts", "shell": "shells"}[step.kind]
                said = (
                    f"Step {self.n(step.id)} {verb} a body that step {self.n(later.id)} unites with another only "
                    "afterwards, so it knows nothing of that one."
                )
                one = f"{said} United first, it would treat both as one."
                if self.moved(step.id, self.next_of(later.id)) is not None:
                    yield from self.move(step.id, self.next_of(later.id), "before union", one, later.id)
                elif isinstance(step, FilletStep | ChamferStep):
                    yield from self._groove(step, later, said)
                break

    def _groove(self, step: FilletStep | ChamferStep, later: AnyStep, said: str) -> Iterator[Advice]:
        """Edges blended where two bodies meet once they are united: a groove stays there, and the edges are gone, so
        that the step can only be left out."""
        before = self.before(later.id)
        worked = {b.id for b, a in kept_bodies(self.before(step.id), self.after(step.id)) if b.solid is not a.solid}
        others = {t for b in before.bodies if b.id not in worked for _, tags in b.solid.tags.items() for t in tags}
        beside = [blends_beside(b.solid, lambda tags: bool(tags & others)) for b in self.after(later.id).bodies]
        if not any(step.id in blends for blends in beside):
            return
        tried = self.without(step.id)
        if tried is None:
            return
        gain = tried.state.volume() - self.volume
        if abs(gain) <= SAME * self.volume:
            return
        said += (
            f" Its edges lie where the two meet: a groove is left there, which nothing fills. Leave step "
            f"{self.n(step.id)} out, or take those edges out of it. {_gain(gain, self.document.unit)}"
        )
        command = {"do": "set_step", "step": step.id, "changes": {"suppressed": True}}
        yield Advice(step.id, "before union", said, command, f"Suppress step {self.n(step.id)}", gain, [later.id])

    def _tilted(self) -> Iterator[Advice]:
        """A hole, cut or pattern runs along a direction a little off the one the rest of the part has."""
        main = main_directions(self.made.state)
        if not main:
            return
        for step in self.good(HoleStep, ExtrudeStep):
            if isinstance(step, ExtrudeStep) and step.operation != "cut":
                continue
            frame = self.made.frames.get(step.sketch)
            off = degrees_off(frame.normal, main) if frame else None
            if off:
                said = (
                    f"Step {self.n(step.id)} goes in {number(off, 2)}° off the direction most of the part has, because "
                    f"its sketch lies on a tilted face. If that is not meant, sketch on a datum plane instead."
                )
                yield Advice(step.id, "tilted", said, about=[step.sketch])
        for step in self.good(PatternStep):
            if step.form == "mirror" or step.along is None or step.along.kind == "axis":
                continue
            from .resolve import Pointing

            axis = Pointing(self.document, self.before(step.id), self.made.guides)
            try:
                direction = axis.axis(step.along).direction
            except Exception:
                continue
            off = degrees_off(direction, main)
            if off:
                names = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
                name, way = max(names.items(), key=lambda kv: abs(dot(kv[1], direction)))
                turned = dot(way, direction) < 0
                command = {
                    "do": "set_step",
                    "step": step.id,
                    "changes": {"along": {"kind": "axis", "axis": name}, "reverse": step.reverse != turned},
                }
                said = (
                    f"Step {self.n(step.id)} repeats along a tilted face or edge, {number(off, 2)}° off the direction "
                    f"most of the part has."
                )
                yield Advice(step.id, "tilted", said, command, f"Take the {name.upper()} axis")

    def _cut_blends(self) -> Iterator[Advice]:
        """A later cut swallows or splits a round, and could come first."""
        for fillet in self.good(FilletStep):
            for cut in self.cuts():
                if self.place[cut.id] <= self.place[fillet.id]:
                    continue
                was, now = pieces(self.before(cut.id), fillet.id), pieces(self.after(cut.id), fillet.id)
                lost, split = set(was) - set(now), [t for t in now if now[t] > was.get(t, 0)]
                if not lost and not split:
                    continue
                verb = "swallows" if lost else "splits"
                said = (
                    f"The cut of step {self.n(cut.id)} {verb} a round of step {self.n(fillet.id)}. Cut first, and the "
                    "round follows the edge that is left."
                )
                yield from self.move(cut.id, fillet.id, "cut round", said, fillet.id)
                break

    def _refilled(self) -> Iterator[Advice]:
        """What one step cut away a later one fills again."""
        for cut in self.cuts():
            later = [
                s
                for s in self.steps[self.place[cut.id] + 1 :]
                if s.id in self.ok and self.after(s.id).volume() > self.before(s.id).volume() * (1 + SAME)
            ]
            # no more comes back than later steps add, which is known without cutting solids with each other
            gone = self.before(cut.id).volume() - self.after(cut.id).volume()
            if sum(self.after(s.id).volume() - self.before(s.id).volume() for s in later) < REFILLED * gone:
                continue
            hollow = taken(self.before(cut.id), self.after(cut.id))
            whole = sum(s.volume() for s in hollow)
            if whole <= SAME * max(self.volume, 1.0):
                continue
            final = [b.solid for b in self.made.state.bodies]
            back = sum(s.volume() for s in combine("intersect", hollow, final, "advice")) if final else 0.0
            if back < REFILLED * whole:
                continue
            if later:
                said = (
                    f"What step {self.n(cut.id)} cuts away step {self.n(later[-1].id)} fills again "
                    f"({number(100 * back / whole, 0)} % of it). One of them may be left out."
                )
                command = {"do": "set_step", "step": cut.id, "changes": {"suppressed": True}}
                yield Advice(cut.id, "refilled", said, command, f"Suppress step {self.n(cut.id)}", about=[later[-1].id])

    def _idle(self) -> Iterator[Advice]:
        """A step none of whose faces is left, and without which the part is the same."""
        left = {t.split("/")[0] for b in self.made.state.bodies for _, tags in b.solid.tags.items() for t in tags}
        inner = {
            p for b in self.made.state.bodies for _, tags in b.solid.tags.items() for t in tags for p in t.split("/")
        }
        used = {n for s in self.steps for n in needs(s)}
        for step in self.good(ExtrudeStep, RevolveStep, HoleStep, PatternStep, FilletStep):
            if step.id in left or step.id in inner or step.id in used:
                continue
            without = [s.model_copy(update={"suppressed": True}) if s.id == step.id else s for s in self.document.steps]
            tried = build(self.document.model_copy(update={"steps": without}), self.cache)
            if tried.failed or not alike(tried.state, self.made.state):
                continue
            said = f"Step {self.n(step.id)} no longer changes anything: the finished part is the same without it."
            command = {"do": "set_step", "step": step.id, "changes": {"suppressed": True}}
            yield Advice(step.id, "idle", said, command, f"Suppress step {self.n(step.id)}", 0.0)


def trial(document: Document, made: Build, cache: Cache, ident: str, before: str | None) -> Build | None:
    """A build with one step moved; None where the order forbids it, or a step would fail that builds now."""
    from ..part.errors import Refusal

    try:
        changed = apply(document, MoveStep(step=ident, before=before, bring=True)).document
    except Refusal:
        return None
    tried = build(changed, cache)
    failing = {r.id for r in made.failed}
    return None if any(r.id not in failing for r in tried.failed) else tried


def advise(document: Document, made: Build, cache: Cache) -> list[Advice]:
    """All advice on a built document's order."""
    return Adviser(document, made, cache).all()


@dataclass
class Place:
    """Where a step could stand: before ``before`` (None: at the end), what the part would gain in mm³, and which steps
    would fail there."""

    before: str | None
    now: bool
    volume: float
    failing: list[str]


def places(document: Document, made: Build, cache: Cache, ident: str) -> list[Place]:
    """Every place a step can take on the route, each tried."""
    from ..part.errors import Refusal

    rest = [s.id for s in document.steps if s.id != ident]
    order = [s.id for s in document.steps]
    found: list[Place] = []
    known: set[str] = set()
    step = document.step(ident)
    ground = set(needs(step)) if step else set()
    for before in [*rest, None]:
        at = rest.index(before) if before else len(rest)
        here = order.index(ident) == at
        if before in ground:
            continue  # it would only take that along
        try:
            changed = apply(document, MoveStep(step=ident, before=before, bring=True)).document
        except Refusal:
            continue
        tried = made if here else build(changed, cache)
        failing = [r.id for r in tried.failed]
        key = f"{tried.key} {failing}"
        if key in known and not here:
            continue  # no different from a place before it
        known.add(key)
        found.append(Place(before, here, tried.state.volume() - made.state.volume(), failing))
    return found


def _gain(gain: float, unit: LengthUnit) -> str:
    if abs(gain) < 5e-3:
        return "The volume stays as it is."
    return in_unit(f"It would {'add' if gain > 0 else 'save'} {told(abs(gain), 3)}.", unit)


def _grown(adviser: Adviser, step: str) -> set[str]:
    """The bodies that a step made larger."""
    pairs = kept_bodies(adviser.before(step), adviser.after(step))
    return {b.id for b, a in pairs if a.solid.volume() > b.solid.volume()}

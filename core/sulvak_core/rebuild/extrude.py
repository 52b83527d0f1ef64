"""What the extrude step does to the bodies."""

from __future__ import annotations

from dataclasses import dataclass, field

from ..part.units import length, number
from ..sketch.profiles import Profile, Region
from ..solid.boolean import combine
from ..solid.frame import Frame, dot
from ..solid.measure import reach
from ..solid.prism import prism
from ..solid.shapes import KernelError, Solid
from ..steps.extrude_step import ExtrudeStep, ThroughAll
from .state import Body, State

NOTHING = 1e-9  # share of the tool's volume under which a cut removes nothing


class StepFailure(Exception):
    """A step that cannot be done: its sentence, and what could be done instead (``offers``)."""

    def __init__(self, sentence: str, **offers: object) -> None:
        super().__init__(sentence)
        self.sentence, self.offers = sentence, offers


@dataclass
class Done:
    """The bodies after a step, what it did in words, and more for the screen."""

    state: State
    said: str
    extra: dict[str, object] = field(default_factory=dict)


def regions_for(step: ExtrudeStep, profile: Profile) -> list[Region]:
    """The regions a step works on. Raises StepFailure when there are none or one is gone."""
    if step.regions is None:
        chosen: list[Region | None] = list(profile.default())
    else:
        chosen = list(profile.chosen(step.regions))
    if not profile.regions:
        where = (
            f" It has {len(profile.open_ends)} open end{'' if len(profile.open_ends) == 1 else 's'}."
            if profile.open_ends
            else " Draw a closed outline in it."
        )
        raise StepFailure(f"The sketch holds no closed profile.{where}", open_ends=profile.open_ends)
    if not chosen or None in chosen:
        raise StepFailure("A region this step used is no longer in the sketch; pick the regions again.", pick="regions")
    return [r for r in chosen if r is not None]


def span(step: ExtrudeStep, depth: float | None, frame: Frame, bodies: list[Body], into: bool) -> tuple[float, float]:
    """From where to where along the sketch's normal, in mm. ``into``: forward is against the normal."""
    forward = -1.0 if into != step.reverse else 1.0
    if isinstance(step.extent, ThroughAll):
        if not bodies:
            raise StepFailure("There is nothing yet to go through; extrude a base first.")
        least, most = 0.0, 0.0
        for body in bodies:
            lo, hi = reach(body.shape, frame.normal)
            at = dot(frame.origin, frame.normal)
            least, most = min(least, lo - at), max(most, hi - at)
        margin = 0.05 * (most - least) + 1.0
        return (0.0, most + margin) if forward > 0 else (least - margin, 0.0)
    assert depth is not None
    if step.extent.kind == "symmetric":
        return -depth / 2, depth / 2
    return (0.0, depth) if forward > 0 else (-depth, 0.0)


def tools(step: ExtrudeStep, frame: Frame, regions: list[Region], start: float, end: float) -> list[Solid]:
    """The solids over the regions, each apart. A lone one is checked; of several only what comes of them is."""
    made = [prism(frame, r, start, end, step.id, check=len(regions) == 1) for r in regions]
    if start < 0 and end <= 0:
        # walked against the normal: the cap on the sketch is the start
        for solid in made:
            for face, tags in list(solid.tags.items()):
                swapped = {f"{step.id}/start": f"{step.id}/end", f"{step.id}/end": f"{step.id}/start"}
                solid.tags.put(face, frozenset(swapped.get(t, t) for t in tags))
    return made


def extrude(
    step: ExtrudeStep, depth: float | None, frame: Frame, profile: Profile, state: State, on_face: bool
) -> Done:
    """Carry out an extrude. ``depth`` in mm; None for through all."""
    if step.operation != "cut" and isinstance(step.extent, ThroughAll):
        raise StepFailure("Through all is for cutting; give an added body a depth.", field="extent")
    regions = regions_for(step, profile)
    targets = [b for b in state.bodies if step.bodies is None or b.id in step.bodies]
    into = step.operation == "cut" and on_face
    if step.operation == "cut" and not targets:
        raise StepFailure("There is nothing yet to cut; extrude a base first.")
    start, end = span(step, depth, frame, targets, into)
    made = tools(step, frame, regions, start, end)
    if step.operation == "cut":
        return _cut(step, depth, frame, state, targets, regions, made, into)
    if step.operation == "new" or not targets:
        if len(made) > 1:  # those that share a wall become one
            made = combine("union", made[:1], made[1:], "extrusion")
        fresh = [Body(_body_id(step.id, i), solid) for i, solid in enumerate(made)]
        return Done(State([*state.bodies, *fresh]), _count("Makes", len(fresh), "body", "bodies") + ".")
    return _add(step, state, targets, made)


def _body_id(step: str, index: int) -> str:
    return step if index == 0 else f"{step}x{index + 1}"


def _free_id(ident: str, taken: set[str]) -> str:
    root = ident.split("x")[0]
    return next(f"{root}x{k}" for k in range(2, len(taken) + 3) if f"{root}x{k}" not in taken)


def _count(verb: str, n: int, one: str, many: str) -> str:
    return f"{verb} {n} {one if n == 1 else many}"


def _overlap(bodies: list[Body], solids: list[Solid]) -> float:
    common = combine("intersect", [b.solid for b in bodies], solids, "cut")
    return sum(s.volume() for s in common)


def _cut(
    step: ExtrudeStep,
    depth: float | None,
    frame: Frame,
    state: State,
    targets: list[Body],
    regions: list[Region],
    made: list[Solid],
    into: bool,
) -> Done:
    after: list[Body] = []
    gone = 0
    for body in state.bodies:
        if body not in targets:
            after.append(body)
            continue
        pieces = combine("subtract", [body.solid], made, "cut")
        gone += not pieces
        for i, piece in enumerate(sorted(pieces, key=lambda s: -s.volume())):
            ident = body.id if i == 0 else _free_id(body.id, {b.id for b in [*state.bodies, *after]})
            after.append(Body(ident, piece, body.title, body.colour, body.material))
    removed = state.volume() - State(after).volume()
    if removed <= NOTHING * sum(s.volume() for s in made):
        turned = step.model_copy(update={"reverse": not step.reverse})
        helps = False
        if step.extent.kind != "symmetric":
            other = span(turned, depth, frame, targets, into)
            helps = _overlap(targets, tools(turned, frame, regions, *other)) > 0
        hint = " Turned round it would cut." if helps else " Move the sketch, or make the cut deeper."
        raise StepFailure(
            f"This removes nothing: the profile lies outside the part in this direction.{hint}",
            **({"offer": {"label": "Turn round", "changes": {"reverse": not step.reverse}}} if helps else {}),
        )
    more = len(after) - len(state.bodies)
    note = f" It falls into {len(after)} bodies." if more > 0 else " A whole body is cut away." if gone else ""
    return Done(State(after), f"Removes {number(removed, 2)} mm³.{note}")


def _add(step: ExtrudeStep, state: State, targets: list[Body], made: list[Solid]) -> Done:
    united = combine("union", [b.solid for b in targets], made, "extrusion")
    after: list[Body] = [b for b in state.bodies if b not in targets]
    taken: set[str] = set()
    fresh = 0
    for solid in sorted(united, key=lambda s: -s.volume()):
        heirs = [b for b in targets if b.id not in taken and _shares(b.solid, solid)]
        if heirs:
            first = heirs[0]
            taken |= {b.id for b in heirs}
            after.append(Body(first.id, solid, first.title, first.colour, first.material))
        else:
            after.append(Body(_body_id(step.id, fresh), solid))
            fresh += 1
    order = {b.id: i for i, b in enumerate(state.bodies)}
    after.sort(key=lambda b: order.get(b.id, len(order)))
    added = State(after).volume() - state.volume()
    if added <= NOTHING * sum(s.volume() for s in made):
        raise StepFailure("This adds nothing: the part already fills that space. Turn it round, or cut instead.")
    apart = " It stands apart from the part, as a body of its own." if fresh else ""
    joined = " It joins bodies into one." if len(after) < len(state.bodies) else ""
    return Done(State(after), f"Adds {number(added, 2)} mm³.{apart}{joined}")


def _shares(before: Solid, after: Solid) -> bool:
    mine = {t for _, tags in before.tags.items() for t in tags}
    return any(tags & mine for _, tags in after.tags.items())


def sentence(step: ExtrudeStep, sketch_number: int, depth: float | None, unit: str) -> str:
    """The step as one sentence: “Cut Sketch 30 through all”."""
    verb = {"add": "Extrude", "cut": "Cut", "new": "Extrude as a new body"}[step.operation]
    if step.extent.kind == "through_all":
        how = "through all"
    else:
        size = length(depth or 0.0, "in" if unit == "in" else "mm")
        how = f"by {size} {unit}" + (", symmetric" if step.extent.kind == "symmetric" else "")
    return f"{verb} sketch {sketch_number} {how}" + (", turned round" if step.reverse else "")


__all__ = ["Done", "KernelError", "StepFailure", "extrude", "sentence"]

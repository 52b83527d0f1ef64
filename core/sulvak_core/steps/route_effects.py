"""Effects of the commands on the route: adding, changing, moving, deleting steps; the hold point."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from ..part.errors import Refusal
from ..part.materials import known_material
from . import commands as c
from . import walk
from .kinds.body import BodyStep
from .kinds.datum import DatumStep
from .kinds.sketch import SketchStep
from .registry import AnyStep, Document, names, needs
from .shared import Outcome, altered, sketch_step, step_of, title, with_step


def check_order(document: Document) -> None:
    seen: set[str] = set()
    every = {s.id for s in document.steps}
    for step in document.steps:
        for need in needs(step):
            if need in every and need not in seen:
                mine, other = document.position(step.id), document.position(need)
                raise Refusal(
                    f"“{title(document, step)}” is built on “{title(document, step_of(document, need))}” and cannot "
                    f"come before it (they would be steps {mine} and {other}).",
                    step=step.id,
                    needs=need,
                )
            if need not in every:
                raise Refusal("This is built on a step that is not in the route; pick again.", step=step.id)
        seen.add(step.id)


def _add_step(document: Document, command: c.AddStep) -> Outcome:
    if document.step(command.step.id) is not None:
        raise Refusal("This step is in the route already.", step=command.step.id)
    after = command.after or document.hold
    ids = [s.id for s in document.steps]
    if after is not None and after not in ids:
        raise Refusal("The step to put it after is no longer in the route.", step=after)
    at = ids.index(after) + 1 if after else len(ids)
    steps = [*document.steps[:at], command.step, *document.steps[at:]]
    used = max(document.used, *(int(s.id[1:]) for s in steps))
    changed = altered(document, steps=steps, used=used)
    if document.hold is not None and after == document.hold:
        changed = altered(changed, hold=command.step.id)
    check_step(changed, command.step)
    check_order(changed)
    return Outcome(changed)


def check_step(document: Document, step: AnyStep) -> None:
    """Raises Refusal if what a step names or says cannot be."""
    if isinstance(step, BodyStep):
        known_material(step.material, document.materials)
    if hasattr(step, "sketch") and not isinstance(step, SketchStep):
        sketch_step(document, step.sketch)
    known = names(document)
    for name, text, kind, signed in walk.expressions(step):
        value = known.value(text, kind)
        if not signed and value <= 0:
            what = name.replace("_", " ").rstrip("0123456789")
            turn = "; to go the other way, turn the direction round" if what == "depth" else ""
            raise Refusal(f"{_article(what).capitalize()} {what} is more than zero{turn}.", step=step.id, field=name)


def _article(noun: str) -> str:
    return "an" if noun[0] in "aeiou" else "a"


def set_step(document: Document, command: c.SetStep) -> Outcome:
    old = step_of(document, command.step)
    if {"id", "kind"} & set(command.changes) or (isinstance(old, SketchStep) and "sketch" in command.changes):
        raise Refusal("A step's kind and its drawing cannot be replaced this way.", step=old.id)
    try:
        new = type(old).model_validate({**old.model_dump(), **command.changes})
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal(f"Step {document.position(old.id)} cannot take this: {first['msg']}.", step=old.id) from None
    changed = with_step(document, new)
    check_step(changed, new)
    check_order(changed)
    return Outcome(changed)


def _group_steps(document: Document, command: c.GroupSteps) -> Outcome:
    order = [s.id for s in document.steps]
    first, last = (order.index(step_of(document, i).id) for i in (command.first, command.last))
    if last < first:
        raise Refusal("A group goes from one step on to a later one; the last stands before the first here.")
    name = command.name.strip()
    steps = [s.model_copy(update={"group": name}) if first <= i <= last else s for i, s in enumerate(document.steps)]
    return Outcome(altered(document, steps=steps))


def _suppress_steps(document: Document, command: c.SuppressSteps) -> Outcome:
    chosen = {step_of(document, i).id for i in command.steps}
    steps = [s.model_copy(update={"suppressed": command.suppressed}) if s.id in chosen else s for s in document.steps]
    return Outcome(altered(document, steps=steps))


def dependents(document: Document, ident: str) -> list[str]:
    """Ids of the steps built on this one, directly or through others, in route order."""
    hit = {ident}
    for step in document.steps:
        if hit & set(needs(step)):
            hit.add(step.id)
    return [s.id for s in document.steps if s.id in hit and s.id != ident]


def _delete_step(document: Document, command: c.DeleteStep) -> Outcome:
    step = step_of(document, command.step)
    hanging = dependents(document, step.id)
    if hanging and not command.with_dependents:
        said = ", ".join(str(document.position(i)) for i in hanging)
        raise Refusal(
            f"Step{'s' if len(hanging) > 1 else ''} {said} {'are' if len(hanging) > 1 else 'is'} built on step "
            f"{document.position(step.id)}. Delete {'them' if len(hanging) > 1 else 'it'} too?",
            step=step.id,
            dependents=hanging,
            offer="with_dependents",
        )
    gone = {step.id, *hanging}
    kept = [s for s in document.steps if s.id not in gone]
    hold = document.hold
    if hold in gone:
        before = [s.id for s in document.steps[: [s.id for s in document.steps].index(hold)] if s.id not in gone]
        hold = before[-1] if before and kept and kept[-1].id != before[-1] else None
    callouts = [b.model_copy(update={"link": None}) if b.link and b.link.step in gone else b for b in document.callouts]
    return Outcome(altered(document, steps=kept, hold=hold, callouts=callouts))


def _move_step(document: Document, command: c.MoveStep) -> Outcome:
    step = step_of(document, command.step)
    if command.before is not None:
        step_of(document, command.before)
        if command.before == step.id:
            return Outcome(document)
    going = _with_ground(document, step, command.before) if command.bring else {step.id}
    try:
        return Outcome(_placed(document, going, command.before))
    except Refusal as refusal:
        if not command.bring:
            ground = _with_ground(document, step, command.before)
            if len(ground) > 1:
                try:
                    _placed(document, ground, command.before)
                except Refusal:
                    raise refusal from None
                refusal.detail["offer"] = "bring"
        raise


def _with_ground(document: Document, step: AnyStep, before: str | None) -> set[str]:
    """A step with the sketches and datums it is made from that stand after the place it is going to."""
    order = [s.id for s in document.steps]
    at = order.index(before) if before else len(order)
    going, ahead = {step.id}, [step]
    while ahead:
        for need in needs(ahead.pop()):
            ground = document.step(need)
            if isinstance(ground, SketchStep | DatumStep) and need not in going and order.index(need) >= at:
                going.add(need)
                ahead.append(ground)
    return going


def _placed(document: Document, going: set[str], before: str | None) -> Document:
    """The document with some steps, in their order, put before another. Raises Refusal when the order forbids it."""
    moved = [s for s in document.steps if s.id in going]
    rest = [s for s in document.steps if s.id not in going]
    at = len(rest) if before is None else next((i for i, s in enumerate(rest) if s.id == before), len(rest))
    changed = altered(document, steps=[*rest[:at], *moved, *rest[at:]])
    check_order(changed)
    return changed


def _set_hold(document: Document, command: c.SetHold) -> Outcome:
    if command.step is not None:
        step_of(document, command.step)
    last = document.steps[-1].id if document.steps else None
    return Outcome(altered(document, hold=None if command.step == last else command.step))


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.AddStep: _add_step,
    c.SetStep: set_step,
    c.GroupSteps: _group_steps,
    c.SuppressSteps: _suppress_steps,
    c.DeleteStep: _delete_step,
    c.MoveStep: _move_step,
    c.SetHold: _set_hold,
}

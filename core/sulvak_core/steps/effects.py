"""What commands do: a document and a command in, a new document out, or a Refusal and nothing changed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from ..part.document import Link, NamedValue
from ..part.errors import ExpressionError, Refusal
from ..part.expressions import check_name, evaluate, names_in, rename_in
from ..part.materials import material
from ..sheet.notation import parse
from ..sketch import edit
from ..sketch.edit import Values
from ..sketch.model import Dimension
from ..sketch.words import thing
from . import commands as c
from .extrude_step import ExtrudeStep
from .registry import AnyStep, Document, expressions, names, needs
from .sketch_step import SketchStep


@dataclass
class Outcome:
    """The new document and what is worth telling about the change."""

    document: Document
    said: list[str] = field(default_factory=list)
    skipped: list[str] = field(default_factory=list)


def values_for(document: Document) -> Values:
    """How a document's dimensions are worked out."""
    known = names(document)
    return Values(lambda text, kind: known.value(text, "angle" if kind == "angle" else "length"), document.unit)


def apply(document: Document, command: c.Command) -> Outcome:
    """Carry out a command. Pure: ``document`` is not changed. Raises Refusal."""
    outcome = _EFFECTS[type(command)](document, command)
    outcome.document = _follow(document, outcome.document)
    return outcome


def _with(document: Document, **update: Any) -> Document:
    return document.model_copy(update=update)


def _with_step(document: Document, step: AnyStep) -> Document:
    return _with(document, steps=[step if s.id == step.id else s for s in document.steps])


def _step(document: Document, ident: str) -> AnyStep:
    step = document.step(ident)
    if step is None:
        raise Refusal("This step is no longer in the route.", step=ident)
    return step


def _sketch_step(document: Document, ident: str) -> SketchStep:
    step = _step(document, ident)
    if not isinstance(step, SketchStep):
        raise Refusal(f"Step {document.position(ident)} is not a sketch.", step=ident)
    return step


def _sketch_values(document: Document) -> dict[str, dict[str, float]]:
    values = values_for(document)
    return {s.id: values.all(s.sketch) for s in document.steps if isinstance(s, SketchStep)}


def _follow(before: Document, after: Document) -> Document:
    """Every sketch whose values changed by what others say is solved again; every expression must work out."""
    if before.values == after.values and before.steps == after.steps and before.unit == after.unit:
        return after
    known = names(after)
    for step in after.steps:
        for name, text, kind in expressions(step):
            if isinstance(step, SketchStep) and not next(d for d in step.sketch.dimensions if d.id == name).driving:
                continue
            try:
                known.value(text, kind)
            except ExpressionError as error:
                error.detail.setdefault("step", step.id)
                raise
    for value in after.values:
        known.value(value.expr, value.kind)
    old, new = _sketch_values(before), _sketch_values(after)
    values = values_for(after)
    for step in after.steps:
        if isinstance(step, SketchStep) and step.id in old and _moved(old[step.id], new[step.id]):
            previous = before.step(step.id)
            if isinstance(previous, SketchStep) and previous.sketch != step.sketch:
                continue  # the command itself has solved it
            solved = edit.resolve(step.sketch, values).sketch
            after = _with_step(after, step.model_copy(update={"sketch": solved}))
    return after


def _moved(old: dict[str, float], new: dict[str, float]) -> bool:
    return any(k in old and old[k] != v for k, v in new.items())


# -- the part -----------------------------------------------------------------------------------


def _set_part(document: Document, command: c.SetPart) -> Outcome:
    changes = command.changes.model_dump(exclude_unset=True)
    if changes.get("material") and material(changes["material"]) is None:
        raise Refusal(f"There is no material “{changes['material']}” in the library; choose one from the list.")
    for key in ("name", "number", "unit"):
        if key in changes and changes[key] is None:
            raise Refusal(f"A part needs a {key}.")
    after = Document.model_validate({**document.model_dump(), **changes})
    if after.unit != document.unit:
        after = _in_unit(document, after)
    return Outcome(after)


def _in_unit(before: Document, after: Document) -> Document:
    """Bare numbers were typed in the old unit: they say so from now on, so that no size changes."""
    old = before.unit

    def kept(text: str) -> str:
        try:
            same = abs(evaluate(text, "length", "mm") - evaluate(text, "length", "in")) < 1e-12
        except ExpressionError:
            same = bool(names_in(text))
        return text if same else f"{text} {old}" if _plain(text) else f"({text}) {old}"

    steps: list[AnyStep] = []
    for step in after.steps:
        if isinstance(step, SketchStep):
            fresh = [
                d if d.kind == "angle" else d.model_copy(update={"expr": kept(d.expr)}) for d in step.sketch.dimensions
            ]
            step = step.model_copy(update={"sketch": step.sketch.model_copy(update={"dimensions": fresh})})
        elif isinstance(step, ExtrudeStep) and step.extent.kind != "through_all":
            extent = step.extent.model_copy(update={"depth": kept(step.extent.depth)})
            step = step.model_copy(update={"extent": extent})
        steps.append(step)
    values = [v.model_copy(update={"expr": kept(v.expr)}) if v.kind == "length" else v for v in after.values]
    return _with(after, steps=steps, values=values)


def _plain(text: str) -> bool:
    return text.strip().replace(".", "", 1).replace(",", "", 1).isdigit()


def _set_value(document: Document, command: c.SetValue) -> Outcome:
    listed = [v.name for v in document.values]
    old = next((v for v in document.values if v.name == command.name), None)
    if old is None:
        if command.expr is None:
            raise Refusal(f"There is no value named “{command.name}” to change.")
        check_name(command.name)
        if command.name in names(document).texts:
            raise Refusal(f"“{command.name}” names a dimension already; choose another name.")
        fresh = NamedValue(name=command.name, expr=command.expr, kind=command.kind)
        return Outcome(_with(document, values=[*document.values, fresh]))
    new = old.model_copy(update={"expr": command.expr or old.expr})
    after = _with(document, values=[new if v.name == old.name else v for v in document.values])
    if command.rename_to and command.rename_to != old.name:
        check_name(command.rename_to)
        if command.rename_to in listed or command.rename_to in names(document).texts:
            raise Refusal(f"“{command.rename_to}” is taken; choose another name.")
        after = _renamed(after, old.name, command.rename_to)
    return Outcome(after)


def _renamed(document: Document, old: str, new: str) -> Document:
    values = [
        v.model_copy(update={"name": new if v.name == old else v.name, "expr": rename_in(v.expr, old, new)})
        for v in document.values
    ]
    steps: list[AnyStep] = []
    for step in document.steps:
        if isinstance(step, SketchStep):
            dims = [
                d.model_copy(update={"expr": rename_in(d.expr, old, new), "name": new if d.name == old else d.name})
                for d in step.sketch.dimensions
            ]
            step = step.model_copy(update={"sketch": step.sketch.model_copy(update={"dimensions": dims})})
        elif isinstance(step, ExtrudeStep) and step.extent.kind != "through_all":
            extent = step.extent.model_copy(update={"depth": rename_in(step.extent.depth, old, new)})
            step = step.model_copy(update={"extent": extent})
        steps.append(step)
    return _with(document, values=values, steps=steps)


def _delete_value(document: Document, command: c.DeleteValue) -> Outcome:
    if command.name not in [v.name for v in document.values]:
        raise Refusal(f"There is no value named “{command.name}”.")
    users = [f"value “{v.name}”" for v in document.values if command.name in names_in(v.expr)]
    for step in document.steps:
        if any(command.name in names_in(text) for _, text, _ in expressions(step)):
            users.append(f"step {document.position(step.id)}")
    if users:
        raise Refusal(f"“{command.name}” is used in {', '.join(users)}; change those first.")
    return Outcome(_with(document, values=[v for v in document.values if v.name != command.name]))


# -- the route ----------------------------------------------------------------------------------


def _check_order(document: Document) -> None:
    seen: set[str] = set()
    every = {s.id for s in document.steps}
    for step in document.steps:
        for need in needs(step):
            if need in every and need not in seen:
                mine, other = document.position(step.id), document.position(need)
                raise Refusal(
                    f"“{title(document, step)}” is built on “{title(document, _step(document, need))}” and cannot "
                    f"come before it (they would be steps {mine} and {other}).",
                    step=step.id,
                    needs=need,
                )
            if need not in every:
                raise Refusal("This is built on a step that is not in the route; pick again.", step=step.id)
        seen.add(step.id)


def title(document: Document, step: AnyStep) -> str:
    """A step's short name in sentences."""
    return step.name or f"{step.kind.capitalize()} {document.position(step.id)}"


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
    changed = _with(document, steps=steps, used=used)
    if document.hold is not None and after == document.hold:
        changed = _with(changed, hold=command.step.id)
    _check_step(changed, command.step)
    _check_order(changed)
    return Outcome(changed)


def _check_step(document: Document, step: AnyStep) -> None:
    if isinstance(step, ExtrudeStep):
        _sketch_step(document, step.sketch)
        known = names(document)
        for name, text, kind in expressions(step):
            if known.value(text, kind) <= 0:
                raise Refusal(
                    "A depth is more than zero; to go the other way, turn the direction round.",
                    step=step.id,
                    field=name,
                )


def _set_step(document: Document, command: c.SetStep) -> Outcome:
    old = _step(document, command.step)
    if {"id", "kind", "sketch"} & set(command.changes) and (
        isinstance(old, SketchStep) or "sketch" not in command.changes
    ):
        raise Refusal("A step's kind and its drawing cannot be replaced this way.", step=old.id)
    try:
        new = type(old).model_validate({**old.model_dump(), **command.changes})
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal(f"Step {document.position(old.id)} cannot take this: {first['msg']}.", step=old.id) from None
    changed = _with_step(document, new)
    _check_step(changed, new)
    _check_order(changed)
    return Outcome(changed)


def dependents(document: Document, ident: str) -> list[str]:
    """Ids of the steps built on this one, directly or through others, in route order."""
    hit = {ident}
    for step in document.steps:
        if hit & set(needs(step)):
            hit.add(step.id)
    return [s.id for s in document.steps if s.id in hit and s.id != ident]


def _delete_step(document: Document, command: c.DeleteStep) -> Outcome:
    step = _step(document, command.step)
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
    return Outcome(_with(document, steps=kept, hold=hold, callouts=callouts))


def _move_step(document: Document, command: c.MoveStep) -> Outcome:
    step = _step(document, command.step)
    rest = [s for s in document.steps if s.id != step.id]
    if command.before is None:
        at = len(rest)
    else:
        _step(document, command.before)
        if command.before == step.id:
            return Outcome(document)
        at = [s.id for s in rest].index(command.before)
    changed = _with(document, steps=[*rest[:at], step, *rest[at:]])
    _check_order(changed)
    return Outcome(changed)


def _set_hold(document: Document, command: c.SetHold) -> Outcome:
    if command.step is not None:
        _step(document, command.step)
    last = document.steps[-1].id if document.steps else None
    return Outcome(_with(document, hold=None if command.step == last else command.step))


# -- sketches -----------------------------------------------------------------------------------


def _edited(
    document: Document, step: SketchStep, change: Callable[[Values], edit.Edit], known: Document | None = None
) -> Outcome:
    """``known`` is the document whose names count, where the change itself brings names."""
    result = change(values_for(known or document))
    after = _with_step(document, step.model_copy(update={"sketch": result.sketch}))
    return Outcome(after, result.said, result.skipped)


def _named_twice(document: Document, name: str) -> None:
    if name:
        check_name(name)
        if name in names(document).texts:
            raise Refusal(f"“{name}” is taken; choose another name.")


def _sketch_add(document: Document, command: c.SketchAdd) -> Outcome:
    step = _sketch_step(document, command.step)
    for d in command.dimensions:
        _named_twice(document, d.name)
    inferred = frozenset(command.inferred)
    named = {"dimensions": [*step.sketch.dimensions, *command.dimensions]}
    known = _with_step(document, step.model_copy(update={"sketch": step.sketch.model_copy(update=named)}))
    return _edited(
        document,
        step,
        lambda values: edit.add(
            step.sketch, values, command.entities, command.constraints, command.dimensions, inferred
        ),
        known,
    )


def _sketch_dimension(document: Document, command: c.SketchDimension) -> Outcome:
    step = _sketch_step(document, command.step)
    if {"id", "refs"} & set(command.changes):
        raise Refusal("What a dimension measures cannot be changed; delete it and set a new one.")
    old = next((d for d in step.sketch.dimensions if d.id == command.dimension), None)
    name = command.changes.get("name", "")
    if old and name and name != old.name:
        _named_twice(document, str(name))
        if old.name:
            document = _renamed(document, old.name, str(name))
            step = _sketch_step(document, command.step)
    if old and old.name and name == "" and "name" in command.changes:
        users = [s for s in document.steps for _, text, _ in expressions(s) if old.name in names_in(text)]
        if users:
            raise Refusal(f"“{old.name}” is used in step {document.position(users[0].id)}; change that first.")
    try:
        fresh = [
            Dimension.model_validate({**d.model_dump(), **command.changes}) if d.id == command.dimension else d
            for d in step.sketch.dimensions
        ]
        known = _with_step(
            document, step.model_copy(update={"sketch": step.sketch.model_copy(update={"dimensions": fresh})})
        )
        return _edited(
            document, step, lambda v: edit.change_dimension(step.sketch, v, command.dimension, command.changes), known
        )
    except ValidationError as error:
        raise Refusal(f"This dimension cannot take that: {error.errors()[0]['msg']}.") from None


def _sketch_drag(document: Document, command: c.SketchDrag) -> Outcome:
    step = _sketch_step(document, command.step)
    return _edited(document, step, lambda values: edit.drag(step.sketch, values, command.ref, command.to))


def _sketch_delete(document: Document, command: c.SketchDelete) -> Outcome:
    step = _sketch_step(document, command.step)
    gone = set(edit.removal(step.sketch, set(command.ids)).ties)
    for d in step.sketch.dimensions:
        if d.id in gone and d.name:
            users = [s for s in document.steps if any(d.name in names_in(t) for f, t, _ in expressions(s) if f != d.id)]
            if users:
                raise Refusal(f"“{d.name}” is used in step {document.position(users[0].id)}; change that first.")
    callouts = [
        b.model_copy(update={"link": None}) if b.link and b.link.step == step.id and b.link.field in gone else b
        for b in document.callouts
    ]
    outcome = _edited(document, step, lambda values: edit.delete(step.sketch, set(command.ids)))
    outcome.document = _with(outcome.document, callouts=callouts)
    return outcome


def _sketch_construction(document: Document, command: c.SketchConstruction) -> Outcome:
    step = _sketch_step(document, command.step)
    return _edited(document, step, lambda values: edit.construction(step.sketch, set(command.ids), command.on))


# -- the sheet ----------------------------------------------------------------------------------


def _set_sheet(document: Document, command: c.SetSheet) -> Outcome:
    return Outcome(_with(document, sheet=command.sheet))


def _set_callout(document: Document, command: c.SetCallout) -> Outcome:
    new = command.callout
    if not new.text.strip():
        raise Refusal("A callout needs its text, as it stands on the sheet: 35 ±0.1, Ø8 THRU, R5 …")
    old = next((b for b in document.callouts if b.id == new.id), None)
    if any(b.number == new.number and b.id != new.id for b in document.callouts):
        raise Refusal(f"Balloon {new.number} is on the sheet already; use another number.")
    new = new.model_copy(update={"link": old.link if old else None})
    if old is None:
        return Outcome(_with(document, callouts=[*document.callouts, new]))
    after = _with(document, callouts=[new if b.id == new.id else b for b in document.callouts])
    if new.link and new.text != old.text:
        return _fed(after, new.id, new.link)
    return Outcome(after)


def _delete_callout(document: Document, command: c.DeleteCallout) -> Outcome:
    return Outcome(_with(document, callouts=[b for b in document.callouts if b.id != command.callout]))


def _link_callout(document: Document, command: c.LinkCallout) -> Outcome:
    callout = next((b for b in document.callouts if b.id == command.callout), None)
    if callout is None:
        raise Refusal("This callout is no longer on the sheet.")
    link = Link(step=command.step, field=command.field) if command.step and command.field else None
    linked = callout.model_copy(update={"link": link})
    after = _with(document, callouts=[linked if b.id == callout.id else b for b in document.callouts])
    return _fed(after, callout.id, link) if link else Outcome(after)


def _fed(document: Document, ident: str, link: Link) -> Outcome:
    """The linked dimension or field takes the callout's nominal."""
    callout = next(b for b in document.callouts if b.id == ident)
    r = parse(callout.text, document.unit)
    if r.kind == "note" or r.nominal is None:
        raise Refusal(f"“{callout.text}” is a note; only a size can feed a dimension or a step.")
    step = _step(document, link.step)
    if isinstance(step, SketchStep):
        d = next((d for d in step.sketch.dimensions if d.id == link.field), None)
        if d is None:
            raise Refusal("This dimension is no longer in the sketch.", ref=link.field)
        typed = r.typed
        fits = {"angle": ("angle",), "radius": ("radius", "diameter"), "diameter": ("radius", "diameter")}
        if r.kind not in fits.get(d.kind, ("linear", "chamfer")):
            raise Refusal(f"“{callout.text}” is a {r.kind} and cannot feed a {d.kind} ({thing(d.refs[0])}).")
        changes: dict[str, Any] = {"expr": typed}
        if r.kind in ("radius", "diameter"):
            changes["kind"] = r.kind
        if not d.driving:
            return Outcome(document)  # a reference size is only compared
        return _sketch_dimension(document, c.SketchDimension(step=step.id, dimension=d.id, changes=changes))
    if isinstance(step, ExtrudeStep) and link.field == "depth" and step.extent.kind != "through_all":
        deep = r.depth is not None
        if r.kind != "linear" and not deep:
            raise Refusal(f"“{callout.text}” gives no length; a depth needs one.")
        from_text = r.typed if not deep else f"{r.depth:g} mm"
        extent = {"kind": step.extent.kind, "depth": from_text}
        return _set_step(document, c.SetStep(step=step.id, changes={"extent": extent}))
    raise Refusal(f"Step {document.position(step.id)} has no size “{link.field}” that a callout could feed.")


_EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.SetPart: _set_part,
    c.SetValue: _set_value,
    c.DeleteValue: _delete_value,
    c.AddStep: _add_step,
    c.SetStep: _set_step,
    c.DeleteStep: _delete_step,
    c.MoveStep: _move_step,
    c.SetHold: _set_hold,
    c.SketchAdd: _sketch_add,
    c.SketchDimension: _sketch_dimension,
    c.SketchDrag: _sketch_drag,
    c.SketchDelete: _sketch_delete,
    c.SketchConstruction: _sketch_construction,
    c.SetSheet: _set_sheet,
    c.SetCallout: _set_callout,
    c.DeleteCallout: _delete_callout,
    c.LinkCallout: _link_callout,
}

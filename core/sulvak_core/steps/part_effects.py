"""Effects of the commands on the part itself: its data, its unit, its named values."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..part.document import NamedValue
from ..part.errors import ExpressionError, Refusal
from ..part.expressions import MAX_TEXT, check_name, names_in, rename_in, with_unit_said
from ..part.materials import checked_own
from ..sheet.general_tolerance import in_its_unit
from ..sheet.general_tolerance import read as read_general
from ..sketch.edit import measured, pattern_values
from . import commands as c
from . import walk
from .kinds.sketch import SketchStep
from .registry import AnyStep, Document, expressions, names
from .shared import Outcome, altered


def _set_part(document: Document, command: c.SetPart) -> Outcome:
    changes = command.changes.model_dump(exclude_unset=True)
    for key in ("name", "number", "unit", "shop"):
        if key in changes and changes[key] is None:
            raise Refusal(f"A part needs a {key}.")
    if changes.get("general_tolerance") and read_general(changes["general_tolerance"]) is None:
        raise Refusal(
            "A general tolerance is written as ISO 2768-m, or by the decimals: .X ±.03 .XX ±.01 ANGLES ±0.5°.",
            field="general_tolerance",
        )
    if changes.get("shop"):
        changes["shop"] = _within(document.shop.model_dump(), changes["shop"])
    after = Document.model_validate({**dict(document), **changes})  # what is not named stays the same object
    if {"material", "materials"} & set(changes):
        bodies = {s.material for s in after.steps if s.kind == "body"}
        checked_own(after.materials, {after.material, *bodies})
    if after.unit != document.unit:
        after = _in_unit(document, after)
    return Outcome(after)


def _within(whole: dict[str, Any], changes: dict[str, Any]) -> dict[str, Any]:
    """What is named is changed, at any depth; the rest stays."""
    return {
        **whole,
        **{
            k: _within(whole[k], v) if isinstance(v, dict) and isinstance(whole.get(k), dict) else v
            for k, v in changes.items()
        },
    }


def _in_unit(before: Document, after: Document) -> Document:
    """Bare numbers were typed in the old unit: they say so from now on, so that no size changes."""
    known, old = names(before), before.unit

    def kept(text: str) -> str:
        try:
            value = known.value(text, "length")
            if value == 0 and text.strip() == "0":
                return text
            said = with_unit_said(text, old, known)
            return said if len(said) <= MAX_TEXT else f"{value!r} mm"
        except ExpressionError:
            return text

    steps: list[AnyStep] = []
    for step in after.steps:
        if isinstance(step, SketchStep):
            fresh = [
                d if d.kind == "angle" or not d.driving else d.model_copy(update={"expr": kept(d.expr)})
                for d in step.sketch.dimensions
            ]
            sketch = measured(step.sketch.model_copy(update={"dimensions": fresh}), after.unit)
            step = step.model_copy(update={"sketch": sketch})
        step = walk.rewritten(step, lambda _, text, kind: kept(text) if kind == "length" else text)
        steps.append(step)
    values = [v.model_copy(update={"expr": kept(v.expr)}) if v.kind == "length" else v for v in after.values]
    callouts = [b if b.unit else b.model_copy(update={"unit": old}) for b in after.callouts]
    general = in_its_unit(after.general_tolerance, old)
    return altered(after, steps=steps, values=values, callouts=callouts, general_tolerance=general)


def set_value(document: Document, command: c.SetValue) -> Outcome:
    listed = [v.name for v in document.values]
    old = next((v for v in document.values if v.name == command.name), None)
    if old is None:
        if command.expr is None:
            raise Refusal(f"There is no value named “{command.name}” to change.")
        check_name(command.name)
        if command.name in names(document).texts:
            raise Refusal(f"“{command.name}” names a dimension already; choose another name.")
        fresh = NamedValue(name=command.name, expr=command.expr, kind=command.kind)
        return Outcome(altered(document, values=[*document.values, fresh]))
    new = old.model_copy(update={"expr": command.expr or old.expr})
    after = altered(document, values=[new if v.name == old.name else v for v in document.values])
    if command.rename_to and command.rename_to != old.name:
        check_name(command.rename_to)
        if command.rename_to in listed or command.rename_to in names(document).texts:
            raise Refusal(f"“{command.rename_to}” is taken; choose another name.")
        after = renamed(after, old.name, command.rename_to)
    return Outcome(after)


def renamed(document: Document, old: str, new: str) -> Document:
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
            patterns = [
                p.model_copy(update={k: rename_in(getattr(p, k), old, new) for k, _, _ in pattern_values(p)})
                for p in step.sketch.patterns
            ]
            sketch = step.sketch.model_copy(update={"dimensions": dims, "patterns": patterns})
            step = step.model_copy(update={"sketch": sketch})
        step = walk.rewritten(step, lambda _, text, __: rename_in(text, old, new))
        steps.append(step)
    return altered(document, values=values, steps=steps)


def _delete_value(document: Document, command: c.DeleteValue) -> Outcome:
    if command.name not in [v.name for v in document.values]:
        raise Refusal(f"There is no value named “{command.name}”.")
    users = [f"value “{v.name}”" for v in document.values if command.name in names_in(v.expr)]
    for step in document.steps:
        if any(command.name in names_in(text) for _, text, _ in expressions(step)):
            users.append(f"step {document.position(step.id)}")
    if users:
        raise Refusal(f"“{command.name}” is used in {', '.join(users)}; change those first.")
    return Outcome(altered(document, values=[v for v in document.values if v.name != command.name]))


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    c.SetPart: _set_part,
    c.SetValue: set_value,
    c.DeleteValue: _delete_value,
}

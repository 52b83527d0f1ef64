"""All values of a part in one table: the named ones, every dimension, every depth; and where each name is used."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..part.errors import ExpressionError
from ..part.expressions import Kind, Names, names_in
from ..sketch import words
from . import walk
from .kinds.chamfer import ChamferStep
from .kinds.hole import HoleStep
from .kinds.sketch import SketchStep
from .registry import AnyStep, Document, expressions, names
from .shared import read_callout, title
from .sheet_effects import hole_asked


def value_table(document: Document) -> list[dict[str, Any]]:
    """Rows of plain data: ``name``, ``what`` (words), ``kind``, ``expr``, ``value`` (mm, degrees or plain; None where
    it cannot be worked out), ``step`` (None for a named value) and ``path`` (what ``SetExpression`` changes it by),
    ``driving``, ``nameable`` (whether it can bear a name), ``used`` (words), ``callout`` (id of the one it is from)."""
    known = names(document)
    used, fed = _uses(document), _fed(document)
    rows = []
    for v in document.values:
        row = _row(known, v.name, "named value", v.kind, v.expr, used)
        rows.append({**row, "step": None, "path": v.name, "driving": True, "nameable": True, "callout": None})
    for step in document.steps:
        for path, field, expr, kind in _placed(step):
            d = _dimension(step, field)
            if d is None and expr == "0":
                continue  # what is not made use of
            what = f"{_what(d)} in {title(document, step)}" if d else f"{_field(field)} of {title(document, step)}"
            row = _row(known, d.name if d else "", what, kind, expr, used)
            driving = d.driving if d else True
            source = fed.get((step.id, field))
            told = {"step": step.id, "path": path, "driving": driving, "nameable": d is not None, "callout": source}
            rows.append({**row, **told})
    return rows


def _fed(document: Document) -> dict[tuple[str, str], str]:
    """Which size of which step is from which callout; a hole's gives all that it asks for, a chamfer's all there is."""
    found: dict[tuple[str, str], str] = {}
    for c in document.callouts:
        if c.link is None:
            continue
        found[c.link.step, c.link.field] = c.id
        step = document.step(c.link.step)
        if isinstance(step, ChamferStep):  # 1 × 45° says both legs and how it leans
            found |= {(c.link.step, field): c.id for field in ("first", "second", "angle")}
        if isinstance(step, HoleStep):
            found |= {(c.link.step, field): c.id for field in hole_asked(read_callout(document, c))}
    return found


def _placed(step: AnyStep) -> Iterator[tuple[str, str, str, Kind]]:
    """(path, field, text, kind) of every expression in a step."""
    if isinstance(step, SketchStep):
        yield from ((field, field, text, kind) for field, text, kind in expressions(step))
        return
    for path, text, kind, _ in walk.placed_expressions(step):
        yield walk.dotted(path), walk.field_name(path), text, kind


def _row(known: Names, name: str, what: str, kind: Kind, expr: str, used: dict[str, list[str]]) -> dict[str, Any]:
    try:
        value: float | None = known.value(expr, kind)
    except ExpressionError:
        value = None
    return {"name": name, "what": what, "kind": kind, "expr": expr, "value": value, "used": used.get(name, [])}


def _dimension(step: Any, field: str) -> Any:
    return next((d for d in step.sketch.dimensions if d.id == field), None) if isinstance(step, SketchStep) else None


def _field(field: str) -> str:
    """``r1.second`` → “second count of pattern 1”."""
    ident, dot, name = field.partition(".")
    told = {"count": "count", "second": "second count", "angle": "angle"}.get(name, name)
    return f"{told} of pattern {ident[1:]}" if dot else field


def _what(d: Any) -> str:
    kind = d.kind if d.along == "shortest" else f"{d.along} {d.kind}"
    return f"{kind} of {' to '.join(words.thing(r) for r in d.refs)}"


def _uses(document: Document) -> dict[str, list[str]]:
    """For every name, what speaks of it."""
    found: dict[str, list[str]] = {}

    def note(expr: str, where: str) -> None:
        for name in names_in(expr):
            if where not in found.setdefault(name, []):
                found[name].append(where)

    for v in document.values:
        note(v.expr, v.name)
    for step in document.steps:
        for field, expr, _ in expressions(step):
            d = _dimension(step, field)
            note(expr, f"{title(document, step)}: {(d.name or _what(d)) if d else _field(field)}")
    return found


def free_name(document: Document, start: str = "size") -> str:
    """A name that nothing has yet: size1, size2 …"""
    taken = set(names(document).texts)
    return next(f"{start}{n}" for n in range(1, len(taken) + 2) if f"{start}{n}" not in taken)

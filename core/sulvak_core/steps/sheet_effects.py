"""Effects of the commands on the sheet and its callouts."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from ..part.document import Callout, Link, SheetFile
from ..part.errors import ExpressionError, Refusal
from ..part.expressions import Kind
from ..part.threads import THREADS
from ..sheet.places import around, on_page
from ..sheet.requirement import Requirement
from ..sheet.worked_out import used, worked_out
from ..sketch.words import thing
from . import commands as c
from . import sheet_commands, walk
from .copy_effects import repattern
from .kinds.hole import HoleStep
from .kinds.sketch import SketchStep
from .part_effects import set_value
from .registry import AnyStep, Document, names
from .route_effects import set_step
from .shared import Outcome, altered, read_callout, step_of
from .sketch_effects import sketch_dimension


def _set_sheet(document: Document, command: sheet_commands.SetSheet) -> Outcome:
    if command.sheet is None:
        return _remove_sheet(document, sheet_commands.RemoveSheet(number=0)) if document.sheet else Outcome(document)
    grown = len(command.sheet.pages) - (len(document.sheet.pages) if document.sheet else 0)
    return Outcome(_with_sheets(document, [command.sheet, *document.further], {0: grown}))


def _add_sheet(document: Document, command: sheet_commands.AddSheet) -> Outcome:
    return Outcome(_with_sheets(document, [*document.sheets(), command.sheet], {}))


def _remove_sheet(document: Document, command: sheet_commands.RemoveSheet) -> Outcome:
    sheets = document.sheets()
    if command.number >= len(sheets):
        raise Refusal("This sheet is no longer with the part.")
    first = sum(len(s.pages) for s in sheets[: command.number])
    after = first + len(sheets[command.number].pages)
    loose = [
        b.model_copy(update={"page": 0, "at": None, "newer": ""})
        if first <= b.page < after and b.at is not None
        else b.model_copy(update={"page": b.page - (after - first)})
        if b.page >= after
        else b
        for b in document.callouts
    ]
    left = [s for i, s in enumerate(sheets) if i != command.number]
    return Outcome(altered(document, sheet=left[0] if left else None, further=left[1:], callouts=loose))


def _newer_sheet(document: Document, command: sheet_commands.NewerSheet) -> Outcome:
    sheets = document.sheets()
    if command.number >= len(sheets):
        raise Refusal("This sheet is no longer with the part.")
    first = sum(len(s.pages) for s in sheets[: command.number])
    old = len(sheets[command.number].pages)
    mine = {b.id for b in document.callouts if first <= b.page < first + old and b.at is not None}
    if (set(command.places) | set(command.says)) - mine:
        raise Refusal("One of these callouts is not on this sheet any more; try again.")
    sheets[command.number] = command.sheet
    after = _with_sheets(document, sheets, {command.number: len(command.sheet.pages) - old})
    last = first + len(command.sheet.pages) - 1
    callouts = []
    for b in after.callouts:
        if b.id in mine:
            page, at = command.places.get(b.id, (min(b.page - first, last - first), None))
            says = command.says.get(b.id, "")
            b = b.model_copy(update={"page": min(first + page, last), "at": at or b.at, "newer": says})
        callouts.append(b)
    return Outcome(altered(after, callouts=callouts))


def _with_sheets(document: Document, sheets: list[SheetFile], grown: dict[int, int]) -> Document:
    """The document with these sheets; ``grown`` tells by how many pages which one did: callouts of later sheets keep
    their own pages."""
    counts = [len(s.pages) - grown.get(i, 0) for i, s in enumerate(sheets)]

    def now(page: int) -> int:
        first, more = 0, 0
        for i, count in enumerate(counts):
            if page < first + count:
                break
            first, more = first + count, more + grown.get(i, 0)
        return page + more

    callouts = [b.model_copy(update={"page": now(b.page)}) if any(grown.values()) else b for b in document.callouts]
    return altered(document, sheet=sheets[0] if sheets else None, further=sheets[1:], callouts=callouts)


def _set_page(document: Document, command: sheet_commands.SetPage) -> Outcome:
    hit = document.page(command.page)
    if hit is None:
        raise Refusal("This page is no longer on the sheet.")
    sheet, own = hit
    look = sheet.look(own)
    if command.turn is not None:
        look = look.model_copy(update={"turn": command.turn})
    if command.known is not None:
        length = names(document).value(command.known.length, "length")
        apart = on_page(sheet.pages[own], *command.known.ends)
        if apart < 1e-3 * max(sheet.pages[own]):
            raise Refusal("The two places lie on one another; press the two ends of a length that you know.")
        if length <= 0:
            raise Refusal("A length on the drawing is more than zero.", field="length")
        look = look.model_copy(update={"scale": length / apart})
    if command.views is not None:
        look = look.model_copy(update={"views": command.views})
    looked = sheet.model_copy(update={"looks": {**sheet.looks, str(own): look}})
    sheets = [looked if s is sheet else s for s in document.sheets()]
    return Outcome(altered(document, sheet=sheets[0], further=sheets[1:]))


def _set_callout(document: Document, command: sheet_commands.SetCallout) -> Outcome:
    new = command.callout
    if new.worked:
        _check_worked(document, new)
    elif not new.text.strip():
        raise Refusal("A callout needs its text, as it stands on the sheet: 48 ±0.1, Ø8 THRU, R6 …")
    old = next((b for b in document.callouts if b.id == new.id), None)
    if any(b.number == new.number and b.id != new.id for b in document.callouts):
        raise Refusal(f"Balloon {new.number} is on the sheet already; use another number.")
    if old is not None:  # what is not said again stays
        stays = {"link": old.link, "gauged": new.gauged or old.gauged, "unit": new.unit or old.unit}
        new = new.model_copy(update=stays)
    else:
        new = new.model_copy(update={"link": None})
    if old is None:
        return Outcome(altered(document, callouts=[*document.callouts, new]))
    after = altered(document, callouts=[new if b.id == new.id else b for b in document.callouts])
    if (new.text, new.worked) == (old.text, old.worked):
        return Outcome(after)
    return _following(after, new)


def _following(document: Document, changed: Callout) -> Outcome:
    """What a callout that reads otherwise now feeds, and what those feed that are worked out from it."""
    ids, front = [changed.id], {changed.id}
    while front:
        front = {b.id for b in document.callouts if b.worked and b.id not in ids and used(b.worked) & front}
        ids += [b.id for b in document.callouts if b.id in front]
    outcome = Outcome(document)
    for ident in ids:
        link = next(b.link for b in document.callouts if b.id == ident)
        if link is not None:
            fed = _fed(outcome.document, ident, link)
            outcome = Outcome(
                fed.document, outcome.said + fed.said, outcome.skipped + fed.skipped, outcome.lost + fed.lost
            )
    return outcome


def _number_callouts(document: Document, command: sheet_commands.NumberCallouts) -> Outcome:
    now = sorted(document.callouts, key=lambda b: b.number)
    if command.by == "hand":
        place = {ident: i for i, ident in enumerate(dict.fromkeys(command.order))}
        if set(place) - {b.id for b in now}:
            raise Refusal("One of these callouts is no longer on the sheet.")
        now.sort(key=lambda b: place.get(b.id, len(place)))
    elif command.by == "size":
        read = {b.id: read_callout(document, b) for b in now}
        now.sort(key=lambda b: (read[b.id].nominal is None, -(read[b.id].nominal or 0.0)))
    else:
        pages = [p for s in document.sheets() for p in s.pages]
        size = {b.id: pages[b.page] if b.page < len(pages) else (1.0, 1.0) for b in now}
        if command.by == "views":
            if not command.views:
                raise Refusal("No view is known on the sheet; number the balloons round the page, or place a view.")
            now.sort(key=lambda b: (b.at is None, b.page, *_in_view(b, size[b.id], command.views)))
        else:
            now.sort(key=lambda b: (b.at is None, b.page, around(b.at, size[b.id])))
    numbers = {b.id: i for i, b in enumerate(now, 1)}
    callouts = [b.model_copy(update={"number": numbers[b.id]}) for b in document.callouts]
    return Outcome(altered(document, callouts=callouts))


def _in_view(b: Callout, size: tuple[float, float], views: list[sheet_commands.ViewOnPage]) -> tuple[float, float]:
    """Which view a balloon is nearest to, counted from the top left of its page, and how far round it it stands."""
    mine = sorted((v.box for v in views if v.page == b.page), key=lambda v: v[0] * size[0] + v[1] * size[1])
    if b.at is None or not mine:
        return len(mine), around(b.at, size)
    x, y = b.at

    def away(v: tuple[float, float, float, float]) -> float:
        return math.hypot(max(v[0] - x, 0.0, x - v[2]) * size[0], max(v[1] - y, 0.0, y - v[3]) * size[1])

    k = min(range(len(mine)), key=lambda i: away(mine[i]))
    return k, around(b.at, size, ((mine[k][0] + mine[k][2]) / 2, (mine[k][1] + mine[k][3]) / 2))


def _check_worked(document: Document, new: Callout) -> None:
    """Raises Refusal for arithmetic that cannot be read, speaks of what is not there, or goes round in a circle."""
    try:
        ids = used(new.worked)
    except ExpressionError as error:
        raise Refusal(f"This cannot be worked out: {error.sentence}", field="worked") from None
    others = {b.id: b for b in document.callouts if b.id != new.id}
    if not ids or ids - set(others):
        raise Refusal("A worked-out size is arithmetic over other callouts: press their balloons.", field="worked")
    waiting, seen = list(ids), set(ids)
    while waiting:
        deeper = others[waiting.pop()]
        for ident in used(deeper.worked) if deeper.worked else ():
            if ident == new.id:
                raise Refusal(
                    f"This goes round in a circle: {deeper.number} is worked out from this one.", field="worked"
                )
            if ident in others and ident not in seen:
                seen.add(ident)
                waiting.append(ident)
    try:
        made = worked_out(new.worked, lambda ident: read_callout(document, others[ident]), new.unit or document.unit)
    except ExpressionError as error:
        raise Refusal(f"This cannot be worked out: {error.sentence}", field="worked") from None
    if made.kind == "note":
        raise Refusal("Only sizes can be worked with, and one of these is a note.", field="worked")


def _gauge_callout(document: Document, command: sheet_commands.GaugeCallout) -> Outcome:
    callout = next((b for b in document.callouts if b.id == command.callout), None)
    if callout is None:
        raise Refusal("This callout is no longer on the sheet.")
    if command.gauged is not None and callout.link is not None:
        n = document.position(callout.link.step)
        raise Refusal(f"Callout {callout.number} feeds step {n}, which proves it; take that link off first.")
    gauged = callout.model_copy(update={"gauged": command.gauged})
    return Outcome(altered(document, callouts=[gauged if b.id == callout.id else b for b in document.callouts]))


def _delete_callout(document: Document, command: sheet_commands.DeleteCallout) -> Outcome:
    users = [b.number for b in document.callouts if b.worked and command.callout in used(b.worked)]
    if users:
        raise Refusal(f"Callout {users[0]} is worked out from this one; delete that first, or work it out otherwise.")
    return Outcome(altered(document, callouts=[b for b in document.callouts if b.id != command.callout]))


def _link_callout(document: Document, command: sheet_commands.LinkCallout) -> Outcome:
    callout = next((b for b in document.callouts if b.id == command.callout), None)
    if callout is None:
        raise Refusal("This callout is no longer on the sheet.")
    link = Link(step=command.step, field=command.field) if command.step and command.field else None
    linked = callout.model_copy(update={"link": link, "gauged": None if link else callout.gauged})
    after = altered(document, callouts=[linked if b.id == callout.id else b for b in document.callouts])
    return _fed(after, callout.id, link) if link else Outcome(after)


def _fed(document: Document, ident: str, link: Link) -> Outcome:
    """The linked dimension or field takes the callout's nominal."""
    callout = next(b for b in document.callouts if b.id == ident)
    r = read_callout(document, callout)
    if r.kind == "note" or r.nominal is None:
        raise Refusal(f"“{callout.text}” is a note; only a size can feed a dimension or a step.")
    step = step_of(document, link.step)
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
        return sketch_dimension(document, c.SketchDimension(step=step.id, dimension=d.id, changes=changes))
    if isinstance(step, HoleStep) and link.field in ("size", "diameter"):
        return _feed_hole(document, step, callout, r)
    field = next((f for f in walk.expressions(step) if f[0] == link.field), None)
    if field is not None:
        return _feed_step(document, step, callout, r, link.field, field[2])
    raise Refusal(f"Step {document.position(step.id)} has no size “{link.field}” that a callout could feed.")


def hole_asked(r: Requirement) -> dict[str, Any]:
    """The fields of a hole step that a callout asks for: its size or thread, what is sunk at its mouth, how deep.
    None of them when it is no hole's."""
    if r.kind not in ("diameter", "thread"):
        return {}
    if r.kind == "thread":
        changes: dict[str, Any] = {"form": "tapped", "size": r.thread, "thread_depth": ""}
    else:
        changes = {"form": "plain", "size": "", "diameter": r.typed}
    if r.bore is not None:
        changes |= {"form": "counterbore", "bore_diameter": _mm(r.bore), "bore_depth": _mm(r.bore_depth or 0)}
    if r.sink is not None:
        changes |= {"form": "countersink", "sink_diameter": _mm(r.sink), "sink_angle": f"{r.sink_angle:.12g}"}
    if r.through:
        changes["end"] = "through"
    elif r.depth is not None:
        changes |= {"end": "blind", "depth": _mm(r.depth)}
        if r.kind == "thread":  # what is asked for is the thread's depth; the drill goes on by three pitches
            beyond = r.depth + 3 * THREADS[r.thread].pitch
            changes |= {"thread_depth": _mm(r.depth), "depth": _mm(beyond)}
    return changes


def _mm(value: float) -> str:
    return f"{value:.12g} mm"


def _feed_hole(document: Document, step: HoleStep, callout: Callout, r: Requirement) -> Outcome:
    changes = hole_asked(r)
    if not changes:
        raise Refusal(f"“{callout.text}” does not give a diameter or a thread, which a hole asks for.")
    return set_step(document, c.SetStep(step=step.id, changes=changes))


def _feed_step(document: Document, step: AnyStep, callout: Callout, r: Requirement, field: str, kind: Kind) -> Outcome:
    """A callout's size put into a field of a step: a depth or distance, a diameter, a radius or an angle."""
    wanted = "angle" if kind == "angle" else next((k for k in ("radius", "diameter") if k in field), "linear")
    deep = wanted == "linear" and r.depth is not None
    if kind == "number" or (r.kind != wanted and not deep and not (wanted == "linear" and r.kind == "chamfer")):
        needs = {"angle": "an angle", "radius": "a radius", "diameter": "a diameter"}.get(wanted, "a length")
        raise Refusal(f"“{callout.text}” does not give {needs}, which “{field.replace('_', ' ')}” asks for.")
    typed = _mm(r.depth) if deep and r.depth else r.typed
    changed = walk.rewritten(step, lambda path, text, _: typed if walk.field_name(path) == field else text)
    plain = changed.model_dump(exclude={"id", "kind", "sketch"})
    return set_step(document, c.SetStep(step=step.id, changes=plain))


def _set_expression(document: Document, command: c.SetExpression) -> Outcome:
    if command.step is None:
        return set_value(document, c.SetValue(name=command.path, expr=command.expr))
    step = step_of(document, command.step)
    if isinstance(step, SketchStep):
        pattern, dot, value = command.path.partition(".")
        if dot:
            changes = {value: command.expr}
            return repattern(document, c.SketchRepattern(step=step.id, pattern=pattern, changes=changes))
        told = c.SketchDimension(step=step.id, dimension=command.path, changes={"expr": command.expr})
        return sketch_dimension(document, told)
    if command.path not in {walk.dotted(path) for path, *_ in walk.placed_expressions(step)}:
        raise Refusal(f"Step {document.position(step.id)} has no such size any more; look at its sentence.")
    changed = walk.rewritten(step, lambda path, text, _: command.expr if walk.dotted(path) == command.path else text)
    return set_step(document, c.SetStep(step=step.id, changes=changed.model_dump(exclude={"id", "kind"})))


EFFECTS: dict[type, Callable[[Document, Any], Outcome]] = {
    sheet_commands.SetSheet: _set_sheet,
    sheet_commands.AddSheet: _add_sheet,
    sheet_commands.RemoveSheet: _remove_sheet,
    sheet_commands.NewerSheet: _newer_sheet,
    sheet_commands.SetPage: _set_page,
    sheet_commands.SetCallout: _set_callout,
    sheet_commands.NumberCallouts: _number_callouts,
    sheet_commands.DeleteCallout: _delete_callout,
    sheet_commands.GaugeCallout: _gauge_callout,
    sheet_commands.LinkCallout: _link_callout,
    c.SetExpression: _set_expression,
}

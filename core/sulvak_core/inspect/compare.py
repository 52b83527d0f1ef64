"""Two states of a part held against each other: what was changed, in words, and what of the solid came and went."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..part.document import NamedValue
from ..rebuild.describe import Sayer
from ..sketch.model import Dimension, Sketch
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import AnyStep, Document, names

DATA = (
    ("name", "Name"),
    ("number", "Part number"),
    ("description", "Description"),
    ("revision", "Revision"),
    ("unit", "Unit of length"),
    ("material", "Material"),
)


@dataclass(frozen=True)
class Change:
    """One difference: ``step`` is the number on the newer route (on the older for what is gone), None for what is no
    step's; ``before`` and ``after`` in words, empty for what was or is not there."""

    step: int | None
    what: str
    before: str
    after: str


def changes(before: Document, after: Document) -> list[Change]:
    """Every difference between two documents of a part: its data, its values, then the steps of the newer route."""
    return [*_data(before, after), *_values(before, after), *_steps(before, after)]


def _data(before: Document, after: Document) -> Iterator[Change]:
    for field, what in DATA:
        old, new = str(getattr(before, field)), str(getattr(after, field))
        if old != new:
            yield Change(None, what, old, new)
    was, now = ({m.name: f"{m.value:g} {m.unit}" for m in d.materials} for d in (before, after))
    for name in dict.fromkeys([*now, *was]):
        if was.get(name) != now.get(name):
            yield Change(None, f"Density of {name}", was.get(name, ""), now.get(name, ""))
    old, new = _target(before), _target(after)
    if old != new:
        yield Change(None, "Mass asked for", old, new)
    for key in dict.fromkeys([*after.properties, *before.properties]):
        old, new = before.properties.get(key, ""), after.properties.get(key, "")
        if old != new:
            yield Change(None, key, old, new)


def _target(document: Document) -> str:
    t = document.target_mass
    return "" if t is None else f"{t.grams:g} g ±{t.tolerance:g} g"


def _values(before: Document, after: Document) -> Iterator[Change]:
    old: dict[str, NamedValue] = {v.name: v for v in before.values}
    new: dict[str, NamedValue] = {v.name: v for v in after.values}
    for name in dict.fromkeys([*new, *old]):
        a, b = (side[name].expr if name in side else "" for side in (old, new))
        if a != b:
            yield Change(None, f"Value {name}", a, b)


def _steps(before: Document, after: Document) -> Iterator[Change]:
    say_old, say_new = (Sayer(d, names(d)).sentence for d in (before, after))
    old = {s.id: s for s in before.steps}
    here = {s.id for s in after.steps}
    stood = [s.id for s in before.steps if s.id in here]
    stands = [s.id for s in after.steps if s.id in old]
    moved = _moved(stood, stands)
    for step in after.steps:
        n = after.position(step.id)
        was = old.get(step.id)
        if was is None:
            yield Change(n, "new step", "", say_new(step))
            continue
        if step.id in moved:
            yield Change(n, "place on the route", f"step {before.position(step.id)}", f"step {n}")
        if was.suppressed != step.suppressed:
            yield Change(n, "suppressed", *("yes" if s.suppressed else "no" for s in (was, step)))
        if was.name != step.name:
            yield Change(n, "name of the step", was.name, step.name)
        yield from _within(n, was, step, say_old(was), say_new(step))
    for step in before.steps:
        if step.id not in here:
            yield Change(before.position(step.id), "step gone", say_old(step), "")


def _moved(stood: list[str], stands: list[str]) -> set[str]:
    """The fewest steps that must have moved to get from one order to the other."""
    place = {ident: i for i, ident in enumerate(stood)}
    best: list[list[str]] = []  # best[k]: a longest run of k + 1 that kept its order, ending as early as can be
    for ident in stands:
        k = next((i for i, run in enumerate(best) if place[run[-1]] > place[ident]), len(best))
        run = [*(best[k - 1] if k else []), ident]
        best[k : k + 1] = [run]
    return set(stands) - set(best[-1] if best else [])


def _within(n: int, was: AnyStep, step: AnyStep, old: str, new: str) -> Iterator[Change]:
    if isinstance(was, SketchStep) and isinstance(step, SketchStep):
        if was.on != step.on:
            yield Change(n, "sketch plane", old, new)
        yield from _sketch(n, was.sketch, step.sketch)
        return
    plain = [s.model_dump(mode="json", exclude={"name", "group", "note", "suppressed"}) for s in (was, step)]
    if plain[0] == plain[1]:
        return
    if old != new:
        yield Change(n, "step", old, new)
    else:
        fields = [k for k in plain[1] if plain[0].get(k) != plain[1][k]]
        yield Change(n, "choice of " + ", ".join(f.replace("_", " ") for f in fields), "as it was", "chosen anew")


def _sketch(n: int, was: Sketch, now: Sketch) -> Iterator[Change]:
    for said, pick in (("entities", "entities"), ("constraints", "constraints")):
        old, new = ({e.id: e for e in getattr(s, pick)} for s in (was, now))
        gone, come = len(old.keys() - new.keys()), len(new.keys() - old.keys())
        if gone or come:
            yield Change(n, said, f"{len(old)}", f"{len(new)} ({come} new, {gone} gone)")
    old_sizes, new_sizes = ({d.id: d for d in s.dimensions} for s in (was, now))
    for ident in dict.fromkeys([*new_sizes, *old_sizes]):
        a, b = old_sizes.get(ident), new_sizes.get(ident)
        texts = tuple("" if d is None else d.expr if d.driving else f"({d.expr})" for d in (a, b))
        if texts[0] != texts[1]:
            yield Change(n, _size(b or a), *texts)  # type: ignore[arg-type]


def _size(d: Dimension) -> str:
    from ..naming.words import thing

    return d.name or f"{d.kind} of {' and '.join(thing(r.split('.')[0]) for r in dict.fromkeys(d.refs))}"


def volumes(difference: dict[str, list[Any]]) -> dict[str, float]:
    """Volumes in mm³ of what came and what went."""
    return {side: sum(piece[2] for piece in pieces) for side, pieces in difference.items()}

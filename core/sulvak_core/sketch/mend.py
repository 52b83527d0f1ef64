"""Mending what the profile check finds. Nothing is closed silently: every change is counted and told."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from ..part.errors import Refusal
from . import copies, edit
from .check import KINDS, MENDABLE, Check, Finding, FindingKind, check
from .edit import Edit, Tie, Values, ties_of
from .model import XY, AnyEntity, Arc, Circle, Constraint, Dimension, Line, Sketch, points_of, sweep_of
from .numbers import Numbers
from .profiles import network
from .trim import trim
from .variables import same_places


@dataclass
class Mended:
    """The sketch after mending, and what the check found before and finds now."""

    sketch: Sketch
    before: Check
    after: Check
    said: list[str]


def mend(
    sketch: Sketch,
    values: Values,
    tolerance: float | None = None,
    kinds: Iterable[FindingKind] | None = None,
    keys: Iterable[str] | None = None,
) -> Mended:
    """Mend the findings of ``kinds`` (all that can be), or only those named by ``keys``.

    One kind after the other, so that what one mending leaves is found by the next. What cannot be mended without
    breaking a constraint stays and is told. Raises Refusal when there is nothing to mend.
    """
    first = check(sketch, tolerance, values.unit)
    only = set(keys) if keys is not None else None
    wanted = [k for k in KINDS if k in MENDABLE and (kinds is None or k in set(kinds))]
    if not any(_meant(f, wanted, only) for f in first.findings):
        raise Refusal("There is nothing of that left to mend.")
    now, stuck = sketch, 0
    for kind in wanted:
        found = [f for f in check(now, first.tolerance, values.unit).findings if _meant(f, [kind], only)]
        if found:
            now, left = _MENDERS[kind](now, values, found)
            stuck += left
    after = check(now, first.tolerance, values.unit)
    return Mended(now, first, after, _told(first, after, stuck, len(sketch.entities) - len(now.entities)))


def _meant(f: Finding, kinds: list[FindingKind], keys: set[str] | None) -> bool:
    return f.kind in kinds and (keys is None or f.key in keys)


def _told(before: Check, after: Check, stuck: int, fewer: int) -> list[str]:
    def total(c: Check) -> int:
        return sum(n for k, n in c.counts.items() if k in MENDABLE)

    said = [f"To mend: {total(before)} before, {total(after)} now."]
    if fewer > 0:
        said.append(f"{fewer} {'entity' if fewer == 1 else 'entities'} fewer.")
    if after.regions != before.regions:
        said.append(f"Closed regions: {before.regions} before, {after.regions} now.")
    if stuck:
        said.append(
            f"{stuck} could not be mended without breaking a constraint; {'it stays' if stuck == 1 else 'they stay'}."
        )
    return said


# -- each kind; they return the sketch and how many could not be mended ------------------------------


def _flatten(sketch: Sketch, values: Values, found: list[Finding]) -> tuple[Sketch, int]:
    ids = {r for f in found for r in f.refs}
    flat = [e.model_copy(update={"lift": 0.0}) if e.id in ids else e for e in sketch.entities]
    return sketch.model_copy(update={"entities": flat}), 0


def _drop(sketch: Sketch, values: Values, found: list[Finding]) -> tuple[Sketch, int]:
    """Take entities out; what was joined to both ends of one is joined instead."""
    for f in found:
        (ident,) = f.refs
        near = {r for c in sketch.constraints if c.kind == "coincident" for r in c.refs if _touches(c, ident)}
        ends = sorted(r for r in near if r.split(".")[0] != ident and "." in r)
        sketch = edit.delete(sketch, {ident}).sketch
        if len(ends) == 2:
            sketch, _ = _join(sketch, values, [(ends[0], ends[1])])
    return sketch, 0


def _touches(c: Constraint, ident: str) -> bool:
    return any(r.split(".")[0] == ident for r in c.refs)


def _one_of_two(sketch: Sketch, values: Values, found: list[Finding]) -> tuple[Sketch, int]:
    stuck = 0
    for f in found:
        keep, drop = (sketch.entity(r) for r in f.refs)
        if keep is None or drop is None:
            continue
        if not _has_own_shape(sketch, drop.id):
            keep, drop = drop, keep
        if _has_own_shape(sketch, drop.id):
            sketch = _replaced(sketch, drop, _twins(keep, drop))
        else:
            stuck += 1
    return sketch, stuck


def _has_own_shape(sketch: Sketch, ident: str) -> bool:
    """Whether something may be taken out or changed: it is no copy, no edge of the part, and carries nothing."""
    try:
        copies.check_shape(sketch, [ident])
    except Refusal:
        return False
    return True


def _twins(keep: AnyEntity, drop: AnyEntity) -> dict[str, str]:
    """What takes the place of each ref of ``drop``."""
    new = {drop.id: keep.id}
    have = points_of(keep)
    for ref, at in points_of(drop).items():
        near = min(have, key=lambda r: abs(have[r][0] - at[0]) + abs(have[r][1] - at[1]))
        new[ref] = near
    return new


def _replaced(sketch: Sketch, drop: AnyEntity, new: dict[str, str | None] | dict[str, str]) -> Sketch:
    """``drop`` taken out; ties speak of what took its place, where there is something and it says nothing twice.

    Patterns that copied it copy what took its place, and ties of those copies go over to the new ones.
    """
    numbers = Numbers(sketch)
    heir = sketch.entity(new.get(drop.id) or "")
    over: dict[str, str | None] = dict(new)
    if heir is not None and heir.id not in copies.copies_of(sketch, drop.id):
        lacking = [p for p in sketch.patterns if drop.id in p.of and heir.id not in p.of]
        if lacking:
            sketch, twins = copies.joined(sketch, numbers.new, [drop.id], [heir])
            for twin in twins:
                for old, now in new.items():
                    over[_of_copy(old, twin)] = None if now is None else _of_copy(now, twin)
    about = [p.model_copy(update={"about": over.get(p.about) or p.about}) if p.about else p for p in sketch.patterns]
    gone = {drop.id, *copies.copies_of(sketch, drop.id)}
    kept: list[Tie] = []
    for t in ties_of(sketch):
        refs = [over.get(r, None if r.split(".")[0] in gone else r) for r in t.refs]
        if any(r is None for r in refs) or len(set(refs)) != len(refs):
            continue
        t = t.model_copy(update={"refs": refs}) if refs != t.refs else t
        if not any(_says_same(t, k) for k in kept):
            kept.append(t)
    changed = sketch.model_copy(
        update={
            "constraints": [t for t in kept if isinstance(t, Constraint)],
            "dimensions": [t for t in kept if isinstance(t, Dimension)],
            "patterns": about,
            "used": numbers.top,
        }
    )
    return copies.without_entities(changed, gone)


def _of_copy(ref: str, twin: dict[str, str]) -> str:
    ident, dot, end = ref.partition(".")
    return f"{twin.get(ident, ident)}{dot}{end}"


def _says_same(a: Tie, b: Tie) -> bool:
    alike = a.kind == b.kind and set(a.refs) == set(b.refs)
    if isinstance(a, Dimension) and isinstance(b, Dimension):
        return alike and a.along == b.along and a.driving and b.driving
    return alike


def _merge(sketch: Sketch, values: Values, found: list[Finding]) -> tuple[Sketch, int]:
    """Two that lie on each other become one as long as both together."""
    stuck = 0
    for f in found:
        a, b = (sketch.entity(r) for r in f.refs)
        if not all(_has_own_shape(sketch, r) for r in f.refs):
            stuck += 1
        elif isinstance(a, Circle) and isinstance(b, Arc | Circle):
            sketch = _replaced(sketch, b, {b.id: a.id, f"{b.id}.c": f"{a.id}.c"})
        elif isinstance(b, Circle) and isinstance(a, Arc):
            sketch = _replaced(sketch, a, {a.id: b.id, f"{a.id}.c": f"{b.id}.c"})
        elif isinstance(a, Line) and isinstance(b, Line):
            sketch = _merged_lines(sketch, a, b)
        elif isinstance(a, Arc) and isinstance(b, Arc):
            sketch = _merged_arcs(sketch, a, b)
    return sketch, stuck


def _merged_lines(sketch: Sketch, a: Line, b: Line) -> Sketch:
    ux, uy = a.q[0] - a.p[0], a.q[1] - a.p[1]
    n = float(np.hypot(ux, uy))

    def along(e: XY) -> float:
        return float((ux * (e[0] - a.p[0]) + uy * (e[1] - a.p[1])) / n)

    places: dict[str, XY] = {r: at for line in (a, b) for r, at in points_of(line).items()}
    order = sorted(places, key=lambda r: along(places[r]))
    new: dict[str, str | None] = {a.id: a.id, b.id: a.id, f"{a.id}.p": None, f"{a.id}.q": None}
    new[order[0]], new[order[-1]] = f"{a.id}.p", f"{a.id}.q"
    longer = a.model_copy(update={"p": places[order[0]], "q": places[order[-1]]})
    return _as_one(sketch, longer, b, new)


def _merged_arcs(sketch: Sketch, a: Arc, b: Arc) -> Sketch:
    (s, u), (t, v) = sweep_of(a), sweep_of(b)
    turn = 2 * np.pi
    start = (t - s) % turn
    if start > u:  # b begins before a: see it from there
        return _merged_arcs_from(sketch, a, b, first=b, last=a if (s - t) % turn + u > v else b)
    return _merged_arcs_from(sketch, a, b, first=a, last=b if start + v > u else a)


def _merged_arcs_from(sketch: Sketch, a: Arc, b: Arc, first: Arc, last: Arc) -> Sketch:
    new: dict[str, str | None] = {a.id: a.id, b.id: a.id, f"{b.id}.c": f"{a.id}.c", f"{a.id}.c": f"{a.id}.c"}
    new |= {f"{x.id}.{k}": None for x in (a, b) for k in "pq"}
    new[f"{first.id}.p"], new[f"{last.id}.q"] = f"{a.id}.p", f"{a.id}.q"
    return _as_one(sketch, a.model_copy(update={"p": first.p, "q": last.q}), b, new)


def _as_one(sketch: Sketch, one: Line | Arc, gone: AnyEntity, new: dict[str, str | None]) -> Sketch:
    """``one`` stands for itself as it was and for ``gone``; sizes of either's whole length are dropped."""
    sizes = [d for d in sketch.dimensions if not (d.kind == "distance" and d.refs in ([one.id], [gone.id]))]
    entities: list[AnyEntity] = [one if e.id == one.id else e for e in sketch.entities]
    changed = copies.following(sketch.model_copy(update={"entities": entities, "dimensions": sizes}), [one.id])
    keep = {r: to for r, to in new.items() if to != r}
    told = [t for t in ties_of(changed) if all(keep.get(r, r) is not None for r in t.refs)]
    changed = changed.model_copy(
        update={
            "constraints": [t for t in told if isinstance(t, Constraint)],
            "dimensions": [t for t in told if isinstance(t, Dimension)],
        }
    )
    return _replaced(changed, gone, keep)


def _join_all(sketch: Sketch, values: Values, found: list[Finding]) -> tuple[Sketch, int]:
    return _join(sketch, values, [(f.refs[0], f.refs[1]) for f in found])


def _join(sketch: Sketch, values: Values, pairs: list[tuple[str, str]]) -> tuple[Sketch, int]:
    """Tie ends together, all at once; those that do not fit are left out and counted.

    What only touches is tied first: else closing one gap would pull open what was closed without being joined.
    """
    numbers = Numbers(sketch)
    meant = {frozenset(r.split(".")[0] for r in p) for p in pairs}
    contacts = [p for p in touches(sketch) if "." in p[1] or frozenset((p[0].split(".")[0], p[1])) not in meant]
    touching = [Constraint(id=numbers.new("k"), kind="coincident", refs=list(p)) for p in contacts]
    fresh = [Constraint(id=numbers.new("k"), kind="coincident", refs=list(p)) for p in pairs]
    ties = [*touching, *fresh]
    try:
        made: Edit = edit.add(sketch, values, constraints=ties, inferred=frozenset(c.id for c in ties))
    except Refusal:
        return sketch, len(pairs)
    return made.sketch, len({c.id for c in fresh} & set(made.skipped))


def touches(sketch: Sketch) -> list[tuple[str, str]]:
    """Ends that lie at one place, and ends that lie on a curve, without being tied there."""
    web = network(sketch)
    tied = same_places(sketch)
    held = {frozenset(c.refs) for c in sketch.constraints if c.kind == "coincident"}
    found: list[tuple[str, str]] = []
    for node, around in web.around.items():
        here = web.ends_at(node)
        first: dict[str, str] = {}
        for ref in here:
            first.setdefault(tied[ref], ref)
        found += [(ref, here[0]) for ref in list(first.values())[1:]]
        through = {web.edges[k][2].entity for k in around} - {r.split(".")[0] for r in here}
        on = [(here[0], curve) for curve in sorted(through) if here]
        found += [pair for pair in on if not any(frozenset((ref, pair[1])) in held for ref in here)]
    return found


def _cut_tails(sketch: Sketch, values: Values, found: list[Finding]) -> tuple[Sketch, int]:
    """Trim tails off, and take out what is one altogether, looking anew after each: a tail gone may free another."""
    stuck = 0
    for f in found:
        web = network(sketch)
        if not {p.entity for _, _, p in web.kept} & set(f.refs):
            sketch = edit.delete(sketch, set(f.refs)).sketch
            continue
        for chain in web.loose_chains():
            hit = next((p for _, _, p in chain if p.entity == f.refs[0]), None)
            if hit is None or len({p.entity for _, _, p in chain}) > 1 or _off(hit.middle(), f.at) > 1e-6:
                continue
            try:
                sketch = trim(sketch, values, f.refs[0], hit.middle()).sketch
            except Refusal:
                stuck += 1
            break
    return sketch, stuck


def _off(a: XY, b: XY) -> float:
    return max(abs(a[0] - b[0]), abs(a[1] - b[1]))


_MENDERS = {
    "off plane": _flatten,
    "no length": _drop,
    "tiny": _drop,
    "duplicate": _one_of_two,
    "overlap": _merge,
    "gap": _join_all,
    "near miss": _join_all,
    "tail": _cut_tails,
}

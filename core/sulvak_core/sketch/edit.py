"""Changes of a sketch, each a pure function: the old sketch stays, a new solved one comes back, or a Refusal.

Every function takes a Values, which works out what is typed in a dimension.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from ..part.errors import ExpressionError, Refusal
from ..part.expressions import Kind
from ..part.units import LengthUnit, length, number
from . import copies, words
from .components import parted, put_back
from .diagnosis import conflict, fixed_by, without
from .free_curves import anomaly, half_axes
from .freedom import freedom
from .lettering import slenderness
from .model import (
    FIXED_REFS,
    AnyEntity,
    Arc,
    Circle,
    Constraint,
    Dimension,
    Ellipse,
    EllipseArc,
    Line,
    Pattern,
    Point,
    Sketch,
    Spline,
    Text,
    moved,
    points_of,
)
from .solution_branches import with_branches
from .solve import Drag, all_hold, solve, standing
from .system import Builder
from .variables import INTERNAL

_KINDS = {"arc_length": "An arc length"}


@dataclass(frozen=True)
class Values:
    """How a typed expression becomes mm or degrees, and the document's unit for sentences."""

    evaluate: Callable[[str, str], float]
    unit: LengthUnit = "mm"

    def of(self, d: Dimension) -> float:
        """A driving dimension's value; raises a Refusal when it makes no size."""
        try:
            value = self.evaluate(d.expr, "angle" if d.kind == "angle" else "length")
        except ExpressionError as error:
            error.detail["dimension"] = d.id
            raise
        if d.kind == "angle":
            if not 0 < value < 180:
                raise Refusal("An angle lies between 0° and 180°; type one in between.", dimension=d.id)
        elif value <= 0:
            hint = " To join the two, tie them with coincident." if value == 0 and d.kind == "distance" else ""
            raise Refusal(
                f"{_KINDS.get(d.kind, f'A {d.kind}')} is more than zero; "
                f"which side is meant comes from the drawing.{hint}",
                dimension=d.id,
            )
        return value

    def all(self, sketch: Sketch) -> dict[str, float]:
        """Values of the driving dimensions by id, and the counts and angles of patterns by id and name."""
        known = {d.id: self.of(d) for d in sketch.dimensions if d.driving}
        for p in sketch.patterns:
            known |= {f"{p.id}.{name}": self.evaluate(text, kind) for name, text, kind in pattern_values(p)}
        return known


@dataclass
class Edit:
    """A changed sketch and what to say about it."""

    sketch: Sketch
    said: list[str] = field(default_factory=list)
    skipped: list[str] = field(default_factory=list)  # inferred ties that were already so
    lost: list[Dimension] = field(default_factory=list)  # sizes that went, as they could stay for reference


def pattern_values(p: Pattern) -> list[tuple[str, str, Kind]]:
    """What is typed in a pattern: name, text and kind of value."""
    found: list[tuple[str, str, Kind]] = [("count", p.count, "number")]
    if len(p.steps) > 1:
        found.append(("second", p.second, "number"))
    return [*found, ("angle", p.angle, "angle")] if p.angle else found


Tie = Constraint | Dimension


def ties_of(sketch: Sketch) -> list[Tie]:
    """All constraints and dimensions of a sketch."""
    return [*sketch.constraints, *sketch.dimensions]


def check_refs(sketch: Sketch, items: Iterable[Tie]) -> None:
    known = {r for e in sketch.entities for r in (e.id, *points_of(e))} | set(FIXED_REFS)
    for item in items:
        for ref in item.refs:
            if ref not in known:
                raise Refusal(f"{words.thing(ref).capitalize()} is no longer in this sketch; pick again.", ref=ref)
        if len(set(item.refs)) != len(item.refs):
            raise Refusal("The same thing is picked twice; pick two different ones.", refs=list(item.refs))


def check_entities(entities: Iterable[AnyEntity], rough: bool = False) -> None:
    """``rough``: drawn by hand in a file, so that an arc's ends may lie somewhat off it; solving puts them on it."""
    for e in entities:
        if isinstance(e, Line | Text) and math.dist(e.p, e.q) < 1e-6:
            what = "line" if isinstance(e, Line) else "text"
            raise Refusal(f"This {what} has no length; its two ends must be apart.", ref=e.id)
        if isinstance(e, Arc):
            slack = 0.5 * e.r if rough else 1e-6 * max(1, e.r)
            if any(abs(math.dist(e.c, end) - e.r) > slack for end in (e.p, e.q)):
                raise Refusal("The ends of this arc do not lie on it; draw it again.", ref=e.id)
            if math.dist(e.p, e.q) < 1e-9:
                raise Refusal("This arc closes on itself; draw a circle instead.", ref=e.id)
        if isinstance(e, Ellipse | EllipseArc):
            _check_ellipse(e, rough)
        if isinstance(e, Spline) and min(math.dist(a, b) for a, b in itertools.pairwise(e.points)) < 1e-6:
            raise Refusal("Two points of this spline that follow each other lie in one place; move them apart.")
        if isinstance(e, Text):
            slenderness(e.text)


def _boxed(text: Text) -> Text:
    """A text with its box as its letters make it: as wide as its base line, and so high."""
    k = slenderness(text.text)
    (px, py), (qx, qy) = text.p, text.q
    m = (px - k * (qy - py), py + k * (qx - px))
    return text.model_copy(update={"m": m, "c": ((m[0] + qx) / 2, (m[1] + qy) / 2)})


def _check_ellipse(e: Ellipse | EllipseArc, rough: bool) -> None:
    d, n = half_axes(e)
    sizes = math.hypot(*d) * math.hypot(*n)
    if sizes < 1e-12 or (d[0] * n[1] - d[1] * n[0]) < (0.5 if rough else 1 - 1e-9) * sizes:
        raise Refusal(
            "The half axes of this ellipse are not square to each other, the second left of the first; draw it again.",
            ref=e.id,
        )
    if isinstance(e, EllipseArc) and not rough:
        for end in (e.p, e.q):
            angle = anomaly(e.c, (d, n), end)
            on = [e.c[k] + math.cos(angle) * d[k] + math.sin(angle) * n[k] for k in (0, 1)]
            if math.dist(on, end) > 1e-6 * max(1.0, math.hypot(*d), math.hypot(*n)):
                raise Refusal("The ends of this piece of an ellipse do not lie on it; draw it again.", ref=e.id)


def add(
    sketch: Sketch,
    values: Values,
    entities: list[AnyEntity] | None = None,
    constraints: list[Constraint] | None = None,
    dimensions: list[Dimension] | None = None,
    inferred: frozenset[str] = frozenset(),
    shown: Sequence[AnyEntity] = (),
) -> Edit:
    """Add geometry and ties and solve, from where ``shown`` says that what is there already goes.

    Ties whose ids are in ``inferred`` were noticed, not asked for: if one is already so, or does not
    fit, it is left out. Any other that is redundant or fights is a Refusal with ``reason``
    (“redundant” or “conflict”), ``because`` (ids) and ``offer``.
    """
    entities, constraints, dimensions = entities or [], constraints or [], dimensions or []
    _check_new_ids(sketch, [*entities, *constraints, *dimensions])
    check_entities(entities)
    entities = [_boxed(e) if isinstance(e, Text) else e for e in entities]
    used = used_numbers(sketch, [*entities, *constraints, *dimensions])
    sketch = _with_places(sketch, shown) if shown else sketch
    grown = sketch.model_copy(update={"entities": [*sketch.entities, *entities], "used": used})
    full = grown.model_copy(
        update={
            "constraints": [*sketch.constraints, *constraints],
            "dimensions": [*sketch.dimensions, *dimensions],
        }
    )
    check_refs(full, [*constraints, *dimensions])
    fresh = {c.id for c in constraints} | {d.id for d in dimensions}
    if not shown and not constraints and not any(d.driving for d in dimensions):
        return Edit(measured(with_branches(full, fresh) if fresh else full, values.unit))
    known = values.all(full)
    edit = _in_part(
        full,
        None if shown else fresh | {e.id for e in entities},
        known,
        lambda part: _tied(part, fresh, values, known, inferred),
    )
    edit.sketch = measured(edit.sketch, values.unit)
    return edit


def _in_part(
    sketch: Sketch, idents: set[str] | None, known: Mapping[str, float], work: Callable[[Sketch], Edit]
) -> Edit:
    """Work on what hangs together with ``idents``, the rest of the sketch left as it is; on the whole sketch without
    ``idents``, or where not all of that rest holds."""
    apart = parted(sketch, idents) if idents else None
    if apart is None or not all_hold(apart[1], known):
        return work(sketch)
    part, _ = apart
    edit = work(part)
    edit.sketch = put_back(sketch, part, edit.sketch)
    return edit


def _tied(full: Sketch, fresh: set[str], values: Values, known: Mapping[str, float], inferred: frozenset[str]) -> Edit:
    """A sketch whose ``fresh`` ties come to hold, with their sides as things lie now. Raises Refusal."""
    full = with_branches(full, fresh)
    ties = [t for t in ties_of(full) if t.id in fresh]
    driving = [t for t in ties if isinstance(t, Constraint) or t.driving]
    grown = without(full, fresh)
    before = freedom(grown, known, with_motions=False).count
    solution = solve(full, known)
    if solution.solved:
        after = freedom(solution.sketch, known, with_motions=False).count
        if before - after == _asked(full, grown, known, fresh):
            return Edit(solution.sketch)
    return _one_by_one(grown, driving, [t for t in ties if t not in driving], values, known, inferred)


def _asked(sketch: Sketch, without_them: Sketch, known: Mapping[str, float], idents: set[str]) -> int:
    """How much of a sketch's freedom some ties take if none says what another does: their rows, less the variables
    they bring along (the width of an offset, the place of a contact)."""
    system = Builder(sketch, known).build()
    brought = len(system.x) - len(Builder(without_them, known).build().x)
    return sum(1 for row in system.rows if row.owner in idents) - brought


def _one_by_one(
    sketch: Sketch,
    driving: list[Tie],
    measuring: list[Tie],
    values: Values,
    known: Mapping[str, float],
    inferred: frozenset[str],
) -> Edit:
    edit = Edit(sketch)
    count = freedom(sketch, known, with_motions=False).count
    for tie in driving:
        trial = with_tie(edit.sketch, tie)
        solution = solve(trial, known)
        left = freedom(solution.sketch, known, with_motions=False).count if solution.solved else count
        if solution.solved and left < count:
            edit.sketch, count = solution.sketch, left
        elif tie.id in inferred:
            edit.skipped.append(tie.id)
        elif solution.solved:
            raise _redundant(trial, known, tie, values.unit)
        else:
            raise _conflicting(trial, known, tie, solution.missed, values.unit)
    for tie in measuring:
        edit.sketch = with_tie(edit.sketch, tie)
    return edit


def with_tie(sketch: Sketch, tie: Tie) -> Sketch:
    """The sketch with one more constraint or dimension, not solved."""
    if isinstance(tie, Constraint):
        return sketch.model_copy(update={"constraints": [*sketch.constraints, tie]})
    return sketch.model_copy(update={"dimensions": [*sketch.dimensions, tie]})


def _redundant(sketch: Sketch, known: Mapping[str, float], tie: Tie, unit: LengthUnit) -> Refusal:
    because = fixed_by(sketch, known, tie.id)
    named = _named(sketch, because, known, unit)
    what = "This size" if isinstance(tie, Dimension) else "This"
    offer = " Keep it as a reference dimension instead?" if isinstance(tie, Dimension) else ""
    by = f" by {named}" if named else ""
    return Refusal(
        f"{what} is already settled{by}.{offer}",
        reason="redundant",
        because=because,
        offer="reference" if isinstance(tie, Dimension) else "",
    )


def _conflicting(
    sketch: Sketch, known: Mapping[str, float], tie: Tie, missed: tuple[str, ...], unit: LengthUnit
) -> Refusal:
    fighting = conflict(sketch, known, tie.id, missed)
    others = [i for i in fighting if i != tie.id]
    named = _named(sketch, others, known, unit)
    mine = words.tie(sketch, tie.id, known, unit)
    against = f" It fights with {named}." if named else ""
    return Refusal(
        f"{mine[0].upper()}{mine[1:]} cannot hold.{against} The sketch stays as it was; change or remove one of them.",
        reason="conflict",
        because=fighting,
        offer="reference" if isinstance(tie, Dimension) else "",
    )


def _named(sketch: Sketch, idents: list[str], known: Mapping[str, float], unit: LengthUnit) -> str:
    """Ties in words; plain joins last, since they are seldom what is to be changed."""
    joins = {c.id for c in sketch.constraints if c.kind == "coincident"}
    telling = [i for i in idents if i not in joins] or idents
    said = [words.tie(sketch, i, known, unit) for i in telling[:6]]
    return "; ".join(said) + (f"; and {len(telling) - 6} more" if len(telling) > 6 else "")


def measured(sketch: Sketch, unit: LengthUnit) -> Sketch:
    """The sketch with its reference dimensions written with what they measure now."""
    if all(d.driving for d in sketch.dimensions):
        return sketch
    builder = Builder(sketch, {})
    fresh = []
    for d in sketch.dimensions:
        if not d.driving:
            now = builder.measure(d)
            d = d.model_copy(update={"expr": number(now) if d.kind == "angle" else length(now, unit)})
        fresh.append(d)
    return sketch.model_copy(update={"dimensions": fresh})


def _check_new_ids(sketch: Sketch, items: Iterable[AnyEntity | Tie]) -> None:
    taken = set(sketch.idents())
    for item in items:
        if item.id in taken or item.id in FIXED_REFS:
            raise Refusal("This was drawn already; look at the sketch again before going on.", ref=item.id)
        taken.add(item.id)


def used_numbers(sketch: Sketch, items: Iterable[AnyEntity | Tie]) -> dict[str, int]:
    """The highest number given so far per letter, the new items included."""
    used = dict(sketch.used)
    for ident in [*sketch.idents(), *(i.id for i in items)]:
        if ident[1:].isdigit():
            used[ident[0]] = max(used.get(ident[0], 0), int(ident[1:]))
    return used


def change_dimension(sketch: Sketch, values: Values, ident: str, update: Mapping[str, object]) -> Edit:
    """Change a dimension's expression, name, place, kind of reading or whether it drives."""
    old = next((d for d in sketch.dimensions if d.id == ident), None)
    if old is None:
        raise Refusal("This dimension is no longer in the sketch.", ref=ident)
    new = Dimension.model_validate({**old.model_dump(), **update})
    rest = sketch.model_copy(update={"dimensions": [d for d in sketch.dimensions if d.id != ident]})
    quiet = set(update) <= {"at", "name"}
    if old.driving and new.driving:
        whole = sketch.model_copy(update={"dimensions": [new if d.id == ident else d for d in sketch.dimensions]})
        if quiet:
            return Edit(whole)
        known = values.all(whole)

        def resized(part: Sketch) -> Edit:
            solution = solve(part, known)
            if not solution.solved:
                tied = with_tie(without(part, {ident}), new)
                raise _conflicting(tied, known, new, solution.missed, values.unit)
            return Edit(solution.sketch)

        edit = _in_part(whole, {ident}, known, resized)
        edit.sketch = measured(edit.sketch, values.unit)
        return edit
    if not new.driving:
        at = [new if d.id == ident else d for d in sketch.dimensions]
        return Edit(measured(sketch.model_copy(update={"dimensions": at}), values.unit))
    return add(rest, values, dimensions=[new.model_copy(update={"branch": None})])


def resolve(sketch: Sketch, values: Values) -> Edit:
    """Solve again, for example after a named value has changed; patterns grow to their counts first."""
    sketch = copies.regrown(sketch, values.evaluate)
    known = values.all(sketch)
    solution = solve(sketch, known)
    if not solution.solved:
        last = next((o for o in solution.missed if not o.startswith(INTERNAL)), "")
        tie = next((t for t in ties_of(sketch) if t.id == last), None)
        if tie is None:
            raise Refusal("These values cannot hold together in the sketch; it stays as it was.")
        raise _conflicting(sketch, known, tie, solution.missed, values.unit)
    return Edit(measured(solution.sketch, values.unit))


def drag(sketch: Sketch, values: Values, ref: str, to: tuple[float, float], shown: Sequence[AnyEntity] = ()) -> Edit:
    """Pull a point, or a circle's or arc's rim, towards a place as far as the constraints allow.

    ``shown`` are entities as they were seen when it was let go: where all that is tied holds, they stay just so.
    """
    known_refs = {r for e in sketch.entities for r in points_of(e)}
    rims = {e.id for e in sketch.entities if isinstance(e, Circle | Arc)}
    if ref not in known_refs | rims:
        raise Refusal(f"{words.thing(ref).capitalize()} cannot be dragged.", ref=ref)
    known = values.all(sketch)
    if shown:
        seen = standing(_with_places(sketch, shown), known)
        if seen is not None:
            return Edit(measured(seen, values.unit))

    def pulled(part: Sketch) -> Edit:
        found = solve(Drag(part, known, ref).to(*to), known)
        return Edit(found.sketch if found.solved else part)

    edit = _in_part(sketch, {ref.partition(".")[0]}, known, pulled)
    return Edit(measured(edit.sketch, values.unit))


def taken(sketch: Sketch, values: Values, ref: str) -> Drag:
    """A point or rim taken hold of, to be pulled about: what hangs together with it moves, nothing else is solved."""
    apart = parted(sketch, {ref.partition(".")[0]})
    return Drag(apart[0] if apart else sketch, values.all(sketch), ref)


def _with_places(sketch: Sketch, shown: Sequence[AnyEntity]) -> Sketch:
    """The sketch with the places and radii of ``shown``, nothing else of them; the part's edges stay."""
    places = {e.id: e for e in shown if e.id not in sketch.given}
    entities: list[AnyEntity] = []
    for e in sketch.entities:
        new = places.get(e.id)
        if new is not None and new.kind == e.kind and set(points_of(new)) == set(points_of(e)):
            e = moved(e, points_of(new).__getitem__, new.r if isinstance(new, Circle | Arc) else None)
        entities.append(e)
    return sketch.model_copy(update={"entities": entities})


@dataclass
class Removal:
    """What goes when something is deleted: entities, and the ties that hung on them."""

    entities: list[str]
    ties: list[str]


def removal(sketch: Sketch, idents: set[str]) -> Removal:
    """What would go with ``idents`` (entities, constraints, dimensions), before it is done."""
    all_of_it = copies.gone_with(sketch, idents)
    entities = [e.id for e in sketch.entities if e.id in all_of_it]
    gone = set(entities)
    ties = [t.id for t in ties_of(sketch) if t.id in idents or any(r.split(".")[0] in gone for r in t.refs)]
    return Removal(entities, ties)


def delete(sketch: Sketch, idents: set[str]) -> Edit:
    """Take out entities, constraints and dimensions, and the ties that hang on them."""
    gone = removal(sketch, idents)
    loosened = idents & {p.id for p in sketch.patterns}
    if not gone.entities and not gone.ties and not loosened:
        raise Refusal("There is nothing of that left to delete.")
    ties = set(gone.ties)
    extra = len(ties - idents)
    said = f"{extra} constraint{'' if extra == 1 else 's'} and dimensions went with it" if extra else ""
    kept = copies.without_entities(sketch, {*gone.entities, *ties, *loosened})
    return Edit(kept, [said] if said else [])


def construction(sketch: Sketch, idents: set[str], on: bool) -> Edit:
    """Make entities construction geometry, or real again."""
    entities = [e.model_copy(update={"construction": on}) if e.id in idents else e for e in sketch.entities]
    return Edit(sketch.model_copy(update={"entities": entities}))


__all__ = ["Edit", "Point", "Removal", "Values", "add", "change_dimension", "construction", "delete", "drag", "removal"]

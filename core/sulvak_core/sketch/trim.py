"""Cutting away a piece of a line, arc or circle between the things that cross it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..part.errors import Refusal
from . import words
from .branches import with_branches
from .copies import check_shape, copies_of, following, joined, without_entities
from .curves import Curve, meet, parameter, position
from .edit import Edit, Tie, Values, delete, resolve, ties_of
from .model import (
    XY,
    AnyEntity,
    Arc,
    Circle,
    Constraint,
    Dimension,
    Ellipse,
    EllipseArc,
    Line,
    Sketch,
    extent,
    sweep_of,
)
from .numbers import Numbers
from .profiles import SAME_PLACE
from .system import Builder

Mark = tuple[float, str]  # where along the curve, and what crosses it there


def trim(sketch: Sketch, values: Values, ident: str, at: XY, cutters: Sequence[AnyEntity] | None = None) -> Edit:
    """Take out the piece of ``ident`` nearest to ``at`` (mm), as far as the next crossings either way.

    ``cutters`` are what its pieces lie between; None: the sketch as it is.

    New ends are tied to what cut them; of a piece in the middle two parts stay on one line or circle. What hung on
    the end that goes, and sizes of the whole length, go with it and are told. Without crossings all of it goes.
    """
    check_shape(sketch, [ident])
    curve = sketch.entity(ident)
    if not isinstance(curve, Line | Arc | Circle):
        raise Refusal(
            f"{words.thing(ident).capitalize()} cannot be trimmed; pick a line, an arc or a circle.", ref=ident
        )
    tolerance = min(max(1e-9 * extent(sketch), 1e-10), SAME_PLACE)
    marks = _marks(sketch.entities if cutters is None else cutters, curve, tolerance)
    here = _nearest(curve, at)
    if isinstance(curve, Circle):
        if len(marks) < 2:
            return delete(sketch, {ident})
        below = max((m for m in marks if m[0] <= here), default=marks[-1])
        above = min((m for m in marks if m[0] > here), default=marks[0])
        return _opened(sketch, values, curve, above, below)
    before = max((m for m in marks if m[0] <= here), default=None)
    after = min((m for m in marks if m[0] > here), default=None)
    if before is None and after is None:
        return delete(sketch, {ident})
    return _shortened(sketch, values, curve, before, after)


def trim_all(sketch: Sketch, values: Values, places: list[tuple[str, XY]]) -> Edit:
    """Take out several pieces, each named by its entity and a place on it (mm), as they lie before any is gone.

    Where a piece before has cut the entity up, what lies at the place is meant; a place left bare is passed over.
    """
    made: Edit | None = None
    told: list[str] = []
    for ident, at in places:
        now = made.sketch if made else sketch
        if made is not None:
            slack = 1e-4 * extent(sketch)
            near = [(_apart(e, at), e.id) for e in now.entities if isinstance(e, Line | Arc | Circle)]
            here = [i for d, i in sorted(near) if d <= slack]
            if not here:
                continue
            ident = ident if ident in here else here[0]
        made = trim(now, values, ident, at, sketch.entities)
        told += made.said
    assert made is not None
    return Edit(made.sketch, list(dict.fromkeys(told)))


def _apart(curve: Curve, at: XY) -> float:
    return math.dist(position(curve, _nearest(curve, at)), at)


def _marks(others: Sequence[AnyEntity], curve: Curve, tolerance: float) -> list[Mark]:
    """Where others cross or touch a curve, in order; its own ends left out."""
    found: list[Mark] = []
    for other in others:
        if other.id == curve.id or not isinstance(other, Line | Arc | Circle | Ellipse | EllipseArc):
            continue
        for place in meet(curve, other, tolerance):
            t = parameter(curve, place, tolerance)
            inner = isinstance(curve, Circle) or (t is not None and 1e-7 < t < 1 - 1e-7)
            if t is not None and inner and not any(abs(t - m[0]) < 1e-9 for m in found):
                found.append((t, other.id))
    return sorted(found)


def _nearest(curve: Curve, at: XY) -> float:
    if isinstance(curve, Line):
        dx, dy = curve.q[0] - curve.p[0], curve.q[1] - curve.p[1]
        t = ((at[0] - curve.p[0]) * dx + (at[1] - curve.p[1]) * dy) / (dx * dx + dy * dy)
        return min(1.0, max(0.0, t))
    angle = math.atan2(at[1] - curve.c[1], at[0] - curve.c[0])
    if isinstance(curve, Circle):
        return (angle / (2 * math.pi)) % 1.0
    start, sweep = sweep_of(curve)
    turned = (angle - start) % (2 * math.pi)
    if turned > sweep:  # beside the arc: the nearer end
        return 1.0 if turned - sweep < 2 * math.pi - turned else 0.0
    return turned / sweep


def _opened(sketch: Sketch, values: Values, circle: Circle, start: Mark, end: Mark) -> Edit:
    """A circle made an arc, counter-clockwise from ``start`` to ``end``; what was tied to it is tied to the arc."""
    numbers = Numbers(sketch)
    ident = numbers.new("a")
    arc = Arc(
        id=ident,
        construction=circle.construction,
        c=circle.c,
        r=circle.r,
        p=position(circle, start[0]),
        q=position(circle, end[0]),
    )
    grown = sketch.model_copy(update={"entities": [*sketch.entities, arc]})
    grown, twins = joined(grown, numbers.new, [circle.id], [arc])
    now = {circle.id: ident} | {t[circle.id]: t[ident] for t in twins}

    def renamed(ref: str) -> str:
        of, dot, point = ref.partition(".")
        return f"{now.get(of, of)}{dot}{point}"

    ties = [_with_refs(t, [renamed(r) for r in t.refs]) for t in ties_of(sketch)]
    about = [p.model_copy(update={"about": renamed(p.about)}) if p.about else p for p in grown.patterns]
    rest = grown.model_copy(update={"patterns": about, "constraints": [], "dimensions": []})
    rest = without_entities(rest, set(now))
    return _finish(sketch, values, rest, ties, numbers, [(f"{ident}.p", start), (f"{ident}.q", end)], [])


def _shortened(sketch: Sketch, values: Values, curve: Line | Arc, before: Mark | None, after: Mark | None) -> Edit:
    """A line or arc that loses its start (no ``before``), its end (no ``after``) or a piece in the middle."""
    numbers = Numbers(sketch)
    extra: list[Constraint] = []
    ends: list[tuple[str, Mark]] = []
    second: Line | Arc | None = None
    kept: Line | Arc
    gone: str | None = None
    if before is None and after is not None:
        kept, gone = curve.model_copy(update={"p": position(curve, after[0])}), f"{curve.id}.p"
        ends.append((gone, after))
    elif after is None and before is not None:
        kept, gone = curve.model_copy(update={"q": position(curve, before[0])}), f"{curve.id}.q"
        ends.append((gone, before))
    else:
        assert before is not None
        assert after is not None
        kept = curve.model_copy(update={"q": position(curve, before[0])})
        ident = numbers.new(curve.id[0])
        second = curve.model_copy(update={"id": ident, "p": position(curve, after[0])})
        ends += [(f"{curve.id}.q", before), (f"{ident}.p", after)]
        alike = [("collinear", [curve.id, ident])]
        if isinstance(curve, Arc):
            alike = [("concentric", [curve.id, ident]), ("equal", [curve.id, ident])]
        extra += [Constraint(id=numbers.new("k"), kind=k, refs=refs) for k, refs in alike]  # type: ignore[arg-type]
    changed = _with_shape(sketch, kept)
    changed, ends_now = _with_second(changed, numbers, curve.id, second)
    copies = {curve.id, *copies_of(sketch, curve.id)}
    lost = {f"{i}{gone[len(curve.id) :]}" for i in copies} if gone else set()
    ties = [
        _with_refs(t, [ends_now.get(r, r) for r in t.refs])
        for t in ties_of(sketch)
        if lost.isdisjoint(t.refs) and not any(_of_whole(t, i, curve) for i in copies)
    ]
    return _finish(sketch, values, changed, ties, numbers, ends, extra)


def _with_shape(sketch: Sketch, entity: AnyEntity) -> Sketch:
    """The sketch with one entity changed, and its copies after it."""
    changed = sketch.model_copy(update={"entities": [entity if e.id == entity.id else e for e in sketch.entities]})
    return following(changed, [entity.id])


def _with_second(
    sketch: Sketch, numbers: Numbers, first: str, second: Line | Arc | None
) -> tuple[Sketch, dict[str, str]]:
    """The sketch with the other piece of ``first``, also in its copies; and which end each far end is now."""
    if second is None:
        return sketch, {}
    entities: list[AnyEntity] = []
    for e in sketch.entities:
        entities += [e, second] if e.id == first else [e]
    grown = sketch.model_copy(update={"entities": entities})
    grown, twins = joined(grown, numbers.new, [first], [second])
    pairs = {first: second.id} | {t[first]: t[second.id] for t in twins}
    return grown, {f"{old}.q": f"{new}.q" for old, new in pairs.items()}


def _of_whole(t: Tie, ident: str, curve: Line | Arc) -> bool:
    """Whether a tie speaks of the whole length of ``ident`` (``curve`` or a copy of it), which is no longer there."""
    if ident not in t.refs:
        return False
    if isinstance(t, Dimension):
        return t.kind == "distance" and len(t.refs) == 1
    if t.kind == "symmetric":
        return ident != t.refs[2]
    return t.kind in ("midpoint", "fixed") or (t.kind == "equal" and isinstance(curve, Line))


def _finish(
    before: Sketch,
    values: Values,
    changed: Sketch,
    ties: list[Tie],
    numbers: Numbers,
    ends: list[tuple[str, Mark]],
    extra: list[Constraint],
    lost_with: str = "what was cut away",
) -> Edit:
    """``changed`` is the sketch with its new geometry, ``ties`` what of its constraints and sizes stays."""
    entities = changed.entities
    left = {e.id for e in entities}
    ends = [(ref, mark) for ref, mark in ends if mark[1] in left]
    lost = len(ties_of(before)) - len(ties)
    made = [*extra]
    for ref, (_, cutter) in ends:
        corner, joins = _corner(before, entities, ties, ref, cutter, {_of(r) for r, _ in ends})
        ties = [t for t in ties if t not in joins]
        made.append(Constraint(id=numbers.new("k"), kind="coincident", refs=[ref, corner or cutter]))
    after = changed.model_copy(
        update={
            "constraints": [*(t for t in ties if isinstance(t, Constraint)), *made],
            "dimensions": [t for t in ties if isinstance(t, Dimension)],
            "used": numbers.top,
        }
    )
    edit = resolve(with_branches(after, {c.id for c in made}), values)
    if lost:
        edit.said.append(f"{lost} constraint{'' if lost == 1 else 's'} or sizes of {lost_with} went with it")
    return edit


def _corner(
    before: Sketch, entities: list[AnyEntity], ties: list[Tie], ref: str, cutter: str, parts: set[str]
) -> tuple[str | None, list[Tie]]:
    """The end of the cutter that lies where the cut end ``ref`` does, if one does, and the ties that held it
    on what was cut, of which ``parts`` are left.

    An end tied to what was cut counts from further away: where a curve only touches, the place is known less sharply.
    """
    by_id = {e.id: e for e in entities}
    cut, other = by_id[_of(ref)], by_id[cutter]
    if not isinstance(other, Line | Arc | EllipseArc):
        return None, []
    place = getattr(cut, ref.rsplit(".", 1)[1])
    same = Builder(before, {}).same_place
    for end in ("p", "q"):
        corner = f"{cutter}.{end}"
        here = {r for r, at in same.items() if at == same[corner]}
        joins: list[Tie] = [
            t
            for t in ties
            if t.kind == "coincident" and len(t.refs) == 2 and here & set(t.refs) and parts & set(t.refs)
        ]
        reach = 1e-4 * extent(before) if joins else SAME_PLACE
        if math.dist(getattr(other, end), place) <= reach:
            return corner, joins
    return None, []


def _of(ref: str) -> str:
    return ref.split(".")[0]


def _with_refs(t: Tie, refs: list[str]) -> Tie:
    return t if refs == t.refs else t.model_copy(update={"refs": refs})


def extend(sketch: Sketch, values: Values, ident: str, at: XY) -> Edit:
    """Carry the end of ``ident`` that is nearest to ``at`` on to the next line, arc or circle it would meet.

    The end is tied to what it reaches. Raises Refusal when nothing lies ahead, or the end is joined already.
    """
    check_shape(sketch, [ident])
    curve = sketch.entity(ident)
    if not isinstance(curve, Line | Arc):
        raise Refusal(f"{words.thing(ident).capitalize()} has no end to extend; pick a line or an arc.", ref=ident)
    last = _nearest(curve, at) >= 0.5
    end = f"{ident}.{'q' if last else 'p'}"
    joined = next((t for t in sketch.constraints if t.kind == "coincident" and end in t.refs), None)
    if joined is not None:
        raise Refusal(f"{words.thing(end).capitalize()} is joined already: {words.constraint(joined)}.", ref=end)
    long = _carried_on(curve, last, 8 * extent(sketch))
    tolerance = min(max(1e-9 * extent(sketch), 1e-10), SAME_PLACE)
    marks = [m for m in _marks(sketch.entities, long, tolerance) if m[1] != ident]
    own = parameter(long, curve.q if last else curve.p, 1e-6 * extent(sketch))
    assert own is not None
    ahead = [m for m in marks if (m[0] > own + 1e-7 if last else m[0] < own - 1e-7)]
    if not ahead:
        raise Refusal(f"Nothing lies ahead of {words.thing(end)} that it could reach.", ref=end)
    mark = min(ahead) if last else max(ahead)
    place = position(long, mark[0])
    grown = curve.model_copy(update={"q" if last else "p": place})
    numbers = Numbers(sketch)
    copies = {ident, *copies_of(sketch, ident)}
    ties = [t for t in ties_of(sketch) if not any(_of_whole(t, i, curve) for i in copies)]
    changed = _with_shape(sketch, grown)
    return _finish(sketch, values, changed, ties, numbers, [(end, mark)], [], "its old length")


def _carried_on(curve: Line | Arc, last: bool, far: float) -> Line | Arc:
    """The curve with its end carried on: a line by ``far`` mm, an arc nearly round to its other end."""
    if isinstance(curve, Arc):
        start, sweep = sweep_of(curve)
        left = (2 * math.pi - sweep) * (1 - 1e-9)
        turn = start + sweep + left if last else start - left
        place = (curve.c[0] + curve.r * math.cos(turn), curve.c[1] + curve.r * math.sin(turn))
        return curve.model_copy(update={"q" if last else "p": place})
    (px, py), (qx, qy) = (curve.p, curve.q) if last else (curve.q, curve.p)
    k = far / math.dist(curve.p, curve.q)
    return curve.model_copy(update={"q" if last else "p": (qx + k * (qx - px), qy + k * (qy - py))})


def split(sketch: Sketch, values: Values, ident: str, at: XY) -> Edit:
    """Cut a line or arc in two at the place nearest to ``at``; the parts stay joined and on one line or circle."""
    check_shape(sketch, [ident])
    curve = sketch.entity(ident)
    if not isinstance(curve, Line | Arc):
        raise Refusal(f"{words.thing(ident).capitalize()} cannot be split; pick a line or an arc.", ref=ident)
    t = _nearest(curve, at)
    if not 1e-6 < t < 1 - 1e-6:
        raise Refusal("Point at a place between the two ends to split there.", ref=ident)
    numbers = Numbers(sketch)
    place = position(curve, t)
    second_id = numbers.new(curve.id[0])
    first, second = curve.model_copy(update={"q": place}), curve.model_copy(update={"id": second_id, "p": place})
    changed = _with_shape(sketch, first)
    changed, ends_now = _with_second(changed, numbers, ident, second)
    copies = {ident, *copies_of(sketch, ident)}
    ties = [
        _with_refs(tie, [ends_now.get(r, r) for r in tie.refs])
        for tie in ties_of(sketch)
        if not any(_of_whole(tie, i, curve) for i in copies)
    ]
    pair = [("coincident", [f"{ident}.q", f"{second_id}.p"])]
    # one shared point and one direction, or one shared point and one centre: no more is needed to stay in line
    pair.append(("parallel", [ident, second_id]) if isinstance(curve, Line) else ("concentric", [ident, second_id]))
    extra = [Constraint(id=numbers.new("k"), kind=k, refs=refs) for k, refs in pair]  # type: ignore[arg-type]
    return _finish(sketch, values, changed, ties, numbers, [], extra, "its old length")

"""Cutting away a piece of a line, arc or circle between the things that cross it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..part.errors import Refusal
from . import words
from .copies import check_shape, copies_of, following, joined, without_entities
from .curves import Curve, box, meet_along, parameter, position
from .edit import Edit, Tie, Values, delete, resolve, ties_of
from .model import (
    ORIGIN,
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
    points_of,
    sweep_of,
)
from .numbers import Numbers
from .profiles import SAME_PLACE
from .solution_branches import with_branches
from .variables import same_places

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
    lost: dict[str, Dimension] = {}
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
        lost |= {d.id: d for d in made.lost}
    assert made is not None
    there = {r for e in made.sketch.entities for r in (e.id, *points_of(e))} | {ORIGIN}
    left = [d for d in lost.values() if there.issuperset(d.refs)]
    return Edit(made.sketch, list(dict.fromkeys(told)), lost=left)


def _apart(curve: Curve, at: XY) -> float:
    return math.dist(position(curve, _nearest(curve, at)), at)


def _marks(others: Sequence[AnyEntity], curve: Curve, tolerance: float) -> list[Mark]:
    """Where others cross or touch a curve, in order; its own ends left out."""
    found: list[Mark] = []
    x0, y0, x1, y1 = box(curve, 2 * tolerance)
    for other in others:
        if other.id == curve.id or not isinstance(other, Line | Arc | Circle | Ellipse | EllipseArc):
            continue
        left, low, right, high = box(other, 2 * tolerance)
        if left > x1 or right < x0 or low > y1 or high < y0:
            continue
        for _, t, _ in meet_along(curve, other, tolerance):
            inner = isinstance(curve, Circle) or 1e-7 < t < 1 - 1e-7
            if inner and not any(abs(t - m[0]) < 1e-9 for m in found):
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
    changed, pieces = _with_second(changed, numbers, curve.id, second)
    middle = (before[0] + after[0]) / 2 if before is not None and after is not None else 1.0
    ties, lost = _carried(sketch, curve, pieces, middle, gone)
    return _finish(sketch, values, changed, ties, numbers, ends, extra, lost=lost)


def _carried(
    sketch: Sketch, curve: Line | Arc, pieces: dict[str, str], middle: float, gone: str | None
) -> tuple[list[Tie], list[Dimension]]:
    """What is tied to a curve that is cut, as it is afterwards, and sizes that cannot go on, as they would measure.

    ``pieces`` are the further pieces of it and of its copies; what touches beyond ``middle`` (0 … 1) is theirs. Where
    an end is ``gone``, another end in its place stands for it: the sharp corner.
    """
    cut = {curve.id, *copies_of(sketch, curve.id)}
    same = same_places(sketch)
    ends: dict[str, str | None] = {f"{old}.q": f"{new}.q" for old, new in pieces.items()}
    if gone is not None:
        for ident in cut:
            ref = f"{ident}{gone[len(curve.id) :]}"
            here = (r for r, at in same.items() if at == same[ref] and _of(r) not in cut)
            ends[ref] = next(here, None)
    ties: list[Tie] = []
    lost: list[Dimension] = []
    for t in ties_of(sketch):
        of = next((i for i in cut if i in t.refs), None)
        refs: list[str | None] = [ends.get(r, r) for r in t.refs]
        if of is not None and _of_whole(t, of, curve):
            far = [ends.get(f"{of}.{end}", f"{of}.{end}") for end in "pq"]
            refs = far if isinstance(t, Dimension) and t.kind == "distance" else [None]
        elif of in pieces and _touches_at(sketch, t, of) > middle:
            refs = [pieces[of] if r == of else r for r in refs]
        if None in refs:
            lost += [t.model_copy(update={"driving": False})] if isinstance(t, Dimension) else []
        elif len(set(refs)) == len(refs):
            ties.append(_with_refs(t, [r for r in refs if r]))
    return ties, lost


def _touches_at(sketch: Sketch, t: Tie, ident: str) -> float:
    """Where along a curve (0 … 1) something that is tied to it touches it; 0 for what does not touch."""
    curve = sketch.entity(ident)
    other = next((r for r in t.refs if r != ident), "")
    if not isinstance(curve, Line | Arc) or t.kind not in ("tangent", "coincident"):
        return 0.0
    at = dict(p for e in sketch.entities for p in points_of(e).items()) | {ORIGIN: (0.0, 0.0)}
    if t.kind == "coincident":
        return _nearest(curve, at[other]) if other in at else 0.0
    thing = sketch.entity(other)
    if isinstance(thing, Line) and isinstance(curve, Arc):
        return _nearest(curve, _foot(thing, curve.c))
    if isinstance(thing, Arc | Circle):
        return _nearest(curve, _towards(curve, thing))
    return 0.0


def _foot(line: Line, at: XY) -> XY:
    dx, dy = line.q[0] - line.p[0], line.q[1] - line.p[1]
    t = ((at[0] - line.p[0]) * dx + (at[1] - line.p[1]) * dy) / (dx * dx + dy * dy)
    return line.p[0] + t * dx, line.p[1] + t * dy


def _towards(curve: Line | Arc, other: Arc | Circle) -> XY:
    """Where a circle touches a curve: at the foot of its centre, or on the line of centres, on the side it lies on."""
    if isinstance(curve, Line):
        return other.c
    dx, dy = other.c[0] - curve.c[0], other.c[1] - curve.c[1]
    apart = math.hypot(dx, dy)
    # a circle round this one touches it on the far side from its centre
    side = -1.0 if apart > 0 and abs(other.r - curve.r - apart) < abs(other.r + curve.r - apart) else 1.0
    return curve.c[0] + side * dx, curve.c[1] + side * dy


def _with_shape(sketch: Sketch, entity: AnyEntity) -> Sketch:
    """The sketch with one entity changed, and its copies after it."""
    changed = sketch.model_copy(update={"entities": [entity if e.id == entity.id else e for e in sketch.entities]})
    return following(changed, [entity.id])


def _with_second(
    sketch: Sketch, numbers: Numbers, first: str, second: Line | Arc | None
) -> tuple[Sketch, dict[str, str]]:
    """The sketch with the other piece of ``first``, also in its copies; and that piece for each."""
    if second is None:
        return sketch, {}
    entities: list[AnyEntity] = []
    for e in sketch.entities:
        entities += [e, second] if e.id == first else [e]
    grown = sketch.model_copy(update={"entities": entities})
    grown, twins = joined(grown, numbers.new, [first], [second])
    return grown, {first: second.id} | {t[first]: t[second.id] for t in twins}


def _of_whole(t: Tie, ident: str, curve: Line | Arc) -> bool:
    """Whether a tie speaks of the whole length of ``ident`` (``curve`` or a copy of it), which is no longer there."""
    if ident not in t.refs:
        return False
    if isinstance(t, Dimension):
        return t.kind == "arc_length" or (t.kind == "distance" and len(t.refs) == 1)
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
    lost: Sequence[Dimension] = (),
) -> Edit:
    """``changed`` is the sketch with its new geometry, ``ties`` what of its constraints and sizes stays, ``lost`` sizes
    that could go on as reference sizes."""
    entities = changed.entities
    left = {e.id for e in entities}
    ends = [(ref, mark) for ref, mark in ends if mark[1] in left]
    gone = {t.id for t in ties_of(before)} - {t.id for t in ties} - _joints(before, ties)
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
    if gone:
        known = {d.id: values.of(d) for d in before.dimensions if d.driving}
        named = [words.tie(before, t.id, known, values.unit) for t in ties_of(before) if t.id in gone]
        more = f" and {len(named) - 3} more" if len(named) > 3 else ""
        edit.said.append(f"With {lost_with} went: {'; '.join(named[:3])}{more}.")
    edit.lost += lost
    return edit


def _joints(before: Sketch, ties: list[Tie]) -> set[str]:
    """Ties that only joined the end that is gone to what still stands there: nothing that anybody would miss."""
    kept = {t.id for t in ties}
    return {c.id for c in before.constraints if c.kind == "coincident" and len(c.refs) == 2 and c.id not in kept}


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
    same = same_places(before)
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
    whole = [t for t in ties_of(sketch) if any(_of_whole(t, i, curve) for i in copies)]
    ties = [t for t in ties_of(sketch) if t not in whole]
    lost = [t.model_copy(update={"driving": False}) for t in whole if isinstance(t, Dimension)]
    changed = _with_shape(sketch, grown)
    return _finish(sketch, values, changed, ties, numbers, [(end, mark)], [], "its old length", lost)


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
    changed, cut_up = _with_second(changed, numbers, ident, second)
    ties, lost = _carried(sketch, curve, cut_up, t, None)
    pair = [("coincident", [f"{ident}.q", f"{second_id}.p"])]
    # one shared point and one direction, or one shared point and one centre: no more is needed to stay in line
    pair.append(("parallel", [ident, second_id]) if isinstance(curve, Line) else ("concentric", [ident, second_id]))
    extra = [Constraint(id=numbers.new("k"), kind=k, refs=refs) for k, refs in pair]  # type: ignore[arg-type]
    return _finish(sketch, values, changed, ties, numbers, [], extra, "its old length", lost)

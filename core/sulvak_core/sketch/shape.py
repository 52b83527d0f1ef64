"""Changing the shape of what is drawn: corners rounded and chamfered. What was meant before still holds."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from ..part.errors import Refusal
from ..part.units import length
from . import words
from .copies import check_shape, following
from .edit import Edit, Values, resolve, ties_of
from .freedom import freedom
from .lettering import slenderness
from .model import (
    XY,
    AnyEntity,
    Arc,
    Constraint,
    Dimension,
    Line,
    Point,
    Sketch,
    Text,
)
from .numbers import Numbers
from .sharp_corner import SAME, Corner, Sharp
from .solution_branches import with_branches
from .variables import same_places


def fillet(sketch: Sketch, values: Values, corners: list[str], expr: str) -> Edit:
    """Round the corners named by a line's end each, all with one radius.

    The sharp corner stays as a point wherever something is measured from it or tied to it. Raises Refusal when a
    corner is none, or the radius does not fit between its lines.
    """
    if not corners:
        raise Refusal("Pick the corners to round: points where two lines meet.")
    radius = values.of(Dimension(id="d1", kind="radius", refs=["a1"], expr=expr))
    made = sketch
    first: str | None = None
    for ref in dict.fromkeys(corners):
        made, arc = _rounded(made, radius, ref, expr, first)
        first = first or arc
    return _finished(sketch, made, values)


def _finished(before: Sketch, after: Sketch, values: Values) -> Edit:
    """Solved; where nothing of a line was left, a size or an equality may say again what its width says already."""
    used_up = {e.id for e in after.entities if e.construction} & {e.id for e in before.entities if not e.construction}
    edit = resolve(after, values)
    if not used_up:
        return edit
    rounds = {e.id for e in after.entities if isinstance(e, Arc)}
    fresh = {t.id for t in ties_of(after)} - {t.id for t in ties_of(before)}
    asked = {d.id for d in after.dimensions if d.driving and (d.id in fresh or set(d.refs) <= rounds)}
    asked |= {c.id for c in after.constraints if c.kind == "equal" and c.id in fresh}
    return resolve(_settled(edit.sketch, values, asked), values)


def _corner(sketch: Sketch, ref: str) -> Corner:
    same = same_places(sketch)
    if ref not in same:
        raise Refusal(f"{words.thing(ref).capitalize()} is no longer in this sketch; pick again.", ref=ref)
    lines = {e.id: e for e in sketch.entities if isinstance(e, Line) and not e.construction}
    here = [r for r in same if same[r] == same[ref] and r.split(".")[0] in lines]
    if len(here) != 2:
        raise Refusal(
            f"At {words.thing(ref)} {len(here)} lines meet; a corner to round has two that are joined.", ref=ref
        )
    check_shape(sketch, [r.split(".")[0] for r in here])
    at = _end(lines, here[0])
    far = tuple(f"{r[:-1]}{'q' if r[-1] == 'p' else 'p'}" for r in here)
    others = [_end(lines, r) for r in far]
    lengths = tuple(math.dist(at, o) for o in others)
    toward = tuple(((o[0] - at[0]) / n, (o[1] - at[1]) / n) for o, n in zip(others, lengths, strict=True))
    return Corner((here[0], here[1]), far, at, toward, lengths)  # type: ignore[arg-type]


def _end(lines: dict[str, Line], ref: str) -> XY:
    ident, _, end = ref.partition(".")
    at: XY = getattr(lines[ident], end)
    return at


def _rounded(sketch: Sketch, radius: float, ref: str, expr: str, like: str | None) -> tuple[Sketch, str]:
    corner = _corner(sketch, ref)
    numbers = Numbers(sketch)
    arc = numbers.new("a")
    (ux, uy), (vx, vy) = corner.toward
    half = math.acos(max(-1.0, min(1.0, ux * vx + uy * vy))) / 2
    if half < 1e-3 or half > math.pi / 2 - 1e-3:
        raise Refusal("These two lines run on in one direction; there is no corner to round.", ref=ref)
    back = radius / math.tan(half)
    most = min(corner.lengths)
    if back > most + SAME:
        fits = most * math.tan(half)
        raise Refusal(
            f"A radius of {radius:g} mm does not fit here: the shorter line leaves room for {fits:.4g} mm at most.",
            ref=ref,
            most=fits,
        )
    t1 = (corner.at[0] + back * ux, corner.at[1] + back * uy)
    t2 = (corner.at[0] + back * vx, corner.at[1] + back * vy)
    reach = radius / math.sin(half)
    mx, my = ux + vx, uy + vy
    n = math.hypot(mx, my)
    centre = (corner.at[0] + mx / n * reach, corner.at[1] + my / n * reach)
    # counter-clockwise from p to q, the short way round
    turns_left = (t1[0] - centre[0]) * (t2[1] - centre[1]) - (t1[1] - centre[1]) * (t2[0] - centre[0]) > 0
    p, q = (t1, t2) if turns_left else (t2, t1)
    full = _full_round(sketch, corner, centre, radius, back)
    if full is not None:
        return _one_arc(sketch, corner, numbers, back, half, full), full.arc
    order = (0, 1) if turns_left else (1, 0)
    sharp = Sharp(sketch, corner, numbers, (back, back), (t1, t2), Arc(id=arc, c=centre, r=radius, p=p, q=q))
    dimensions = sharp.dimensions()  # before the constraints: both may ask for the sharp corner
    constraints = sharp.constraints()
    for k, end in zip(order, "pq", strict=True):
        constraints.append(_tie(numbers, "coincident", sharp.blunt_ends[k], f"{arc}.{end}"))
    for k in order:
        constraints.append(_tie(numbers, "tangent", corner.ends[k].split(".")[0], arc))
    if like is None:
        dimensions.append(Dimension(id=numbers.new("d"), kind="radius", refs=[arc], expr=expr))
    else:
        constraints.append(_tie(numbers, "equal", like, arc))
    after = sharp.sketch_with(constraints, dimensions)
    fresh = {c.id for c in constraints} - {c.id for c in sketch.constraints}
    return with_branches(after, fresh), arc


def _tie(numbers: Numbers, kind: str, *refs: str) -> Constraint:
    return Constraint(id=numbers.new("k"), kind=kind, refs=list(refs))  # type: ignore[arg-type]


@dataclass
class _Full:
    """A round that takes up the rest of a line whose other corner is rounded alike: one arc from side to side.

    ``arc`` is the round that is there, ``end`` its end on the line ``short``, ``side`` the line it comes from.
    """

    arc: str
    end: str
    short: int
    side: str


def _full_round(sketch: Sketch, corner: Corner, centre: XY, radius: float, back: float) -> _Full | None:
    """Whether a round about ``centre`` carries on one that is there, so that nothing of the line between is left."""
    if min(corner.lengths) > back + SAME:
        return None
    same = same_places(sketch)
    arcs = {e.id: e for e in sketch.entities if isinstance(e, Arc) and not e.construction}
    lines = {e.id for e in sketch.entities if isinstance(e, Line) and not e.construction}
    tangent = {frozenset(c.refs) for c in sketch.constraints if c.kind == "tangent"}
    for k in (0, 1):
        if corner.lengths[k] > back + SAME:
            continue
        short = corner.ends[k].split(".")[0]
        for ref in (r for r in same if same[r] == same[corner.far[k]] and r.split(".")[0] in arcs):
            arc = arcs[ref.split(".")[0]]
            alike = math.dist(arc.c, centre) < 10 * SAME and abs(arc.r - radius) < 10 * SAME
            if not alike or frozenset((arc.id, short)) not in tangent or not ref.endswith((".p", ".q")):
                continue
            other = f"{arc.id}.{'q' if ref.endswith('.p') else 'p'}"
            sides = [r.split(".")[0] for r in same if same[r] == same[other] and r.split(".")[0] in lines]
            smooth = [i for i in sides if frozenset((arc.id, i)) in tangent]
            if len(smooth) == 1:
                return _Full(arc.id, ref, k, smooth[0])
    return None


def _one_arc(sketch: Sketch, corner: Corner, numbers: Numbers, back: float, half: float, full: _Full) -> Sketch:
    """The round that is there carried on to the other side. The line it has used up stays as construction, from one
    sharp corner to the other, with all that was tied to it; the arc touches it."""
    k = full.short
    u, v = corner.toward[k], corner.toward[1 - k]
    short, other = corner.ends[k].split(".")[0], corner.ends[1 - k].split(".")[0]
    far = corner.far[k]
    away = corner.lengths[k] + back * math.tan(half) ** 2  # the sharp corner at the far end
    sharp_far = (corner.at[0] + away * u[0], corner.at[1] + away * u[1])
    touch = (corner.at[0] + back * v[0], corner.at[1] + back * v[1])
    moved_ends = {far: sharp_far, corner.ends[1 - k]: touch, full.end: touch}
    entities: list[AnyEntity] = []
    for e in sketch.entities:
        update: dict[str, object] = {r.split(".")[1]: at for r, at in moved_ends.items() if r.split(".")[0] == e.id}
        if e.id == short:
            update["construction"] = True
        entities.append(e.model_copy(update=update) if update else e)
    after = following(sketch.model_copy(update={"entities": entities}), [short, other, full.arc])
    same = same_places(sketch)
    points = [e.id for e in sketch.entities if isinstance(e, Point) and math.dist(e.at, sharp_far) < 10 * SAME]
    constraints: list[Constraint] = []
    gone = {frozenset((far, full.end)), frozenset(corner.ends), *(frozenset((p, short)) for p in points)}
    for c in sketch.constraints:
        if c.kind == "coincident" and frozenset(c.refs) in gone:
            continue
        refs = [corner.ends[k] if r == corner.ends[1 - k] else r for r in c.refs]
        if len(set(refs)) == len(refs):
            constraints.append(c.model_copy(update={"refs": refs}) if refs != c.refs else c)
    on = next((p for p in points if same.get(p) != same.get(far)), full.side)
    constraints += [
        _tie(numbers, "coincident", far, on),
        _tie(numbers, "coincident", corner.ends[k], other),
        _tie(numbers, "coincident", full.end, corner.ends[1 - k]),
        _tie(numbers, "tangent", other, full.arc),
    ]
    dimensions = []
    for d in sketch.dimensions:
        refs = [corner.ends[k] if r == corner.ends[1 - k] else r for r in d.refs]
        if d.kind == "distance" and refs == [other]:
            refs = [corner.far[1 - k], corner.ends[k]]
        elif d.kind == "distance" and set(refs) == {corner.ends[k], on}:
            refs = [short]  # the whole width again
        dimensions.append(d.model_copy(update={"refs": refs}) if refs != d.refs else d)
    after = after.model_copy(update={"constraints": constraints, "dimensions": dimensions, "used": numbers.top})
    return with_branches(after, {c.id for c in constraints} - {c.id for c in sketch.constraints})


def _settled(sketch: Sketch, values: Values, made: set[str]) -> Sketch:
    """What ``made`` says again is taken back: a size is only measured then, a tie goes."""
    for ident in sorted(made):
        known = values.all(sketch)
        rest = sketch.model_copy(
            update={
                "constraints": [c for c in sketch.constraints if c.id != ident],
                "dimensions": [
                    d.model_copy(update={"driving": False}) if d.id == ident else d for d in sketch.dimensions
                ],
            }
        )
        if freedom(rest, known, with_motions=False).count == freedom(sketch, known, with_motions=False).count:
            sketch = rest
    return sketch


@dataclass(frozen=True)
class Bevel:
    """What cuts a corner off, as typed: ``distance`` along the line whose end names the corner; along the other line
    the same, or ``second``, or as far as the ``angle`` between the cut and the first line says."""

    distance: str
    second: str = ""
    angle: str = ""


def chamfer(sketch: Sketch, values: Values, corners: list[str], bevel: str | Bevel) -> Edit:
    """Cut corners off, equally along both of their lines, by two distances, or by a distance and an angle; the sharp
    corners stay as points.

    Raises Refusal when a corner is none, or a distance does not fit on its line.
    """
    if not corners:
        raise Refusal("Pick the corners to chamfer: points where two lines meet.")
    bevel = Bevel(bevel) if isinstance(bevel, str) else bevel
    if bevel.second and bevel.angle:
        raise Refusal("A chamfer has a second distance or an angle; give one of them.")
    made = sketch
    first: tuple[str, str] | None = None
    for ref in dict.fromkeys(corners):
        made, legs = _bevelled(made, values, ref, bevel, first)
        first = first or legs
    return _finished(sketch, made, values)


def _backs(corner: Corner, values: Values, bevel: Bevel) -> tuple[float, float]:
    """How far a bevel goes along the two lines of a corner, in mm."""
    back = values.of(Dimension(id="d1", kind="distance", refs=["l1"], expr=bevel.distance))
    if bevel.second:
        return back, values.of(Dimension(id="d1", kind="distance", refs=["l1"], expr=bevel.second))
    if not bevel.angle:
        return back, back
    lean = math.radians(values.of(Dimension(id="d1", kind="angle", refs=["l1", "l2"], expr=bevel.angle)))
    (ux, uy), (vx, vy) = corner.toward
    opening = math.acos(max(-1.0, min(1.0, ux * vx + uy * vy)))
    third = math.pi - opening - lean  # of the triangle that is cut off; the sine rule gives its other leg
    if third < 1e-3:
        raise Refusal(f"At {bevel.angle}° the cut never meets the other line; give a smaller angle.")
    return back, back * math.sin(lean) / math.sin(third)


def _bevelled(
    sketch: Sketch, values: Values, ref: str, bevel: Bevel, like: tuple[str, str] | None
) -> tuple[Sketch, tuple[str, str]]:
    """``like`` are the legs (sharp corner to bevel) made before, which the new legs are as long as."""
    corner = _corner(sketch, ref)
    if corner.ends[1] == ref:
        corner = corner.turned()
    backs = _backs(corner, values, bevel)
    for back, room in zip(backs, corner.lengths, strict=True):
        if back > room + SAME:
            which = "the shorter line" if backs[0] == backs[1] else "its line"
            room = min(corner.lengths) if backs[0] == backs[1] else room
            said, fits = (length(v, values.unit) for v in (back, room))
            raise Refusal(
                f"{said} {values.unit} does not fit here: {which} is {fits} {values.unit} long.", ref=ref, most=room
            )
    numbers = Numbers(sketch)
    cut = numbers.new("l")
    at = [(corner.at[0] + b * u[0], corner.at[1] + b * u[1]) for b, u in zip(backs, corner.toward, strict=True)]
    sharp = Sharp(sketch, corner, numbers, backs, (at[0], at[1]), Line(id=cut, p=at[0], q=at[1]))
    dimensions = sharp.dimensions()
    constraints = sharp.constraints()
    point = sharp.point()
    constraints += sharp.taken()
    legs = []
    for end, place, side in zip(sharp.blunt_ends, at, "pq", strict=True):
        leg = numbers.new("l")
        legs.append(leg)
        sharp.entities.append(Line(id=leg, p=corner.at, q=place, construction=True))
        for refs in ([f"{leg}.p", point], [f"{leg}.q", end], [f"{cut}.{side}", end]):
            constraints.append(_tie(numbers, "coincident", *refs))
    if bevel.angle:
        lean = {"id": numbers.new("d"), "kind": "angle", "refs": [legs[0], cut], "expr": bevel.angle}
        dimensions.append(Dimension.model_validate({**lean, "supplement": True}))
    elif not bevel.second:
        constraints.append(Constraint(id=numbers.new("k"), kind="equal", refs=legs))
    for k, expr in enumerate([bevel.distance, bevel.second]):
        if expr and like is None:
            dimensions.append(Dimension(id=numbers.new("d"), kind="distance", refs=[legs[k]], expr=expr))
        elif expr and like is not None:
            constraints.append(Constraint(id=numbers.new("k"), kind="equal", refs=[like[k], legs[k]]))
    after = sharp.sketch_with(constraints, dimensions)
    fresh = {t.id for t in ties_of(after)} - {t.id for t in ties_of(sketch)}
    return with_branches(after, fresh), (legs[0], legs[1])


def rewrite(sketch: Sketch, values: Values, ident: str, said: str) -> Edit:
    """Another text in the place of one: from the same start, along the same line, as high as before."""
    old = sketch.entity(ident)
    if not isinstance(old, Text):
        raise Refusal("This text is no longer in the sketch.", ref=ident)
    longer = slenderness(old.text) / slenderness(said)
    (px, py), (qx, qy) = old.p, old.q
    q = (px + longer * (qx - px), py + longer * (qy - py))
    new = old.model_copy(update={"text": said, "q": q, "c": ((old.m[0] + q[0]) / 2, (old.m[1] + q[1]) / 2)})
    entities = [new if e.id == ident else e for e in sketch.entities]
    return resolve(sketch.model_copy(update={"entities": entities}), values)


def corners_of(sketch: Sketch) -> Iterator[str]:
    """Every place where two lines meet, by one of their ends."""
    same = same_places(sketch)
    lines = {e.id for e in sketch.entities if isinstance(e, Line) and not e.construction}
    seen: dict[str, list[str]] = {}
    for ref, place in same.items():
        if ref.split(".")[0] in lines:
            seen.setdefault(place, []).append(ref)
    yield from (refs[0] for refs in seen.values() if len(refs) == 2)

"""Patterns, and placements of stencils: geometry that is the image of other geometry and follows it.

A copy is drawn like everything else and can be measured from and joined to, but every place of it is a linear
function of places of its original: moved by whole steps along construction lines (a linear pattern), turned about a
centre (a circular one), or carried by a handle that may move and turn but not stretch (a placement).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping

from ..part.errors import Refusal
from . import rows as R
from .model import (
    XY,
    AnyEntity,
    Arc,
    Circle,
    Instance,
    Line,
    Pattern,
    Placement,
    Sketch,
    moved,
    points_of,
)
from .variables import GROUND, INTERNAL, Variables

MOST = 2000  # copies of one pattern

Evaluate = Callable[[str, str], float]
Grid = tuple[int, int]


# -- what copies ask of the solver ------------------------------------------------------------------


def copy_rows(v: Variables) -> None:
    """Rows that hold every copy to its original."""
    for pattern in v.sketch.patterns:
        for instance in pattern.instances:
            for old, new in instance.ids.items():
                _pattern_rows(v, pattern, instance.at, old, new)
    for placement in v.sketch.placements:
        _placement_rows(v, placement)


def _pattern_rows(v: Variables, pattern: Pattern, at: Grid, old: str, new: str) -> None:
    owner = INTERNAL + new
    olds, news = _refs(v.sketch, old), _refs(v.sketch, new)
    for source, copy in zip(olds, news, strict=True):
        (x, y), (u, w) = v.point[source], v.point[copy]
        if pattern.kind == "circular":
            cx, cy = v.point[pattern.about or "origin"]
            turned = math.radians(pattern.turn) * at[0]
            c, s = math.cos(turned), math.sin(turned)
            v.add(R.LINEAR, (u, x, y, cx, cy), owner, 0.0, 1.0, -c, s, c - 1.0, -s)
            v.add(R.LINEAR, (w, x, y, cx, cy), owner, 0.0, 1.0, -s, -c, s, c - 1.0)
            continue
        for k in (0, 1):
            terms = [(v.point[copy][k], 1.0), (v.point[source][k], -1.0)]
            for steps, line in zip(at, pattern.steps, strict=False):
                if steps:
                    p, q = v.lines[line]
                    terms += [(q[k], -float(steps)), (p[k], float(steps))]
            v.add(R.LINEAR, tuple(i for i, _ in terms), owner, 0.0, *(c for _, c in terms))
    if old in v.radius:
        v.equal(v.radius[new], v.radius[old], owner)


def _placement_rows(v: Variables, placement: Placement) -> None:
    owner = INTERNAL + placement.id
    (px, py), (qx, qy) = v.lines[placement.handle]
    v.add(R.SPAN, (qx, qy, px, py, GROUND, GROUND), owner, placement.reach / v.size, 0.0, 0.0)
    for entity in placement.shape:
        new = placement.ids[entity.id]
        for ref, (x, y) in points_of(entity).items():
            u, w = v.point[new + ref[len(entity.id) :]]
            a, b = x / placement.reach, y / placement.reach
            v.add(R.LINEAR, (u, px, qx, qy, py), owner, 0.0, 1.0, a - 1.0, -a, b, -b)
            v.add(R.LINEAR, (w, py, qy, qx, px), owner, 0.0, 1.0, a - 1.0, -a, -b, b)
        if isinstance(entity, Circle | Arc):
            v.add(R.LINEAR, (v.radius[new],), owner, entity.r / v.size, 1.0)


def _refs(sketch: Sketch, ident: str) -> list[str]:
    entity = sketch.entity(ident)
    assert entity is not None
    return list(points_of(entity))


# -- where copies go -----------------------------------------------------------------------------------


def image(entity: AnyEntity, new: str, put: Callable[[XY], XY]) -> AnyEntity:
    """A copy called ``new`` with every place where ``put`` carries it."""
    at = points_of(entity)
    return moved(entity.model_copy(update={"id": new}), lambda ref: put(at[entity.id + ref[len(new) :]]))


def carried(pattern: Pattern, sketch: Sketch, at: Grid) -> Callable[[XY], XY]:
    """What takes the original to the copy ``at`` so many steps."""
    if pattern.kind == "circular":
        cx, cy = place_of(sketch, pattern.about or "origin")
        turned = math.radians(pattern.turn) * at[0]
        c, s = math.cos(turned), math.sin(turned)
        return lambda p: (cx + c * (p[0] - cx) - s * (p[1] - cy), cy + s * (p[0] - cx) + c * (p[1] - cy))
    dx = dy = 0.0
    for steps, line in zip(at, pattern.steps, strict=False):
        way = sketch.entity(line)
        assert isinstance(way, Line)
        dx, dy = dx + steps * (way.q[0] - way.p[0]), dy + steps * (way.q[1] - way.p[1])
    return lambda p: (p[0] + dx, p[1] + dy)


def place_of(sketch: Sketch, ref: str) -> XY:
    """Where a point ref stands now."""
    if ref == "origin":
        return 0.0, 0.0
    entity = sketch.entity(ref.split(".")[0])
    at = points_of(entity).get(ref) if entity is not None else None
    if at is None:
        raise Refusal("The centre of this pattern is no longer in the sketch; pick another.", ref=ref)
    return at


def on_handle(placement: Placement, p: XY, q: XY) -> Callable[[XY], XY]:
    """What takes a stencil's own places to where the handle from ``p`` to ``q`` carries them."""
    size = math.dist(p, q) or 1.0
    c, s = (q[0] - p[0]) / size, (q[1] - p[1]) / size
    return lambda at: (p[0] + c * at[0] - s * at[1], p[1] + s * at[0] + c * at[1])


# -- keeping them as many as they should be -----------------------------------------------------------


def counts(pattern: Pattern, evaluate: Evaluate) -> tuple[int, int]:
    """How many there are along each direction, the original counted. Raises Refusal for what is no count."""
    found = []
    for text in (pattern.count, pattern.second):
        value = evaluate(text, "number")
        if abs(value - round(value)) > 1e-9 or value < 1:
            raise Refusal("How many there are is a whole number, at least 1; change the count.", ref=pattern.id)
        found.append(round(value))
    if found[0] * found[1] > MOST:
        raise Refusal(f"A pattern has at most {MOST} copies; make it smaller.", ref=pattern.id)
    return found[0], found[1]


def regrown(sketch: Sketch, evaluate: Evaluate) -> Sketch:
    """The sketch with as many copies as the counts say, each where its pattern puts it."""
    for pattern in list(sketch.patterns):
        sketch = _regrown(sketch, pattern, evaluate)
    return sketch


def _regrown(sketch: Sketch, pattern: Pattern, evaluate: Evaluate) -> Sketch:
    n, m = counts(pattern, evaluate)
    if pattern.kind == "circular":
        turn = evaluate(pattern.angle, "angle") if pattern.angle else 360.0 / n
        if abs(turn) * (n - 1) > 360 - 1e-9:
            raise Refusal("These would go more than once round; make the angle or the count smaller.", ref=pattern.id)
        pattern = pattern.model_copy(update={"turn": turn})
    wanted = [(i, j) for j in range(m) for i in range(n) if (i, j) != (0, 0) and (i, j) not in pattern.left_out]
    have = {i.at: i for i in pattern.instances}
    gone = {new for at, i in have.items() if at not in wanted for new in i.ids.values()}
    top = dict(sketch.used)
    for known in sketch.entities:
        if known.id[1:].isdigit():
            top[known.id[0]] = max(top.get(known.id[0], 0), int(known.id[1:]))
    originals = [e for ident in pattern.of if (e := sketch.entity(ident)) is not None]
    fresh: list[AnyEntity] = []
    instances: list[Instance] = []
    for at in wanted:
        ids = dict(have[at].ids) if at in have else {}
        put = carried(pattern, sketch, at)
        for e in originals:
            if e.id not in ids:
                top[e.id[0]] = top.get(e.id[0], 0) + 1
                ids[e.id] = f"{e.id[0]}{top[e.id[0]]}"
                fresh.append(image(e, ids[e.id], put))
        instances.append(Instance(at=at, ids=ids))
    pattern = pattern.model_copy(update={"instances": instances})
    after = sketch.model_copy(
        update={
            "entities": [*sketch.entities, *fresh],
            "patterns": [pattern if p.id == pattern.id else p for p in sketch.patterns],
            "used": top,
        }
    )
    return without_entities(after, gone) if gone else after


def placed(sketch: Sketch, placement: Placement, shape: list[AnyEntity], numbers: Mapping[str, int]) -> Sketch:
    """The sketch with a placement's copies made after ``shape``, the stencil as it is now.

    ``numbers``: the highest number used so far per letter.
    """
    top = dict(numbers)
    handle = sketch.entity(placement.handle)
    assert isinstance(handle, Line)
    put = on_handle(placement, handle.p, handle.q)
    ids = {k: v for k, v in placement.ids.items() if any(e.id == k for e in shape)}
    gone = set(placement.ids.values()) - set(ids.values())
    now = {e.id: e for e in sketch.entities}
    for e in shape:
        if e.id not in ids:
            top[e.id[0]] = top.get(e.id[0], 0) + 1
            ids[e.id] = f"{e.id[0]}{top[e.id[0]]}"
        now[ids[e.id]] = image(e, ids[e.id], put)
    changed = placement.model_copy(update={"ids": ids, "shape": shape})
    others = [p for p in sketch.placements if p.id != placement.id]
    after = sketch.model_copy(
        update={"entities": list(now.values()), "placements": [*others, changed], "used": {**sketch.used, **top}}
    )
    return without_entities(after, gone) if gone else after


def derived(sketch: Sketch) -> dict[str, str]:
    """Every copy, with the pattern or placement it belongs to."""
    found = {new: p.id for p in sketch.patterns for i in p.instances for new in i.ids.values()}
    return found | {new: p.id for p in sketch.placements for new in p.ids.values()}


def copies_of(sketch: Sketch, ident: str) -> list[str]:
    """All copies that patterns make of an entity, and the copies of those."""
    found, waiting = [], [ident]
    while waiting:
        old = waiting.pop()
        new = [i.ids[old] for p in sketch.patterns for i in p.instances if old in i.ids]
        found += new
        waiting += new
    return found


def following(sketch: Sketch, idents: Iterable[str]) -> Sketch:
    """The sketch with all copies of some entities put where their patterns carry these now."""
    now = {e.id: e for e in sketch.entities}
    waiting = list(idents)
    while waiting:
        old = waiting.pop()
        for p in sketch.patterns:
            for i in p.instances:
                if old in i.ids:
                    now[i.ids[old]] = image(now[old], i.ids[old], carried(p, sketch, i.at))
                    waiting.append(i.ids[old])
    return sketch.model_copy(update={"entities": list(now.values())})


def check_own(sketch: Sketch, idents: Iterable[str]) -> None:
    """Raise Refusal where something is a copy, whose shape is not its own."""
    copies = derived(sketch)
    for ident in idents:
        if ident in sketch.given:
            raise Refusal("This is an edge of the part; change the part, or draw over it.", ref=ident)
        owner = copies.get(ident)
        if owner is not None:
            what = "pattern" if any(p.id == owner for p in sketch.patterns) else "stencil"
            raise Refusal(
                f"This is a copy made by a {what}; change what it copies, or let go of the {what} first.", ref=ident
            )


def check_shape(sketch: Sketch, idents: Iterable[str]) -> None:
    """Raise Refusal where something has no shape of its own to change: a copy, an edge of the part, or a line that
    carries a pattern or a placement."""
    idents = list(idents)
    check_own(sketch, idents)
    steps = {line for p in sketch.patterns for line in p.steps}
    handles = {p.handle for p in sketch.placements}
    for ident in idents:
        if ident in steps:
            raise Refusal(
                "This line is the step of a pattern; change its length or direction, or let go of the pattern.",
                ref=ident,
            )
        if ident in handles:
            raise Refusal("This line carries a placed stencil; move the stencil, or let go of it.", ref=ident)


def joined(
    sketch: Sketch, ident_for: Callable[[str], str], beside: list[str], fresh: list[AnyEntity]
) -> tuple[Sketch, list[dict[str, str]]]:
    """The sketch with ``fresh`` (in it already) among the originals of every pattern that copies all of ``beside``.

    ``ident_for(letter)`` gives new ids. For each copy that was made: what stands there for each of ``beside`` and of
    ``fresh``; copies of copies among them.
    """
    twins: list[dict[str, str]] = []
    waiting = [(beside, fresh)]
    while waiting:
        owners, made = waiting.pop()
        for pattern in sketch.patterns:
            if not owners or not set(owners) <= set(pattern.of):
                continue
            entities, instances = list(sketch.entities), []
            for i in pattern.instances:
                put = carried(pattern, sketch, i.at)
                new = {e.id: ident_for(e.id[0]) for e in made}
                images = [image(e, new[e.id], put) for e in made]
                entities += images
                instances.append(i.model_copy(update={"ids": {**i.ids, **new}}))
                twins.append({**{o: i.ids[o] for o in owners}, **new})
                waiting.append(([i.ids[o] for o in owners], images))
            wider = pattern.model_copy(update={"of": [*pattern.of, *(e.id for e in made)], "instances": instances})
            sketch = sketch.model_copy(
                update={
                    "entities": entities,
                    "patterns": [wider if p.id == pattern.id else p for p in sketch.patterns],
                }
            )
    return sketch, twins


def gone_with(sketch: Sketch, idents: set[str]) -> set[str]:
    """``idents`` and the copies that go with them: those of originals, all of an instance, all of a placement."""
    gone = set(idents)
    for p in sketch.patterns:
        for i in p.instances:
            if gone & set(i.ids.values()):
                gone |= set(i.ids.values())
            gone |= {new for old, new in i.ids.items() if old in gone}
    for s in sketch.placements:
        if gone & {s.id, s.handle, *s.ids.values()}:
            gone |= {s.handle, *s.ids.values()}
    return gone


def without_entities(sketch: Sketch, gone: set[str]) -> Sketch:
    """The sketch without entities and what hangs on them. A copy's place in its pattern is left out from then on."""
    patterns = []
    for p in sketch.patterns:
        of = [ident for ident in p.of if ident not in gone]
        ways = any(line in gone for line in p.steps) or (p.about or "").split(".")[0] in gone
        if not of or ways or p.id in gone:
            continue  # what is left of it stays, as geometry of its own
        left = [*p.left_out, *(i.at for i in p.instances if gone & set(i.ids.values()) and _still(p, i, gone))]
        instances = [
            Instance(at=i.at, ids={k: v for k, v in i.ids.items() if k in of})
            for i in p.instances
            if not gone & {v for k, v in i.ids.items() if k in of}
        ]
        patterns.append(p.model_copy(update={"of": of, "left_out": sorted(set(left)), "instances": instances}))

    def hangs(refs: list[str]) -> bool:
        return any(r.split(".")[0] in gone for r in refs)

    return sketch.model_copy(
        update={
            "entities": [e for e in sketch.entities if e.id not in gone],
            "constraints": [c for c in sketch.constraints if c.id not in gone and not hangs(c.refs)],
            "dimensions": [d for d in sketch.dimensions if d.id not in gone and not hangs(d.refs)],
            "given": [i for i in sketch.given if i not in gone],
            "patterns": patterns,
            "placements": [p for p in sketch.placements if p.id not in gone and p.handle not in gone],
        }
    )


def _still(p: Pattern, i: Instance, gone: set[str]) -> bool:
    """Whether an instance went although its originals stay: somebody took out just this one."""
    return any(v in gone and k not in gone for k, v in i.ids.items())

"""What of a sketch hangs together: its parts that no constraint, driving size, pattern or placement ties to each other.

They are the connected components of the graph of a sketch's ties. The origin, the axes and what is only measured join
nothing. What an edit does not touch can be left as it is, to the last digit, and what was found of it stays true.
"""

from __future__ import annotations

import itertools
from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from typing import TypeVar

from .groups import Groups
from .model import AnyEntity, Constraint, Dimension, Sketch

T = TypeVar("T", AnyEntity, Constraint, Dimension)

_NOTHING = Sketch()


def _named(groups: Groups[str], refs: Iterable[str]) -> Iterator[str]:
    """The entities among some refs; the origin and the axes are none."""
    return (ident for ref in refs if (ident := ref.partition(".")[0]) in groups)


def _of(groups: Groups[str], refs: Iterable[str]) -> str | None:
    """The group of the first entity among some refs."""
    return next(map(groups.find, _named(groups, refs)), None)


def _groups(sketch: Sketch) -> Groups[str]:
    groups = Groups(e.id for e in sketch.entities)
    joined = [tie.refs for tie in sketch.constraints] + [size.refs for size in sketch.dimensions if size.driving]
    for pattern in sketch.patterns:
        copies = [i for instance in pattern.instances for i in instance.ids.values()]
        joined.append([*pattern.of, *copies, *pattern.steps, *([pattern.about] if pattern.about else [])])
    joined += [[placement.handle, *placement.ids.values()] for placement in sketch.placements]
    for refs in joined:
        for one, other in itertools.pairwise(_named(groups, refs)):
            groups.join(one, other)
    return groups


def components(sketch: Sketch) -> list[Sketch]:
    """The parts of a sketch that hang together, each in the order of the whole, with the ties that drive it. Ties of
    the origin and the axes alone belong to none."""
    groups = _groups(sketch)
    made: dict[str | None, dict[str, list[object]]] = {}

    def put(root: str | None, field: str, thing: object) -> None:
        made.setdefault(root, {}).setdefault(field, []).append(thing)

    for entity in sketch.entities:
        put(groups.find(entity.id), "entities", entity)
    for tie in sketch.constraints:
        put(_of(groups, tie.refs), "constraints", tie)
    for size in sketch.dimensions:
        if size.driving:
            put(_of(groups, size.refs), "dimensions", size)
    for ident in sketch.given:
        put(_of(groups, [ident]), "given", ident)
    for pattern in sketch.patterns:
        put(_of(groups, pattern.of), "patterns", pattern)
    for placement in sketch.placements:
        put(_of(groups, [placement.handle]), "placements", placement)
    made.pop(None, None)
    return [_NOTHING.model_copy(update=fields) for fields in made.values()]


def together(parts: Sequence[Sketch]) -> Sketch:
    """Several components as one sketch."""
    if len(parts) == 1:
        return parts[0]
    fields = ("entities", "constraints", "dimensions", "given", "patterns", "placements")
    return _NOTHING.model_copy(update={f: [x for p in parts for x in getattr(p, f)] for f in fields})


def parted(sketch: Sketch, idents: set[str]) -> tuple[Sketch, list[Sketch]] | None:
    """What hangs together with some entities, constraints and sizes of a sketch, and its other components; None where
    that is the whole sketch, or where one of them ties nothing but the origin and the axes.

    Sizes among ``idents`` that are only measured are in the first too, with all they are measured at.
    """
    ties: list[Constraint | Dimension] = [*sketch.constraints, *sketch.dimensions]
    named = [t for t in ties if t.id in idents]
    touched = {r.partition(".")[0] for t in named for r in t.refs} | {e.id for e in sketch.entities if e.id in idents}
    inner: list[Sketch] = []
    outer: list[Sketch] = []
    for part in components(sketch):
        (inner if any(e.id in touched for e in part.entities) else outer).append(part)
    if not inner or not outer:
        return None
    there = {e.id for part in inner for e in part.entities}
    if any(not {r.partition(".")[0] for r in t.refs} & there for t in named):
        return None
    part = together(inner)
    measuring = [t for t in named if isinstance(t, Dimension) and not t.driving]
    if measuring:
        part = part.model_copy(update={"dimensions": [*part.dimensions, *measuring]})
    return _in_order(sketch, part), outer


def _in_order(sketch: Sketch, part: Sketch) -> Sketch:
    """A part of a sketch with everything in the order of the whole."""
    there = {x.id for things in (part.entities, part.constraints, part.dimensions) for x in things}
    return part.model_copy(
        update={
            "entities": [e for e in sketch.entities if e.id in there],
            "constraints": [c for c in sketch.constraints if c.id in there],
            "dimensions": [d for d in sketch.dimensions if d.id in there],
        }
    )


def put_back(sketch: Sketch, part: Sketch, made: Sketch) -> Sketch:
    """``sketch`` with ``made`` in the place of its ``part``: what is as it was stays the same object, ties that
    ``made`` has no more go."""

    def fresh(whole: list[T], old: list[T], new: list[T]) -> list[T]:
        was, now = {x.id for x in old}, {x.id: x for x in new}
        here = [now.get(x.id) if x.id in was else x for x in whole]
        return [x if x == y else y for x, y in zip(whole, here, strict=True) if y is not None]

    return sketch.model_copy(
        update={
            "entities": fresh(sketch.entities, part.entities, made.entities),
            "constraints": fresh(sketch.constraints, part.constraints, made.constraints),
            "dimensions": fresh(sketch.dimensions, part.dimensions, made.dimensions),
        }
    )


def sharing(sketch: Sketch, other: Sketch) -> Sketch:
    """``sketch`` with what equals something of ``other`` as the same object, so that what was found of it is found
    again."""
    fields = ("entities", "constraints", "dimensions", "patterns", "placements")
    found = {}
    for name in fields:
        known = {x.id: x for x in getattr(other, name)}
        found[name] = [y if (y := known.get(x.id)) is not None and y == x else x for x in getattr(sketch, name)]
    return sketch.model_copy(update=found)


def things(part: Sketch) -> list[object]:
    """What a component is made of: the objects by which something can be remembered of it."""
    return [*part.entities, *part.constraints, *part.dimensions, *part.patterns, *part.placements]


def beside(part: Sketch, values: Mapping[str, float]) -> tuple[Hashable, ...]:
    """What else is true of a component: how many things of each kind, what the part gives, and ``values`` of sizes and
    patterns."""
    sizes = [values.get(d.id) for d in part.dimensions]
    counts = [values.get(f"{p.id}.{name}") for p in part.patterns for name in ("count", "second", "angle")]
    return (len(part.entities), len(part.constraints), len(part.dimensions), *part.given, *sizes, *counts)

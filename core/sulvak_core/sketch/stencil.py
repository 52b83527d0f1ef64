"""Stencils: geometry drawn once and placed many times. A placement moves and turns as one, by its handle."""

from __future__ import annotations

import math

from ..part.errors import Refusal
from . import copies
from .edit import Edit, Values, resolve
from .model import XY, AnyEntity, Constraint, Line, Placement, Sketch, points_of
from .numbers import Numbers
from .place import Transform, fragment, transformed

HERE = 1e-6  # mm: a point that near to where was pressed is the one that was caught


def reach_of(shape: list[AnyEntity]) -> float:
    """How long a handle to draw: as far as the stencil's farthest point from its insertion point (mm)."""
    far = max((math.hypot(*at) for e in shape for at in points_of(e).values()), default=0.0)
    return far if far > 1e-3 else 10.0


def taken(sketch: Sketch, values: Values, idents: list[str], at: XY, stencil: str) -> tuple[Sketch, Edit]:
    """Make a stencil of some entities, inserted at ``at``: its own sketch, and this one with them as its placement.

    Ties among them go with them into the stencil; those to the rest of the sketch stay. A point of theirs at ``at`` is
    tied to the stencil's insertion point, so that it stays that whatever is edited later.
    """
    copies.check_own(sketch, idents)
    part = fragment(sketch, idents)
    home = Transform(base=at)
    shape = [transformed(e, home) for e in part.entities]
    inner = {t.id for t in part.ties}
    named = next((d.name for d in part.dimensions if d.name), "")
    if named:
        raise Refusal(f"“{named}” names a size of this; take the name away before it becomes a stencil.")
    numbers = Numbers(sketch)
    held = [c for c in part.constraints if c.kind != "fixed"]
    here = [ref for e in part.entities for ref, p in points_of(e).items() if math.dist(p, at) < HERE]
    if here:
        held.append(Constraint(id=numbers.new("k"), kind="coincident", refs=[here[0], "origin"]))
    moved_texts = [d.model_copy(update={"at": home.put(d.at)}) if d.at else d for d in part.dimensions]
    own = resolve(
        Sketch(entities=shape, constraints=held, dimensions=moved_texts, used=dict(numbers.top)), values
    ).sketch
    shape = own.entities
    reach = reach_of(shape)
    handle = Line(id=numbers.new("l"), p=at, q=(at[0] + reach, at[1]), construction=True)
    ids = {e.id: e.id for e in shape}
    placement = Placement(id=numbers.new("g"), stencil=stencil, handle=handle.id, reach=reach, shape=shape, ids=ids)
    after = sketch.model_copy(
        update={
            "entities": [*sketch.entities, handle],
            "constraints": [c for c in sketch.constraints if c.id not in inner],
            "dimensions": [d for d in sketch.dimensions if d.id not in inner],
            "placements": [*sketch.placements, placement],
            "used": numbers.top,
        }
    )
    return own, resolve(after, values)


def put_in(
    sketch: Sketch, values: Values, stencil: str, shape: list[AnyEntity], at: XY, turn: float = 0.0, onto: str = ""
) -> Edit:
    """Place a stencil with its insertion point at ``at``, turned by ``turn`` degrees.

    ``onto``: a point that its insertion point is joined to.
    """
    if not shape:
        raise Refusal("This stencil is empty; draw something in it first.")
    numbers = Numbers(sketch)
    reach = reach_of(shape)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    handle = Line(id=numbers.new("l"), p=at, q=(at[0] + reach * c, at[1] + reach * s), construction=True)
    placement = Placement(id=numbers.new("g"), stencil=stencil, handle=handle.id, reach=reach, shape=shape, ids={})
    constraints = list(sketch.constraints)
    if onto:
        constraints.append(Constraint(id=numbers.new("k"), kind="coincident", refs=[f"{handle.id}.p", onto]))
    begun = sketch.model_copy(
        update={
            "entities": [*sketch.entities, handle],
            "constraints": constraints,
            "placements": [*sketch.placements, placement],
            "used": numbers.top,
        }
    )
    return resolve(copies.placed(begun, placement, shape, numbers.top), values)


def followed(sketch: Sketch, stencil: str, shape: list[AnyEntity]) -> Sketch:
    """The sketch with every placement of a stencil made after its shape as it is now; not solved."""
    for placement in sketch.placements:
        if placement.stencil == stencil and placement.shape != shape:
            sketch = copies.placed(sketch, placement, shape, Numbers(sketch).top)
    return sketch


def let_go(sketch: Sketch, ident: str) -> Edit:
    """A placement's geometry stays where it is and is free of its stencil from now on."""
    gone = next((p for p in sketch.placements if p.id == ident), None)
    if gone is None:
        raise Refusal("This placement is no longer in the sketch.", ref=ident)
    rest = sketch.model_copy(update={"placements": [p for p in sketch.placements if p.id != ident]})
    return Edit(copies.without_entities(rest, {gone.handle}), ["this placement is free of its stencil"])

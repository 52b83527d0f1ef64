"""Moving, turning, scaling and copying a selection about a base point; carrying it from one sketch to another."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from ..part.errors import Refusal
from . import copies
from .edit import Edit, Tie, Values, check_entities, removal, resolve, ties_of
from .model import XY, AnyEntity, Arc, Circle, Constraint, Dimension, Sketch, moved, points_of
from .numbers import Numbers


@dataclass(frozen=True)
class Transform:
    """``base`` goes to ``to`` (mm); about it everything is turned (degrees, counter-clockwise) and scaled."""

    base: XY = (0.0, 0.0)
    to: XY = (0.0, 0.0)
    turn: float = 0.0
    scale: float = 1.0

    def put(self, at: XY) -> XY:
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        x, y = self.scale * (at[0] - self.base[0]), self.scale * (at[1] - self.base[1])
        return self.to[0] + c * x - s * y, self.to[1] + s * x + c * y

    @property
    def quarters(self) -> int | None:
        """Whole quarter turns, or None where it is not turned by such."""
        turned = self.turn / 90
        return round(turned) % 4 if abs(turned - round(turned)) < 1e-9 else None


@dataclass
class Fragment:
    """Some entities of a sketch and the ties that hang on nothing else."""

    entities: list[AnyEntity]
    constraints: list[Constraint] = field(default_factory=list)
    dimensions: list[Dimension] = field(default_factory=list)

    @property
    def ties(self) -> list[Tie]:
        return [*self.constraints, *self.dimensions]


def fragment(sketch: Sketch, idents: list[str]) -> Fragment:
    """The entities named, with the constraints and dimensions between them. Raises Refusal when there are none."""
    chosen = {e.id for e in sketch.entities if e.id in set(idents)}
    if not chosen:
        raise Refusal("Pick what is to be taken: lines, circles, arcs, points, curves or texts.")

    def within(tie: Tie) -> bool:
        return all(r.split(".")[0] in chosen for r in tie.refs)

    return Fragment(
        [e for e in sketch.entities if e.id in chosen],
        [c for c in sketch.constraints if within(c)],
        [d for d in sketch.dimensions if within(d)],
    )


def transformed(entity: AnyEntity, t: Transform, new: str | None = None) -> AnyEntity:
    """An entity moved, turned and scaled; called ``new`` where that is given."""
    carried = copies.image(entity, new or entity.id, t.put)
    return (
        moved(carried, points_of(carried).__getitem__, entity.r * t.scale)
        if isinstance(entity, Circle | Arc)
        else carried
    )


def _fits(tie: Tie, t: Transform) -> Tie | None:
    """A tie as it is after a transform; None where it can no longer hold."""
    level = {"horizontal": "vertical", "vertical": "horizontal"}
    if isinstance(tie, Constraint):
        if tie.kind == "fixed":
            return None
        if tie.kind in level and t.quarters != 0:
            return (
                tie.model_copy(update={"kind": level[tie.kind]})
                if t.quarters in (1, 3)
                else (tie if t.quarters == 2 else None)
            )
        return tie
    update: dict[str, object] = {"name": ""}
    if tie.along != "shortest" and t.quarters != 0:
        if t.quarters is None:
            return None
        update["branch"] = None
        if t.quarters in (1, 3):
            update["along"] = level[tie.along]
    if tie.at is not None:
        update["at"] = t.put(tie.at)
    if t.scale != 1 and tie.kind != "angle":
        update["expr"] = f"({tie.expr})*{t.scale:.12g}"
    return tie.model_copy(update=update)


def paste(sketch: Sketch, values: Values, part: Fragment, t: Transform) -> Edit:
    """Another copy of a fragment in a sketch, with ids of its own. Its sizes keep what was typed, not their names."""
    if not part.entities:
        raise Refusal("There is nothing to put in; copy something first.")
    if not t.scale > 0:
        raise Refusal("A scale is more than zero.")
    check_entities(part.entities)
    numbers = Numbers(sketch)
    ids = {e.id: numbers.new(e.id[0]) for e in part.entities}

    def ref(old: str) -> str:
        ident, dot, end = old.partition(".")
        return f"{ids.get(ident, ident)}{dot}{end}"

    entities = [transformed(e, t, ids[e.id]) for e in part.entities]
    ties: list[Tie] = []
    for tie in part.ties:
        kept = _fits(tie, t)
        if kept is None or any(r.split(".")[0] not in ids for r in kept.refs):
            continue
        letter = "k" if isinstance(kept, Constraint) else "d"
        ties.append(kept.model_copy(update={"id": numbers.new(letter), "refs": [ref(r) for r in kept.refs]}))
    after = sketch.model_copy(
        update={
            "entities": [*sketch.entities, *entities],
            "constraints": [*sketch.constraints, *(c for c in ties if isinstance(c, Constraint))],
            "dimensions": [*sketch.dimensions, *(d for d in ties if isinstance(d, Dimension))],
            "used": numbers.top,
        }
    )
    return resolve(after, values)


def copy(sketch: Sketch, values: Values, idents: list[str], t: Transform) -> Edit:
    """A copy of some entities and the ties between them, moved by ``t``."""
    return paste(sketch, values, fragment(sketch, idents), t)


def move(sketch: Sketch, values: Values, idents: list[str], t: Transform) -> Edit:
    """Entities moved by ``t``. Ties to what stays behind go, as do those that no longer fit; how many is told."""
    if not t.scale > 0:
        raise Refusal("A scale is more than zero.")
    part = fragment(sketch, idents)
    chosen = {e.id for e in part.entities}
    copies.check_own(sketch, chosen)
    # ties among them, and level ones, stay as far as the transform leaves them true
    kept: dict[str, Tie] = {}
    for tie in part.ties:
        fits = _fits(tie, t)
        if isinstance(fits, Dimension) and isinstance(tie, Dimension):
            fits = fits.model_copy(update={"name": tie.name})
        if fits is not None:
            kept[tie.id] = fits
    gone = {i for i in removal(sketch, chosen).ties if i not in kept}
    named = [d.name for d in sketch.dimensions if d.id in gone and d.name]
    if named:
        raise Refusal(f"“{named[0]}” ties this to what stays behind; delete that size first.", because=sorted(gone))

    def through(ties: list[Tie]) -> list[Tie]:
        return [kept.get(tie.id, tie) for tie in ties if tie.id not in gone]

    ties = through(ties_of(sketch))
    after = sketch.model_copy(
        update={
            "entities": [transformed(e, t) if e.id in chosen else e for e in sketch.entities],
            "constraints": [c for c in ties if isinstance(c, Constraint)],
            "dimensions": [d for d in ties if isinstance(d, Dimension)],
        }
    )
    made = resolve(after, values)
    if gone:
        many = "constraint or size" if len(gone) == 1 else "constraints and sizes"
        made.said.append(f"{len(gone)} {many} to what stays behind went")
    return made


__all__ = ["Fragment", "Transform", "copy", "fragment", "move", "paste", "transformed"]

"""Making and changing patterns: rows of copies along one or two directions, and copies round a centre."""

from __future__ import annotations

import math
from collections.abc import Mapping

from ..part.errors import Refusal
from ..part.units import number
from . import copies
from .edit import Edit, Values, resolve
from .model import X_AXIS, XY, Constraint, Dimension, Line, Pattern, Sketch, points_of
from .numbers import Numbers


def _originals(sketch: Sketch, idents: list[str]) -> list[str]:
    chosen = [e.id for e in sketch.entities if e.id in set(idents)]
    if not chosen:
        raise Refusal("Pick what is to be copied: lines, circles, arcs, points or texts.")
    return chosen


def linear(
    sketch: Sketch,
    values: Values,
    idents: list[str],
    start: XY,
    ends: list[XY],
    counts: list[str],
    spacings: list[str],
    angles: list[str] | None = None,
) -> Edit:
    """Copies in rows along ``start`` → each of one or two ``ends`` (mm), one step each.

    ``spacings`` become dimensions of the steps; an empty one leaves the step free to be dragged. ``angles`` turn the
    directions from the horizontal axis and hold them so; an empty one takes the direction that is shown.
    """
    of = _originals(sketch, idents)
    angles = angles or [""] * len(ends)
    if not 1 <= len(ends) <= 2 or any(len(each) != len(ends) for each in (counts, spacings, angles)):
        raise Refusal("A pattern in rows has one or two directions, each with its count.")
    numbers = Numbers(sketch)
    base, at = min(
        ((ref, at) for e in sketch.entities if e.id in of for ref, at in points_of(e).items()),
        key=lambda found: math.dist(found[1], start),
    )
    lines: list[Line] = []
    constraints: list[Constraint] = []
    dimensions: list[Dimension] = []
    for end, spacing, angle in zip(ends, spacings, angles, strict=True):
        way = (end[0] - start[0], end[1] - start[1])
        if math.hypot(*way) < 1e-6:
            raise Refusal("The first copy would lie on what it copies; show a direction.")
        turn = _turned(values, angle)
        if turn is not None:
            reach, bearing = math.hypot(*way), math.radians(turn)
            way = (reach * math.cos(bearing), reach * math.sin(bearing))
        q = (at[0] + way[0], at[1] + way[1])
        line = Line(id=numbers.new("l"), p=at, q=q, construction=True)
        lines.append(line)
        joint = Constraint(id=numbers.new("k"), kind="coincident", refs=[f"{line.id}.p", base])
        constraints.append(joint)
        level = "horizontal" if abs(way[1]) < 1e-9 else "vertical" if abs(way[0]) < 1e-9 else None
        if turn is not None and not level:
            beside = (at[0] + way[0] / 3, at[1] + way[1] / 6)
            lean = Dimension(
                id=numbers.new("d"),
                kind="angle",
                refs=[X_AXIS, line.id],
                expr=angle.strip() if 0 < turn < 180 else number(abs(turn), 9),
                at=beside,
                branch=1 if turn > 0 else -1,
            )
            dimensions.append(lean)
        elif level:
            constraints.append(Constraint(id=numbers.new("k"), kind=level, refs=[line.id]))  # type: ignore[arg-type]
        if spacing.strip():
            beside = (at[0] + way[0] / 2 - way[1] * 0.2, at[1] + way[1] / 2 + way[0] * 0.2)
            size = Dimension(id=numbers.new("d"), kind="distance", refs=[line.id], expr=spacing, at=beside)
            dimensions.append(size)
    pattern = Pattern(
        id=numbers.new("r"),
        kind="linear",
        of=of,
        count=counts[0],
        second=counts[1] if len(counts) > 1 else "1",
        steps=[line.id for line in lines],
    )
    return _begun(sketch, values, pattern, numbers, lines, constraints, dimensions)


def _turned(values: Values, angle: str) -> float | None:
    """A typed direction in degrees, −180 … 180, or None where none is typed."""
    if not angle.strip():
        return None
    return math.remainder(values.evaluate(angle, "angle"), 360)


def circular(sketch: Sketch, values: Values, idents: list[str], about: str, count: str, angle: str = "") -> Edit:
    """Copies round the point ``about``; ``angle`` from one to the next, evenly all round where it is empty."""
    of = _originals(sketch, idents)
    copies.place_of(sketch, about)
    if about.split(".")[0] in of:
        raise Refusal("The centre of a pattern cannot be a point of what it copies; pick another.", ref=about)
    numbers = Numbers(sketch)
    pattern = Pattern(id=numbers.new("r"), kind="circular", of=of, count=count, about=about, angle=angle.strip())
    return _begun(sketch, values, pattern, numbers, [], [], [])


def _begun(
    sketch: Sketch,
    values: Values,
    pattern: Pattern,
    numbers: Numbers,
    lines: list[Line],
    constraints: list[Constraint],
    dimensions: list[Dimension],
) -> Edit:
    begun = sketch.model_copy(
        update={
            "entities": [*sketch.entities, *lines],
            "constraints": [*sketch.constraints, *constraints],
            "dimensions": [*sketch.dimensions, *dimensions],
            "patterns": [*sketch.patterns, pattern],
            "used": numbers.top,
        }
    )
    made = resolve(begun, values)
    made.said.append(said(made.sketch, pattern.id))
    return made


def said(sketch: Sketch, ident: str) -> str:
    """A pattern in words: “5 × 2 of circle 1”."""
    from . import words

    pattern = found(sketch, ident)
    things = ", ".join(words.thing(i) for i in pattern.of[:3]) + (" and more" if len(pattern.of) > 3 else "")
    count = f"{pattern.count} × {pattern.second}" if len(pattern.steps) > 1 else pattern.count
    left = f", {len(pattern.left_out)} left out" if pattern.left_out else ""
    where = f" round {words.thing(pattern.about)}" if pattern.about else ""
    return f"{count} of {things}{where}{left}"


def found(sketch: Sketch, ident: str) -> Pattern:
    """The pattern of this id. Raises Refusal if it is gone."""
    pattern = next((p for p in sketch.patterns if p.id == ident), None)
    if pattern is None:
        raise Refusal("This pattern is no longer in the sketch.", ref=ident)
    return pattern


CHANGEABLE = ("count", "second", "angle", "left_out")


def change(sketch: Sketch, values: Values, ident: str, changes: Mapping[str, object]) -> Edit:
    """Another count or angle, or other copies left out."""
    old = found(sketch, ident)
    if not set(changes) <= set(CHANGEABLE):
        raise Refusal("Of a pattern the counts, the angle and what is left out can be changed.", ref=ident)
    new = Pattern.model_validate({**old.model_dump(), **changes})
    after = sketch.model_copy(update={"patterns": [new if p.id == ident else p for p in sketch.patterns]})
    return resolve(after, values)


def let_go(sketch: Sketch, ident: str) -> Edit:
    """Copies stay where they are and are geometry of their own from now on."""
    pattern = found(sketch, ident)
    rest = [p for p in sketch.patterns if p.id != ident]
    count = sum(len(i.ids) for i in pattern.instances)
    return Edit(sketch.model_copy(update={"patterns": rest}), [f"{count} copies are free of their pattern"])

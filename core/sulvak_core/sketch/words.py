"""Names and sentences for what is in a sketch."""

from __future__ import annotations

import math
from collections.abc import Mapping

from ..part.units import LengthUnit, length, number
from .freedom import Motion
from .model import (
    ORIGIN,
    X_AXIS,
    Y_AXIS,
    Arc,
    Circle,
    Constraint,
    Dimension,
    Ellipse,
    EllipseArc,
    Line,
    Sketch,
    Spline,
    Text,
    points_of,
)

_KIND = {"l": "line", "c": "circle", "a": "arc", "p": "point", "e": "ellipse", "s": "spline", "t": "text"}
_END = {"p": "start", "q": "end", "c": "centre", "m": "first axis end", "n": "second axis end"}


def thing(ref: str) -> str:
    """``l3.p`` → “start of line 3”."""
    if ref == ORIGIN:
        return "the origin"
    if ref == X_AXIS:
        return "the horizontal axis"
    if ref == Y_AXIS:
        return "the vertical axis"
    ident, _, end = ref.partition(".")
    name = f"{_KIND.get(ident[0], ident[0])} {ident[1:]}"
    if ident[0] == "t":
        ends = {"p": "left end of the base line", "q": "right end of the base line", "m": "top left corner"}
        return f"{ends.get(end, _END.get(end, ''))} of {name}" if end else name
    if end.startswith("k"):
        return f"point {int(end[1:]) + 1} of {name}"
    return f"{_END[end]} of {name}" if end else name


def constraint(c: Constraint) -> str:
    """A constraint in words: “line 1 ∥ line 3”."""
    t = [thing(r) for r in c.refs]
    if c.kind == "coincident":
        return f"{t[0]} on {t[1]}"
    if c.kind in ("horizontal", "vertical"):
        return f"{' and '.join(t)} {c.kind}"
    if c.kind == "symmetric":
        return f"{t[0]} and {t[1]} symmetric about {t[2]}"
    if c.kind == "midpoint":
        return f"{t[0]} in the middle of {t[1]}"
    if c.kind == "offset":
        pairs = list(zip(c.refs[::2], c.refs[1::2], strict=False))[: len(c.sides)]
        return f"{_list([thing(n) for _, n in pairs])} offset from {_list([thing(o) for o, _ in pairs])}"
    if c.kind == "fixed":
        return f"{t[0]} fixed"
    return f"{' and '.join(t)} {c.kind}"


def dimension(d: Dimension, value: float | None, unit: LengthUnit = "mm") -> str:
    """A dimension in words with its value: “distance 42 mm on line 1”."""
    if value is None:
        shown = d.expr
    elif d.kind == "angle":
        shown = f"{number(value)}°"
    else:
        sign = {"radius": "R", "diameter": "⌀", "arc_length": "⌒"}.get(d.kind, "")
        shown = f"{sign}{length(value, unit)}"
    if d.along != "shortest":
        shown += f" {d.along}"
    if d.across:
        shown += " across"
    named = f"{d.name} = " if d.name else ""
    side = f"{d.rim} side of " if d.rim else ""
    rounds = [r for r in d.refs if r[0] in "ca" and "." not in r] if d.rim else []
    things = [f"{side}{thing(r)}" if r in rounds else thing(r) for r in d.refs]
    return f"{named}{shown} ({' to '.join(things)})"


def tie(sketch: Sketch, ident: str, values: Mapping[str, float], unit: LengthUnit = "mm") -> str:
    """A constraint or dimension of ``sketch`` in words, by id."""
    for c in sketch.constraints:
        if c.id == ident:
            return constraint(c)
    for d in sketch.dimensions:
        if d.id == ident:
            return dimension(d, values.get(d.id), unit)
    return ident


def freedom_left(count: int) -> str:
    if count == 0:
        return "fully constrained"
    return f"{count} freedom{'' if count == 1 else 's'} left"


def motion(sketch: Sketch, m: Motion) -> str:
    """One free motion in words: “circle 3 slides along 14°”, “circle 3 grows”."""
    by_id = {e.id: e for e in sketch.entities}
    movers = [by_id[i] for i in m.entities if i in by_id]
    names = _list([thing(e.id) for e in movers])
    if not m.points:
        return f"{names} {'grows' if len(movers) == 1 else 'grow'}"
    speeds = list(m.points.values())
    first = speeds[0]
    together = all(math.hypot(s[0] - first[0], s[1] - first[1]) < 1e-6 for s in speeds)
    whole = all(_whole(e, m) for e in movers)
    if together and whole:
        way = "slides" if len(movers) == 1 else "slide"
        return f"{names} {way} {_direction(first)}"
    if len(m.points) == 1:
        ref = next(iter(m.points))
        return f"{thing(ref)} moves {_direction(first)}"
    places = {tuple(round(v, 6) for v in _place(sketch, ref)) for ref in m.points}
    if len(places) == 1 and together:
        return f"{thing(next(iter(m.points)))} moves {_direction(first)}, and what is joined to it"
    return f"{names} {'swings' if len(movers) == 1 else 'swing'}"


def _place(sketch: Sketch, ref: str) -> tuple[float, float]:
    entity = sketch.entity(ref.split(".")[0])
    assert entity is not None
    return points_of(entity)[ref]


def _whole(entity: object, m: Motion) -> bool:
    if isinstance(entity, Line):
        return f"{entity.id}.p" in m.points and f"{entity.id}.q" in m.points
    if isinstance(entity, Arc | Ellipse | EllipseArc | Spline | Text):
        return all(ref in m.points for ref in points_of(entity))
    return not isinstance(entity, Circle) or entity.id not in m.radii


def _direction(speed: tuple[float, float]) -> str:
    angle = math.degrees(math.atan2(speed[1], speed[0])) % 180
    if min(angle, 180 - angle) < 0.05:
        return "sideways"
    if abs(angle - 90) < 0.05:
        return "up and down"
    return f"along {number(angle, 1)}°"


def _list(names: list[str]) -> str:
    if len(names) <= 1:
        return "".join(names)
    if len(names) > 4:
        return f"{', '.join(names[:3])} and {len(names) - 3} more"
    return f"{', '.join(names[:-1])} and {names[-1]}"

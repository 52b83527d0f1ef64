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
    Point,
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
    told: dict[tuple[str, str], list[str]] = {}
    for e in movers:
        told.setdefault(_does(e, m), []).append(thing(e.id))
    # what changes first, then what goes along with it
    ranked = sorted(told.items(), key=lambda item: (item[0][0] not in CHANGES, -len(item[1])))
    said = [f"{_list(n)} {does[0] if len(n) == 1 else does[1]}" for does, n in ranked[:2]]
    rest = sum(len(n) for _, n in ranked[2:])
    return ", ".join(said) + (f", and {rest} more follow{'s' if rest == 1 else ''}" if rest else "")


CHANGES = ("grows", "turns", "bends", "swings")


def _does(entity: object, m: Motion) -> tuple[str, str]:
    """What a motion does with one entity, said of one and of several."""
    if isinstance(entity, Line):
        p, q = (m.points.get(f"{entity.id}.{end}", (0.0, 0.0)) for end in "pq")
        if math.dist(p, q) < 1e-6:
            return f"slides {_direction(p)}", f"slide {_direction(p)}"
        ux, uy = entity.q[0] - entity.p[0], entity.q[1] - entity.p[1]
        dx, dy = q[0] - p[0], q[1] - p[1]
        size = math.hypot(ux, uy) * math.hypot(dx, dy)
        if abs(ux * dy - uy * dx) < 1e-6 * size:
            return "grows", "grow"
        return ("turns", "turn") if abs(ux * dx + uy * dy) < 1e-6 * size else ("swings", "swing")
    if isinstance(entity, Point):
        way = _direction(m.points.get(entity.id, (0.0, 0.0)))
        return f"slides {way}", f"slide {way}"
    speeds = [s for ref, s in m.points.items() if ref.split(".")[0] == entity.id]  # type: ignore[attr-defined]
    if isinstance(entity, Circle) and entity.id in m.radii:
        return "grows", "grow"
    if speeds and all(math.dist(s, speeds[0]) < 1e-6 for s in speeds) and _whole(entity, m):
        return f"slides {_direction(speeds[0])}", f"slide {_direction(speeds[0])}"
    return "bends", "bend"


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

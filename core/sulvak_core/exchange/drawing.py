"""A drawing read from outside: lines, arcs, circles and points on layers, its notes and sizes, in its own unit.

Files from outside are hostile until read: callers read them in a process with limits, and what comes out of it is
only what is checked here (finite, within range, not too many).
"""

from __future__ import annotations

import math
from collections import Counter
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from ..part.errors import Refusal
from ..sketch.edit import check_entities
from ..sketch.model import AnyEntity, Arc, Circle, Line, Point

MOST = 60_000  # shapes read from a file; a sketch takes 5,000
NOTES = 500
RANGE = 1e7
BEYOND = 1e12  # what is farther out than that is no place
FAR, NEAR = 100.0, 1e4  # so many times its size off, and so much, a drawing is far from its origin
PER_UNIT = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
DrawingUnit = Literal["mm", "cm", "m", "in", "ft"]
Placing = Literal["as drawn", "corner", "centre"]

XY = tuple[float, float]


class Shape(BaseModel):
    """One line (p, q), arc (c, r, counter-clockwise p to q), circle (c, r) or point (p), in the drawing's unit."""

    layer: str
    kind: Literal["line", "arc", "circle", "point"]
    p: XY | None = None
    q: XY | None = None
    c: XY | None = None
    r: float | None = None
    lift: float = 0.0
    dashed: bool = False  # drawn as a centre or hidden line


class Layer(BaseModel):
    name: str
    count: int
    shown: bool = True


class Drawing(BaseModel):
    """What was read. ``left_out`` counts by kind what could not be taken, ``short`` shapes without length."""

    unit: DrawingUnit | None = None
    shapes: list[Shape] = Field(default_factory=list)
    layers: list[Layer] = Field(default_factory=list)
    notes: list[str] = Field(default_factory=list)
    sizes: list[str] = Field(default_factory=list)
    left_out: dict[str, int] = Field(default_factory=dict)
    short: int = 0
    fitted: int = 0  # ellipses and free curves taken as runs of arcs
    far: XY | None = None  # so far from the file's origin it lay, and was brought near it


class Chosen(BaseModel):
    """How a drawing is taken into a sketch."""

    layers: list[str] | None = None
    unit: DrawingUnit = "mm"
    place: Placing = "as drawn"
    dashed: bool = True  # centre and hidden lines as construction lines
    scale: Annotated[float, Field(gt=0, le=1e6)] = 1.0


class OutOfRange(Refusal):
    """A shape that lies nowhere."""


class Collector:
    """Takes shapes while a file is read, refuses what is out of range and stops at too many."""

    def __init__(self) -> None:
        self.drawing = Drawing()
        self.hidden: set[str] = set()
        self.order: dict[str, None] = {}

    def layer(self, name: str, shown: bool = True) -> None:
        self.order.setdefault(name[:255], None)
        if not shown:
            self.hidden.add(name[:255])

    def add(self, shape: Shape) -> None:
        numbers = [*(shape.p or ()), *(shape.q or ()), *(shape.c or ()), shape.r or 0.0, shape.lift]
        if not all(math.isfinite(v) and abs(v) <= BEYOND for v in numbers):
            raise OutOfRange("This drawing holds coordinates that are no numbers; it is damaged. Export it again.")
        if shape.kind == "line" and shape.p == shape.q:
            self.drawing.short += 1
            return
        if shape.kind in ("arc", "circle") and not (shape.r or 0.0) > 1e-9:
            self.drawing.short += 1
            return
        if len(self.drawing.shapes) >= MOST:
            raise Refusal(
                f"This drawing has more than {MOST:,} lines and arcs; take the view you need into its own file."
            )
        self.layer(shape.layer)
        self.drawing.shapes.append(shape)

    def leave_out(self, kind: str, count: int = 1) -> None:
        self.drawing.left_out[kind] = self.drawing.left_out.get(kind, 0) + count

    def note(self, text: str) -> None:
        text = " ".join(text.split())
        if text and len(self.drawing.notes) < NOTES:
            self.drawing.notes.append(text[:200])

    def size(self, text: str) -> None:
        text = " ".join(text.split())
        if text and len(self.drawing.sizes) < NOTES:
            self.drawing.sizes.append(text[:120])

    def done(self) -> Drawing:
        """The drawing. Raises Refusal if there is nothing in it."""
        d = self.drawing
        if not d.shapes:
            kinds = ", ".join(f"{n} {k}" for k, n in sorted(d.left_out.items()))
            more = f" It holds only {kinds}, which a sketch cannot take." if kinds else ""
            raise Refusal(f"There is nothing in this drawing that can be sketched.{more}")
        self._brought_near()
        counts = Counter(s.layer for s in d.shapes)
        d.layers = [Layer(name=n, count=counts[n], shown=n not in self.hidden) for n in self.order if counts[n]]
        return d

    def _brought_near(self) -> None:
        """A drawing far from its origin, as whole sites have it, is moved there; too large a one is refused."""
        shapes = self.drawing.shapes
        dx, dy = _shift(shapes, "corner")
        cx, cy = _shift(shapes, "centre")
        size = max(2 * abs(dx - cx), 2 * abs(dy - cy), 1e-9)
        if size > RANGE:
            raise Refusal("This drawing is larger than ten kilometres; take the view you need into its own file.")
        if max(abs(cx), abs(cy)) <= max(FAR * size, NEAR):
            return
        by = (float(math.floor(-dx)), float(math.floor(-dy)))
        self.drawing.far = by
        for s in shapes:
            s.p, s.q, s.c = ((p[0] - by[0], p[1] - by[1]) if p else None for p in (s.p, s.q, s.c))


def entities(drawing: Drawing, chosen: Chosen, used: dict[str, int] | None = None, room: int = 5000) -> list[AnyEntity]:
    """The chosen shapes as sketch entities in mm, with ids after those in ``used`` (highest number per letter).

    Raises Refusal when nothing is chosen, or more than ``room``.
    """
    shown = {layer.name for layer in drawing.layers if layer.shown}
    layers = shown if chosen.layers is None else set(chosen.layers)
    taken = [s for s in drawing.shapes if s.layer in layers]
    if not taken:
        raise Refusal("No layer with lines in it is chosen; choose at least one.")
    if len(taken) > room:
        raise Refusal(f"{len(taken):,} lines and arcs are more than a sketch takes ({room:,}); choose fewer layers.")
    k = PER_UNIT[chosen.unit] * chosen.scale
    dx, dy = _shift(taken, chosen.place)
    numbers = dict(used or {})
    found: list[AnyEntity] = []

    def at(p: XY | None) -> XY:
        assert p is not None
        return (p[0] + dx) * k, (p[1] + dy) * k

    reach = max(abs(v) for s in taken for p in (s.p, s.q, s.c) if p for v in ((p[0] + dx) * k, (p[1] + dy) * k))
    if reach > RANGE or max((s.r or 0.0) * k for s in taken) > RANGE or max(abs(s.lift) * k for s in taken) > RANGE:
        raise Refusal(f"Taken in {chosen.unit} this drawing is larger than ten kilometres; choose another unit.")
    for s in taken:
        letter = {"line": "l", "arc": "a", "circle": "c", "point": "p"}[s.kind]
        numbers[letter] = numbers.get(letter, 0) + 1
        common: dict[str, Any] = {
            "id": f"{letter}{numbers[letter]}",
            "lift": s.lift * k if abs(s.lift * k) > 1e-7 else 0.0,
            "construction": s.dashed and chosen.dashed,
        }
        if s.kind == "line":
            found.append(Line(p=at(s.p), q=at(s.q), **common))
        elif s.kind == "circle":
            found.append(Circle(c=at(s.c), r=(s.r or 0.0) * k, **common))
        elif s.kind == "arc":
            found.append(_arc(at(s.c), (s.r or 0.0) * k, at(s.p), at(s.q), common))
        else:
            found.append(Point(at=at(s.p), **common))
    kept = [e for e in found if not isinstance(e, Line) or math.dist(e.p, e.q) >= 1e-6]
    check_entities(kept)
    return kept


def outlines(drawing: Drawing) -> tuple[dict[str, str], tuple[float, float, float, float]]:
    """An SVG path (y down, in the drawing's unit) for each layer, and the box around all: x, y, width, height."""
    paths: dict[str, list[str]] = {layer.name: [] for layer in drawing.layers}
    for s in drawing.shapes:
        paths.setdefault(s.layer, []).append(_path(s))
    dx, dy = _shift(drawing.shapes, "corner")
    cx, cy = _shift(drawing.shapes, "centre")
    return {k: "".join(v) for k, v in paths.items()}, (-dx, 2 * cy - dy, 2 * (dx - cx), 2 * (dy - cy))


def _path(s: Shape) -> str:
    if s.kind == "line" and s.p and s.q:
        return f"M{s.p[0]:.6g} {-s.p[1]:.6g}L{s.q[0]:.6g} {-s.q[1]:.6g}"
    if s.kind == "circle" and s.c and s.r:
        x, y, r = s.c[0], -s.c[1], s.r
        return f"M{x - r:.6g} {y:.6g}a{r:.6g} {r:.6g} 0 1 0 {2 * r:.6g} 0a{r:.6g} {r:.6g} 0 1 0 {-2 * r:.6g} 0"
    if s.kind == "arc" and s.c and s.p and s.q and s.r:
        turn = (math.atan2(s.q[1] - s.c[1], s.q[0] - s.c[0]) - math.atan2(s.p[1] - s.c[1], s.p[0] - s.c[0])) % math.tau
        return f"M{s.p[0]:.6g} {-s.p[1]:.6g}A{s.r:.6g} {s.r:.6g} 0 {int(turn > math.pi)} 0 {s.q[0]:.6g} {-s.q[1]:.6g}"
    return ""


def _arc(c: XY, r: float, p: XY, q: XY, common: dict[str, Any]) -> Arc:
    """Ends put on the circle: files round them."""

    def onto(end: XY) -> XY:
        d = math.dist(c, end)
        return (c[0] + (end[0] - c[0]) * r / d, c[1] + (end[1] - c[1]) * r / d) if d > 0 else end

    return Arc(c=c, r=r, p=onto(p), q=onto(q), **common)


def _shift(shapes: list[Shape], place: Placing) -> XY:
    if place == "as drawn":
        return 0.0, 0.0
    xs, ys = [], []
    for s in shapes:
        r = s.r or 0.0
        for p in (s.p, s.q):
            if p is not None:
                xs.append(p[0])
                ys.append(p[1])
        if s.kind == "circle" and s.c is not None:
            xs += [s.c[0] - r, s.c[0] + r]
            ys += [s.c[1] - r, s.c[1] + r]
    if place == "corner":
        return -min(xs), -min(ys)
    return -(min(xs) + max(xs)) / 2, -(min(ys) + max(ys)) / 2

"""What the text step does: letters as solids on a flat face, or on a round one at one depth all over."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..part.units import told
from ..sketch.lettering import slenderness
from ..sketch.model import Sketch, Text
from ..sketch.profiles import profile
from ..sketch.regions import Region
from ..solid.boolean import combine
from ..solid.frame import XYZ, Frame, cross, dot, on_plane, plus, scaled, unit
from ..solid.measure import extent_on, middle, surface
from ..solid.place import turned
from ..solid.prism import prism
from ..solid.shapes import Shape, ShapeMap, Solid, Tags
from ..solid.surfaces_of_revolution import Curved, curved, layer
from ..steps.kinds.text import TextStep
from .tooling import StepFailure

OVER = 0.1  # of the depth: how far tools reach out of the face they work on
BENT = 0.8  # of a round face's least radius: how far from the middle letters can stand on it


@dataclass(frozen=True)
class Sizes:
    """Lengths in mm, the angle in degrees."""

    height: float
    depth: float
    x: float
    y: float
    angle: float


def place(face: Shape, sizes: Sizes) -> tuple[Frame, Curved | None]:
    """Where the middle of the text stands: a frame that touches the face, its normal out of the material; and what
    the face lies on, None for a flat one. Raises StepFailure for faces of a free form."""
    s = surface(face)
    if s.kind == "plane":
        flat = on_plane(s.at, s.direction)
        (left, low), (right, high) = extent_on(face, flat)
        at = flat.point((left + right) / 2 + sizes.x, (low + high) / 2 + sizes.y)
        return _turned(Frame(at, flat.x, flat.y), sizes.angle), None
    c = curved(face)
    if c is None:
        raise StepFailure(
            "Text stands on flat faces, cylinders, cones, balls and rings; this one has a free form. Pick another.",
            pick="face",
        )
    at = middle(face)
    if s.kind in ("cylinder", "cone") and s.sweep > 2 * math.pi - 1e-6:
        along = plus(c.at, scaled(c.axis, dot(plus(at, scaled(c.at, -1.0)), c.axis)))
        far = math.dist(at, along)
        at = plus(along, scaled(_foremost(c.axis), far))
    out = c.out(at)
    read = on_plane(at, scaled(out, -1.0) if c.hollow else out)
    away = plus(scaled(read.x, sizes.x), scaled(read.y, sizes.y))
    if c.kind == "cylinder":  # walked round and along
        walk = turned((0.0, 0.0, 0.0), c.axis, math.degrees(dot(away, cross(c.axis, out)) / c.radius))
        foot = plus(at, scaled(out, -c.radius))
        foot = plus(foot, scaled(c.axis, dot(away, c.axis)))
        at = plus(foot, scaled(walk.direction(out), c.radius))
        return _turned(Frame(at, walk.direction(read.x), walk.direction(read.y)), sizes.angle), c
    at = c.foot(plus(at, away))
    out = c.out(at)
    normal = scaled(out, -1.0) if c.hollow else out
    x = unit(plus(read.x, scaled(normal, -dot(read.x, normal))))
    return _turned(Frame(at, x, cross(normal, x)), sizes.angle), c


def _foremost(axis: XYZ) -> XYZ:
    """The side of a whole cylinder that the front view shows; of one that runs away from it, the upper one."""
    for way in ((0.0, -1.0, 0.0), (0.0, 0.0, 1.0)):
        out = plus(way, scaled(axis, -dot(way, axis)))
        if dot(out, out) > 0.25:
            break
    return unit(out)


def _turned(f: Frame, angle: float) -> Frame:
    a = math.radians(angle)
    return Frame(f.origin, f.direction(math.cos(a), math.sin(a)), f.direction(-math.sin(a), math.cos(a)))


def letters(text: str, height: float) -> tuple[list[Region], float]:
    """The letters' regions about the middle of the line, and the width of the line (mm)."""
    wide = height / slenderness(text)
    x, y = wide / 2, height / 2
    line = Text(id="t1", text=text, p=(-x, -y), q=(x, -y), m=(-x, y), c=(0.0, 0.0))
    return profile(Sketch(entities=[line])).default(), wide


def tools(step: TextStep, sizes: Sizes, face: Shape) -> list[Solid]:
    """The letters as solids: what is taken out, or put on with a foot inside the face. Raises StepFailure."""
    for value, what, field in ((sizes.height, "height", "height"), (sizes.depth, "depth", "depth")):
        if value <= 0:
            raise StepFailure(f"The {what} of letters is more than zero.", field=field)
    frame, c = place(face, sizes)
    regions, wide = letters(step.text, sizes.height)
    over, depth = OVER * sizes.depth, sizes.depth
    low, high = (-depth, over) if step.operation == "engrave" else (-over, depth)
    if c is None:
        return [_renamed(prism(frame, r, low, high, step.id, check=False), step) for r in regions]
    return _on_round(step, frame, c, regions, (wide / 2, sizes.height / 2), (low, high))


def _on_round(
    step: TextStep,
    frame: Frame,
    c: Curved,
    regions: list[Region],
    half: tuple[float, float],
    span: tuple[float, float],
) -> list[Solid]:
    """Letters straight out of the plane that touches the face, cut down to a layer along it."""
    reach = math.hypot(*half)
    if c.kind == "cylinder":  # along the axis there is room
        aside = cross(c.axis, frame.normal)
        reach = sum(h * abs(dot(axis, aside)) for h, axis in zip(half, (frame.x, frame.y), strict=True))
    tight = c.tightest(frame.origin, math.hypot(*half))
    if reach > BENT * tight:
        raise StepFailure(
            f"The text reaches {told(round(2 * reach, 1))} round the face, where at most "
            f"{told(round(2 * BENT * tight, 1))} have room. Make it smaller, or turn it along the axis.",
            field="height",
        )
    low, high = span
    # how far out the layer lies: heights are measured out of the material, in a hollow towards the middle
    inner, outer = (-high, -low) if c.hollow else (low, high)
    if tight + inner <= 0:
        raise StepFailure("This depth reaches the middle of the round face; make it less.", field="depth")
    # the face falls away from the plane that touches it, of a ring to both sides
    fall = (tight + inner) - math.sqrt(max((tight + inner) ** 2 - reach * reach, 0.0))
    slack = OVER * (high - low)
    down = 0.0 if c.hollow and c.kind != "ring" else fall
    up = fall if c.hollow or c.kind == "ring" else 0.0
    end = min(high + up + slack, 0.99 * tight)
    blocks = [prism(frame, r, low - down - slack, end, step.id, check=False) for r in regions]
    size = 2 * (math.dist(frame.origin, c.at) + reach + abs(outer)) + math.hypot(*half)
    wall = layer(c, size, inner, outer, step.id)
    made = [piece for block in blocks for piece in combine("intersect", [block], [wall], "text")]
    return [_renamed(m, step, c) for m in made]


def _renamed(solid: Solid, step: TextStep, c: Curved | None = None) -> Solid:
    """Floor of an engraving and top of raised letters are the step's end; the walls keep their letter and stroke."""
    if c is None:
        floor, other = (f"{step.id}/start", f"{step.id}/end")
    else:
        floor, other = (
            f"{step.id}/side/{name}" for name in (("inner", "outer") if not c.hollow else ("outer", "inner"))
        )
    end, start = (floor, other) if step.operation == "engrave" else (other, floor)
    names = {end: f"{step.id}/end", start: f"{step.id}/start"}
    tags: ShapeMap[Tags] = ShapeMap()
    for face, mine in solid.tags.items():
        tags.put(face, frozenset(names.get(t, t) for t in mine))
    return Solid(solid.shape, tags)

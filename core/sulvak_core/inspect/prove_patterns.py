"""Sizes of patterns: how far a copy's faces stand from the same faces of the one before, on the finished solid."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence

from ..rebuild.resolve import Axis, Pointing
from ..rebuild.tooling import StepFailure
from ..sheet.requirement import Requirement
from ..solid.frame import XYZ, cross, dot, plus, scaled
from ..solid.measure import Surface, face_centre, surface
from ..solid.shapes import Shape, Solid, faces
from ..steps.kinds.pattern import PatternStep
from .layout import row_wrong
from .shown import Measured, Unmeasurable

ALIKE = 1e-6  # mm or degrees within which steps are the same
SQUARE = 1e-9
_COPY = re.compile(r"^i(\d+)(?:x(\d+))?$")

Face = tuple[Surface, Shape]
Place = tuple[int, int]
Faces = dict[str, Face]  # by the origin they are copies of
Found = dict[Place, Faces]


def spacing(step: PatternStep, field: str, r: Requirement, solids: Sequence[Solid], pointing: Pointing) -> Measured:
    """A pattern's spacing in mm or its angle in degrees, or what all its steps come to where that is what it gives."""
    choice = step.second if field == "second_spacing" else step.along
    if choice is None:
        raise Unmeasurable("its direction is no longer chosen")
    try:
        axis = pointing.axis(choice)
    except StepFailure:
        raise Unmeasurable("what its direction was taken from is not on the finished part") from None
    k = 1 if field == "second_spacing" else 0
    found = _faces(step.id, solids)
    places = sorted(p for p in found if p[1 - k] == 0 and p != (0, 0))
    ways = _turns(found, places, axis) if field == "angle" else _slides(found, places, axis.direction, k)
    if not ways:
        raise Unmeasurable("no face of a copy is left that shows how far it stands from the first")
    last = max(ways)
    each = [w / n for n, w in ways.items()]
    odd = max(each) - min(each)
    wrong = [f"the steps differ by {odd:.4f}"] if odd > ALIKE else []
    wrong += row_wrong([0.0, *ways.values()], r)
    if step.measure == "total":
        turn = field == "angle" and abs(each[0] * (last + 1) - 360.0) < ALIKE * 10
        return each[0] * (last + 1 if turn else last), None, wrong
    return each[0], None, wrong


def _faces(step: str, solids: Sequence[Solid]) -> Found:
    """Faces of every copy; under (0, 0) the originals."""
    found: Found = {(0, 0): {}}
    for solid in solids:
        for face in faces(solid.shape):
            s = surface(face)
            for tag in solid.face_tags(face):
                found[0, 0].setdefault(tag, (s, face))
                own, _, rest = tag.partition("/")
                name, _, origin = rest.partition("/")
                copy = _COPY.match(name)
                if own == step and copy:
                    found.setdefault((int(copy[1]), int(copy[2] or 0)), {}).setdefault(origin, (s, face))
    return found


def _slides(found: Found, places: Sequence[Place], way: XYZ, k: int) -> dict[int, float]:
    """How far (mm) each copy stands from the original, by its number."""
    told = {p[k]: _best(found[0, 0], found[p], lambda a, b: _slide(a, b, way)) for p in places}
    return {n: abs(v) for n, v in told.items() if v is not None}


def _turns(found: Found, places: Sequence[Place], axis: Axis) -> dict[int, float]:
    """How far round (degrees) each copy stands from the original, by its number: the steps between neighbours added."""
    total, before, sign, told = 0.0, (0, 0), 0.0, {}
    for place in places:
        turn = _best(found[before], found[place], lambda a, b: _turn(a, b, axis))
        if turn is None:
            continue
        sign = sign or math.copysign(1.0, turn)
        total += (sign * turn) % 360.0
        told[place[0]] = total
        before = place
    return told


def _best(one: Faces, two: Faces, tell: Callable[[Face, Face], tuple[int, float] | None]) -> float | None:
    """What the faces of the same origins tell, by the one that tells it best."""
    pairs = [(one[o], b) for o, b in two.items() if o in one and one[o][0].kind == b[0].kind]
    told = [t for a, b in pairs if (t := tell(a, b)) is not None]
    return min(told, key=lambda t: t[0])[1] if told else None


def _slide(a: Face, b: Face, way: XYZ) -> tuple[int, float]:
    """How well a face tells a slide (0 best), and how far it is."""
    s = b[0]
    tilt = abs(dot(s.direction, way))
    if s.kind in ("cylinder", "cone") and tilt < SQUARE:
        return 0, dot(plus(s.at, scaled(a[0].at, -1.0)), way)
    if s.kind == "plane" and tilt > 1 - SQUARE:
        return 1, dot(plus(s.at, scaled(a[0].at, -1.0)), way)
    away = plus(face_centre(b[1]), scaled(face_centre(a[1]), -1.0))
    return 2, dot(away, way)


def _turn(a: Face, b: Face, axis: Axis) -> tuple[int, float] | None:
    """How well a face tells a turn, and how many degrees it is, up to a half turn either way."""
    s = b[0]
    if s.kind in ("cylinder", "cone") and abs(dot(s.direction, axis.direction)) > 1 - SQUARE:
        rank, one, two = 0, _out(a[0].at, axis), _out(s.at, axis)
    elif s.kind == "plane" and abs(dot(s.direction, axis.direction)) < 1 - SQUARE:
        rank, one, two = 1, _across(a[0].direction, axis), _across(s.direction, axis)
    else:
        rank, one, two = 2, _out(face_centre(a[1]), axis), _out(face_centre(b[1]), axis)
    if dot(one, one) < SQUARE or dot(two, two) < SQUARE:
        return None
    turn = math.degrees(math.atan2(dot(cross(one, two), axis.direction), dot(one, two)))
    return rank, turn


def _across(v: XYZ, axis: Axis) -> XYZ:
    return plus(v, scaled(axis.direction, -dot(v, axis.direction)))


def _out(at: XYZ, axis: Axis) -> XYZ:
    return _across(plus(at, scaled(axis.at, -1.0)), axis)

"""Sizes of steps that treat or drill, measured on the faces they left on the finished solid."""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..part.threads import THREADS
from ..part.units import number
from ..rebuild.resolve import Pointing
from ..rebuild.tooling import StepFailure
from ..sheet.requirement import Requirement
from ..solid.blend import blend_radius
from ..solid.frame import cross, dot, plus, scaled
from ..solid.measure import Surface, curve, neighbours, points, surface
from ..solid.shapes import Shape, Solid, edges, faces
from ..steps.kinds.chamfer import ChamferStep
from ..steps.kinds.draft import DraftStep
from ..steps.kinds.fillet import FilletStep
from ..steps.kinds.hole import HoleStep
from ..steps.kinds.pattern import PatternStep
from ..steps.kinds.revolve import RevolveStep
from ..steps.kinds.rib import RibStep
from ..steps.kinds.shell import ShellStep
from ..steps.kinds.text import TextStep
from .layout import misplaced
from .prove_built import lettering, rib, turn
from .prove_patterns import spacing
from .shown import Measured, Unmeasurable

ALIKE = 1e-6  # mm or degrees within which sizes are the same


def measure(step: object, field: str, r: Requirement, solids: list[Solid], pointing: Pointing) -> Measured:
    """A field's size on the solid: (value in mm or degrees, how many places show it, what else is wrong)."""
    if isinstance(step, FilletStep) and field.startswith("radius"):
        return _radius(step, r, solids)
    if isinstance(step, HoleStep):
        return _hole(step, field, r, solids)
    if isinstance(step, ChamferStep) and field in ("first", "second", "angle"):
        return _chamfer(step, field, r, solids)
    if isinstance(step, ShellStep) and field == "thickness":
        return _wall(step, solids)
    if isinstance(step, DraftStep) and field.startswith("angle"):
        return _lean(step, field, pointing)
    if isinstance(step, PatternStep) and field in ("spacing", "second_spacing", "angle"):
        return spacing(step, field, r, solids, pointing)
    if isinstance(step, RibStep) and field == "thickness":
        return rib(step, solids)
    if isinstance(step, RevolveStep) and field == "angle":
        return turn(step, r, solids)
    if isinstance(step, TextStep) and field in ("height", "depth"):
        return lettering(step, field, r, solids, pointing)
    raise Unmeasurable("the finished part shows no size of this kind")


def _tagged(solids: list[Solid], prefix: str) -> Iterable[tuple[str, Surface, float | None]]:
    for solid in solids:
        for face in faces(solid.shape):
            for tag in solid.face_tags(face):
                if tag.startswith(prefix):
                    yield tag, surface(face), blend_radius(face)


def _one(values: list[float], what: str) -> tuple[float, list[str]]:
    """The value all agree in, or the one farthest from the others with a word about it."""
    if not values:
        raise Unmeasurable(f"nothing of its {what} is left on the part")
    odd = max(values) - min(values)
    return values[0], [f"they differ by {odd:.4f}"] if odd > ALIKE else []


def _radius(step: FilletStep, r: Requirement, solids: list[Solid]) -> Measured:
    """The radius of a step's rounds; where it has several radii, the one that is asked for, if it is there."""
    found = [radius for _, _, radius in _tagged(solids, f"{step.id}/round/") if radius is not None]
    if len(step.groups) > 1:
        found = sorted(found, key=lambda radius: abs(radius - (r.nominal or 0.0)))[:1]
    value, wrong = _one(found, "round")
    return value, None, wrong


def _chamfer(step: ChamferStep, field: str, r: Requirement, solids: list[Solid]) -> Measured:
    """The legs a chamfer cut off its two faces, by where it meets them; of two unlike legs the one asked for."""
    pairs = [
        legs
        for solid in solids
        for i, legs in flat_legs(solid).items()
        if any(t.startswith(f"{step.id}/chamfer/") for t in solid.face_tags(faces(solid.shape)[i]))
    ]
    if not pairs:
        raise Unmeasurable("nothing of its flats is left on the part")
    if field == "angle":
        leans = [min((math.degrees(math.atan2(*p)), math.degrees(math.atan2(*p[::-1]))),
                     key=lambda a: abs(a - (r.nominal or 45.0))) for p in pairs]  # fmt: skip
        value, wrong = _one(leans, "flats")
        return value, None, wrong
    value, wrong = _one([min(p, key=lambda leg: abs(leg - (r.nominal or 0.0))) for p in pairs], "flats")
    if r.kind == "chamfer" and r.angle is not None:
        odd = [p for p in pairs if all(abs(math.degrees(math.atan2(a, b)) - r.angle) > 1e-6 for a, b in (p, p[::-1]))]
        wrong += [f"not at {number(r.angle)}°"] if odd else []
    return value, None, wrong


def flat_legs(solid: Solid, only: int | None = None) -> dict[int, tuple[float, float]]:
    """What each face of a solid (or ``only`` one) would take off the two faces it lies between if it were a chamfer,
    in mm, by its number: flats across an edge, cones about an axis."""
    every = faces(solid.shape)
    beside: dict[int, list[tuple[Shape, int]]] = {}
    for edge, sides in neighbours(solid):
        for i in sides if len(sides) == 2 else []:
            beside.setdefault(i, []).append((edge, sides[1] if sides[0] == i else sides[0]))
    wanted = beside if only is None else {only: beside.get(only, [])}
    found = {i: _legs(every[i], [(e, every[j]) for e, j in around]) for i, around in wanted.items()}
    return {i: legs for i, legs in found.items() if legs is not None and min(legs) > 1e-9}


def _legs(face: Shape, beside: list[tuple[Shape, Shape]]) -> tuple[float, float] | None:
    """What a chamfer took off the two faces it lies between, in mm: flat between flat faces, or a cone about an axis.
    None for any other."""
    own = surface(face)
    if own.kind == "cone":
        rims = {(round(c.radius, 9), round(dot(c.at, own.direction), 9)) for e, _ in beside
                for c in [curve(e)] if c.kind == "circle"}  # fmt: skip
        if len(rims) != 2:
            return None
        (a, p), (b, q) = rims
        return abs(a - b), abs(p - q)
    sides = [(c, surface(f)) for e, f in beside for c in [curve(e)] if c.kind == "line"]
    flats = [(c, s) for c, s in sides if own.kind == s.kind == "plane"]
    longest = max((c.length for c, _ in flats), default=0.0)
    along = next((c.direction for c, _ in flats if c.length == longest), None)
    rails = [(c, s) for c, s in flats if along and abs(abs(dot(c.direction, along)) - 1) < 1e-9]
    if along is None or len(rails) != 2:
        return None
    (one, near), (two, far) = rails
    v = plus(two.start, scaled(one.start, -1.0))
    v = plus(v, scaled(along, -dot(v, along)))
    s, t = cross(along, near.direction), cross(along, far.direction)  # along the two faces, square to the edge
    c = dot(s, t)
    k = 1 - c * c
    if k < 1e-12:
        return None
    return abs(dot(v, s) - c * dot(v, t)) / k, abs(dot(v, t) - c * dot(v, s)) / k


def _hole(step: HoleStep, field: str, r: Requirement, solids: list[Solid]) -> Measured:
    if r.kind == "thread":
        return _tapped(step, r, solids)
    if field in ("bore_depth", "depth"):
        deep = _depths(step, solids, ("bore",) if field == "bore_depth" else ("bore", "drill"))
        value, wrong = _one(list(deep.values()), "wall")
        return value, len(deep) if r.count > 1 else None, wrong
    if field in ("sink_diameter", "sink_angle"):
        sinks = _sinks(step, solids)
        value, wrong = _one([s[field == "sink_angle"] for s in sinks], "countersink")
        return value, len(sinks) if r.count > 1 else None, wrong
    if field == "tip_angle":
        tips = _tips(step, solids)
        value, wrong = _one(tips, "drill point")
        return value, None, wrong
    role = {"diameter": "drill", "size": "drill", "bore_diameter": "bore"}.get(field)
    if role is None:
        raise Unmeasurable("a thread is told, not cut: the part shows the hole drilled for it")
    walls = [(tag, s) for tag, s, _ in _tagged(solids, f"{step.id}/{role}/") if s.kind == "cylinder"]
    value, wrong = _one([2 * s.radius for _, s in walls], "wall")
    wrong += [*_mouth(step, r, solids), *_bottom(step, r, solids), *_layout(walls, r)]
    return value, len({tag for tag, _ in walls}), wrong


def _layout(walls: list[tuple[str, Surface]], r: Requirement) -> list[str]:
    """What is not as asked of where holes lie to each other."""
    if not walls:
        return []
    by_hole = dict(walls)  # a hole through two walls lies where it lies
    return misplaced([s.at for s in by_hole.values()], walls[0][1].direction, r)


def _tips(step: HoleStep, solids: list[Solid]) -> list[float]:
    """The angles (degrees) of the points that a drill left, by the rim and the tip of each cone."""
    found = []
    for solid in solids:
        for face in faces(solid.shape):
            if any(t.startswith(f"{step.id}/tip/") for t in solid.face_tags(face)):
                rims = [c for e in edges(face) for c in [curve(e)] if c.kind == "circle"]
                axis = surface(face).direction
                if rims:
                    deep = max(abs(dot(plus(p, scaled(rims[0].at, -1.0)), axis)) for p in points(face))
                    found.append(2 * math.degrees(math.atan2(rims[0].radius, deep)))
    return found


def _tapped(step: HoleStep, r: Requirement, solids: list[Solid]) -> Measured:
    """A thread is shown by the hole drilled for it; what is told is its diameter, if that hole is right for it."""
    thread = THREADS[r.thread]
    walls = [(tag, s) for tag, s, _ in _tagged(solids, f"{step.id}/drill/") if s.kind == "cylinder"]
    value, wrong = _one([2 * s.radius for _, s in walls], "wall")
    if abs(value - thread.drill) > ALIKE:
        wrong.append(f"drilled Ø{number(value)}, where {thread.name} is tapped from Ø{number(thread.drill)}")
    if step.form != "tapped":
        wrong.append("drilled, not tapped")
    if r.drill is not None and abs(value - r.drill) > ALIKE:
        wrong.append(f"drilled Ø{number(value)}, {number(r.drill)} asked")
    if r.drill_depth is not None:
        wrong += _unlike(_depths(step, solids, ("drill",)).values(), r.drill_depth, "drilled ↧ ")
    wrong += _mouth(step, r, solids) + _layout(walls, r)
    if r.through:
        wrong += _bottom(step, r, solids)
    if r.depth is not None:  # a thread is data on the wall, which has to be at least as long
        deep = min(_depths(step, solids, ("drill",)).values(), default=0.0)
        wrong += [f"drilled {number(deep)} deep, too shallow"] if deep < r.depth - ALIKE else []
    return thread.diameter, len({tag for tag, _ in walls}), wrong


def _depths(step: HoleStep, solids: list[Solid], roles: tuple[str, ...]) -> dict[str, float]:
    """How deep each hole is from its mouth, in mm, by the ends of its cylindrical walls."""
    reach: dict[str, list[float]] = {}
    for solid in solids:
        for face in faces(solid.shape):
            for tag in solid.face_tags(face):
                own, role, *hole = tag.split("/", 2)
                s = surface(face)
                if own == step.id and role in roles and s.kind == "cylinder" and hole:
                    ends = [curve(e) for e in edges(face)]
                    reach.setdefault(hole[0], []).extend(dot(p, s.direction) for c in ends for p in (c.start, c.end))
    return {hole: max(at) - min(at) for hole, at in reach.items()}


def _mouth(step: HoleStep, r: Requirement, solids: list[Solid]) -> list[str]:
    """What is not as asked for at the mouths: counterbore or countersink."""
    wrong: list[str] = []
    if r.bore is not None:
        wide = {2 * s.radius for _, s, _ in _tagged(solids, f"{step.id}/bore/") if s.kind == "cylinder"}
        deep = _depths(step, solids, ("bore",)).values()
        wrong += _unlike(wide, r.bore, "counterbore Ø") + _unlike(deep, r.bore_depth or 0.0, "counterbore ↧ ")
    if r.spot is not None:  # a spotface is a counterbore just deep enough to clean the face
        wide = {2 * s.radius for _, s, _ in _tagged(solids, f"{step.id}/bore/") if s.kind == "cylinder"}
        wrong += _unlike(wide, r.spot, "spotface Ø")
        if r.spot_depth is not None:
            wrong += _unlike(_depths(step, solids, ("bore",)).values(), r.spot_depth, "spotface ↧ ")
    if r.sink is not None:
        sinks = _sinks(step, solids)
        wrong += _unlike([wide for wide, _ in sinks], r.sink, "countersink Ø")
        wrong += _unlike([lean for _, lean in sinks], r.sink_angle or 90.0, "countersink angle ") if sinks else []
    return wrong


def _sinks(step: HoleStep, solids: list[Solid]) -> list[tuple[float, float]]:
    """How wide (mm) each countersink is at its mouth, and its angle (degrees), by the two rims of its cone."""
    found = []
    for solid in solids:
        for face in faces(solid.shape):
            if not any(t.startswith(f"{step.id}/sink/") for t in solid.face_tags(face)):
                continue
            s = surface(face)
            rims = sorted(
                (c.radius, dot(c.at, s.direction)) for e in edges(face) for c in [curve(e)] if c.kind == "circle"
            )
            if s.kind == "cone" and len(rims) >= 2:
                (r, p), (wide, q) = rims[0], rims[-1]
                found.append((2 * wide, 2 * math.degrees(math.atan2(wide - r, abs(q - p)))))
    return found


def _bottom(step: HoleStep, r: Requirement, solids: list[Solid]) -> list[str]:
    """What is not as asked for at the bottoms: through, or how deep."""
    bottoms = [tag for role in ("tip", "bottom") for tag, _, _ in _tagged(solids, f"{step.id}/{role}/")]
    if r.through:
        return ["not through"] if bottoms else []
    if r.depth is None:
        return []
    return _unlike(_depths(step, solids, ("bore", "drill")).values(), r.depth, "depth ")


def _unlike(found: Iterable[float], wanted: float, what: str) -> list[str]:
    odd = [v for v in found if abs(v - wanted) > ALIKE]
    if odd:
        return [f"{what}{number(odd[0])}, {number(wanted)} asked"]
    return [] if list(found) else [f"no {what.strip(' Ø↧')}"]


def _wall(step: ShellStep, solids: list[Solid]) -> Measured:
    outer: dict[str, Surface] = {}
    for solid in solids:
        for face in faces(solid.shape):
            s = surface(face)
            if s.kind == "plane":
                outer.update(dict.fromkeys(solid.face_tags(face), s))
    own = {f for group in step.own for c in group.faces if c.by == "pick" for f in c.face.origins}
    found = []
    for tag, s, _ in _tagged(solids, f"{step.id}/"):
        _, role, *rest = tag.split("/", 2)
        behind = outer.get(rest[0]) if rest else None
        if role not in ("inner", "outer") or s.kind != "plane" or behind is None or rest[0] in own:
            continue
        if abs(abs(dot(s.direction, behind.direction)) - 1) < 1e-9:
            found.append(abs(dot(s.at, s.direction) - dot(behind.at, s.direction)))
    value, wrong = _one(found, "wall")
    return value, None, wrong


def _lean(step: DraftStep, field: str, pointing: Pointing) -> Measured:
    index = int(field[5:] or 1) - 1
    if not 0 <= index < len(step.groups):
        raise Unmeasurable("its angle is no longer in the step")
    try:
        plane = pointing.frame(step.groups[index].neutral or step.neutral)
        picked = pointing.faces(step.groups[index].faces)
    except StepFailure:
        raise Unmeasurable("its faces are not on the finished part") from None
    leans = []
    for _, face in picked:
        s = surface(face)
        if s.kind == "plane":
            leans.append(abs(math.degrees(math.asin(max(-1.0, min(1.0, dot(s.direction, scaled(plane.normal, 1.0))))))))
    value, wrong = _one(leans, "drafted faces")
    return value, None, wrong

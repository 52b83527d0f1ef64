"""Sizes of steps that treat or drill, measured on the faces they left on the finished solid."""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..rebuild.pointing import Pointing
from ..rebuild.working import StepFailure
from ..sheet.notation import Requirement
from ..solid.blend import blend_radius
from ..solid.frame import dot, scaled
from ..solid.measure import Surface, surface
from ..solid.shapes import Solid, faces
from ..steps.hole_step import HoleStep
from ..steps.refine_steps import DraftStep, FilletStep, ShellStep

ALIKE = 1e-6  # mm or degrees within which sizes are the same
Measured = tuple[float, int | None, list[str]]


class Unmeasurable(Exception):
    """Nothing on the solid shows this size; the sentence says why."""


def measure(step: object, field: str, r: Requirement, solids: list[Solid], pointing: Pointing) -> Measured:
    """A field's size on the solid: (value in mm or degrees, how many places show it, what else is wrong)."""
    if isinstance(step, FilletStep) and field.startswith("radius"):
        return _radius(step, solids)
    if isinstance(step, HoleStep):
        return _hole(step, field, r, solids)
    if isinstance(step, ShellStep) and field == "thickness":
        return _wall(step, solids)
    if isinstance(step, DraftStep) and field.startswith("angle"):
        return _lean(step, field, pointing)
    raise Unmeasurable("this kind of size is not measured yet")


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


def _radius(step: FilletStep, solids: list[Solid]) -> Measured:
    found = [r for _, _, r in _tagged(solids, f"{step.id}/round/") if r is not None]
    value, wrong = _one(found, "round")
    return value, None, wrong if len(step.groups) == 1 else []


def _hole(step: HoleStep, field: str, r: Requirement, solids: list[Solid]) -> Measured:
    role = {"diameter": "drill", "bore_diameter": "bore"}.get(field)
    if role is None:
        raise Unmeasurable("this kind of size is not measured yet")
    walls = [(tag, s) for tag, s, _ in _tagged(solids, f"{step.id}/{role}/") if s.kind == "cylinder"]
    value, wrong = _one([2 * s.radius for _, s in walls], "wall")
    return value, len({tag for tag, _ in walls}), wrong


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
        plane = pointing.frame(step.neutral)
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

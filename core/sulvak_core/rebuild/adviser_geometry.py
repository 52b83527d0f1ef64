"""What a step did to the geometry, as the order adviser looks at it."""

from __future__ import annotations

import math
from collections.abc import Callable

from ..solid.boolean import combine
from ..solid.frame import XYZ, cross, dot
from ..solid.measure import face_area, neighbours, surface
from ..solid.shapes import Solid, faces
from .state import Body, State

SAME = 1e-9  # share of the part's volume that is no difference
TILTED = (0.01, 30.0)  # degrees off a main direction that look meant for it


def kept_bodies(before: State, after: State) -> list[tuple[Body, Body]]:
    """Each body that is there before and after, as it was and as it is."""
    now = {b.id: b for b in after.bodies}
    return [(b, now[b.id]) for b in before.bodies if b.id in now]


def changed_faces(before: State, after: State, step: str) -> set[frozenset[str]]:
    """Tags of flat faces that stand at another angle than before."""
    was = {}
    for body in before.bodies:
        for f in faces(body.shape):
            s = surface(f)
            if s.kind == "plane":
                was[body.solid.face_tags(f)] = s.direction
    changed = set()
    for body in after.bodies:
        for f in faces(body.shape):
            s, tags = surface(f), body.solid.face_tags(f)
            if tags in was and (s.kind != "plane" or dot(s.direction, was[tags]) < 1 - 1e-12):
                changed.add(tags)
    return changed


def blends_beside(solid: Solid, meant: Callable[[frozenset[str]], bool]) -> set[str]:
    """Ids of the steps whose rounds and chamfers touch faces with tags that are meant."""
    every = faces(solid.shape)
    found = set()
    for _, sides in neighbours(solid):
        for i in sides:
            for j in sides:
                if meant(solid.face_tags(every[i])):
                    found |= {t.split("/")[0] for t in solid.face_tags(every[j]) if "/round/" in t or "/chamfer/" in t}
    return found


def main_directions(state: State) -> list[XYZ]:
    """The directions the part has, square to each other: the one that most of its flat surface lies square to or
    alongside; of those square to it the one for which that holds again; and the third."""
    sums: list[tuple[XYZ, float]] = []
    for body in state.bodies:
        for f in faces(body.shape):
            s = surface(f)
            if s.kind != "plane":
                continue
            area = face_area(f)
            for k, (way, total) in enumerate(sums):
                if abs(dot(way, s.direction)) > 1 - 1e-9:
                    sums[k] = (way, total + area)
                    break
            else:
                sums.append((s.direction, area))
    if not sums:
        return []

    def square(a: XYZ, b: XYZ) -> bool:
        return abs(dot(a, b)) < 1e-9 or abs(dot(a, b)) > 1 - 1e-9

    found: list[XYZ] = []
    for _ in range(2):
        left = [s for s in sums if all(abs(dot(s[0], f)) < 1e-9 for f in found)]
        if left:
            found.append(max(left, key=lambda s: (sum(a for w, a in left if square(w, s[0])), s[1]))[0])
    return [*found, cross(*found)] if len(found) == 2 else found


def degrees_off(direction: XYZ, main: list[XYZ]) -> float | None:
    """How many degrees a direction is off the nearest main one, where that looks like a slip."""
    turns = [math.degrees(math.acos(min(1.0, abs(dot(direction, m))))) for m in main]
    least = min(turns)
    return least if TILTED[0] < least < TILTED[1] else None


def pieces(state: State, step: str) -> dict[str, int]:
    """How many faces carry each tag of a step."""
    found: dict[str, int] = {}
    for body in state.bodies:
        for _, tags in body.solid.tags.items():
            for t in tags:
                if t.startswith(f"{step}/round/"):
                    found[t] = found.get(t, 0) + 1
    return found


def taken(before: State, after: State) -> list[Solid]:
    have = [b.solid for b in before.bodies]
    lack = [b.solid for b in after.bodies]
    return combine("subtract", have, lack, "advice") if have and lack else have


def alike(one: State, two: State) -> bool:
    a, b = one.volume(), two.volume()
    areas = [sum(face_area(bd.shape) for bd in s.bodies) for s in (one, two)]
    return abs(a - b) <= SAME * max(a, 1.0) and abs(areas[0] - areas[1]) <= 1e-9 * max(areas[0], 1.0)

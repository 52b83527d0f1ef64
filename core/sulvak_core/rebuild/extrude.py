"""What the extrude step does to the bodies."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from ..part.errors import Offers
from ..sketch.model import Sketch
from ..sketch.profiles import Profile
from ..sketch.regions import Region, RegionPick
from ..sketch.walls import chains, wall_region
from ..solid.boolean import combine
from ..solid.extent_to_face import beyond, first_met, only_first
from ..solid.frame import XYZ, Frame, dot, scaled
from ..solid.measure import Surface, reach
from ..solid.place import Placing, placed
from ..solid.prism import prism, prisms
from ..solid.shapes import Solid
from ..solid.taper import tapered
from ..steps.kinds.extrude import ExtrudeStep, Symmetric, ThroughAll, ThroughBoth, ToFace, ToNext, TwoDepths
from . import grips
from .state import Body, State
from .tooling import Done, StepFailure, targets, used


@dataclass(frozen=True)
class Inputs:
    """What an extrusion is worked out from; lengths in mm, the taper in degrees. ``surface``: the face to reach;
    ``way``: what is extruded runs by for each mm along the sketch's normal, where it leans."""

    frame: Frame
    profile: Callable[[], Profile]
    sketch: Sketch
    on_face: bool
    depth: float | None = None
    back: float = 0.0
    offset: float = 0.0
    taper: float = 0.0
    wall: float | None = None
    surface: Surface | None = None
    way: XYZ | None = None


def leaning(direction: XYZ, frame: Frame) -> XYZ | None:
    """The way of an extrusion along a unit direction; None where that is square to the sketch. Raises StepFailure for
    one that lies in the sketch's plane, or nearly."""
    rise = dot(direction, frame.normal)
    if abs(rise) < 0.02:
        raise StepFailure(
            "This direction lies in the sketch's plane, so nothing is extruded along it. Pick another edge.",
            pick="along",
        )
    return None if abs(rise) > 1 - 1e-12 else scaled(direction, 1 / rise)


def regions_for(regions: list[RegionPick] | None, profile: Profile) -> list[Region]:
    """The regions a step works on. Raises StepFailure when there are none or one is gone."""
    chosen: list[Region | None] = list(profile.default()) if regions is None else list(profile.chosen(regions))
    if not profile.regions or (regions is None and not chosen):
        where = (
            f" It has {len(profile.open_ends)} open end{'' if len(profile.open_ends) == 1 else 's'}."
            if profile.open_ends
            else " Draw a closed outline in it."
        )
        raise StepFailure(f"The sketch holds no closed profile.{where}", open_ends=profile.open_ends)
    if not chosen or None in chosen:
        raise StepFailure("A region this step used is no longer in the sketch; pick the regions again.", pick="regions")
    return [r for r in chosen if r is not None]


def _reach_of(bodies: list[Body], frame: Frame) -> tuple[float, float]:
    """How far bodies reach along the sketch's normal from the sketch, with the sketch itself in the span."""
    least, most = 0.0, 0.0
    at = dot(frame.origin, frame.normal)
    for body in bodies:
        lo, hi = reach(body.shape, frame.normal)
        least, most = min(least, lo - at), max(most, hi - at)
    return least, most


def forward(step: ExtrudeStep, given: Inputs) -> float:
    """1 where a step goes the way of the sketch's normal, −1 against it: a cut from a face goes into the part."""
    return -1.0 if (step.operation == "cut" and given.on_face) != step.reverse else 1.0


def span(step: ExtrudeStep, given: Inputs, bodies: list[Body]) -> tuple[float, float]:
    """From where to where along the sketch's normal, in mm."""
    ahead = forward(step, given)
    if isinstance(step.extent, ThroughAll | ThroughBoth | ToNext | ToFace):
        if not bodies and not isinstance(step.extent, ToFace):
            raise StepFailure("There is nothing yet to go through; extrude a base first.")
        least, most = _reach_of(bodies, given.frame)
        if isinstance(step.extent, ToFace):
            assert given.surface is not None
            far = abs(dot(given.surface.at, given.frame.normal) - dot(given.frame.origin, given.frame.normal))
            least, most = min(least, -far), max(most, far)
        margin = 0.05 * (most - least) + 1.0
        if isinstance(step.extent, ThroughBoth):
            return least - margin, most + margin
        return (0.0, most + margin) if ahead > 0 else (least - margin, 0.0)
    depth = given.depth
    assert depth is not None
    if isinstance(step.extent, Symmetric):
        return -depth / 2, depth / 2
    back = given.back if isinstance(step.extent, TwoDepths) else 0.0
    return (-back, depth) if ahead > 0 else (-depth, back)


def tools(step: ExtrudeStep, given: Inputs, bodies: list[Body]) -> list[Solid]:
    """The solids over the regions, each apart, as far as the step's extent says."""
    extent = step.extent
    if isinstance(extent, ToFace):
        return _to_face(step, given, bodies)
    start, end = span(step, given, bodies)
    made = _straight(step, given, start, end)
    if isinstance(extent, ToNext):
        solids = [b.solid for b in bodies]
        found = [first_met(m, solids, given.frame, step.operation == "cut", step.id) for m in made]
        if any(f is None for f in found):
            raise StepFailure(
                "The profile does not meet the part all over in this direction; give a depth, or go to a face.",
                field="extent",
            )
        return [f for f in found if f is not None]
    return made


def _straight(step: ExtrudeStep, given: Inputs, start: float, end: float) -> list[Solid]:
    """Prisms from ``start`` to ``end``; with a taper narrowing away from the sketch on either side."""
    if given.wall is not None:
        open_chains = chains(given.sketch)
        if not open_chains:
            raise StepFailure("A wall needs an open chain of lines and arcs in its sketch; there is none.")
        t = given.wall
        left, right = {"middle": (t / 2, t / 2), "left": (t, 0.0), "right": (0.0, t)}[step.wall_side]
        regions = [wall_region(c, left, right) for c in open_chains]
    else:
        regions = regions_for(step.regions, given.profile())
    if abs(given.taper) < 1e-12:
        alone = len(regions) == 1 and step.operation in ("add", "new")  # of a cut, what it leaves is looked at
        made = prisms(given.frame, regions, start, end, step.id, check=alone, way=given.way)
        return ordered(step.id, made, start, end)
    if given.way is not None:
        raise StepFailure("A taper and a direction along an edge cannot be had together.", field="taper")
    halves: list[Solid] = []
    for r in regions:
        sides = [
            tapered(prism(given.frame, r, lo, hi, step.id), given.frame, hi > 0, given.taper, step.id)
            for lo, hi in ((start, 0.0), (0.0, end))
            if hi - lo > 1e-9
        ]
        halves += combine("union", sides[:1], sides[1:], "extrusion") if len(sides) > 1 else sides
    return ordered(step.id, halves, start, end)


def ordered(ident: str, made: list[Solid], start: float, end: float) -> list[Solid]:
    """Solids made from ``start`` to ``end`` along a sketch's normal, the face on the sketch called the start."""
    if start < 0 and end <= 0:
        # walked against the normal: the cap on the sketch is the start
        swapped = {f"{ident}/start": f"{ident}/end", f"{ident}/end": f"{ident}/start"}
        for solid in made:
            for face, tags in list(solid.tags.items()):
                solid.tags.put(face, frozenset(swapped.get(t, t) for t in tags))
    return made


def _to_face(step: ExtrudeStep, given: Inputs, bodies: list[Body]) -> list[Solid]:
    """Prisms that end at a face carried on beyond its edges."""
    s = given.surface
    assert s is not None
    n = given.frame.normal
    if s.kind == "plane" and abs(abs(dot(s.direction, n)) - 1) < 1e-12:
        far = dot(s.at, n) - dot(given.frame.origin, n)
        far -= given.offset if far > 0 else -given.offset
        if abs(far) < 1e-9:
            raise StepFailure("The face lies in the sketch's plane, so there is nothing to extrude.", field="face")
        return _straight(step, given, min(0.0, far), max(0.0, far))
    if s.kind not in ("plane", "cylinder"):
        raise StepFailure("Only flat and cylindrical faces can be gone to. Pick another.", pick="face")
    if s.kind == "plane" and abs(dot(s.direction, n)) < 1e-9:
        raise StepFailure("This face runs alongside the extrusion and is never met. Pick another.", pick="face")
    size = 2.0 * max(1.0, *(abs(v) for v in _reach_of(bodies, given.frame)))
    size += sum(abs(v) for v in s.at) + sum(abs(v) for v in given.frame.origin) + s.radius
    size += max(abs(c) for r in given.profile().regions for p in r.outer for c in (*p.start, *p.end, p.radius))
    found: list[Solid] = []
    for way in (1.0, -1.0) if not step.reverse else (-1.0, 1.0):
        long = _straight(_untapered(step), given, min(0.0, way * 4 * size), max(0.0, way * 4 * size))
        past = beyond(s, given.frame, way * given.offset, way, 8 * size)
        pieces = [only_first(m, past, given.frame, step.id) for m in long]
        if all(p is not None for p in pieces):
            found = [p for p in pieces if p is not None]
            break
    if not found:
        raise StepFailure("The profile does not meet this face all over, even carried on. Pick another.", pick="face")
    return found


def _untapered(step: ExtrudeStep) -> ExtrudeStep:
    """The step without what cannot be had together with a face to reach."""
    if step.taper not in ("", "0"):
        raise StepFailure("A taper and a tilted or round face to reach cannot be had together.", field="taper")
    return step


def extrude(step: ExtrudeStep, given: Inputs, state: State) -> Done:
    """Carry out an extrude. Raises StepFailure."""
    if step.operation in ("add", "new") and isinstance(step.extent, ThroughAll | ThroughBoth):
        raise StepFailure("Through all is for cutting; give an added body a depth.", field="extent")
    on = targets(state, step.bodies)
    if step.operation in ("cut", "intersect") and not on:
        raise StepFailure("There is nothing yet to cut; extrude a base first.")
    made = tools(step, given, on)

    def missed() -> Offers:
        if isinstance(step.extent, Symmetric | ThroughBoth | ToFace):
            return {}
        turned = step.model_copy(update={"reverse": not step.reverse})
        try:
            common = combine("intersect", [b.solid for b in on], tools(turned, given, on), "cut")
        except StepFailure:
            return {}
        if sum(s.volume() for s in common) <= 0:
            return {}
        return {"offer": {"label": "Turn round", "changes": {"reverse": not step.reverse}}}

    done = used(step.id, step.operation, state, on, made, missed)
    if given.depth is not None:
        if given.wall is not None:
            start = chains(given.sketch)[0][0].start
        else:
            start = regions_for(step.regions, given.profile())[0].inside()
        way = scaled(given.way or given.frame.normal, forward(step, given))
        done.extra["grips"] = grips.depths(step.extent, given.frame.point(*start), way, given.depth, given.back)
    return done


def again(step: ExtrudeStep, given: Inputs, before: State, placing: Placing | None, state: State | None) -> list[Solid]:
    """The step's tools for a pattern: moved by ``placing``; in a ``state`` their extent is worked out there."""
    if state is None or placing is None or placing.mirrors:
        made = tools(step, given, targets(before, step.bodies))
        return [placed(m, placing) for m in made] if placing else made
    way = given.way and placing.direction(given.way)
    there = replace(given, frame=placing.frame(given.frame), way=way)
    here = {b.id for b in state.bodies}
    return tools(step, there, [b for b in state.bodies if step.bodies is None or b.id in set(step.bodies) & here])

"""What the hole step does: drills, counterbores, countersinks and taps at the points of a sketch."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..part.errors import Offers
from ..part.threads import Thread, thread
from ..part.units import number, told
from ..sketch.model import AnyEntity, Circle, Point, Sketch, points_of
from ..solid.boolean import combine
from ..solid.drill import Corner, drilled
from ..solid.extent_to_face import first_met
from ..solid.frame import XYZ, Frame, dot, scaled
from ..solid.place import Placing, placed
from ..solid.shapes import Solid
from ..steps.kinds.hole import HoleStep
from . import grips
from .extrude import _reach_of
from .state import Body, State
from .tooling import Done, StepFailure, counted, targets, used


@dataclass(frozen=True)
class Sizes:
    """A hole step's values, in mm and degrees."""

    diameter: float
    depth: float
    tip_angle: float
    bore_diameter: float
    bore_depth: float
    sink_diameter: float
    sink_angle: float
    thread_depth: float | None


def size_of(step: HoleStep) -> Thread | None:
    """The thread a hole is for. Raises StepFailure for a size that is in no table."""
    if not step.size:
        if step.form == "tapped":
            raise StepFailure("A tapped hole needs a thread: choose one, such as M5 or 1/4-20.", field="size")
        return None
    found = thread(step.size)
    if found is None:
        raise StepFailure(f"The size “{step.size}” is in no thread table. Try M5, M10×1 or 1/4-20.", field="size")
    return found


def bore(step: HoleStep, sizes: Sizes) -> float:
    """The diameter that is drilled, in mm."""
    found = size_of(step)
    if found is None:
        return sizes.diameter
    return found.drill if step.form == "tapped" else found.clearance(step.fit)


def _drawn(entities: list[AnyEntity]) -> list[tuple[str, tuple[float, float]]]:
    real = [e for e in entities if not e.construction]
    found = [(e.id, e.at) for e in real if isinstance(e, Point)]
    return found + [(e.id, e.c) for e in real if isinstance(e, Circle)]


def places(step: HoleStep, sketch: Sketch) -> list[tuple[str, tuple[float, float]]]:
    """Where to drill: (name, place in the sketch). The part's edges count where nothing else is drawn."""
    if step.points is None:
        found = _drawn([e for e in sketch.entities if e.id not in sketch.given]) or _drawn(sketch.entities)
    else:
        every = {ref: at for e in sketch.entities for ref, at in points_of(e).items()} | {"origin": (0.0, 0.0)}
        missing = [p for p in step.points if p not in every]
        if missing:
            raise StepFailure("A point this step drilled at is no longer in the sketch; pick the points again.")
        found = [(p.replace(".", ""), every[p]) for p in step.points]
    if not found:
        raise StepFailure("The sketch holds no points to drill at. Draw points, or circles, where the holes go.")
    unlike: list[tuple[str, tuple[float, float]]] = []
    for name, at in found:
        if all(math.dist(at, other) > 1e-7 for _, other in unlike):
            unlike.append((name, at))
    return unlike


def _check(step: HoleStep, sizes: Sizes, d: float) -> None:
    if step.form == "counterbore" and sizes.bore_diameter <= d:
        raise StepFailure("A counterbore is wider than its hole.", field="bore_diameter")
    if step.form == "countersink":
        if sizes.sink_diameter <= d:
            raise StepFailure("A countersink is wider than its hole.", field="sink_diameter")
        if not 0 < sizes.sink_angle < 180:
            raise StepFailure("A countersink's angle lies between 0° and 180°.", field="sink_angle")
    if step.end == "blind" and step.tip == "point" and not 0 < sizes.tip_angle < 180:
        raise StepFailure("A drill point's angle lies between 0° and 180°; for a flat bottom choose that.")
    if step.end == "blind" and step.form == "counterbore" and sizes.bore_depth >= sizes.depth:
        raise StepFailure("The counterbore is as deep as the hole. Make the hole deeper.", field="bore_depth")
    if sizes.thread_depth is not None and step.end == "blind" and sizes.thread_depth > sizes.depth + 1e-9:
        raise StepFailure("The thread cannot be deeper than its hole.", field="thread_depth")


def _outline(step: HoleStep, sizes: Sizes, d: float, deep: float, pointed: bool) -> list[Corner]:
    r = d / 2
    corners: list[Corner] = []
    if step.form == "counterbore":
        big = sizes.bore_diameter / 2
        corners += [
            Corner(big, 0.0, "mouth"),
            Corner(big, sizes.bore_depth, "bore"),
            Corner(r, sizes.bore_depth, "shoulder"),
        ]
    elif step.form == "countersink":
        wide = sizes.sink_diameter / 2
        sunk = (wide - r) / math.tan(math.radians(sizes.sink_angle / 2))
        corners += [Corner(wide, 0.0, "mouth"), Corner(r, sunk, "sink")]
    else:
        corners.append(Corner(r, 0.0, "mouth"))
    corners.append(Corner(r, max(deep, corners[-1].deep + 1e-6), "drill"))
    if pointed:
        tip = r / math.tan(math.radians(sizes.tip_angle / 2))
        corners.append(Corner(0.0, corners[-1].deep + tip, "tip"))
    return corners


def tools(step: HoleStep, sizes: Sizes, frame: Frame, sketch: Sketch, bodies: list[Body]) -> list[Solid]:
    """One solid for each hole."""
    d = bore(step, sizes)
    _check(step, sizes, d)
    way = 1.0 if step.reverse else -1.0
    direction: XYZ = scaled(frame.normal, way)
    least, most = _reach_of(bodies, frame)
    far = (most if way > 0 else -least) + 1.0 + 0.05 * (most - least)
    deep = sizes.depth if step.end == "blind" else far
    pointed = step.end == "blind" and step.tip == "point"
    made = []
    for name, at in places(step, sketch):
        origin = frame.point(*at)
        whole = drilled(origin, direction, _outline(step, sizes, d, deep, pointed), step.id, name)
        if step.end == "next":
            straight = step.model_copy(update={"form": "plain"})
            long = drilled(origin, direction, _outline(straight, sizes, d, far, False), step.id, name)
            near = Frame(origin, frame.x, frame.y)
            met = first_met(long, [b.solid for b in bodies], near, True, step.id)
            if met is None:
                raise StepFailure("A hole starts outside the part, so there is no next face. Use a depth.", field="end")
            whole = met
            if step.form in ("counterbore", "countersink"):
                head = sizes.bore_depth if step.form == "counterbore" else 1e-6
                top = drilled(origin, direction, _outline(step, sizes, d, head, False), step.id, name)
                whole = combine("union", [met], [top], "hole")[0]
        made.append(whole)
    return made


def hole(step: HoleStep, sizes: Sizes, frame: Frame, sketch: Sketch, state: State) -> Done:
    """Carry out a hole step. Raises StepFailure."""
    on = targets(state, step.bodies)
    if not on:
        raise StepFailure("There is nothing yet to drill; extrude a base first.")
    made = tools(step, sizes, frame, sketch, on)

    def missed() -> Offers:
        turned = step.model_copy(update={"reverse": not step.reverse})
        common = combine("intersect", [b.solid for b in on], tools(turned, sizes, frame, sketch, on), "cut")
        if sum(s.volume() for s in common) <= 0:
            return {}
        return {"offer": {"label": "Turn round", "changes": {"reverse": not step.reverse}}}

    done = used(step.id, "cut", state, on, made, missed)
    thread_made = size_of(step) if step.form == "tapped" else None
    text = callout(step, sizes, len(made))
    done.said = f"{counted(len(made), 'hole')}: {text}. {done.said}"
    done.extra = {"callout": text}
    if step.end == "blind":
        way = scaled(frame.normal, 1.0 if step.reverse else -1.0)
        place = frame.point(*places(step, sketch)[0][1])
        done.extra["grips"] = [grips.grip("depth", "Depth", place, way, sizes.depth)]
    if thread_made is not None:
        depth = sizes.thread_depth or (sizes.depth if step.end == "blind" else None)
        done.extra["thread"] = {
            "name": thread_made.name,
            "diameter": thread_made.diameter,
            "pitch": thread_made.pitch,
            "depth": depth,
            "count": len(made),
        }
    return done


def callout(step: HoleStep, sizes: Sizes, count: int) -> str:
    """A hole's callout as in ISO 129 and ASME Y14.5 (``4X Ø5.5 THRU ⌴ Ø10 ↧ 5``), its measures ``told``."""
    found = size_of(step)
    many = f"{count}X " if count > 1 else ""
    if step.form == "tapped":
        assert found is not None
        deep = sizes.thread_depth or (sizes.depth if step.end == "blind" else None)
        return f"{many}{found.name}{' THRU' if deep is None else f' ↧ {told(deep, sign=False)}'}"
    text = f"{many}Ø{told(bore(step, sizes), sign=False)}"
    text += f" ↧ {told(sizes.depth, sign=False)}" if step.end == "blind" else " THRU" if step.end == "through" else ""
    if step.form == "counterbore":
        text += f" ⌴ Ø{told(sizes.bore_diameter, sign=False)} ↧ {told(sizes.bore_depth, sign=False)}"
    if step.form == "countersink":
        text += f" ⌵ Ø{told(sizes.sink_diameter, sign=False)} × {number(sizes.sink_angle)}°"
    return text


def again(made: list[Solid], placing: Placing | None) -> list[Solid]:
    """The step's tools for a pattern."""
    return [placed(m, placing) for m in made] if placing else made


__all__ = ["Sizes", "callout", "dot", "hole", "tools"]

"""What the pattern step does: steps and bodies repeated in rows, round an axis, mirrored."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..part.units import told
from ..solid.boolean import combine
from ..solid.draft import without
from ..solid.frame import XYZ, Frame, plus, scaled
from ..solid.measure import box
from ..solid.place import Placing, mirrored, moved_by, placed, turned
from ..solid.shapes import KernelError, Shape, Solid, Tags, compound
from ..steps.kinds.pattern import PatternStep
from .resolve import Axis
from .state import Body, State
from .tooling import NOTHING, Done, StepFailure, Tooling, add, counted, cut, fresh_bodies, meet

MOST = 5000


@dataclass(frozen=True)
class Layout:
    """A pattern's values: axes found, counts as whole numbers, distances in mm, the angle in degrees."""

    along: Axis | None = None
    count: int = 1
    spacing: float = 0.0
    second: Axis | None = None
    second_count: int = 1
    second_spacing: float = 0.0
    angle: float = 360.0
    plane: Frame | None = None


def copies(step: PatternStep, given: Layout) -> list[tuple[str, Placing]]:
    """(name, placing) of every copy that is wanted; the original is not among them."""
    if step.form == "mirror":
        if given.plane is None:
            raise StepFailure("A mirroring needs a plane: choose a datum plane or a flat face.", pick="plane")
        return [("i1", mirrored(given.plane.origin, given.plane.normal))]
    if given.along is None:
        what = "a direction: an edge, an axis, or a face it stands square to" if step.form == "linear" else "an axis"
        raise StepFailure(f"A pattern needs {what}.", pick="axis")
    total = given.count * (given.second_count if step.form == "linear" and given.second else 1)
    if total > MOST:
        raise StepFailure(f"That is {total} copies; {MOST} are the most one pattern takes.", field="count")
    if total < 2:
        raise StepFailure("A pattern has two places or more, the original among them.", field="count")
    out = {tuple(p) for p in step.left_out}
    found = []
    if step.form == "circular":
        each = _each(given.angle, given.count, step.measure == "total")
        for i in range(1, given.count):
            if (i, 0) not in out:
                degrees = -i * each if step.reverse else i * each
                found.append((f"i{i}", turned(given.along.at, given.along.direction, degrees)))
        return found
    first, second = _strides(step, given)
    rows = given.second_count if given.second is not None else 1
    for j in range(rows):
        for i in range(given.count):
            if (i, j) == (0, 0) or (i, j) in out:
                continue
            by = tuple(i * a + j * b for a, b in zip(first, second, strict=True))
            found.append((f"i{i}x{j}" if given.second else f"i{i}", moved_by(by)))  # type: ignore[arg-type]
    return found


def _strides(step: PatternStep, given: Layout) -> tuple[XYZ, XYZ]:
    """From one place to the next along the first and the second direction, mm."""
    assert given.along is not None
    first = scaled(given.along.direction, _gap(given.spacing, given.count, step) * (-1 if step.reverse else 1))
    if given.second is None:
        return first, (0.0, 0.0, 0.0)
    gap = _gap(given.second_spacing, given.second_count, step)
    return first, scaled(given.second.direction, gap * (-1 if step.second_reverse else 1))


def _gap(distance: float, count: int, step: PatternStep) -> float:
    return distance / (count - 1) if step.measure == "total" and count > 1 else distance


def _each(angle: float, count: int, total: bool) -> float:
    """The angle from one to the next. Over a full turn the last stands one step before the first."""
    if not total:
        return angle if abs(angle) < 360 - 1e-9 or count < 2 else angle / count
    return angle / count if abs(abs(angle) - 360) < 1e-9 else angle / max(count - 1, 1)


def _renamed(step: str, name: str) -> object:
    def retag(tags: Tags) -> Tags:
        return frozenset(f"{step}/{name}/{t}" for t in tags)

    return retag


def lifted(solid: Solid, chosen: list[Shape]) -> list[tuple[str, list[Solid]]]:
    """What faces of a solid stand for, as tools: material taken out (``cut``) and put on (``add``), found by healing
    the solid over without them. Raises StepFailure when it does not heal."""
    refused = StepFailure(
        "The part does not close over these faces. Choose all faces of one hole, pocket or boss, and none of what it "
        "stands in.",
        pick="faces",
    )
    try:
        healed = without(solid, chosen)
        out = combine("subtract", [healed], [solid], "pattern")
        on = combine("subtract", [solid], [healed], "pattern")
    except KernelError:
        raise refused from None
    least = NOTHING * solid.volume()
    found = [(op, made) for op, made in (("cut", out), ("add", on)) if sum(m.volume() for m in made) > least]
    if not found:
        raise refused
    return found


def pattern(
    step: PatternStep, given: Layout, tooling: dict[str, Tooling], faces: dict[int, list[Shape]], state: State
) -> Done:
    """Carry out a pattern; ``faces`` are those to repeat, by the index of their body. Raises StepFailure."""
    places = copies(step, given)
    if not step.of and not step.bodies and not faces:
        raise StepFailure("Choose what to repeat: steps of the route, faces, or bodies.", pick="steps")
    if not places:
        raise StepFailure("Every copy of this pattern is left out.", field="left_out")
    after = state
    for tools in _at_once(step, [tooling[ident] for ident in step.of]):
        made: list[Solid] = []
        for tool in tools:
            originals = tool.make(None, None) if not step.afresh else []
            for name, placing in places:
                retag = _renamed(step.id, name)
                if step.afresh:
                    again = tool.make(placing, after)
                    made += [placed(s, Placing(), retag) for s in again]  # type: ignore[arg-type]
                else:
                    made += [placed(s, placing, retag) for s in originals]  # type: ignore[arg-type]
        after = _apply(step.id, tools[0].operation, tools[0].bodies, after, made)
    for index, chosen in faces.items():
        body = state.bodies[index]
        for operation, originals in lifted(body.solid, chosen):
            made = [placed(s, p, _renamed(step.id, name)) for name, p in places for s in originals]  # type: ignore[arg-type]
            after = _apply(step.id, operation, [body.id], after, made)
    if step.bodies:
        after = _bodies(step, places, after)
    change = after.volume() - state.volume()
    if (
        (step.of or faces)
        and abs(change) <= NOTHING * max(state.volume(), 1.0)
        and len(after.bodies) == len(state.bodies)
    ):
        raise StepFailure("The copies change nothing: they lie outside the part, or on what is there already.")
    verb = "Adds" if change > 0 else "Removes"
    said = f"{counted(len(places), 'copy', 'copies')}. {verb} {told(abs(change), 3)}."
    return Done(after, said, {"grid": _grid(step, given, tooling, faces, state)} if step.form != "mirror" else {})


def _at_once(step: PatternStep, tools: list[Tooling]) -> list[list[Tooling]]:
    """Tools in the order of the route, cuts that follow one another together: what all of them take away goes at once,
    which saves the kernel going through the whole body for each."""
    groups: list[list[Tooling]] = []
    for tool in tools:
        last = groups[-1][-1] if groups else None
        alike = last is not None and (last.operation, last.bodies) == ("cut", tool.bodies) and tool.operation == "cut"
        if alike and not step.afresh:  # how far a copy goes afresh hangs on those before it
            groups[-1].append(tool)
        else:
            groups.append([tool])
    return groups


def _grid(
    step: PatternStep, given: Layout, tooling: dict[str, Tooling], faces: dict[int, list[Shape]], state: State
) -> dict[str, Any]:
    """Where the places of a pattern are: ``at`` the middle of the original (mm), ``counts`` along either direction,
    and the steps ``first`` and ``second`` from one to the next (mm), or round an ``axis`` by ``degrees``."""
    shapes = [s.shape for ident in step.of for s in tooling[ident].make(None, None)]
    shapes += [f for chosen in faces.values() for f in chosen]
    shapes += [b.shape for b in state.bodies if b.id in step.bodies]
    low, high = box(compound(shapes))
    at = scaled(plus(low, high), 0.5)
    sign = -1.0 if step.reverse else 1.0
    assert given.along is not None
    if step.form == "circular":
        degrees = sign * _each(given.angle, given.count, step.measure == "total")
        axis = {"at": given.along.at, "direction": given.along.direction}
        return {"at": at, "counts": [given.count, 1], "axis": axis, "degrees": degrees}
    first, second = _strides(step, given)
    return {
        "at": at,
        "counts": [given.count, given.second_count if given.second else 1],
        "first": first,
        "second": second,
    }


def _apply(ident: str, operation: str, bodies: list[str] | None, state: State, made: list[Solid]) -> State:
    here = {b.id for b in state.bodies}
    on = [b for b in state.bodies if bodies is None or b.id in set(bodies) & here]
    if operation == "cut":
        return cut(state, on, made)
    if operation == "intersect":
        return meet(state, on, made)
    if operation == "new":
        return fresh_bodies(ident, state, made)
    return add(ident, state, on, made)[0]


def _bodies(step: PatternStep, places: list[tuple[str, Placing]], state: State) -> State:
    chosen = [b for b in state.bodies if b.id in step.bodies]
    if len(chosen) != len(set(step.bodies)):
        raise StepFailure("A body this pattern repeats is gone; choose its bodies again.", pick="bodies")
    after = state
    for body in chosen:
        made = [placed(body.solid, p, _renamed(step.id, name)) for name, p in places]  # type: ignore[arg-type]
        if step.join:
            after = add(step.id, after, [b for b in after.bodies if b.id == body.id], made)[0]
        else:
            before = {b.id for b in after.bodies}
            after = fresh_bodies(step.id, after, made)
            after = State([b if b.id in before else _like(b, body) for b in after.bodies])
    return after


def _like(fresh: Body, body: Body) -> Body:
    return Body(fresh.id, fresh.solid, body.title, body.colour, body.material)

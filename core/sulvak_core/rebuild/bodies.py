"""What steps on whole bodies do: uniting, subtracting, intersecting, splitting, moving, taking out."""

from __future__ import annotations

import math
from collections.abc import Callable

from ..part.units import told
from ..sketch.curves import Piece
from ..sketch.model import XY, Sketch
from ..sketch.profiles import profile
from ..sketch.regions import Region
from ..sketch.walls import chains, heading
from ..solid.boolean import combine
from ..solid.extent_to_face import bounded, half_space
from ..solid.frame import Frame, dot, scaled
from ..solid.incoming import read_step
from ..solid.measure import box, reach
from ..solid.place import Placing, placed
from ..solid.prism import prism
from ..solid.shapes import Shape, Solid, Tags
from ..steps.kinds.combine import CombineStep
from ..steps.kinds.import_file import ImportStep
from ..steps.kinds.move import MoveStep
from ..steps.kinds.remove import RemoveStep
from ..steps.kinds.split import SplitStep
from .state import Body, State
from .tooling import Done, StepFailure, body_id, counted, fresh_bodies, replaced, targets


def combine_bodies(step: CombineStep, state: State) -> Done:
    """Unite or intersect one body with others, or subtract them from it. Raises StepFailure."""
    body = targets(state, [step.body])[0]
    others = targets(state, list(dict.fromkeys(step.tools)))
    if any(o.id == body.id for o in others):
        raise StepFailure("A body cannot be combined with itself; choose another.", pick="bodies")
    made = combine(step.operation, [body.solid], [o.solid for o in others], "combination")
    if not made:
        raise StepFailure("Nothing would be left of this body.", pick="bodies")
    if step.operation == "union" and len(made) > 1:
        raise StepFailure("These bodies do not touch, so they cannot become one. Bring them together first.")
    alike = abs(sum(s.volume() for s in made) - body.solid.volume()) < 1e-9 * body.solid.volume()
    if step.operation == "subtract" and alike:
        raise StepFailure("These bodies do not overlap, so there is nothing to take away.")
    after = replaced(state, body, made)
    if not step.keep:
        gone = {o.id for o in others}
        after = State([b for b in after.bodies if b.id not in gone])
    pieces = f" It falls into {counted(len(made), 'body', 'bodies')}." if len(made) > 1 else ""
    both, tools = counted(1 + len(others), "body", "bodies"), counted(len(others), "body", "bodies")
    said = {
        "union": f"{both} united.",
        "subtract": f"{tools} subtracted.",
        "intersect": f"{both} intersected: what they share is left.",
    }[step.operation]
    return Done(after, said + pieces)


def split_bodies(step: SplitStep, plane: Frame, state: State) -> Done:
    """Part bodies at a plane. The cut faces are tagged ``step/section/front`` and ``back``."""

    def sides(solid: Solid) -> tuple[list[Solid], list[Solid]]:
        front, back = (
            combine("intersect", [solid], [half_space(plane.origin, way, solid)], "split")
            for way in (plane.normal, scaled(plane.normal, -1.0))
        )
        return _renamed(front, step.id, "front"), _renamed(back, step.id, "back")

    return _parted(step, state, sides, "The plane passes through none of these bodies. Choose another.", "plane")


def split_at(step: SplitStep, face: Shape, state: State) -> Done:
    """Part bodies where a face carried on meets them. The cut faces are tagged ``step/section/front`` and ``back``."""

    def sides(solid: Solid) -> tuple[list[Solid], list[Solid]]:
        held = bounded(face, solid)
        if held is None:
            raise StepFailure(
                "This face has a free form, and there is no saying how it goes on beyond its edges. Take a flat, "
                "cylindrical, conical or ball-shaped one, or split along a sketch.",
                pick="face",
            )
        front, back = combine("intersect", [solid], [held], "split"), combine("subtract", [solid], [held], "split")
        return _renamed(front, step.id, "front"), _renamed(back, step.id, "back")

    return _parted(step, state, sides, "This face carried on passes through none of these bodies.", "face")


def split_along(step: SplitStep, frame: Frame, sketch: Sketch, state: State) -> Done:
    """Part bodies along a sketch's closed regions, or the one open chain it has. The cut faces are tagged
    ``step/side/<entity>``."""
    regions = profile(sketch).default() or _closed_round(sketch, frame, targets(state, step.bodies))

    def sides(solid: Solid) -> tuple[list[Solid], list[Solid]]:
        low, high = reach(solid.shape, frame.normal)
        at = dot(frame.origin, frame.normal)
        tools = [prism(frame, r, low - at - 1, high - at + 1, step.id, check=False) for r in regions]
        inside = [piece for tool in tools for piece in combine("intersect", [solid], [tool], "split")]
        return inside, combine("subtract", [solid], tools, "split")

    return _parted(step, state, sides, "The outline passes through none of these bodies. Move it.", "outline")


def _closed_round(sketch: Sketch, frame: Frame, on: list[Body]) -> list[Region]:
    """All that lies to the left of a sketch's open chain: carried on straight beyond its ends, closed far away."""
    found = chains(sketch)
    if len(found) != 1:
        raise StepFailure(
            "A split follows closed outlines, or one open chain of lines and curves; this sketch has "
            f"{counted(len(found), 'chain') if found else 'none'}.",
            pick="outline",
        )
    [chain] = found
    first, last = chain[0].start, chain[-1].end
    middle = ((first[0] + last[0]) / 2, (first[1] + last[1]) / 2)
    far = 10.0 + sum(abs(v) for b in on for corner in box(b.shape) for v in corner) + math.dist(frame.origin, (0, 0, 0))
    far = 4 * (far + max(math.dist(p, middle) for piece in chain for p in piece.walk()))
    (ux, uy), way = heading(chain[0], False), heading(chain[-1], True)
    start, end = _carried(first, (-ux, -uy), middle, far), _carried(last, way, middle, far)
    a, b = (math.atan2(p[1] - middle[1], p[0] - middle[0]) for p in (end, start))
    closing = Piece("far", end, start, middle, far, (b - a) % (2 * math.pi))
    return [Region([Piece(chain[0].entity, start, first), *chain, Piece(chain[-1].entity, last, end), closing])]


def _carried(end: XY, way: XY, middle: XY, far: float) -> XY:
    """Where a chain carried on straight from ``end`` comes to a circle of radius ``far`` about ``middle``."""
    ux, uy = way
    x, y = end[0] - middle[0], end[1] - middle[1]
    along = x * ux + y * uy
    t = -along + math.sqrt(along * along - (x * x + y * y - far * far))
    return end[0] + t * ux, end[1] + t * uy


def _parted(
    step: SplitStep,
    state: State,
    sides: Callable[[Solid], tuple[list[Solid], list[Solid]]],
    missed: str,
    pick: str,
) -> Done:
    on = targets(state, step.bodies)
    after = state
    parted = 0
    for body in on:
        front, back = sides(body.solid)
        if not front or not back:
            kept = {"both": True, "front": bool(front), "back": bool(back)}[step.keep]
            if not kept:
                after = State([b for b in after.bodies if b.id != body.id])
            continue
        parted += 1
        pieces = {"both": front + back, "front": front, "back": back}[step.keep]
        after = replaced(after, body, pieces)
    if not parted:
        raise StepFailure(missed, pick=pick)
    return Done(after, f"{counted(parted, 'body', 'bodies')} parted; {len(after.bodies)} now.")


def _renamed(made: list[Solid], step: str, name: str) -> list[Solid]:
    for solid in made:
        for face, tags in list(solid.tags.items()):
            if not tags:
                solid.tags.put(face, frozenset({f"{step}/section/{name}"}))
    return made


def move_bodies(step: MoveStep, placing: Placing, state: State) -> Done:
    """Move bodies, or make moved copies of them. Copies' faces are tagged ``step/i1/<as in the original>``."""
    on = targets(state, step.bodies)
    if not step.copied:
        here = {b.id for b in on}
        moved = [
            Body(b.id, placed(b.solid, placing), b.title, b.colour, b.material) if b.id in here else b
            for b in state.bodies
        ]
        return Done(State(moved), f"{counted(len(on), 'body', 'bodies')} moved.")

    def retag(tags: Tags) -> Tags:
        return frozenset(f"{step.id}/i1/{t}" for t in tags)

    made = [placed(b.solid, placing, retag) for b in on]
    before = {b.id for b in state.bodies}
    after = fresh_bodies(step.id, state, made)
    looks = iter(on)
    named = [b if b.id in before else _like(b, next(looks)) for b in after.bodies]
    return Done(State(named), f"{counted(len(on), 'body', 'bodies')} copied.")


def _like(fresh: Body, body: Body) -> Body:
    return Body(fresh.id, fresh.solid, body.title, body.colour, body.material)


def remove_bodies(step: RemoveStep, state: State) -> Done:
    """Take bodies out."""
    on = targets(state, step.bodies)
    gone = {b.id for b in on}
    left = [b for b in state.bodies if b.id not in gone]
    return Done(
        State(left),
        f"{counted(len(on), 'body', 'bodies')} taken out, {told(sum(b.solid.volume() for b in on), 3)}.",
    )


def take_in(step: ImportStep, data: bytes | None, state: State) -> Done:
    """The solids of a STEP file beside the bodies that are there. Raises StepFailure when the file is not to be had."""
    if data is None:
        raise StepFailure(
            f"The file {step.title or 'of this step'} is not here; bring it in again.", cause=f"no file {step.file}"
        )
    file = read_step(data, step.id)
    added = [
        Body(body_id(step.id, i), m.solid, m.name, **({"colour": m.colour} if m.colour else {}))
        for i, m in enumerate(file.bodies)
    ]
    left = f" {counted(file.loose, 'loose surface')} of the file left out." if file.loose else ""
    doubts = "".join(f" {doubt}" for doubt in file.doubts[:3])
    return Done(State([*state.bodies, *added]), f"Takes in {counted(len(added), 'body', 'bodies')}.{left}{doubts}")

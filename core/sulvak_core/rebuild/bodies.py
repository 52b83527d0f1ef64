"""What steps on whole bodies do: uniting, lessening, cutting down, splitting, moving, taking out."""

from __future__ import annotations

from ..part.units import number
from ..solid.boolean import combine
from ..solid.frame import Frame, scaled
from ..solid.incoming import read_step
from ..solid.place import Placing, placed
from ..solid.reaching import half_space
from ..solid.shapes import Solid, Tags
from ..steps.bodies_steps import CombineStep, MoveStep, RemoveStep, SplitStep
from ..steps.import_step import ImportStep
from .state import Body, State
from .working import Done, StepFailure, body_id, counted, fresh_bodies, replaced, targets


def combine_bodies(step: CombineStep, state: State) -> Done:
    """Unite, lessen or cut down one body with others. Raises StepFailure."""
    body = targets(state, [step.body])[0]
    others = targets(state, list(dict.fromkeys(step.tools)))
    if any(o.id == body.id for o in others):
        raise StepFailure("A body cannot be combined with itself; choose another.", pick="bodies")
    made = combine(step.operation, [body.solid], [o.solid for o in others], "combination")
    words = {"union": "united", "subtract": "lessened", "intersect": "cut down"}[step.operation]
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
    return Done(after, f"{counted(1 + len(others), 'body', 'bodies')} {words}.{pieces}")


def split_bodies(step: SplitStep, plane: Frame, state: State) -> Done:
    """Part bodies at a plane. The cut faces are tagged ``step/section/front`` and ``back``."""
    on = targets(state, step.bodies)
    after = state
    parted = 0
    for body in on:
        front, back = (
            _renamed(
                combine("intersect", [body.solid], [half_space(plane.origin, way, body.solid)], "split"), step.id, n
            )
            for way, n in ((plane.normal, "front"), (scaled(plane.normal, -1.0), "back"))
        )
        if not front or not back:
            kept = {"both": True, "front": bool(front), "back": bool(back)}[step.keep]
            if not kept:
                after = State([b for b in after.bodies if b.id != body.id])
            continue
        parted += 1
        pieces = {"both": front + back, "front": front, "back": back}[step.keep]
        after = replaced(after, body, pieces)
    if not parted:
        raise StepFailure("The plane passes through none of these bodies. Choose another.", pick="plane")
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
        f"{counted(len(on), 'body', 'bodies')} taken out, {number(sum(b.solid.volume() for b in on), 2)} mm³.",
    )


def take_in(step: ImportStep, data: bytes | None, state: State) -> Done:
    """The solids of a STEP file beside the bodies that are there. Raises StepFailure when the file is not to be had."""
    if data is None:
        raise StepFailure(
            f"The file {step.title or 'of this step'} is not here; bring it again.", cause=f"no file {step.file}"
        )
    file = read_step(data, step.id)
    added = [
        Body(body_id(step.id, i), m.solid, m.name, **({"colour": m.colour} if m.colour else {}))
        for i, m in enumerate(file.bodies)
    ]
    left = f" {counted(file.loose, 'loose surface')} of the file left out." if file.loose else ""
    return Done(State([*state.bodies, *added]), f"Takes in {counted(len(added), 'body', 'bodies')}.{left}")

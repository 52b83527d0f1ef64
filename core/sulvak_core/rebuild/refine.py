"""What rounds, chamfers, drafts and shells do to the bodies."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass

from ..part.units import rounded_down, told
from ..solid.blend import Cut, blend_radius, chamfer, fillet, largest, rounded_off
from ..solid.boolean import combine
from ..solid.draft import Incline, draft, without
from ..solid.frame import Frame, dot, scaled
from ..solid.history import edge_names
from ..solid.measure import neighbours, points, surface
from ..solid.reaching import half_space
from ..solid.shapes import KernelError, Shape, ShapeMap, Solid, edges, faces
from ..solid.shell import shell as hollowed
from ..steps.choices import FacePlane
from ..steps.refine_steps import ChamferStep, DraftStep, FilletStep, ShellStep
from .pointing import Pointing
from .state import Body, State
from .working import Done, StepFailure, counted

By = dict[int, list[tuple[Shape, float]]]


def _with(state: State, made: dict[int, Solid]) -> State:
    """The bodies with some of their solids replaced, by index."""
    return State(
        [Body(b.id, made[i], b.title, b.colour, b.material) if i in made else b for i, b in enumerate(state.bodies)]
    )


def _changed(before: State, after: State) -> str:
    change = after.volume() - before.volume()
    if abs(change) < 1e-9 * max(before.volume(), 1.0):
        return "Changes no volume."
    return f"{'Adds' if change > 0 else 'Removes'} {told(abs(change), 3)}."


# -- rounds and chamfers -----------------------------------------------------------------------------


def round_edges(step: FilletStep, radii: list[float], pointing: Pointing, state: State) -> Done:
    """Carry out a rounding; ``radii`` (mm) one for each group. Raises StepFailure with the largest that would do."""
    by: By = defaultdict(list)
    count = 0
    for k, (group, radius) in enumerate(zip(step.groups, radii, strict=True)):
        if radius <= 0:
            raise StepFailure("A radius is more than zero.", field=_nth("radius", k))
        for body, edge in pointing.edges(group.edges, step.left_out):
            by[body].append((edge, radius))
            count += 1
    if not count:
        raise StepFailure("Choose the edges to round: press them, or take a rule.", pick="edges")
    made: dict[int, Solid] = {}
    for body, picks in by.items():
        solid = state.bodies[body].solid
        try:
            made[body] = _rounded(solid, picks, step.id)
        except KernelError as error:
            raise _too_large(solid, picks, step.id, error) from None
    after = _with(state, made)
    return Done(after, f"{counted(count, 'edge')} rounded. {_changed(state, after)}")


def _rounded(solid: Solid, picks: list[tuple[Shape, float]], step: str) -> Solid:
    """Rounds as the kernel makes them, or where they use up a whole face, as it does not."""
    try:
        return fillet(solid, picks, step)
    except KernelError as error:
        try:
            return rounded_off(solid, picks, step)
        except KernelError:
            raise error from None


def _nth(field: str, k: int) -> str:
    return f"{field}{k + 1}" if k else field


def _too_large(solid: Solid, picks: list[tuple[Shape, float]], step: str, error: KernelError) -> StepFailure:
    """Says which radius would fit, all of them in the same proportion."""
    most = max(r for _, r in picks)

    def fits(share: float) -> bool:
        return _works(lambda: _rounded(solid, [(e, r * share) for e, r in picks], step))

    share = largest(fits, 1.0)
    if share is None:
        return StepFailure(f"{error.sentence} No radius does: these edges meet in a way that cannot be rounded.")
    # three figures, rounded down, so that it does fit; the next may be what just fits
    fitting = rounded_down(share * most)
    just = fitting + 10.0 ** (math.floor(math.log10(fitting)) - 2)
    if just < most and fits(just / most):
        fitting = just
    return StepFailure(
        f"R{told(most, sign=False)} does not fit here; the largest that does is about R{told(fitting, sign=False)}.",
        largest=fitting,
        field="radius",
    )


def chamfer_edges(
    step: ChamferStep, first: float, second: float, angle: float, pointing: Pointing, state: State
) -> Done:
    """Carry out a chamfering. Raises StepFailure with the largest that would do."""
    if first <= 0 or (step.form == "two" and second <= 0):
        raise StepFailure("A chamfer's distances are more than zero.", field="first")
    if step.form == "angle" and not 0 < angle < 90:
        raise StepFailure("A chamfer's angle lies between 0° and 90°.", field="angle")
    chosen = pointing.edges(step.edges, step.left_out)
    if not chosen:
        raise StepFailure("Choose the edges to chamfer: press them, or take a rule.", pick="edges")
    by: dict[int, list[Shape]] = defaultdict(list)
    for body, edge in chosen:
        by[body].append(edge)
    made: dict[int, Solid] = {}
    for body, picked in by.items():
        solid = state.bodies[body].solid
        sides = _first_faces(solid, picked, step.swap)

        def work(
            share: float, solid: Solid = solid, picked: list[Shape] = picked, sides: ShapeMap[Shape] = sides
        ) -> Solid:
            other = second * share if step.form == "two" else None
            lean = angle if step.form == "angle" else None
            return chamfer(solid, [Cut(e, first * share, other, lean, sides.get(e)) for e in picked], step.id)

        try:
            made[body] = work(1.0)
        except KernelError as error:
            share = largest(lambda s, work=work: _works(lambda: work(s)), 1.0)  # type: ignore[misc]
            if share is None:
                raise StepFailure(error.sentence) from None
            fitting = rounded_down(share * first)
            raise StepFailure(
                f"A chamfer of {told(first, sign=False)} does not fit here; the largest that does is about "
                f"{told(fitting, sign=False)}.",
                largest=fitting,
                field="first",
            ) from None
    after = _with(state, made)
    return Done(after, f"{counted(len(chosen), 'edge')} chamfered. {_changed(state, after)}")


def _works(work: Callable[[], object]) -> bool:
    try:
        work()
    except KernelError:
        return False
    return True


def _first_faces(solid: Solid, picked: list[Shape], swap: bool) -> ShapeMap[Shape]:
    """For each edge the face its first distance lies on: of its two the one whose origin comes first."""
    found: ShapeMap[Shape] = ShapeMap()
    every = faces(solid.shape)
    for edge, sides in neighbours(solid):
        if any(edge.IsSame(p) for p in picked) and len(sides) == 2:
            ordered = sorted(sides, key=lambda i: sorted(solid.face_tags(every[i])))
            found.put(edge, every[ordered[1 if swap else 0]])
    return found


# -- draft -------------------------------------------------------------------------------------------


@dataclass
class _Blend:
    """A round to be taken off and put back: the tag of its edge's name, its step, its radius (mm)."""

    step: str
    name: str
    radius: float


def draft_faces(step: DraftStep, angles: list[float], other: float, pointing: Pointing, state: State) -> Done:
    """Carry out a draft. Raises StepFailure."""
    plane = pointing.frame(step.neutral, "neutral plane")
    # of a face the part lies behind: it is pulled off that side
    into = isinstance(step.neutral, FacePlane)
    pull = scaled(plane.normal, -1.0) if step.reverse != into else plane.normal
    by: By = defaultdict(list)
    for k, (group, angle) in enumerate(zip(step.groups, angles, strict=True)):
        if not 0 < angle <= 89:
            raise StepFailure("A draft angle is more than 0° and at most 89°.", field=_nth("angle", k))
        for body, face in pointing.faces(group.faces):
            by[body].append((face, -angle if step.outward else angle))
    if not by:
        raise StepFailure("Choose the faces to draft: press them, or take a rule.", pick="faces")
    made: dict[int, Solid] = {}
    for body, picks in by.items():
        solid = state.bodies[body].solid
        if step.split:
            beyond = -other if step.outward else other
            made[body] = _parted(solid, picks, beyond, plane, pull)
        else:
            made[body] = _drafted(solid, picks, plane, pull, pointing)
    after = _with(state, made)
    count = sum(len(p) for p in by.values())
    return Done(after, f"{counted(count, 'face')} drafted. {release(made, plane, pull)} {_changed(state, after)}")


def _inclines(picks: list[tuple[Shape, float]], plane: Frame, pull: tuple[float, float, float]) -> list[Incline]:
    return [Incline(f, a, pull, plane.origin, plane.normal) for f, a in picks]


def _drafted(
    solid: Solid,
    picks: list[tuple[Shape, float]],
    plane: Frame,
    pull: tuple[float, float, float],
    pointing: Pointing,
) -> Solid:
    """Rounds beside drafted faces are taken off, the faces drafted, and the rounds put back with their radius."""
    off, blends = _blends_beside(solid, [f for f, _ in picks])
    if not off:
        return draft(solid, _inclines(picks, plane, pull))
    steps = sorted({b.step for b in blends}, key=pointing.document.position)
    said = ", ".join(str(pointing.document.position(s)) for s in steps)
    try:
        bare = without(solid, off)
        tags = [(solid.face_tags(f), a) for f, a in picks]
        again = [(f, a) for t, a in tags for f in faces(bare.shape) if bare.face_tags(f) == t]
        leaning = draft(bare, _inclines(again, plane, pull))
        for ident in steps:
            names = edge_names(leaning)
            wanted = {b.name: b.radius for b in blends if b.step == ident}
            edges_now = [(e, wanted[n]) for e in edges(leaning.shape) if (n := names.get(e)) in wanted]
            leaning = fillet(leaning, edges_now, ident)  # type: ignore[arg-type]
        return leaning
    except KernelError as error:
        raise StepFailure(
            f"The rounds of step {said} beside these faces cannot be taken off and put back. "
            f"Move this draft before step {pointing.document.position(steps[0])}.",
            move={"step": None, "before": steps[0]},
            cause=error.cause,
        ) from None


def _blends_beside(solid: Solid, drafted: list[Shape]) -> tuple[list[Shape], list[_Blend]]:
    """The rounds (with their corners) that touch drafted faces, directly or through each other."""
    every = faces(solid.shape)
    role = [_blend_of(solid, f) for f in every]
    touching: dict[int, set[int]] = defaultdict(set)
    for _, sides in neighbours(solid):
        for i in sides:
            touching[i] |= {j for j in sides if j != i}
    seen: set[int] = set()
    ahead = [i for i, f in enumerate(every) if any(f.IsSame(d) for d in drafted)]
    while ahead:
        i = ahead.pop()
        for j in touching[i]:
            if role[j] and j not in seen:
                seen.add(j)
                ahead.append(j)
    blends = []
    for j in sorted(seen):
        step, kind, name = role[j] or ("", "", "")
        if kind == "round":
            radius = blend_radius(every[j])
            if radius is None:
                continue
            blends.append(_Blend(step, name, radius))
    return [every[j] for j in sorted(seen)], blends


def _blend_of(solid: Solid, face: Shape) -> tuple[str, str, str] | None:
    for tag in sorted(solid.face_tags(face)):
        parts = tag.split("/")
        if len(parts) == 3 and parts[1] in ("round", "corner"):
            return parts[0], parts[1], parts[2]
    return None


def _parted(
    solid: Solid, picks: list[tuple[Shape, float]], other: float, plane: Frame, pull: tuple[float, float, float]
) -> Solid:
    """Both sides of a parting plane inclined away from it, each by its own angle."""
    back = scaled(pull, -1.0)
    wanted = [(solid.face_tags(f), a) for f, a in picks]
    halves: list[Solid] = []
    for way, beyond in ((pull, None), (back, other)):
        piece = combine("intersect", [solid], [half_space(plane.origin, way, solid)], "draft")
        if len(piece) != 1:
            raise StepFailure("The parting plane does not part this body in two. Choose another.", field="neutral")
        half = piece[0]
        mine = [
            (f, a if beyond is None else (beyond if a > 0 else -beyond))
            for t, a in wanted
            for f in faces(half.shape)
            if half.face_tags(f) & t
        ]
        halves.append(draft(half, _inclines(mine, plane, way)) if mine else half)
    made = combine("union", halves[:1], halves[1:], "draft")
    if len(made) != 1:
        raise StepFailure("The two sides of the parting plane do not meet any more. Try smaller angles.")
    return made[0]


def release(made: dict[int, Solid], plane: Frame, pull: tuple[float, float, float]) -> str:
    """Whether bodies come off along the pull: no flat or conical face above the neutral plane looks back at it."""
    locked = 0
    at = dot(plane.origin, pull)
    for solid in made.values():
        for face in faces(solid.shape):
            s = surface(face)
            above = all(dot(p, pull) > at - 1e-7 for p in points(face))
            on = all(abs(dot(p, pull) - at) < 1e-7 for p in points(face))
            if s.kind == "plane" and above and not on and dot(s.direction, pull) < -1e-9:
                locked += 1
    if locked:
        verb = "looks" if locked == 1 else "look"
        return f"{counted(locked, 'face')} {verb} back against the pull and would lock in the mould."
    return "It comes off along the pull."


# -- shell -------------------------------------------------------------------------------------------


def shell_body(step: ShellStep, thickness: float, own: list[float], pointing: Pointing, state: State) -> Done:
    """Carry out a shelling. Raises StepFailure with the largest wall that would do."""
    if thickness <= 0 or any(t <= 0 for t in own):
        raise StepFailure("A wall's thickness is more than zero.", field="thickness")
    opened = pointing.faces(step.faces)
    theirs = [(f, t) for group, t in zip(step.own, own, strict=True) for f in pointing.faces(group.faces)]
    bodies = {b for b, _ in opened} | {b for (b, _), _ in theirs}
    if step.body is not None:
        at = next((i for i, b in enumerate(state.bodies) if b.id == step.body), None)
        if at is None:
            raise StepFailure("The body to shell is gone; choose another.", pick="body")
        bodies.add(at)
    if not bodies and len(state.bodies) == 1:
        bodies = {0}
    if len(bodies) != 1:
        raise StepFailure(
            "A shell works on one body; its faces lie on several."
            if bodies
            else "Choose the face to open, or the body to hollow.",
            pick="faces",
        )
    body = bodies.pop()
    solid = state.bodies[body].solid
    walls = [(f, t) for (_, f), t in theirs]

    def work(share: float) -> Solid:
        return _shelled(solid, [f for _, f in opened], thickness * share, [(f, t * share) for f, t in walls], step)

    try:
        made = work(1.0)
    except KernelError as error:
        share = largest(lambda s: _works(lambda: work(s)), 1.0)
        if share is None:
            raise StepFailure(error.sentence) from None
        fitting = rounded_down(share * thickness)
        raise StepFailure(
            f"A wall of {told(thickness, sign=False)} does not fit in this body; the thickest that does is about "
            f"{told(fitting, sign=False)}.",
            largest=fitting,
            field="thickness",
        ) from None
    after = _with(state, {body: made})
    return Done(after, f"Leaves a wall of {told(thickness)}. {_changed(state, after)}")


def _shelled(
    solid: Solid, opened: list[Shape], thickness: float, own: list[tuple[Shape, float]], step: ShellStep
) -> Solid:
    if step.side == "outside":
        return hollowed(solid, opened, -thickness, [(f, -t) for f, t in own], step.id)
    if step.side == "inside":
        return hollowed(solid, opened, thickness, own, step.id)
    halves = [(f, t / 2) for f, t in own]
    within = hollowed(solid, opened, thickness / 2, halves, step.id)
    around = hollowed(solid, opened, -thickness / 2, [(f, -t) for f, t in halves], step.id)
    made = combine("union", [within], [around], "shell")
    if len(made) != 1:
        raise KernelError("This wall does not fit: its two halves do not meet.")
    return made[0]

"""What drafts do to the bodies, and whether these come off their mould afterwards."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..naming import words as face_words
from ..part.errors import Offers
from ..part.units import rounded_down
from ..solid.blend import blend_radius, fillet, largest
from ..solid.boolean import combine
from ..solid.draft import MEETS, Incline, draft, without
from ..solid.extent_to_face import half_space
from ..solid.frame import XYZ, Frame, cross, dot, plus, scaled, unit
from ..solid.history import edge_names
from ..solid.measure import box, face_area, neighbours, surface
from ..solid.release import heights, locked, outline, sampled, span
from ..solid.shapes import KernelError, Shape, Solid, Tags, edges, faces
from ..steps.choices import FacePlane, PlaneChoice
from ..steps.kinds.draft import DraftStep
from .resolve import Pointing
from .state import State
from .tooling import Done, StepFailure, change_told, counted, nth, what_fits, with_solids, works

LEVEL = 1e-6  # mm within which a face ends at its neutral plane
EATEN = 0.05  # share of its area below which a face counts as used up just before a draft fails
BEYOND = 1.02  # of the largest angle that works: where it fails for the reason that stops it
ALONG = 1 - 1e-9
AGAINST = "It comes off against the pull only: turn the pull round."
TOLD_PLACES = 120  # of locked faces' outlines: what is told of a try has to be short
TOLD_HANDLES = 6


@dataclass(frozen=True)
class Pick:
    """A face to draft: the group it is of, its ``angle`` in degrees (below zero: it widens), its neutral plane, and
    the unit direction it is pulled in."""

    face: Shape
    group: int
    angle: float
    plane: Frame
    pull: XYZ

    def incline(self, share: float = 1.0) -> Incline:
        return Incline(self.face, self.angle * share, self.pull, self.plane.origin, self.plane.normal)


def draft_faces(step: DraftStep, angles: list[float], other: float, pointing: Pointing, state: State) -> Done:
    """Carry out a draft; ``angles`` in degrees one for each group, ``other`` beyond a parting plane. ``extra`` tells
    ``pull`` (where it shows and which way), ``locked`` (outlines of faces that hold the part back), ``caution``
    (whether it does not come off as pulled), ``turns`` (angles that can be taken hold of). Raises StepFailure with
    the largest angle that would do."""
    by = _picks(step, angles, pointing)
    made: dict[int, Solid] = {}
    for body, picks in by.items():
        solid = state.bodies[body].solid
        try:
            made[body] = _carried_out(step, solid, picks, other, pointing)
        except KernelError as error:
            raise _too_steep(step, solid, picks, other, pointing, error) from None
    after = with_solids(state, made)
    every = [p for picks in by.values() for p in picks]
    verdict, held, ways = release(list(made.values()), every)
    extra = {
        "pull": _arrows(list(made.values()), every[0], ways),
        "locked": _outlines(held),
        "caution": bool(held) or verdict == AGAINST,
        "turns": _turns(every),
    }
    return Done(after, f"{counted(len(every), 'face')} drafted. {verdict} {change_told(state, after)}", extra)


def planes(step: DraftStep, pointing: Pointing) -> list[Frame]:
    """The neutral plane of each group. Raises StepFailure when one is gone."""
    return [pointing.frame(g.neutral or step.neutral, "neutral plane") for g in step.groups]


def _picks(step: DraftStep, angles: list[float], pointing: Pointing) -> dict[int, list[Pick]]:
    by: dict[int, list[Pick]] = defaultdict(list)
    for k, (group, angle, plane) in enumerate(zip(step.groups, angles, planes(step, pointing), strict=True)):
        if not 0 < angle <= 89:
            raise StepFailure("A draft angle is more than 0° and at most 89°.", field=nth("angle", k))
        if step.split and group.neutral is not None:
            raise StepFailure("Faces parted at a plane all take the same one: leave out the group's own.")
        for body, face in pointing.faces(group.faces):
            pull = _pull(step, group.neutral or step.neutral, plane, face)
            by[body].append(Pick(face, k, -angle if step.outward else angle, plane, pull))
    if not by:
        raise StepFailure("Choose the faces to draft: press them, or take a rule.", pick="faces")
    return by


def _pull(step: DraftStep, chosen: PlaneChoice, plane: Frame, face: Shape) -> XYZ:
    """Which way a face is pulled. Away from its neutral plane is to the side it stands on; where it stands on both,
    into the part that lies behind a face, along the normal of a datum plane."""
    back = scaled(plane.normal, -1.0)
    if step.pull != "away":
        return back if step.pull == "against" else plane.normal
    if not step.split:
        low, high = heights(face, plane.origin, plane.normal)
        if low >= -LEVEL:
            return plane.normal
        if high <= LEVEL:
            return back
    return back if isinstance(chosen, FacePlane) else plane.normal


def _carried_out(
    step: DraftStep, solid: Solid, picks: list[Pick], other: float, pointing: Pointing, share: float = 1.0
) -> Solid:
    """One body drafted, by a ``share`` of all angles. Raises KernelError."""
    if step.split:
        return _parted(solid, picks, share, other)
    return _drafted(solid, picks, share, pointing)


def _too_steep(
    step: DraftStep, solid: Solid, picks: list[Pick], other: float, pointing: Pointing, error: KernelError
) -> StepFailure:
    """Says which angle would do, all of them in the same proportion, and what is used up beyond it."""

    def work(share: float) -> Solid:
        return _carried_out(step, solid, picks, other, pointing, share)

    if any(_alongside(p) for p in picks):  # at no angle
        return StepFailure(error.sentence, cause=error.cause, pick="faces")
    most = max(picks, key=lambda p: abs(p.angle))
    found = largest(lambda s: works(lambda: work(s)), 1.0)
    if found is None:
        rounds = [] if step.split else sorted({b.step for b in _blends_beside(solid, [p.face for p in picks])[1]})
        return _rounds_in_the_way(rounds, pointing, error) if rounds else StepFailure(error.sentence, cause=error.cause)
    fitting = rounded_down(found.fits * abs(most.angle))
    gone = _used_up(solid, lambda: work(found.fits), pointing)
    if not gone and _why(lambda: work(min(1.0, found.fits * BEYOND))) == MEETS:
        gone = "the drafted faces run into each other"
    said = f"At {abs(most.angle):g}° {gone}" if gone else f"{abs(most.angle):g}° is too much here"
    offers: Offers = {"largest": fitting, "quantity": "angle", "cause": error.cause}
    if len(step.groups) == 1:
        offers["field"] = "groups.0.angle"
    rest = what_fits("the largest angle that works", found, fitting, abs(most.angle), lambda angle: f"{angle:g}°")
    return StepFailure(f"{said}; {rest}", **offers)


def _alongside(pick: Pick) -> bool:
    s = surface(pick.face)
    return s.kind == "plane" and abs(dot(s.direction, pick.plane.normal)) > ALONG


def _used_up(before: Solid, work: Callable[[], Solid], pointing: Pointing) -> str:
    """The face, in words, of which next to nothing is left just before a draft fails; none if all stay."""
    after = work()
    left: dict[Tags, float] = defaultdict(float)
    for face in faces(after.shape):
        left[after.face_tags(face)] += face_area(face)
    had = [(before.face_tags(f), face_area(f)) for f in faces(before.shape)]
    share, tags = min((left[t] / a, t) for t, a in had if a > 0)
    return f"the {face_words.face(tags, pointing.document.position)} is used up" if share < EATEN else ""


def _why(work: Callable[[], Solid]) -> str:
    """The cause a draft fails with; empty if it does not."""
    try:
        work()
    except KernelError as error:
        return error.cause
    return ""


@dataclass
class _Blend:
    """A round to be taken off and put back: the tag of its edge's name, its step, its radius (mm)."""

    step: str
    name: str
    radius: float


def _drafted(solid: Solid, picks: list[Pick], share: float, pointing: Pointing) -> Solid:
    """Rounds beside drafted faces are taken off, the faces drafted, and the rounds put back with their radius."""
    off, blends = _blends_beside(solid, [p.face for p in picks])
    if not off:
        return draft(solid, [p.incline(share) for p in picks])
    steps = sorted({b.step for b in blends}, key=pointing.document.position)
    bare = without(solid, off)
    again = [
        Incline(f, p.angle * share, p.pull, p.plane.origin, p.plane.normal)
        for p in picks
        for f in faces(bare.shape)
        if bare.face_tags(f) == solid.face_tags(p.face)
    ]
    leaning = draft(bare, again)
    for ident in steps:
        names = edge_names(leaning)
        wanted = {b.name: b.radius for b in blends if b.step == ident}
        edges_now = [(e, wanted[n]) for e in edges(leaning.shape) if (n := names.get(e)) in wanted]
        leaning = fillet(leaning, edges_now, ident)  # type: ignore[arg-type]
    return leaning


def _rounds_in_the_way(steps: list[str], pointing: Pointing, error: KernelError) -> StepFailure:
    steps = sorted(steps, key=pointing.document.position)
    said = ", ".join(str(pointing.document.position(s)) for s in steps)
    return StepFailure(
        f"The rounds of step {said} beside these faces cannot be taken off and put back. "
        f"Move this draft before step {pointing.document.position(steps[0])}.",
        move={"step": None, "before": steps[0]},
        cause=error.cause,
    )


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


def _parted(solid: Solid, picks: list[Pick], share: float, other: float) -> Solid:
    """Both sides of a parting plane inclined away from it, each by its own angle."""
    plane, pull = picks[0].plane, picks[0].pull
    wanted = [(solid.face_tags(p.face), p.angle) for p in picks]
    halves: list[Solid] = []
    for way, beyond in ((pull, None), (scaled(pull, -1.0), other)):
        piece = combine("intersect", [solid], [half_space(plane.origin, way, solid)], "draft")
        if len(piece) != 1:
            raise StepFailure("The parting plane does not part this body in two. Choose another.", field="neutral")
        half = piece[0]
        mine = [
            Incline(f, share * (a if beyond is None else beyond), way, plane.origin, plane.normal)
            for t, a in wanted
            for f in faces(half.shape)
            if half.face_tags(f) & t
        ]
        halves.append(draft(half, mine) if mine else half)
    made = combine("union", halves[:1], halves[1:], "draft")
    if len(made) != 1:
        raise KernelError("The two sides of the parting plane do not meet any more. Try smaller angles.", "parted")
    return made[0]


# -- the mould ---------------------------------------------------------------------------------------


def release(made: list[Solid], picks: list[Pick]) -> tuple[str, list[Shape], list[XYZ]]:
    """Whether drafted bodies come off a mould of two halves: in words, the faces that hold them back, and which way
    they are pulled. The halves may part at a neutral plane, or before or behind the whole body."""
    pull = picks[0].pull
    every = [f for solid in made for f in faces(solid.shape)]
    found = [sampled(f) for f in every]
    spans = [span(solid.shape, pull) for solid in made]
    low, high = min(s[0] for s in spans), max(s[1] for s in spans)
    at = {round(dot(p.plane.origin, pull), 9) for p in picks if abs(dot(p.plane.normal, pull)) > ALONG}
    within = sorted(h for h in at if low + LEVEL < h < high - LEVEL)
    back = scaled(pull, -1.0)
    tried = [
        (low, "It comes off along the pull.", [pull]),
        *((h, "It comes off both ways from the neutral plane.", [pull, back]) for h in within),
        (high, AGAINST, [pull]),
    ]
    judged = [(locked(found, pull, h), said, ways) for h, said, ways in tried]
    for held, said, ways in judged:
        if not held:
            return said, [], ways
    # what is in the way is told for the mould that is likeliest meant: parted at a neutral plane, or off the one side
    held, _, _ = min(judged[1:-1] or judged[:1], key=lambda j: len(j[0]))
    word = "looks" if len(held) == 1 else "look"
    return (
        f"{counted(len(held), 'face')} {word} back against the pull and would lock in the mould.",
        [every[i] for i in held],
        [pull, back] if any(dot(p.pull, pull) < 0 for p in picks) else [pull],
    )


def _arrows(made: list[Solid], first: Pick, ways: list[XYZ]) -> dict[str, Any]:
    """Where the pull is to be drawn: from ``at`` on the body's far side each of the ``ways``; ``turn``: the fields of
    the step that turn it round."""
    corners = [box(s.shape) for s in made]
    low = tuple(min(c[0][i] for c in corners) for i in range(3))
    high = tuple(max(c[1][i] for c in corners) for i in range(3))
    middle = scaled(plus(low, high), 0.5)  # type: ignore[arg-type]
    shown = []
    for way in ways:
        half = sum(abs(way[i]) * (high[i] - low[i]) / 2 for i in range(3))
        shown.append({"at": _short(plus(middle, scaled(way, half))), "way": _short(way)})
    along = dot(first.pull, first.plane.normal) > 0
    return {"ways": shown, "turn": {"pull": "against" if along else "along"}}


def _outlines(held: list[Shape]) -> list[list[list[XYZ]]]:
    """Outlines of faces to be marked, each as rows of places; no more than can be told."""
    told, left = [], TOLD_PLACES
    for face in held:
        rows = [[_short(p) for p in row] for row in outline(face)]
        left -= sum(len(r) for r in rows)
        if left < 0:
            break
        told.append(rows)
    return told


def _short(p: XYZ) -> XYZ:
    return (round(p[0], 3), round(p[1], 3), round(p[2], 3))


def _turns(picks: list[Pick]) -> list[dict[str, Any]]:
    """For the first face of each group that lends itself: where its angle can be taken hold of. ``frame``: its origin
    is where the face turns, its x the way of the pull, its y the way it leans; ``reach`` mm along x."""
    found: dict[int, dict[str, Any]] = {}
    for p in picks:
        if p.group in found or len(found) == TOLD_HANDLES:
            continue
        seen = sampled(p.face)
        if not len(seen.places):
            continue
        n: XYZ = tuple(float(v) for v in seen.normals[len(seen.normals) // 2])  # type: ignore[assignment]
        flat = surface(p.face).kind == "plane"
        there = seen.places.mean(axis=0) if flat else seen.places[len(seen.places) // 2]
        spot: XYZ = tuple(float(v) for v in there)  # type: ignore[assignment]
        if abs(dot(p.plane.normal, p.pull)) < ALONG or abs(dot(n, p.pull)) > 0.99:
            continue
        out = unit(plus(n, scaled(p.pull, -dot(n, p.pull))))
        # down along the face to where it meets the neutral plane
        slope = cross(cross(n, p.pull), n)
        height = dot(plus(spot, scaled(p.plane.origin, -1.0)), p.pull)
        hinge = plus(spot, scaled(slope, -height / dot(slope, p.pull)))
        low, high = heights(p.face, p.plane.origin, p.pull)
        reach = high if high > -low else low
        lean = scaled(out, -1.0 if p.angle > 0 else 1.0)
        found[p.group] = {
            "path": f"groups.{p.group}.angle",
            "frame": {
                "origin": _short(hinge),
                "x": _close(p.pull),
                "y": _close(lean),
                "normal": _close(cross(p.pull, lean)),
            },
            "reach": round(reach, 3),
            "angle": abs(p.angle),
        }
    return list(found.values())


def _close(v: XYZ) -> XYZ:
    return (round(v[0], 9), round(v[1], 9), round(v[2], 9))

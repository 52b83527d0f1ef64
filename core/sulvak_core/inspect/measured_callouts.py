"""Callouts that are measured between places of the part: the places found again, and the figure taken anew."""

from __future__ import annotations

import math

from ..naming import find
from ..naming.model import EdgeRef, FaceRef
from ..part.document import Gauged, Spot
from ..part.errors import Refusal
from ..part.threads import THREADS
from ..part.units import number
from ..rebuild.state import State
from ..sheet.requirement import Requirement
from ..solid.frame import XYZ
from ..solid.measure import curve, neighbours, surface
from ..solid.shapes import faces
from ..steps.registry import Document
from .holes_seen import held_to, holes
from .measuring import Pick, measure
from .prove_steps import flat_legs
from .shown import Measured, Unmeasurable

EXACT = 1e-6  # mm


def gauged(document: Document, state: State, by: Gauged, r: Requirement) -> Measured:
    """The figure in mm, mm², mm³, g or degrees; of a round face how many like it there are, and what of them is not as
    the callout says. A thread is shown by the hole drilled for it. Raises Unmeasurable when a place is gone, or no
    longer gives the figure."""
    # what tells pieces of a face apart is no place on it: the middle of a round face lies inside
    place = by.figure.startswith("material")
    picks = [p if place or p.kind != "face" else p.model_copy(update={"at": None}) for p in _picks(state, by)]
    try:
        answer = measure(document, state, picks)
    except Refusal as refusal:
        raise Unmeasurable(refusal.sentence) from None
    found = next((f for f in answer.figures if f.name == by.figure), None)
    if found is None:
        raise Unmeasurable(f"these places have no {by.figure} any more")
    if by.figure == "chamfer" and len(picks) == 1 and picks[0].kind == "face":
        return _chamfer(state, picks[0], r)
    if by.figure not in ("diameter", "radius") or len(picks) != 1 or picks[0].kind != "face":
        return found.value, None, []
    return _round(state, picks[0], found.value / (2 if by.figure == "diameter" else 1), found.value, r)


def _chamfer(state: State, pick: Pick, r: Requirement) -> Measured:
    """The smaller leg, how many chamfers are like it, and what the other leg or the angle is that it should not be."""
    body = next(b for b in state.bodies if b.id == pick.body)
    low, high = sorted(flat_legs(body.solid, pick.index)[pick.index])
    every = [sorted(legs) for b in state.bodies for legs in flat_legs(b.solid).values()]
    alike = sum(abs(a - low) < EXACT and abs(b - high) < EXACT for a, b in every)
    wrong = []
    if r.leg is not None and abs(high - max(r.leg, r.nominal or 0.0)) > EXACT:
        wrong.append(f"{number(high)} the other way, {number(r.leg)} asked")
    lean = math.degrees(math.atan2(low, high))
    if r.leg is None and r.angle is not None and min(abs(lean - r.angle), abs(90 - lean - r.angle)) > EXACT:
        wrong.append(f"not at {number(r.angle)}°")
    return low, r.count if alike >= r.count else alike, wrong


def _round(state: State, pick: Pick, radius: float, value: float, r: Requirement) -> Measured:
    body = next(b for b in state.bodies if b.id == pick.body)
    hollow = surface(faces(body.shape)[pick.index]).hollow
    seen = holes([b.solid for b in state.bodies], hollow)
    count, wrong = held_to(r, radius, seen)
    if r.kind == "radius":
        return value, None, wrong  # a round of several faces may be one or many
    if r.kind == "thread" and r.thread in THREADS:
        thread = THREADS[r.thread]
        if abs(value - thread.drill) > EXACT:
            wrong.append(f"Ø{number(value)}, where {thread.name} is tapped from Ø{number(thread.drill)}")
        value = thread.diameter
    return value, r.count if count >= r.count else count, wrong


def faces_of(state: State, by: Gauged) -> list[tuple[str, int]]:
    """The faces pointed at, as body and number."""
    return [(p.body, p.index) for p in _picks(state, by) if p.kind == "face"]


def _picks(state: State, by: Gauged) -> list[Pick]:
    return [_pick(state, spot) for spot in by.spots]


def _pick(state: State, spot: Spot) -> Pick:
    solids = [b.solid for b in state.bodies]
    if spot.kind == "body":
        if spot.body not in {b.id for b in state.bodies}:
            raise Unmeasurable("the body it measures is gone")
        return Pick(body=spot.body)
    if len(spot.origins) != (1 if spot.kind == "face" else 2):
        raise Unmeasurable("what it measures was not kept")
    if spot.kind == "face":
        face = find.face(solids, FaceRef(origins=spot.origins[0], ring=spot.ring, near=spot.near))
        if face is None:
            raise Unmeasurable("a face it measures is gone")
        return Pick(body=state.bodies[face.solid].id, kind="face", index=face.index, at=spot.near)
    one, two = (FaceRef(origins=o) for o in spot.origins)
    hit = find.edge_in(solids, EdgeRef(between=(one, two), near=spot.near))
    if hit is None:
        raise Unmeasurable(f"{'an edge' if spot.kind == 'edge' else 'a corner'} it measures is gone")
    k, edge = hit
    body = state.bodies[k].id
    if spot.kind == "corner":
        c = curve(edge)
        near = spot.near or c.start
        return Pick(body=body, kind="corner", at=min((c.start, c.end), key=lambda end: math.dist(end, near)))
    index = next(i for i, (e, _) in enumerate(neighbours(solids[k])) if e.IsSame(edge))
    return Pick(body=body, kind="edge", index=index)


def figure_line(document: Document, state: State, by: Gauged) -> tuple[XYZ, XYZ] | None:
    """Between which places (mm) the figure of a gauged callout is measured; None where it is not shown by a line."""
    try:
        answer = measure(document, state, _picks(state, by))
    except (Refusal, Unmeasurable):
        return None
    return next((f.line for f in answer.figures if f.name == by.figure), None)

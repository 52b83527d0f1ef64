"""Callouts that are measured between places of the part: the places found again, and the figure taken anew."""

from __future__ import annotations

import math

from ..naming import find
from ..naming.model import EdgeRef, FaceRef
from ..part.document import Gauged, Spot
from ..part.errors import Refusal
from ..rebuild.state import State
from ..solid.measure import curve, neighbours
from ..steps.registry import Document
from .measuring import Pick, measure
from .shown import Unmeasurable


def gauged(document: Document, state: State, by: Gauged) -> float:
    """The figure in mm, mm², mm³, g or degrees. Raises Unmeasurable when a place is gone, or no longer gives it."""
    try:
        answer = measure(document, state, [_pick(state, spot) for spot in by.spots])
    except Refusal as refusal:
        raise Unmeasurable(refusal.sentence) from None
    found = next((f for f in answer.figures if f.name == by.figure), None)
    if found is None:
        raise Unmeasurable(f"these places have no {by.figure} any more")
    return found.value


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

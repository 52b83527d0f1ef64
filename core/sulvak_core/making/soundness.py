"""Whether bodies are sound solids: closed, right way out, without slivers, knife edges and mere touches."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from ..inspect.mass import called
from ..part.shop import SolidLimits
from ..part.units import number, told
from ..rebuild.state import Body
from ..solid.edge_convexity import bend
from ..solid.extent import box
from ..solid.measure import curve, face_area, neighbours
from ..solid.overlap import shared_volume, touching
from ..solid.shapes import closed_and_valid, edges, faces
from ..steps.registry import Document
from .finding import MOST, Checked, Finding, step_of

NEAR = 1e-4  # mm: boxes so near may touch
PAIRS = 400  # bodies' pairs looked at


def check_solid(document: Document, bodies: Sequence[Body], limits: SolidLimits) -> Checked:
    """Findings for each body, and for bodies that meet as they should not."""
    found: list[Finding] = []
    if not bodies:
        found.append(Finding("no solid", "There is no solid yet; extrude a profile first."))
    for body in bodies:
        found += [*_shape(document, body), *_small(body, limits), *_sharp(document, body, limits)]
    for one, two in itertools.islice(itertools.combinations(bodies, 2), PAIRS):
        found += _meeting(document, one, two)
    volume = sum(b.solid.volume() for b in bodies)
    figures: dict[str, float | str | None] = {
        "bodies": float(len(bodies)),
        "faces": float(sum(len(faces(b.shape)) for b in bodies)),
        "edges": float(sum(len(edges(b.shape)) for b in bodies)),
        "volume": volume,
    }
    return Checked("solid", found[:MOST], [], None, figures)


def _shape(document: Document, body: Body) -> list[Finding]:
    found = []
    if not closed_and_valid(body.shape):
        name = called(document, body)
        said = f"The kernel finds a fault in {name}: its faces do not close, or cross. Change its last step."
        found.append(Finding("fault", said, step=body.id.split("x")[0]))
    elif body.solid.volume() <= 0:
        found.append(Finding("inside out", f"{called(document, body)} is inside out.", step=body.id.split("x")[0]))
    return found


def _small(body: Body, limits: SolidLimits) -> list[Finding]:
    """Edges and faces so small that the next step, another system or a cutter trips over them."""
    found = []
    sides = neighbours(body.solid)
    every = faces(body.shape)
    tags = [body.solid.face_tags(f) for f in every]
    around = [0.0] * len(every)
    for edge, beside in sides:
        c = curve(edge)
        for i in set(beside):
            around[i] += c.length
        if 0 < c.length < limits.edge:
            step = step_of([t for i in beside for t in tags[i]])
            said = f"An edge only {told(c.length)} long, shorter than {told(limits.edge)}."
            found.append(
                Finding("short edge", said, c.length, limits.edge, "mm", [(body.id, i) for i in beside], c.start, step)
            )
    for i, face in enumerate(every):
        area = face_area(face)
        wide = 2 * area / around[i] if around[i] else math.inf  # of a long thin face: how wide it is
        if 0 < wide < limits.face:
            said = f"A face about {told(wide)} wide, narrower than {told(limits.face)}."
            at = curve(edges(face)[0]).start
            found.append(Finding("sliver", said, wide, limits.face, "mm", [(body.id, i)], at, step_of(tags[i])))
    return found


def _sharp(document: Document, body: Body, limits: SolidLimits) -> list[Finding]:
    """Edges at which the material runs out thinner than ``sharp`` degrees."""
    if not limits.sharp:
        return []
    found = []
    every = faces(body.shape)
    for edge, beside in neighbours(body.solid):
        if len(set(beside)) > 2:
            name = called(document, body)
            said = f"{name[0].upper()}{name[1:]} touches itself in an edge only: nothing holds it there."
            found.append(Finding("mere touch", said, faces=[(body.id, i) for i in beside], at=curve(edge).start))
        if len(beside) != 2 or beside[0] == beside[1]:
            continue
        left = 180 - bend(edge, every[beside[0]], every[beside[1]])  # of material between the two
        if left < limits.sharp:
            tags = [t for i in beside for t in body.solid.face_tags(every[i])]
            said = f"A knife edge: the faces meet at {number(left, 2)}°, less than {number(limits.sharp)}°."
            at = curve(edge).start
            found.append(
                Finding("knife edge", said, left, limits.sharp, "°", [(body.id, i) for i in beside], at, step_of(tags))
            )
    return found


def _meeting(document: Document, one: Body, two: Body) -> list[Finding]:
    """Two bodies that hold the same material, or meet in an edge or a point only."""
    (al, ah), (bl, bh) = box(one.shape), box(two.shape)
    if any(al[k] > bh[k] + NEAR or bl[k] > ah[k] + NEAR for k in range(3)):
        return []
    names = f"{called(document, one)} and {called(document, two)}"
    names = names[0].upper() + names[1:]
    shared = shared_volume(one.solid, two.solid)
    if shared:
        said = f"{names} overlap by {told(shared, 3)}: unite them, or subtract one from the other."
        return [Finding("overlap", said, shared, 0.0, "mm³", step=two.id.split("x")[0])]
    how = touching(one.shape, two.shape)
    if how in ("edge", "point"):
        where = "an edge" if how == "edge" else "a point"
        said = f"{names} touch in {where} only: nothing holds them together. Move one, or unite them over a face."
        return [Finding("mere touch", said, step=two.id.split("x")[0])]
    return []

"""Edges of the part in sketches: which there are to use, and where those that are used stand now."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from ..naming import find
from ..naming.model import CutRef, EdgeRef, GuideRef, SilhouetteRef
from ..part.errors import Refusal
from ..sketch import words
from ..sketch.edit import Values, resolve
from ..sketch.model import AnyEntity, Sketch, points_of
from ..solid.frame import Frame, plus
from ..solid.measure import neighbours
from ..solid.project import Flat, cut_edges, flat_point, height, middle, projected
from ..solid.shapes import Shape, Solid, faces
from ..solid.silhouette import silhouettes
from ..steps.kinds.sketch import SketchStep
from .resolve import Guides

Source = EdgeRef | CutRef | SilhouetteRef | GuideRef
_ENTITY: TypeAdapter[AnyEntity] = TypeAdapter(AnyEntity)
MOST = 3000  # edges offered to a sketch
HALF = 50.0  # mm: half of what is shown of an axis
LAST = 1e9  # further from the plane than any edge: where cuts stand in the order


def entity(flat: Flat, ident: str, construction: bool = False) -> AnyEntity:
    """A plane curve as an entity of a sketch."""
    data: dict[str, Any] = {"id": ident, "kind": flat.kind, "construction": construction, **flat.at}
    if flat.kind in ("circle", "arc"):
        data["r"] = flat.r
    if flat.kind == "spline":
        data["points"] = list(flat.points)
    return _ENTITY.validate_python(data)


LETTERS = {"point": "p", "line": "l", "circle": "c", "arc": "a", "ellipse": "e", "ellipse_arc": "e", "spline": "s"}


def seen(solids: list[Solid], of: Source, frame: Frame, guides: Guides) -> Flat | None:
    """Where an edge of the part, a cut through a face, its silhouette or a datum stands in a sketch's plane now; None
    if it is gone."""
    if isinstance(of, GuideRef):
        return guide(of.step, frame, guides)
    if isinstance(of, EdgeRef):
        edge = find.edge(solids, of)
        return None if edge is None else projected(edge, frame)
    if isinstance(of, SilhouetteRef):
        hit = find.face(solids, of.silhouette)
        cuts = silhouettes(hit.face, frame) if hit else []
    else:
        hit = find.face(solids, of.face)
        cuts = cut_edges(hit.face, frame) if hit else []
    if not cuts:
        return None

    def far(e: Shape) -> float:
        return sum((a - b) ** 2 for a, b in zip(middle(e), of.near, strict=True))

    return projected(min(cuts, key=far), frame)


def guide(step: str, frame: Frame, guides: Guides) -> Flat | None:
    """A datum point or axis seen square onto a plane. Of an axis a piece is shown, about where it is nearest to the
    plane's origin."""
    if step in guides.points:
        return Flat("point", {"at": flat_point(frame, guides.points[step])})
    axis = guides.axes.get(step)
    if axis is None:
        return None
    at, over = flat_point(frame, axis.at), plus(axis.at, axis.direction)
    there = flat_point(frame, over)
    dx, dy = there[0] - at[0], there[1] - at[1]
    long = math.hypot(dx, dy)
    if long < 1e-9:
        return Flat("point", {"at": at})
    ux, uy = dx / long, dy / long
    along = -(at[0] * ux + at[1] * uy)
    x, y = at[0] + along * ux, at[1] + along * uy
    return Flat("line", {"p": (x - HALF * ux, y - HALF * uy), "q": (x + HALF * ux, y + HALF * uy)})


def on_offer(solids: list[Solid], frame: Frame, guides: Guides, before: Iterable[str]) -> list[dict[str, Any]]:
    """Edges that a sketch in the plane of ``frame`` can use: ``of`` (a reference) and ``entity`` (as it would stand).

    Edges in the plane come first; of several that are seen in one place only the first is offered. Silhouettes and
    then cuts through faces come last. Datum points and axes of the steps ``before`` are offered too.
    """
    found: list[tuple[float, Source, Flat]] = []
    for step in before:
        flat = guide(step, frame, guides)
        if flat is not None:
            found.append((LAST / 20, GuideRef(step=step), flat))
    for solid in solids:
        for edge, sides in neighbours(solid):
            if len(sides) == 2 and sides[0] != sides[1]:
                found.append((height(edge, frame), find.edge_reference(solid, edge, sides), projected(edge, frame)))
        for i, face in enumerate(faces(solid.shape)):
            for turn in silhouettes(face, frame):
                outline = SilhouetteRef(silhouette=find.reference(solid, i), near=middle(turn))
                found.append((LAST / 10, outline, projected(turn, frame)))
            for cut in cut_edges(face, frame):
                found.append((LAST, CutRef(face=find.reference(solid, i), near=middle(cut)), projected(cut, frame)))
    found.sort(key=lambda f: f[0])
    known: set[Any] = set()
    offered: list[dict[str, Any]] = []
    for off, of, flat in found:
        if flat.key() in known or len(offered) >= MOST:
            continue
        known.add(flat.key())
        offered.append(
            {
                "of": of.model_dump(mode="json"),
                "entity": entity(flat, f"{LETTERS[flat.kind]}1", _only_a_guide(of, flat)).model_dump(mode="json"),
                "in_plane": off < 1e-6,
                "cut": isinstance(of, CutRef),
                "silhouette": isinstance(of, SilhouetteRef),
            }
        )
    return offered


def _only_a_guide(of: Source, flat: Flat) -> bool:
    """An axis bounds nothing."""
    return isinstance(of, GuideRef) and flat.kind == "line"


@dataclass
class Followed:
    """A sketch with the part's edges where they are now: ``sketch`` is solved; ``lost`` could not be found again."""

    sketch: Sketch
    lost: list[str]


def follow(step: SketchStep, flats: list[Flat | None], values: Values) -> Followed:
    """Put a sketch's given entities where the part has them. Raises Refusal when the rest cannot follow."""
    fresh: dict[str, AnyEntity] = {}
    lost: list[str] = []
    for projection, flat in zip(step.projections, flats, strict=True):
        old = step.sketch.entity(projection.entity)
        if old is None:
            continue
        if flat is None or flat.kind != old.kind:
            lost.append(projection.entity)
            continue
        new = entity(flat, old.id, old.construction)
        if _apart(old, new):
            fresh[old.id] = new
    if not fresh:
        return Followed(step.sketch, lost)
    moved = step.sketch.model_copy(update={"entities": [fresh.get(e.id, e) for e in step.sketch.entities]})
    try:
        return Followed(resolve(moved, values).sketch, lost)
    except Refusal as refusal:
        raise Refusal(f"The part has changed and this sketch cannot follow it: {refusal.sentence}") from None


def _apart(a: AnyEntity, b: AnyEntity) -> bool:
    one, two = points_of(a), points_of(b)
    if set(one) != set(two) or abs(getattr(a, "r", 0.0) - getattr(b, "r", 0.0)) > 1e-9:
        return True
    return any(
        abs(p[0] - q[0]) > 1e-9 or abs(p[1] - q[1]) > 1e-9 for p, q in zip(one.values(), two.values(), strict=True)
    )


def lost_words(lost: list[str]) -> str:
    """What to say about edges that are gone."""
    named = ", ".join(words.thing(i) for i in lost[:3]) + (" and more" if len(lost) > 3 else "")
    one = len(lost) == 1
    return f"The edge{'' if one else 's'} that {named} came from {'is' if one else 'are'} gone; what was drawn stays."

"""Mirror images in a sketch: copies on the other side of a line, tied to stay so."""

from __future__ import annotations

import math

from ..part.errors import Refusal
from .edit import Edit, Tie, Values, check_refs, resolve, ties_of
from .model import XY, AnyEntity, Circle, Constraint, Sketch, Text, moved, points_of
from .numbers import Numbers
from .solution_branches import with_branches
from .system import Builder


def mirror(sketch: Sketch, values: Values, idents: list[str], about: str) -> Edit:
    """Copies of entities on the other side of a line or axis, tied to stay mirror images.

    Ends on the line are joined, not doubled. Raises Refusal when there is nothing to mirror or no line.
    """
    builder = Builder(sketch, {})
    if about not in builder.lines:
        raise Refusal("Mirroring needs a line or an axis to mirror about; pick it last.", ref=about)
    chosen = [e for e in sketch.entities if e.id in idents and e.id != about]
    if not chosen:
        raise Refusal("Pick what to mirror, then the line to mirror about.")
    (a, b) = ((builder.data[i] * builder.size, builder.data[j] * builder.size) for i, j in builder.lines[about])
    numbers = Numbers(sketch)
    entities: list[AnyEntity] = []
    ties: list[Tie] = []
    placed: dict[str, str] = {}

    def put(kind: str, *refs: str) -> None:
        ties.append(Constraint(id=numbers.new("k"), kind=kind, refs=list(refs)))  # type: ignore[arg-type]

    def end(old: str, at: XY, new: str) -> None:
        place = builder.same_place[old]
        if math.dist(at, _reflected(at, a, b)) < 2e-7:
            put("coincident", new, old)
        elif place in placed:
            put("coincident", new, placed[place])
        else:
            placed[place] = new
            put("symmetric", old, new, about)

    for e in chosen:
        image, pairs = _image(e, numbers, a, b)
        entities.append(image)
        for old, at, new in pairs:
            end(old, at, new)
        if isinstance(e, Circle):
            put("equal", e.id, image.id)
    constraints = [t for t in ties if isinstance(t, Constraint)]
    after = sketch.model_copy(
        update={
            "entities": [*sketch.entities, *entities],
            "constraints": [*sketch.constraints, *constraints],
            "used": numbers.top,
        }
    )
    check_refs(after, ties_of(after))
    return resolve(with_branches(after, {c.id for c in constraints}), values)


def _reflected(p: XY, a: XY, b: XY) -> XY:
    ux, uy = b[0] - a[0], b[1] - a[1]
    n = math.hypot(ux, uy)
    ux, uy = ux / n, uy / n
    along = (p[0] - a[0]) * ux + (p[1] - a[1]) * uy
    foot = (a[0] + along * ux, a[1] + along * uy)
    return 2 * foot[0] - p[0], 2 * foot[1] - p[1]


_OVER = {
    "arc": {"p": "q", "q": "p"},
    "ellipse": {"m": "n", "n": "m"},
    "ellipse_arc": {"m": "n", "n": "m", "p": "q", "q": "p"},
}


def _image(e: AnyEntity, numbers: Numbers, a: XY, b: XY) -> tuple[AnyEntity, list[tuple[str, XY, str]]]:
    """The mirror image, and which of its points is the image of which.

    What is counter-clockwise stays so: ends of arcs and half axes change places.
    """
    if isinstance(e, Text):
        raise Refusal("Letters are not mirrored; leave the text out, or copy it.", ref=e.id)
    new = numbers.new(e.id[0])
    over = _OVER.get(e.kind, {})
    pairs = []
    places = {}
    for ref, at in points_of(e).items():
        _, dot, end = ref.partition(".")
        image = f"{new}{dot}{over.get(end, end)}"
        places[image] = _reflected(at, a, b)
        pairs.append((ref, at, image))
    return moved(e.model_copy(update={"id": new}), places.__getitem__), pairs

"""How many references survive: twelve parts, every size changed, steps left out, moved and put in before.

After an edit each face and every third edge is looked for twice: by its reference, and by a judge that knows nothing of
names and goes by shape alone (kind, direction, place and size), which says what of the changed part a designer would
call the same. Where the judge finds two that could be it, it keeps silent. The figure is printed; a wrong hit counts
double against it.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import islice
from typing import Any

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.naming import find
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.solid.frame import XYZ, dot
from sulvak_core.solid.measure import curve, face_area, face_centre, neighbours, surface
from sulvak_core.solid.shapes import Shape, Solid, faces
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import Document
from tests.examples import THOROUGH

from . import test_known_parts as known
from .test_demo import demo

Edit = tuple[str, Document]
SHIPPED = [
    "cross-plate", "finished/pan-hub", "electronics-pod", "finished/ballast-bar", "camera-cradle", "tilt-arm",
    "boom-clamp", "pod-lid", "line-cleat",
]  # fmt: skip
BY_HAND = [known.gusset, known.hexagonal_spacer, known.stepped_block]
FIT = 0.12  # of the part's size: how far the same face may have gone by a small edit
CLEAR = 1.7  # how much better than the next the judge's choice must fit


# -- the judge -----------------------------------------------------------------------------------------


@dataclass
class Look:
    """What shape alone tells of a face or an edge."""

    kind: str
    way: XYZ | None
    at: XYZ
    size: float


def face_looks(face: Shape) -> Look:
    s = surface(face)
    return Look(s.kind + ("hollow" if s.hollow else ""), s.direction if s.kind != "other" else None, face_centre(face),
                math.sqrt(face_area(face)))  # fmt: skip


def edge_looks(edge: Shape) -> Look:
    c = curve(edge)
    middle = tuple((a + b) / 2 for a, b in zip(c.start, c.end, strict=True))
    return Look(c.kind, c.direction if c.kind == "line" else None, c.at if c.kind == "circle" else middle, c.length)  # type: ignore[arg-type]


def unlike(a: Look, b: Look, scale: float) -> float:
    """How much two things differ, as a share of the part's size; infinite if they cannot be the same."""
    if a.kind != b.kind:
        return math.inf
    turn = 0.0
    if a.way and b.way:
        along = dot(a.way, b.way)
        if (along if a.kind == "plane" else abs(along)) < math.cos(math.radians(8)):
            return math.inf
        turn = 1 - abs(along)
    return (math.dist(a.at, b.at) + abs(a.size - b.size)) / scale + turn


def judged(old: Look, all_new: list[Look], scale: float) -> int | None:
    """The thing that is still the same, or None where none clearly is."""
    fits = sorted((unlike(old, new, scale), i) for i, new in enumerate(all_new))
    if not fits or fits[0][0] > FIT:
        return None
    if len(fits) > 1 and fits[1][0] < CLEAR * fits[0][0] + 1e-3:
        return None
    return fits[0][1]


# -- the edits -----------------------------------------------------------------------------------------


def commanded(part: Document, **command: Any) -> Document | None:
    try:
        return apply(part, read(command)).document
    except Refusal:
        return None


def sizes(part: Document) -> Iterator[Edit]:
    """Every driving dimension and every depth a little larger or smaller, in turn."""
    grow = True
    for step in part.steps:
        if isinstance(step, SketchStep):
            for d in step.sketch.dimensions:
                expr = f"({d.expr})*{1.04 if grow else 0.97}"
                changed = d.driving and commanded(
                    part, do="sketch_dimension", step=step.id, dimension=d.id, changes={"expr": expr}
                )
                if changed:
                    grow = not grow
                    yield f"{step.id} {d.id} {expr}", changed
        elif step.kind == "extrude" and hasattr(step.extent, "depth"):
            extent = step.extent.model_dump() | {"depth": f"({step.extent.depth})*1.05"}
            changed = commanded(part, do="set_step", step=step.id, changes={"extent": extent})
            if changed:
                yield f"{step.id} deeper", changed


def left_out(part: Document) -> Iterator[Edit]:
    for step in part.steps[1:]:
        changed = commanded(part, do="set_step", step=step.id, changes={"suppressed": True})
        if changed and not isinstance(step, SketchStep) and step.kind != "body":
            yield f"without {step.id}", changed


def moved(part: Document) -> Iterator[Edit]:
    for one, two in zip(part.steps, part.steps[1:], strict=False):
        changed = commanded(part, do="move_step", step=two.id, before=one.id)
        if changed:
            yield f"{two.id} before {one.id}", changed


def put_in_before(part: Document) -> Iterator[Edit]:
    """A small block on its own far away, and a sketch nobody uses, before everything."""
    changed = commanded(
        part, do="add_step", step={"kind": "sketch", "id": "s900", "on": {"kind": "datum", "plane": "top"}}
    )
    lines = [(500, 0), (503, 0), (503, 3), (500, 3)]
    drawn = changed and commanded(changed, do="sketch_add", step="s900", entities=[
        {"kind": "line", "id": f"l{i + 1}", "p": p, "q": lines[(i + 1) % 4]} for i, p in enumerate(lines)])  # fmt: skip
    first = drawn and commanded(drawn, do="move_step", step="s900", before=part.steps[0].id)
    if first:
        grown = {"kind": "extrude", "id": "s901", "sketch": "s900", "operation": "new"}
        both = commanded(first, do="add_step", step={**grown, "extent": {"kind": "depth", "depth": "3"}})
        placed = both and commanded(both, do="move_step", step="s901", before=part.steps[0].id)
        if placed:
            yield "a body before all", placed


def edges_added(part: Document) -> Iterator[Edit]:
    """Each sketch's first free line split in two, and a corner of each closed outline rounded."""
    for step in part.steps:
        if not isinstance(step, SketchStep):
            continue
        straight = [e for e in step.sketch.entities if e.kind == "line" and not e.construction]
        for e in straight[:1]:
            middle = [0.6 * a + 0.4 * b for a, b in zip(e.p, e.q, strict=True)]
            changed = commanded(part, do="sketch_split", step=step.id, entity=e.id, at=middle)
            if changed:
                yield f"{step.id} {e.id} split", changed
        for e in straight[1:2]:
            changed = commanded(part, do="sketch_fillet", step=step.id, corners=[f"{e.id}.q"], radius="0.5")
            if changed:
                yield f"{step.id} {e.id} rounded", changed


# kinds of edit, and how many of each are tried on a part at most
EDITS: list[tuple[Callable[[Document], Iterator[Edit]], int]] = [
    (sizes, 6), (left_out, 3), (moved, 1), (put_in_before, 1), (edges_added, 2),
]  # fmt: skip


# -- the count -----------------------------------------------------------------------------------------


@dataclass
class Tally:
    edits: int = 0
    asked: int = 0
    found: int = 0
    wrong: list[str] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)

    def score(self) -> float:
        return (self.found - len(self.wrong)) / self.asked if self.asked else 1.0


@dataclass
class Shown:
    """The faces and edges of a built part, each with its looks."""

    solids: list[Solid]
    faces: list[tuple[int, int, Shape, Look]]
    edges: list[tuple[int, Shape, list[int], Look]]


def shown(part: Document, cache: Cache) -> Shown:
    solids = [b.solid for b in build(part, cache).state.bodies if b.id != "s901"]
    all_faces = [(k, i, f, face_looks(f)) for k, s in enumerate(solids) for i, f in enumerate(faces(s.shape))]
    all_edges = [
        (k, e, sides, edge_looks(e))
        for k, s in enumerate(solids)
        for e, sides in neighbours(s)
        if len(sides) == 2 and sides[0] != sides[1]
    ]
    return Shown(solids, all_faces, all_edges)


def compare(name: str, before: Shown, after: Shown, scale: float, tally: Tally) -> None:
    looks = [f[3] for f in after.faces]
    thin = 1 + len(before.faces) // 60  # of letters, some
    for k, i, _, look in before.faces[::thin]:
        same = judged(look, looks, scale)
        if same is not None:
            hit = find.face(after.solids, find.reference(before.solids[k], i))
            count(f"{name}: face {look.kind} {i}", hit and hit.face, after.faces[same][2], tally)
    looks = [e[3] for e in after.edges]
    for k, e, sides, look in before.edges[:: 3 * thin]:
        same = judged(look, looks, scale)
        if same is not None:
            found = find.edge(after.solids, find.edge_reference(before.solids[k], e, sides))
            count(f"{name}: edge {look.kind} {sides}", found, after.edges[same][1], tally)


def count(what: str, hit: Shape | None, same: Shape, tally: Tally) -> None:
    tally.asked += 1
    if hit is None:
        tally.lost.append(what)
    elif hit.IsSame(same):
        tally.found += 1
    else:
        tally.wrong.append(what)


def survival(part: Document) -> Tally:
    cache, tally = Cache(), Tally()
    before = shown(part, cache)
    places = [f[3].at for f in before.faces]
    scale = max(math.dist(p, q) for p in places for q in places)
    for kind, most in EDITS:
        for name, changed in islice(kind(part), most if THOROUGH else (most + 3) // 4):
            after = shown(changed, cache)
            if after.solids:
                tally.edits += 1
                compare(name, before, after, scale, tally)
    return tally


def by_hand(make: Callable[[], tuple[list[dict[str, Any]], float]]) -> Document:
    return part_file.read(json.dumps({"format": "sulvak-part", "format_version": 1, "name": make.__name__,
                                      "steps": make()[0]}).encode())  # fmt: skip


def test_references_survive_edits(capsys: pytest.CaptureFixture[str]) -> None:
    """All edits when it is asked to be thorough, a quarter of each kind otherwise."""
    parts = {name: demo(name) for name in SHIPPED} | {make.__name__: by_hand(make) for make in BY_HAND}
    tallies = {name: survival(part) for name, part in parts.items()}
    edits, asked = (sum(getattr(t, what) for t in tallies.values()) for what in ("edits", "asked"))
    lost = [f"{n}, {w}" for n, t in tallies.items() for w in t.lost]
    wrong = [f"{n}, {w}" for n, t in tallies.items() for w in t.wrong]
    found = asked - len(lost) - len(wrong)
    with capsys.disabled():
        print(f"\nreferences: {found} of {asked} found again after {edits} edits of {len(parts)} parts, ", end="")
        print(f"{len(lost)} lost, {len(wrong)} wrong")
    assert len(parts) >= 12
    assert edits >= (120 if THOROUGH else 40)
    assert asked >= (1500 if THOROUGH else 400)
    assert (asked - len(lost) - 2 * len(wrong)) / asked >= 0.97, (lost[:20], wrong[:20])

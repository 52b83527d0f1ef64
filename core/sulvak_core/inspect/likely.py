"""Where on the finished part a callout that nothing uses is most likely meant: faces that measure what it says."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from ..naming import find
from ..part.document import Callout, Gauged, Spot
from ..part.errors import Refusal
from ..part.threads import THREADS
from ..part.units import number
from ..rebuild.state import Body, State
from ..sheet.requirement import Requirement
from ..solid.frame import dot, plus, scaled
from ..solid.measure import Surface, face_area, one_axis, points, surface
from ..solid.shapes import Shape, faces
from ..steps.registry import Document
from ..steps.shared import read_callout
from .measuring import Figure, Pick, measure
from .prove_steps import flat_legs

MOST = 8  # proposals given
TRIED = 60  # pairs measured in full
NEAR = 0.05  # of the size: what is farther off is not meant
PARALLEL = 1e-9
SQUARE = 1e-9


@dataclass
class Likely:
    """A place that may be meant: ``said`` in words with what it measures, ``value`` (mm or degrees), whether that is
    within the callout's limits, and how it is kept; ``picks`` are (body, face number)."""

    said: str
    value: float
    fits: bool
    gauged: Gauged
    picks: list[tuple[str, int]]


@dataclass
class _Face:
    body: Body
    index: int
    shape: Shape
    on: Surface
    size: float  # mm²


def likely(document: Document, state: State, callout: Callout) -> list[Likely]:
    """The likeliest places first: those within the limits, of them those between larger faces that lie across from one
    another; then what is nearly so. Raises Refusal for what is no size."""
    r = read_callout(document, callout)
    if r.kind == "note" or r.nominal is None:
        raise Refusal("This callout is a note; only a size can be found on the part.")
    every = [_Face(b, i, f, surface(f), face_area(f)) for b in state.bodies for i, f in enumerate(faces(b.shape))]
    wanted = THREADS[r.thread].drill if r.kind == "thread" and r.thread in THREADS else r.nominal
    kind = "diameter" if r.kind == "thread" else r.kind
    ranked = sorted(_candidates(every, kind, wanted, r), key=lambda c: c[0])
    found: list[Likely] = []
    for _, group in ranked[:TRIED]:
        made = _proposal(document, state, group, kind, wanted, r)
        if made is not None and not any(made.said == f.said for f in found):
            found.append(made)
        if len(found) == MOST:
            break
    return found


Ranked = tuple[tuple[float, ...], tuple[_Face, ...]]


def _candidates(every: Sequence[_Face], kind: str, wanted: float, r: Requirement) -> Iterator[Ranked]:
    if kind in ("diameter", "radius"):
        yield from _round(every, wanted if kind == "radius" else wanted / 2, r)
    elif kind == "angle":
        yield from _angles(every, wanted, r)
    elif kind == "chamfer":
        yield from _chamfers(every, wanted, r)
    elif kind == "linear":
        yield from _apart(every, wanted, r)
        yield from _rings(every, wanted, r)


def _miss(off: float, wanted: float, r: Requirement) -> float | None:
    """0 within the limits, else how far off as a share; None for what cannot be meant."""
    if r.fits(wanted + off, 1e-6):
        return 0.0
    share = abs(off) / max(wanted, 1e-9)
    return share if share < NEAR else None


def _round(every: Sequence[_Face], radius: float, r: Requirement) -> Iterator[Ranked]:
    told: set[tuple[float, bool]] = set()
    k = 1.0 if r.kind == "radius" else 2.0
    for f in sorted(every, key=lambda f: -f.size):
        if f.on.kind == "cylinder" and (key := (round(f.on.radius, 6), f.on.hollow)) not in told:
            miss = _miss(k * (f.on.radius - radius), k * radius, r)
            if miss is not None:
                told.add(key)
                yield (miss, float((r.through or r.depth is not None) and not f.on.hollow), -f.size), (f,)


def _chamfers(every: Sequence[_Face], wanted: float, r: Requirement) -> Iterator[Ranked]:
    for solid in {id(f.body.solid): f.body.solid for f in every}.values():
        legs = flat_legs(solid)
        for f in (f for f in every if f.body.solid is solid and f.index in legs):
            low, high = sorted(legs[f.index])
            miss = _miss(low - wanted, wanted, r)
            other = r.leg or wanted
            if miss is not None:
                yield (miss, abs(high - other) / other, -f.size), (f,)


def _apart(every: Sequence[_Face], wanted: float, r: Requirement) -> Iterator[Ranked]:
    """Flat faces across from each other, axes beside flat faces, axes beside axes."""
    flat = [f for f in every if f.on.kind == "plane"]
    for a, b in combinations(flat, 2):
        c = dot(a.on.direction, b.on.direction)
        if abs(abs(c) - 1) < PARALLEL:
            apart = abs(dot(plus(b.on.at, scaled(a.on.at, -1.0)), a.on.direction))
            miss = _miss(apart - wanted, wanted, r)
            if miss is not None:
                yield (miss, float(not _facing(a, b)), 0.0 if c < 0 else 1.0, -min(a.size, b.size)), (a, b)
    axes = _axes(every)
    for a in axes:
        for b in flat:
            if abs(dot(a.on.direction, b.on.direction)) < SQUARE:
                apart = abs(dot(plus(a.on.at, scaled(b.on.at, -1.0)), b.on.direction))
                miss = _miss(apart - wanted, wanted, r)
                if miss is not None:
                    yield (miss, 1.0, 0.5, -min(a.size, b.size)), (a, b)
    for a, b in combinations(axes, 2):
        if abs(abs(dot(a.on.direction, b.on.direction)) - 1) < PARALLEL:
            away = plus(b.on.at, scaled(a.on.at, -1.0))
            off = plus(away, scaled(a.on.direction, -dot(away, a.on.direction)))
            miss = _miss(math.sqrt(dot(off, off)) - wanted, wanted, r)
            if miss is not None:
                yield (miss, 0.5, 0.5, -min(a.size, b.size)), (a, b)


def _rings(every: Sequence[_Face], wanted: float, r: Requirement) -> Iterator[Ranked]:
    """Round faces about one axis, one inside the other."""
    for a, b in combinations([f for f in every if f.on.kind == "cylinder"], 2):
        apart = abs(a.on.radius - b.on.radius)
        miss = _miss(apart - wanted, wanted, r) if apart > 1e-6 and one_axis(a.on, b.on) else None
        if miss is not None:
            yield (miss, float(a.on.hollow == b.on.hollow), 0.7, -min(a.size, b.size)), (a, b)


def _axes(every: Sequence[_Face]) -> list[_Face]:
    """One round face for each axis, the largest."""
    found: list[_Face] = []
    for f in sorted((f for f in every if f.on.kind == "cylinder"), key=lambda f: -f.size):
        if not any(one_axis(o.on, f.on) for o in found):
            found.append(f)
    return found


def _facing(a: _Face, b: _Face) -> bool:
    """Whether two parallel faces lie across from one another: boxes around them overlap, seen along their normal."""
    n = a.on.direction
    k = max(range(3), key=lambda i: abs(n[i]))
    for i in (j for j in range(3) if j != k):
        one, two = _span(a.shape, i), _span(b.shape, i)
        if one[1] <= two[0] + 1e-6 or two[1] <= one[0] + 1e-6:
            return False
    return True


def _span(shape: Shape, i: int) -> tuple[float, float]:
    at = [p[i] for p in points(shape)]
    return (min(at), max(at)) if at else (0.0, 0.0)


def _angles(every: Sequence[_Face], wanted: float, r: Requirement) -> Iterator[Ranked]:
    flat = [f for f in every if f.on.kind == "plane"]
    for a, b in combinations(flat, 2):
        turned = math.degrees(math.acos(max(-1.0, min(1.0, dot(a.on.direction, b.on.direction)))))
        between = min((turned, 180.0 - turned), key=lambda v: abs(v - wanted))
        miss = _miss(between - wanted, wanted, r)
        if 1e-6 < turned < 180 - 1e-6 and miss is not None:
            yield (miss, float(not _touch(a, b)), -min(a.size, b.size)), (a, b)


def _touch(a: _Face, b: _Face) -> bool:
    mine = {tuple(round(v, 6) for v in p) for p in points(a.shape)}
    return any(tuple(round(v, 6) for v in p) in mine for p in points(b.shape))


def _proposal(
    document: Document, state: State, group: tuple[_Face, ...], kind: str, wanted: float, r: Requirement
) -> Likely | None:
    picks = [Pick(body=f.body.id, kind="face", index=f.index) for f in group]
    answer = measure(document, state, picks)
    figure = _figure(answer.figures, kind, wanted)
    if figure is None:
        return None
    spots = [_spot(f) for f in group]
    shown = f"{number(figure.value, 4)}{'°' if kind == 'angle' else ' mm'}"
    return Likely(
        f"{answer.said}: {shown}",
        figure.value,
        r.fits(figure.value - wanted + (r.nominal or 0.0), 1e-6),
        Gauged(spots=spots, figure=figure.name),
        [(f.body.id, f.index) for f in group],
    )


def _figure(figures: Sequence[Figure], kind: str, wanted: float) -> Figure | None:
    """The figure meant: of that name where there is one, else the nearest of its sort."""
    named = [f for f in figures if f.name == kind]
    sort = "angle" if kind == "angle" else "length"
    meant = named or [f for f in figures if f.of == sort and f.name.startswith(("distance", "shortest"))]
    best = min(meant, key=lambda f: abs(f.value - wanted), default=None)
    return best if best is not None and abs(best.value - wanted) < NEAR * wanted + 1e-9 else None


def _spot(f: _Face) -> Spot:
    ref = find.reference(f.body.solid, f.index)
    return Spot(kind="face", origins=[ref.origins], ring=ref.ring, near=ref.near)

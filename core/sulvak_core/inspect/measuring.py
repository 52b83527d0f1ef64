"""Measuring what was pointed at on the finished part: one thing or two, in words and figures."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat

from ..naming.words import face as face_words
from ..part.errors import Refusal
from ..part.units import MM_PER, LengthUnit, number
from ..rebuild.state import Body, State
from ..solid import distance
from ..solid.distance import Trait
from ..solid.frame import XYZ, dot, plus, scaled
from ..solid.measure import curve, face_area, neighbours, surface
from ..solid.shapes import Shape, faces, vertices
from ..steps.registry import Document
from .mass import density
from .prove_steps import flat_legs

NEAR = 0.01  # mm: how far a place sent from a picture may be off the corner it means
PLACES = 4


class Pick(BaseModel):
    """What was pointed at: a body by its id, and of it a face or an edge by its number, a corner by its place (mm), or
    nothing more for the whole body. ``at``: where a face was pressed."""

    model_config = ConfigDict(extra="forbid")
    body: str
    kind: Literal["body", "face", "edge", "corner"] = "body"
    index: Annotated[int, Field(ge=0)] = 0
    at: tuple[FiniteFloat, FiniteFloat, FiniteFloat] | None = None


@dataclass(frozen=True)
class Figure:
    """One figure: ``value`` in mm, mm², mm³, g or degrees as ``of`` says, ``text`` as it is read, with its unit;
    ``callout`` the notation for it where there is one; ``line`` where to draw it."""

    name: str
    value: float
    of: Literal["length", "area", "volume", "mass", "angle"]
    text: str
    callout: str = ""
    line: tuple[XYZ, XYZ] | None = None


@dataclass
class Answer:
    """``said``: what was measured, in words."""

    said: str
    figures: list[Figure] = field(default_factory=list)


@dataclass
class _Thing:
    words: str
    shape: Shape
    trait: Trait
    pick: Pick
    body: Body


class _Teller:
    def __init__(self, unit: LengthUnit) -> None:
        self.unit = unit

    def length(self, name: str, mm: float, sign: str = "", line: tuple[XYZ, XYZ] | None = None) -> Figure:
        text = number(mm / MM_PER[self.unit], PLACES)
        return Figure(name, mm, "length", f"{sign}{text} {self.unit}", f"{sign}{text}", line)

    def power(self, name: str, value: float, of: Literal["area", "volume"]) -> Figure:
        k = 2 if of == "area" else 3
        sign = "²" if k == 2 else "³"
        return Figure(name, value, of, f"{number(value / MM_PER[self.unit] ** k, PLACES)} {self.unit}{sign}")

    def angle(self, name: str, degrees: float) -> Figure:
        text = f"{number(degrees, PLACES)}°"
        return Figure(name, degrees, "angle", text, text)


def measure(document: Document, state: State, picks: list[Pick]) -> Answer:
    """What one or two picks measure on a built part. Raises Refusal for what is not there."""
    if not 1 <= len(picks) <= 2:
        raise Refusal("Point at one thing or two to measure.")
    told = _Teller(document.unit)
    things = [_thing(document, state, p) for p in picks]
    if len(things) == 1:
        return Answer(things[0].words, _alone(document, things[0], told))
    a, b = things
    if a.pick == b.pick:
        return Answer(a.words, _alone(document, a, told))
    return Answer(f"{a.words} and {b.words}", _between(a, b, told))


def _thing(document: Document, state: State, pick: Pick) -> _Thing:
    body = next((b for b in state.bodies if b.id == pick.body), None)
    if body is None:
        raise Refusal("This body is no longer there; point again.")
    solid = body.solid
    if pick.kind == "body":
        return _Thing(body.title or "body", solid.shape, Trait("free"), pick, body)
    if pick.kind == "corner":
        return _corner(body, pick)
    sides = neighbours(solid)
    every = faces(solid.shape)
    if pick.index >= len(every if pick.kind == "face" else sides):
        raise Refusal("The part has changed since; point again.")

    def named(i: int) -> str:
        return face_words(sorted(solid.face_tags(every[i])), document.position)

    if pick.kind == "face":
        face = every[pick.index]
        return _Thing(named(pick.index), face, distance.face_trait(face), pick, body)
    edge, at = sides[pick.index]
    words = "edge between " + " and ".join(named(i) for i in at)
    return _Thing(words, edge, distance.edge_trait(edge), pick, body)


def _corner(body: Body, pick: Pick) -> _Thing:
    if pick.at is None:
        raise Refusal("Say where the corner is.")
    meant = distance.point_shape(pick.at)
    found = [(distance.shortest(v, meant), v) for v in vertices(body.shape)]
    (far, at, _), shape = min(found, key=lambda f: f[0][0])
    if far > NEAR:
        raise Refusal("No corner is at this place; point again.")
    where = ", ".join(number(v, 3) for v in at)
    return _Thing(f"corner at {where}", shape, Trait("point", at), pick, body)


def _alone(document: Document, t: _Thing, told: _Teller) -> list[Figure]:
    if t.pick.kind == "body":
        figures = [
            told.power("volume", t.body.solid.volume(), "volume"),
            told.power("surface", face_area(t.body.solid.shape), "area"),
        ]
        rho = density(document, t.body.material)
        if rho is not None:
            grams = t.body.solid.volume() * rho
            figures.append(Figure("mass", grams, "mass", f"{number(grams, 3)} g"))
        return figures
    if t.pick.kind == "corner":
        return [told.length(n, v) for n, v in zip("XYZ", t.trait.at, strict=True)]
    return _edge(t, told) if t.pick.kind == "edge" else _face(t, told)


def _edge(t: _Thing, told: _Teller) -> list[Figure]:
    c = curve(t.shape)
    if c.kind != "circle":
        return [told.length("length", c.length, line=(c.start, c.end) if c.kind == "line" else None)]
    return [
        told.length("diameter", 2 * c.radius, "Ø"),
        told.length("radius", c.radius, "R"),
        told.length("length", c.length),
    ]


def _face(t: _Thing, told: _Teller) -> list[Figure]:
    s = surface(t.shape)
    figures: list[Figure] = []
    if s.kind == "cylinder":
        figures += [told.length("diameter", 2 * s.radius, "Ø"), told.length("radius", s.radius, "R")]
    figures += [
        told.power("area", distance.face_area(t.shape), "area"),
        told.length("length around", distance.around(t.shape)),
    ]
    legs = flat_legs(t.body.solid, t.pick.index).get(t.pick.index)
    if legs:
        figures += _chamfer(legs, told)
    wall = distance.wall_behind(t.body.shape, t.shape, t.pick.at) if t.pick.at else None
    if wall:
        figures.append(told.length("material behind this place", wall[0], line=(wall[1], wall[2])))
    return figures


def _chamfer(legs: tuple[float, float], told: _Teller) -> list[Figure]:
    """What a face that may be a chamfer takes off the faces beside it, the smaller first."""
    low, high = sorted(legs)
    one, two = told.length("chamfer", low), told.length("chamfer, the other way", high)
    even = abs(high - low) < 1e-6
    text = one.text.removesuffix(f" {told.unit}")
    notation = f"{text}×45°" if even else f"{text} × {two.text.removesuffix(f' {told.unit}')}"
    one = replace(one, callout=notation)
    return [one] if even else [one, replace(two, callout="")]


def _between(a: _Thing, b: _Thing, told: _Teller) -> list[Figure]:
    figures: list[Figure] = []
    apart = distance.apart(a.trait, b.trait)
    if apart and not (a.trait.kind == b.trait.kind == "point"):
        figures.append(told.length(_name(a.trait, b.trait), apart[0], line=(apart[1], apart[2])))
    turned = distance.angle(a.trait, b.trait)
    if turned is not None and not distance.parallel(a.trait, b.trait):
        figures.append(told.angle("angle", turned))
    if a.trait.kind == b.trait.kind == "point":
        d = plus(b.trait.at, scaled(a.trait.at, -1.0))
        figures.append(told.length("distance", dot(d, d) ** 0.5, line=(a.trait.at, b.trait.at)))
        figures += [told.length(f"along {n}", abs(v)) for n, v in zip("XYZ", d, strict=True)]
        return figures
    far, p, q = distance.shortest(a.shape, b.shape)
    if not (apart and abs(apart[0] - far) <= 1e-9):
        figures.append(told.length("shortest way", far, line=(p, q)))
    return figures


def _name(a: Trait, b: Trait) -> str:
    """What the distance of two things that run alongside each other is called."""
    words = {"plane": "plane", "point": "corner"}
    names = [("axis" if t.radius else "line") if t.kind == "line" else words[t.kind] for t in (a, b)]
    one, two = names
    if one != two:
        return f"distance from {one} to {two}"
    return {"plane": "distance of the planes", "axis": "distance of the axes"}.get(one, "distance of the lines")

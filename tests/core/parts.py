"""Building part documents for tests by commands."""

from __future__ import annotations

from typing import Any

from sulvak_core.rebuild.engine import Build, build
from sulvak_core.rebuild.state import Cache
from sulvak_core.sketch.model import Sketch
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document, load
from sulvak_core.steps.shared import Outcome

from .sketches import circle, rectangle, sizes, values


class Made:
    """A part under test: commands in, builds out."""

    def __init__(self, **fields: Any) -> None:
        self.document: Document = load({"name": "Test piece", **fields})
        self.cache = Cache()

    def do(self, command: str, **fields: Any) -> Outcome:
        outcome = apply(self.document, read({"do": command, **fields}))
        self.document = outcome.document
        return outcome

    def sketch(self, ident: str, on: Any, sketch: Sketch | None = None) -> None:
        where = {"kind": "datum", "plane": on} if isinstance(on, str) else {"kind": "face", "face": on}
        if isinstance(on, dict) and "kind" in on:
            where = on
        self.do("add_step", step={"kind": "sketch", "id": ident, "on": where})
        if sketch is not None:
            data = sketch.model_dump(mode="json")
            self.do(
                "sketch_add",
                step=ident,
                entities=data["entities"],
                constraints=data["constraints"],
                dimensions=data["dimensions"],
            )

    def extrude(self, ident: str, sketch: str, depth: str | None = "10", operation: str = "add", **more: Any) -> None:
        kind = more.pop("kind", "depth")
        extent = {"kind": kind, "depth": depth} if depth else {"kind": "through_all"}
        step = {"kind": "extrude", "id": ident, "sketch": sketch, "operation": operation, "extent": extent, **more}
        self.do("add_step", step=step)

    def step(self, kind: str, ident: str, **fields: Any) -> None:
        self.do("add_step", step={"kind": kind, "id": ident, **fields})

    def report(self, ident: str) -> Any:
        """What became of a step in a build of the part as it is."""
        return next(r for r in self.build().reports if r.id == ident)

    def edge(self, one: str, two: str) -> dict[str, Any]:
        """A choice of the edge between the faces of two origins."""
        faces = [{"origins": [one]}, {"origins": [two]}]
        return {"by": "pick", "edge": {"between": faces}}

    def build(self) -> Build:
        return build(self.document, self.cache)

    def volume(self) -> float:
        made = self.build()
        assert not made.failed, [r.said for r in made.failed]
        return made.state.volume()

    def face(self, origin: str) -> dict[str, Any]:
        """A reference to the (first) face of the part as it is with this origin, as the screen makes it."""
        from sulvak_core.naming.find import reference
        from sulvak_core.solid.shapes import faces

        for body in self.build().state.bodies:
            for i, face in enumerate(faces(body.shape)):
                if origin in body.solid.face_tags(face):
                    return reference(body.solid, i).model_dump()
        raise AssertionError(f"no face from {origin}")


def plate(w: float = 40, h: float = 30, depth: str = "10", **fields: Any) -> Made:
    """A plate w × h × depth on the top plane: sketch s1 (sizes d1, d2), extrusion s2."""
    made = Made(**fields)
    base = rectangle(w=w, h=h)
    base.dimensions = sizes(f"distance {w} l1", f"distance {h} l2")
    assert values(base)
    made.sketch("s1", "top", base)
    made.extrude("s2", "s1", depth)
    return made


def disc(at: tuple[float, float], r: float) -> Sketch:
    return Sketch(entities=[circle(1, at, r)])

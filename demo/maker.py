"""A demo part being made by the commands the screen sends, and its sketches written in short words."""

from __future__ import annotations

import hashlib
import math
from itertools import pairwise
from pathlib import Path
from typing import Any

from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.lettering import slenderness
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import Document, load
from sulvak_core.steps.shared import values_for

from .drawing import XY

HERE = Path(__file__).resolve().parent
Json = dict[str, Any]


def datum(plane: str) -> dict[str, str]:
    return {"kind": "datum", "plane": plane}


def face(*origins: str, said: str = "") -> Json:
    return {"kind": "face", "face": {"origins": list(origins), "said": said}}


def by_depth(depth: str) -> dict[str, str]:
    return {"kind": "depth", "depth": depth}


THROUGH = {"kind": "through_all"}


class Maker:
    """A part being made by commands."""

    def __init__(self, **fields: Any) -> None:
        self.document: Document = load(fields)

    def do(self, command: str, **fields: Any) -> None:
        self.document = apply(self.document, read({"do": command, **fields})).document

    def sheet(self, name: str, svg: str) -> None:
        (HERE / name).write_text(svg)
        self.do(
            "set_sheet",
            sheet={
                "name": name,
                "sha256": hashlib.sha256(svg.encode()).hexdigest(),
                "media_type": "image/svg+xml",
                "pages": [(297 * 72 / 25.4, 210 * 72 / 25.4)],
            },
        )

    def callouts(self, rows: list[tuple[str, XY]]) -> None:
        for n, (text, at) in enumerate(rows, 1):
            self.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text, "at": at})

    def link(self, number: int, step: str, field: str) -> None:
        self.do("link_callout", callout=f"b{number}", step=step, field=field)

    def drawn(self, ident: str, on: Json, outline: Outline) -> None:
        """A sketch step with all that an outline holds. Refuses one that is not fully constrained."""
        self.do("add_step", step={"kind": "sketch", "id": ident, "on": on})
        self.do("sketch_add", step=ident, entities=outline.entities)
        self.do("sketch_add", step=ident, constraints=outline.constraints, dimensions=outline.dimensions)
        step = self.document.step(ident)
        assert isinstance(step, SketchStep)
        left = freedom(step.sketch, values_for(self.document).all(step.sketch)).count
        if left:
            raise ValueError(f"{self.document.name}, {ident}: {left} freedom left")

    def extrude(self, ident: str, sketch: str, extent: Json, operation: str = "add", **more: Any) -> None:
        self.step("extrude", ident, sketch=sketch, operation=operation, extent=extent, **more)

    def step(self, kind: str, ident: str, **fields: Any) -> None:
        self.do("add_step", step={"kind": kind, "id": ident, **fields})

    def centre(self, step: str, ident: str) -> XY:
        """The centre of a circle as the sketch has it solved."""
        circle = self.document.step(step).sketch.entity(ident)  # type: ignore[union-attr]
        return (circle.c[0], circle.c[1])  # type: ignore[union-attr]

    def rectangle(self, first: int, x: float, y: float, w: float, h: float) -> dict[str, list[dict[str, Any]]]:
        """Four joined lines l<first> … with their constraints (k<2·first> …), lower left corner at (x, y)."""
        at = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        ids = [f"l{first + i}" for i in range(4)]
        lines = [{"kind": "line", "id": n, "p": at[i], "q": at[(i + 1) % 4]} for i, n in enumerate(ids)]
        ties = []
        for i, n in enumerate(ids):
            k = 2 * first + 2 * i
            ties.append({"id": f"k{k}", "kind": "coincident", "refs": [f"{n}.q", f"{ids[(i + 1) % 4]}.p"]})
            ties.append({"id": f"k{k + 1}", "kind": ("horizontal", "vertical")[i % 2], "refs": [n]})
        return {"entities": lines, "constraints": ties}


class Outline:
    """A sketch as it stands when it is done. Refs are entity ids; rows of words say what ties and sizes it:
    ``tie("tangent l1 a1")``, ``size("distance 60 l1 @ 0 -9", "radius r a1 as corner")``."""

    def __init__(self) -> None:
        self.entities: list[Json] = []
        self.constraints: list[Json] = []
        self.dimensions: list[Json] = []

    def _new(self, letter: str, **fields: Any) -> str:
        ident = f"{letter}{sum(e['id'].startswith(letter) for e in self.entities) + 1}"
        self.entities.append({"id": ident, **fields})
        return ident

    def line(self, p: XY, q: XY, construction: bool = False) -> str:
        return self._new("l", kind="line", p=p, q=q, construction=construction)

    def circle(self, c: XY, r: float, construction: bool = False) -> str:
        return self._new("c", kind="circle", c=c, r=r, construction=construction)

    def arc(self, c: XY, p: XY, q: XY) -> str:
        """Counter-clockwise from ``p`` to ``q``."""
        return self._new("a", kind="arc", c=c, r=math.dist(c, p), p=p, q=q)

    def point(self, at: XY) -> str:
        return self._new("p", kind="point", at=at)

    def text(self, said: str, middle: XY, height: float) -> str:
        """A level line of text about its middle."""
        (x, y), half = middle, height / slenderness(said) / 2
        p, q, m = (x - half, y - height / 2), (x + half, y - height / 2), (x - half, y + height / 2)
        return self._new("t", kind="text", text=said, p=p, q=q, m=m, c=middle)

    def tie(self, *rows: str) -> None:
        for row in rows:
            kind, *refs = row.split()
            self.constraints.append({"id": f"k{len(self.constraints) + 1}", "kind": kind, "refs": refs})

    def size(self, *rows: str) -> None:
        for row in rows:
            words, _, place = row.partition(" @ ")
            words, _, name = words.partition(" as ")
            kind, expr, *refs = words.split()
            made: Json = {"id": f"d{len(self.dimensions) + 1}", "kind": kind, "expr": expr}
            if refs[-1] in ("horizontal", "vertical"):
                made["along"] = refs.pop()
            if name:
                made["name"] = name
            if place:
                made["at"] = tuple(float(v) for v in place.split())
            self.dimensions.append(made | {"refs": refs})

    def chain(self, *corners: XY, closed: bool = True) -> list[str]:
        """Joined lines through corners; level and upright ones are tied so."""
        ends = [*corners, corners[0]] if closed else list(corners)
        lines = []
        for p, q in pairwise(ends):
            lines.append(self.line(p, q))
            if p[1] == q[1]:
                self.tie(f"horizontal {lines[-1]}")
            if p[0] == q[0]:
                self.tie(f"vertical {lines[-1]}")
        for a, b in zip(lines, [*lines[1:], lines[0]] if closed else lines[1:], strict=False):
            self.tie(f"coincident {a}.q {b}.p")
        return lines

    def box(self, x: float, y: float, w: float, h: float) -> list[str]:
        return self.chain((x, y), (x + w, y), (x + w, y + h), (x, y + h))

    def slot(self, c1: XY, c2: XY, r: float) -> tuple[str, str, str, str]:
        """A slot along the level line between two centres: lower line, right end, upper line, left end."""
        (x1, y), (x2, _) = c1, c2
        low, top = self.line((x1, y - r), (x2, y - r)), self.line((x2, y + r), (x1, y + r))
        right, left = self.arc(c2, (x2, y - r), (x2, y + r)), self.arc(c1, (x1, y + r), (x1, y - r))
        self.tie(f"coincident {low}.q {right}.p", f"coincident {right}.q {top}.p", f"coincident {top}.q {left}.p")
        self.tie(
            f"coincident {left}.q {low}.p", *(f"tangent {line} {end}" for line in (low, top) for end in (right, left))
        )
        return low, right, top, left

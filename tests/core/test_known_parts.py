"""Parts written by hand as files, drawn only roughly: solved on reading, built, and weighed against closed forms.

Each sketch is drawn some tenths off what its constraints say, as a person would, so that volumes can only come
out right if reading solves it, and only if nothing flips on the way.
"""

from __future__ import annotations

import json
import math
import random
from collections.abc import Callable
from typing import Any

import pytest
from demo.maker import XY, Json, Outline

from sulvak_core.exchange import part_file
from sulvak_core.inspect.mass import mass
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.solid.bulk import bulk
from sulvak_core.steps.sketch_view import sketch_view

pi = math.pi


class Sheet(Outline):
    """A sketch being written down, its entities a little off."""

    def __init__(self, off: float = 0.3) -> None:
        super().__init__()
        self.noise = random.Random(11)
        self.off = off

    def about(self, x: float, y: float) -> XY:
        return x + self.noise.uniform(-self.off, self.off), y + self.noise.uniform(-self.off, self.off)

    def line(self, p: XY, q: XY, construction: bool = False) -> str:
        return super().line(self.about(*p), self.about(*q), construction)

    def circle(self, c: XY, r: float, construction: bool = False) -> str:
        return super().circle(self.about(*c), r * 1.04, construction)

    def arc(self, c: XY, p: XY, q: XY) -> str:
        return self._new("a", kind="arc", c=self.about(*c), r=math.dist(c, p), p=p, q=q)

    def size(self, *rows: str) -> None:
        """``distance 1_1/2 l1 x horizontal as name``: kind, expression (_ for a space), refs, and how."""
        super().size(*rows)
        for made in self.dimensions:
            made["expr"] = made["expr"].replace("_", " ")

    def rectangle(self, w: float, h: float, *, at: XY = (0, 0)) -> list[str]:
        return self.box(*at, w, h)

    def step(self, ident: str, on: Json | str) -> Json:
        where = {"kind": "datum", "plane": on} if isinstance(on, str) else {"kind": "face", "face": on}
        sketch = {"entities": self.entities, "constraints": self.constraints, "dimensions": self.dimensions}
        return {"kind": "sketch", "id": ident, "on": where, "sketch": sketch}


def extrude(ident: str, sketch: str, depth: str | None, **more: Any) -> Json:
    extent = {"kind": more.pop("kind", "depth"), "depth": depth} if depth else {"kind": "through_all"}
    return {"kind": "extrude", "id": ident, "sketch": sketch, "extent": extent, **more}


def origin(*names: str) -> Json:
    return {"origins": list(names)}


def gusset() -> tuple[list[Json], float]:
    """A right-angled plate with a rounded inside corner, cut from lines and one tangent arc."""
    s = Sheet()
    a = s.chain((0, 0), (60, 0), (60, 12), (20, 12), closed=False)
    b = s.chain((12, 20), (12, 50), (0, 50), (0, 0), closed=False)
    r = s.arc((20, 20), (12, 20), (20, 12))
    s.tie(f"coincident {b[-1]}.q {a[0]}.p", f"coincident {a[-1]}.q {r}.q", f"coincident {r}.p {b[0]}.p")
    s.tie(f"tangent {a[-1]} {r}", f"tangent {b[0]} {r}", f"coincident {a[0]}.p origin")
    s.size(f"distance 60 {a[0]}", f"distance 50 {b[-1]}", f"distance 12 {a[1]}", f"distance 12 {b[1]}")
    s.size(f"radius 8 {r}")
    area = 60 * 12 + 12 * 38 + (64 - pi * 16)
    return [s.step("s1", "front"), extrude("s2", "s1", "6")], area * 6


def slotted_link() -> tuple[list[Json], float]:
    """A link with rounded ends, a slot along it and two bolt holes, named sizes driving it all."""
    s = Sheet()
    top, low = s.line((0, 9), (44, 9)), s.line((0, -9), (44, -9))
    right, left = s.arc((44, 0), (44, -9), (44, 9)), s.arc((0, 0), (0, 9), (0, -9))
    s.tie(f"coincident {top}.p {left}.p", f"coincident {low}.p {left}.q", f"coincident {low}.q {right}.p")
    s.tie(f"coincident {top}.q {right}.q", *(f"tangent {line} {end}" for line in (top, low) for end in (left, right)))
    s.tie(f"coincident {left}.c origin", f"horizontal {top}", f"equal {left} {right}")
    s.size(f"distance pitch {left}.c {right}.c", f"radius 9 {right}")
    t2, l2 = s.line((16, 2.5), (28, 2.5)), s.line((16, -2.5), (28, -2.5))
    r2, e2 = s.arc((28, 0), (28, -2.5), (28, 2.5)), s.arc((16, 0), (16, 2.5), (16, -2.5))
    s.tie(f"coincident {t2}.p {e2}.p", f"coincident {l2}.p {e2}.q", f"coincident {l2}.q {r2}.p")
    s.tie(f"coincident {t2}.q {r2}.q", *(f"tangent {line} {end}" for line in (t2, l2) for end in (e2, r2)))
    s.tie(f"coincident {e2}.c x", f"coincident {r2}.c x", f"equal {e2} {r2}")
    s.size(f"radius 2.5 {e2}", f"distance 14 {e2}.c {left}.c", f"distance pitch-2*14 {e2}.c {r2}.c")
    one, two = s.circle((0, 0), 4), s.circle((44, 0), 4)
    s.tie(f"concentric {one} {left}", f"concentric {two} {right}", f"equal {one} {two}")
    s.size(f"diameter pitch/5 {one}")
    pitch = 45.0
    slot = pi * 2.5**2 + (pitch - 28) * 5
    area = pi * 81 + pitch * 18 - slot - 2 * pi * (pitch / 10) ** 2
    return [s.step("s1", "top"), extrude("s2", "s1", "5", kind="symmetric")], area * 5


def stepped_block() -> tuple[list[Json], float]:
    """A block with a boss on its top and a blind pocket in its side, sketched on those faces."""
    s = Sheet()
    base = s.rectangle(50, 30)
    s.tie(f"coincident {base[0]}.p origin")
    s.size(f"distance 50 {base[0]}", f"distance 30 {base[1]}")
    boss = Sheet()
    c = boss.circle((25, 15), 8)
    boss.size(f"diameter 16 {c}", f"distance 25 {c}.c origin horizontal", f"distance 15 {c}.c origin vertical")
    pocket = Sheet(0.05)
    p = pocket.rectangle(20, 6, at=(10, 5))
    pocket.size(f"distance 20 {p[0]}", f"distance 6 {p[1]}")
    pocket.size(f"distance 10 {p[0]}.p origin horizontal", f"distance 5 {p[0]}.p origin vertical")
    steps = [
        s.step("s1", "top"),
        extrude("s2", "s1", "18"),
        boss.step("s3", origin("s2/end")),
        extrude("s4", "s3", "7.5"),
        pocket.step("s5", origin("s2/side/l1")),
        extrude("s6", "s5", "4", operation="cut"),
    ]
    return steps, 50 * 30 * 18 + pi * 64 * 7.5 - 20 * 6 * 4


def frame_in_inches() -> tuple[list[Json], float]:
    """An inch part: a window frame with fractions, its island left standing as a body of its own."""
    s = Sheet()
    outer, window, core = (
        s.rectangle(101.6, 76.2),
        s.rectangle(76.2, 50.8, at=(12.7, 12.7)),
        s.rectangle(25.4, 12.7, at=(38, 31)),
    )
    s.tie(f"coincident {outer[0]}.p origin")
    s.size(f"distance 4 {outer[0]}", f"distance 3 {outer[1]}")
    s.size(f"distance 3 {window[0]}", f"distance 2 {window[1]}")
    s.size(f"distance 1/2 {window[0]} {outer[0]}", f"distance 1/2 {window[3]} {outer[3]}")
    s.size(f"distance 25.4_mm {core[0]}", f"distance 1/2 {core[1]}")
    s.size(f"distance 1_1/2 {core[3]} {outer[3]}", f"distance 1_1/4 {core[0]} {outer[0]}")
    return [s.step("s1", "right"), extrude("s2", "s1", "3/8")], (12 - 6 + 0.5) * 0.375 * 25.4**3


def hexagonal_spacer() -> tuple[list[Json], float]:
    """A hexagon of equal sides in a construction circle, its size by an expression, bored from the other side."""
    s = Sheet()
    at = [(10 * math.cos(k * pi / 3), 10 * math.sin(k * pi / 3)) for k in range(6)]
    sides = [s.line(at[k], at[(k + 1) % 6]) for k in range(6)]
    s.tie(*(f"coincident {sides[k]}.q {sides[(k + 1) % 6]}.p" for k in range(6)))
    ring = s.circle((0, 0), 10)
    s.entities[-1]["construction"] = True
    s.tie(f"coincident {ring}.c origin", *(f"coincident {side}.p {ring}" for side in sides))
    s.tie(*(f"equal {sides[0]} {side}" for side in sides[1:]), f"coincident {sides[0]}.p x")
    s.size(f"diameter 17/cos(30°) {ring}")
    bore = Sheet()
    c = bore.circle((0, 0), 4)
    bore.tie(f"coincident {c}.c origin")
    bore.size(f"diameter 8.4 {c}")
    steps = [
        s.step("s1", "top"),
        extrude("s2", "s1", "11"),
        bore.step("s3", origin("s2/start")),
        extrude("s4", "s3", None, operation="cut"),
    ]
    return steps, (17**2 * math.sqrt(3) / 2 - pi * 4.2**2) * 11


def wedge_with_angle() -> tuple[list[Json], float]:
    """A wedge given by an angle and a slanted length, with a hole square to its bottom."""
    s = Sheet()
    lines = s.chain((0, 0), (40, 0), (40, 22), closed=False)
    slope = s.line((40, 22), (0, 0))
    s.tie(f"coincident {lines[1]}.q {slope}.p", f"coincident {slope}.q {lines[0]}.p", f"coincident {lines[0]}.p origin")
    s.size(f"angle 30° {lines[0]} {slope}", f"distance 48 {slope}")
    s.dimensions[0]["supplement"] = True
    hole = Sheet()
    c = hole.circle((30, 8), 3)
    hole.size(f"radius 3 {c}", f"distance 30 {c}.c origin horizontal", f"distance 9 {c}.c origin vertical")
    steps = [
        s.step("s1", "front"),
        extrude("s2", "s1", "-1*(6-24)"),
        hole.step("s3", origin("s2/side/l1")),
        extrude("s4", "s3", "9", operation="cut"),
    ]
    legs = 48 * math.cos(pi / 6), 24.0
    # the bottom lies in z = 0 with the hole 30 along x; the slope stands 30·tan 30° above it, all over 9 deep
    return steps, legs[0] * legs[1] / 2 * 18 - pi * 9 * 9


def comb() -> tuple[list[Json], float]:
    """Five slots in one sketch, drawn as five loops, cut at once; then mirrored sizes by symmetry about an axis."""
    s = Sheet()
    base = s.rectangle(80, 20, at=(-40, -10))
    s.tie(f"symmetric {base[1]} {base[3]} y", f"symmetric {base[0]} {base[2]} x")
    s.size(f"distance 80 {base[0]}", f"distance 20 {base[1]}")
    teeth = Sheet(0.1)
    for k in range(5):
        b = teeth.rectangle(4, 12, at=(-34 + 16 * k, -2))
        teeth.size(f"distance 4 {b[0]}", f"distance 12 {b[1]}", f"distance 2 {b[0]} x")
        teeth.size(f"distance {abs(-34 + 16 * k)} {b[0]}.p origin horizontal")
    steps = [
        s.step("s1", "top"),
        extrude("s2", "s1", "9"),
        teeth.step("s3", "top"),
        extrude("s4", "s3", None, operation="cut"),
    ]
    # each slot 12 long from 2 under the axis: 10 above it, flush with the edge
    return steps, 80 * 20 * 9 - 5 * 4 * 12 * 9


def two_bodies_joined() -> tuple[list[Json], float]:
    """Two pillars as bodies of their own, a bridge that joins them, and a cross hole through all three."""
    s = Sheet()
    for k in (0, 1):
        b = s.rectangle(10, 10, at=(30 * k, 0))
        s.size(f"distance 10 {b[0]}", f"distance 10 {b[1]}")
        s.tie(f"coincident {b[0]}.p x")
        s.size(f"distance {30 * k} {b[0]}.p origin horizontal") if k else s.tie(f"coincident {b[0]}.p y")
    bridge = Sheet()
    b = bridge.rectangle(40, 10, at=(0, 0))
    bridge.tie(f"coincident {b[0]}.p origin")
    bridge.size(f"distance 40 {b[0]}", f"distance 10 {b[1]}")
    hole = Sheet()
    c = hole.circle((5, 8), 2)
    hole.size(f"diameter 4 {c}", f"distance 5 {c}.c origin horizontal", f"distance 8 {c}.c origin vertical")
    steps = [
        s.step("s1", "top"),
        extrude("s2", "s1", "20"),
        bridge.step("s3", origin("s2/end")),
        extrude("s4", "s3", "6"),
        hole.step("s5", "right"),
        extrude("s6", "s5", None, operation="cut"),
    ]
    return steps, 2 * 100 * 20 + 400 * 6 - 2 * pi * 4 * 10


PARTS: list[tuple[Callable[[], tuple[list[Json], float]], Json]] = [
    (gusset, {}),
    (slotted_link, {"values": [{"name": "pitch", "expr": "9*5"}]}),
    (stepped_block, {}),
    (frame_in_inches, {"unit": "in"}),
    (hexagonal_spacer, {}),
    (wedge_with_angle, {}),
    (comb, {}),
    (two_bodies_joined, {}),
]


@pytest.mark.parametrize(("made", "fields"), PARTS, ids=lambda v: getattr(v, "__name__", ""))
def test_a_part_from_a_file(made: Callable[[], tuple[list[Json], float]], fields: Json) -> None:
    steps, volume = made()
    data = {"format": "sulvak-part", "format_version": 1, "name": made.__name__, "steps": steps, **fields}
    document = part_file.read(json.dumps({**data, "material": "Aluminium EN AW-6082"}))
    result = build(document, Cache())
    assert not result.failed, [r.said for r in result.failed]
    assert result.state.volume() == pytest.approx(volume, rel=1e-9)
    told = mass(document, result.state)
    assert told["mass"] == pytest.approx(volume * 2.70e-3, rel=1e-9)
    # every sketch is fully constrained: these files leave nothing to the drawing
    for step in document.steps:
        if step.kind == "sketch":
            assert sketch_view(document, step)["freedom"] == 0, step.id
    # written, read and built again it is the same
    again = build(part_file.read(part_file.write(document)), Cache())
    assert again.key == result.key
    one, other = (bulk(r.state.bodies[0].solid) for r in (result, again))
    assert one.centre == pytest.approx(other.centre, abs=1e-9)


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("made", [m for m, _ in PARTS if m not in (slotted_link, frame_in_inches)])
def test_how_roughly_it_is_drawn_makes_no_difference(made: Callable[[], tuple[list[Json], float]], seed: int) -> None:
    """The same file, every free coordinate moved again by up to 0.25 mm, gives the same part."""
    steps, volume = made()
    noise = random.Random(seed)

    def moved(p: tuple[float, float]) -> tuple[float, float]:
        return p[0] + noise.uniform(-0.25, 0.25), p[1] + noise.uniform(-0.25, 0.25)

    for step in steps:
        for entity in step["sketch"]["entities"] if step["kind"] == "sketch" else ():
            for key in {"p", "q", "c"} & set(entity):
                entity[key] = moved(entity[key])
    document = part_file.read(json.dumps({"format": "sulvak-part", "format_version": 1, "name": "n", "steps": steps}))
    result = build(document, Cache())
    assert not result.failed, [r.said for r in result.failed]
    assert result.state.volume() == pytest.approx(volume, rel=1e-9)


def test_a_material_nobody_knows_is_told_when_the_file_is_read() -> None:
    steps, _ = gusset()
    data = {"format": "sulvak-part", "format_version": 1, "name": "n", "steps": steps}
    with pytest.raises(Refusal, match="There is no material “Unobtainium”"):
        part_file.read(json.dumps({**data, "material": "Unobtainium"}))
    body = {"kind": "body", "id": "s3", "body": "s2", "material": "Unobtainium"}
    with pytest.raises(Refusal, match="Step 30: There is no material"):
        part_file.read(json.dumps({**data, "steps": [*steps, body]}))

"""The lid of the electronics pod: moulded, with draft, a wall all over, bosses and a rib."""

from __future__ import annotations

import math

from .drawing import XY, Sheet, balloon
from .maker import Maker, Outline, by_depth, datum, face


def _sheet() -> tuple[Sheet, list[tuple[str, XY]]]:
    s = Sheet("POD LID", "FKS-0316", "ABS", "1:1", ["ALL SIZES IN mm", "MASS 6.1 g ±0.1 g", "DRAFT 2° ALL SIDES"], True)
    x, top, front = 60.0, 50.0, 130.0
    s.shape([(x, top, 6), (x + 64, top, 6), (x + 64, top + 44, 6), (x, top + 44, 6)])
    for boss in (10, 54):
        s.circle((x + boss, top + 22), 3, True)
        s.circle((x + boss, top + 22), 1.1, False)
    for edge in (-0.6, 0.6):
        s.line((x + 13, top + 22 + edge), (x + 51, top + 22 + edge), "hidden")
    lean = 5 * math.tan(math.radians(2))
    s.outline([(x, front + 5), (x + 64, front + 5), (x + 64 - lean, front), (x + lean, front)])
    s.line((x + 1.7, front + 1.6), (x + 62.3, front + 1.6), "hidden")
    rows = [
        ("64", balloon(s.across((x, top + 44), (x + 64, top + 44), top + 56, "64"))),
        ("44", balloon(s.upright((x, top), (x, top + 44), x - 12, "44"))),
        ("4X R6", balloon(s.leader((x + 62.2, top + 1.8), (x + 84, top - 12), "4X R6"))),
        ("5", balloon(s.upright((x, front), (x, front + 5), x - 12, "5"))),
        ("2°", balloon(s.leader((x + 64, front + 3), (x + 86, front - 6), "2°"))),
        ("1.6", balloon(s.leader((x + 50, front + 0.8), (x + 66, front - 18), "1.6"))),
        ("2X Ø6", balloon(s.leader((x + 56.1, top + 19.9), (x + 90, top + 8), "2X Ø6"))),
        ("44", balloon(s.across((x + 10, top + 22), (x + 54, top + 22), top - 10, "44"))),
        ("1.2", balloon(s.leader((x + 30, top + 22.6), (x + 84, top + 60), "1.2"))),
        ("2X Ø2.2 ↧ 3", balloon(s.leader((x + 54.8, top + 22.8), (x + 90, top + 32), "2X Ø2.2 ↧ 3"))),
    ]
    return s, rows


def pod_lid() -> Maker:
    """Finished: 64 × 44 × 5, drafted 2°, a wall of 1.6 open below, two bosses with pilot holes and a rib between."""
    s, rows = _sheet()
    m = Maker(
        projection="first",
        name="Pod lid",
        number="FKS-0316",
        description="Closes the electronics pod; two thread-forming screws from below.",
        material="ABS",
        target_mass={"grams": 6.1, "tolerance": 0.1},
    )
    m.sheet("pod-lid.svg", s.svg())
    m.callouts(rows)
    o = Outline()
    sides = o.box(-32, -22, 64, 44)
    o.tie(f"symmetric {sides[1]} {sides[3]} y", f"symmetric {sides[0]} {sides[2]} x")
    o.size(f"distance 64 {sides[0]} @ 0 -30", f"distance 44 {sides[1]} @ 40 0")
    m.drawn("s1", datum("top"), o)
    corners = [f"l{n}.q" for n in range(1, 5)]
    m.do("sketch_fillet", step="s1", corners=corners, radius="6")
    m.extrude("s2", "s1", by_depth("5"))
    walls = [{"by": "sides", "step": "s2"}]
    m.step("draft", "s3", neutral=face("s2/start"), groups=[{"faces": walls, "angle": "2"}])
    opened = [{"by": "pick", "face": {"origins": ["s2/start"], "said": "start face of step 20"}}]
    m.step("shell", "s4", faces=opened, thickness="1.6")
    o = Outline()
    left, right = o.circle((-22, 0), 3), o.circle((22, 0), 3)
    o.tie(f"symmetric {left} {right} y", f"coincident {left}.c x")
    o.size(f"diameter 6 {right} @ 28 8", f"distance 44 {left}.c {right}.c @ 0 -10")
    m.drawn("s5", datum("top"), o)
    m.extrude("s6", "s5", {"kind": "to_next"}, name="Bosses")
    m.step("datum", "s7", form="offset", plane=datum("top"), distance="1")
    o = Outline()
    rib = o.line((-22, 0), (22, 0))
    o.tie(f"symmetric {rib}.p {rib}.q y", f"coincident {rib}.p x")
    o.size(f"distance 44 {rib} @ 0 8")
    m.drawn("s8", {"kind": "plane", "step": "s7"}, o)
    m.extrude("s9", "s8", by_depth("2.4"), wall="1.2", name="Rib")
    o = Outline()
    left, right = o.point((-22, 0)), o.point((22, 0))
    o.tie(f"symmetric {left} {right} y", f"coincident {left} x")
    o.size(f"distance 44 {left} {right} @ 0 -10")
    m.drawn("s10", datum("top"), o)
    m.step("hole", "s11", sketch="s10", diameter="2.2", end="blind", depth="3", tip="flat", reverse=True)
    rounds = next(d.id for d in m.document.step("s1").sketch.dimensions if d.kind == "radius")  # type: ignore[union-attr]
    links = [("s1", "d1"), ("s1", "d2"), ("s1", rounds), ("s2", "depth"), ("s3", "angle"), ("s4", "thickness")]
    links += [("s5", "d1"), ("s5", "d2"), ("s9", "wall"), ("s11", "diameter")]
    for number, (step, field) in enumerate(links, 1):
        m.link(number, step, field)
    return m

"""The camera cradle of the demo: a U with rounded walls, pivot holes and a slot for the camera's screw."""

from __future__ import annotations

import math

from .drawing import XY, Sheet, balloon
from .maker import Maker, Outline, datum


def _sheet() -> tuple[Sheet, list[tuple[str, XY]]]:
    s = Sheet("CAMERA CRADLE", "FKS-0208", "EN AW-5754", "1:1", ["ALL SIZES IN mm", "MASS 52.9 g ±0.5 g"], True)
    x, y = 80.0, 80.0  # front view: middle of the base, its underside
    s.shape([(x - 30, y, 7), (x + 30, y, 7), (x + 30, y - 45, 0), (x + 26, y - 45, 0), (x + 26, y - 4, 3),
             (x - 26, y - 4, 3), (x - 26, y - 45, 0), (x - 30, y - 45, 0)])  # fmt: skip
    s.line((x, y - 12), (x, y + 5), "centre")
    side = 180.0  # side view: middle
    s.shape([(side - 20, y, 0), (side + 20, y, 0), (side + 20, y - 45, 15), (side - 20, y - 45, 15)])
    s.line((side - 20, y - 4), (side + 20, y - 4), "hidden")
    s.circle((side, y - 30), 4)
    s.circle((side, y - 30), 10, False, "thin")
    for k in range(4):
        at = (side + 10 * math.cos(k * math.pi / 2), y - 30 + 10 * math.sin(k * math.pi / 2))
        s.circle(at, 1.6, False)
    top = 140.0  # from above: middle
    s.rect(x - 30, top - 20, 60, 40)
    for wall in (-26, 26):
        s.line((x + wall, top - 20), (x + wall, top + 20))
    s.slot((x, top), 24, 3.25)
    s.line((x - 20, top), (x + 20, top), "centre")
    rows = [
        ("60", balloon(s.across((x - 30, y), (x + 30, y), y + 14, "60"))),
        ("45", balloon(s.upright((x - 30, y - 45), (x - 30, y), x - 42, "45"))),
        ("4", balloon(s.across((x + 26, y - 45), (x + 30, y - 45), y - 54, "4"))),
        ("2X R3", balloon(s.leader((x - 25.1, y - 4.9), (x - 6, y - 22), "2X R3"))),
        ("2X R7", balloon(s.leader((x + 28, y - 2), (x + 40, y + 8), "2X R7"))),
        ("40", balloon(s.across((side - 20, y), (side + 20, y), y + 14, "40"))),
        ("R15", balloon(s.leader((side + 15.6, y - 40.6), (side + 30, y - 54), "R15"))),
        ("2X Ø8 THRU", balloon(s.leader((side + 2.83, y - 27.2), (side + 30, y - 16), "2X Ø8 THRU"))),
        ("30", balloon(s.upright((side, y - 30), (side, y), side - 32, "30"))),
        ("8X Ø3.2 THRU", balloon(s.leader((side - 8.9, y - 31.1), (side - 22, y - 56), "8X Ø3.2 THRU"))),
        ("10", balloon(s.across((side, y - 45), (side + 10, y - 30), y - 60, "10"))),
        ("24", balloon(s.across((x - 12, top), (x + 12, top), top + 30, "24"))),
        ("6.5", balloon(s.upright((x + 15, top - 3.25), (x + 15, top + 3.25), x + 42, "6.5"))),
    ]
    return s, rows


def camera_cradle() -> Maker:
    """Finished: a U 60 × 45 × 40 of 4 thick sheet, pivot holes with a ring of eight small ones, a slotted base."""
    s, rows = _sheet()
    m = Maker(
        projection="first",
        name="Camera cradle",
        number="FKS-0208",
        description="Carries the camera; hangs in the tilt arms by its pivot holes.",
        material="Aluminium EN AW-5754 (AlMg3)",
        target_mass={"grams": 52.9, "tolerance": 0.5},
    )
    m.sheet("camera-cradle.svg", s.svg())
    m.callouts(rows)
    o = Outline()
    at = [(-30, 0), (30, 0), (30, 45), (26, 45), (26, 4), (-26, 4), (-26, 45), (-30, 45)]
    sides = o.chain(*((float(px), float(py)) for px, py in at))
    o.tie(f"symmetric {sides[1]} {sides[7]} y", f"symmetric {sides[3]} {sides[5]} y", f"coincident {sides[0]}.p x")
    o.size(
        f"distance 60 {sides[0]} @ 0 -9", f"distance 45 {sides[7]} @ -40 22", f"distance 4 {sides[2]} as sheet @ 28 52"
    )
    o.size(f"distance sheet {sides[0]} {sides[4]} @ 10 10")
    m.drawn("s1", datum("front"), o)
    m.extrude("s2", "s1", {"kind": "symmetric", "depth": "40"})

    def between(a: int, b: int) -> dict[str, object]:
        faces = [{"origins": [f"s2/side/l{a}"]}, {"origins": [f"s2/side/l{b}"]}]
        return {"by": "pick", "edge": {"between": faces}}

    m.step("fillet", "s3", groups=[
        {"edges": [{"by": "inside", "step": "s2"}], "radius": "3"},
        {"edges": [between(1, 2), between(8, 1)], "radius": "7"},
    ])  # fmt: skip
    ends = [{"origins": [f"s2/{end}"]} for end in ("start", "end")]
    tops = [
        {"by": "pick", "edge": {"between": [end, {"origins": [f"s2/side/l{top}"]}]}} for end in ends for top in (3, 7)
    ]
    m.step("fillet", "s4", groups=[{"edges": tops, "radius": "15"}])
    o = Outline()
    pivot = o.circle((0, 30), 4)
    o.tie(f"coincident {pivot}.c y")
    o.size(f"diameter 8 {pivot} @ 12 36", f"distance 30 {pivot}.c origin @ -14 15")
    m.drawn("s5", datum("right"), o)
    both = {"kind": "symmetric", "depth": "70"}
    m.extrude("s6", "s5", both, "cut", name="Pivot holes")
    o = Outline()
    hole, centre = o.circle((0, 40), 1.6), o.point((0, 30))
    o.tie(f"coincident {hole}.c y", f"coincident {centre} y")
    o.size(
        f"diameter 3.2 {hole} @ 8 46", f"distance 10 {hole}.c {centre} @ -8 35", f"distance 30 {centre} origin @ 14 15"
    )
    m.drawn("s7", datum("right"), o)
    m.extrude("s8", "s7", both, "cut", name="Ring of holes")
    axis = {"kind": "face", "face": {"origins": ["s6/side/c1"]}}
    m.step("pattern", "s9", form="circular", of=["s8"], along=axis, count="4", measure="total", angle="360")
    o = Outline()
    low, right, top, left = o.slot((-12, 0), (12, 0), 3.25)
    o.tie(f"symmetric {right}.c {left}.c y", f"coincident {right}.c x", f"equal {right} {left}")
    o.size(f"distance 24 {right}.c {left}.c @ 0 -10", f"distance 6.5 {low} {top} @ 20 0")
    m.drawn("s10", datum("top"), o)
    m.extrude("s11", "s10", {"kind": "depth", "depth": "sheet"}, "cut", name="Camera slot")
    links = [("s1", "d1"), ("s1", "d2"), ("s1", "d3"), ("s3", "radius"), ("s3", "radius2"), ("s2", "depth")]
    links += [("s4", "radius"), ("s5", "d1"), ("s5", "d2"), ("s7", "d1"), ("s7", "d2"), ("s10", "d1"), ("s10", "d2")]
    for number, (step, field) in enumerate(links, 1):
        m.link(number, step, field)
    return m

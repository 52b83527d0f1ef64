"""The split boom clamp of the demo: two bodies, bolted about a boom."""

from __future__ import annotations

from .drawing import XY, Sheet, balloon
from .maker import Maker, Outline, datum, face

SCREWS = "2X Ø5.5 THRU ⌴ Ø10 ↧ 5.5"
ON_SHEET = SCREWS.replace("⌴", "CBORE")  # the letters of an SVG have no such sign


def _sheet() -> tuple[Sheet, list[tuple[str, XY]]]:
    s = Sheet(
        "BOOM CLAMP", "FKS-0420", "EN AW-6082", "1:1", ["ALL SIZES IN mm", "MASS 40.9 g ±0.4 g, BOTH HALVES"], True
    )
    x, y = 80.0, 90.0  # front view: middle of the bore
    s.shape([(x - 22, y + 17, 2), (x + 22, y + 17, 2), (x + 22, y - 13, 2), (x - 22, y - 13, 2)])
    s.circle((x, y), 11)
    for side in (-1, 1):
        s.line((x + side * 22, y), (x + side * 11, y))
        for edge in (-2.75, 2.75):
            s.line((x + side * 15 + edge, y), (x + side * 15 + edge, y - 7.5), "hidden")
        for edge in (-5, 5):
            s.line((x + side * 15 + edge, y - 7.5), (x + side * 15 + edge, y - 13), "hidden")
        s.line((x + side * 15 - 5, y - 7.5), (x + side * 15 + 5, y - 7.5), "hidden")
        for edge in (-2.1, 2.1):
            s.line((x + side * 15 + edge, y), (x + side * 15 + edge, y + 17), "hidden")
    top = 145.0
    s.rect(x - 22, top - 9, 44, 18)
    for side in (-15, 15):
        s.circle((x + side, top), 5)
        s.circle((x + side, top), 2.75, False)
    rows = [
        ("44", balloon(s.across((x - 22, y + 17), (x + 22, y + 17), y + 28, "44"))),
        ("17", balloon(s.upright((x - 22, y), (x - 22, y + 17), x - 34, "17"))),
        ("13", balloon(s.upright((x + 22, y - 13), (x + 22, y), x + 36, "13"))),
        ("Ø22 THRU", balloon(s.leader((x + 7.8, y - 7.8), (x + 46, y - 30), "Ø22 THRU"))),
        ("4X R2", balloon(s.leader((x - 21.4, y - 12.4), (x - 32, y - 26), "4X R2"))),
        ("18", balloon(s.upright((x - 22, top - 9), (x - 22, top + 9), x - 34, "18"))),
        ("30", balloon(s.across((x - 15, top - 9), (x + 15, top - 9), top + 20, "30"))),
        (SCREWS, balloon(s.leader((x + 18.5, top - 3.5), (x + 40, top - 14), ON_SHEET))),
        ("2X M5 THRU", balloon(s.leader((x + 16, top + 2), (x + 40, top + 12), "2X M5 THRU"))),
    ]  # fmt: skip
    return s, rows


def boom_clamp() -> Maker:
    """Finished: a block 44 × 30 × 18 bored Ø22 and split through the bore; two screws hold the halves together."""
    s, rows = _sheet()
    m = Maker(
        projection="first",
        name="Boom clamp",
        number="FKS-0420",
        description="Holds the rig's boom; two M5 cap screws from above.",
        material="Aluminium EN AW-6082",
        target_mass={"grams": 40.9, "tolerance": 0.4},
    )
    m.sheet("boom-clamp.svg", s.svg())
    m.callouts(rows)
    o = Outline()
    sides = o.box(-22, -17, 44, 30)
    bore = o.circle((0, 0), 11)
    o.tie(f"symmetric {sides[1]} {sides[3]} y", f"coincident {bore}.c origin")
    o.size(f"distance 44 {sides[0]} @ 0 -26", f"distance 17 {sides[0]} x @ -30 -8", f"distance 13 {sides[2]} x @ 30 6")
    o.size(f"diameter 22 {bore} @ 16 20")
    m.drawn("s1", datum("front"), o)
    m.extrude("s2", "s1", {"kind": "symmetric", "depth": "18"})
    m.step("fillet", "s3", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "2"}])
    m.step("split", "s4", plane=datum("top"))
    m.step("body", "s5", body="s2", title="Lower half", colour="#8f9aa6")
    m.step("body", "s6", body="s2x2", title="Upper half")
    o = Outline()
    left, right = o.point((-15, 0)), o.point((15, 0))
    o.tie(f"symmetric {left} {right} y", f"coincident {left} x")
    o.size(f"distance 30 {left} {right} @ 0 -12")
    m.drawn("s7", face("s2/side/l3", said="wall of step 20 from line 3"), o)
    sunk = {"form": "counterbore", "bore_diameter": "10", "bore_depth": "5.5"}
    m.step("hole", "s8", sketch="s7", diameter="5.5", bodies=["s2x2"], **sunk)
    m.step("hole", "s9", sketch="s7", form="tapped", size="M5", bodies=["s2"])
    links = [*(("s1", f"d{n}") for n in range(1, 5)), ("s3", "radius"), ("s2", "depth"), ("s7", "d1")]
    for number, (step, field) in enumerate([*links, ("s8", "diameter"), ("s9", "diameter")], 1):
        m.link(number, step, field)
    return m

"""The line cleat of the demo: a drawing received as DXF, and the part made from it."""

from __future__ import annotations

import itertools

from .drawing import Sheet, balloon
from .maker import Maker, Outline, datum, face


def received() -> str:
    """The outline of the line cleat as it was received: a DXF (R12) with the mistakes that such files bring."""
    rows: list[tuple[int, object]] = [(0, "SECTION"), (2, "ENTITIES")]

    def entity(kind: str, layer: str, *codes: tuple[int, object]) -> None:
        rows.extend([(0, kind), (8, layer), *codes])

    def straight(*way: tuple[float, float]) -> None:
        for (ax, ay), (bx, by) in itertools.pairwise(way):
            entity("LINE", "OUTLINE", (10, ax), (20, ay), (30, 0.0), (11, bx), (21, by), (31, 0.0))

    def round_end(x: float, start: float) -> None:
        entity("ARC", "OUTLINE", (10, x), (20, 20.0), (30, 0.0), (40, 4.0), (50, start), (51, start + 180))

    straight((0, 6), (0, 0), (63, 0))  # goes past the corner
    straight((60, 0), (60, 6), (40, 6), (40, 16), (56, 16))
    straight((40, 6), (40, 16))  # a second time
    round_end(56, 270)
    straight((56, 24), (4.02, 24), (4, 24))  # with a leftover
    round_end(4, 90)
    straight((4, 16), (20, 16), (20, 6.12))  # stops short
    straight((20, 6), (0, 6))
    for y, z in ((8.0, 0.0), (18.0, 6.0)):  # the second one not in the plane
        entity("CIRCLE", "HOLES", (10, 30.0), (20, y), (30, z), (40, 2.5))
    entity("TEXT", "NOTES", (10, 0.0), (20, 32.0), (30, 0.0), (40, 3.0), (1, "LINE CLEAT, 10 THICK"))
    rows += [(0, "ENDSEC"), (0, "EOF")]
    return "".join(f"{code:>3}\n{value}\n" for code, value in rows)


def line_cleat() -> Maker:
    """Finished: a horned cleat 60 × 24 × 10 with two bolt holes, its inside corners rounded R3."""
    s = Sheet("LINE CLEAT", "FKS-0510", "PA 6", "1:1", ["ALL SIZES IN mm", "MASS 11.3 g ±0.2 g"])
    x, y = 70.0, 90.0
    corners = [(0, 24, 4), (60, 24, 4), (60, 16, 4), (40, 16, 3), (40, 6, 3), (60, 6, 0), (60, 0, 0), (0, 0, 0)]
    corners += [(0, 6, 0), (20, 6, 3), (20, 16, 3), (0, 16, 4)]
    s.shape([(x + px, y - py, r) for px, py, r in corners])
    for hole in (8, 18):
        s.circle((x + 30, y - hole), 2.5)
    side = x + 90
    s.rect(side, y - 24, 10, 24)
    for level in (6, 16):
        s.line((side, y - level), (side + 10, y - level))
    rows = [
        ("60", balloon(s.across((x, y), (x + 60, y), y + 12, "60"))),
        ("6", balloon(s.upright((x, y - 6), (x, y), x - 10, "6"))),
        ("20", balloon(s.across((x + 20, y - 10), (x + 40, y - 10), y + 24, "20"))),
        ("10", balloon(s.upright((x + 40, y - 16), (x + 40, y - 6), x + 78, "10"))),
        ("2X R4", balloon(s.leader((x + 59.4, y - 22), (x + 70, y - 34), "2X R4"))),
        ("52", balloon(s.across((x + 4, y - 24), (x + 56, y - 24), y - 34, "52"))),
        ("R3", balloon(s.leader((x + 19.1, y - 6.9), (x - 8, y - 14), "R3"))),
        ("10", balloon(s.across((side, y), (side + 10, y), y + 12, "10"))),
        ("2X Ø5 THRU", balloon(s.leader((x + 32.2, y - 6.8), (x + 76, y + 32), "2X Ø5 THRU"))),
        ("10", balloon(s.upright((x + 30, y - 18), (x + 30, y - 8), x - 20, "10"))),
        ("8", balloon(s.upright((x + 30, y - 8), (x + 30, y), x - 30, "8"))),
    ]
    m = Maker(
        name="Line cleat",
        number="FKS-0510",
        description="Makes the kite line fast to the rig.",
        material="PA 6",
        target_mass={"grams": 11.3, "tolerance": 0.2},
    )
    m.sheet("line-cleat.svg", s.svg())
    m.callouts(rows)
    o = Outline()
    sides = o.chain(
        (4, 16), (20, 16), (20, 6), (0, 6), (0, 0), (60, 0), (60, 6), (40, 6), (40, 16), (56, 16), closed=False
    )  # fmt: skip
    right = o.arc((56, 20), (56, 16), (56, 24))
    top = o.line((56, 24), (4, 24))
    left = o.arc((4, 20), (4, 24), (4, 16))
    o.tie(f"coincident {sides[8]}.q {right}.p", f"coincident {right}.q {top}.p", f"coincident {top}.q {left}.p")
    o.tie(
        f"coincident {left}.q {sides[0]}.p",
        f"tangent {sides[8]} {right}",
        f"tangent {top} {right}",
        f"tangent {top} {left}",
    )
    o.tie(
        f"tangent {sides[0]} {left}",
        f"coincident {sides[4]}.p origin",
        f"equal {sides[3]} {sides[5]}",
        f"equal {sides[2]} {sides[6]}",
    )
    o.tie(f"equal {sides[0]} {sides[8]}", f"equal {sides[1]} {sides[7]}", f"horizontal {top}")
    o.size(
        f"distance 60 {sides[4]} @ 30 -10",
        f"distance 6 {sides[3]} @ -8 3",
        f"distance 20 {sides[1]} {sides[7]} @ 30 30",
    )
    o.size(f"distance 10 {sides[7]} @ 48 11", f"radius 4 {right} @ 66 26", f"distance 52 {top} @ 30 36")
    m.drawn("s1", datum("front"), o)
    m.extrude("s2", "s1", {"kind": "symmetric", "depth": "10"})
    m.step("fillet", "s3", groups=[{"edges": [{"by": "inside", "step": "s2"}], "radius": "3"}])
    holes = Outline()
    low, high = holes.point((30, 8)), holes.point((30, 18))
    holes.tie(f"vertical {low} {high}")
    holes.size(f"distance 30 {low} origin horizontal @ 15 -6", f"distance 8 {low} origin vertical @ 46 4")
    holes.size(f"distance 10 {low} {high} @ 50 13")
    m.drawn("s4", face("s2/end", said="end face of step 20"), holes)
    m.step("hole", "s5", sketch="s4", diameter="5")
    links = [("s1", "d1"), ("s1", "d2"), ("s1", "d3"), ("s1", "d4"), ("s1", "d5"), ("s1", "d6"), ("s3", "radius")]
    for number, (step, field) in enumerate(
        [*links, ("s2", "depth"), ("s5", "diameter"), ("s4", "d3"), ("s4", "d2")], 1
    ):
        m.link(number, step, field)
    return m

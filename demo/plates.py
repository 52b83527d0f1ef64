"""Flat parts of the demo: the cross plate and the ballast bar."""

from __future__ import annotations

from typing import Any

from .drawing import XY, Sheet, balloon
from .maker import Maker, Outline, by_depth, datum, face

ENGRAVED = "ENGRAVE FKS-0402, 6 HIGH, 0.3 DEEP"


def ballast_bar() -> Maker:
    """Only a sheet: ready to be modelled. 120 × 24 × 10 with two bolt holes and a pocket."""
    s = Sheet("BALLAST BAR", "FKS-0402", "BRASS CW614N", "1:1", ["ALL SIZES IN mm", "MASS 213.9 g ±1 g"])
    x, top, front = 40.0, 60.0, 110.0
    s.rect(x, top, 120, 24)
    for hole in (10, 110):
        s.circle((x + hole, top + 12), 3.25)
    s.rect(x + 30, top + 6, 60, 12)
    s.line((x - 4, top + 12), (x + 124, top + 12), "centre")
    s.rect(x, front, 120, 10)
    for hole in (10, 110):
        for side in (-3.25, 3.25):
            s.line((x + hole + side, front), (x + hole + side, front + 10), "hidden")
    s.line((x + 30, front + 4), (x + 90, front + 4), "hidden")
    for side in (30, 90):
        s.line((x + side, front), (x + side, front + 4), "hidden")
    s.rect(x + 160, front, 24, 10)
    rows = [
        ("120", balloon(s.across((x, front + 10), (x + 120, front + 10), front + 22, "120"))),
        ("24", balloon(s.upright((x, top), (x, top + 24), x - 12, "24"))),
        ("10", balloon(s.upright((x + 160, front), (x + 160, front + 10), x + 152, "10"))),
        ("100", balloon(s.across((x + 10, top), (x + 110, top), top - 18, "100"))),
        ("2X Ø6.5 THRU", balloon(s.leader((x + 112.3, top + 9.7), (x + 132, top - 8), "2X Ø6.5 THRU"))),
        ("60", balloon(s.across((x + 30, top + 6), (x + 90, top + 6), top - 7, "60"))),
        ("12", balloon(s.upright((x + 90, top + 6), (x + 90, top + 18), x + 128, "12"))),
        ("4", balloon(s.upright((x, front), (x, front + 4), x - 8, "4"))),
        (ENGRAVED, balloon(s.leader((x + 76, top + 14), (x + 134, top + 32), ENGRAVED))),
    ]
    s.text((x + 60, top + 14.4), "FKS-0402", 6.0)
    m = Maker(
        name="Ballast bar",
        number="FKS-0402",
        description="Trims the rig under the kite line; bolted to the tilt arm.",
        material="Brass CW614N",
        target_mass={"grams": 213.9, "tolerance": 1.0},
    )
    m.sheet("ballast-bar.svg", s.svg())
    m.callouts(rows)
    return m


def finished_bar() -> Maker:
    """The ballast bar as it is when it is done, its number engraved in the pocket."""
    m = ballast_bar()
    o = Outline()
    sides = o.box(-60, -12, 120, 24)
    left, right = o.circle((-50, 0), 3.25), o.circle((50, 0), 3.25)
    o.tie(f"symmetric {sides[1]} {sides[3]} y", f"symmetric {sides[0]} {sides[2]} x", f"equal {left} {right}")
    o.tie(f"symmetric {left}.c {right}.c y", f"coincident {left}.c x")
    o.size(
        f"distance 120 {sides[0]} @ 0 -20", f"distance 24 {sides[1]} @ 70 0", f"distance 100 {left}.c {right}.c @ 0 18"
    )
    o.size(f"diameter 6.5 {right} @ 58 8")
    m.drawn("s1", datum("top"), o)
    m.extrude("s2", "s1", by_depth("10"))
    top = face("s2/end", said="end face of step 20")
    o = Outline()
    sides = o.box(-30, -6, 60, 12)
    o.tie(f"symmetric {sides[1]} {sides[3]} y", f"symmetric {sides[0]} {sides[2]} x")
    o.size(f"distance 60 {sides[0]} @ 0 -9", f"distance 12 {sides[1]} @ 36 0")
    m.drawn("s3", top, o)
    m.extrude("s4", "s3", by_depth("4"), "cut", name="Pocket")
    o = Outline()
    number = o.text("FKS-0402", (0, 0), 6)
    o.tie(f"horizontal {number}.p {number}.q", f"coincident {number}.c origin")
    o.size(f"distance 6 {number}.p {number}.m @ -24 0")
    m.drawn("s5", face("s4/end", said="end face of step 40"), o)
    m.extrude("s6", "s5", by_depth("0.3"), "cut", name="Number")
    links = [("s1", "d1"), ("s1", "d2"), ("s2", "depth"), ("s1", "d3"), ("s1", "d4"), ("s3", "d1"), ("s3", "d2")]
    for n, (step, field) in enumerate([*links, ("s4", "depth")], 1):
        m.link(n, step, field)
    return m


def cross_plate() -> Maker:
    """Finished and proven: a cross of 90 × 90 with 30 wide arms, 4 thick, a bore and four bolt holes."""
    s = Sheet("CROSS PLATE", "FKS-0101", "EN AW-5754", "1:1", ["ALL SIZES IN mm", "MASS 45.2 g ±0.5 g"])
    cx, cy = 90.0, 100.0
    half, arm = 45.0, 15.0
    at = [(-arm, -half), (arm, -half), (arm, -arm), (half, -arm), (half, arm), (arm, arm)]
    points = [*at, *((-x, -y) for x, y in at)]
    s.outline([(cx + px, cy - py) for px, py in points])
    s.circle((cx, cy), 8)
    holes = [(0, -36), (36, 0), (0, 36), (-36, 0)]
    for hx, hy in holes:
        s.circle((cx + hx, cy - hy), 2.25)
    s.rect(cx + 75, cy - 45, 4, 90)
    for y0 in (-15, 15):
        s.line((cx + 75, cy + y0), (cx + 79, cy + y0))
    rows = [
        ("90", balloon(s.across((cx - 45, cy + 15), (cx + 45, cy + 15), cy + 58, "90"))),
        ("90", balloon(s.upright((cx - 15, cy - 45), (cx - 15, cy + 45), cx - 58, "90"))),
        ("30", balloon(s.across((cx - 15, cy - 45), (cx + 15, cy - 45), cy - 54, "30"))),
        ("30", balloon(s.upright((cx + 45, cy - 15), (cx + 45, cy + 15), cx + 55, "30"))),
        ("4", balloon(s.across((cx + 75, cy - 45), (cx + 79, cy - 45), cy - 54, "4"))),
        ("Ø16 THRU", balloon(s.leader((cx - 5.7, cy - 5.7), (cx - 30, cy - 30), "Ø16 THRU"))),
        ("4X Ø4.5 THRU", balloon(s.leader((cx + 37.6, cy + 1.6), (cx + 52, cy + 30), "4X Ø4.5 THRU"))),
        ("36", balloon(s.across((cx, cy + 45), (cx + 36, cy + 2), cy + 49, "36"))),
    ]
    m = Maker(
        name="Cross plate",
        number="FKS-0101",
        description="Carries the four lines of the rig.",
        material="Aluminium EN AW-5754 (AlMg3)",
        target_mass={"grams": 45.2, "tolerance": 0.5},
    )
    m.sheet("cross-plate.svg", s.svg())
    m.callouts(rows)
    _model_cross(m, points)
    return m


def _model_cross(m: Maker, points: list[XY]) -> None:
    m.do("add_step", step={"kind": "sketch", "id": "s1", "on": datum("top")})
    ids = [f"l{i}" for i in range(1, 13)]
    lines = [{"kind": "line", "id": n, "p": points[i], "q": points[(i + 1) % 12]} for i, n in enumerate(ids)]
    ties: list[dict[str, Any]] = []
    for i, n in enumerate(ids):
        ties.append({"id": f"k{2 * i + 1}", "kind": "coincident", "refs": [f"{n}.q", f"{ids[(i + 1) % 12]}.p"]})
        ties.append({"id": f"k{2 * i + 2}", "kind": "horizontal" if i % 2 == 0 else "vertical", "refs": [n]})
    ties += [
        {"id": "k31", "kind": "symmetric", "refs": ["l1.p", "l1.q", "y"]},
        {"id": "k32", "kind": "symmetric", "refs": ["l4.p", "l4.q", "x"]},
        {"id": "k33", "kind": "symmetric", "refs": ["l4", "l10", "y"]},
        {"id": "k34", "kind": "symmetric", "refs": ["l1", "l7", "x"]},
    ]
    m.do("sketch_add", step="s1", entities=lines, constraints=ties)
    holes = [(0, -36), (36, 0), (0, 36), (-36, 0)]
    circles: list[dict[str, Any]] = [{"kind": "circle", "id": "c1", "c": (0, 0), "r": 7}]
    circles += [{"kind": "circle", "id": f"c{i}", "c": at, "r": 2} for i, at in enumerate(holes, 2)]
    ties = [{"id": "k41", "kind": "coincident", "refs": ["c1.c", "origin"]}]
    ties += [{"id": f"k{40 + i}", "kind": "equal", "refs": ["c2", f"c{i}"]} for i in (3, 4, 5)]
    ties += [
        {"id": "k51", "kind": "coincident", "refs": ["c2.c", "y"]},
        {"id": "k52", "kind": "coincident", "refs": ["c3.c", "x"]},
        {"id": "k53", "kind": "symmetric", "refs": ["c2.c", "c4.c", "x"]},
        {"id": "k54", "kind": "symmetric", "refs": ["c3.c", "c5.c", "y"]},
    ]
    m.do("sketch_add", step="s1", entities=circles, constraints=ties)
    sizes: list[dict[str, Any]] = [
        {"id": "d1", "kind": "distance", "refs": ["l4", "l10"], "expr": "90", "name": "span", "at": (0, -62)},
        {"id": "d2", "kind": "distance", "refs": ["l1", "l7"], "expr": "span", "at": (-62, 0)},
        {"id": "d3", "kind": "distance", "refs": ["l1"], "expr": "30", "name": "arm", "at": (0, -53)},
        {"id": "d4", "kind": "distance", "refs": ["l4"], "expr": "arm", "at": (53, 0)},
        {"id": "d5", "kind": "diameter", "refs": ["c1"], "expr": "16", "at": (12, 22)},
        {"id": "d6", "kind": "diameter", "refs": ["c3"], "expr": "4.5", "at": (52, -26)},
        {
            "id": "d7",
            "kind": "distance",
            "refs": ["origin", "c3.c"],
            "expr": "36",
            "at": (24, 26),
            "along": "horizontal",
        },
        {
            "id": "d8",
            "kind": "distance",
            "refs": ["origin", "c4.c"],
            "expr": "36",
            "at": (-24, 24),
            "along": "vertical",
        },
    ]
    m.do("sketch_add", step="s1", dimensions=sizes)
    m.do("add_step", step={"kind": "extrude", "id": "s2", "sketch": "s1", "extent": by_depth("4")})
    for number, (step, field) in enumerate(
        [
            ("s1", "d1"),
            ("s1", "d2"),
            ("s1", "d3"),
            ("s1", "d4"),
            ("s2", "depth"),
            ("s1", "d5"),
            ("s1", "d6"),
            ("s1", "d7"),
        ],
        1,
    ):
        m.link(number, step, field)

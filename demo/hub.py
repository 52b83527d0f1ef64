"""The pan hub of the demo, half done."""

from __future__ import annotations

from .drawing import Sheet, balloon
from .maker import THROUGH, Maker, by_depth, datum


def pan_hub() -> Maker:
    """Half done: the disc stands, the boss is drawn but not yet tied down."""
    s = Sheet("PAN HUB", "FKS-0207", "POM-C", "1:1", ["ALL SIZES IN mm", "MASS 26.0 g ±0.5 g"])
    cx, top, front = 90.0, 62.0, 120.0
    s.circle((cx, top), 24)
    s.circle((cx, top), 11, False)
    s.circle((cx, top), 4, False)
    s.circle((cx, top), 17, False, "thin")
    holes = [(0.0, 17.0), (14.722, -8.5), (-14.722, -8.5)]
    for hx, hy in holes:
        s.circle((cx + hx, top - hy), 1.7)
    s.rect(cx - 24, front + 14, 48, 8)
    s.rect(cx - 11, front, 22, 14)
    for side in (-4, 4):
        s.line((cx + side, front), (cx + side, front + 22), "hidden")
    s.line((cx, front - 4), (cx, front + 26), "centre")
    rows = [
        ("Ø48", balloon(s.across((cx - 24, front + 22), (cx + 24, front + 22), front + 34, "Ø48"))),
        ("8", balloon(s.upright((cx - 24, front + 14), (cx - 24, front + 22), cx - 34, "8"))),
        ("Ø22", balloon(s.across((cx - 11, front), (cx + 11, front), front - 10, "Ø22"))),
        ("14", balloon(s.upright((cx + 11, front), (cx + 24, front + 14), cx + 36, "14"))),
        ("Ø8 THRU", balloon(s.leader((cx + 2.83, top - 2.83), (cx + 40, top - 20), "Ø8 THRU"))),
        ("3X Ø3.4 THRU", balloon(s.leader((cx + 16.2, top + 9.4), (cx + 40, top + 22), "3X Ø3.4 THRU"))),
        ("17", balloon(s.upright((cx, top - 17), (cx, top), cx - 38, "17"))),
    ]
    m = Maker(
        name="Pan hub",
        number="FKS-0207",
        description="Turns the cradle under the cross plate.",
        material="POM-C (acetal)",
        target_mass={"grams": 26.0, "tolerance": 0.5},
    )
    m.sheet("pan-hub.svg", s.svg())
    m.callouts(rows)
    m.do("add_step", step={"kind": "sketch", "id": "s1", "on": datum("top")})
    m.do(
        "sketch_add",
        step="s1",
        entities=[{"kind": "circle", "id": "c1", "c": (0, 0), "r": 24}],
        constraints=[{"id": "k1", "kind": "coincident", "refs": ["c1.c", "origin"]}],
        dimensions=[{"id": "d1", "kind": "diameter", "refs": ["c1"], "expr": "48", "at": (30, 24)}],
    )
    m.do("add_step", step={"kind": "extrude", "id": "s2", "sketch": "s1", "extent": by_depth("8")})
    m.link(1, "s1", "d1")
    m.link(2, "s2", "depth")
    top_face = {"origins": ["s2/end"], "ring": ["s2/side/c1"], "near": (0, 0, 8), "said": "end face of step 20"}
    m.do("add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "face", "face": top_face}})
    circles = [
        {"kind": "circle", "id": "c1", "c": (0, 0), "r": 11},
        {"kind": "circle", "id": "c2", "c": (1.5, 1), "r": 4.3},
    ]
    circles += [{"kind": "circle", "id": f"c{i}", "c": at, "r": 1.7} for i, at in enumerate(holes, 3)]
    m.do(
        "sketch_add",
        step="s3",
        entities=circles,
        constraints=[
            {"id": "k1", "kind": "coincident", "refs": ["c1.c", "origin"]},
            {"id": "k2", "kind": "equal", "refs": ["c3", "c4"]},
            {"id": "k3", "kind": "equal", "refs": ["c3", "c5"]},
            {"id": "k4", "kind": "coincident", "refs": ["c3.c", "y"]},
        ],
        dimensions=[{"id": "d1", "kind": "diameter", "refs": ["c1"], "expr": "22", "at": (-15, 14)}],
    )
    m.link(3, "s3", "d1")
    return m


def finished_hub() -> Maker:
    """The pan hub as it is when it is done."""
    m = pan_hub()
    turn = [
        {"id": "k5", "kind": "coincident", "refs": ["c2.c", "origin"]},
        {"id": "k6", "kind": "symmetric", "refs": ["c4.c", "c5.c", "y"]},
    ]
    third = {"kind": "distance", "expr": "17*sqrt(3)"}
    sizes = [
        {"id": "d2", "kind": "diameter", "refs": ["c2"], "expr": "8", "at": (9, 4)},
        {"id": "d3", "kind": "diameter", "refs": ["c3"], "expr": "3.4", "at": (8, 22)},
        {"id": "d4", "kind": "distance", "refs": ["origin", "c3.c"], "expr": "17", "at": (-8, 9)},
        {"id": "d5", "refs": ["c3.c", "c4.c"], "at": (14, 8), **third},
        {"id": "d6", "refs": ["c4.c", "c5.c"], "at": (0, -14), **third},
    ]
    m.do("sketch_add", step="s3", constraints=turn, dimensions=sizes)
    ring = [{"around": ["c1"], "at": (7, 0)}]
    m.extrude("s4", "s3", by_depth("14"), name="Boss", regions=ring)
    bored = [
        {"around": ["c2"], "at": (0, 0)},
        *({"around": [f"c{n}"], "at": m.centre("s3", f"c{n}")} for n in (3, 4, 5)),
    ]
    m.extrude("s5", "s3", THROUGH, "cut", name="Bore and holes", regions=bored)
    for number, (step, field) in enumerate([("s4", "depth"), ("s3", "d2"), ("s3", "d3"), ("s3", "d4")], 4):
        m.link(number, step, field)
    return m

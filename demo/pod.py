"""The electronics pod of the demo, with a mistake in the order of its steps."""

from __future__ import annotations

import math

from .drawing import Sheet, balloon
from .maker import THROUGH, Maker, by_depth, datum


def electronics_pod() -> Maker:
    """Moulded: 64 × 44 × 24, drafted 2°, corners R6, a wall of 2. Its cable hole is drilled before it is shelled, so
    that the shell grows a tube around it: a mistake in the order, left in on purpose."""
    s = Sheet("ELECTRONICS POD", "FKS-0315", "ABS", "1:1", ["ALL SIZES IN mm", "MASS 14.5 g ±0.3 g"], True)
    x, top, front = 60.0, 50.0, 125.0
    lean = 24 * math.tan(math.radians(2))
    s.shape([(x, top, 6), (x + 64, top, 6), (x + 64, top + 44, 6), (x, top + 44, 6)])
    wall = 2 / math.cos(math.radians(2))  # level, of a wall that leans
    s.shape(
        [(x + a, top + b, 4) for a, b in ((wall, wall), (64 - wall, wall), (64 - wall, 44 - wall), (wall, 44 - wall))]
    )
    s.circle((x + 50, top + 22), 4)
    s.outline([(x, front + 24), (x + 64, front + 24), (x + 64 - lean, front), (x + lean, front)])
    inner = wall + 22 * math.tan(math.radians(2))
    s.line((x + inner, front + 2), (x + 64 - inner, front + 2), "hidden")
    s.line((x + wall, front + 24), (x + inner, front + 2), "hidden")
    s.line((x + 64 - wall, front + 24), (x + 64 - inner, front + 2), "hidden")
    rows = [
        ("64", balloon(s.across((x, top + 44), (x + 64, top + 44), top + 54, "64"))),
        ("44", balloon(s.upright((x, top), (x, top + 44), x - 12, "44"))),
        ("24", balloon(s.upright((x, front), (x, front + 24), x - 12, "24"))),
        ("R6", balloon(s.leader((x + 62.2, top + 1.8), (x + 84, top - 12), "R6"))),
        ("2°", balloon(s.leader((x + 63.6, front + 12), (x + 88, front + 6), "2°"))),
        ("Ø8 THRU", balloon(s.leader((x + 52.8, top + 19.2), (x + 88, top + 8), "Ø8 THRU"))),
        ("2", balloon(s.leader((x + 63, front + 22.5), (x + 88, front + 24), "2"))),
    ]
    m = Maker(
        projection="first",
        name="Electronics pod",
        number="FKS-0315",
        description="Holds the camera's trigger and its cells; moulded, open below for its lid.",
        material="ABS",
        target_mass={"grams": 14.5, "tolerance": 0.3},
    )
    m.sheet("electronics-pod.svg", s.svg())
    m.callouts(rows)
    m.do("add_step", step={"kind": "sketch", "id": "s1", "on": datum("top")})
    outline = m.rectangle(1, 0, 0, 64, 44)
    outline["constraints"].append({"id": "k20", "kind": "coincident", "refs": ["l1.p", "origin"]})
    sizes = [
        {"id": "d1", "kind": "distance", "refs": ["l1"], "expr": "64", "at": (32, -9)},
        {"id": "d2", "kind": "distance", "refs": ["l2"], "expr": "44", "at": (73, 22)},
    ]
    m.do("sketch_add", step="s1", dimensions=sizes, **outline)
    m.do("add_step", step={"kind": "extrude", "id": "s2", "sketch": "s1", "extent": by_depth("24")})
    floor, walls = {"kind": "face", "face": {"origins": ["s2/start"]}}, [{"by": "sides", "step": "s2"}]
    groups = [{"faces": walls, "angle": "2"}]
    m.do("add_step", step={"kind": "draft", "id": "s3", "neutral": floor, "groups": groups})
    rounds = [{"edges": [{"by": "corners", "step": "s2"}], "radius": "6"}]
    m.do("add_step", step={"kind": "fillet", "id": "s4", "groups": rounds})
    m.do("add_step", step={"kind": "sketch", "id": "s5", "on": datum("top")})
    hole = {"kind": "circle", "id": "c1", "c": (50, 22), "r": 4}
    held = [
        {
            "id": "d1",
            "kind": "distance",
            "refs": ["origin", "c1.c"],
            "expr": "50",
            "along": "horizontal",
            "at": (25, 36),
        },
        {"id": "d2", "kind": "distance", "refs": ["origin", "c1.c"], "expr": "22", "along": "vertical", "at": (58, 11)},
        {"id": "d3", "kind": "diameter", "refs": ["c1"], "expr": "8", "at": (58, 30)},
    ]
    m.do("sketch_add", step="s5", entities=[hole], dimensions=held)
    cut = {"kind": "extrude", "id": "s6", "sketch": "s5", "operation": "cut", "extent": THROUGH}
    m.do("add_step", step={**cut, "name": "Cable hole"})
    opened = [{"by": "pick", "face": {"origins": ["s2/start"], "said": "start face of step 20"}}]
    m.do("add_step", step={"kind": "shell", "id": "s7", "faces": opened, "thickness": "2"})
    links = [("s1", "d1"), ("s1", "d2"), ("s2", "depth"), ("s4", "radius"), ("s3", "angle"), ("s5", "d3")]
    for number, (step, field) in enumerate([*links, ("s7", "thickness")], 1):
        m.link(number, step, field)
    return m


def mended_pod() -> Maker:
    """The electronics pod with its steps in the right order: shelled before its cable hole is drilled."""
    m = electronics_pod()
    m.do("move_step", step="s7", before="s5")
    return m

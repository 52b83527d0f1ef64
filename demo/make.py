"""Makes the demo's sheets and part files anew: python -m demo.make (with core/ on the path).

The parts are modelled here by the same commands the screen sends, so they are as real as any.
"""

from __future__ import annotations

import hashlib
import itertools
import json
import math
from pathlib import Path
from typing import Any

from sulvak_core.exchange import part_file
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document, load

from .drawing import XY, Sheet, balloon

HERE = Path(__file__).resolve().parent


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


def datum(plane: str) -> dict[str, str]:
    return {"kind": "datum", "plane": plane}


def by_depth(depth: str) -> dict[str, str]:
    return {"kind": "depth", "depth": depth}


THROUGH = {"kind": "through_all"}


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
    ]
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


def electronics_pod() -> Maker:
    """Moulded: 64 × 44 × 24, drafted 2°, corners R6, a wall of 2. Its cable hole is drilled before it is shelled, so
    that the shell grows a tube around it: a mistake in the order, left in on purpose."""
    s = Sheet("ELECTRONICS POD", "FKS-0315", "ABS", "1:1", ["ALL SIZES IN mm", "MASS 14.8 g ±0.3 g"])
    x, top, front = 60.0, 50.0, 125.0
    lean = 24 * math.tan(math.radians(2))
    s.rect(x, top, 64, 44)
    s.circle((x + 50, top + 22), 4)
    s.outline([(x, front + 24), (x + 64, front + 24), (x + 64 - lean, front), (x + lean, front)])
    s.line((x + 2, front + 22), (x + 62, front + 22), "hidden")
    s.line((x + 2, front + 22), (x + 2 + lean, front), "hidden")
    s.line((x + 62, front + 22), (x + 62 - lean, front), "hidden")
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
        name="Electronics pod",
        number="FKS-0315",
        description="Holds the camera's trigger and its cells; moulded, open above for its lid.",
        material="ABS",
        target_mass={"grams": 14.8, "tolerance": 0.3},
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
    opened = [{"by": "pick", "face": {"origins": ["s2/end"], "said": "end face of step 20"}}]
    m.do("add_step", step={"kind": "shell", "id": "s7", "faces": opened, "thickness": "2"})
    links = [("s1", "d1"), ("s1", "d2"), ("s2", "depth"), ("s4", "radius"), ("s3", "angle"), ("s5", "d3")]
    for number, (step, field) in enumerate([*links, ("s7", "thickness")], 1):
        m.link(number, step, field)
    return m


def line_cleat() -> str:
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


def main() -> None:
    listed = []
    (HERE / "line-cleat.dxf").write_text(line_cleat())
    for maker in (cross_plate(), pan_hub(), electronics_pod(), ballast_bar()):
        name = maker.document.name.lower().replace(" ", "-")
        (HERE / f"{name}.json").write_text(part_file.write(maker.document))
        listed.append({"part": f"{name}.json", "sheet": f"{name}.svg"})
    (HERE / "parts.json").write_text(json.dumps(listed, indent=1) + "\n")


if __name__ == "__main__":
    main()

"""Rows on the drawing made from a part and on release packs."""

from __future__ import annotations

from demo.maker import Maker, Outline, by_depth, datum, face

from sulvak_core.drawing.sheet import draw
from sulvak_core.rebuild.engine import build
from sulvak_core.release.manifest import Release
from sulvak_core.release.pack import pack

from .making import forget
from .solid import plate
from .timing import median


def sized(n: int) -> Maker:
    """A plate with ``n`` pockets and holes, each placed from two edges: every size given."""
    m = Maker(name="Plate", number="FKS-0999", material="Aluminium EN AW-5754 (AlMg3)")
    o = Outline()
    sides = o.box(0, 0, 200, 120)
    o.tie(f"coincident {sides[0]}.p origin")
    o.size(f"distance 200 {sides[0]}", f"distance 120 {sides[1]}")
    m.drawn("s1", datum("top"), o)
    m.extrude("s2", "s1", by_depth("12"))
    for i in range(n):
        x, y, k = 20 + (37 * i) % 160, 15 + (53 * i) % 90, 3 + 2 * i
        o = Outline()
        if i % 2:
            c = o.circle((x, y), (4 + i % 5) / 2)
            o.size(f"distance {x} {c}.c y", f"distance {y} {c}.c x", f"diameter {4 + i % 5} {c}")
        else:
            b = o.box(x - 4, y - 3, 8, 6)
            o.size(
                f"distance 8 {b[0]}", f"distance 6 {b[1]}", f"distance {x - 4} {b[3]} y", f"distance {y - 3} {b[0]} x"
            )
        m.drawn(f"s{k}", face("s2/end", said="end face of step 20"), o)
        m.extrude(f"s{k + 1}", f"s{k}", by_depth(str(2 + i % 5)), "cut")
    return m


def sheet() -> str:
    """the drawing of a part of 60 steps, nearly a hundred sizes | 3 s | 1.5 s"""
    document = sized(29).document
    made = build(document)
    drawn = draw(document, made)
    return (
        f"{median(lambda: draw(document, made), 3):.2f} s ({len(drawn.sizes)} sizes, {drawn.overlaps()} on something)"
    )


def release_pack() -> str:
    """the release pack of a part of 60 steps, with all checks, drawing and reports | 6 s | 3 s"""
    document = plate(30)
    made = build(document)
    keys = ("identity", "built", "suppressed", "constrained", "proven", "covered", "mass", "check-solid", "drawing")
    release = Release("A", "bench", "2031-05-12T08:30:00Z", "", dict.fromkeys(keys, "measured only"))

    def once() -> None:
        forget()
        pack(document, made, release)

    return f"{median(once, 3):.2f} s"


ROWS = [sheet, release_pack]

if __name__ == "__main__":
    for row in ROWS:
        print(row.__doc__, row())

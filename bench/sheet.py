"""The sheet's rows: large pages read, a part's lines held against them, many callouts proven."""

from __future__ import annotations

import random
import time

from sulvak_core.exchange.sheet_files import sheet_reading
from sulvak_core.inspect.model_lines import SIDES
from sulvak_core.inspect.prove import prove
from sulvak_core.inspect.sheet_lines import compare_lines
from sulvak_core.rebuild.engine import Build, build
from sulvak_core.sheet.page import Lettering, Page, Stroke
from sulvak_core.sheet.render import as_svg
from sulvak_core.solid.measure import curve, surface
from sulvak_core.solid.outline import lines
from sulvak_core.solid.shapes import edges, faces
from sulvak_core.steps.registry import Document, load, to_json

from .solid import plate
from .timing import median, ratio

POINT = 25.4 / 72


def large_page(rectangles: int = 4200, loose: int = 3200, sizes: int = 200) -> Page:
    """An A1 page of 20,000 lines: a frame, small outlines in rows, dimension lines, and sizes."""
    rnd = random.Random(3)
    strokes: list[Stroke] = []

    def outline(x: float, y: float, w: float, h: float) -> None:
        at = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        strokes.extend(Stroke("line", (at[k], at[(k + 1) % 4]), width=1.4) for k in range(4))

    outline(28, 28, 2300, 1600)
    for k in range(rectangles):
        outline(60 + 30 * (k % 70), 60 + 24 * (k // 70), 20, 14)
    for _ in range(loose):
        x, y = rnd.uniform(60, 2200), rnd.uniform(60, 1500)
        strokes.append(Stroke("line", ((x, y), (x + 30, y)), width=0.5))
    letters = [
        Lettering(f"{rnd.randint(1, 200)}.5", (rnd.uniform(100, 2200), rnd.uniform(100, 1500)), 9, 0, 30)
        for _ in range(sizes)
    ]
    return Page((2384, 1684), strokes, letters)


def read_sheet() -> str:
    """read an SVG sheet of 20,000 lines and 200 sizes, from file to list | 3 s | 1.5 s"""
    svg = as_svg(large_page()).encode()
    return f"{median(lambda: sheet_reading(svg, 'image/svg+xml', 0), 3):.2f} s"


def drawn(made: Build) -> Page:
    """A part's own top and front views as a page, 1 : 1."""
    strokes: list[Stroke] = []
    for side, at in (("top", (200.0, 300.0)), ("front", (200.0, 700.0))):
        seen = lines([b.shape for b in made.state.bodies], *SIDES[side])  # type: ignore[index]
        for runs, dash in (((*seen.seen, *seen.smooth), ()), (seen.hidden, (4.0, 2.0))):
            for run in runs:
                points = tuple((at[0] + x / POINT, at[1] - y / POINT) for x, y in run)
                strokes.append(Stroke("line" if len(points) == 2 else "curve", points, width=1.4, dash=dash))
    return Page((2384, 1684), strokes)


def overlay() -> str:
    """hold a part of 60 steps against its sheet, line by line | 2 s | 1 s"""
    made = build(plate(30))
    page = drawn(made)
    shapes = [b.shape for b in made.state.bodies]
    found = compare_lines(page, shapes, POINT)
    assert found.share > 0.99, found.share
    return f"{median(lambda: compare_lines(page, shapes, POINT), 3):.2f} s"


def with_callouts(holes: int = 101) -> Document:
    """A plate with a diameter and a depth asked of each of 100 holes."""
    data = to_json(plate(holes))
    callouts: list[dict[str, object]] = []
    for k in range(1, holes):
        n = len(callouts) + 1
        sketch = next(s for s in data["steps"] if s["id"] == f"s{2 * k + 1}")
        sketch["sketch"]["dimensions"] = [{"id": "d1", "kind": "diameter", "refs": ["c1"], "expr": "6"}]
        link = {"step": f"s{2 * k + 1}", "field": "d1"}
        callouts.append({"id": f"b{n}", "number": n, "text": "Ø6", "link": link})
        link = {"step": f"s{2 * k + 2}", "field": "depth"}
        callouts.append({"id": f"b{n + 1}", "number": n + 1, "text": "7", "link": link})
    return load({**data, "callouts": callouts})


def proving() -> str:
    """prove 200 callouts, against measuring every face and edge of the part once | 1.5× | 1×"""
    document = with_callouts()
    made = build(document)
    verdicts = prove(document, made)
    assert len(verdicts) == 200

    def bare() -> None:
        for body in made.state.bodies:
            for face in faces(body.shape):
                surface(face)
                for edge in edges(face):
                    curve(edge)

    times, mine, other = ratio(lambda: prove(document, made), bare, 5)
    return f"{times:.2f}× ({mine * 1000:.0f} ms / {other * 1000:.0f} ms)"


ROWS = [read_sheet, overlay, proving]

if __name__ == "__main__":
    for row in ROWS:
        began = time.perf_counter()
        print(row.__doc__, row(), f"(in {time.perf_counter() - began:.0f} s)")

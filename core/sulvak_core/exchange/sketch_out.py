"""A sketch as DXF (R2010, mm, written with ezdxf) or SVG (mm): outline and construction on layers of their own."""

from __future__ import annotations

import math
from typing import Any
from xml.sax.saxutils import escape

from ezdxf import units

from ..sketch.free_curves import half_axes, spans, sweep_on
from ..sketch.lettering import Span, outlines
from ..sketch.model import (
    XY,
    AnyEntity,
    Arc,
    Circle,
    Ellipse,
    EllipseArc,
    Line,
    Point,
    Sketch,
    Spline,
    Text,
    points_of,
    sweep_of,
)
from .dxf_bytes import dxf_bytes, new_dxf

OUTLINE, CONSTRUCTION = "OUTLINE", "CONSTRUCTION"


def sketch_dxf(sketch: Sketch) -> bytes:
    """DXF text of a sketch. Construction geometry comes with the standard's thin chain line."""
    file = new_dxf(["linetypes"])
    file.units = units.MM
    file.layers.add(OUTLINE, lineweight=50)
    file.layers.add(CONSTRUCTION, linetype="CENTER", lineweight=25)
    space = file.modelspace()
    for e in sketch.entities:
        style = {"layer": CONSTRUCTION if e.construction else OUTLINE}
        z = e.lift
        if isinstance(e, Line):
            space.add_line((*e.p, z), (*e.q, z), style)
        elif isinstance(e, Circle):
            space.add_circle((*e.c, z), e.r, style)
        elif isinstance(e, Arc):
            start, sweep = sweep_of(e)
            space.add_arc((*e.c, z), e.r, math.degrees(start), math.degrees(start + sweep), dxfattribs=style)
        elif isinstance(e, Point):
            space.add_point((*e.at, z), style)
        elif isinstance(e, Ellipse | EllipseArc):
            _dxf_ellipse(space, e, style)
        else:
            for line in _beziers(e):
                _dxf_spline(space, line, z, style)
    return dxf_bytes(file)


def _dxf_ellipse(space: Any, e: Ellipse | EllipseArc, style: dict[str, Any]) -> None:
    """DXF wants the longer half axis first, and angles counted from it."""
    (dx, dy), (ex, ey) = half_axes(e)
    start, sweep = sweep_on(e) if isinstance(e, EllipseArc) else (0.0, 2 * math.pi)
    ratio = math.hypot(ex, ey) / math.hypot(dx, dy)
    if ratio > 1:
        dx, dy, ratio, start = ex, ey, 1 / ratio, start - math.pi / 2
    space.add_ellipse((*e.c, e.lift), (dx, dy, 0), ratio, start, start + sweep, dxfattribs=style)


def _beziers(e: AnyEntity) -> list[list[Span]]:
    """A spline, or the outlines of a text, as runs of cubic Béziers."""
    if isinstance(e, Spline):
        return [spans(e)]
    return outlines(e.text, e.p, e.q) if isinstance(e, Text) else []


def _dxf_spline(space: Any, line: list[Span], z: float, style: dict[str, Any]) -> None:
    """Béziers end to end as one cubic spline whose inner knots stand three times."""
    points = [(*line[0][0], z), *((x, y, z) for span in line for x, y in span[1:])]
    knots = [float(i) for i in range(len(line) + 1) for _ in range(3)]
    space.add_open_spline(points, degree=3, knots=[0.0, *knots, float(len(line))], dxfattribs=style)


def sketch_svg(sketch: Sketch, title: str) -> bytes:
    """SVG of a sketch at 1 : 1 in mm, y up, with a margin of 5 mm."""
    x0, y0, x1, y1 = _box(sketch)
    w, h = x1 - x0 + 10, y1 - y0 + 10
    layers = {False: "", True: ""}
    for e in sketch.entities:
        layers[e.construction] += _element(e)
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:.9g}mm" height="{h:.9g}mm" '
        f'viewBox="{x0 - 5:.12g} {-y1 - 5:.12g} {w:.9g} {h:.9g}" fill="none" stroke="#1E2A44">'
    )
    return (
        f"{head}<title>{escape(title)}</title>"
        f'<g id="outline" stroke-width="0.5">{layers[False]}</g>'
        f'<g id="construction" stroke-width="0.25" stroke-dasharray="8 1.5 1 1.5">{layers[True]}</g></svg>'
    ).encode()


def _element(e: AnyEntity) -> str:
    if isinstance(e, Line):
        return f'<path d="M{_at(e.p)}L{_at(e.q)}"/>'
    if isinstance(e, Circle):
        return f'<circle cx="{e.c[0]:.12g}" cy="{-e.c[1]:.12g}" r="{e.r:.12g}"/>'
    if isinstance(e, Arc):
        large = 1 if sweep_of(e)[1] > math.pi else 0
        return f'<path d="M{_at(e.p)}A{e.r:.12g} {e.r:.12g} 0 {large} 0 {_at(e.q)}"/>'
    if isinstance(e, Ellipse | EllipseArc):
        (dx, dy), (ex, ey) = half_axes(e)
        size = f"{math.hypot(dx, dy):.12g} {math.hypot(ex, ey):.12g} {-math.degrees(math.atan2(dy, dx)):.12g}"
        if isinstance(e, Ellipse):
            far = (2 * e.c[0] - e.m[0], 2 * e.c[1] - e.m[1])
            return f'<path d="M{_at(e.m)}A{size} 0 0 {_at(far)}A{size} 0 0 {_at(e.m)}Z"/>'
        return f'<path d="M{_at(e.p)}A{size} {int(sweep_on(e)[1] > math.pi)} 0 {_at(e.q)}"/>'
    if isinstance(e, Spline | Text):
        runs = (f"M{_at(run[0][0])}" + "".join(f"C{' '.join(map(_at, s[1:]))}" for s in run) for run in _beziers(e))
        return f'<path d="{"".join(runs)}"/>'
    return f'<circle cx="{e.at[0]:.12g}" cy="{-e.at[1]:.12g}" r="0.3" class="point"/>' if isinstance(e, Point) else ""


def _at(p: XY) -> str:
    return f"{p[0]:.12g} {-p[1]:.12g}"


def _box(sketch: Sketch) -> tuple[float, float, float, float]:
    xs, ys = [0.0], [0.0]
    for e in sketch.entities:
        r = e.r if isinstance(e, Circle | Arc) else 0.0
        if isinstance(e, Ellipse | EllipseArc):
            r = max(math.hypot(*axis) for axis in half_axes(e))
        for x, y in points_of(e).values():
            xs += [x - r, x + r]
            ys += [y - r, y + r]
    return min(xs), min(ys), max(xs), max(ys)

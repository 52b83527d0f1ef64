"""A face, a view or a section of a part as DXF or SVG, 1 : 1, with layers and line types after ISO 128-2.

Curves are written as what they are: lines, circles, arcs, ellipses; others through places that lie on them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any
from xml.sax.saxutils import escape

import numpy as np
from ezdxf import units

from ..inspect.model_lines import SIDES, Model
from ..inspect.section_curves import face_outline, section_curves
from ..part.document import Side
from ..part.errors import Refusal
from ..part.units import MM_PER, LengthUnit
from ..rebuild.state import State
from ..solid.frame import Frame
from ..solid.measure import surface
from ..solid.outline import curves
from ..solid.project import Flat
from ..solid.shapes import Shape, faces
from .dxf_bytes import dxf_bytes, new_dxf

XY = tuple[float, float]
Drawn = Mapping[str, Sequence[Flat]]
# layer: width in hundredths of a millimetre, dashes in mm (ISO 128-2: wide, dashed narrow, narrow lines)
LAYERS: dict[str, tuple[int, tuple[float, ...]]] = {
    "OUTLINE": (50, ()),
    "CUT": (50, ()),
    "SMOOTH": (25, ()),
    "HIDDEN": (25, (3.0, 1.5)),
    "LINING": (18, ()),
}


def face_drawn(state: State, body: str, number: int) -> Drawn:
    """The outline of a flat face in its true shape. Raises Refusal for one that is gone or not flat."""
    owner = next((b for b in state.bodies if b.id == body), None)
    every = faces(owner.shape) if owner else []
    if not 0 <= number < len(every):
        raise Refusal("This face is no longer on the part; press it again.")
    s = surface(every[number])
    if s.kind != "plane":
        raise Refusal("Only a flat face has an outline in its true shape; this one is round.")
    return {"OUTLINE": face_outline(every[number], _upright(s.at, s.direction))}


def _upright(at: Any, normal: Any) -> Frame:
    """A plane seen from outside, with the part's z upwards where it can be, else its y."""
    up = (0.0, 0.0, 1.0) if abs(normal[2]) < 0.9 else (0.0, 1.0, 0.0)
    x = np.cross(up, normal)
    x /= np.linalg.norm(x)
    y = np.cross(normal, x)
    return Frame(tuple(at), tuple(x.tolist()), tuple(y.tolist()))


def view_drawn(state: State, side: Side, hidden: bool = True) -> Drawn:
    """The part seen from a side, hidden lines told apart."""
    found = curves(_shapes(state), *SIDES[side])
    return {"OUTLINE": found.seen, "SMOOTH": found.smooth, **({"HIDDEN": found.hidden} if hidden else {})}


def section_drawn(state: State, side: Side, at: float) -> Drawn:
    """The part cut by a plane square to the look, at a coordinate of its own axis (mm); what lies behind is drawn too.
    Raises Refusal where the plane misses the part."""
    return section_curves(Model(_shapes(state)), side, at)


def _shapes(state: State) -> list[Shape]:
    if not state.bodies:
        raise Refusal("There is no solid yet to draw; extrude a profile first.")
    return [b.shape for b in state.bodies]


# -- as files ----------------------------------------------------------------------------------------------


def as_dxf(drawn: Drawn, unit: LengthUnit = "mm") -> bytes:
    """DXF (R2010) in the part's unit, layers with widths and line types."""
    k = 1 / MM_PER[unit]
    file = new_dxf(["linetypes"])
    file.units = units.MM if unit == "mm" else units.IN
    for name, (width, dashes) in LAYERS.items():
        if drawn.get(name):
            file.layers.add(name, lineweight=width, linetype="DASHED" if dashes else "CONTINUOUS")
    space = file.modelspace()
    for name, found in drawn.items():
        for c in found:
            dxf_curve(space, c, k, {"layer": name})
    return dxf_bytes(file)


def dxf_curve(space: Any, c: Flat, k: float, style: dict[str, Any]) -> None:
    at = {name: (x * k, y * k) for name, (x, y) in c.at.items()}
    if c.kind == "line":
        space.add_line(at["p"], at["q"], style)
    elif c.kind == "circle":
        space.add_circle(at["c"], c.r * k, style)
    elif c.kind == "arc":
        start, end = (math.degrees(_angle(at["c"], at[n])) for n in ("p", "q"))
        space.add_arc(at["c"], c.r * k, start, end, dxfattribs=style)
    elif c.kind in ("ellipse", "ellipse_arc"):
        major, minor = _minus(at["m"], at["c"]), _minus(at["n"], at["c"])
        ratio, turn = math.hypot(*minor) / math.hypot(*major), 0.0
        if ratio > 1:  # DXF wants the longer half axis first
            major, minor, ratio, turn = minor, _minus((0, 0), major), 1 / ratio, math.pi / 2
        start, end = (0.0, math.tau) if c.kind == "ellipse" else (_along(at, n) - turn for n in ("p", "q"))
        space.add_ellipse((*at["c"], 0), (*major, 0), ratio, start, end, dxfattribs=style)
    elif c.kind == "spline":
        space.add_lwpolyline([(x * k, y * k) for x, y in c.points], dxfattribs=style)


def _angle(c: XY, p: XY) -> float:
    return math.atan2(p[1] - c[1], p[0] - c[0])


def _minus(a: XY, b: XY) -> XY:
    return a[0] - b[0], a[1] - b[1]


def _along(at: Mapping[str, XY], name: str) -> float:
    """The parameter of a place of an ellipse, from its first half axis."""
    m, n, d = _minus(at["m"], at["c"]), _minus(at["n"], at["c"]), _minus(at[name], at["c"])
    x = (d[0] * m[0] + d[1] * m[1]) / (m[0] ** 2 + m[1] ** 2)
    y = (d[0] * n[0] + d[1] * n[1]) / (n[0] ** 2 + n[1] ** 2)
    return math.atan2(y, x)


def as_svg(drawn: Drawn, title: str) -> bytes:
    """SVG at 1 : 1 in mm, y up on the paper, with a margin of 5 mm, a group a layer."""
    every = [p for found in drawn.values() for c in found for p in _reach(c)]
    xs, ys = zip(*every, strict=True) if every else ((0.0,), (0.0,))
    left, low, w, h = min(xs) - 5, min(ys) - 5, max(xs) - min(xs) + 10, max(ys) - min(ys) + 10
    groups = []
    for name, found in drawn.items():
        if not found:
            continue
        width, dashes = LAYERS[name]
        dash = f' stroke-dasharray="{" ".join(f"{d:g}" for d in dashes)}"' if dashes else ""
        body = "".join(svg_curve(c) for c in found)
        groups.append(f'<g id="{name.lower()}" stroke-width="{width / 100:g}"{dash}>{body}</g>')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:.9g}mm" height="{h:.9g}mm" '
        f'viewBox="{left:.12g} {-(low + h):.12g} {w:.9g} {h:.9g}" fill="none" stroke="#1E2A44">'
        f"<title>{escape(title)}</title>{''.join(groups)}</svg>"
    ).encode()


def _reach(c: Flat) -> list[XY]:
    """Places between which a curve lies."""
    if c.kind in ("circle", "arc"):
        x, y = c.at["c"]
        return [(x - c.r, y - c.r), (x + c.r, y + c.r)] if c.kind == "circle" else [*_arc_reach(c)]
    if c.kind in ("ellipse", "ellipse_arc"):
        (x, y), m, n = c.at["c"], _minus(c.at["m"], c.at["c"]), _minus(c.at["n"], c.at["c"])
        w, h = math.hypot(m[0], n[0]), math.hypot(m[1], n[1])
        return [(x - w, y - h), (x + w, y + h)]
    return list(c.points) or list(c.at.values())


def _arc_reach(c: Flat) -> list[XY]:
    (x, y), a = c.at["c"], _angle(c.at["c"], c.at["p"])
    sweep = (_angle(c.at["c"], c.at["q"]) - a) % math.tau
    turns = [a, a + sweep, *(k * math.pi / 2 for k in range(4) if (k * math.pi / 2 - a) % math.tau < sweep)]
    return [(x + c.r * math.cos(t), y + c.r * math.sin(t)) for t in turns]


def svg_curve(c: Flat) -> str:
    """A curve as an SVG element, y down."""

    def p(at: XY) -> str:
        return f"{at[0]:.10g} {-at[1]:.10g}"

    if c.kind == "line":
        return f'<path d="M{p(c.at["p"])}L{p(c.at["q"])}"/>'
    if c.kind == "circle":
        return f'<circle cx="{c.at["c"][0]:.10g}" cy="{-c.at["c"][1]:.10g}" r="{c.r:.10g}"/>'
    if c.kind == "arc":
        sweep = (_angle(c.at["c"], c.at["q"]) - _angle(c.at["c"], c.at["p"])) % math.tau
        return f'<path d="M{p(c.at["p"])}A{c.r:.10g} {c.r:.10g} 0 {int(sweep > math.pi)} 0 {p(c.at["q"])}"/>'
    if c.kind in ("ellipse", "ellipse_arc"):
        m, n = _minus(c.at["m"], c.at["c"]), _minus(c.at["n"], c.at["c"])
        size = f"{math.hypot(*m):.10g} {math.hypot(*n):.10g} {-math.degrees(math.atan2(m[1], m[0])):.10g}"
        if c.kind == "ellipse":
            far = (2 * c.at["c"][0] - c.at["m"][0], 2 * c.at["c"][1] - c.at["m"][1])
            return f'<path d="M{p(c.at["m"])}A{size} 0 0 {p(far)}A{size} 0 0 {p(c.at["m"])}Z"/>'
        sweep = (_along(c.at, "q") - _along(c.at, "p")) % math.tau
        return f'<path d="M{p(c.at["p"])}A{size} {int(sweep > math.pi)} 0 {p(c.at["q"])}"/>'
    if c.kind == "spline":
        return f'<path d="M{"L".join(map(p, c.points))}"/>'
    return ""

"""An SVG sheet as a page of lines, arcs and texts. Shapes by svgelements, texts by their own rules."""

from __future__ import annotations

import io
import math
import re
from typing import Any

import svgelements as S

from ..part.errors import Refusal
from ..sheet.page import Lettering, Page, Stroke, wide
from .svg_plain import take_plain
from .xml import parse_svg, written

ELEMENTS = 120_000
PIECES = 12  # of a free curve
BEND = 0.08  # rad of an ellipse that a piece stands for at most
_PER = {"": 0.75, "px": 0.75, "pt": 1.0, "mm": 72 / 25.4, "cm": 720 / 25.4, "in": 72.0}
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
XY = tuple[float, float]


def read_svg_page(data: bytes) -> Page:
    """The page an SVG draws, in points. Raises Refusal for what is unsafe or damaged."""
    root = parse_svg(data, ELEMENTS)
    size, view = _size(root.attrib)
    k = min(size[0] / view[2], size[1] / view[3])
    shift = (-view[0] * k + (size[0] - view[2] * k) / 2, -view[1] * k + (size[1] - view[3] * k) / 2)
    page = Page(size)
    to_page = S.Matrix(k, 0, 0, k, *shift)
    _texts(root, to_page, {}, page)
    page.strokes += take_plain(root, k, shift)
    for name in ("width", "height", "viewBox", "preserveAspectRatio"):
        root.attrib.pop(name, None)
    try:
        drawn = S.SVG.parse(io.BytesIO(written(root)), reify=True, ppi=96)
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, RecursionError, ZeroDivisionError):
        raise Refusal("This SVG is damaged and cannot be read; save it again and retry.") from None
    _group(drawn, "", 0, to_page, k, page)
    return page


def _size(attributes: dict[str, str]) -> tuple[XY, tuple[float, float, float, float]]:
    """Width and height in points, and the view box."""
    sides = []
    for name in ("width", "height"):
        match = re.fullmatch(rf"\s*({_NUMBER})\s*(px|pt|mm|cm|in)?\s*", attributes.get(name, "")[:60])
        sides.append(float(match[1]) * _PER[match[2] or ""] if match else 0.0)
    box = [float(v) for v in re.findall(_NUMBER, attributes.get("viewBox", ""))]
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        box = [0.0, 0.0, *(s / 0.75 for s in sides)]
    if not all(1 <= s <= 20000 for s in sides):
        sides = [box[2] * 0.75, box[3] * 0.75]
    if not all(1 <= s <= 20000 for s in sides):
        raise Refusal("This SVG has no size; give it a width and a height.")
    return (sides[0], sides[1]), (box[0], box[1], box[2], box[3])


# -- shapes ------------------------------------------------------------------------------------------------


def _group(group: Any, layer: str, depth: int, m: Any, k: float, page: Page) -> None:
    for element in group:
        values = getattr(element, "values", {})
        if str(values.get("display", "")) == "none" or str(values.get("visibility", "")) == "hidden":
            continue
        if isinstance(element, S.Group | S.Use):
            _group(element, str(element.id or layer) if depth == 0 else layer, depth + 1, m, k, page)
        elif isinstance(element, S.Shape):
            _shape(element, layer, m, k, page)


def _shape(element: Any, layer: str, m: Any, k: float, page: Page) -> None:
    line = element.stroke is not None and element.stroke.value is not None
    filled = element.fill is not None and element.fill.value is not None and not line_only(element)
    if not line and not filled:
        return
    width = float(element.stroke_width or 0.0) * k if line else 0.0
    dash = _dash(element, k)
    common: dict[str, Any] = {"width": width, "dash": dash, "layer": layer, "filled": filled}
    if isinstance(element, S.Circle | S.Ellipse) and math.isclose(element.rx, element.ry, rel_tol=1e-9):
        c = m.point_in_matrix_space((element.cx, element.cy))
        r = float(element.rx) * k
        start = (float(c.x) + r, float(c.y))
        page.strokes.append(Stroke("circle", (start, start), (float(c.x), float(c.y)), r, math.tau, **common))
        return
    # by far the most are straight, and placed without being made anew
    straight = isinstance(element, S.Path) and all(isinstance(s, S.Move | S.Line | S.Close) for s in element)
    if straight and element.transform.is_identity():
        for s in (s for s in element if not isinstance(s, S.Move) and s.start is not None and s.end is not None):
            a, b = ((float(p.x) * k + m.e, float(p.y) * k + m.f) for p in (s.start, s.end))
            if math.dist(a, b) > 1e-6:
                page.strokes.append(Stroke("line", (a, b), **common))
        return
    for segment in (S.Path(element) * m).reify():
        stroke = _segment(segment, common)
        if stroke is not None:
            page.strokes.append(stroke)


def line_only(element: Any) -> bool:
    """Whether a shape's fill is the paper's, white or nothing to see, or it is a line alone, which holds nothing."""
    if isinstance(element, S.SimpleLine) or (isinstance(element, S.Path) and _lines_alone(element)):
        return True
    fill = element.fill
    return bool(fill.opacity == 0 or (fill.red > 240 and fill.green > 240 and fill.blue > 240))


def _lines_alone(path: Any) -> bool:
    """Whether no run of a path has more than one piece, and that a straight one."""
    return all(
        isinstance(s, S.Move) or (isinstance(s, S.Line) and (i == 0 or isinstance(path[i - 1], S.Move)))
        for i, s in enumerate(path)
    )


def _dash(element: Any, k: float) -> tuple[float, ...]:
    text = str(element.values.get("stroke-dasharray", "none"))
    found = [float(v) for v in re.findall(_NUMBER, text)] if text != "none" else []
    scale = math.sqrt(abs(element.transform.determinant)) if element.transform else 1.0
    return tuple(v * k * (scale or 1.0) for v in found) if any(v > 0 for v in found) else ()


def _segment(s: Any, common: dict[str, Any]) -> Stroke | None:
    if isinstance(s, S.Move) or s.start is None or s.end is None:
        return None
    a, b = _xy(s.start), _xy(s.end)
    if isinstance(s, S.Line | S.Close):
        return Stroke("line", (a, b), **common) if math.dist(a, b) > 1e-6 else None
    if isinstance(s, S.Arc) and math.isclose(s.rx, s.ry, rel_tol=1e-6):
        whole = math.dist(a, b) < 1e-9 * float(s.rx)
        kind = "circle" if whole else "arc"
        sweep = math.tau if whole else float(s.sweep)
        return Stroke(kind, (a, b), _xy(s.center), float(s.rx), sweep, **common)  # type: ignore[arg-type]
    n = max(PIECES, math.ceil(abs(float(s.sweep)) / BEND)) if isinstance(s, S.Arc) else PIECES
    points = tuple(_xy(s.point(i / n)) for i in range(n + 1))
    return Stroke("curve", points, **common) if all(map(math.isfinite, (c for p in points for c in p))) else None


def _xy(p: Any) -> XY:
    return float(p.x), float(p.y)


# -- texts -------------------------------------------------------------------------------------------------

_ANCHOR = {"start": 0.5, "middle": 0.0, "end": -0.5}


def _style(element: Any, above: dict[str, str]) -> dict[str, str]:
    """What of an element's look is said by itself or by what it stands in."""
    found = dict(above)
    given = {k: v for k, v in element.attrib.items() if k in ("font-size", "text-anchor", "display", "visibility")}
    for part in element.attrib.get("style", "").split(";"):
        name, _, value = part.partition(":")
        if name.strip() in ("font-size", "text-anchor", "display", "visibility"):
            given[name.strip()] = value.strip()
    return found | given


def _texts(element: Any, m: Any, above: dict[str, str], page: Page) -> None:
    tag = str(element.tag).rsplit("}", 1)[-1]
    style = _style(element, above)
    if style.get("display") == "none" or tag in ("defs", "symbol", "style", "title", "desc", "metadata"):
        return
    here = S.Matrix(element.attrib.get("transform", "")) * m if element.attrib.get("transform") else m
    if tag == "text":
        _runs(element, here, style, page)
        return
    for child in element:
        _texts(child, here, style, page)


def _runs(element: Any, m: Any, style: dict[str, str], page: Page) -> None:
    """The runs of a text element: itself and the spans in it, each where it begins."""
    pen = [_first(element, "x", 0.0), _first(element, "y", 0.0)]

    def put(text: str | None, how: dict[str, str]) -> None:
        nonlocal pen
        words = " ".join((text or "").split())
        if not words or how.get("visibility") == "hidden":
            return
        size = _length(how.get("font-size", "16"))
        long = wide(words, size)
        middle = (pen[0] + _ANCHOR.get(how.get("text-anchor", "start"), 0.5) * long, pen[1])
        at = m.point_in_matrix_space(middle)
        k = math.hypot(m.a, m.b)
        turn = math.degrees(math.atan2(m.b, m.a))
        if how.get("text-anchor", "start") == "start":
            pen = [pen[0] + long, pen[1]]
        if all(math.isfinite(v) for v in (at.x, at.y, k, turn)) and k * size > 0:
            page.letterings.append(Lettering(words, (float(at.x), float(at.y)), size * k, turn, long * k))

    put(element.text, style)
    for span in element:
        how = _style(span, style)
        pen = [_first(span, k, pen[i]) + _first(span, f"d{k}", 0.0) for i, k in enumerate("xy")]
        put(span.text, how)
        put(span.tail, style)


def _first(element: Any, name: str, otherwise: float) -> float:
    found = re.match(rf"\s*({_NUMBER})", element.attrib.get(name, ""))
    return float(found[1]) if found else otherwise


def _length(text: str) -> float:
    found = re.match(rf"\s*({_NUMBER})\s*(px|pt|mm|cm|in)?", text)
    if found is None:
        return 16.0
    return float(found[1]) * (_PER[found[2]] / 0.75 if found[2] else 1.0)

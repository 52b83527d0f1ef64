"""SVG in: paths and basic shapes as lines and arcs, transforms carried out, y turned up. Read with svgelements.

The XML is parsed once with defusedxml first: no DTD, no entities, bounded in elements. A file whose size is given
in mm, cm or in is to scale; else its units are unknown and the designer says what one is.
"""

from __future__ import annotations

import io
import math
import re
from typing import Any

import svgelements as S

from ..part.errors import Refusal
from .arcs import fitted
from .drawing import Collector, Drawing, Shape
from .xml import parse_svg, written

ELEMENTS = 100_000
XY = tuple[float, float]


def read_svg(data: bytes, tolerance: float = 1e-4) -> Drawing:
    """Read an SVG drawing; lengths come in mm where the file says so. ``tolerance`` as in ``read_dxf``."""
    plain, scale, damaged = _checked(data)
    try:
        root = S.SVG.parse(io.BytesIO(plain), reify=True, ppi=96)
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, RecursionError, ZeroDivisionError):
        raise Refusal("This SVG is damaged and cannot be read; save it again and retry.") from None
    reader = _Reader(tolerance, scale or 1.0)
    if damaged:
        reader.into.leave_out("path that breaks off", damaged)
    reader.group(root, "drawing", 0)
    drawing = reader.into.done()
    drawing.unit = "mm" if scale else None
    return drawing


_TOKEN = re.compile(r"[\s,]*(?:([MmZzLlHhVvCcSsQqTtAa])|([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?))")
_TAKES = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "Z": 0}


def _breaks_off(path: str) -> bool:
    """Whether a path is not one to its end: readers take what comes before the mistake, and say nothing."""
    at, letter, count = 0, "", 0
    text = path.rstrip()
    if text in ("", "none"):
        return False
    while at < len(text):
        token = _TOKEN.match(text, at)
        if token is None or (not letter and token[1] not in ("M", "m")):
            return True
        at = token.end()
        if token[2]:
            count += 1
            continue
        if _short(letter, count):
            return True
        letter, count = token[1].upper(), 0
    return _short(letter, count)


def _short(letter: str, count: int) -> bool:
    takes = _TAKES.get(letter)  # an arc's flags may be written without spaces: its numbers are not counted
    if takes is None:
        return False
    return count != 0 if takes == 0 else count == 0 or count % takes != 0


def _checked(data: bytes) -> tuple[bytes, float, int]:
    """Refuses unsafe or broken XML. Gives the file without its own scale; that scale in mm per unit of its coordinates,
    0 where the size is not given in a physical unit; and how many paths break off."""
    root = parse_svg(data, ELEMENTS)
    if not str(root.tag).endswith("svg"):
        raise Refusal("This is no SVG drawing, whatever its name says.")
    size = re.match(r"^\s*([\d.]+)\s*(mm|cm|in)\s*$", root.get("width", ""))
    view = [float(v) for v in re.findall(r"[-+]?[\d.]+(?:[eE][-+]?\d+)?", root.get("viewBox", ""))]
    scale = 0.0
    if size:
        across = float(size[1]) * {"mm": 1.0, "cm": 10.0, "in": 25.4}[size[2]]
        scale = across / view[2] if len(view) == 4 and view[2] > 0 else 25.4 / 96
    for name in ("width", "height", "viewBox", "preserveAspectRatio"):
        root.attrib.pop(name, None)
    damaged = sum(_breaks_off(e.get("d", "")) for e in root.iter() if str(e.tag).rsplit("}", 1)[-1] == "path")
    return written(root), scale, damaged


class _Reader:
    def __init__(self, tolerance: float, scale: float) -> None:
        self.tolerance, self.scale = tolerance, scale
        self.into = Collector()

    def group(self, group: Any, layer: str, depth: int) -> None:
        for element in group:
            if str(getattr(element, "values", {}).get("display", "")) == "none":
                continue
            if isinstance(element, S.Group | S.Use):
                named = str(element.id or layer) if depth == 0 else layer
                self.group(element, named, depth + 1)
            elif isinstance(element, S.Text):
                self.into.note(str(element.text or ""))
            elif isinstance(element, S.Shape):
                self._shape(element, layer)
            else:
                self.into.leave_out(type(element).__name__.lower())

    def _shape(self, element: Any, layer: str) -> None:
        dashed = str(element.values.get("stroke-dasharray", "none")) not in ("none", "0", "")
        if isinstance(element, S.Circle | S.Ellipse) and math.isclose(element.rx, element.ry, rel_tol=1e-9):
            c = (float(element.cx), -float(element.cy))
            self._add(Shape(layer=layer, kind="circle", c=c, r=float(element.rx), dashed=dashed))
            return
        for segment in S.Path(element):
            for shape in self._segment(segment, layer):
                shape.dashed = dashed
                self._add(shape)

    def _add(self, s: Shape) -> None:
        """In mm."""
        k = self.scale
        s.p, s.q, s.c = ((p[0] * k, p[1] * k) if p else None for p in (s.p, s.q, s.c))
        s.r = s.r * k if s.r else None
        self.into.add(s)

    def _segment(self, s: Any, layer: str) -> list[Shape]:
        if isinstance(s, S.Move):
            return []
        if s.start is None or s.end is None:
            return []
        if isinstance(s, S.Line | S.Close):
            return [Shape(layer=layer, kind="line", p=_xy(s.start), q=_xy(s.end))] if s.start != s.end else []
        if isinstance(s, S.Arc) and math.isclose(s.rx, s.ry, rel_tol=1e-6):
            p, q = _xy(s.start), _xy(s.end)
            if math.dist(p, q) < 1e-9 * s.rx:
                return [Shape(layer=layer, kind="circle", c=_xy(s.center), r=float(s.rx))]
            if s.sweep > 0:  # clockwise once y points up
                p, q = q, p
            return [Shape(layer=layer, kind="arc", c=_xy(s.center), r=float(s.rx), p=p, q=q)]
        box = s.bbox()
        size = max(box[2] - box[0], box[3] - box[1])
        if not math.isfinite(size) or size <= 0:
            return []
        self.into.drawing.fitted += 1
        return fitted(lambda t: _xy(s.point(t)), self.tolerance * size, layer)


def _xy(p: Any) -> XY:
    return float(p.x), -float(p.y)

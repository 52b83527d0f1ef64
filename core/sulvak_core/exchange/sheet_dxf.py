"""A DXF sheet as a page of lines, arcs and texts: its paper space where something is drawn there, else its model space.

The page is as large as what is drawn, with a margin. Line types and widths come along; a dimension gives its text and
the places it measures.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable
from typing import Any

from ezdxf.document import Drawing as DxfFile
from ezdxf.math import Vec3
from ezdxf.render import hatching
from ezdxf.tools.text import plain_mtext

from ..part.errors import Refusal
from ..sheet.page import Box, Given, Lettering, Page, Stroke, merged
from .circular import joined, through
from .drawing import PER_UNIT
from .dxf_in import BROKEN, DEEPEST, OPENED, clean, opened, unit_of

XY = tuple[float, float]

POINT = 72 / 25.4  # points a mm
LARGEST = 14_000.0  # points: a larger drawing is shown smaller
MARGIN = 0.03
MOST = 120_000
PIECES = 24  # of a free curve
CAPITAL = 0.72  # of the size of letters: a text's height is that of its capitals
ADVANCE = 0.62  # of the size, a letter
LINE = 5 / 3  # of the height, from one line of a text to the next
LAYER, STANDARD, THIN = -1, -3, 0.25  # line widths: the layer's, the file's own; mm
_FEW = 8  # things on a paper space that do not make it a drawing


def read_dxf_page(data: bytes) -> tuple[Page, float]:
    """The page a DXF draws, in points, and how many mm of what is drawn a point stands for.

    Raises Refusal for what is no DXF, damaged, empty or too large.
    """
    file = opened(data)
    reader = _Reader(file)
    paper = _paper(file)
    if paper is not None:
        for viewport in paper.query("VIEWPORT"):
            reader.viewport(viewport)
    for entity in paper if paper is not None else file.modelspace():
        reader.take(entity, 0)
    mm = 1.0 if paper is not None else PER_UNIT[unit_of(file, data) or "mm"]
    return reader.page(mm)


def _paper(file: DxfFile) -> Any:
    """The paper space that is drawn on; None where there is none."""
    for name in file.layouts.names_in_taborder():
        layout = file.layouts.get(name)
        if not layout.is_modelspace and sum(1 for e in layout if e.dxftype() != "VIEWPORT") > _FEW:
            return layout
    return None


class _Reader:
    def __init__(self, file: DxfFile) -> None:
        self.file = file
        self.strokes: list[Stroke] = []
        self.letterings: list[Lettering] = []
        self.given: list[Given] = []
        self.opened = 0
        self.patterns: dict[str, tuple[float, ...]] = {}
        self.scale = float(file.header.get("$LTSCALE", 1.0) or 1.0)

    # -- what there is -------------------------------------------------------------------------------------

    def take(self, entity: Any, depth: int) -> None:
        """Draw an entity of the model, the paper or a block."""
        kind = entity.dxftype()
        if int(entity.dxf.get("invisible", 0)) or not self._shown(entity) or depth > DEEPEST:
            return
        try:
            if kind == "DIMENSION" or kind == "ARC_DIMENSION":
                self._dimension(entity, depth)
            elif kind == "HATCH":
                self._hatch(entity)
            elif kind in _DRAWN:
                _DRAWN[kind](self, entity)
            elif kind in ("INSERT", "LWPOLYLINE", "POLYLINE", "LEADER", "MULTILEADER", "MLINE", "TOLERANCE"):
                self._open(entity, depth)
        except Refusal:
            raise
        except BROKEN:
            return  # this one is damaged; the rest is drawn

    def _open(self, entity: Any, depth: int) -> None:
        self.opened += 1
        if self.opened > OPENED:
            raise Refusal(f"This drawing places blocks more than {OPENED:,} times; open it up where it was made.")
        parts: Iterable[Any] = entity.multi_insert() if entity.dxftype() == "INSERT" and entity.mcount > 1 else [entity]
        for part in parts:
            for inner in part.virtual_entities():
                if inner.dxf.get("layer", "0") == "0":
                    inner.dxf.layer = entity.dxf.get("layer", "0")
                self.take(inner, depth + 1)
        for attribute in getattr(entity, "attribs", []):
            self.take(attribute, depth + 1)

    def _shown(self, e: Any) -> bool:
        name = e.dxf.get("layer", "0")
        layer = self.file.layers.get(name) if name in self.file.layers else None
        return layer is None or not (layer.is_off() or layer.is_frozen())

    def _look(self, e: Any) -> dict[str, Any]:
        name = e.dxf.get("layer", "0")
        layer = self.file.layers.get(name) if name in self.file.layers else None
        width = int(e.dxf.get("lineweight", LAYER))
        if width == LAYER and layer is not None:
            width = int(layer.dxf.get("lineweight", STANDARD))
        pattern = str(e.dxf.get("linetype", "BYLAYER"))
        if pattern.upper() == "BYLAYER" and layer is not None:
            pattern = str(layer.dxf.get("linetype", "CONTINUOUS"))
        mm = width / 100 if width >= 0 else THIN
        return {"width": mm * POINT, "dash": self._dash(pattern, e), "layer": clean(name)}

    def _dash(self, name: str, e: Any) -> tuple[float, ...]:
        if name not in self.patterns:
            kind = self.file.linetypes.get(name) if name in self.file.linetypes else None
            lengths = kind.simplified_line_pattern() if kind is not None else ()
            self.patterns[name] = tuple(abs(float(v)) for v in lengths)
        k = self.scale * float(e.dxf.get("ltscale", 1.0) or 1.0)
        return tuple(v * k for v in self.patterns[name])

    def _add(self, stroke: Stroke) -> None:
        if len(self.strokes) >= MOST:
            raise Refusal("There is too much drawn on this sheet to be read; take the sheet itself into its own file.")
        numbers = [c for p in stroke.points for c in p]
        if all(map(math.isfinite, numbers)) and max(map(abs, numbers)) < 1e9:
            self.strokes.append(stroke)

    # -- strokes: in the drawing's own unit, y turned down ----------------------------------------------------

    def line(self, e: Any) -> None:
        a, b = _xy(Vec3(e.dxf.start)), _xy(Vec3(e.dxf.end))
        if a != b:
            self._add(Stroke("line", (a, b), **self._look(e)))

    def circle(self, e: Any) -> None:
        c, r = _xy(e.ocs().to_wcs(Vec3(e.dxf.center))), abs(float(e.dxf.radius))
        start = (c[0] + r, c[1])
        self._add(Stroke("circle", (start, start), c, r, math.tau, **self._look(e)))

    def arc(self, e: Any) -> None:
        c, r = _xy(e.ocs().to_wcs(Vec3(e.dxf.center))), abs(float(e.dxf.radius))
        turn = math.radians((float(e.dxf.end_angle) - float(e.dxf.start_angle)) % 360) or math.tau
        back = Vec3(e.dxf.extrusion).z < 0
        # counter-clockwise with y up is against the clock on the page
        self._add(Stroke("arc", (_xy(e.start_point), _xy(e.end_point)), c, r, turn if back else -turn, **self._look(e)))

    def curve(self, e: Any) -> None:
        points = (
            [_xy(Vec3(p)) for p in e.construction_tool().approximate(PIECES)]
            if e.dxftype() == "SPLINE"
            else [_xy(Vec3(p)) for p in e.flattening(float(Vec3(e.dxf.major_axis).magnitude) / 2000)]
        )
        if len(points) > 2:
            self._add(through(points, self._look(e)))

    def solid(self, e: Any) -> None:
        """A filled corner: the head of an arrow."""
        points = [_xy(Vec3(p)) for p in e.wcs_vertices()]
        look = {**self._look(e), "filled": True}
        for a, b in zip(points, [*points[1:], points[0]], strict=True):
            if a != b:
                self._add(Stroke("line", (a, b), **look))

    def _hatch(self, e: Any) -> None:
        look = {**self._look(e), "layer": "hatch"}
        if e.has_solid_fill:
            return
        for count, line in enumerate(hatching.hatch_entity(e)):
            if count > MOST // 10:
                return
            self._add(Stroke("line", (_xy(Vec3(line.start)), _xy(Vec3(line.end))), **look))

    # -- words ---------------------------------------------------------------------------------------------

    def text(self, e: Any) -> None:
        words, height = clean(e.plain_text()), float(e.dxf.height)
        align, p, q = e.get_placement()
        at = Vec3(q if align.name in ("ALIGNED", "FIT") and q is not None else p)
        across = ADVANCE / CAPITAL * height * float(e.dxf.get("width", 1.0) or 1.0) * len(words)
        left = {"RIGHT": -0.5, "CENTER": 0.0, "MIDDLE": 0.0}
        side = next((k for word, k in left.items() if word in align.name), 0.5)
        down = {"TOP": -height, "MIDDLE": -height / 2, "BOTTOM": 0.2 * height}
        rise = next((k for word, k in down.items() if word in align.name), 0.0)
        self._put(words, at, float(e.dxf.get("rotation", 0.0)), height, across, side * across, rise)

    def mtext(self, e: Any) -> None:
        turn = float(e.get_rotation())
        height = float(e.dxf.char_height)
        lines = [clean(x) for x in plain_mtext(_spelled(str(e.text)), split=True)]
        lines = [x for x in lines if x.strip()] or []
        row, side = divmod(int(e.dxf.get("attachment_point", 1)) - 1, 3)
        pitch = LINE * height * float(e.dxf.get("line_spacing_factor", 1.0) or 1.0)
        tall = height + pitch * (len(lines) - 1)
        top = {0: 0.0, 1: tall / 2, 2: tall}.get(row, 0.0)
        for i, words in enumerate(lines):
            across = ADVANCE / CAPITAL * height * len(words)
            shift = {0: across / 2, 1: 0.0, 2: -across / 2}[side]
            self._put(words, Vec3(e.dxf.insert), turn, height, across, shift, top - height - i * pitch)

    def _put(self, words: str, at: Vec3, turn: float, height: float, across: float, along: float, up: float) -> None:
        """A line of letters ``along`` and ``up`` from a place, in the direction in which it is read."""
        words = " ".join(words.split())
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        x, y = at.x + along * c - up * s, at.y + along * s + up * c
        if words and height > 0 and all(map(math.isfinite, (x, y, height, turn))):
            self.letterings.append(Lettering(words[:400], (x, -y), height / CAPITAL, -turn, across))

    def _dimension(self, e: Any, depth: int) -> None:
        before = len(self.letterings)
        self._open(e, depth)
        drawn = self.letterings[before:]
        text = _dimension_text(e)
        at = drawn[0].at if drawn else _xy(Vec3(e.dxf.get("text_midpoint", e.dxf.get("defpoint", (0, 0)))))
        if not drawn and text:
            height = float(e.get_dim_style_override().get("dimtxt", 2.5) or 2.5) if hasattr(e, "override") else 2.5
            self._put(text, Vec3(at[0], -at[1]), 0.0, height, ADVANCE / CAPITAL * height * len(text), 0.0, 0.0)
        names = {0: ("defpoint2", "defpoint3"), 1: ("defpoint2", "defpoint3"), 3: ("defpoint", "defpoint4"),
                 4: ("defpoint", "defpoint4")}.get(int(e.dxf.get("dimtype", 0)) & 7, ())  # fmt: skip
        ends = tuple(_xy(Vec3(e.dxf.get(n))) for n in names if e.dxf.hasattr(n))
        if text:
            level = int(e.dxf.get("dimtype", 0)) & 7 == 0 and len(ends) == 2
            way = -float(e.dxf.get("angle", 0.0)) % 180 if level else _way(ends)
            self.given.append(Given(text, at, ends, way))

    # -- viewports -----------------------------------------------------------------------------------------

    def viewport(self, e: Any) -> None:
        """What of the model a window on the paper shows, at its scale."""
        high = float(e.dxf.get("view_height", 0.0) or 0.0)
        if int(e.dxf.get("id", 0)) == 1 or high <= 0:  # the paper itself
            return
        k = float(e.dxf.height) / high
        looked, put = Vec3(e.dxf.get("view_center_point", (0, 0))), Vec3(e.dxf.center)
        wide, tall = float(e.dxf.width) / 2, float(e.dxf.height) / 2
        window = (put.x - wide, -put.y - tall, put.x + wide, -put.y + tall)
        inner = _Reader(self.file)
        for entity in self.file.modelspace():
            inner.take(entity, 0)

        def moved(p: XY) -> XY:
            return put.x + (p[0] - looked.x) * k, -put.y + (p[1] + looked.y) * k

        for s in inner.strokes:
            to = _moved(s, moved, k)
            if _within(to.box(), window):
                self._add(to)
        for t in inner.letterings:
            at = moved(t.at)
            if _within((*at, *at), window):
                self.letterings.append(_moved_text(t, moved, k))
        self.given += [Given(g.text, moved(g.at), tuple(map(moved, g.ends)), g.turn) for g in inner.given]

    # -- the page ------------------------------------------------------------------------------------------

    def page(self, mm: float) -> tuple[Page, float]:
        boxes = [s.box() for s in self.strokes] + [t.box() for t in self.letterings]
        if not boxes:
            raise Refusal("There is nothing drawn in this DXF that can be shown as a sheet.")
        left, top, right, bottom = merged(boxes)
        size = max(right - left, bottom - top)
        if not size > 0 or not math.isfinite(size):
            raise Refusal("There is nothing drawn in this DXF that can be shown as a sheet.")
        k = min(mm * POINT, LARGEST / (size * (1 + 2 * MARGIN)))
        edge = MARGIN * size

        def moved(p: XY) -> XY:
            return (p[0] - left + edge) * k, (p[1] - top + edge) * k

        page = Page((max(1.0, (right - left + 2 * edge) * k), max(1.0, (bottom - top + 2 * edge) * k)))
        page.strokes = joined([_moved(s, moved, k) for s in self.strokes])
        page.letterings = [
            Lettering(t.text, moved(t.at), t.size * k, t.turn, t.wide * k, t.layer) for t in self.letterings
        ]
        page.given = [Given(g.text, moved(g.at), tuple(map(moved, g.ends)), g.turn) for g in self.given]
        return page, mm / k


def _moved(s: Stroke, moved: Callable[[XY], XY], k: float) -> Stroke:
    centre = moved(s.centre) if s.centre else None
    dash = tuple(v * k for v in s.dash)
    points = tuple(map(moved, s.points))
    return Stroke(s.kind, points, centre, s.radius * k, s.sweep, s.width, dash, s.layer, s.filled)


def _moved_text(t: Lettering, moved: Callable[[XY], XY], k: float) -> Lettering:
    return Lettering(t.text, moved(t.at), t.size * k, t.turn, t.wide * k, t.layer)


def _within(box: Box, window: Box) -> bool:
    return box[0] < window[2] and box[2] > window[0] and box[1] < window[3] and box[3] > window[1]


_STACKED = re.compile(r"\\S([^;^#/]*)[\^#/]\s*([^;]*);")
_SIGN_FONT = re.compile(r"\{?\\[Ff][^;]*gdt[^;]*;([nvwx])\}?", re.IGNORECASE)  # letters that such a font draws as signs
_CODE = re.compile(r"\\U\+([0-9A-Fa-f]{4})")
_SIGNS = {"n": "⌀", "v": "⌴", "w": "⌵", "x": "↧"}


def _spelled(text: str) -> str:
    """Text with stacked limits side by side and signs of sign fonts as themselves."""
    text = _CODE.sub(lambda m: chr(int(m[1], 16)), text)
    text = _SIGN_FONT.sub(lambda m: _SIGNS[m[1].lower()], text)
    return _STACKED.sub(lambda m: f" {m[1].strip()}/{m[2].strip()}", text)


def _way(ends: tuple[XY, ...]) -> float:
    """The direction from one end to the other, degrees clockwise as seen, 0 up to 180."""
    if len(ends) != 2 or ends[0] == ends[1]:
        return 0.0
    (ax, ay), (bx, by) = ends
    return math.degrees(math.atan2(by - ay, bx - ax)) % 180


def _dimension_text(e: Any) -> str:
    kind = int(e.dxf.get("dimtype", 0)) & 7
    measured = e.get_measurement()
    value = float(measured) if isinstance(measured, int | float) else 0.0
    sign = {3: "Ø", 4: "R"}.get(kind, "")
    shown = f"{sign}{value:.4f}".rstrip("0").rstrip(".") + ("°" if kind in (2, 5) else "")
    text = _spelled(str(e.dxf.get("text", "") or "<>"))
    if not text.strip() or not math.isfinite(value):
        return ""
    spelled = text.replace("<>", shown).replace("%%c", "Ø").replace("%%d", "°").replace("%%p", "±")
    return " ".join(clean(plain_mtext(spelled)).split())


_DRAWN: dict[str, Callable[[_Reader, Any], None]] = {
    "LINE": _Reader.line,
    "CIRCLE": _Reader.circle,
    "ARC": _Reader.arc,
    "ELLIPSE": _Reader.curve,
    "SPLINE": _Reader.curve,
    "SOLID": _Reader.solid,
    "TRACE": _Reader.solid,
    "TEXT": _Reader.text,
    "ATTRIB": _Reader.text,
    "MTEXT": _Reader.mtext,
}


def _xy(p: Any) -> XY:
    return float(p.x), -float(p.y)

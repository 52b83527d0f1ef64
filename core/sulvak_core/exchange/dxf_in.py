"""DXF in: model space of R12 to R2018 as lines, arcs, circles and points; blocks opened, elevations told.

Read with ezdxf. Entities in a plane parallel to the drawing's keep their elevation as ``lift``; those that stand
at an angle to it are left out and counted. DIMENSION entities become size texts, TEXT and MTEXT notes.
"""

from __future__ import annotations

import math
import struct
import tempfile
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import ezdxf
from ezdxf import recover
from ezdxf.document import Drawing as DxfFile
from ezdxf.lldxf.const import DXFError
from ezdxf.math import Vec3

from ..part.errors import Refusal
from .arcs import fitted
from .drawing import Collector, Drawing, DrawingUnit, OutOfRange, Shape

_UNITS: dict[int, DrawingUnit] = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}
BROKEN = (
    DXFError, OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, RecursionError, ZeroDivisionError,
    OverflowError, StopIteration, EOFError, AssertionError, struct.error,
)  # fmt: skip
_DASHED = ("CENTER", "CENTRE", "HIDDEN", "DASH", "PHANTOM", "CHAIN", "CONSTRUCT")
DEEPEST = 12  # blocks inside blocks
OPENED = 20_000  # blocks opened in one drawing
FLAT = 1e-6


def read_dxf(data: bytes, tolerance: float = 1e-4) -> Drawing:
    """Read a DXF file (text or binary). ``tolerance`` is the share of a free curve's size its arcs may be off.

    Raises Refusal with a sentence for anything that is no drawing, is damaged, empty or far too large.
    """
    if data.startswith((b"AC10", b"AC1.", b"MC0.0")):
        raise Refusal("This is a drawing in a closed format; save it as DXF and bring that.")
    file = opened(data)
    reader = _Reader(file, tolerance, unit_of(file, data))
    for entity in file.modelspace():
        reader.take(entity, 0)
    return reader.into.done()


def opened(data: bytes) -> DxfFile:
    """A DXF file, text or binary. Raises Refusal for anything else."""
    head = data[:4096]
    binary = b"\r\n\x1a\x00" in head[:32]  # how the sentinel of a binary DXF ends
    if not binary and b"SECTION" not in head:
        raise Refusal("This is no DXF file, whatever its name says; export the drawing as DXF and bring that.")
    damaged = "This DXF file is damaged and cannot be read; export it again."
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "incoming.dxf"
        path.write_bytes(data)
        try:
            # from a path: line ends, the code page and the binary form are then found out by the reader
            return ezdxf.readfile(path)  # type: ignore[attr-defined]
        except BROKEN:
            if binary:  # the recovering reader takes text alone
                raise Refusal(damaged) from None
        try:
            file, _ = recover.readfile(path)
        except BROKEN:
            raise Refusal(damaged) from None
    return file


def unit_of(file: DxfFile, data: bytes) -> DrawingUnit | None:
    """The unit that the file itself tells; a reader's own default for one that tells none would be a guess."""
    if b"$INSUNITS" in data and (unit := _UNITS.get(int(file.header.get("$INSUNITS", 0) or 0))):
        return unit
    imperial = b"$MEASUREMENT" in data and file.header.get("$MEASUREMENT", 1) == 0
    return "in" if imperial else None


def clean(text: Any) -> str:
    """Text without halves of characters, which bytes outside a file's code page become."""
    return str(text).encode("utf-8", "replace").decode()


class _Reader:
    def __init__(self, file: DxfFile, tolerance: float, unit: DrawingUnit | None) -> None:
        self.file, self.tolerance = file, tolerance
        self.into = Collector()
        self.opened = 0
        self.into.drawing.unit = unit
        for layer in file.layers:
            self.into.layer(clean(layer.dxf.name), not (layer.is_off() or layer.is_frozen()))

    def take(self, entity: Any, depth: int) -> None:
        kind = entity.dxftype()
        if int(entity.dxf.get("invisible", 0)):
            return
        if kind == "INSERT":
            self._open(entity, depth)
            return
        work = _KINDS.get(kind)
        if work is None:
            self.into.leave_out(kind.lower())
            return
        try:
            work(self, entity)
        except Refusal:
            raise
        except BROKEN:
            self.into.leave_out(f"damaged {kind.lower()}")

    def _open(self, entity: Any, depth: int) -> None:
        if depth >= DEEPEST:
            self.into.leave_out("block nested too deep")
            return
        try:
            parts: Iterable[Any] = entity.multi_insert() if entity.mcount > 1 else [entity]
            for part in parts:
                self.opened += 1
                if self.opened > OPENED:
                    raise Refusal(
                        f"This drawing places blocks more than {OPENED:,} times; open it up where it was made."
                    )
                for inner in part.virtual_entities(skipped_entity_callback=self._skipped):
                    if inner.dxf.get("layer", "0") == "0":  # layer 0 inside a block means the block's layer
                        inner.dxf.layer = entity.dxf.get("layer", "0")
                    self.take(inner, depth + 1)
        except OutOfRange:
            self.into.leave_out("damaged block")
        except Refusal:
            raise
        except BROKEN:  # a scale of zero, a block that holds itself: this one is left out, the rest is taken
            self.into.leave_out("damaged block")

    def _skipped(self, entity: Any, reason: str) -> None:
        self.into.leave_out(entity.dxftype().lower())

    # -- shapes ------------------------------------------------------------------------------

    def _shape(self, entity: Any, kind: str, lift: float, **data: Any) -> None:
        layer = clean(entity.dxf.get("layer", "0"))
        common = {"layer": layer, "lift": lift if abs(lift) > FLAT else 0.0, "dashed": self._dashed(entity)}
        self.into.add(Shape(kind=kind, **common, **data))  # type: ignore[arg-type]

    def _dashed(self, entity: Any) -> bool:
        name = str(entity.dxf.get("linetype", "BYLAYER")).upper()
        if name == "BYLAYER":
            layer = self.file.layers.get(entity.dxf.layer) if entity.dxf.get("layer", "0") in self.file.layers else None
            name = str(layer.dxf.get("linetype", "CONTINUOUS")).upper() if layer else "CONTINUOUS"
        return any(word in name for word in _DASHED)

    def _tilted(self, entity: Any) -> None:
        self.into.leave_out(f"{entity.dxftype().lower()} at an angle to the drawing's plane")

    def line(self, e: Any) -> None:
        p, q = Vec3(e.dxf.start), Vec3(e.dxf.end)
        if abs(p.z - q.z) > FLAT and math.dist((p.x, p.y), (q.x, q.y)) < FLAT:
            self._tilted(e)  # stands upright: nothing of it is seen
            return
        self._shape(e, "line", p.z if abs(p.z) > abs(q.z) else q.z, p=_xy(p), q=_xy(q))

    def circle(self, e: Any) -> None:
        if not self._upright(e):
            return
        c = e.ocs().to_wcs(Vec3(e.dxf.center))
        self._shape(e, "circle", c.z, c=_xy(c), r=abs(float(e.dxf.radius)))

    def arc(self, e: Any) -> None:
        if not self._upright(e):
            return
        c = e.ocs().to_wcs(Vec3(e.dxf.center))
        p, q = Vec3(e.start_point), Vec3(e.end_point)
        if Vec3(e.dxf.extrusion).z < 0:  # seen from behind, it runs the other way
            p, q = q, p
        turn = (float(e.dxf.end_angle) - float(e.dxf.start_angle)) % 360
        if turn < 1e-9 or p.isclose(q, abs_tol=1e-12):
            self._shape(e, "circle", c.z, c=_xy(c), r=abs(float(e.dxf.radius)))
        else:
            self._shape(e, "arc", c.z, c=_xy(c), r=abs(float(e.dxf.radius)), p=_xy(p), q=_xy(q))

    def point(self, e: Any) -> None:
        at = Vec3(e.dxf.location)
        self._shape(e, "point", at.z, p=_xy(at))

    def pieces(self, e: Any) -> None:
        """Polylines, as their lines and arcs (bulges)."""
        if e.dxftype() == "POLYLINE" and not (e.is_2d_polyline or e.is_3d_polyline):
            self.into.leave_out("mesh")
            return
        for inner in e.virtual_entities():
            self.take(inner, DEEPEST)

    def ellipse(self, e: Any) -> None:
        if abs(abs(Vec3(e.dxf.extrusion).normalize().z) - 1) > 1e-6:
            self._tilted(e)
            return
        tool = e.construction_tool()
        start, end = float(tool.start_param), float(tool.end_param)
        sweep = (end - start) % math.tau or math.tau
        major = Vec3(tool.major_axis).magnitude
        self._curve(e, lambda t: next(iter(tool.vertices([start + t * sweep]))), major, Vec3(tool.center).z)

    def spline(self, e: Any) -> None:
        tool = e.construction_tool()
        points = [Vec3(p) for p in tool.control_points]
        heights = [p.z for p in points]
        if max(heights) - min(heights) > FLAT:
            self._tilted(e)
            return
        size = max((p - points[0]).magnitude for p in points)
        first, last = tool.knots()[tool.order - 1], tool.knots()[-tool.order]
        self._curve(e, lambda t: tool.point(first + t * (last - first)), size, heights[0])

    def _curve(self, e: Any, at: Callable[[float], Vec3], size: float, lift: float) -> None:
        if not math.isfinite(size) or size <= 0:
            raise ValueError
        for s in fitted(lambda t: _xy(at(t)), self.tolerance * size, clean(e.dxf.get("layer", "0"))):
            s.lift, s.dashed = (lift if abs(lift) > FLAT else 0.0), self._dashed(e)
            self.into.add(s)
        self.into.drawing.fitted += 1

    def _upright(self, e: Any) -> bool:
        if abs(abs(Vec3(e.dxf.extrusion).normalize().z) - 1) > 1e-6:
            self._tilted(e)
            return False
        return True

    # -- words -------------------------------------------------------------------------------

    def text(self, e: Any) -> None:
        self.into.note(clean(e.plain_text()))

    def dimension(self, e: Any) -> None:
        """``<>`` in the text stands for the measured value."""
        kind = int(e.dxf.get("dimtype", 0)) & 7
        measured = e.get_measurement()
        value = float(measured) if isinstance(measured, int | float) else 0.0
        sign = {3: "Ø", 4: "R"}.get(kind, "")
        shown = f"{sign}{value:.4f}".rstrip("0").rstrip(".") + ("°" if kind in (2, 5) else "")
        text = str(e.dxf.get("text", "") or "<>")
        if text.strip() and math.isfinite(value):
            self.into.size(clean(text).replace("<>", shown).replace("%%c", "Ø").replace("%%d", "°").replace("%%p", "±"))


_KINDS: dict[str, Callable[[_Reader, Any], None]] = {
    "LINE": _Reader.line,
    "CIRCLE": _Reader.circle,
    "ARC": _Reader.arc,
    "POINT": _Reader.point,
    "LWPOLYLINE": _Reader.pieces,
    "POLYLINE": _Reader.pieces,
    "ELLIPSE": _Reader.ellipse,
    "SPLINE": _Reader.spline,
    "TEXT": _Reader.text,
    "MTEXT": _Reader.text,
    "DIMENSION": _Reader.dimension,
}


def _xy(p: Vec3) -> tuple[float, float]:
    return float(p.x), float(p.y)

"""A drawing as DXF (R2010): in the modelspace at its size on paper, in mm, its sizes as DIMENSION and LEADER entities.

Each dimension's block holds just what the other forms draw, so that it looks the same everywhere; a program that draws
it anew does so from its places and its text.
"""

from __future__ import annotations

from typing import Any

from ezdxf import units
from ezdxf.enums import TextEntityAlignment

from ..drawing.paper import LETTER, LINES, Dimension, Ink, Word, ratio
from ..drawing.sheet import DrawnSheet, DrawnSize
from .dxf_bytes import dxf_bytes, new_dxf
from .view_out import dxf_curve

STYLE = "SIZES"


def drawing_dxf(sheet: DrawnSheet, title: str) -> bytes:
    """The drawing; the same again gives the same bytes."""
    file = new_dxf(["linetypes"])
    file.units = units.MM
    file.header["$PROJECTNAME"] = title[:200]
    file.styles.add("SULVAK", font="IBMPlexMono-Regular.ttf")
    _line_types(file)
    for name, (width, dashes) in LINES.items():
        file.layers.add(name, lineweight=round(width * 100), linetype=f"SULVAK_{name}" if dashes else "CONTINUOUS")
    file.layers.add("TEXT", lineweight=25)
    style = file.dimstyles.add(STYLE)
    style.dxf.dimtxt = LETTER * 0.7
    style.dxf.dimasz = 3.0
    style.dxf.dimlfac = 1 / ratio(sheet.scale)
    space = file.modelspace()
    _ink(space, sheet.ink)
    for size in sheet.sizes:
        _size(file, space, size)
    file.header["$EXTMIN"], file.header["$EXTMAX"] = (0.0, 0.0, 0.0), (*sheet.size, 0.0)
    file.header["$LIMMIN"], file.header["$LIMMAX"] = (0.0, 0.0), sheet.size
    return dxf_bytes(file)


def _line_types(file: Any) -> None:
    for name, (_, dashes) in LINES.items():
        if dashes:
            pattern = [d if i % 2 == 0 else -d for i, d in enumerate(dashes)]
            file.linetypes.add(f"SULVAK_{name}", [sum(dashes), *pattern], description=name.lower())


def _ink(space: Any, ink: Ink) -> None:
    for s in ink.strokes:
        dxf_curve(space, s.curve, 1.0, {"layer": s.layer})
    for a in ink.arrows:
        p, q, r = a.corners()
        space.add_solid([p, q, r, r], dxfattribs={"layer": "SIZES"})
    for w in ink.words:
        _word(space, w)


def _word(space: Any, w: Word) -> None:
    text = space.add_text(w.text, height=w.size * 0.7, rotation=w.turn, dxfattribs={"layer": "TEXT", "style": "SULVAK"})
    text.set_placement(w.at, align=TextEntityAlignment.CENTER if w.anchor == "middle" else TextEntityAlignment.LEFT)


def _size(file: Any, space: Any, size: DrawnSize) -> None:
    if size.dimension is None:
        _ink(space, size.ink)
        return
    made = _dimension(space, size.dimension)
    block = file.blocks.new_anonymous_block(type_char="D")
    _ink(block, size.ink)
    made.dxf.geometry = block.name
    made.dxf.text_midpoint = (*size.dimension.middle, 0.0)
    made.dxf.layer = "SIZES"


def _dimension(space: Any, d: Dimension) -> Any:
    common: dict[str, Any] = {"dimstyle": STYLE, "dxfattribs": {"layer": "SIZES"}}
    if d.kind == "linear":
        made = space.add_linear_dim(base=d.line, p1=d.a, p2=d.b, angle=d.turn, text=d.text, **common)
    elif d.kind == "radius":
        made = space.add_radius_dim(center=d.a, mpoint=d.b, text=d.text, **common)
    elif d.kind == "diameter":
        made = space.add_diameter_dim_2p(p1=d.a, p2=d.b, text=d.text, **common)
    else:
        made = space.add_angular_dim_3p(base=d.line, center=d.a, p1=d.b, p2=d.c, text=d.text, **common)
    return made.dimension

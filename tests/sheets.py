"""A page of a sheet drawn again as another kind of file: for tests that read the same sheet from each."""

from __future__ import annotations

import io
import math
from dataclasses import replace
from itertools import groupby
from pathlib import Path

import ezdxf
from fontTools.pens.svgPathPen import SVGPathPen  # type: ignore[import-untyped]
from fontTools.ttLib import TTFont as Font  # type: ignore[import-untyped]
from reportlab.pdfbase import pdfmetrics  # type: ignore[import-untyped]
from reportlab.pdfbase.ttfonts import TTFont  # type: ignore[import-untyped]
from reportlab.pdfgen.canvas import Canvas  # type: ignore[import-untyped]

from sulvak_core import drawing
from sulvak_core.sheet.page import Page, Stroke
from sulvak_core.sheet.render import as_svg

SIGNS = "↧⌴⌵⌀□"
POINT = 72 / 25.4  # points a mm
CAPITAL = 0.72


def as_pdf(page: Page, turned: int = 0) -> bytes:
    """As a PDF: arcs become free curves there, texts stand in Helvetica, with signs of another font among them."""
    out = io.BytesIO()
    wide, high = page.size
    # a turned page is given its size as it will be seen
    canvas = Canvas(out, pagesize=(high, wide) if turned % 180 else (wide, high))
    for s in page.strokes:
        canvas.setLineWidth(s.width or 0.5)
        canvas.setDash(list(s.dash) if s.dash else [])
        path = canvas.beginPath()
        if s.centre is not None:
            (cx, cy), r = s.centre, s.radius
            start = -math.degrees(math.atan2(s.points[0][1] - cy, s.points[0][0] - cx))
            path.arc(cx - r, high - cy - r, cx + r, high - cy + r, start, -math.degrees(s.sweep))
        else:
            path.moveTo(s.points[0][0], high - s.points[0][1])
            for x, y in s.points[1:]:
                path.lineTo(x, high - y)
        canvas.drawPath(path, stroke=1, fill=0)
    for t in page.letterings:
        canvas.saveState()
        canvas.translate(t.at[0], high - t.at[1])
        canvas.rotate(-t.turn)
        _centred(canvas, t.text, t.size)
        canvas.restoreState()
    if turned:
        canvas.setPageRotation(turned)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _centred(canvas: Canvas, text: str, size: float) -> None:
    """A text about the place the canvas stands at; signs that Helvetica has not come from a font of signs."""
    if "signs" not in pdfmetrics.getRegisteredFontNames():
        pdfmetrics.registerFont(TTFont("signs", str(Path(drawing.__file__).parent / "fonts" / "sulvak-signs.ttf")))
    runs = [
        ("signs" if sign else "Helvetica", "".join(letters)) for sign, letters in groupby(text, lambda c: c in SIGNS)
    ]
    wide = [pdfmetrics.stringWidth(run, font, size) for font, run in runs]
    line = canvas.beginText(-sum(wide) / 2, 0)
    for font, run in runs:
        line.setFont(font, size)
        line.textOut(run)
    canvas.drawText(line)


def as_dxf(page: Page) -> bytes:
    """As a DXF in mm, y up: line types and widths told, dashes as a pattern of their own."""
    file = ezdxf.new("R2010", setup=True)  # type: ignore[attr-defined]
    file.header["$INSUNITS"] = 4
    space = file.modelspace()
    patterns: dict[tuple[float, ...], str] = {(): "CONTINUOUS"}
    for s in page.strokes:
        if s.dash not in patterns:
            patterns[s.dash] = f"CENTER_{len(patterns)}"
            lengths = [(-1 if i % 2 else 1) * v / POINT for i, v in enumerate(s.dash)]
            file.linetypes.add(patterns[s.dash], [sum(map(abs, lengths)), *lengths])
        _dxf_stroke(space, s, {"linetype": patterns[s.dash], "lineweight": _weight(s.width / POINT)})
    for t in page.letterings:
        text = space.add_text(t.text, height=t.size * CAPITAL / POINT, rotation=-t.turn)
        text.set_placement((t.at[0] / POINT, -t.at[1] / POINT), align=ezdxf.enums.TextEntityAlignment.CENTER)
    out = io.StringIO()
    file.write(out)
    return out.getvalue().encode()


def _weight(mm: float) -> int:
    """The nearest width that a DXF knows."""
    known = (13, 18, 20, 25, 30, 35, 40, 50, 60, 70, 80, 90, 100)
    return min(known, key=lambda w: abs(w - 100 * mm))


def _dxf_stroke(space, s: Stroke, look: dict[str, object]) -> None:  # type: ignore[no-untyped-def]
    points = [(x / POINT, -y / POINT) for x, y in s.points]
    if s.kind == "line":
        space.add_line(*points, dxfattribs=look)
    elif s.centre is None:
        space.add_lwpolyline(points, dxfattribs=look)
    else:
        c, r = (s.centre[0] / POINT, -s.centre[1] / POINT), s.radius / POINT
        if s.kind == "circle":
            space.add_circle(c, r, dxfattribs=look)
        else:
            ends = [math.degrees(math.atan2(y - c[1], x - c[0])) for x, y in points]
            a, b = ends if s.sweep < 0 else ends[::-1]
            space.add_arc(c, r, a, b, dxfattribs=look)


def with_outlined_letters(page: Page) -> bytes:
    """As an SVG whose letters are filled shapes, each kept once and used wherever it stands."""
    font = Font(Path(drawing.__file__).parent / "fonts" / "plex-mono-latin-400.ttf")
    glyphs, known, units = font.getGlyphSet(), font.getBestCmap(), font["head"].unitsPerEm
    shapes: dict[str, str] = {}
    words = []
    for t in page.letterings:
        uses, pen = [], 0
        for letter in t.text:
            glyph = known.get(ord(letter), ".notdef")
            outline = SVGPathPen(glyphs)
            glyphs[glyph].draw(outline)
            shapes[glyph] = outline.getCommands()
            uses.append(f'<use xlink:href="#g-{glyph}" transform="translate({pen} 0)"/>' if shapes[glyph] else "")
            pen += glyphs[glyph].width
        place = f"translate({t.at[0]} {t.at[1]}) rotate({t.turn}) scale({t.size / units} {-t.size / units})"
        words.append(f'<g transform="{place} translate({-pen / 2} 0)">{"".join(uses)}</g>')
    kept = "".join(f'<path id="g-{name}" d="{outline}"/>' for name, outline in shapes.items() if outline)
    plain = as_svg(replace(page, letterings=[])).replace("<svg ", '<svg xmlns:xlink="http://www.w3.org/1999/xlink" ')
    return plain.replace("</svg>", f"<defs>{kept}</defs>{''.join(words)}</svg>").encode()

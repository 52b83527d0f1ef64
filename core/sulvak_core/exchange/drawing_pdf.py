"""A drawing as PDF, in vectors, its letters as text."""

from __future__ import annotations

import io
import math
from pathlib import Path

from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from ..drawing import paper
from ..drawing.looks import run
from ..drawing.paper import Ink, Word
from ..drawing.sheet import DrawnSheet
from ..solid.project import Flat

INK = HexColor("#1E2A44")
FACE, SIGNS = "Drawing", "DrawingSigns"
LETTERS = Path(paper.__file__).parent / "fonts"
QUARTER = 4 / 3  # of the tangent of a quarter of an arc: where its control places stand


def drawing_pdf(sheet: DrawnSheet, title: str) -> bytes:
    """The drawing on one page; the same again gives the same bytes."""
    _fonts()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(sheet.size[0] * mm, sheet.size[1] * mm), invariant=1)
    canvas.setTitle(title)
    canvas.scale(mm, mm)
    canvas.setStrokeColor(INK)
    canvas.setFillColor(INK)
    canvas.setLineCap(0)
    _ink(canvas, sheet.ink)
    for size in sheet.sizes:
        _ink(canvas, size.ink)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _fonts() -> None:
    if FACE not in pdfmetrics.getRegisteredFontNames():
        pdfmetrics.registerFont(TTFont(FACE, str(LETTERS / "plex-mono-latin-400.ttf")))
        pdfmetrics.registerFont(TTFont(SIGNS, str(LETTERS / "sulvak-signs.ttf")))


def _ink(canvas: Canvas, ink: Ink) -> None:
    for s in ink.strokes:
        width, dashes = paper.LINES[s.layer]
        canvas.setLineWidth(width)
        canvas.setDash(list(dashes) if dashes else [])
        _curve(canvas, s.curve)
    canvas.setDash([])
    for a in ink.arrows:
        path = canvas.beginPath()
        first, *rest = a.corners()
        path.moveTo(*first)
        for p in rest:
            path.lineTo(*p)
        path.close()
        canvas.drawPath(path, stroke=0, fill=1)
    for w in ink.words:
        _word(canvas, w)


def _curve(canvas: Canvas, c: Flat) -> None:
    path = canvas.beginPath()
    if c.kind in ("circle", "arc"):
        _arc(path, c)
    else:
        first, *rest = run(c)
        path.moveTo(*first)
        for p in rest:
            path.lineTo(*p)
    canvas.drawPath(path, stroke=1, fill=0)


def _arc(path: object, c: Flat) -> None:
    (x, y), r = c.at["c"], c.r
    start, sweep = 0.0, math.tau
    if c.kind == "arc":
        start = math.atan2(c.at["p"][1] - y, c.at["p"][0] - x)
        sweep = (math.atan2(c.at["q"][1] - y, c.at["q"][0] - x) - start) % math.tau
    n = max(1, math.ceil(sweep / (math.pi / 4)))
    step = sweep / n
    k = QUARTER * math.tan(step / 4) * r
    path.moveTo(x + r * math.cos(start), y + r * math.sin(start))  # type: ignore[attr-defined]
    for i in range(n):
        a, b = start + i * step, start + (i + 1) * step
        ends = [(x + r * math.cos(t), y + r * math.sin(t)) for t in (a, b)]
        path.curveTo(  # type: ignore[attr-defined]
            ends[0][0] - k * math.sin(a), ends[0][1] + k * math.cos(a),
            ends[1][0] + k * math.sin(b), ends[1][1] - k * math.cos(b), *ends[1],
        )  # fmt: skip
    if c.kind == "circle":
        path.close()  # type: ignore[attr-defined]


def _word(canvas: Canvas, w: Word) -> None:
    canvas.saveState()
    canvas.translate(*w.at)
    canvas.rotate(w.turn)
    text = canvas.beginText(0.0 if w.anchor == "start" else -w.width() / 2, 0.0)
    for face, letters in _runs(w.text):
        text.setFont(face, w.size)
        text.textOut(letters)
    canvas.drawText(text)
    canvas.restoreState()


def _runs(text: str) -> list[tuple[str, str]]:
    """A text in runs of one font; letters that neither has as “?”."""
    has = pdfmetrics.getFont(FACE).face.charToGlyph
    signs = pdfmetrics.getFont(SIGNS).face.charToGlyph
    found: list[tuple[str, str]] = []
    for letter in text:
        face = FACE if ord(letter) in has else SIGNS if ord(letter) in signs else ""
        face, letter = (face, letter) if face else (FACE, "?")
        if found and found[-1][0] == face:
            found[-1] = (face, found[-1][1] + letter)
        else:
            found.append((face, letter))
    return found

"""An inspection report as PDF: whose it is, every size with its limits and what it measures, the sheet with its
balloons. Run it in a process with limits."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, LongTable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from ..part.document import Callout
from ..part.errors import Refusal
from ..part.units import MM_PER, number
from ..sheet.page import Page, Stroke
from ..sheet.pages import page_png
from ..solid.outline import Lines
from ..steps.registry import Document
from .sheet_files import page_of

INK, PENCIL, HAIR = HexColor("#1E2A44"), HexColor("#6F6959"), HexColor("#D9D3C3")
PROOF, RED, OCHRE = HexColor("#0D7063"), HexColor("#B83720"), HexColor("#8A5F13")
TONE = {"proven": PROOF, "out": RED, "reference": OCHRE, "used": OCHRE, "changed": RED}
FONT = "Plex"
PAPER = landscape(A4)
EDGE = 14 * mm
DOTS = 2400  # of the longer side of a sheet that is a picture
PICTURES = ("image/png", "image/jpeg")
# signs that the shipped letters do not have, in words
WORDS = {"⌀": "Ø", "↧": " deep ", "⌴": " counterbore ", "⌵": " countersink ", "□": "square ", "≤": "<= ", "≥": ">= "}


def plain(text: str) -> str:
    """A text in signs that the report's letters have."""
    _font()
    has = pdfmetrics.getFont(FONT).face.charToGlyph
    spelled = "".join(WORDS.get(c, c) for c in text.replace("\n", " "))
    return " ".join("".join(c if ord(c) in has else "?" for c in spelled).split())


def _font() -> None:
    if FONT not in pdfmetrics.getRegisteredFontNames():
        path = Path(__file__).parents[1] / "sketch" / "fonts" / "plex-sans-latin-500.ttf"
        pdfmetrics.registerFont(TTFont(FONT, str(path)))


def report_pdf(
    document: Document,
    rows: Sequence[Mapping[str, Any]],
    heading: Mapping[str, str],
    uncovered: Sequence[str] = (),
    lines: Lines | None = None,
    sheets: Sequence[tuple[bytes, str]] = (),
    more: Callable[[], Sequence[Flowable]] | None = None,
) -> bytes:
    """The report. ``rows`` as ``inspect.method.rows`` gives them; ``heading``: name and value of what it states of
    itself; ``uncovered``: sizes that no callout speaks of; ``lines``: the part as seen; ``sheets``: the file and
    media type of each sheet; ``more``: further sections, made when letters are at hand. The same again gives the same
    bytes."""
    _font()
    out = io.BytesIO()
    title = plain(f"Inspection of {document.name}")
    made = SimpleDocTemplate(
        out, pagesize=PAPER, leftMargin=EDGE, rightMargin=EDGE, topMargin=EDGE, bottomMargin=EDGE, title=title,
        author=plain(heading.get("by", "")), invariant=1,
    )  # fmt: skip
    story: list[Any] = [_top(title, rows, heading, lines), Spacer(1, 5 * mm), _table(document, rows)]
    if uncovered:
        story += [
            Spacer(1, 5 * mm),
            paragraph("Sizes that no callout speaks of", 10),
            paragraph("; ".join(uncovered), 8),
        ]
    story += more() if more else []
    foot = plain(" · ".join(v for k, v in heading.items() if k in ("part", "number", "revision", "version") and v))
    extra = _sheet_pages(document, sheets)

    def numbered(canvas: Canvas, _: Any) -> None:
        canvas.setFont(FONT, 7.5)
        canvas.setFillColor(PENCIL)
        canvas.drawString(EDGE, 8 * mm, foot)
        canvas.drawRightString(PAPER[0] - EDGE, 8 * mm, f"page {canvas.getPageNumber()}")

    class Drawn(Canvas):  # type: ignore[misc]
        """The pages of the sheet come after those of the table."""

        def save(self) -> None:
            for draw in extra:
                draw(self)
                numbered(self, None)
                self.showPage()
            super().save()

    made.build(story, onFirstPage=numbered, onLaterPages=numbered, canvasmaker=Drawn)
    return out.getvalue()


# -- the head and the table --------------------------------------------------------------------------------


def paragraph(words: str, size: float, colour: Any = INK) -> Paragraph:
    """Words in the report's letters."""
    safe = plain(words).replace("&", "&amp;").replace("<", "&lt;")
    return Paragraph(safe, ParagraphStyle("p", fontName=FONT, fontSize=size, leading=size * 1.25, textColor=colour))


def _top(title: str, rows: Sequence[Mapping[str, Any]], heading: Mapping[str, str], lines: Lines | None) -> Table:
    judged = [r for r in rows if r["verdict"] not in ("note", "reference")]
    proven = sum(r["verdict"] == "proven" for r in judged)
    told = [[paragraph(k, 8, PENCIL), paragraph(v, 8)] for k, v in heading.items() if v]
    told.append(
        [
            paragraph("proven", 8, PENCIL),
            paragraph(f"{proven} of {len(judged)}", 8, PROOF if proven == len(judged) else RED),
        ]
    )
    left = [paragraph(title, 16), Spacer(1, 3 * mm), Table(told, colWidths=[32 * mm, 110 * mm], style=_STATED)]
    picture = _Part(lines, 96 * mm, 62 * mm)
    return Table([[left, picture]], colWidths=[PAPER[0] - 2 * EDGE - 100 * mm, 100 * mm], style=_TOP)


_STATED = TableStyle([("TOPPADDING", (0, 0), (-1, -1), 0), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
                      ("LEFTPADDING", (0, 0), (-1, -1), 0), ("VALIGN", (0, 0), (-1, -1), "TOP")])  # fmt: skip
_TOP = TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)])
_COLUMNS = (12, 50, 20, 20, 20, 22, 18, 30, 20, 57)  # mm


def _table(document: Document, rows: Sequence[Mapping[str, Any]]) -> LongTable:
    names = ("No.", "Callout", "Nominal", "Least", "Most", "Measured", "Off", "Within limits", "Verdict", "How")
    body: list[list[Any]] = [[paragraph(n, 7.5, PENCIL) for n in names]]
    for r in rows:
        k = MM_PER[document.unit] if r["unit"] == "mm" else 1.0
        sign = "°" if r["unit"] == "°" else ""
        figures = [
            "" if r[c] is None else number(r[c] / k, 4) + sign
            for c in ("nominal", "lower", "upper", "measured", "deviation")
        ]
        tone = TONE.get(r["verdict"], PENCIL)
        how = r["how"] if r["verdict"] != "out" else f"{r['said']}. {r['how']}"
        body.append(
            [
                paragraph(str(r["number"]), 8),
                paragraph(r["text"], 8),
                *(paragraph(f, 8) for f in figures),
                _Bar(r, 28 * mm, 4 * mm),
                paragraph(r["verdict"], 8, tone),
                paragraph(how, 6.5, PENCIL),
            ]
        )
    style = [
        ("VALIGN", (0, 0), (-1, -1), "MIDDLE"),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, HAIR),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2),
    ]
    return LongTable(body, colWidths=[c * mm for c in _COLUMNS], repeatRows=1, style=TableStyle(style))


class _Bar(Flowable):  # type: ignore[misc]
    """A deviation within its limits: a line from the least to the most, a mark at the nominal, a stroke for what it is;
    outside of them the stroke stands red at the end."""

    def __init__(self, row: Mapping[str, Any], width: float, height: float) -> None:
        super().__init__()
        self.row, self.width, self.height = row, width, height

    def draw(self) -> None:
        r, c, w, y = self.row, self.canv, self.width, self.height / 2
        low, high = r["lower"], r["upper"]
        if r["deviation"] is None or low is None or high is None or high - low <= 0:
            return
        c.setLineWidth(0.6)
        c.setStrokeColor(PENCIL)
        c.line(2, y, w - 2, y)
        for at in (low, r["nominal"], high):
            x = 2 + (at - low) / (high - low) * (w - 4)
            c.line(x, y - 1.5, x, y + 1.5)
        share = (r["measured"] - low) / (high - low)
        c.setStrokeColor(PROOF if -1e-9 <= share <= 1 + 1e-9 else RED)
        c.setLineWidth(1.6)
        x = 2 + min(1.02, max(-0.02, share)) * (w - 4)
        c.line(x, y - 4, x, y + 4)


class _Part(Flowable):  # type: ignore[misc]
    """The part as it is seen, its lines fitted into a box."""

    def __init__(self, lines: Lines | None, width: float, height: float) -> None:
        super().__init__()
        self.lines, self.width, self.height = lines, width, height

    def draw(self) -> None:
        if self.lines is None:
            return
        every = [p for run in (*self.lines.seen, *self.lines.smooth) for p in run]
        if not every:
            return
        xs, ys = zip(*every, strict=True)
        k = min(self.width / max(max(xs) - min(xs), 1e-9), self.height / max(max(ys) - min(ys), 1e-9)) * 0.96
        left = (self.width - k * (max(xs) - min(xs))) / 2
        for runs, weight, colour in ((self.lines.smooth, 0.3, PENCIL), (self.lines.seen, 0.7, INK)):
            self.canv.setLineWidth(weight)
            self.canv.setStrokeColor(colour)
            for run in runs:
                path = self.canv.beginPath()
                for i, (x, y) in enumerate(run):
                    at = (left + k * (x - min(xs)), k * (y - min(ys)))
                    (path.lineTo if i else path.moveTo)(*at)
                self.canv.drawPath(path, stroke=1, fill=0)


# -- the sheet ---------------------------------------------------------------------------------------------


def _sheet_pages(document: Document, files: Sequence[tuple[bytes, str]]) -> list[Callable[[Canvas], None]]:
    """What draws each page of the sheets that has balloons, fitted onto the paper."""
    found, n = [], 0
    for sheet, (data, media_type) in zip(document.sheets(), files, strict=False):
        for own, points in enumerate(sheet.pages):
            mine = [c for c in document.callouts if c.page == n and c.at is not None]
            if mine:
                found.append(_one_page(data, media_type, own, points, mine))
            n += 1
    return found


def _one_page(
    data: bytes, media_type: str, n: int, points: tuple[float, float], callouts: list[Callout]
) -> Callable[[Canvas], None]:
    page = picture = None
    if media_type in PICTURES:
        picture = ImageReader(io.BytesIO(data))
    else:
        try:
            page, _ = page_of(data, media_type, n)
        except Refusal:  # it is shown, though it cannot be read
            if media_type != "application/pdf":
                raise
            picture = ImageReader(io.BytesIO(page_png(data, n, DOTS)))
    wide, high = page.size if page is not None else points
    room = (PAPER[0] - 2 * EDGE, PAPER[1] - 2 * EDGE)
    k = min(room[0] / wide, room[1] / high)
    left, top = (PAPER[0] - k * wide) / 2, PAPER[1] - EDGE

    def draw(c: Canvas) -> None:
        c.saveState()
        c.translate(left, top)
        c.scale(k, -k)
        if picture is not None:
            c.saveState()
            c.translate(0, high)
            c.scale(1, -1)
            c.drawImage(picture, 0, 0, wide, high)
            c.restoreState()
        if page is not None:
            draw_page(c, page)
        c.restoreState()
        for callout in callouts:
            assert callout.at is not None
            _balloon(c, callout.number, left + k * wide * callout.at[0], top - k * high * callout.at[1])

    return draw


def draw_page(c: Canvas, page: Page) -> None:
    """A page's lines and letters, on a canvas whose y runs down."""
    _font()
    c.setStrokeColor(INK)
    c.setFillColor(INK)
    for s in page.strokes:
        c.setLineWidth(max(s.width, 0.2))
        c.setDash(list(s.dash) if s.dash else [])
        c.drawPath(_path(c, s), stroke=0 if s.filled else 1, fill=1 if s.filled else 0)
    c.setDash([])
    for t in page.letterings:
        c.saveState()
        c.translate(*t.at)
        c.rotate(t.turn)
        c.scale(1, -1)
        c.setFont(FONT, t.size)
        words = plain(t.text)
        natural = pdfmetrics.stringWidth(words, FONT, t.size)
        if t.wide and natural > 0:  # as long as it is on the sheet
            c.scale(t.wide / natural, 1)
        c.drawCentredString(0, 0, words)
        c.restoreState()


def _path(c: Canvas, s: Stroke) -> Any:
    path = c.beginPath()
    if s.centre is not None:
        (x, y), r = s.centre, s.radius
        start = math.degrees(math.atan2(s.points[0][1] - y, s.points[0][0] - x))
        path.arc(x - r, y - r, x + r, y + r, start, math.degrees(s.sweep))
    else:
        path.moveTo(*s.points[0])
        for p in s.points[1:]:
            path.lineTo(*p)
    return path


def _balloon(c: Canvas, n: int, x: float, y: float) -> None:
    c.setFillColor(HexColor("#FFFFFF"))
    c.setStrokeColor(RED)
    c.setLineWidth(0.8)
    c.circle(x, y, 6.2, stroke=1, fill=1)
    c.setFillColor(RED)
    c.setFont(FONT, 7)
    c.drawCentredString(x, y - 2.4, str(n))

"""A page of a PDF as lines, arcs and texts, by PDFium. Run it in a process with limits: files from outside are hostile.

A PDF knows no arcs: each of its free curves that is a part of a circle to within a thousandth of its radius becomes one
again, and pieces of one circle that follow each other become one arc.
"""

from __future__ import annotations

import ctypes
import math
from collections.abc import Iterator

import pypdfium2.raw as pdfium

from ..part.errors import Refusal
from ..sheet.page import WIDE, Lettering, Page, Stroke
from ..sheet.pages import opened
from .circular import joined, through

XY = tuple[float, float]
Affine = tuple[float, float, float, float, float, float]  # x' = a·x + c·y + e, y' = b·x + d·y + f

MOST = 120_000  # pieces of paths
LETTERS = 60_000
DEEPEST = 12
PIECES = 8  # of a free curve that is no arc
TOO_MUCH = "There is too much drawn on this page to be read; it can still be looked at and ballooned by hand."
SLANTED = 0.05  # the tangent from which on a line of letters is neither level nor upright
WHITE = 240  # from here on a colour is the paper's
_TURNED: dict[int, tuple[float, float, float, float]] = {
    0: (1, 0, 0, -1),
    1: (0, 1, 1, 0),
    2: (-1, 0, 0, 1),
    3: (0, -1, -1, 0),
}


def read_pdf_page(data: bytes, number: int) -> Page:
    """Page ``number`` (from 0) of a PDF, in points. Raises Refusal where there is no such page, or too much on it."""
    pdf = opened(data)
    if not 0 <= number < len(pdf):
        raise Refusal("This PDF has no such page.")
    page = pdf[number]
    width, height = page.get_size()
    left, bottom, right, top = page.get_bbox()
    a, b, c, d = _TURNED[page.get_rotation() // 90 % 4]
    # the corner that comes to lie at the top left
    corners = [(a * x + c * y, b * x + d * y) for x in (left, right) for y in (bottom, top)]
    to_page: Affine = (a, b, c, d, -min(x for x, _ in corners), -min(y for _, y in corners))
    found = Page((float(width), float(height)))
    for index in range(pdfium.FPDFPage_CountObjects(page.raw)):
        _object(pdfium.FPDFPage_GetObject(page.raw, index), to_page, 0, found)
    found.strokes = joined(found.strokes)
    found.letterings = list(_texts(page, to_page))
    return found


def _then(first: Affine, second: Affine) -> Affine:
    a, b, c, d, e, f = first
    p, q, r, s, t, u = second
    return a * p + b * r, a * q + b * s, c * p + d * r, c * q + d * s, e * p + f * r + t, e * q + f * s + u


def _at(m: Affine, x: float, y: float) -> XY:
    return m[0] * x + m[2] * y + m[4], m[1] * x + m[3] * y + m[5]


def _object(item: object, m: Affine, depth: int, into: Page) -> None:
    kind = pdfium.FPDFPageObj_GetType(item)
    own = pdfium.FS_MATRIX()
    if not pdfium.FPDFPageObj_GetMatrix(item, own):
        return
    here = _then((own.a, own.b, own.c, own.d, own.e, own.f), m)
    if kind == pdfium.FPDF_PAGEOBJ_FORM and depth < DEEPEST:
        for index in range(pdfium.FPDFFormObj_CountObjects(item)):
            _object(pdfium.FPDFFormObj_GetObject(item, index), here, depth + 1, into)
    elif kind == pdfium.FPDF_PAGEOBJ_PATH:
        _path(item, here, into)


def _colour(item: object, of: object) -> tuple[int, int, int, int]:
    parts = [ctypes.c_uint() for _ in range(4)]
    of(item, *parts)  # type: ignore[operator]
    return parts[0].value, parts[1].value, parts[2].value, parts[3].value


def _is_ink(colour: tuple[int, int, int, int]) -> bool:
    return colour[3] > 0 and min(colour[:3]) < WHITE


def _path(item: object, m: Affine, into: Page) -> None:
    mode, stroked = ctypes.c_int(), pdfium.FPDF_BOOL()
    if not pdfium.FPDFPath_GetDrawMode(item, mode, stroked):
        return
    filled = bool(mode.value) and _is_ink(_colour(item, pdfium.FPDFPageObj_GetFillColor))
    line = bool(stroked.value) and _is_ink(_colour(item, pdfium.FPDFPageObj_GetStrokeColor))
    if not filled and not line:
        return
    k = math.sqrt(abs(m[0] * m[3] - m[1] * m[2]))
    width = ctypes.c_float()
    pdfium.FPDFPageObj_GetStrokeWidth(item, width)
    look = {
        "width": width.value * k if line else 0.0,
        "dash": _dash(item, k) if line else (),
        "filled": filled and not line,
    }
    count = pdfium.FPDFPath_CountSegments(item)
    if len(into.strokes) + count > MOST:
        raise Refusal(TOO_MUCH)
    start = here = (0.0, 0.0)
    handles: list[XY] = []
    for index in range(count):
        segment = pdfium.FPDFPath_GetPathSegment(item, index)
        x, y = ctypes.c_float(), ctypes.c_float()
        pdfium.FPDFPathSegment_GetPoint(segment, x, y)
        to = _at(m, x.value, y.value)
        sort = pdfium.FPDFPathSegment_GetType(segment)
        if sort == pdfium.FPDF_SEGMENT_MOVETO:
            start = here = to
        elif sort == pdfium.FPDF_SEGMENT_LINETO:
            _line(here, to, look, into)
            here = to
        elif sort == pdfium.FPDF_SEGMENT_BEZIERTO:
            handles.append(to)
            if len(handles) == 3:
                into.strokes.append(_curve(here, handles[0], handles[1], to, look))
                here, handles = to, []
        if pdfium.FPDFPathSegment_GetClose(segment):
            _line(here, start, look, into)
            here = start


def _dash(item: object, k: float) -> tuple[float, ...]:
    count = pdfium.FPDFPageObj_GetDashCount(item)
    if not 0 < count <= 32:
        return ()
    lengths = (ctypes.c_float * count)()
    pdfium.FPDFPageObj_GetDashArray(item, lengths, count)
    return tuple(round(v * k, 4) for v in lengths) if any(v > 0 for v in lengths) else ()


def _line(a: XY, b: XY, look: dict[str, object], into: Page) -> None:
    if math.dist(a, b) > 1e-4 and all(map(math.isfinite, (*a, *b))):
        into.strokes.append(Stroke("line", (a, b), **look))  # type: ignore[arg-type]


def _curve(a: XY, p: XY, q: XY, b: XY, look: dict[str, object]) -> Stroke:
    points = []
    for i in range(PIECES + 1):
        t = i / PIECES
        w = ((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3)
        points.append(
            (
                w[0] * a[0] + w[1] * p[0] + w[2] * q[0] + w[3] * b[0],
                w[0] * a[1] + w[1] * p[1] + w[2] * q[1] + w[3] * b[1],
            )
        )
    return through(points, look)


# -- texts -------------------------------------------------------------------------------------------------


def _texts(page: object, m: Affine) -> Iterator[Lettering]:
    """Runs of letters that stand behind one another on one line, as the page has them."""
    text = page.get_textpage()  # type: ignore[attr-defined]
    count = min(text.count_chars(), LETTERS)
    run: list[tuple[str, XY, float, float, float]] = []  # letter, origin, advance, size, turn
    for index in range(count):
        letter = _letter(text, index, m)
        if letter is None:
            if run and run[-1][0] != " ":
                run.append((" ", run[-1][1], 0.0, run[-1][3], run[-1][4]))
            continue
        if run and not _goes_on(run, letter):
            yield from _run(run)
            run = []
        run.append(letter)
    yield from _run(run)


def _letter(text: object, index: int, m: Affine) -> tuple[str, XY, float, float, float] | None:
    """None for spaces and what only parts lines."""
    raw = text.raw  # type: ignore[attr-defined]
    code = pdfium.FPDFText_GetUnicode(raw, index)
    letter = chr(code) if 32 < code < 0x110000 and not 0xD800 <= code < 0xE000 else " "
    if letter.isspace() or not letter.isprintable():
        return None
    x, y = ctypes.c_double(), ctypes.c_double()
    own = pdfium.FS_MATRIX()
    if not pdfium.FPDFText_GetCharOrigin(raw, index, x, y) or not pdfium.FPDFText_GetMatrix(raw, index, own):
        return None
    size = pdfium.FPDFText_GetFontSize(raw, index) * math.hypot(own.c, own.d)
    box = pdfium.FS_RECTF()
    pdfium.FPDFText_GetLooseCharBox(raw, index, box)
    (ax, ay), (bx, by) = _at(m, 0, 0), _at(m, own.a, own.b)
    turn = math.degrees(math.atan2(by - ay, bx - ax))
    across = abs(box.right - box.left) if abs(own.a) >= abs(own.b) else abs(box.top - box.bottom)
    if min(abs(own.a), abs(own.b)) > SLANTED * max(abs(own.a), abs(own.b)):
        across = min(across, WIDE * size)  # the box round a slanted letter is wider than the letter
    if not size > 0 or not all(map(math.isfinite, (x.value, y.value, size, turn, across))):
        return None
    return letter, _at(m, x.value, y.value), across, size, turn


def _goes_on(run: list[tuple[str, XY, float, float, float]], letter: tuple[str, XY, float, float, float]) -> bool:
    last = next((r for r in reversed(run) if r[0] != " "), run[-1])
    _, at, advance, size, turn = last
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    dx, dy = letter[1][0] - at[0], letter[1][1] - at[1]
    along, down = dx * c + dy * s, dy * c - dx * s
    alike = abs((letter[4] - turn + 180) % 360 - 180) < 2 and abs(letter[3] - size) < 0.1 * size
    return alike and abs(down) < 0.1 * size and -0.3 * size < along - advance < 0.6 * size


def _run(run: list[tuple[str, XY, float, float, float]]) -> Iterator[Lettering]:
    letters = [r for r in run if r[0] != " "]
    words = " ".join("".join(r[0] for r in run).split())
    if not words or not letters:
        return
    first, last = letters[0], letters[-1]
    c, s = math.cos(math.radians(first[4])), math.sin(math.radians(first[4]))
    end = (last[1][0] + c * last[2], last[1][1] + s * last[2])
    middle = ((first[1][0] + end[0]) / 2, (first[1][1] + end[1]) / 2)
    yield Lettering(words, middle, first[3], first[4], math.dist(first[1], end))

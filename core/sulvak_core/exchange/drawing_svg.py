"""A drawing as SVG, at its true size: a group for each size, so that a screen can take hold of it."""

from __future__ import annotations

import io
from xml.sax.saxutils import escape, quoteattr

from ..drawing.paper import LINES, Arrow, Ink, Word
from ..drawing.sheet import DrawnSheet
from .view_out import svg_curve

COLOUR = "#1E2A44"
FACE = "IBM Plex Mono, Sulvak Signs, monospace"


def drawing_svg(sheet: DrawnSheet, title: str) -> bytes:
    """The drawing; the same again gives the same bytes."""
    wide, high = sheet.size
    out = io.StringIO()
    out.write(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:g}mm" height="{high:g}mm" '
        f'viewBox="0 {-high:g} {wide:g} {high:g}" fill="none" stroke="{COLOUR}">\n<title>{escape(title)}</title>\n'
        f'<rect x="0" y="{-high:g}" width="{wide:g}" height="{high:g}" fill="#FFFFFF" stroke="none"/>\n'
    )
    _ink(out, sheet.ink)
    for size in sheet.sizes:
        out.write(f"<g id={quoteattr('size-' + size.key)}>\n")
        _ink(out, size.ink)
        out.write("</g>\n")
    out.write("</svg>\n")
    return out.getvalue().encode()


def _ink(out: io.StringIO, ink: Ink) -> None:
    layers: dict[str, list[str]] = {}
    for s in ink.strokes:
        layers.setdefault(s.layer, []).append(svg_curve(s.curve))
    for name, curves in layers.items():
        width, dashes = LINES[name]  # type: ignore[index]
        dash = f' stroke-dasharray="{" ".join(f"{d:g}" for d in dashes)}"' if dashes else ""
        out.write(f'<g data-layer="{name.lower()}" stroke-width="{width:g}"{dash}>{"".join(curves)}</g>\n')
    if ink.arrows:
        heads = "".join(_head(a) for a in ink.arrows)
        out.write(f'<g fill="{COLOUR}" stroke="none">{heads}</g>\n')
    if ink.words:
        words = "".join(_word(w) for w in ink.words)
        out.write(f'<g fill="{COLOUR}" stroke="none" font-family="{FACE}">{words}</g>\n')


def _head(a: Arrow) -> str:
    at = "L".join(f"{x:.6g} {-y:.6g}" for x, y in a.corners())
    return f'<path d="M{at}Z"/>'


def _word(w: Word) -> str:
    x, y = w.at
    turn = f' transform="rotate({-w.turn:.6g} {x:.6g} {-y:.6g})"' if w.turn else ""
    anchor = ' text-anchor="middle"' if w.anchor == "middle" else ""
    return f'<text x="{x:.6g}" y="{-y:.6g}" font-size="{w.size:g}"{anchor}{turn}>{escape(w.text)}</text>'

"""A page of strokes and texts drawn as SVG, for kinds of file that no browser shows by itself."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape

from .page import Lettering, Page, Stroke

INK = "#1c1c1c"
HAIR = 0.35  # points: the least that a line is drawn wide
# signs that letters lack, as ISO 129 and ASME Y14.5 draw them, in a square of 14
_SIGNS = {"⌴": "M2 3V11H12V3", "⌵": "M2 3L7 11L12 3", "↧": "M2 2H12M7 2V11M4 8L7 12L10 8"}


def as_svg(page: Page) -> str:
    """The page as an SVG document of its size in points."""
    w, h = page.size
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:g}pt" height="{h:g}pt" viewBox="0 0 {w:g} {h:g}">'
    drawn = "".join([*map(_stroke, page.strokes), *map(_text, page.letterings)])
    return f'{head}<rect width="{w:g}" height="{h:g}" fill="#fff"/>{drawn}</svg>'


def _stroke(s: Stroke) -> str:
    dash = f' stroke-dasharray="{" ".join(f"{max(v, 0.3):.3g}" for v in s.dash)}"' if s.dash else ""
    look = f'fill="none" stroke="{INK}" stroke-width="{max(s.width, HAIR):.3g}"{dash}'
    if s.kind == "circle" and s.centre is not None:
        return f'<circle cx="{s.centre[0]:.3f}" cy="{s.centre[1]:.3f}" r="{s.radius:.3f}" {look}/>'
    (x, y), (u, v) = s.points[0], s.points[-1]
    if s.kind == "arc":
        large, way = int(abs(s.sweep) > math.pi), int(s.sweep > 0)
        path = f"M{x:.3f} {y:.3f}A{s.radius:.3f} {s.radius:.3f} 0 {large} {way} {u:.3f} {v:.3f}"
    else:
        path = "M" + "L".join(f"{a:.3f} {b:.3f}" for a, b in s.points)
    return f'<path d="{path}" {look}/>'


def _text(t: Lettering) -> str:
    (x, y), count = t.at, max(1, len(t.text))
    turned = f' transform="rotate({t.turn:.4g} {x:.3f} {y:.3f})"' if abs(t.turn) > 1e-6 else ""
    letters = "".join("\u00a0" if c in _SIGNS or c == " " else c for c in t.text)
    step = t.wide / count
    signs = "".join(
        f'<path transform="translate({x - t.wide / 2 + i * step:.3f} {y - 0.74 * t.size:.3f}) scale({step / 14:.4g})" '
        f'd="{_SIGNS[c]}" fill="none" stroke="{INK}" stroke-width="1.5"/>'
        for i, c in enumerate(t.text)
        if c in _SIGNS
    )
    return (
        f'<g{turned}><text x="{x - t.wide / 2:.3f}" y="{y:.3f}" font-family="monospace" font-size="{t.size:.3g}" '
        f'textLength="{t.wide:.3f}" lengthAdjust="spacingAndGlyphs" fill="{INK}">{escape(letters)}</text>{signs}</g>'
    )

"""The shipped letters (IBM Plex Sans, SIL Open Font License) as outlines on a base line."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont

from ..part.errors import Refusal

FONT = Path(__file__).parent / "fonts" / "plex-sans-latin-500.ttf"

Place = tuple[float, float]
Span = tuple[Place, Place, Place, Place]  # a cubic Bézier


@lru_cache(maxsize=1)
def _font() -> Any:
    return TTFont(FONT, lazy=True)


@lru_cache(maxsize=512)
def _letter(character: str) -> tuple[float, tuple[tuple[Span, ...], ...]]:
    """Advance and closed outlines of one character, in units of the capitals' height."""
    font = _font()
    name = font.getBestCmap().get(ord(character))
    if name is None:
        raise Refusal(f"The letters shipped here have no “{character}”; write it another way.")
    tall = font["OS/2"].sCapHeight
    glyphs = font.getGlyphSet()
    pen: Any = DecomposingRecordingPen(glyphs)  # type: ignore[no-untyped-call]
    glyphs[name].draw(pen)
    loops: list[tuple[Span, ...]] = []
    spans: list[Span] = []
    start: Place = (0.0, 0.0)
    at: Place = start
    for what, given in pen.value:
        places: list[Any] = [p and (p[0] / tall, p[1] / tall) for p in given]
        if what == "moveTo":
            start = at = places[0]
        elif what == "lineTo":
            spans.append(_straight(at, places[0]))
            at = places[0]
        elif what == "qCurveTo":
            for control, end in _quadratics(places):
                spans.append((at, _toward(at, control), _toward(end, control), end))
                at = end
        elif what == "curveTo":
            spans.append((at, places[0], places[1], places[2]))
            at = places[-1]
        elif what in ("closePath", "endPath"):
            if at != start:
                spans.append(_straight(at, start))
            if spans:
                loops.append(tuple(spans))
            spans = []
    return font["hmtx"][name][0] / tall, tuple(loops)


def _straight(a: Place, b: Place) -> Span:
    dx, dy = (b[0] - a[0]) / 3, (b[1] - a[1]) / 3
    return a, (a[0] + dx, a[1] + dy), (a[0] + 2 * dx, a[1] + 2 * dy), b


def _toward(end: Place, control: Place) -> Place:
    """A quadratic's control point as the cubic's next to ``end``."""
    return end[0] + 2 / 3 * (control[0] - end[0]), end[1] + 2 / 3 * (control[1] - end[1])


def _quadratics(places: list[Any]) -> list[tuple[Place, Place]]:
    """TrueType's run of off-curve points, an on-curve one halfway between each two of them."""
    *controls, last = places
    found = []
    for i, control in enumerate(controls):
        after = controls[i + 1] if i + 1 < len(controls) else None
        end = last if after is None else ((control[0] + after[0]) / 2, (control[1] + after[1]) / 2)
        found.append((control, end))
    return found


@lru_cache(maxsize=512)
def _line(text: str) -> tuple[float, tuple[tuple[Span, ...], ...], tuple[int, ...]]:
    """Width and outlines of a line of text, in units of the capitals' height, from the first ink to the last; and for
    each outline the number of its character, from 1."""
    at, loops, whose = 0.0, [], []
    for n, character in enumerate(text, 1):
        advance, outlines = _letter(character)
        loops += [tuple(tuple((x + at, y) for x, y in span) for span in loop) for loop in outlines]
        whose += [n] * len(outlines)
        at += advance
    xs = [x for loop in loops for span in loop for x, _ in span]
    if not xs:
        raise Refusal("A text needs at least one letter that leaves ink.")
    left, wide = min(xs), max(xs) - min(xs)
    moved: Any = tuple(tuple(tuple((x - left, y) for x, y in span) for span in loop) for loop in loops)
    return wide, moved, tuple(whose)


def slenderness(text: str) -> float:
    """Height of the capitals over the width of the line. Raises Refusal for characters that are not there."""
    return 1.0 / _line(text)[0]


def outlines(text: str, p: Place, q: Place) -> list[list[Span]]:
    """The closed outlines of a text on the base line from ``p`` to ``q`` (mm)."""
    wide, loops, _ = _line(text)
    ux, uy = (q[0] - p[0]) / wide, (q[1] - p[1]) / wide

    def put(at: Place) -> Place:
        return p[0] + ux * at[0] - uy * at[1], p[1] + uy * at[0] + ux * at[1]

    return [[(put(a), put(b), put(c), put(d)) for a, b, c, d in loop] for loop in loops]


def characters(text: str) -> tuple[int, ...]:
    """For each outline of a text the number of its character in the line, from 1."""
    return _line(text)[2]


__all__ = ["Place", "Span", "characters", "outlines", "slenderness"]

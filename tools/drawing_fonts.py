"""The letters of drawings: the face as the front end ships it, as TrueType, and the signs of sizes that it does not
have, drawn here after ISO 129-1 and ISO 3040. Run again when either changes: ``python -m tools.drawing_fonts``."""

from __future__ import annotations

import math
from pathlib import Path

import shapely
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parents[1]
MONO = ROOT / "web/node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff"
FONTS = ROOT / "core/sulvak_core/drawing/fonts"
SIGNS = FONTS / "sulvak-signs.ttf"
ON_SCREEN = ROOT / "web/src/fonts/sulvak-signs.ttf"
EM, WIDE, HALF = 1000, 600, 35  # units; half of a stroke
RING = [(300 + 250 * math.cos(t), 349 + 250 * math.sin(t)) for t in (math.tau * k / 48 for k in range(49))]
# runs of places in units of the em, on the baseline
STROKES: dict[int, tuple[list[tuple[float, float]], ...]] = {
    0x2300: (RING, [(90, 40), (510, 660)]),  # diameter
    0x21A7: ([(80, 690), (520, 690)], [(300, 690), (300, 60)], [(140, 250), (300, 40), (460, 250)]),  # deep
    0x2334: ([(70, 540), (70, 120), (530, 120), (530, 540)],),  # counterbore
    0x2335: ([(60, 540), (300, 120), (540, 540)],),  # countersink
    0x25A1: ([(80, 120), (520, 120), (520, 560), (80, 560), (80, 120)],),  # square
}


def signs() -> bytes:
    """The font of signs; the same again gives the same bytes."""
    names = [".notdef", *(f"u{code:04X}" for code in STROKES)]
    builder = FontBuilder(EM, isTTF=True)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({code: f"u{code:04X}" for code in STROKES})
    builder.setupGlyf({".notdef": TTGlyphPen(None).glyph(), **{f"u{c:04X}": _glyph(s) for c, s in STROKES.items()}})
    builder.setupHorizontalMetrics(dict.fromkeys(names, (WIDE, 0)))
    builder.setupHorizontalHeader(ascent=1025, descent=-275)
    builder.setupNameTable({"familyName": "Sulvak Signs", "styleName": "Regular"})
    builder.setupOS2(sTypoAscender=1025, sTypoDescender=-275, usWinAscent=1025, usWinDescent=275)
    builder.setupPost()
    font = builder.font
    font.recalcTimestamp = False
    font["head"].created = font["head"].modified = 3_800_000_000
    font.save(SIGNS)
    return SIGNS.read_bytes()


def _glyph(runs: tuple[list[tuple[float, float]], ...]):  # type: ignore[no-untyped-def]
    shape = shapely.union_all([shapely.LineString(r).buffer(HALF, cap_style="flat", join_style="mitre") for r in runs])
    pen = TTGlyphPen(None)
    for polygon in shapely.get_parts(shape):
        for ring in (
            shapely.geometry.polygon.orient(polygon, -1).exterior,
            *shapely.geometry.polygon.orient(polygon, -1).interiors,
        ):
            places = [(round(x), round(y)) for x, y in list(ring.coords)[:-1]]
            pen.moveTo(places[0])
            for p in places[1:]:
                pen.lineTo(p)
            pen.closePath()
    return pen.glyph()


def main() -> None:
    FONTS.mkdir(exist_ok=True)
    face = TTFont(MONO, recalcTimestamp=False)
    face.flavor = None
    face.save(FONTS / "plex-mono-latin-400.ttf")
    ON_SCREEN.parent.mkdir(exist_ok=True)
    ON_SCREEN.write_bytes(signs())


if __name__ == "__main__":
    main()

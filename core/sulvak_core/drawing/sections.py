"""Sections and details that were asked for: what is cut, its lining, the cutting line with its letters (ISO 128-3)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import shapely

from ..inspect.model_lines import SIDES, Model
from ..inspect.section_curves import section_curves
from ..part.drawing_sheet import DetailAsked, SectionAsked
from ..part.errors import Refusal
from ..solid.project import Flat
from .looks import Drawn, Look, run
from .paper import Arrow, Ink, Word

BEYOND = 7.0  # mm that a cutting line runs on beyond the view
END = 5.0  # long are its wide ends
LETTERS = 5.0


def sections_of(model: Model, asked: Sequence[SectionAsked]) -> list[Drawn]:
    """The sections of a part. Raises Refusal for a plane that misses it."""
    found = []
    for s in asked:
        towards, right = SIDES[s.side]
        name = f"section-{s.letter}"
        look = Look(name, towards, right, "free", s.at * sum(towards), f"{s.letter}-{s.letter}")
        try:
            curves = section_curves(model, s.side, s.at)
        except Refusal as refusal:
            raise Refusal(f"Section {s.letter}-{s.letter}: {refusal.sentence}") from None
        found.append(
            Drawn(
                look, list(curves["OUTLINE"]), list(curves["SMOOTH"]), [], list(curves["CUT"]), list(curves["LINING"])
            )
        )
    return found


def trace(section: Drawn, view: Drawn, k: float) -> Ink:
    """The cutting line of a section in a view that shows its plane as a line: chain thin with wide ends, arrows the way
    one looks, letters."""
    look = section.look
    assert look.cut is not None
    x, y = view.look.flat(look.towards)
    to = (x, y)  # towards who looks at the section
    u = (-y, x)
    left, low, right, high = (v * k for v in view.box)
    corners = [(a, b) for a in (left, right) for b in (low, high)]
    along = [p[0] * u[0] + p[1] * u[1] for p in corners]
    off = look.cut * k
    ink = Ink()

    def at(t: float, up: float = 0.0) -> tuple[float, float]:
        return t * u[0] + (off + up) * to[0], t * u[1] + (off + up) * to[1]

    lo, hi = min(along) - BEYOND, max(along) + BEYOND
    ink.line("TRACE", at(lo), at(hi))
    letter = look.title[0]
    for end, inner in ((lo, lo + END), (hi, hi - END)):
        ink.line("CUT", at(end), at(inner))
        tip = at((end + inner) / 2)
        tail = at((end + inner) / 2, 9.0)
        ink.line("SIZES", tail, tip)
        ink.arrows.append(Arrow(tip, math.atan2(-to[1], -to[0])))
        place = at(end + math.copysign(0.0, end), 12.0)
        ink.words.append(Word(letter, (place[0], place[1] - 0.3 * LETTERS), LETTERS))
    return ink


def _as_ratio(k: float) -> str:
    """A scale as it is written: 4:1, 1:2.5."""
    return f"{k:g}:1" if k >= 1 else f"1:{1 / k:g}"


def details_of(asked: Sequence[DetailAsked], views: Sequence[Drawn], scale: float) -> list[tuple[Drawn, float]]:
    """What details show, and how many times as large as the view they are of, which is drawn at ``scale``."""
    by_name = {v.look.name: v for v in views}
    found = []
    for d in asked:
        view = by_name.get(d.of)
        if view is None:
            continue  # its view is not drawn any more
        ring = shapely.Point(d.centre).buffer(d.radius, 64)

        def clipped(curves: Sequence[Flat], ring: shapely.Polygon = ring) -> list[Flat]:
            made = []
            for c in curves:
                for piece in shapely.get_parts(shapely.intersection(shapely.LineString(run(c)), ring)):
                    if piece.geom_type == "LineString" and piece.length > 1e-6:
                        at = [(float(x), float(y)) for x, y in piece.coords]
                        made.append(
                            Flat("line", {"p": at[0], "q": at[1]})
                            if len(at) == 2
                            else Flat("spline", {}, 0.0, tuple(at))
                        )
            return made

        title = f"{d.letter} ({_as_ratio(d.times * scale)})"
        look = replace(view.look, name=f"detail-{d.letter}", seat="free", title=title)
        made = Drawn(look, clipped(view.seen), [], clipped(view.hidden), clipped(view.cut), clipped(view.lining))
        found.append((made, d.times))
    return found

"""What a callout asks for, and how that is said in words."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

from ..part.units import number

Kind = Literal["linear", "diameter", "radius", "angle", "chamfer", "thread", "note"]


class Requirement(BaseModel):
    """What a callout asks for. Lengths in mm, angles in degrees.

    ``upper`` and ``lower`` are deviations from ``nominal`` (0 and 0 when the callout gives none); ``bound`` says that
    only one side counts: “max” or “min”. ``reference`` sizes, in parentheses, are told but not required; ``basic`` ones
    are theoretically exact. ``bore`` and ``bore_depth`` are a counterbore's, ``sink`` and ``sink_angle`` a
    countersink's, ``spot`` and ``spot_depth`` a spotface's. A ``thread`` is named as the tables do; its nominal is its
    diameter, ``drill`` and ``drill_depth`` what is drilled for it where that is given. ``leg`` is a chamfer's second
    leg. ``typical``: asked of all alike, however many. ``circle``: the diameter holes lie on. ``total``: of a row of
    ``count`` spaces. ``decimals``: how many were written, which some general tolerances go by.
    """

    model_config = ConfigDict(frozen=True)

    kind: Kind
    count: int = 1
    nominal: float | None = None
    upper: float = 0.0
    lower: float = 0.0
    toleranced: bool = False
    through: bool = False
    depth: float | None = None
    angle: float | None = None
    reference: bool = False
    bore: float | None = None
    bore_depth: float | None = None
    sink: float | None = None
    sink_angle: float | None = None
    thread: str = ""
    typed: str = ""  # the size as an expression, to be used in a field; the middle of limits that exclude the nominal
    spot: float | None = None
    spot_depth: float | None = None
    drill: float | None = None
    drill_depth: float | None = None
    leg: float | None = None
    bound: Literal["", "max", "min"] = ""
    basic: bool = False
    typical: bool = False
    spherical: bool = False
    square: bool = False
    equally_spaced: bool = False
    circle: float | None = None
    total: float | None = None
    fit: str = ""
    decimals: int = 0
    general: bool = False  # the limits are the sheet's general ones

    def fits(self, measured: float, play: float) -> bool:
        """Whether a size measured in mm or degrees is within the limits, give or take ``play``."""
        off = measured - (self.nominal or 0.0)
        low = self.bound == "max" or off >= self.lower - play
        return low and (self.bound == "min" or off <= self.upper + play)


def said(r: Requirement) -> str:
    """A requirement in words: “4 × diameter 4 mm, through”."""
    if r.kind == "note" or r.nominal is None:
        return "a note, not measured"
    ball = "spherical " if r.spherical else ""
    spaces = r.total is not None
    times = f"{r.count} spaces of " if spaces else f"{r.count} × " if r.count > 1 else ""
    mm = f"{number(r.nominal)} mm"
    size = {
        "linear": f"square {mm}" if r.square else mm,
        "diameter": f"{ball}diameter {mm}",
        "radius": f"{ball}radius {mm}",
        "angle": f"angle {number(r.nominal)}°",
        "thread": f"thread {r.thread}",
        "chamfer": f"chamfer {mm} by {number(r.leg)} mm" if r.leg else f"chamfer {mm} at {number(r.angle or 45)}°",
    }[r.kind]
    rest = [*_hole_words(r), *_limit_words(r)]
    return ", ".join([f"{times}{size}", *rest])


def _hole_words(r: Requirement) -> list[str]:
    found = []
    if r.through:
        found.append("through")
    elif r.depth:
        found.append(f"{number(r.depth)} mm deep")
    if r.drill is not None:
        deep = f", {number(r.drill_depth)} mm deep" if r.drill_depth else ""
        found.append(f"drilled to diameter {number(r.drill)} mm{deep}")
    if r.bore is not None:
        found.append(f"counterbored to diameter {number(r.bore)} mm, {number(r.bore_depth or 0)} mm deep")
    if r.sink is not None:
        found.append(f"countersunk to diameter {number(r.sink)} mm at {number(r.sink_angle or 90)}°")
    if r.spot is not None:
        deep = f", {number(r.spot_depth)} mm deep" if r.spot_depth else ""
        found.append(f"spotfaced to diameter {number(r.spot)} mm{deep}")
    if r.equally_spaced or r.circle is not None:
        on = f" on a circle of diameter {number(r.circle)} mm" if r.circle is not None else ""
        found.append(("equally spaced" if r.equally_spaced else "") + on)
    if r.total is not None:
        found.append(f"{number(r.total)}{'°' if r.kind == 'angle' else ' mm'} together")
    return [f.strip() for f in found]


def _limit_words(r: Requirement) -> list[str]:
    found = []
    if r.bound:
        found.append("at most" if r.bound == "max" else "at least")
    elif r.toleranced:
        sign = "+" if r.upper >= 0 else ""
        fit = f"{r.fit}: " if r.fit else ""
        found.append(
            f"{fit}{number(r.lower)}/{sign}{number(r.upper)}" + (" by the general tolerance" if r.general else "")
        )
    if r.basic:
        found.append("theoretically exact")
    if r.typical:
        found.append("all alike")
    if r.reference:
        found.append("for reference")
    return found

"""The tilt arm of the demo: two round ends with tangent sides, a curved slot, a boss, a pocket."""

from __future__ import annotations

import math

from .drawing import XY, Sheet, balloon
from .maker import Maker, Outline, by_depth, datum, face


def _sheet() -> tuple[Sheet, list[tuple[str, XY]]]:
    s = Sheet("TILT ARM", "FKS-0302", "EN AW-6082", "1:1", ["ALL SIZES IN mm", "MASS 60.8 g ±0.5 g"])
    x, y, front = 70.0, 80.0, 140.0
    away = math.acos(6 / 90)
    big, small = (16 * math.cos(away), 16 * math.sin(away)), (10 * math.cos(away), 10 * math.sin(away))
    for side in (-1, 1):
        s.line((x + big[0], y + side * big[1]), (x + 90 + small[0], y + side * small[1]))
    s.sweep((x, y), 16, (big[0], big[1]), (big[0], -big[1]), True)
    s.sweep((x + 90, y), 10, (small[0], -small[1]), (small[0], small[1]), False)
    s.circle((x, y), 13, False)
    s.circle((x, y), 5)
    s.circle((x + 90, y), 3.25)
    turn = math.radians(20)
    for r in (25.25, 30.75):
        a, b = (r * math.cos(turn), -r * math.sin(turn)), (r * math.cos(turn), r * math.sin(turn))
        s.sweep((x, y), r, a, b, False)
    along, up = math.cos(turn), math.sin(turn)
    for side in (-1, 1):
        end, half = (x + 28 * along, y + side * 28 * up), (2.75 * along, side * 2.75 * up)
        inner = (-half[0], -half[1])
        s.sweep(end, 2.75, *((inner, half) if side < 0 else (half, inner)), False)
    s.shape([(x + 48, y - 5, 3), (x + 78, y - 5, 3), (x + 78, y + 5, 3), (x + 48, y + 5, 3)])
    s.line((x - 20, y), (x + 104, y), "centre")
    s.rect(x - 16, front, 116, 8)
    s.rect(x - 13, front - 6, 26, 6)
    for side in (-1, 1):  # the bore, and its chamfer at the top
        s.line((x + 5 * side, front - 5), (x + 5 * side, front + 8), "hidden")
        s.line((x + 6 * side, front - 6), (x + 5 * side, front - 5), "hidden")
    s.line((x - 5, front - 5), (x + 5, front - 5), "hidden")
    s.line((x + 48, front + 5), (x + 78, front + 5), "hidden")
    rows = [
        ("R16", balloon(s.leader((x - 11.3, y - 11.3), (x - 20, y - 32), "R16"))),
        ("R10", balloon(s.leader((x + 97.1, y - 7.1), (x + 108, y - 24), "R10"))),
        ("90", balloon(s.across((x, y + 16), (x + 90, y + 10), y + 34, "90"))),
        ("Ø10 THRU", balloon(s.leader((x + 3.5, y + 3.5), (x - 14, y + 26), "Ø10 THRU"))),
        ("Ø6.5 THRU", balloon(s.leader((x + 92.3, y + 2.3), (x + 108, y + 20), "Ø6.5 THRU"))),
        ("28", balloon(s.across((x, y - 14), (x + 28, y - 9), y - 42, "28"))),
        ("5.5", balloon(s.leader((x + 30.75, y), (x + 36, y - 30), "5.5"))),
        ("40°", balloon(s.leader((x + 28, y + 4), (x + 36, y + 22), "40°"))),
        ("8", balloon(s.upright((x + 100, front), (x + 100, front + 8), x + 114, "8"))),
        ("Ø26", balloon(s.across((x - 13, front - 6), (x + 13, front - 6), front - 14, "Ø26"))),
        ("6", balloon(s.upright((x + 13, front - 6), (x + 13, front), x + 30, "6"))),
        ("30", balloon(s.across((x + 48, y - 5), (x + 78, y - 5), y - 20, "30"))),
        ("10", balloon(s.upright((x + 78, y - 5), (x + 78, y + 5), x + 126, "10"))),
        ("5", balloon(s.upright((x + 78, front), (x + 78, front + 5), x + 86, "5"))),
        ("R3", balloon(s.leader((x + 49, y + 4), (x + 58, y + 24), "R3"))),
        ("1×45°", balloon(s.leader((x - 5.5, front - 5.5), (x - 18, front - 16), "1×45°"))),
    ]
    return s, rows


def _profile() -> Outline:
    """The arm from above: both ends, their tangents, the bores and the curved slot about the big one."""
    o = Outline()
    away = math.acos(6 / 90)
    up, far = (16 * math.cos(away), 16 * math.sin(away)), (90 + 10 * math.cos(away), 10 * math.sin(away))
    down, low = (up[0], -up[1]), (far[0], -far[1])
    big, small = o.arc((0, 0), up, down), o.arc((90, 0), low, far)
    top, under = o.line(up, far), o.line(down, low)
    o.tie(f"coincident {big}.p {top}.p", f"coincident {big}.q {under}.p", f"coincident {small}.p {under}.q")
    o.tie(f"coincident {small}.q {top}.q", *(f"tangent {t} {e}" for t in (top, under) for e in (big, small)))
    o.tie(f"coincident {big}.c origin", f"coincident {small}.c x")
    bore, eye = o.circle((0, 0), 5), o.circle((90, 0), 3.25)
    o.tie(f"concentric {bore} {big}", f"concentric {eye} {small}")
    turn = math.radians(20)

    def at(r: float, side: int) -> XY:
        return r * math.cos(turn), side * r * math.sin(turn)

    outer, inner = o.arc((0, 0), at(30.75, -1), at(30.75, 1)), o.arc((0, 0), at(25.25, -1), at(25.25, 1))
    head, foot = o.arc(at(28, 1), at(30.75, 1), at(25.25, 1)), o.arc(at(28, -1), at(25.25, -1), at(30.75, -1))
    o.tie(f"coincident {outer}.q {head}.p", f"coincident {head}.q {inner}.q", f"coincident {inner}.p {foot}.p")
    o.tie(f"coincident {foot}.q {outer}.p", f"coincident {outer}.c origin", f"coincident {inner}.c origin")
    o.tie(*(f"tangent {side} {end}" for end in (head, foot) for side in (outer, inner)))
    o.tie(f"symmetric {head}.c {foot}.c x")
    arm, leg = o.line((0, 0), at(28, 1), True), o.line((0, 0), at(28, -1), True)
    o.tie(f"coincident {arm}.p origin", f"coincident {leg}.p origin")
    o.tie(f"coincident {arm}.q {head}.c", f"coincident {leg}.q {foot}.c")
    o.size(f"radius 16 {big} @ -24 16", f"radius 10 {small} @ 106 12", f"distance 90 {big}.c {small}.c @ 45 -28")
    o.size(f"diameter 10 {bore} as bore @ -16 -22", f"diameter 6.5 {eye} @ 106 -14", f"distance 28 {arm} @ 14 20")
    o.size(f"distance 5.5 {outer} {inner} @ 40 4", f"angle 40 {leg} {arm} @ 20 -3")
    return o


def tilt_arm() -> Maker:
    """Finished: an arm 90 between its eyes, 8 thick, with a curved locking slot, a boss and a pocket."""
    s, rows = _sheet()
    m = Maker(
        name="Tilt arm",
        number="FKS-0302",
        description="Tips the cradle; locked by a screw in its curved slot.",
        material="Aluminium EN AW-6082",
        target_mass={"grams": 60.8, "tolerance": 0.5},
    )
    m.sheet("tilt-arm.svg", s.svg())
    m.callouts(rows)
    m.drawn("s1", datum("top"), _profile())
    m.extrude("s2", "s1", by_depth("8"))
    o = Outline()
    rim, bore = o.circle((0, 0), 13), o.circle((0, 0), 5)
    o.tie(f"coincident {rim}.c origin", f"coincident {bore}.c origin")
    o.size(f"diameter 26 {rim} @ -18 14", f"diameter bore {bore} @ 10 14")
    top = face("s2/end", said="end face of step 20")
    m.drawn("s3", top, o)
    m.extrude("s4", "s3", by_depth("6"), name="Boss")
    o = Outline()
    sides = o.box(48, -5, 30, 10)
    o.tie(f"symmetric {sides[0]} {sides[2]} x")
    o.size(f"distance 30 {sides[0]} @ 63 -12", f"distance 10 {sides[1]} @ 86 0", f"distance 48 {sides[3]} y @ 24 14")
    m.drawn("s5", top, o)
    m.extrude("s6", "s5", by_depth("5"), "cut", name="Pocket")
    m.step("fillet", "s7", groups=[{"edges": [{"by": "corners", "step": "s6"}], "radius": "3"}])
    mouth = {"between": [{"origins": ["s4/end"]}, {"origins": ["s4/side/c2", "s2/side/c1"]}]}
    m.step("chamfer", "s8", edges=[{"by": "pick", "edge": mouth}], first="1")
    fields = [("s1", f"d{n}") for n in range(1, 9)]
    fields += [("s2", "depth"), ("s3", "d1"), ("s4", "depth"), ("s5", "d1"), ("s5", "d2"), ("s6", "depth")]
    for number, (step, field) in enumerate([*fields, ("s7", "radius"), ("s8", "first")], 1):
        m.link(number, step, field)
    return m

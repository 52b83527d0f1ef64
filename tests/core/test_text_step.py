"""Text as a step of its own: on flat faces and round ones, against volumes worked out by hand."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.text import letters
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.measure import box, face_centre, middle, surface
from sulvak_core.solid.shapes import faces

from .parts import Made, disc, plate
from .sketches import arc, circle, line, spline

UPPER = "s2/end"


def said(made: Made, ident: str = "s9") -> str:
    return str(made.report(ident).said)


def written(made: Made, **fields: Any) -> float:
    """The change in volume that a text step makes."""
    before = made.volume()
    face = made.face(fields.pop("on"))
    made.step("text", "s9", face=face, **fields)
    return made.volume() - before


def bar(height: float) -> tuple[float, float]:
    """Length and thickness of the hyphen, which is a plain rectangle."""
    [region], _ = letters("-", height)
    x, y = [[p.start[k] for p in region.outer] for k in (0, 1)]
    assert region.area == pytest.approx((max(x) - min(x)) * (max(y) - min(y)))
    return max(x) - min(x), max(y) - min(y)


def post(r: float, hollow: bool = False) -> Made:
    """A round post standing on the top plane, or a block with a round hole through it; radius ``r``, 40 high."""
    made = Made()
    if not hollow:
        made.sketch("s1", "top", disc((0, 0), r))
        made.extrude("s2", "s1", depth="40")
        return made
    made = plate(4 * r, 4 * r, "40")
    made.sketch("s3", "top", disc((2 * r, 2 * r), r))
    made.extrude("s4", "s3", depth=None, operation="cut")
    return made


def strip(wide: float, outer: float, inner: float) -> float:
    """Area between two circles about one centre, over a strip of this width through the middle, on one side."""
    u = (np.arange(20000) + 0.5) / 20000 * wide - wide / 2
    return float(np.mean(np.sqrt(outer**2 - u**2) - np.sqrt(inner**2 - u**2)) * wide)


@pytest.mark.parametrize(("operation", "way"), [("engrave", -1), ("raise", 1)])
def test_letters_on_a_flat_face(operation: str, way: int) -> None:
    regions, wide = letters("PB-40", 8)
    assert 20 < wide < 40
    change = written(plate(60, 40), on=UPPER, text="PB-40", height="8", depth="0.5", operation=operation)
    assert change == pytest.approx(way * 0.5 * sum(r.area for r in regions), rel=1e-6)


def test_the_middle_of_the_text_is_where_it_is_asked_for() -> None:
    made = plate(60, 40)
    long, thick = bar(10)
    assert written(made, on=UPPER, text="-", height="10", depth="1", x="12", y="-5", angle="90") == pytest.approx(
        -long * thick, rel=1e-9
    )
    [body] = made.build().state.bodies
    [floor] = [f for f in faces(body.shape) if "s9/end" in body.solid.face_tags(f)]
    lo, hi = box(floor)
    assert face_centre(floor)[2] == pytest.approx(9)
    # turned by 90° the hyphen stands upright; it lies off the middle of the line, which turns with it
    assert (hi[0] - lo[0], hi[1] - lo[1]) == pytest.approx((thick, long))
    assert (lo[1] + hi[1]) / 2 == pytest.approx(15)


@pytest.mark.parametrize("operation", ["engrave", "raise"])
@pytest.mark.parametrize("hollow", [False, True])
def test_on_a_round_face_the_depth_is_the_same_all_over(operation: str, hollow: bool) -> None:
    r, depth = 10.0, 0.6
    made = post(r, hollow)
    wall = "s4/side/c1" if hollow else "s2/side/c1"
    change = written(made, on=wall, text="-", height="14", depth=str(depth), operation=operation)
    long, thick = bar(14)
    outwards = (operation == "raise") != hollow  # whether the new wall lies farther from the axis
    other = r + depth if outwards else r - depth
    volume = thick * strip(long, max(r, other), min(r, other))
    assert change == pytest.approx(-volume if operation == "engrave" else volume, rel=1e-4)
    radii = [
        surface(f).radius for b in made.build().state.bodies for f in faces(b.shape) if "s9/end" in b.solid.face_tags(f)
    ]
    assert radii == [pytest.approx(other)]


def test_offsets_on_a_round_face_are_walked_along_it() -> None:
    made = post(10)
    written(made, on="s2/side/c1", text="-", height="6", depth="0.5", x="15", y="7")
    [body] = made.build().state.bodies
    [floor] = [f for f in faces(body.shape) if "s9/end" in body.solid.face_tags(f)]
    x, y, z = face_centre(floor)
    # the front view shows it from -Y; 15 mm to the right along the wall is 1.5 rad
    assert math.atan2(y, x) == pytest.approx(-math.pi / 2 + 1.5, abs=1e-6)
    [region], _ = letters("-", 6)
    assert z == pytest.approx(20 + 7 + region.inside()[1], abs=bar(6)[1] / 2)


def test_letters_have_walls_of_their_own_that_keep_their_origin() -> None:
    made = plate(60, 40)
    written(made, on=UPPER, text="AB", height="8", depth="0.5")

    def walls() -> dict[str, float]:
        [body] = made.build().state.bodies
        found = {}
        for f in faces(body.shape):
            [tag] = body.solid.face_tags(f)
            if tag.startswith("s9/side/"):
                assert tag not in found
                found[tag] = surface(f).direction[0] if surface(f).kind == "plane" else 0.0
        return found

    first = walls()
    assert {t.split("k")[0] for t in first} == {"s9/side/t1c1", "s9/side/t1c2"}
    made.do("set_step", step="s9", changes={"text": "AC"})
    second = walls()
    of_a = [t for t in first if "c1k" in t]
    assert of_a
    assert {t: first[t] for t in of_a} == pytest.approx({t: second[t] for t in of_a})


def test_text_may_read_like_a_size() -> None:
    made = plate(60, 40)
    one = written(made, on=UPPER, text="8", height="8", depth="0.5")
    made.do("set_step", step="s9", changes={"text": "1"})
    other = made.volume() - 60 * 40 * 10
    assert other == pytest.approx(-0.5 * letters("1", 8)[0][0].area, rel=1e-6)
    assert abs(one - other) > 1


REFUSED = [
    ({"text": "漢"}, "have no “漢”"),
    ({"text": "  "}, "leaves ink"),
    ({"x": "200", "operation": "engrave"}, "beside the material"),
    ({"x": "200", "operation": "raise"}, "beside the material"),
    ({"x": "31", "operation": "raise", "text": "AAAA"}, "beside the material"),
]


@pytest.mark.parametrize(("fields", "words"), REFUSED)
def test_what_cannot_be_is_told_and_changes_nothing(fields: dict[str, str], words: str) -> None:
    made = plate(60, 40)
    made.step("text", "s9", face=made.face(UPPER), **{"text": "A", "height": "8", **fields})
    assert made.build().failed
    assert words in said(made)
    assert made.build().state.volume() == pytest.approx(24000)


@pytest.mark.parametrize("fields", [{"height": "0"}, {"depth": "-1"}, {"text": ""}, {"text": "A" * 201}])
def test_what_is_no_text_is_refused(fields: dict[str, str]) -> None:
    made = plate(60, 40)
    with pytest.raises(Refusal):
        made.step("text", "s9", face=made.face(UPPER), **{"text": "A", "height": "8", **fields})


def test_a_text_too_wide_for_a_round_face() -> None:
    made = post(6)
    made.step("text", "s9", face=made.face("s2/side/c1"), text="TILL IT TILTS", height="5", depth="0.5")
    assert "have room" in said(made)
    made.do("set_step", step="s9", changes={"angle": "90", "height": "4"})
    assert made.volume() < math.pi * 36 * 40
    made.do("set_step", step="s9", changes={"depth": "6"})
    assert "middle of the round face" in said(made)


def test_a_free_form_is_refused_and_nothing_pointed_at_is_told() -> None:
    made = Made()
    wave = spline(1, (0, 0), (20, 6), (40, -6), (60, 0))
    sides = [line(1, (60, 0), (60, 30)), line(2, (60, 30), (0, 30)), line(3, (0, 30), (0, 0))]
    made.sketch("s1", "top", Sketch(entities=[wave, *sides]))
    made.extrude("s2", "s1", "20")
    made.step("text", "s9", face=made.face("s2/side/s1"), text="A")
    assert "free form" in said(made)
    made.step("text", "s10", text="A")
    assert said(made, "s10").startswith("Press the face")


def turned_body(*drawn: Any) -> Made:
    """A body turned about the Z axis from what is drawn on the front plane."""
    made = Made()
    made.sketch("s1", "front", Sketch(entities=list(drawn)))
    made.step("revolve", "s2", sketch="s1", axis={"kind": "line", "step": "s1", "line": "y"}, angle="360")
    return made


def ball(r: float = 20) -> tuple[Made, str]:
    return turned_body(arc(1, (0, 0), r, -90, 90), line(1, (0, r), (0, -r))), "s2/side/a1"


def funnel(hollow: bool) -> tuple[Made, str]:
    """A cone of 40 base radius and 60 high, cut off at half height; or a block with such a hole."""
    slant = line(1, (40, 0), (20, 30))
    if hollow:
        rest = [line(2, (20, 30), (60, 30)), line(3, (60, 30), (60, 0)), line(4, (60, 0), (40, 0))]
    else:
        rest = [line(2, (20, 30), (0, 30)), line(3, (0, 30), (0, 0)), line(4, (0, 0), (40, 0))]
    return turned_body(slant, *rest), "s2/side/l1"


def ring() -> tuple[Made, str]:
    return turned_body(circle(1, (40, 0), 15)), "s2/side/c1"


def off_ball(p: Any) -> Any:
    return np.linalg.norm(p, axis=-1) - 20


def off_cone(p: Any) -> Any:
    slope = math.atan2(20, 30)
    return np.hypot(p[..., 0], p[..., 1]) * math.cos(slope) - (60 - p[..., 2]) * math.sin(slope)


def off_ring(p: Any) -> Any:
    return np.hypot(np.hypot(p[..., 0], p[..., 1]) - 40, p[..., 2]) - 15


BODIES: dict[str, tuple[Callable[[], tuple[Made, str]], Callable[[Any], Any], float]] = {
    "ball": (ball, off_ball, 1.0),
    "cone": (lambda: funnel(False), off_cone, 1.0),
    "a hole's cone": (lambda: funnel(True), off_cone, -1.0),
    "ring": (ring, off_ring, 1.0),
}


def through(off: Callable[[Any], Any], places: Any, n: Any, want: float) -> Any:
    """How far along ``n`` from each place the distance from a surface is ``want``, by Newton's steps."""
    t = np.zeros(len(places))
    for _ in range(30):
        now = off(places + t[:, None] * n)
        slope = (off(places + (t + 1e-6)[:, None] * n) - now) / 1e-6
        t -= (now - want) / slope
    return t


@pytest.mark.parametrize("operation", ["engrave", "raise"])
@pytest.mark.parametrize("name", BODIES)
def test_on_cones_balls_and_rings_the_depth_is_the_same_all_over(name: str, operation: str) -> None:
    """The volume over the hyphen's rectangle, by its own integration along the normal in the middle."""
    make, off, out = BODIES[name]
    made, wall = make()
    depth = 0.6
    change = written(made, on=wall, text="-", height="8", depth=str(depth), operation=operation, x="1", y="2")
    from sulvak_core.rebuild.text import Sizes, place

    built = made.build()
    before = built.states["s2"].bodies[0].solid
    face = next(f for f in faces(before.shape) if wall in before.face_tags(f))
    frame, _ = place(face, Sizes(8, depth, 1, 2, 0))
    assert abs(off(np.array(frame.origin))) < 1e-9
    outline = [p.start for p in letters("-", 8)[0][0].outer]
    (left, low), (right, high) = (tuple(f(p[k] for p in outline) for k in (0, 1)) for f in (min, max))
    u, v = (((np.arange(200) + 0.5) / 200 * (b - a) + a) for a, b in ((left, right), (low, high)))
    at = np.array([frame.point(a, b) for a in u for b in v])
    n = np.array(frame.normal) * out
    new = (depth if operation == "raise" else -depth) * out
    spans = np.abs(through(off, at, n, new) - through(off, at, n, 0.0))
    volume = float(spans.mean()) * (right - left) * (high - low)
    assert change == pytest.approx(-volume if operation == "engrave" else volume, rel=1e-4)
    [floor] = [f for b in built.state.bodies for f in faces(b.shape) if "s9/end" in b.solid.face_tags(f)]
    assert off(np.array(middle(floor))) == pytest.approx(new, abs=1e-6)


def test_letters_that_do_not_fit_a_ball() -> None:
    made, wall = ball()
    made.step("text", "s9", face=made.face(wall), text="FAR TOO LONG FOR IT", height="5", depth="0.5")
    assert "have room" in said(made)
    made.do("set_step", step="s9", changes={"text": "AB", "depth": "25"})
    assert "middle of the round face" in said(made)
    made.do("set_step", step="s9", changes={"depth": "0.5"})
    assert made.volume() < 4 / 3 * math.pi * 8000


def test_a_text_is_repeated_as_other_tools_are() -> None:
    made = plate(60, 40)
    change = written(made, on=UPPER, text="A", height="6", depth="0.5", x="-20")
    made.step("pattern", "s10", of=["s9"], form="linear", along={"kind": "axis", "axis": "x"}, count="3", spacing="15")
    assert made.volume() - 24000 == pytest.approx(3 * change, rel=1e-6)


def test_the_sentence_keeps_to_the_numbers_of_today() -> None:
    made = plate(60, 40)
    face = made.face(UPPER) | {"said": "end face of step 20"}
    made.step("text", "s9", text="A", face=face)
    assert "on the end face of step 20" in made.report("s9").sentence
    made.do("add_step", step={"kind": "datum", "id": "s11"}, after="s1")
    assert "on the end face of step 30" in made.report("s9").sentence

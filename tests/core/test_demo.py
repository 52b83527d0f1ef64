"""The demo's parts: what their sheets ask for is on the solid, and their masses by a second method."""

from __future__ import annotations

import json
import math
from pathlib import Path

import pytest

from sulvak_core.inspect.mass import mass
from sulvak_core.inspect.prove import prove
from sulvak_core.rebuild.adviser import advise
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document, load

DEMO = Path(__file__).resolve().parent.parent.parent / "demo"


def demo(name: str) -> Document:
    """A part file of the demo; ``finished/…`` for those that the demo shows unfinished."""
    return load(json.loads((DEMO / f"{name}.json").read_text()))


def simpson(f, a: float, b: float, n: int = 400) -> float:  # type: ignore[no-untyped-def]
    h = (b - a) / n
    return h / 3 * sum(f(a + i * h) * (1 if i in (0, n) else 4 if i % 2 else 2) for i in range(n + 1))


def rounded(w: float, h: float, r: float) -> float:
    """The area of a rectangle with rounded corners."""
    return w * h - (4 - math.pi) * r * r


def test_the_cross_plate_by_its_area() -> None:
    part = demo("cross-plate")
    made = build(part, Cache())
    area = 90 * 30 * 2 - 30 * 30 - math.pi * 64 - 4 * math.pi * 2.25**2
    assert made.state.volume() == pytest.approx(4 * area, rel=1e-9)
    assert mass(part, made.state)["within"] is True
    assert {v["state"] for v in prove(part, made)} == {"proven"}


def test_the_pod_has_its_order_mistake_and_is_right_without_it() -> None:
    part, cache = demo("electronics-pod"), Cache()
    made = build(part, cache)
    assert not made.failed
    assert {v["state"] for v in prove(part, made)} == {"proven"}
    assert mass(part, made.state)["within"] is False
    (advice,) = advise(part, made, cache)
    assert advice.kind == "tube" and advice.command
    mended = apply(part, read(advice.command)).document
    after = build(mended, cache)
    assert mass(mended, after.state)["within"] is True
    assert advise(mended, after, cache) == []
    # by slices: the drafted outside less the inside, whose walls stand 2 mm off it square to the draft
    lean, wall = math.tan(math.radians(2)), 2 / math.cos(math.radians(2))

    def section(z: float, off: float) -> float:
        # rounds are put on after the draft: their radius is true square to the edge they follow, so a slice
        # shows an ellipse's arc a little longer one way; to the second order in the draft this is the circle
        k = 2 * z * lean + 2 * off
        return rounded(64 - k, 44 - k, 6 - off)

    outside = simpson(lambda z: section(z, 0.0), 0.0, 24.0)
    inside = simpson(lambda z: section(z, wall), 0.0, 22.0)  # open below, where it is wide
    assert after.state.volume() == pytest.approx(outside - inside - math.pi * 16 * 2, rel=2e-4)


PI = math.pi


def corner(r: float) -> float:
    """What rounding a square corner by r takes off its area."""
    return (1 - PI / 4) * r * r


def hull(big: float, small: float, apart: float) -> float:
    """The area of two circles and what their outer tangents close in."""
    lean = math.asin((big - small) / apart)
    straight = math.sqrt(apart**2 - (big - small) ** 2)
    return straight * (big + small) + big**2 * (PI / 2 + lean) + small**2 * (PI / 2 - lean)


def cleat() -> float:
    return 10 * (60 * 6 + 20 * 10 + 52 * 8 + PI * 16 - 2 * PI * 2.5**2 + 4 * corner(3))


def cradle() -> float:
    section = 60 * 4 + 2 * 4 * 41 + 2 * corner(3) - 2 * corner(7)
    holes = 2 * 4 * (PI * 16 + 4 * PI * 1.6**2)
    return section * 40 - 4 * 4 * corner(15) - holes - 4 * (24 * 6.5 + PI * 3.25**2)


def arm() -> float:
    slot = math.radians(40) / 2 * (30.75**2 - 25.25**2) + PI * 2.75**2
    plate = 8 * (hull(16, 10, 90) - PI * 25 - PI * 3.25**2 - slot)
    chamfer = 2 * PI * (5 + 1 / 3) / 2  # a triangle turned about the bore: Pappus
    return plate + 6 * PI * (13**2 - 25) - 5 * (30 * 10 - 4 * corner(3)) - chamfer


def clamp() -> float:
    block = 18 * (44 * 30 - 4 * corner(2) - PI * 121)
    return block - 2 * PI * (2.75**2 * 7.5 + 25 * 5.5) - 2 * PI * 2.1**2 * 17


def lid() -> float:
    lean, wall = math.tan(math.radians(2)), 1.6 / math.cos(math.radians(2))

    def section(z: float, off: float) -> float:  # drafted with its corners: they stay circles, growing smaller
        k = z * lean + off
        return rounded(64 - 2 * k, 44 - 2 * k, 6 - k)

    shell = simpson(lambda z: section(z, 0.0), 0.0, 5.0) - simpson(lambda z: section(z, wall), 0.0, 3.4)
    inside = 0.6 * math.sqrt(9 - 0.36) + 9 * math.asin(0.6 / 3)  # of the rib, what lies in a boss already
    return shell + 2 * PI * 9 * 3.4 + 2.4 * (44 * 1.2 - 2 * inside) - 2 * PI * 1.1**2 * 3


def hub() -> float:
    return PI * (24**2 * 8 + 11**2 * 14 - 16 * 22 - 3 * 1.7**2 * 8)


def bar() -> float:
    """The letters' area by the font library's own pen, not by our outlines."""
    from fontTools.pens.areaPen import AreaPen
    from fontTools.ttLib import TTFont

    from sulvak_core.sketch.lettering import FONT

    font = TTFont(FONT)
    glyphs, names, tall = font.getGlyphSet(), font.getBestCmap(), font["OS/2"].sCapHeight
    area = 0.0
    for letter in "FKS-0402":
        pen = AreaPen(glyphs)
        glyphs[names[ord(letter)]].draw(pen)
        area += abs(pen.value) * (6 / tall) ** 2
    return 120 * 24 * 10 - 2 * PI * 3.25**2 * 10 - 60 * 12 * 4 - 0.3 * area


@pytest.mark.parametrize(
    ("name", "volume", "within"),
    [
        ("line-cleat", cleat, 1e-9),
        ("camera-cradle", cradle, 1e-9),
        ("tilt-arm", arm, 1e-9),
        ("boom-clamp", clamp, 1e-9),
        ("pod-lid", lid, 1e-6),
        ("finished/pan-hub", hub, 1e-9),
        ("finished/ballast-bar", bar, 1e-6),
    ],
)
def test_a_part_weighs_what_a_second_method_says_and_every_size_is_proven(name: str, volume, within: float) -> None:  # type: ignore[no-untyped-def]
    part = demo(name)
    made = build(part, Cache())
    assert not made.failed, [r.said for r in made.failed]
    assert made.state.volume() == pytest.approx(volume(), rel=within)
    assert mass(part, made.state)["within"] is True
    verdicts = prove(part, made)
    assert {v["state"] for v in verdicts} <= {"proven", "note"}, [v["said"] for v in verdicts]
    assert sum(v["state"] == "note" for v in verdicts) == (1 if name == "finished/ballast-bar" else 0)
    assert advise(part, made, Cache()) == []


def test_the_mended_pod_is_the_pod_after_its_advice() -> None:
    mended = build(demo("finished/electronics-pod"), Cache())
    part = demo("electronics-pod")
    (advice,) = advise(part, build(part, Cache()), Cache())
    after = build(apply(part, read(advice.command)).document, Cache())
    assert mended.state.volume() == pytest.approx(after.state.volume(), rel=1e-12)

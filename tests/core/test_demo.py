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
    inside = simpson(lambda z: section(z, wall), 2.0, 24.0)
    assert after.state.volume() == pytest.approx(outside - inside - math.pi * 16 * 2, rel=2e-4)

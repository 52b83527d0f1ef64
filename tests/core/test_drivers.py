"""What a size brings in mass, against derivatives by hand; and trials that run part of the route against the whole."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.exchange import part_file
from sulvak_core.rebuild.state import Cache
from sulvak_core.rebuild.trials import Trials
from sulvak_core.sketch.model import Circle, Dimension, Sketch
from sulvak_core.weighing.driver import Driver
from sulvak_core.weighing.drivers import drivers
from sulvak_core.weighing.sizes import changed, sizes

from .parts import Made, plate
from .sketches import rectangle, values
from .sketches import sizes as sized

TAN, COS = math.tan, math.cos
ALL_CORNERS = [{"by": "corners", "step": "s2"}]


def found(made: Made) -> dict[str, Driver]:
    build = made.build()
    assert not build.failed, [r.said for r in build.failed]
    return {d.size.key: d for d in drivers(made.document, build, made.cache)}


def holes(made: Made, ident: str, at: tuple[float, float], r: float, on: str = "s2/end") -> None:
    """A sketch of one circle with its diameter given."""
    ring = Circle(id="c1", c=at, r=r)
    size = Dimension(id="d1", kind="diameter", refs=["c1"], expr=f"{2 * r:g}")
    made.sketch(ident, made.face(on), Sketch(entities=[ring], dimensions=[size]))


def drilled(**fields: Any) -> Made:
    made = plate()
    holes(made, "s3", (20, 15), 3)
    made.step("hole", "s4", sketch="s3", **fields)
    return made


def plain() -> tuple[Made, dict[str, float]]:
    return plate(), {"s1:d1": 30 * 10, "s1:d2": 40 * 10, "s2:extent.depth": 40 * 30}


def bored() -> tuple[Made, dict[str, float]]:
    made = plate()
    holes(made, "s3", (20, 15), 4)
    made.extrude("s4", "s3", "6", "cut")
    return made, {"s3:d1": -math.pi * 8 / 2 * 6, "s4:extent.depth": -math.pi * 16, "s2:extent.depth": 1200}


def tapered() -> tuple[Made, dict[str, float]]:
    """A frustum: V = π h (R² + R r + r²) / 3 with r = R − h tan a."""
    made = Made()
    ring = Circle(id="c1", c=(0, 0), r=20)
    made.sketch(
        "s1", "top", Sketch(entities=[ring], dimensions=[Dimension(id="d1", kind="diameter", refs=["c1"], expr="40")])
    )
    made.extrude("s2", "s1", "15", taper="10")
    R, h, a = 20.0, 15.0, math.radians(10)
    r = R - h * TAN(a)
    by_r = math.pi * h * (R + 2 * r) / 3
    return made, {
        "s1:d1": (math.pi * h * (2 * R + r) / 3 + by_r) / 2,
        "s2:extent.depth": math.pi * (R * R + R * r + r * r) / 3 - by_r * TAN(a),
        "s2:taper": -by_r * h / COS(a) ** 2 * math.pi / 180,
    }


def ring() -> tuple[Made, dict[str, float]]:
    """A rectangle 4 × 6, 10 from the axis, turned 200°."""
    made = Made()
    base = rectangle(x=10, w=4, h=6, held=False)
    base.dimensions = [
        *sized("distance 4 l1", "distance 6 l2"),
        Dimension(id="d3", kind="distance", refs=["l4", "y"], expr="10"),
    ]
    values(base)
    made.sketch("s1", "front", base)
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "z"}, angle="200", operation="new")
    turn = math.radians(200)
    return made, {"s1:d2": turn * 12 * 4, "s2:angle": math.pi / 180 * 12 * 24}


def blind() -> tuple[Made, dict[str, float]]:
    """Depth to the full diameter; a drill point of 118°."""
    made = drilled(diameter="6", end="blind", depth="5", tip_angle="118")
    half = math.radians(59)
    return made, {
        "s4:depth": -math.pi * 9,
        "s4:diameter": -(math.pi * 3 * 5 + math.pi * 9 / TAN(half) / 2),
        "s4:tip_angle": math.pi * 27 / 3 / math.sin(half) ** 2 * math.pi / 360,
    }


def stepped() -> tuple[Made, dict[str, float]]:
    made = drilled(diameter="6", form="counterbore", bore_diameter="12", bore_depth="4")
    return made, {
        "s4:diameter": -math.pi * 3 * 6,
        "s4:bore_diameter": -math.pi * 6 * 4,
        "s4:bore_depth": -math.pi * (36 - 9),
    }


def rounded() -> tuple[Made, dict[str, float]]:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": ALL_CORNERS, "radius": "5"}])
    return made, {
        "s3:groups.0.radius": -4 * 2 * (1 - math.pi / 4) * 5 * 10,
        "s2:extent.depth": 1200 - 4 * (1 - math.pi / 4) * 25,
    }


def bevelled() -> tuple[Made, dict[str, float]]:
    made = plate()
    made.step("chamfer", "s3", edges=ALL_CORNERS, first="3")
    return made, {"s3:first": -4 * 3 * 10}


def hollow() -> tuple[Made, dict[str, float]]:
    """V = whd − (w − 2t)(h − 2t)(d − t)."""
    made = plate()
    made.step("shell", "s3", faces=[{"by": "pick", "face": made.face("s2/end")}], thickness="2")
    t = 2.0
    inner = (40 - 2 * t, 30 - 2 * t, 10 - t)
    return made, {
        "s3:thickness": 2 * inner[1] * inner[2] + 2 * inner[0] * inner[2] + inner[0] * inner[1],
        "s2:extent.depth": 1200 - inner[0] * inner[1],
        "s1:d1": 300 - inner[1] * inner[2],
    }


def drafted() -> tuple[Made, dict[str, float]]:
    """A frustum of a pyramid: V = ∫ (w − 2zt)(h − 2zt) dz over the depth, t = tan a."""
    made = plate()
    neutral = {"kind": "face", "face": made.face("s2/start")}
    made.step("draft", "s3", groups=[{"faces": [{"by": "sides", "step": "s2"}], "angle": "5"}], neutral=neutral)
    t, d = TAN(math.radians(5)), 10.0
    by_t = -70 * d * d + 8 * t * d**3 / 3
    return made, {
        "s3:groups.0.angle": by_t / COS(math.radians(5)) ** 2 * math.pi / 180,
        "s2:extent.depth": (40 - 2 * d * t) * (30 - 2 * d * t),
    }


def repeated() -> tuple[Made, dict[str, float]]:
    made = drilled(diameter="4")
    along = {"kind": "axis", "axis": "x"}
    made.step("pattern", "s5", of=["s4"], along=along, count="2", spacing="6")
    return made, {"s4:diameter": -2 * math.pi * 2 * 10, "s5:count": -math.pi * 4 * 10}


def named() -> tuple[Made, dict[str, float]]:
    """One value behind two sizes."""
    made = Made()
    made.do("set_value", name="side", expr="20", kind="length")
    base = rectangle(w=20, h=20)
    base.dimensions = [
        Dimension(id="d1", kind="distance", refs=["l1"], expr="side"),
        Dimension(id="d2", kind="distance", refs=["l2"], expr="side / 2 + 10"),
    ]
    made.sketch("s1", "top", base)
    made.extrude("s2", "s1", "side * 2")
    return made, {":side": 20 * 40 + 20 * 40 / 2 + 400 * 2}


SHAPES = [plain, bored, tapered, ring, blind, stepped, rounded, bevelled, hollow, drafted, repeated, named]


@pytest.mark.parametrize("shape", SHAPES, ids=lambda f: f.__name__)
def test_slopes_are_those_worked_out_by_hand(shape: Any) -> None:
    made, wanted = shape()
    slopes = {k: d.slope for k, d in found(made).items()}
    for key, slope in wanted.items():
        assert slopes[key] == pytest.approx(slope, rel=1e-6), key


def test_grams_follow_the_density_of_each_body() -> None:
    made, wanted = bored()
    made.do("set_part", changes={"material": "ABS"})
    assert found(made)["s3:d1"].slope == pytest.approx(wanted["s3:d1"] * 1.05e-3, rel=1e-6)


def test_what_follows_others_or_changes_nothing_is_left_out() -> None:
    made, _ = named()
    assert set(found(made)) == {":side"}
    made.sketch("s3", "top", rectangle(w=5, h=5))
    assert set(found(made)) == {":side"}


def test_a_size_that_breaks_the_part_to_one_side() -> None:
    """Rounds of 15 meet in the middle of the side of 30: any larger they break the part."""
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": ALL_CORNERS, "radius": "14.999"}])
    one = found(made)["s3:groups.0.radius"]
    assert (one.state, one.more) == ("one-sided", None)
    assert one.slope == pytest.approx(-4 * 2 * (1 - math.pi / 4) * 14.999 * 10, rel=1e-5)
    assert "Step 30" in one.said


def test_a_size_with_a_slope_of_its_own_to_either_side() -> None:
    """A hole just as deep as the plate: deeper removes nothing more."""
    made = plate()
    holes(made, "s3", (20, 15), 3)
    made.extrude("s4", "s3", "10", "cut")
    one = found(made)["s4:extent.depth"]
    assert one.state == "kink"
    assert one.less == pytest.approx(-math.pi * 9, rel=1e-6)
    assert one.more == pytest.approx(0, abs=1e-6)


# -- trials ------------------------------------------------------------------------------------------------


def rows(touching: bool = False) -> Made:
    """A plate with four holes, each by a sketch of its own; with ``touching`` two of them meet."""
    made = plate(60, 30)
    for k, x in enumerate((8.0, 20.0, 25.0 if touching else 32.0, 50.0)):
        holes(made, f"s{3 + 2 * k}", (x, 15), 3)
        made.extrude(f"s{4 + 2 * k}", f"s{3 + 2 * k}", None if k % 2 else "6", "cut")
    return made


@pytest.mark.parametrize("touching", [False, True])
def test_a_part_of_the_route_tells_what_the_whole_does(touching: bool) -> None:
    made = rows(touching)
    build = made.build()
    trials = Trials(made.document, build, made.cache)
    partly = set()
    for size in sizes(made.document):
        tried = changed(made.document, {size: size.value * 1.01})
        quick, whole = trials.of(tried), trials.whole(tried)
        assert quick.volume == pytest.approx(whole.volume, rel=1e-12), size.key
        if not quick.whole:
            partly.add(size.key)
    alone = {"s3:d1", "s4:extent.depth", "s9:d1"}
    both = {"s5:d1", "s7:d1", "s8:extent.depth"}
    assert partly >= (alone if touching else alone | both)
    assert touching <= ("s5:d1" not in partly)  # the next hole feels it


@pytest.mark.parametrize("name", ["cross-plate", "pan-hub"])
def test_the_demo_parts_are_told_the_same_either_way(name: str) -> None:
    from .test_sheet_lines import whole as part

    document = part(name)
    cache = Cache()
    from sulvak_core.rebuild.engine import build

    trials = Trials(document, build(document, cache), cache)
    checked = 0
    for size in sizes(document)[::4]:
        tried = changed(document, {size: size.value + (1 if size.kind == "number" else 0.01)})
        quick = trials.of(tried)
        if not quick.whole:
            checked += 1
            assert quick.weight() == pytest.approx(trials.whole(tried).weight(), rel=1e-12), size.key
    assert checked


def test_what_comes_after_may_ask_for_the_change() -> None:
    """A cut to the next face, a fillet by rule: the whole route is run."""
    made = rows()
    made.step("fillet", "s20", groups=[{"edges": ALL_CORNERS, "radius": "2"}])
    trials = Trials(made.document, made.build(), made.cache)
    size = next(s for s in sizes(made.document) if s.key == "s3:d1")
    assert trials.of(changed(made.document, {size: 6.1})).whole


def test_a_failing_step_is_told() -> None:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": ALL_CORNERS, "radius": "5"}])
    trials = Trials(made.document, made.build(), made.cache)
    size = next(s for s in sizes(made.document) if s.key == "s3:groups.0.radius")
    tried = trials.of(changed(made.document, {size: 16}))
    assert tried.broken == ("s3",)
    assert tried.said.startswith("Step 30: ")
    assert part_file.write(made.document)  # as it was

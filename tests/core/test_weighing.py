"""A target mass met, the band that tolerances allow, and the bench scale."""

from __future__ import annotations

import math
import statistics
from typing import Any

import pytest

from sulvak_core.part.document import Link
from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.engine import build
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.weighing.band import Band, band
from sulvak_core.weighing.bench_scale import judged, weigh
from sulvak_core.weighing.drivers import drivers
from sulvak_core.weighing.extremes import extremes
from sulvak_core.weighing.meet import Bounds, Met, meet
from sulvak_core.weighing.sizes import by_key, sizes

from .parts import Made, plate
from .test_drivers import ALL_CORNERS, holes

RHO = 2.7e-3  # g/mm³ of EN AW-6061


def weighed_plate(**fields: Any) -> Made:
    """A plate 40 × 30 × 10 with a blind hole ⌀8, 6 deep: 11,698.4 mm³."""
    made = plate(**fields)
    made.do("set_part", changes={"material": "Aluminium EN AW-6061"})
    holes(made, "s3", (20, 15), 4)
    made.extrude("s4", "s3", "6", "cut")
    return made


def grams(w: float = 40, h: float = 30, t: float = 10, d: float = 8, deep: float = 6) -> float:
    return RHO * (w * h * t - math.pi * d * d / 4 * deep)


def call(made: Made, n: int, text: str, step: str, field: str) -> None:
    """A callout linked to a size, which stays as it is modelled."""
    made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
    link = Link(step=step, field=field)
    callouts = [c.model_copy(update={"link": link}) if c.id == f"b{n}" else c for c in made.document.callouts]
    made.document = made.document.model_copy(update={"callouts": callouts})


def met(made: Made, target: float, tolerance: float = 0.0, **bounds: tuple[float, float]) -> Met:
    """``bounds`` by keys, with ``__`` for “:”."""
    asked = [Bounds(by_key(made.document, k.replace("__", ":")), *v) for k, v in bounds.items()]
    return meet(made.document, made.build(), made.cache, target, tolerance, asked)


def take(made: Made, found: Met) -> float:
    """The mass after the commands were carried out."""
    document = made.document
    for command in found.commands:
        document = apply(document, read(command)).document
    return build(document, made.cache).state.volume() * RHO


# -- a target met ------------------------------------------------------------------------------------------


def test_the_value_that_meets_a_target_is_the_one_by_hand() -> None:
    made = weighed_plate()
    found = met(made, 30.0, s3__d1=(2, 20))
    wanted = math.sqrt((40 * 30 * 10 - 30.0 / RHO) * 4 / math.pi / 6)
    assert found.exact["s3:d1"] == pytest.approx(wanted, rel=1e-8)
    assert found.values is not None and found.rounded is not None
    assert abs(found.values["s3:d1"] - wanted) < found.rounded
    assert found.grams == pytest.approx(grams(d=found.values["s3:d1"]), rel=1e-9)
    assert take(made, found) == pytest.approx(found.grams, rel=1e-9)


@pytest.mark.parametrize(("tolerance", "rounded", "value"), [(2.0, 1.0, 11.0), (0.2, 0.1, 11.3), (0.02, 0.05, 11.35)])
def test_it_is_rounded_as_far_as_the_tolerance_lets_it(tolerance: float, rounded: float, value: float) -> None:
    made = weighed_plate()
    target = grams(t=11.345)
    asked = [Bounds(by_key(made.document, "s2:extent.depth"), 8, 12)]
    found = meet(made.document, made.build(), made.cache, target, tolerance, asked)
    assert found.values == {"s2:extent.depth": pytest.approx(value)}
    assert found.rounded == rounded
    assert found.grams is not None and abs(found.grams - target) <= tolerance


def test_what_is_near_enough_already_need_not_change() -> None:
    made = weighed_plate()
    asked = [Bounds(by_key(made.document, "s2:extent.depth"), 8, 12)]
    found = meet(made.document, made.build(), made.cache, grams() + 0.05, 0.1, asked)
    assert (found.values, found.commands) == (None, [])
    assert "nothing need change" in found.said


def test_several_sizes_go_their_ways_together() -> None:
    made = weighed_plate()
    found = met(made, 34.0, s1__d1=(36, 50), s1__d2=(30, 34))
    assert found.values is not None
    w, h = found.exact["s1:d1"], found.exact["s1:d2"]
    assert grams(w, h) == pytest.approx(34.0, rel=1e-8)
    assert (w - 40) / 10 == pytest.approx((h - 30) / 4, rel=1e-6)  # the same share of each way


def test_out_of_reach_is_said_with_how_far_it_goes() -> None:
    found = met(weighed_plate(), 40.0, s3__d1=(2, 20))
    assert found.values is None
    low, high = grams(d=20), grams(d=2)
    assert f"weighs {low:.3f} to {high:.2f}"[:20] in found.said
    assert "40 g is out of reach" in found.said


def test_where_the_part_breaks_on_the_way_is_told() -> None:
    made = plate()
    made.do("set_part", changes={"material": "Aluminium EN AW-6061"})
    made.step("fillet", "s3", groups=[{"edges": ALL_CORNERS, "radius": "5"}])
    asked = [Bounds(by_key(made.document, "s3:groups.0.radius"), 1, 25)]
    found = meet(made.document, made.build(), made.cache, 20.0, 0, asked)
    assert found.values is None
    assert "it breaks: Step 30" in found.said


@pytest.mark.parametrize(
    ("target", "bounds", "said"),
    [
        (0.0, {"s3__d1": (2, 20)}, "more than nothing"),
        (30.0, {"s3__d1": (20, 2)}, "wrong way round"),
        (30.0, {}, "Choose one size"),
    ],
)
def test_what_cannot_be_asked_is_refused(target: float, bounds: dict[str, tuple[float, float]], said: str) -> None:
    with pytest.raises(Refusal, match=said):
        met(weighed_plate(), target, **bounds)


def test_without_a_material_there_is_nothing_to_meet() -> None:
    with pytest.raises(Refusal, match="choose a material"):
        met(plate(), 30.0, s1__d1=(20, 60))


def test_a_count_is_not_met() -> None:
    made = weighed_plate()
    along = {"kind": "axis", "axis": "x"}
    made.step("pattern", "s5", of=["s4"], along=along, count="2", spacing="9")
    with pytest.raises(Refusal, match="is a count"):
        meet(made.document, made.build(), made.cache, 30, 0, [Bounds(by_key(made.document, "s5:count"), 1, 3)])


def test_what_it_does_to_callouts_is_told() -> None:
    made = weighed_plate()
    call(made, 1, "⌀8", "s3", "d1")
    call(made, 2, "40", "s1", "d1")
    found = met(made, 30.0, s3__d1=(2, 20))
    assert [(c.number, c.before, c.after) for c in found.callouts] == [(1, "proven", "out")]


def test_a_part_in_inches_takes_values_in_its_own_unit() -> None:
    inch = plate(unit="mm")
    inch.do("set_part", changes={"material": "Aluminium EN AW-6061"})
    inch.do("set_part", changes={"unit": "in"})
    found = met(inch, 40.0, s1__d1=(20, 80))
    assert take(inch, found) == pytest.approx(found.grams, rel=1e-9)
    assert found.grams == pytest.approx(40.0, abs=0.04)


# -- the band ----------------------------------------------------------------------------------------------


def banded(made: Made) -> Band:
    built = made.build()
    return band(made.document, built.state.volume() * RHO, drivers(made.document, built, made.cache))


def toleranced() -> Made:
    made = weighed_plate()
    call(made, 1, "40 ±0.2", "s1", "d1")
    call(made, 2, "30 +0.1/0", "s1", "d2")
    call(made, 3, "⌀8 H8", "s3", "d1")
    call(made, 4, "10", "s2", "depth")
    return made


def test_the_band_is_the_limits_times_their_slopes() -> None:
    found = banded(toleranced())
    w, h, d = RHO * 300, RHO * 400, -RHO * math.pi * 4 * 6
    assert [(p.number, p.low, p.high) for p in found.plays] == [
        (1, pytest.approx(-0.2), pytest.approx(0.2)),
        (2, pytest.approx(0), pytest.approx(0.1)),
        (3, pytest.approx(0), pytest.approx(0.022)),
    ]
    assert found.most - found.now == pytest.approx(0.2 * w + 0.1 * h, rel=1e-6)
    assert found.least - found.now == pytest.approx(-0.2 * w + 0.022 * d, rel=1e-6)
    assert found.likely_most - found.now == pytest.approx(math.hypot(0.2 * w, 0.1 * h), rel=1e-6)
    assert found.likely_least - found.now == pytest.approx(-math.hypot(0.2 * w, 0.022 * d), rel=1e-6)


def test_the_extremes_are_built_for_real() -> None:
    made = toleranced()
    least, most = extremes(made.document, made.build(), made.cache, banded(made).plays)
    assert most == pytest.approx(grams(40.2, 30.1), rel=1e-9)
    assert least == pytest.approx(grams(39.8, 30, d=8.022), rel=1e-9)


def test_a_size_that_is_not_at_its_nominal_has_its_limits_from_there() -> None:
    made = weighed_plate()
    call(made, 1, "40.5 ±0.1", "s1", "d1")
    [p] = banded(made).plays
    assert (p.low, p.high) == (pytest.approx(0.4), pytest.approx(0.6))


def test_a_diameter_asked_of_a_radius_counts_half() -> None:
    made = plate()
    made.do("set_part", changes={"material": "Aluminium EN AW-6061"})
    holes(made, "s3", (20, 15), 4)
    made.do("sketch_dimension", step="s3", dimension="d1", changes={"kind": "radius", "expr": "4"})
    made.extrude("s4", "s3", "6", "cut")
    call(made, 1, "⌀8 ±0.1", "s3", "d1")
    found = banded(made)
    assert (found.plays[0].low, found.plays[0].high) == (pytest.approx(-0.05), pytest.approx(0.05))
    assert found.most - found.now == pytest.approx(RHO * math.pi * 8 / 2 * 6 * 0.1, rel=1e-6)


def test_one_sided_limits_and_general_tolerances() -> None:
    made = weighed_plate()
    call(made, 1, "40 MAX", "s1", "d1")
    made.do("set_part", changes={"general_tolerance": "ISO 2768-m"})
    call(made, 2, "30", "s1", "d2")
    plays = {p.number: p for p in banded(made).plays}
    assert (plays[1].low, plays[1].high) == (None, pytest.approx(0))
    assert (plays[2].low, plays[2].high) == (pytest.approx(-0.2), pytest.approx(0.2))


# -- the bench scale ---------------------------------------------------------------------------------------


def test_the_scale_reads_examples_within_the_band_the_same_for_the_same_seed() -> None:
    made = toleranced()
    found, built = banded(made), made.build()
    readings = [weigh(made.document, built, made.cache, found, seed) for seed in range(40)]
    assert all(r.inside and not r.suspects for r in readings)
    assert len({r.grams for r in readings}) > 30
    assert readings[7] == weigh(made.document, built, made.cache, found, 7)
    assert readings[0].resolution == 0.001
    spread = statistics.pstdev(r.grams for r in readings)
    assert 0.03 < spread < 0.2  # 0.2 mm of 0.81 g a mm in six parts, and 0.2 % of the density
    assert abs(statistics.fmean(r.grams for r in readings) - found.now) < 0.15


def test_a_heavier_part_is_read_less_finely() -> None:
    made = plate(400, 300, "30")
    made.do("set_part", changes={"material": "Steel, unalloyed"})
    built = made.build()
    found = band(made.document, 28260.0, [])
    reading = weigh(made.document, built, made.cache, found, 1)
    assert reading.resolution == 1.0
    assert reading.grams == round(reading.grams)


def test_a_reading_outside_names_what_would_explain_it() -> None:
    made = toleranced()
    found = banded(made)
    reading = judged(made.document, found, found.now + 3.0, 0.001)
    assert not reading.inside and reading.said == "a made part outside the band"
    first = reading.suspects[0]
    assert [s.number for s in reading.suspects] == [1, 2, 3]  # by how far beyond their limits they would have to be
    assert first.off == pytest.approx(3.0 / (RHO * 300), rel=1e-6)
    assert first.share == pytest.approx(first.off / 0.2, rel=1e-6)


def test_a_target_is_held_against_the_reading() -> None:
    made = toleranced()
    made.do("set_part", changes={"target_mass": {"grams": 31.5, "tolerance": 0.3}})
    found = banded(made)
    assert judged(made.document, found, 31.7, 0.001).within is True
    assert judged(made.document, found, 32.0, 0.001).within is False


def test_sizes_are_those_that_can_be_typed() -> None:
    made = weighed_plate()
    assert {s.key for s in sizes(made.document)} == {"s1:d1", "s1:d2", "s2:extent.depth", "s3:d1", "s4:extent.depth"}

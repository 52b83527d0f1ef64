"""A sound solid: short edges, slivers, knife edges, bodies that overlap or merely touch."""

from __future__ import annotations

from typing import Any

import pytest

from sulvak_core.making.finding import Checked
from sulvak_core.making.soundness import check_solid
from sulvak_core.part.shop import SolidLimits
from sulvak_core.sketch.model import Sketch

from .parts import Made, disc, plate
from .sketches import line, rectangle
from .test_walls import bodies, tube, wedge


def checked(made: Made, **limits: Any) -> Checked:
    return check_solid(made.document, bodies(made), SolidLimits(**limits))


def kinds(found: Checked) -> list[str]:
    return [f.kind for f in found.findings]


@pytest.mark.parametrize("made", [plate, tube, lambda: wedge(12)], ids=["plate", "tube", "wedge"])
def test_sound_parts_pass(made: Any) -> None:
    found = checked(made())
    assert found.passed and not found.findings
    assert found.figures["bodies"] == 1


def test_an_empty_part_is_told() -> None:
    assert kinds(check_solid(Made().document, [], SolidLimits())) == ["no solid"]


def test_short_edges_and_slivers() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), rectangle(x=0.03, y=-1, w=10, h=32, held=False))
    made.extrude("s4", "s3", "4", "cut")
    found = checked(made)
    assert kinds(found).count("sliver") == 1  # the top of the strip that is left
    sliver = next(f for f in found.findings if f.kind == "sliver")
    assert sliver.value == pytest.approx(0.03, rel=0.01)
    made = plate()
    made.step("chamfer", "s3", edges=[{"by": "corners", "step": "s2"}], first="0.02")
    short = [f for f in checked(made).findings if f.kind == "short edge"]
    assert short and short[0].value == pytest.approx(0.02 * 2**0.5, rel=1e-6) and short[0].step == "s3"


def test_a_knife_edge_is_told_by_its_angle() -> None:
    found = checked(wedge(4.0))
    [edge] = found.findings
    assert (edge.kind, edge.unit) == ("knife edge", "°")
    assert edge.value == pytest.approx(4.0, abs=1e-6)
    assert checked(wedge(4.0), sharp=3).passed


def two(x: float, y: float = 0.0) -> Made:
    """A plate 40 × 30 × 10 and a block 10 × 10 × 10 as a body of its own at x, y."""
    made = plate()
    at = [(x, y), (x + 10, y), (x + 10, y + 10), (x, y + 10)]
    made.sketch("s3", "top", Sketch(entities=[line(k + 1, at[k], at[(k + 1) % 4]) for k in range(4)]))
    made.extrude("s4", "s3", "10", "new")
    return made


@pytest.mark.parametrize(
    ("x", "y", "kind"),
    [(45, 0, None), (40, 0, None), (40, 30, "mere touch"), (35, 5, "overlap"), (40, -10, "mere touch")],
)
def test_bodies_that_meet(x: float, y: float, kind: str | None) -> None:
    """Apart; face on face, which is a joint; edge on edge; one in another."""
    assert kinds(checked(two(x, y))) == ([kind] if kind else [])


def test_what_overlaps_says_by_how_much_and_names_the_steps() -> None:
    [f] = checked(two(35, 5)).findings
    assert f.value == pytest.approx(5 * 10 * 10)
    assert f.said.startswith("The body of step 20 and the body of step 40 overlap by")


def test_bodies_that_touch_in_a_point() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), rectangle(x=40, y=30, w=5, h=5, held=False))
    made.extrude("s4", "s3", "5", "new")
    [f] = checked(made).findings
    assert f.kind == "mere touch" and "in a point only" in f.said


def test_a_cut_that_leaves_an_edge_between_two_pieces() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 4))
    made.extrude("s4", "s3", None, "cut")
    assert checked(made).passed

"""A part in inches: what its steps say, offer and call out is in inches."""

import pytest

from sulvak_core.part.units import in_unit, rounded_down, told
from sulvak_core.sketch.model import Sketch
from sulvak_core.steps.shared import read_callout, sketch_step

from .parts import Made
from .parts import plate as parts_plate
from .sketches import P, rectangle, sizes

IN = 25.4


def test_measures_in_sentences_are_said_in_the_parts_unit() -> None:
    said = f"Adds {told(IN**3, 3)}, R{told(IN / 8, sign=False)}, {told(50.8)} wide, {told(IN**2, 2)}."
    assert in_unit(said, "in") == "Adds 1 in³, R0.125, 2 in wide, 1 in²."
    assert in_unit(said, "mm") == "Adds 16387.06 mm³, R3.175, 50.8 mm wide, 645.16 mm²."
    assert in_unit("nothing to say ⟨here⟩", "in") == "nothing to say ⟨here⟩"


@pytest.mark.parametrize(("value", "down"), [(0.48429, 0.484), (12.3999, 12.3), (1.0, 1.0), (0.0019999, 0.00199)])
def test_what_fits_is_rounded_down(value: float, down: float) -> None:
    assert rounded_down(value) == pytest.approx(down)


def plate(unit: str) -> Made:
    """4 × 3 × 0.5 in, or that many mm."""
    made = Made(unit=unit)
    k = IN if unit == "in" else 1.0
    made.sketch("s1", "top", rectangle(w=4 * k, h=3 * k))
    made.step("extrude", "s2", sketch="s1", extent={"kind": "depth", "depth": "0.5"})
    return made


@pytest.mark.parametrize("unit", ["in", "mm"])
def test_every_kind_speaks_the_parts_unit(unit: str) -> None:
    made = plate(unit)
    k = IN if unit == "in" else 1.0
    made.sketch("s3", {"kind": "face", "face": {"origins": ["s2/end"]}}, Sketch(entities=[P(id="p1", at=(2 * k, k))]))
    made.step("hole", "s4", sketch="s3", diameter="0.25")
    hole = made.report("s4")
    assert hole.extra["callout"] == "Ø0.25 THRU"
    gone = "0.02454 in³" if unit == "in" else "0.02 mm³"
    assert hole.said == f"1 hole: Ø0.25 THRU. Removes {gone}."
    edges = [{"by": "along", "axis": "z"}]
    made.step("fillet", "s5", groups=[{"edges": edges, "radius": "9"}])
    much = made.report("s5")
    assert much.state == "failed"
    # what fits is said and offered in the unit of the field it goes into: half the shorter side
    assert "R9 does not fit here" in much.said
    assert 1.4 < much.offers["largest"] <= 1.5
    made.do("set_step", step="s5", changes={"groups": [{"edges": edges, "radius": str(much.offers["largest"])}]})
    assert made.report("s5").state == "ok"


def test_the_same_result_is_said_anew_when_the_unit_changes() -> None:
    made = plate("in")
    assert made.report("s2").volume_change == pytest.approx(6 * IN**3)
    made.step("shell", "s3", faces=[], thickness="0.1")
    assert made.report("s3").said.startswith("Leaves a wall of 0.1 in. Removes ")
    assert made.report("s3").said.endswith(" in³.")


def test_a_part_put_in_inches_and_back_keeps_every_size() -> None:
    """Values that others are added to, a reference size, a callout and what it feeds: none changes with the unit."""
    made = parts_plate(60, 40)
    made.do("set_value", name="k", expr="30")
    made.do("set_value", name="w", expr="k + 5")
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "w - 10 + 1 in"})
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "40 ±0.1"})
    made.do("link_callout", callout="b1", step="s1", field="d2")
    seen = sizes("distance 1 l3")[0].model_copy(update={"id": "d9", "driving": False})
    made.do("sketch_add", step="s1", dimensions=[seen.model_dump(mode="json")])
    before = made.volume()
    assert before == pytest.approx(50.4 * 40 * 10)
    made.do("set_part", changes={"unit": "in"})
    assert made.volume() == pytest.approx(before, rel=1e-12)
    sketch = sketch_step(made.document, "s1").sketch
    assert [d.expr for d in sketch.dimensions if d.id == "d9"] == ["1.9843"]
    assert read_callout(made.document, made.document.callouts[0]).nominal == 40
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "41 ±0.1"})  # typed anew: still the sheet's unit
    made.do("set_part", changes={"unit": "mm"})
    assert made.volume() == pytest.approx(50.4 * 41 * 10, rel=1e-12)

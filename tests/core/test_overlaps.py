"""Two bodies that hold the same material are told, since it is weighed twice."""

import pytest

from sulvak_core.inspect.mass import mass

from .parts import Made, plate
from .sketches import circle

NEW = {"kind": "extrude", "id": "s4", "sketch": "s3", "operation": "new", "extent": {"kind": "depth", "depth": "6"}}


def two(at: tuple[float, float], r: float) -> Made:
    """A plate 40 × 30 × 10 on the top plane, and a disc 6 high as a body of its own."""
    made = plate()
    made.do("add_step", step={"kind": "sketch", "id": "s3", "on": {"kind": "datum", "plane": "top"}})
    made.do("sketch_add", step="s3", entities=[circle(1, at, r).model_dump()])
    made.do("add_step", step=NEW)
    return made


def troubles(made: Made) -> list[str]:
    return list(mass(made.document, made.build().state)["troubles"])


def test_an_overlap_is_told_with_its_volume() -> None:
    [said] = troubles(two((20, 15), 5))
    assert said.startswith("The body of step 20 and the body of step 40 overlap by 471.24 mm³")
    assert "weighed twice" in said


@pytest.mark.parametrize(("at", "r"), [((60, 15), 5), ((45, 15), 5)])
def test_bodies_apart_or_touching_are_no_overlap(at: tuple[float, float], r: float) -> None:
    assert troubles(two(at, r)) == []


def test_an_overlap_in_an_inch_part_is_told_in_inches_and_by_name() -> None:
    made = two((20, 15), 5)
    made.do("add_step", step={"kind": "body", "id": "s9", "body": "s4", "title": "Peg"})
    made.do("set_part", changes={"unit": "in"})
    [said] = troubles(made)
    assert "Peg overlap by 0.02876 in³" in said

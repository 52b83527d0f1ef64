"""Commands: pure, refused in words, consequences followed."""

import copy
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.exchange import part_file
from sulvak_core.part.errors import ExpressionError, Refusal
from sulvak_core.sketch.model import Line, Sketch
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import to_json
from sulvak_core.steps.route_effects import dependents
from sulvak_core.steps.sketch_view import motions, sketch_view
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import circle


def width(made: Made) -> float:
    step = made.document.step("s1")
    assert isinstance(step, SketchStep)
    line = step.sketch.entity("l1")
    assert isinstance(line, Line)
    return line.q[0] - line.p[0]


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=8),
        lambda c: st.lists(c, max_size=4) | st.dictionaries(st.text(max_size=8), c, max_size=4),
    )
)
@settings(max_examples=examples(80), deadline=None)
def test_nonsense_is_no_command(data: object) -> None:
    with pytest.raises(Refusal, match="cannot be read"):
        read(data)


def test_commands_do_not_touch_what_they_are_given() -> None:
    made = plate()
    before = copy.deepcopy(to_json(made.document))
    commands = [
        {"do": "set_step", "step": "s2", "changes": {"name": "Base"}},
        {"do": "sketch_dimension", "step": "s1", "dimension": "d1", "changes": {"expr": "55"}},
        {"do": "sketch_delete", "step": "s1", "ids": ["l1"]},
        {"do": "delete_step", "step": "s1", "with_dependents": True},
        {"do": "set_part", "changes": {"unit": "in"}},
    ]
    for command in commands:
        after = apply(made.document, read(command)).document
        assert to_json(after) != before
        assert to_json(made.document) == before


def test_named_values_are_followed_renamed_and_guarded() -> None:
    made = plate()
    made.do("set_value", name="w", expr="50")
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "w + 2"})
    assert width(made) == pytest.approx(52)
    made.do("set_value", name="w", expr="2 in")
    assert width(made) == pytest.approx(52.8)
    made.do("set_value", name="w", rename_to="overall")
    step = made.document.step("s1")
    assert isinstance(step, SketchStep)
    assert step.sketch.dimensions[0].expr == "overall + 2"
    with pytest.raises(Refusal, match="used in step 10"):
        made.do("delete_value", name="overall")
    with pytest.raises(ExpressionError, match="goes round in a circle"):
        made.do("set_value", name="overall", expr="overall*2")
    with pytest.raises(Refusal):
        made.do("set_value", name="overall", expr="-80")
    assert width(made) == pytest.approx(52.8)


def test_a_value_that_makes_a_sketch_impossible_is_refused() -> None:
    made = plate()
    made.do("set_value", name="w", expr="50")
    made.do("sketch_dimension", step="s1", dimension="d1", changes={"expr": "w", "name": "long"})
    made.do("sketch_add", step="s1", dimensions=[
        {"id": "d3", "kind": "distance", "refs": ["l3"], "expr": "1", "driving": False}
    ])  # fmt: skip
    with pytest.raises(Refusal, match="more than zero"):
        made.do("set_value", name="w", expr="0")
    with pytest.raises(Refusal, match="already"):
        made.do("set_value", name="long", expr="3")


def test_the_order_of_the_route_is_guarded() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((9, 9), 2))
    made.extrude("s4", "s3", None, "cut")
    made.sketch("s5", "front", disc((9, 9), 2))
    assert dependents(made.document, "s2") == ["s3", "s4"]
    made.do("move_step", step="s5", before="s1")
    assert [s.id for s in made.document.steps] == ["s5", "s1", "s2", "s3", "s4"]
    with pytest.raises(Refusal, match="is built on"):
        made.do("move_step", step="s3", before="s2")
    with pytest.raises(Refusal, match="Steps 40, 50 are built on step 30"):
        made.do("delete_step", step="s2")
    made.do("delete_step", step="s2", with_dependents=True)
    assert [s.id for s in made.document.steps] == ["s5", "s1"]
    made.do("add_step", step={"kind": "sketch", "id": "s6", "on": {"kind": "datum", "plane": "top"}})
    assert made.document.used == 6


def test_steps_are_inserted_at_the_hold_point() -> None:
    made = plate()
    made.sketch("s3", "front", disc((9, 9), 2))
    made.do("set_hold", step="s2")
    made.sketch("s4", "front", disc((9, 9), 2))
    assert [s.id for s in made.document.steps] == ["s1", "s2", "s4", "s3"]
    assert made.document.hold == "s4"


def test_part_files_are_the_same_after_a_round_trip() -> None:
    made = plate(material="ABS", properties={"drawn by": "wren"})
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.extrude("s4", "s3", "3", "cut", reverse=True)
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "40"})
    text = part_file.write(made.document)
    again = part_file.read(text)
    assert to_json(again) == to_json(made.document)
    assert part_file.write(again) == text
    assert max(len(row) for row in text.splitlines()) < 200


def test_a_file_written_by_hand_is_solved_when_read() -> None:
    text = """{"format": "sulvak-part", "format_version": 1, "name": "Hand made", "steps": [
      {"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}, "sketch": {
        "entities": [{"kind": "circle", "id": "c1", "c": [3, 4], "r": 1}],
        "constraints": [{"id": "k1", "kind": "coincident", "refs": ["c1.c", "origin"]}],
        "dimensions": [{"id": "d1", "kind": "diameter", "refs": ["c1"], "expr": "1/2 in"}]}}]}"""
    step = part_file.read(text).steps[0]
    assert isinstance(step, SketchStep)
    assert step.sketch.entities[0].model_dump()["c"] == (0, 0)
    assert step.sketch.entities[0].model_dump()["r"] == pytest.approx(6.35)


def test_the_schema_says_what_the_reader_takes() -> None:
    import jsonschema

    jsonschema.Draft202012Validator.check_schema(part_file.schema())
    made = plate()
    validator = jsonschema.Draft202012Validator(part_file.schema())
    validator.validate(to_json(made.document))
    assert not validator.is_valid({"format": "sulvak-part", "steps": 3})


def test_what_the_screen_gets_of_a_sketch() -> None:
    made = Made()
    made.sketch("s1", "top", Sketch(entities=[circle(1, (0, 0), 5), circle(2, (20, 0), 3)]))
    step = made.document.step("s1")
    assert isinstance(step, SketchStep)
    view = sketch_view(made.document, step)
    assert view["freedom"] == 6
    assert view["said"] == "6 freedoms left"
    assert view["loose"] == ["c1", "c2"]
    assert len(view["regions"]) == 2
    assert {m["said"] for m in motions(made.document, step)} >= {"circle 1 grows", "circle 2 slides sideways"}


def test_steps_are_grouped_ungrouped_and_suppressed_together() -> None:
    made = plate()
    for n in (3, 5):
        made.sketch(f"s{n}", "top", disc((10.0 * n - 20, 15), 2))
        made.extrude(f"s{n + 1}", f"s{n}", None, "cut")
    whole = made.volume()
    made.do("group_steps", first="s3", last="s6", name="  Holes ")
    assert [s.group for s in made.document.steps] == ["", "", "Holes", "Holes", "Holes", "Holes"]
    before = made.cache.misses
    assert made.volume() == whole
    assert made.cache.misses == before  # a heading builds nothing anew
    made.do("suppress_steps", steps=["s3", "s4", "s5", "s6"])
    assert made.volume() == pytest.approx(12000)
    made.do("suppress_steps", steps=["s3", "s4"], suppressed=False)
    assert made.volume() == pytest.approx(12000 - math.pi * 4 * 10)
    made.do("group_steps", first="s5", last="s6", name="")
    assert [s.group for s in made.document.steps][2:] == ["Holes", "Holes", "", ""]
    again = part_file.read(part_file.write(made.document))
    assert [s.group for s in again.steps] == [s.group for s in made.document.steps]
    held = made.document
    with pytest.raises(Refusal, match="before the first"):
        made.do("group_steps", first="s4", last="s3", name="Odd")
    with pytest.raises(Refusal, match="no longer in the route"):
        made.do("suppress_steps", steps=["s4", "s99"])
    assert made.document == held

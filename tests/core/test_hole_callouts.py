"""Callouts of holes and threads: put into hole steps whole, and proven on what the drill left."""

from __future__ import annotations

from typing import Any

import pytest

from sulvak_core.inspect.prove import prove
from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.notation import parse
from sulvak_core.sheet.requirement import said
from sulvak_core.sketch.model import Point, Sketch
from sulvak_core.steps.sheet_effects import hole_asked

from .parts import Made, plate


def drilled(callout: str, **fields: Any) -> Made:
    """A plate 40 × 30 × 10 drilled at two points of its top, fed by the callout."""
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[Point(id="p1", at=(10, 15)), Point(id="p2", at=(30, 15))]))
    made.step("hole", "s4", sketch="s3", diameter="3", **fields)
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": callout})
    made.do("link_callout", callout="b1", step="s4", field="diameter")
    return made


def verdict(made: Made) -> dict[str, Any]:
    [found] = prove(made.document, made.build())
    return found


@pytest.mark.parametrize(
    ("callout", "told", "measured"),
    [
        ("2X Ø5.5 THRU", "2X Ø5.5 THRU", 5.5),
        ("2X Ø5.5 ↧ 6", "2X Ø5.5 ↧ 6", 5.5),
        ("2X Ø5.5 THRU ⌴ Ø10 ↧ 4", "2X Ø5.5 THRU ⌴ Ø10 ↧ 4", 5.5),
        ("2X Ø5.5 ↧ 8 ⌴ Ø10 ↧ 4", "2X Ø5.5 ↧ 8 ⌴ Ø10 ↧ 4", 5.5),
        ("2X Ø4.5 THRU ⌵ Ø9 × 90°", "2X Ø4.5 THRU ⌵ Ø9 × 90°", 4.5),
        ("2X M5 THRU", "2X M5 THRU", 5.0),
        ("2X M5×0.8 ↧ 4", "2X M5 ↧ 4", 5.0),
        ("2X 1/4-20 UNC THRU", "2X 1/4-20 THRU", 6.35),
    ],
)
def test_a_callout_makes_the_hole_and_is_proven_on_it(callout: str, told: str, measured: float) -> None:
    made = drilled(callout)
    assert made.report("s4").extra["callout"] == told
    assert parse(told) == parse(callout).model_copy(update={"typed": parse(told).typed})  # what is written is read
    found = verdict(made)
    assert (found["state"], found["count"]) == ("proven", 2)
    assert found["measured"] == pytest.approx(measured)


@pytest.mark.parametrize(
    ("callout", "changes", "why"),
    [
        ("2X Ø5.5 THRU", {"end": "blind", "depth": "6"}, "not through"),
        ("2X Ø5.5 ↧ 6", {"depth": "7"}, "depth 7, 6 asked"),
        ("2X Ø5.5 THRU ⌴ Ø10 ↧ 4", {"bore_depth": "3"}, "counterbore ↧ 3, 4 asked"),
        ("2X Ø5.5 THRU ⌴ Ø10 ↧ 4", {"bore_diameter": "9"}, "counterbore Ø9, 10 asked"),
        ("2X Ø5.5 THRU ⌴ Ø10 ↧ 4", {"form": "plain"}, "no counterbore"),
        ("2X Ø4.5 THRU ⌵ Ø9 × 90°", {"form": "plain"}, "no countersink"),
        ("2X Ø4.5 THRU ⌵ Ø9 × 90°", {"sink_diameter": "8"}, "countersink Ø8, 9 asked"),
        ("2X Ø4.5 THRU ⌵ Ø9 × 90°", {"sink_angle": "82"}, "countersink angle 82, 90 asked"),
        ("2X M5 THRU", {"size": "M4"}, "drilled Ø3.3, where M5 is tapped from Ø4.2"),
        ("2X M5 THRU", {"form": "plain", "size": "", "diameter": "4.2"}, "drilled, not tapped"),
        ("2X M5 ↧ 6", {"thread_depth": "", "depth": "5"}, "drilled 5 deep, too shallow"),
        ("2X M5 THRU", {"points": ["p1"]}, "1 found, 2 asked"),
    ],
)
def test_a_hole_that_is_not_as_asked_is_found_out(callout: str, changes: dict[str, Any], why: str) -> None:
    made = drilled(callout)
    made.do("set_step", step="s4", changes=changes)
    found = verdict(made)
    assert found["state"] == "out"
    assert why in found["said"]


def test_a_thread_is_drilled_deeper_than_it_is_tapped() -> None:
    made = drilled("M5 ↧ 6")
    step = made.document.step("s4")
    assert (step.thread_depth, step.depth, step.end) == ("6 mm", "8.4 mm", "blind")  # type: ignore[union-attr]


def test_what_is_no_hole_is_not_put_into_one() -> None:
    for text in ("48", "R6", "2×45°", "BREAK EDGES"):
        assert hole_asked(parse(text)) == {}
    made = drilled("Ø6 THRU")
    made.do("set_callout", callout={"id": "b2", "number": 2, "text": "35"})
    before = made.document
    with pytest.raises(Refusal, match="diameter or a thread"):
        made.do("link_callout", callout="b2", step="s4", field="diameter")
    assert made.document == before


def test_holes_are_told_in_words() -> None:
    assert said(parse("2X Ø5.5 THRU ⌴ Ø10 ↧ 5")) == (
        "2 × diameter 5.5 mm, through, counterbored to diameter 10 mm, 5 mm deep"
    )
    assert said(parse("Ø4.5 THRU ⌵ Ø9 × 90°")) == "diameter 4.5 mm, through, countersunk to diameter 9 mm at 90°"
    assert said(parse("4X M5 ↧ 12")) == "4 × thread M5, 12 mm deep"

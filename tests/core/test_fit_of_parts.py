"""A sketch of a part fitted to its sheet by commands: taken it is as it was shown, and refusals say what to do."""

from __future__ import annotations

from typing import Any

import pytest

from sulvak_core.part.errors import Refusal
from sulvak_core.sheet.hints import Hint, hints
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Sketch
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.shared import values_for
from sulvak_core.steps.sketch_fit import fitted

from .parts import Made
from .sketches import circle
from .test_fit_to_sheet import joined, quad


def piece(*callouts: str) -> Made:
    made = Made()
    sketch = Sketch(entities=[*quad(57, 44), circle(1, (20, 20), 5)], constraints=joined("coincident l1.p origin"))
    made.sketch("s1", "top", sketch)
    for n, text in enumerate(callouts, 1):
        made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
    return made


def shown(made: Made, hinted: dict[str, Hint] | None = None) -> dict[str, Any]:
    return fitted(made.document, made.document.step("s1"), hinted or {})  # type: ignore[arg-type]


def test_taken_all_at_once_it_is_as_it_was_shown() -> None:
    made = piece("60 ±0.1", "⌀12 THRU", "45", "18", "22.5", "SURFACES CLEAN")
    found = shown(made)
    assert found["left"] == 0
    made.do(
        "sketch_add",
        step="s1",
        constraints=[c for m in found["moves"] for c in m["constraints"]],
        dimensions=[d for m in found["moves"] for d in m["dimensions"]],
        shown=found["entities"],
    )
    step = made.document.step("s1")
    assert isinstance(step, SketchStep)
    now = {e.id: e.model_dump(mode="json") for e in step.sketch.entities}
    assert all(now[e["id"]] == e for e in found["entities"])
    assert freedom(step.sketch, values_for(made.document).all(step.sketch)).count == 0


def test_one_taken_alone_is_as_it_was_shown() -> None:
    made = piece("60 ±0.1", "⌀12 THRU", "45")
    move = next(m for m in shown(made)["moves"] if m["callout"] == "b1")
    made.do("sketch_add", step="s1", dimensions=move["dimensions"], shown=move["alone"])
    step = made.document.step("s1")
    assert isinstance(step, SketchStep)
    now = {e.id: e.model_dump(mode="json") for e in step.sketch.entities}
    assert all(now[e["id"]] == e for e in move["alone"])


def test_places_that_do_not_hold_are_not_kept() -> None:
    """What is said to have been seen counts only as far as it is so."""
    made = piece("60")
    wrong = [{"kind": "line", "id": "l1", "p": [0, 0], "q": [77, 9]}]
    move = next(m for m in shown(made)["moves"] if m["callout"] == "b1")
    made.do("sketch_add", step="s1", dimensions=move["dimensions"], shown=wrong)
    step = made.document.step("s1")
    assert isinstance(step, SketchStep)
    bottom = step.sketch.entity("l1")
    assert bottom.p == (0, 0)  # type: ignore[union-attr]
    assert bottom.q == (pytest.approx(60), pytest.approx(0))  # type: ignore[union-attr]


def test_used_and_reference_sizes_are_not_asked_again() -> None:
    made = piece("60", "(45)", "⌀12")
    first = next(m for m in shown(made)["moves"] if m["callout"] == "b1")
    made.do("sketch_add", step="s1", dimensions=first["dimensions"])
    made.do("link_callout", callout="b1", step="s1", field=first["dimensions"][0]["id"])
    assert {m["callout"] for m in shown(made)["moves"] if m["dimensions"]} == {"b3"}


def test_refusals_say_what_to_do() -> None:
    with pytest.raises(Refusal, match="No callout with a size is open"):
        shown(piece("SURFACES CLEAN"))
    empty = Made()
    empty.sketch("s1", "top")
    with pytest.raises(Refusal, match="draw it roughly first"):
        shown(empty)


def test_places_on_the_sheet_tell_the_way_and_the_view() -> None:
    made = piece("60", "45")
    read = {
        "unit": None,
        "general": "",
        "scale": None,
        "notes": [],
        "points": (800.0, 600.0),
        "views": [(0.1, 0.1, 0.4, 0.4), (0.6, 0.1, 0.8, 0.4)],
        "sizes": [
            {"text": "60", "box": (0.2, 0.45, 0.22, 0.47), "turn": 0.0, "at": (0.2, 0.45), "ends": [], "way": None},
            {"text": "45", "box": (0.84, 0.2, 0.86, 0.22), "turn": -90.0, "at": (0.84, 0.2), "ends": [], "way": None},
        ],
    }
    found = hints(read, 0, made.document.callouts, "mm")
    assert found == {"b1": Hint("horizontal", (0,)), "b2": Hint("vertical", (1, 0))}  # they stand side by side
    flat = {**read, "sizes": [{**s, "turn": 0.0} for s in read["sizes"]]}  # type: ignore[attr-defined]
    assert {h.along for h in hints(flat, 0, made.document.callouts, "mm").values()} == {""}
    # what the file holds as dimensions tells the way and the view, however its text stands
    ends = [[(0.1, 0.4), (0.4, 0.4)], [(0.38, 0.1), (0.38, 0.4)]]
    held = {
        **flat,
        "sizes": [{**s, "ends": e, "way": w} for s, e, w in zip(flat["sizes"], ends, (0.0, 90.0), strict=True)],
    }  # type: ignore[call-overload]
    found = hints(held, 0, made.document.callouts, "mm")
    assert found == {"b1": Hint("horizontal", (0,)), "b2": Hint("vertical", (0, 1))}

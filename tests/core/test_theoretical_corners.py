"""Sizes to corners that are not on the part any more: the walls carried on to where they would meet."""

from __future__ import annotations

import pytest

from sulvak_core.inspect.prove import prove
from sulvak_core.part.document import Link
from sulvak_core.sketch.model import Line, Sketch
from sulvak_core.steps.registry import load, to_json

from .parts import Made
from .sketches import sizes


def wedge() -> Made:
    """A plate 60 long at its foot with two leaning ends; its size is from corner to corner."""
    at = [(0.0, 0.0), (60.0, 0.0), (50.0, 30.0), (15.0, 30.0)]
    lines = [Line(id=f"l{i + 1}", p=at[i], q=at[(i + 1) % 4]) for i in range(4)]
    sketch = Sketch(entities=lines, dimensions=sizes("distance 60 l1", "distance 35 l3"))
    made = Made()
    made.sketch("s1", "top", sketch)
    made.extrude("s2", "s1", "8")
    for number, (text, field) in enumerate([("60", "d1"), ("35", "d2")], 1):
        made.do("set_callout", callout={"id": f"b{number}", "number": number, "text": text})
        made.do("link_callout", callout=f"b{number}", step="s1", field=field)
    return made


def states(made: Made) -> list[tuple[str, float | None]]:
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return [(v["state"], v["measured"]) for v in prove(made.document, built)]


def test_while_the_corners_are_there() -> None:
    assert states(wedge()) == [("proven", pytest.approx(60)), ("proven", pytest.approx(35))]


@pytest.mark.parametrize("kind", ["fillet", "chamfer"])
def test_when_they_are_rounded_or_broken(kind: str) -> None:
    made = wedge()
    corners = [("l4", "l1"), ("l1", "l2"), ("l2", "l3"), ("l3", "l4")]
    edges = [made.edge(f"s2/side/{a}", f"s2/side/{b}") for a, b in corners]
    fields = {"groups": [{"edges": edges, "radius": "3"}]} if kind == "fillet" else {"edges": edges, "first": "2"}
    made.step(kind, "s3", **fields)
    assert states(made) == [("proven", pytest.approx(60)), ("proven", pytest.approx(35))]


def test_another_size_on_the_sheet_is_found_out() -> None:
    made = wedge()
    made.step("fillet", "s3", groups=[{"edges": [made.edge("s2/side/l1", "s2/side/l2")], "radius": "3"}])
    made.do("link_callout", callout="b1")
    made.do("set_callout", callout={"id": "b1", "number": 1, "text": "60.3"})
    document = made.document
    linked = document.callouts[0].model_copy(update={"link": Link(step="s1", field="d1")})
    made.document = load(to_json(document.model_copy(update={"callouts": [linked]})))
    (found,) = prove(made.document, made.build())
    assert (found["state"], found["measured"]) == ("out", pytest.approx(60))

"""Commands in any order with any content: each is carried out whole or refused in a sentence, and nothing half-way."""

from __future__ import annotations

import copy
import json
from typing import Any

import jsonpatch
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from sulvak_core.exchange import part_file
from sulvak_core.part.errors import Refusal
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.model import Sketch
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.kinds.sketch import SketchStep
from sulvak_core.steps.registry import Document, load, to_json
from sulvak_core.steps.shared import values_for
from tests.examples import examples

from .sketches import numerical_freedom, residual

near = st.floats(-60, 60).map(lambda v: round(v, 2))
place = st.tuples(near, near)
POINTS = ["l1.p", "l1.q", "l2.p", "l2.q", "c1.c", "a1.c", "a1.p", "p1", "origin"]
letter_refs = st.sampled_from(["l1", "l2", "l3", "c1", "c2", "a1", "x", "y", *POINTS])
number = st.integers(1, 5)


@st.composite
def entity(draw: Any) -> dict[str, Any]:
    n = draw(number)
    kind = draw(st.sampled_from(["line", "circle", "point", "ellipse", "spline", "text"]))
    if kind == "line":
        return {"kind": kind, "id": f"l{n}", "p": draw(place), "q": draw(place)}
    if kind == "circle":
        return {"kind": kind, "id": f"c{n}", "c": draw(place), "r": draw(st.floats(0.5, 30))}
    if kind == "ellipse":
        (x, y), a, b = draw(place), draw(st.floats(1, 20)), draw(st.floats(1, 20))
        return {"kind": kind, "id": f"e{n}", "c": (x, y), "m": (x + a, y), "n": (x, y + b)}
    if kind == "spline":
        return {"kind": kind, "id": f"s{n}", "points": [draw(place) for _ in range(draw(st.integers(3, 5)))]}
    if kind == "text":
        p, q = draw(place), draw(place)
        return {"kind": kind, "id": f"t{n}", "text": draw(st.text("AB 8", min_size=1, max_size=4)), "p": p, "q": q,
                "m": p, "c": q}  # fmt: skip
    return {"kind": kind, "id": f"p{n}", "at": draw(place)}


constraint = st.fixed_dictionaries(
    {
        "id": number.map(lambda n: f"k{n}"),
        "kind": st.sampled_from(
            ["coincident", "horizontal", "vertical", "parallel", "perpendicular", "equal", "tangent", "concentric",
             "midpoint", "symmetric", "fixed", "collinear"]
        ),
        "refs": st.lists(letter_refs, min_size=1, max_size=3),
    }
)  # fmt: skip
dimension = st.fixed_dictionaries(
    {
        "id": number.map(lambda n: f"d{n}"),
        "kind": st.sampled_from(["distance", "angle", "radius", "diameter"]),
        "refs": st.lists(letter_refs, min_size=1, max_size=2),
        "expr": st.sampled_from(["12", "3/4 in", "25*2", "wall", "0", "-3", "wall*", "1e9", "40°"]),
    }
)
IDS = ["l1", "l2", "c1", "c2", "a1", "p1", "k1", "k2", "d1", "e1", "s1", "t1", "r1"]
ids = st.lists(st.sampled_from(IDS), min_size=1, max_size=4)
whole = letter_refs.filter(str.isalnum)
extrusion = {"kind": "extrude", "id": "s2", "sketch": "s1", "extent": {"kind": "depth", "depth": "5"}}


def said(do: str, **fields: Any) -> st.SearchStrategy[dict[str, Any]]:
    """A command of the sketch s1; what is no strategy stands as it is."""
    given_as = {k: v if isinstance(v, st.SearchStrategy) else st.just(v) for k, v in fields.items()}
    return st.fixed_dictionaries({"do": st.just(do), **given_as})


command = st.one_of(
    said(
        "sketch_add",
        step="s1",
        entities=st.lists(entity(), max_size=3),
        constraints=st.lists(constraint, max_size=2),
        dimensions=st.lists(dimension, max_size=1),
    ),
    said("sketch_delete", step="s1", ids=ids),
    said("sketch_drag", step="s1", ref=letter_refs, to=place),
    said("sketch_mirror", step="s1", ids=ids, about=letter_refs),
    said("sketch_pattern", step="s1", ids=ids, counts=["3"], start=place, ends=st.lists(place, min_size=1, max_size=1)),
    said("sketch_pattern", step="s1", ids=ids, counts=["4"], about=letter_refs),
    said("sketch_move", step="s1", ids=ids, base=place, to=place, turn=st.sampled_from(["", "90", "33"])),
    said("sketch_move", step="s1", ids=ids, base=place, to=place, scale=st.sampled_from(["2", "0", "x"]), copy_it=True),
    said("sketch_trim", step="s1", entity=whole, at=place),
    said("sketch_split", step="s1", entity=whole, at=place),
    said("sketch_extend", step="s1", entity=whole, at=place),
    said("sketch_fillet", step="s1", corners=["l1.q"], radius="2"),
    said("sketch_construction", step="s1", ids=ids, on=st.booleans()),
    said("sketch_mend", step="s1"),
    said("set_value", name="wall", expr=st.sampled_from(["2", "3 mm", "x"])),
    said("add_step", step=extrusion),
    said("delete_step", step=st.sampled_from(["s1", "s2"]), with_dependents=st.booleans()),
)


def begun() -> Document:
    document = load({"name": "Any"})
    return apply(
        document,
        read({"do": "add_step", "step": {"kind": "sketch", "id": "s1", "on": {"kind": "datum", "plane": "top"}}}),
    ).document


def sound(document: Document) -> None:
    """What must hold whatever was done: ids once, refs there, every constraint met, freedom exact."""
    for step in document.steps:
        if not isinstance(step, SketchStep):
            continue
        sketch: Sketch = step.sketch
        every = list(sketch.idents())
        assert len(every) == len(set(every))
        known = {e.id for e in sketch.entities} | {"origin", "x", "y"}
        for tie in (*sketch.constraints, *sketch.dimensions):
            assert {r.split(".")[0] for r in tie.refs} <= known
        for p in sketch.patterns:
            assert set(p.of) | set(p.steps) | {i for x in p.instances for i in x.ids.values()} <= known
        values = values_for(document).all(sketch)
        plain = {d.id: values[d.id] for d in sketch.dimensions if d.driving}
        fresh = sketch.model_copy(
            update={
                "dimensions": [
                    d.model_copy(update={"expr": repr(plain[d.id])}) if d.driving else d for d in sketch.dimensions
                ]
            }
        )
        assert residual(fresh) < 1e-6
        if len(sketch.entities) < 14:
            assert freedom(sketch, values).count == numerical_freedom(fresh)


@settings(
    max_examples=examples(150), deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(st.lists(command, min_size=3, max_size=12))
def test_any_commands_in_any_order(commands: list[dict[str, Any]]) -> None:
    document = begun()
    for data in commands:
        before = to_json(document)
        kept = copy.deepcopy(before)
        try:
            outcome = apply(document, read(data))
        except Refusal as refusal:
            assert refusal.sentence[-1] in ".?…"
            assert to_json(document) == kept
            continue
        assert to_json(document) == kept  # what was given is not touched
        after = to_json(outcome.document)
        assert load(json.loads(json.dumps(after))) == outcome.document
        there, back = jsonpatch.make_patch(before, after), jsonpatch.make_patch(after, before)
        assert jsonpatch.apply_patch(before, there.patch) == after
        assert jsonpatch.apply_patch(after, back.patch) == before
        document = outcome.document
    sound(document)
    assert part_file.read(part_file.write(document)) == document


def test_the_same_commands_give_the_same_part() -> None:
    commands = [
        {"do": "sketch_add", "step": "s1", "entities": [{"kind": "circle", "id": "c1", "c": (9, 4), "r": 3}]},
        {"do": "sketch_pattern", "step": "s1", "ids": ["c1"], "counts": ["5"], "about": "origin"},
        {"do": "sketch_drag", "step": "s1", "ref": "c1.c", "to": (12, 1)},
    ]

    def run() -> dict[str, Any]:
        document = begun()
        for data in commands:
            document = apply(document, read(data)).document
        return to_json(document)

    assert run() == run()


@pytest.mark.parametrize("text", ["", "{", "[]", "null", '{"name": 3}', '{"format": "x"}', "\x00", "{" * 5000])
def test_what_is_no_part_file_is_told(text: str) -> None:
    with pytest.raises(Refusal):
        part_file.read(text.encode())

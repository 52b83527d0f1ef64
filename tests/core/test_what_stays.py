"""A command on a sketch changes what it names; patterns, placements, part edges, sizes and callouts beside it stay."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.rebuild.external_edges import on_offer
from sulvak_core.rebuild.resolve import Guides
from sulvak_core.sketch import copies, edit, pattern
from sulvak_core.sketch.edit import Values
from sulvak_core.sketch.freedom import freedom
from sulvak_core.sketch.mend import mend
from sulvak_core.sketch.model import Sketch, points_of
from sulvak_core.sketch.profiles import profile
from sulvak_core.sketch.shape import chamfer, fillet
from sulvak_core.sketch.trim import extend, split, trim
from sulvak_core.solid.frame import Frame
from sulvak_core.steps.commands import read
from sulvak_core.steps.effects import apply
from sulvak_core.steps.registry import Document
from sulvak_core.steps.shared import sketch_step, values_for
from tests.examples import examples

from .parts import Made, plate
from .sketches import circle, line, numerical_freedom, rectangle, residual, sizes, ties, values

VALUES = Values(lambda text, kind: float(text))


def furnished() -> Made:
    """A plate, and on it a sketch s3 with a row of holes, a placed stencil, two part edges, a rectangle tied to one of
    them, a cross of loose lines, and callouts that feed a size of each."""
    made = plate(120, 80)
    made.sketch("s4", "top", Sketch(entities=[circle(1, (0, 0), 2), circle(2, (6, 0), 1)]))
    document = made.document
    made.document = document.model_copy(
        update={"steps": [s.model_copy(update={"stencil": "lug"}) if s.id == "s4" else s for s in document.steps]}
    )
    made.do("move_step", step="s4", before="s1")
    made.sketch("s3", made.face("s2/end"))
    offered = on_offer(
        [b.solid for b in made.build().state.bodies], Frame((0.0, 0.0, 10.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
        Guides(), [],
    )  # fmt: skip
    edges = [o for o in offered if o["entity"]["kind"] == "line"][:2]
    lines = [{**o["entity"], "id": f"l{91 + n}"} for n, o in enumerate(edges)]
    rest = rectangle(1, 20, 20, 30, 20, held=False)
    rest.dimensions = sizes("distance 30 l1", "distance 20 l2", "distance 20 l1.p origin horizontal", "diameter 6 c1")
    loose = [line(7, (70, 20), (100, 40)), line(8, (70, 40), (100, 20)), circle(9, (85, 30), 8), circle(1, (20, 60), 3)]
    joint = ties("coincident l1.p l91")[0].model_copy(update={"id": "k50"})
    made.do(
        "sketch_add",
        step="s3",
        entities=[*(e.model_dump(mode="json") for e in [*rest.entities, *loose]), *lines],
        constraints=[c.model_dump(mode="json") for c in [*rest.constraints, joint]],
        dimensions=[d.model_dump(mode="json") for d in rest.dimensions],
        projections=[{"entity": e["id"], "of": o["of"]} for e, o in zip(lines, edges, strict=True)],
        inferred=["k50"],
    )
    made.do("sketch_pattern", step="s3", ids=["c1"], counts=["5"], start=(20, 60), ends=[(34, 60)], spacings=["14"])
    made.do("sketch_placement", step="s3", stencil="s4", at=(100, 60))
    for n, (text, dimension) in enumerate([("30", "d1"), ("5X Ø6", "d4"), ("14", "d5")], 1):
        made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
        made.do("link_callout", callout=f"b{n}", step="s3", field=dimension)
    return made


FURNISHED = furnished()
ON_THE_RECTANGLE = [
    {"do": "sketch_fillet", "corners": ["l1.q"], "radius": "4"},
    {"do": "sketch_fillet", "corners": ["l1.q", "l2.q"], "radius": "10"},
    {"do": "sketch_chamfer", "corners": ["l1.q"], "distance": "4"},
    {"do": "sketch_chamfer", "corners": ["l1.q"], "distance": "4", "second": "7"},
    {"do": "sketch_chamfer", "corners": ["l1.q", "l2.q"], "distance": "4", "angle": "30"},
]
ON_THE_CROSS = [
    {"do": "sketch_trim", "entity": "l7", "at": (72, 21)},
    {"do": "sketch_trim", "entity": "l7", "at": (85, 30)},
    {"do": "sketch_trim", "entity": "c9", "at": (85, 38)},
    {"do": "sketch_split", "entity": "l7", "at": (80, 27)},
    {"do": "sketch_delete", "ids": ["l7"]},
    {"do": "sketch_mend"},
    {"do": "sketch_construction", "ids": ["l7"], "on": True},
    {"do": "sketch_drag", "ref": "l7.p", "to": (66, 18)},
    {"do": "sketch_mirror", "ids": ["l7"], "about": "x"},
    {"do": "sketch_move", "ids": ["l7"], "base": (70, 20), "to": (72, 22)},
    {"do": "sketch_move", "ids": ["l7"], "base": (70, 20), "to": (72, 22), "copy_it": True},
    {"do": "sketch_offset", "ids": ["c9"], "distance": "2", "at": (100, 30)},
    {"do": "sketch_pattern", "ids": ["l8"], "counts": ["2"], "about": "origin", "angle": "20"},
]


def sketch_of(document: Document) -> Sketch:
    return sketch_step(document, "s3").sketch


@pytest.mark.parametrize(
    ("command", "names"),
    [(c, {"l1", "l2", "l3", "l4"}) for c in ON_THE_RECTANGLE] + [(c, {"l7", "l8", "c9"}) for c in ON_THE_CROSS],
    ids=lambda v: f"{v['do']} {v.get('entity', '')}" if isinstance(v, dict) else "",
)
def test_what_a_command_does_not_name_stays(command: dict[str, Any], names: set[str]) -> None:
    before = FURNISHED.document
    old = sketch_of(before)
    try:
        after = apply(before, read({**command, "step": "s3"})).document
    except Refusal as refusal:
        pytest.fail(refusal.sentence)
    new = sketch_of(after)
    assert old.patterns == new.patterns[: len(old.patterns)]
    assert old.placements == new.placements
    assert old.given == new.given
    assert sketch_step(before, "s3").projections == sketch_step(after, "s3").projections
    assert before.callouts == after.callouts
    for e in old.entities:
        if e.id not in names:
            now = new.entity(e.id)
            assert now is not None
            for ref, at in points_of(e).items():
                assert math.dist(at, points_of(now)[ref]) < 1e-7
    mine = {t.id: t for t in edit.ties_of(new)}
    for t in edit.ties_of(old):
        if not {r.split(".")[0] for r in t.refs} & names:
            assert mine[t.id] == t
    assert {d.id for d in old.dimensions} <= set(mine)  # no size of the rectangle goes, whatever its corners do
    known = values_for(after).all(new)
    if command["do"] in ("sketch_fillet", "sketch_chamfer"):
        assert freedom(new, known).count == freedom(old, values_for(before).all(old)).count


# -- originals of patterns ------------------------------------------------------------------------------


def toothed(*more: str) -> Sketch:
    """A tooth of three lines on a base line, four times in a row, with one size on a copy."""
    tooth = Sketch(
        entities=[line(1, (0, 0), (0, 8)), line(2, (0, 8), (6, 8)), line(3, (6, 8), (6, 0)), line(4, (-9, 0), (99, 0))],
        constraints=ties(
            "coincident l1.q l2.p", "coincident l2.q l3.p", "vertical l1", "vertical l3", "horizontal l2", "fixed l4.p",
            "horizontal l4", "coincident l1.p origin", "coincident l3.q l4", *more,
        ),
        dimensions=sizes("distance 8 l1", "distance 6 l2", "distance 108 l4"),
    )  # fmt: skip
    return pattern.linear(tooth, VALUES, ["l1", "l2", "l3"], (0, 0), [(20, 0)], ["4"], ["20"]).sketch


def area(sketch: Sketch) -> float:
    return sum(r.area for r in profile(sketch).default())


@pytest.mark.parametrize(("change", "lost"), [(fillet, 1 - math.pi / 4), (chamfer, 0.5)])
@pytest.mark.parametrize("measured", [True, False])
def test_corners_of_an_original_change_in_its_copies(change: Any, lost: float, measured: bool) -> None:
    sketch = toothed()
    assert area(sketch) == pytest.approx(4 * 48, rel=1e-9)
    if measured:  # a reference size to the corner of a copy goes on speaking of the sharp corner
        copy = copies.copies_of(sketch, "l2")[1]
        seen = sizes(f"distance 1 {copy}.p origin horizontal")[0].model_copy(update={"id": "d9", "driving": False})
        sketch = edit.add(sketch, VALUES, dimensions=[seen]).sketch
    before = freedom(sketch, VALUES.all(sketch)).count
    made = change(sketch, VALUES, ["l1.q", "l2.q"], "2").sketch
    assert area(made) == pytest.approx(4 * (48 - 2 * lost * 4), rel=1e-9)
    assert freedom(made, VALUES.all(made)).count == before == numerical_freedom(plain(made))
    assert residual(plain(made)) < 1e-9
    if measured:
        assert [d.expr for d in made.dimensions if d.id == "d9"] == ["40"]
    (p,) = made.patterns
    fewer = pattern.change(made, VALUES, p.id, {"count": "2"}).sketch
    assert area(fewer) == pytest.approx(2 * (48 - 2 * lost * 4), rel=1e-9)


def plain(sketch: Sketch) -> Sketch:
    known = values_of(sketch)
    told = [d.model_copy(update={"expr": repr(known[d.id])}) if d.driving else d for d in sketch.dimensions]
    return sketch.model_copy(update={"dimensions": told})


def values_of(sketch: Sketch) -> dict[str, float]:
    return VALUES.all(sketch)


def test_a_circle_of_a_pattern_trimmed_is_an_arc_in_every_copy() -> None:
    sketch = Sketch(
        entities=[circle(1, (0, 0), 5), line(2, (-9, 0), (99, 0))],
        constraints=ties("coincident c1.c origin", "fixed l2.p", "horizontal l2"),
        dimensions=sizes("diameter 10 c1", "distance 108 l2"),
    )
    sketch = pattern.linear(sketch, VALUES, ["c1"], (0, 0), [(20, 0)], ["4"], ["20"]).sketch
    copy = copies.copies_of(sketch, "c1")[0]
    far = sizes(f"distance 1 {copy}.c l2.q")[0].model_copy(update={"id": "d9", "driving": False})
    sketch = edit.add(sketch, VALUES, dimensions=[far]).sketch
    made = trim(sketch, VALUES, "c1", (0, -5)).sketch
    assert sorted(e.kind for e in made.entities) == ["arc"] * 4 + ["line"] * 2
    assert area(made) == pytest.approx(4 * math.pi * 25 / 2, rel=1e-9)
    assert [d.expr for d in made.dimensions if d.id == "d9"] == ["79"]
    bigger = edit.change_dimension(made, VALUES, "d1", {"expr": "12"}).sketch
    assert area(bigger) == pytest.approx(4 * math.pi * 36 / 2, rel=1e-9)


def test_a_line_of_a_pattern_cut_in_two_is_cut_in_every_copy() -> None:
    sketch = toothed()
    for made in (split(sketch, VALUES, "l2", (2, 8)).sketch, trim(wired(sketch), VALUES, "l2", (3, 8)).sketch):
        (p,) = made.patterns
        assert len(p.of) == 4
        assert all(len(i.ids) == 4 for i in p.instances)
        assert residual(plain(made)) < 1e-9
        tops = [e for e in made.entities if e.kind == "line" and e.p[1] == e.q[1] == pytest.approx(8)]
        assert sum(math.dist(e.p, e.q) for e in tops) == pytest.approx(4 * (6 if len(made.entities) < 20 else 4), rel=1)


def wired(sketch: Sketch) -> Sketch:
    """Two lines across the first tooth's top."""
    return edit.add(sketch, VALUES, [line(90, (2, 5), (2, 12)), line(91, (4, 5), (4, 12))]).sketch


def test_lines_that_carry_copies_are_not_cut() -> None:
    sketch = toothed()
    step = sketch.patterns[0].steps[0]
    with pytest.raises(Refusal, match="step of a pattern"):
        split(sketch, VALUES, step, (5, 0))
    document = FURNISHED.document
    handle = sketch_of(document).placements[0].handle
    with pytest.raises(Refusal, match="carries a placed stencil"):
        extend(sketch_of(document), values_for(document), handle, (100, 60))


@given(st.sampled_from(["l1", "l2", "l3"]), st.booleans())
@settings(max_examples=examples(12), deadline=None)
def test_what_is_drawn_twice_is_one_in_every_copy(twice: str, first: bool) -> None:
    sketch = toothed()
    old = sketch.entity(twice)
    assert old is not None
    again = old.model_copy(update={"id": "l80"})
    entities = [again, *sketch.entities] if first else [*sketch.entities, again]
    made = mend(sketch.model_copy(update={"entities": entities}), VALUES).sketch
    (p,) = made.patterns
    assert len(p.of) == 3
    assert area(made) == pytest.approx(4 * 48, rel=1e-9)
    assert values(plain(made))
    assert not [c for c in mend_again(made) if c in ("duplicate", "overlap")]


def mend_again(sketch: Sketch) -> list[str]:
    from sulvak_core.sketch.check import check

    return [f.kind for f in check(sketch).findings]


def test_a_limit_of_the_shop_that_is_changed_leaves_the_others() -> None:
    made = plate()
    made.do("set_part", changes={"shop": {"mould": {"least": 1.0}, "asked": ["solid", "mould"]}})
    made.do("set_part", changes={"shop": {"mould": {"pull": "-z"}, "walls": {"least": 2.0}}})
    shop = made.document.shop
    assert (shop.mould.least, shop.mould.pull, shop.walls.least) == (1.0, "-z", 2.0)
    assert shop.asked == ["solid", "mould"]
    assert shop.cutters == type(shop.cutters)()

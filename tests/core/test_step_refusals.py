"""What steps refuse, in words that say what to do, and that a refusal leaves the part before the step."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.part.errors import Refusal
from sulvak_core.part.threads import THREADS, thread
from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid import blend
from sulvak_core.solid.shapes import checked
from sulvak_core.steps import walk
from sulvak_core.steps.catalogue import catalogue
from sulvak_core.steps.registry import BY_KIND, load, needs
from tests.examples import examples

from .parts import Made, disc, plate
from .sketches import P, line, rectangle
from .test_steps import (
    TOP,
    chamfered,
    drafted,
    drilled,
    extruded,
    face,
    on_top,
    pick,
    repeated,
    rounded,
    shelled,
    turned,
    two_blocks,
)

PIN = disc((20, 15), 3)


def said(make: Callable[[], Made]) -> str:
    """The sentence of the last step, which must fail and leave the part as it was before it."""
    made = make()
    result = made.build()
    last = made.document.steps[-1].id
    report = next(r for r in result.reports if r.id == last)
    assert report.state == "failed", report.said
    before = made.document.steps[-2].id if len(made.document.steps) > 1 else None
    if before:
        assert result.states[last] is result.states[before]
    return report.said


def crossing_axis() -> Made:
    made = Made()
    made.sketch("s1", "front", rectangle(x=-2, y=0, w=5, h=8, held=False))
    axis = {"kind": "line", "step": "s1", "line": "y"}
    made.step("revolve", "s2", sketch="s1", axis=axis, operation="new")
    return made


def off_plane_axis() -> Made:
    made = Made()
    made.sketch("s1", "front", rectangle(x=2, y=0, w=5, h=8, held=False))
    made.step("revolve", "s2", sketch="s1", axis={"kind": "axis", "axis": "y"}, operation="new")
    return made


def missing_point() -> Made:
    made = on_top(Sketch(entities=[P(id="p1", at=(5, 5))]))
    made.step("hole", "s4", sketch="s3", points=["p9"])
    return made


def of_a_fillet() -> Made:
    made = rounded([{"by": "along", "axis": "z"}])
    made.step("pattern", "s4", of=["s3"], along={"kind": "axis", "axis": "x"})
    return made


def apart() -> Made:
    made = two_blocks((60, 0, 10, 10))
    made.step("combine", "s5", operation="union", body="s2", tools=["s4"])
    return made


def nothing_shared() -> Made:
    made = two_blocks((60, 0, 10, 10))
    made.step("combine", "s5", operation="subtract", body="s2", tools=["s4"])
    return made


def split_beside() -> Made:
    made = plate()
    made.step("datum", "s3", form="offset", plane=TOP, distance="50")
    made.step("split", "s4", plane={"kind": "plane", "step": "s3"})
    return made


def parallel_planes() -> Made:
    made = plate()
    upper = {"kind": "face", "face": face("s2/end")}
    made.step("datum", "s3", form="crossing", plane=TOP, other=upper)
    return made


def bent_wall() -> Made:
    made = Made()
    chain = [line(1, (0, 3), (0, 0)), line(2, (0, 0), (30, 0)), line(3, (30, 0), (30, 3))]
    made.sketch("s1", "front", Sketch(entities=chain))
    extent = {"kind": "depth", "depth": "10"}
    made.step("extrude", "s2", sketch="s1", extent=extent, wall="4", wall_side="left")
    return made


SAID: dict[str, tuple[Callable[[], Made], str]] = {
    "through all, added": (lambda: extruded(PIN, {"kind": "through_all"}), "Through all is for cutting"),
    "to next, past the edge": (
        lambda: extruded(disc((40, 15), 3), {"kind": "to_next"}, reverse=True),
        "does not meet the part all over",
    ),
    "to a face alongside": (
        lambda: extruded(PIN, {"kind": "to_face", "face": face("s2/side/l1")}),
        "runs alongside the extrusion",
    ),
    "taper too steep": (lambda: extruded(PIN, {"kind": "depth", "depth": "9"}, taper="30"), "taper does not fit"),
    "wall too thick": (bent_wall, "too thick for the bends"),
    "revolve across its axis": (crossing_axis, "crosses the axis"),
    "axis off the plane": (off_plane_axis, "axis has to lie in the sketch's plane"),
    "more than a turn": (lambda: turned("400"), "at most 360°"),
    "no such thread": (lambda: drilled(size="M7.3"), "The size “M7.3” is in no thread table"),
    "tapped without a thread": (lambda: drilled(form="tapped"), "A tapped hole needs a thread"),
    "narrow counterbore": (
        lambda: drilled(form="counterbore", diameter="6", bore_diameter="5"),
        "A counterbore is wider than its hole",
    ),
    "deep counterbore": (
        lambda: drilled(form="counterbore", diameter="3", end="blind", depth="4", bore_depth="6"),
        "The counterbore is as deep as the hole",
    ),
    "thread deeper than its hole": (
        lambda: drilled(form="tapped", size="M6", end="blind", depth="6", thread_depth="8"),
        "cannot be deeper than its hole",
    ),
    "a point that is gone": (missing_point, "is no longer in the sketch"),
    "holes into the air": (lambda: drilled(diameter="3", reverse=True), "Turned round it would cut"),
    "one copy": (lambda: repeated(along={"kind": "axis", "axis": "x"}, count="1"), "two places or more"),
    "half a copy": (lambda: repeated(along={"kind": "axis", "axis": "x"}, count="2.5"), "a whole number"),
    "no direction": (lambda: repeated(count="3"), "A pattern needs a direction"),
    "no plane": (lambda: repeated(form="mirror"), "A mirroring needs a plane"),
    "copies into the air": (
        lambda: repeated(along={"kind": "axis", "axis": "z"}, count="2", spacing="50"),
        "The copies change nothing",
    ),
    "a pattern of rounds": (of_a_fillet, "treats what is there and cannot be repeated by itself"),
    "radius too large": (lambda: rounded([{"by": "around", "face": face("s2/end")}], "20"), "R20 does not fit here"),
    "no edges": (lambda: rounded([]), "Choose the edges to round"),
    "a rule that finds none": (lambda: rounded([{"by": "inside"}]), "there are none any more"),
    "draft without faces": (lambda: drafted(groups=[{"faces": [], "angle": "3"}]), "Choose the faces to draft"),
    "draft too steep": (
        lambda: drafted(groups=[{"faces": [{"by": "sides", "step": "s2"}], "angle": "89.5"}]),
        "at most 89°",
    ),
    "draft of the neutral face": (
        lambda: drafted(groups=[{"faces": [pick("s2/end")], "angle": "3"}]),
        "cannot be drafted about this neutral plane",
    ),
    "wall fills the body": (lambda: shelled([pick("s2/end")], thickness="12"), "the thickest that does is about"),
    "bodies that do not touch": (apart, "do not touch"),
    "bodies that do not overlap": (nothing_shared, "do not overlap"),
    "split beside the part": (split_beside, "passes through none of these bodies"),
    "planes that never cross": (parallel_planes, "never cross"),
}


@pytest.fixture(autouse=True)
def looked_for_to_the_end(monkeypatch: pytest.MonkeyPatch) -> None:
    """However busy the machine is."""
    monkeypatch.setattr(blend, "PATIENCE", 600.0)


@pytest.mark.parametrize("name", SAID)
def test_refusals_say_what_to_do(name: str) -> None:
    make, words = SAID[name]
    sentence = said(make)
    assert words in sentence
    assert sentence[0].isupper() and sentence.rstrip().endswith((".", "?"))


@pytest.mark.parametrize("name", ["radius too large", "wall fills the body"])
def test_the_largest_that_is_told_does_fit(name: str) -> None:
    made = SAID[name][0]()
    step = made.document.steps[-1]
    largest = made.report(step.id).offers["largest"]
    changes: dict[str, Any] = {"thickness": str(largest)}
    if step.kind == "fillet":
        changes = {"groups": [{**step.groups[0].model_dump(), "radius": str(largest)}]}
    made.do("set_step", step=step.id, changes=changes)
    assert not made.build().failed


@pytest.mark.parametrize(
    ("kind", "fields"),
    [
        ("fillet", {"groups": [{"edges": [], "radius": "0"}]}),
        ("shell", {"thickness": "-1"}),
        ("pattern", {"count": "0", "along": {"kind": "axis", "axis": "x"}}),
        ("hole", {"sketch": "s2"}),
        ("extrude", {"sketch": "s9", "extent": {"kind": "depth", "depth": "3"}}),
        ("fillet", {"groups": [{"edges": [pick("s9/end")], "radius": "1"}]}),
    ],
)
def test_commands_that_cannot_be_change_nothing(kind: str, fields: dict[str, Any]) -> None:
    made = plate()
    before = made.document
    with pytest.raises(Refusal):
        made.step(kind, "s3", **fields)
    assert made.document is before


def test_names_and_units_reach_into_every_step() -> None:
    made = plate()
    made.do("set_value", name="gap", expr="2")
    groups = [{"edges": [{"by": "along", "axis": "z"}], "radius": "gap"}]
    made.step("fillet", "s3", groups=groups)
    made.step("shell", "s4", faces=[pick("s2/end")], thickness="gap / 2")
    before = made.volume()
    made.do("set_value", name="gap", rename_to="corner")
    assert [t for _, t, *_ in walk.expressions(made.document.steps[2])] == ["corner"]
    made.do("set_part", changes={"unit": "in"})
    assert made.volume() == pytest.approx(before, rel=1e-12)
    made.do("set_value", name="corner", expr="3 mm")
    assert made.volume() != pytest.approx(before, rel=1e-6)
    with pytest.raises(Refusal, match="is used in step 30, step 40"):
        made.do("delete_value", name="corner")


def test_callouts_feed_the_fields_of_any_step() -> None:
    made = rounded([{"by": "along", "axis": "z"}])
    for n, text in ((1, "R4"), (2, "Ø8"), (3, "5")):
        made.do("set_callout", callout={"id": f"b{n}", "number": n, "text": text})
    made.do("link_callout", callout="b1", step="s3", field="radius")
    assert made.document.steps[2].groups[0].radius == "4"  # type: ignore[union-attr]
    with pytest.raises(Refusal, match="does not give a radius"):
        made.do("link_callout", callout="b3", step="s3", field="radius")
    with pytest.raises(Refusal, match="has no size “depth”"):
        made.do("link_callout", callout="b3", step="s3", field="depth")


def test_what_a_step_is_built_on_is_known() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), PIN)
    made.extrude("s4", "s3", "5")
    made.step("fillet", "s5", groups=[{"edges": [made.edge("s4/side/c1", "s2/end")], "radius": "1"}])
    made.step("pattern", "s6", of=["s4"], along={"kind": "axis", "axis": "x"}, count="2", spacing="8")
    found = {s.id: set(needs(s)) for s in made.document.steps}
    assert found["s5"] == {"s4", "s2"} and found["s6"] == {"s4"}
    with pytest.raises(Refusal, match="Steps 50, 60 are built on step 40"):
        made.do("delete_step", step="s4")


def test_every_kind_has_a_sentence_and_a_start() -> None:
    told = catalogue()
    assert set(told["sentences"]) == set(told["kinds"]) == set(BY_KIND)
    for start in told["starts"]:
        sketch = {"sketch": "s1"} if start["needs"] == "sketch" else {}
        step = {"id": "s2", "kind": start["kind"], **start["fresh"], **sketch}
        if start["kind"] == "revolve":
            step["axis"] = {"kind": "line", "step": "s1", "line": "y"}
        if start["kind"] in ("move", "remove", "combine"):
            step |= {"bodies": ["s1"]} if start["kind"] != "combine" else {"body": "s1", "tools": ["s1x2"]}
        document = load({"name": "x", "steps": [{"id": "s1", "kind": "sketch", "on": TOP}, step]})
        report = build(document, Cache()).reports[1]
        assert report.sentence and "None" not in report.sentence
    keys = [s["keys"] for s in told["starts"]]
    assert len(keys) == len(set(keys))


def test_threads_agree_with_their_rules() -> None:
    for found in THREADS.values():
        assert found.drill < found.diameter < found.close < found.medium < found.coarse
        # a tapping drill leaves about the thread's depth: diameter less pitch, to a drill's grade
        assert found.drill == pytest.approx(found.diameter - found.pitch, abs=0.35)
    assert thread("m10×1.25") is THREADS["M10x1.25"] and thread("M99") is None


@given(
    st.floats(0.2, 4.9),
    st.floats(0.2, 20),
    st.floats(0.3, 6),
    st.integers(2, 6),
    st.sampled_from(["fillet", "chamfer", "draft", "shell", "hole", "pattern"]),
)
@settings(max_examples=examples(60), deadline=None)
def test_any_sensible_values_give_a_valid_solid_or_a_sentence(
    size: float, angle: float, wall: float, count: int, kind: str
) -> None:
    made = plate()
    if kind == "fillet":
        made.step("fillet", "s3", groups=[{"edges": [{"by": "outside", "step": "s2"}], "radius": f"{size:.6f}"}])
    elif kind == "chamfer":
        made.step("chamfer", "s3", edges=[{"by": "outside", "step": "s2"}], first=f"{size:.6f}")
    elif kind == "draft":
        groups = [{"faces": [{"by": "sides", "step": "s2"}], "angle": f"{angle:.6f}"}]
        made.step("draft", "s3", groups=groups, neutral={"kind": "face", "face": face("s2/start")})
    elif kind == "shell":
        made.step("shell", "s3", faces=[pick("s2/end")], thickness=f"{wall:.6f}")
    else:
        made.sketch("s3", made.face("s2/end"), Sketch(entities=[P(id="p1", at=(4, 4))]))
        made.step("hole", "s4", sketch="s3", diameter=f"{size:.6f}", end="blind", depth=f"{wall:.6f}")
        if kind == "pattern":
            axis = {"kind": "axis", "axis": "x"}
            made.step("pattern", "s5", of=["s4"], along=axis, count=str(count), spacing=f"{size + wall:.6f}")
    result = made.build()
    for body in result.state.bodies:
        checked(body.solid, "test")
        assert math.isfinite(body.solid.volume()) and 0 < body.solid.volume() <= 12000 + 1e-6
    for report in result.failed:
        assert report.said.endswith(".") and "kernel gave up" not in report.said


# -- rounds that just fit ------------------------------------------------------------------------------------


def rounded_end(width: float = 64, radius: str = "32") -> Made:
    made = plate(90, width, "12")
    edges = [made.edge("s2/side/l1", "s2/side/l2"), made.edge("s2/side/l2", "s2/side/l3")]
    made.step("fillet", "s3", groups=[{"radius": radius, "edges": edges}])
    return made


def test_a_bars_end_is_rounded_by_half_its_width_and_can_be_worked_on() -> None:
    made = rounded_end()
    whole = (58 * 64 + math.pi * 32**2 / 2) * 12
    assert made.volume() == pytest.approx(whole, rel=1e-12)
    skin = [tags for _, tags in made.build().state.bodies[0].solid.tags.items()]
    assert sum(any(t.startswith("s3/round/") for t in tags) for tags in skin) == 1  # one face from side to side
    assert all(skin)
    made.sketch("s5", "top", disc((58, 32), 10))
    made.extrude("s6", "s5", None, "cut")
    assert made.volume() == pytest.approx(whole - 1200 * math.pi, rel=1e-12)
    made.step("fillet", "s7", groups=[{"radius": "2", "edges": [{"by": "around", "face": {"origins": ["s2/end"]}}]}])
    assert not made.build().failed
    made.do(
        "set_step", step="s3", changes={"groups": [{**made.document.step("s3").groups[0].model_dump(), "radius": "20"}]}
    )  # type: ignore[union-attr]
    assert not made.build().failed


def test_a_groove_is_filled_round_by_half_its_width_and_more_is_refused() -> None:
    made = plate(90, 64, "30")
    made.sketch("s3", "front", rectangle(x=30, y=20, w=16, h=20, held=False))
    made.extrude("s4", "s3", None, "cut", reverse=True)
    sharp = made.volume()
    floor = [made.edge("s4/side/l1", f"s4/side/l{n}") for n in (2, 4)]
    made.step("fillet", "s5", groups=[{"radius": "8", "edges": floor}])
    assert made.volume() == pytest.approx(sharp + (2 - math.pi / 2) * 64 * 64, rel=1e-12)
    (failed,) = rounded_end(radius="32.5").build().failed
    assert "the largest that does is about R32." in failed.said


@pytest.mark.parametrize(
    ("refused", "fits", "fails"),
    [
        (lambda: rounded_end(radius="40"), "R10", "R40"),
        (lambda: chamfered(first="20"), "5", "20"),
        (lambda: shelled([pick("s2/end")], thickness="24"), "6", "24"),
        (lambda: drafted(groups=[{"faces": [{"by": "sides", "step": "s2"}], "angle": "60"}]), "15°", "60°"),
    ],
)
def test_a_search_cut_short_says_what_it_knows_and_no_more(
    monkeypatch: pytest.MonkeyPatch, refused: Callable[[], Made], fits: str, fails: str
) -> None:
    """Where time runs out, what fits is not called the largest."""
    monkeypatch.setattr(blend, "PATIENCE", 0.0)
    (failed,) = refused().build().failed
    assert f"{fits} does, {fails} does not, and what lies between was not tried to the end." in failed.said
    assert "largest" not in failed.said and "thickest" not in failed.said


def test_a_failing_step_keeps_the_rest_and_says_what_it_lost() -> None:
    """Three of many steps fail: the part before each stays, the others go on, each names its cause."""
    made = plate()
    for k in range(4):
        made.sketch(f"s{3 + 2 * k}", made.face("s2/end"), disc((6 + 9 * k, 15), 2))
        made.extrude(f"s{4 + 2 * k}", f"s{3 + 2 * k}", "4")
    for k in range(3):
        lost = made.edge(f"s{4 + 2 * k}/end", "s2/start")  # these never meet
        made.step("fillet", f"s{20 + k}", groups=[{"edges": [lost], "radius": "1"}])
    made.step("fillet", "s30", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "2"}])
    built = made.build()
    assert [r.id for r in built.failed] == ["s20", "s21", "s22"]
    for k, report in enumerate(built.failed):
        assert "An edge this step uses is gone: it was the edge between" in report.said
        assert f"end face of step {40 + 20 * k}" in report.said
    whole = 12000 + 4 * 4 * math.pi * 4 - (4 - math.pi) * 4 * 10
    assert built.state.volume() == pytest.approx(whole, rel=1e-9)

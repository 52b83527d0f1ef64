"""The order adviser: each mistake noticed by its geometry, the advice tried, and followed with one command."""

from __future__ import annotations

import math
from typing import Any

import pytest

from sulvak_core.rebuild import refine
from sulvak_core.rebuild.adviser import Advice, advise, places
from sulvak_core.sketch.model import Sketch
from sulvak_core.solid.shapes import KernelError

from .parts import Made, disc, plate
from .sketches import P, line, rectangle
from .test_steps import face, pick

W, H, T = 40, 30, 10
AROUND = [{"by": "around", "face": face("s2/end")}]


def advice(made: Made) -> dict[str, Advice]:
    built = made.build()
    assert not built.failed, [r.said for r in built.failed]
    return {a.kind: a for a in advise(made.document, built, made.cache)}


def follow(made: Made, a: Advice) -> float:
    """The volume after doing what is advised."""
    assert a.command
    command = dict(a.command)
    made.do(command.pop("do"), **command)
    return made.volume()


def shell_after_hole() -> Made:
    made = plate()
    made.sketch("s3", made.face("s2/end"), Sketch(entities=[P(id="p1", at=(20, 15))]))
    made.step("hole", "s4", sketch="s3", diameter="6")
    made.step("shell", "s5", faces=[pick("s2/end")], thickness="2")
    return made


def test_a_shell_that_grows_a_tube_round_a_hole() -> None:
    made = shell_after_hole()
    before = made.volume()
    found = advice(made)["tube"]
    assert found.step == "s4" and "grows a wall around the hole of step 40" in found.said
    assert found.volume is not None
    after = follow(made, found)
    assert after - before == pytest.approx(found.volume, rel=1e-9)
    import math

    assert after == pytest.approx(W * H * T - 36 * 26 * 8 - math.pi * 9 * 2, rel=1e-9)
    assert "tube" not in advice(made)


def test_a_hole_through_the_shell_is_left_alone() -> None:
    made = plate()
    made.step("shell", "s3", faces=[pick("s2/end")], thickness="2")
    made.sketch("s4", made.face("s2/start"), disc((20, -15), 3))
    made.step("extrude", "s5", sketch="s4", operation="cut", extent={"kind": "through_all"})
    assert advice(made) == {}


def test_draft_after_rounds() -> None:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": [{"by": "corners", "step": "s2"}], "radius": "3"}])
    groups = [{"faces": [{"by": "sides", "step": "s2"}], "angle": "5"}]
    made.step("draft", "s4", groups=groups, neutral={"kind": "face", "face": face("s2/start")})
    found = advice(made)["draft after rounds"]
    assert found.step == "s4" and "rounds of step 30" in found.said
    follow(made, found)
    assert [s.id for s in made.document.steps] == ["s1", "s2", "s4", "s3"]
    assert "draft after rounds" not in advice(made)


def two_blocks() -> Made:
    """A plate with a boss on it that is a body of its own."""
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 6))
    made.step("extrude", "s4", sketch="s3", operation="new", extent={"kind": "depth", "depth": "8"})
    return made


def test_a_round_made_before_bodies_are_united() -> None:
    made = two_blocks()
    edges = [{"by": "around", "face": face("s2/end")}]
    made.step("fillet", "s5", groups=[{"edges": edges, "radius": "2"}])
    made.step("combine", "s6", operation="union", body="s2", tools=["s4"])
    found = advice(made)["before union"]
    assert found.step == "s5" and "step 60 unites" in found.said
    follow(made, found)
    assert [s.id for s in made.document.steps] == ["s1", "s2", "s3", "s4", "s6", "s5"]


@pytest.mark.parametrize("kind", ["fillet", "chamfer"])
@pytest.mark.parametrize("between", [False, True])
def test_a_round_where_bodies_meet_once_they_are_united(kind: str, between: bool) -> None:
    """The end face of a handle rounded, then united with what it stands on: its edges are gone then, and a groove stays
    round its foot. Steps in between change nothing about that."""
    made = two_blocks()
    edges = [{"by": "around", "face": face("s4/start")}]
    if between:
        made.sketch("s7", made.face("s2/end"), Sketch(entities=[P(id="p1", at=(5, 5))]))
        made.step("hole", "s8", sketch="s7", diameter="4")
    if kind == "fillet":
        made.step("fillet", "s5", groups=[{"edges": edges, "radius": "1.5"}])
    else:
        made.step("chamfer", "s5", edges=edges, first="1.5")
    volume = made.volume()
    made.step("combine", "s6", operation="union", body="s2", tools=["s4"])
    assert made.volume() == pytest.approx(volume)  # the groove is there
    found = advice(made)["before union"]
    assert found.step == "s5" and "a groove is left there" in found.said
    r, big = 1.5, 6.0
    chamfered = math.pi * r * r * (big - r / 3)
    rounded = 2 * math.pi * ((1 - math.pi / 4) * r * r) * (big - (10 - 3 * math.pi) / (12 - 3 * math.pi) * r)
    groove = chamfered if kind == "chamfer" else rounded
    assert found.volume == pytest.approx(groove, rel=1e-6)
    assert follow(made, found) == pytest.approx(volume + groove, rel=1e-9)
    assert "before union" not in advice(made)


def test_a_round_on_the_free_end_of_what_is_united_is_left_in_peace() -> None:
    made = two_blocks()
    made.step("fillet", "s5", groups=[{"edges": [{"by": "around", "face": face("s4/end")}], "radius": "1.5"}])
    made.step("combine", "s6", operation="union", body="s2", tools=["s4"])
    assert "before union" not in advice(made)


def wedge(angle: float = 10) -> Made:
    """A long block whose top slopes by ``angle`` degrees along X."""
    import math

    rise = 60 * math.tan(math.radians(angle))
    at = [(0.0, 0.0), (60.0, 0.0), (60.0, 30.0 - rise), (0.0, 30.0)]
    made = Made()
    made.sketch("s1", "front", Sketch(entities=[line(i + 1, at[i], at[(i + 1) % 4]) for i in range(4)]))
    made.step("extrude", "s2", sketch="s1", extent={"kind": "depth", "depth": "40"}, reverse=True)
    return made


def on(made: Made, ident: str, at: tuple[float, float, float]) -> tuple[float, float]:
    """A place in space in the coordinates of a sketch."""
    frame = made.build().frames[ident]
    d = [a - b for a, b in zip(at, frame.origin, strict=True)]
    return tuple(sum(p * q for p, q in zip(d, axis, strict=True)) for axis in (frame.x, frame.y))  # type: ignore[return-value]


def test_a_hole_that_follows_a_tilted_face() -> None:
    made = wedge()
    made.sketch("s3", made.face("s2/side/l3"))
    point = {"kind": "point", "id": "p1", "at": on(made, "s3", (30, 20, 25))}
    made.do("sketch_add", step="s3", entities=[point])
    made.step("hole", "s4", sketch="s3", diameter="4", end="blind", depth="5")
    found = advice(made)["tilted"]
    assert found.step == "s4" and "10° off" in found.said and found.command is None


def test_a_pattern_along_a_tilted_edge_takes_the_axis_instead() -> None:
    made = wedge()
    made.sketch("s3", made.face("s2/start"))
    hole = {"kind": "circle", "id": "c1", "c": on(made, "s3", (8, 0, 8)), "r": 2}
    made.do("sketch_add", step="s3", entities=[hole])
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "depth", "depth": "5"})
    edge = made.edge("s2/side/l3", "s2/end")["edge"]
    made.step("pattern", "s5", of=["s4"], along={"kind": "edge", "edge": edge}, count="3", spacing="12", reverse=True)
    found = advice(made).get("tilted")
    assert found is not None and found.label == "Take the X axis"
    follow(made, found)
    assert "tilted" not in advice(made)


def test_a_cut_that_swallows_a_round() -> None:
    made = plate()
    made.step("fillet", "s3", groups=[{"edges": [made.edge("s2/side/l1", "s2/side/l2")], "radius": "2"}])
    made.sketch("s4", "top", rectangle(x=35, y=0, w=10, h=10, held=False))
    made.step("extrude", "s5", sketch="s4", operation="cut", extent={"kind": "through_all"})
    built = made.build()
    assert not built.failed
    found = advice(made)
    # the corner is gone altogether, and with it all the round was made from: moved, the round would fail
    assert "cut round" not in found
    assert found["idle"].step == "s3"


def test_a_cut_that_splits_a_round_could_come_first() -> None:
    made = plate()
    edge = made.edge("s2/side/l1", "s2/end")
    made.step("fillet", "s3", groups=[{"edges": [edge, *AROUND], "radius": "2"}])
    made.sketch("s4", "top", rectangle(x=15, y=-1, w=10, h=6, held=False))
    made.step("extrude", "s5", sketch="s4", operation="cut", extent={"kind": "through_all"})
    found = advice(made)["cut round"]
    assert found.step == "s5" and "splits a round of step 30" in found.said
    follow(made, found)
    # its sketch went along, and the round now follows the notch too
    assert [s.id for s in made.document.steps] == ["s1", "s2", "s4", "s5", "s3"]
    assert "cut round" not in advice(made)


def test_what_is_cut_and_filled_again() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((20, 15), 5))
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "depth", "depth": "4"})
    made.sketch("s5", made.face("s4/end"), disc((20, 15), 5))
    made.step("extrude", "s6", sketch="s5", extent={"kind": "depth", "depth": "4"})
    found = advice(made)["refilled"]
    assert found.step == "s4" and "step 60 fills again (100 % of it)" in found.said


def test_a_step_that_changes_nothing_any_more() -> None:
    made = plate()
    made.sketch("s3", made.face("s2/end"), disc((5, 5), 2))
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "through_all"})
    made.sketch("s5", "top", rectangle(x=-1, y=-1, w=12, h=12, held=False))
    made.step("extrude", "s6", sketch="s5", operation="cut", extent={"kind": "through_all"})
    found = advice(made)["idle"]
    assert found.step == "s4"
    before = made.volume()
    assert follow(made, found) == pytest.approx(before, rel=1e-12)


def test_a_part_in_good_order_gets_no_advice() -> None:
    made = plate()
    made.step("shell", "s3", faces=[pick("s2/end")], thickness="2")
    made.step("fillet", "s4", groups=[{"edges": [{"by": "along", "axis": "z", "step": "s2"}], "radius": "1"}])
    assert advice(made) == {}


def test_where_a_step_could_stand_and_what_would_differ() -> None:
    made = shell_after_hole()
    found = places(made.document, made.build(), made.cache, "s4")
    assert [(p.before, p.now) for p in found] == [("s5", True), (None, False)]
    assert found[0].volume == 0 and found[1].volume < 0
    assert all(p.failing == [] for p in found)


@pytest.mark.parametrize("make", [shell_after_hole, two_blocks, wedge])
def test_advising_changes_nothing(make: Any) -> None:
    made = make()
    before, volume = made.document.model_dump_json(), made.volume()
    advice(made)
    assert made.document.model_dump_json() == before
    assert made.volume() == volume


def test_a_shell_that_fails_after_rounds_is_moved_before_them(monkeypatch: pytest.MonkeyPatch) -> None:
    """The kernel's hollowing is let fail on whatever carries the rounds, as it does on some."""
    real = refine.hollowed

    def failing(solid: Any, *more: Any, **named: Any) -> Any:
        if any("s4/round" in t for _, tags in solid.tags.items() for t in tags):
            raise KernelError("This wall does not fit.")
        return real(solid, *more, **named)

    monkeypatch.setattr(refine, "hollowed", failing)
    made = plate()
    made.step("fillet", "s4", groups=[{"radius": "1", "edges": [{"by": "along", "axis": "z"}]}])
    made.step("shell", "s5", faces=[pick("s2/end")], thickness="2")
    built = made.build()
    assert [r.id for r in built.failed] == ["s5"]
    [found] = [a for a in advise(made.document, built, made.cache) if a.kind == "failing shell"]
    assert found.step == "s5"
    assert "The shell of step 40 does not fit after the rounds of step 30; made before them it does." in found.said
    follow(made, found)
    assert not made.build().failed
    assert not [a for a in advise(made.document, made.build(), made.cache) if a.kind == "failing shell"]

"""Drafts: which way faces are pulled, whether the part comes off its mould, and what stops an angle."""

import json
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sulvak_core.exchange import part_file
from sulvak_core.solid.measure import surface
from sulvak_core.solid.shapes import faces
from sulvak_core.steps.kinds.draft import DraftStep
from tests.examples import examples

from .parts import Made, disc, plate
from .test_steps import H, T, W, cone, drafted, face, frustum

UPPER = {"kind": "face", "face": face("s2/end")}
WALLS = {"by": "sides", "step": "s2"}
BOSS = {"by": "sides", "step": "s4"}


def bossed(*groups: dict[str, Any], neutral: Any = UPPER, **fields: Any) -> Made:
    """The plate with a boss Ø10 that stands 15 above it, drafted."""
    made = plate()
    made.sketch("s3", "top", disc((20, 15), 5))
    made.step("extrude", "s4", sketch="s3", extent={"kind": "depth", "depth": str(T + 15)})
    made.step("draft", "s5", neutral=neutral, groups=list(groups) or [{"faces": [BOSS], "angle": "5"}], **fields)
    return made


def report(made: Made) -> Any:
    return made.build().reports[-1]


def test_bosses_on_the_neutral_face_narrow_upwards() -> None:
    found = report(bossed())
    assert found.said.startswith("1 face drafted. It comes off along the pull.")
    assert [w["way"] for w in found.extra["pull"]["ways"]] == [(0, 0, 1)]
    assert bossed().build().state.volume() == pytest.approx(W * H * T + cone(5, 5, 15), rel=1e-9)


def test_each_face_is_pulled_to_the_side_it_stands_on() -> None:
    made = bossed({"faces": [BOSS, WALLS], "angle": "3"})
    found = report(made)
    assert "It comes off both ways from the neutral plane." in found.said
    assert [w["way"][2] for w in found.extra["pull"]["ways"]] == [1, -1]
    assert made.build().state.volume() == pytest.approx(frustum(3) + cone(5, 3, 15), rel=1e-9)


def test_a_boss_that_widens_along_its_pull_is_told_and_marked() -> None:
    for fields in ({"pull": "against"}, {"outward": True}):
        found = report(bossed(**fields))
        assert "1 face looks back against the pull and would lock in the mould." in found.said
        (rows,) = found.extra["locked"]
        assert found.extra["caution"]
        heights = [p[2] for row in rows for p in row]
        assert (min(heights), max(heights)) == (T, T + 15)


def test_a_body_that_only_widens_comes_off_the_other_way() -> None:
    assert "It comes off against the pull only" in report(drafted(outward=True)).said


def test_a_bore_across_the_pull_holds_the_part() -> None:
    made = plate()
    made.sketch("s3", "front", disc((20, 5), 2))
    made.step("extrude", "s4", sketch="s3", operation="cut", extent={"kind": "symmetric", "depth": "100"})
    made.step("draft", "s5", neutral={"kind": "datum", "plane": "top"}, groups=[{"faces": [WALLS], "angle": "2"}])
    assert "1 face looks back" in report(made).said


def test_a_neutral_plane_for_each_group() -> None:
    foot = {"kind": "datum", "plane": "top"}
    made = bossed({"faces": [WALLS], "angle": "4", "neutral": foot}, {"faces": [BOSS], "angle": "5"})
    assert made.build().state.volume() == pytest.approx(frustum(4) + cone(5, 5, 15), rel=1e-9)
    assert "It comes off along the pull." in report(made).said
    parted = bossed({"faces": [WALLS], "angle": "4", "neutral": foot}, split=True)
    assert "leave out the group's own" in report(parted).said


@pytest.mark.parametrize("angle", ["60", "80", "89"])
def test_what_is_used_up_is_named_with_the_largest_angle(angle: str) -> None:
    found = report(drafted(groups=[{"faces": [WALLS], "angle": angle}]))
    fits = math.degrees(math.atan(H / 2 / T))
    assert found.said.startswith(f"At {angle}° the end face of step 20 is used up; the largest angle that works")
    assert found.offers["largest"] == pytest.approx(fits, rel=5e-3) and found.offers["largest"] <= fits
    again = drafted(groups=[{"faces": [WALLS], "angle": str(found.offers["largest"])}])
    assert report(again).state == "ok"


def test_bosses_that_would_run_into_each_other_are_refused() -> None:
    """The kernel calls the solid of two cones that cross valid; nothing could be cut out of it."""
    made = plate()
    for n, (at, r) in enumerate([((12, 15), 5), ((29, 15), 4)]):
        made.sketch(f"s{3 + 2 * n}", "top", disc(at, r))
        made.step("extrude", f"s{4 + 2 * n}", sketch=f"s{3 + 2 * n}", extent={"kind": "depth", "depth": "24"})
    walls = [BOSS, {"by": "sides", "step": "s6"}]
    made.step("draft", "s7", neutral=UPPER, outward=True, groups=[{"faces": walls, "angle": "20"}])
    found = report(made)
    meet = math.degrees(math.atan(4 / 14))  # 8 between them, 14 high
    assert found.said.startswith("At 20° the drafted faces run into each other; the largest angle that works")
    assert found.offers["largest"] == pytest.approx(meet, rel=1e-2) and found.offers["largest"] <= meet


def test_the_largest_angle_is_no_length() -> None:
    made = drafted(groups=[{"faces": [WALLS], "angle": "60"}])
    made.do("set_part", changes={"unit": "in"})
    assert report(made).offers["largest"] == pytest.approx(56.3, abs=0.2)


@settings(max_examples=examples(20), deadline=None)
@given(st.floats(0.5, 12), st.booleans(), st.sampled_from(["away", "along", "against"]))
def test_an_angle_is_taken_hold_of_where_the_face_leans(angle: float, outward: bool, pull: str) -> None:
    made = bossed({"faces": [BOSS], "angle": f"{angle:.3f}"}, pull=pull, outward=outward)
    solid = made.build().state.bodies[0].solid
    (turn,) = report(made).extra["turns"]
    frame = {k: np.array(v) for k, v in turn["frame"].items()}
    assert turn["path"] == "groups.0.angle" and turn["angle"] == pytest.approx(angle, abs=1e-3)
    assert np.dot(np.cross(frame["x"], frame["y"]), frame["normal"]) == pytest.approx(1)
    tip = frame["origin"] + turn["reach"] * (frame["x"] + math.tan(math.radians(turn["angle"])) * frame["y"])
    boss = next(f for f in faces(solid.shape) if "s4/side/c1" in solid.face_tags(f))
    lies = surface(boss)
    assert lies.kind == "cone"
    out = np.hypot(tip[0] - lies.at[0], tip[1] - lies.at[1])
    lean = math.tan(math.radians(turn["angle"])) * (1 if outward else -1) * (1 if turn["frame"]["x"][2] > 0 else -1)
    assert out == pytest.approx(5 + 15 * lean, abs=2e-3)


@pytest.mark.parametrize(
    ("neutral", "reverse", "pull"),
    [
        (UPPER, False, "against"),
        (UPPER, True, "along"),
        ({"kind": "datum", "plane": "top"}, False, "along"),
        ({"kind": "datum", "plane": "top"}, True, "against"),
        ({"kind": "plane", "step": "s1"}, True, "against"),
    ],
)
def test_parts_of_before_keep_their_pull(neutral: Any, reverse: bool, pull: str) -> None:
    step = DraftStep.model_validate(
        {"id": "s3", "neutral": neutral, "groups": [{"faces": [WALLS], "angle": "2"}], "reverse": reverse}
    )
    assert step.pull == pull


def test_a_part_file_of_before_that_says_nothing_keeps_its_pull() -> None:
    """What was false was not written, so that a file without a pull speaks of the way of before."""
    made = drafted(neutral=UPPER)
    for said, pull in ((None, "against"), (True, "along"), ("along", "along"), ("away", "away")):
        data = json.loads(part_file.write(made.document))
        step = data["steps"][-1]
        del step["pull"]
        if isinstance(said, str):
            step["pull"] = said
        elif said:
            step["reverse"] = said
        assert part_file.read(json.dumps(data)).steps[-1].pull == pull  # type: ignore[union-attr]
    assert part_file.read(part_file.write(made.document)) == made.document

"""Release from the mould: bands by angle, undercuts by looking, slides, a given parting."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from sulvak_core.making.finding import Checked
from sulvak_core.making.mould import check_mould
from sulvak_core.part.shop import MouldLimits

from .parts import Made, disc, plate
from .test_walls import bodies


def checked(made: Made, **limits: Any) -> Checked:
    return check_mould(bodies(made), MouldLimits(**limits))


def areas(found: Checked) -> dict[str, float]:
    return {b.name: b.area for b in found.bands if b.area > 1e-6}


def drafted(angle: str = "2") -> Made:
    made = plate()
    neutral = {"kind": "face", "face": made.face("s2/start")}
    groups = [{"faces": [{"by": "sides", "step": "s2"}], "angle": angle}]
    made.step("draft", "s3", groups=groups, neutral=neutral)
    return made


def test_a_block_has_no_draft_and_nothing_locked() -> None:
    found = checked(plate())
    assert areas(found) == {"none": pytest.approx(2 * (40 + 30) * 10), "square": pytest.approx(2 * 1200)}
    assert [f.kind for f in found.findings] == ["too little draft"] * 4
    assert found.findings[0].value == pytest.approx(0)
    assert not found.passed


@pytest.mark.parametrize(
    ("angle", "band", "passed"), [("2", "enough", True), ("1", "some", True), ("0.3", "little", False)]
)
def test_walls_are_in_bands_by_their_angle(angle: str, band: str, passed: bool) -> None:
    found = checked(drafted(angle))
    wall = 10 / math.cos(math.radians(float(angle)))
    around = 2 * (40 + 30) - 8 * 5 * math.tan(math.radians(float(angle)))  # half way up
    assert areas(found)[band] == pytest.approx(wall * around, rel=1e-3)
    assert found.passed is passed


@pytest.mark.parametrize(("outward", "locked"), [(False, False), (True, True)])
def test_a_given_parting_says_which_half_has_to_release(outward: bool, locked: bool) -> None:
    """Walls that widen upwards leave downwards; with the parting at their foot they have to go up."""
    made = plate()
    neutral = {"kind": "face", "face": made.face("s2/start")}
    groups = [{"faces": [{"by": "sides", "step": "s2"}], "angle": "2"}]
    made.step("draft", "s3", groups=groups, neutral=neutral, outward=outward)
    assert "locked" not in areas(checked(made))
    assert ("locked" in areas(checked(made, parting=0.0))) is locked


def bored_across() -> Made:
    """A block with a blind hole ⌀6, 12 deep, in its front."""
    made = plate(40, 30, "20")
    made.sketch("s3", "front", disc((20, 10), 3))
    made.extrude("s4", "s3", "12", "cut", reverse=True)
    return made


def test_a_hole_across_the_pull_is_an_undercut_with_a_slide() -> None:
    found = checked(bored_across(), least=0)
    [cut] = [f for f in found.findings if f.kind == "undercut"]
    # the wall is seen from nowhere; the flat end of the hole stands along the pull behind the opening, locked too
    assert cut.value == pytest.approx(math.pi * 6 * 12 + math.pi * 9, rel=0.03)
    assert "from the front" in cut.said
    assert cut.step == "s4"


def test_an_undercut_is_found_by_looking_not_by_angle() -> None:
    """A flange at the foot and one at the top of a post: what lies between looks outwards, square to the pull, and is
    covered from both sides; faces that look along the pull lie under the other flange."""
    made = Made()
    made.sketch("s1", "top", disc((0, 0), 20))
    made.extrude("s2", "s1", "5")
    made.sketch("s3", made.face("s2/end"), disc((0, 0), 8))
    made.extrude("s4", "s3", "10")
    made.sketch("s5", made.face("s4/end"), disc((0, 0), 20))
    made.extrude("s6", "s5", "5")
    found = checked(made, least=0)
    ring = math.pi * (400 - 64)
    assert areas(found)["locked"] == pytest.approx(2 * ring + math.pi * 16 * 10, rel=0.02)
    assert "No slide releases all of it" in next(f.said for f in found.findings if f.kind == "undercut")
    # from the side, nothing is locked: two halves meet in the middle
    assert "locked" not in areas(checked(made, least=0, pull="+x"))


def test_the_two_halves_are_told_apart() -> None:
    found = checked(drafted("2"))
    assert found.figures["locked"] == 0
    assert found.figures["fixed half"] == pytest.approx(1200, rel=1e-6)  # the foot
    total = sum(b.area for b in found.bands)
    assert found.figures["moving half"] == pytest.approx(total - 1200, rel=1e-6)


def test_another_pull_turns_everything() -> None:
    found = areas(checked(plate(), pull="-x"))
    assert found["square"] == pytest.approx(2 * 300)


def test_the_pod_leaves_its_mould_and_paint_covers_the_part() -> None:
    from sulvak_core.rebuild.engine import build

    from .test_sheet_lines import whole

    built = build(whole("electronics-pod"))
    found = check_mould(built.state.bodies, MouldLimits())
    assert not [f for f in found.findings if f.kind == "undercut"]
    assert found.paint is not None
    c = found.paint.corners.astype(float)
    area = np.linalg.norm(np.cross(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]), axis=1).sum() / 2
    assert area == pytest.approx(sum(b.area for b in found.bands), rel=1e-4)

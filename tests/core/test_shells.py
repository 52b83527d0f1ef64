"""Shells open anywhere: volumes by closed form, walls that can be cut afterwards, rounds beside what is opened."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.examples import examples

from .parts import Made, disc, plate

FACES = ["s2/start", "s2/end", "s2/side/l1", "s2/side/l2", "s2/side/l3", "s2/side/l4"]
W, H, D = 100.0, 70.0, 60.0


def pick(origin: str) -> dict[str, Any]:
    return {"by": "pick", "face": {"origins": [origin]}}


def shelled(made: Made, opened: Any, thickness: str = "4", ident: str = "s9", **more: Any) -> Made:
    made.step("shell", ident, thickness=thickness, faces=[pick(o) for o in opened], **more)
    return made


def hollow(opened: Any, t: float = 4) -> float:
    """The hollow of a box W × H × D: short by the wall at every side that is not opened."""
    left, right = 0 if "s2/side/l4" in opened else t, 0 if "s2/side/l2" in opened else t
    front, back = 0 if "s2/side/l1" in opened else t, 0 if "s2/side/l3" in opened else t
    low, high = 0 if "s2/start" in opened else t, 0 if "s2/end" in opened else t
    return (W - left - right) * (H - front - back) * (D - low - high)


def through(made: Made, plane: str, at: tuple[float, float], r: float) -> float:
    """The volume after a hole square to a datum plane, through all."""
    made.sketch("s20", plane, disc(at, r))
    made.extrude("s21", "s20", None, "cut")
    return made.volume()


@pytest.mark.parametrize("opened", [c for k in (0, 1, 2, 3) for c in itertools.combinations(FACES, k)])
def test_a_box_open_anywhere_can_be_cut(opened: tuple[str, ...]) -> None:
    made = shelled(plate(W, H, "60"), opened)
    whole = W * H * D - hollow(opened)
    assert made.volume() == pytest.approx(whole, rel=1e-9)
    walls = [o for o in ("s2/side/l2", "s2/side/l4") if o not in opened]
    if walls:  # Ø24 across from the right plane
        assert through(made, "right", (35, 30), 12) == pytest.approx(whole - len(walls) * 4 * 144 * math.pi, rel=1e-9)


@settings(max_examples=examples(12))
@given(
    st.lists(st.sampled_from(FACES), max_size=3, unique=True),
    st.sampled_from(["inside", "outside", "both"]),
    st.floats(0.5, 12),
    st.sampled_from([0.0, 5.0]),
)
def test_any_shell_of_a_box(opened: list[str], side: str, t: float, r: float) -> None:
    """Walls to either side; with upright edges rounded the corners of the hollow are as much rounder or sharper."""
    made = plate(W, H, "60")
    upright = [o for o in opened if "side" in o]
    if r and not upright:
        made.step("fillet", "s3", groups=[{"radius": repr(r), "edges": [{"by": "along", "axis": "z"}]}])
    shelled(made, opened, repr(t), side=side)
    inner, outer = {"inside": (t, 0.0), "outside": (0.0, t), "both": (t / 2, t / 2)}[side]

    def body(by: float) -> float:
        """The box moved in by ``by`` all round but where it is open, and its rounds with it."""
        sharp = hollow(opened, by)
        rounded = max(r - by, 0.0) if r and not upright else 0.0
        tall = D - sum(by for o in ("s2/start", "s2/end") if o not in opened)
        return sharp - (4 - math.pi) * rounded**2 * tall

    assert made.volume() == pytest.approx(body(-outer) - body(inner), rel=1e-7)


@pytest.mark.parametrize("t", [2, 4, 7])
def test_an_opening_that_runs_smoothly_into_rounds(t: float) -> None:
    """All edges of the top rounded by 6, and the top opened: the hollow comes up through it square."""
    made = plate(W, H, "60")
    made.step("fillet", "s3", groups=[{"radius": "6", "edges": [{"by": "around", "face": pick("s2/end")["face"]}]}])
    closed = shelled(made, [], str(t), "s8").volume()
    made.do("delete_step", step="s8")
    ceiling = (W - 12) * (H - 12) if t < 6 else (W - 2 * t) * (H - 2 * t)
    assert shelled(made, ["s2/end"], str(t)).volume() == pytest.approx(closed - ceiling * t, rel=1e-7)
    whole = made.volume()
    assert through(made, "right", (35, 30), 12) == pytest.approx(whole - 2 * t * 144 * math.pi, rel=1e-7)


@pytest.mark.parametrize("lean", [1, 4, 9])
def test_a_drafted_box_keeps_the_walls_thickness(lean: float) -> None:
    """A frustum hollowed square to its leaning walls, open at its foot: two pyramids' difference."""
    made = plate(W, H, "60")
    plane = {"kind": "face", "face": {"origins": ["s2/start"]}}
    made.step("draft", "s3", neutral=plane, groups=[{"faces": [{"by": "sides", "step": "s2"}], "angle": f"{lean}°"}])
    slope = math.tan(math.radians(lean))

    def frustum(w: float, h: float, d: float) -> float:
        a, b = w - 2 * d * slope, h - 2 * d * slope
        return d / 6 * (w * h + (w + a) * (h + b) + a * b)

    assert made.volume() == pytest.approx(frustum(W, H, D), rel=1e-9)
    shelled(made, ["s2/start"], "3")
    side = 3 / math.cos(math.radians(lean))
    assert made.volume() == pytest.approx(frustum(W, H, D) - frustum(W - 2 * side, H - 2 * side, D - 3), rel=1e-9)


def test_a_wall_too_thick_is_told_with_the_thickest_that_does() -> None:
    made = shelled(plate(40, 30, "60"), ["s2/end"], "20")
    (failed,) = made.build().failed
    assert "the thickest that does" in failed.said
    assert 14 < failed.offers["largest"] < 15
    made.do("set_step", step="s9", changes={"thickness": str(failed.offers["largest"])})
    assert not made.build().failed


def test_a_pocket_and_a_boss_get_walls_of_their_own() -> None:
    made = plate(W, H, "40")
    made.sketch("s3", made.face("s2/end"), disc((30, 35), 10))
    made.extrude("s4", "s3", "20", "cut")
    made.sketch("s5", made.face("s2/end"), disc((70, 35), 10))
    made.extrude("s6", "s5", "15", "add")
    whole = made.volume()
    shelled(made, ["s2/start"], "3")
    inside = (W - 6) * (H - 6) * 37 - math.pi * 13**2 * 20 + math.pi * 49 * 15
    assert made.volume() == pytest.approx(whole - inside, rel=1e-7)

"""Rows on the checks of the shop."""

from __future__ import annotations

from sulvak_core.making import patches
from sulvak_core.making import walls as walls_
from sulvak_core.making.cutters import check_cutters
from sulvak_core.making.mould import check_mould
from sulvak_core.making.walls import check_walls
from sulvak_core.part.shop import CutterLimits, MouldLimits, WallLimits
from sulvak_core.rebuild.engine import build

from .solid import plate
from .timing import median


def forget() -> None:
    """What is remembered of the bodies that were looked at last."""
    patches._known.slots.clear()
    walls_._known.slots.clear()


def walls() -> str:
    """the map of wall thickness of a part of 60 steps | 3 s | 1 s"""
    bodies = build(plate(30)).state.bodies

    def once() -> None:
        forget()
        check_walls(bodies, WallLimits())

    return f"{median(once, 3):.2f} s"


def mould_and_cutters() -> str:
    """release from the mould and cutter access from six sides, part of 60 steps | 2 s | 1 s"""
    bodies = build(plate(30)).state.bodies

    def both() -> None:
        forget()
        check_mould(bodies, MouldLimits())
        check_cutters(bodies, CutterLimits())

    return f"{median(both, 3):.2f} s"


ROWS = [walls, mould_and_cutters]

if __name__ == "__main__":
    for row in ROWS:
        print(row.__doc__, row())

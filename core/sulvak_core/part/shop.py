"""What the shop holds a part to: the limits of the checks on whether it can be made. They are the part's own data."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Way = Literal["+x", "-x", "+y", "-y", "+z", "-z"]
CheckName = Literal["solid", "mould", "walls", "cutters"]
WAYS: tuple[Way, ...] = ("+x", "-x", "+y", "-y", "+z", "-z")

_Length = Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)]
_Times = Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]
_Angle = Annotated[float, Field(ge=0, le=45, allow_inf_nan=False)]


class _Limits(BaseModel):
    model_config = ConfigDict(extra="forbid")


class MouldLimits(_Limits):
    """How a part leaves its mould: the half that moves goes along ``pull``; ``parting``: where the plane of the parting
    lies along it (mm), None where it follows from the part. Walls lean at least ``least`` degrees to the pull,
    ``enough`` where they are easily released."""

    pull: Way = "+z"
    parting: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)] | None = None
    least: _Angle = 0.5
    enough: _Angle = 1.5


class WallLimits(_Limits):
    """The thinnest and thickest a wall may be (mm; 0: any), and how many times as thick as its neighbour."""

    least: _Length = 1.0
    most: _Length = 0.0
    jump: _Times = 2.5


class CutterLimits(_Limits):
    """From which ``ways`` cutters come in (six: all), with a ``diameter`` and ``corner`` radius (mm) of the smallest;
    how many times its width a pocket may be deep, its diameter a hole and a thread; how much wall a hole leaves to the
    nearest edge, in diameters; whether drills are of the ``drills`` table. A cutter that ``stands_out`` (mm; 0: as far
    as is needed) from a ``holder`` of that diameter goes down until the holder meets the part."""

    ways: Annotated[list[Way], Field(max_length=6)] = list(WAYS)
    diameter: Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)] = 4.0
    corner: _Length = 0.0
    stands_out: _Length = 0.0
    holder: _Length = 0.0
    pocket_depth: _Times = 4.0
    hole_depth: _Times = 10.0
    thread_depth: _Times = 2.5
    edge: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 0.5
    drills: Literal["metric", "inch", "any"] = "metric"


class SolidLimits(_Limits):
    """The shortest edge and narrowest face (mm), and the sharpest edge between two faces (degrees)."""

    edge: _Length = 0.05
    face: _Length = 0.05
    sharp: Annotated[float, Field(ge=0, le=90, allow_inf_nan=False)] = 5.0


class ShopLimits(_Limits):
    """All limits; ``asked``: the checks that the part has to pass before it is released."""

    mould: MouldLimits = MouldLimits()
    walls: WallLimits = WallLimits()
    cutters: CutterLimits = CutterLimits()
    solid: SolidLimits = SolidLimits()
    asked: Annotated[list[CheckName], Field(max_length=4)] = ["solid"]


def beginning(unit: str) -> ShopLimits:
    """The limits that a new part in a unit begins with: one in inches is drilled with inch drills."""
    return ShopLimits(cutters=CutterLimits(drills="inch" if unit == "in" else "metric"))

"""What a drill takes out: turned solids of cylinders and cones, named by what each surface is."""

from __future__ import annotations

from dataclasses import dataclass

from .frame import XYZ, Frame, cross, unit
from .revolve import named
from .shapes import ShapeMap, Solid, Tags, faces


@dataclass(frozen=True)
class Corner:
    """A corner of the half outline: ``radius`` and ``deep`` in mm; ``role`` names the surface that runs on to it."""

    radius: float
    deep: float
    role: str


@dataclass
class _Straight:
    origin: str
    start: tuple[float, float]
    end: tuple[float, float]
    centre: tuple[float, float] = (0.0, 0.0)
    radius: float = 0.0
    sweep: float = 0.0
    axes: None = None
    spans: tuple[()] = ()


@dataclass
class _Outline:
    outer: list[_Straight]
    holes: list[list[_Straight]]


def drilled(at: XYZ, direction: XYZ, corners: list[Corner], step: str, point: str) -> Solid:
    """The solid whose half outline runs from ``at`` out along the corners and back on the axis.

    Its faces are tagged ``step/<role>/<point>``.
    """
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt

    from .prism import FaceMaker

    d = unit(direction)
    side = unit(cross(d, (1.0, 0.0, 0.0) if abs(d[0]) < 0.9 else (0.0, 1.0, 0.0)))
    frame = Frame(at, side, d)
    places = [(0.0, corners[0].deep), *((c.radius, c.deep) for c in corners)]
    roles = [c.role for c in corners]
    if places[-1][0] > 0:
        places.append((0.0, places[-1][1]))
        roles.append("bottom")
    lines = [_Straight(role, a, b) for role, a, b in zip(roles, places, places[1:], strict=False) if a != b]
    lines.append(_Straight("axis", places[-1], places[0]))
    maker = FaceMaker(frame)
    face = maker.face(_Outline(lines, []))
    sweep = BRepPrimAPI_MakeRevol(face, gp_Ax1(gp_Pnt(*at), gp_Dir(*d)))
    made = named(sweep, [(e, role) for e, role in maker.made if role != "axis"], True, step)
    tags: ShapeMap[Tags] = ShapeMap()
    for f in faces(made.shape):
        role = next((t.split("/")[2] for t in made.face_tags(f)), "drill")
        tags.put(f, frozenset({f"{step}/{role}/{point}"}))
    return Solid(made.shape, tags, made._volume)

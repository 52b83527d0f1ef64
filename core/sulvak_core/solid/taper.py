"""Prisms that narrow away from their sketch."""

from __future__ import annotations

from .draft import Incline, draft
from .frame import Frame, dot, scaled
from .measure import surface
from .shapes import KernelError, Solid, faces


def tapered(solid: Solid, frame: Frame, forward: bool, degrees: float, step: str) -> Solid:
    """A prism that begins at its sketch, its walls inclined by ``degrees`` (positive narrows it)."""
    pull = frame.normal if forward else scaled(frame.normal, -1.0)
    walls = []
    for face in faces(solid.shape):
        s = surface(face)
        flat = s.kind == "plane" and abs(dot(s.direction, frame.normal)) < 1e-9
        if any(t.startswith(f"{step}/side/") for t in solid.face_tags(face)):
            if not flat and s.kind != "cylinder":
                raise KernelError("A taper takes straight lines, arcs and circles; this profile has other curves.")
            walls.append(face)
    try:
        return draft(solid, [Incline(w, degrees, pull, frame.origin, frame.normal) for w in walls])
    except KernelError as error:
        raise KernelError("This taper does not fit: the walls would meet before the end.", error.cause) from None

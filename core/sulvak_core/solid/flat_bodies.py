"""Bodies that are flat: one profile of even thickness, as it is cut from a plate."""

from __future__ import annotations

from .bulk import bulk
from .frame import dot
from .measure import face_area, surface
from .shapes import Shape, ShapeMap, Solid, faces

SAME = 1e-6  # share of its volume
THIN = 0.5  # of the root of its area that it is thick at most


def flat_face(shape: Shape) -> int | None:
    """The number of the largest flat face of a body that is a profile of even thickness, None for any other: its volume
    is that face's area times its thickness."""
    every = faces(shape)
    flat = [(face_area(f), i) for i, f in enumerate(every) if surface(f).kind == "plane"]
    if not flat:
        return None
    area, index = max(flat)
    s = surface(every[index])
    volume = bulk(Solid(shape, ShapeMap())).volume
    across = [abs(dot(o.at, s.direction) - dot(s.at, s.direction)) for _, i in flat for o in [surface(every[i])]
              if abs(abs(dot(o.direction, s.direction)) - 1) < 1e-9]  # fmt: skip
    thick = max(across, default=0.0)
    if thick <= 0 or thick > THIN * area**0.5:
        return None
    return index if abs(area * thick - volume) < SAME * volume else None

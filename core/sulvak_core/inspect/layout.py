"""How round places lie to each other: on a circle, equally spaced, in a row of so many spaces."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..part.units import number
from ..sheet.requirement import Requirement
from ..solid.frame import XYZ, cross, dot, unit

EXACT = 1e-6  # mm or degrees
Floats1 = np.ndarray[tuple[int], np.dtype[np.float64]]
Floats2 = np.ndarray[tuple[int, int], np.dtype[np.float64]]


def misplaced(axes: Sequence[XYZ], n: XYZ, r: Requirement) -> list[str]:
    """What a callout says of where its holes lie and they do not: the circle they are on, that they are equally spaced.
    ``axes``: a place on the axis of each; ``n``: the direction of all."""
    if len(axes) < 2 or not (r.circle or r.equally_spaced):
        return []
    at = _flat(axes, n)
    row = _in_row(at)
    if r.circle is None:
        gaps = np.diff(row) if row is not None else _turns(at, _centre(at)[0])
        return [] if np.ptp(gaps) < EXACT * 10 else ["not equally spaced"]
    centre, radius, off = _centre(at)
    if off > EXACT:
        return [f"not on one circle: {number(off)} off it"]
    wrong = []
    if abs(2 * radius - r.circle) > 2 * EXACT:
        wrong.append(f"on a circle of Ø{number(2 * radius)}, {number(r.circle)} asked")
    if r.equally_spaced and np.ptp(_turns(at, centre)) > EXACT * 10:
        wrong.append("not equally spaced")
    return wrong


def row_wrong(places: Sequence[float], r: Requirement, unit_word: str = "") -> list[str]:
    """What is not as a row of spaces is asked: how many, and how long together. ``places`` (mm or degrees) along it."""
    if r.total is None:
        return []
    at = sorted(places)
    apart = [at[0]] if at else []
    for v in at:
        if v - apart[-1] > EXACT:
            apart.append(v)
    spaces, total = len(apart) - 1, (apart[-1] - apart[0] if apart else 0.0)
    wrong = [f"{spaces} spaces found, {r.count} asked"] if spaces != r.count else []
    if abs(total - r.total) > EXACT * 10:
        wrong.append(f"{number(total)}{unit_word} together, {number(r.total)} asked")
    return wrong


def _flat(axes: Sequence[XYZ], n: XYZ) -> Floats2:
    """Places across the direction ``n``, n × 2, in mm."""
    other = (1.0, 0.0, 0.0) if abs(n[0]) < 0.9 else (0.0, 1.0, 0.0)
    u = unit(cross(n, other))
    v = cross(n, u)
    return np.array([(dot(a, u), dot(a, v)) for a in axes])


def _in_row(at: Floats2) -> Floats1 | None:
    """Places along the line all lie on, rising; None where they lie on none."""
    away = at - at[0]
    far = away[np.argmax((away**2).sum(axis=1))]
    size = float(np.hypot(*far))
    if size < EXACT:
        return None
    along = far / size
    off = away[:, 0] * along[1] - away[:, 1] * along[0]
    return np.sort(away @ along) if np.abs(off).max() < EXACT else None


def _centre(at: Floats2) -> tuple[Floats1, float, float]:
    """The circle through places: its centre, radius, and how far (mm) the place lies off it that is farthest. Of two
    places it is the one between them. Least squares after Kåsa, IEEE Trans. Instrum. Meas. 25 (1976)."""
    if len(at) == 2:
        centre = at.mean(axis=0)
    else:
        middle = at.mean(axis=0)
        x, y = (at - middle).T
        m = np.stack([2 * x, 2 * y, np.ones(len(x))], axis=1)
        found, _, rank, _ = np.linalg.lstsq(m, x * x + y * y, rcond=None)
        centre = middle + found[:2] if rank == 3 else middle
    away = np.hypot(*(at - centre).T)
    radius = float(away.mean())
    return centre, radius, float(np.abs(away - radius).max())


def _turns(at: Floats2, centre: Floats1) -> Floats1:
    """Degrees from each place round the centre to the next."""
    turns = np.sort(np.degrees(np.arctan2(*(at - centre).T[::-1])))
    return np.append(np.diff(turns), 360.0 - (turns[-1] - turns[0]))

"""Whether a part leaves its mould: faces by their angle to the pull, undercuts found by looking along it, and slides.

A place of the surface is released by a half of the mould when nothing of the part lies before it on that half's way.
Where the plane of the parting is given, what lies above it has to leave along the pull and what lies below against it;
otherwise either will do.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..part.shop import WAYS, MouldLimits, Way
from ..part.units import number, told
from ..rebuild.state import Body
from .finding import MOST, Band, Checked, Finding, Paint, place, together
from .patches import OFF, Patches, clusters, last_step, of_body
from .ways import WORDS, opposite, vector

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]

SQUARE = math.radians(0.02)  # a wall that leans less stands square to the parting
LEAN = math.sin(math.radians(1e-3))  # a place that looks so little away does not
SMALL = 2e-4  # of the part's surface: a smaller undercut is a seam of triangles
BANDS = ("locked", "none", "little", "some", "enough", "square")


def check_mould(bodies: Sequence[Body], limits: MouldLimits) -> Checked:
    """Faces by their angle to the pull; findings for what is locked and for walls that lean too little. Every body is
    moulded by itself."""
    least, enough = number(limits.least), number(limits.enough)
    words: dict[str, tuple[str, Literal["good", "fair", "poor", "bad", "plain"]]] = {
        "locked": ("locked: no half releases it", "bad"),
        "none": ("no draft at all", "poor"),
        "little": (f"leans less than {least}°", "poor"),
        "some": (f"leans {least}° to {enough}°", "fair"),
        "enough": (f"leans {enough}° or more", "good"),
        "square": ("square to the pull", "plain"),
    }
    bands = [Band(n, words[n][0], 0.0, words[n][1]) for n in BANDS]
    halves = {"moving half": 0.0, "fixed half": 0.0, "locked": 0.0}
    found: list[Finding] = []
    paints = []
    for body in bodies:
        p = of_body(body)
        rise = p.outward @ vector(limits.pull)
        up, down = released(p, limits)
        locked = _grown_out(p, ~up & ~down)
        lean = np.degrees(np.arcsin(np.clip(np.abs(rise), 0.0, 1.0)))
        flat = math.degrees(SQUARE)
        least_, enough_, level = limits.least - 1e-6, limits.enough - 1e-6, 90 - 1e-3
        band = np.select([locked, lean < flat, lean < least_, lean < enough_, lean < level], [0, 1, 2, 3, 4], 5)
        a = p.areas
        for i, b in enumerate(bands):
            b.area += float(a[band == i].sum())
        found += [*_undercuts(p, locked, limits.pull), *_walls(p, band, lean, limits)]
        moving = ~locked & up & (~down | (rise >= 0))
        halves["moving half"] += float(a[moving].sum())
        halves["fixed half"] += float(a[~locked & ~moving].sum())
        halves["locked"] += float(a[locked].sum())
        paints.append(Paint(p.corners.astype(np.float32), np.repeat(band[:, None], 3, axis=1).astype(np.float32)))
    return Checked("mould", found[:MOST], bands, together(paints), dict(halves))


def released(p: Patches, limits: MouldLimits) -> tuple[Flags, Flags]:
    """Which triangles the half that moves along the pull releases, and which the other."""
    way = vector(limits.pull)
    rise = p.outward @ way
    start = p.middles + p.outward * (OFF * p.size)
    up = (rise > -LEAN) & _free(p, start, way)
    down = (rise < LEAN) & _free(p, start, -way)
    if limits.parting is not None:
        height = p.middles @ way - limits.parting
        up &= height > -1e-6
        down &= height < 1e-6
    return up, down


def _free(p: Patches, start: Array, way: Array) -> Flags:
    return p.rays.free(start, way)


def _grown_out(p: Patches, locked: Flags) -> Flags:
    """Without specks: where too little of a face is locked, it is its seam with the next that was met."""
    kept = np.zeros_like(locked)
    whole = float(p.areas.sum())
    for group in clusters(p, locked):
        if p.areas[group].sum() > SMALL * whole:
            kept[group] = True
    return kept


def _undercuts(p: Patches, locked: Flags, pull: Way) -> list[Finding]:
    """A finding for each undercut, with the slide that would release it."""
    made = []
    for group in clusters(p, locked):
        chosen = np.zeros(len(locked), dtype=bool)
        chosen[group] = True
        slide = slide_for(p, group, pull)
        out = (
            f"A slide that comes {WORDS[slide]} would release it."
            if slide
            else "No slide releases all of it: part it, or change its shape."
        )
        area = float(p.areas[group].sum())
        said = f"An undercut of {told(area, 2)}: neither half of the mould releases it. {out}"
        at = place(p.middles[group].mean(axis=0))
        made.append(Finding("undercut", said, area, 0.0, "mm²", p.named(chosen), at, last_step(p, chosen)))
    return made


def slide_for(p: Patches, group: NDArray[np.int64], pull: Way) -> Way | None:
    """From which side a slide square to the pull could come to release all of some triangles."""
    best: tuple[float, Way] | None = None
    for way in WAYS:
        if way in (pull, opposite(pull)):
            continue
        v = vector(way)
        rise = p.outward[group] @ v
        start = p.middles[group] + p.outward[group] * (OFF * p.size)
        good = (rise > -LEAN) & p.rays.free(start, v)
        share = float(p.areas[group][good].sum() / p.areas[group].sum())
        if share > 0.99 and (best is None or share > best[0] + 1e-6):
            best = (share, way)
    return best[1] if best else None


def _walls(p: Patches, band: NDArray[np.int64], lean: Array, limits: MouldLimits) -> list[Finding]:
    """A finding for each face that leans too little, the largest first."""
    if not limits.least:
        return []
    made = []
    poor = (band == 1) | (band == 2)
    areas = np.bincount(p.face[poor], weights=p.areas[poor], minlength=len(p.faces))
    for i in np.argsort(-areas):
        if areas[i] <= 1e-9:
            break
        here = poor & (p.face == i)
        leans = float(lean[here].min())
        worst = int(np.flatnonzero(here)[np.argmin(lean[here])])
        said = (
            f"A wall of {told(float(areas[i]), 2)} has no draft; {number(limits.least)}° are asked."
            if leans < math.degrees(SQUARE)
            else f"A wall leans {number(leans, 2)}°; {number(limits.least)}° are asked."
        )
        at = place(p.middles[worst])
        made.append(Finding("too little draft", said, leans, limits.least, "°", [p.faces[i]], at, last_step(p, here)))
    return made

"""Mass, volume, surface, centre of mass and inertia of bodies and the whole part."""

from __future__ import annotations

from itertools import combinations
from typing import Any

import numpy as np

from ..part.materials import density_of
from ..part.units import in_unit, told
from ..rebuild.state import Body, State
from ..solid.bulk import Bulk, bulk
from ..solid.measure import box, face_area
from ..solid.overlap import shared_volume
from ..solid.shapes import KernelError
from ..steps.registry import Document

MANY = 12  # bodies up to which every pair is looked at
TOLD = 3
DOUBT = 1e-6  # share of a volume: an error above that is told
NOTHING = ((0.0, 0.0, 0.0),) * 3


def density(document: Document, own: str) -> float | None:
    """A body's density in g/mm³: its own material's, else the part's; None if neither is set."""
    found = density_of(own or document.material, document.materials)
    return found / 1000 if found is not None else None


def grams(document: Document, state: State) -> float | None:
    """The part's mass in g from volumes alone, which is quick; None while a body has no material."""
    total = 0.0
    for body in state.bodies:
        rho = density(document, body.material)
        if rho is None:
            return None
        total += body.solid.volume() * rho
    return total if state.bodies else None


def mass(document: Document, state: State) -> dict[str, Any]:
    """Figures per body and for the part.

    Volumes in mm³, areas in mm², lengths in mm, masses in g, inertia about the centre of mass in
    g·mm²; ``box`` opposite corners of the box around, None where there is nothing. Masses are None while a body
    has no material.
    """
    rows = []
    troubles: list[str] = []
    for body in state.bodies:
        rho = density(document, body.material)
        try:
            b = bulk(body.solid)
        except KernelError as error:  # the body stands; what it weighs is not known
            troubles.append(error.sentence)
            b, rho = Bulk(body.solid.volume(), face_area(body.shape), (0.0, 0.0, 0.0), NOTHING), None
        if b.error > DOUBT * abs(b.volume):
            troubles.append(f"The volume of {body.title or 'a body'} is known to {b.error / abs(b.volume):.0e} only.")
        rows.append(
            {
                "id": body.id,
                "title": body.title,
                "material": body.material or document.material,
                "volume": b.volume,
                "area": b.area,
                "centre": list(b.centre),
                "mass": b.volume * rho if rho else None,
                "inertia": [[v * rho for v in row] for row in b.inertia] if rho else None,
                "box": [list(corner) for corner in box(body.shape)],
            }
        )
    return {"bodies": rows, "troubles": [*troubles, *_overlaps(document, state)], **_whole(document, rows)}


def _overlaps(document: Document, state: State) -> list[str]:
    """Sentences on bodies that hold the same material, the first few; with many bodies nobody looks."""
    if not 1 < len(state.bodies) <= MANY:
        return []
    found = []
    for one, two in combinations(state.bodies, 2):
        shared = shared_volume(one.solid, two.solid)
        if shared:
            names = " and ".join(called(document, b) for b in (one, two))
            said = f"{names[0].upper()}{names[1:]} overlap by {told(shared, 3)}, which is weighed twice: "
            found.append(in_unit(said + "unite them, or subtract one from the other.", document.unit))
    return found[:TOLD]


def called(document: Document, body: Body) -> str:
    step, _, piece = body.id.partition("x")
    return body.title or f"the body of step {document.position(step)}{f', piece {piece}' if piece else ''}"


def _whole(document: Document, rows: list[dict[str, Any]]) -> dict[str, Any]:
    volume = sum(r["volume"] for r in rows)
    known = bool(rows) and all(r["mass"] is not None for r in rows)
    weight = [r["mass"] if known else r["volume"] for r in rows]
    total = sum(weight)
    centre = (np.array([r["centre"] for r in rows]).T @ np.array(weight) / total) if total else np.zeros(3)
    inertia = None
    if known:
        inertia = np.zeros((3, 3))
        for r in rows:
            d = np.array(r["centre"]) - centre
            inertia += np.array(r["inertia"]) + r["mass"] * ((d @ d) * np.eye(3) - np.outer(d, d))
    target = document.target_mass
    grams = total if known else None
    return {
        "volume": volume,
        "area": sum(r["area"] for r in rows),
        "centre": [float(c) for c in centre],
        "mass": grams,
        "inertia": inertia.tolist() if inertia is not None else None,
        "box": [
            [min(r["box"][0][i] for r in rows) for i in range(3)],
            [max(r["box"][1][i] for r in rows) for i in range(3)],
        ]
        if rows
        else None,
        "target": target.model_dump() if target else None,
        "within": None if not target or grams is None else abs(grams - target.grams) <= target.tolerance + 1e-9,
    }

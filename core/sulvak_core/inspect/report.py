"""Everything a screen or the command line wants to know about a built part, as plain data."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Any

from ..naming.find import rings
from ..naming.words import face as face_words
from ..rebuild.engine import Build
from ..rebuild.state import Body
from ..solid.edge_convexity import corner
from ..solid.measure import Curve, Surface, curve, face_area, face_centre, neighbours, surface
from ..solid.mesh import mesh, packed
from ..solid.project import middle
from ..solid.shapes import faces
from ..steps.registry import Document
from .mass import density, mass


def steps_told(document: Document, build: Build) -> list[dict[str, Any]]:
    """The steps' reports as plain data, with what each changed in mass."""
    rho = density(document, "")
    return [
        asdict(r) | {"mass_change": r.volume_change * rho if rho and r.volume_change is not None else None}
        for r in build.reports
    ]


def figures(document: Document, build: Build) -> dict[str, Any]:
    """Steps and mass; no pictures, and no verdicts yet. ``sketches``: entities of those that followed the part;
    ``troubles``: what could not be worked out, in sentences."""
    figured = mass(document, build.state)
    return {
        "key": build.key,
        "steps": steps_told(document, build),
        "mass": figured,
        "callouts": [],
        "troubles": figured.pop("troubles"),
        "failed": [r.id for r in build.failed],
        "sketches": {i: [e.model_dump(mode="json") for e in s.entities] for i, s in build.sketches.items()},
    }


def body_picture(document: Document, body: Body) -> tuple[dict[str, Any], bytes]:
    """What the screen needs to show and pick a body: named faces and edges, and the packed mesh."""
    solid = body.solid
    around = rings(solid)
    sides = neighbours(solid)
    m = mesh(solid, [e for e, _ in sides])
    faces_out = []
    for i, f in enumerate(faces(solid.shape)):
        s = surface(f)
        tags = sorted(solid.face_tags(f))
        faces_out.append(
            {
                "origins": tags,
                "ring": sorted(around[i]),
                "near": list(face_centre(f)),
                "said": face_words(tags, document.position),
                "measure": _surface_words(s),
                "kind": s.kind,
                "normal": list(s.direction) if s.kind == "plane" else None,
                "area": face_area(f),
            }
        )
    every = faces(solid.shape)
    edges_out = [
        {
            "faces": f,
            **_edge(curve(e)),
            "near": list(middle(e)),
            "corner": corner(e, every[f[0]], every[f[1]]) if len(f) == 2 and f[0] != f[1] else "",
        }
        for e, f in sides
    ]
    head = {
        "id": body.id,
        "title": body.title,
        "colour": body.colour,
        "faces": faces_out,
        "edges": edges_out,
        "triangles": len(m.triangles),
    }
    return head, packed(m)


ALL_ROUND = 1.9 * math.pi  # radians: a hollow wall that turns less is the round of an inside corner


def _surface_words(s: Surface) -> str:
    """What a face is, in a few words, with its radius in mm where it has one."""
    if s.kind == "cylinder":
        kind = "round" if not s.hollow else "hole wall" if s.sweep > ALL_ROUND else "inside round"
        return f"{kind} R{s.radius:.3f}"
    if s.kind != "other":
        return "flat" if s.kind == "plane" else s.kind
    form = {"sphere": "ball", "torus": "round along a curve"}.get(s.form)
    return f"{form} R{s.radius:.3f}" if form else "curved"


def _edge(c: Curve) -> dict[str, Any]:
    if c.kind == "circle":
        return {"kind": c.kind, "length": c.length, "radius": c.radius}
    return {"kind": c.kind, "length": c.length, "radius": None}
